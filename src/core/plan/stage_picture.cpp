#include "plan/sheet.h"
#include <algorithm>

namespace ng {

StagePicture stage_picture(const PreparedDesign& p, const CutPlan& plan, const SheetStep& step) {
    StagePicture out;
    const auto& built = p.built;
    out.z0_mm = built.view_z0_mm;
    out.z1_mm = built.view_z1_mm;
    for (const auto& m : plan.marks) { // far marks too, such as the jacket's on the long side
        out.z0_mm = std::min(out.z0_mm, m.z_mm - 20);
        out.z1_mm = std::max(out.z1_mm, m.z_mm + 20);
    }
    const auto is_cable = [&](const std::string& name) {
        for (const auto& layer :
             {"jacket", "metallic screen", "insulation screen", "insulation", "conductor"})
            for (const char* tag : {"", " A", " B"})
                if (name == std::string(layer) + tag) return true;
        return false;
    };
    const auto laid = [&](const std::string& name) {
        return std::find(step.laid.begin(), step.laid.end(), name) != step.laid.end();
    };
    for (const auto& region : built.section.regions)
        if (!is_cable(region.name) && laid(region.name)) out.section.regions.push_back(region);
    for (const auto side : {CableSide::a, CableSide::b}) {
        const auto* end = plan.find(MarkKind::cable_end, side);
        if (!end) continue;
        const double sign = side == CableSide::a ? 1 : -1; // towards the cable end
        const double far = side == CableSide::a ? out.z0_mm : out.z1_mm;
        const auto& d = p.context().dimensions_of(side);
        const std::string tag = side == CableSide::a ? "" : " B";
        const auto end_of = [&](MarkKind kind) {
            const auto* m = plan.find(kind, side);
            return m && step.cut.contains(kind) ? m->z_mm : end->z_mm;
        };
        struct Layer {
            const char* name;
            const char* hatch;
            double inner, outer, end;
        };
        const auto* cover = plan.find(MarkKind::jacket_cut, side);
        const double jacket_end = step.cut.contains(MarkKind::jacket_cut) && cover ? cover->z_mm : end->z_mm;
        const Layer layers[] = {
            {"jacket", "jacket", d.radius_mm("metallic screen"), d.radius_mm("jacket"), jacket_end},
            {"metallic screen", "metal", d.radius_mm("insulation screen"), d.radius_mm("metallic screen"),
             end_of(MarkKind::metallic_cut)},
            {"insulation screen", "semiconductor", d.radius_mm("insulation"),
             d.radius_mm("insulation screen"), end_of(MarkKind::screen_edge)},
            {"insulation", "insulation", d.radius_mm("conductor screen"), d.radius_mm("insulation"),
             end_of(MarkKind::insulation_end)},
            {"conductor", "metal", 0, d.radius_mm("conductor"), end->z_mm}};
        for (const auto& layer : layers) {
            if (sign * (layer.end - far) <= 0) continue; // cut back beyond what is shown
            std::vector<Point> points{
                {layer.inner, far}, {layer.outer, far}, {layer.outer, layer.end}, {layer.inner, layer.end}};
            if (std::string(layer.name) == "insulation" && step.cut.contains(MarkKind::pencil_start))
                if (const auto* pencil = plan.find(MarkKind::pencil_start, side))
                    points = {{layer.inner, far},
                              {layer.outer, far},
                              {layer.outer, pencil->z_mm},
                              {layer.inner + 0.3, layer.end},
                              {layer.inner, layer.end}};
            out.section.regions.push_back({layer.name + tag, "", Outline::polygon(points)});
            out.parts.push_back({layer.name + tag, layer.name, layer.hatch, false});
        }
        out.r_mm = std::max(out.r_mm, d.radius_mm("jacket"));
    }
    for (const auto& electrode : built.section.electrodes)
        if (!is_cable(electrode.name) && laid(electrode.name)) out.section.electrodes.push_back(electrode);
    for (const auto& part : built.parts)
        if (!is_cable(part.region) && laid(part.region)) out.parts.push_back(part);
    out.r_mm = std::max(out.r_mm, built.view_r_mm);
    return out;
}

} // namespace ng
