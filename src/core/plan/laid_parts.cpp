#include "plan/laid_parts.h"
#include <algorithm>
#include <limits>
#include <numbers>

namespace ng {
namespace {

constexpr double outline_chord_rad =
    std::numbers::pi / 24; // as sections are drawn; chords lie within 0.02 mm

} // namespace

std::vector<LaidPart> laid_parts(const PreparedDesign& prepared, const CutPlan& plan) {
    std::vector<LaidPart> out;
    const auto take = [&](const std::string& name, const Outline& outline) {
        const auto& parts = prepared.built.parts;
        const auto it = std::find_if(parts.begin(), parts.end(),
                                     [&](const auto& part) { return name_of(part.place) == name; });
        if (it == parts.end() || is_cable_layer(it->place.kind) || it->hatch == "air") return;
        LaidPart part{it->place, it->label.empty() ? name : it->label, {}, 0, 0, 0, 0, 0, {}};
        part.side = plan.two_sides() && it->place.side == Side::b ? CableSide::b : CableSide::a;
        const auto& line = plan.line(part.side);
        const double to_end = part.side == CableSide::a ? 1 : -1; // +1: the cable end lies towards +z
        const auto polygon = polygon_of(outline, outline_chord_rad);
        double near = -std::numeric_limits<double>::infinity(), far = -near; // to the cable end, along to_end
        for (const auto& p : polygon) {
            near = std::max(near, to_end * p.z);
            far = std::min(far, to_end * p.z);
            part.greatest_diameter_mm = std::max(part.greatest_diameter_mm, 2 * p.r);
            part.outline.push_back({p.r, line.from_datum(p.z)});
        }
        const auto over = [&](double along) { // largest diameter at an end
            double r = 0;
            for (const auto& p : polygon)
                if (std::abs(to_end * p.z - along) < 1e-6) r = std::max(r, p.r);
            return 2 * r;
        };
        part.from_mm = line.from_datum(to_end * near);
        part.to_mm = line.from_datum(to_end * far);
        part.diameter_at_from_mm = over(near);
        part.diameter_at_to_mm = over(far);
        out.push_back(std::move(part));
    };
    for (const auto& region : prepared.built.section.regions) take(region.name, region.outline);
    for (const auto& electrode : prepared.built.section.electrodes) take(electrode.name, electrode.outline);
    return out;
}

} // namespace ng
