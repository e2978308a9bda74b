#include "mesh/mesher.h"
#include "mesh/arrangement.h"
#include "mesh/triple_point.h"
#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Delaunay_mesh_face_base_2.h>
#include <CGAL/Delaunay_mesher_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Triangulation_face_base_with_info_2.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>
#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <numbers>
#include <unordered_map>

namespace ng {
namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using VertexBase = CGAL::Triangulation_vertex_base_with_info_2<int, Kernel>;
using InfoFace = CGAL::Triangulation_face_base_with_info_2<int, Kernel>;
using ConstrainedFace = CGAL::Constrained_Delaunay_triangulation_face_base_2<
    Kernel, CGAL::Constrained_triangulation_face_base_2<Kernel, InfoFace>>;
using FaceBase = CGAL::Delaunay_mesh_face_base_2<Kernel, ConstrainedFace>;
using Triangulation = CGAL::Constrained_Delaunay_triangulation_2<
    Kernel, CGAL::Triangulation_data_structure_2<VertexBase, FaceBase>, CGAL::Exact_predicates_tag>;
using Vertex = Triangulation::Vertex_handle;
using Face = Triangulation::Face_handle;

constexpr double snap_mm = 1e-4;
constexpr double shape_bound = 0.125; // squared sine of 20.7 degrees: the mesher is proved to end with it

// Labels of faces: 0 and up are regions, `nothing` lies outside all, electrode k is electrode_base - k.
constexpr int nothing = -1;
constexpr int electrode_base = -2;

Point place(const Kernel::Point_2& p) {
    return {p.x(), p.y()};
}
Point place(Vertex v) {
    return place(v->point());
}

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
            const Point a = place(face->vertex(0)), b = place(face->vertex(1)), c = place(face->vertex(2));
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

} // namespace

struct Mesher::State {
    const Section* section = nullptr;
    MesherOptions options;
    Triangulation triangulation;
    std::vector<Arc> arcs;         // of every outline; ArrangementLine::arc points here
    std::vector<int> reported_arc; // per arc: index into `edge_arcs` or -1
    std::vector<Mesh::EdgeArc> edge_arcs;
    std::vector<std::vector<Point>> region_polygons, electrode_polygons;
    struct Tagged {
        Vertex a, b;
        int arc, boundary;
    };
    std::vector<Tagged> tagged;
    std::vector<Kernel::Point_2> seeds; // one in each part that is not meshed

    void add_outline(const Outline& outline, const std::string& owner, int region,
                     std::vector<ArrangementLine>& lines);
    std::vector<Mesh::Singular> singular;

    int label_at(Point p) const;
    void find_singular();
    enum class Kind { regular, kink, strong };
    Kind kind_of(Vertex v, bool beyond_is_metal) const;
    void label_components();
    template <class Visit> void walk(const Tagged& line, Visit visit) const;
};

void Mesher::State::add_outline(const Outline& outline, const std::string& owner, int region,
                                std::vector<ArrangementLine>& lines) {
    Point at = outline.start;
    for (const auto& step : outline.steps) {
        int arc_id = -1;
        if (step.centre) {
            if (const auto arc = resolve_arc(at, step)) {
                arc_id = static_cast<int>(arcs.size());
                arcs.push_back(*arc);
                reported_arc.push_back(-1);
                if (region < 0 || !step.name.empty()) {
                    reported_arc.back() = static_cast<int>(edge_arcs.size());
                    const auto count = std::count_if(edge_arcs.begin(), edge_arcs.end(),
                                                     [&](const auto& known) { return known.owner == owner; });
                    edge_arcs.push_back(
                        {owner, step.name.empty() ? fmt::format("{} arc {}", owner, count + 1) : step.name,
                         *arc, region});
                }
            }
        }
        Outline piece{at, {step}};
        auto chords = polygon_of(piece, options.arc_step_rad);
        for (std::size_t i = 0; i + 1 < chords.size(); ++i)
            lines.push_back({chords[i], chords[i + 1], arc_id, -1});
        at = step.to;
    }
    if (distance(at, outline.start) > 0) lines.push_back({at, outline.start, -1, -1});
}

int Mesher::State::label_at(Point p) const {
    for (std::size_t k = electrode_polygons.size(); k-- > 0;)
        if (inside_polygon(electrode_polygons[k], p)) return electrode_base - static_cast<int>(k);
    for (std::size_t k = region_polygons.size(); k-- > 0;)
        if (inside_polygon(region_polygons[k], p)) return static_cast<int>(k);
    return nothing;
}

/// Labels the faces of each part bounded by constrained edges by one point in its largest triangle.
void Mesher::State::label_components() {
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
                const Point a = place(face->vertex(0));
                const double area = std::abs(cross(place(face->vertex(1)) - a, place(face->vertex(2)) - a));
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
        const Point centre =
            (1.0 / 3) * (place(largest->vertex(0)) + place(largest->vertex(1)) + place(largest->vertex(2)));
        const int label = label_at(centre);
        for (auto face : part) face->info() = label;
        if (label < 0) seeds.emplace_back(centre.r, centre.z);
    }
}

/// Chosen: a figure that grows by less than this for each tenfold smaller distance is taken as finite.
constexpr double growth_per_decade = 0.05;

/// Looks at the sectors of electrode and material round an outline corner. What lies beyond the section is
/// metal inside a held boundary, elsewhere the section's mirror image.
Mesher::State::Kind Mesher::State::kind_of(Vertex v, bool beyond_is_metal) const {
    constexpr double degree = std::numbers::pi / 180;
    struct Sector {
        int label;
        double angle;
    };
    std::vector<Sector> sectors;
    auto kind = [](int label) { return label <= electrode_base ? electrode_base : label; };
    auto face = triangulation.incident_faces(v), end = face;
    do {
        if (triangulation.is_infinite(face)) {
            sectors.push_back({nothing, 0});
            continue;
        }
        const int i = face->index(v);
        const Point a = place(face->vertex(Triangulation::cw(i))) - place(v),
                    b = place(face->vertex(Triangulation::ccw(i))) - place(v);
        sectors.push_back({kind(face->info()), std::abs(std::atan2(cross(a, b), dot(a, b)))});
    } while (++face != end);
    auto eps = [&](int label) {
        const auto region = static_cast<std::size_t>(label);
        return options.region_weight.empty() ? section->materials.at(section->regions[region].material).eps_r
                                             : options.region_weight[region];
    };
    double metal = 0, other = 0;
    std::map<double, double> dielectric; // weight -> angle; regions of one permittivity are one body here
    for (const auto& s : sectors) {
        if (s.label == electrode_base)
            metal += s.angle;
        else if (s.label != nothing) {
            dielectric[eps(s.label)] += s.angle;
            other += s.angle;
        }
    }
    const double beyond = 2 * std::numbers::pi - metal - other;
    if (beyond_is_metal)
        metal += beyond;
    else if (beyond > degree)
        return Kind::regular;
    if (metal > 0) {
        if (metal < 160 * degree) return Kind::strong;
        // Two dielectrics meet on smooth metal: the field has no limit where the lower permittivity fills the
        // acute angle.
        if (dielectric.size() < 2) return Kind::regular;
        const auto low = *dielectric.begin(), high = *dielectric.rbegin();
        const double share = low.second / (low.second + high.second); // of the half turn
        if (share <= 0 || share >= 0.5) return Kind::regular;
        const double k = triple_point_order(low.first, high.first, share * std::numbers::pi);
        return std::pow(10, 1 - k) > 1 + growth_per_decade ? Kind::strong : Kind::regular;
    }
    if (dielectric.size() > 2) return Kind::strong;
    if (dielectric.size() < 2) return Kind::regular;
    const auto low = *dielectric.begin(), high = *dielectric.rbegin();
    const double bend = std::abs(low.second - std::numbers::pi);
    if (high.first <= 1.5 * low.first || bend < 5 * degree) return Kind::regular;
    return bend > 45 * degree ? Kind::strong : Kind::kink;
}

void Mesher::State::find_singular() {
    singular.clear();
    std::map<Vertex, int> held; // lines of held boundaries at a vertex: two but at their ends
    for (const auto& line : tagged)
        if (line.boundary >= 0)
            for (const auto v : {line.a, line.b}) ++held[v];
    for (auto v : triangulation.finite_vertex_handles()) {
        const auto lines = held.find(v);
        const auto kind = kind_of(v, lines != held.end() && lines->second > 1);
        if (kind == Kind::regular) continue;
        double shortest = longest_singular_reach_mm / singular_reach_per_step;
        auto edge = triangulation.incident_edges(v), end = edge;
        do {
            if (!edge->first->is_constrained(edge->second)) continue;
            const Point a = place(edge->first->vertex(Triangulation::cw(edge->second)));
            const Point b = place(edge->first->vertex(Triangulation::ccw(edge->second)));
            shortest = std::min(shortest, distance(a, b));
        } while (++edge != end);
        singular.push_back({place(v), shortest * singular_reach_per_step, kind == Kind::strong});
    }
}

/// Visits the mesh edges into which the refinement has split a tagged input line, in order.
template <class Visit> void Mesher::State::walk(const Tagged& line, Visit visit) const {
    Vertex at = line.a;
    while (at != line.b) {
        const Point from = place(at), towards = place(line.b) - from;
        Vertex best;
        double best_cosine = -2;
        auto edge = triangulation.incident_edges(at), end = edge;
        do {
            if (!edge->first->is_constrained(edge->second)) continue;
            const Vertex v1 = edge->first->vertex(Triangulation::cw(edge->second));
            const Vertex v2 = edge->first->vertex(Triangulation::ccw(edge->second));
            const Vertex other = v1 == at ? v2 : v1;
            if (triangulation.is_infinite(other)) continue;
            const Point step = place(other) - from;
            const double cosine = dot(step, towards) / (length(step) * length(towards));
            if (cosine > best_cosine) {
                best_cosine = cosine;
                best = other;
            }
        } while (++edge != end);
        if (best_cosine < 0.99)
            return; // cannot happen on a valid triangulation; better an unlabelled edge than a hang
        visit(at, best);
        at = best;
    }
}

Mesher::Mesher(std::unique_ptr<State> state) : state_(std::move(state)) {}
Mesher::Mesher(Mesher&&) noexcept = default;
Mesher::~Mesher() = default;

Result<Mesher> Mesher::create(const Section& section, const MesherOptions& options) {
    auto state = std::make_unique<State>();
    state->section = &section;
    state->options = options;
    std::vector<ArrangementLine> lines;
    for (std::size_t k = 0; k < section.regions.size(); ++k) {
        const auto& region = section.regions[k];
        state->add_outline(region.outline, region.name, static_cast<int>(k), lines);
        state->region_polygons.push_back(polygon_of(region.outline, options.arc_step_rad));
    }
    for (const auto& electrode : section.electrodes) {
        state->add_outline(electrode.outline, electrode.name, -1, lines);
        state->electrode_polygons.push_back(polygon_of(electrode.outline, options.arc_step_rad));
    }
    for (std::size_t k = 0; k < section.boundaries.size(); ++k) {
        const auto& along = section.boundaries[k].along;
        for (std::size_t i = 0; i + 1 < along.size(); ++i)
            lines.push_back({along[i], along[i + 1], -1, static_cast<int>(k)});
    }
    const auto arrangement = arrange(lines, snap_mm);
    std::vector<Vertex> vertices;
    Face hint;
    for (const auto& p : arrangement.vertices) {
        vertices.push_back(state->triangulation.insert({p.r, p.z}, hint));
        hint = vertices.back()->face();
    }
    for (const auto& edge : arrangement.edges) {
        const auto a = vertices[static_cast<std::size_t>(edge.a)],
                   b = vertices[static_cast<std::size_t>(edge.b)];
        state->triangulation.insert_constraint(a, b);
        if (edge.arc >= 0 || edge.boundary >= 0) state->tagged.push_back({a, b, edge.arc, edge.boundary});
    }
    state->label_components();
    state->find_singular();
    return Mesher(std::move(state));
}

const std::vector<Mesh::Singular>& Mesher::singular() const {
    return state_->singular;
}

bool Mesher::refine(const SizeField& size_mm, const CancelFlag* cancel) {
    Refiner refiner(state_->triangulation, Criteria(&size_mm));
    refiner.set_seeds(state_->seeds.begin(), state_->seeds.end(), false);
    refiner.init();
    const auto most_vertices = static_cast<std::size_t>(state_->options.most_triangles / 2);
    int steps = 0;
    while (!refiner.is_refinement_done()) {
        refiner.step_by_step_refine_mesh();
        if (++steps % 256 == 0) {
            if (cancel && cancel->load(std::memory_order_relaxed)) return false;
            if (state_->triangulation.number_of_vertices() > most_vertices) {
                state_->label_components();
                return false;
            }
        }
    }
    state_->label_components();
    return true;
}

Result<Mesh> Mesher::mesh() const {
    const auto& t = state_->triangulation;
    const auto& section = *state_->section;
    Mesh mesh;
    for (const auto& e : section.electrodes) mesh.conductors.push_back({e.name, e.voltage_kV, e.floating});
    for (const auto& b : section.boundaries) mesh.conductors.push_back({b.name, b.voltage_kV, false});
    mesh.arcs = state_->edge_arcs;
    mesh.singular = state_->singular;

    for (auto v : t.finite_vertex_handles()) v->info() = -1;
    std::vector<Face> faces;
    for (auto face : t.finite_face_handles()) {
        if (face->info() < 0) continue;
        faces.push_back(face);
        for (int i = 0; i < 3; ++i)
            if (face->vertex(i)->info() < 0) {
                face->vertex(i)->info() = static_cast<int>(mesh.nodes.size());
                mesh.nodes.push_back(place(face->vertex(i)));
            }
    }
    if (faces.empty())
        return refuse("section", "no region is left outside the electrodes", "Give the electrodes less room");
    mesh.corner_count = static_cast<int>(mesh.nodes.size());

    // Arcs and named boundaries: which mesh edges lie on them; vertices go onto the true arc.
    std::map<std::pair<int, int>, std::pair<int, int>> tags; // edge -> arc, boundary
    for (const auto& line : state_->tagged)
        state_->walk(line, [&](Vertex a, Vertex b) {
            if (a->info() < 0 || b->info() < 0) return;
            tags[ordered(a->info(), b->info())] = {line.arc, line.boundary};
            if (line.arc < 0) return;
            const auto& arc = state_->arcs[static_cast<std::size_t>(line.arc)];
            for (auto v : {a, b}) {
                auto& node = mesh.nodes[static_cast<std::size_t>(v->info())];
                const Point moved = on_arc(arc, node);
                if (distance(moved, node) > snap_mm * 1e-3) node = moved;
            }
        });

    mesh.conductor.assign(mesh.nodes.size(), -1);
    std::string clash;
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
                if (arc >= 0) p = on_arc(state_->arcs[static_cast<std::size_t>(arc)], p);
                mesh.nodes.push_back(p);
                mesh.conductor.push_back(-1);
            }
            const int across = face->neighbor(side)->info();
            if (constrained && across <= electrode_base) {
                const int electrode = electrode_base - across;
                for (const int node : {a, b, middle}) hold(node, electrode);
            }
            if (const int reported = arc >= 0 ? state_->reported_arc[static_cast<std::size_t>(arc)] : -1;
                reported >= 0) {
                const int owner = mesh.arcs[static_cast<std::size_t>(reported)].region;
                if (owner < 0 ? across <= electrode_base : face->info() != owner) {
                    mesh.arc_edges.push_back({a, b, middle});
                    mesh.arc_of_edge.push_back(reported);
                    mesh.arc_edge_triangle.push_back(id);
                }
            }
            if (boundary >= 0)
                for (const int node : {a, b, middle})
                    hold(node, static_cast<int>(section.electrodes.size()) + boundary);
        }
        mesh.triangles.push_back(nodes);
        mesh.region.push_back(face->info());
        mesh.curved.push_back(curved);
    }
    if (!clash.empty())
        return refuse("electrodes " + clash, "they touch but are at different potentials",
                      "Leave a gap between them");
    return mesh;
}

} // namespace ng
