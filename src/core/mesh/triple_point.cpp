#include "mesh/triple_point.h"
#include <algorithm>
#include <boost/math/tools/roots.hpp>
#include <cmath>
#include <numbers>

namespace ng {

double triple_point_order(double eps_r, double other_eps_r, double angle_rad) {
    const double rest = std::numbers::pi - angle_rad;
    // Falls from +infinity at 0 to -infinity where the larger cotangent has its pole.
    const auto excess = [&](double k) {
        return eps_r / std::tan(k * angle_rad) + other_eps_r / std::tan(k * rest);
    };
    const double pole = std::numbers::pi / std::max(angle_rad, rest);
    std::uintmax_t steps = 100;
    const auto [low, high] = boost::math::tools::bisect(excess, 1e-9 * pole, (1 - 1e-9) * pole,
                                                        boost::math::tools::eps_tolerance<double>(46), steps);
    return (low + high) / 2;
}

} // namespace ng
