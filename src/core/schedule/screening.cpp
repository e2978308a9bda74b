#include "schedule/screening.h"
#include "field/readings.h"
#include "verdict/asked.h"
#include <algorithm>
#include <cmath>

namespace ng {
namespace {

constexpr double near_the_summit = 0.85; // of its height: may overtake it

const CheckRequest* request_of(const std::vector<CheckRequest>& requests, const CheckId& id) {
    const auto it = std::find_if(requests.begin(), requests.end(), [&](const auto& r) { return r.id == id; });
    return it == requests.end() ? nullptr : &*it;
}

std::optional<double> limit_of(const CheckRequest& request, const PreparedDesign& prepared) {
    const auto* limit = prepared.limits.find(request.limit_id);
    return limit ? std::optional(limit->value.value) : std::nullopt;
}

struct Summit {
    FieldFigure figure;
    double value = 0;
    bool stands = true; ///< its neighbours are lower: where along the path it is read is of no account
};

/// Where the quantity is greatest along a path and where it has other maxima.
void add_summits(const CheckRequest& request, const Section& section, const PathResult& result,
                 std::vector<Summit>& out) {
    const auto path = std::find_if(section.paths.begin(), section.paths.end(),
                                   [&](const auto& p) { return p.name == result.name; });
    if (path == section.paths.end()) return;
    const bool tangential = request.quantity == CheckRequest::Quantity::tangential;
    const auto value = [&](const PathSample& s) { return quantity_asked(request, s); };
    const auto judged = [&](const PathSample& s) {
        return !s.near_singular && s.s_mm >= request.from_s_mm && s.s_mm <= request.to_s_mm &&
               !is_left_out(request, s);
    };
    const auto& all = result.samples;
    for (std::size_t k = 0; k < all.size(); ++k) {
        if (!judged(all[k])) continue;
        const double own = value(all[k]);
        // Beyond an end of the path there is nothing; the ends themselves move with the mesh.
        const auto lower = [&](std::size_t other) { return other >= all.size() || value(all[other]) <= own; };
        const auto hides = [&](std::size_t other) { return !lower(other) && judged(all[other]); };
        if (hides(k - 1) || hides(k + 1)) continue;
        Point along;
        point_on_path(*path, all[k].s_mm, &along);
        out.push_back({{all[k].at, path->side, tangential ? std::optional(along) : std::nullopt},
                       own,
                       lower(k - 1) && lower(k + 1)});
    }
}

} // namespace

std::optional<Screening> Screening::of(const Evaluation& evaluation, const Check& check,
                                       const CancelFlag* cancel) {
    const auto& built = evaluation.prepared.built;
    const auto& solution = evaluation.solutions.at_u0;
    const auto* request = request_of(built.checks, check.id);
    if (!request || request->mean_over_mm > 0 || !check.across.empty() || !solution.linear) return {};
    std::vector<Summit> summits;
    for (const auto& place : request->places) {
        if (const auto* edge = solution.edge(place); edge && edge->judged)
            summits.push_back({{edge->peak_at}, edge->peak_kV_per_mm});
        else if (const auto* path = solution.path(place))
            add_summits(*request, built.section, *path, summits);
    }
    double highest = 0;
    for (const auto& summit : summits) highest = std::max(highest, summit.value);
    std::vector<FieldFigure> figures;
    for (const auto& summit : summits) {
        if (!(summit.value > near_the_summit * highest)) continue;
        if (!summit.stands) return {}; // it hangs on where the stretch that is judged ends
        figures.push_back(summit.figure);
    }
    if (figures.empty()) return {};
    auto derivative = ShapeDerivative::of(built.section, solution, figures, cancel);
    if (!derivative) return {};
    return Screening(std::move(*derivative), *request, limit_of(*request, evaluation.prepared));
}

std::optional<double> Screening::relative_change(const PreparedDesign& changed) const {
    const auto* request = request_of(changed.built.checks, request_.id);
    if (!request || request->at != request_.at || limit_of(*request, changed) != limit_) return {};
    const auto change = of_field_.change(changed.built.section);
    if (!change) return {};
    const auto& values = of_field_.values();
    double before = 0, after = 0;
    for (std::size_t k = 0; k < values.size(); ++k) {
        before = std::max(before, values[k]);
        after = std::max(after, values[k] + (*change)[k]);
    }
    return after / before * request_.divide_by / request->divide_by - 1;
}

} // namespace ng
