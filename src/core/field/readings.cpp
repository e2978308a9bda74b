#include "field/readings.h"
#include "units/promise.h"
#include <algorithm>
#include <complex>
#include <fmt/format.h>
#include <limits>
#include <numbers>

namespace ng {

const PathResult* Solution::path(const PlaceId& place) const {
    const auto it = std::find_if(paths.begin(), paths.end(), [&](const auto& p) { return p.place == place; });
    return it == paths.end() ? nullptr : &*it;
}

const EdgeResult* Solution::edge(const PlaceId& place) const {
    const auto it = std::find_if(edges.begin(), edges.end(), [&](const auto& e) { return e.place == place; });
    return it == edges.end() ? nullptr : &*it;
}

const PathResult* Solution::path(const std::string& name) const {
    const auto it = std::find_if(paths.begin(), paths.end(), [&](const auto& p) { return p.name == name; });
    return it == paths.end() ? nullptr : &*it;
}

const EdgeResult* Solution::edge(const std::string& name) const {
    const auto it = std::find_if(edges.begin(), edges.end(), [&](const auto& e) { return e.name == name; });
    return it == edges.end() ? nullptr : &*it;
}

Reading locate(const Mesh& mesh, const TriangleTree& tree, Point p, int region, int first) {
    // As far as a straight path beside an arc's chord, or one that a long arc of metal touches in a cusp.
    constexpr double reach_mm = 0.1;
    Reading reading;
    reading.triangle = tree.find(p, region, reach_mm, first);
    if (reading.triangle < 0) return reading;
    reading.at = nearest_point(mesh, reading.triangle, p);
    return reading;
}

namespace {

/// A place on a piece, in the coordinates of the triangle beside it.
Reading on_piece(const Mesh& mesh, const ArcPiece& piece, double share) {
    double f = std::clamp((share - piece.from) / (piece.to - piece.from), 0.0, 1.0);
    if (piece.reversed) f = 1 - f;
    const auto& edge = mesh.arc_edges[piece.arc_edge];
    Reading out;
    out.triangle = mesh.arc_edge_triangle[piece.arc_edge];
    const auto& t = mesh.triangles[out.triangle];
    constexpr Reference corner[3] = {{0, 0}, {1, 0}, {0, 1}};
    for (std::size_t side = 0; side < 3; ++side) {
        if (t[3 + side] != edge[2]) continue;
        const double along = t[side] == edge[0] ? f : 1 - f;
        const auto &a = corner[side], &b = corner[(side + 1) % 3];
        out.at = {a.a + along * (b.a - a.a), a.b + along * (b.b - a.b)};
    }
    return out;
}

double degrees(std::complex<double> z) {
    return std::abs(z) == 0 ? 0 : std::arg(z) * 180 / std::numbers::pi;
}

/// Which nodes lie on a conductor or where regions meet.
std::vector<char> on_borders(const Mesh& mesh) {
    std::vector<char> out(mesh.nodes.size(), 0);
    std::vector<int> first(mesh.nodes.size(), -1);
    for (std::size_t node = 0; node < out.size(); ++node) out[node] = mesh.conductor[node] >= 0;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (const int n : mesh.triangles[t]) {
            auto& region = first[n];
            if (region < 0)
                region = mesh.region[t];
            else if (region != mesh.region[t])
                out[n] = 1;
        }
    return out;
}

} // namespace

Result<Readings> Readings::make(std::shared_ptr<const Section> section,
                                std::shared_ptr<const ReadingPlan> plan, std::shared_ptr<const Mesh> mesh) {
    promise(plan->paths.size() == section->paths.size() && plan->probes.size() == section->probes.size(),
            "the plan was made for these paths and probes");
    Readings out;
    out.section_ = section;
    out.plan_ = plan;
    out.mesh_ = mesh;
    out.tips_ = corner_tips(*mesh);
    const TriangleTree tree(*mesh);
    std::vector<Reading> places;
    const auto add = [&](Reading reading) {
        if (reading.triangle < 0) {
            out.reading_of_.push_back(-1);
            return;
        }
        out.reading_of_.push_back(static_cast<int>(places.size()));
        places.push_back(reading);
    };
    for (std::size_t k = 0; k < plan->paths.size(); ++k) {
        const auto& path = plan->paths[k];
        out.first_of_path_.push_back(out.reading_of_.size());
        int before = -1;
        for (const auto& sample : path.samples) {
            const auto reading = locate(*mesh, tree, sample.at, path.region, before);
            before = reading.triangle;
            if (reading.triangle < 0)
                return refuse("path " + section->paths[k].name,
                              fmt::format("point [{:.4g}, {:.4g}] is outside region “{}”", sample.at.r,
                                          sample.at.z, section->paths[k].side),
                              "Keep the path in or along that region");
            add(reading);
        }
    }
    out.first_probe_ = out.reading_of_.size();
    for (std::size_t k = 0; k < plan->probes.size(); ++k) {
        const auto& probe = section->probes[k];
        const auto reading = locate(*mesh, tree, probe.at, plan->probes[k].region);
        if (reading.triangle < 0)
            return refuse("probe " + probe.name, "it is outside region “" + probe.side + "”", "Move it");
        add(reading);
    }
    for (const auto& probe : plan->probes) {
        out.first_round_.push_back(out.reading_of_.size());
        for (const auto& p : probe.round) add(locate(*mesh, tree, p, probe.region));
    }
    for (std::size_t k = 0; k < plan->edges.size(); ++k) {
        const auto& edge = plan->edges[k];
        out.first_of_edge_.push_back(out.reading_of_.size());
        const auto pieces = pieces_of(*mesh, edge.arc);
        std::size_t at = 0;
        bool any = false;
        for (const double share : edge.share) {
            // Where an arc ends in a line that touches it, its last small pieces are as good as that line's:
            // a place is read at the end of the nearest piece.
            constexpr double end = 1e-7, touching = 1e-3;
            while (at < pieces.size() && pieces[at].to < share - end) ++at;
            bool on = at < pieces.size() && pieces[at].from <= share + touching;
            if (!on && at > 0 && pieces[at - 1].to >= share - touching) on = true, --at;
            add(on ? on_piece(*mesh, pieces[at], share) : Reading{});
            any = any || on;
        }
        // Arcs wholly covered have no mesh edge and nothing to report.
        if (any) out.reported_edges_.push_back(k);
    }
    const auto border = on_borders(*mesh);
    for (const int reading : out.reading_of_) {
        if (reading < 0) {
            out.across_.push_back(0);
            out.inside_.push_back(0);
            out.size_.push_back(0);
            out.corner_distance_.push_back(0);
            continue;
        }
        const auto& n = mesh->triangles[places[reading].triangle];
        const auto corner = [&](std::size_t i) { return mesh->nodes[n[i]]; };
        out.size_.push_back(std::sqrt(std::abs(cross(corner(1) - corner(0), corner(2) - corner(0)))));
        const auto on_border = [&](int c) { return border[c] != 0; };
        // With two sides on borders it lies in a corner of its region, however small it is: that is no layer.
        out.across_.push_back(std::all_of(n.begin(), n.begin() + 3, on_border) &&
                              std::count_if(n.begin() + 3, n.end(), on_border) < 2);
        out.inside_.push_back(std::none_of(n.begin(), n.end(), on_border));
        const auto& at = places[reading];
        const Point p = map_to_section(*mesh, at.triangle, at.at);
        double nearest = std::numeric_limits<double>::max();
        for (const auto& c : plan->corners) nearest = std::min(nearest, distance(c.at, p));
        out.corner_distance_.push_back(nearest);
    }
    out.reader_ = std::make_shared<const FieldReader>(*mesh, std::move(places));
    return out;
}

Point Readings::direction(std::size_t place) const {
    if (place >= first_probe_) return {0, 1};
    const auto path = static_cast<std::size_t>(
        std::upper_bound(first_of_path_.begin(), first_of_path_.end(), place) - first_of_path_.begin() - 1);
    return plan_->paths[path].direction[place - first_of_path_[path]];
}

PlaceFields Readings::spread(std::vector<Point> field, std::vector<double> potential) const {
    PlaceFields out;
    if (field.size() == reading_of_.size()) { // all present
        out.field = std::move(field);
        out.potential = std::move(potential);
        return out;
    }
    out.field.resize(reading_of_.size());
    out.potential.resize(reading_of_.size());
    for (std::size_t place = 0; place < reading_of_.size(); ++place)
        if (const int k = reading_of_[place]; k >= 0) {
            out.field[place] = field[k];
            out.potential[place] = potential[k];
        }
    return out;
}

PlaceFields Readings::read(const Eigen::VectorXd& potential_kV, const Eigen::VectorXd& imaginary_kV) const {
    promise(potential_kV.size() == static_cast<Eigen::Index>(mesh_->nodes.size()),
            "one potential for each node");
    auto out = spread(reader_->field(potential_kV), reader_->potential(potential_kV));
    if (imaginary_kV.size() > 0) {
        auto imaginary = spread(reader_->field(imaginary_kV), reader_->potential(imaginary_kV));
        out.imaginary = std::move(imaginary.field);
        out.potential_imaginary = std::move(imaginary.potential);
    }
    return out;
}

std::vector<double> Readings::roughness(const PlaceFields& fields, const Eigen::VectorXd& potential_kV,
                                        const Eigen::VectorXd& imaginary_kV) const {
    std::vector<double> out(reading_of_.size(), 0.0);
    const auto add = [&](const std::vector<Point>& recovered, const Eigen::VectorXd& potential) {
        const auto raw = reader_->raw_field(potential);
        for (std::size_t place = 0; place < out.size(); ++place)
            if (const int k = reading_of_[place]; k >= 0)
                out[place] = std::hypot(out[place], distance(recovered[place], raw[k]));
    };
    add(fields.field, potential_kV);
    if (imaginary_kV.size() > 0) add(fields.imaginary, imaginary_kV);
    for (std::size_t place = 0; place < out.size(); ++place)
        if (across_[place]) out[place] = std::max(out[place], tuning::across_share * fields.size(place));
    return out;
}

ParabolaVertex parabola_vertex(const std::array<double, 3>& place, const std::array<double, 3>& value) {
    const double x0 = place[0] - place[1], x1 = place[2] - place[1];
    const double y0 = value[0] - value[1], y1 = value[2] - value[1];
    // y = a x^2 + b x through both neighbours.
    const double a = (y1 / x1 - y0 / x0) / (x1 - x0), b = y0 / x0 - a * x0;
    if (!(x0 < 0 && x1 > 0 && a < 0)) return {place[1], value[1]};
    const double x = std::clamp(-b / (2 * a), x0, x1);
    return {place[1] + x, value[1] + a * x * x + b * x};
}

namespace {
constexpr double least_of_neighbours = 0.4; ///< distance of the nearer neighbour over that of the other
}

Crest crest_of(std::size_t count, const std::function<double(std::size_t)>& place,
               const std::function<double(std::size_t)>& value,
               const std::function<bool(std::size_t)>& skip) {
    Crest out;
    for (std::size_t i = 0; i < count; ++i)
        if (!skip(i) && (!out.any || value(i) > out.value)) out = {place(i), value(i), i, true};
    const auto i = out.nearest;
    if (!out.any || i == 0 || i + 1 >= count || skip(i - 1) || skip(i + 1)) return out;
    // Neighbours at like distances: through one that lies close by, what readings waver by tilts the
    // parabola.
    std::size_t before = i - 1, after = i + 1;
    const auto left = [&] { return place(i) - place(before); };
    const auto right = [&] { return place(after) - place(i); };
    while (left() < least_of_neighbours * right() && before > 0 && !skip(before - 1)) --before;
    while (right() < least_of_neighbours * left() && after + 1 < count && !skip(after + 1)) ++after;
    if (left() < least_of_neighbours * right() || right() < least_of_neighbours * left()) return out;
    const auto v =
        parabola_vertex({place(before), place(i), place(after)}, {value(before), out.value, value(after)});
    if (v.place < place(i - 1) || v.place > place(i + 1)) return out; // what is read there is lower
    out.place = v.place;
    out.value = v.value;
    return out;
}

void finish_path(PathResult& result, const Path& path) {
    const auto& s = result.samples;
    const auto crest = crest_of(
        s.size(), [&](std::size_t i) { return s[i].s_mm; }, [&](std::size_t i) { return s[i].E_kV_per_mm; },
        [&](std::size_t i) { return s[i].near_singular; });
    if (!crest.any) return;
    result.peak_kV_per_mm = crest.value;
    result.peak_s_mm = crest.place;
    result.peak_at = point_on_path(path, crest.place);
}

EdgeResult edge_result(const ReadingPlan::EdgePlaces& plan, const Mesh& mesh,
                       const std::function<double(std::size_t)>& size,
                       const std::function<bool(std::size_t)>& absent) {
    const auto& arc = mesh.arcs[plan.arc];
    EdgeResult out;
    out.electrode = arc.owner;
    out.name = arc.name;
    out.place = place_of(arc.name);
    out.radius_mm = arc.arc.radius_mm;
    out.share = plan.share;
    const auto skip = [&](std::size_t i) { return absent(i) || plan.near_singular[i]; };
    for (std::size_t i = 0; i < plan.share.size(); ++i) {
        out.part_not_judged = out.part_not_judged || (!absent(i) && plan.near_singular[i]);
        out.along_kV_per_mm.push_back(absent(i) ? 0 : size(i));
    }
    const auto crest = crest_of(
        plan.share.size(), [&](std::size_t i) { return plan.share[i]; }, size, skip);
    out.judged = crest.any;
    if (!crest.any) return out;
    out.peak_kV_per_mm = crest.value;
    out.peak_at = arc.arc.at(arc.arc.start_rad + arc.arc.sweep_rad * crest.place);
    return out;
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
    solution.corners = mesh_->singular;
    solution.paths.clear();
    for (std::size_t k = 0; k < plan_->paths.size(); ++k) {
        PathResult result;
        result.name = section_->paths[k].name;
        result.place = place_of(result.name);
        result.side = section_->paths[k].side;
        result.samples = plan_->paths[k].samples;
        for (std::size_t i = 0; i < result.samples.size(); ++i) {
            const auto place = place_of_sample(k, i);
            const Point u = plan_->paths[k].direction[i];
            auto& sample = result.samples[i];
            component(place, u, sample.E_t_kV_per_mm, sample.E_t_phase_deg);
            component(place, right_of(u), sample.E_n_kV_per_mm, sample.E_n_phase_deg);
            potential(place, sample.potential_kV, sample.potential_phase_deg);
            sample.E_kV_per_mm = fields.size(place);
        }
        finish_path(result, section_->paths[k]);
        solution.paths.push_back(std::move(result));
    }
    solution.probes.clear();
    for (std::size_t k = 0; k < section_->probes.size(); ++k) {
        ProbeResult result;
        const auto place = place_of_probe(k);
        result.name = section_->probes[k].name;
        result.at = section_->probes[k].at;
        potential(place, result.potential_kV, result.potential_phase_deg);
        component(place, {1, 0}, result.field_kV_per_mm.r, result.E_r_phase_deg);
        component(place, {0, 1}, result.field_kV_per_mm.z, result.E_z_phase_deg);
        result.E_kV_per_mm = fields.size(place);
        result.judged = !corner_that_reaches(mesh_->singular, result.at);
        solution.probes.push_back(result);
    }
    solution.edges.clear();
    for (const auto k : reported_edges_)
        solution.edges.push_back(edge_result(
            plan_->edges[k], *mesh_, [&](std::size_t i) { return fields.size(first_of_edge_[k] + i); },
            [&](std::size_t i) { return !present(first_of_edge_[k] + i); }));
}

std::vector<double> Readings::rounding(double largest_kV) const {
    constexpr double share = 4 * std::numeric_limits<double>::epsilon();
    const auto weights = reader_->sum_of_weights();
    std::vector<double> out(reading_of_.size(), 0.0);
    for (std::size_t place = 0; place < out.size(); ++place)
        if (present(place)) out[place] = share * largest_kV * weights[reading_of_[place]];
    return out;
}

Result<Solution> scaled(const Solution& solution, double factor) {
    if (!solution.linear)
        return refuse("solution", "it depends on the field and does not scale with the voltage",
                      "Solve again at the other voltage");
    Solution out = solution;
    const double size = std::abs(factor), square = factor * factor;
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
    for (auto& edge : out.edges) {
        edge.peak_kV_per_mm *= size;
        for (auto& e : edge.along_kV_per_mm) e *= size;
    }
    for (auto& c : out.conductors) {
        c.potential_kV *= component, c.charge_C *= component, c.current_A *= component;
        c.potential_error_kV *= size, c.charge_error_C *= size, c.current_error_A *= size,
            c.at_contacts *= size;
    }
    for (auto& p : out.probes) {
        p.potential_kV *= component;
        p.field_kV_per_mm = component * p.field_kV_per_mm;
        p.E_kV_per_mm *= size;
        p.error_kV_per_mm *= size;
        p.potential_error_kV *= size;
    }
    for (auto& loss : out.losses) {
        loss.power_W *= square, loss.per_length_W *= square, loss.peak_W_per_m3 *= square;
        loss.power_error_W *= square;
    }
    for (auto& c : out.interface_charges) c.charge_C *= factor, c.charge_error_C *= size;
    for (auto& point : out.history) {
        for (auto& v : point.probe_kV) v *= factor;
        for (auto& e : point.probe_kV_per_mm) e *= size;
    }
    for (auto& state : out.end_states)
        for (auto* field : {&state.end, &state.earthed, &state.reversed})
            field->peak_kV_per_mm *= size, field->error_kV_per_mm *= size;
    out.energy_J *= square;
    out.energy_error_J *= square;
    return out;
}

} // namespace ng
