#include "accessory/across.h"
#include <cmath>
#include <numbers>

namespace ng {

Outline circle(Point c, double r, const std::string& name) {
    Outline out;
    out.start = {c.r + r, c.z};
    out.arc_to({c.r, c.z + r}, c, name).arc_to({c.r - r, c.z}, c, name).arc_to({c.r, c.z - r}, c, name);
    return out.arc_to({c.r + r, c.z}, c, name);
}

Outline stadium_outline(double half_mm, double radius_mm) {
    const Point above{0, half_mm}, below{0, -half_mm};
    Outline out;
    out.start = {-radius_mm, half_mm};
    out.arc_to({0, half_mm + radius_mm}, above)
        .arc_to({radius_mm, half_mm}, above)
        .line_to({radius_mm, -half_mm});
    return out.arc_to({0, -half_mm - radius_mm}, below).arc_to({-radius_mm, -half_mm}, below);
}

std::vector<Point> stadium(double half_mm, double radius_mm, int n) {
    std::vector<Point> out;
    for (int turn = 0; turn < 2; ++turn)
        for (int i = 0; i <= n; ++i) {
            const double angle = std::numbers::pi * (-0.5 + turn + static_cast<double>(i) / n);
            out.push_back(
                {radius_mm * std::sin(angle), (turn ? -half_mm : half_mm) + radius_mm * std::cos(angle)});
        }
    out.push_back(out.front());
    return out;
}

std::vector<Point> ring(Point centre, double radius_mm, int count) {
    std::vector<Point> out;
    for (int i = 0; i <= count; ++i) {
        const double angle = 2 * std::numbers::pi * (i % count) / count;
        out.push_back({centre.r + radius_mm * std::cos(angle), centre.z + radius_mm * std::sin(angle)});
    }
    return out;
}

Outline closed(std::vector<Point> points) {
    points.pop_back();
    return Outline::polygon(points);
}

} // namespace ng
