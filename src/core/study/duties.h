// Duty: one design at every class of the standards that ask for such a design. Which is the highest that it
// holds?
//
// By the checks of the verdict, not by the solved tests of the schedule: what holds here is worth a schedule.
#pragma once
#include "evaluate/evaluate.h"
#include <cmath>
#include <functional>

namespace ng {

struct DutyRow {
    std::string standard, title;    ///< of the pack: id and title
    double class_kV = 0, u0_kV = 0; ///< phase to phase, and to earth
    bool own = false;               ///< what the design is asked to hold
    bool above_cable = false;       ///< the cable itself is not made for it
    std::string refusal;            ///< why it cannot be built or judged; empty: it can
    Status fit = Status::not_judged, status = Status::not_judged;
    double share = 0,
           error = 0;  ///< of the limit that is nearest or furthest exceeded, of those that the class touches
    std::string check; ///< whose it is
    /// Its limit lies within its error.
    bool open() const { return refusal.empty() && !check.empty() && std::abs(share - 1) <= error; }
    bool holds() const {
        return refusal.empty() && !above_cable && fit != Status::falls_short &&
               (status == Status::holds || status == Status::marginal);
    }
};

/// Rows by standard, the design's own first, and by rising class. Standards in scope but for those that are
/// usual only for other families. The design stays as it was made for its own class (usual values go by
/// that), and frequency, site and what else its duty says stay; a U0 of its own is that of its own class
/// alone. Refuses a design that is not in the job or whose own duty cannot be solved. `found` is called for
/// each row, from any thread, one at a time.
Result<std::vector<DutyRow>> over_duties(const Job& job, const std::string& design, const Library& library,
                                         const Preparer& prepare, const CancelFlag* cancel = nullptr,
                                         const std::function<void(int done, int all)>& found = {});

/// The highest class of a standard that holds; null: none does.
const DutyRow* highest_held(const std::vector<DutyRow>& rows, const std::string& standard);

nlohmann::ordered_json duties_json(const std::string& design, const std::vector<DutyRow>& rows);
std::string duties_csv(const std::vector<DutyRow>& rows);
/// A line for each standard: the highest class that holds, and what the next one fails.
std::vector<std::string> duties_words(const std::vector<DutyRow>& rows);

} // namespace ng
