// Steady states of a section on one mesh: capacitive AC, complex AC, field-dependent AC and DC.
//
// One scale for all AC analyses: kappa = (sigma + j omega eps) / (j omega eps0) = eps_r - j sigma / (omega
// eps0), so that the reaction on a conductor times eps0 is its (complex) charge. DC: kappa = sigma in S/m.
#pragma once
#include "field/nonlinear.h"
#include "field/solution.h"

namespace ng {

/// Voltages of a section's conductors in the order of Mesh::conductors, kV; of floating ones 0.
std::vector<double> conductor_voltages(const Section& section);

/// Per region |kappa| in the section's analysis; field-dependent conduction at 1 kV/mm. What decides how the
/// field bends at a border.
std::vector<double> region_weights(const Section& section);

/// From kV times the integral of grad N . grad N to V m (axisymmetric) or V (planar).
double volts_per_unit(Symmetry symmetry);

/// Potentials at the nodes of `mesh` read from a solution on another mesh of the same section.
Eigen::VectorXd carried_over(const Mesh& from, const Eigen::VectorXd& potential_kV, const Mesh& to);

/// Where a linear or Newton solve ended.
struct SteadyOutcome {
    bool singular = false;
    bool cancelled = false;
};

/// The systems of one mesh, kept between solves: symbolic factorisations are shared by frequencies, materials
/// and voltages. Not for two threads at once.
class SteadyModel {
  public:
    explicit SteadyModel(std::shared_ptr<const Assembly> assembly, const CancelFlag* cancel = nullptr);
    ~SteadyModel();
    SteadyModel(SteadyModel&&) noexcept;

    const std::shared_ptr<const Assembly>& assembly() const { return assembly_; }

    /// Fills potentials, conductors, energy, losses, charges and the report's iteration figures of `out`; its
    /// mesh, names and eps_r are set here too. `start`: a solution to begin a nonlinear iteration from, or
    /// null.
    SteadyOutcome solve(const Section& section, const Solution* start, Solution& out);

    /// The adjoint state of a goal whose derivative is `load` (of the last solve), real and imaginary part.
    std::pair<Eigen::VectorXd, Eigen::VectorXd>
    adjoint(const std::pair<Eigen::VectorXd, Eigen::VectorXd>& load) const;

    /// Maxwell's capacitance coefficients between the conductors (floating ones stay floating: zero rows), F
    /// or F/m; real part where layers conduct. Of the last solve, which must have been capacitive or complex.
    Eigen::MatrixXd capacitance_F() const;

    double factor_seconds() const;

  private:
    std::shared_ptr<const Assembly> assembly_;
    const CancelFlag* cancel_;
    std::unique_ptr<LinearSystem<double>> real_;
    std::unique_ptr<LinearSystem<SymmetricComplex>> complex_;
    bool last_was_complex_ = false;
    std::vector<int> conductor_of_node_; // with bodies that lie on one conductor counted to it
    template <class Scalar>
    SteadyOutcome run(LinearSystem<Scalar>& system, const Section& section, const Solution* start,
                      Solution& out);
    template <class Scalar>
    NodeVector<Scalar> charges(const LinearSystem<Scalar>& system, const NodeVector<Scalar>& flux) const;
};

/// Free charge left on the borders of regions (and in a region of field-dependent conductivity: both names
/// alike).
std::vector<InterfaceCharge> interface_charges(const Section& section, const Assembly& assembly,
                                               const Eigen::VectorXd& potential_kV);

} // namespace ng
