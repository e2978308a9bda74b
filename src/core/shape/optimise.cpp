#include "shape/optimise.h"
#include "evaluate/evaluate.h"
#include <algorithm>
#include <fmt/format.h>
#include <nlopt.hpp>

namespace ng {
namespace {

/// One design of the walk, solved and judged.
class Walk {
  public:
    Walk(const OptimiseRequest& request, const Library& library, const Preparer& prepare,
         const std::function<void(const OptimiseStep&, int)>& tell, const CancelFlag* cancel)
        : request_(request), library_(library), prepare_(prepare), tell_(tell), cancel_(cancel) {}

    /// The same place is asked for twice, once by the objective and once by the constraint.
    const OptimiseStep& at(const std::vector<double>& shares) {
        if (!path.empty() && shares == last_) return path.back();
        last_ = shares;
        std::vector<double> values;
        for (std::size_t i = 0; i < shares.size(); ++i) {
            const auto& d = request_.dimensions[i];
            values.push_back(d.lowest + std::clamp(shares[i], 0.0, 1.0) * (d.highest - d.lowest));
        }
        path.push_back(judge_values(std::move(values)));
        if (tell_) tell_(path.back(), static_cast<int>(path.size()));
        return path.back();
    }
    bool cancelled() const { return cancel_ && *cancel_; }

    std::vector<OptimiseStep> path;

  private:
    OptimiseStep judge_values(std::vector<double> values) const {
        OptimiseStep step;
        Variant variant;
        for (std::size_t i = 0; i < values.size(); ++i)
            variant.numbers[request_.dimensions[i].key] = values[i];
        step.values = std::move(values);
        const auto outcome = outcome_of(request_.job, request_.design_id, variant, library_, prepare_,
                                        {Use::drawn, request_.goal, cancel_});
        if (!outcome || outcome->cancelled) {
            step.refusal = outcome ? "cancelled" : outcome.error().message();
            return step;
        }
        step.usable = true;
        step.holds = outcome->status == Status::holds;
        step.worst_share = outcome->worst_share();
        const auto* lowest = request_.lowest_check ? outcome->find(*request_.lowest_check) : nullptr;
        step.objective = lowest ? lowest->value : outcome->control_length_mm;
        return step;
    }

    const OptimiseRequest& request_;
    const Library& library_;
    const Preparer& prepare_;
    const std::function<void(const OptimiseStep&, int)>& tell_;
    const CancelFlag* cancel_;
    std::vector<double> last_;
};

struct Cancelled {};

Result<void> check_request(const OptimiseRequest& request, const Family& family) {
    if (request.dimensions.empty() || request.dimensions.size() > 4)
        return refuse("Best shape", fmt::format("{} dimensions are chosen", request.dimensions.size()),
                      "Choose one to four");
    for (const auto& d : request.dimensions) {
        const auto* spec = family.parameter(d.key);
        if (!spec || spec->kind == ParameterKind::choice)
            return refuse("Best shape", fmt::format("“{}” is no dimension of this family", d.key),
                          "Choose another");
        if (!(d.lowest < d.highest))
            return refuse(spec->label, "its lower bound is not below its upper bound", "Correct the bounds");
        if (d.lowest < spec->lowest || d.highest > spec->highest)
            return refuse(spec->label, "a bound is out of the parameter's range",
                          fmt::format("Stay within {:g} and {:g}", spec->lowest, spec->highest));
    }
    return {};
}

} // namespace

Result<OptimiseResult> optimise(const OptimiseRequest& request, const Library& library,
                                const Preparer& prepare,
                                const std::function<void(const OptimiseStep&, int)>& tell,
                                const CancelFlag* cancel) {
    const auto start = prepare(request.job, request.design_id, library);
    if (!start) return tl::unexpected(start.error());
    const auto& family = *start->family;
    if (auto ok = check_request(request, family); !ok) return tl::unexpected(ok.error());
    if (request.lowest_check && std::none_of(start->built.checks.begin(), start->built.checks.end(),
                                             [&](const auto& c) { return c.id == *request.lowest_check; }))
        return refuse("Best shape",
                      fmt::format("the design has no check “{}”", name_of(*request.lowest_check)),
                      "Choose one of its checks");

    Walk walk(request, library, prepare, tell, cancel);
    const auto context = start->context();
    std::vector<double> shares; // 0 to 1 between the bounds: COBYLA wants like scales
    for (const auto& d : request.dimensions)
        shares.push_back(
            std::clamp((number_of(context, d.key) - d.lowest) / (d.highest - d.lowest), 0.0, 1.0));
    OptimiseResult out;
    const auto& first = walk.at(shares);
    if (!first.usable)
        return refuse("Best shape", "the start cannot be solved: " + first.refusal,
                      "Start from a design that can");
    const double scale = std::max(1e-9, std::abs(first.objective));

    auto objective = [&](const std::vector<double>& x) {
        if (walk.cancelled()) throw Cancelled();
        const auto& step = walk.at(x);
        return step.usable ? step.objective / scale : 10.0; // what cannot be built is worse than anything
    };
    auto constraint = [&](const std::vector<double>& x) {
        const auto& step = walk.at(x);
        return step.usable ? step.worst_share - (1 - marginal_share - 0.005) : 1.0;
    };
    using Call = std::function<double(const std::vector<double>&)>;
    Call calls[] = {objective, constraint};
    auto forward = [](const std::vector<double>& x, std::vector<double>&, void* call) {
        return (*static_cast<Call*>(call))(x);
    };
    nlopt::opt search(nlopt::LN_COBYLA, static_cast<unsigned>(shares.size()));
    search.set_lower_bounds(0.0);
    search.set_upper_bounds(1.0);
    search.set_min_objective(forward, &calls[0]);
    search.add_inequality_constraint(forward, &calls[1], 1e-3);
    search.set_initial_step(0.15);
    search.set_xtol_abs(4e-3);
    search.set_maxeval(request.most_steps);
    double least = 0;
    try {
        const auto code = search.optimize(shares, least);
        out.end = code == nlopt::MAXEVAL_REACHED ? "steps used up" : "settled";
    } catch (const Cancelled&) {
        out.end = "cancelled";
    } catch (const nlopt::roundoff_limited&) {
        out.end = "settled";
    } catch (const std::exception& error) { // what a callback throws; NLopt wraps it
        if (!walk.cancelled())
            return refuse("Best shape", fmt::format("the search broke off: {}", error.what()),
                          "Start from another design, and report this");
    }
    if (walk.cancelled()) out.end = "cancelled";
    out.path = std::move(walk.path);
    for (std::size_t i = 0; i < out.path.size(); ++i)
        if (out.path[i].holds && (!out.best || out.path[i].objective < out.path[*out.best].objective))
            out.best = i;
    return out;
}

} // namespace ng
