#include "plan/move_mark.h"
#include "units/quantity.h"
#include <cmath>
#include <fmt/format.h>

namespace ng {

std::map<std::string, double> holding_datum(const PreparedDesign& prepared, const CutPlan& plan,
                                            const CutMark& mark) {
    std::vector<MarkKind> kinds;
    if (plan.datum == place::jacket_cut)
        kinds = {MarkKind::jacket_cut, MarkKind::bedding_cut, MarkKind::crotch};
    else if (plan.datum == place::cable_end)
        kinds = {MarkKind::cable_end};
    for (const auto kind : kinds) {
        const auto* m = plan.find(kind, mark.side);
        if (!m || m->parameter.empty()) continue;
        if (m->parameter == mark.parameter) return {};
        return {{m->parameter, number_of(prepared.context(), m->parameter)}};
    }
    return {};
}

namespace {

/// Moves one mark by its parameter until it lies where it is wanted.
class MarkMover {
  public:
    MarkMover(const Job& job, const PreparedDesign& p, const Library& library, const CutPlan& plan,
              const CutMark& mark)
        : job_(job), p_(p), library_(library), plan_(plan), mark_(mark),
          design_(job_.find_design(p.design.id)) {}

    Result<std::map<std::string, double>> to(double wanted_mm) {
        if (!design_) return refuse("Design", "it is not in the job", "Open the job again");
        double slope = this->slope();
        std::map<std::string, double> out;
        if (std::abs(slope) < least_slope && mark_.place != plan_.datum)
            for (const auto& [key, value] : holding_datum(p_, plan_, mark_)) {
                out[key] = design_->numbers[key] = value; // the datum would move along
                slope = this->slope();
            }
        if (std::abs(slope) < least_slope) return immovable();
        double value = number_of(p_.context(), mark_.parameter), at = mark_.from_datum_mm;
        for (int i = 0; i < tries && std::abs(at - wanted_mm) > near_mm; ++i) {
            value = std::round((value + (wanted_mm - at) / slope) * 1000) / 1000;
            const auto now = distance(value);
            if (!now) return tl::unexpected(now.error());
            at = *now;
        }
        if (std::abs(at - wanted_mm) > near_mm)
            return refuse(mark_.label,
                          fmt::format("it cannot lie {} from the {}", in_mm(wanted_mm), name_of(plan_.datum)),
                          "Give another distance, or choose another datum");
        out[mark_.parameter] = value;
        return out;
    }

  private:
    static constexpr double near_mm = 0.01, step_mm = 0.5; // what is read off; of the difference quotient
    static constexpr double least_slope = 1e-6;
    static constexpr int tries = 8;

    Result<double> distance(double value) {
        design_->numbers[mark_.parameter] = value;
        auto p = prepare_design(job_, design_->id, library_);
        if (!p) return tl::unexpected(p.error());
        const auto moved = make_plan(*p);
        if (!moved) return tl::unexpected(moved.error());
        const auto* m = moved->find(mark_.place);
        if (!m) return refuse(mark_.label, "it is gone with this value", "Give another distance");
        return m->from_datum_mm;
    }

    /// mm of distance for each of the parameter; 0: none, or neither way can be tried.
    double slope() {
        const double value = number_of(p_.context(), mark_.parameter);
        for (const double step : {step_mm, -step_mm})
            if (const auto at = distance(value + step)) return (*at - mark_.from_datum_mm) / step;
        return 0;
    }

    Result<std::map<std::string, double>> immovable() const {
        return refuse(
            mark_.label,
            mark_.place.kind == plan_.datum.kind
                ? fmt::format("all distances count from here, the {}", name_of(plan_.datum))
                : fmt::format("it moves together with the {} that it is measured from", name_of(plan_.datum)),
            "Choose another datum above the table, and type its distance from there");
    }

    Job job_;
    const PreparedDesign& p_;
    const Library& library_;
    const CutPlan& plan_;
    const CutMark& mark_;
    Design* design_;
};

} // namespace

Result<std::map<std::string, double>> numbers_for(const Job& job, const PreparedDesign& prepared,
                                                  const Library& library, const PlaceId& mark,
                                                  double from_datum_mm) {
    const auto plan = make_plan(prepared);
    if (!plan) return tl::unexpected(plan.error());
    const auto* found = plan->find(mark);
    if (!found || found->parameter.empty())
        return refuse(name_of(mark), "no number of the design sets it", "Change what it follows from");
    return MarkMover(job, prepared, library, *plan, *found).to(from_datum_mm);
}

} // namespace ng
