#include "plan/planned_work.h"

namespace ng {

Result<PlannedWork> plan_work(const Job& job, const std::string& design, const Library& library,
                              const StepBook& book) {
    auto prepared = prepare_design(job, design, library);
    if (!prepared) return tl::unexpected(prepared.error());
    auto plan = make_plan(*prepared);
    if (!plan) return tl::unexpected(plan.error());
    auto sheet = make_sheet(*prepared, *plan, book, library.connectors, job.step_texts);
    if (!sheet) return tl::unexpected(sheet.error());
    return PlannedWork{std::move(*prepared), std::move(*plan), std::move(*sheet)};
}

} // namespace ng
