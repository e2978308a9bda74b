// Transition joint from extruded cable (side A) to paper-insulated lead-covered cable (side B): an oil
// barrier over the paper, a conductive tube that makes the screen edge over it, then as a heat-shrink joint.
// Belted cable has no screens on its cores: its field is a planar section.
#include "accessory/across.h"
#include "accessory/checks.h"
#include "accessory/heat_shrink_joint.h"
#include <array>
#include <cmath>
#include <numbers>

namespace ng {
namespace {

Result<void> add_oil_barrier(LayUp& lay, const ParameterValues& v, const CableEnd& b) {
    lay.material("oil barrier", v("barrier_eps_r"));
    lay.material("oil mastic", v("oil_mastic_eps_r"), {}, "relief mastic");
    const double half = v("connector_length_mm") / 2;
    LayUp::Tube tube{.place = place::oil_barrier,
                     .material = "oil barrier",
                     .label = "oil-barrier tube",
                     .hatch = "sleeve",
                     .prefix = "barrier",
                     .tube = v.tube("barrier"),
                     .z0 = half - v("barrier_on_connector_mm"),
                     .z1 = -b.metallic + v("barrier_on_lead_mm"),
                     .item = "Oil barrier",
                     .under = place::oil_mastic,
                     .under_material = "oil mastic",
                     .under_label = "oil mastic"};
    tube.control = true;
    const auto beneath = lay.lying.between(tube.z0, tube.z1).points();
    const auto barrier = lay.shrink(tube);
    if (!barrier) return tl::unexpected(barrier.error());
    lay.out.build_ups.push_back({.part = "oil mastic",
                                 .kind = BuildUp::Kind::mastic,
                                 .inner = beneath,
                                 .outer = barrier->under.points()});
    // The conductive tube over the barrier, from the lead past the paper's own screen edge.
    const double z0 = -b.screen - v("screen_tube_past_mm"), z1 = -b.metallic + v("barrier_on_lead_mm") - 1;
    if (z0 < -b.insulation + 10)
        return refuse("Conductive tube", "it comes within 10 mm of the paper's end",
                      "Cut the lead further back, or let the tube reach less far");
    const auto inner = lay.lying.between(z0, z1).spanned();
    const double wall = v("screen_tube_wall_mm");
    const auto outer = inner.grown([&](double r) { return r + wall; });
    const BandEnd edge{0.4 * wall, 0.25 * wall, place::screen_tube};
    lay.electrode(place::screen_tube, 0, band_outline(inner, outer, edge, {}), "conductive tube",
                  "semiconductor");
    lay.cover_rounded(outer, edge.outer_radius_mm, 0);
    lay.out.placed.push_back({.part = "Conductive tube",
                              .place = place::screen_tube,
                              .label = "conductive tube",
                              .z0_mm = z0,
                              .z1_mm = z1,
                              .kind = FitItem::Kind::shrink,
                              .bore_mm = 0,
                              .integral = false,
                              .control = true});
    lay.mark(MarkKind::tube_end, place::screen_tube_end.on(Side::b), -z0, "screen_tube_past_mm", 1);
    if (v.is("relief_mastic", "present")) {
        const double r = outer.points().front().r, on_tube = v("mastic_on_screen_mm"),
                     on_barrier = v("mastic_on_insulation_mm");
        const Profile mastic({{lay.lying.radius(z0 - on_barrier), z0 - on_barrier},
                              {r + v("mastic_thickness_mm"), z0},
                              {r + v("mastic_thickness_mm"), z0 + 0.7 * on_tube},
                              {lay.lying.radius(z0 + on_tube), z0 + on_tube}});
        lay.fill(place::relief_mastic.on(Side::b), "relief mastic", mastic.above(lay.lying),
                 "relief mastic B", "mastic");
    }
    return {};
}

/// Belted cable across its three cores at one instant; voltages as rms equivalents of the instant's values.
AcrossSection belted(const LayUp& lay, const ParameterValues& v, const CableEnd& b, CheckKind check,
                     const std::string& key, const std::string& title, const std::array<double, 3>& shares) {
    AcrossSection across;
    across.id = key;
    across.title = title;
    auto& s = across.section;
    s.symmetry = Symmetry::planar;
    s.frequency_hz = lay.out.section.frequency_hz;
    s.materials = {{"paper", {b.insulation_eps, {}, {}}}, {"filler", {v("filler_eps_r"), {}, {}}}};
    const double radius = b.r.conductor, core = radius + v("belted_core_mm");
    const double pitch = (core + 0.05) * 2 / std::sqrt(3.0), bundle = pitch + core + 0.05,
                 sheath = bundle + v("belt_mm");
    const auto skin = ring({0, 0}, sheath);
    s.regions.push_back({name_of(place::belt), "paper", closed(skin)});
    across.parts.push_back({place::belt, "belt paper", "paper", false});
    s.boundaries.push_back({name_of(place::lead_sheath), 0, skin});
    s.regions.push_back({name_of(place::filler), "filler", circle({0, 0}, bundle)});
    across.parts.push_back({place::filler, "filler", "sealant", false});
    for (int i = 0; i < 3; ++i) {
        const double angle = std::numbers::pi / 2 + i * 2 * std::numbers::pi / 3;
        const Point centre{pitch * std::cos(angle), pitch * std::sin(angle)};
        const auto core_i = place::core.number(i + 1), paper_i = place::paper.number(i + 1);
        s.regions.push_back({name_of(paper_i), "paper", circle(centre, core)});
        across.parts.push_back({paper_i, i == 0 ? "core paper" : "", "paper", false});
        s.electrodes.push_back({name_of(core_i), lay.u0_kV * shares[i], false, circle(centre, radius)});
        across.parts.push_back({core_i, "", "metal", true});
        const Point out{std::cos(angle), std::sin(angle)};
        s.paths.push_back({name_of(place::core_outward.number(i + 1)),
                           {centre + radius * out, centre + core * out},
                           name_of(paper_i)});
        s.paths.push_back({name_of(place::core_inward.number(i + 1)),
                           {centre - radius * out, centre - core * out},
                           name_of(paper_i)});
    }
    const Point first{pitch * std::cos(std::numbers::pi / 2), pitch},
        second{pitch * std::cos(std::numbers::pi * 7 / 6), pitch * std::sin(std::numbers::pi * 7 / 6)};
    const Point along = (1 / distance(first, second)) * (second - first);
    s.paths.push_back({name_of(place::between_cores),
                       {first + radius * along, first + core * along},
                       name_of(place::paper.number(1))});
    CheckRequest paper;
    paper.id = check;
    paper.title = "Stress in the paper, " + title;
    paper.quantity = CheckRequest::Quantity::magnitude;
    for (const auto& path : s.paths) paper.places.push_back(*place_of(path.name));
    paper.at = TestKind::service;
    paper.limit_id = "paper";
    paper.because = "the cores lie too near each other or the sheath for this voltage";
    paper.cure = "Check core and belt insulation; keep the crotch filled";
    across.checks = {paper};
    return across;
}

Result<void> at_end(LayUp& lay, const ParameterValues& v, const CableEnd& b) {
    lay.out.statements.push_back(
        "The paper is taken as fully impregnated; drained or wet paper is not modelled.");
    if (!v.is("paper_type", "belted")) {
        lay.out.checks.push_back(checks::screen_edge(
            b, {"the paper's screen ends too sharply beneath the oil barrier",
                "Use a mastic of more permittivity or a thinner oil barrier, or fold the carbon paper "
                "back over a binding"}));
        return {};
    }
    lay.out.work_facts.insert(WorkFact::belted);
    lay.out.statements.push_back(
        "Belted cable: its cores carry no screens; the conductive tubes over the oil barrier make their "
        "screen edges. "
        "The field in the cable rotates: two instants are shown, as rms equivalents.");
    lay.out.statements.push_back(
        "Behind the conductive tube B the section shows earth on the core papers, where tubes, fillers and "
        "lead bring it about the crotch: its beginning is no edge of this cable and is not judged.");
    lay.out.across.push_back(belted(lay, v, b, CheckKind::belted_peak_paper, "belted_peak",
                                    "belted side, one phase at its peak", {1, -0.5, -0.5}));
    const double half = std::sqrt(3.0) / 2;
    lay.out.across.push_back(belted(lay, v, b, CheckKind::belted_between_paper, "belted_between",
                                    "belted side, two phases furthest apart", {half, -half, 0}));
    return {};
}

} // namespace

NEEDLEGAUGE_FAMILY(transition_joint, 100) {
    Family f;
    f.id = "transition_joint";
    f.title = "Transition joint to paper-insulated cable";
    f.two_cables = true;
    f.usual_standard = "ieee404";
    ParameterList list(f);
    add_heat_shrink_joint_parameters(list);
    list.group("Paper side");
    list.choice("paper_type", "Cable",
                "Shielded: each core has its own screen. Belted: one sheath round all three",
                {{"shielded", "shielded cores"}, {"belted", "belted"}});
    list.length("paper_edge_radius_mm", "Edge radius of the paper's screen",
                "Torn carbon paper, then covered", 0.03, 1, fixed(0.12));
    list.length("barrier_on_connector_mm", "Oil barrier on the connector", "", 2, 200, fixed(20));
    list.length("barrier_on_lead_mm", "Oil barrier on the lead", "", 5, 200, fixed(25));
    list.shrink_tube("barrier", "oil barrier", of_layer("jacket", 1.2), of_smaller_layer("conductor", 0.8),
                     fixed(1.6));
    list.number("oil_mastic_eps_r", "Permittivity of oil mastic",
                "Fills the step at the paper's screen: an oil-resistant relief mastic eases its edge "
                "(common practice, no source); on thin papers one that grades more",
                1, 100, [](const DesignContext& c) {
                    const double kV = c.design.duty.class_kV;
                    return kV < 9 ? 26.0 : kV < 31 ? 22.0 : 12.0;
                });
    list.length("screen_tube_past_mm", "Conductive tube past the paper's screen", "", 2, 200, fixed(15));
    list.length("screen_tube_wall_mm", "Conductive tube, wall", "As recovered", 0.5, 6, fixed(1.2));
    list.length("belted_core_mm", "Core paper, belted", "Thickness on each core", 0.5, 20,
                by_class(1.2, 0.19));
    list.length("belt_mm", "Belt paper", "Over the three cores", 0.3, 20, by_class(0.5, 0.11));
    list.number("filler_eps_r", "Permittivity of filler", "Oil-filled jute or paper", 1, 20, fixed(3.3));
    f.build = [](const DesignContext& c) -> Result<BuiltAccessory> {
        if (c.cable_of(CableSide::b).insulation_material != "paper")
            return refuse("Cable of side B", "it is not paper-insulated",
                          "Choose a paper-insulated cable for side B");
        if (ParameterValues(c).is("paper_type", "belted") && c.cable_of(CableSide::b).cores != 3)
            return refuse("Cable of side B", "it has one core, and belted cable has three",
                          "Give it three cores, or choose shielded cores");
        HeatShrinkJointSteps steps;
        steps.edge_of_b_is_covered = true;
        steps.prepare_b = [](const ParameterValues& v, CableEnd& b) {
            b.edge = {"ring", v("paper_edge_radius_mm"), 0, {}};
            if (v.is("paper_type", "belted")) b.screen_title = b.edge_title = "earth of the crotch";
        };
        steps.before_tubes = [](LayUp& lay, const ParameterValues& v, const CableEnd&, const CableEnd& b) {
            return add_oil_barrier(lay, v, b);
        };
        steps.more_checks = {
            checks::electrode_edge(CheckKind::screen_tube_edge, "Stress at the end of the conductive tube B",
                                   edges_of({{0, 0, place::screen_tube}}),
                                   {"the tube ends too sharply on the oil barrier",
                                    "Fill its end with relief mastic, or use a thicker tube"})};
        steps.at_end = [](LayUp& lay, const ParameterValues& v, const CableEnd&, const CableEnd& b) {
            return at_end(lay, v, b);
        };
        return build_heat_shrink_joint(c, steps);
    };
    return f;
}

} // namespace ng
