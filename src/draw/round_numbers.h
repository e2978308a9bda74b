// Round figures for scale bars and axes: 1, 2 or 5 times a power of ten.
#pragma once
#include <cmath>

namespace ng::draw {

/// The greatest that is at most this; above 0.
inline double round_at_most(double most) {
    const double power = std::pow(10, std::floor(std::log10(most))), share = most / power;
    return power * (share >= 5 ? 5 : share >= 2 ? 2 : 1);
}

/// The least that is at least this; above 0.
inline double round_at_least(double least) {
    const double power = std::pow(10, std::floor(std::log10(least))), share = least / power;
    return power * (share <= 1 ? 1 : share <= 2 ? 2 : share <= 5 ? 5 : 10);
}

} // namespace ng::draw
