#include "field/system.h"
#include <chrono>

namespace ng {

Stopwatch::Stopwatch() : last_(0) {
    lap();
}
double Stopwatch::lap() {
    const double now =
        std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
    const double since = now - last_;
    last_ = now;
    return since;
}

CapacitiveSystem::CapacitiveSystem(const Mesh& mesh, std::vector<double> eps_r, Symmetry symmetry)
    : mesh_(mesh), eps_r_(std::move(eps_r)), symmetry_(symmetry) {
    Stopwatch watch;
    std::vector<int> floating(mesh.conductors.size(), -1);
    unknowns_.of_node.assign(mesh.nodes.size(), -1);
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node) {
        const int conductor = mesh.conductor[node];
        if (conductor < 0) {
            unknowns_.of_node[node] = unknowns_.count++;
        } else if (mesh.conductors[static_cast<std::size_t>(conductor)].floating) {
            auto& shared = floating[static_cast<std::size_t>(conductor)];
            if (shared < 0) shared = unknowns_.count++;
            unknowns_.of_node[node] = shared;
        }
    }
    element_.reserve(mesh.triangles.size());
    std::vector<Eigen::Triplet<double, int>> entries;
    entries.reserve(mesh.triangles.size() * 21);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const double eps = eps_r_[static_cast<std::size_t>(mesh.region[t])];
        element_.push_back(eps * stiffness(mesh, static_cast<int>(t), symmetry_));
        for (int i = 0; i < 6; ++i) {
            const int a =
                unknowns_.of_node[static_cast<std::size_t>(mesh.triangles[t][static_cast<std::size_t>(i)])];
            if (a < 0) continue;
            for (int j = 0; j < 6; ++j) {
                const int b =
                    unknowns_
                        .of_node[static_cast<std::size_t>(mesh.triangles[t][static_cast<std::size_t>(j)])];
                if (b >= 0 && a >= b) entries.emplace_back(a, b, element_.back()(i, j));
            }
        }
    }
    free_.resize(unknowns_.count, unknowns_.count);
    free_.setFromTriplets(entries.begin(), entries.end());
    assembly_seconds = watch.lap();
}

bool CapacitiveSystem::factorise() {
    Stopwatch watch;
    factor_.compute(free_);
    factor_seconds = watch.lap();
    return factor_.info() == Eigen::Success;
}

Eigen::VectorXd CapacitiveSystem::expand(const Eigen::VectorXd& free, bool held_voltages) const {
    Eigen::VectorXd all(static_cast<Eigen::Index>(mesh_.nodes.size()));
    for (std::size_t node = 0; node < mesh_.nodes.size(); ++node) {
        const int unknown = unknowns_.of_node[node];
        const double held = held_voltages && mesh_.conductor[node] >= 0
                                ? mesh_.conductors[static_cast<std::size_t>(mesh_.conductor[node])].voltage_kV
                                : 0.0;
        all[static_cast<Eigen::Index>(node)] = unknown >= 0 ? (free.size() ? free[unknown] : 0.0) : held;
    }
    return all;
}

Eigen::VectorXd CapacitiveSystem::solve() const {
    const Eigen::VectorXd load = reaction(expand({}, true));
    Eigen::VectorXd right = Eigen::VectorXd::Zero(unknowns_.count);
    for (std::size_t node = 0; node < mesh_.nodes.size(); ++node)
        if (unknowns_.of_node[node] >= 0)
            right[unknowns_.of_node[node]] -= load[static_cast<Eigen::Index>(node)];
    return expand(factor_.solve(right), true);
}

Eigen::VectorXd CapacitiveSystem::solve_adjoint(const Eigen::VectorXd& load) const {
    Eigen::VectorXd right = Eigen::VectorXd::Zero(unknowns_.count);
    for (std::size_t node = 0; node < mesh_.nodes.size(); ++node)
        if (unknowns_.of_node[node] >= 0)
            right[unknowns_.of_node[node]] += load[static_cast<Eigen::Index>(node)];
    return expand(factor_.solve(right), false);
}

Eigen::VectorXd CapacitiveSystem::reaction(const Eigen::VectorXd& potential_kV) const {
    Eigen::VectorXd out = Eigen::VectorXd::Zero(potential_kV.size());
    for (std::size_t t = 0; t < mesh_.triangles.size(); ++t) {
        Eigen::Matrix<double, 6, 1> local;
        for (int i = 0; i < 6; ++i) local[i] = potential_kV[mesh_.triangles[t][static_cast<std::size_t>(i)]];
        const Eigen::Matrix<double, 6, 1> flux = element_[t] * local;
        for (int i = 0; i < 6; ++i) out[mesh_.triangles[t][static_cast<std::size_t>(i)]] += flux[i];
    }
    return out;
}

int isolated_region(const Mesh& mesh) {
    // Union-find over nodes; conductors that are held join one common root.
    std::vector<int> parent(mesh.nodes.size() + 1);
    for (std::size_t i = 0; i < parent.size(); ++i) parent[i] = static_cast<int>(i);
    auto root = [&](int i) {
        while (parent[static_cast<std::size_t>(i)] != i)
            i = parent[static_cast<std::size_t>(i)] =
                parent[static_cast<std::size_t>(parent[static_cast<std::size_t>(i)])];
        return i;
    };
    const int held = static_cast<int>(mesh.nodes.size());
    for (const auto& t : mesh.triangles)
        for (const int node : t) parent[static_cast<std::size_t>(root(node))] = root(t[0]);
    std::vector<int> floating(mesh.conductors.size(), -1);
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node) {
        const int conductor = mesh.conductor[node];
        if (conductor < 0) continue;
        int partner = held;
        if (mesh.conductors[static_cast<std::size_t>(conductor)].floating) {
            auto& first = floating[static_cast<std::size_t>(conductor)];
            if (first < 0) first = static_cast<int>(node);
            partner = first;
        }
        parent[static_cast<std::size_t>(root(static_cast<int>(node)))] = root(partner);
    }
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        if (root(mesh.triangles[t][0]) != root(held)) return mesh.region[t];
    return -1;
}

} // namespace ng
