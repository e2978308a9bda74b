#include "mesh/drawing.h"
#include <algorithm>
#include <optional>

namespace ng::drawing {
namespace {

/// Looks at the vertices of a drawing's outlines.
class CornerFinder {
  public:
    explicit CornerFinder(const Drawing& drawing) : drawing_(drawing), triangulation_(drawing.triangulation) {
        for (const auto& line : drawing.tagged) tags_[std::minmax(line.a, line.b)] = &line;
    }
    Corner corner_at(Vertex v) const;
    double reach_at(Vertex v) const;
    /// A quarter of the radius of the smallest arc that meets there: nearer, a cusp is thinner than a
    /// thirtieth of that.
    double cusp_reach_at(Vertex v) const;

  private:
    const Drawing& drawing_;
    const Triangulation& triangulation_;
    std::map<std::pair<Vertex, Vertex>, const Tagged*> tags_; // ends ordered
    const Tagged* tag_of(Vertex a, Vertex b) const {
        const auto it = tags_.find(std::minmax(a, b));
        return it == tags_.end() ? nullptr : it->second;
    }
    /// From `v` along its line to `other`: of an arc along the tangent.
    Point direction(Vertex v, Vertex other) const {
        const Point here = drawing_.place(v), straight = drawing_.place(other) - here;
        const auto* tag = tag_of(v, other);
        if (!tag || tag->arc < 0) return straight;
        const Point out = here - drawing_.arcs[tag->arc].centre;
        const Point tangent{-out.z, out.r};
        return dot(tangent, straight) > 0 ? tangent : -1 * tangent;
    }
};

/// Looks at the wedges of material round a vertex of the outlines, between metal, held lines and the
/// section's own edge (a line of symmetry). Directions of arcs are those of their tangents: where an arc goes
/// on smoothly there is no corner, however its chords bend.
Corner CornerFinder::corner_at(Vertex v) const {
    const auto held = [&](Vertex other) {
        const auto* tag = tag_of(v, other);
        return tag && tag->boundary >= 0;
    };
    const auto is_metal = [&](Face f) {
        return !triangulation_.is_infinite(f) && f->info() <= electrode_base;
    };
    const auto is_material = [&](Face f) { return !triangulation_.is_infinite(f) && f->info() >= 0; };
    // Faces counter-clockwise; `opens`: whether a wedge ends at the line before a face, and what that line
    // is.
    struct Piece {
        int region = -1;
        double angle = 0;
        std::optional<SectorEnd> opens;
    };
    std::vector<Piece> pieces;
    const auto start = triangulation_.incident_faces(v);
    auto face = start;
    do {
        const Face now = face;
        const int i = now->index(v);
        const Vertex from = now->vertex(Triangulation::ccw(i)), to = now->vertex(Triangulation::cw(i));
        const Face before = now->neighbor(Triangulation::cw(i)); // clockwise of the line to `from`
        Piece piece;
        if (is_material(now)) {
            const Point a = direction(v, from), b = direction(v, to);
            piece.region = now->info();
            piece.angle = std::atan2(cross(a, b), dot(a, b));
        }
        if ((!triangulation_.is_infinite(from) && held(from)) || is_metal(before) || is_metal(now))
            piece.opens = SectorEnd::metal;
        else if (is_material(before) != is_material(now))
            piece.opens = SectorEnd::symmetry;
        pieces.push_back(piece);
    } while (++face != start);

    Corner out;
    out.at = drawing_.place(v);
    out.on_axis = drawing_.section->symmetry == Symmetry::axisymmetric && std::abs(out.at.r) < snap_mm;
    const auto add = [](Corner::Wedge& wedge, const Piece& piece) {
        if (piece.region < 0) return;
        if (!wedge.parts.empty() && wedge.parts.back().first == piece.region)
            wedge.parts.back().second += piece.angle;
        else
            wedge.parts.emplace_back(piece.region, piece.angle);
    };
    const auto first =
        std::find_if(pieces.begin(), pieces.end(), [](const auto& p) { return p.opens.has_value(); });
    out.closed = first == pieces.end();
    if (out.closed) {
        out.wedges.emplace_back();
        for (const auto& piece : pieces) add(out.wedges.back(), piece);
        return out;
    }
    std::rotate(pieces.begin(), first, pieces.end());
    for (std::size_t i = 0; i < pieces.size();) {
        Corner::Wedge wedge;
        wedge.first = *pieces[i].opens;
        do add(wedge, pieces[i++]);
        while (i < pieces.size() && !pieces[i].opens);
        wedge.last = *pieces[i % pieces.size()].opens;
        if (!wedge.parts.empty()) out.wedges.push_back(std::move(wedge));
    }
    return out;
}

/// A corner disturbs the field within a few lengths of the shortest line that meets there; of an arc its
/// whole length counts, not the chord that this mesh happens to take.
double CornerFinder::reach_at(Vertex v) const {
    double shortest = longest_singular_reach_mm / singular_reach_per_step;
    auto edge = triangulation_.incident_edges(v), end = edge;
    do {
        if (!edge->first->is_constrained(edge->second)) continue;
        const Vertex a = edge->first->vertex(Triangulation::cw(edge->second));
        const Vertex b = edge->first->vertex(Triangulation::ccw(edge->second));
        double size = distance(drawing_.place(a), drawing_.place(b));
        if (const auto* tag = tag_of(a, b); tag && tag->arc >= 0) {
            const auto& arc = drawing_.arcs[tag->arc];
            size = std::max(size, arc.radius_mm * std::min(1.0, std::abs(arc.sweep_rad)));
        }
        shortest = std::min(shortest, size);
    } while (++edge != end);
    return shortest * singular_reach_per_step;
}

double CornerFinder::cusp_reach_at(Vertex v) const {
    double radius = 4 * longest_singular_reach_mm;
    auto edge = triangulation_.incident_edges(v), end = edge;
    do {
        const Vertex a = edge->first->vertex(Triangulation::cw(edge->second));
        const Vertex b = edge->first->vertex(Triangulation::ccw(edge->second));
        if (const auto* tag = tag_of(a, b); tag && tag->arc >= 0)
            radius = std::min(radius, drawing_.arcs[tag->arc].radius_mm);
    } while (++edge != end);
    return radius / 4;
}

} // namespace

std::vector<Corner> find_corners(const Drawing& drawing) {
    const CornerFinder finder(drawing);
    std::vector<Corner> out;
    for (auto v : drawing.triangulation.finite_vertex_handles()) {
        auto corner = finder.corner_at(v);
        if (corner.wedges.empty() || (corner.closed && corner.wedges[0].parts.size() < 2)) continue;
        corner.reach_mm = finder.reach_at(v);
        corner.cusp_reach_mm = finder.cusp_reach_at(v);
        out.push_back(std::move(corner));
    }
    return out;
}

namespace {

constexpr double closed_rad = 1e-4; // chords of two arcs of one centre do not bend by as little
constexpr double cusp_order = 0.9;  // chosen: so that nothing is judged within its reach

} // namespace

std::vector<Mesh::Singular> singular_for(const std::vector<Corner>& corners,
                                         const std::vector<std::vector<double>>& region_weights) {
    std::vector<Mesh::Singular> out;
    for (const auto& corner : corners) {
        Mesh::Singular found{corner.at, corner.reach_mm, corner.reach_mm,
                             Mesh::Singular::Kind::dielectric_corner, 1};
        for (const auto& weight : region_weights)
            for (const auto& wedge : corner.wedges) {
                std::vector<Sector> sectors;
                for (const auto& [region, angle] : wedge.parts) {
                    const double w = weight[region];
                    if (!sectors.empty() && sectors.back().weight == w)
                        sectors.back().angle_rad += angle;
                    else
                        sectors.push_back({w, angle});
                }
                if (corner.closed && sectors.size() > 1 && sectors.front().weight == sectors.back().weight) {
                    sectors.front().angle_rad += sectors.back().angle_rad;
                    sectors.pop_back();
                }
                // Between an arc and its tangent a part may close up: a cusp, in which the field is finite,
                // but which no mesh fills to its end.
                bool cusp = false;
                std::erase_if(sectors, [&](const Sector& s) {
                    cusp = cusp || (s.angle_rad <= closed_rad && s.weight > 0);
                    return s.angle_rad <= closed_rad || s.weight <= 0;
                });
                if (cusp && !sectors.empty() && found.order >= cusp_order) {
                    found.order = cusp_order;
                    found.kind = Mesh::Singular::Kind::triple_point;
                    found.reach_mm = found.influence_mm = corner.cusp_reach_mm;
                }
                if (sectors.empty() || (corner.closed && sectors.size() < 2)) continue;
                const bool metal =
                    !corner.closed && (wedge.first == SectorEnd::metal || wedge.last == SectorEnd::metal);
                const double order = corner.closed ? closed_corner_order(sectors)
                                     : corner.on_axis && wedge.first != wedge.last && sectors.size() == 1
                                         ? cone_tip_order(sectors.front().angle_rad)
                                         : corner_order(sectors, wedge.first, wedge.last);
                // The strongest growth; where none grows, the slowest fall.
                if (found.order < 1 ? order >= found.order
                                    : order > 1 && found.order > 1 && order >= found.order)
                    continue;
                found.order = order;
                found.kind = sectors.size() > (metal ? 1 : 2) ? Mesh::Singular::Kind::triple_point
                             : metal                          ? Mesh::Singular::Kind::metal_corner
                                                              : Mesh::Singular::Kind::dielectric_corner;
            }
        if (!is_irregular(found.order)) continue;
        if (!grows_without_limit(found.order)) found.reach_mm *= weak_reach_share;
        out.push_back(found);
    }
    return out;
}

} // namespace ng::drawing
