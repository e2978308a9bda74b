// Solutions of an accessory at the voltages of its checks. One that scales with the voltage is solved once;
// of one with field-dependent layers each level is solved on the same mesh.
#pragma once
#include "accessory/family.h"
#include "field/solve.h"

namespace ng {

/// A voltage that the solutions of a field-dependent accessory are kept by: that of the level of a kind
/// (DutyClass::of_kind), or of an extinction level its pre-stress. `service` is U0.
struct LevelKey {
    TestKind kind = TestKind::service;
    bool prestress = false;
    friend auto operator<=>(const LevelKey&, const LevelKey&) = default;
};

/// solve(section, options). No solution, or one whose error is not known, gives no verdict: it is given 2.5
/// times the unknowns, once. What is meant to be coarse stays so.
Result<Solution> solve_for_verdict(const Section& section, const SolveOptions& options);

struct LevelSolutions {
    Solution at_u0;
    std::map<LevelKey, Solution> at;               ///< empty where at_u0 scales
    std::map<std::string, Solution> across = {};   ///< planar sections by id, at U0
    std::shared_ptr<const Follower> follower = {}; ///< its meshes, where they are asked for

    /// The solution to read at this level and the factor on its figures.
    std::pair<const Solution*, double> read_at(const LevelKey& level, double voltage_kV, double u0_kV) const;
};

/// What the checks read is wanted to the goal, what is only drawn to `of_drawn` times it.
Slack slack_for(const std::vector<CheckRequest>& checks, const std::vector<GapLeft>& gaps, double of_drawn);
constexpr double drawn_slack = 3; ///< to look at

/// A planar section that was solved as exactly as is asked for now, and its solution.
using SolvedAcross = std::pair<const Section*, const Solution*>;

/// The goal is that of what the checks read; unless the options have a slack of their own, what is only drawn
/// is known to drawn_slack times it, and charges, energy and losses are not asked for. Cancelled or not
/// converged: `at_u0.report` says so and there is nothing else. `movable`: with the meshes, for designs much
/// like it. Planar sections that are `known` to the last figure are not solved again, others beside the
/// section along the cable, where there is more than one thread; of their passes `options.progress` hears
/// nothing.
Result<LevelSolutions> solve_levels(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
                                    SolveOptions options = {}, bool movable = false,
                                    const std::vector<SolvedAcross>& known = {});

} // namespace ng
