// A design judged from scratch: prepared, solved at every voltage that its checks ask for, and its schedule.
#pragma once
#include "schedule/schedule.h"
#include "study/evaluate.h"

namespace ng {

struct Judgement : Evaluation {
    std::optional<Schedule> schedule; ///< none where it was not asked for, or nothing converged
};
/// On all cores. Refuses what `prepare` and the solver refuse; a raised cancel flag is refused as
/// "cancelled".
Result<Judgement> judge_design(const Job& job, const std::string& design, const Library& library,
                               bool whole_schedule, ScheduleCache* cache = nullptr,
                               const CancelFlag* cancel = nullptr, const Preparer& prepare = prepare_design);

} // namespace ng
