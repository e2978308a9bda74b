#include "verdict/levels.h"
#include "field/kept.h"
#include "section/voltages.h"
#include "units/parallel.h"
#include <algorithm>
#include <limits>

namespace ng {

namespace {

/// What `attempt` makes of the options; once more with more unknowns where that gives no verdict.
template <class Attempt, class ReportOf>
auto with_more_where_wanted(SolveOptions options, Attempt attempt, ReportOf report_of) {
    constexpr double more_unknowns = 2.5;
    const auto gives_none = [](const SolveReport& report) {
        return report.end != SolveReport::End::cancelled && !report.error_known();
    };
    auto found = attempt(options);
    if (options.coarse || (found && !gives_none(report_of(*found)))) return found;
    options.most_unknowns = static_cast<int>(more_unknowns * options.most_unknowns);
    if (auto again = attempt(options)) return again;
    return found;
}

Result<Kept> kept_for_verdict(const Section& section, const SolveOptions& options) {
    return with_more_where_wanted(
        options, [&](const SolveOptions& how) { return Kept::make(section, how); },
        [](const Kept& one) { return one.solution().report; });
}

} // namespace

Result<Solution> solve_for_verdict(const Section& section, const SolveOptions& options) {
    return with_more_where_wanted(
        options, [&](const SolveOptions& how) { return solve(section, how); },
        [](const Solution& solution) { return solution.report; });
}

std::pair<const Solution*, double> LevelSolutions::read_at(const LevelKey& level, double voltage_kV,
                                                           double u0_kV) const {
    if (const auto it = at.find(level); it != at.end()) return {&it->second, 1.0};
    if (at_u0.linear || level.kind == TestKind::service) return {&at_u0, voltage_kV / u0_kV};
    return {nullptr, 1.0};
}

Slack slack_for(const std::vector<CheckRequest>& checks, const std::vector<GapLeft>& gaps, double of_drawn) {
    Slack out;
    out.others = of_drawn;
    for (const auto& check : checks)
        for (const auto& place : check.places) out.of[name_of(place)] = 1;
    for (const auto& gap : gaps) out.of[name_of(gap.path)] = 1;
    return out;
}

namespace {

struct Across {
    std::map<std::string, Solution> solved; ///< by id
    std::optional<SolveReport> cancelled;
};

/// The planar sections, one after the other on one thread, with the options of the section along the cable.
/// Those that differ by their voltages share their meshes.
Result<Across> solve_across(const BuiltAccessory& built, const SolveOptions& options,
                            const std::vector<SolvedAcross>& known) {
    struct Begun {
        Section section;
        SolveOptions options;
        Kept kept;
        Result<Solution> solve(const Section& load) {
            return with_more_where_wanted(
                options,
                [&](const SolveOptions& how) {
                    return how.most_unknowns > options.most_unknowns ? ng::solve(load, how)
                                                                     : kept.solve(load);
                },
                [](const Solution& solution) { return solution.report; });
        }
    };
    Across out;
    std::vector<Begun> begun;
    const auto begin = [&](const AcrossSection& across) -> Result<Solution> {
        auto own = options;
        own.threads = 1;
        own.like.clear();
        own.progress = nullptr;
        std::vector<CheckRequest> checks;
        for (const auto& other : built.across)
            if (&other == &across || same_shapes(other.section, across.section))
                checks.insert(checks.end(), other.checks.begin(), other.checks.end());
        own.slack = slack_for(checks, {}, options.slack.others);
        for (auto& [name, slack] : own.slack.of)
            if (const auto it = options.slack.of.find(name); it != options.slack.of.end()) slack = it->second;
        own.slack.integrals = options.slack.integrals;
        auto kept = kept_for_verdict(across.section, own);
        if (!kept) return tl::unexpected(kept.error());
        auto solved = kept->solution();
        begun.push_back({across.section, own, std::move(*kept)});
        return solved;
    };
    for (const auto& across : built.across) {
        const auto same = [&](const SolvedAcross& one) { return *one.first == across.section; };
        if (const auto it = std::find_if(known.begin(), known.end(), same); it != known.end()) {
            out.solved.emplace(across.id, *it->second);
            continue;
        }
        const auto shares = [&](const auto& other) { return same_shapes(other.section, across.section); };
        const auto like = std::find_if(begun.begin(), begun.end(), shares);
        auto solved = like == begun.end() ? begin(across) : like->solve(across.section);
        if (!solved) return tl::unexpected(solved.error());
        if (solved->report.end == SolveReport::End::cancelled) {
            out.cancelled = solved->report;
            break;
        }
        out.solved.emplace(across.id, std::move(*solved));
    }
    return out;
}

} // namespace

Result<LevelSolutions> solve_levels(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
                                    SolveOptions options, bool movable,
                                    const std::vector<SolvedAcross>& known) {
    if (options.slack.of.empty()) {
        options.slack = slack_for(built.checks, built.gaps, drawn_slack);
        options.slack.integrals = std::numeric_limits<double>::infinity(); // no check reads them
    }
    auto across = beside(built.across.empty() ? 1 : options.threads,
                         [&built, &known, options] { return solve_across(built, options, known); });
    auto kept = kept_for_verdict(built.section, options);
    if (!kept) return tl::unexpected(kept.error());
    LevelSolutions out;
    const auto& base = kept->solution();
    const bool usable = base.report.end != SolveReport::End::cancelled && base.report.converged;
    // What does not scale is solved at each voltage that is asked for.
    std::map<LevelKey, double> wanted_kV;
    if (usable && !base.linear) {
        for (const auto& check : built.checks)
            if (const auto* spec = levels.of_kind(check.at))
                wanted_kV[{check.at}] = levels.value_of(*spec).value;
        if (const auto* spec = levels.of_kind(TestKind::extinction); spec && !built.gaps.empty())
            wanted_kV[{TestKind::extinction, true}] = spec->prestress * levels.value_of(*spec).value;
    }
    for (const auto& [level, kV] : wanted_kV) {
        auto section = built.section;
        const double factor = kV / duty.u0();
        scale_voltages(section, factor);
        auto solved = kept->solve(section);
        if (!solved) return tl::unexpected(solved.error());
        if (solved->report.end == SolveReport::End::cancelled) {
            out.at_u0.report = solved->report;
            return out;
        }
        out.at.emplace(level, std::move(*solved));
    }
    if (movable && usable) out.follower = kept->follower();
    out.at_u0 = std::move(*kept).take();
    if (!usable) return out;
    auto found = across.get();
    if (!found) return tl::unexpected(found.error());
    if (found->cancelled)
        out.at_u0.report = *found->cancelled;
    else
        out.across = std::move(found->solved);
    return out;
}

} // namespace ng
