#include "schedule/sensitivity.h"
#include "study/evaluate.h"
#include "units/quantity.h"
#include <algorithm>
#include <atomic>
#include <cmath>
#include <fmt/format.h>
#include <mutex>
#include <thread>

namespace ng {
namespace {

constexpr double least_effect = 1e-3; // relative change of the value that is worth a line
constexpr double share_step = 0.10;   // of numbers that are no lengths, and the most of short lengths
constexpr double most_changed = 0.40; // of a number, for a cure
constexpr double wanted_share = 0.88; // of the limit: a cure leaves more than what is marginal

} // namespace

std::map<std::string, double> tightest_limits(const Schedule& schedule) {
    std::map<std::string, double> out;
    const auto* service = schedule.find("service");
    if (!service) return out;
    for (const auto& at_u0 : service->checks)
        for (const auto& test : schedule.tests)
            for (const auto& check : test.checks)
                if (check.id == at_u0.id && check.limit > 0 && check.value > 0 && !check.at_least) {
                    const double allowed = check.limit * at_u0.value / check.value;
                    const auto [it, fresh] = out.try_emplace(check.id, allowed);
                    if (!fresh) it->second = std::min(it->second, allowed);
                }
    return out;
}

Result<Sensitivity> find_sensitivity(const SensitivityRequest& request, const Library& library,
                                     const std::function<void(const Sensitivity&, int, int)>& tell,
                                     const CancelFlag* cancel) {
    auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    const auto solve = [&](const Variant& variant, Use use, const CancelFlag* stop) {
        return outcome_of(request.job, request.design_id, variant, library, {use, request.goal, stop});
    };
    const auto whole = evaluate(request.job, request.design_id, {}, library, {Use::compared, {}, cancel});
    if (!whole) return tl::unexpected(whole.error());
    const auto& prepared = whole->prepared;
    const auto* family = prepared.family;
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
            const auto now = choice_of(context, spec.key);
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
        const double now = number_of(context, spec.key);
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
    const auto limit_of = [&](const Outcome::Reading& reading) {
        const auto it = request.tightest.find(check_id_of(reading.check));
        return it == request.tightest.end() ? double(reading.limit)
                                            : std::min<double>(reading.limit, it->second);
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
            if (id == request.check_id || !(other.limit > 0) || other.value <= limit_of(other)) continue;
            // A check that only the change brings, such as that of air where mastic was, counts too.
            const auto* before = beside.find(id);
            if (before && before->value > limit_of(*before)) continue;
            const auto known = checks.find(id);
            effect.breaks.push_back(known == checks.end() ? check_title_of(other.check)
                                                          : known->second->title);
        }
        return true;
    };
    const auto better = [](const Trial& a, const Trial& b) {
        return std::pair(a.effect.cures(), a.effect.gain) > std::pair(b.effect.cures(), b.effect.gain);
    };
    std::vector<Trial> useful;
    std::mutex one_at_a_time;
    const auto step_done = [&] { // with the lock held
        ++done;
        if (!tell) return;
        Sensitivity so_far = out;
        auto sorted = useful;
        std::stable_sort(sorted.begin(), sorted.end(), better);
        for (const auto& trial : sorted) so_far.effects.push_back(trial.effect);
        tell(so_far, done, all);
    };
    std::atomic<std::size_t> next = 0;
    const auto in_threads = [&](const auto& work) {
        std::vector<std::jthread> others;
        for (int k = 1; k < request.threads; ++k) others.emplace_back(work);
        work();
    };
    in_threads([&] {
        for (std::size_t k = next++; k < trials.size() && !stopped(); k = next++) {
            auto& trial = trials[k];
            const auto outcome = solve(trial.variant, Use::compared, nullptr);
            const std::lock_guard lock(one_at_a_time);
            ++out.tried;
            if (!outcome) // the change is not possible: no effect
                ++out.refused;
            else if (measure(trial.effect, *outcome, coarse_base, *base) &&
                     std::abs(trial.effect.gain) >= least_effect * base->share())
                useful.push_back(trial);
            step_done();
        }
    });
    if (stopped()) return out;
    std::stable_sort(useful.begin(), useful.end(), better);

    const auto fine_base = solve({}, Use::judged, cancel);
    step_done();
    if (!fine_base) return tl::unexpected(fine_base.error());
    const auto* fine = fine_base->find(request.check_id);
    auto refine = [&](Trial& trial) {
        if (!fine || stopped()) return false;
        const auto outcome = solve(trial.variant, Use::judged, cancel);
        if (!outcome || stopped() || !measure(trial.effect, *outcome, *fine_base, *fine)) return false;
        return trial.effect.refined = true;
    };
    // The change of a number that the check needs, by what a little of it gained.
    const auto enlarged = [&](const Trial& trial) {
        auto out_of = trial;
        auto& e = out_of.effect;
        const auto* spec = family->parameter(e.key);
        if (!fine || !spec || e.step == 0 || !(e.gain > 0) || fine->share() < 1 - marginal_share)
            return out_of;
        const double now = number_of(context, e.key), most = most_changed * std::abs(now),
                     wanted = e.step * (fine->share() - wanted_share) / e.gain;
        double step = std::clamp(wanted, -most, most);
        if (spec->kind == ParameterKind::length)
            step = std::copysign(std::ceil(2 * std::abs(step)) / 2, step);
        step = std::clamp(now + step, spec->lowest, spec->highest) - now;
        if (std::abs(step) <= std::abs(e.step)) return out_of;
        e.step = step;
        e.change = spec->kind == ParameterKind::length ? fmt::format("{:+.3g} mm", step)
                                                       : fmt::format("{:+.0f} %", 100 * step / now);
        out_of.variant = {{{e.key, now + step}}, {}};
        return out_of;
    };
    const std::size_t best = std::min(useful.size(), static_cast<std::size_t>(request.most_refined));
    next = 0;
    in_threads([&] {
        for (std::size_t i = next++; i < best && !stopped(); i = next++) {
            auto as_found = useful[i], larger = enlarged(as_found);
            const bool enough = larger.effect.step != as_found.effect.step && refine(larger);
            if (!enough) refine(as_found);
            const std::lock_guard lock(one_at_a_time);
            useful[i] = enough ? std::move(larger) : std::move(as_found);
            step_done();
        }
    });
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
    std::stable_sort(useful.begin(), useful.end(), better);
    for (auto& trial : useful) out.effects.push_back(std::move(trial.effect));
    out.complete = !stopped();
    return out;
}

} // namespace ng
