#include "mesh/arrangement.h"
#include "geometry/box.h"
#include <algorithm>
#include <cstdint>
#include <map>
#include <set>
#include <unordered_map>

namespace ng {
namespace {

/// Gives every point the index of an earlier point within the snap length, or a new one.
class SnappingSet {
  public:
    explicit SnappingSet(double snap_mm) : snap_(snap_mm) {}

    /// The end of a line, on_arc: only of a chord.
    int add_end(Point p, bool on_arc) {
        const auto before = points.size();
        const int index = add(p);
        on_arc_only[index] = on_arc && (points.size() > before || on_arc_only[index]);
        return index;
    }
    /// Where lines cross.
    int add(Point p) {
        const auto i = cell(p.r), j = cell(p.z);
        for (std::int64_t di = -1; di <= 1; ++di)
            for (std::int64_t dj = -1; dj <= 1; ++dj) {
                const auto [begin, end] = cells_.equal_range(key(i + di, j + dj));
                for (auto it = begin; it != end; ++it)
                    if (distance(points[it->second], p) <= snap_) return it->second;
            }
        points.push_back(p);
        on_arc_only.push_back(false);
        const int index = static_cast<int>(points.size()) - 1;
        cells_.emplace(key(i, j), index);
        return index;
    }
    std::vector<Point> points;
    std::vector<char> on_arc_only; ///< per point: nothing but the chords of arcs end there

  private:
    std::int64_t cell(double x) const { return static_cast<std::int64_t>(std::floor(x / snap_)); }
    static std::uint64_t key(std::int64_t i, std::int64_t j) {
        return static_cast<std::uint64_t>(i) * 0x9E3779B97F4A7C15ull ^ (static_cast<std::uint64_t>(j) << 1);
    }
    double snap_;
    std::unordered_multimap<std::uint64_t, int> cells_;
};

constexpr int most_rounds = 16;
constexpr double snap_of_arcs = 0.02; // of the snap length: of ends that only the chords of arcs have

/// An edge, and the line that it is part of: as given, for its own ends move when it is split.
struct Part : ArrangementEdge {
    std::size_t line;
};

/// Lines that several outlines share are kept once.
std::vector<Part> without_doubles(const std::vector<Part>& edges,
                                  std::set<std::pair<int, int>>& overlapping) {
    std::map<std::pair<int, int>, Part> unique;
    for (const auto& e : edges) {
        auto& kept = unique.try_emplace({std::min(e.a, e.b), std::max(e.a, e.b)}, e).first->second;
        if (kept.boundary >= 0 && e.boundary >= 0 && kept.boundary != e.boundary)
            overlapping.insert(std::minmax(kept.boundary, e.boundary));
        kept.arc = std::max(kept.arc, e.arc);
        kept.boundary = std::max(kept.boundary, e.boundary);
    }
    std::vector<Part> out;
    for (const auto& [ends, edge] : unique) out.push_back(edge);
    return out;
}

} // namespace

Arrangement arrange(const std::vector<ArrangementLine>& lines, double snap_mm) {
    SnappingSet set(snap_mm);
    std::vector<Part> edges;
    std::set<std::pair<int, int>> overlapping;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const auto& line = lines[i];
        const int a = set.add_end(line.a, line.a_on_arc), b = set.add_end(line.b, line.b_on_arc);
        if (a != b) edges.push_back({{a, b, line.arc, line.boundary}, i});
    }

    // Split at crossings and at vertices that lie on a line. A split can move an end by up to the snap length
    // and so uncover another one: repeat until nothing is split (a handful of rounds).
    for (int round = 0; round < most_rounds; ++round) {
        const auto n = edges.size();
        std::vector<std::vector<std::pair<double, int>>> cuts(n);
        std::vector<Box> boxes(n);
        auto at = [&](int i) { return set.points[i]; };
        for (std::size_t i = 0; i < n; ++i) {
            const Point a = at(edges[i].a), b = at(edges[i].b);
            boxes[i].take(a);
            boxes[i].take(b);
            boxes[i] = boxes[i].grown(snap_mm);
        }

        // Whether the edge passes the vertex, by itself or now.
        auto cut_at = [&](std::size_t edge, int vertex, double within_mm) {
            const auto& e = edges[edge];
            if (vertex == e.a || vertex == e.b) return true;
            const Point a = at(e.a), u = at(e.b) - a, p = at(vertex) - a;
            const double t = dot(p, u) / dot(u, u);
            if (t <= 0 || t >= 1 || length(p - t * u) > within_mm) return false;
            cuts[edge].emplace_back(t, vertex);
            return true;
        };
        // Whether the edge passes a vertex near the line that it was given as.
        auto cut_at_near = [&](std::size_t edge, int vertex) {
            const double near_mm = set.on_arc_only[vertex] ? snap_of_arcs * snap_mm : snap_mm;
            const auto& line = lines[edges[edge].line];
            const Point u = line.b - line.a, p = at(vertex) - line.a;
            if (std::abs(cross(u, p)) <= near_mm * length(u)) cut_at(edge, vertex, 2 * snap_mm);
        };
        // An end of `edge` that lies at most twice the snap length off another edge: its crossing with that
        // one is too near to the end to be a vertex of its own.
        auto cut_at_end = [&](std::size_t edge, std::size_t other) {
            for (const int vertex : {edges[edge].a, edges[edge].b})
                if (cut_at(other, vertex, 2 * snap_mm)) return;
        };
        each_meeting_pair(boxes, [&](std::size_t i, std::size_t j) {
            for (const int end : {edges[j].a, edges[j].b}) cut_at_near(i, end);
            for (const int end : {edges[i].a, edges[i].b}) cut_at_near(j, end);
            const Point a = at(edges[i].a), u = at(edges[i].b) - a, c = at(edges[j].a),
                        v = at(edges[j].b) - c;
            const double denominator = cross(u, v);
            if (std::abs(denominator) < 1e-12 * length(u) * length(v)) return;
            const double s = cross(c - a, v) / denominator, t = cross(c - a, u) / denominator;
            if (s < 0 || s > 1 || t < 0 || t > 1) return;
            const int vertex = set.add(a + s * u);
            // A vertex beyond the end of one of them is no place to cross: the other then goes by that
            // end.
            if (!cut_at(i, vertex, snap_mm)) cut_at_end(i, j);
            if (!cut_at(j, vertex, snap_mm)) cut_at_end(j, i);
        });

        bool changed = false;
        std::vector<Part> next;
        for (std::size_t i = 0; i < n; ++i) {
            std::sort(cuts[i].begin(), cuts[i].end());
            int from = edges[i].a;
            for (const auto& [t, vertex] : cuts[i]) {
                if (vertex == from) continue;
                next.push_back({{from, vertex, edges[i].arc, edges[i].boundary}, edges[i].line});
                from = vertex;
                changed = true;
            }
            if (from != edges[i].b)
                next.push_back({{from, edges[i].b, edges[i].arc, edges[i].boundary}, edges[i].line});
        }
        edges = without_doubles(next, overlapping);
        if (!changed) break;
    }
    edges = without_doubles(edges, overlapping);
    return {std::move(set.points), {edges.begin(), edges.end()}, {overlapping.begin(), overlapping.end()}};
}

} // namespace ng
