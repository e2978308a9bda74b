#include "schedule/sensitivity.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr double least_effect = 1e-3; // relative change of the value that is worth a line
constexpr double share_step = 0.10;   // of numbers that are no lengths, and the most of short lengths

struct Judged {
    Verdict verdict;
    const Check* find(const std::string& id) const {
        const auto it = std::find_if(verdict.checks.begin(), verdict.checks.end(),
                                     [&](const auto& c) { return c.id == id; });
        return it == verdict.checks.end() ? nullptr : &*it;
    }
};

Result<Judged> solve_and_judge(const Job& job, const std::string& id, const Library& library, bool coarse,
                               double goal, const CancelFlag* cancel) {
    const auto prepared = prepare_design(job, id, library);
    if (!prepared) return tl::unexpected(prepared.error());
    SolveOptions options;
    options.coarse = coarse;
    options.goal = goal;
    options.cancel = cancel;
    const auto solutions = solve_levels(prepared->built, prepared->design.duty, prepared->levels, options);
    if (!solutions) return tl::unexpected(solutions.error());
    return Judged{
        judge(prepared->built, prepared->design.duty, prepared->levels, prepared->limits, *solutions)};
}

double share(const Check& check) {
    return check.value / check.limit;
}

} // namespace

Result<Sensitivity> find_sensitivity(const SensitivityRequest& request, const Library& library,
                                     const std::function<void(int, int)>& tell, const CancelFlag* cancel) {
    auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    const auto prepared = prepare_design(request.job, request.design_id, library);
    if (!prepared) return tl::unexpected(prepared.error());
    const auto* family = find_family(prepared->design.family);
    const auto context = prepared->context();
    const auto coarse_base =
        solve_and_judge(request.job, request.design_id, library, true, request.goal, cancel);
    if (!coarse_base) return tl::unexpected(coarse_base.error());
    const auto* base = coarse_base->find(request.check_id);
    if (!base || base->limit <= 0)
        return refuse("check " + request.check_id, "it is not among the checks of the field in this design",
                      "Ask for one of the verdict list");

    // Every change that could be made: 1 mm of each length (a tenth of a short one), a tenth of each other
    // number, both ways; every other choice.
    struct Trial {
        Effect effect;
        Job job;
    };
    std::vector<Trial> trials;
    for (const auto& spec : family->parameters) {
        if (spec.kind == ParameterKind::choice) {
            const auto now = choice_of(*family, context, spec.key);
            std::string now_words = now;
            for (const auto& [value, words] : spec.options)
                if (value == now) now_words = words;
            for (const auto& [value, words] : spec.options) {
                if (value == now) continue;
                Trial trial{
                    {spec.key, spec.group + ": " + spec.label, words + " in place of " + now_words, 0, value},
                    request.job};
                trial.job.find_design(request.design_id)->choices[spec.key] = value;
                trials.push_back(std::move(trial));
            }
            continue;
        }
        const double now = number_of(*family, context, spec.key);
        const bool length = spec.kind == ParameterKind::length;
        const double step = length ? (now >= 10 ? 1.0 : now * share_step) : std::abs(now) * share_step;
        if (!(step > 0)) continue;
        for (const double by : {step, -step}) {
            if (now + by < spec.lowest || now + by > spec.highest) continue;
            const auto words =
                length ? fmt::format("{:+.3g} mm", by) : fmt::format("{:+.0f} %", 100 * by / now);
            Trial trial{{spec.key, spec.group + ": " + spec.label, words, by, ""}, request.job};
            trial.job.find_design(request.design_id)->numbers[spec.key] = now + by;
            trials.push_back(std::move(trial));
        }
    }

    Sensitivity out;
    out.check_id = request.check_id;
    out.value = base->value;
    const int all = static_cast<int>(trials.size()) + request.most_refined + 1;
    int done = 0;
    auto step_done = [&] {
        if (tell) tell(++done, all);
    };
    auto measure = [&](Effect& effect, const Judged& judged, const Judged& beside, const Check& from) {
        const auto* check = judged.find(request.check_id);
        if (!check || check->limit <= 0) return false;
        effect.value = check->value;
        effect.limit = check->limit;
        effect.gain = share(from) - share(*check);
        effect.breaks.clear();
        for (const auto& other : judged.verdict.checks) {
            const auto* before = beside.find(other.id);
            if (other.id != request.check_id && other.value > other.limit && other.limit > 0 && before &&
                before->value <= before->limit)
                effect.breaks = other.title;
        }
        return true;
    };
    std::vector<Trial> useful;
    for (auto& trial : trials) {
        if (stopped()) return out;
        const auto judged =
            solve_and_judge(trial.job, request.design_id, library, true, request.goal, nullptr);
        step_done();
        ++out.tried;
        if (!judged) { // the change is not possible: no effect
            ++out.refused;
            continue;
        }
        if (!measure(trial.effect, *judged, *coarse_base, *base)) continue;
        if (std::abs(trial.effect.gain) < least_effect * share(*base)) continue;
        useful.push_back(std::move(trial));
    }
    std::sort(useful.begin(), useful.end(),
              [](const auto& a, const auto& b) { return a.effect.gain > b.effect.gain; });

    const auto fine_base =
        solve_and_judge(request.job, request.design_id, library, false, request.goal, cancel);
    step_done();
    if (!fine_base) return tl::unexpected(fine_base.error());
    const auto* fine = fine_base->find(request.check_id);
    auto refine = [&](Trial& trial) {
        if (!fine || stopped()) return;
        const auto judged =
            solve_and_judge(trial.job, request.design_id, library, false, request.goal, cancel);
        if (judged && !stopped() && measure(trial.effect, *judged, *fine_base, *fine))
            trial.effect.refined = true;
    };
    for (std::size_t i = 0; i < useful.size() && i < static_cast<std::size_t>(request.most_refined); ++i) {
        refine(useful[i]);
        step_done();
    }
    if (fine && !stopped()) out.value = fine->value;

    // The dimension that can be dragged nearest to the place.
    const Handle* nearest = nullptr;
    for (const auto& handle : prepared->built.handles)
        if (!nearest || std::abs(handle.at.z - base->at.z) < std::abs(nearest->at.z - base->at.z))
            nearest = &handle;
    if (nearest)
        for (auto& trial : useful)
            if (trial.effect.key == nearest->key && (!out.nearest || trial.effect.step > 0)) {
                if (!trial.effect.refined) refine(trial);
                out.nearest = trial.effect;
            }
    std::stable_sort(useful.begin(), useful.end(),
                     [](const auto& a, const auto& b) { return a.effect.gain > b.effect.gain; });
    for (auto& trial : useful) out.effects.push_back(std::move(trial.effect));
    out.complete = !stopped();
    return out;
}

} // namespace ng
