#include "mesh/mesher.h"
#include "mesh/along_curve.h"
#include "mesh/drawing.h"
#include "mesh/pair_numbers.h"
#include "mesh/worst_first.h"
#include "units/promise.h"
#include <CGAL/Delaunay_mesher_2.h>
#include <CGAL/Double_map.h>
#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace ng {
using namespace drawing;
namespace {

constexpr double shape_bound = 0.125; // squared sine of 20.7 degrees: the mesher is proved to end with it

/// Bad triangles are too large for the size field, too thin, or too long where the mesh is stretched.
class Criteria {
  public:
    using Face_handle = Triangulation::Face_handle;
    struct Quality {
        double oversize = 0; ///< longest edge over wanted size, squared
        double sine = 1;
        double urgency() const { return oversize > 1 ? oversize : -sine; }
    };
    class Is_bad {
      public:
        Is_bad(const SizeField* size, const Stretch* stretch) : size_(size), stretch_(stretch) {}
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
                if (stretch_) q.oversize = std::max(q.oversize, stretch_->overlength({a, b, c}, wanted));
                if (q.oversize > 1) return CGAL::Mesh_2::IMPERATIVELY_BAD;
            }
            const double twice_area = std::abs(cross(b - a, c - a));
            const double shortest = std::min({ab, bc, ca}), middle = ab + bc + ca - longest - shortest;
            q.sine = twice_area * twice_area / (longest * middle); // of the smallest angle, squared
            return q.sine < shape_bound ? CGAL::Mesh_2::BAD : CGAL::Mesh_2::NOT_BAD;
        }

      private:
        const SizeField* size_;
        const Stretch* stretch_;
    };
    explicit Criteria(const SizeField* size = nullptr, const Stretch* stretch = nullptr)
        : size_(size), stretch_(stretch) {}
    Is_bad is_bad_object() const { return {size_, stretch_}; }

  private:
    const SizeField* size_;
    const Stretch* stretch_; ///< null: nothing is stretched
};

} // namespace
} // namespace ng

/// CGAL's mesher keeps its bad faces in one of these: two search trees, one of them by the faces' points.
/// Asked for by this file's qualities it has a heap; faces that are equally bad wait in turn.
template <class Compare>
class CGAL::Double_map<ng::drawing::Face, ng::Criteria::Quality, Compare>
    : public ng::WorstFirst<ng::drawing::Face, ng::Criteria::Quality> {
  public:
    using Direct_entry = std::pair<const ng::drawing::Face, ng::Criteria::Quality>;
    using const_iterator = const Direct_entry*; // named by CGAL, never asked for
};

namespace ng {
namespace {

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
    Refiner refiner(drawing.triangulation,
                    Criteria(&size, drawing.stretch->none() ? nullptr : drawing.stretch.get()));
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
/// would turn over otherwise. Lines that meet the chord are bent by that height too: a micrometre on a 0.3 mm
/// edge. All others stay where they are drawn: Contacts leaves them room.
void bend_along(const Drawing& drawing, const Tagged& line, const std::vector<Vertex>& along,
                const std::vector<char>& on_an_arc, const std::vector<char>& on_a_line,
                const std::vector<Point>& nodes, std::vector<Point>& moves) {
    constexpr double steepest = 1.0 / 16; // of a move, over the distance from the chord
    const Arc& arc = drawing.arcs[line.arc];
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
    std::set<Vertex> seen(along.begin(), along.end()), meeting = seen;
    while (!front.empty()) {
        std::vector<Vertex> next;
        for (const auto v : front) {
            auto around = drawing.triangulation.incident_edges(v), end = around;
            do {
                const auto& [face, i] = *around;
                const Vertex w = face->vertex(face->vertex(Triangulation::cw(i)) == v ? Triangulation::ccw(i)
                                                                                      : Triangulation::cw(i));
                if (drawing.triangulation.is_infinite(w) || w->info() < 0) continue;
                const auto node = static_cast<std::size_t>(w->info());
                if (on_a_line[node]) {
                    if (!face->is_constrained(i) || !meeting.contains(v)) continue;
                    meeting.insert(w);
                }
                if (!seen.insert(w).second) continue;
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

/// Makes the mesh of a refined drawing.
class MeshOf {
  public:
    MeshOf(Drawing& drawing, const std::vector<Mesh::Singular>& singular)
        : drawing_(drawing), section_(*drawing.section) {
        for (const auto& e : section_.electrodes)
            mesh_.conductors.push_back({e.name, e.voltage_kV, e.floating});
        for (const auto& b : section_.boundaries) mesh_.conductors.push_back({b.name, b.voltage_kV, false});
        mesh_.arcs = drawing.edge_arcs;
        mesh_.singular = singular;
        if (!drawing.stretch->none()) mesh_.stretch = drawing.stretch;
    }

    Result<Mesh> make() {
        take_corners();
        if (faces_.empty())
            return refuse("section", "no region is left outside the electrodes",
                          "Give the electrodes less room");
        if (auto ok = follow_lines(); !ok) return tl::unexpected(ok.error());
        take_triangles();
        share_touched_nodes();
        if (!clash_.empty())
            return refuse("electrodes " + clash_, "they touch but are at different potentials",
                          "Leave a gap between them");
        return std::move(mesh_);
    }
    bool spoiled() const { return spoiled_; }

  private:
    struct Tags {
        int arc = -1, boundary = -1;
    };
    Drawing& drawing_;
    const Section& section_;
    Mesh mesh_;
    std::vector<Face> faces_;
    std::map<std::pair<int, int>, Tags> tags_;      ///< by mesh edge
    PairNumbers middles_{0};                        ///< by corners, the lower first
    std::map<int, std::map<int, double>> touching_; ///< corner node: length of conducting side by conductor
    std::string clash_;
    bool spoiled_ = false;

    Point& node(int n) { return mesh_.nodes[n]; }
    void take_corners();
    Result<void> follow_lines();
    void look_for_spoiled(const std::vector<Point>& moves);
    void take_triangles();
    void take_side(const Face& face, int i, std::array<int, 6>& nodes, bool& curved);
    int middle_of(int a, int b, int arc);
    void hold(int node, int conductor);
    void hold_side(int a, int b, int middle, int conductor);
    void share_touched_nodes();
};

void MeshOf::take_corners() {
    const auto& t = drawing_.triangulation;
    for (auto v : t.finite_vertex_handles()) v->info() = -1;
    std::vector<Face> faces;
    std::vector<Point> middles;
    for (auto face : t.finite_face_handles()) {
        if (face->info() < 0) continue;
        faces.push_back(face);
        middles.push_back(on_mesh(face->vertex(0)) + on_mesh(face->vertex(1)) + on_mesh(face->vertex(2)));
    }
    faces_.reserve(faces.size());
    for (const int k : along_curve(middles)) {
        const auto face = faces[static_cast<std::size_t>(k)];
        faces_.push_back(face);
        for (int i = 0; i < 3; ++i)
            if (face->vertex(i)->info() < 0) {
                face->vertex(i)->info() = static_cast<int>(mesh_.nodes.size());
                mesh_.nodes.push_back(drawing_.place(face->vertex(i)));
                mesh_.on_drawing.push_back(on_mesh(face->vertex(i)));
            }
    }
    mesh_.corner_count = static_cast<int>(mesh_.nodes.size());
}

/// Arcs and named boundaries: which mesh edges lie on them; vertices go onto the true arc.
Result<void> MeshOf::follow_lines() {
    std::vector<char> on_an_arc(mesh_.nodes.size(), 0), on_a_line = on_an_arc;
    for (const auto& face : faces_)
        for (int i = 0; i < 3; ++i)
            if (face->is_constrained(i))
                for (const int end : {Triangulation::cw(i), Triangulation::ccw(i)})
                    on_a_line[static_cast<std::size_t>(face->vertex(end)->info())] = 1;
    std::vector<Point> moves(mesh_.nodes.size());
    std::vector<std::pair<const Tagged*, std::vector<Vertex>>> chords;
    for (const auto& line : drawing_.tagged) {
        std::vector<Vertex> along{line.a};
        const bool whole = walk(drawing_.triangulation, line, [&](Vertex a, Vertex b) {
            along.push_back(b);
            if (a->info() < 0 || b->info() < 0) return;
            tags_[ordered(a->info(), b->info())] = {line.arc, line.boundary};
        });
        if (!whole) {
            const Point at = drawing_.place(line.a);
            return refuse(
                "section",
                fmt::format("the mesh has lost the line that begins at [{:.6g}, {:.6g}]", at.r, at.z),
                "Move that point a little; please report this");
        }
        if (line.arc < 0) continue;
        const auto& arc = drawing_.arcs[line.arc];
        for (auto v : along) {
            if (v->info() < 0) continue;
            const auto n = static_cast<std::size_t>(v->info());
            on_an_arc[n] = 1;
            const Point move = on_arc(arc, mesh_.nodes[n]) - mesh_.nodes[n];
            moves[n] = length(move) > snap_mm * 1e-6 ? move : Point{};
        }
        chords.emplace_back(&line, std::move(along));
    }
    for (const auto& [line, along] : chords)
        bend_along(drawing_, *line, along, on_an_arc, on_a_line, mesh_.nodes, moves);
    look_for_spoiled(moves);
    for (std::size_t n = 0; n < moves.size(); ++n) {
        mesh_.nodes[n] = mesh_.nodes[n] + moves[n];
        if (section_.symmetry == Symmetry::axisymmetric) mesh_.nodes[n].r = std::max(0.0, mesh_.nodes[n].r);
    }
    return {};
}

void MeshOf::look_for_spoiled(const std::vector<Point>& moves) {
    constexpr double least_left = 0.5;
    for (const auto& face : faces_) {
        std::array<Point, 3> from, to;
        bool moved = false;
        for (int i = 0; i < 3; ++i) {
            const auto n = static_cast<std::size_t>(face->vertex(i)->info());
            from[i] = mesh_.nodes[n];
            to[i] = from[i] + moves[n];
            moved = moved || !(moves[n] == Point{});
        }
        if (moved &&
            cross(to[1] - to[0], to[2] - to[0]) < least_left * cross(from[1] - from[0], from[2] - from[0]))
            spoiled_ = true;
    }
}

void MeshOf::hold(int node, int conductor) {
    auto& held = mesh_.conductor[node];
    if (held >= 0 && held != conductor) {
        const auto& a = mesh_.conductors[held];
        const auto& b = mesh_.conductors[conductor];
        if (a.floating || b.floating || a.voltage_kV != b.voltage_kV)
            clash_ = fmt::format("{} and {}", a.name, b.name);
        return;
    }
    held = conductor;
}

void MeshOf::hold_side(int a, int b, int middle, int conductor) {
    for (const int n : {a, b, middle}) hold(n, conductor);
    if (section_.electrodes.size() + section_.boundaries.size() < 2) return;
    const double size = distance(node(a), node(b));
    for (const int n : {a, b}) touching_[n][conductor] += size;
}

/// The node in the middle of a side, on its arc where it has one; new ones are made.
int MeshOf::middle_of(int a, int b, int arc) {
    const auto [low, high] = ordered(a, b);
    const auto [middle, fresh] = middles_.at(low, high);
    if (!fresh) return middle;
    const int made = middle = static_cast<int>(mesh_.nodes.size());
    Point p = 0.5 * (node(a) + node(b));
    if (arc >= 0) p = on_arc(drawing_.arcs[arc], p);
    mesh_.nodes.push_back(p);
    mesh_.conductor.push_back(-1);
    return made;
}

/// Side i: corner i to corner i+1, opposite face vertex i+2.
void MeshOf::take_side(const Face& face, int i, std::array<int, 6>& nodes, bool& curved) {
    const int a = nodes[i], b = nodes[(i + 1) % 3];
    const int side = (i + 2) % 3;
    const bool constrained = face->is_constrained(side);
    Tags tag;
    if (constrained)
        if (const auto it = tags_.find(ordered(a, b)); it != tags_.end()) tag = it->second;
    if (tag.arc >= 0) curved = true;
    const int middle = nodes[3 + i] = middle_of(a, b, tag.arc);
    const int across = face->neighbor(side)->info();
    if (constrained && across <= electrode_base) hold_side(a, b, middle, electrode_base - across);
    const int reported = tag.arc >= 0 ? drawing_.reported_arc[tag.arc] : -1;
    if (reported >= 0) {
        const int owner = mesh_.arcs[reported].region;
        // Of an electrode: against it. Of a region: from outside, or from within where it is a notch in
        // metal.
        if (across <= electrode_base || (owner >= 0 && face->info() != owner)) {
            mesh_.arc_edges.push_back({a, b, middle});
            mesh_.arc_of_edge.push_back(reported);
            mesh_.arc_edge_triangle.push_back(static_cast<int>(mesh_.triangles.size()));
        }
    }
    if (tag.boundary >= 0)
        hold_side(a, b, middle, static_cast<int>(section_.electrodes.size()) + tag.boundary);
}

void MeshOf::take_triangles() {
    mesh_.conductor.assign(mesh_.nodes.size(), -1);
    middles_ = PairNumbers(mesh_.nodes.size());
    middles_.reserve(faces_.size() * 2);
    for (const auto& face : faces_) {
        std::array<int, 6> nodes{};
        for (int i = 0; i < 3; ++i) nodes[i] = face->vertex(i)->info();
        bool curved = false;
        for (int i = 0; i < 3; ++i) take_side(face, i, nodes, curved);
        mesh_.triangles.push_back(nodes);
        mesh_.region.push_back(face->info());
        mesh_.curved.push_back(curved);
    }
}

void MeshOf::share_touched_nodes() {
    for (const auto& [node, lengths] : touching_) {
        if (lengths.size() < 2) continue;
        double sum = 0;
        for (const auto& [conductor, size] : lengths) sum += size;
        Mesh::SharedNode shared{node, {}};
        for (const auto& [conductor, size] : lengths) shared.shares.emplace_back(conductor, size / sum);
        mesh_.shared_nodes.push_back(std::move(shared));
    }
}

} // namespace

struct Mesher::State {
    const Section* section = nullptr;
    MesherOptions options;
    std::shared_ptr<const Stretch> stretch;
    std::optional<Contacts> contacts;
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
    state->contacts = contacts_of(section);
    auto drawing = draw(section, *state->contacts, state->stretch, options.arc_step_rad, {});
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
        auto drawn =
            draw(*state_->section, *state_->contacts, state_->stretch, state_->options.arc_step_rad, size);
        if (!drawn) return tl::unexpected(drawn.error());
        state_->drawing = std::move(*drawn);
    }
    return add(size, cancel);
}

Result<MadeMesh> Mesher::add(const SizeField& size, const CancelFlag* cancel) {
    state_->refined = true;
    MadeMesh out;
    out.complete = refine(*state_->drawing, size, state_->options.most_triangles, cancel);
    out.cancelled = cancel && cancel->load(std::memory_order_relaxed);
    if (out.cancelled) return out;
    MeshOf made(*state_->drawing, state_->singular);
    auto mesh = made.make();
    if (!mesh) return tl::unexpected(mesh.error());
    out.mesh = std::move(*mesh);
    out.spoiled = made.spoiled();
    return out;
}

} // namespace ng
