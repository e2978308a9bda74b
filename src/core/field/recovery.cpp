#include "field/recovery.h"
#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>
#include <optional>
#include <unordered_map>

namespace ng {
namespace {

constexpr int cubic_terms = 10, quadratic_terms = 6;

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
            for (std::size_t i = 0; i < 3; ++i) triangle[next[mesh.triangles[t][i]]++] = static_cast<int>(t);
    }
};

constexpr int enough_nodes = 15; // half as many again as a cubic has terms: the fit must not follow noise

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
                for (int k = around_.start[c]; k < around_.start[static_cast<std::size_t>(c) + 1]; ++k) {
                    const auto t = static_cast<std::size_t>(around_.triangle[k]);
                    if (mesh_.region[t] != region || triangle_stamp_[t] == stamp_) continue;
                    triangle_stamp_[t] = stamp_;
                    ++triangles;
                    for (std::size_t i = 0; i < 6; ++i) {
                        const int node = mesh_.triangles[t][i];
                        if (node_stamp_[node] == stamp_) continue;
                        node_stamp_[node] = stamp_;
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

using Terms = Eigen::Matrix<double, cubic_terms, 1>;

/// Powers of x and y in each term.
constexpr std::array<std::array<std::size_t, 2>, cubic_terms> powers{
    {{0, 0}, {1, 0}, {0, 1}, {2, 0}, {1, 1}, {0, 2}, {3, 0}, {2, 1}, {1, 2}, {0, 3}}};

/// Sums over nodes of x^i y^j, i + j up to 6: all that normal equations are made of.
class Moments {
  public:
    void add(double x, double y) {
        std::array<double, size> of_x, of_y;
        of_x[0] = of_y[0] = 1;
        for (std::size_t i = 1; i < size; ++i) of_x[i] = x * of_x[i - 1], of_y[i] = y * of_y[i - 1];
        for (std::size_t i = 0; i < size; ++i)
            for (std::size_t j = 0; i + j < size; ++j) sum_[i][j] += of_x[i] * of_y[j];
    }
    double of(std::size_t term, std::size_t other) const {
        return sum_[powers[term][0] + powers[other][0]][powers[term][1] + powers[other][1]];
    }

  private:
    static constexpr std::size_t size = 7;
    std::array<std::array<double, size>, size> sum_{};
};

/// The factor of the normal equations of the first `Count` terms; none where the nodes do not tell them
/// apart.
template <int Count>
std::optional<Eigen::LDLT<Eigen::Matrix<double, Count, Count>>> factor_of(const Moments& moments) {
    Eigen::Matrix<double, Count, Count> normal;
    for (int i = 0; i < Count; ++i)
        for (int j = 0; j < Count; ++j)
            normal(i, j) = moments.of(static_cast<std::size_t>(i), static_cast<std::size_t>(j));
    const Eigen::LDLT<Eigen::Matrix<double, Count, Count>> factor(normal);
    const auto d = factor.vectorD();
    if (factor.info() != Eigen::Success || !(d.minCoeff() > 1e-9 * d.maxCoeff())) return {};
    return factor;
}

/// Polynomial in (p - centre) / scale fitted to the potential at some nodes by least squares.
struct PatchFit {
    std::vector<int> nodes; // its corner first
    Point centre;
    Point scale{1, 1};        // of either axis by itself: patches in stretched spans are long and slender
    std::vector<Terms> terms; // of each node
    std::optional<Eigen::LDLT<Eigen::Matrix<double, cubic_terms, cubic_terms>>> cubic;
    std::optional<Eigen::LDLT<Eigen::Matrix<double, quadratic_terms, quadratic_terms>>> quadratic;

    bool usable() const { return cubic || quadratic; }

    void fit(const Mesh& mesh) {
        Moments moments;
        terms.reserve(nodes.size());
        for (const int node : nodes) {
            const Point p = mesh.nodes[node] - centre;
            const double x = p.r / scale.r, y = p.z / scale.z;
            terms.emplace_back();
            terms.back() << 1, x, y, x * x, x * y, y * y, x * x * x, x * x * y, x * y * y, y * y * y;
            moments.add(x, y);
        }
        if (nodes.size() > cubic_terms) cubic = factor_of<cubic_terms>(moments);
        if (!cubic && nodes.size() >= quadratic_terms) quadratic = factor_of<quadratic_terms>(moments);
    }

    /// Of the normal equations, which are their own transpose.
    Terms solve(const Terms& right) const {
        if (cubic) return cubic->solve(right);
        Terms out = Terms::Zero();
        out.head<quadratic_terms>() = quadratic->solve(right.head<quadratic_terms>());
        return out;
    }
    /// What each term counts in E at p.
    std::array<Terms, 2> slopes(Point p) const {
        const double x = (p.r - centre.r) / scale.r, y = (p.z - centre.z) / scale.z;
        std::array<Terms, 2> out;
        out[0] << 0, 1, 0, 2 * x, y, 0, 3 * x * x, 2 * x * y, y * y, 0;
        out[1] << 0, 0, 1, 0, x, 2 * y, 0, x * x, 2 * x * y, 3 * y * y;
        out[0] *= -1 / scale.r;
        out[1] *= -1 / scale.z;
        return out;
    }
    /// The polynomial of these potentials, but for its constant: what they have in common is taken off first,
    /// so that rounding sees differences.
    Terms fitted(const Eigen::VectorXd& potential_kV) const {
        Terms sum = Terms::Zero();
        for (std::size_t n = 1; n < nodes.size(); ++n)
            sum += (potential_kV[nodes[n]] - potential_kV[nodes[0]]) * terms[n];
        return solve(sum);
    }
};

} // namespace

struct FieldReader::Patches {
    std::vector<PatchFit> fits;
};

namespace {

class PatchFits {
  public:
    PatchFits(const Mesh& mesh, std::vector<PatchFit>& fits)
        : mesh_(mesh), around_(mesh), finder_(mesh, around_), fits_(fits) {}

    /// Index of the fit round a corner in a region; -1: none can be made.
    int at(int corner, int region) {
        const auto key = static_cast<long long>(corner) * 100000 + region;
        const auto [it, fresh] = index_.try_emplace(key, -1);
        if (!fresh) return it->second;
        PatchFit fit;
        fit.nodes = finder_.nodes(corner, region);
        std::iter_swap(fit.nodes.begin(), std::find(fit.nodes.begin(), fit.nodes.end(), corner));
        fit.centre = mesh_.nodes[corner];
        double r = 0, z = 0;
        for (const int node : fit.nodes) {
            const Point p = mesh_.nodes[node] - fit.centre;
            r = std::max(r, std::abs(p.r)), z = std::max(z, std::abs(p.z));
        }
        fit.scale = {r > 0 ? r : 1, z > 0 ? z : 1};
        fit.fit(mesh_);
        if (!fit.usable()) return -1;
        it->second = static_cast<int>(fits_.size());
        fits_.push_back(std::move(fit));
        return it->second;
    }

  private:
    const Mesh& mesh_;
    CornerTriangles around_;
    PatchFinder finder_;
    std::vector<PatchFit>& fits_;
    std::unordered_map<long long, int> index_;
};

} // namespace

FieldReader::FieldReader(const Mesh& mesh, std::vector<Reading> places)
    : mesh_(mesh), places_(std::move(places)) {
    auto patches = std::make_shared<Patches>();
    PatchFits fits(mesh, patches->fits);
    std::unordered_map<long long, int> slot_of; // node and region
    for (const auto& place : places_) {
        const auto& nodes = mesh.triangles[place.triangle];
        const int region = mesh.region[place.triangle];
        std::array<int, 6> own{};
        for (std::size_t i = 0; i < 6; ++i) {
            const auto [it, fresh] = slot_of.try_emplace(static_cast<long long>(nodes[i]) * 100000 + region,
                                                         static_cast<int>(slots_.size()));
            own[i] = it->second;
            if (!fresh) continue;
            // Middle nodes: mean of the fits at both ends of their side.
            slots_.push_back(
                {{fits.at(nodes[i < 3 ? i : i - 3], region), fits.at(nodes[i < 3 ? i : (i - 2) % 3], region)},
                 mesh.nodes[nodes[i]],
                 place.triangle,
                 static_cast<int>(i)});
        }
        slots_of_.push_back(own);
    }
    patches_ = std::move(patches);
}

std::vector<Point> FieldReader::field(const Eigen::VectorXd& potential_kV) const {
    std::vector<Terms> fitted;
    fitted.reserve(patches_->fits.size());
    for (const auto& fit : patches_->fits) fitted.push_back(fit.fitted(potential_kV));
    std::vector<Point> of_slot(slots_.size()), out(places_.size());
    for (std::size_t k = 0; k < slots_.size(); ++k) {
        const auto& slot = slots_[k];
        if (slot.is_raw()) {
            const auto e = evaluate(mesh_, slot.triangle, node_places[slot.node]);
            for (std::size_t i = 0; i < 6; ++i)
                of_slot[k] = of_slot[k] - potential_kV[mesh_.triangles[slot.triangle][i]] * e.gradient[i];
            continue;
        }
        for (const int patch : slot.patch) {
            const auto slopes = patches_->fits[patch].slopes(slot.at);
            of_slot[k] = of_slot[k] + 0.5 * Point{slopes[0].dot(fitted[patch]), slopes[1].dot(fitted[patch])};
        }
    }
    for (std::size_t i = 0; i < places_.size(); ++i) {
        const auto n = shape_values(places_[i].at);
        for (std::size_t k = 0; k < 6; ++k) out[i] = out[i] + n[k] * of_slot[slots_of_[i][k]];
    }
    return out;
}

std::vector<double> FieldReader::potential(const Eigen::VectorXd& potential_kV) const {
    std::vector<double> out(places_.size(), 0.0);
    for (std::size_t i = 0; i < places_.size(); ++i) {
        const auto n = shape_values(places_[i].at);
        for (std::size_t k = 0; k < 6; ++k)
            out[i] += n[k] * potential_kV[mesh_.triangles[places_[i].triangle][k]];
    }
    return out;
}

std::vector<Point> FieldReader::raw_field(const Eigen::VectorXd& potential_kV) const {
    std::vector<Point> out;
    out.reserve(places_.size());
    for (const auto& place : places_) {
        const auto e = evaluate(mesh_, place.triangle, place.at);
        Point field;
        for (std::size_t k = 0; k < 6; ++k)
            field = field - potential_kV[mesh_.triangles[place.triangle][k]] * e.gradient[k];
        out.push_back(field);
    }
    return out;
}

Eigen::VectorXd FieldReader::load(const std::vector<Point>& weights) const {
    std::vector<Point> of_slot(slots_.size());
    for (std::size_t i = 0; i < places_.size(); ++i) {
        const auto n = shape_values(places_[i].at);
        for (std::size_t k = 0; k < 6; ++k) {
            auto& sum = of_slot[slots_of_[i][k]];
            sum = sum + n[k] * weights[i];
        }
    }
    std::vector<Terms> of_patch(patches_->fits.size(), Terms::Zero());
    Eigen::VectorXd out = Eigen::VectorXd::Zero(static_cast<Eigen::Index>(mesh_.nodes.size()));
    for (std::size_t k = 0; k < slots_.size(); ++k) {
        const auto& slot = slots_[k];
        if (slot.is_raw()) {
            const auto e = evaluate(mesh_, slot.triangle, node_places[slot.node]);
            for (std::size_t i = 0; i < 6; ++i)
                out[mesh_.triangles[slot.triangle][i]] -= dot(of_slot[k], e.gradient[i]);
            continue;
        }
        for (const int patch : slot.patch) {
            const auto slopes = patches_->fits[patch].slopes(slot.at);
            of_patch[patch] += 0.5 * (of_slot[k].r * slopes[0] + of_slot[k].z * slopes[1]);
        }
    }
    for (std::size_t k = 0; k < of_patch.size(); ++k) {
        const auto& fit = patches_->fits[k];
        const Terms counts = fit.solve(of_patch[k]);
        for (std::size_t n = 0; n < fit.nodes.size(); ++n) out[fit.nodes[n]] += fit.terms[n].dot(counts);
    }
    return out;
}

std::vector<double> FieldReader::sum_of_weights() const {
    // With weights w of the nodes in a slope s, w = T N^-1 s and N = T' T: w . w = s . N^-1 s.
    std::vector<double> of_slot(slots_.size(), 0.0), out;
    for (std::size_t k = 0; k < slots_.size(); ++k) {
        const auto& slot = slots_[k];
        if (slot.is_raw()) {
            const auto e = evaluate(mesh_, slot.triangle, node_places[slot.node]);
            for (const auto& g : e.gradient) of_slot[k] += length(g);
            continue;
        }
        for (const int patch : slot.patch) {
            const auto& fit = patches_->fits[patch];
            double square = 0;
            for (const auto& slope : fit.slopes(slot.at)) square += slope.dot(fit.solve(slope));
            of_slot[k] += 0.5 * std::sqrt(static_cast<double>(fit.nodes.size()) * std::max(0.0, square));
        }
    }
    for (const auto& slots : slots_of_) {
        double most = 0;
        for (const int s : slots) most = std::max(most, of_slot[s]);
        out.push_back(most);
    }
    return out;
}

} // namespace ng
