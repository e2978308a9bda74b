// Body from a drawing: a rubber body whose profiles somebody drew, slipped over the screen edge of a prepared
// cable end.
#include "accessory/drawn_body.h"
#include "accessory/checks.h"
#include "accessory/termination.h"
#include "geometry/clip.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <numbers>

namespace ng {
namespace {

constexpr double longest_piece_mm = 2; // of a line, before it is stretched
constexpr double widest_arc_rad = std::numbers::pi / 9;
constexpr int deepest_halving = 8;
constexpr double at_the_bore_mm = 1e-3, beside_mm = 1e-3;
constexpr double least_lap_mm = 1; // of the deflector on the screen, of the electrode on metal
constexpr double pushed_over =
    1.35; // of its free bore: so far it is stretched while it is pushed on (chosen)

std::optional<Point> circle_centre(Point a, Point b, Point c) {
    const Point u = b - a, v = c - a;
    const double d = 2 * cross(u, v);
    if (std::abs(d) < 1e-9 * length(u) * length(v)) return {};
    const double uu = dot(u, u), vv = dot(v, v);
    return Point{a.r + (v.z * uu - u.z * vv) / d, a.z + (u.r * vv - v.r * uu) / d};
}

struct Radii {
    double inner, outer;
};
/// Of all shapes together at a height; none: nothing is there.
std::optional<Radii> radii_at(const std::vector<Polygon>& shapes, double z) {
    std::optional<Radii> out;
    for (const auto& shape : shapes)
        for (std::size_t i = 0; i < shape.size(); ++i) {
            const Point a = shape[i], b = shape[(i + 1) % shape.size()];
            if ((a.z <= z) == (b.z <= z)) continue;
            const double r = a.r + (z - a.z) / (b.z - a.z) * (b.r - a.r);
            if (!out) out = Radii{r, r};
            out->inner = std::min(out->inner, r);
            out->outer = std::max(out->outer, r);
        }
    return out;
}

} // namespace

Point BodyPlacement::placed(Point drawn) const {
    const double along = shrinkage * axial_stretch * drawn.z;
    return {shrinkage * drawn.r, origin_z_mm + (towards_plus_z ? along : -along)};
}

Point FittedBody::stretched(Point p) const {
    const double z = std::clamp(p.z, z0_, z1_);
    const double b = free_bore_.radius(z), on = bore_.radius(z);
    if (p.r <= b + at_the_bore_mm) return {on, p.z};
    return {std::sqrt(on * on + (p.r * p.r - b * b) / placement_.axial_stretch), p.z};
}

Result<FittedBody> FittedBody::fit(const BodyDrawing& drawing, const BodyPlacement& placement,
                                   const Profile& lying) {
    FittedBody out;
    out.placement_ = placement;
    std::vector<Polygon> shapes; // all that the bore is made of
    double z0 = 1e300, z1 = -1e300;
    for (const auto& part : drawing.parts) {
        if (part.role == BodyRole::shed) continue;
        auto shape = polygon_of(part.outline, std::numbers::pi / 90);
        for (auto& p : shape) {
            p = placement.placed(p);
            z0 = std::min(z0, p.z);
            z1 = std::max(z1, p.z);
        }
        shapes.push_back(std::move(shape));
    }
    const double far = lying.points().front().z, top = lying.points().back().z;
    if (z0 < far + 1 || z1 > top - 1)
        return refuse("Body",
                      fmt::format("it reaches from {} to {} of the screen edge, beyond the cable and its lug",
                                  in_mm(z0), in_mm(z1)),
                      "Move its origin, or turn it round");
    out.z0_ = z0;
    out.z1_ = z1;
    // All heights at which the bore may bend.
    for (const auto& shape : shapes)
        for (const auto& p : shape) out.breaks_.push_back(p.z);
    out.under_ = lying.between(z0, z1).spanned();
    for (const auto& p : out.under_.points()) out.breaks_.push_back(p.z);
    std::sort(out.breaks_.begin(), out.breaks_.end());
    out.breaks_.erase(
        std::unique(out.breaks_.begin(), out.breaks_.end(), [](double a, double b) { return b - a < 1e-6; }),
        out.breaks_.end());
    std::vector<Point> free_bore, bore;
    double widest_wall = 0;
    for (const double z : out.breaks_) {
        const auto here = radii_at(shapes, std::clamp(z, z0 + 1e-6, z1 - 1e-6)),
                   below = radii_at(shapes, std::clamp(z - beside_mm, z0 + 1e-6, z1 - 1e-6)),
                   above = radii_at(shapes, std::clamp(z + beside_mm, z0 + 1e-6, z1 - 1e-6));
        if (!here || !below || !above)
            return refuse("Body",
                          fmt::format("nothing of it is drawn at {} from its lower end", in_mm(z - z0)),
                          "Let its parts meet along the axis");
        if (std::abs(above->inner - below->inner) > steepest_bore * 2 * beside_mm + 0.05)
            return refuse("Body",
                          fmt::format("its bore has a step from {} to {} radius", in_mm(below->inner),
                                      in_mm(above->inner)),
                          "Give the step a slope: how rubber lies over a sharp one is not known here");
        const double on = std::max(out.under_.radius(z), here->inner);
        free_bore.push_back({here->inner, z});
        bore.push_back({on, z});
        out.greatest_stretch_ = std::max(out.greatest_stretch_, on / here->inner);
        if (free_bore.size() == 1 || here->inner < out.smallest_bore_ - 1e-9) {
            out.smallest_bore_ = here->inner;
            widest_wall = 0;
        }
        if (here->inner <= out.smallest_bore_ + 1e-9)
            widest_wall = std::max(widest_wall, here->outer - here->inner);
    }
    out.wall_ = widest_wall;
    out.free_bore_ = Profile(std::move(free_bore));
    out.bore_ = Profile(std::move(bore));
    return out;
}

Outline FittedBody::on_cable(const Outline& drawn, const std::function<std::string()>& name) const {
    Outline out;
    out.start = stretched(placement_.placed(drawn.start));
    Point at = drawn.start;
    const auto is_break = [&](double a, double b) { // strictly between
        const auto it = std::upper_bound(breaks_.begin(), breaks_.end(), std::min(a, b) + 1e-6);
        return it != breaks_.end() && *it < std::max(a, b) - 1e-6;
    };
    // A piece of a curve as a function of 0 to 1, halved until it is what it is taken for.
    const std::function<void(const std::function<Point(double)>&, double, double, bool, int)> add =
        [&](const std::function<Point(double)>& curve, double t0, double t1, bool is_arc, int depth) {
            const Point f0 = placement_.placed(curve(t0)), f1 = placement_.placed(curve(t1));
            const Point a = stretched(f0), m = stretched(placement_.placed(curve((t0 + t1) / 2))),
                        b = stretched(f1);
            const auto centre = is_arc ? circle_centre(a, m, b) : std::nullopt;
            double off = 0;
            for (const double f : {0.25, 0.5, 0.75}) {
                const Point p = stretched(placement_.placed(curve(t0 + f * (t1 - t0))));
                const double size = distance(a, b);
                off = std::max(off, centre     ? std::abs(distance(p, *centre) - distance(a, *centre))
                                    : size > 0 ? std::abs(cross(b - a, p - a)) / size
                                               : distance(p, a));
            }
            const bool bends = !is_arc && is_break(f0.z, f1.z);
            if (depth < deepest_halving && (off > fitted_within_mm / 2 || bends)) {
                double middle = (t0 + t1) / 2;
                if (bends) { // at the break itself: lines along the bore then lie on what is beneath
                    const double z =
                        *std::upper_bound(breaks_.begin(), breaks_.end(), std::min(f0.z, f1.z) + 1e-6);
                    middle = t0 + (z - f0.z) / (f1.z - f0.z) * (t1 - t0);
                }
                add(curve, t0, middle, is_arc, bends ? depth : depth + 1);
                add(curve, middle, t1, is_arc, bends ? depth : depth + 1);
                return;
            }
            if (distance(out.steps.empty() ? out.start : out.steps.back().to, b) < 1e-6) return;
            OutlineStep step;
            step.to = b;
            if (centre && distance(a, *centre) < 1e4) {
                step.centre = *centre;
                step.clockwise = cross(m - a, b - a) < 0;
                if (name) step.name = name();
            }
            out.steps.push_back(std::move(step));
        };
    std::vector<OutlineStep> steps = drawn.steps;
    if (distance(steps.empty() ? drawn.start : steps.back().to, drawn.start) > 1e-9)
        steps.push_back({drawn.start, {}, {}, {}});
    for (const auto& step : steps) {
        const Point from = at;
        std::optional<Arc> arc;
        if (step.centre)
            if (const auto resolved = resolve_arc(from, step)) arc = *resolved;
        const double turn = arc ? std::abs(arc->sweep_rad) : 0;
        const int pieces =
            arc ? static_cast<int>(std::ceil(turn / widest_arc_rad))
                : std::max(1, static_cast<int>(std::ceil(distance(from, step.to) / longest_piece_mm)));
        const auto curve = [&](double t) {
            return arc ? arc->at(arc->start_rad + t * arc->sweep_rad) : from + t * (step.to - from);
        };
        for (int i = 0; i < pieces; ++i)
            add(curve, static_cast<double>(i) / pieces, static_cast<double>(i + 1) / pieces, arc.has_value(),
                0);
        at = step.to;
    }
    if (!out.steps.empty() && distance(out.steps.back().to, out.start) < 1e-6)
        out.steps.back().to = out.start;
    return out;
}

namespace {

/// Where an outline runs along what lies round it, from 0.05 mm off: the longest run of its points for which
/// `is_beside` holds.
template <class Beside> std::vector<Point> longest_run(const std::vector<Point>& polygon, Beside is_beside) {
    const std::size_t n = polygon.size();
    const double turn = signed_area(polygon) > 0 ? 1 : -1;
    std::vector<char> beside(n, 0);
    for (std::size_t i = 0; i < n; ++i) {
        const Point a = polygon[i], b = polygon[(i + 1) % n], along = (1 / distance(a, b)) * (b - a);
        const Point outwards = turn * Point{along.z, -along.r};
        beside[i] = is_beside(0.5 * (a + b) + 0.05 * outwards);
    }
    std::vector<Point> best;
    for (std::size_t i = 0; i < n; ++i) {
        if (!beside[i] || beside[(i + n - 1) % n]) continue;
        std::vector<Point> run{polygon[i]};
        for (std::size_t k = i; beside[k % n] && k < i + n; ++k) run.push_back(polygon[(k + 1) % n]);
        if (run.size() > best.size()) best = std::move(run);
    }
    return best;
}

/// The outer surface of a body, from its lower to its upper end: of the border of all its parts what lies
/// outside its bore.
Result<std::vector<Point>> outer_surface(const std::vector<Polygon>& parts, const Profile& bore) {
    const auto borders = united(parts);
    if (borders.size() != 1)
        return refuse("Body",
                      fmt::format("its parts do not hang together: they are {} pieces", borders.size()),
                      "Let every part touch or overlap its neighbour");
    return longest_run(borders.front(), [&](Point p) {
        return p.z < bore.points().front().z || p.z > bore.points().back().z || p.r > bore.radius(p.z) + 0.02;
    });
}

/// Lays the parts of a drawing as they lie on the cable, and keeps what is asked of them.
class DrawnParts {
  public:
    DrawnParts(Termination& t, const FittedBody& fitted) : t_(t), fitted_(fitted) {}

    Result<void> lay(const BodyDrawing& drawing);
    const std::vector<Polygon>& shapes() const { return shapes_; }
    /// Where the stress control ends, mm; at least 1 mm past the screen edge.
    double control_end() const { return std::max(control_end_, 1.0); }
    /// Whether the screen edge lies bare of a deflector.
    bool edge_is_bare() const;
    /// What is asked of deflectors and inner electrodes.
    void ask();

  private:
    Termination& t_;
    const FittedBody& fitted_;
    std::vector<Polygon> shapes_, insulating_;
    std::vector<PlaceId> electrode_edges_, deflector_edges_;
    std::optional<std::vector<Point>> deflector_;
    std::map<BodyRole, int> laid_; ///< how many of each role
    double control_end_ = 0;

    Result<void> lay_part(const DrawnPart& part);
    Result<void> is_earthed(const DrawnPart& part, double z0, double z1) const;
    Result<void> is_live(const DrawnPart& part, double z0, double z1) const;
    void ask_flare();
    /// The first of a role goes by the role's own name.
    static PlaceId numbered(const PlaceId& place, int count) {
        return count == 1 ? place : place.number(count);
    }
};

Result<void> DrawnParts::lay(const BodyDrawing& drawing) {
    for (const auto role : body_roles())
        for (const auto& part : drawing.parts) {
            if (part.role != role) continue;
            if (auto ok = lay_part(part); !ok) return ok;
        }
    return {};
}

Result<void> DrawnParts::is_earthed(const DrawnPart& part, double z0, double z1) const {
    const auto item = "Deflector on layer " + part.layer;
    if (z0 > -least_lap_mm)
        return refuse(item, "it does not lap onto the insulation screen: it is not earthed",
                      "Move the body towards the cable");
    if (z0 < t_.end.metallic)
        return refuse(item, "its lap reaches the metallic screen",
                      "Move the body towards the cable end, or cut the metallic screen further back");
    if (z1 > t_.end.insulation - 3)
        return refuse(item, "it reaches the insulation end",
                      "Move the body towards the cable, or lengthen the insulation");
    return {};
}

Result<void> DrawnParts::is_live(const DrawnPart& part, double z0, double z1) const {
    const auto item = "Inner electrode on layer " + part.layer;
    if (z1 < t_.end.insulation + least_lap_mm)
        return refuse(item, "it does not reach the conductor: it is not live",
                      "Move the body towards the cable end, or remove more insulation");
    if (z0 < 5)
        return refuse(item, "it comes within 5 mm of the screen edge",
                      "Move the body towards the cable end, or cut the screen further back");
    return {};
}

Result<void> DrawnParts::lay_part(const DrawnPart& part) {
    auto& lay = t_.lay;
    const auto name_arcs = [](PlaceKind kind, std::vector<PlaceId>& edges) -> std::function<std::string()> {
        return [&edges, kind] {
            edges.push_back(PlaceId(kind).number(static_cast<int>(edges.size()) + 1));
            return name_of(edges.back());
        };
    };
    const auto outline =
        part.role == BodyRole::earthed_deflector
            ? fitted_.on_cable(part.outline, name_arcs(PlaceKind::deflector_edge, deflector_edges_))
        : part.role == BodyRole::inner_electrode
            ? fitted_.on_cable(part.outline, name_arcs(PlaceKind::inner_electrode_edge, electrode_edges_))
            : fitted_.on_cable(part.outline);
    const auto polygon = polygon_of(outline, std::numbers::pi / 48);
    const auto [low, high] =
        std::minmax_element(polygon.begin(), polygon.end(), [](Point a, Point b) { return a.z < b.z; });
    const double z0 = low->z, z1 = high->z;
    shapes_.push_back(polygon);
    const int count = ++laid_[part.role];
    switch (part.role) {
    case BodyRole::insulating_body:
        insulating_.push_back(polygon);
        lay.region(numbered(place::body, count), "body", outline, count == 1 ? "rubber body" : "", "rubber");
        return {}; // the body itself: placed as a whole
    case BodyRole::shed:
        lay.region(place::shed.number(count), "body", outline, count == 1 ? "sheds" : "", "rubber");
        break;
    case BodyRole::grading_layer:
        lay.material("graded layer", t_.value("layer_eps_r"), t_.value.conduction("layer"));
        lay.region(numbered(place::graded_layer, count), "graded layer", outline, "graded layer", "grading");
        control_end_ = std::max(control_end_, z1);
        break;
    case BodyRole::earthed_deflector:
        if (auto ok = is_earthed(part, z0, z1); !ok) return ok;
        lay.electrode(numbered(place::deflector, count), 0, outline, "earthed deflector", "semiconductor");
        if (!deflector_) deflector_ = polygon;
        control_end_ = std::max(control_end_, z1);
        break;
    case BodyRole::inner_electrode:
        if (auto ok = is_live(part, z0, z1); !ok) return ok;
        lay.electrode(numbered(place::inner_electrode, count), lay.u0_kV, outline, "inner electrode",
                      "semiconductor");
        break;
    }
    lay.last_part().moulded = true;
    return {};
}

bool DrawnParts::edge_is_bare() const {
    const auto& end = t_.end;
    const Point past_edge{end.r.insulation + 0.2 * (end.r.screen - end.r.insulation), end.contact_z() + 0.3};
    return !deflector_ || !inside_polygon(*deflector_, past_edge);
}

void DrawnParts::ask_flare() {
    const auto flare = longest_run(*deflector_, [&](Point p) {
        return std::any_of(insulating_.begin(), insulating_.end(),
                           [&](const auto& shape) { return inside_polygon(shape, p); }) &&
               (p.z < fitted_.z0() || p.z > fitted_.z1() || p.r > fitted_.bore().radius(p.z) + 0.05);
    });
    if (flare.size() < 2) return;
    t_.lay.path(place::cone_flare, flare, place::body);
    t_.lay.out.checks.push_back(
        checks::electrode_surface(CheckKind::cone_surface, "Stress on the deflector", place::cone_flare,
                                  {"the deflector rises too slowly from the insulation, or ends too sharply",
                                   "Give it a profile of constant stress, and a rounder end"}));
}

void DrawnParts::ask() {
    auto& list = t_.lay.out.checks;
    if (deflector_) {
        ask_flare();
        if (!deflector_edges_.empty())
            list.push_back(checks::electrode_edge(
                CheckKind::deflector_edge, "Stress at the rounded edges of the deflector", deflector_edges_,
                {"an edge of the deflector is too sharp or too near the conductor",
                 "Round it more, or raise the deflector"}));
    }
    if (!electrode_edges_.empty())
        list.push_back(checks::electrode_edge(CheckKind::inner_electrode,
                                              "Stress at the rounded edges of the inner electrode",
                                              electrode_edges_,
                                              {"the inner electrode ends too sharply for the rubber over it",
                                               "Round its ends more, or draw more wall"}));
}

void ask_of_cable(Termination& t, const DrawnParts& parts) {
    auto& list = t.lay.out.checks;
    // Covered by the deflector, the edge is in its shadow: nothing to read there.
    auto zones = t.zones(parts.control_end());
    zones.edge_is_bare = parts.edge_is_bare();
    checks::add_insulation_surface(
        list, t.end, zones,
        {"the body lets the equipotentials leave the insulation over too short a length of its surface",
         "Move the body, lengthen the insulation, or draw a longer deflector or layer"},
        checks::towards_lug);
    if (zones.edge_is_bare)
        list.push_back(
            checks::screen_edge(t.end, {"the edge of the screen is too sharp for the stress round it",
                                        "Move the body so that it covers the edge, or round the edge"}));
    list.push_back(checks::insulation_ratio(t.end, t.lay.cable_stress(t.end),
                                            "Cover the screen edge better, or round it more"));
}

/// The body's outer surface, rising, and what the body leaves bare of the cable: it creeps too.
Result<std::vector<Point>> surface_of(const Termination& t, const DrawnParts& parts,
                                      const FittedBody& fitted) {
    auto surface = outer_surface(parts.shapes(), fitted.bore());
    if (!surface) return surface;
    if (surface->size() < 2)
        return refuse("Body", "it has no outer surface", "Draw it closed, its outer side above its bore");
    if (surface->front().z > surface->back().z) std::reverse(surface->begin(), surface->end());
    if (fitted.z1() < t.z_barrel - 0.1) {
        const auto bare = t.lay.lying.between(fitted.z1(), t.z_barrel);
        for (const auto& p : bare.points())
            if (distance(p, surface->back()) > 1e-3) surface->push_back(p);
    }
    return surface;
}

void say_where_it_lies(Termination& t, const FittedBody& fitted, const BodyPlacement& placement,
                       const std::string& title) {
    auto& lay = t.lay;
    lay.mark(MarkKind::anchor, place::anchor_mark, t.from_cable_end(fitted.z0()), "body_at_mm");
    lay.handle("body_at_mm", "body as drawn",
               {fitted.bore().radius((fitted.z0() + fitted.z1()) / 2), placement.origin_z_mm});
    auto& derived = lay.out.derived;
    derived["smallest free bore (mm)"] = 2 * fitted.smallest_free_bore_mm();
    derived["greatest stretch of the bore (%)"] = 100 * (fitted.greatest_stretch() - 1);
    derived["body lower end from the cable end (mm)"] = t.from_cable_end(fitted.z0());
    derived["body upper end from the cable end (mm)"] = t.from_cable_end(fitted.z1());
    lay.out.statements.push_back(
        fmt::format("The body is “{}” as drawn, stretched over the cable slice by slice with its volume "
                    "kept; how it bulges where only "
                    "a part of it is stretched, and its length when pushed on, are not modelled.",
                    title));
}

Result<BuiltAccessory> build_drawn_body(const DesignContext& c) {
    if (!c.drawing)
        return refuse("Drawing", "no drawing is chosen", "Import a DXF drawing of the body, and choose it");
    if (auto ok = check_drawing(*c.drawing); !ok) return tl::unexpected(ok.error());
    Termination t(c);
    auto& lay = t.lay;
    const auto& v = t.value;
    const BodyPlacement placement{t.z_of(v("body_at_mm")), v.is("body_towards", "cable_end"),
                                  v("body_shrinkage"), v("body_axial_stretch")};
    double lowest = 1e300;
    for (const auto& part : c.drawing->parts)
        for (const auto& p : polygon_of(part.outline, 0.1)) lowest = std::min(lowest, placement.placed(p).z);
    if (auto ok = t.begin(std::max(t.from_cable_end(lowest), v("jacket_cut_mm"))); !ok)
        return tl::unexpected(ok.error());
    lay.material("body", v("body_eps_r"), {}, "rubber body");
    const auto filler = t.fill_step();
    const auto fitted = FittedBody::fit(*c.drawing, placement, lay.lying);
    if (!fitted) return tl::unexpected(fitted.error());
    if (fitted->z1() < 5)
        return refuse("Body", "it ends before, or within 5 mm of, the screen edge",
                      "Move it towards the cable end");
    lay.out.placed.push_back({.part = "Body",
                              .place = place::body,
                              .label = "body as drawn",
                              .z0_mm = fitted->z0(),
                              .z1_mm = fitted->z1(),
                              .kind = FitItem::Kind::slip_on,
                              .bore_mm = 2 * fitted->smallest_free_bore_mm(),
                              .control = true});
    lay.region(place::step_at_screen_edge, filler, fitted->bore().down_to(lay.inner_mm()),
               filler == "air" ? "air wedge" : "grease", filler == "air" ? "air" : "sealant");
    lay.last_part().moulded = true;
    DrawnParts parts(t, *fitted);
    if (auto ok = parts.lay(*c.drawing); !ok) return tl::unexpected(ok.error());
    const auto surface = surface_of(t, parts, *fitted);
    if (!surface) return tl::unexpected(surface.error());
    lay.fit(place::body, FitItem::Kind::slip_on,
            {2 * pushed_over * fitted->smallest_free_bore_mm(), 2 * fitted->smallest_free_bore_mm(),
             fitted->wall_at_bore_mm()},
            fitted->under(), "");
    lay.lying = lay.lying.covered_by(fitted->bore());
    if (auto ok = t.surround(*surface, place::body_surface); !ok) return tl::unexpected(ok.error());
    lay.out.control_length_mm = parts.control_end();
    ask_of_cable(t, parts);
    parts.ask();
    for (auto& check : checks::surface_in_air(
             CheckKind::body_tangential, "body", place::body_surface,
             {"the field along the outer surface can start discharges in the air beside it",
              "Lengthen the body or the insulation, or draw more wall"},
             "Draw more wall, or keep earth further away"))
        lay.out.checks.push_back(std::move(check));
    say_where_it_lies(t, *fitted, placement, c.drawing->title);
    return t.finish(*surface);
}

} // namespace

NEEDLEGAUGE_FAMILY(drawn_body, 140) {
    Family f;
    f.id = "drawn_body";
    f.title = "Body from a drawing";
    f.usual_standard = "ieee48";
    f.from_drawing = true;
    ParameterList list(f);
    list.termination_cuts(list.value_of("lug_barrel_depth_mm", 3), plus(insulation_in_air(), fixed(45)));
    list.screen_edge("chamfered");
    list.edge_fill();
    list.group("Body as drawn");
    list.length("body_at_mm", "Its origin, from the cable end", "The drawing's x = 0; drag it in BUILD", -500,
                3500, list.value_of("screen_edge_mm"));
    list.choice("body_towards", "Its x runs", "How the drawing lies on the cable",
                {{"cable_end", "towards the cable end"}, {"cable", "towards the cable"}});
    list.number("body_shrinkage", "Shrinkage factor",
                "Finished size over drawn size: 1 where the drawing is of the part", 0.5, 2, fixed(1));
    list.number("body_axial_stretch", "Stretch along the axis", "Length on the cable over free length", 0.7,
                1.6, fixed(1));
    list.permittivity("body_eps_r", "Permittivity of the body", "rubber body");
    list.group("Graded layer, if one is drawn");
    list.permittivity("layer_eps_r", "Permittivity", "graded layer");
    list.conduction("layer");
    list.lug(true);
    f.build = build_drawn_body;
    return f;
}

} // namespace ng
