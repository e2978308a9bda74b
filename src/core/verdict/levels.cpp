#include "verdict/levels.h"
#include "field/kept.h"

namespace ng {

std::pair<const Solution*, double> LevelSolutions::read_at(const std::string& level, double voltage_kV,
                                                           double u0_kV) const {
    if (const auto it = at.find(level); it != at.end()) return {&it->second, 1.0};
    if (at_u0.linear || level == "u0") return {&at_u0, voltage_kV / u0_kV};
    return {nullptr, 1.0};
}

Result<LevelSolutions> solve_levels(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
                                    const SolveOptions& options) {
    auto kept = Kept::make(built.section, options);
    if (!kept) return tl::unexpected(kept.error());
    LevelSolutions out;
    const auto& base = kept->solution();
    const bool usable = base.report.end != SolveReport::End::cancelled && base.report.converged;
    if (usable && !base.linear)
        for (const auto& check : built.checks) {
            const auto level = levels.levels.find(check.at_level);
            if (level == levels.levels.end() || out.at.contains(check.at_level)) continue;
            auto section = built.section;
            const double factor = level->second.value / duty.u0();
            for (auto& electrode : section.electrodes) electrode.voltage_kV *= factor;
            for (auto& boundary : section.boundaries) boundary.voltage_kV *= factor;
            auto solved = kept->solve(section);
            if (!solved) return tl::unexpected(solved.error());
            if (solved->report.end == SolveReport::End::cancelled) {
                out.at_u0.report = solved->report;
                return out;
            }
            out.at.emplace(check.at_level, std::move(*solved));
        }
    out.at_u0 = std::move(*kept).take();
    if (!usable) return out;
    for (const auto& across : built.across) {
        auto solved = solve(across.section, options);
        if (!solved) return tl::unexpected(solved.error());
        if (solved->report.end == SolveReport::End::cancelled) {
            out.at_u0.report = solved->report;
            return out;
        }
        out.across.emplace(across.id, std::move(*solved));
    }
    return out;
}

} // namespace ng
