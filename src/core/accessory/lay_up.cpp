#include "accessory/lay_up.h"
#include "accessory/checks.h"
#include "closedform/closedform.h"
#include "units/promise.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {
constexpr double mastic_feather_mm = 4.0;    // length of the mastic's taper on the screen side
constexpr double joint_screen_wall_mm = 1.0; // drawn thickness; the field ends beneath it
constexpr double edge_zone_mm = 2; // what the preparation of the edge leaves lies this near to it (chosen)
constexpr double semiconductor_eps_r = 100; // of a resistive screen (common practice, no source)
constexpr double least_film_mm = 0.1;       // of a tube over metal: less is a hairline of the drawing
constexpr int chords_of_a_corner = 12;      // for what is read along it: within 0.3 % of its radius

bool same_course(const Profile& a, const Profile& b) {
    return a.points().size() == b.points().size() &&
           std::equal(a.points().begin(), a.points().end(), b.points().begin(),
                      [](Point p, Point q) { return distance(p, q) < 1e-6; });
}
} // namespace

LayUp::LayUp(const DesignContext& context)
    : u0_kV(context.design.duty.u0()), context_(context),
      inner_mm_(std::min(context.dimensions.radius_mm("conductor"),
                         context.dimensions_of(CableSide::b).radius_mm("conductor"))) {
    out.section.frequency_hz = context.design.duty.frequency_hz;
    material("air", 1);
}

void LayUp::material(const std::string& name, double eps_r, std::optional<Conduction> conduction,
                     const std::string& entry_name) {
    if (!entry_name.empty()) entries_[name] = entry_name;
    SectionMaterial material{eps_r, std::move(conduction), {}};
    if (const auto* entry = entry_of(name); entry && !entry->eps_share_by_frequency.empty()) {
        for (const auto& [hz, share] : entry->eps_share_by_frequency)
            material.eps_r_by_frequency.emplace_back(hz, std::max(1.0, share * eps_r));
        material.eps_provenance = to_word(entry->eps_share_provenance);
    }
    out.section.materials[name] = std::move(material);
}

double LayUp::eps_of(const std::string& id) const {
    const auto* found = context_.materials.find(id);
    promise(found, "the materials table has what the families are made of");
    return found->eps_r.value;
}

const Material* LayUp::entry_of(const std::string& name) const {
    const auto it = entries_.find(name);
    return context_.materials.find(it == entries_.end() ? name : it->second);
}

void LayUp::region(const PlaceId& place, const std::string& material, Outline outline,
                   const std::string& label, const std::string& hatch) {
    laid_.push_back({name_of(place), material, std::move(outline)});
    out.parts.push_back({place, label, hatch, false});
}

void LayUp::electrode(const PlaceId& place, double voltage_kV, Outline outline, const std::string& label,
                      const std::string& hatch) {
    out.section.electrodes.push_back({name_of(place), voltage_kV, false, std::move(outline)});
    out.parts.push_back({place, label, hatch, true});
}

void LayUp::path(const PlaceId& place, std::vector<Point> points, const PlaceId& side) {
    out.section.paths.push_back({name_of(place), std::move(points), name_of(side)});
}

void LayUp::cover_rounded(const Profile& outer, double start_radius_mm, double end_radius_mm) {
    lying = lying.covered_by(rounded_course(outer, start_radius_mm, end_radius_mm));
    rounded_.push_back(rounded_course(outer, start_radius_mm, end_radius_mm, chords_of_a_corner));
}

Profile LayUp::clear_of_corners(Profile profile) const {
    for (const auto& metal : rounded_) {
        const auto& corners = metal.points();
        const double z0 = profile.points().front().z, z1 = profile.points().back().z;
        if (std::any_of(corners.begin(), corners.end(), [&](Point p) {
                return p.z > z0 && p.z < z1 && p.r > profile.radius(p.z) + touching_mm;
            }))
            profile = profile.above(metal);
    }
    return profile;
}

void LayUp::cable_end(const CableEnd& end, bool is_mirrored) {
    auto placed = [&](Outline outline) { return is_mirrored ? mirrored(outline) : outline; };
    auto line = [&](std::vector<Point> points) {
        if (is_mirrored)
            for (auto& p : points) p = mirrored(p);
        return points;
    };
    const auto& r = end.r;
    const auto insulation = place::insulation.on(end.side);
    const auto dielectric = name_of(insulation);
    const auto side = end.side == Side::b ? CableSide::b : CableSide::a;
    material(dielectric, end.insulation_eps, {}, context_.cable_of(side).insulation_material);
    const bool pvc = context_.cable_of(side).jacket_material == "PVC";
    const std::string jacket = pvc ? "jacket pvc" : "jacket";
    material(jacket, eps_of(jacket));
    region(insulation, dielectric,
           placed(end.insulation_outline(end.flush_end_radius_mm > 0 ? 0 : inner_mm_)),
           end.insulation_title + " insulation" + end.tag(), "insulation");
    const auto screen = place::insulation_screen.on(end.side);
    const auto title = end.screen_title + end.tag();
    if (end.edge.screen_S_per_m) {
        Conduction law;
        law.law = "constant";
        law.sigma0_S_per_m = *end.edge.screen_S_per_m;
        law.provenance = "user";
        material(name_of(screen), semiconductor_eps_r, law);
        region(screen, name_of(screen), placed(end.screen_outline()), title, "semiconductor");
    } else {
        electrode(screen, 0, placed(end.screen_outline()), title, "semiconductor");
    }
    region(
        place::jacket.on(end.side), jacket,
        placed(Outline::polygon(
            {{r.metallic, end.far}, {r.jacket, end.far}, {r.jacket, end.jacket}, {r.metallic, end.jacket}})),
        end.jacket_title + end.tag(), "jacket");
    // The conductor screen is one body with the conductor here: both are at line voltage.
    electrode(place::conductor.on(end.side), u0_kV, placed(end.conductor_outline()), "conductor" + end.tag(),
              "metal");
    electrode(place::metallic_screen.on(end.side), 0,
              placed(Outline::polygon({{r.screen, end.far},
                                       {r.metallic, end.far},
                                       {r.metallic, end.metallic},
                                       {r.screen, end.metallic}})),
              "metallic screen" + end.tag(), "metal");
    const auto along = end.insulation_surface();
    double length = 0;
    for (std::size_t i = 0; i + 1 < along.size(); ++i) length += distance(along[i], along[i + 1]);
    const Point beside{r.insulation + 0.2 * (r.screen - r.insulation), end.screen + 0.1};
    edges_.push_back(
        {end.side, end.screen - end.contact_z(), length, is_mirrored ? mirrored(beside) : beside});
    path(place::insulation_surface.on(end.side), line(along), insulation);
    path(place::conductor_screen.on(end.side),
         line({{r.conductor_screen, std::max(end.far + 5, end.screen - 60)},
               {r.conductor_screen, end.insulation}}),
         insulation);
    auto surface = [&](const PlaceId& what, double z0, double z1, double radius) {
        surfaces_.push_back({what.on(end.side), is_mirrored ? -z1 : z0, is_mirrored ? -z0 : z1, 2 * radius});
    };
    surface(place::jacket, end.far, end.jacket, r.jacket);
    surface(place::metallic_screen, end.jacket, end.metallic, r.metallic);
    surface(place::insulation_screen, end.metallic, end.screen, r.screen);
    surface(place::insulation, end.screen, end.insulation, r.insulation);
    surface(place::conductor, end.insulation, end.conductor, r.conductor);
}

Result<void> LayUp::joint(const CableEnd& a, const CableEnd& b, const JointConnector& with) {
    const double length_mm = with.length_mm, diameter_mm = with.diameter_mm,
                 end_radius_mm = with.end_radius_mm;
    for (const auto* end : {&a, &b}) {
        if (auto ok = end->check(); !ok) return ok;
        if (diameter_mm / 2 <= end->r.conductor + 0.05)
            return refuse("Connector diameter",
                          fmt::format("{} does not go over conductor{}, {}",
                                      format_length(diameter_mm, LengthUnit::mm), end->tag(),
                                      format_length(2 * end->r.conductor, LengthUnit::mm)),
                          "Choose a larger connector");
        if (-end->insulation < length_mm / 2)
            return refuse("Insulation end" + end->tag(),
                          "the connector does not fit between the insulation ends",
                          "Remove half the connector plus an allowance");
        if (auto ok = end->stands_off(-length_mm / 2, "Insulation end" + end->tag()); !ok) return ok;
        if (end_radius_mm > 0.95 * (diameter_mm / 2 - end->r.conductor))
            return refuse("Connector end radius", "it is larger than the connector's wall",
                          "Give at most the height of the step to the conductor");
    }
    cable_end(a);
    cable_end(b, true);
    const double h = length_mm / 2, radius = diameter_mm / 2, rho = end_radius_mm;
    Outline connector;
    connector.start = {0, -h};
    connector.line_to({radius - rho, -h});
    connector.arc_to({radius, -h + rho}, {radius - rho, -h + rho}, name_of(place::connector_end.on(Side::a)));
    connector.line_to({radius, h - rho});
    connector.arc_to({radius - rho, h}, {radius - rho, h - rho}, name_of(place::connector_end.on(Side::b)));
    connector.line_to({0, h});
    electrode(place::connector, u0_kV, std::move(connector), "connector", "metal");
    auto points = a.profile().points();
    const auto other = mirrored(b.profile().points());
    points.insert(points.end(), other.begin(), other.end());
    lying = Profile(points);
    cover_rounded(Profile({{radius, -h}, {radius, h}}), rho, rho);
    surfaces_.push_back({place::connector, -h, h, diameter_mm});
    joint_marks(a, b, length_mm);
    return {};
}

Result<LayUp::Laid> LayUp::shrink(const Tube& asked) {
    Tube tube = asked;
    tube.z0 = lying.place_near(tube.z0);
    tube.z1 = lying.place_near(tube.z1);
    const bool rubber = tube.kind != FitItem::Kind::shrink;
    out.placed.push_back({.part = tube.item,
                          .place = tube.place,
                          .label = tube.label,
                          .z0_mm = tube.z0,
                          .z1_mm = tube.z1,
                          .kind = tube.kind,
                          .bore_mm = tube.tube.expanded_bore_mm,
                          .integral = tube.integral,
                          .control = rubber || tube.control || tube.hatch == "grading"});
    if (tube.z1 < tube.z0 + 2)
        return refuse(tube.item, "its ends leave it no length", "Give it a length of at least 2 mm");
    Laid laid{lying.between(tube.z0, tube.z1).spanned(), Profile{{}}};
    const auto bore_over = tube.bore_over ? tube.bore_over->between(tube.z0, tube.z1) : laid.under;
    if (!tube.fused)
        for (const double radius : {bore_over.smallest_radius(), bore_over.greatest_radius()})
            if (auto wall = closedform::recovered_wall_mm(tube.tube, 2 * radius, tube.item); !wall)
                return tl::unexpected(wall.error());
    laid.outer = laid.under.grown(
        [&](double r) { return r + wall_share * (closedform::recovered_outer_radius_mm(tube.tube, r) - r); });
    for (const auto& metal : rounded_)
        for (const auto& p : metal.points())
            if (p.z > tube.z0 && p.z < tube.z1 && laid.outer.radius(p.z) < p.r + least_film_mm)
                return refuse(tube.item,
                              "its wall is too thin to be drawn round the rounded metal end beneath",
                              "Give a thicker wall, or the metal beneath a smaller end radius or thickness");
    if (tube.under_material == "air") ask_pockets(tube, laid.under);
    region(tube.under, tube.under_material, laid.under.down_to(inner_mm_), tube.under_label,
           tube.under_material == "air" ? "air" : "sealant");
    out.parts.back().moulded = rubber;
    region(tube.place, tube.material, laid.outer.down_to(inner_mm_), tube.label, tube.hatch);
    if (!tube.fused) fit(tube.place, tube.kind, tube.tube, bore_over, tube.prefix);
    lying = lying.covered_by(laid.outer);
    return laid;
}

void LayUp::ask_pockets(const Tube& tube, const Profile& under) {
    constexpr double least_height_mm = 0.3, least_length_mm = 0.8; // smaller ones are the void allowance's
    const int steps = std::clamp(static_cast<int>((tube.z1 - tube.z0) / 0.15), 50, 5000);
    std::vector<std::vector<Point>> fillers; // what was put there before fills the pocket
    for (const auto& region : laid_) fillers.push_back(polygon_of(region.outline, 0.2));
    for (const auto& electrode : out.section.electrodes)
        fillers.push_back(polygon_of(electrode.outline, 0.2));
    const auto filled = [&](Point p) { // or beside what is
        return std::any_of(fillers.begin(), fillers.end(), [&](const auto& polygon) {
            for (const Point by :
                 {Point{0, 0}, Point{0.05, 0}, Point{-0.05, 0}, Point{0, 0.05}, Point{0, -0.05}})
                if (inside_polygon(polygon, p + by)) return true;
            return false;
        });
    };
    std::vector<Point> middle; // of the air, along the pocket that is being walked through
    // Over an earthed screen there is no field, and the wedge at its edge has questions of its own.
    constexpr double wedge_mm = 2;
    std::vector<std::pair<double, double>> screened; // z of what is earthed beneath
    for (const auto& electrode : out.section.electrodes)
        if (electrode.voltage_kV == 0) {
            const auto polygon = polygon_of(electrode.outline, 0.2);
            const auto [low, high] = std::minmax_element(polygon.begin(), polygon.end(),
                                                         [](Point a, Point b) { return a.z < b.z; });
            screened.emplace_back(low->z, high->z);
        }
    const auto over_a_screen_or_its_edge = [&] {
        return std::any_of(screened.begin(), screened.end(), [&](const auto& span) {
            return middle.front().z < span.second + wedge_mm && middle.back().z > span.first - wedge_mm;
        });
    };
    const auto ask = [&] {
        if (middle.size() > 2) { // its tips taper into corners
            middle.pop_back();
            middle.erase(middle.begin());
        }
        if (middle.size() >= 3 && !over_a_screen_or_its_edge() &&
            middle.back().z - middle.front().z >= least_length_mm) {
            const auto where = place::pocket.on(tube.place.side).number(++pockets_);
            path(where, middle, tube.under);
            auto one = checks::enclosed_air(
                {CheckKind::air_pocket, tube.place.side, pockets_},
                fmt::format("Air pocket under the {}, at extinction voltage", tube.label), where,
                {"the air that is left there discharges",
                 "Fill the step with sealant or relief mastic before the tube goes over it"});
            out.checks.push_back(std::move(one));
        }
        middle.clear();
    };
    const double step_mm = (tube.z1 - tube.z0) / steps;
    double before = lying.radius(tube.z0);
    for (int i = 0; i <= steps; ++i) {
        const double z = tube.z0 + step_mm * i, low = lying.radius(z), high = under.radius(z);
        const Point half{(low + high) / 2, z};
        if (std::abs(low - before) > 1.5 * step_mm) ask(); // a face: the middle of the air jumps
        before = low;
        if (high - low < least_height_mm || filled(half))
            ask();
        else
            middle.push_back(half);
    }
    ask();
}

void LayUp::fill(const PlaceId& place, const std::string& material, const Profile& outer,
                 const std::string& label, const std::string& hatch) {
    region(place, material, outer.down_to(inner_mm_), label, hatch);
    const double z0 = outer.points().front().z, z1 = outer.points().back().z;
    if (hatch == "tape" || hatch == "mastic" || hatch == "resin")
        out.build_ups.push_back({.part = name_of(place),
                                 .kind = hatch == "tape" ? BuildUp::Kind::tape : BuildUp::Kind::mastic,
                                 .inner = lying.between(z0, z1).points(),
                                 .outer = outer.points()});
    lying = lying.covered_by(outer);
}

Profile LayUp::relief_mastic(const CableEnd& end, bool is_mirrored, double on_screen_mm,
                             double on_insulation_mm, double thickness_mm) {
    const double feather = std::min(mastic_feather_mm, on_screen_mm / 2);
    std::vector<Point> points{{end.r.screen, end.screen - on_screen_mm},
                              {end.r.screen + thickness_mm, end.screen - on_screen_mm + feather},
                              {end.r.screen + thickness_mm, end.screen},
                              {end.r.insulation, end.screen + on_insulation_mm}};
    const Profile mastic(is_mirrored ? mirrored(points) : points);
    fill(place::relief_mastic.on(end.side), "relief mastic", mastic, "relief mastic" + end.tag(), "mastic");
    return mastic;
}

void LayUp::marked_mastic(const CableEnd& end, bool is_mirrored, double on_screen_mm, double on_insulation_mm,
                          double thickness_mm, double datum_z) {
    relief_mastic(end, is_mirrored, on_screen_mm, on_insulation_mm, thickness_mm);
    const double sign = is_mirrored ? -1 : 1;
    mark(MarkKind::mastic_end, place::mastic_on_insulation.on(end.side),
         datum_z - sign * (end.screen + on_insulation_mm), "mastic_on_insulation_mm", -sign);
    mark(MarkKind::mastic_end, place::mastic_on_screen.on(end.side),
         datum_z - sign * (end.screen - on_screen_mm), "mastic_on_screen_mm", sign);
}

void LayUp::joint_screen(double z0, double z1, double length_per_height, const std::string& beneath) {
    z0 = lying.place_near(z0);
    z1 = lying.place_near(z1);
    const auto course = lying.between(z0, z1);
    const auto inner = course.spanned(length_per_height);
    if (!same_course(inner, course))
        region(place::under_joint_screen, beneath, inner.down_to(inner_mm_), "",
               beneath == "air" ? "air" : "sealant");
    const auto outer = inner.grown([](double r) { return r + joint_screen_wall_mm; });
    electrode(place::joint_screen, 0, band_outline(inner, outer, {}, {}), "joint screen", "semiconductor");
    lying = lying.covered_by(outer);
}

void LayUp::fit(const PlaceId& place, FitItem::Kind kind, const closedform::ShrinkTube& tube,
                const Profile& on, const std::string& prefix) {
    FitItem item{place, name_of(place), kind, tube, {}, prefix};
    const double z0 = on.points().front().z, z1 = on.points().back().z;
    for (const double diameter : {2 * on.smallest_radius(), 2 * on.greatest_radius()}) {
        std::optional<PlaceId> what;
        for (const auto& s : surfaces_)
            if (s.z1 > z0 && s.z0 < z1 && std::abs(s.diameter_mm - diameter) < 0.05) what = s.what;
        if (item.on.empty() || item.on.back().diameter_mm < diameter - 0.01)
            item.on.push_back({what, diameter});
    }
    out.fit.push_back(std::move(item));
}

void LayUp::mark(MarkKind kind, const PlaceId& place, double from_datum_mm, const std::string& parameter,
                 double per_mm, const std::string& label) {
    out.marks.push_back({.kind = kind,
                         .place = place,
                         .label = label.empty() ? name_of(place) : label,
                         .from_datum_mm = from_datum_mm,
                         .side = place.side == Side::b ? CableSide::b : CableSide::a,
                         .parameter = parameter,
                         .per_mm = per_mm});
}

void LayUp::joint_marks(const CableEnd& a, const CableEnd& b, double connector_length_mm) {
    out.datum = out.zero = place::joint_centre;
    mark(MarkKind::reference, place::joint_centre, 0);
    out.control_length_mm = -a.screen - b.screen;
    for (const auto* end : {&a, &b}) {
        const double sign = end == &a ? 1 : -1;
        const std::string prefix = end == &a ? "a_" : "b_";
        mark(MarkKind::connector_end, place::connector_end.on(end->side), sign * connector_length_mm / 2);
        mark(MarkKind::insulation_end, place::insulation_end.on(end->side), -sign * end->insulation,
             prefix + "insulation_end_mm", sign);
        if (end->conductor_screen_left_mm > 0)
            mark(MarkKind::conductor_screen_end, place::conductor_screen_end.on(end->side),
                 -sign * (end->insulation + end->conductor_screen_left_mm), "conductor_screen_left_mm",
                 -sign);
        if (end->pencil_mm > 0)
            mark(MarkKind::pencil_start, place::pencil_start.on(end->side),
                 -sign * (end->insulation - end->pencil_mm), "pencil_length_mm", sign);
        mark(MarkKind::screen_edge, place::screen_edge.on(end->side), -sign * end->screen,
             prefix + "screen_edge_mm", sign, end->edge_title + end->tag());
        mark(MarkKind::metallic_cut, place::metallic_cut.on(end->side), -sign * end->metallic,
             prefix + "metallic_cut_mm", sign);
        mark(MarkKind::jacket_cut, place::jacket_cut.on(end->side), -sign * end->jacket,
             prefix + "jacket_cut_mm", sign);
        handle(prefix + "screen_edge_mm", end->edge_title + end->tag(), {end->r.screen, sign * end->screen},
               0, -sign);
    }
}

double LayUp::cable_stress(const CableEnd& end) const {
    const closedform::RadialLayer layer[] = {{end.r.insulation, end.insulation_eps}};
    return closedform::radial_field_kV_per_mm(u0_kV, end.r.conductor_screen, layer, end.r.conductor_screen);
}

void LayUp::find_gaps() {
    for (const auto& edge : edges_) {
        const auto path = place::insulation_surface.on(edge.side);
        const auto filler = std::find_if(laid_.begin(), laid_.end(), [&](const auto& region) {
            return inside_polygon(polygon_of(region.outline, 0.3), edge.beside);
        });
        const std::string material = filler == laid_.end() ? "air" : filler->material;
        const char* rule = material == "air"             ? "gap_open"
                           : material == "relief mastic" ? "gap_mastic"
                                                         : "gap_grease";
        const double zone = edge.edge_s_mm + edge_zone_mm;
        out.gaps.push_back({path, 0, zone, rule});
        if (edge.length_mm > zone) out.gaps.push_back({path, zone, edge.length_mm, "gap_interface"});
    }
}

BuiltAccessory LayUp::finish(double view_z0, double view_z1, double view_r) {
    auto& s = out.section;
    s.regions.assign(laid_.rbegin(), laid_.rend());
    std::reverse(out.parts.begin(), out.parts.end());
    std::erase_if(s.materials, [&](const auto& named) { // only what is used
        return std::none_of(s.regions.begin(), s.regions.end(),
                            [&](const auto& r) { return r.material == named.first; });
    });
    find_gaps();
    for (const auto& [name, material] : s.materials) {
        const auto* entry = entry_of(name);
        out.dc_S_per_m[name] = entry ? entry->dc_S_per_m.value : 0;
        if (entry && entry->life) out.life[name] = *entry->life;
        if (entry) out.warming[name] = entry->warming;
    }
    s.analysis = s.depends_on_field() ? Analysis::nonlinear
                 : s.conducts()       ? Analysis::complex
                                      : Analysis::capacitive;
    std::sort(out.marks.begin(), out.marks.end(),
              [](const auto& a, const auto& b) { return a.from_datum_mm < b.from_datum_mm; });
    out.view_z0_mm = view_z0;
    out.view_z1_mm = view_z1;
    out.view_r0_mm = 0.7 * inner_mm_;
    out.view_r_mm = view_r;
    out.cautions = {
        "Work only on a cable that competent people have isolated, proved dead and earthed under the local "
        "rules.",
        "Torch, solvent and blade: ventilate, keep solvent away from flame, wear eye and hand protection.",
        "The computation is a design aid: it does not replace the type test or the maker's instructions."};
    return std::move(out);
}

} // namespace ng
