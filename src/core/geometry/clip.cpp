#include "geometry/clip.h"
#include "units/promise.h"
#include <algorithm>
#include <cmath>
#include <polyclipping/clipper.hpp>

namespace ng {
namespace {

ClipperLib::Path to_grid(const std::vector<Point>& points) {
    ClipperLib::Path out;
    for (const auto& p : points) {
        promise(std::abs(p.r) < 1e6 && std::abs(p.z) < 1e6, "shapes to be clipped lie within a kilometre");
        out.emplace_back(std::llround(p.r / clip_grid_mm), std::llround(p.z / clip_grid_mm));
    }
    return out;
}

ClipperLib::Path on_grid(const Polygon& polygon) {
    auto out = to_grid(polygon);
    if (!ClipperLib::Orientation(out)) ClipperLib::ReversePath(out);
    return out;
}

std::vector<Polygon> outer_borders(const ClipperLib::Paths& paths) {
    std::vector<Polygon> out;
    for (const auto& path : paths) {
        if (!ClipperLib::Orientation(path)) continue; // a hole
        Polygon polygon;
        for (const auto& p : path)
            polygon.push_back(
                {static_cast<double>(p.X) * clip_grid_mm, static_cast<double>(p.Y) * clip_grid_mm});
        out.push_back(std::move(polygon));
    }
    return out;
}

std::vector<Polygon> combine(ClipperLib::ClipType how, const std::vector<Polygon>& subjects,
                             const std::vector<Polygon>& clips) {
    ClipperLib::Clipper clipper;
    for (const auto& shape : subjects) clipper.AddPath(on_grid(shape), ClipperLib::ptSubject, true);
    for (const auto& shape : clips) clipper.AddPath(on_grid(shape), ClipperLib::ptClip, true);
    ClipperLib::Paths paths;
    clipper.Execute(how, paths, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    return outer_borders(paths);
}

} // namespace

std::vector<Polygon> united(const std::vector<Polygon>& shapes) {
    return combine(ClipperLib::ctUnion, shapes, {});
}

std::vector<Polygon> without(const Polygon& shape, const std::vector<Polygon>& others) {
    return combine(ClipperLib::ctDifference, {shape}, others);
}

std::vector<Point> beside(const std::vector<Point>& line, double by_mm, double longest_mitre) {
    promise(line.size() >= 2 && by_mm > 0, "a line with a length, and a distance from it");
    ClipperLib::ClipperOffset offset(longest_mitre);
    offset.AddPath(to_grid(line), ClipperLib::jtMiter, ClipperLib::etOpenButt);
    ClipperLib::Paths paths;
    offset.Execute(paths, by_mm / clip_grid_mm);
    const auto right_of = [&](Point at, Point direction) {
        return at + (by_mm / length(direction)) * Point{direction.z, -direction.r};
    };
    const Point first = right_of(line.front(), line[1] - line[0]),
                last = right_of(line.back(), line.back() - line[line.size() - 2]);
    for (const auto& band : outer_borders(paths)) { // counter-clockwise: along the line on its right
        const auto nearest = [&](Point p) {
            return std::min_element(band.begin(), band.end(),
                                    [&](Point a, Point b) { return distance(a, p) < distance(b, p); });
        };
        const auto from = nearest(first), to = nearest(last);
        if (distance(*from, first) > 0.01 * by_mm || distance(*to, last) > 0.01 * by_mm) continue;
        std::vector<Point> out(from, to < from ? band.end() : to + 1);
        if (to < from) out.insert(out.end(), band.begin(), to + 1);
        return out;
    }
    return {};
}

} // namespace ng
