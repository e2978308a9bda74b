#include "accessory/screened_body.h"
#include "accessory/checks.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr double least_cover_mm = 2; // rubber over the inner electrode

/// One entrance of the body: its cable end, the cone over its edge; side B in its mirrored frame.
struct Entrance {
    CableEnd end;
    bool is_mirrored;
    double cone_start; ///< z of the flare's start, in the end's frame
};

class Builder {
  public:
    Builder(LayUp& lay, const ParameterValues& v, const ScreenedBody& body) : lay_(lay), v_(v), body_(body) {}

    /// `electrode_z1`: end of the inner electrode; with one entrance it runs out of the section.
    Result<void> build(const std::vector<Entrance>& entrances, double electrode_z0, double electrode_z1,
                       double body_z0, double body_z1);

  private:
    Result<void> inner_electrode(const std::vector<Entrance>& entrances, double z0, double z1);
    Result<void> mastic(const std::vector<Entrance>& entrances);
    Result<void> cone(const Entrance& entrance, const LayUp::Laid& body, double electrode_end);
    void checks_of(const Entrance& entrance, bool edge_stands_out, double electrode_end);

    LayUp& lay_;
    const ParameterValues& v_;
    const ScreenedBody& body_;
};

Result<void> Builder::inner_electrode(const std::vector<Entrance>& entrances, double z0, double z1) {
    const bool two = entrances.size() == 2;
    double insulation = 0;
    for (const auto& entrance : entrances) {
        insulation = std::max(insulation, entrance.end.r.insulation);
        const double reach = entrance.is_mirrored ? -z1 : z0,
                     end = entrance.end.insulation - entrance.end.pencil_mm;
        if (reach > end - 2)
            return refuse("Inner electrode", "it does not lap onto the insulation" + entrance.end.tag(),
                          "Use a longer electrode, remove less insulation, or centre the body");
        if (reach < entrance.end.screen + 5)
            return refuse("Inner electrode", "it comes within 5 mm of the screen edge" + entrance.end.tag(),
                          "Cut the screen further back, or centre the body");
    }
    const auto inner = lay_.lying.between(z0, z1);
    const double radius = inner.greatest_radius() + v_("electrode_wall_mm");
    const double thinnest = radius - insulation;
    const double outer_radius = v_("electrode_end_radius_mm");
    if (outer_radius > 0.85 * thinnest)
        return refuse("Inner electrode", "its end radius does not fit its wall",
                      "Give a smaller radius or a thicker wall");
    const double inner_radius = 0.9 * (thinnest - outer_radius); // nearly a half round
    const Profile outer({{radius, z0}, {radius, z1}});
    BandEnd start{outer_radius, inner_radius, place::inner_electrode.on(two ? Side::a : Side::none)};
    BandEnd finish{outer_radius, inner_radius, place::inner_electrode.on(Side::b)};
    if (!two) finish = {};
    lay_.electrode(place::inner_electrode, lay_.u0_kV, band_outline(inner, outer, start, finish),
                   "inner electrode", "semiconductor");
    lay_.last_part().moulded = true;
    lay_.cover_rounded(outer, outer_radius, two ? outer_radius : 0);
    const auto edges = two ? edges_of({start, finish}) : edges_of({start});
    lay_.out.checks.push_back(
        checks::electrode_edge(CheckKind::inner_electrode, "Stress at the ends of the inner electrode", edges,
                               {"the inner electrode ends too sharply for the rubber over it",
                                "Round its ends more, or use a body with more wall"}));
    return {};
}

Result<void> Builder::mastic(const std::vector<Entrance>& entrances) {
    lay_.material("relief mastic", v_("mastic_eps_r"));
    const double on_screen = v_("mastic_on_screen_mm"), on_insulation = v_("mastic_on_insulation_mm");
    for (const auto& [end, is_mirrored, cone_start] : entrances) {
        if (end.screen - on_screen < end.metallic)
            return refuse("Relief mastic" + end.tag(), "it reaches the metallic screen", "Shorten it");
        if (end.screen + on_insulation > end.insulation - end.pencil_mm - 1)
            return refuse("Relief mastic" + end.tag(), "it reaches the insulation end", "Shorten it");
        lay_.marked_mastic(end, is_mirrored, on_screen, on_insulation, v_("mastic_thickness_mm"));
    }
    return {};
}

Result<void> Builder::cone(const Entrance& entrance, const LayUp::Laid& body, double electrode_end) {
    const auto& outer = body.outer;
    const auto& end = entrance.end;
    const double base = entrance.cone_start - v_("cone_overlap_mm");
    const auto place = [&](double z) { return entrance.is_mirrored ? -z : z; };
    auto shape = v_.cone();
    const double flare_end = entrance.cone_start + shape.length_mm;
    if (base > end.screen - 1)
        return refuse("Cone" + end.tag(), "it does not lap onto the insulation screen: it is not earthed",
                      "Lengthen its lap, or centre the body");
    if (base < end.metallic)
        return refuse("Cone" + end.tag(), "its lap reaches the metallic screen",
                      "Shorten the lap, or cut the metallic screen further back");
    const auto skin = entrance.is_mirrored ? mirrored(outer.points()) : outer.points();
    if (base < skin.front().z + 1)
        return refuse("Body end" + end.tag(), "the body ends before the lap of its cone does",
                      "Give a longer body, a shorter lap, or centre the body");
    if (flare_end > electrode_end - 2)
        return refuse("Cone" + end.tag(), "it reaches the inner electrode",
                      "Shorten the cone or the electrode, or cut the screen further back");
    shape.rise_mm = outer.radius(place(flare_end)) - end.r.insulation;
    const ConeSurroundings around{end.r.conductor_screen, end.r.insulation, end.insulation_eps,
                                  v_("body_eps_r")};
    const auto curve = flare(shape, around);
    for (const auto& p : curve)
        if (const double z = p.z + entrance.cone_start;
            z < flare_end - 0.01 && p.r > outer.radius(place(z)) - 0.05)
            return refuse("Cone" + end.tag(), "its profile leaves the body before its end",
                          "Shorten the cone, or keep its end off the step over the inner electrode");
    for (const auto& p : outer.points()) // the skin may sink below the flare between two of its points
        if (const double z = place(p.z) - entrance.cone_start;
            z > 0 && z < shape.length_mm - 0.01 && p.r < Profile(curve).radius(z) + 0.05)
            return refuse("Cone" + end.tag(), "its profile leaves the body before its end",
                          "Shorten the cone, or keep its end off the step over the inner electrode");
    // From the bore up the flare to the outer skin, and back along the skin.
    std::vector<Point> points{{end.r.insulation, base}};
    for (const auto& p : curve) points.push_back({p.r, p.z + entrance.cone_start});
    const Profile beneath(entrance.is_mirrored ? mirrored(body.under.points()) : body.under.points());
    auto exposed = exposed_flare(curve, entrance.cone_start, beneath);
    for (auto p = skin.rbegin(); p != skin.rend(); ++p)
        if (p->z < flare_end - 1e-6 && p->z > base + 1e-6) points.push_back(*p);
    points.push_back({outer.radius(place(base)), base});
    auto outline = Outline::polygon(points);
    const auto cone = place::cone.on(end.side);
    lay_.electrode(cone, 0, entrance.is_mirrored ? mirrored(outline) : outline, name_of(cone),
                   "semiconductor");
    lay_.last_part().moulded = true;
    if (entrance.is_mirrored)
        for (auto& p : exposed) p = mirrored(p);
    if (exposed.size() >= 2) {
        lay_.path(place::cone_flare.on(end.side), exposed, place::body);
        lay_.out.checks.push_back(checks::electrode_surface(
            {CheckKind::cone_surface, end.side}, "Stress on the surface of the cone" + end.tag(),
            place::cone_flare.on(end.side),
            {"the cone rises too slowly from the insulation",
             "Give it a profile of constant stress, or a shorter cone"}));
    }
    lay_.out.estimates.push_back({{CheckKind::insulation_tangential, end.side},
                                  cone_tangential_kV_per_mm(shape, around, lay_.u0_kV),
                                  "cone of this length and rise with a constant tangential stress"});
    lay_.mark(MarkKind::cone, place::cone_start.on(end.side), -place(entrance.cone_start), "cone_span_mm",
              entrance.is_mirrored ? -1 : 1);
    checks_of(entrance, edge_stands_out(curve, entrance.cone_start, end), electrode_end);
    return {};
}

void Builder::checks_of(const Entrance& entrance, bool edge_stands_out, double electrode_end) {
    const auto& end = entrance.end;
    auto& checks = lay_.out.checks;
    const double filled = v_.is("step_fill", "mastic") ? v_("mastic_on_insulation_mm") : 0;
    auto zones = checks::zones_of(end, filled, entrance.cone_start + v_.cone().length_mm, electrode_end);
    zones.edge_is_bare = edge_stands_out;
    if (!edge_stands_out) zones.filled_to = entrance.cone_start;
    checks::add_insulation_surface(
        checks, end, zones,
        {"the cone lets the equipotentials leave the insulation too steeply",
         "Lengthen the cone, or give it a profile of constant stress; align the body to its mark"},
        {"the inner electrode lies too near the screen, or ends too sharply on the insulation",
         "Lengthen the insulation between screen edge and inner electrode, round its end more, or centre the "
         "body"});
    if (edge_stands_out) // else the cone lies over the edge: nothing to read there
        checks.push_back(
            checks::screen_edge(end, {"the screen edge stands out of the cone",
                                      "Align the body to its mark: the cone must cover the edge"}));
    checks.push_back(checks::insulation_ratio(end, lay_.cable_stress(end),
                                              "Round the inner electrode's ends more, or centre the body"));
}

Result<void> Builder::build(const std::vector<Entrance>& entrances, double electrode_z0, double electrode_z1,
                            double body_z0, double body_z1) {
    lay_.material("body", v_("body_eps_r"), {}, "rubber body");
    lay_.material("grease", v_("grease_eps_r"));
    const bool air = v_.is("step_fill", "air");
    if (v_.is("step_fill", "mastic"))
        if (auto ok = mastic(entrances); !ok) return ok;
    // The bore rests on the cable; over connector and conductor the electrode is moulded in.
    const Profile bore_over =
        lay_.lying.covered_by(Profile({{entrances.front().end.r.insulation, electrode_z0},
                                       {entrances.back().end.r.insulation, electrode_z1}}));
    if (auto ok = inner_electrode(entrances, electrode_z0, electrode_z1); !ok) return ok;
    const auto laid = lay_.shrink({.place = place::body,
                                   .material = "body",
                                   .label = "rubber body",
                                   .hatch = "rubber",
                                   .prefix = "body",
                                   .tube = v_.tube("body"),
                                   .z0 = body_z0,
                                   .z1 = body_z1,
                                   .item = "Body",
                                   .kind = body_.fit,
                                   .under = place::step_under_body,
                                   .under_material = air ? "air" : "grease",
                                   .under_label = air ? "air gap" : "grease",
                                   .bore_over = bore_over});
    if (!laid) return tl::unexpected(laid.error());
    const double middle = (electrode_z0 + electrode_z1) / 2;
    if (laid->outer.radius(middle) - laid->under.radius(middle) < least_cover_mm)
        return refuse("Body", "it leaves less than 2 mm of rubber over the inner electrode",
                      "Use a body with more wall, or a thinner electrode");
    for (const auto& entrance : entrances) {
        if (auto ok = cone(entrance, *laid, entrance.is_mirrored ? -electrode_z1 : electrode_z0); !ok)
            return ok;
    }
    const double r = entrances.front().end.r.insulation;
    lay_.out.derived["body wall on insulation (mm)"] =
        closedform::recovered_outer_radius_mm(v_.tube("body"), r) - r;
    lay_.out.derived["rubber over the inner electrode (mm)"] =
        laid->outer.radius(middle) - laid->under.radius(middle);
    lay_.out.statements = body_.statements;
    return {};
}

} // namespace

void add_screened_body_parameters(ParameterList& list, const std::string& edge, const std::string& end,
                                  FitItem::Kind kind) {
    list.group("Body");
    list.length("body_end_mm", "End, from the middle or datum", "Past the screen edge on each cable side", 10,
                3000, list.value_of(edge, 32));
    const bool slip_on = kind == FitItem::Kind::slip_on;
    // Moulded bores: slip-on a little below the insulation, cold-shrink well below it (invented defaults).
    list.shrink_tube("body", "rubber body", slip_on ? of_layer("jacket", 1.05) : of_layer("jacket", 1.3),
                     of_smaller_layer("insulation", slip_on ? 0.93 : 0.62),
                     by_class(slip_on ? 6.5 : 9.5, 0.62));
    list.choice("step_fill", "Step at the screen edge",
                "What fills it where the cone does not cover it; a school lays relief mastic over the edge, "
                "under the grease",
                {{"grease", "grease"}, {"mastic", "relief mastic, then grease"}, {"air", "nothing"}});
    list.length("mastic_on_insulation_mm", "Mastic onto insulation", "Centred on the edge (chosen)", 1, 60,
                fixed(5));
    list.length("mastic_on_screen_mm", "Mastic onto screen", "Centred on the edge (chosen)", 1, 60, fixed(5));
    list.length("mastic_thickness_mm", "Mastic thickness on screen",
                "Stretched thin, for the bore to go over it (chosen)", 0.1, 3, fixed(0.3));
    list.permittivity("mastic_eps_r", "Permittivity of mastic", "relief mastic");
    list.permittivity("grease_eps_r", "Permittivity of grease", "grease");
    list.recovery();
    list.group("Inner electrode");
    list.length("electrode_reach_mm", "Reach, from the middle or datum", "Past the insulation end", 5, 2000,
                list.value_of(end, 15));
    list.length("electrode_wall_mm", "Wall", "As installed", 0.8, 30, by_class(1.6, 0.215));
    list.length("electrode_end_radius_mm", "End radius", "Outside; the inside takes the rest of the wall",
                0.2, 20, by_class(1.05, 0.135));
    list.aid(AidRole::Kind::edge_radius, {{"radius", "electrode_end_radius_mm"}}, 0);
    list.cone(false);
    list.length("cone_span_mm", "Start, from the middle or datum",
                "A little past the screen edge: the cone covers the edge", 5, 3000, list.value_of(edge, -2));
}

Result<BuiltAccessory> build_two_entrances(const DesignContext& context, const ScreenedBody& body) {
    LayUp lay(context);
    const ParameterValues v(context);
    lay.wall_share = v.wall_share();
    const auto a = v.joint_end(CableSide::a), b = v.joint_end(CableSide::b);
    if (auto ok = lay.joint(a, b, v.connector()); !ok) return tl::unexpected(ok.error());
    const double offset = v("body_offset_mm"), reach = v("electrode_reach_mm"), span = v("cone_span_mm"),
                 half = v("body_end_mm");
    Builder builder(lay, v, body);
    if (auto ok = builder.build({{a, false, -span + offset}, {b, true, -span - offset}}, -reach + offset,
                                reach + offset, -half + offset, half + offset);
        !ok)
        return tl::unexpected(ok.error());
    lay.joint_screen(std::min(a.metallic - 15, -half + offset), std::max(-b.metallic + 15, half + offset));
    lay.mark(MarkKind::body_end, place::body_end.on(Side::a), half - offset, "body_offset_mm", -1);
    lay.mark(MarkKind::body_end, place::body_end.on(Side::b), -half - offset, "body_offset_mm", -1);
    lay.handle("body_offset_mm", "body", {lay.lying.radius(offset), offset}, 0, 1);
    if (context.cable.cores == 3)
        lay.out.statements.push_back("Three cores: the section is one core with its own screen; the other "
                                     "cores and the outer sleeve carry no field.");
    return lay.finish(a.metallic - 60, -b.metallic + 60, lay.lying.greatest_radius() * 1.12);
}

Result<BuiltAccessory> build_one_entrance(const DesignContext& context, const ScreenedBody& body) {
    LayUp lay(context);
    const ParameterValues v(context);
    lay.wall_share = v.wall_share();
    auto end = v.body_end();
    if (auto ok = end.check(); !ok) return tl::unexpected(ok.error());
    const double depth = v("contact_depth_mm"), radius = v("contact_diameter_mm") / 2,
                 beyond = body.beyond_mm;
    if (-end.insulation < depth)
        return refuse("Insulation end", "the connector does not fit before it", "Remove more insulation");
    if (auto ok = end.stands_off(-depth, "Insulation end"); !ok) return tl::unexpected(ok.error());
    if (radius <= end.r.conductor + 0.05)
        return refuse("Connector diameter",
                      fmt::format("{} does not go over the conductor, {}",
                                  format_length(2 * radius, LengthUnit::mm),
                                  format_length(2 * end.r.conductor, LengthUnit::mm)),
                      "Choose a larger connector");
    lay.cable_end(end);
    lay.electrode(place::connector, lay.u0_kV,
                  Outline::polygon({{0, -depth}, {radius, -depth}, {radius, beyond}, {0, beyond}}),
                  "connector", "metal");
    lay.lying = end.profile().covered_by(Profile({{radius, -depth}, {radius, beyond}}));
    lay.out.datum = lay.out.zero = body.datum;
    lay.mark(MarkKind::reference, body.datum, 0);
    lay.out.control_length_mm = -end.screen;
    lay.mark(MarkKind::connector_end, place::connector_end, depth);
    lay.mark(MarkKind::insulation_end, place::insulation_end, -end.insulation, "insulation_end_mm");
    lay.mark(MarkKind::screen_edge, place::screen_edge, -end.screen, "screen_edge_mm");
    lay.mark(MarkKind::metallic_cut, place::metallic_cut, -end.metallic, "metallic_cut_mm");
    lay.mark(MarkKind::jacket_cut, place::jacket_cut, -end.jacket, "jacket_cut_mm");
    lay.handle("screen_edge_mm", "screen edge", {end.r.screen, end.screen});
    const double seat = v("seat_offset_mm"); // towards the cable: not fully home
    Builder builder(lay, v, body);
    const double body_end = v("body_end_mm") + seat;
    if (auto ok = builder.build({{end, false, -v("cone_span_mm") - seat}}, -v("electrode_reach_mm") - seat,
                                beyond, -body_end, beyond);
        !ok)
        return tl::unexpected(ok.error());
    lay.joint_screen(std::min(end.metallic - 15, -body_end), beyond);
    lay.last_part().moulded = true;
    lay.mark(MarkKind::body_end, place::body_end, body_end, "body_end_mm");
    lay.handle("seat_offset_mm", "body", {lay.lying.radius(-body_end + 1), -body_end}, -v("body_end_mm"), -1);
    return lay.finish(end.metallic - 60, beyond, lay.lying.greatest_radius() * 1.12);
}

} // namespace ng
