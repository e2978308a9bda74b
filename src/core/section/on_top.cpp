#include "section/on_top.h"

namespace ng {

OnTop::OnTop(const Section& section, double step_rad) {
    const auto add_regions = [&](bool over_electrodes) {
        for (auto it = section.regions.rbegin(); it != section.regions.rend(); ++it)
            if (it->covers_electrodes == over_electrodes)
                shapes_.emplace_back(&it->name, polygon_of(it->outline, step_rad));
    };
    add_regions(true);
    for (auto it = section.electrodes.rbegin(); it != section.electrodes.rend(); ++it)
        shapes_.emplace_back(&it->name, polygon_of(it->outline, step_rad));
    add_regions(false);
}

const std::string* OnTop::at(Point p) const {
    for (const auto& [name, polygon] : shapes_)
        if (inside_polygon(polygon, p)) return name;
    return nullptr;
}

} // namespace ng
