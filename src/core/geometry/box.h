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
    Box grown(double by) const { return {low - Point{by, by}, high + Point{by, by}}; }
};

/// Calls `visit(i, j)` for each two boxes that meet, once, by a sweep along z.
template <class Visit> void each_meeting_pair(const std::vector<Box>& boxes, const Visit& visit) {
    std::vector<std::size_t> order(boxes.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::sort(order.begin(), order.end(), [&](auto i, auto j) { return boxes[i].low.z < boxes[j].low.z; });
    for (std::size_t x = 0; x < order.size(); ++x)
        for (std::size_t y = x + 1; y < order.size(); ++y) {
            const Box &a = boxes[order[x]], &b = boxes[order[y]];
            if (b.low.z > a.high.z) break;
            if (a.low.r <= b.high.r && b.low.r <= a.high.r) visit(order[x], order[y]);
        }
}

} // namespace ng
