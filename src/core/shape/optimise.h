// The best shape by the field itself: up to four parameters within bounds, so that a length or a stress is
// least and every verdict holds. NLopt's COBYLA (Powell) walks; each step builds, meshes, solves and judges.
#pragma once
#include "design/prepared.h"
#include "units/cancel.h"

namespace ng {

struct OptimiseRequest {
    Job job;
    std::string design_id;
    struct Dimension {
        std::string key;
        double lowest = 0, highest = 0;
    };
    std::vector<Dimension> dimensions;   ///< one to four
    std::optional<CheckId> lowest_check; ///< whose value is to be least; none: the length of the control is
    int most_steps = 60;
    double goal = 0.02; ///< error goal of each solution on the way
};

struct OptimiseStep {
    std::vector<double> values;
    double objective = 0;   ///< mm, or the check's value
    double worst_share = 0; ///< greatest value / limit of all checks; holds up to 1 - marginal_share
    bool usable = false;    ///< it could be built and solved
    bool holds = false;
    std::string refusal; ///< why not
};

struct OptimiseResult {
    std::vector<OptimiseStep> path;  ///< in the order taken; the first is the start
    std::optional<std::size_t> best; ///< least objective of those that hold
    std::string end;                 ///< "settled", "steps used up" or "cancelled"
};

/// `prepare`: the design as it is judged, with faults or without. `tell` after every step (may be empty).
/// Refuses parameters that are no lengths or numbers of the family, bounds upside down or outside the
/// parameter's range, more than four or none.
Result<OptimiseResult> optimise(const OptimiseRequest& request, const Library& library,
                                const Preparer& prepare,
                                const std::function<void(const OptimiseStep&, int done)>& tell = {},
                                const CancelFlag* cancel = nullptr);

} // namespace ng
