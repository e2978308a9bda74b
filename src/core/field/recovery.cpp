#include "field/recovery.h"
#include <Eigen/Cholesky>
#include <algorithm>
#include <numbers>

namespace ng {
namespace {

constexpr int cubic_terms = 10;
constexpr int quadratic_terms = 6;
constexpr int enough_nodes = 15; // half as many again as a cubic has terms: the fit must not follow noise

/// Potential near a corner as a polynomial in (p - centre) / scale.
struct LocalFit {
    Point centre;
    double scale = 1;
    Eigen::Matrix<double, cubic_terms, 1> c = Eigen::Matrix<double, cubic_terms, 1>::Zero();

    Point field(Point p) const {
        const double x = (p.r - centre.r) / scale, y = (p.z - centre.z) / scale;
        const double gx = c[1] + 2 * c[3] * x + c[4] * y + 3 * c[6] * x * x + 2 * c[7] * x * y + c[8] * y * y;
        const double gy = c[2] + c[4] * x + 2 * c[5] * y + c[7] * x * x + 2 * c[8] * x * y + 3 * c[9] * y * y;
        return {-gx / scale, -gy / scale};
    }
};

template <int Terms>
bool fit(const Mesh& mesh, const Eigen::VectorXd& potential, const std::vector<int>& nodes, int centre,
         LocalFit& out) {
    Eigen::Matrix<double, Terms, Terms> normal = Eigen::Matrix<double, Terms, Terms>::Zero();
    Eigen::Matrix<double, Terms, 1> right = Eigen::Matrix<double, Terms, 1>::Zero();
    const double base = potential[centre];
    for (const int node : nodes) {
        const Point p = (1 / out.scale) * (mesh.nodes[static_cast<std::size_t>(node)] - out.centre);
        const double x = p.r, y = p.z;
        const double all[cubic_terms] = {1,     x,         y,         x * x,     x * y,
                                         y * y, x * x * x, x * x * y, x * y * y, y * y * y};
        const Eigen::Map<const Eigen::Matrix<double, Terms, 1>> row(all);
        normal.template selfadjointView<Eigen::Lower>().rankUpdate(row);
        right += (potential[node] - base) * row;
    }
    const Eigen::LDLT<Eigen::Matrix<double, Terms, Terms>> factor(normal);
    const auto d = factor.vectorD();
    if (factor.info() != Eigen::Success || !(d.minCoeff() > 1e-9 * d.maxCoeff())) return false;
    out.c.setZero();
    out.c.template head<Terms>() = factor.solve(right);
    return true;
}

/// Triangles round each corner, in one array.
struct CornerTriangles {
    std::vector<int> start, triangle;
    explicit CornerTriangles(const Mesh& mesh) : start(static_cast<std::size_t>(mesh.corner_count) + 1, 0) {
        for (const auto& t : mesh.triangles)
            for (std::size_t i = 0; i < 3; ++i) ++start[static_cast<std::size_t>(t[i]) + 1];
        for (std::size_t i = 1; i < start.size(); ++i) start[i] += start[i - 1];
        triangle.resize(static_cast<std::size_t>(start.back()));
        auto next = start;
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
            for (std::size_t i = 0; i < 3; ++i)
                triangle[static_cast<std::size_t>(next[static_cast<std::size_t>(mesh.triangles[t][i])]++)] =
                    static_cast<int>(t);
    }
};

/// Collects the nodes of the same region round a corner, ring by ring, until there are enough.
class PatchFinder {
  public:
    PatchFinder(const Mesh& mesh, const CornerTriangles& around)
        : mesh_(mesh), around_(around), node_stamp_(mesh.nodes.size(), 0),
          triangle_stamp_(mesh.triangles.size(), 0) {}

    const std::vector<int>& nodes(int corner, int region) {
        ++stamp_;
        nodes_.clear();
        std::vector<int>& ring = ring_;
        ring.assign(1, corner);
        bool border = false; // a patch on one side of its corner only: one ring would be extrapolated
        for (int round = 0; round < 4; ++round) {
            int triangles = 0;
            const auto before = nodes_.size();
            next_.clear();
            for (const int c : ring)
                for (int k = around_.start[static_cast<std::size_t>(c)];
                     k < around_.start[static_cast<std::size_t>(c) + 1]; ++k) {
                    const auto t = static_cast<std::size_t>(around_.triangle[static_cast<std::size_t>(k)]);
                    if (mesh_.region[t] != region || triangle_stamp_[t] == stamp_) continue;
                    triangle_stamp_[t] = stamp_;
                    ++triangles;
                    for (std::size_t i = 0; i < 6; ++i) {
                        const int node = mesh_.triangles[t][i];
                        if (node_stamp_[static_cast<std::size_t>(node)] == stamp_) continue;
                        node_stamp_[static_cast<std::size_t>(node)] = stamp_;
                        nodes_.push_back(node);
                        if (i < 3) next_.push_back(node);
                    }
                }
            if (round == 0) border = static_cast<int>(next_.size()) != triangles + 1;
            if ((static_cast<int>(nodes_.size()) >= enough_nodes && (round > 0 || !border)) ||
                nodes_.size() == before)
                break;
            ring.swap(next_);
        }
        return nodes_;
    }

  private:
    const Mesh& mesh_;
    const CornerTriangles& around_;
    std::vector<int> node_stamp_, triangle_stamp_, nodes_, ring_, next_;
    int stamp_ = 0;
};

} // namespace

Point RecoveredField::at(int triangle, Reference x) const {
    const auto n = shape_values(x);
    Point e;
    for (std::size_t i = 0; i < 6; ++i)
        e = e + n[i] * field[static_cast<std::size_t>(index[static_cast<std::size_t>(triangle)][i])];
    return e;
}

Point raw_field(const Mesh& mesh, const Eigen::VectorXd& potential_kV, int triangle, Reference x) {
    const auto e = evaluate(mesh, triangle, x);
    Point field;
    for (std::size_t i = 0; i < 6; ++i)
        field = field - potential_kV[mesh.triangles[static_cast<std::size_t>(triangle)][i]] * e.gradient[i];
    return field;
}

RecoveredField recover(const Mesh& mesh, const Eigen::VectorXd& potential_kV) {
    const CornerTriangles around(mesh);
    PatchFinder finder(mesh, around);

    // One slot per node and region that meets there. Most nodes have one region: a small list per node.
    struct Slot {
        int node, region, next;
    };
    std::vector<int> first(mesh.nodes.size(), -1);
    std::vector<Slot> slots;
    slots.reserve(mesh.nodes.size() * 5 / 4);
    RecoveredField out;
    out.index.resize(mesh.triangles.size());
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (std::size_t i = 0; i < 6; ++i) {
            const int node = mesh.triangles[t][i];
            int slot = first[static_cast<std::size_t>(node)];
            while (slot >= 0 && slots[static_cast<std::size_t>(slot)].region != mesh.region[t])
                slot = slots[static_cast<std::size_t>(slot)].next;
            if (slot < 0) {
                slot = static_cast<int>(slots.size());
                slots.push_back({node, mesh.region[t], first[static_cast<std::size_t>(node)]});
                first[static_cast<std::size_t>(node)] = slot;
            }
            out.index[t][i] = slot;
        }
    out.field.assign(slots.size(), Point{});

    std::vector<LocalFit> fits(slots.size());
    std::vector<char> fitted(slots.size(), 0);
    for (std::size_t s = 0; s < slots.size(); ++s) {
        const int corner = slots[s].node;
        if (corner >= mesh.corner_count) continue;
        const auto& nodes = finder.nodes(corner, slots[s].region);
        auto& local = fits[s];
        local.centre = mesh.nodes[static_cast<std::size_t>(corner)];
        double reach = 0;
        for (const int node : nodes)
            reach = std::max(reach, distance(mesh.nodes[static_cast<std::size_t>(node)], local.centre));
        local.scale = reach;
        const bool good = (static_cast<int>(nodes.size()) > cubic_terms &&
                           fit<cubic_terms>(mesh, potential_kV, nodes, corner, local)) ||
                          (static_cast<int>(nodes.size()) >= quadratic_terms &&
                           fit<quadratic_terms>(mesh, potential_kV, nodes, corner, local));
        fitted[s] = good;
        if (good) out.field[s] = local.field(local.centre);
    }
    // Middle nodes: mean of the fits at both ends of their side. Corners without a fit keep the raw field.
    std::vector<int> seen(slots.size(), 0);
    const Reference corners[6] = {{0, 0}, {1, 0}, {0, 1}, {0.5, 0}, {0.5, 0.5}, {0, 0.5}};
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (std::size_t i = 0; i < 6; ++i) {
            const auto s = static_cast<std::size_t>(out.index[t][i]);
            if (seen[s]++) continue;
            const auto a = static_cast<std::size_t>(out.index[t][i < 3 ? i : i - 3]);
            const auto b = static_cast<std::size_t>(out.index[t][i < 3 ? i : (i - 2) % 3]);
            if (fitted[a] && fitted[b]) {
                const Point p = mesh.nodes[static_cast<std::size_t>(mesh.triangles[t][i])];
                out.field[s] = 0.5 * (fits[a].field(p) + fits[b].field(p));
            } else {
                out.field[s] = raw_field(mesh, potential_kV, static_cast<int>(t), corners[i]);
            }
        }
    return out;
}

std::vector<double> recovery_error(const Mesh& mesh, const std::vector<double>& eps_r, Symmetry symmetry,
                                   const Eigen::VectorXd& potential_kV, const RecoveredField& recovered) {
    std::vector<double> out(mesh.triangles.size());
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        double sum = 0;
        for (const auto& q : quadrature()) {
            const auto e = evaluate(mesh, static_cast<int>(t), q.at);
            Point difference;
            for (std::size_t i = 0; i < 6; ++i)
                difference = difference +
                             e.value[i] * recovered.field[static_cast<std::size_t>(recovered.index[t][i])] +
                             potential_kV[mesh.triangles[t][i]] * e.gradient[i];
            const double weight = symmetry == Symmetry::planar ? 1.0 : 2 * std::numbers::pi * e.at.r;
            sum += q.weight * e.jacobian * weight * dot(difference, difference);
        }
        out[t] = std::sqrt(eps_r[static_cast<std::size_t>(mesh.region[t])] * sum);
    }
    return out;
}

} // namespace ng
