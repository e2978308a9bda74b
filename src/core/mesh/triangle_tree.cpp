#include "mesh/triangle_tree.h"
#include <algorithm>
#include <limits>
#include <numeric>

namespace ng {

TriangleTree::TriangleTree(const Mesh& mesh) : mesh_(mesh), order_(mesh.triangles.size()) {
    std::iota(order_.begin(), order_.end(), 0);
    nodes_.reserve(order_.size() / 2 + 2);
    nodes_.push_back({0, 0, 0, 0, 0, static_cast<int>(order_.size()), -1});
    split(0);
}

void TriangleTree::split(int node) {
    constexpr double far = std::numeric_limits<double>::max();
    double r0 = far, r1 = -far, z0 = far, z1 = -far;
    const int begin = nodes_[node].begin, end = nodes_[node].end;
    for (int k = begin; k < end; ++k)
        for (const int id : mesh_.triangles[order_[k]]) {
            const Point p = mesh_.nodes[id];
            r0 = std::min(r0, p.r), r1 = std::max(r1, p.r), z0 = std::min(z0, p.z), z1 = std::max(z1, p.z);
        }
    auto& self = nodes_[node];
    self.r0 = r0, self.r1 = r1, self.z0 = z0, self.z1 = z1;
    if (end - begin <= 6) return;
    const bool by_r = r1 - r0 > z1 - z0;
    const int middle = (begin + end) / 2;
    auto key = [&](int triangle) {
        const Point p = mesh_.nodes[mesh_.triangles[triangle][0]];
        return by_r ? p.r : p.z;
    };
    std::nth_element(order_.begin() + begin, order_.begin() + middle, order_.begin() + end,
                     [&](int a, int b) { return key(a) < key(b); });
    const int left = static_cast<int>(nodes_.size());
    self.left = left;
    nodes_.push_back({0, 0, 0, 0, begin, middle, -1});
    nodes_.push_back({0, 0, 0, 0, middle, end, -1});
    split(left);
    split(left + 1);
}

int TriangleTree::find(Point p, int region, double reach_mm) const {
    int best = -1;
    double best_outside = reach_mm;
    std::vector<int> stack{0};
    while (!stack.empty()) {
        const auto& node = nodes_[stack.back()];
        stack.pop_back();
        if (p.r < node.r0 - best_outside || p.r > node.r1 + best_outside || p.z < node.z0 - best_outside ||
            p.z > node.z1 + best_outside)
            continue;
        if (node.left >= 0) {
            stack.push_back(node.left);
            stack.push_back(node.left + 1);
            continue;
        }
        for (int k = node.begin; k < node.end; ++k) {
            const int id = order_[k];
            if (region >= 0 && mesh_.region[id] != region) continue;
            const auto x = map_to_reference(mesh_, id, p);
            const auto& t = mesh_.triangles[id];
            const double size = distance(mesh_.nodes[t[0]], mesh_.nodes[t[1]]);
            const double outside = -std::min({x.a, x.b, 1 - x.a - x.b}) * size; // about the distance, mm
            if (outside < best_outside) {
                best_outside = outside;
                best = id;
            }
        }
        if (best_outside <= 0) break;
    }
    return best;
}

} // namespace ng
