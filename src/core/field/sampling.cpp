#include "field/sampling.h"
#include <algorithm>
#include <complex>
#include <fmt/format.h>
#include <numbers>

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

constexpr std::size_t places_per_edge = 5;

/// Five places on a mesh edge of a reported arc, in the coordinates of the triangle beside it.
std::array<Reference, places_per_edge> places_on_side(const Mesh& mesh, std::size_t arc_edge) {
    const auto& t = mesh.triangles[static_cast<std::size_t>(mesh.arc_edge_triangle[arc_edge])];
    const Reference corner[3] = {{0, 0}, {1, 0}, {0, 1}};
    std::array<Reference, places_per_edge> out;
    for (std::size_t side = 0; side < 3; ++side)
        if (t[3 + side] == mesh.arc_edges[arc_edge][2])
            for (std::size_t k = 0; k < places_per_edge; ++k) {
                const double f = static_cast<double>(k) / (places_per_edge - 1);
                const auto &a = corner[side], &b = corner[(side + 1) % 3];
                out[k] = {a.a + f * (b.a - a.a), a.b + f * (b.b - a.b)};
            }
    return out;
}

/// Whether a place on an arc is near a point of the same arc where materials meet: the field has no limit
/// there.
bool at_a_sharp_point(const Mesh& mesh, const Arc& arc, Point p) {
    constexpr double share_of_radius = 0.25, on_the_arc = 1e-3;
    return std::any_of(mesh.singular.begin(), mesh.singular.end(), [&](const auto& corner) {
        return corner.strong && std::abs(distance(corner.at, arc.centre) / arc.radius_mm - 1) < on_the_arc &&
               distance(corner.at, p) < std::min(corner.reach_mm, share_of_radius * arc.radius_mm);
    });
}

double degrees(std::complex<double> z) {
    return std::abs(z) == 0 ? 0 : std::arg(z) * 180 / std::numbers::pi;
}

/// Where the path leaves the reach of a sharp corner: the first place beyond it that is judged. Without it
/// the figure read beside a corner would hang on how the even places happen to fall.
void add_rims(std::vector<double>& places, const Path& path, const std::vector<Mesh::Singular>& corners) {
    double before = 0;
    for (std::size_t i = 0; i + 1 < path.points.size(); ++i) {
        const Point a = path.points[i], u = path.points[i + 1] - a;
        const double piece = length(u);
        for (const auto& corner : corners) {
            const double along = dot(corner.at - a, u) / piece, off = cross(corner.at - a, u) / piece;
            if (std::abs(off) >= corner.reach_mm) continue;
            const double half = std::sqrt(corner.reach_mm * corner.reach_mm - off * off);
            for (const double s : {along - half, along + half})
                if (s > 0 && s < piece) places.push_back(before + s);
        }
        before += piece;
    }
    std::sort(places.begin(), places.end());
    places.erase(std::unique(places.begin(), places.end()), places.end());
}

/// Normal of a path: to the right of its direction.
Point right_of(Point u) {
    return {u.z, -u.r};
}

} // namespace

Result<Readings> Readings::make(std::shared_ptr<const Section> owned, std::shared_ptr<const Mesh> mesh) {
    Readings out;
    const Section& section = *owned;
    out.section_ = owned;
    out.mesh_ = mesh;
    const TriangleTree tree(*mesh);
    std::vector<Reading> places;
    for (const auto& path : section.paths) {
        PathPlaces p;
        p.first = places.size();
        const int region = region_index(section, path.side);
        auto s = sample_places(path);
        add_rims(s, path, mesh->singular);
        for (std::size_t i = 0; i < s.size(); ++i) {
            Point u;
            PathSample sample;
            sample.s_mm = s[i];
            sample.at = point_on_path(path, s[i], &u);
            const auto reading = locate(*mesh, tree, sample.at, region);
            if (reading.triangle < 0)
                return refuse("path " + path.name,
                              fmt::format("point [{:.4g}, {:.4g}] is outside region “{}”", sample.at.r,
                                          sample.at.z, path.side),
                              "Keep the path in or along that region");
            sample.near_singular =
                std::any_of(mesh->singular.begin(), mesh->singular.end(), [&](const auto& corner) {
                    return distance(corner.at, sample.at) < corner.reach_mm * (1 - 1e-9);
                });
            places.push_back(reading);
            p.samples.push_back(sample);
            p.direction.push_back(u);
            p.share_mm.push_back(i == 0 || i + 1 == s.size() ? 0 : s[i + 1] - s[i - 1]);
        }
        out.paths_.push_back(std::move(p));
    }
    out.first_probe_ = places.size();
    for (const auto& probe : section.probes) {
        const auto reading = locate(*mesh, tree, probe.at, region_index(section, probe.side));
        if (reading.triangle < 0)
            return refuse("probe " + probe.name, "it is outside region “" + probe.side + "”", "Move it");
        places.push_back(reading);
    }
    for (std::size_t arc = 0; arc < mesh->arcs.size(); ++arc) {
        EdgePlaces edge;
        edge.first = places.size();
        for (std::size_t k = 0; k < mesh->arc_edges.size(); ++k) {
            if (mesh->arc_of_edge[k] != static_cast<int>(arc)) continue;
            for (const auto& x : places_on_side(*mesh, k)) {
                if (at_a_sharp_point(*mesh, mesh->arcs[arc].arc,
                                     map_to_section(*mesh, mesh->arc_edge_triangle[k], x)))
                    continue;
                places.push_back({mesh->arc_edge_triangle[k], x});
                edge.at.push_back(map_to_section(*mesh, mesh->arc_edge_triangle[k], x));
            }
        }
        edge.count = places.size() - edge.first;
        edge.empty.electrode = mesh->arcs[arc].owner;
        edge.empty.name = mesh->arcs[arc].name;
        edge.empty.radius_mm = mesh->arcs[arc].arc.radius_mm;
        // Arcs wholly covered by another electrode have no mesh edge and nothing to report.
        if (edge.count > 0) out.edges_.push_back(std::move(edge));
    }
    out.reader_ = std::make_shared<const FieldReader>(*mesh, std::move(places));
    return out;
}

PlaceFields Readings::read(const Eigen::VectorXd& potential_kV, const Eigen::VectorXd& imaginary_kV) const {
    PlaceFields out;
    out.field = reader_->field(potential_kV);
    out.potential = reader_->potential(potential_kV);
    if (imaginary_kV.size() > 0) {
        out.imaginary = reader_->field(imaginary_kV);
        out.potential_imaginary = reader_->potential(imaginary_kV);
    }
    return out;
}

double Readings::size_at(const PlaceFields& fields, std::size_t place) const {
    return fields.imaginary.empty() ? length(fields.field[place])
                                    : major_axis(fields.field[place], fields.imaginary[place]);
}

/// Peak of a path from its samples.
void Readings::finish(PathResult& result) const {
    for (const auto& sample : result.samples)
        if (!sample.near_singular && sample.E_kV_per_mm > result.peak_kV_per_mm) {
            result.peak_kV_per_mm = sample.E_kV_per_mm;
            result.peak_s_mm = sample.s_mm;
            result.peak_at = sample.at;
        }
}

void Readings::report(const PlaceFields& fields, Solution& solution) const {
    const bool phasor = !fields.imaginary.empty();
    auto component = [&](std::size_t place, Point u, double& size, double& phase) {
        size = dot(fields.field[place], u);
        if (!phasor) return;
        const std::complex<double> z(size, dot(fields.imaginary[place], u));
        size = std::abs(z);
        phase = degrees(z);
    };
    auto potential = [&](std::size_t place, double& size, double& phase) {
        size = fields.potential[place];
        if (!phasor) return;
        const std::complex<double> z(size, fields.potential_imaginary[place]);
        size = std::abs(z);
        phase = degrees(z);
    };
    solution.paths.clear();
    for (std::size_t k = 0; k < paths_.size(); ++k) {
        PathResult result;
        result.name = section_->paths[k].name;
        result.side = section_->paths[k].side;
        result.samples = paths_[k].samples;
        for (std::size_t i = 0; i < result.samples.size(); ++i) {
            const auto place = paths_[k].first + i;
            auto& sample = result.samples[i];
            component(place, paths_[k].direction[i], sample.E_t_kV_per_mm, sample.E_t_phase_deg);
            component(place, right_of(paths_[k].direction[i]), sample.E_n_kV_per_mm, sample.E_n_phase_deg);
            potential(place, sample.potential_kV, sample.potential_phase_deg);
            sample.E_kV_per_mm = size_at(fields, place);
        }
        finish(result);
        solution.paths.push_back(std::move(result));
    }
    solution.probes.clear();
    for (std::size_t k = 0; k < section_->probes.size(); ++k) {
        ProbeResult result;
        const auto place = first_probe_ + k;
        result.name = section_->probes[k].name;
        result.at = section_->probes[k].at;
        potential(place, result.potential_kV, result.potential_phase_deg);
        component(place, {1, 0}, result.field_kV_per_mm.r, result.E_r_phase_deg);
        component(place, {0, 1}, result.field_kV_per_mm.z, result.E_z_phase_deg);
        result.E_kV_per_mm = size_at(fields, place);
        solution.probes.push_back(result);
    }
    solution.edges.clear();
    for (const auto& edge : edges_) {
        EdgeResult result = edge.empty;
        for (std::size_t i = 0; i < edge.count; ++i)
            if (const double e = size_at(fields, edge.first + i); e > result.peak_kV_per_mm) {
                result.peak_kV_per_mm = e;
                result.peak_at = edge.at[i];
            }
        solution.edges.push_back(result);
    }
}

void Readings::update(Envelope& envelope, double t_s, const PlaceFields& fields) const {
    envelope.peaks.resize(fields.field.size());
    auto take = [&](std::size_t place, Point u) {
        auto& peak = envelope.peaks[place];
        const Point e = fields.field[place];
        const double along = dot(e, u), across = dot(e, right_of(u)), size = length(e);
        if (std::abs(along) > std::abs(peak.tangential)) peak.tangential = along;
        if (std::abs(across) > std::abs(peak.normal)) peak.normal = across;
        if (std::abs(fields.potential[place]) > std::abs(peak.potential))
            peak.potential = fields.potential[place];
        if (size > peak.size) {
            peak.size = size;
            peak.field = e;
            peak.t_s = t_s;
        }
    };
    for (const auto& path : paths_)
        for (std::size_t i = 0; i < path.samples.size(); ++i) take(path.first + i, path.direction[i]);
    for (std::size_t place = first_probe_; place < fields.field.size(); ++place) take(place, {0, 1});
}

void Readings::report(const Envelope& envelope, Solution& solution) const {
    solution.paths.clear();
    for (std::size_t k = 0; k < paths_.size(); ++k) {
        PathResult result;
        result.name = section_->paths[k].name;
        result.side = section_->paths[k].side;
        result.samples = paths_[k].samples;
        for (std::size_t i = 0; i < result.samples.size(); ++i) {
            const auto& peak = envelope.peaks[paths_[k].first + i];
            auto& sample = result.samples[i];
            sample.E_t_kV_per_mm = peak.tangential;
            sample.E_n_kV_per_mm = peak.normal;
            sample.E_kV_per_mm = peak.size;
            sample.potential_kV = peak.potential;
            sample.peak_time_s = peak.t_s;
        }
        finish(result);
        solution.paths.push_back(std::move(result));
    }
    solution.probes.clear();
    for (std::size_t k = 0; k < section_->probes.size(); ++k) {
        const auto& peak = envelope.peaks[first_probe_ + k];
        ProbeResult result;
        result.name = section_->probes[k].name;
        result.at = section_->probes[k].at;
        result.potential_kV = peak.potential;
        result.field_kV_per_mm = peak.field;
        result.E_kV_per_mm = peak.size;
        result.peak_time_s = peak.t_s;
        solution.probes.push_back(result);
    }
    solution.edges.clear();
    for (const auto& edge : edges_) {
        EdgeResult result = edge.empty;
        for (std::size_t i = 0; i < edge.count; ++i)
            if (const auto& peak = envelope.peaks[edge.first + i]; peak.size > result.peak_kV_per_mm) {
                result.peak_kV_per_mm = peak.size;
                result.peak_at = edge.at[i];
                result.peak_time_s = peak.t_s;
            }
        solution.edges.push_back(result);
    }
}

double Readings::size_at_sample(std::size_t path, std::size_t sample) const {
    const auto& n = mesh_->triangles[static_cast<std::size_t>(reading_of(path, sample).triangle)];
    const auto corner = [&](std::size_t i) { return mesh_->nodes[static_cast<std::size_t>(n[i])]; };
    return std::sqrt(cross(corner(1) - corner(0), corner(2) - corner(0)));
}

double Readings::size_on_edge(std::size_t edge) const {
    return edges_[edge].empty.radius_mm * places_per_edge / static_cast<double>(edges_[edge].count);
}

double Readings::largest(const PlaceFields& fields) const {
    double most = 0;
    for (const auto& path : paths_)
        for (std::size_t i = 0; i < path.samples.size(); ++i)
            if (!path.samples[i].near_singular) most = std::max(most, size_at(fields, path.first + i));
    if (paths_.empty())
        for (std::size_t place = 0; place < fields.field.size(); ++place)
            most = std::max(most, size_at(fields, place));
    return most;
}

double Readings::largest_change(const Envelope& before, const Envelope& now) const {
    if (before.peaks.size() != now.peaks.size()) return 1;
    double most = 0;
    auto group = [&](std::size_t first, std::size_t count) {
        double peak = 0, change = 0;
        for (std::size_t k = first; k < first + count; ++k) {
            peak = std::max(peak, now.peaks[k].size);
            change = std::max(change, std::abs(now.peaks[k].size - before.peaks[k].size));
        }
        if (peak > 0) most = std::max(most, change / peak);
    };
    for (const auto& path : paths_) group(path.first, path.samples.size());
    for (std::size_t k = 0; k < section_->probes.size(); ++k) group(first_probe_ + k, 1);
    for (const auto& edge : edges_) group(edge.first, edge.count);
    return most;
}

void Readings::harmonics(const std::vector<PlaceFields>& cycle, Solution& solution) const {
    solution.probes.assign(section_->probes.size(), {});
    for (std::size_t k = 0; k < section_->probes.size() && !cycle.empty(); ++k) {
        auto amplitude = [&](int order, bool axial) {
            std::complex<double> sum = 0;
            for (std::size_t i = 0; i < cycle.size(); ++i) {
                const Point e = cycle[i].field[first_probe_ + k];
                sum += (axial ? e.z : e.r) *
                       std::polar(1.0, -2 * std::numbers::pi * order * static_cast<double>(i + 1) /
                                           static_cast<double>(cycle.size()));
            }
            return 2 * std::abs(sum) / static_cast<double>(cycle.size());
        };
        const bool axial = amplitude(1, true) > amplitude(1, false);
        const double first = amplitude(1, axial);
        solution.probes[k].fundamental_kV_per_mm = first / std::numbers::sqrt2;
        solution.probes[k].third_harmonic = first > 0 ? amplitude(3, axial) / first : 0;
    }
}

HistoryPoint Readings::history_at(double t_s, double source, const PlaceFields& fields) const {
    HistoryPoint point;
    point.t_s = t_s;
    point.source = source;
    for (std::size_t k = 0; k < section_->probes.size(); ++k) {
        point.probe_kV.push_back(fields.potential[first_probe_ + k]);
        point.probe_kV_per_mm.push_back(length(fields.field[first_probe_ + k]));
    }
    return point;
}

std::pair<Eigen::VectorXd, Eigen::VectorXd> Readings::goal_load(const PlaceFields& fields) const {
    const bool phasor = !fields.imaginary.empty();
    std::vector<double> weight(fields.field.size(), 0.0);
    auto share_out = [&](std::size_t first, std::size_t count, auto share_of) {
        double peak = 0, sum = 0;
        for (std::size_t i = 0; i < count; ++i)
            if (share_of(i) > 0) peak = std::max(peak, size_at(fields, first + i));
        if (!(peak > 0)) return;
        for (std::size_t i = 0; i < count; ++i) {
            const double size = size_at(fields, first + i), share = size / peak;
            weight[first + i] = share_of(i) * share * share;
            sum += weight[first + i] * size;
        }
        for (std::size_t i = 0; i < count && sum > 0; ++i) weight[first + i] /= sum;
    };
    for (const auto& path : paths_)
        share_out(path.first, path.samples.size(),
                  [&](std::size_t i) { return path.samples[i].near_singular ? 0.0 : path.share_mm[i]; });
    for (const auto& edge : edges_) share_out(edge.first, edge.count, [](std::size_t) { return 1.0; });
    for (std::size_t k = 0; k < section_->probes.size(); ++k)
        if (const double size = size_at(fields, first_probe_ + k); size > 0)
            weight[first_probe_ + k] = 0.3 / size;
    std::vector<Point> real(weight.size()), imaginary(phasor ? weight.size() : 0);
    for (std::size_t place = 0; place < weight.size(); ++place) {
        const double size = size_at(fields, place);
        if (weight[place] == 0 || size == 0) continue;
        real[place] = (weight[place] / size) * fields.field[place];
        if (phasor) imaginary[place] = (weight[place] / size) * fields.imaginary[place];
    }
    return {reader_->load(real), phasor ? reader_->load(imaginary) : Eigen::VectorXd()};
}

Result<Solution> scaled(const Solution& solution, double factor) {
    if (!solution.linear)
        return refuse("solution", "it depends on the field and does not scale with the voltage",
                      "Solve again at the other voltage");
    Solution out = solution;
    const double size = std::abs(factor);
    const bool signless = solution.is_phasor();
    const double component = signless ? size : factor;
    out.potential_kV *= factor;
    out.imaginary_kV *= factor;
    for (auto& e : out.field.field) e = factor * e;
    for (auto& e : out.field.imaginary) e = factor * e;
    for (auto& path : out.paths) {
        path.peak_kV_per_mm *= size;
        for (auto& s : path.samples) {
            s.potential_kV *= component;
            s.E_t_kV_per_mm *= component;
            s.E_n_kV_per_mm *= component;
            s.E_kV_per_mm *= size;
            s.error_kV_per_mm *= size;
        }
    }
    for (auto& edge : out.edges) edge.peak_kV_per_mm *= size;
    for (auto& c : out.conductors)
        c.potential_kV *= component, c.charge_C *= component, c.current_A *= component;
    for (auto& p : out.probes) {
        p.potential_kV *= component;
        p.field_kV_per_mm = component * p.field_kV_per_mm;
        p.E_kV_per_mm *= size;
    }
    for (auto& loss : out.losses)
        loss.power_W *= factor * factor, loss.per_length_W *= factor * factor,
            loss.peak_W_per_m3 *= factor * factor;
    for (auto& c : out.interface_charges) c.charge_C *= factor;
    for (auto& point : out.history) {
        for (auto& v : point.probe_kV) v *= factor;
        for (auto& e : point.probe_kV_per_mm) e *= size;
    }
    out.energy_J *= factor * factor;
    return out;
}

} // namespace ng
