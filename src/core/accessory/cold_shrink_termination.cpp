// Cold-shrink terminations: a rubber body, expanded on a hold-out and released over the cable, that grades
// with an integral high-permittivity layer or with a moulded cone.
#include "accessory/checks.h"
#include "accessory/termination.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr const char* graded_id = "cold_shrink_termination_graded";
constexpr const char* cone_id = "cold_shrink_termination_cone";

void add_body(ParameterList& list) {
    list.group("Body");
    list.length("body_upper_end_mm", "Upper end, from cable end", "On the lug barrel", 0, 3000,
                list.value_of("lug_barrel_depth_mm", 0, 0.4));
    list.length("body_lower_end_mm", "Lower end, from cable end", "On the jacket or core tube", 20, 3500,
                list.value_of("jacket_cut_mm", 30));
    // A bore that grips the lug barrel, and still goes over the jacket.
    list.shrink_tube(
        "body", "rubber body", of_layer("jacket", 1.6),
        [barrel = list.value_of("lug_barrel_diameter_mm")](const DesignContext& c) {
            const double jacket = c.dimensions.layer("jacket").diameter_mm;
            return std::clamp(barrel(c) / 1.16, 0.35 * jacket, 0.475 * jacket);
        },
        by_class_beyond_15(2.8, 0.12, 0.4));
    list.recovery();
}

Result<void> check_body(const ParameterValues& v) {
    if (v("body_lower_end_mm") <= v("jacket_cut_mm"))
        return refuse("Body", "its lower end does not reach the jacket", "Let it lap onto the jacket");
    if (v("body_upper_end_mm") >= v("lug_barrel_depth_mm"))
        return refuse("Body", "its upper end does not reach the lug barrel", "Let it lap onto the lug");
    return {};
}

/// Materials of the step at the screen edge, and mastic over it where chosen. The material left in steps.
const checks::Words in_air{"the field along the outer surface can start discharges in the air beside it",
                           "Lengthen the stress control or the insulation, or use a thicker body"};

Result<BuiltAccessory> close(Termination& t, const Profile& body) {
    const auto surface = t.sheds(body, "body", true);
    if (!surface) return tl::unexpected(surface.error());
    if (auto ok = t.surround(surface->points(), place::body_surface); !ok) return tl::unexpected(ok.error());
    auto& lay = t.lay;
    lay.out.checks.push_back(checks::insulation_ratio(t.end, lay.cable_stress(t.end),
                                                      "Round the screen edge more, or cover it better"));
    for (auto& check : checks::surface_in_air(CheckKind::body_tangential, "body", place::body_surface, in_air,
                                              "Use a thicker body, or keep earth further away"))
        lay.out.checks.push_back(std::move(check));
    lay.mark(MarkKind::anchor, place::anchor_mark,
             t.from_cable_end(-15)); // 15 mm behind the screen edge (common practice)
    lay.mark(MarkKind::body_end, place::body_lower_end, t.value("body_lower_end_mm"), "body_lower_end_mm");
    const double radius = t.end.r.insulation;
    lay.out.derived["body wall on insulation (mm)"] =
        closedform::recovered_outer_radius_mm(t.value.tube("body"), radius) - radius;
    return t.finish(surface->points());
}

/// The rubber body from end to end, moulded onto what lies beneath it.
LayUp::Tube body_of(const Termination& t, std::optional<Profile> bore_over) {
    const auto& v = t.value;
    return {.place = place::body,
            .material = "body",
            .label = "rubber body",
            .hatch = "rubber",
            .prefix = "body",
            .tube = v.tube("body"),
            .z0 = t.z_of(v("body_lower_end_mm")),
            .z1 = t.z_of(v("body_upper_end_mm")),
            .item = "Body",
            .kind = FitItem::Kind::cold_shrink,
            .under = place::body_core,
            .under_material = "body",
            .under_label = "",
            .bore_over = std::move(bore_over)};
}

Result<BuiltAccessory> build_graded(const DesignContext& c) {
    Termination t(c);
    auto& lay = t.lay;
    const auto& v = t.value;
    if (auto ok = t.begin(v("body_lower_end_mm")); !ok) return tl::unexpected(ok.error());
    if (auto ok = check_body(v); !ok) return tl::unexpected(ok.error());
    const auto& end = t.end;
    const double layer0 = t.z_of(v("layer_lower_end_mm")), layer1 = t.z_of(v("layer_upper_end_mm"));
    if (layer1 <= 2)
        return refuse("Graded layer", "its upper end does not reach past the screen edge",
                      "Move its upper end towards the lug");
    if (layer1 > end.insulation)
        return refuse("Graded layer", "its upper end is beyond the insulation end", "Shorten it");
    if (layer0 >= -1)
        return refuse("Graded layer", "its lower end does not lie on the insulation screen",
                      "Let it lap onto the screen");
    if (layer0 < end.metallic)
        return refuse("Graded layer", "its lower end lies on the metallic screen",
                      "Let it end on the insulation screen");
    const bool mastic = v.is("edge_fill", "mastic");
    if (mastic && (v("mastic_on_insulation_mm") > layer1 || v("mastic_on_screen_mm") > -layer0))
        return refuse("Relief mastic", "it reaches further than the graded layer covers",
                      "Shorten the mastic or lengthen the layer");
    lay.material("graded layer", v("layer_eps_r"), v.conduction("layer"));
    lay.material("body", v("body_eps_r"), {}, "rubber body");
    const auto filler = t.fill_step();
    const auto layer = lay.shrink({.place = place::graded_layer,
                                   .material = "graded layer",
                                   .label = "graded layer",
                                   .hatch = "grading",
                                   .prefix = "layer",
                                   .tube = v.tube("layer"),
                                   .z0 = layer0,
                                   .z1 = layer1,
                                   .item = "Graded layer",
                                   .kind = FitItem::Kind::cold_shrink,
                                   .under = place::step_at_screen_edge,
                                   .under_material = filler,
                                   .under_label = filler == "air" ? "air wedge" : "grease",
                                   .bore_over = {},
                                   .integral = true});
    if (!layer) return tl::unexpected(layer.error());
    // The layer is moulded into the body: its ends leave no step open.
    const auto body = lay.shrink(body_of(t, {}));
    if (!body) return tl::unexpected(body.error());

    lay.out.control_length_mm = layer1;
    lay.mark(MarkKind::tube_end, place::graded_layer_upper_end, v("layer_upper_end_mm"),
             "layer_upper_end_mm");
    lay.handle("layer_upper_end_mm", "graded layer, upper end", {layer->outer.points().back().r, layer1});
    const double wall =
        lay.wall_share *
        (closedform::recovered_outer_radius_mm(v.tube("layer"), end.r.insulation) - end.r.insulation);
    const closedform::GradedLayer thin{lay.u0_kV,
                                       end.r.conductor_screen,
                                       end.r.insulation,
                                       end.insulation_eps,
                                       wall,
                                       v("layer_eps_r"),
                                       layer1,
                                       v.is("layer_conduction", "none") ? 0.0 : v("layer_S_per_m"),
                                       c.design.duty.frequency_hz};
    checks::add_insulation_surface(lay.out.checks, end, t.zones(layer1),
                                   {"the graded layer spreads the field over too short a length",
                                    "Lengthen the layer past the edge, or use a body with a stronger layer"},
                                   checks::towards_lug);
    lay.out.checks.push_back(
        checks::screen_edge(end, {"the edge of the screen is too sharp for the stress round it",
                                  "Chamfer or file the edge, fill it"}));
    if (filler == "air" && end.edge.kind != "chamfered") {
        lay.path(place::air_wedge, checks::air_wedge(end), place::step_at_screen_edge);
        lay.out.checks.push_back(checks::enclosed_air(
            CheckKind::air_wedge, "Stress in the air wedge at the screen edge at extinction voltage",
            place::air_wedge,
            {"air is left at the screen edge, and the field in it is above inception",
             "Fill the step with grease or relief mastic"}));
    }
    lay.out.estimates = {{CheckKind::insulation_tangential,
                          thin.tangential_kV_per_mm(t.zones(layer1).filled_to),
                          "thin graded layer: beta U cosh(beta (L - z)) / cosh(beta L) where the grading "
                          "begins, outer medium neglected"}};
    lay.out.derived["graded layer wall on insulation (mm)"] = wall;
    lay.out.derived["1 / beta of the graded layer (mm)"] = 1 / thin.beta_per_mm();
    return close(t, body->outer);
}

Result<BuiltAccessory> build_cone(const DesignContext& c) {
    Termination t(c);
    auto& lay = t.lay;
    const auto& v = t.value;
    if (auto ok = t.begin(v("body_lower_end_mm")); !ok) return tl::unexpected(ok.error());
    if (auto ok = check_body(v); !ok) return tl::unexpected(ok.error());
    const auto& end = t.end;
    const auto shape = v.cone();
    const double start = v("cone_start_mm"), base = start - v("cone_overlap_mm"),
                 tip_radius = v("cone_tip_radius_mm");
    const ConeSurroundings around{end.r.conductor_screen, end.r.insulation, end.insulation_eps,
                                  v("body_eps_r")};
    const auto curve = flare(shape, around);
    const auto tip = deflector_tip(curve, start, tip_radius);
    if (base >= -1)
        return refuse("Cone", "it does not lap onto the insulation screen: it is not earthed",
                      "Lengthen its lap or move the body down");
    if (base < end.metallic) return refuse("Cone", "its lap reaches the metallic screen", "Shorten the lap");
    if (tip.z > end.insulation - 3)
        return refuse("Cone", "its tip reaches the insulation end",
                      "Shorten the cone or lengthen the insulation");
    lay.material("body", v("body_eps_r"), {}, "rubber body");
    const double z_flare_end = std::min(start + shape.length_mm, end.insulation);
    const auto filler = t.fill_step();
    const auto cable = lay.lying;
    lay.electrode(place::cone, 0, deflector_outline(curve, start, base, tip_radius, place::cone),
                  "stress cone", "semiconductor");
    lay.last_part().moulded = true;
    // What the step at an edge left outside the cone is filled with.
    lay.region(place::step_at_screen_edge, filler,
               cable.between(base, z_flare_end).spanned().down_to(lay.inner_mm()),
               filler == "air" ? "air wedge" : "grease", filler == "air" ? "air" : "sealant");
    lay.last_part().moulded = true;
    lay.lying = cable.covered_by(Profile({{tip.r, base}, {tip.r, std::max(tip.z - tip_radius, base + 1)}}));
    const auto body = lay.shrink(body_of(t, cable));
    if (!body) return tl::unexpected(body.error());
    const auto line = exposed_flare(curve, start, cable.between(base, z_flare_end).spanned());
    if (!line.empty()) {
        lay.path(place::cone_flare, line, place::body_core);
        lay.out.checks.push_back(checks::electrode_surface(
            CheckKind::cone_surface, "Stress on the cone's surface", place::cone_flare,
            {"the cone rises too slowly from the insulation",
             "Give it a profile of constant stress, or more rise"}));
    }
    lay.out.control_length_mm = tip.z;
    lay.mark(MarkKind::cone, place::cone_start, t.from_cable_end(start), "cone_start_mm", -1);
    lay.handle("cone_start_mm", "cone start", {end.r.insulation, start}, t.lay.out.datum_z_mm, 1);
    lay.handle("cone_length_mm", "cone end", {curve.back().r, start + shape.length_mm},
               t.lay.out.datum_z_mm - start, 1);
    const bool bare = edge_stands_out(curve, start, end);
    auto zones = t.zones(start + shape.length_mm);
    zones.edge_is_bare = bare;
    if (!bare) zones.filled_to = start;
    checks::add_insulation_surface(lay.out.checks, end, zones,
                                   {"the cone lets the equipotentials leave the insulation too steeply",
                                    "Lengthen the cone, raise it, or move its start to the screen edge"},
                                   checks::towards_lug);
    if (bare) // else the cone lies over the edge: nothing to read there
        lay.out.checks.push_back(
            checks::screen_edge(end, {"the screen edge stands out of the cone",
                                      "Align the body to its mark: the cone must cover the edge"}));
    lay.out.checks.push_back(checks::electrode_edge(
        CheckKind::cone_tip, "Stress at the tip of the cone", {place::cone.part(EdgePart::tip)},
        {"the tip is too sharp or too near the conductor", "Round the tip more, or raise the cone"}));
    lay.out.estimates = {{CheckKind::insulation_tangential,
                          cone_tangential_kV_per_mm(shape, around, lay.u0_kV),
                          "cone of this length and rise with a constant tangential stress"}};
    return close(t, body->outer);
}

} // namespace

NEEDLEGAUGE_FAMILY(cold_shrink_termination_graded, 20) {
    Family f;
    f.id = graded_id;
    f.title = "Cold-shrink termination, graded layer";
    f.usual_standard = "ieee48";
    ParameterList list(f);
    list.termination_cuts(list.value_of("lug_barrel_depth_mm", 3), insulation_in_air());
    list.screen_edge();
    // Under a layer that grades, a short thick fillet eases the edge more than a long one.
    list.edge_fill("mastic", by_class_beyond_15(10, 0, 0.5), by_class_beyond_15(1.2, 0, 0.19));
    list.group("Graded layer");
    list.length("layer_upper_end_mm", "Upper end, from cable end", "Drag it in BUILD", 5, 3000,
                [](const DesignContext& c) {
                    const ParameterValues v(c);
                    return v("screen_edge_mm") - 0.62 * (v("screen_edge_mm") - v("insulation_removed_mm"));
                });
    list.length("layer_lower_end_mm", "Lower end, from cable end", "", 5, 3000,
                list.value_of("screen_edge_mm", 25));
    list.shrink_tube("layer", "graded layer", of_layer("jacket", 1.6), of_layer("insulation", 0.7), fixed(3));
    list.conduction("layer");
    list.graded_layer_aid("layer", {{"upper end", "layer_upper_end_mm"},
                                    {"least upper end", "insulation_removed_mm"},
                                    {"screen edge", "screen_edge_mm"}});
    add_body(list);
    add_shed_parameters(list, "insulation_removed_mm", 28);
    list.lug(true);
    f.build = build_graded;
    return f;
}

NEEDLEGAUGE_FAMILY(cold_shrink_termination_cone, 30) {
    Family f;
    f.id = cone_id;
    f.title = "Cold-shrink termination, cone";
    f.usual_standard = "ieee48";
    ParameterList list(f);
    list.termination_cuts(list.value_of("lug_barrel_depth_mm", 3),
                          plus(insulation_in_air(), list.value_of("cone_length_mm", 4)));
    list.screen_edge("chamfered");
    list.edge_fill();
    list.cone(true);
    list.length("cone_start_mm", "Start past the screen edge",
                "Body aligned to its mark; negative: the screen edge stands out of the cone", -60, 120,
                fixed(2));
    add_body(list);
    add_shed_parameters(list, "insulation_removed_mm", 28);
    list.lug(true);
    f.build = build_cone;
    return f;
}

} // namespace ng
