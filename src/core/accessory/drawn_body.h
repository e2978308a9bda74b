// A moulded body as it sits on the cable: every point of the drawing moved outwards as rubber moves that is
// stretched over what it lies on.
#pragma once
#include "accessory/profile.h"
#include "document/body_drawing.h"

namespace ng {

/// Where a drawing lies on the cable, and how it is changed before it is stretched.
struct BodyPlacement {
    double origin_z_mm = 0; ///< of the drawing's origin, in the section
    bool towards_plus_z = true;
    double shrinkage = 1;     ///< finished size over drawn size, of the moulding
    double axial_stretch = 1; ///< length on the cable over free length

    /// Where a point of the drawing comes to lie before the bore is stretched.
    Point placed(Point drawn) const;
};

/// Rubber keeps its volume: of a slice whose bore of radius b goes onto a cable of radius R, a point at r
/// comes to r' = sqrt(R^2 + (r^2 - b^2) / l), l being the axial stretch (a tube that is incompressible and
/// stretched evenly along its length; Treloar, "The physics of rubber elasticity"). Where the bore is wider
/// than the cable it stays as it is.
///
/// Not good for: bodies that bulge where only a part of them is stretched (shear between neighbouring slices
/// is left out), bores with steps steeper than `steepest_bore`.
class FittedBody {
  public:
    /// `under`: what it lies on, steps spanned. Refuses a bore with steps, a body that ends where nothing is.
    static Result<FittedBody> fit(const BodyDrawing& drawing, const BodyPlacement& placement,
                                  const Profile& lying);

    double z0() const { return z0_; }
    double z1() const { return z1_; }
    /// What it lies on, its steps spanned.
    const Profile& under() const { return under_; }
    /// The bore as it lies: on `under`, or above it where it is wider.
    const Profile& bore() const { return bore_; }
    double greatest_stretch() const { return greatest_stretch_; } ///< of the bore, over its free radius
    double smallest_free_bore_mm() const { return smallest_bore_; }
    double wall_at_bore_mm() const { return wall_; } ///< free, where the bore is smallest

    /// An outline of the drawing on the cable: lines and arcs divided so that they lie within
    /// `fitted_within_mm`; arcs stay arcs, named by `name` with their number where that is given.
    Outline on_cable(const Outline& drawn, const std::function<std::string()>& name = {}) const;

  private:
    Point stretched(Point placed) const;

    BodyPlacement placement_;
    std::vector<double> breaks_; ///< z where bore or cable change their slope
    double z0_ = 0, z1_ = 0, greatest_stretch_ = 1, smallest_bore_ = 0, wall_ = 0;
    Profile under_{{}}, free_bore_{{}}, bore_{{}};
};
constexpr double fitted_within_mm = 0.01, steepest_bore = 6;

} // namespace ng
