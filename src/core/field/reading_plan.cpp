#include "field/reading_plan.h"
#include "field/tuning.h"
#include "geometry/box.h"
#include "mesh/triangle_tree.h"
#include <algorithm>
#include <limits>
#include <numbers>

namespace ng {

int region_index(const Section& section, const std::string& name) {
    for (std::size_t i = 0; i < section.regions.size(); ++i)
        if (section.regions[i].name == name) return static_cast<int>(i);
    return -1;
}

std::vector<double> sample_places(const Path& path) {
    constexpr int even_count = 300;
    constexpr double nearest_fraction = 3e-4,
                     growth = 1.2; // clusters at corners, until the even spacing takes over
    double total = 0;
    std::vector<double> corners{0};
    for (std::size_t i = 0; i + 1 < path.points.size(); ++i)
        corners.push_back(total += distance(path.points[i], path.points[i + 1]));
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

ReadingPlan::PathPlaces places_on(const Path& path, int region, const std::vector<Mesh::Singular>& corners) {
    ReadingPlan::PathPlaces out;
    out.region = region;
    auto s = sample_places(path);
    add_rims(s, path, corners);
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

/// Evenly over the arc, ends included: 32 on a quarter turn, more on arcs that are long beside the section.
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
    ReadingPlan::EdgePlaces out;
    out.arc = index;
    for (int i = 0; i <= count; ++i) {
        const double angle = arc.start_rad + arc.sweep_rad * i / count;
        out.angle_rad.push_back(angle);
        out.near_singular.push_back(at_a_sharp_point(mesh, arc, arc.at(angle)));
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
    for (const auto& path : section.paths) {
        out.paths.push_back(places_on(path, region_index(section, path.side), first.singular));
        out.paths.back().slack = slack(path.name);
    }
    const double diagonal = diagonal_of(first);
    for (std::size_t arc = 0; arc < first.arcs.size(); ++arc) {
        if (!slack.reads(first.arcs[arc].name)) continue;
        out.edges.push_back(places_on(first, static_cast<int>(arc), diagonal));
        out.edges.back().slack = slack(first.arcs[arc].name);
    }
    if (section.probes.empty()) return out;
    const TriangleTree tree(first);
    for (const auto& probe : section.probes)
        out.probes.push_back(places_round(probe, region_index(section, probe.side), first, tree));
    return out;
}

} // namespace ng
