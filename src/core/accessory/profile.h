// Outer profile of what lies on the cable so far: radius against z. Parts are laid over it one by one, as a
// jointer does; a tube spans a step instead of following it, and what it spans stays open unless it is
// filled.
#pragma once
#include "section/section.h"
#include <functional>
#include <vector>

namespace ng {

/// A rounded metal edge that touches a surface leaves a zero-angle cusp; it is cut off where the gap is this
/// small.
constexpr double truncated_cusp_gap_mm = 0.02;
/// Length over which a recovered tube spans a step, per mm of step height (common practice, no source).
constexpr double bridge_length_per_height = 1.5;

/// Mirror image at z = 0, in rising z again.
std::vector<Point> mirrored(std::vector<Point> points);

/// Profiles nearer than this are taken as touching.
constexpr double touching_mm = 0.01;

class Profile {
  public:
    /// Points in rising z; two points of equal z make a step.
    explicit Profile(std::vector<Point> points) : points_(std::move(points)) {}

    const std::vector<Point>& points() const { return points_; }
    /// Radius at z; at a step the larger one.
    double radius(double z_mm) const;
    /// The part between z0 and z1.
    Profile between(double z0_mm, double z1_mm) const;
    /// With every step and slope steeper than 1 / `length_per_height` spanned: a tube by the default, a tape
    /// that follows closely by less.
    Profile spanned(double length_per_height = bridge_length_per_height) const;
    /// Each radius passed through `outer` (wall added).
    Profile grown(const std::function<double(double)>& outer) const;
    /// This profile with `part` in place of what it covers.
    Profile covered_by(const Profile& part) const;
    /// This profile where it lies above `floor`, the floor elsewhere and where the two all but touch: no
    /// slivers.
    Profile above(const Profile& floor) const;
    /// Closed outline from `inner_radius_mm` up to the profile.
    Outline down_to(double inner_radius_mm) const;
    /// z itself, or that of a point all but there: ends a thousandth of a millimetre apart are one end.
    double place_near(double z_mm) const;
    /// The point of the profile there.
    Point at_or_near(double z_mm) const { return {radius(place_near(z_mm)), place_near(z_mm)}; }
    double greatest_radius() const;
    double smallest_radius() const;

  private:
    std::vector<Point> points_;
};

} // namespace ng
