#include "field/sampling.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {

const PathResult* Solution::path(const std::string& name) const {
    const auto it = std::find_if(paths.begin(), paths.end(), [&](const auto& p) { return p.name == name; });
    return it == paths.end() ? nullptr : &*it;
}

const EdgeResult* Solution::edge(const std::string& name) const {
    const auto it = std::find_if(edges.begin(), edges.end(), [&](const auto& e) { return e.name == name; });
    return it == edges.end() ? nullptr : &*it;
}

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

Reading locate(const Mesh& mesh, const TriangleTree& tree, Point p, int region) {
    Reading reading;
    for (const double reach : {1e-3, 3e-2}) { // the second reach: a straight path beside an arc's chord
        reading.triangle = tree.find(p, region, reach);
        if (reading.triangle >= 0) break;
    }
    if (reading.triangle < 0) return reading;
    auto x = map_to_reference(mesh, reading.triangle, p);
    x.a = std::clamp(x.a, 0.0, 1.0);
    x.b = std::clamp(x.b, 0.0, 1.0 - x.a);
    reading.at = x;
    return reading;
}

namespace {

double potential_at(const Solution& solution, const Reading& reading) {
    const auto n = shape_values(reading.at);
    double v = 0;
    for (std::size_t i = 0; i < 6; ++i)
        v += n[i] *
             solution.potential_kV[solution.mesh->triangles[static_cast<std::size_t>(reading.triangle)][i]];
    return v;
}

/// Five places on each mesh edge of an electrode arc, in the coordinates of the triangle beside it.
std::array<Reference, 5> places_on_side(const Mesh& mesh, std::size_t arc_edge) {
    const auto& t = mesh.triangles[static_cast<std::size_t>(mesh.arc_edge_triangle[arc_edge])];
    const Reference corner[3] = {{0, 0}, {1, 0}, {0, 1}};
    std::array<Reference, 5> out;
    for (std::size_t side = 0; side < 3; ++side)
        if (t[3 + side] == mesh.arc_edges[arc_edge][2])
            for (std::size_t k = 0; k < 5; ++k) {
                const double f = static_cast<double>(k) / 4;
                const auto &a = corner[side], &b = corner[(side + 1) % 3];
                out[k] = {a.a + f * (b.a - a.a), a.b + f * (b.b - a.b)};
            }
    return out;
}

void add_reading(const Solution& solution, const Reading& reading, Point direction, double weight,
                 Eigen::VectorXd& load) {
    const auto e = evaluate(*solution.mesh, reading.triangle, reading.at);
    for (std::size_t i = 0; i < 6; ++i)
        load[solution.mesh->triangles[static_cast<std::size_t>(reading.triangle)][i]] -=
            weight * dot(direction, e.gradient[i]);
}

} // namespace

Result<std::vector<PathResult>> sample_paths(const Section& section, const Solution& solution,
                                             const TriangleTree& tree) {
    std::vector<PathResult> results;
    for (const auto& path : section.paths) {
        PathResult result;
        result.name = path.name;
        result.side = path.side;
        const int region = region_index(section, path.side);
        for (const double s : sample_places(path)) {
            Point u;
            const Point p = point_on_path(path, s, &u);
            const auto reading = locate(*solution.mesh, tree, p, region);
            if (reading.triangle < 0)
                return refuse(
                    "path " + path.name,
                    fmt::format("point [{:.4g}, {:.4g}] is outside region “{}”", p.r, p.z, path.side),
                    "Keep the path in or along that region");
            const Point e = solution.recovered.at(reading.triangle, reading.at);
            PathSample sample;
            sample.s_mm = s;
            sample.at = p;
            sample.potential_kV = potential_at(solution, reading);
            sample.E_t_kV_per_mm = dot(e, u);
            sample.E_n_kV_per_mm = dot(e, {u.z, -u.r});
            sample.E_kV_per_mm = length(e);
            sample.near_singular = std::any_of(
                solution.mesh->singular.begin(), solution.mesh->singular.end(),
                [&](const auto& corner) { return distance(corner.at, p) < corner.reach_mm * (1 - 1e-9); });
            if (!sample.near_singular && sample.E_kV_per_mm > result.peak_kV_per_mm) {
                result.peak_kV_per_mm = sample.E_kV_per_mm;
                result.peak_s_mm = s;
                result.peak_at = p;
            }
            result.samples.push_back(sample);
        }
        results.push_back(std::move(result));
    }
    return results;
}

Result<std::vector<ProbeResult>> sample_probes(const Section& section, const Solution& solution,
                                               const TriangleTree& tree) {
    std::vector<ProbeResult> results;
    for (const auto& probe : section.probes) {
        const auto reading = locate(*solution.mesh, tree, probe.at, region_index(section, probe.side));
        if (reading.triangle < 0)
            return refuse("probe " + probe.name, "it is outside region “" + probe.side + "”", "Move it");
        results.push_back({probe.name, probe.at, potential_at(solution, reading),
                           solution.recovered.at(reading.triangle, reading.at)});
    }
    return results;
}

std::vector<EdgeResult> sample_edges(const Section& section, const Solution& solution) {
    const auto& mesh = *solution.mesh;
    std::vector<EdgeResult> results;
    for (const auto& arc : mesh.arcs) {
        EdgeResult result;
        result.electrode = section.electrodes[static_cast<std::size_t>(arc.electrode)].name;
        result.name = arc.name;
        result.radius_mm = arc.arc.radius_mm;
        results.push_back(result);
    }
    for (std::size_t k = 0; k < mesh.arc_edges.size(); ++k) {
        auto& result = results[static_cast<std::size_t>(mesh.arc_of_edge[k])];
        for (const auto& x : places_on_side(mesh, k)) {
            const double e = length(solution.recovered.at(mesh.arc_edge_triangle[k], x));
            if (e <= result.peak_kV_per_mm) continue;
            result.peak_kV_per_mm = e;
            result.peak_at = map_to_section(mesh, mesh.arc_edge_triangle[k], x);
        }
    }
    // Arcs wholly covered by another electrode have no mesh edge and nothing to report.
    std::erase_if(results, [](const auto& r) { return r.peak_kV_per_mm == 0; });
    return results;
}

Eigen::VectorXd goal_load(const Section& section, const Solution& solution, const TriangleTree& tree) {
    Eigen::VectorXd load = Eigen::VectorXd::Zero(solution.potential_kV.size());
    const auto& mesh = *solution.mesh;
    for (std::size_t k = 0; k < solution.paths.size(); ++k) {
        const auto& result = solution.paths[k];
        if (!(result.peak_kV_per_mm > 0)) continue;
        const int region = region_index(section, result.side);
        std::vector<double> weight(result.samples.size(), 0);
        double sum = 0;
        for (std::size_t i = 1; i + 1 < weight.size(); ++i) {
            const auto& sample = result.samples[i];
            if (sample.near_singular) continue;
            const double share = sample.E_kV_per_mm / result.peak_kV_per_mm;
            weight[i] = (result.samples[i + 1].s_mm - result.samples[i - 1].s_mm) * share * share;
            sum += weight[i] * sample.E_kV_per_mm;
        }
        for (std::size_t i = 0; i < weight.size(); ++i) {
            if (weight[i] == 0) continue;
            const auto reading = locate(mesh, tree, result.samples[i].at, region);
            if (reading.triangle < 0) continue;
            const Point e = solution.recovered.at(reading.triangle, reading.at);
            add_reading(solution, reading, (1 / length(e)) * e, weight[i] / sum, load);
        }
    }
    for (const auto& edge : solution.edges) {
        double sum = 0;
        struct Weighted {
            Reading reading;
            Point field;
            double weight;
        };
        std::vector<Weighted> readings;
        for (std::size_t k = 0; k < mesh.arc_edges.size(); ++k) {
            if (mesh.arcs[static_cast<std::size_t>(mesh.arc_of_edge[k])].name != edge.name) continue;
            const Reading reading{mesh.arc_edge_triangle[k], places_on_side(mesh, k)[2]};
            const Point e = solution.recovered.at(reading.triangle, reading.at);
            const double share = length(e) / edge.peak_kV_per_mm;
            if (share == 0) continue;
            readings.push_back({reading, e, share * share});
            sum += share * share * length(e);
        }
        for (const auto& r : readings)
            add_reading(solution, r.reading, (1 / length(r.field)) * r.field, r.weight / sum, load);
    }
    return load;
}

} // namespace ng
