#include "field/bodies.h"
#include "field/gradient_square.h"
#include "units/promise.h"
#include <algorithm>
#include <boost/pending/disjoint_sets.hpp>
#include <map>
#include <set>

namespace ng {

double volts_per_unit(Symmetry symmetry) {
    return symmetry == Symmetry::planar ? 1e3 : 1.0;
}

std::vector<double> floating_body_factors(const Mesh& mesh, std::span<const double> weight) {
    constexpr double most_contrast = 1e11;
    const auto count = weight.size();
    std::vector<double> factor(count, 1.0);
    const auto [least, most] = std::minmax_element(weight.begin(), weight.end());
    if (count == 0 || *least <= 0 || *most <= most_contrast * *least) return factor;
    // Which regions touch each other, and which touch a held conductor.
    std::vector<std::set<int>> beside(count);
    std::vector<char> held(count, 0);
    std::vector<int> first(mesh.nodes.size(), -1);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (const int n : mesh.triangles[t]) {
            const auto node = static_cast<std::size_t>(n);
            const int region = mesh.region[t], conductor = mesh.conductor[node];
            if (conductor >= 0 && !mesh.conductors[conductor].floating) held[region] = 1;
            if (first[node] < 0) first[node] = region;
            if (first[node] != region) {
                beside[region].insert(first[node]);
                beside[first[node]].insert(region);
            }
        }
    std::set<double> levels(weight.begin(), weight.end());
    for (auto level = levels.rbegin(); level != levels.rend(); ++level) {
        std::vector<char> seen(count, 0);
        for (std::size_t seed = 0; seed < count; ++seed) {
            if (weight[seed] < *level || seen[seed]) continue;
            std::vector<std::size_t> body{seed};
            seen[seed] = 1;
            bool anchored = false;
            double least_inside = weight[seed], most_outside = 0;
            for (std::size_t k = 0; k < body.size(); ++k) {
                const auto region = body[k];
                anchored = anchored || held[region];
                least_inside = std::min(least_inside, weight[region] * factor[region]);
                for (const int b : beside[region]) {
                    const auto other = static_cast<std::size_t>(b);
                    if (weight[other] < *level)
                        most_outside = std::max(most_outside, weight[other]);
                    else if (!seen[other])
                        seen[other] = 1, body.push_back(other);
                }
            }
            if (anchored || most_outside <= 0 || least_inside <= most_contrast * most_outside) continue;
            for (const auto region : body) factor[region] *= most_contrast * most_outside / least_inside;
        }
    }
    return factor;
}

Bodies find_bodies(const Mesh& mesh, std::span<const double> weight) {
    constexpr double much_better = 1e6;
    promise(!weight.empty(), "a section has regions");
    Bodies out;
    out.conductor_of_node = mesh.conductor;
    out.inside.assign(mesh.triangles.size(), 0);
    out.region.assign(weight.size(), 1);
    const double least = *std::min_element(weight.begin(), weight.end());
    const auto is_good = [&](std::size_t t) { return weight[mesh.region[t]] > much_better * least; };
    const auto several = static_cast<int>(mesh.nodes.size());
    boost::disjoint_sets_with_storage<> joined(mesh.nodes.size());
    auto root = [&](int node) { return static_cast<int>(joined.find_set(static_cast<std::size_t>(node))); };
    std::vector<char> in_body(mesh.nodes.size(), 0);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        if (!is_good(t)) continue;
        for (const int node : mesh.triangles[t]) {
            in_body[node] = 1;
            joined.union_set(static_cast<std::size_t>(node), static_cast<std::size_t>(mesh.triangles[t][0]));
        }
    }
    std::map<int, int> owner; // body root: the one conductor it touches, or `several`
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node) {
        if (!in_body[node] || mesh.conductor[node] < 0) continue;
        const auto [it, fresh] = owner.try_emplace(root(static_cast<int>(node)), mesh.conductor[node]);
        if (!fresh && it->second != mesh.conductor[node]) it->second = several;
    }
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
        if (in_body[node] && mesh.conductor[node] < 0)
            if (const auto it = owner.find(root(static_cast<int>(node)));
                it != owner.end() && it->second != several)
                out.conductor_of_node[node] = it->second;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        if (is_good(t)) {
            const auto it = owner.find(root(mesh.triangles[t][0]));
            out.inside[t] = it == owner.end() || it->second != several;
        }
        if (!out.inside[t]) out.region[mesh.region[t]] = 0;
    }
    for (std::size_t k = 0; k < out.region.size(); ++k) // without any triangle
        if (std::find(mesh.region.begin(), mesh.region.end(), static_cast<int>(k)) == mesh.region.end())
            out.region[k] = 0;
    return out;
}

template <class Scalar>
BodyLosses<Scalar> body_losses(const Assembly& assembly, const Bodies& bodies, std::span<const Scalar> kappa,
                               std::span<const double> sigma_S_per_m, const NodeVector<Scalar>& v) {
    const auto& mesh = assembly.mesh();
    promise(kappa.size() == sigma_S_per_m.size() && bodies.inside.size() == mesh.triangles.size(),
            "bodies and coefficients belong to this mesh");
    BodyLosses<Scalar> out{std::vector<double>(kappa.size(), 0), std::vector<double>(kappa.size(), 0)};

    // Unknowns: nodes of bodies off the conductors; of a body that touches none, its first node is the datum.
    std::vector<int> unknown(mesh.nodes.size(), -1);
    std::vector<char> held(mesh.nodes.size(), 0);
    boost::disjoint_sets_with_storage<> joined(mesh.nodes.size());
    std::vector<char> in_body(mesh.nodes.size(), 0);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        if (!bodies.inside[t]) continue;
        for (const int node : mesh.triangles[t]) {
            in_body[node] = 1;
            joined.union_set(static_cast<std::size_t>(node), static_cast<std::size_t>(mesh.triangles[t][0]));
        }
    }
    std::map<std::size_t, bool> anchored;
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
        if (in_body[node] && mesh.conductor[node] >= 0)
            held[node] = 1, anchored[joined.find_set(node)] = true;
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
        if (in_body[node] && !anchored[joined.find_set(node)])
            held[node] = 1, anchored[joined.find_set(node)] = true;
    int count = 0;
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
        if (in_body[node] && !held[node]) unknown[node] = count++;
    if (count == 0) return out;

    std::vector<Eigen::Triplet<Scalar>> entries;
    NodeVector<Scalar> right = NodeVector<Scalar>::Zero(count);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& nodes = mesh.triangles[t];
        const auto& k = assembly.stiffness_of(static_cast<int>(t));
        const Scalar c = kappa[mesh.region[t]];
        for (std::size_t i = 0; i < 6; ++i) {
            const int row = unknown[nodes[i]];
            if (row < 0) continue;
            for (std::size_t j = 0; j < 6; ++j) {
                const Scalar entry = c * Scalar(k[Assembly::packed_index[i][j]]);
                if (!bodies.inside[t])
                    right[row] += Scalar(-1.0) * entry * v[nodes[j]];
                else if (const int column = unknown[nodes[j]]; column >= 0 && column <= row)
                    entries.emplace_back(row, column, entry);
            }
        }
    }
    Eigen::SparseMatrix<Scalar> matrix(count, count);
    matrix.setFromTriplets(entries.begin(), entries.end());
    const Eigen::SimplicialLDLT<Eigen::SparseMatrix<Scalar>, Eigen::Lower, Eigen::AMDOrdering<int>> factor(
        matrix);
    promise(factor.info() == Eigen::Success, "a conducting body's own equations are regular");
    const NodeVector<Scalar> drop = factor.solve(right);

    const double to_watt = 1e3 * volts_per_unit(assembly.symmetry());
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        if (!bodies.inside[t]) continue;
        const auto region = static_cast<std::size_t>(mesh.region[t]);
        std::array<Scalar, 6> local{};
        for (std::size_t i = 0; i < 6; ++i)
            if (const int u = unknown[mesh.triangles[t][i]]; u >= 0) local[i] = drop[u];
        const auto square = gradient_square(assembly, static_cast<int>(t), local);
        out.power_W[region] += to_watt * sigma_S_per_m[region] * square.integral;
        out.peak_W_per_m3[region] =
            std::max(out.peak_W_per_m3[region], 1e12 * sigma_S_per_m[region] * square.in_the_middle);
    }
    return out;
}

template BodyLosses<double> body_losses<double>(const Assembly&, const Bodies&, std::span<const double>,
                                                std::span<const double>, const NodeVector<double>&);
template BodyLosses<SymmetricComplex> body_losses<SymmetricComplex>(const Assembly&, const Bodies&,
                                                                    std::span<const SymmetricComplex>,
                                                                    std::span<const double>,
                                                                    const NodeVector<SymmetricComplex>&);

} // namespace ng
