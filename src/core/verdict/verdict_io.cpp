#include "verdict/verdict.h"

namespace ng {

nlohmann::ordered_json verdict_json(const Verdict& verdict) {
    auto list = nlohmann::ordered_json::array();
    for (const auto& c : verdict.checks) {
        nlohmann::ordered_json item{
            {"id", name_of(c.id)},
            {"title", c.title},
            {"value", c.value},
            {"unit", c.unit},
            {"limit", c.limit},
            {"margin", c.margin},
            {"relative_error", c.relative_error},
            {"status", status_word(c.status)},
            {"decides", !c.set_aside},
            {"where", {{"path", c.place ? name_of(*c.place) : ""}, {"at", {c.at.r, c.at.z}}}},
            {"voltage_kV", c.voltage_kV},
            {"level", c.level},
            {"provenance", {{"limit", c.limit_origin}, {"voltage", c.voltage_origin}}},
            {"why", c.why},
            {"cure", c.cure}};
        if (c.edge_radius_mm > 0) item["where"]["edge_radius_mm"] = c.edge_radius_mm;
        list.push_back(item);
    }
    return list;
}

} // namespace ng
