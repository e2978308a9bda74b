#include "accessory/termination.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr double cable_shown_behind_accessory_mm = 45;
constexpr double air_beyond_cable_end_mm = 60;
constexpr double chord_rad = 0.1;                   // of rounded ends, where their reach is asked for
constexpr double shed_root_mm = 7, shed_tip_mm = 3; // thickness
constexpr double core_tube_wall_mm = 2.2; // recovered, on each core of a three-core cable (invented)

double greatest_radius(const std::vector<Point>& points) {
    double out = 0;
    for (const auto& p : points) out = std::max(out, p.r);
    return out;
}

} // namespace

void add_shed_parameters(ParameterList& list, const std::string& first_shed_after, double by_mm) {
    list.group("Sheds");
    const auto spacing = [](const DesignContext& c) { return c.design.duty.class_kV >= 20 ? 42.0 : 34.0; };
    list.number(
        "sheds", "Number", "By class and site: for the creepage of the pollution level", 0, 40,
        usual_sheds(plus(list.value_of("screen_edge_mm"), list.value_of("insulation_removed_mm", 0, -1)),
                    spacing));
    list.length("shed_diameter_mm", "Diameter", "Outside", 10, 400, of_layer("insulation", 1, 62));
    list.length("first_shed_mm", "First shed, from cable end", "Middle of the uppermost shed", 5, 3000,
                list.value_of(first_shed_after, by_mm));
    list.length("shed_spacing_mm", "Spacing", "", shed_root_mm + 3, 200, spacing);
}

Termination::Termination(const DesignContext& context)
    : lay(context), value(context), edge_at_(value("screen_edge_mm")) {
    lay.wall_share = value.wall_share();
}

Result<void> Termination::begin(double lower_end_mm) {
    const auto& cable = lay.context().cable;
    end = value.termination_end(z_of(lower_end_mm) - cable_shown_behind_accessory_mm);
    if (cable.cores == 3) { // beyond the crotch each core carries a tube in place of the jacket
        end.r.jacket = end.r.metallic + core_tube_wall_mm;
        end.jacket_title = "core tube";
    }
    const double barrel_depth = value("lug_barrel_depth_mm");
    if (auto ok = end.check(); !ok) return ok;
    if (value("insulation_removed_mm") < barrel_depth)
        return refuse("Insulation removed", "it is less than the lug barrel depth",
                      "Remove barrel depth plus an allowance");
    if (auto ok = end.stands_off(z_of(barrel_depth), "Insulation removed"); !ok) return ok;
    barrel_radius = value("lug_barrel_diameter_mm") / 2;
    if (barrel_radius <= end.r.conductor)
        return refuse("Lug barrel diameter",
                      fmt::format("{} does not go over the conductor, {}", in_mm(2 * barrel_radius),
                                  in_mm(2 * end.r.conductor)),
                      "Choose a larger lug");
    z_barrel = z_of(barrel_depth);
    z_top = z_of(0) + air_beyond_cable_end_mm;
    auto with_lug = end;
    with_lug.conductor = z_top;
    lay.cable_end(with_lug);
    lay.electrode(
        place::lug, lay.u0_kV,
        Outline::polygon({{0, z_barrel}, {barrel_radius, z_barrel}, {barrel_radius, z_top}, {0, z_top}}),
        "lug", "metal");
    lay.lying = with_lug.profile().covered_by(Profile({{barrel_radius, z_barrel}, {barrel_radius, z_top}}));
    lay.out.datum_z_mm = edge_at_;
    lay.mark(MarkKind::cable_end, place::cable_end, 0);
    lay.mark(MarkKind::connector_end, place::lug_barrel_end, barrel_depth);
    lay.mark(MarkKind::insulation_end, place::insulation_end, value("insulation_removed_mm"),
             "insulation_removed_mm");
    lay.mark(MarkKind::screen_edge, place::screen_edge, edge_at_, "screen_edge_mm");
    lay.mark(MarkKind::metallic_cut, place::metallic_cut, value("metallic_screen_cut_mm"),
             "metallic_screen_cut_mm");
    lay.mark(cable.cores == 3 ? MarkKind::core_tube_end : MarkKind::jacket_cut,
             cable.cores == 3 ? place::core_tube_end : place::jacket_cut, value("jacket_cut_mm"),
             "jacket_cut_mm");
    lay.handle("screen_edge_mm", "screen edge", {end.r.screen, 0});
    if (cable.cores == 3)
        lay.out.statements.push_back(
            "Three cores: the section is one core beyond the crotch; the breakout there carries no field.");
    return {};
}

std::string Termination::fill_step() {
    const auto& v = value;
    lay.material("grease", v("grease_eps_r"));
    lay.material("relief mastic", v("mastic_eps_r"));
    lay.material("sealant", lay.eps_of("sealant"));
    // Between insulation and lug: sealant, level from one to the other.
    lay.fill(place::lug_sealant, "sealant",
             Profile({{end.r.insulation, end.insulation}, {barrel_radius, z_barrel}}), "sealant", "sealant");
    if (v.is("edge_fill", "mastic")) {
        lay.marked_mastic(end, false, v("mastic_on_screen_mm"), v("mastic_on_insulation_mm"),
                          v("mastic_thickness_mm"), from_cable_end(0));
    }
    return v.is("edge_fill", "air") ? "air" : "grease";
}

Result<Profile> Termination::sheds(const Profile& body, const std::string& material, bool moulded) {
    const int count = static_cast<int>(std::lround(value("sheds")));
    Profile surface = body;
    body_radius_ = body.greatest_radius();
    const double radius = value("shed_diameter_mm") / 2;
    const double z0 = body.points().front().z, z1 = body.points().back().z;
    for (int i = 0; i < count; ++i) {
        const double at = value("first_shed_mm") + i * value("shed_spacing_mm"), z = z_of(at);
        if (z - shed_root_mm < z0 || z + shed_root_mm > z1)
            return refuse(
                "Sheds", fmt::format("shed {} at {} from the cable end is not on the body", i + 1, in_mm(at)),
                "Move the first shed, or give fewer sheds or less spacing");
        const Point low = body.at_or_near(z - shed_root_mm / 2), high = body.at_or_near(z + shed_root_mm / 2);
        const double foot = std::max(low.r, high.r);
        if (radius < foot + 3)
            return refuse("Sheds",
                          fmt::format("a diameter of {} does not stand out of the body, {}",
                                      in_mm(2 * radius), in_mm(2 * foot)),
                          "Give a larger shed diameter");
        const Profile shed({low, {radius, z - shed_tip_mm / 2}, {radius, z + shed_tip_mm / 2}, high});
        lay.region(place::shed.number(i + 1), material, shed.down_to(lay.inner_mm()), i == 0 ? "sheds" : "",
                   "sleeve");
        lay.last_part().moulded = moulded;
        surface = surface.covered_by(shed);
    }
    return surface;
}

Result<void> Termination::surround(const std::vector<Point>& surface, const PlaceId& along) {
    const double earth = value("earth_distance_mm");
    if (earth < greatest_radius(surface) + 5)
        return refuse("Nearby earth", "it is inside, or within 5 mm of, the termination",
                      "Give the distance from the cable axis to the nearest earthed part");
    lay.region(place::air, "air",
               Outline::polygon({{0, end.far}, {earth, end.far}, {earth, z_top}, {0, z_top}}), "air", "air");
    lay.out.section.boundaries.push_back(
        {name_of(place::nearby_earth), 0, {{earth, end.far}, {earth, z_top}}});
    lay.path(along, surface, place::air);
    const double z0 = surface.front().z, z1 = surface.back().z;
    auto& leaks = lay.out.leakage_surface; // with the faces of both ends
    leaks.push_back({std::min(lay.lying.radius(z0 - 0.01), surface.front().r), z0});
    leaks.insert(leaks.end(), surface.begin(), surface.end());
    leaks.push_back({std::min(lay.lying.radius(z1 + 0.01), surface.back().r), z1});
    lay.out.leakage_path = along;
    // Flashover: from the earthed part that reaches furthest up to the live one that reaches furthest down.
    AirEnds ends{place::screen_edge, place::insulation_end, end.screen, end.insulation};
    for (const auto& electrode : lay.out.section.electrodes) {
        const auto place = place_of(electrode.name);
        if (!place || is_cable_layer(place->kind)) continue;
        const auto points = polygon_of(electrode.outline, chord_rad);
        const auto [least, most] =
            std::minmax_element(points.begin(), points.end(), [](Point a, Point b) { return a.z < b.z; });
        const double low = least->z, high = most->z;
        if (electrode.voltage_kV == 0 && high > ends.earthed_z_mm)
            ends.earthed = *place, ends.earthed_z_mm = high;
        if (electrode.voltage_kV != 0 && low < ends.live_z_mm) ends.live = *place, ends.live_z_mm = low;
    }
    lay.out.air_ends = ends;
    return {};
}

checks::Zones Termination::zones(double control_to) const {
    const auto* how = value.family().parameter("relief_mastic") ? "relief_mastic" : "edge_fill";
    const bool mastic = value.is(how, "present") || value.is(how, "mastic");
    return checks::zones_of(end, mastic ? value("mastic_on_insulation_mm") : 0, control_to, end.insulation);
}

BuiltAccessory Termination::finish(const std::vector<Point>& surface) {
    // Sheds are drawn broken off where they would dwarf what they stand on.
    if (body_radius_ <= 0) body_radius_ = greatest_radius(surface);
    const double seen = std::min(greatest_radius(surface), body_radius_ * 1.3);
    return lay.finish(surface.front().z - 25, z_of(0) + 20, std::max(seen, body_radius_) * 1.12);
}

} // namespace ng
