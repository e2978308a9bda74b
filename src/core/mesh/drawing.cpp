#include "mesh/drawing.h"
#include "mesh/arrangement.h"
#include "section/on_top.h"
#include <algorithm>
#include <fmt/format.h>
#include <limits>

namespace ng::drawing {
namespace {

/// Which chords are divided. Two outlines that share an arc run along it in either sense, and ask of the same
/// places but for rounding: where a wanted size jumps, as it does from triangle to triangle, they must not be
/// told two things, or slivers of nothing lie between them. So the first to ask decides.
class Divisions {
  public:
    template <class Decide> bool of(Point middle, double chord, Decide decide) {
        constexpr double same = 1e-9;                              // mm, and of keys
        const double key = dot(middle, {0.7548776662, 0.6558656}); // aslant: few places have the same
        for (auto it = known_.lower_bound(key - same); it != known_.end() && it->first <= key + same; ++it)
            if (distance(it->second.middle, middle) <= same && std::abs(it->second.chord - chord) <= same)
                return it->second.divided;
        const bool divided = decide();
        known_.emplace(key, Chord{middle, chord, divided});
        return divided;
    }

  private:
    struct Chord {
        Point middle;
        double chord;
        bool divided;
    };
    std::multimap<double, Chord> known_;
};

/// How outlines are drawn as lines.
struct Fineness {
    double arc_step_rad;
    const Stretch& stretch;
    const SizeField& size; ///< null: arcs at their widest steps
    const Contacts& contacts;
    Divisions& divisions;
};

/// Chords of an arc between two of its angles, the first point left out.
void add_chords(const Arc& arc, double from, double to, const Fineness& fineness, int depth,
                std::vector<Point>& points) {
    constexpr int deepest = 12;
    const double middle = (from + to) / 2, chord = 2 * arc.radius_mm * std::sin(std::abs(to - from) / 2);
    const auto too_long = [&] {
        double longest = fineness.contacts.longest_chord_mm(arc, from, to);
        if (fineness.size)
            longest = std::min(longest, fineness.size(fineness.stretch.to_mesh(arc.at(middle))));
        return chord > longest && fineness.contacts.may_divide(arc, middle);
    };
    if (depth < deepest && fineness.divisions.of(arc.at(middle), chord, too_long)) {
        add_chords(arc, from, middle, fineness, depth + 1, points);
        add_chords(arc, middle, to, fineness, depth + 1, points);
    } else {
        points.push_back(arc.at(to));
    }
}

/// One step of an outline as points, both ends included. Arcs are divided at whole multiples of a step, so
/// that two outlines that share an arc share its vertices; halving keeps that.
std::vector<Point> points_of(Point from, const OutlineStep& step, const std::optional<Arc>& arc,
                             const Fineness& fineness) {
    const auto chords = polygon_of(Outline{from, {step}}, fineness.arc_step_rad);
    if (!arc) return chords;
    std::vector<Point> out{from};
    const double sign = arc->sweep_rad > 0 ? 1 : -1;
    double angle = arc->start_rad;
    for (std::size_t i = 1; i < chords.size(); ++i) {
        const Point d = chords[i] - arc->centre;
        double next = std::atan2(d.z, d.r);
        while (sign * (next - angle) < 0) next += sign * 2 * std::numbers::pi;
        while (sign * (next - angle) > 2 * std::numbers::pi) next -= sign * 2 * std::numbers::pi;
        add_chords(*arc, angle, next, fineness, 0, out);
        out.back() = chords[i]; // exactly
        angle = next;
    }
    return out;
}

/// The straight and round pieces of all outlines.
std::vector<Piece> pieces_of(const Section& section) {
    std::vector<Piece> out;
    const auto add = [&](const Outline& outline) {
        Point at = outline.start;
        for (const auto& step : outline.steps) {
            Piece piece{at, step.to, {}};
            if (step.centre)
                if (const auto arc = resolve_arc(at, step)) piece.arc = *arc;
            out.push_back(piece);
            at = step.to;
        }
        if (distance(at, outline.start) > 0) out.push_back({at, outline.start, {}});
    };
    for (const auto& region : section.regions) add(region.outline);
    for (const auto& electrode : section.electrodes) add(electrode.outline);
    for (const auto& boundary : section.boundaries)
        for (std::size_t i = 0; i + 1 < boundary.along.size(); ++i)
            out.push_back({boundary.along[i], boundary.along[i + 1], {}});
    return out;
}

class Drafter {
  public:
    Drafter(Drawing& drawing, const Fineness& fineness) : drawing_(drawing), fineness_(fineness) {}

    /// Adds an outline's lines, and returns it as a polygon.
    std::vector<Point> add(const Outline& outline, const std::string& owner, int region) {
        std::vector<Point> polygon{outline.start};
        Point at = outline.start;
        for (const auto& step : outline.steps) {
            std::optional<Arc> arc;
            int arc_id = -1;
            if (step.centre)
                if (const auto resolved = resolve_arc(at, step)) {
                    arc = *resolved;
                    arc_id = add_arc(*arc, step.name, owner, region);
                }
            const auto points = points_of(at, step, arc, fineness_);
            for (std::size_t i = 0; i + 1 < points.size(); ++i) {
                lines.push_back({points[i], points[i + 1], arc_id, -1, i > 0, i + 2 < points.size()});
                polygon.push_back(points[i + 1]);
            }
            at = step.to;
        }
        if (distance(at, outline.start) > 0) lines.push_back({at, outline.start, -1, -1});
        if (polygon.size() > 1 && distance(polygon.front(), polygon.back()) < 1e-9) polygon.pop_back();
        return polygon;
    }
    std::vector<ArrangementLine> lines;

  private:
    Drawing& drawing_;
    const Fineness& fineness_;

    int add_arc(const Arc& arc, const std::string& name, const std::string& owner, int region) {
        drawing_.arcs.push_back(arc);
        drawing_.reported_arc.push_back(-1);
        if (region < 0 || !name.empty()) {
            drawing_.reported_arc.back() = static_cast<int>(drawing_.edge_arcs.size());
            const auto count = std::count_if(drawing_.edge_arcs.begin(), drawing_.edge_arcs.end(),
                                             [&](const auto& known) { return known.owner == owner; });
            drawing_.edge_arcs.push_back(
                {owner, name.empty() ? fmt::format("{} arc {}", owner, count + 1) : name, arc, region});
        }
        return static_cast<int>(drawing_.arcs.size()) - 1;
    }
};

} // namespace

int Drawing::label_at(Point p) const {
    for (const auto& [electrode, k] : topmost_first(*section))
        if (inside_polygon((electrode ? electrode_polygons : region_polygons)[k], p))
            return electrode ? electrode_base - static_cast<int>(k) : static_cast<int>(k);
    return nothing;
}

void Drawing::label() {
    constexpr int unseen = -1000000000;
    for (auto face : triangulation.all_face_handles()) face->info() = unseen;
    seeds.clear();
    std::vector<Face> stack, part;
    for (auto first : triangulation.all_face_handles()) {
        if (first->info() != unseen) continue;
        stack.assign(1, first);
        part.clear();
        first->info() = nothing;
        bool infinite = false;
        Face largest = first;
        double largest_area = -1;
        while (!stack.empty()) {
            const Face face = stack.back();
            stack.pop_back();
            part.push_back(face);
            if (triangulation.is_infinite(face))
                infinite = true;
            else {
                const Point a = on_mesh(face->vertex(0));
                const double area =
                    std::abs(cross(on_mesh(face->vertex(1)) - a, on_mesh(face->vertex(2)) - a));
                if (area > largest_area) {
                    largest_area = area;
                    largest = face;
                }
            }
            for (int i = 0; i < 3; ++i) {
                const Face next = face->neighbor(i);
                if (next->info() != unseen || face->is_constrained(i)) continue;
                next->info() = nothing;
                stack.push_back(next);
            }
        }
        if (infinite) continue;
        const Point centre = (1.0 / 3) * (on_mesh(largest->vertex(0)) + on_mesh(largest->vertex(1)) +
                                          on_mesh(largest->vertex(2)));
        const int label = label_at(stretch->to_section(centre));
        for (auto face : part) face->info() = label;
        if (label < 0) seeds.emplace_back(centre.r, centre.z);
    }
}

Contacts contacts_of(const Section& section) {
    return {pieces_of(section), snap_mm};
}

Result<std::unique_ptr<Drawing>> draw(const Section& section, const Contacts& contacts,
                                      std::shared_ptr<const Stretch> stretch, double arc_step_rad,
                                      const SizeField& size) {
    auto out = std::make_unique<Drawing>();
    out->section = &section;
    out->stretch = std::move(stretch);
    Divisions divisions;
    const Fineness fineness{arc_step_rad, *out->stretch, size, contacts, divisions};
    Drafter drafter(*out, fineness);
    for (std::size_t k = 0; k < section.regions.size(); ++k)
        out->region_polygons.push_back(
            drafter.add(section.regions[k].outline, section.regions[k].name, static_cast<int>(k)));
    for (const auto& electrode : section.electrodes)
        out->electrode_polygons.push_back(drafter.add(electrode.outline, electrode.name, -1));
    for (std::size_t k = 0; k < section.boundaries.size(); ++k) {
        const auto& along = section.boundaries[k].along;
        for (std::size_t i = 0; i + 1 < along.size(); ++i)
            drafter.lines.push_back({along[i], along[i + 1], -1, static_cast<int>(k)});
    }
    const auto arrangement = arrange(drafter.lines, snap_mm);
    for (const auto& [k, other] : arrangement.overlapping_boundaries) {
        const auto& a = section.boundaries[k];
        const auto& b = section.boundaries[other];
        if (a.voltage_kV != b.voltage_kV)
            return refuse(
                "boundary " + b.name,
                fmt::format("it runs along boundary {}, which holds the same line at another voltage",
                            a.name),
                "Remove one of the two, or end it where the other begins");
    }
    std::vector<Vertex> vertices;
    Face hint;
    for (const auto& at : arrangement.vertices) {
        const Point p = out->stretch->to_mesh(at);
        vertices.push_back(out->triangulation.insert({p.r, p.z}, hint));
        hint = vertices.back()->face();
    }
    for (const auto& edge : arrangement.edges) {
        const auto a = vertices[edge.a], b = vertices[edge.b];
        out->triangulation.insert_constraint(a, b);
        if (edge.arc >= 0 || edge.boundary >= 0) out->tagged.push_back({a, b, edge.arc, edge.boundary});
    }
    out->label();
    return out;
}

Result<void> check_conductors(const Drawing& drawing) {
    const auto& triangulation = drawing.triangulation;
    const auto* section = drawing.section;
    const auto nearest_outline_mm = [&](Point a, Point b) {
        double nearest = std::numeric_limits<double>::max();
        for (const auto& polygon : drawing.region_polygons)
            for (std::size_t i = 0; i < polygon.size(); ++i) {
                const Point p = polygon[i], u = polygon[(i + 1) % polygon.size()] - p;
                for (const double f : {0.0, 0.5, 1.0}) {
                    const Point q = a + f * (b - a);
                    const double t = dot(u, u) > 0 ? std::clamp(dot(q - p, u) / dot(u, u), 0.0, 1.0) : 0.0;
                    nearest = std::min(nearest, distance(q, p + t * u));
                }
            }
        return nearest;
    };
    for (const auto& line : drawing.tagged) {
        if (line.boundary < 0) continue;
        const auto& boundary = section->boundaries[line.boundary];
        Face face;
        int i = 0;
        bool beside = false;
        if (triangulation.is_edge(line.a, line.b, face, i))
            for (const Face f : {face, face->neighbor(i)}) {
                if (triangulation.is_infinite(f)) continue;
                beside = beside || f->info() >= 0;
                if (f->info() > electrode_base) continue;
                const auto& e = section->electrodes[electrode_base - f->info()];
                if (e.floating || e.voltage_kV != boundary.voltage_kV)
                    return refuse(
                        "boundary " + boundary.name,
                        fmt::format("it runs along or through electrode {}, which is not at {:g} kV", e.name,
                                    boundary.voltage_kV),
                        "Keep it off that electrode, or give both one voltage");
                beside = true;
            }
        if (beside) continue;
        const Point a = drawing.place(line.a), b = drawing.place(line.b);
        return refuse(
            "boundary " + boundary.name,
            fmt::format(
                "from [{:.7g}, {:.7g}] to [{:.7g}, {:.7g}] it borders on no region; the nearest outline "
                "of one is {:.4g} mm away",
                a.r, a.z, b.r, b.z, nearest_outline_mm(a, b)),
            "Draw it along or inside a region");
    }
    // Of each electrode: whether any of it is seen, and whether that borders on a region or another
    // electrode.
    std::vector<char> seen(section->electrodes.size(), 0), borders = seen;
    std::size_t touching = 0; // one beyond the last electrode that lies against one of another voltage
    for (auto face : triangulation.finite_face_handles()) {
        if (face->info() > electrode_base) continue;
        const auto k = static_cast<std::size_t>(electrode_base - face->info());
        seen[k] = 1;
        for (int i = 0; i < 3; ++i) {
            const Face next = face->neighbor(i);
            if (triangulation.is_infinite(next) || next->info() == face->info() || next->info() == nothing)
                continue;
            borders[k] = 1;
            if (next->info() > electrode_base) continue;
            const auto &own = section->electrodes[k],
                       &other = section->electrodes[electrode_base - next->info()];
            if (!own.floating && !other.floating && own.voltage_kV != other.voltage_kV)
                touching = std::max(touching,
                                    std::max(k, static_cast<std::size_t>(electrode_base - next->info())) + 1);
        }
    }
    if (touching > 0)
        return refuse("electrode " + section->electrodes[touching - 1].name,
                      "it lies in or against an electrode at another voltage",
                      "Give both one voltage, or draw a gap between them");
    for (std::size_t k = 0; k < borders.size(); ++k) {
        const auto& electrode = section->electrodes[k];
        const auto& polygon = drawing.electrode_polygons[k];
        if (seen[k] && !borders[k])
            return refuse("electrode " + electrode.name,
                          fmt::format("it touches no region; the nearest outline of one is {:.4g} mm away",
                                      nearest_outline_mm(polygon[0], polygon[1])),
                          "Draw it on or inside a region, or remove it");
        if (seen[k]) continue;
        // Hidden behind others: at the same voltage that is no contradiction.
        for (std::size_t i = 0; i < polygon.size(); ++i) {
            const int label = drawing.label_at(0.5 * (polygon[i] + polygon[(i + 1) % polygon.size()]));
            if (label > electrode_base || electrode_base - label == static_cast<int>(k)) continue;
            const auto& cover = section->electrodes[electrode_base - label];
            if (electrode.floating || cover.floating || cover.voltage_kV != electrode.voltage_kV)
                return refuse(
                    "electrode " + electrode.name,
                    fmt::format("it lies inside electrode {}, which has another potential", cover.name),
                    "Remove one, or give both one voltage");
        }
    }
    return {};
}

} // namespace ng::drawing
