// What a check hangs on: each dimension changed by a little, each choice changed to its alternatives, the
// design really built and solved again. Cures are ranked by what they gain.
#pragma once
#include "schedule/schedule.h"

namespace ng {

struct Effect {
    std::string key;             ///< parameter
    std::string label;           ///< in words, with its group
    std::string change;          ///< such as "+1 mm" or "chamfered in place of ring"
    double step = 0;             ///< of numbers
    std::string choice;          ///< of choices: the alternative
    double value = 0, limit = 0; ///< of the check, with the change
    double gain = 0;             ///< share of the limit that it wins; above 0 is better
    bool refined = false;    ///< judged on a refined solution; else on a coarse one beside the coarse base
    std::string breaks = {}; ///< another check that the change makes fall short; empty: none
};

struct Sensitivity {
    std::string check_id;
    double value = 0;            ///< of the check as designed
    std::vector<Effect> effects; ///< the greatest gain first; all that change the value by at least 0.1 %
    std::optional<Effect>
        nearest; ///< of the dimension whose handle lies nearest to the check's place, per 1 mm
    int tried = 0, refused = 0;
    bool complete = false;
};

struct SensitivityRequest {
    Job job;
    std::string design_id;
    std::string check_id;
    int most_refined = 4; ///< how many of the best are solved again to the goal
    double goal = 0.01;
};

/// `tell(done, all)` after every solve. Refuses an unknown check.
Result<Sensitivity> find_sensitivity(const SensitivityRequest& request, const Library& library,
                                     const std::function<void(int done, int all)>& tell = {},
                                     const CancelFlag* cancel = nullptr);

} // namespace ng
