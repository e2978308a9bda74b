#include "schedule/sensitivity.h"
#include "evaluate/evaluate.h"
#include "schedule/screening.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <mutex>
#include <optional>

namespace ng {
namespace {

constexpr double least_effect = 1e-3; // relative change of the value that is worth a line
constexpr double share_step = 0.10;   // of numbers that are no lengths, and the most of short lengths
constexpr double most_changed = 0.40; // of a number, for a cure
constexpr double wanted_share = 0.88; // of the limit: a cure leaves more than what is marginal
/// Of least_effect: what the derivative says to change less is not solved. It leaves out what is of second
/// order in the potentials, which is small where all of it is.
constexpr double screened_share = 0.2;

struct Trial {
    Effect effect;
    Variant variant;
};

bool better(const Trial& a, const Trial& b) {
    return std::pair(a.effect.cures(), a.effect.gain) > std::pair(b.effect.cures(), b.effect.gain);
}

std::string step_words(bool length, double step, double now) {
    return length ? fmt::format("{:+.3g} mm", step) : fmt::format("{:+.0f} %", 100 * step / now);
}

void add_choices(const ParameterSpec& spec, const DesignContext& context, std::vector<Trial>& out) {
    const auto now = choice_of(context, spec.key);
    std::string now_words = now;
    for (const auto& [value, words] : spec.options)
        if (value == now) now_words = words;
    for (const auto& [value, words] : spec.options)
        if (value != now)
            out.push_back(
                {{spec.key, spec.group + ": " + spec.label, words + " in place of " + now_words, 0, value},
                 {{}, {{spec.key, value}}}});
}

void add_steps(const ParameterSpec& spec, const DesignContext& context, std::vector<Trial>& out) {
    const double now = number_of(context, spec.key);
    const bool length = spec.kind == ParameterKind::length;
    const double step = length && now >= 10 ? 1.0 : (length ? now : std::abs(now)) * share_step;
    if (!(step > 0)) return;
    for (const double by : {step, -step})
        if (now + by >= spec.lowest && now + by <= spec.highest)
            out.push_back({{spec.key, spec.group + ": " + spec.label, step_words(length, by, now), by, ""},
                           {{{spec.key, now + by}}, {}}});
}

/// Every change that could be made: 1 mm of each length (a tenth of a short one), a tenth of each other
/// number, both ways; every other choice.
std::vector<Trial> all_trials(const PreparedDesign& prepared) {
    const auto context = prepared.context();
    std::vector<Trial> out;
    for (const auto& spec : prepared.family->parameters)
        (spec.kind == ParameterKind::choice ? add_choices : add_steps)(spec, context, out);
    return out;
}

class Run {
  public:
    Run(const SensitivityRequest& request, const Library& library, const Preparer& prepare,
        const std::function<void(const Sensitivity&, int, int)>& tell, const CancelFlag* cancel)
        : request_(request), library_(library), prepare_(prepare), tell_(tell), cancel_(cancel) {}

    Result<Sensitivity> go();

  private:
    const SensitivityRequest& request_;
    const Library& library_;
    const Preparer& prepare_;
    const std::function<void(const Sensitivity&, int, int)>& tell_;
    const CancelFlag* cancel_;
    std::optional<Evaluation> whole_, refined_whole_; ///< as designed, coarse and to the goal
    std::optional<Screening> screening_;              ///< none: the derivative is not known
    Outcome coarse_, refined_;                        ///< as designed
    std::map<CheckId, const Check*> checks_;          ///< by id, as designed
    const Outcome::Reading* refined_base_ = nullptr;  ///< of the check asked for; null: it is not there
    std::vector<Trial> trials_, useful_;
    std::mutex one_at_a_time_;
    int done_ = 0, all_ = 0;
    Sensitivity out_;

    bool stopped() const { return cancel_ && cancel_->load(std::memory_order_relaxed); }
    Result<Evaluation> solve(const Variant& variant, const EvaluateOptions& how) const {
        return evaluate(request_.job, request_.design_id, variant, library_, prepare_, how);
    }
    EvaluateOptions coarsely() const;
    EvaluateOptions refined() const;
    bool is_screened(const PreparedDesign& changed) const;
    double limit_of(const Outcome::Reading& reading) const {
        const auto it = request_.tightest.find(check_id_of(reading.check));
        return it == request_.tightest.end() ? double(reading.limit)
                                             : std::min<double>(reading.limit, it->second);
    }
    std::size_t threads() const { return static_cast<std::size_t>(std::max(1, request_.threads)); }
    bool measure(Effect& effect, const Outcome& outcome, const Outcome& beside,
                 const Outcome::Reading& from) const;
    void step_done(); ///< with the lock held
    void try_all(const Outcome::Reading& base);
    bool refine(Trial& trial) const;
    Trial enlarged(const Trial& trial) const;
    void refine_best();
    void find_nearest();
};

EvaluateOptions Run::coarsely() const {
    EvaluateOptions out;
    out.use = Use::compared;
    if (whole_) out.beside = &*whole_;
    if (whole_ && whole_->solutions.follower) out.like = {whole_->solutions.follower};
    return out;
}

EvaluateOptions Run::refined() const {
    EvaluateOptions out;
    out.goal = request_.goal;
    out.cancel = cancel_;
    if (refined_whole_) out.beside = &*refined_whole_;
    if (refined_whole_ && refined_whole_->solutions.follower) out.like = {refined_whole_->solutions.follower};
    return out;
}

/// Whether the derivative says that the change is not worth a line.
bool Run::is_screened(const PreparedDesign& changed) const {
    if (!screening_) return false;
    const auto change = screening_->relative_change(changed);
    return change && std::abs(*change) < screened_share * least_effect;
}

/// What the change does to the check, and what other checks it breaks; false: the check is gone.
bool Run::measure(Effect& effect, const Outcome& outcome, const Outcome& beside,
                  const Outcome::Reading& from) const {
    const auto* check = outcome.find(request_.check);
    if (!check || check->limit <= 0) return false;
    effect.value = check->value;
    effect.limit = check->limit;
    effect.gain = from.share() - check->share();
    effect.breaks.clear();
    for (const auto& other : outcome.readings) {
        const auto& id = check_id_of(other.check);
        if (id == request_.check || !(other.limit > 0) || other.value <= limit_of(other)) continue;
        // A check that only the change brings, such as that of air where mastic was, counts too.
        const auto* before = beside.find(id);
        if (before && before->value > limit_of(*before)) continue;
        const auto known = checks_.find(id);
        effect.breaks.push_back(known == checks_.end() ? check_title_of(other.check) : known->second->title);
    }
    return true;
}

void Run::step_done() {
    ++done_;
    if (!tell_) return;
    Sensitivity so_far = out_;
    auto sorted = useful_;
    std::stable_sort(sorted.begin(), sorted.end(), better);
    for (const auto& trial : sorted) so_far.effects.push_back(trial.effect);
    tell_(so_far, done_, all_);
}

void Run::try_all(const Outcome::Reading& base) {
    in_parallel(
        trials_.size(), threads(),
        [&](std::size_t k) {
            auto& trial = trials_[k];
            bool screened = false;
            std::optional<Outcome> outcome;
            if (auto changed =
                    prepare_variant(request_.job, request_.design_id, trial.variant, library_, prepare_)) {
                screened = is_screened(*changed);
                if (!screened)
                    if (const auto whole = evaluate_prepared(std::move(*changed), coarsely()))
                        outcome = outcome_of(*whole);
            }
            const std::lock_guard lock(one_at_a_time_);
            ++out_.tried;
            if (screened)
                ++out_.not_solved;
            else if (!outcome) // the change is not possible: no effect
                ++out_.refused;
            else if (measure(trial.effect, *outcome, coarse_, base) &&
                     std::abs(trial.effect.gain) >= least_effect * base.share())
                useful_.push_back(trial);
            step_done();
        },
        cancel_);
}

bool Run::refine(Trial& trial) const {
    if (!refined_base_ || stopped()) return false;
    const auto whole = solve(trial.variant, refined());
    if (!whole || stopped() || !measure(trial.effect, outcome_of(*whole), refined_, *refined_base_))
        return false;
    return trial.effect.refined = true;
}

/// The change of a number that the check needs, by what a little of it gained.
Trial Run::enlarged(const Trial& trial) const {
    auto out = trial;
    auto& e = out.effect;
    const auto* spec = whole_->prepared.family->parameter(e.key);
    if (!refined_base_ || !spec || e.step == 0 || !(e.gain > 0) ||
        refined_base_->share() < 1 - marginal_share)
        return out;
    const bool length = spec->kind == ParameterKind::length;
    const double now = number_of(whole_->prepared.context(), e.key), most = most_changed * std::abs(now),
                 wanted = e.step * (refined_base_->share() - wanted_share) / e.gain;
    double step = std::clamp(wanted, -most, most);
    if (length) step = std::copysign(std::ceil(2 * std::abs(step)) / 2, step);
    step = std::clamp(now + step, spec->lowest, spec->highest) - now;
    if (std::abs(step) <= std::abs(e.step)) return out;
    e.step = step;
    e.change = step_words(length, step, now);
    out.variant = {{{e.key, now + step}}, {}};
    return out;
}

void Run::refine_best() {
    const std::size_t best = std::min(useful_.size(), static_cast<std::size_t>(request_.most_refined));
    in_parallel(
        best, threads(),
        [&](std::size_t i) {
            auto as_found = useful_[i], larger = enlarged(as_found);
            const bool enough = larger.effect.step != as_found.effect.step && refine(larger);
            if (!enough) refine(as_found);
            const std::lock_guard lock(one_at_a_time_);
            useful_[i] = enough ? std::move(larger) : std::move(as_found);
            step_done();
        },
        cancel_);
}

/// The dimension that can be dragged nearest to the place.
void Run::find_nearest() {
    const Handle* nearest = nullptr;
    const Point at = checks_.at(request_.check)->at;
    for (const auto& handle : whole_->prepared.built.handles)
        if (!nearest || std::abs(handle.at.z - at.z) < std::abs(nearest->at.z - at.z)) nearest = &handle;
    if (!nearest) return;
    for (auto& trial : useful_)
        if (trial.effect.key == nearest->key && (!out_.nearest || trial.effect.step > 0)) {
            if (!trial.effect.refined) refine(trial);
            out_.nearest = trial.effect;
        }
}

Result<Sensitivity> Run::go() {
    auto first = coarsely();
    first.cancel = cancel_;
    first.movable = true;
    auto whole = solve({}, first);
    if (!whole) return tl::unexpected(whole.error());
    whole_.emplace(std::move(*whole));
    coarse_ = outcome_of(*whole_);
    for (const auto& check : whole_->verdict.checks) checks_[check.id] = &check;
    const auto* base = coarse_.find(request_.check);
    if (!base || base->limit <= 0)
        return refuse("check " + name_of(request_.check),
                      "it is not among the checks of the field in this design",
                      "Ask for one of the verdict list");
    trials_ = all_trials(whole_->prepared);
    out_.check = request_.check;
    out_.value = base->value;
    if (!request_.solve_all) screening_ = Screening::of(*whole_, *checks_.at(request_.check), cancel_);
    all_ = static_cast<int>(trials_.size()) + request_.most_refined + 1;
    try_all(*base);
    if (stopped()) return out_;
    std::stable_sort(useful_.begin(), useful_.end(), better);
    auto how = refined();
    how.movable = true;
    how.threads = threads();
    auto as_designed = solve({}, how);
    step_done();
    if (!as_designed) return tl::unexpected(as_designed.error());
    refined_ = outcome_of(*as_designed);
    refined_whole_.emplace(std::move(*as_designed));
    refined_base_ = refined_.find(request_.check);
    refine_best();
    if (refined_base_ && !stopped()) out_.value = refined_base_->value;
    find_nearest();
    std::stable_sort(useful_.begin(), useful_.end(), better);
    for (auto& trial : useful_) out_.effects.push_back(std::move(trial.effect));
    out_.complete = !stopped();
    return out_;
}

} // namespace

std::map<CheckId, double> tightest_limits(const Schedule& schedule) {
    std::map<CheckId, double> out;
    const auto* service = schedule.find(TestId::What::service);
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

std::string tried_words(const Sensitivity& found) {
    auto out = fmt::format("{} changes solved", found.tried - found.refused - found.not_solved);
    if (found.not_solved > 0)
        out += fmt::format(", {} not: by its derivative they change it by less than {:g} %", found.not_solved,
                           100 * least_effect);
    if (found.refused > 0) out += fmt::format(", {} not possible", found.refused);
    return out;
}

Result<Sensitivity> find_sensitivity(const SensitivityRequest& request, const Library& library,
                                     const Preparer& prepare,
                                     const std::function<void(const Sensitivity&, int, int)>& tell,
                                     const CancelFlag* cancel) {
    return Run(request, library, prepare, tell, cancel).go();
}

} // namespace ng
