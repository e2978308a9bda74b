// Bounds of the errors of charges, currents, capacitances, energy, losses and probes on one mesh.
#pragma once
#include "field/readings.h"
#include "field/slack.h"
#include "field/steady.h"

namespace ng {

/// States the errors of charges, currents, capacitances, energy, losses and probes in `now` by the averaging
/// estimates of the state and of each figure's adjoint: |Q - Q_h| = |a(u - u_h, z - z_h)| <= sum over
/// triangles of the product of both errors (Babuska and Miller,
/// IJNME 20, 1984; Becker and Rannacher, Acta Numerica 10, 2001; the averaging estimate after Zienkiewicz and
/// Zhu). The form itself, with its sign, is near the truth and may vanish by chance; without signs it is far
/// above it: a share of each, and of what the change between the last meshes told (`now` has it). An
/// estimate, not a guarantee: where averaging misses something, so does it. `model` must have solved
/// `section` last, on `assembly`. Laws that depend on the field: of the linearised equations; their own
/// losses by the change and the fields' own errors.
/// Probes: of the field there and of the potential, since what a mesh that is coarse elsewhere does to a
/// probe no change beside it tells. `readings` and `fields`: of `now`, on the same mesh.
/// What `slack` does not ask for is left as it is (integrals), or 100 % is stated (potentials).
void bound_figures(const Section& section, const Assembly& assembly, const SteadyModel& model,
                   const Readings& readings, const PlaceFields& fields, const Slack& slack,
                   std::size_t threads, Solution& now);

} // namespace ng
