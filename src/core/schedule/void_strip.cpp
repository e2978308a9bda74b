#include "schedule/void_strip.h"
#include "closedform/air.h"
#include "units/quantity.h"
#include "verdict/void_allowance.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {
constexpr double no_gap_discharges_mm = 100; // stands for infinity
constexpr double width_over_thickness = 10;  // of a gap that hands leave (chosen)
constexpr double residual_kV_per_mm = 0.5;   // at 1 bar, the least: the largest charge (from memory)
constexpr double share_seen = 0.1;           // of the discharge limit: below it nobody sees a discharge

double charge_of(const Solution& solution, const PathResult& path, const PathSample& sample, double gap_mm,
                 double solved_at_kV, double relative_density) {
    if (!(gap_mm > 0) || !(solved_at_kV > 0)) return 0;
    const auto it = std::find(solution.region_names.begin(), solution.region_names.end(), path.side);
    if (it == solution.region_names.end()) return 0;
    const double eps_r = solution.eps_r[it - solution.region_names.begin()];
    return closedform::disc_void_charge_pC(
        gap_mm, width_over_thickness * gap_mm, eps_r,
        closedform::gap_inception_kV_peak(gap_mm, relative_density) / gap_mm,
        residual_kV_per_mm * relative_density, std::abs(sample.E_n_kV_per_mm) / solved_at_kV);
}

CheckId void_check_id(const PlaceId& path) {
    return {CheckKind::void_allowance, path.side};
}
std::string void_check_title(const PlaceId& path) {
    return "Gap left on the " + name_of(path) + " against the void allowance";
}
} // namespace

std::vector<VoidStrip> void_strips(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
                                   const LimitTable& limits, const LevelSolutions& solutions) {
    std::vector<VoidStrip> out;
    const auto* spec = levels.of_kind(TestKind::extinction);
    if (!spec) return out;
    const double kV = levels.value_of(*spec).value;
    // What is quiet at the pre-stress never starts.
    constexpr LevelKey level{TestKind::extinction, true};
    const double prestress_kV = spec->prestress * kV;
    const auto [solution, factor] = solutions.read_at(level, prestress_kV, duty.u0());
    if (!solution || !solution->mesh) return out;
    const VoidAllowance how{gap_air_density(duty.ambient_C, duty.altitude_m), factor};
    for (const auto& path : solution->paths) {
        const auto& place = path.place;
        if (!place || path.samples.empty() ||
            std::none_of(built.gaps.begin(), built.gaps.end(),
                         [&](const auto& g) { return g.path == *place; }))
            continue;
        VoidStrip strip;
        strip.path = *place;
        strip.voltage_kV = kV;
        strip.prestress = spec->prestress;
        strip.relative_density = how.relative_density;
        strip.scaled = !solutions.at.contains(level);
        strip.error_known = solution->report.error_known() && solution->report.converged;
        strip.allowed_mm = void_allowances_mm(*solution, path, how);
        for (std::size_t i = 0; i < path.samples.size(); ++i) {
            const auto& sample = path.samples[i];
            double left = 0;
            for (const auto& gap : built.gaps)
                if (gap.path == strip.path && sample.s_mm >= gap.from_s_mm && sample.s_mm <= gap.to_s_mm)
                    if (const auto* rule = limits.find(gap.rule)) left = std::max(left, rule->value.value);
            strip.at.push_back(sample.at);
            strip.s_mm.push_back(sample.s_mm);
            strip.left_mm.push_back(left);
            strip.judged.push_back(!sample.near_singular);
            strip.charge_pC.push_back(
                charge_of(*solution, path, sample, left, prestress_kV / factor, how.relative_density));
            if (sample.near_singular) continue;
            const double ratio = left / strip.allowed_mm[i];
            if (ratio > strip.worst_ratio) {
                strip.worst_ratio = ratio;
                strip.worst = i;
            }
        }
        out.push_back(std::move(strip));
    }
    return out;
}

std::vector<Check> void_checks(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
                               const LimitTable& limits, const LevelSolutions& solutions,
                               double pd_limit_pC) {
    std::vector<Check> out;
    for (const auto& strip : void_strips(built, duty, levels, limits, solutions)) {
        Check c;
        c.id = void_check_id(strip.path);
        c.title = void_check_title(strip.path);
        c.value = strip.left_mm[strip.worst];
        c.limit = std::min(strip.allowed_mm[strip.worst], no_gap_discharges_mm);
        c.unit = "mm";
        c.voltage_kV = strip.voltage_kV;
        c.place = strip.path;
        c.at = strip.at[strip.worst];
        c.limit_origin = fmt::format(
            "inception in air, the lower of breakdown (Kuffel, Zaengl and Kuffel; Paschen) and streamers "
            "(Petcharaks), at the pre-stress of {:g} times the level; relative density {:.2f}",
            strip.prestress, strip.relative_density);
        c.protects_against = "discharge in the gap that hands leave on the interface";
        c.cure =
            "Fill the edge, lower the field there (longer or stronger stress control), or prepare it more "
            "finely";
        judge_plain(c);
        c.why =
            strip.allowed_mm[strip.worst] >= no_gap_discharges_mm
                ? "no gap on this surface would discharge at this voltage"
                : fmt::format("hands leave about {} mm at z {} mm, where at most {} mm stays quiet",
                              format_figures(c.value, 2), one_decimal(c.at.z), format_figures(c.limit, 2));
        const double charge = strip.charge_pC[strip.worst];
        if (c.status == Status::falls_short && charge < share_seen * pd_limit_pC) {
            c.status = Status::marginal;
            c.why += fmt::format("; its discharges, some {} pC, are far below the limit of {:g} pC",
                                 format_figures(charge, 1), pd_limit_pC);
        }
        if (!strip.error_known) {
            c.status = Status::not_judged;
            c.why += " (coarse: not judged until it is refined)";
        }
        out.push_back(std::move(c));
    }
    return out;
}

std::vector<Check> void_checks_without_level(const BuiltAccessory& built) {
    std::vector<Check> out;
    for (const auto& gap : built.gaps) {
        const auto id = void_check_id(gap.path);
        if (std::any_of(out.begin(), out.end(), [&](const auto& c) { return c.id == id; })) continue;
        Check c;
        c.id = id;
        c.title = void_check_title(gap.path);
        c.unit = "mm";
        c.place = gap.path;
        c.set_aside = true;
        c.why = no_level_words(TestKind::extinction);
        out.push_back(std::move(c));
    }
    return out;
}

} // namespace ng
