// Plain termination: one sleeve over the cut-back, with relief mastic in the step and no stress control.
#include "accessory/checks.h"
#include "accessory/termination.h"

namespace ng {
namespace {

Result<BuiltAccessory> build(const DesignContext& c) {
    Termination t(c);
    auto& lay = t.lay;
    const auto& v = t.value;
    // Cable and lug, with their cuts as marks; what lies outermost ends here.
    if (auto ok = t.begin(v("sleeve_lower_end_mm")); !ok) return tl::unexpected(ok.error());
    if (v("sleeve_lower_end_mm") <= v("jacket_cut_mm"))
        return refuse("Sleeve", "its lower end does not reach the jacket", "Let it lap onto the jacket");
    if (v("sleeve_upper_end_mm") >= v("lug_barrel_depth_mm"))
        return refuse("Sleeve", "its upper end does not reach the lug barrel", "Let it lap onto the lug");
    const double lower = t.z_of(v("sleeve_lower_end_mm")), upper = t.z_of(v("sleeve_upper_end_mm"));

    // Part over part, from the cable outwards.
    lay.material("relief mastic", v("mastic_eps_r"));
    lay.material("sealant", lay.eps_of("sealant"));
    lay.material("sleeve", v("sleeve_eps_r"), {}, "anti-tracking sleeve");
    const bool mastic = v.is("relief_mastic", "present");
    if (mastic)
        lay.marked_mastic(t.end, false, v("mastic_on_screen_mm"), v("mastic_on_insulation_mm"),
                          v("mastic_thickness_mm"), t.from_cable_end(0));
    const auto under = lay.lying.between(lower, upper).spanned();
    lay.region(place::metallic_screen_sealant, "sealant",
               under.between(lower, t.end.metallic + 8).down_to(lay.inner_mm()), "sealant", "sealant");
    lay.region(place::lug_sealant, "sealant",
               under.between(t.end.insulation - 3, upper).down_to(lay.inner_mm()), "sealant", "sealant");
    const auto sleeve = lay.shrink({.place = place::sleeve,
                                    .material = "sleeve",
                                    .label = "sleeve",
                                    .hatch = "sleeve",
                                    .prefix = "sleeve",
                                    .tube = v.tube("sleeve"),
                                    .z0 = lower,
                                    .z1 = upper,
                                    .item = "Sleeve",
                                    .kind = FitItem::Kind::shrink,
                                    .under = place::air_under_sleeve});
    if (!sleeve) return tl::unexpected(sleeve.error());
    const auto surface = sleeve->outer.points();
    if (auto ok = t.surround(surface, place::sleeve_surface); !ok) return tl::unexpected(ok.error());
    lay.mark(MarkKind::tube_end, place::sleeve_lower_end, v("sleeve_lower_end_mm"), "sleeve_lower_end_mm");
    lay.mark(MarkKind::tube_end, place::sleeve_upper_end, v("sleeve_upper_end_mm"), "sleeve_upper_end_mm");

    // What the field is asked.
    auto& checks = lay.out.checks;
    checks::add_insulation_surface(
        checks, t.end, t.zones(0),
        {"nothing spreads the field beyond the screen edge", "Use a family with stress control"},
        checks::towards_lug);
    checks.push_back(checks::screen_edge(
        t.end, {"the edge of the screen is too sharp for the stress round it", "Round the edge more"}));
    for (auto& check : checks::surface_in_air(
             CheckKind::sleeve_tangential, "sleeve", place::sleeve_surface,
             {"the field along the sleeve can start discharges in the air", "Use a thicker sleeve"},
             "Use a thicker sleeve"))
        checks.push_back(std::move(check));
    lay.out.statements.push_back("There is no stress control: for voltages that need none.");
    return t.finish(surface);
}

} // namespace

NEEDLEGAUGE_FAMILY(plain_termination, 500) {
    Family f;
    f.id = "plain_termination";
    f.title = "Plain termination";
    f.usual_standard = "ieee48";
    ParameterList list(f);
    list.termination_cuts(list.value_of("lug_barrel_depth_mm", 3), insulation_in_air());
    list.screen_edge();
    list.relief_mastic("Left out, the sleeve spans the step and air stays under it");
    list.group("Sleeve");
    list.length("sleeve_upper_end_mm", "Upper end, from cable end", "On the lug barrel", 0, 3000,
                list.value_of("lug_barrel_depth_mm", 0, 0.4));
    list.length("sleeve_lower_end_mm", "Lower end, from cable end", "On the jacket", 20, 3500,
                list.value_of("jacket_cut_mm", 40));
    list.shrink_tube("sleeve", "anti-tracking sleeve", of_layer("jacket", 1.7), of_layer("conductor", 0.7),
                     fixed(3));
    list.recovery();
    list.lug(true);
    f.build = build;
    return f;
}

} // namespace ng
