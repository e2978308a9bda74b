// Taped splice of a portable cable: each layer is rebuilt by tape, and that is all. There is no graded
// screen.
#include "accessory/checks.h"
#include "accessory/taped.h"
#include <algorithm>

namespace ng {
namespace {

Result<BuiltAccessory> build_portable_splice(const DesignContext& c) {
    LayUp lay(c);
    const ParameterValues v(c);
    const auto a = v.joint_end(CableSide::a), b = v.joint_end(CableSide::b);
    if (auto ok = lay.joint(a, b, v.connector()); !ok) return tl::unexpected(ok.error());
    lay.material("insulating tape", v("tape_eps_r"));
    lay.material("jacket tape", v("jacket_tape_eps_r"));
    const double half = v("connector_length_mm") / 2;
    const double bare =
        2 * std::max({lay.lying.between(-half, half).greatest_radius(), a.r.insulation, b.r.insulation});
    const auto course =
        build_up_course(a, b, v("tape_stop_mm"), v("cone_length_mm"), bare + v("build_up_mm"), half);
    if (!course) return tl::unexpected(course.error());
    lay.fill(place::insulating_tape, "insulating tape", *course, "insulating tape", "tape");
    const double z0 = a.jacket - 30 + 5, z1 = -b.jacket + 30 - 5, cover = v("jacket_tape_mm");
    const auto under = lay.lying.between(z0, z1).spanned(0.35);
    const auto outer = under.grown([&](double r) { return r + cover; });
    lay.region(place::tape_in_steps, "insulating tape", under.down_to(lay.inner_mm()), "", "tape");
    lay.fill(place::jacket_tape, "jacket tape", outer, "jacket tape", "tape");
    const double earth = v("earth_distance_mm");
    if (earth < outer.greatest_radius() + 3)
        return refuse("Nearby earth", "it is inside, or within 3 mm of, the splice",
                      "Give the distance from the cable axis to the nearest earthed part");
    lay.region(place::air, "air",
               Outline::polygon({{0, a.far}, {earth, a.far}, {earth, -b.far}, {0, -b.far}}), "air", "air");
    lay.out.section.boundaries.push_back({"nearby earth", 0, {{earth, a.far}, {earth, -b.far}}});
    lay.path(place::splice_surface, outer.points(), place::air);
    for (const auto* end : {&a, &b}) {
        const double sign = end == &a ? 1 : -1, stops = end->screen + v("tape_stop_mm");
        lay.mark(MarkKind::tape_end, place::insulating_tape_stop.on(end->side), -sign * stops, "tape_stop_mm",
                 -sign);
        lay.mark(MarkKind::tape_end, place::taper_top.on(end->side), -sign * (stops + v("cone_length_mm")),
                 "cone_length_mm", -sign);
        checks::add_insulation_surface(
            lay.out.checks, *end, checks::zones_of(*end, 0, checks::no_end_of_control, end->insulation),
            {"no graded screen spreads the field here: the splice only rebuilds the layers",
             "Use a joint with stress control at this voltage"},
            {"nothing grades the field beside the connector",
             "Use a joint with stress control at this voltage"});
        lay.out.checks.push_back(
            checks::screen_edge(*end, {"nothing grades the field at the end of the screen",
                                       "Use a joint with stress control at this voltage"}));
        lay.out.checks.push_back(
            checks::insulation_ratio(*end, lay.cable_stress(*end), "Use a joint with stress control"));
    }
    for (auto& check : checks::surface_in_air(CheckKind::splice_tangential, "splice", place::splice_surface,
                                              {"the field leaves the splice into the air beside it",
                                               "Use a joint with stress control at this voltage"},
                                              "Use a joint with stress control at this voltage"))
        lay.out.checks.push_back(std::move(check));
    lay.out.statements = {
        "No graded screen is present. The splice rebuilds conductor, insulation and jacket; between the "
        "screen ends the "
        "field leaves the cable into tape and air, nothing spreads it, and the surface of the splice is not "
        "earthed: "
        "it can carry a voltage.",
        "For low-consequence portable cable and temporary service only, by the local rules."};
    lay.out.work_facts.insert(WorkFact::portable);
    lay.out.derived["build up to diameter (mm)"] = bare + v("build_up_mm");
    return lay.finish(a.metallic - 50, -b.metallic + 50, outer.greatest_radius() * 1.12);
}

} // namespace

NEEDLEGAUGE_FAMILY(portable_splice, 130) {
    Family f;
    f.id = "portable_splice";
    f.title = "Portable-cable taped splice";
    f.two_cables = true;
    f.usual_standard = "portable";
    ParameterList list(f);
    list.joint_cuts(list.value_of("connector_length_mm", 5, 0.5), by_class(95, 3));
    list.screen_edge("ring");
    list.connector();
    list.group("Tape");
    list.length("build_up_mm", "Build-up on the diameter", "Over the larger of connector and insulation", 2,
                200, by_class(5, 0.7));
    list.length("cone_length_mm", "Taper length", "Half-lapped, turned back at the taper", 5, 400, fixed(40));
    list.length("tape_stop_mm", "Stops short of the screen", "", 1, 100, fixed(8));
    list.aid(AidRole::Kind::tape_cone, {{"length", "cone_length_mm"}, {"stop", "tape_stop_mm"}});
    list.permittivity("tape_eps_r", "Permittivity", "insulating tape");
    list.group("Jacket tape");
    list.length("jacket_tape_mm", "Thickness", "Half-lapped, valley lay", 0.5, 30, by_class(0, 0.5));
    list.permittivity("jacket_tape_eps_r", "Permittivity", "jacket tape");
    list.length("earth_distance_mm", "Nearby earth, from the axis", "Nearest earthed part, taken all round",
                15, 2000, fixed(120));
    list.doubted(0.5);
    f.build = build_portable_splice;
    return f;
}

} // namespace ng
