#include "schedule/judgement.h"
#include "units/parallel.h"

namespace ng {

Result<Judgement> judge_design(const Job& job, const std::string& design, const Library& library,
                               const Preparer& prepare, bool whole_schedule, ScheduleCache* cache,
                               const CancelFlag* cancel) {
    EvaluateOptions how;
    how.cancel = cancel;
    how.threads = usable_threads();
    auto evaluated = evaluate(job, design, {}, library, prepare, how);
    if (!evaluated) return tl::unexpected(evaluated.error());
    Judgement out{std::move(*evaluated), {}};
    if (whole_schedule && out.solutions.at_u0.report.converged) {
        ScheduleOptions options;
        options.cache = cache;
        options.cancel = cancel;
        options.threads = how.threads;
        auto schedule = run_schedule(out.prepared, out.solutions, options);
        if (!schedule) return tl::unexpected(schedule.error());
        out.schedule = std::move(*schedule);
        auto assumptions = find_assumptions(job, design, library, prepare, cancel);
        if (!assumptions) return tl::unexpected(assumptions.error());
        out.schedule->assumptions = std::move(*assumptions);
    }
    return out;
}

} // namespace ng
