#include "mesh/mesher.h"
#include "mesh/drawing.h"
#include "units/promise.h"
#include <CGAL/Delaunay_mesher_2.h>
#include <algorithm>
#include <fmt/format.h>
#include <set>
#include <unordered_map>

namespace ng {
using namespace drawing;
namespace {

constexpr double shape_bound = 0.125; // squared sine of 20.7 degrees: the mesher is proved to end with it

/// Bad triangles are too large for the size field or too thin.
class Criteria {
  public:
    using Face_handle = Triangulation::Face_handle;
    struct Quality {
        double oversize = 0; ///< longest edge over wanted size, squared
        double sine = 1;
        friend bool operator<(const Quality& a, const Quality& b) {
            if (a.oversize > 1 || b.oversize > 1)
                return a.oversize > b.oversize; // worst first: larger oversize
            return a.sine < b.sine;
        }
    };
    class Is_bad {
      public:
        explicit Is_bad(const SizeField* size) : size_(size) {}
        CGAL::Mesh_2::Face_badness operator()(const Quality& q) const {
            if (q.oversize > 1) return CGAL::Mesh_2::IMPERATIVELY_BAD;
            return q.sine < shape_bound ? CGAL::Mesh_2::BAD : CGAL::Mesh_2::NOT_BAD;
        }
        CGAL::Mesh_2::Face_badness operator()(const Face_handle& face, Quality& q) const {
            const Point a = on_mesh(face->vertex(0)), b = on_mesh(face->vertex(1)),
                        c = on_mesh(face->vertex(2));
            const double ab = dot(b - a, b - a), bc = dot(c - b, c - b), ca = dot(a - c, a - c);
            const double longest = std::max({ab, bc, ca});
            q.oversize = 0;
            q.sine = 1;
            if (*size_) {
                const double wanted = (*size_)((1.0 / 3) * (a + b + c));
                q.oversize = longest / (wanted * wanted);
                if (q.oversize > 1) return CGAL::Mesh_2::IMPERATIVELY_BAD;
            }
            const double twice_area = std::abs(cross(b - a, c - a));
            const double shortest = std::min({ab, bc, ca}), middle = ab + bc + ca - longest - shortest;
            q.sine = twice_area * twice_area / (longest * middle); // of the smallest angle, squared
            return q.sine < shape_bound ? CGAL::Mesh_2::BAD : CGAL::Mesh_2::NOT_BAD;
        }

      private:
        const SizeField* size_;
    };
    explicit Criteria(const SizeField* size = nullptr) : size_(size) {}
    Is_bad is_bad_object() const { return Is_bad(size_); }

  private:
    const SizeField* size_;
};

using Refiner = CGAL::Delaunay_mesher_2<Triangulation, Criteria>;

/// Position of `p` projected on the circle of the arc.
Point on_arc(const Arc& arc, Point p) {
    const Point d = p - arc.centre;
    return arc.centre + (arc.radius_mm / length(d)) * d;
}

std::pair<int, int> ordered(int a, int b) {
    return {std::min(a, b), std::max(a, b)};
}

/// Refines a drawing. False when cancelled or out of triangles.
bool refine(Drawing& drawing, const SizeField& size, int most_triangles, const CancelFlag* cancel) {
    Refiner refiner(drawing.triangulation, Criteria(&size));
    refiner.set_seeds(drawing.seeds.begin(), drawing.seeds.end(), false);
    refiner.init();
    const auto most_vertices = static_cast<std::size_t>(most_triangles / 2);
    int steps = 0;
    bool complete = true;
    while (complete && !refiner.is_refinement_done()) {
        refiner.step_by_step_refine_mesh();
        if (++steps % 256 == 0)
            complete = !(cancel && cancel->load(std::memory_order_relaxed)) &&
                       drawing.triangulation.number_of_vertices() <= most_vertices;
    }
    drawing.label();
    return complete;
}

/// Visits the mesh edges into which the refinement has split a tagged input line, in order. False where they
/// cannot be followed to its end.
template <class Visit> bool walk(const Triangulation& triangulation, const Tagged& line, Visit visit) {
    Vertex at = line.a;
    while (at != line.b) {
        const Point from = on_mesh(at), towards = on_mesh(line.b) - from;
        Vertex best;
        double best_cosine = -2;
        auto edge = triangulation.incident_edges(at), end = edge;
        do {
            if (!edge->first->is_constrained(edge->second)) continue;
            const Vertex v1 = edge->first->vertex(Triangulation::cw(edge->second));
            const Vertex v2 = edge->first->vertex(Triangulation::ccw(edge->second));
            const Vertex other = v1 == at ? v2 : v1;
            if (triangulation.is_infinite(other)) continue;
            const Point step = on_mesh(other) - from;
            const double cosine = dot(step, towards) / (length(step) * length(towards));
            if (cosine > best_cosine) {
                best_cosine = cosine;
                best = other;
            }
        } while (++edge != end);
        if (best_cosine < 0.99) return false; // cannot happen on a valid triangulation
        visit(at, best);
        at = best;
    }
    return true;
}

/// Moves of the vertices beside a chord that goes onto its arc: as far as the chord does there, falling to
/// nothing with the distance from it. Where the mesh is finer than the arc is high over its chord, triangles
/// would turn over otherwise. Lines that meet the arc are bent by that height too: a micrometre on a 0.3 mm
/// edge.
void bend_along(const Drawing& drawing, const Tagged& line, const std::vector<Vertex>& along,
                const std::vector<char>& on_an_arc, const std::vector<Point>& nodes,
                std::vector<Point>& moves) {
    constexpr double steepest = 1.0 / 16; // of a move, over the distance from the chord
    const Arc& arc = drawing.arcs[static_cast<std::size_t>(line.arc)];
    const Point a = drawing.place(line.a), chord = drawing.place(line.b) - a;
    const double size = length(chord);
    const Point u = (1 / size) * chord, n{-u.z, u.r};
    // Where another outline crosses the chord, its ends are not both on the arc.
    const auto move_at = [&](double t) {
        const Point p = a + t * u;
        return on_arc(arc, p) - p;
    };
    const double highest = std::max({length(move_at(0)), length(move_at(size / 2)), length(move_at(size))});
    const double band = std::min(size / 2, highest / steepest);
    std::vector<Vertex> front(along.begin(), along.end());
    std::set<Vertex> seen(along.begin(), along.end());
    while (!front.empty()) {
        std::vector<Vertex> next;
        for (const auto v : front) {
            auto around = drawing.triangulation.incident_vertices(v), end = around;
            do {
                const Vertex w = around;
                if (drawing.triangulation.is_infinite(w) || w->info() < 0 || !seen.insert(w).second) continue;
                const auto node = static_cast<std::size_t>(w->info());
                const Point d = nodes[node] - a;
                const double t = dot(d, u), away = std::abs(dot(d, n));
                if (t <= 0 || t >= size || away >= band || on_an_arc[node]) continue;
                const Point move = (1 - away / band) * move_at(t);
                if (length(move) > length(moves[node])) moves[node] = move;
                next.push_back(w);
            } while (++around != end);
        }
        front = std::move(next);
    }
}

/// The mesh of a refined drawing.
Result<Mesh> mesh_of(Drawing& drawing, const std::vector<Mesh::Singular>& singular) {
    const auto& t = drawing.triangulation;
    const auto& section = *drawing.section;
    Mesh mesh;
    for (const auto& e : section.electrodes) mesh.conductors.push_back({e.name, e.voltage_kV, e.floating});
    for (const auto& b : section.boundaries) mesh.conductors.push_back({b.name, b.voltage_kV, false});
    mesh.arcs = drawing.edge_arcs;
    mesh.singular = singular;
    if (!drawing.stretch->none()) mesh.stretch = drawing.stretch;

    for (auto v : t.finite_vertex_handles()) v->info() = -1;
    std::vector<Face> faces;
    for (auto face : t.finite_face_handles()) {
        if (face->info() < 0) continue;
        faces.push_back(face);
        for (int i = 0; i < 3; ++i)
            if (face->vertex(i)->info() < 0) {
                face->vertex(i)->info() = static_cast<int>(mesh.nodes.size());
                mesh.nodes.push_back(drawing.place(face->vertex(i)));
                mesh.on_drawing.push_back(on_mesh(face->vertex(i)));
            }
    }
    if (faces.empty())
        return refuse("section", "no region is left outside the electrodes", "Give the electrodes less room");
    mesh.corner_count = static_cast<int>(mesh.nodes.size());

    // Arcs and named boundaries: which mesh edges lie on them; vertices go onto the true arc.
    std::map<std::pair<int, int>, std::pair<int, int>> tags; // edge -> arc, boundary
    std::vector<char> on_an_arc(mesh.nodes.size(), 0);
    std::vector<Point> moves(mesh.nodes.size());
    std::vector<std::pair<const Tagged*, std::vector<Vertex>>> chords;
    for (const auto& line : drawing.tagged) {
        std::vector<Vertex> along{line.a};
        const bool whole = walk(t, line, [&](Vertex a, Vertex b) {
            along.push_back(b);
            if (a->info() < 0 || b->info() < 0) return;
            tags[ordered(a->info(), b->info())] = {line.arc, line.boundary};
        });
        if (!whole) {
            const Point at = drawing.place(line.a);
            return refuse(
                "section",
                fmt::format("the mesh has lost the line that begins at [{:.6g}, {:.6g}]", at.r, at.z),
                "Move that point a little; please report this");
        }
        if (line.arc < 0) continue;
        const auto& arc = drawing.arcs[static_cast<std::size_t>(line.arc)];
        for (auto v : along) {
            if (v->info() < 0) continue;
            const auto node = static_cast<std::size_t>(v->info());
            on_an_arc[node] = 1;
            const Point move = on_arc(arc, mesh.nodes[node]) - mesh.nodes[node];
            moves[node] = length(move) > snap_mm * 1e-3 ? move : Point{};
        }
        chords.emplace_back(&line, std::move(along));
    }
    for (const auto& [line, along] : chords) bend_along(drawing, *line, along, on_an_arc, mesh.nodes, moves);
    for (std::size_t node = 0; node < moves.size(); ++node) {
        mesh.nodes[node] = mesh.nodes[node] + moves[node];
        if (section.symmetry == Symmetry::axisymmetric)
            mesh.nodes[node].r = std::max(0.0, mesh.nodes[node].r);
    }

    mesh.conductor.assign(mesh.nodes.size(), -1);
    std::string clash;
    std::map<int, std::map<int, double>> touching; // corner node: length of conducting side by conductor
    auto hold_side = [&](std::initializer_list<int> nodes, int conductor, auto hold) {
        const double size = distance(mesh.nodes[static_cast<std::size_t>(*nodes.begin())],
                                     mesh.nodes[static_cast<std::size_t>(*(nodes.begin() + 1))]);
        for (const int node : nodes) hold(node, conductor);
        for (auto it = nodes.begin(); it != nodes.begin() + 2; ++it)
            if (section.electrodes.size() + section.boundaries.size() > 1) touching[*it][conductor] += size;
    };
    auto hold = [&](int node, int conductor) {
        auto& held = mesh.conductor[static_cast<std::size_t>(node)];
        if (held >= 0 && held != conductor) {
            const auto& a = mesh.conductors[static_cast<std::size_t>(held)];
            const auto& b = mesh.conductors[static_cast<std::size_t>(conductor)];
            if (a.floating || b.floating || a.voltage_kV != b.voltage_kV)
                clash = fmt::format("{} and {}", a.name, b.name);
            return;
        }
        held = conductor;
    };

    std::unordered_map<std::uint64_t, int> middles;
    middles.reserve(faces.size() * 2);
    for (auto face : faces) {
        const int id = static_cast<int>(mesh.triangles.size());
        std::array<int, 6> nodes{};
        for (int i = 0; i < 3; ++i) nodes[static_cast<std::size_t>(i)] = face->vertex(i)->info();
        bool curved = false;
        for (int i = 0; i < 3; ++i) { // side i: corner i to corner i+1, opposite face vertex i+2
            const int a = nodes[static_cast<std::size_t>(i)],
                      b = nodes[static_cast<std::size_t>((i + 1) % 3)];
            const auto [low, high] = ordered(a, b);
            const auto key = static_cast<std::uint64_t>(low) << 32 | static_cast<std::uint32_t>(high);
            const auto [it, fresh] = middles.try_emplace(key, static_cast<int>(mesh.nodes.size()));
            const int middle = it->second;
            nodes[static_cast<std::size_t>(3 + i)] = middle;
            const int side = (i + 2) % 3;
            const bool constrained = face->is_constrained(side);
            const auto tag = constrained ? tags.find({low, high}) : tags.end();
            const int arc = tag == tags.end() ? -1 : tag->second.first;
            const int boundary = tag == tags.end() ? -1 : tag->second.second;
            if (arc >= 0) curved = true;
            if (fresh) {
                Point p =
                    0.5 * (mesh.nodes[static_cast<std::size_t>(a)] + mesh.nodes[static_cast<std::size_t>(b)]);
                if (arc >= 0) p = on_arc(drawing.arcs[static_cast<std::size_t>(arc)], p);
                mesh.nodes.push_back(p);
                mesh.conductor.push_back(-1);
            }
            const int across = face->neighbor(side)->info();
            if (constrained && across <= electrode_base) {
                const int electrode = electrode_base - across;
                hold_side({a, b, middle}, electrode, hold);
            }
            if (const int reported = arc >= 0 ? drawing.reported_arc[static_cast<std::size_t>(arc)] : -1;
                reported >= 0) {
                const int owner = mesh.arcs[static_cast<std::size_t>(reported)].region;
                // Of an electrode: against it. Of a region: from outside, or from within where it is a notch
                // in metal.
                if (owner < 0 ? across <= electrode_base
                              : face->info() != owner || across <= electrode_base) {
                    mesh.arc_edges.push_back({a, b, middle});
                    mesh.arc_of_edge.push_back(reported);
                    mesh.arc_edge_triangle.push_back(id);
                }
            }
            if (boundary >= 0)
                hold_side({a, b, middle}, static_cast<int>(section.electrodes.size()) + boundary, hold);
        }
        mesh.triangles.push_back(nodes);
        mesh.region.push_back(face->info());
        mesh.curved.push_back(curved);
    }
    for (const auto& [node, lengths] : touching) {
        if (lengths.size() < 2) continue;
        double sum = 0;
        for (const auto& [conductor, size] : lengths) sum += size;
        Mesh::SharedNode shared{node, {}};
        for (const auto& [conductor, size] : lengths) shared.shares.emplace_back(conductor, size / sum);
        mesh.shared_nodes.push_back(std::move(shared));
    }
    if (!clash.empty())
        return refuse("electrodes " + clash, "they touch but are at different potentials",
                      "Leave a gap between them");
    return mesh;
}

} // namespace

struct Mesher::State {
    const Section* section = nullptr;
    MesherOptions options;
    std::shared_ptr<const Stretch> stretch;
    std::unique_ptr<Drawing> drawing;
    bool refined = false; ///< false: as create() drew it, arcs at their widest steps
    std::vector<Corner> corners;
    std::vector<Mesh::Singular> singular;
};

Mesher::Mesher(std::unique_ptr<State> state) : state_(std::move(state)) {}
Mesher::Mesher(Mesher&&) noexcept = default;
Mesher::~Mesher() = default;

Result<Mesher> Mesher::create(const Section& section, const MesherOptions& options) {
    promise(options.arc_step_rad > 0 && options.most_triangles > 0, "arcs have steps and meshes a limit");
    auto state = std::make_unique<State>();
    state->section = &section;
    state->options = options;
    state->stretch = std::make_shared<const Stretch>(Stretch::of(section, options.shortest_stretched_span));
    auto drawing = draw(section, state->stretch, options.arc_step_rad, {});
    if (!drawing) return tl::unexpected(drawing.error());
    if (auto ok = check_conductors(**drawing); !ok) return tl::unexpected(ok.error());
    state->corners = find_corners(**drawing);
    auto weights = options.region_weights;
    if (weights.empty()) {
        weights.emplace_back();
        for (const auto& region : section.regions)
            weights[0].push_back(section.materials.at(region.material).eps_r);
    }
    state->singular = singular_for(state->corners, weights);
    state->drawing = std::move(*drawing);
    return Mesher(std::move(state));
}

const Stretch& Mesher::stretch() const {
    return *state_->stretch;
}

const std::vector<Mesh::Singular>& Mesher::singular() const {
    return state_->singular;
}

bool Mesher::judge_corners(const std::vector<std::vector<double>>& region_weights) {
    auto now = singular_for(state_->corners, region_weights);
    const bool changed = !std::equal(now.begin(), now.end(), state_->singular.begin(), state_->singular.end(),
                                     [](const auto& a, const auto& b) {
                                         return a.at == b.at && a.kind == b.kind && a.reach_mm == b.reach_mm;
                                     });
    state_->singular = std::move(now);
    return changed;
}

Result<MadeMesh> Mesher::make(const SizeField& size, const CancelFlag* cancel) {
    if (state_->refined) {
        auto drawn = draw(*state_->section, state_->stretch, state_->options.arc_step_rad, size);
        if (!drawn) return tl::unexpected(drawn.error());
        state_->drawing = std::move(*drawn);
    }
    return add(size, cancel);
}

bool Mesher::outgrown(const SizeField& size) const {
    constexpr double smallest_share = 1.0 / 8; // of a chord; the arc stands 1/80 of it high over it
    const auto& drawing = *state_->drawing;
    return std::any_of(drawing.tagged.begin(), drawing.tagged.end(), [&](const Tagged& line) {
        if (line.arc < 0) return false;
        const Point a = on_mesh(line.a), b = on_mesh(line.b);
        return size(0.5 * (a + b)) < smallest_share * distance(a, b);
    });
}

Result<MadeMesh> Mesher::add(const SizeField& size, const CancelFlag* cancel) {
    state_->refined = true;
    MadeMesh out;
    out.complete = refine(*state_->drawing, size, state_->options.most_triangles, cancel);
    out.cancelled = cancel && cancel->load(std::memory_order_relaxed);
    if (out.cancelled) return out;
    auto mesh = mesh_of(*state_->drawing, state_->singular);
    if (!mesh) return tl::unexpected(mesh.error());
    out.mesh = std::move(*mesh);
    return out;
}

} // namespace ng
