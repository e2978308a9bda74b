// Drills: questions that the plan and the sheet of a design answer. Nothing is answered here that they do
// not say.
#pragma once
#include "plan/planned_work.h"
#include "trainer/exercise.h"

namespace ng {

/// Refuses a sheet whose rules are broken too: nothing can be asked of it.
Result<PlannedWork> lay_out(const Job& job, const std::string& design, const TrainerData& data);

struct DrillAnswer {
    std::vector<std::string> keys; ///< of the options: the one, or an order that no rule breaks
    double number = 0;
    double least = 0, most = 0; ///< numbers that count as right
    std::string why;
};

struct Drill {
    Question question;
    DrillAnswer solution;
    std::map<std::string, SheetStep> steps; ///< by option, of an order
    std::vector<OrderRule> rules;           ///< that an order must keep
};
/// Refuses where this design has nothing that the drill could ask.
Result<Drill> make_drill(Task task, const PlannedWork& bench, const Job& job, const std::string& design,
                         const TrainerData& data, Chance chance);

/// "copper, 150 mm2 ...": cable, duty, connector and datum, as an exercise gives them.
std::vector<std::string> given_of(const PlannedWork& bench);

} // namespace ng
