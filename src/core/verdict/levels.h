// Solutions of an accessory at the voltages of its checks. One that scales with the voltage is solved once;
// of one with field-dependent layers each level is solved on the same mesh.
#pragma once
#include "accessory/family.h"
#include "field/solve.h"

namespace ng {

/// Under which the solution at the pre-stress of an extinction level is kept.
std::string prestress_level(const std::string& level);

/// No solution, or one whose error is not known, gives no verdict: it is given so many times the unknowns,
/// once.
constexpr double more_unknowns = 2.5;
/// Whether more might tell its error; of a solution that is meant to be coarse it is not asked.
bool wants_more(const SolveReport& report);

struct LevelSolutions {
    Solution at_u0;
    std::map<std::string, Solution> at;          ///< by level name; empty where at_u0 scales
    std::map<std::string, Solution> across = {}; ///< planar sections by id, at U0

    /// The solution to read at this level and the factor on its figures.
    std::pair<const Solution*, double> read_at(const std::string& level, double voltage_kV,
                                               double u0_kV) const;
};

/// Cancelled or not converged: `at_u0.report` says so and nothing else is solved.
Result<LevelSolutions> solve_levels(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
                                    const SolveOptions& options = {});

} // namespace ng
