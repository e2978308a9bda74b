// Heat-shrink termination: a high-permittivity stress tube over the end of the insulation screen, relief
// mastic in the step, an anti-tracking sleeve over all, from the jacket to the lug.
#include "accessory/checks.h"
#include "accessory/termination.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {

Result<void> check_order(const ParameterValues& v) {
    const double edge = v("screen_edge_mm"), lower = v("tube_lower_end_mm"), upper = v("tube_upper_end_mm");
    if (upper >= lower - 5)
        return refuse("Stress tube", "its upper end is not above its lower end",
                      "Give it a length of at least 5 mm");
    if (lower <= edge + 1)
        return refuse("Stress tube", "its lower end does not lie on the insulation screen",
                      "Let it lap onto the screen");
    if (lower > v("metallic_screen_cut_mm"))
        return refuse("Stress tube", "its lower end lies on the metallic screen",
                      "Let it end on the insulation screen");
    if (upper < v("insulation_removed_mm"))
        return refuse("Stress tube", "its upper end is beyond the insulation end",
                      "Shorten it to end on the insulation");
    if (v.is("relief_mastic", "present")) {
        if (v("mastic_on_insulation_mm") > edge - upper)
            return refuse("Relief mastic",
                          fmt::format("it reaches {} onto the insulation, the stress tube covers only {}",
                                      in_mm(v("mastic_on_insulation_mm")), in_mm(edge - upper)),
                          "Shorten the mastic or lengthen the tube");
        if (v("mastic_on_screen_mm") > lower - edge)
            return refuse("Relief mastic",
                          fmt::format("it reaches {} onto the screen, the stress tube covers only {}",
                                      in_mm(v("mastic_on_screen_mm")), in_mm(lower - edge)),
                          "Shorten the mastic or lengthen the tube");
    }
    if (v("sleeve_lower_end_mm") <= v("jacket_cut_mm"))
        return refuse("Anti-tracking sleeve", "its lower end does not reach the jacket",
                      "Let it lap onto the jacket");
    if (v("sleeve_upper_end_mm") >= v("lug_barrel_depth_mm"))
        return refuse("Anti-tracking sleeve", "its upper end does not reach the lug barrel",
                      "Let it lap onto the lug");
    return {};
}

void add_checks(Termination& t, double tube_past_edge, double grading_length, bool wedge) {
    std::string short_tube;
    if (tube_past_edge < 0.67 * closedform::useful_grading_lengths * grading_length)
        short_tube = fmt::format(
            "the stress tube reaches only {} past the screen edge, and needs about {} to spread the field",
            in_mm(tube_past_edge), in_mm(closedform::useful_grading_lengths * grading_length));
    const auto because = [&](const char* otherwise) {
        return short_tube.empty() ? std::string(otherwise) : short_tube;
    };
    auto& checks = t.lay.out.checks;
    checks::add_insulation_surface(
        checks, t.end, t.zones(tube_past_edge),
        {because("the equipotentials leave the insulation over too short a length of its surface"),
         "Lengthen the tube past the edge, or use a tube with more permittivity times wall"},
        checks::towards_lug);
    checks.push_back(checks::screen_edge(
        t.end, {"the edge of the screen is too sharp for the stress round it",
                "Round the edge more (file or chamfer it), or fill it with relief mastic"}));
    checks.push_back(checks::insulation_ratio(
        t.end, t.lay.cable_stress(t.end),
        "Round the screen edge more, or keep it covered with relief mastic and tube"));
    for (auto& check : checks::surface_in_air(
             CheckKind::sleeve_tangential, "sleeve", place::sleeve_surface,
             {because("the field along the outer surface can start discharges in the air beside it"),
              "Lengthen the tube or the insulation, or use a thicker sleeve"},
             "Lengthen the tube past the edge, use a thicker sleeve, or keep earth further away"))
        checks.push_back(std::move(check));
    if (wedge)
        checks.push_back(checks::enclosed_air(
            CheckKind::air_wedge, "Stress in the air wedge at the screen edge at extinction voltage",
            place::air_wedge,
            {"air is left under the tube at the screen edge, and the field in it is above inception",
             "Fill the step with relief mastic"}));
}

Result<BuiltAccessory> build_heat_shrink_end(const DesignContext& c) {
    Termination t(c);
    auto& lay = t.lay;
    const auto& v = t.value;
    if (auto ok = t.begin(v("sleeve_lower_end_mm")); !ok) return tl::unexpected(ok.error());
    if (auto ok = check_order(v); !ok) return tl::unexpected(ok.error());
    const auto& end = t.end;
    const double tube0 = t.z_of(v("tube_lower_end_mm")), tube1 = t.z_of(v("tube_upper_end_mm"));
    const double sleeve0 = t.z_of(v("sleeve_lower_end_mm")), sleeve1 = t.z_of(v("sleeve_upper_end_mm"));
    const bool mastic = v.is("relief_mastic", "present");
    lay.material("relief mastic", v("mastic_eps_r"));
    lay.material("sealant", lay.eps_of("sealant"));
    lay.material("stress tube", v("tube_eps_r"), v.conduction("tube"));
    lay.material("sleeve", v("sleeve_eps_r"), {}, "anti-tracking sleeve");

    if (mastic) {
        lay.marked_mastic(end, false, v("mastic_on_screen_mm"), v("mastic_on_insulation_mm"),
                          v("mastic_thickness_mm"), t.from_cable_end(0));
    }
    const auto laid = lay.shrink({.place = place::stress_tube,
                                  .material = "stress tube",
                                  .label = "stress tube",
                                  .hatch = "grading",
                                  .prefix = "tube",
                                  .tube = v.tube("tube"),
                                  .z0 = tube0,
                                  .z1 = tube1,
                                  .item = "Stress tube",
                                  .kind = FitItem::Kind::shrink,
                                  .under = place::air_under_tube,
                                  .under_material = "air",
                                  .under_label = "air wedge"});
    if (!laid) return tl::unexpected(laid.error());
    const auto under = lay.lying.between(sleeve0, sleeve1).spanned();
    auto sealant = [&](const PlaceId& place, double z0, double z1, const char* label) {
        lay.region(place, "sealant", under.between(z0, z1).down_to(lay.inner_mm()), label, "sealant");
    };
    if (v.is("tube_end", "filled")) {
        sealant(place::tube_heel_filler, std::max(tube0 - 8, end.metallic), tube0 + 1, "filler");
        sealant(place::tube_end_filler, tube1 - 1,
                std::min(end.insulation - 1, tube1 + bridge_length_per_height * 12), "filler");
    }
    sealant(place::metallic_screen_sealant, sleeve0, end.metallic + 8, "sealant");
    sealant(place::lug_sealant, end.insulation - 3, sleeve1, "sealant");
    const auto sleeve = lay.shrink({.place = place::sleeve,
                                    .material = "sleeve",
                                    .label = "anti-tracking sleeve",
                                    .hatch = "sleeve",
                                    .prefix = "sleeve",
                                    .tube = v.tube("sleeve"),
                                    .z0 = sleeve0,
                                    .z1 = sleeve1,
                                    .item = "Anti-tracking sleeve",
                                    .kind = FitItem::Kind::shrink,
                                    .under = place::air_under_sleeve,
                                    .under_material = "air",
                                    .under_label = "air pocket"});
    if (!sleeve) return tl::unexpected(sleeve.error());
    const auto surface = t.sheds(sleeve->outer, "sleeve", false);
    if (!surface) return tl::unexpected(surface.error());
    if (auto ok = t.surround(surface->points(), place::sleeve_surface); !ok)
        return tl::unexpected(ok.error());

    const bool wedge = !mastic && end.edge.kind != "chamfered";
    if (wedge) lay.path(place::air_wedge, checks::air_wedge(end), place::air_under_tube);
    lay.mark(MarkKind::tube_end, place::stress_tube_upper_end, v("tube_upper_end_mm"), "tube_upper_end_mm");
    lay.mark(MarkKind::tube_end, place::stress_tube_lower_end, v("tube_lower_end_mm"), "tube_lower_end_mm");
    lay.mark(MarkKind::tube_end, place::sleeve_lower_end, v("sleeve_lower_end_mm"), "sleeve_lower_end_mm");
    lay.mark(MarkKind::tube_end, place::sleeve_upper_end, v("sleeve_upper_end_mm"), "sleeve_upper_end_mm");
    lay.handle("tube_upper_end_mm", "stress tube, upper end", {laid->outer.points().back().r, tube1});
    lay.handle("tube_lower_end_mm", "stress tube, lower end", {laid->outer.points().front().r, tube0});

    const double wall =
        lay.wall_share *
        (closedform::recovered_outer_radius_mm(v.tube("tube"), end.r.insulation) - end.r.insulation);
    const closedform::GradedLayer layer{lay.u0_kV,
                                        end.r.conductor_screen,
                                        end.r.insulation,
                                        end.insulation_eps,
                                        wall,
                                        v("tube_eps_r"),
                                        tube1,
                                        v.is("tube_conduction", "none") ? 0.0 : v("tube_S_per_m"),
                                        c.design.duty.frequency_hz};
    lay.out.control_length_mm = tube1;
    add_checks(t, tube1, 1 / layer.beta_per_mm(), wedge);
    lay.out.estimates = {{CheckKind::insulation_tangential,
                          layer.tangential_kV_per_mm(t.zones(tube1).filled_to),
                          "thin graded layer: beta U cosh(beta (L - z)) / cosh(beta L) where the grading "
                          "begins, outer medium neglected"},
                         {CheckKind::insulation_ratio, 1.0, "undisturbed cable"}};
    auto& derived = lay.out.derived;
    derived["stress tube wall on insulation (mm)"] = wall;
    derived["stress tube wall on screen (mm)"] =
        laid->outer.points().front().r - laid->under.points().front().r;
    derived["sleeve wall on insulation (mm)"] =
        closedform::recovered_outer_radius_mm(v.tube("sleeve"), end.r.insulation) - end.r.insulation;
    derived["stress tube past the edge (mm)"] = tube1;
    derived["1 / beta of the graded layer (mm)"] = 1 / layer.beta_per_mm();
    return t.finish(surface->points());
}

} // namespace

NEEDLEGAUGE_FAMILY(heat_shrink_termination, 10) {
    Family f;
    f.id = "heat_shrink_termination";
    f.title = "Heat-shrink termination";
    f.usual_standard = "ieee48";
    ParameterList list(f);
    list.termination_cuts(list.value_of("lug_barrel_depth_mm", 3), insulation_in_air());
    list.screen_edge();
    list.relief_mastic("Left out, the tube spans the step and air stays under it");
    for (auto& p : f.parameters) // the sleeve in air feels the edge more than a joint's tubes do
        if (p.key == "mastic_thickness_mm") p.default_value = by_class_beyond_15(1.2, 0, 0.18);

    list.group("Stress tube");
    list.length("tube_upper_end_mm", "Upper end, from cable end", "Drag it in BUILD", 5, 3000,
                [](const DesignContext& c) {
                    const ParameterValues v(c);
                    return v("screen_edge_mm") - 0.62 * (v("screen_edge_mm") - v("insulation_removed_mm"));
                });
    list.length("tube_lower_end_mm", "Lower end, from cable end", "Drag it in BUILD", 5, 3000,
                list.value_of("screen_edge_mm", 30));
    list.shrink_tube("tube", "stress tube", of_layer("insulation screen", 1.5), of_layer("insulation", 0.6),
                     [](const DesignContext& c) { return c.design.duty.class_kV > 16 ? 3.0 : 2.6; });
    list.conduction("tube");
    list.graded_layer_aid("tube", {{"upper end", "tube_upper_end_mm"},
                                   {"least upper end", "insulation_removed_mm"},
                                   {"screen edge", "screen_edge_mm"}});
    list.choice("tube_end", "Step at its ends", "Void filler where the sleeve steps down",
                {{"filled", "filled"}, {"open", "left open"}});

    list.group("Anti-tracking sleeve");
    list.length("sleeve_upper_end_mm", "Upper end, from cable end", "On the lug barrel", 0, 3000,
                list.value_of("lug_barrel_depth_mm", 0, 0.4));
    list.length("sleeve_lower_end_mm", "Lower end, from cable end", "On the jacket or core tube", 20, 3500,
                list.value_of("jacket_cut_mm", 40));
    list.shrink_tube("sleeve", "anti-tracking sleeve", of_layer("jacket", 1.7), of_layer("conductor", 0.7),
                     by_class_beyond_15(3.4, 0, 0.1));
    list.recovery();
    add_shed_parameters(list, "insulation_removed_mm", 30);
    list.lug(true);
    f.build = build_heat_shrink_end;
    return f;
}

} // namespace ng
