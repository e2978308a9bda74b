// What a check hangs on: each dimension changed by a little, each choice changed to its alternatives, the
// design really built and solved again, on the mesh of the design as it is where that can follow. What the
// derivative of the check says to change next to nothing is not solved (schedule/screening.h). Cures are
// ranked by what they gain.
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
    bool refined = false; ///< judged on a refined solution; else on a coarse one beside the coarse base
    std::vector<std::string> breaks = {}; ///< titles of all other checks that the change makes fall short
    bool cures() const { return gain > 0 && breaks.empty(); }
};

struct Sensitivity {
    CheckId check;
    double value = 0; ///< of the check as designed
    /// All that change the value by at least 0.1 %: those that gain and break nothing first, the greatest
    /// gain first.
    std::vector<Effect> effects;
    std::optional<Effect>
        nearest; ///< of the dimension whose handle lies nearest to the check's place, per 1 mm
    int tried = 0, refused = 0;
    int not_solved = 0; ///< of those tried: by the derivative they change too little to be listed
    bool complete = false;
};

/// How many changes were solved, how many were not and why, as a clause.
std::string tried_words(const Sensitivity& found);

struct SensitivityRequest {
    Job job;
    std::string design_id;
    CheckId check;
    int most_refined = 4; ///< how many of the best are solved again to the goal
    double goal = 0.01;
    std::map<CheckId, double> tightest = {}; ///< of `tightest_limits`; empty: only limits at U0 count
    int threads = 2;
    bool solve_all = false; ///< whatever the derivative says
};

/// What each check may be at U0, so that the schedule's tests bear it too: the least of their limits
/// over how much more each test asks. For designs that scale; of others about.
std::map<CheckId, double> tightest_limits(const Schedule& schedule);

/// `tell(so_far, done, all)` after every solve, one at a time but from any thread: what is known already,
/// best first. Numbers are changed by a little first; the best of them then by as much as the check needs,
/// within 40 %. Refuses an unknown check. `prepare`: the design as it is judged, with faults or without.
Result<Sensitivity>
find_sensitivity(const SensitivityRequest& request, const Library& library, const Preparer& prepare,
                 const std::function<void(const Sensitivity& so_far, int done, int all)>& tell = {},
                 const CancelFlag* cancel = nullptr);

} // namespace ng
