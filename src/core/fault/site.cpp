#include "fault/site.h"
#include "accessory/wet_film.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <utility>

namespace ng {
namespace {

constexpr double step_rad = 0.2;
constexpr double inside = 0.999;     // of a gap: its path keeps off the ends
constexpr int points_of_a_lens = 24; // of a half ellipse
constexpr double on_path_mm = 1e-6;  // as good as there
constexpr double beside_path_mm = 0.02;
constexpr double film_eps_r = 10; // of a film that conducts: hardly matters

/// How far along a path a point lies on it; none: it does not.
std::optional<double> along_path(const std::vector<Point>& path, Point p) {
    double s = 0;
    for (std::size_t i = 1; i < path.size(); ++i) {
        const Point a = path[i - 1], ab = path[i] - a;
        const double long_mm = length(ab);
        if (!(long_mm > 0)) continue;
        const double t = std::clamp(dot(p - a, ab) / (long_mm * long_mm), 0.0, 1.0);
        if (distance(p, a + t * ab) < beside_path_mm) return s + t * long_mm;
        s += long_mm;
    }
    return {};
}

} // namespace

Result<FaultSite> FaultSite::of(FaultyDesign& design, const Fault& fault, int number, const FaultKind& kind) {
    const auto& built = design.prepared.built;
    FaultSite site;
    site.design_ = &design;
    site.kind_ = &kind;
    site.number_ = number;
    site.side_ = fault.side;
    if (auto ok = check_side(built, fault.side, kind.title); !ok) return tl::unexpected(ok.error());
    const auto side = fault.side == Side::b ? CableSide::b : CableSide::a;
    site.towards_ = side == CableSide::a ? 1 : -1;
    bool edge = false, end = false;
    for (const auto& m : built.marks) {
        if (m.side != side) continue;
        const double z = built.datum_z_mm - m.from_datum_mm;
        if (m.kind == MarkKind::screen_edge) site.edge_ = z, edge = true;
        if (m.kind == MarkKind::insulation_end) site.insulation_end_ = z, end = true;
        if (m.kind == MarkKind::connector_end) site.connector_end_ = z;
    }
    if (!edge)
        return refuse(kind.title, "this design has no screen edge here", "Choose another design or side");
    if (!end) site.insulation_end_ = built.datum_z_mm;
    const auto& d = design.prepared.context().dimensions_of(side);
    site.radius_ = d.radius_mm("insulation");
    site.conductor_ = d.radius_mm("conductor screen");
    site.z_ = site.edge_ + site.towards_ * fault.from_edge_mm.value_or(kind.from_edge_mm);
    site.z_is_given_ = fault.from_edge_mm.has_value();
    site.width_ = fault.width_mm.value_or(kind.width_mm);
    return site;
}

Result<void> FaultSite::needs_bare_insulation(double half_mm) const {
    if (towards_ * (z_ - edge_) < half_mm)
        return tl::unexpected(
            misfit("it would lie under the insulation screen", "Put it further from the screen edge"));
    if (towards_ * (insulation_end_ - z_) < half_mm)
        return tl::unexpected(misfit("it lies past the end of the insulation",
                                     "Put it nearer to the screen edge, or make it shorter"));
    return {};
}

Result<void> FaultSite::cut_groove(const std::vector<Point>& bottom, double depth_mm,
                                   const std::string& filling, const std::string& words, bool judged) {
    constexpr double deepest = 0.9; // of the insulation
    if (depth_mm > deepest * wall())
        return tl::unexpected(misfit(fmt::format("it is deeper than the insulation, {:.2f} mm", wall()),
                                     "Give a smaller depth"));
    const double eps = eps_at({radius_ - depth_mm / 2, z_});
    add_region(Outline::polygon(bottom), filling);
    lead_surface_along(bottom, judged);
    if (filling == "air")
        add_gap({{radius_ - inside * depth_mm, z_}, {radius_ - (1 - inside) * depth_mm, z_}}, words, eps,
                width_);
    return {};
}

InputError FaultSite::misfit(const std::string& problem, const std::string& remedy) const {
    return {kind_->title + tag_of(side_), problem, remedy};
}

std::string FaultSite::at(Point p) const {
    const OnTop top(design_->prepared.built.section, step_rad);
    const auto* name = top.at(p);
    return name ? *name : std::string();
}

bool FaultSite::is_electrode(const std::string& name) const {
    const auto& all = design_->prepared.built.section.electrodes;
    return std::any_of(all.begin(), all.end(), [&](const auto& e) { return e.name == name; });
}

bool FaultSite::is_solid(Point p) const {
    const auto name = at(p);
    if (name.empty() || is_electrode(name)) return false;
    for (const auto& part : design_->prepared.built.parts)
        if (name_of(part.place) == name) return part.hatch != "air";
    return false;
}

double FaultSite::eps_at(Point p) const {
    const auto name = at(p);
    const auto& section = design_->prepared.built.section;
    for (const auto& region : section.regions)
        if (region.name == name)
            if (const auto it = section.materials.find(region.material); it != section.materials.end())
                return it->second.eps_r;
    return 1;
}

std::optional<FaultSite::Surface> FaultSite::live_surface_at(double z) const {
    constexpr double step_mm = 0.05;
    const OnTop top(design_->prepared.built.section, step_rad);
    std::optional<Surface> out;
    for (double r = 0; r < design_->prepared.built.view_r_mm; r += step_mm) {
        const auto* name = top.at({r, z});
        if (!name) continue;
        for (const auto& e : design_->prepared.built.section.electrodes)
            if (e.name == *name && e.voltage_kV > 0 && !e.floating) out = {e.name, r, e.voltage_kV};
    }
    if (!out) return out;
    double inside = out->radius, outside = out->radius + step_mm; // to where it really ends
    for (int i = 0; i < 20; ++i) {
        const double middle = (inside + outside) / 2;
        const auto* name = top.at({middle, z});
        (name && *name == out->electrode ? inside : outside) = middle;
    }
    out->radius = (inside + outside) / 2;
    return out;
}

std::optional<std::pair<double, double>> FaultSite::electrode_at(const std::string& wanted, double z) const {
    constexpr double step_mm = 0.02;
    const OnTop top(design_->prepared.built.section, step_rad);
    std::optional<std::pair<double, double>> out;
    for (double r = 0; r < design_->prepared.built.view_r_mm + step_mm; r += step_mm) {
        const auto* name = top.at({r, z});
        if (!name || *name != wanted) {
            if (out) break;
            continue;
        }
        if (!out) out = {r, r};
        out->second = r;
    }
    return out;
}

bool FaultSite::is_electrode_between(double z0, double z1, double thickness_mm) const {
    constexpr double step_mm = 0.05, clear_mm = 0.02;
    const OnTop top(design_->prepared.built.section, step_rad);
    for (double z = z0 - step_mm; z <= z1 + step_mm; z += step_mm)
        for (const double r : {radius_ + clear_mm, radius_ + thickness_mm + clear_mm})
            if (const auto* name = top.at({r, z}); name && is_electrode(*name)) return true;
    return false;
}

void FaultSite::add_region_over_all(const Outline& outline, const std::string& filling) {
    add_region(outline, filling);
    for (auto& region : design_->prepared.built.section.regions)
        if (region.name == name_of(place())) region.covers_electrodes = true;
}

void FaultSite::draw_only(const Outline& outline) {
    design_->only_drawn.push_back({name_of(place()), "", outline});
}

void FaultSite::add_edge_check(const PlaceId& edge, const std::string& title, double worse) {
    CheckRequest check;
    check.id = {CheckKind::fault_edge, Side::none, number_};
    check.title = title;
    check.quantity = CheckRequest::Quantity::edge_peak;
    check.places = {edge};
    check.at = TestKind::service;
    check.limit_id = "electrode_edge";
    check.divide_by = 1 / worse;
    check.because = "what lies on it ages and breaks down from its point";
    check.cure = kind_->rework;
    design_->prepared.built.checks.push_back(std::move(check));
}

void FaultSite::add_handle() {
    auto& built = design_->prepared.built;
    built.handles.push_back({fault_handle(static_cast<std::size_t>(number_) - 1),
                             kind_->title + tag_of(side_) + " from the screen edge",
                             {radius_, z_},
                             towards_ * (built.datum_z_mm - edge_),
                             towards_});
}

void FaultSite::add_region(const Outline& outline, const std::string& filling) {
    add_region_over({}, outline, filling);
}

void FaultSite::add_region_over(const std::string& over, const Outline& outline, const std::string& filling) {
    const auto material = "fault " + filling;
    for (const auto& f : fillings())
        if (f.id == filling) design_->prepared.built.section.materials[material].eps_r = f.eps_r;
    put_region(over, outline, material, filling == "air" ? "air" : "sealant");
}

void FaultSite::put_region(const std::string& over, const Outline& outline, const std::string& material,
                           const std::string& hatch) {
    auto& built = design_->prepared.built;
    const Region region{name_of(place()), material, outline};
    auto& regions = built.section.regions;
    const auto it =
        std::find_if(regions.begin(), regions.end(), [&](const auto& r) { return r.name == over; });
    regions.insert(it == regions.end() ? it : it + 1, region);
    design_->drawn.push_back(region);
    built.parts.push_back({place(), kind_->title, hatch});
}

void FaultSite::replace_stretch(Path& path, double s0, double s1, const std::vector<Point>& contour,
                                bool judged) {
    double contour_mm = 0;
    for (std::size_t k = 1; k < contour.size(); ++k) contour_mm += distance(contour[k - 1], contour[k]);
    std::vector<Point> points;
    double s_mm = 0;
    bool in = false;
    for (std::size_t i = 0; i < path.points.size(); ++i) {
        if (i > 0) s_mm += distance(path.points[i - 1], path.points[i]);
        if (!in && s_mm > s0 - on_path_mm) {
            points.insert(points.end(), contour.begin(), contour.end());
            in = true;
        }
        if (s_mm < s0 - on_path_mm || s_mm > s1 + on_path_mm) points.push_back(path.points[i]);
    }
    path.points = std::move(points);
    // What is asked beyond the stretch stays where it was on the cable.
    const double longer = contour_mm - (s1 - s0);
    const auto moved = [&](double s) {
        return s <= s0 ? s : s < s1 ? s0 + (s - s0) * contour_mm / (s1 - s0) : s + longer;
    };
    auto& built = design_->prepared.built;
    const auto place = *place_of(path.name);
    for (auto& check : built.checks) {
        if (std::find(check.places.begin(), check.places.end(), place) == check.places.end()) continue;
        for (double* s : {&check.from_s_mm, &check.to_s_mm, &check.edge_s_mm}) *s = moved(*s);
        for (auto& [from, to] : check.leave_out) from = moved(from), to = moved(to);
        if (!judged) check.leave_out.push_back({s0, s0 + contour_mm});
    }
    for (auto& gap : built.gaps)
        if (gap.path == place) gap.from_s_mm = moved(gap.from_s_mm), gap.to_s_mm = moved(gap.to_s_mm);
}

void FaultSite::lead_surface_along(const std::vector<Point>& contour, bool judged) {
    for (auto& path : design_->prepared.built.section.paths) {
        const auto place = place_of(path.name);
        if (!place || place->kind != PlaceKind::insulation_surface || place->side != side_) continue;
        const auto first = along_path(path.points, contour.front()),
                   last = along_path(path.points, contour.back());
        if (!first || !last) continue;
        auto way = contour;
        if (*last < *first) std::reverse(way.begin(), way.end());
        replace_stretch(path, std::min(*first, *last), std::max(*first, *last), way, judged);
    }
}

void FaultSite::lead_from_start(const PlaceId& place, const std::vector<Point>& contour) {
    for (auto& path : design_->prepared.built.section.paths)
        if (path.name == name_of(place))
            if (const auto to = along_path(path.points, contour.back()))
                replace_stretch(path, 0, *to, contour, true);
}

void FaultSite::add_gap(const std::vector<Point>& along, const std::string& words, double eps_around,
                        double diameter_mm) {
    const auto path = place::fault_gap.number(number_);
    design_->prepared.built.section.paths.push_back({name_of(path), along, name_of(place())});
    design_->air.push_back({place(), path, words, eps_around, diameter_mm});
}

void FaultSite::add_electrode(const Outline& outline, double voltage_kV, bool floating) {
    auto& built = design_->prepared.built;
    built.section.electrodes.push_back({name_of(place()), voltage_kV, floating, outline});
    design_->drawn.push_back({name_of(place()), "", outline});
    built.parts.push_back({place(), kind_->title, floating ? "semiconductor" : "metal", true});
}

std::vector<Point> lens_points(double radius, double z, double height, double length) {
    std::vector<Point> points;
    for (int i = 0; i <= points_of_a_lens; ++i) {
        const double angle = std::numbers::pi * i / points_of_a_lens;
        points.push_back({radius + height * std::sin(angle), z - length / 2 * std::cos(angle)});
    }
    points.front().r = points.back().r = radius;
    return points;
}

std::optional<std::pair<Point, Point>> FaultSite::pencil() const {
    constexpr double least_drop_mm = 0.5;
    for (const auto& path : design_->prepared.built.section.paths) {
        const auto place = place_of(path.name);
        if (!place || place->kind != PlaceKind::insulation_surface || place->side != side_) continue;
        for (std::size_t i = 1; i < path.points.size(); ++i) {
            const auto a = path.points[i - 1], b = path.points[i];
            if (std::abs(a.r - radius_) < beside_path_mm && b.r < a.r - least_drop_mm &&
                std::abs(b.z - a.z) > least_drop_mm)
                return std::pair(a, b);
        }
    }
    return {};
}

Result<void> FaultSite::put_film(const Fault& fault, double thickness_mm) {
    const double length_mm = fault.size_mm, half = length_mm / 2;
    if (auto ok = needs_bare_insulation(half); !ok) return ok;
    if (is_electrode_between(z_ - half, z_ + half, thickness_mm))
        return tl::unexpected(
            misfit("a conductive part lies on the insulation here", "Choose another place"));
    if (length_mm <= 2 * thickness_mm)
        return tl::unexpected(
            misfit(fmt::format("it is not longer than twice its thickness, {:g} mm", thickness_mm),
                   "Give a greater length"));
    if (const double sheet = sheet_ohm(fault); sheet > 0)
        add_film(Outline::polygon(film_points(radius_, z_, thickness_mm, length_mm)), sheet, thickness_mm,
                 film_eps_r);
    else
        add_electrode(conductive_film(radius_, z_ - half, z_ + half, thickness_mm), 0, true);
    return {};
}

void FaultSite::add_film(const Outline& outline, double sheet_ohm, double thickness_mm, double eps_r) {
    auto& built = design_->prepared.built;
    const auto name = fmt::format("film of fault {}", number_);
    const auto material =
        film_material(sheet_ohm, thickness_mm, eps_r, kind_->title, "surface resistance of the fault");
    built.section.materials[name] = material;
    built.dc_S_per_m[name] = material.conduction->sigma0_S_per_m;
    put_region({}, outline, name, "semiconductor");
    if (!built.section.depends_on_field()) built.section.analysis = Analysis::complex;
}

void FaultSite::add_earth(Electrode electrode) {
    auto& built = design_->prepared.built;
    if (is_electrode(electrode.name)) return; // of another fault
    built.parts.push_back({*place_of(electrode.name), "earthed band", "metal", true});
    built.section.electrodes.push_back(std::move(electrode));
}

std::vector<Point> film_points(double radius, double z, double height, double length) {
    const double half = length / 2, bevel = std::min(height, half / 2);
    return {{radius, z - half},
            {radius + height, z - half + bevel},
            {radius + height, z + half - bevel},
            {radius, z + half}};
}

Outline conductive_film(double r, double z0, double z1, double thickness, const std::string& left,
                        const std::string& right) {
    const double tip = thickness / 2;
    Outline film;
    film.start = {r, z0 + tip};
    film.line_to({r, z1 - tip});
    film.arc_to({r + thickness, z1 - tip}, {r + tip, z1 - tip}, right);
    film.steps.back().clockwise = true;
    film.line_to({r + thickness, z0 + tip});
    film.arc_to({r, z0 + tip}, {r + tip, z0 + tip}, left);
    film.steps.back().clockwise = true;
    return film;
}

} // namespace ng
