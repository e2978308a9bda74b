// A design judged from scratch: prepared, solved at every voltage that its checks ask for, and its schedule.
#pragma once
#include "evaluate/evaluate.h"
#include "schedule/schedule.h"

namespace ng {

struct Judgement : Evaluation {
    std::optional<Schedule> schedule; ///< none where it was not asked for, or nothing converged
};
/// On all cores. Refuses what `prepare` and the solver refuse; a raised cancel flag is refused as
/// "cancelled".
Result<Judgement> judge_design(const Job& job, const std::string& design, const Library& library,
                               const Preparer& prepare, bool whole_schedule, ScheduleCache* cache = nullptr,
                               const CancelFlag* cancel = nullptr);

} // namespace ng
