#include "field/reading_plan.h"
#include "field/tuning.h"
#include "geometry/box.h"
#include "mesh/triangle_tree.h"
#include <algorithm>
#include <limits>
#include <numbers>
#include <queue>

namespace ng {

int region_index(const Section& section, const std::string& name) {
    for (std::size_t i = 0; i < section.regions.size(); ++i)
        if (section.regions[i].name == name) return static_cast<int>(i);
    return -1;
}

std::vector<double> sample_places(const Path& path) {
    constexpr int even_count = 300;
    constexpr double nearest_fraction = 3e-4,
                     growth = 1.2;         // clusters at corners, until the even spacing takes over
    constexpr double least_turn_rad = 0.3; // less: chords of what is round
    const auto& p = path.points;
    double total = 0;
    std::vector<double> corners{0};
    for (std::size_t i = 1; i < p.size(); ++i) {
        const Point along = p[i] - p[i - 1];
        total += length(along);
        const Point next = i + 1 < p.size() ? p[i + 1] - p[i] : -1 * along; // its end is a corner
        if (std::abs(std::atan2(cross(along, next), dot(along, next))) > least_turn_rad)
            corners.push_back(total);
    }
    std::vector<double> places;
    for (int i = 0; i <= even_count; ++i) places.push_back(total * i / even_count);
    for (const double corner : corners)
        for (const double sign : {-1.0, 1.0})
            for (double d = nearest_fraction * total; d * (growth - 1) < total / even_count; d *= growth) {
                const double s = corner + sign * d;
                if (s > 0 && s < total) places.push_back(s);
            }
    std::sort(places.begin(), places.end());
    places.erase(
        std::unique(places.begin(), places.end(), [&](double a, double b) { return b - a < 1e-5 * total; }),
        places.end());
    places.back() = total;
    return places;
}

Point point_on_path(const Path& path, double s_mm, Point* direction) {
    double left = s_mm;
    for (std::size_t i = 0; i + 1 < path.points.size(); ++i) {
        const Point a = path.points[i], b = path.points[i + 1];
        const double piece = distance(a, b);
        if (left <= piece || i + 2 == path.points.size()) {
            const Point u = (1 / piece) * (b - a);
            if (direction) *direction = u;
            return a + std::min(left, piece) * u;
        }
        left -= piece;
    }
    return path.points.back();
}

std::vector<ArcPiece> pieces_of(const Mesh& mesh, int arc_index) {
    const Arc& arc = mesh.arcs[arc_index].arc;
    const double sign = arc.sweep_rad > 0 ? 1 : -1, sweep = std::abs(arc.sweep_rad);
    const auto share = [&](Point p, double near) {
        const Point d = p - arc.centre;
        double along = sign * (std::atan2(d.z, d.r) - arc.start_rad);
        along -= 2 * std::numbers::pi * std::round((along - near * sweep) / (2 * std::numbers::pi));
        return along / sweep;
    };
    std::vector<ArcPiece> out;
    for (std::size_t k = 0; k < mesh.arc_edges.size(); ++k) {
        if (mesh.arc_of_edge[k] != arc_index) continue;
        const auto& n = mesh.arc_edges[k];
        const auto node = [&](std::size_t i) { return mesh.nodes[n[i]]; };
        const double middle = share(node(2), 0.5); // never at an end, so never ambiguous
        const double a = share(node(0), middle), b = share(node(1), middle);
        out.push_back({std::min(a, b), std::max(a, b), k, a > b});
    }
    std::sort(out.begin(), out.end(), [](const auto& x, const auto& y) { return x.from < y.from; });
    return out;
}

namespace {

/// Where the path leaves the reach of a sharp corner: the first place beyond it that is judged. Without it
/// the figure read beside a corner would hang on how the even places happen to fall.
void add_rims(std::vector<double>& places, const Path& path, const std::vector<Mesh::Singular>& corners) {
    double before = 0;
    for (std::size_t i = 0; i + 1 < path.points.size(); ++i) {
        const Point a = path.points[i], u = path.points[i + 1] - a;
        const double piece = length(u);
        for (const auto& corner : corners) {
            const double along = dot(corner.at - a, u) / piece, off = cross(corner.at - a, u) / piece;
            if (corner.reach_mm <= 0 || std::abs(off) >= corner.reach_mm) continue;
            const double half = std::sqrt(corner.reach_mm * corner.reach_mm - off * off);
            for (const double s : {along - half, along + half})
                if (s > 0 && s < piece) places.push_back(before + s);
        }
        before += piece;
    }
    std::sort(places.begin(), places.end());
    places.erase(std::unique(places.begin(), places.end()), places.end());
}

/// Whether a place on an arc is near a point of the same arc where the field has no limit. Such a point may
/// lie on a chord of the arc: where another outline crosses it.
bool at_a_sharp_point(const Mesh& mesh, const Arc& arc, Point p) {
    constexpr double share_of_radius = 0.25, on_the_arc = 1e-3;
    const double height_of_chord = 1 - std::cos(tuning::coarse_arc_step_rad / 2);
    return std::any_of(mesh.singular.begin(), mesh.singular.end(), [&](const auto& corner) {
        const double beyond = distance(corner.at, arc.centre) / arc.radius_mm - 1;
        return beyond < on_the_arc && beyond > -height_of_chord - on_the_arc &&
               distance(corner.at, p) < std::min(corner.reach_mm, share_of_radius * arc.radius_mm);
    });
}

/// Divides the stretches between rising places until none is longer than half the triangles there: where the
/// mesh is fine outlines are close, and a field may rise and fall between even places. `length(s)`: of the
/// triangle at s; `skip(s)`: whether nothing is judged there.
template <class Length, class Skip>
void divide_by_mesh(std::vector<double>& places, const Length& length, const Skip& skip) {
    constexpr double most_triangles = 0.5;
    constexpr std::size_t most_added = 2000; // more: along what is thin for long
    struct Part {
        double from, to, at_from, at_to;
        double triangles() const { return (to - from) / std::min(at_from, at_to); }
        bool operator<(const Part& other) const { return triangles() < other.triangles(); }
    };
    std::priority_queue<Part> open;
    double before = length(places.front());
    for (std::size_t i = 1; i < places.size(); ++i) {
        const double next = length(places[i]);
        open.push({places[i - 1], places[i], before, next});
        before = next;
    }
    for (const auto most = places.size() + most_added; !open.empty() && places.size() < most;) {
        const auto longest = open.top();
        if (!(longest.triangles() > most_triangles)) break;
        open.pop();
        const double middle = (longest.from + longest.to) / 2;
        if (skip(middle)) continue;
        const double here = length(middle);
        places.push_back(middle);
        open.push({longest.from, middle, longest.at_from, here});
        open.push({middle, longest.to, here, longest.at_to});
    }
    std::sort(places.begin(), places.end());
}

ReadingPlan::PathPlaces places_on(const Path& path, int region, const Mesh& mesh, const TriangleTree& tree) {
    const auto& corners = mesh.singular;
    ReadingPlan::PathPlaces out;
    out.region = region;
    auto s = sample_places(path);
    add_rims(s, path, corners);
    int near = -1;
    divide_by_mesh(
        s,
        [&](double at) {
            Point u;
            const Point p = point_on_path(path, at, &u);
            near = tree.find(p, region, 3e-2, near);
            if (near < 0) return std::numeric_limits<double>::max();
            const auto& n = mesh.triangles[near];
            const auto [low, high] =
                std::minmax({dot(mesh.nodes[n[0]], u), dot(mesh.nodes[n[1]], u), dot(mesh.nodes[n[2]], u)});
            return high - low;
        },
        [&](double at) { return corner_that_reaches(corners, point_on_path(path, at)) != nullptr; });
    for (std::size_t i = 0; i < s.size(); ++i) {
        Point u;
        PathSample sample;
        sample.s_mm = s[i];
        sample.at = point_on_path(path, s[i], &u);
        sample.near_singular = corner_that_reaches(corners, sample.at) != nullptr;
        out.samples.push_back(sample);
        out.direction.push_back(u);
        out.share_mm.push_back(i == 0 || i + 1 == s.size() ? 0 : s[i + 1] - s[i - 1]);
    }
    return out;
}

double diagonal_of(const Mesh& mesh) {
    Box box;
    for (const auto& p : mesh.nodes) box.take(p);
    return distance(box.low, box.high);
}

/// Evenly over the arc, ends included: 32 on a quarter turn, more on arcs that are long beside the section,
/// and where the mesh is finer than that.
ReadingPlan::EdgePlaces places_on(const Mesh& mesh, int index, double diagonal_mm) {
    constexpr double step_rad = std::numbers::pi / 64;
    constexpr double step_share = 1.0 / 600; // of the section's diagonal
    constexpr int most = 300;
    const Arc& arc = mesh.arcs[index].arc;
    const double sweep = std::abs(arc.sweep_rad);
    const int by_angle = static_cast<int>(std::ceil(sweep / step_rad));
    const int by_length =
        static_cast<int>(std::min<double>(most, arc.radius_mm * sweep / (step_share * diagonal_mm)));
    const int count = std::max({8, by_angle, by_length});
    std::vector<double> shares;
    for (int i = 0; i <= count; ++i) shares.push_back(static_cast<double>(i) / count);
    const auto at = [&](double share) { return arc.at(arc.start_rad + arc.sweep_rad * share); };
    const auto pieces = pieces_of(mesh, index);
    divide_by_mesh(
        shares,
        [&](double share) {
            const auto piece = std::partition_point(pieces.begin(), pieces.end(),
                                                    [&](const auto& other) { return other.to < share; });
            if (piece == pieces.end() || piece->from > share) return std::numeric_limits<double>::max();
            return piece->to - piece->from;
        },
        [&](double share) { return at_a_sharp_point(mesh, arc, at(share)); });
    ReadingPlan::EdgePlaces out;
    out.arc = index;
    for (const double share : shares) {
        out.share.push_back(share);
        out.at.push_back(at(share));
        out.near_singular.push_back(at_a_sharp_point(mesh, arc, out.at.back()));
    }
    return out;
}

/// Six places round a probe that the first mesh finds in its region.
ReadingPlan::ProbePlaces places_round(const Probe& probe, int region, const Mesh& mesh,
                                      const TriangleTree& tree) {
    constexpr double radius_sizes = 0.3;
    ReadingPlan::ProbePlaces out;
    out.region = region;
    const int t = tree.find(probe.at, region, 3e-2);
    if (t < 0) return out;
    const auto& n = mesh.triangles[t];
    const auto corner = [&](std::size_t i) { return mesh.nodes[n[i]]; };
    const double radius =
        radius_sizes * std::sqrt(std::abs(cross(corner(1) - corner(0), corner(2) - corner(0))));
    for (int k = 0; k < 6; ++k) {
        const double angle = (k + 0.3) * std::numbers::pi / 3;
        const Point p{probe.at.r + radius * std::cos(angle), probe.at.z + radius * std::sin(angle)};
        if (tree.find(p, region, 1e-9) >= 0) out.round.push_back(p);
    }
    return out;
}

} // namespace

ReadingPlan ReadingPlan::of(const Section& section, const Mesh& first, const Slack& slack) {
    ReadingPlan out;
    out.corners = first.singular;
    const TriangleTree tree(first);
    for (const auto& path : section.paths) {
        out.paths.push_back(places_on(path, region_index(section, path.side), first, tree));
        out.paths.back().slack = slack(path.name);
    }
    const double diagonal = diagonal_of(first);
    for (std::size_t arc = 0; arc < first.arcs.size(); ++arc) {
        if (!slack.reads(first.arcs[arc].name)) continue;
        out.edges.push_back(places_on(first, static_cast<int>(arc), diagonal));
        out.edges.back().slack = slack(first.arcs[arc].name);
    }
    for (const auto& probe : section.probes)
        out.probes.push_back(places_round(probe, region_index(section, probe.side), first, tree));
    return out;
}

} // namespace ng
