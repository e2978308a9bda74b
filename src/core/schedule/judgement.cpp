#include "schedule/judgement.h"

namespace ng {

Result<Judgement> judge_design(const Job& job, const std::string& design, const Library& library,
                               bool whole_schedule, ScheduleCache* cache, const CancelFlag* cancel) {
    auto prepared = prepare_design(job, design, library);
    if (!prepared) return tl::unexpected(prepared.error());
    SolveOptions how;
    how.cancel = cancel;
    auto solutions = solve_levels(prepared->built, prepared->design.duty, prepared->levels, how);
    if (!solutions) return tl::unexpected(solutions.error());
    auto verdict =
        judge(prepared->built, prepared->design.duty, prepared->levels, prepared->limits, *solutions);
    Judgement out{std::move(*prepared), std::move(*solutions), std::move(verdict), {}};
    if (whole_schedule && out.solutions.at_u0.report.converged) {
        ScheduleOptions options;
        options.cache = cache;
        options.cancel = cancel;
        auto schedule = run_schedule(out.prepared, out.solutions, options);
        if (!schedule) return tl::unexpected(schedule.error());
        out.schedule = std::move(*schedule);
    }
    return out;
}

} // namespace ng
