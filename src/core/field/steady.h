// Steady states of a section on one mesh: capacitive AC, complex AC, field-dependent AC and DC.
//
// One scale for all AC analyses: kappa = (sigma + j omega eps) / (j omega eps0) = eps_r - j sigma / (omega
// eps0), so that the reaction on a conductor times eps0 is its (complex) charge. DC: kappa = sigma in S/m.
#pragma once
#include "field/figures.h"

namespace ng {

/// Per region kappa in the section's analysis; field-dependent conduction at 1 kV/mm.
std::vector<std::complex<double>> region_coefficients(const Section& section);
/// Its magnitude: what decides how the field bends at a border.
std::vector<double> region_weights(const Section& section);

/// Potentials at the nodes of `to` read from a solution on another mesh of the same section; a column for
/// each part of `potential_kV`.
Eigen::MatrixXd carried_over(const Mesh& from, const Eigen::MatrixXd& potential_kV, const Mesh& to);

/// Where a linear or Newton solve ended.
struct SteadyOutcome {
    bool singular = false;
    bool cancelled = false;
};

/// The load of an adjoint problem: per node the derivative of a goal with respect to the potential's real
/// (and, of phasors, imaginary) part, and per conductor its weight for the conductor's charge or current.
struct AdjointLoad {
    Eigen::VectorXd real, imaginary;
    std::vector<double> conductor;
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

    /// The adjoint state of a goal, real and imaginary part, with the coefficients of the last solve.
    std::pair<Eigen::VectorXd, Eigen::VectorXd> adjoint(const AdjointLoad& load) const;

    /// Adds what charges, currents and losses of `solution` ask of the mesh: each relative to its own size,
    /// or to the floor of field/tuning.h. `errors_known`: only those that miss the goal or are near it.
    void add_integrals(const Section& section, const Solution& solution, bool errors_known, double goal,
                       AdjointLoad& load) const;

    /// Maxwell's capacitance coefficients between the conductors (floating ones stay floating: zero rows), F
    /// or F/m; real part where layers conduct. Of the last solve, which must have been capacitive or complex.
    Eigen::MatrixXd capacitance_F() const;

    // Of the last solve:
    const RegionLaws& laws() const { return *laws_; }
    const Bodies& bodies() const { return bodies_; }
    const std::vector<double>& weights() const { return weights_; } ///< region_weights()

    double factor_seconds() const;

  private:
    std::shared_ptr<const Assembly> assembly_;
    const CancelFlag* cancel_;
    std::unique_ptr<LinearSystem<double>> real_;
    std::unique_ptr<LinearSystem<SymmetricComplex>> complex_;
    bool last_was_complex_ = false;
    std::unique_ptr<RegionLaws> laws_; // of the last solve
    std::vector<double> weights_;
    Bodies bodies_;
    std::unique_ptr<NonlinearElements> elements_;
    NodeVector<double> real_state_; // of the last solve, where it was nonlinear
    NodeVector<SymmetricComplex> complex_state_;
    SymmetricComplex law_scale_;
    template <class Scalar>
    SteadyOutcome run(LinearSystem<Scalar>& system, const Section& section, const Solution* start,
                      Solution& out);
    template <class Scalar>
    SteadyOutcome find(LinearSystem<Scalar>& system, const Section& section, const Solution* start,
                       const std::vector<Scalar>& kappa, NodeVector<Scalar>& v, Solution& out);
    template <class Scalar>
    NodeVector<Scalar> unit_state(const LinearSystem<Scalar>& system,
                                  const std::vector<double>& conductor_values) const;
    template <class Scalar> NodeVector<Scalar>& last_state();
    template <class Scalar> const NodeVector<Scalar>& last_state() const;
};

} // namespace ng
