// Closed shapes of straight lines and arcs, and what is asked of them.
#pragma once
#include "geometry/point.h"
#include "units/result.h"
#include <optional>
#include <string>
#include <tuple>
#include <vector>

namespace ng {

/// One step of an outline: a straight line to `to`, or an arc about `centre`. An arc takes the shorter way
/// round; `clockwise` (seen with r to the right and z up) decides where that is not meant or is ambiguous.
struct OutlineStep {
    Point to;
    std::optional<Point> centre;
    std::optional<bool> clockwise;
    std::string name; ///< of an arc on an electrode: how its peak is reported
    auto fields() const { return std::tie(to, centre, clockwise, name); }
    friend bool operator==(const OutlineStep&, const OutlineStep&) = default;
};

/// A closed shape; the last point joins the first.
struct Outline {
    Point start;
    std::vector<OutlineStep> steps;

    static Outline polygon(const std::vector<Point>& points);
    Outline& line_to(Point to);
    Outline& arc_to(Point to, Point centre, std::string name = {});
    auto fields() const { return std::tie(start, steps); }
    friend bool operator==(const Outline&, const Outline&) = default;
};

/// An arc in angles: from `start_rad` through `sweep_rad` (signed, counter-clockwise positive) about
/// `centre`.
struct Arc {
    Point centre;
    double radius_mm = 0;
    double start_rad = 0;
    double sweep_rad = 0;
    Point at(double angle_rad) const;
};

/// The arc of a step that begins at `from`. Refuses unequal radii and an ambiguous half circle.
Result<Arc> resolve_arc(Point from, const OutlineStep& step);

/// Chords of an outline as a closed polygon (last point not repeated): arcs in steps of at most
/// `max_step_rad`, halved on large arcs until chords lie within 0.02 mm of them, at angles that are whole
/// multiples of it, so that two outlines sharing an arc share its vertices.
std::vector<Point> polygon_of(const Outline& outline, double max_step_rad);

/// Two lines of a polygon (each from the point of its number to the next) that cross, and about where.
struct SelfCrossing {
    Point at;
    std::size_t first, second;
};
/// Where an outline crosses itself, by a tree of its lines (Boost.Geometry): none is held against all others.
/// Lines that touch, or share an end, do not cross.
std::optional<SelfCrossing> self_crossing(const std::vector<Point>& polygon);

/// Crossing-number test.
bool inside_polygon(const std::vector<Point>& polygon, Point p);

/// Least and greatest r of a closed polygon at this z; none: it does not reach there.
std::optional<std::pair<double, double>> span_at(const std::vector<Point>& polygon, double z);

/// Signed area in mm^2, counter-clockwise positive.
double signed_area(const std::vector<Point>& polygon);

} // namespace ng
