#include "mesh/corner.h"
#include "mesh/mesh.h"
#include "units/promise.h"
#include <algorithm>
#include <boost/math/tools/roots.hpp>
#include <cmath>
#include <numbers>

namespace ng {
namespace {

/// Carries (V, weight V' / k) through a wedge, V = A cos k t + B sin k t.
struct Transfer {
    double vv = 1, vf = 0, fv = 0, ff = 1;
};

Transfer through(std::span<const Sector> sectors, double k) {
    Transfer all;
    for (const auto& s : sectors) {
        const double c = std::cos(k * s.angle_rad), d = std::sin(k * s.angle_rad);
        const Transfer one{c, d / s.weight, -s.weight * d, c};
        all = {one.vv * all.vv + one.vf * all.fv, one.vv * all.vf + one.vf * all.ff,
               one.fv * all.vv + one.ff * all.fv, one.fv * all.vf + one.ff * all.ff};
    }
    return all;
}

void check(std::span<const Sector> sectors) {
    promise(!sectors.empty(), "a corner has at least one sector");
    for (const auto& s : sectors)
        promise(s.weight > 0 && s.angle_rad > 0, "weights and angles of sectors are above 0");
}

/// Smallest root of f in (0, most), or `most`. f must not change its sign twice within a hundredth.
template <class F> double smallest_root(double most_k, F f) {
    const int steps = static_cast<int>(std::lround(100 * most_k));
    double before = 1e-6, value_before = f(before);
    for (int i = 1; i <= steps; ++i) {
        const double k = 0.01 * i, value = f(k);
        if (value == 0) return k;
        if ((value < 0) != (value_before < 0)) {
            std::uintmax_t most = 100;
            const auto [low, high] = boost::math::tools::toms748_solve(
                f, before, k, value_before, value, boost::math::tools::eps_tolerance<double>(46), most);
            return (low + high) / 2;
        }
        before = k;
        value_before = value;
    }
    return most_k;
}

} // namespace

double corner_order(std::span<const Sector> sectors, SectorEnd first, SectorEnd last) {
    check(sectors);
    constexpr double most = 2;
    if (sectors.size() == 1) // sines or cosines of k times its angle
        return std::min(most, (first == last ? 1 : 0.5) * std::numbers::pi / sectors.front().angle_rad);
    return smallest_root(most, [&](double k) {
        const auto t = through(sectors, k);
        if (first == SectorEnd::metal) return last == SectorEnd::metal ? t.vf : t.ff;
        return last == SectorEnd::metal ? t.vv : t.fv;
    });
}

double closed_corner_order(std::span<const Sector> sectors) {
    check(sectors);
    constexpr double rounding = 1e-9;
    if (sectors.size() == 2 && std::abs(sectors[0].angle_rad - std::numbers::pi) < rounding &&
        std::abs(sectors[1].angle_rad - std::numbers::pi) < rounding)
        return 1; // a smooth interface
    // Continuity all round: the transfer has the eigenvalue 1, and its determinant is 1, so its trace is 2.
    // At k = 0 it is 2 and falls; where it comes back to 2 is the first order.
    return smallest_root(1, [&](double k) {
        const auto t = through(sectors, k);
        return t.vv + t.ff - 2;
    });
}

double cone_tip_order(double angle_rad) {
    return std::clamp(1 - (angle_rad - std::numbers::pi / 2), 0.0, 2.0);
}

bool grows_without_limit(double order) {
    return std::pow(10, 1 - order) > 1 + growth_per_decade;
}

bool is_irregular(double order) {
    return std::abs(std::pow(10, 1 - order) - 1) > 1e-3 && order < 1.95;
}

const Mesh::Singular* corner_that_reaches(const std::vector<Mesh::Singular>& corners, Point p) {
    constexpr double rounding = 1e-9; // places are laid on the rim of a reach to be judged
    const auto it = std::find_if(corners.begin(), corners.end(), [&](const auto& corner) {
        return distance(corner.at, p) < corner.reach_mm * (1 - rounding);
    });
    return it == corners.end() ? nullptr : &*it;
}

} // namespace ng
