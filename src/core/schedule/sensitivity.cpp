#include "schedule/sensitivity.h"
#include "study/evaluate.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr double least_effect = 1e-3; // relative change of the value that is worth a line
constexpr double share_step = 0.10;   // of numbers that are no lengths, and the most of short lengths

} // namespace

Result<Sensitivity> find_sensitivity(const SensitivityRequest& request, const Library& library,
                                     const std::function<void(int, int)>& tell, const CancelFlag* cancel) {
    auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    const auto solve = [&](const Variant& variant, Use use, const CancelFlag* stop) {
        return outcome_of(request.job, request.design_id, variant, library, {use, request.goal, stop});
    };
    const auto whole = evaluate(request.job, request.design_id, {}, library, {Use::compared, {}, cancel});
    if (!whole) return tl::unexpected(whole.error());
    const auto& prepared = whole->prepared;
    const auto* family = find_family(prepared.design.family);
    const auto context = prepared.context();
    const auto coarse_base = outcome_of(*whole);
    std::map<std::string, const Check*> checks; // by id, as designed
    for (const auto& check : whole->verdict.checks) checks[check.id] = &check;
    const auto* base = coarse_base.find(request.check_id);
    if (!base || base->limit <= 0)
        return refuse("check " + request.check_id, "it is not among the checks of the field in this design",
                      "Ask for one of the verdict list");

    // Every change that could be made: 1 mm of each length (a tenth of a short one), a tenth of each other
    // number, both ways; every other choice.
    struct Trial {
        Effect effect;
        Variant variant;
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
                    {{}, {{spec.key, value}}}};
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
            Trial trial{{spec.key, spec.group + ": " + spec.label, words, by, ""},
                        {{{spec.key, now + by}}, {}}};
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
    auto measure = [&](Effect& effect, const Outcome& outcome, const Outcome& beside,
                       const Outcome::Reading& from) {
        const auto* check = outcome.find(request.check_id);
        if (!check || check->limit <= 0) return false;
        effect.value = check->value;
        effect.limit = check->limit;
        effect.gain = from.share() - check->share();
        effect.breaks.clear();
        for (const auto& other : outcome.readings) {
            const auto& id = check_id_of(other.check);
            const auto* before = beside.find(id);
            if (id != request.check_id && other.value > other.limit && other.limit > 0 && before &&
                before->value <= before->limit)
                effect.breaks = checks.at(id)->title;
        }
        return true;
    };
    std::vector<Trial> useful;
    for (auto& trial : trials) {
        if (stopped()) return out;
        const auto outcome = solve(trial.variant, Use::compared, nullptr);
        step_done();
        ++out.tried;
        if (!outcome) { // the change is not possible: no effect
            ++out.refused;
            continue;
        }
        if (!measure(trial.effect, *outcome, coarse_base, *base)) continue;
        if (std::abs(trial.effect.gain) < least_effect * base->share()) continue;
        useful.push_back(std::move(trial));
    }
    std::sort(useful.begin(), useful.end(),
              [](const auto& a, const auto& b) { return a.effect.gain > b.effect.gain; });

    const auto fine_base = solve({}, Use::judged, cancel);
    step_done();
    if (!fine_base) return tl::unexpected(fine_base.error());
    const auto* fine = fine_base->find(request.check_id);
    auto refine = [&](Trial& trial) {
        if (!fine || stopped()) return;
        const auto outcome = solve(trial.variant, Use::judged, cancel);
        if (outcome && !stopped() && measure(trial.effect, *outcome, *fine_base, *fine))
            trial.effect.refined = true;
    };
    for (std::size_t i = 0; i < useful.size() && i < static_cast<std::size_t>(request.most_refined); ++i) {
        refine(useful[i]);
        step_done();
    }
    if (fine && !stopped()) out.value = fine->value;

    // The dimension that can be dragged nearest to the place.
    const Handle* nearest = nullptr;
    const Point at = checks.at(request.check_id)->at;
    for (const auto& handle : prepared.built.handles)
        if (!nearest || std::abs(handle.at.z - at.z) < std::abs(nearest->at.z - at.z)) nearest = &handle;
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
