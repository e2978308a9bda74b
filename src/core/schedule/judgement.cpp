#include "schedule/judgement.h"
#include "units/parallel.h"

namespace ng {

Result<Judgement> judge_design(const Job& job, const std::string& design, const Library& library,
                               bool whole_schedule, ScheduleCache* cache, const CancelFlag* cancel,
                               const Preparer& prepare) {
    EvaluateOptions how;
    how.cancel = cancel;
    how.threads = usable_threads();
    how.prepare = prepare;
    auto evaluated = evaluate(job, design, {}, library, how);
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
        auto assumptions = find_assumptions(job, design, library, cancel);
        if (!assumptions) return tl::unexpected(assumptions.error());
        out.schedule->assumptions = std::move(*assumptions);
    }
    return out;
}

} // namespace ng
