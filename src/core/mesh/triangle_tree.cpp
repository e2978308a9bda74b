#include "mesh/triangle_tree.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace ng {

namespace {

constexpr int leaf = 6; // triangles in one
constexpr double rounding = 1e-9;

/// Where on a side, 0 to 1 from `a` to `b` by way of `middle` at a half, it is nearest to `p`.
double nearest_on_side(Point a, Point b, Point middle, bool curved, Point p) {
    const Point u = b - a, bow = 4 * (middle - 0.5 * (a + b)); // a + t u + t (1 - t) bow
    double t = std::clamp(dot(p - a, u) / std::max(dot(u, u), std::numeric_limits<double>::min()), 0.0, 1.0);
    for (int step = 0; curved && step < 4; ++step) { // nearly straight: two steps do
        const Point miss = a + t * u + t * (1 - t) * bow - p, along = u + (1 - 2 * t) * bow;
        const double curvature = dot(along, along) - 2 * dot(miss, bow);
        if (!(curvature > 0)) break;
        t = std::clamp(t - dot(miss, along) / curvature, 0.0, 1.0);
    }
    return t;
}

double least_coordinate(Reference x) {
    return std::min({x.a, x.b, 1 - x.a - x.b});
}

} // namespace

Reference nearest_point(const Mesh& mesh, int triangle, Point p) {
    const auto inside = map_to_reference(mesh, triangle, p);
    if (least_coordinate(inside) >= 0) return inside;
    constexpr Reference corner[3] = {{0, 0}, {1, 0}, {0, 1}};
    const auto& n = mesh.triangles[triangle];
    Reference best;
    double least = std::numeric_limits<double>::max();
    for (std::size_t side = 0; side < 3; ++side) {
        const std::size_t next = (side + 1) % 3;
        const double t = nearest_on_side(mesh.nodes[n[side]], mesh.nodes[n[next]], mesh.nodes[n[3 + side]],
                                         mesh.curved[triangle], p);
        const Reference x{corner[side].a + t * (corner[next].a - corner[side].a),
                          corner[side].b + t * (corner[next].b - corner[side].b)};
        const double away = distance(map_to_section(mesh, triangle, x), p);
        if (away < least) least = away, best = x;
    }
    return best;
}

namespace {

Box box_of(const Mesh& mesh, std::size_t triangle) {
    Box box;
    for (const int node : mesh.triangles[triangle]) box.take(mesh.nodes[node]);
    return box;
}

} // namespace

TriangleTree::TriangleTree(const Mesh& mesh) : mesh_(mesh) {
    const auto count = mesh.triangles.size();
    std::vector<Box> boxes;
    boxes.reserve(count);
    shapes_.reserve(count);
    for (std::size_t t = 0; t < count; ++t) {
        const auto& n = mesh.triangles[t];
        const Point o = mesh.nodes[n[0]], u = mesh.nodes[n[1]] - o, v = mesh.nodes[n[2]] - o;
        const double longest = std::sqrt(std::max({dot(u, u), dot(v, v), dot(v - u, v - u)}));
        double bow = 0;
        for (std::size_t side = 0; side < 3 && mesh.curved[t]; ++side)
            bow = std::max(bow, distance(mesh.nodes[n[3 + side]],
                                         0.5 * (mesh.nodes[n[side]] + mesh.nodes[n[(side + 1) % 3]])));
        shapes_.push_back({o, u, v, cross(u, v), longest, bow, mesh.region[t]});
        boxes.push_back(box_of(mesh, t));
    }
    nodes_.reserve(count / 2 + 2);
    nodes_.push_back({{}, 0, static_cast<int>(count), -1});
    halve(0, boxes);
}

void TriangleTree::halve(int node, const std::vector<Box>& boxes) {
    const int begin = nodes_[node].begin, end = nodes_[node].end;
    Box box;
    const auto take = [&](const Box& part) { box.take(part.low), box.take(part.high); };
    if (end - begin <= leaf) {
        for (int k = begin; k < end; ++k) take(boxes[k]);
    } else {
        const int middle = (begin + end) / 2, left = static_cast<int>(nodes_.size());
        nodes_[node].left = left;
        nodes_.push_back({{}, begin, middle, -1});
        nodes_.push_back({{}, middle, end, -1});
        for (const int child : {left, left + 1}) {
            halve(child, boxes);
            take(nodes_[child].box);
        }
    }
    nodes_[node].box = box;
}

/// The least of the three reference coordinates of `p`, times twice the area: divided by that it is
/// map_to_reference()'s. Of a bent triangle whose straight one is further than `reach_mm` from `p`, that
/// one's.
double TriangleTree::least_coordinate_of(int triangle, Point p, double reach_mm) const {
    const auto& shape = shapes_[static_cast<std::size_t>(triangle)];
    const Point d = p - shape.corner;
    const double a = cross(d, shape.v), b = cross(shape.u, d);
    const double straight = std::min({a, b, shape.twice_area - a - b});
    if (shape.bow == 0 || -straight > (reach_mm + shape.bow) * shape.longest) return straight;
    return shape.twice_area * least_coordinate(map_to_reference(mesh_, triangle, p));
}

int TriangleTree::find(Point p, int region, double reach_mm, int first) const {
    if (first >= 0) {
        const auto& shape = shapes_[static_cast<std::size_t>(first)];
        if ((region < 0 || shape.region == region) &&
            least_coordinate_of(first, p, 0) >= -rounding * shape.twice_area)
            return first;
    }
    // What lies in no triangle is mostly a hair's breadth off one: all within a far reach are many.
    constexpr double near_mm = 1e-3, further = 30;
    for (double reach = std::min(near_mm, reach_mm);; reach = std::min(further * reach, reach_mm))
        if (const int found = find_within(p, region, reach); found >= 0 || reach >= reach_mm) return found;
}

int TriangleTree::find_within(Point p, int region, double reach_mm) const {
    constexpr double bent = 0.5; // sides of curved triangles: nearly straight
    int best = -1;
    double best_outside = reach_mm;
    std::array<int, 64> stack; // halves: one more than there are levels
    std::size_t open = 0;
    stack[open++] = 0;
    while (open > 0) {
        const auto& node = nodes_[stack[--open]];
        if (!node.box.grown(best_outside).holds(p)) continue;
        if (node.left >= 0) {
            stack[open++] = node.left;
            stack[open++] = node.left + 1;
            continue;
        }
        for (int k = node.begin; k < node.end; ++k) {
            const auto& shape = shapes_[static_cast<std::size_t>(k)];
            if (region >= 0 && shape.region != region) continue;
            const double least = least_coordinate_of(k, p, best_outside);
            if (least >= -rounding * shape.twice_area) return k;
            // No less far away than that, whatever side is the nearest.
            if (-least * (shape.bow > 0 ? bent : 1) > best_outside * shape.longest) continue;
            const double outside = distance(map_to_section(mesh_, k, nearest_point(mesh_, k, p)), p);
            if (outside < best_outside) {
                best_outside = outside;
                best = k;
            }
        }
    }
    return best;
}

} // namespace ng
