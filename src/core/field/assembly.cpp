#include "field/assembly.h"
#include "field/recovery.h"
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
    find_entries(mesh);
    layout = nodal_layout(mesh);
}

/// Corners of triangles are ordered by minimum degree, the middles of sides go where the first end of theirs
/// goes: a quarter of the graph, and fill as small as when middles are ordered by themselves.
void Assembly::Pattern::number_unknowns(const Mesh& mesh) {
    const auto nodes = mesh.nodes.size();
    constexpr int held = -1;
    // Corners that are free; a floating conductor counts as one.
    std::vector<int> corner(nodes, held), of_conductor(mesh.conductors.size(), held);
    int corners = 0;
    for (const auto& t : mesh.triangles)
        for (std::size_t i = 0; i < 3; ++i) {
            auto& own = corner[t[i]];
            if (own != held) continue;
            const int c = mesh.conductor[t[i]];
            if (c < 0)
                own = corners++;
            else if (mesh.conductors[c].floating)
                own = of_conductor[c] == held ? of_conductor[c] = corners++ : of_conductor[c];
        }
    std::vector<Eigen::Triplet<double>> sides;
    sides.reserve(mesh.triangles.size() * 3);
    const auto each_side = [&](auto visit) {
        for (const auto& t : mesh.triangles)
            for (std::size_t i = 0; i < 3; ++i) visit(t[i + 3], corner[t[i]], corner[t[(i + 1) % 3]]);
    };
    each_side([&](int, int a, int b) {
        if (a != held && b != held && a != b) sides.emplace_back(std::max(a, b), std::min(a, b), 1.0);
    });
    for (int c = 0; c < corners; ++c) sides.emplace_back(c, c, 1.0);
    Eigen::SparseMatrix<double> graph(corners, corners);
    graph.setFromTriplets(sides.begin(), sides.end());
    Eigen::AMDOrdering<int>::PermutationType inverse;
    Eigen::AMDOrdering<int>()(graph.selfadjointView<Eigen::Lower>(), inverse);
    // Group 0: middles between held nodes; group k + 1: what goes with the k-th corner, itself last.
    std::vector<int> place(static_cast<std::size_t>(corners));
    for (int k = 0; k < corners; ++k) place[inverse.indices()[k]] = k;
    constexpr int none = -1;
    std::vector<int> group(nodes, none);
    each_side([&](int middle, int a, int b) {
        if (mesh.conductor[middle] >= 0) return;
        int first = none;
        for (const int c : {a, b})
            if (c != held && (first == none || place[c] < first)) first = place[c];
        group[middle] = first + 1;
    });
    std::vector<int> next(static_cast<std::size_t>(corners) + 2, 0);
    for (const int g : group)
        if (g != none) ++next[static_cast<std::size_t>(g) + 1];
    for (std::size_t g = 1; g < next.size(); ++g) next[g] += next[g - 1] + (g > 1 ? 1 : 0);
    // next[g] is where group g begins; its corner is the last of it.
    unknown_of_node.assign(nodes, -1);
    unknown_count = next.back();
    for (std::size_t node = 0; node < nodes; ++node)
        if (group[node] != none) unknown_of_node[node] = next[group[node]]++;
    // What is left in each group is its corner's.
    for (std::size_t node = 0; node < nodes; ++node) {
        const int conductor = mesh.conductor[node];
        const int own = conductor < 0 ? corner[node] : of_conductor[conductor];
        if (own != held) unknown_of_node[node] = next[place[own] + 1];
    }
}

void Assembly::Pattern::find_entries(const Mesh& mesh) {
    const auto count = static_cast<std::size_t>(unknown_count);
    std::vector<std::array<int, 6>> unknowns(mesh.triangles.size());
    for (std::size_t t = 0; t < unknowns.size(); ++t)
        for (std::size_t i = 0; i < 6; ++i) unknowns[t][i] = unknown_of_node[mesh.triangles[t][i]];
    // Where each unknown is met: triangle and node of it.
    std::vector<int> start(count + 1, 0), met;
    const auto each = [&](auto visit) {
        for (std::size_t t = 0; t < unknowns.size(); ++t)
            for (std::size_t i = 0; i < 6; ++i)
                if (const int u = unknowns[t][i]; u >= 0)
                    visit(static_cast<std::size_t>(u), static_cast<int>(6 * t + i));
    };
    each([&](std::size_t u, int) { ++start[u + 1]; });
    std::partial_sum(start.begin(), start.end(), start.begin());
    met.resize(static_cast<std::size_t>(start.back()));
    auto next = start;
    each([&](std::size_t u, int where) { met[next[u]++] = where; });
    // Row by row, so that the rows of each column come in their order: first how many, then where.
    std::vector<int> seen(count, -1);
    const auto each_entry = [&](std::size_t row, auto visit) {
        for (int k = start[row]; k < start[row + 1]; ++k) {
            const int where = met[k];
            const auto t = static_cast<std::size_t>(where / 6), i = static_cast<std::size_t>(where % 6);
            for (std::size_t j = 0; j < 6; ++j) {
                const int column = unknowns[t][j];
                if (column >= static_cast<int>(row)) visit(static_cast<std::size_t>(column), t, i, j);
            }
        }
    };
    outer.assign(count + 1, 0);
    for (std::size_t row = 0; row < count; ++row)
        each_entry(row, [&](std::size_t column, std::size_t, std::size_t, std::size_t) {
            if (seen[column] == static_cast<int>(row)) return;
            seen[column] = static_cast<int>(row);
            ++outer[column + 1];
        });
    std::partial_sum(outer.begin(), outer.end(), outer.begin());
    inner.resize(static_cast<std::size_t>(outer.back()));
    scatter.resize(mesh.triangles.size());
    for (auto& places : scatter) places.fill(-1);
    std::vector<int> end(outer.begin(), outer.end() - 1);
    for (std::size_t row = 0; row < count; ++row)
        each_entry(row, [&](std::size_t column, std::size_t t, std::size_t i, std::size_t j) {
            auto& at = end[column];
            if (at == outer[column] || inner[static_cast<std::size_t>(at) - 1] != static_cast<int>(row))
                inner[at++] = static_cast<int>(row);
            const auto entry = static_cast<std::size_t>(packed_index[i][j]);
            if (column == row && j < i) doubled.emplace_back(static_cast<int>(t), static_cast<int>(entry));
            scatter[t][entry] = at - 1;
        });
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
