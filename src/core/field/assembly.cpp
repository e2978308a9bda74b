#include "field/assembly.h"
#include "field/symmetric_complex.h"
#include <algorithm>
#include <boost/pending/disjoint_sets.hpp>
#include <numeric>

namespace ng {

Assembly::Assembly(std::shared_ptr<const Mesh> mesh, Symmetry symmetry)
    : mesh_(std::move(mesh)), symmetry_(symmetry) {
    number_unknowns();
    element_.resize(mesh_->triangles.size());
    for (std::size_t t = 0; t < element_.size(); ++t) {
        const auto k = stiffness(*mesh_, static_cast<int>(t), symmetry_);
        std::size_t entry = 0;
        for (int i = 0; i < 6; ++i)
            for (int j = 0; j <= i; ++j) element_[t][entry++] = k(i, j);
    }
    make_pattern();
}

void Assembly::number_unknowns() {
    unknown_of_node_.assign(mesh_->nodes.size(), -1);
    for (std::size_t node = 0; node < unknown_of_node_.size(); ++node)
        if (mesh_->conductor[node] < 0) unknown_of_node_[node] = unknown_count_++;
    // Floating conductors last: each is joined to many nodes.
    std::vector<int> shared(mesh_->conductors.size(), -1);
    for (std::size_t node = 0; node < unknown_of_node_.size(); ++node) {
        const int conductor = mesh_->conductor[node];
        if (conductor < 0 || !mesh_->conductors[conductor].floating) continue;
        auto& unknown = shared[conductor];
        if (unknown < 0) unknown = unknown_count_++;
        unknown_of_node_[node] = unknown;
    }
}

void Assembly::make_pattern() {
    const auto count = static_cast<std::size_t>(unknown_count_);
    // Triangles round each unknown.
    std::vector<int> start(count + 1, 0), around;
    auto each = [&](auto visit) {
        for (std::size_t t = 0; t < mesh_->triangles.size(); ++t)
            for (const int node : mesh_->triangles[t])
                if (const int u = unknown_of_node_[node]; u >= 0)
                    visit(static_cast<std::size_t>(u), static_cast<int>(t));
    };
    each([&](std::size_t u, int) { ++start[u + 1]; });
    std::partial_sum(start.begin(), start.end(), start.begin());
    around.resize(static_cast<std::size_t>(start.back()));
    auto next = start;
    each([&](std::size_t u, int t) { around[next[u]++] = t; });

    outer_.assign(1, 0);
    inner_.reserve(count * 7);
    std::vector<int> seen(count, -1);
    for (std::size_t column = 0; column < count; ++column) {
        const auto first = inner_.size();
        for (int k = start[column]; k < start[column + 1]; ++k)
            for (const int node : mesh_->triangles[around[k]]) {
                const int row = unknown_of_node_[node];
                if (row < static_cast<int>(column) || seen[row] == static_cast<int>(column)) continue;
                seen[row] = static_cast<int>(column);
                inner_.push_back(row);
            }
        std::sort(inner_.begin() + static_cast<std::ptrdiff_t>(first), inner_.end());
        outer_.push_back(static_cast<int>(inner_.size()));
    }
    scatter_.resize(mesh_->triangles.size());
    for (std::size_t t = 0; t < scatter_.size(); ++t)
        for (std::size_t i = 0; i < 6; ++i)
            for (std::size_t j = 0; j <= i; ++j) {
                const auto k = static_cast<std::size_t>(packed_index[i][j]);
                int a = unknown_of_node_[mesh_->triangles[t][i]],
                    b = unknown_of_node_[mesh_->triangles[t][j]];
                if (a < 0 || b < 0) {
                    scatter_[t][k] = -1;
                    continue;
                }
                if (a < b) std::swap(a, b);
                const auto from = inner_.begin() + outer_[b],
                           to = inner_.begin() + outer_[static_cast<std::size_t>(b) + 1];
                scatter_[t][k] = static_cast<int>(std::lower_bound(from, to, a) - inner_.begin());
                if (a == b && i != j) doubled_.emplace_back(static_cast<int>(t), static_cast<int>(k));
            }
}

template <class Scalar> Eigen::SparseMatrix<Scalar> Assembly::pattern() const {
    Eigen::SparseMatrix<Scalar> matrix(unknown_count_, unknown_count_);
    matrix.resizeNonZeros(static_cast<Eigen::Index>(inner_.size()));
    std::copy(outer_.begin(), outer_.end(), matrix.outerIndexPtr());
    std::copy(inner_.begin(), inner_.end(), matrix.innerIndexPtr());
    std::fill_n(matrix.valuePtr(), inner_.size(), Scalar(0));
    return matrix;
}

template <class Scalar>
void Assembly::fill(std::span<const Scalar> per_region, Eigen::SparseMatrix<Scalar>& into) const {
    std::fill_n(into.valuePtr(), inner_.size(), Scalar(0));
    Scalar* values = into.valuePtr();
    for (std::size_t t = 0; t < element_.size(); ++t) {
        const Scalar c = per_region[mesh_->region[t]];
        for (std::size_t k = 0; k < 21; ++k)
            if (scatter_[t][k] >= 0) values[scatter_[t][k]] += c * Scalar(element_[t][k]);
    }
    for (const auto& [t, k] : doubled_) {
        const auto triangle = static_cast<std::size_t>(t), entry = static_cast<std::size_t>(k);
        values[scatter_[triangle][entry]] +=
            per_region[mesh_->region[triangle]] * Scalar(element_[triangle][entry]);
    }
}

template <class Scalar>
void Assembly::multiply(std::span<const Scalar> per_region, const Eigen::Matrix<Scalar, Eigen::Dynamic, 1>& v,
                        Eigen::Matrix<Scalar, Eigen::Dynamic, 1>& out) const {
    for (std::size_t t = 0; t < element_.size(); ++t) {
        const auto& nodes = mesh_->triangles[t];
        const auto& k = element_[t];
        std::array<Scalar, 6> local, flux{};
        for (std::size_t i = 0; i < 6; ++i) local[i] = v[nodes[i]];
        std::size_t entry = 0;
        for (std::size_t i = 0; i < 6; ++i) {
            for (std::size_t j = 0; j < i; ++j, ++entry) {
                flux[i] += Scalar(k[entry]) * local[j];
                flux[j] += Scalar(k[entry]) * local[i];
            }
            flux[i] += Scalar(k[entry++]) * local[i];
        }
        const Scalar c = per_region[mesh_->region[t]];
        for (std::size_t i = 0; i < 6; ++i) out[nodes[i]] += c * flux[i];
    }
}

#define NG_INSTANCES(Scalar)                                                                                 \
    template Eigen::SparseMatrix<Scalar> Assembly::pattern<Scalar>() const;                                  \
    template void Assembly::fill<Scalar>(std::span<const Scalar>, Eigen::SparseMatrix<Scalar>&) const;       \
    template void Assembly::multiply<Scalar>(std::span<const Scalar>,                                        \
                                             const Eigen::Matrix<Scalar, Eigen::Dynamic, 1>&,                \
                                             Eigen::Matrix<Scalar, Eigen::Dynamic, 1>&) const;
NG_INSTANCES(double)
NG_INSTANCES(SymmetricComplex)
#undef NG_INSTANCES

int isolated_region(const Mesh& mesh) {
    // Sets of joined nodes; conductors that are held join one common set.
    const auto held = mesh.nodes.size();
    boost::disjoint_sets_with_storage<> joined(held + 1);
    for (const auto& t : mesh.triangles)
        for (const int node : t)
            joined.union_set(static_cast<std::size_t>(node), static_cast<std::size_t>(t[0]));
    std::vector<int> floating(mesh.conductors.size(), -1);
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node) {
        const int conductor = mesh.conductor[node];
        if (conductor < 0) continue;
        auto partner = held;
        if (mesh.conductors[conductor].floating) {
            auto& first = floating[conductor];
            if (first < 0) first = static_cast<int>(node);
            partner = static_cast<std::size_t>(first);
        }
        joined.union_set(node, partner);
    }
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        if (joined.find_set(static_cast<std::size_t>(mesh.triangles[t][0])) != joined.find_set(held))
            return mesh.region[t];
    return -1;
}

} // namespace ng
