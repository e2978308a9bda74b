#include "io/csv.h"
#include "plan/plan.h"
#include "units/quantity.h"
#include "units/version.h"
#include <fmt/format.h>

namespace ng {

nlohmann::ordered_json plan_json(const CutPlan& plan) {
    using nlohmann::ordered_json;
    const auto side = [](CableSide s) { return s == CableSide::a ? "A" : "B"; };
    ordered_json out{{"format", "needlegauge-marks"},         {"version", 1},
                     {"made_by", made_by(plan.data_version)}, {"datum", name_of(plan.datum)},
                     {"status", status_word(plan.status)},    {"marks", ordered_json::array()}};
    for (const auto& m : plan.marks)
        out["marks"].push_back({{"id", id_of(m.place)},
                                {"label", m.label},
                                {"side", side(m.side)},
                                {"from_datum_mm", m.from_datum_mm},
                                {"neighbour", m.neighbour},
                                {"from_neighbour_mm", m.from_neighbour_mm},
                                {"tolerance_mm", m.tolerance_mm},
                                {"cuts", m.cuts},
                                {"spares", m.spares},
                                {"tool", m.tool},
                                {"blade_mm", m.blade_mm ? ordered_json(*m.blade_mm) : ordered_json()},
                                {"why", m.why},
                                {"verdicts", m.verdicts},
                                {"parameter", m.parameter}});
    out["parked"] = ordered_json::array();
    for (const auto& part : plan.parked)
        out["parked"].push_back({{"part", part.part},
                                 {"side", side(part.side)},
                                 {"length_mm", part.length_mm},
                                 {"bore_mm", part.bore_mm},
                                 {"over", part.over_jacket ? "jacket" : "core"}});
    for (int i = 0; i < 2; ++i)
        if (plan.cores[i])
            out["cores"].push_back({{"side", i == 0 ? "A" : "B"},
                                    {"crotch_mm", plan.cores[i]->crotch_mm},
                                    {"core_length_mm", plan.cores[i]->core_length_mm}});
    out["checks"] = ordered_json::array();
    for (const auto& check : plan.checks)
        out["checks"].push_back({{"title", check.title},
                                 {"status", status_word(check.status)},
                                 {"why", check.why},
                                 {"cure", check.cure}});
    return out;
}

std::string plan_csv(const CutPlan& plan) {
    std::string out =
        csv_line({"mark", "side", fmt::format("from {} (mm)", name_of(plan.datum)),
                  fmt::format("from {} (in)", name_of(plan.datum)), "from neighbour (mm)", "neighbour",
                  "tolerance (mm)", "cuts", "spares", "tool", "blade depth (mm)", "why"});
    for (const auto& m : plan.marks)
        out += csv_line({m.label, m.side == CableSide::a ? "A" : "B", fmt::format("{:.1f}", m.from_datum_mm),
                         fmt::format("{:.3f}", m.from_datum_mm / mm_per_inch),
                         fmt::format("{:.1f}", m.from_neighbour_mm), m.neighbour,
                         fmt::format("{:g}", m.tolerance_mm), m.cuts, m.spares, m.tool,
                         m.blade_mm ? fmt::format("{:.2f}", *m.blade_mm) : "", m.why});
    return out;
}

} // namespace ng
