// The equations of one mesh, ready to be filled with any coefficient: unknowns, unit element
// stiffness, sparsity and where each entry goes. Made once per mesh, shared by frequencies, iterations
// and time steps.
#pragma once
#include "field/element.h"
#include <Eigen/SparseCore>
#include <memory>
#include <span>
#include <vector>

namespace ng {

struct NodalLayout;

class Assembly {
  public:
    Assembly(std::shared_ptr<const Mesh> mesh, Symmetry symmetry, std::size_t threads = 1);
    /// Of the same triangles with their nodes elsewhere: numbering and sparsity are those of `like`.
    Assembly(std::shared_ptr<const Mesh> moved, const Assembly& like);

    const Mesh& mesh() const { return *mesh_; }
    const std::shared_ptr<const Mesh>& mesh_pointer() const { return mesh_; }
    Symmetry symmetry() const { return symmetry_; }
    int unknown_count() const { return pattern_->unknown_count; }
    /// Index of the unknown of each node: -1 for held nodes, one shared index for a floating conductor.
    /// Numbered so that a factor fills in little (approximate minimum degree of the corners of triangles):
    /// factorise in this order.
    const std::vector<int>& unknown_of_node() const { return pattern_->unknown_of_node; }
    int node_count() const { return static_cast<int>(mesh_->nodes.size()); }

    /// Integral of grad N_i . grad N_j, packed lower triangle (i >= j) in local numbering: mm axisymmetric (2
    /// pi r weight), dimensionless planar.
    using Packed = std::array<double, 21>;
    const Packed& stiffness_of(int triangle) const { return element_[triangle]; }
    static constexpr std::array<std::array<int, 6>, 6> packed_index = [] {
        std::array<std::array<int, 6>, 6> index{};
        int k = 0;
        for (std::size_t i = 0; i < 6; ++i)
            for (std::size_t j = 0; j <= i; ++j) index[i][j] = index[j][i] = k++;
        return index;
    }();

    /// Where nodal values of its mesh are (field/recovery.h).
    const std::shared_ptr<const NodalLayout>& layout() const { return pattern_->layout; }

    /// An empty upper-triangular matrix with the sparsity of the free unknowns.
    template <class Scalar> Eigen::SparseMatrix<Scalar> pattern() const;

    /// Adds an element's packed matrix to a matrix made by pattern().
    template <class Scalar>
    void add(int triangle, const std::array<Scalar, 21>& element, Eigen::SparseMatrix<Scalar>& into) const {
        const auto& place = pattern_->scatter[triangle];
        Scalar* values = into.valuePtr();
        for (std::size_t k = 0; k < 21; ++k)
            if (place[k] >= 0) values[place[k]] += element[k];
        // Two nodes of one element that share a floating conductor's unknown meet on the diagonal twice.
        for (const auto& [t, k] : pattern_->doubled)
            if (t == triangle) values[place[k]] += element[k];
    }
    /// Fills with one coefficient per region.
    template <class Scalar>
    void fill(std::span<const Scalar> per_region, Eigen::SparseMatrix<Scalar>& into) const;

    /// out[node] += sum over elements of coefficient * K * v, as what flows from node to node: no rounding
    /// lets anything leak out of a body, however well it conducts.
    template <class Scalar>
    void multiply(std::span<const Scalar> per_region, const Eigen::Matrix<Scalar, Eigen::Dynamic, 1>& v,
                  Eigen::Matrix<Scalar, Eigen::Dynamic, 1>& out) const;

    /// Per node to per unknown, summing shared ones; held nodes are left out.
    template <class Vector> Vector gather(const Vector& per_node) const {
        Vector out = Vector::Zero(unknown_count());
        const auto& unknown = unknown_of_node();
        for (std::size_t node = 0; node < unknown.size(); ++node)
            if (unknown[node] >= 0) out[unknown[node]] += per_node[static_cast<Eigen::Index>(node)];
        return out;
    }
    /// Per unknown to per node; held nodes take their conductor's value.
    template <class Scalar>
    Eigen::Matrix<Scalar, Eigen::Dynamic, 1> scatter(const Eigen::Matrix<Scalar, Eigen::Dynamic, 1>& unknowns,
                                                     std::span<const Scalar> conductor_values) const {
        Eigen::Matrix<Scalar, Eigen::Dynamic, 1> out(node_count());
        for (std::size_t node = 0; node < unknown_of_node().size(); ++node) {
            const int u = unknown_of_node()[node], c = mesh_->conductor[node];
            out[static_cast<Eigen::Index>(node)] =
                u >= 0 ? unknowns[u] : (conductor_values.empty() ? Scalar(0) : conductor_values[c]);
        }
        return out;
    }

  private:
    std::shared_ptr<const Mesh> mesh_;
    Symmetry symmetry_;
    /// What hangs on the triangles alone, not on where their nodes are.
    struct Pattern {
        int unknown_count = 0;
        std::vector<int> unknown_of_node;
        std::vector<std::array<int, 21>> scatter;
        std::shared_ptr<const NodalLayout> layout;
        std::vector<std::pair<int, int>> doubled; // triangle, packed entry
        std::vector<int> outer, inner;            // upper triangle, by columns
        explicit Pattern(const Mesh& mesh);
        void number_unknowns(const Mesh& mesh);
        void find_entries(const Mesh& mesh);
    };
    std::shared_ptr<const Pattern> pattern_;
    std::vector<Packed> element_;
    void integrate();
};

/// Index of a region touched, through other regions, by no held conductor; -1 when there is none.
int isolated_region(const Mesh& mesh);

} // namespace ng
