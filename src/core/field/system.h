// The linear system of one mesh: div(eps grad V) = 0 with held and floating conductors.
#pragma once
#include "field/element.h"
#include <Eigen/SparseCholesky>
#include <memory>
#include <vector>

namespace ng {

/// Which unknown each node belongs to: nodes of one floating conductor share theirs, held nodes have none.
struct Unknowns {
    std::vector<int> of_node; ///< index, or -1 for held nodes
    int count = 0;
};

class CapacitiveSystem {
  public:
    /// `eps_r`: per region of the section.
    CapacitiveSystem(const Mesh& mesh, std::vector<double> eps_r, Symmetry symmetry);

    /// LDL^T of the free part (Eigen SimplicialLDLT, AMD ordering). False when it is singular: some region
    /// touches no held conductor.
    bool factorise();

    /// Potential in kV at every node, conductors at their voltages.
    Eigen::VectorXd solve() const;

    /// Solves with the same factor: zero on held conductors, `load` per node (adjoint of a reading of the
    /// field).
    Eigen::VectorXd solve_adjoint(const Eigen::VectorXd& load) const;

    /// Sum over elements of eps_r K V per node; on conductors this is charge / eps0 (kV mm axisymmetric, kV
    /// planar).
    Eigen::VectorXd reaction(const Eigen::VectorXd& potential_kV) const;

    int unknown_count() const { return unknowns_.count; }
    double assembly_seconds = 0, factor_seconds = 0;

  private:
    const Mesh& mesh_;
    std::vector<double> eps_r_;
    Symmetry symmetry_;
    Unknowns unknowns_;
    std::vector<Eigen::Matrix<double, 6, 6>> element_;
    Eigen::SparseMatrix<double> free_;
    Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>, Eigen::Lower> factor_;
    Eigen::VectorXd expand(const Eigen::VectorXd& free, bool held_voltages) const;
};

/// Index of a region touched, through other regions, by no held conductor; -1 when there is none.
int isolated_region(const Mesh& mesh);

/// Wall-clock seconds since the last call (or construction).
class Stopwatch {
  public:
    Stopwatch();
    double lap();

  private:
    double last_;
};

} // namespace ng
