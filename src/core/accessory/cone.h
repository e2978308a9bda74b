// Earthed stress cones: profiles of the flare, and the conductive body that carries it.
#pragma once
#include "accessory/cable_end.h"

namespace ng {

/// The flare rises from the insulation radius by `rise_mm` over `length_mm`.
struct ConeShape {
    std::string kind = "straight"; ///< "straight", "constant_axial", "constant_tangential" or "arc"
    double length_mm = 50;
    double rise_mm = 10;
};

/// What the closed forms need to know of the cable and of the body round it.
struct ConeSurroundings {
    double conductor_screen_radius_mm;
    double insulation_radius_mm;
    double insulation_eps_r;
    double body_eps_r;
};

/// Points of the flare, x along the axis from its start as z, in rising x: `steps` + 1, the first of them
/// replaced by the chords of a fillet (radius 5 mm, less where the flare is short) towards the bore, which
/// begins a little before 0.
std::vector<Point> flare(const ConeShape& shape, const ConeSurroundings& around, int steps = 24);

/// Tangential stress on the insulation that the constant-tangential form gives a cone of this length and
/// rise.
double cone_tangential_kV_per_mm(const ConeShape& shape, const ConeSurroundings& around, double voltage_kV);

/// Closed outline of a deflector whose flare starts on the insulation at `start_z` and rises towards +z. Its
/// tip is rounded by `tip_radius_mm` (the tip of `place`), tangent to the flare; behind it lies down to
/// `base_z` at the tip's outer radius.
Outline deflector_outline(const std::vector<Point>& flare, double start_z, double base_z,
                          double tip_radius_mm, const PlaceId& place);
/// The flare where it is clear of `beneath`, what lies under it: two points or more, or none.
std::vector<Point> exposed_flare(const std::vector<Point>& flare, double start_z, const Profile& beneath);
/// Whether the flare leaves the rounded edge of the screen uncovered.
bool edge_stands_out(const std::vector<Point>& flare, double start_z, const CableEnd& end);
/// Greatest radius and z of that outline.
Point deflector_tip(const std::vector<Point>& flare, double start_z, double tip_radius_mm);

} // namespace ng
