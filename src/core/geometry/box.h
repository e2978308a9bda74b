// The smallest upright rectangle round points.
#pragma once
#include "geometry/point.h"
#include <algorithm>
#include <limits>
#include <vector>

namespace ng {

struct Box {
    static constexpr double far = std::numeric_limits<double>::max();
    Point low{far, far}, high{-far, -far}; ///< nothing is in it yet
    void take(Point p) {
        low = {std::min(low.r, p.r), std::min(low.z, p.z)};
        high = {std::max(high.r, p.r), std::max(high.z, p.z)};
    }
    void take(const std::vector<Point>& points) {
        for (const auto& p : points) take(p);
    }
    bool holds(Point p) const { return p.r >= low.r && p.r <= high.r && p.z >= low.z && p.z <= high.z; }
    Point middle() const { return 0.5 * (low + high); }
};

} // namespace ng
