// A design with its plan and its sheet: what whoever works by it, records it or is asked about it begins
// with.
#pragma once
#include "plan/sheet.h"

namespace ng {

struct PlannedWork {
    PreparedDesign prepared;
    CutPlan plan;
    WorkSheet sheet;
};
/// Refuses what prepare_design, make_plan and make_sheet refuse.
Result<PlannedWork> plan_work(const Job& job, const std::string& design, const Library& library,
                              const StepBook& book);

} // namespace ng
