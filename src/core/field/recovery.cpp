#include "field/recovery.h"
#include "mesh/pair_numbers.h"
#include <algorithm>
#include <cmath>
#include <limits>

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
    void add(Point p) {
        std::array<double, size> of_x, of_y;
        of_x[0] = of_y[0] = 1;
        for (std::size_t i = 1; i < size; ++i) of_x[i] = p.r * of_x[i - 1], of_y[i] = p.z * of_y[i - 1];
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

/// L D L^T of the normal equations N of as many terms as the nodes tell apart: all, or those up to squares,
/// whose factor is the first part of it. Scaled to patches of size 1 they need no pivoting.
class NormalFactor {
  public:
    NormalFactor(const Moments& moments, std::size_t nodes) {
        constexpr double least_pivot = 1e-9; // of the largest
        double most = 0, least = std::numeric_limits<double>::max();
        for (int i = 0; i < cubic_terms; ++i) {
            std::array<double, cubic_terms> row; // L D
            for (int j = 0; j <= i; ++j) {
                row[j] = moments.of(static_cast<std::size_t>(i), static_cast<std::size_t>(j));
                for (int k = 0; k < j; ++k) row[j] -= row[k] * below_[entry(j, k)];
                if (j < i) below_[entry(i, j)] = row[j] * inverse_[j];
            }
            most = std::max(most, row[i]), least = std::min(least, row[i]);
            if (!(least > least_pivot * most)) return;
            inverse_[i] = 1 / row[i];
            if (i + 1 == quadratic_terms && nodes >= quadratic_terms) terms_ = quadratic_terms;
        }
        if (nodes > cubic_terms) terms_ = cubic_terms;
    }
    bool usable() const { return terms_ > 0; }
    /// N^-1 right.
    Terms solve(const Terms& right) const {
        return terms_ == cubic_terms ? solved<cubic_terms>(right) : solved<quadratic_terms>(right);
    }
    /// right . N^-1 right
    double square(const Terms& right) const {
        return terms_ == cubic_terms ? squared_of<cubic_terms>(right) : squared_of<quadratic_terms>(right);
    }

  private:
    std::array<double, cubic_terms*(cubic_terms - 1) / 2> below_; ///< of L, row by row; its diagonal is 1
    std::array<double, cubic_terms> inverse_;                     ///< 1 / D
    int terms_ = 0;

    static constexpr std::size_t entry(int i, int j) { return static_cast<std::size_t>(i * (i - 1) / 2 + j); }

    template <int Count> void go_down(Terms& x) const {
        for (int i = 1; i < Count; ++i)
            for (int j = 0; j < i; ++j) x[i] -= below_[entry(i, j)] * x[j];
    }
    template <int Count> Terms solved(const Terms& right) const {
        Terms x = right;
        go_down<Count>(x);
        for (int i = 0; i < Count; ++i) x[i] *= inverse_[i];
        for (int i = Count - 1; i > 0; --i)
            for (int j = 0; j < i; ++j) x[j] -= below_[entry(i, j)] * x[i];
        for (int i = Count; i < cubic_terms; ++i) x[i] = 0;
        return x;
    }
    template <int Count> double squared_of(const Terms& right) const {
        Terms x = right;
        go_down<Count>(x);
        double sum = 0;
        for (int i = 0; i < Count; ++i) sum += x[i] * x[i] * inverse_[i];
        return sum;
    }
};

/// The terms at a place of a patch.
Terms terms_at(Point x) {
    const auto& [r, z] = x;
    Terms out;
    out << 1, r, z, r * r, r * z, z * z, r * r * r, r * r * z, r * z * z, z * z * z;
    return out;
}

/// Polynomial in (p - centre) / scale fitted to the potential at some nodes by least squares.
struct PatchFit {
    std::size_t begin, end; ///< of its nodes and of their places in Patches
    Point centre;
    Point scale; ///< of either axis by itself: patches in stretched spans are long and slender
    NormalFactor factor;

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
};

} // namespace

struct FieldReader::Patches {
    std::vector<PatchFit> fits;
    std::vector<int> nodes;    ///< of each fit; its corner first
    std::vector<Point> places; ///< of the nodes, (p - centre) / scale

    /// The polynomial of these potentials, but for its constant: what they have in common is taken off first,
    /// so that rounding sees differences.
    Terms fitted(const PatchFit& fit, const Eigen::VectorXd& potential_kV) const {
        Terms sum = Terms::Zero();
        const double own = potential_kV[nodes[fit.begin]];
        for (auto n = fit.begin + 1; n < fit.end; ++n)
            sum += (potential_kV[nodes[n]] - own) * terms_at(places[n]);
        return fit.factor.solve(sum);
    }
};

/// Makes the fits that are asked for.
class FieldReader::PatchMaker {
  public:
    PatchMaker(const Mesh& mesh, Patches& out)
        : mesh_(mesh), around_(mesh), finder_(mesh, around_), index_(mesh.nodes.size()), out_(out) {}

    /// Index of the fit round a corner in a region; -1: none can be made.
    int at(int corner, int region) {
        const auto [number, fresh] = index_.at(corner, region);
        if (!fresh) return number;
        const auto& nodes = finder_.nodes(corner, region);
        const auto begin = out_.nodes.size();
        out_.nodes.insert(out_.nodes.end(), nodes.begin(), nodes.end());
        const auto from = out_.nodes.begin() + static_cast<std::ptrdiff_t>(begin);
        std::iter_swap(from, std::find(from, out_.nodes.end(), corner));
        const Point centre = mesh_.nodes[corner];
        double r = 0, z = 0;
        for (const int node : nodes) {
            const Point p = mesh_.nodes[node] - centre;
            r = std::max(r, std::abs(p.r)), z = std::max(z, std::abs(p.z));
        }
        const Point scale{r > 0 ? r : 1, z > 0 ? z : 1};
        Moments moments;
        for (auto n = begin; n < out_.nodes.size(); ++n) {
            const Point p = mesh_.nodes[out_.nodes[n]] - centre;
            out_.places.push_back({p.r / scale.r, p.z / scale.z});
            moments.add(out_.places.back());
        }
        const PatchFit fit{begin, out_.nodes.size(), centre, scale, NormalFactor(moments, nodes.size())};
        if (!fit.factor.usable()) {
            out_.nodes.resize(begin);
            out_.places.resize(begin);
            return number;
        }
        number = static_cast<int>(out_.fits.size());
        out_.fits.push_back(fit);
        return number;
    }

  private:
    const Mesh& mesh_;
    CornerTriangles around_;
    PatchFinder finder_;
    PairNumbers index_;
    Patches& out_;
};

FieldReader::FieldReader(const Mesh& mesh, std::vector<Reading> places)
    : mesh_(mesh), places_(std::move(places)) {
    auto patches = std::make_shared<Patches>();
    PatchMaker fits(mesh, *patches);
    PairNumbers slot_of(mesh.nodes.size());
    for (const auto& place : places_) {
        const auto& nodes = mesh.triangles[place.triangle];
        const int region = mesh.region[place.triangle];
        std::array<int, 6> own{};
        for (std::size_t i = 0; i < 6; ++i) {
            const auto [slot, fresh] = slot_of.at(nodes[i], region);
            if (fresh) slot = static_cast<int>(slots_.size());
            own[i] = slot;
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
    for (const auto& fit : patches_->fits) fitted.push_back(patches_->fitted(fit, potential_kV));
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
        const Terms counts = fit.factor.solve(of_patch[k]);
        for (auto n = fit.begin; n < fit.end; ++n)
            out[patches_->nodes[n]] += terms_at(patches_->places[n]).dot(counts);
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
            for (const auto& slope : fit.slopes(slot.at)) square += fit.factor.square(slope);
            of_slot[k] += 0.5 * std::sqrt(static_cast<double>(fit.end - fit.begin) * square);
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
