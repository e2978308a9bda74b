// Live end cap (pot end): an insulating rod with an applied screen is butted to the conductor; a stress tube
// lies equally on both screens, insulating tubes and an earthed skin go over all. z = 0 at the butt; the
// cable lies at negative z, the rod at positive z.
#include "accessory/checks.h"
#include "accessory/lay_up.h"
#include "accessory/parameters.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace ng {
namespace {

constexpr double end_padding_mm = 3; // tape over the conductor's face (chosen)
const PlaceId padding_crest = place::padded_end.part(EdgePart::inner);
/// Tape rises from the conductor screen to the padded end's diameter at this angle to the axis (chosen).
const double padding_slope = std::numbers::pi / 6;
/// The crest of that rise: the tape's radius there, of the padded end's.
constexpr double crest_radius_share = 0.9;

/// Widest padding, of the rod's diameter: the rod keeps a wall (chosen).
constexpr double widest_padding = 0.8;

/// How padding rises from the conductor screen: a cone, then a rounded crest onto the cylinder; a rise lower
/// than the crest is its arc alone.
struct PaddingRise {
    double crest_mm, angle_rad, length_mm;
    PaddingRise(double from_mm, double to_mm)
        : crest_mm(crest_radius_share * to_mm),
          angle_rad(std::min(padding_slope, std::acos(1 - std::min(1.0, (to_mm - from_mm) / crest_mm)))),
          length_mm((to_mm - from_mm - crest_mm * (1 - std::cos(angle_rad))) / std::tan(angle_rad) +
                    crest_mm * std::sin(angle_rad)) {}
};

constexpr double butt_ramp_per_step = 4; // length of the mastic over the butt, of the step there (chosen)
/// Radius of a rod that bears its impulse at the end of a conductor padded to 0.55 of it, mm per kV peak: the
/// impulse stress there is about 1.95 (1 - s) U / (r ln(R/r)), s = 0.6 of the voltage standing on the stress
/// tube; below 20 kV/mm (fitted to solved caps of 15 to 46 kV).
constexpr double rod_radius_per_kV = 0.125, padded_share = 0.55;
constexpr double least_thickening = 1.05; // less is not worth a step
constexpr double level_mm = 0.01;         // padding that is no wider than this lies level with the screen

/// Whether padding of this radius is wider than the conductor screen that it begins on.
bool is_wider(double padded_mm, double screen_mm) {
    return padded_mm > screen_mm + level_mm;
}

/// As thick as the insulation, and thicker where a padded end within that is too thin for the impulse.
double usual_rod_diameter_mm(const DesignContext& c) {
    const double cable = 2 * c.dimensions.radius_mm("insulation");
    if (choice_of(c, "end_school") != "bore") return cable;
    const double needed = 2 * rod_radius_per_kV * usual_impulse_kV(c.design.duty.class_kV);
    return c.dimensions.radius_mm("conductor screen") >= padded_share * needed / 2 ||
                   needed < least_thickening * cable
               ? cable
               : std::ceil(needed);
}

/// Over the conductor screen, and wider where the rod is thick beside it.
double usual_padded_diameter_mm(const DesignContext& c) {
    return std::max(2 * c.dimensions.radius_mm("conductor screen"),
                    padded_share * number_of(c, "rod_diameter_mm"));
}

/// Bore of a tube that goes over the rod, its screen and the mastic on it, with room to spare.
double over_rod_mm(const DesignContext& c) {
    constexpr double room_mm = 3;
    const double screen = c.dimensions.radius_mm("insulation screen") - c.dimensions.radius_mm("insulation");
    return number_of(c, "rod_diameter_mm") + 2 * (screen + number_of(c, "mastic_thickness_mm")) + room_mm;
}

/// The rod as a cable end without a conductor, in its mirrored frame.
CableEnd rod_end(const CableEnd& cable, const ParameterValues& v) {
    CableEnd rod = cable;
    rod.side = Side::rod;
    rod.screen = -v("rod_screen_edge_mm");
    rod.far = -v("rod_length_mm");
    rod.edge.screen_S_per_m.reset();
    rod.r.screen += v("rod_diameter_mm") / 2 - rod.r.insulation;
    rod.r.insulation = v("rod_diameter_mm") / 2;
    return rod;
}

/// The cap as it is laid up, step by step.
class Cap {
  public:
    explicit Cap(const DesignContext& c)
        : lay(c), v(c), end(v.body_end()), in_bore(v.is("end_school", "bore")),
          face(in_bore ? -v("bore_depth_mm") : 0) {
        lay.wall_share = v.wall_share();
        end.insulation = face;
        end.conductor = 0;
        if (!in_bore) end.flush_end_radius_mm = v("conductor_end_radius_mm");
        rod = rod_end(end, v);
        length = -rod.far;
    }
    Result<BuiltAccessory> build();

  private:
    LayUp lay;
    const ParameterValues v;
    CableEnd end, rod;
    /// Two schools: the bared conductor goes into the rod's bore, padded to a smooth electrode; or all is cut
    /// flush.
    bool in_bore;
    double face;       ///< z of the rod's end
    double length = 0; ///< z of its far end

    double padded_radius() const { return v("padded_diameter_mm") / 2; }
    /// Whether the padding is wider than the conductor screen that it begins on.
    bool is_widened() const { return in_bore && is_wider(padded_radius(), end.r.conductor_screen); }
    /// Length of the mastic that leads from the insulation onto a thicker rod; 0: no step.
    double ramp_mm() const {
        const double step = rod.r.insulation - end.r.insulation;
        return step > 0.05 ? butt_ramp_per_step * step : 0;
    }
    Result<void> check() const;
    void lay_rod();
    void lay_padded_end();
    void mark_cuts();
    Result<void> lay_mastic(double lap);
    Result<void> lay_tubes();
    void ask();
    void ask_of_butt();
};

Result<void> Cap::check() const {
    if (auto ok = end.check(); !ok) return ok;
    const double padded = padded_radius();
    if (in_bore && padded < end.r.conductor_screen - 1e-6)
        return refuse("Padded end",
                      fmt::format("{} across is less than the conductor screen, {}",
                                  format_length(2 * padded, LengthUnit::mm),
                                  format_length(2 * end.r.conductor_screen, LengthUnit::mm)),
                      "Give it the conductor screen's diameter or more");
    if (is_widened() && padded > widest_padding * rod.r.insulation + 1e-6)
        return refuse("Padded end",
                      fmt::format("{} across leaves the rod too thin a wall within {}",
                                  format_length(2 * padded, LengthUnit::mm),
                                  format_length(2 * rod.r.insulation, LengthUnit::mm)),
                      "Pad to a smaller diameter");
    if (is_widened() && PaddingRise(end.r.conductor_screen, padded).length_mm > -face)
        return refuse("Depth of the bore", "the padding does not rise to its diameter within it",
                      "Bare the conductor further, or pad to a smaller diameter");
    if (v("conductor_end_radius_mm") > (in_bore ? 0.97 * padded : 0.9 * end.r.conductor))
        return refuse("Conductor end radius", "it does not fit the conductor", "Give a smaller radius");
    if (rod.r.insulation < end.r.insulation - 1e-6)
        return refuse("Rod",
                      fmt::format("{} across is less than the insulation, {}",
                                  format_length(2 * rod.r.insulation, LengthUnit::mm),
                                  format_length(2 * end.r.insulation, LengthUnit::mm)),
                      "Use a thicker rod");
    if (face - ramp_mm() < end.screen + v("mastic_on_insulation_mm") + 1)
        return refuse("Rod", "the mastic over the step at the butt reaches that of the screen edge",
                      "Use a thinner rod, or cut the screen further back");
    if (rod.screen < rod.far + 15)
        return refuse("Rod", "its screen leaves it less than 15 mm of length", "Use a longer rod");
    return {};
}

void Cap::lay_padded_end() {
    // The rounding begins beyond the conductor's face: its edge lies in the tape.
    const double end_radius = v("conductor_end_radius_mm"), r0 = end.r.conductor_screen, r = padded_radius(),
                 tip = std::max(end_padding_mm, end_radius + 0.5);
    Outline tape;
    tape.start = {0, face};
    tape.line_to({r0, face});
    if (is_widened()) {
        const PaddingRise rise(r0, r);
        const Point centre{r - rise.crest_mm, face + rise.length_mm};
        const Point begins{centre.r + rise.crest_mm * std::cos(rise.angle_rad),
                           centre.z - rise.crest_mm * std::sin(rise.angle_rad)};
        if (begins.z > face + 1e-6) tape.line_to(begins);
        tape.arc_to({r, centre.z}, centre, name_of(padding_crest));
    }
    tape.line_to({r, tip - end_radius});
    tape.arc_to({r - end_radius, tip}, {r - end_radius, tip - end_radius}, name_of(place::conductor_end));
    tape.line_to({0, tip});
    lay.electrode(place::padded_end, lay.u0_kV, std::move(tape), "semiconductive tape", "semiconductor");
}

void Cap::lay_rod() {
    const double radius = rod.r.insulation;
    lay.material("rod", v("rod_eps_r"), {}, "insulating rod");
    lay.region(place::rod, "rod",
               Outline::polygon({{0, face}, {radius, face}, {radius, length}, {0, length}}), "insulating rod",
               "insulation");
    lay.last_part().kit_piece = true;
    if (in_bore) lay_padded_end();
    lay.electrode(place::rod_screen, 0, mirrored(rod.screen_outline()), "applied screen", "semiconductor");
    auto points = end.profile().points();
    std::erase_if(points, [&](Point p) { return p.z >= face; });
    for (const Point p : {Point{end.r.insulation, face},
                          {radius, face},
                          {radius, -rod.screen},
                          {rod.r.screen, -rod.screen},
                          {rod.r.screen, length}})
        if (points.empty() || p != points.back()) points.push_back(p);
    lay.lying = Profile(points);
}

void Cap::mark_cuts() {
    lay.out.datum = lay.out.zero = place::cable_end;
    lay.mark(MarkKind::cable_end, place::cable_end, 0);
    if (in_bore) lay.mark(MarkKind::insulation_end, place::insulation_end, -face, "bore_depth_mm");
    lay.out.control_length_mm = -end.screen - rod.screen;
    lay.mark(MarkKind::screen_edge, place::screen_edge, -end.screen, "screen_edge_mm");
    lay.mark(MarkKind::metallic_cut, place::metallic_cut, -end.metallic, "metallic_cut_mm");
    lay.mark(MarkKind::jacket_cut, place::jacket_cut, -end.jacket, "jacket_cut_mm");
    lay.mark(MarkKind::rod_edge, place::screen_edge.on(Side::rod), rod.screen, "rod_screen_edge_mm", -1);
    lay.handle("screen_edge_mm", "screen edge", {end.r.screen, end.screen});
    lay.handle("rod_screen_edge_mm", "screen edge of the rod", {rod.r.screen, -rod.screen}, 0, 1);
}

Result<void> Cap::lay_mastic(double lap) {
    for (const bool is_rod : {false, true}) {
        const auto& one = is_rod ? rod : end;
        if (v("mastic_on_screen_mm") > lap || v("mastic_on_insulation_mm") > -one.screen - 1)
            return refuse("Relief mastic", "it reaches further than the tube or the butt", "Shorten it");
        lay.relief_mastic(one, is_rod, v("mastic_on_screen_mm"), v("mastic_on_insulation_mm"),
                          v("mastic_thickness_mm"));
    }
    return {};
}

Result<void> Cap::lay_tubes() {
    lay.material("relief mastic", v("mastic_eps_r"));
    lay.material("stress tube", v("tube_eps_r"), v.conduction("tube"));
    lay.material("insulating tube", v("insulating_eps_r"));
    const double lap = v("tube_lap_mm");
    if (lap > end.screen - end.metallic)
        return refuse("Stress tube", "its lap reaches the metallic screen",
                      "Shorten the lap or cut further back");
    if (lap > rod.screen - rod.far - 2)
        return refuse("Stress tube", "its lap is longer than the rod's screen",
                      "Shorten the lap or use a longer rod");
    if (ramp_mm() > 0)
        lay.fill(place::butt_mastic, "relief mastic",
                 Profile({{end.r.insulation, face - ramp_mm()}, {rod.r.insulation, face}}),
                 name_of(place::butt_mastic), "mastic");
    if (v.is("relief_mastic", "present"))
        if (auto ok = lay_mastic(lap); !ok) return ok;
    LayUp::Tube tube;
    tube.place = place::stress_tube;
    tube.material = tube.label = "stress tube";
    tube.hatch = "grading";
    tube.prefix = "tube";
    tube.tube = v.tube("tube");
    tube.z0 = end.screen - lap, tube.z1 = -rod.screen + lap;
    tube.item = "Stress tube";
    tube.under = place::air_under_tube;
    tube.under_material = "air", tube.under_label = "air pocket";
    if (auto ok = lay.shrink(tube); !ok) return tl::unexpected(ok.error());
    const int layers = static_cast<int>(std::lround(v("insulating_layers")));
    for (int i = 1; i <= layers; ++i) {
        const double more = 10.0 + 8 * i;
        LayUp::Tube over = tube;
        over.place = place::insulating_tube.number(i);
        over.material = "insulating tube";
        over.label = name_of(over.place);
        over.hatch = "sleeve";
        over.prefix = "insulating";
        over.tube = v.tube("insulating");
        over.z0 = end.screen - more, over.z1 = std::min(-rod.screen + more, length);
        over.item = "Insulating tube";
        over.under = place::air_under_insulating_tube.number(i);
        if (auto ok = lay.shrink(over); !ok) return tl::unexpected(ok.error());
    }
    lay.joint_screen(end.metallic - 15, length);
    return {};
}

void Cap::ask_of_butt() {
    const double radius = end.r.insulation;
    lay.path(place::butt, {{end.r.conductor_screen + 0.3, face}, {radius, face}}, place::rod);
    if (v.is("butt", "dry"))
        lay.out.checks.push_back(checks::enclosed_air(
            CheckKind::butt_air, "Stress along the dry butt at extinction voltage", place::butt,
            {"a film of air in the butt lies along the field of the cable",
             "Fill the butt with relief mastic"}));
    else
        lay.out.checks.push_back(
            checks::electrode_surface(CheckKind::butt, "Stress in the filled butt", place::butt,
                                      {"the butt lies along the field of the cable",
                                       "Use a cable accessory with less stress at its end"}));
}

void Cap::ask() {
    lay.path(place::rod_surface, {{rod.r.insulation, face + 0.5}, {rod.r.insulation, -rod.screen}},
             place::rod);
    checks::add_insulation_surface(
        lay.out.checks, end,
        checks::zones_of(end, v.is("relief_mastic", "present") ? v("mastic_on_insulation_mm") : 0,
                         checks::no_end_of_control, end.insulation),
        {"the screens are too near the butt for the field to spread",
         "Cut the screens further back on both sides"},
        {"the conductor's end crowds the field at the butt",
         "Round the conductor's end more, or cut the screens further back"});
    lay.out.checks.push_back(checks::interface_tangential(
        CheckKind::rod_tangential, "Tangential stress on the rod", place::rod_surface,
        {"the screen of the rod is too near the butt", "Begin the rod's screen further from the butt"}));
    ask_of_butt();
    lay.out.checks.push_back(
        checks::screen_edge(end, {"the edge of the screen is too sharp for the stress round it",
                                  "Round the edge more, or fill it with relief mastic"}));
    lay.out.checks.push_back(
        checks::screen_edge(rod, {"the edge of the rod's screen is too sharp",
                                  "Round the edge more, or fill it with relief mastic"}));
    lay.out.checks.back().id = CheckKind::rod_screen_edge;
    std::vector<PlaceId> rounded{place::conductor_end};
    if (is_widened()) rounded.push_back(padding_crest);
    lay.out.checks.push_back(checks::electrode_edge(
        CheckKind::conductor_end, "Stress at the end of the conductor", rounded,
        in_bore ? checks::Words{"the padded end is too thin or too sharp for the voltage",
                                "Pad it to a larger diameter, rounder, or lay one more insulating tube"}
                : checks::Words{"the conductor's end is too sharp",
                                "Round it with a file before the rod goes on"}));
    lay.out.estimates = {
        {CheckKind::conductor_end, lay.cable_stress(end), "undisturbed cable at the conductor screen"}};
}

Result<BuiltAccessory> Cap::build() {
    if (auto ok = check(); !ok) return tl::unexpected(ok.error());
    lay.cable_end(end);
    lay_rod();
    mark_cuts();
    if (auto ok = lay_tubes(); !ok) return tl::unexpected(ok.error());
    ask();
    lay.out.cautions.clear();
    auto out = lay.finish(end.metallic - 60, length + 15, lay.lying.greatest_radius() * 1.12);
    out.cautions.insert(out.cautions.begin() + 1,
                        "The capped end is live when the cable is energised: mark it, and treat it as live.");
    return out;
}

} // namespace

NEEDLEGAUGE_FAMILY(live_end_cap, 110) {
    Family f;
    f.id = "live_end_cap";
    f.title = "Live end cap";
    f.usual_standard = "ieee404";
    ParameterList list(f);
    list.body_cuts("cable end", fixed(5), by_class(55, 2.6));
    std::erase_if(f.parameters, [](const auto& p) { return p.key == "insulation_end_mm"; }); // cut flush
    for (auto& p : f.parameters)
        if (p.key == "screen_edge_mm") p.default_value = by_class(80, 2.6);
    list.choice("end_school", "Conductor's end",
                "Bared into the rod's bore and padded with semiconductive tape to a smooth round end, or cut "
                "flush with the insulation: two schools",
                {{"bore", "in the rod's bore"}, {"butt", "cut flush, butted"}});
    list.length("bore_depth_mm", "Depth of the bore", "Conductor bared into it; used with the bore", 5, 200,
                [](const DesignContext& c) {
                    const double from = c.dimensions.radius_mm("conductor screen"),
                                 to = number_of(c, "padded_diameter_mm") / 2;
                    const double rise =
                        is_wider(to, from) ? std::ceil(PaddingRise(from, to).length_mm) + 3 : 0;
                    return std::max(std::round(10 + c.dimensions.layer("conductor").diameter_mm), rise);
                });
    list.length("padded_diameter_mm", "Diameter of the padded end",
                "Semiconductive tape over the bared conductor, and the rod's bore; used with the bore", 4,
                150, usual_padded_diameter_mm);
    list.length("conductor_end_radius_mm", "Conductor end radius",
                "Of the padded end, or of the flush conductor filed round before the rod goes on", 0.05, 30,
                [](const DesignContext& c) {
                    return choice_of(c, "end_school") == "bore" ? 0.45 * number_of(c, "padded_diameter_mm")
                                                                : 1.5;
                });
    list.aid(AidRole::Kind::edge_radius, {{"radius", "conductor_end_radius_mm"}}, 1);
    list.screen_edge();
    list.relief_mastic("Left out, the tube spans the step and air stays under it");
    list.group("Rod");
    list.length(
        "rod_diameter_mm", "Diameter",
        "As the insulation; thicker where the impulse asks it of a thin conductor: mastic then leads onto it",
        4, 200, usual_rod_diameter_mm);
    list.length("rod_length_mm", "Length", "", 40, 1000, list.value_of("rod_screen_edge_mm", 70));
    list.length("rod_screen_edge_mm", "Screen begins at", "From the butt: by default as far as the cable's",
                10, 800, list.value_of("screen_edge_mm"));
    list.choice("butt", "Butt", "Its film lies along the field of the cable",
                {{"filled", "filled with relief mastic"}, {"dry", "dry"}});
    list.permittivity("rod_eps_r", "Permittivity", "insulating rod");
    list.group("Stress tube");
    list.length("tube_lap_mm", "Lap on both screens", "Equal on both (common practice)", 5, 300, fixed(30));
    list.shrink_tube(
        "tube", "stress tube",
        [](const DesignContext& c) { return std::max(of_layer("jacket", 1.3)(c), over_rod_mm(c)); },
        of_layer("insulation", 0.62), fixed(2.8));
    list.conduction("tube");
    list.graded_layer_aid("tube");
    list.group("Insulating tubes");
    list.number("insulating_layers", "Number", "One more above 6 kV and above 12 kV (chosen)", 1, 6,
                [](const DesignContext& c) {
                    const double kV = c.design.duty.class_kV;
                    return kV > 12 ? 5.0 : kV > 6 ? 4.0 : 3.0;
                });
    list.shrink_tube(
        "insulating", "insulating tube",
        [](const DesignContext& c) {
            const double beneath =
                2 * number_of(c, "insulating_layers") * number_of(c, "insulating_recovered_wall_mm");
            return std::max(of_layer("jacket", 2, 14)(c), over_rod_mm(c) + 0.8 * beneath);
        },
        of_layer("insulation", 0.75), by_class_beyond_15(4.6, 0.05, 0.16));
    list.recovery();
    f.build = [](const DesignContext& c) { return Cap(c).build(); };
    return f;
}

} // namespace ng
