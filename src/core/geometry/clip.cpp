#include "geometry/clip.h"
#include "units/promise.h"
#include <cmath>
#include <polyclipping/clipper.hpp>

namespace ng {
namespace {
using ClipperLib::Path;
using ClipperLib::Paths;

Path on_grid(const Polygon& polygon) {
    Path out;
    for (const auto& p : polygon) {
        promise(std::abs(p.r) < 1e6 && std::abs(p.z) < 1e6, "shapes to be clipped lie within a kilometre");
        out.emplace_back(std::llround(p.r / clip_grid_mm), std::llround(p.z / clip_grid_mm));
    }
    if (!ClipperLib::Orientation(out)) ClipperLib::ReversePath(out);
    return out;
}

std::vector<Polygon> outer_borders(const Paths& paths) {
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
    Paths paths;
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

std::vector<Polygon> grown(const Polygon& shape, double by_mm, double chord_within_mm) {
    ClipperLib::ClipperOffset offset(2, chord_within_mm / clip_grid_mm);
    offset.AddPath(on_grid(shape), ClipperLib::jtRound, ClipperLib::etClosedPolygon);
    Paths paths;
    offset.Execute(paths, by_mm / clip_grid_mm);
    return outer_borders(paths);
}

} // namespace ng
