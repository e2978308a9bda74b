#include "section/on_top.h"
#include <algorithm>

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
        Shape shape{&name, polygon_of(outline, step_rad), {}};
        shape.box.take(shape.polygon);
        shapes_.push_back(std::move(shape));
    }
}

const std::string* OnTop::at(Point p) const {
    for (const auto& shape : shapes_)
        if (shape.box.holds(p) && inside_polygon(shape.polygon, p)) return shape.name;
    return nullptr;
}

std::vector<OnTop::Layer> OnTop::along_radius(double z, double end_mm) const {
    constexpr double least_mm = 1e-6; // thinner is rounding
    std::vector<double> borders{0};
    for (const auto& [name, polygon, box] : shapes_)
        for (std::size_t i = 0; i < polygon.size(); ++i) {
            const Point a = polygon[i], b = polygon[(i + 1) % polygon.size()];
            if ((a.z <= z) == (b.z <= z)) continue;
            const double r = a.r + (z - a.z) / (b.z - a.z) * (b.r - a.r);
            if (r > 0 && r < end_mm) borders.push_back(r);
        }
    std::sort(borders.begin(), borders.end());
    std::vector<Layer> out;
    const std::string* inner = nullptr;
    for (std::size_t i = 0; i + 1 < borders.size(); ++i) {
        if (borders[i + 1] - borders[i] < least_mm) continue;
        const auto* here = at({0.5 * (borders[i] + borders[i + 1]), z});
        if (here && here == inner)
            out.back().outer_mm = borders[i + 1];
        else if (here)
            out.push_back({here, borders[i + 1]});
        inner = here;
    }
    return out;
}

} // namespace ng
