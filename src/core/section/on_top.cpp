#include "section/on_top.h"

namespace ng {

std::vector<PaintedShape> topmost_first(const Section& section) {
    std::vector<PaintedShape> out;
    const auto add_regions = [&](bool over_electrodes) {
        for (std::size_t k = section.regions.size(); k-- > 0;)
            if (section.regions[k].covers_electrodes == over_electrodes) out.push_back({false, k});
    };
    add_regions(true);
    for (std::size_t k = section.electrodes.size(); k-- > 0;) out.push_back({true, k});
    add_regions(false);
    return out;
}

OnTop::OnTop(const Section& section, double step_rad) {
    for (const auto& [electrode, k] : topmost_first(section)) {
        const auto& name = electrode ? section.electrodes[k].name : section.regions[k].name;
        const auto& outline = electrode ? section.electrodes[k].outline : section.regions[k].outline;
        shapes_.emplace_back(&name, polygon_of(outline, step_rad));
    }
}

const std::string* OnTop::at(Point p) const {
    for (const auto& [name, polygon] : shapes_)
        if (inside_polygon(polygon, p)) return name;
    return nullptr;
}

} // namespace ng
