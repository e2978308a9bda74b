// Bodies that conduct far better than all round them: nearly equipotential, so that potential differences
// inside drown in rounding. They are found, kept solvable, and their losses worked out from the current that
// enters them.
#pragma once
#include "field/assembly.h"
#include "field/system.h"
#include <span>

namespace ng {

/// Factors that keep a conductive body that touches no held conductor solvable: where it conducts more than
/// 1e11 times as well as all round it, its coefficients are reduced together to that ratio; it is an
/// equipotential to within 1e-11 either way. `weight`: |kappa| per region. Returns 1 for all others.
std::vector<double> floating_body_factors(const Mesh& mesh, std::span<const double> weight);

/// Which triangles and nodes belong to bodies that conduct 1e6 times as well as the worst material (or
/// better) and touch at most one conductor.
struct Bodies {
    std::vector<int>
        conductor_of_node;    ///< Mesh::conductor, and for nodes of a body the one conductor that it touches
    std::vector<char> inside; ///< per triangle: in a body whose current is known from outside it
    std::vector<char> region; ///< per region: all its triangles are inside
};
Bodies find_bodies(const Mesh& mesh, std::span<const double> weight);

/// Loss in the bodies, per region, in W (W/m planar), and its greatest density in W/m3. From the outside: the
/// current that the solved field `v` (kV) drives into each body at its surface is spread inside by a solve of
/// its own, relative to the conductor that it touches, so that nothing is a difference of large numbers.
/// `kappa`: coefficient of each region (S/m for DC; eps_r - j sigma / (omega eps0) for AC; its scale does not
/// matter).
template <class Scalar> struct BodyLosses { std::vector<double> power_W, peak_W_per_m3; };
template <class Scalar>
BodyLosses<Scalar> body_losses(const Assembly& assembly, const Bodies& bodies, std::span<const Scalar> kappa,
                               std::span<const double> sigma_S_per_m, const NodeVector<Scalar>& v);

/// From kV times the integral of grad N . grad N to V m (axisymmetric) or V (planar).
double volts_per_unit(Symmetry symmetry);

} // namespace ng
