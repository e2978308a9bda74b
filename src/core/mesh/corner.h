// How the field behaves at a corner: the order k of the potential r^k there, from the sectors of material
// round it.
//
// Source: separation of variables at a corner of several sectors (any textbook on corner singularities;
// Grisvard, "Elliptic Problems in Nonsmooth Domains", 1985; for two dielectrics on metal: Meixner, IEEE
// Trans. Antennas Propag. 20, 1972). Plane corners: right too for a corner off the axis of an axisymmetric
// section, since near enough it is plane.
#pragma once
#include <span>

namespace ng {

/// A wedge of one material at a corner.
struct Sector {
    double weight = 1; ///< what decides how the field bends: permittivity, or |sigma + j omega eps|; above 0
    double angle_rad = 0; ///< above 0
};

/// What lies beyond the first or the last sector: a conductor (potential fixed), or a line of symmetry (no
/// normal field).
enum class SectorEnd { metal, symmetry };

/// Smallest order k > 0 of the potential, r^k, in sectors that follow one another between two ends; 2 stands
/// for 2 and above. Below 1 the field grows as r^(k - 1) without a limit, above 1 it falls to nothing.
double corner_order(std::span<const Sector> sectors, SectorEnd first, SectorEnd last);

/// The same for sectors that close round the corner; at most 1.
double closed_corner_order(std::span<const Sector> sectors);

/// Order at the tip of a metal cone on the axis of an axisymmetric section, the dielectric filling
/// `angle_rad` between the axis and the metal; at most 2. Exact where the tip is nearly flat (1 - (angle -
/// pi/2), from the Legendre function's slope at order 1), for sharper tips only right in that it is far
/// below 1.
double cone_tip_order(double angle_rad);

/// Chosen: a figure that grows by less than this for each tenfold smaller distance is taken as finite.
constexpr double growth_per_decade = 0.05;
/// Whether the field of a corner of order k grows faster than that.
bool grows_without_limit(double order);
/// Whether the field changes towards the corner as a power between 0 and 1 of the distance, or of its
/// inverse: no polynomial fits it there.
bool is_irregular(double order);

} // namespace ng
