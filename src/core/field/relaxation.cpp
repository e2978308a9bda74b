#include "field/relaxation.h"
#include "field/tuning.h"
#include "units/promise.h"
#include <Eigen/Eigenvalues>
#include <algorithm>
#include <array>
#include <boost/math/quadrature/gauss.hpp>
#include <cmath>

namespace ng {
namespace {

using Vector = Eigen::VectorXd;

/// The range of rates at which a state may be asked for, and what the slowest adds to it.
struct Rates {
    double slowest, from, to;
};

Rates rates_of(const Relaxation::Equations& equations, double end_s) {
    // Every rate of the section lies between those of its materials (Rayleigh's quotient).
    double least = std::numeric_limits<double>::max(), most = 0;
    for (std::size_t k = 0; k < equations.eps.size(); ++k) {
        const double rate = equations.rate_per_s[k] / equations.eps[k];
        least = std::min(least, rate), most = std::max(most, rate);
    }
    const double from = std::max(least, tuning::slowest_over_end / end_s);
    return {least, from, std::max(from, std::min(most, from * tuning::widest_range_of_rates))};
}

/// Norms of combinations of vectors that are all but the same, by their coordinates in a basis orthonormal in
/// K(eps): cancellation costs them no more than it costs a vector.
class Coordinates {
  public:
    explicit Coordinates(const Eigen::SparseMatrix<double>& eps) : eps_(eps) {}
    Vector of(Vector v) {
        const auto eps = eps_.selfadjointView<Eigen::Upper>();
        Vector out = Vector::Zero(static_cast<Eigen::Index>(basis_.size()) + 1);
        for (int again = 0; again < 2; ++again) { // twice is enough (Giraud, Langou, Rozloznik 2005)
            const Vector weighted = eps * v;
            for (std::size_t i = 0; i < basis_.size(); ++i) {
                const double share = basis_[i].dot(weighted);
                out[static_cast<Eigen::Index>(i)] += share;
                v -= share * basis_[i];
            }
        }
        const double left = std::sqrt(std::max(0.0, v.dot(eps * v)));
        if (!(left > tuning::new_of_state * out.norm())) return out;
        out[out.size() - 1] = left;
        basis_.push_back(v / left);
        return out;
    }
    Eigen::Index size() const { return static_cast<Eigen::Index>(basis_.size()); }

  private:
    const Eigen::SparseMatrix<double>& eps_;
    std::vector<Vector> basis_;
};

/// `into` += share * v, of which `into` may have more coordinates.
void add(Vector& into, double share, const Vector& v) {
    const auto n = std::min(into.size(), v.size());
    into.head(n) += share * v.head(n);
}

} // namespace

std::optional<Relaxation> Relaxation::of(const Equations& equations, const LinearSystem<double>& capacitive,
                                         const Waveform& wave, double end_s, double tolerance, double size,
                                         const CancelFlag* cancel) {
    promise(end_s > 0 && tolerance > 0, "there is a time to go through, to a tolerance");
    const auto& g = equations.drive;
    const auto eps = equations.eps_matrix.selfadjointView<Eigen::Upper>();
    const auto rate = equations.rate_matrix.selfadjointView<Eigen::Upper>();
    const auto range = rates_of(equations, end_s);
    Relaxation out;
    out.fastest_ = range.to;
    std::vector<double> candidates;
    for (double s = range.from; s < range.to; s *= tuning::ratio_of_rates) candidates.push_back(s);
    candidates.push_back(range.to);
    std::vector<char> used(candidates.size(), 0);

    LinearSystem<double> system(equations.assembly, cancel);
    Coordinates coordinates(equations.eps_matrix);
    // Of K(eps)^-1 times each term of the residual (s K(eps) + K) V y + g.
    const Vector of_g = coordinates.of(capacitive.solve_unknowns(g));
    std::vector<Vector> of_v, of_k_v;
    Eigen::MatrixXd projected; // v.K v
    Vector load;               // v.g
    struct Bound {
        double error, rounding;
    };
    // Of the error at rate s in the norm of K(eps), and what of it may be rounding.
    const auto bound = [&](double s) {
        const auto m = static_cast<Eigen::Index>(out.states_.size());
        Vector residual = Vector::Zero(coordinates.size() + 1);
        add(residual, 1, of_g);
        double terms = of_g.norm();
        if (m > 0) {
            Eigen::MatrixXd matrix = projected;
            matrix.diagonal().array() += s;
            const Vector y = -matrix.ldlt().solve(load);
            for (Eigen::Index i = 0; i < m; ++i) {
                const auto &v = of_v[static_cast<std::size_t>(i)], &k_v = of_k_v[static_cast<std::size_t>(i)];
                add(residual, s * y[i], v);
                add(residual, y[i], k_v);
                terms += std::abs(y[i]) * (s * v.norm() + k_v.norm());
            }
        }
        const double unit = wave.content(s) / (s + range.slowest);
        return Bound{unit * residual.norm(), unit * tuning::rounding_of_states * terms};
    };
    for (;;) {
        if (cancel && cancel->load(std::memory_order_relaxed)) return {};
        double largest = 0, largest_unused = 0;
        std::size_t worst = candidates.size();
        out.converged_ = true;
        for (std::size_t k = 0; k < candidates.size(); ++k) {
            const auto b = bound(candidates[k]);
            largest = std::max(largest, b.error);
            if (b.error <= std::max(tolerance * size, b.rounding)) continue;
            out.converged_ = false;
            if (!used[k] && b.error > largest_unused) largest_unused = b.error, worst = k;
        }
        out.bounds_.resize(out.states_.size()); // one that brought nothing new changes nothing
        out.bounds_.push_back(largest);
        if (worst == candidates.size() || static_cast<int>(out.states_.size()) >= tuning::most_states) break;
        const double s = candidates[worst];
        used[worst] = 1;
        std::vector<double> sum;
        for (std::size_t k = 0; k < equations.eps.size(); ++k)
            sum.push_back(s * equations.eps[k] + equations.rate_per_s[k]);
        system.set(sum);
        if (!system.factorise()) return {};
        Vector v = system.solve_unknowns(g);
        const double whole = std::sqrt(v.dot(eps * v));
        for (int again = 0; again < 2; ++again) { // twice is enough (Giraud, Langou, Rozloznik 2005)
            const Vector weighted = eps * v;
            for (const auto& other : out.states_) v -= other.dot(weighted) * other;
        }
        const double left = std::sqrt(std::max(0.0, v.dot(eps * v)));
        if (!(left > tuning::new_of_state * whole)) continue; // nothing new: the others have it
        v /= left;
        const Vector k_v = rate * v;
        const auto m = static_cast<Eigen::Index>(out.states_.size());
        projected.conservativeResize(m + 1, m + 1);
        load.conservativeResize(m + 1);
        for (Eigen::Index i = 0; i < m; ++i)
            projected(i, m) = projected(m, i) = out.states_[static_cast<std::size_t>(i)].dot(k_v);
        projected(m, m) = v.dot(k_v);
        load[m] = v.dot(g);
        of_v.push_back(coordinates.of(v));
        of_k_v.push_back(coordinates.of(capacitive.solve_unknowns(k_v)));
        out.states_.push_back(std::move(v));
    }
    out.projected_ = std::move(projected);
    out.load_ = std::move(load);
    return out;
}

double Relaxation::left_of(std::size_t count) const {
    promise(count < bounds_.size(), "no more states than there are");
    return bounds_[count] > 0 ? bounds_.back() / bounds_[count] : 0;
}

Relaxation::Course::Course(const Relaxation& relaxation, const Waveform& wave, std::size_t count)
    : wave_(wave) {
    promise(count <= relaxation.states_.size(), "no more states than there are");
    const auto m = static_cast<Eigen::Index>(count);
    if (m == 0) return;
    // Rates lie up to twelve decades apart: longer figures keep the slow ones.
    using Long = Eigen::Matrix<long double, Eigen::Dynamic, Eigen::Dynamic>;
    const Eigen::SelfAdjointEigenSolver<Long> modes(
        Long(relaxation.projected_.topLeftCorner(m, m).cast<long double>()));
    rate_ = modes.eigenvalues().cast<double>().cwiseMax(0.0);
    of_mode_ = modes.eigenvectors().cast<double>();
    load_ = of_mode_.transpose() * relaxation.load_.head(m);
    mode_ = Vector::Zero(m);
}

void Relaxation::Course::go_to(double t_s) {
    promise(t_s >= t_, "instants come in order");
    const double whole = t_s - t_;
    if (!(whole > 0)) return;
    constexpr int parts = 2, nodes = 4;
    for (int part = 0; part < parts; ++part) {
        const double begin = t_s - whole * (parts - part) / parts, h = whole / parts;
        // The wave as the cubic through four instants, as powers of the share of the step that has gone by.
        std::array<double, nodes> w;
        for (int i = 0; i < nodes; ++i)
            w[static_cast<std::size_t>(i)] =
                wave_.at(i == nodes - 1 && part == parts - 1 ? t_s : begin + h * i / (nodes - 1));
        const std::array<double, nodes> power{w[0], -5.5 * w[0] + 9 * w[1] - 4.5 * w[2] + w[3],
                                              9 * w[0] - 22.5 * w[1] + 18 * w[2] - 4.5 * w[3],
                                              -4.5 * w[0] + 13.5 * w[1] - 13.5 * w[2] + 4.5 * w[3]};
        for (Eigen::Index k = 0; k < mode_.size(); ++k) {
            const double x = rate_[k] * h;
            // Integrals of exp(-x (1 - u)) u^i over the step.
            std::array<double, nodes> share;
            if (x > 1) {
                share[0] = -std::expm1(-x) / x;
                for (int i = 1; i < nodes; ++i)
                    share[static_cast<std::size_t>(i)] = (1 - i * share[static_cast<std::size_t>(i) - 1]) / x;
            } else {
                for (int i = 0; i < nodes; ++i)
                    share[static_cast<std::size_t>(i)] =
                        boost::math::quadrature::gauss<double, 10>::integrate(
                            [&](double u) { return std::exp(-x * (1 - u)) * std::pow(u, i); }, 0.0, 1.0);
            }
            double source = 0;
            for (std::size_t i = 0; i < nodes; ++i) source += power[i] * share[i];
            mode_[k] = std::exp(-x) * mode_[k] - load_[k] * h * source;
        }
    }
    t_ = t_s;
}

Eigen::VectorXd Relaxation::Course::shares() const {
    return mode_.size() > 0 ? Vector(of_mode_ * mode_) : Vector();
}

} // namespace ng
