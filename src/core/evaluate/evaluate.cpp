#include "evaluate/evaluate.h"
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
    using Named = std::pair<CheckId, std::string>; ///< id, title
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
    out.threads = options.threads;
    out.like = options.like;
    return out;
}

constexpr double unknown_wanted = 0.05; // where no verdict tells how far from its limits it lies
constexpr double decided_by = 0.4;      // of the distance from the limit
constexpr double others_nearer = 0.4;   // of that distance, where other designs follow its mesh

/// The paths and edges that a check reads, by name; of one that no request asks for (voids left on an
/// interface) the paths of the gaps.
std::vector<std::string> places_read(const BuiltAccessory& built, const Check& check) {
    std::vector<std::string> out;
    const auto take = [&](const std::vector<CheckRequest>& requests) {
        for (const auto& request : requests)
            if (request.id == check.id)
                for (const auto& place : request.places) out.push_back(name_of(place));
    };
    take(built.checks);
    for (const auto& across : built.across) take(across.checks);
    if (out.empty())
        for (const auto& gap : built.gaps) out.push_back(name_of(gap.path));
    return out;
}

/// How exactly the places of each check must be known to say on which side of its limit it lies, were it
/// where it was before.
Slack slack_to_decide(const BuiltAccessory& built, const EvaluateOptions& options, double goal) {
    const double most = std::max(1.0, *options.loosest / goal);
    auto out = slack_for(built.checks, built.gaps, most);
    for (auto& [name, slack] : out.of)
        slack = options.prior ? most : std::clamp(unknown_wanted / goal, 1.0, most);
    if (options.prior)
        for (const auto& check : options.prior->checks) {
            if (!(check.limit > 0) || !(check.value > 0)) continue;
            const double wanted =
                (options.movable ? others_nearer : 1) * decided_by * std::abs(check.limit / check.value - 1);
            const double slack = std::clamp(wanted / goal, 1.0, most);
            for (const auto& name : places_read(built, check)) {
                auto& of = out.of.try_emplace(name, slack).first->second;
                of = std::min(of, slack);
            }
        }
    for (const auto& name : options.read_too) out.of[name] = 1;
    return out;
}

std::vector<SolvedAcross> solved_across(const Evaluation& evaluation) {
    std::vector<SolvedAcross> out;
    for (const auto& across : evaluation.prepared.built.across)
        if (const auto it = evaluation.solutions.across.find(across.id);
            it != evaluation.solutions.across.end())
            out.emplace_back(&across.section, &it->second);
    return out;
}

/// Whether its error leaves open on which side of its limit a check lies, and can still be made smaller.
bool is_open(const Check& check, double goal) {
    return check.limit > 0 && check.value > 0 && check.relative_error > goal &&
           std::abs(check.value - check.limit) <= check.relative_error * check.value;
}

} // namespace

Result<PreparedDesign> prepare_variant(const Job& job, const std::string& design_id, const Variant& variant,
                                       const Library& library, const Preparer& prepare) {
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
    return prepare(*asked, design_id, library);
}

Result<Evaluation> evaluate(const Job& job, const std::string& design_id, const Variant& variant,
                            const Library& library, const Preparer& prepare, const EvaluateOptions& options) {
    auto prepared = prepare_variant(job, design_id, variant, library, prepare);
    if (!prepared) return tl::unexpected(prepared.error());
    return evaluate_prepared(std::move(*prepared), options);
}

Result<Evaluation> evaluate_prepared(PreparedDesign prepared, const EvaluateOptions& options) {
    auto how = solve_options(options);
    if (options.loosest) how.slack = slack_to_decide(prepared.built, options, how.goal);
    how.coarse_first = options.loosest.has_value();
    // To decide, only what the checks read is solved for.
    std::optional<BuiltAccessory> deciding;
    if (options.loosest) {
        deciding = prepared.built;
        std::erase_if(deciding->section.paths,
                      [&](const Path& path) { return !how.slack.of.contains(path.name); });
        how.slack.reads_others = false;
        how.slack.integrals = std::numeric_limits<double>::infinity();
    }
    const auto& built = deciding ? *deciding : prepared.built;
    const auto known =
        options.beside && !options.loosest ? solved_across(*options.beside) : std::vector<SolvedAcross>{};
    const auto solve_and_judge = [&]() -> Result<Evaluation> {
        auto solutions =
            solve_levels(built, prepared.design.duty, prepared.levels, how, options.movable, known);
        if (!solutions) return tl::unexpected(solutions.error());
        auto verdict = judge(built, prepared.design.duty, prepared.levels, prepared.limits, *solutions);
        return Evaluation{{}, std::move(*solutions), std::move(verdict)};
    };
    auto out = solve_and_judge();
    if (out && options.loosest && out->solutions.at_u0.report.end != SolveReport::End::cancelled) {
        // Whatever lies within its error of its limit is solved again to the goal itself.
        bool open = false;
        for (const auto& check : out->verdict.checks)
            if (is_open(check, how.goal))
                for (const auto& name : places_read(prepared.built, check))
                    how.slack.of[name] = 1, open = true;
        if (open) {
            how.like.clear(); // those meshes have said what they can
            out = solve_and_judge();
            if (out) out->solved_again = true;
        }
    }
    if (out) out->prepared = std::move(prepared);
    return out;
}

Result<Outcome> outcome_of(const Job& job, const std::string& design_id, const Variant& variant,
                           const Library& library, const Preparer& prepare, const EvaluateOptions& options) {
    const auto whole = evaluate(job, design_id, variant, library, prepare, options);
    if (!whole) return tl::unexpected(whole.error());
    auto out = outcome_of(*whole);
    out.cancelled = options.cancel && options.cancel->load(std::memory_order_relaxed);
    return out;
}

void keep_usual_values(const PreparedDesign& prepared, Design& design, bool lengths_alone) {
    const auto context = prepared.context();
    for (const auto& spec : prepared.family->parameters) {
        if (lengths_alone && spec.kind != ParameterKind::length) continue;
        if (spec.kind == ParameterKind::choice)
            design.choices.try_emplace(spec.key, choice_of(context, spec.key));
        else
            design.numbers.try_emplace(spec.key, number_of(context, spec.key));
    }
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

const Outcome::Reading* Outcome::find(const CheckId& check) const {
    const auto it = std::find_if(readings.begin(), readings.end(),
                                 [&](const auto& r) { return check_id_of(r.check) == check; });
    return it == readings.end() ? nullptr : &*it;
}

float Outcome::worst_share() const {
    float worst = 0;
    for (const auto& reading : readings)
        if (reading.limit > 0) worst = std::max(worst, reading.share());
    return worst;
}

const CheckId& check_id_of(std::uint16_t check) {
    return check_numbers().of(check).first;
}

const std::string& check_title_of(std::uint16_t check) {
    return check_numbers().of(check).second;
}

} // namespace ng
