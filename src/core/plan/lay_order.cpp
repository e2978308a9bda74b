#include "plan/lay_order.h"
#include <algorithm>
#include <limits>

namespace ng {
namespace {

constexpr int places_along = 60;     // looked at, over what two parts have in common
constexpr double touching_mm = 0.02; // thinner overlaps are roundings of one surface
constexpr double compared_chord_rad = 0.2;

struct LaidShape {
    PlaceId place;
    bool moulded = false;
    std::size_t painted = 0; ///< its turn: what is painted later covers it
    std::vector<Point> polygon;
    double z0 = std::numeric_limits<double>::infinity(), z1 = -z0;
};

std::vector<LaidShape> shapes_of(const BuiltAccessory& built) {
    std::map<std::string, const Part*> parts;
    for (const auto& part : built.parts)
        if (!is_cable_layer(part.place.kind) && part.hatch != "air") parts[name_of(part.place)] = &part;
    std::vector<LaidShape> out;
    const auto take = [&](const std::string& name, const Outline& outline, std::size_t turn) {
        const auto it = parts.find(name);
        if (it == parts.end()) return;
        LaidShape shape{it->second->place, it->second->moulded, turn,
                        polygon_of(outline, compared_chord_rad)};
        for (const auto& p : shape.polygon) {
            shape.z0 = std::min(shape.z0, p.z);
            shape.z1 = std::max(shape.z1, p.z);
        }
        out.push_back(std::move(shape));
    };
    std::size_t turn = 0;
    for (const auto& region : built.section.regions) take(region.name, region.outline, turn++);
    for (const auto& electrode : built.section.electrodes) take(electrode.name, electrode.outline, turn++);
    return out;
}

bool is_wall(const std::optional<std::pair<double, double>>& radii) {
    return radii && radii->second > radii->first + touching_mm;
}

/// Somewhere along the cable `low` lies between the axis and `high`.
bool is_beneath(const LaidShape& low, const LaidShape& high) {
    const double z0 = std::max(low.z0, high.z0), z1 = std::min(low.z1, high.z1);
    if (z1 - z0 < touching_mm) return false;
    for (int i = 0; i < places_along; ++i) {
        const double z = z0 + (z1 - z0) * (i + 0.5) / places_along;
        const auto under = span_at(low.polygon, z), over = span_at(high.polygon, z);
        if (!is_wall(under) || !is_wall(over)) continue;
        // Shapes may be drawn over one another: what is painted later takes its place out of the earlier one.
        const bool drawn_into = low.painted > high.painted && under->second < over->second - touching_mm;
        if (under->second <= over->first + touching_mm || drawn_into) return true;
    }
    return false;
}

} // namespace

std::map<PlaceId, std::set<PlaceId>> beneath(const BuiltAccessory& built) {
    const auto shapes = shapes_of(built);
    std::map<PlaceId, std::set<PlaceId>> out;
    for (const auto& high : shapes)
        for (const auto& low : shapes)
            if (low.place != high.place && is_beneath(low, high) && !is_beneath(high, low))
                out[high.place].insert(low.place);
    return out;
}

} // namespace ng
