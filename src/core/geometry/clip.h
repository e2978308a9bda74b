// Shapes as polygons combined, and grown or shrunk (Vatti's clipping, by libpolyclipping). Coordinates are
// whole multiples of `clip_grid_mm`, no point lies more than a kilometre away; arcs are divided beforehand
// (polygon_of).
#pragma once
#include "geometry/point.h"
#include <vector>

namespace ng {

using Polygon = std::vector<Point>; ///< last point not repeated
constexpr double clip_grid_mm = 1e-6;

/// Outer borders of all together, counter-clockwise; holes are left out.
std::vector<Polygon> united(const std::vector<Polygon>& shapes);
/// What of `shape` lies outside all of `others`; outer borders.
std::vector<Polygon> without(const Polygon& shape, const std::vector<Polygon>& others);
/// Grown by `by_mm` (shrunk: below 0), corners rounded by chords within `chord_within_mm` of their arcs.
std::vector<Polygon> grown(const Polygon& shape, double by_mm, double chord_within_mm = 0.01);

} // namespace ng
