#include "plan/sheet.h"
#include "plan/whole_end.h"
#include "plan/work.h"
#include <algorithm>
#include <set>

namespace ng {

void add_outer_cover(StagePicture& picture, const PlaceId& place, double z0, double z1, bool both_signs) {
    constexpr int places = 120;
    constexpr double wall_mm = 2.5; // drawn where the design gives none
    std::vector<std::vector<Point>> beneath;
    for (const auto& region : picture.section.regions) beneath.push_back(polygon_of(region.outline, 0.3));
    for (const auto& electrode : picture.section.electrodes)
        beneath.push_back(polygon_of(electrode.outline, 0.3));
    std::vector<double> radius(places + 1, 0.0);
    for (int i = 0; i <= places; ++i) {
        const double z = z0 + (z1 - z0) * i / places;
        auto& r = radius[static_cast<std::size_t>(i)];
        for (const auto& polygon : beneath)
            if (const auto radii = span_at(polygon, z))
                r = std::max({r, std::abs(radii->first), std::abs(radii->second)});
    }
    for (const double turn : {1.0, -1.0}) {
        if (turn < 0 && !both_signs) break;
        std::vector<Point> inner, outer;
        for (int i = 0; i <= places; ++i) {
            const double z = z0 + (z1 - z0) * i / places, r = radius[static_cast<std::size_t>(i)];
            inner.push_back({turn * r, z});
            outer.push_back({turn * (r + wall_mm), z});
            picture.r_mm = std::max(picture.r_mm, r + wall_mm);
        }
        inner.insert(inner.end(), outer.rbegin(), outer.rend());
        picture.section.regions.push_back({name_of(place), "", Outline::polygon(inner)});
    }
    picture.parts.push_back({place, name_of(place), "sleeve"});
}

std::optional<std::pair<double, double>> outer_cover_span(const PreparedDesign& p, const CutPlan& plan) {
    const double lap = work_number(p.design.work, "outer_lap_mm");
    const auto *a = plan.find(MarkKind::jacket_cut, CableSide::a),
               *b = plan.find(MarkKind::jacket_cut, CableSide::b);
    if (!a) return {};
    return std::pair(a->z_mm - lap, b ? b->z_mm + lap : p.built.view_z1_mm);
}

StagePicture stage_picture(const PreparedDesign& p, const CutPlan& plan, const SheetStep& step) {
    StagePicture out;
    const auto& built = p.built;
    out.z0_mm = built.view_z0_mm;
    out.z1_mm = built.view_z1_mm;
    for (const auto& m : plan.marks) { // far marks too, such as the jacket's on the long side
        out.z0_mm = std::min(out.z0_mm, m.z_mm - 20);
        out.z1_mm = std::max(out.z1_mm, m.z_mm + 20);
    }
    const auto shown = [&](const PlaceId& place) { // the cable itself is drawn as it is cut
        return !is_cable_layer(place.kind) &&
               std::find(step.laid.begin(), step.laid.end(), place) != step.laid.end();
    };
    std::set<std::string> names;
    for (const auto& part : built.parts)
        if (shown(part.place)) names.insert(name_of(part.place));
    for (const auto& region : built.section.regions)
        if (names.contains(region.name)) out.section.regions.push_back(region);
    for (const auto side : {CableSide::a, CableSide::b}) {
        const auto* end = plan.find(MarkKind::cable_end, side);
        if (!end) continue;
        const double sign = side == CableSide::a ? 1 : -1; // towards the cable end
        const double far = side == CableSide::a ? out.z0_mm : out.z1_mm;
        const auto& d = p.context().dimensions_of(side);
        const auto drawn_side = side == CableSide::a ? Side::none : Side::b;
        const auto end_of = [&](MarkKind kind) {
            const auto* m = plan.find(kind, side);
            return m && step.cut.contains(kind) ? m->z_mm : end->z_mm;
        };
        struct Layer {
            PlaceId place;
            const char* hatch;
            double inner, outer, end;
        };
        const auto* cover = plan.find(MarkKind::jacket_cut, side);
        const double jacket_end = step.cut.contains(MarkKind::jacket_cut) && cover ? cover->z_mm : end->z_mm;
        const Layer layers[] = {
            {place::jacket, "jacket", d.radius_mm("metallic screen"), d.radius_mm("jacket"), jacket_end},
            {place::metallic_screen, "metal", d.radius_mm("insulation screen"),
             d.radius_mm("metallic screen"), end_of(MarkKind::metallic_cut)},
            {place::insulation_screen, "semiconductor", d.radius_mm("insulation"),
             d.radius_mm("insulation screen"), end_of(MarkKind::screen_edge)},
            {place::insulation, "insulation", d.radius_mm("conductor screen"), d.radius_mm("insulation"),
             end_of(MarkKind::insulation_end)},
            {place::conductor, "metal", 0, d.radius_mm("conductor"), end->z_mm}};
        for (const auto& layer : layers) {
            if (sign * (layer.end - far) <= 0) continue; // cut back beyond what is shown
            std::vector<Point> points{
                {layer.inner, far}, {layer.outer, far}, {layer.outer, layer.end}, {layer.inner, layer.end}};
            if (layer.place == place::insulation && step.cut.contains(MarkKind::pencil_start))
                if (const auto* pencil = plan.find(MarkKind::pencil_start, side))
                    points = {{layer.inner, far},
                              {layer.outer, far},
                              {layer.outer, pencil->z_mm},
                              {layer.inner + 0.3, layer.end},
                              {layer.inner, layer.end}};
            const auto here = layer.place.on(drawn_side);
            out.section.regions.push_back({name_of(here), "", Outline::polygon(points)});
            out.parts.push_back({here, name_of(layer.place), layer.hatch, false});
        }
        out.r_mm = std::max(out.r_mm, d.radius_mm("jacket"));
    }
    for (const auto& electrode : built.section.electrodes)
        if (names.contains(electrode.name)) out.section.electrodes.push_back(electrode);
    for (const auto& part : built.parts)
        if (shown(part.place)) out.parts.push_back(part);
    out.r_mm = std::max(out.r_mm, built.view_r_mm);
    if (step.laid_at(place::rejacketing_sleeve) && !has_whole_end(p))
        if (const auto span = outer_cover_span(p, plan)) {
            add_outer_cover(out, place::rejacketing_sleeve, span->first, span->second, false);
            out.z0_mm = std::min(out.z0_mm, span->first - 20);
            if (plan.two_sides()) out.z1_mm = std::max(out.z1_mm, span->second + 20);
        }
    return out;
}

} // namespace ng
