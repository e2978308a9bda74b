#include "study/evaluate.h"
#include "units/promise.h"
#include <algorithm>
#include <deque>
#include <limits>
#include <mutex>

namespace ng {
namespace {

/// Checks by id and title, numbered as they are met: outcomes hold the numbers.
class CheckNumbers {
  public:
    using Named = std::pair<std::string, std::string>; ///< id, title
    std::uint16_t number(const Named& check) {
        const std::lock_guard lock(mutex_);
        const auto [it, fresh] = numbers_.try_emplace(check, static_cast<std::uint16_t>(ids_.size()));
        promise(ids_.size() < std::numeric_limits<std::uint16_t>::max(), "there are few kinds of checks");
        if (fresh) ids_.push_back(check);
        return it->second;
    }
    const Named& of(std::uint16_t number) {
        const std::lock_guard lock(mutex_);
        return ids_.at(number);
    }

  private:
    std::mutex mutex_;
    std::map<Named, std::uint16_t> numbers_;
    std::deque<Named> ids_; ///< stay where they are
};
CheckNumbers& check_numbers() {
    static CheckNumbers numbers;
    return numbers;
}

SolveOptions solve_options(const EvaluateOptions& options) {
    SolveOptions out;
    out.coarse = options.use == Use::compared;
    out.goal = options.goal.value_or(options.use == Use::drawn ? 0.03 : 0.01);
    out.cancel = options.cancel;
    return out;
}

} // namespace

Result<Evaluation> evaluate(const Job& job, const std::string& design_id, const Variant& variant,
                            const Library& library, const EvaluateOptions& options) {
    const Job* asked = &job;
    Job changed;
    if (!variant.numbers.empty() || !variant.choices.empty()) {
        changed = job;
        asked = &changed;
        if (auto* design = changed.find_design(design_id)) { // else prepare_design refuses it by name
            for (const auto& [key, value] : variant.numbers) design->numbers[key] = value;
            for (const auto& [key, value] : variant.choices) design->choices[key] = value;
        }
    }
    auto prepared = prepare_design(*asked, design_id, library);
    if (!prepared) return tl::unexpected(prepared.error());
    return evaluate_prepared(std::move(*prepared), options);
}

Result<Evaluation> evaluate_prepared(PreparedDesign prepared, const EvaluateOptions& options) {
    auto solutions =
        solve_levels(prepared.built, prepared.design.duty, prepared.levels, solve_options(options));
    if (!solutions) return tl::unexpected(solutions.error());
    auto verdict = judge(prepared.built, prepared.design.duty, prepared.levels, prepared.limits, *solutions);
    return Evaluation{std::move(prepared), std::move(*solutions), std::move(verdict)};
}

Result<Outcome> outcome_of(const Job& job, const std::string& design_id, const Variant& variant,
                           const Library& library, const EvaluateOptions& options) {
    const auto whole = evaluate(job, design_id, variant, library, options);
    if (!whole) return tl::unexpected(whole.error());
    auto out = outcome_of(*whole);
    out.cancelled = options.cancel && options.cancel->load(std::memory_order_relaxed);
    return out;
}

Outcome outcome_of(const Evaluation& evaluation) {
    Outcome out;
    out.status = evaluation.verdict.status;
    out.control_length_mm = static_cast<float>(evaluation.prepared.built.control_length_mm);
    for (const auto& check : evaluation.verdict.checks)
        out.readings.push_back({check_numbers().number({check.id, check.title}), check.status,
                                static_cast<float>(check.value), static_cast<float>(check.limit),
                                static_cast<float>(check.relative_error)});
    return out;
}

const Outcome::Reading* Outcome::find(const std::string& check_id) const {
    const auto it = std::find_if(readings.begin(), readings.end(),
                                 [&](const auto& r) { return check_id_of(r.check) == check_id; });
    return it == readings.end() ? nullptr : &*it;
}

float Outcome::worst_share() const {
    float worst = 0;
    for (const auto& reading : readings)
        if (reading.limit > 0) worst = std::max(worst, reading.share());
    return worst;
}

const std::string& check_id_of(std::uint16_t check) {
    return check_numbers().of(check).first;
}

const std::string& check_title_of(std::uint16_t check) {
    return check_numbers().of(check).second;
}

} // namespace ng
