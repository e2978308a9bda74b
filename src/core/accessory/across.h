// Shapes of planar sections across the axis.
#pragma once
#include "accessory/family.h"

namespace ng {

/// Circle of four arcs; arcs named where `name` is given.
Outline circle(Point centre, double radius_mm, const std::string& name = {});
/// What lies within `radius_mm` of the segment from -half_mm to half_mm on the z axis (0: a circle).
Outline stadium_outline(double half_mm, double radius_mm);
/// Points round it, closed: first point repeated.
std::vector<Point> stadium(double half_mm, double radius_mm, int per_half_turn = 48);
/// Points round a circle, first one repeated.
std::vector<Point> ring(Point centre, double radius_mm, int count = 96);
/// Outline of a closed ring of points.
Outline closed(std::vector<Point> points);

} // namespace ng
