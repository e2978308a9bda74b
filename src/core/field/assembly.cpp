#include "field/assembly.h"
#include "field/symmetric_complex.h"
#include "units/parallel.h"
#include "units/promise.h"
#include <Eigen/OrderingMethods>
#include <algorithm>
#include <boost/pending/disjoint_sets.hpp>
#include <numeric>

namespace ng {

Assembly::Assembly(std::shared_ptr<const Mesh> mesh, Symmetry symmetry, std::size_t threads)
    : mesh_(std::move(mesh)), symmetry_(symmetry) {
    auto integrated = beside(threads, [this] { integrate(); });
    pattern_ = std::make_shared<const Pattern>(*mesh_);
    integrated.get();
}

Assembly::Assembly(std::shared_ptr<const Mesh> moved, const Assembly& like)
    : mesh_(std::move(moved)), symmetry_(like.symmetry_), pattern_(like.pattern_) {
    promise(mesh_->nodes.size() == like.mesh_->nodes.size() &&
                mesh_->triangles.size() == like.mesh_->triangles.size(),
            "only its nodes have moved");
    integrate();
}

void Assembly::integrate() {
    element_.resize(mesh_->triangles.size());
    for (std::size_t t = 0; t < element_.size(); ++t) {
        const auto k = stiffness(*mesh_, static_cast<int>(t), symmetry_);
        std::size_t entry = 0;
        for (int i = 0; i < 6; ++i)
            for (int j = 0; j <= i; ++j) element_[t][entry++] = k(i, j);
    }
}

Assembly::Pattern::Pattern(const Mesh& mesh) {
    number_unknowns(mesh);
    find_columns(mesh);
    order();
    find_columns(mesh);
    find_places(mesh);
}

void Assembly::Pattern::number_unknowns(const Mesh& mesh) {
    unknown_of_node.assign(mesh.nodes.size(), -1);
    for (std::size_t node = 0; node < unknown_of_node.size(); ++node)
        if (mesh.conductor[node] < 0) unknown_of_node[node] = unknown_count++;
    // Floating conductors last: each is joined to many nodes.
    std::vector<int> shared(mesh.conductors.size(), -1);
    for (std::size_t node = 0; node < unknown_of_node.size(); ++node) {
        const int conductor = mesh.conductor[node];
        if (conductor < 0 || !mesh.conductors[conductor].floating) continue;
        auto& unknown = shared[conductor];
        if (unknown < 0) unknown = unknown_count++;
        unknown_of_node[node] = unknown;
    }
}

void Assembly::Pattern::find_columns(const Mesh& mesh) {
    const auto count = static_cast<std::size_t>(unknown_count);
    // Triangles round each unknown.
    std::vector<int> start(count + 1, 0), around;
    auto each = [&](auto visit) {
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
            for (const int node : mesh.triangles[t])
                if (const int u = unknown_of_node[node]; u >= 0)
                    visit(static_cast<std::size_t>(u), static_cast<int>(t));
    };
    each([&](std::size_t u, int) { ++start[u + 1]; });
    std::partial_sum(start.begin(), start.end(), start.begin());
    around.resize(static_cast<std::size_t>(start.back()));
    auto next = start;
    each([&](std::size_t u, int t) { around[next[u]++] = t; });

    outer.assign(1, 0);
    inner.clear();
    inner.reserve(count * 7);
    std::vector<int> seen(count, -1);
    for (std::size_t column = 0; column < count; ++column) {
        const auto first = inner.size();
        for (int k = start[column]; k < start[column + 1]; ++k)
            for (const int node : mesh.triangles[around[k]]) {
                const int row = unknown_of_node[node];
                if (row < static_cast<int>(column) || seen[row] == static_cast<int>(column)) continue;
                seen[row] = static_cast<int>(column);
                inner.push_back(row);
            }
        std::sort(inner.begin() + static_cast<std::ptrdiff_t>(first), inner.end());
        outer.push_back(static_cast<int>(inner.size()));
    }
}

void Assembly::Pattern::order() {
    using Matrix = Eigen::SparseMatrix<double>;
    Matrix lower(unknown_count, unknown_count);
    lower.resizeNonZeros(static_cast<Eigen::Index>(inner.size()));
    std::copy(outer.begin(), outer.end(), lower.outerIndexPtr());
    std::copy(inner.begin(), inner.end(), lower.innerIndexPtr());
    std::fill_n(lower.valuePtr(), inner.size(), 1.0);
    Eigen::AMDOrdering<int>::PermutationType inverse;
    Eigen::AMDOrdering<int>()(lower.selfadjointView<Eigen::Lower>(), inverse);
    if (inverse.size() == 0) return;
    std::vector<int> place(static_cast<std::size_t>(unknown_count));
    for (int k = 0; k < unknown_count; ++k) place[static_cast<std::size_t>(inverse.indices()[k])] = k;
    for (auto& u : unknown_of_node)
        if (u >= 0) u = place[static_cast<std::size_t>(u)];
}

void Assembly::Pattern::find_places(const Mesh& mesh) {
    scatter.resize(mesh.triangles.size());
    for (std::size_t t = 0; t < scatter.size(); ++t)
        for (std::size_t i = 0; i < 6; ++i)
            for (std::size_t j = 0; j <= i; ++j) {
                const auto k = static_cast<std::size_t>(packed_index[i][j]);
                int a = unknown_of_node[mesh.triangles[t][i]], b = unknown_of_node[mesh.triangles[t][j]];
                if (a < 0 || b < 0) {
                    scatter[t][k] = -1;
                    continue;
                }
                if (a < b) std::swap(a, b);
                const auto from = inner.begin() + outer[b],
                           to = inner.begin() + outer[static_cast<std::size_t>(b) + 1];
                scatter[t][k] = static_cast<int>(std::lower_bound(from, to, a) - inner.begin());
                if (a == b && i != j) doubled.emplace_back(static_cast<int>(t), static_cast<int>(k));
            }
}

template <class Scalar> Eigen::SparseMatrix<Scalar> Assembly::pattern() const {
    const auto &outer = pattern_->outer, &inner = pattern_->inner;
    Eigen::SparseMatrix<Scalar> matrix(unknown_count(), unknown_count());
    matrix.resizeNonZeros(static_cast<Eigen::Index>(inner.size()));
    std::copy(outer.begin(), outer.end(), matrix.outerIndexPtr());
    std::copy(inner.begin(), inner.end(), matrix.innerIndexPtr());
    std::fill_n(matrix.valuePtr(), inner.size(), Scalar(0));
    return matrix;
}

template <class Scalar>
void Assembly::fill(std::span<const Scalar> per_region, Eigen::SparseMatrix<Scalar>& into) const {
    const auto& scatter = pattern_->scatter;
    std::fill_n(into.valuePtr(), pattern_->inner.size(), Scalar(0));
    Scalar* values = into.valuePtr();
    for (std::size_t t = 0; t < element_.size(); ++t) {
        const Scalar c = per_region[mesh_->region[t]];
        for (std::size_t k = 0; k < 21; ++k)
            if (scatter[t][k] >= 0) values[scatter[t][k]] += c * Scalar(element_[t][k]);
    }
    for (const auto& [t, k] : pattern_->doubled) {
        const auto triangle = static_cast<std::size_t>(t), entry = static_cast<std::size_t>(k);
        values[scatter[triangle][entry]] +=
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
        for (std::size_t i = 0; i < 6; ++i, ++entry) // rows add up to nothing: the diagonal follows
            for (std::size_t j = 0; j < i; ++j, ++entry) {
                const Scalar from_j = Scalar(k[entry]) * (local[j] - local[i]);
                flux[i] += from_j;
                flux[j] -= from_j;
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
