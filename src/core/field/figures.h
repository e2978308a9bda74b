// What a solved state of a section adds up to: charges, currents, energy, losses, free charge on borders.
#pragma once
#include "field/bodies.h"
#include "field/nonlinear.h"
#include "field/solution.h"

namespace ng {

/// Voltages of a section's conductors in the order of Mesh::conductors, kV; of floating ones 0.
std::vector<double> conductor_voltages(const Section& section);
/// The largest of their magnitudes, kV.
double largest_voltage_kV(const Section& section);

/// One solved steady state. `kappa` per region as it was solved (field-dependent conduction left out of it:
/// that is in `elements`); `omega` 0 for DC.
template <class Scalar> struct SteadyState {
    const Section& section;
    const Assembly& assembly;
    const RegionLaws& laws;
    const NonlinearElements& elements;
    std::span<const Scalar> kappa, material_kappa; ///< as solved; without what kept floating bodies solvable
    std::span<const double> eps_r;
    const Bodies& bodies; ///< good conductors, whose losses hang on the current alone
    Scalar law_scale;     ///< factor of sigma in kappa
    const NodeVector<Scalar>& potential_kV;
};

/// Fills conductors, energy, losses and interface charges of `out`. Charges and currents by the consistent
/// flux: the sum of the equations' residuals at a conductor's nodes (Babuska and Miller, IJNME 20, 1984;
/// their error falls with the square of that of the field).
template <class Scalar> void fill_figures(const SteadyState<Scalar>& state, Solution& out);

/// Free charge left on the borders of regions (and in a region of field-dependent conductivity: both names
/// alike).
std::vector<InterfaceCharge> interface_charges(const Section& section, const Assembly& assembly,
                                               const Eigen::VectorXd& potential_kV);

/// Weights of a sum of charges: per conductor and per interface charge of a solution; empty: 0 for all.
struct ChargeWeights {
    std::vector<double> conductor, free;
};
/// At DC, in C (or C/m), per conductor: how much of the free charge of the borders that end at it lies, on
/// this mesh, at the ends themselves, where it counts to the conductor: a share of what lies next to them,
/// which falls with the size of the elements there.
std::vector<double> charge_at_border_ends(const Section& section, const Assembly& assembly,
                                          const Bodies& bodies, const Eigen::VectorXd& potential_kV);
/// Derivative of that sum, over eps0 and the unit of charge, with respect to the potential of each node.
Eigen::VectorXd charge_load(const Section& section, const Assembly& assembly, const Solution& solution,
                            const ChargeWeights& weights);

/// Adds what the charges of a DC state (of conductors, and free on borders) ask of the mesh, each relative to
/// its own size or to the floor of field/tuning.h: their derivative with respect to the potential of each
/// node. `errors_known`: only those that miss the goal or are near it.
void add_free_charges(const Section& section, const Assembly& assembly, const Solution& solution,
                      bool errors_known, double goal, Eigen::VectorXd& load);

} // namespace ng
