// Heat-shrink joint: relief mastic or a conductive tube over the connector, stress tube(s) from screen to
// screen, an insulating tube and a dual-wall tube whose outer skin is the joint's earthed screen. z = 0 at
// the joint centre; side A lies at negative z.
#include "accessory/heat_shrink_joint.h"
#include "accessory/checks.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {

struct Ends {
    CableEnd a, b;
};

/// Course over connector and gaps, level with the greatest radius beneath plus `wall`.
Profile cover_course(const LayUp& lay, double z0, double z1, double wall_mm) {
    const double radius = lay.lying.between(z0, z1).greatest_radius() + wall_mm;
    return Profile({{radius, z0}, {radius, z1}});
}

/// Relief mastic over both ends of a conductive cover, from its top down to the insulation.
Result<void> lay_cover_mastic(LayUp& lay, const ParameterValues& v, const Ends& e, double z0, double z1) {
    const double reach = v("cover_mastic_mm"), thickness = v("mastic_thickness_mm");
    const double edge_mastic = v.is("relief_mastic", "present") ? v("mastic_on_insulation_mm") : 0;
    for (const bool b : {false, true}) {
        const auto& end = b ? e.b : e.a;
        if ((b ? -z1 : z0) - reach < end.screen + edge_mastic + 5)
            return refuse("Mastic at the cover's ends",
                          "it reaches the screen edge or its mastic" + end.tag(),
                          "Shorten it, or cut the screen further back");
        const double out = b ? 1 : -1, from = b ? z1 : z0,
                     top = lay.lying.radius(from - out * reach) + thickness;
        std::vector<Point> points{{lay.lying.radius(from + out * reach), from + out * reach},
                                  {top, from},
                                  {top, from - 0.7 * out * reach},
                                  {lay.lying.radius(from - out * reach), from - out * reach}};
        if (b) std::reverse(points.begin(), points.end());
        lay.fill(place::cover_mastic.on(end.side), "relief mastic", Profile(points).above(lay.lying),
                 "relief mastic", "mastic");
    }
    return {};
}

Result<void> cover_connector(LayUp& lay, const ParameterValues& v, const Ends& e) {
    const double lap = v("cover_lap_mm"), wall = v("cover_thickness_mm");
    const double z0 = e.a.insulation - e.a.pencil_mm - lap, z1 = -(e.b.insulation - e.b.pencil_mm - lap);
    for (const auto* end : {&e.a, &e.b})
        if (end->insulation - end->pencil_mm - lap < end->screen + 10)
            return refuse("Cover of the connector", "it comes within 10 mm of screen edge" + end->tag(),
                          "Shorten its lap on the insulation, or cut the screen further back");
    if (v.is("connector_cover", "mastic")) {
        const auto level = cover_course(lay, z0, z1, wall);
        const double radius = level.greatest_radius();
        lay.fill(place::connector_mastic, "relief mastic",
                 Profile({{e.a.r.insulation, z0},
                          {radius, e.a.insulation - e.a.pencil_mm},
                          {radius, -e.b.insulation + e.b.pencil_mm},
                          {e.b.r.insulation, z1}}),
                 "relief mastic", "mastic");
        lay.out.checks.push_back(checks::electrode_edge(
            CheckKind::connector_end, "Stress at the connector's ends",
            {place::connector_end.on(Side::a), place::connector_end.on(Side::b)},
            {"the connector's ends are too sharp", "File them rounder, and fill all with relief mastic"}));
        return {};
    }
    const auto outer = cover_course(lay, z0, z1, wall);
    const double thinnest = outer.greatest_radius() - std::max(e.a.r.insulation, e.b.r.insulation);
    const BandEnd ends{0.4 * thinnest, 0.25 * thinnest, place::connector_cover};
    BandEnd start = ends, finish = ends;
    start.place.side = Side::a;
    finish.place.side = Side::b;
    lay.electrode(place::connector_cover, lay.u0_kV,
                  band_outline(lay.lying.between(z0, z1), outer, start, finish), "conductive tube",
                  "semiconductor");
    lay.last_part().kit_piece = true;
    lay.cover_rounded(outer, ends.outer_radius_mm, ends.outer_radius_mm);
    if (v.is("cover_ends", "mastic"))
        if (auto ok = lay_cover_mastic(lay, v, e, z0, z1); !ok) return ok;
    lay.out.checks.push_back(checks::electrode_edge(
        CheckKind::connector_cover, "Stress at the ends of the conductive tube", edges_of({start, finish}),
        {"the conductive tube ends too sharply",
         "Use a thicker tube, or cover its ends with relief mastic"}));
    return {};
}

/// The field-bearing edges and the insulation of one side.
void add_side_checks(LayUp& lay, const ParameterValues& v, const CableEnd& end, bool edge_is_covered) {
    auto& checks = lay.out.checks;
    const double mastic = v.is("relief_mastic", "present") ? v("mastic_on_insulation_mm") : 0,
                 insulation_end = end.insulation - end.pencil_mm, live = insulation_end - v("cover_lap_mm");
    // One long tube grades up to the cover; two end on the insulation.
    auto zones = checks::zones_of(
        end, mastic,
        v.is("stress_tubes", "two") ? insulation_end - v("tube_short_mm") : checks::no_end_of_control, live);
    zones.control_to = std::min(zones.control_to, live);
    zones.edge_is_bare = !edge_is_covered;
    checks::add_insulation_surface(
        checks, end, zones,
        {"the equipotentials leave the insulation over too short a length of its surface",
         "Lengthen the insulation between screen edge and connector, or use more permittivity times wall"},
        {"the cover of the connector ends too sharply, or too near the screen",
         "Cover the connector's ends with more relief mastic, or lengthen the insulation"});
    if (!edge_is_covered)
        checks.push_back(
            checks::screen_edge(end, {"the edge of the screen is too sharp for the stress round it",
                                      "Round the edge more, or fill it with relief mastic"}));
    checks.push_back(checks::insulation_ratio(end, lay.cable_stress(end),
                                              "Round edges and connector more, and fill steps with mastic"));
}

} // namespace

void add_heat_shrink_joint_parameters(ParameterList& list) {
    list.joint_cuts(list.value_of("connector_length_mm", 5, 0.5), by_class(62, 5));
    list.screen_edge();
    list.relief_mastic("Left out, the tube spans the step and air stays under it");
    list.insulation_end(48);
    list.connector();
    list.group("Over the connector");
    list.choice("connector_cover", "Cover", "Two schools: high-permittivity mastic, or a conductive tube",
                {{"mastic", "relief mastic"}, {"tube", "conductive tube"}});
    list.length("cover_lap_mm", "Lap on the insulation", "", 1, 60, fixed(8));
    list.length("cover_thickness_mm", "Thickness", "Over the larger of connector and insulation", 0.6, 20,
                fixed(2));
    list.choice("cover_ends", "Ends of a conductive tube", "Bare ends leave a pocket of air beside them",
                {{"mastic", "relief mastic"}, {"bare", "bare"}});
    list.length("cover_mastic_mm", "Mastic over its ends", "To either side of the end (chosen)", 2, 60,
                fixed(10));

    list.group("Stress tube");
    list.choice("stress_tubes", "Tubes",
                "One long tube, one a side that ends on the insulation, or one in which stress control, "
                "insulation and outer conductor are one piece",
                {{"one", "one, screen to screen"},
                 {"two", "two, one a side"},
                 {"three_layer", "one tube of three layers"}});
    list.length("tube_lap_mm", "Lap on the screen", "", 2, 300, fixed(30));
    list.length("tube_short_mm", "Short of the insulation end",
                "About 5 mm (common practice), with two tubes", 0, 300, fixed(5));
    list.shrink_tube("tube", "stress tube", of_layer("jacket", 1.25), of_smaller_layer("insulation", 0.62),
                     fixed(2.8));
    list.conduction("tube");
    list.graded_layer_aid("tube");

    list.group("Insulating tube");
    list.length("insulating_lap_mm", "Past the screen edge", "", -40, 300, fixed(12));
    list.shrink_tube("insulating", "insulating tube", of_layer("jacket", 1.35),
                     of_smaller_layer("insulation", 0.7), by_class(2.4, 0.16));
    list.group("Dual-wall tube");
    list.length("dual_lap_mm", "Past the screen edge", "Its conductive skin is the joint's screen", 5, 300,
                fixed(35));
    list.shrink_tube("dual", "dual-wall tube", of_layer("jacket", 1.5), of_smaller_layer("insulation", 0.8),
                     by_class(2.6, 0.16));
    list.recovery();
}

namespace {

Result<void> lay_edge_mastic(LayUp& lay, const ParameterValues& v, const Ends& e, bool edge_of_b_is_covered) {
    const bool mastic = v.is("relief_mastic", "present");
    const double lap = v("tube_lap_mm");
    for (const auto* end : {&e.a, &e.b}) {
        const bool b = end == &e.b;
        if (lap > end->screen - end->metallic)
            return refuse("Stress tube", "its lap reaches the metallic screen" + end->tag(),
                          "Shorten the lap or cut the metallic screen further back");
        if (!mastic || (b && edge_of_b_is_covered)) continue;
        if (v("mastic_on_screen_mm") > lap)
            return refuse("Relief mastic", "it reaches further onto the screen than the stress tube",
                          "Shorten the mastic or lengthen the tube's lap");
        if (end->screen + v("mastic_on_insulation_mm") > end->insulation - end->pencil_mm - v("cover_lap_mm"))
            return refuse("Relief mastic", "it reaches the cover of the connector" + end->tag(),
                          "Shorten the mastic");
        lay.marked_mastic(*end, b, v("mastic_on_screen_mm"), v("mastic_on_insulation_mm"),
                          v("mastic_thickness_mm"));
    }
    return {};
}

/// One tube from screen to screen, or two that end short of the insulation ends.
Result<void> lay_stress_tubes(LayUp& lay, const ParameterValues& v, const Ends& e, bool three_layer) {
    const double z0 = e.a.screen - v("tube_lap_mm"), z1 = -e.b.screen + v("tube_lap_mm");
    LayUp::Tube tube{.place = place::stress_tube,
                     .material = "stress tube",
                     .label = "stress tube",
                     .hatch = "grading",
                     .prefix = "tube",
                     .tube = v.tube("tube"),
                     .z0 = z0,
                     .z1 = z1,
                     .item = three_layer ? "Three-layer tube" : "Stress tube",
                     .under = place::air_under_tube,
                     .integral = three_layer};
    if (v.is("stress_tubes", "two")) {
        const double reach_a = e.a.insulation - e.a.pencil_mm - v("tube_short_mm"),
                     reach_b = e.b.insulation - e.b.pencil_mm - v("tube_short_mm");
        if (reach_a < e.a.screen + 2 || reach_b < e.b.screen + 2)
            return refuse("Stress tube", "it does not reach past the screen edge",
                          "End it less short of the insulation end");
        for (const bool b : {false, true}) {
            auto one = tube;
            const auto side = b ? Side::b : Side::a;
            one.place.side = one.under.side = side;
            one.label += tag_of(side);
            (b ? one.z0 : one.z1) = b ? -reach_b : reach_a;
            if (auto laid = lay.shrink(one); !laid) return tl::unexpected(laid.error());
            lay.mark(MarkKind::tube_end, place::stress_tube_end.on(side), b ? reach_b : -reach_a,
                     "tube_short_mm", b ? -1 : 1);
        }
    } else if (auto laid = lay.shrink(tube); !laid) {
        return tl::unexpected(laid.error());
    }
    lay.mark(MarkKind::tube_end, place::stress_tube_lower_end.on(Side::a), -z0, "tube_lap_mm");
    lay.mark(MarkKind::tube_end, place::stress_tube_lower_end.on(Side::b), -z1, "tube_lap_mm", -1);
    return {};
}

/// A tube that ends `past` both screen edges; its ends are marks where the tube has an end of its own.
Result<LayUp::Laid> lay_over_both(LayUp& lay, const Ends& e, const LayUp::Tube& tube, double past,
                                  std::optional<PlaceId> end_mark, const char* key) {
    auto between = tube;
    between.z0 = e.a.screen - past, between.z1 = -e.b.screen + past;
    auto laid = lay.shrink(between);
    if (laid && end_mark)
        for (const bool b : {false, true})
            lay.mark(MarkKind::tube_end, end_mark->on(b ? Side::b : Side::a),
                     b ? e.b.screen - past : past - e.a.screen, key, b ? -1 : 1);
    return laid;
}

} // namespace

Result<BuiltAccessory> build_heat_shrink_joint(const DesignContext& context,
                                               const HeatShrinkJointSteps& steps) {
    LayUp lay(context);
    const ParameterValues v(context);
    lay.wall_share = v.wall_share();
    Ends e{v.joint_end(CableSide::a), v.joint_end(CableSide::b)};
    if (steps.prepare_b) steps.prepare_b(v, e.b);
    if (auto ok = lay.joint(e.a, e.b, v.connector()); !ok) return tl::unexpected(ok.error());
    lay.material("relief mastic", v("mastic_eps_r"));
    lay.material("stress tube", v("tube_eps_r"), v.conduction("tube"));
    lay.material("insulating tube", v("insulating_eps_r"));
    lay.material("dual-wall tube", v("dual_eps_r"));
    if (auto ok = cover_connector(lay, v, e); !ok) return tl::unexpected(ok.error());
    if (steps.before_tubes)
        if (auto ok = steps.before_tubes(lay, v, e.a, e.b); !ok) return tl::unexpected(ok.error());
    if (auto ok = lay_edge_mastic(lay, v, e, steps.edge_of_b_is_covered); !ok)
        return tl::unexpected(ok.error());
    const bool three = v.is("stress_tubes", "three_layer"); // its layers end together
    if (auto ok = lay_stress_tubes(lay, v, e, three); !ok) return tl::unexpected(ok.error());
    const auto interface = lay.lying.between(e.a.screen + 1, -e.b.screen - 1);

    const double lap = v("tube_lap_mm"), outer = three ? lap : v("dual_lap_mm");
    const auto own_end = [&](PlaceId end) { return three ? std::nullopt : std::optional(end); };
    const auto insulating = lay_over_both(lay, e,
                                          {.place = place::insulating_tube,
                                           .material = "insulating tube",
                                           .label = "insulating tube",
                                           .hatch = "sleeve",
                                           .prefix = "insulating",
                                           .tube = v.tube("insulating"),
                                           .item = three ? "Three-layer tube" : "Insulating tube",
                                           .under = place::air_under_insulating_tube,
                                           .integral = three,
                                           .fused = three},
                                          three ? lap : v("insulating_lap_mm"),
                                          own_end(place::insulating_tube_end), "insulating_lap_mm");
    if (!insulating) return tl::unexpected(insulating.error());
    const auto dual = lay_over_both(lay, e,
                                    {.place = place::dual_wall_tube,
                                     .material = "dual-wall tube",
                                     .label = three ? "three-layer tube" : "dual-wall tube",
                                     .hatch = "sleeve",
                                     .prefix = "dual",
                                     .tube = v.tube("dual"),
                                     .item = three ? "Three-layer tube" : "Dual-wall tube",
                                     .under = place::air_under_dual_wall_tube,
                                     .control = three,
                                     .fused = three},
                                    outer, own_end(place::dual_wall_tube_end), "dual_lap_mm");
    if (!dual) return tl::unexpected(dual.error());
    lay.joint_screen(std::min(e.a.metallic - 15, e.a.screen - outer),
                     -std::min(e.b.metallic - 15, e.b.screen - outer));

    const auto bore = insulating->under.between(interface.points().front().z, interface.points().back().z);
    lay.path(place::insulating_tube_inside, lay.clear_of_corners(bore).points(), place::insulating_tube);
    lay.out.checks.push_back(checks::interface_tangential(
        CheckKind::tube_interface, "Tangential stress between stress tube and insulating tube",
        place::insulating_tube_inside,
        {"the potential falls over too short a length along the tube",
         "Lengthen the insulation between screen edge and connector"}));
    add_side_checks(lay, v, e.a, false);
    add_side_checks(lay, v, e.b, steps.edge_of_b_is_covered);
    for (const auto& check : steps.more_checks) lay.out.checks.push_back(check);
    const double r = e.a.r.insulation;
    lay.out.estimates = {{{CheckKind::insulation_ratio, Side::a}, 1.0, "undisturbed cable"},
                         {{CheckKind::insulation_ratio, Side::b}, 1.0, "undisturbed cable"}};
    lay.out.derived["stress tube wall on insulation A (mm)"] =
        closedform::recovered_outer_radius_mm(v.tube("tube"), r) - r;
    lay.out.derived["insulation over the middle (mm)"] =
        dual->outer.radius(0) - std::max(v("connector_diameter_mm") / 2, r);
    if (context.cable.cores == 3)
        lay.out.statements.push_back("Three cores: the section is one core with its own screen; the other "
                                     "cores and the outer sleeve carry no field.");
    if (steps.at_end)
        if (auto ok = steps.at_end(lay, v, e.a, e.b); !ok) return tl::unexpected(ok.error());
    return lay.finish(e.a.metallic - 60, -e.b.metallic + 60, lay.lying.greatest_radius() * 1.12);
}

NEEDLEGAUGE_FAMILY(heat_shrink_joint, 60) {
    Family f;
    f.id = "heat_shrink_joint";
    f.title = "Heat-shrink joint";
    f.two_cables = true;
    f.usual_standard = "ieee404";
    ParameterList list(f);
    add_heat_shrink_joint_parameters(list);
    f.build = [](const DesignContext& c) { return build_heat_shrink_joint(c); };
    return f;
}

} // namespace ng
