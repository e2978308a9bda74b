#include "geometry/outline.h"
#include <algorithm>
#include <boost/geometry/core/cs.hpp>
#include <boost/geometry/geometries/box.hpp>
#include <boost/geometry/geometries/point.hpp>
#include <boost/geometry/index/rtree.hpp>
#include <fmt/format.h>
#include <numbers>

namespace ng {
using std::numbers::pi;
namespace {

/// Chords of a large arc stay this near to it (those at its ends twice), so that outlines 0.05 mm apart do
/// not cross.
constexpr double largest_sagitta_mm = 0.01;
constexpr double smallest_step_rad = 0.003; // arcs of metres, which no accessory has, stay as coarse

constexpr double touching_mm = 1e-4; // lines that reach no further over each other only touch

/// Two segments cross in their interiors (touching and shared ends are allowed).
bool properly_cross(Point a, Point b, Point c, Point d) {
    const Point u = b - a, v = d - c;
    const double scale = length(u) * length(v);
    const double denominator = cross(u, v);
    if (std::abs(denominator) < 1e-12 * scale) return false;
    const double s = cross(c - a, v) / denominator, t = cross(c - a, u) / denominator;
    const double es = touching_mm / length(u), et = touching_mm / length(v);
    return s > es && s < 1 - es && t > et && t < 1 - et;
}

} // namespace

Outline Outline::polygon(const std::vector<Point>& points) {
    Outline outline;
    if (points.empty()) return outline;
    outline.start = points.front();
    for (std::size_t i = 1; i < points.size(); ++i) outline.line_to(points[i]);
    return outline;
}

Outline& Outline::line_to(Point to) {
    steps.push_back({to, {}, {}, {}});
    return *this;
}

Outline& Outline::arc_to(Point to, Point centre, std::string name) {
    steps.push_back({to, centre, {}, std::move(name)});
    return *this;
}

Point Arc::at(double angle_rad) const {
    return {centre.r + radius_mm * std::cos(angle_rad), centre.z + radius_mm * std::sin(angle_rad)};
}

Result<Arc> resolve_arc(Point from, const OutlineStep& step) {
    const Point a = from - *step.centre, b = step.to - *step.centre;
    const double radius = length(a);
    if (!(radius > 0) || std::abs(length(b) - radius) > 1e-3 * radius + 1e-6)
        return refuse(
            {},
            fmt::format("arc to [{}, {}] has radius {:.4g} mm at its start and {:.4g} mm at its end",
                        step.to.r, step.to.z, radius, length(b)),
            "Move the centre so that both are equal");
    const double start = std::atan2(a.z, a.r);
    double sweep = std::atan2(b.z, b.r) - start;
    while (sweep <= -pi) sweep += 2 * pi;
    while (sweep > pi) sweep -= 2 * pi;
    if (!step.clockwise && std::abs(std::abs(sweep) - pi) < 1e-6)
        return refuse(
            {}, fmt::format("arc to [{}, {}] is a half circle: its side is ambiguous", step.to.r, step.to.z),
            "Add \"clockwise\": true or false");
    if (step.clockwise && *step.clockwise && sweep > 0) sweep -= 2 * pi;
    if (step.clockwise && !*step.clockwise && sweep < 0) sweep += 2 * pi;
    if (std::abs(sweep) < 1e-9)
        return refuse({}, fmt::format("arc to [{}, {}] has no length", step.to.r, step.to.z), "Remove it");
    return Arc{*step.centre, radius, start, sweep};
}

std::vector<Point> polygon_of(const Outline& outline, double max_step_rad) {
    std::vector<Point> points{outline.start};
    Point at = outline.start;
    for (const auto& step : outline.steps) {
        if (step.centre) {
            if (const auto arc = resolve_arc(at, step)) {
                double step_rad = max_step_rad;
                while (arc->radius_mm * step_rad * step_rad > 8 * largest_sagitta_mm &&
                       step_rad > 2 * smallest_step_rad)
                    step_rad /= 2;
                // Whole multiples of the step between the ends, none closer to an end than a third of it.
                const double sign = arc->sweep_rad > 0 ? 1 : -1;
                const double first = sign * arc->start_rad, last = first + std::abs(arc->sweep_rad);
                for (double k = std::ceil(first / step_rad + 1.0 / 3); k * step_rad < last - step_rad / 3;
                     ++k)
                    points.push_back(arc->at(sign * k * step_rad));
            }
        }
        points.push_back(step.to);
        at = step.to;
    }
    if (points.size() > 1 && distance(points.front(), points.back()) < 1e-9) points.pop_back();
    return points;
}

bool inside_polygon(const std::vector<Point>& polygon, Point p) {
    bool inside = false;
    for (std::size_t i = 0, j = polygon.size() - 1; i < polygon.size(); j = i++) {
        const Point a = polygon[i], b = polygon[j];
        if ((a.z > p.z) != (b.z > p.z) && p.r < (b.r - a.r) * (p.z - a.z) / (b.z - a.z) + a.r)
            inside = !inside;
    }
    return inside;
}

std::optional<std::pair<double, double>> span_at(const std::vector<Point>& polygon, double z) {
    std::optional<std::pair<double, double>> out;
    const auto take = [&](double r) {
        if (!out) out = {r, r};
        out->first = std::min(out->first, r);
        out->second = std::max(out->second, r);
    };
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const Point a = polygon[i], b = polygon[(i + 1) % polygon.size()];
        if ((a.z - z) * (b.z - z) > 0) continue;
        if (a.z == b.z) {
            take(a.r);
            take(b.r);
        } else {
            take(a.r + (b.r - a.r) * (z - a.z) / (b.z - a.z));
        }
    }
    return out;
}

double signed_area(const std::vector<Point>& polygon) {
    double twice = 0;
    for (std::size_t i = 0, j = polygon.size() - 1; i < polygon.size(); j = i++)
        twice += cross(polygon[j], polygon[i]);
    return twice / 2;
}

std::optional<SelfCrossing> self_crossing(const std::vector<Point>& polygon) {
    namespace geometry = boost::geometry;
    using Corner = geometry::model::point<double, 2, geometry::cs::cartesian>;
    using Box = geometry::model::box<Corner>;
    using Line = std::pair<Box, std::size_t>;
    const auto ends = [&](std::size_t i) { return std::pair(polygon[i], polygon[(i + 1) % polygon.size()]); };
    std::vector<Line> lines;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const auto [a, b] = ends(i);
        lines.emplace_back(
            Box({std::min(a.r, b.r), std::min(a.z, b.z)}, {std::max(a.r, b.r), std::max(a.z, b.z)}), i);
    }
    const geometry::index::rtree<Line, geometry::index::quadratic<16>> tree(lines);
    for (const auto& [box, i] : lines) {
        const auto [a, b] = ends(i);
        for (auto it = tree.qbegin(geometry::index::intersects(box)); it != tree.qend(); ++it) {
            if (it->second <= i) continue;
            const auto [c, d] = ends(it->second);
            if (properly_cross(a, b, c, d)) return SelfCrossing{0.5 * (c + d), i, it->second};
        }
    }
    return std::nullopt;
}

} // namespace ng
