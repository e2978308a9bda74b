// Field-dependent conduction in the elements, and the steady state found with it.
#pragma once
#include "field/conduction.h"
#include "field/system.h"

namespace ng {

/// sigma(|E|) at the quadrature points of every triangle whose region has a field-dependent law.
class NonlinearElements {
  public:
    /// `laws`: per region, null where conduction does not depend on the field.
    NonlinearElements(const Assembly& assembly, std::vector<const ConductionLaw*> laws);

    bool empty() const { return elements_.empty(); }

    /// out[node] += integral of scale sigma(|grad V|) grad N . grad V.
    template <class Scalar>
    void add_flux(const NodeVector<Scalar>& v, Scalar scale, NodeVector<Scalar>& out) const;
    /// The same, differentiated at `v` in the direction `w`.
    template <class Scalar>
    void add_flux_change(const NodeVector<Scalar>& v, const NodeVector<Scalar>& w, Scalar scale,
                         NodeVector<Scalar>& out) const;
    /// Adds the derivative's matrix. Real: exact. Complex: its complex-linear part, an approximation good as
    /// a preconditioner.
    template <class Scalar>
    void add_matrix(const NodeVector<Scalar>& v, Scalar scale, Eigen::SparseMatrix<Scalar>& matrix) const;

    /// Per region: mean of sigma, largest field, and integral of sigma |E|^2 (loss per kV^2/mm^2 ...: S/m
    /// kV^2 mm, see losses()).
    struct RegionState {
        double mean_sigma_S_per_m = 0, largest_field_kV_per_mm = 0, loss = 0, peak_loss_density = 0;
    };
    template <class Scalar> std::vector<RegionState> states(const NodeVector<Scalar>& v) const;

  private:
    struct QuadPoint {
        std::array<Point, 6> gradient;
        double volume = 0; ///< mm^3 axisymmetric, mm^2 planar
    };
    struct Element {
        int triangle = 0;
        const ConductionLaw* law = nullptr;
        std::array<QuadPoint, 6> points;
    };
    const Assembly& assembly_;
    std::vector<const ConductionLaw*> laws_;
    std::vector<Element> elements_;
};

struct NonlinearOptions {
    double tolerance = 1e-5; ///< of the Newton correction that is left, relative to the largest voltage
    int most_iterations = 60;
};

struct NonlinearOutcome {
    bool converged = false;
    bool cancelled = false;
    int iterations = 0;
    int factorisations = 0;
    double residual = 0; ///< largest Newton correction that is left, relative to the largest voltage
};

/// Solves sum kappa K V + flux(V) = 0 by an inexact Newton method with line search (KINSOL of SUNDIALS;
/// Dennis and Schnabel, Numerical Methods for Unconstrained Optimization and Nonlinear Equations, 1983), its
/// linear equations by GMRES preconditioned with a factorised matrix of the same sparsity that is renewed
/// every few steps. `system` holds the linear part; on return it is factorised with the linearised
/// coefficients. `potential`: start and result, at every node.
template <class Scalar>
NonlinearOutcome solve_nonlinear(LinearSystem<Scalar>& system, std::span<const Scalar> linear_per_region,
                                 const NonlinearElements& elements, Scalar scale,
                                 std::span<const Scalar> conductor_values, NodeVector<Scalar>& potential,
                                 const NonlinearOptions& options);

} // namespace ng
