// Shapes as polygons combined, and lines offset (Vatti's clipping, by libpolyclipping). Coordinates are
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
/// `line` moved to its right by `by_mm` (towards +r for a line in +z), ends square; corners mitred up to
/// `longest_mitre` times as far, then cut off. Empty: the line folds so closely that its right side does not
/// lead from one end to the other.
std::vector<Point> beside(const std::vector<Point>& line, double by_mm, double longest_mitre);

} // namespace ng
