// Heat-shrink termination: a high-permittivity stress tube over the end of the insulation screen, relief
// mastic in the step, an anti-tracking sleeve over all, from the jacket to the lug.
//
// z = 0 at the screen edge, z rises towards the lug. Positions are distances from the cable end, the datum.
#include "accessory/family.h"
#include "accessory/profile.h"
#include "closedform/closedform.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>
#include <numbers>

namespace ng {
namespace {

constexpr double mastic_feather_mm = 4.0; // length of the mastic's taper on the screen side
constexpr double cable_shown_behind_jacket_mm = 45;
constexpr double air_beyond_cable_end_mm = 60;
constexpr double judged_from_edge_mm =
    1.0; // nearer, the edge radius sets the figure: the edge check judges that

struct Dimensions {
    double conductor, conductor_screen, insulation, screen, metallic, jacket; // radii, mm
};

struct Inputs {
    double insulation_removed, screen_edge, metallic_cut, jacket_cut;
    std::string preparation;
    double edge_radius, chamfer;
    bool mastic;
    double mastic_on_screen, mastic_on_insulation, mastic_thickness, mastic_eps;
    double tube_lower, tube_upper;
    closedform::ShrinkTube tube, sleeve;
    double tube_eps, sleeve_eps;
    std::string tube_conduction;
    double tube_sigma, tube_switching_field, tube_exponent;
    bool tube_end_filled;
    double sleeve_lower, sleeve_upper;
    double barrel_depth, barrel_diameter;
    double earth_distance;
};

/// The screen's end by its preparation; the inner edge is the one that the field sees.
Outline screen_outline(const Dimensions& d, const Inputs& in, double z_bottom, double& contact_z) {
    const double rho = in.edge_radius;
    // The inner edge: an arc that would touch the insulation, cut off where the gap closes (profile.h).
    const double cosine = (rho - truncated_cusp_gap_mm) / rho;
    contact_z = -rho + rho * std::sqrt(1 - cosine * cosine);
    Outline outline;
    outline.start = {d.insulation, z_bottom};
    outline.line_to({d.screen, z_bottom});
    if (in.preparation == "chamfered") {
        outline.line_to({d.screen, -in.chamfer});
        outline.line_to({d.insulation + 2 * rho, -rho});
        outline.arc_to({d.insulation + rho, 0}, {d.insulation + rho, -rho}, "screen edge, tip");
    } else {
        outline.line_to({d.screen, -rho});
        outline.arc_to({d.screen - rho, 0}, {d.screen - rho, -rho}, "screen edge, outer");
        outline.line_to({d.insulation + rho, 0});
    }
    outline.arc_to({d.insulation + truncated_cusp_gap_mm, contact_z}, {d.insulation + rho, -rho},
                   "screen edge, inner");
    outline.line_to({d.insulation, contact_z});
    return outline;
}

/// Everything that is derived once and used by several parts.
struct Layout {
    Dimensions d;
    Inputs in;
    double z_end, z_insulation, z_bottom, z_top, z_metallic, z_jacket, z_tube0, z_tube1, z_sleeve0, z_sleeve1,
        z_barrel;
    double barrel_radius;
};

Result<void> check_order(const Layout& l) {
    const auto& in = l.in;
    const auto mm = [](double v) { return format_length(v, LengthUnit::mm); };
    if (in.screen_edge <= in.insulation_removed + 5)
        return refuse(
            "Screen edge",
            fmt::format("at {} from the cable end it is beyond, or within 5 mm of, the insulation end at {}",
                        mm(in.screen_edge), mm(in.insulation_removed)),
            "Move the screen edge back, or remove less insulation");
    if (in.metallic_cut < in.screen_edge + 5)
        return refuse("Metallic screen cut", "it is beyond, or within 5 mm of, the screen edge",
                      "Cut the metallic screen further back");
    if (in.jacket_cut < in.metallic_cut)
        return refuse("Jacket cut", "it is beyond the metallic screen cut", "Cut the jacket further back");
    if (in.tube_upper >= in.tube_lower - 5)
        return refuse("Stress tube", "its upper end is not above its lower end",
                      "Give it a length of at least 5 mm");
    if (in.tube_lower <= in.screen_edge + 1)
        return refuse("Stress tube", "its lower end does not lie on the insulation screen",
                      "Let it lap onto the screen");
    if (in.tube_lower > in.metallic_cut)
        return refuse("Stress tube", "its lower end lies on the metallic screen",
                      "Let it end on the insulation screen");
    if (in.tube_upper < in.insulation_removed)
        return refuse("Stress tube", "its upper end is beyond the insulation end",
                      "Shorten it to end on the insulation");
    if (in.mastic && in.mastic_on_insulation > in.screen_edge - in.tube_upper)
        return refuse("Relief mastic",
                      fmt::format("it reaches {} onto the insulation, the stress tube covers only {}",
                                  mm(in.mastic_on_insulation), mm(in.screen_edge - in.tube_upper)),
                      "Shorten the mastic or lengthen the tube");
    if (in.mastic && in.mastic_on_screen > in.tube_lower - in.screen_edge)
        return refuse("Relief mastic",
                      fmt::format("it reaches {} onto the screen, the stress tube covers only {}",
                                  mm(in.mastic_on_screen), mm(in.tube_lower - in.screen_edge)),
                      "Shorten the mastic or lengthen the tube");
    if (in.sleeve_lower <= in.jacket_cut)
        return refuse("Anti-tracking sleeve", "its lower end does not reach the jacket",
                      "Let it lap onto the jacket");
    if (in.sleeve_upper >= in.barrel_depth)
        return refuse("Anti-tracking sleeve", "its upper end does not reach the lug barrel",
                      "Let it lap onto the lug");
    if (in.insulation_removed < in.barrel_depth)
        return refuse("Insulation removed", "it is less than the lug barrel depth",
                      "Remove barrel depth plus an allowance");
    if (l.barrel_radius <= l.d.conductor)
        return refuse("Lug barrel diameter",
                      fmt::format("{} does not go over the conductor, {}", mm(in.barrel_diameter),
                                  mm(2 * l.d.conductor)),
                      "Choose a larger lug");
    const double thickness = l.d.screen - l.d.insulation;
    if (in.edge_radius > 0.45 * thickness)
        return refuse(
            "Edge radius",
            fmt::format("{} does not fit the insulation screen, {} thick", mm(in.edge_radius), mm(thickness)),
            "Give at most 0.45 of the screen's thickness");
    if (in.preparation == "chamfered" && in.chamfer < thickness)
        return refuse("Chamfer length", "it is shorter than the screen is thick",
                      "Give at least the thickness of the screen");
    if (in.preparation == "chamfered" && in.chamfer >= in.metallic_cut - in.screen_edge)
        return refuse("Chamfer length", "it reaches the metallic screen", "Shorten it");
    return {};
}

Inputs read_inputs(const Family& family, const DesignContext& c) {
    auto n = [&](const char* key) { return number_of(family, c, key); };
    auto is = [&](const char* key, const char* value) { return choice_of(family, c, key) == value; };
    Inputs in;
    in.insulation_removed = n("insulation_removed_mm");
    in.screen_edge = n("screen_edge_mm");
    in.metallic_cut = n("metallic_screen_cut_mm");
    in.jacket_cut = n("jacket_cut_mm");
    in.preparation = choice_of(family, c, "edge_preparation");
    in.edge_radius = n("edge_radius_mm");
    in.chamfer = n("chamfer_length_mm");
    in.mastic = is("relief_mastic", "present");
    in.mastic_on_screen = n("mastic_on_screen_mm");
    in.mastic_on_insulation = n("mastic_on_insulation_mm");
    in.mastic_thickness = n("mastic_thickness_mm");
    in.mastic_eps = n("mastic_eps_r");
    in.tube_lower = n("tube_lower_end_mm");
    in.tube_upper = n("tube_upper_end_mm");
    in.tube = {n("tube_expanded_bore_mm"), n("tube_recovered_bore_mm"), n("tube_recovered_wall_mm")};
    in.tube_eps = n("tube_eps_r");
    in.tube_conduction = choice_of(family, c, "tube_conduction");
    in.tube_sigma = n("tube_S_per_m");
    in.tube_switching_field = n("tube_E0_kV_per_mm");
    in.tube_exponent = n("tube_exponent");
    in.tube_end_filled = is("tube_end", "filled");
    in.sleeve_lower = n("sleeve_lower_end_mm");
    in.sleeve_upper = n("sleeve_upper_end_mm");
    in.sleeve = {n("sleeve_expanded_bore_mm"), n("sleeve_recovered_bore_mm"), n("sleeve_recovered_wall_mm")};
    in.sleeve_eps = n("sleeve_eps_r");
    in.barrel_depth = n("lug_barrel_depth_mm");
    in.barrel_diameter = n("lug_barrel_diameter_mm");
    in.earth_distance = n("earth_distance_mm");
    return in;
}

/// Refuses a tube that fits none or not all of what it lies on.
Result<void> check_fit(const closedform::ShrinkTube& tube, const Profile& on, const std::string& item) {
    for (const double radius : {on.smallest_radius(), on.greatest_radius()})
        if (auto wall = closedform::recovered_wall_mm(tube, 2 * radius, item); !wall)
            return tl::unexpected(wall.error());
    return {};
}

/// Grading lengths (1 / beta) that a tube should reach past the edge: tanh(3) is 0.995, more buys nothing.
constexpr double useful_grading_lengths = 3;

void add_checks(const Layout& l, double contact_z, double cable_stress, double grading_length, bool wedge,
                BuiltAccessory& out) {
    using Q = CheckRequest::Quantity;
    const auto mm = [](double v) { return format_length(v, LengthUnit::mm); };
    std::string short_tube;
    if (l.z_tube1 < 0.67 * useful_grading_lengths * grading_length)
        short_tube = fmt::format(
            "the stress tube reaches only {} past the screen edge, and needs about {} to spread the field",
            mm(l.z_tube1), mm(useful_grading_lengths * grading_length));
    const auto because = [&](const char* otherwise) {
        return short_tube.empty() ? std::string(otherwise) : short_tube;
    };
    out.checks.push_back(
        {"insulation_tangential",
         "Tangential stress on the insulation surface",
         Q::tangential,
         {"insulation surface"},
         judged_from_edge_mm - contact_z,
         -contact_z,
         "u0",
         "interface_tangential",
         1,
         because("the equipotentials leave the insulation over too short a length of its surface"),
         "Lengthen the tube past the edge, or use a tube with more permittivity times wall"});
    std::vector<std::string> edges{
        "screen edge, inner", l.in.preparation == "chamfered" ? "screen edge, tip" : "screen edge, outer"};
    out.checks.push_back({"screen_edge", "Stress at the screen edge", Q::edge_peak, edges, 0, 0, "u0",
                          "electrode_edge", 1, "the edge of the screen is too sharp for the stress round it",
                          "Round the edge more (file or chamfer it), or fill it with relief mastic"});
    out.checks.push_back({"insulation_ratio",
                          "Cable insulation beside the undisturbed conductor stress",
                          Q::magnitude,
                          {"conductor screen", "insulation surface"},
                          0,
                          0,
                          "u0",
                          "insulation_ratio",
                          cable_stress,
                          "the accessory stresses the cable insulation more than the cable itself does",
                          "Round the screen edge more, or keep it covered with relief mastic and tube"});
    out.checks.push_back(
        {"sleeve_tangential",
         "Tangential stress on the sleeve in air",
         Q::tangential,
         {"sleeve surface"},
         0,
         0,
         "u0",
         "air_tangential",
         1,
         because("the field along the outer surface can start discharges in the air beside it"),
         "Lengthen the tube or the insulation, or use a thicker sleeve"});
    out.checks.push_back(
        {"air_extinction",
         "Stress in air on the sleeve at extinction voltage",
         Q::magnitude,
         {"sleeve surface"},
         0,
         0,
         "pd_extinction_kV",
         "air_extinction",
         1,
         "the air beside the sleeve ionises below the extinction voltage",
         "Lengthen the tube past the edge, use a thicker sleeve, or keep earth further away"});
    if (wedge)
        out.checks.push_back(
            {"air_wedge",
             "Stress in the air wedge at the screen edge at extinction voltage",
             Q::magnitude,
             {"air wedge"},
             0,
             0,
             "pd_extinction_kV",
             "air_extinction",
             1,
             "air is left under the tube at the screen edge, and the field in it is above inception",
             "Fill the step with relief mastic"});
}

Result<BuiltAccessory> build(const Family& family, const DesignContext& c) {
    Layout l;
    l.d = {c.dimensions.radius_mm("conductor"),       c.dimensions.radius_mm("conductor screen"),
           c.dimensions.radius_mm("insulation"),      c.dimensions.radius_mm("insulation screen"),
           c.dimensions.radius_mm("metallic screen"), c.dimensions.radius_mm("jacket")};
    l.in = read_inputs(family, c);
    const auto& in = l.in;
    const auto& d = l.d;
    auto z_of = [&](double from_datum) { return in.screen_edge - from_datum; };
    l.z_end = z_of(0);
    l.z_insulation = z_of(in.insulation_removed);
    l.z_metallic = z_of(in.metallic_cut);
    l.z_jacket = z_of(in.jacket_cut);
    l.z_tube0 = z_of(in.tube_lower);
    l.z_tube1 = z_of(in.tube_upper);
    l.z_sleeve0 = z_of(in.sleeve_lower);
    l.z_sleeve1 = z_of(in.sleeve_upper);
    l.z_barrel = z_of(in.barrel_depth);
    l.z_bottom = l.z_sleeve0 - cable_shown_behind_jacket_mm;
    l.z_top = l.z_end + air_beyond_cable_end_mm;
    l.barrel_radius = in.barrel_diameter / 2;
    if (auto ok = check_order(l); !ok) return tl::unexpected(ok.error());
    const auto* insulation = c.materials.find(c.cable.insulation_material);
    if (!insulation)
        return refuse("insulation", fmt::format("material “{}” is unknown", c.cable.insulation_material),
                      "Choose XLPE, TR-XLPE or EPR");

    // Profiles, from the cable outwards.
    double contact_z = 0;
    const auto screen = screen_outline(d, in, l.z_bottom, contact_z);
    std::vector<Point> prepared{{d.jacket, l.z_bottom},
                                {d.jacket, l.z_jacket},
                                {d.metallic, l.z_jacket},
                                {d.metallic, l.z_metallic},
                                {d.screen, l.z_metallic}};
    if (in.preparation == "chamfered") {
        prepared.push_back({d.screen, -in.chamfer});
        prepared.push_back({d.insulation + 2 * in.edge_radius, -in.edge_radius});
        prepared.push_back({d.insulation + 2 * in.edge_radius, 0});
    } else {
        prepared.push_back({d.screen, 0});
    }
    for (const Point p : {Point{d.insulation, 0},
                          {d.insulation, l.z_insulation},
                          {d.conductor, l.z_insulation},
                          {d.conductor, l.z_barrel},
                          {l.barrel_radius, l.z_barrel},
                          {l.barrel_radius, l.z_top}})
        prepared.push_back(p);
    Profile lying(prepared);
    Profile mastic = lying;
    if (in.mastic) {
        const double feather = std::min(mastic_feather_mm, in.mastic_on_screen / 2);
        mastic = Profile({{d.screen, -in.mastic_on_screen},
                          {d.screen + in.mastic_thickness, -in.mastic_on_screen + feather},
                          {d.screen + in.mastic_thickness, 0},
                          {d.insulation, in.mastic_on_insulation}});
        lying = lying.covered_by(mastic);
    }
    const auto under_tube = lying.between(l.z_tube0, l.z_tube1).spanned();
    if (auto ok = check_fit(in.tube, under_tube, "Stress tube"); !ok) return tl::unexpected(ok.error());
    const auto tube =
        under_tube.grown([&](double r) { return closedform::recovered_outer_radius_mm(in.tube, r); });
    lying = lying.covered_by(tube);
    const auto under_sleeve = lying.between(l.z_sleeve0, l.z_sleeve1).spanned();
    if (auto ok = check_fit(in.sleeve, under_sleeve, "Anti-tracking sleeve"); !ok)
        return tl::unexpected(ok.error());
    const auto sleeve =
        under_sleeve.grown([&](double r) { return closedform::recovered_outer_radius_mm(in.sleeve, r); });

    BuiltAccessory out;
    auto& s = out.section;
    s.frequency_hz = c.design.duty.frequency_hz;
    if (in.earth_distance < sleeve.greatest_radius() + 5)
        return refuse("Nearby earth", "it is inside, or within 5 mm of, the termination",
                      "Give the distance from the cable axis to the nearest earthed part");
    auto material = [&](const char* id, double eps) { s.materials[id] = {eps, {}, {}}; };
    material("air", 1);
    material("insulation", insulation->eps_r.value);
    material("jacket", c.materials.find("jacket")->eps_r.value);
    material("relief mastic", in.mastic_eps);
    material("sealant", c.materials.find("sealant")->eps_r.value);
    material("stress tube", in.tube_eps);
    material("sleeve", in.sleeve_eps);
    if (in.tube_conduction != "none") {
        Conduction law;
        law.law = in.tube_conduction;
        law.sigma0_S_per_m = in.tube_sigma;
        law.E0_kV_per_mm = in.tube_switching_field;
        law.exponent = in.tube_exponent;
        law.field = "rms";
        law.provenance = "user";
        s.materials["stress tube"].conduction = law;
        s.analysis = law.depends_on_field() ? "nonlinear" : "complex";
    }

    // Painter's order: outermost first.
    const double axis = d.conductor;
    auto region = [&](const char* name, const char* of, Outline outline) {
        s.regions.push_back({name, of, std::move(outline)});
    };
    region(
        "air", "air",
        Outline::polygon(
            {{0, l.z_bottom}, {in.earth_distance, l.z_bottom}, {in.earth_distance, l.z_top}, {0, l.z_top}}));
    region("sleeve", "sleeve", sleeve.down_to(axis));
    region("air under sleeve", "air", under_sleeve.down_to(axis));
    region("lug sealant", "sealant", under_sleeve.between(l.z_insulation - 3, l.z_sleeve1).down_to(axis));
    region("metallic screen sealant", "sealant",
           under_sleeve.between(l.z_sleeve0, l.z_metallic + 8).down_to(axis));
    if (in.tube_end_filled) {
        const double reach = std::min(l.z_insulation - 1, l.z_tube1 + bridge_length_per_height * 12);
        region("tube end filler", "sealant", under_sleeve.between(l.z_tube1 - 1, reach).down_to(axis));
        region("tube heel filler", "sealant",
               under_sleeve.between(std::max(l.z_tube0 - 8, l.z_metallic), l.z_tube0 + 1).down_to(axis));
    }
    region("stress tube", "stress tube", tube.down_to(axis));
    region("air under tube", "air", under_tube.down_to(axis));
    if (in.mastic) region("relief mastic", "relief mastic", mastic.down_to(axis));
    region("jacket", "jacket",
           Outline::polygon({{d.metallic, l.z_bottom},
                             {d.jacket, l.z_bottom},
                             {d.jacket, l.z_jacket},
                             {d.metallic, l.z_jacket}}));
    region("insulation", "insulation",
           Outline::polygon({{axis, l.z_bottom},
                             {d.insulation, l.z_bottom},
                             {d.insulation, l.z_insulation},
                             {axis, l.z_insulation}}));

    const double u0 = c.design.duty.u0();
    // The conductor screen is one body with the conductor here: both are at line voltage.
    s.electrodes.push_back({"conductor", u0, false,
                            Outline::polygon({{0, l.z_bottom},
                                              {d.conductor_screen, l.z_bottom},
                                              {d.conductor_screen, l.z_insulation},
                                              {d.conductor, l.z_insulation},
                                              {d.conductor, l.z_top},
                                              {0, l.z_top}})});
    s.electrodes.push_back(
        {"lug", u0, false,
         Outline::polygon(
             {{0, l.z_barrel}, {l.barrel_radius, l.z_barrel}, {l.barrel_radius, l.z_top}, {0, l.z_top}})});
    s.electrodes.push_back({"insulation screen", 0, false, screen});
    s.electrodes.push_back({"metallic screen", 0, false,
                            Outline::polygon({{d.screen, l.z_bottom},
                                              {d.metallic, l.z_bottom},
                                              {d.metallic, l.z_metallic},
                                              {d.screen, l.z_metallic}})});
    s.boundaries.push_back(
        {"nearby earth", 0, {{in.earth_distance, l.z_bottom}, {in.earth_distance, l.z_top}}});

    s.paths.push_back(
        {"insulation surface", {{d.insulation, contact_z}, {d.insulation, l.z_insulation}}, "insulation"});
    s.paths.push_back({"sleeve surface", sleeve.points(), "air"});
    s.paths.push_back(
        {"conductor screen",
         {{d.conductor_screen, std::max(l.z_bottom + 5, -60.0)}, {d.conductor_screen, l.z_insulation}},
         "insulation"});
    const double step = d.screen - d.insulation;
    const bool wedge = !in.mastic && in.preparation != "chamfered";
    if (wedge) {
        const double height = d.insulation + 0.3 * step;
        s.paths.push_back({"air wedge",
                           {{height, 0.02}, {height, 0.6 * bridge_length_per_height * step}},
                           "air under tube"});
    }

    out.datum_z_mm = in.screen_edge;
    out.view_z0_mm = l.z_sleeve0 - 25;
    out.view_z1_mm = l.z_end + 20;
    out.view_r0_mm = 0.7 * d.conductor;
    out.view_r_mm = sleeve.greatest_radius() * 1.12;
    out.parts = {{"air", "air", "air", false},
                 {"sleeve", "anti-tracking sleeve", "sleeve", false},
                 {"air under sleeve", "air pocket", "air", false},
                 {"lug sealant", "sealant", "sealant", false},
                 {"metallic screen sealant", "sealant", "sealant", false},
                 {"stress tube", "stress tube", "grading", false},
                 {"air under tube", "air wedge", "air", false},
                 {"jacket", "jacket", "jacket", false},
                 {"insulation", insulation->title + " insulation", "insulation", false},
                 {"conductor", "conductor", "metal", true},
                 {"lug", "lug", "metal", true},
                 {"insulation screen", "insulation screen", "semiconductor", true},
                 {"metallic screen", "metallic screen", "metal", true}};
    if (in.mastic) out.parts.push_back({"relief mastic", "relief mastic", "mastic", false});
    if (in.tube_end_filled) {
        out.parts.push_back({"tube end filler", "filler", "sealant", false});
        out.parts.push_back({"tube heel filler", "filler", "sealant", false});
    }

    out.marks = {{"cable end", 0},
                 {"insulation end", in.insulation_removed},
                 {"stress tube upper end", in.tube_upper},
                 {"screen edge", in.screen_edge},
                 {"stress tube lower end", in.tube_lower},
                 {"metallic screen cut", in.metallic_cut},
                 {"jacket cut", in.jacket_cut}};
    if (in.mastic) {
        out.marks.push_back({"mastic onto insulation", in.screen_edge - in.mastic_on_insulation});
        out.marks.push_back({"mastic onto screen", in.screen_edge + in.mastic_on_screen});
    }
    std::sort(out.marks.begin(), out.marks.end(),
              [](const auto& a, const auto& b) { return a.from_datum_mm < b.from_datum_mm; });
    out.handles = {{"screen_edge_mm", "screen edge", {d.screen, 0}},
                   {"tube_upper_end_mm", "stress tube, upper end", {tube.points().back().r, l.z_tube1}},
                   {"tube_lower_end_mm", "stress tube, lower end", {tube.points().front().r, l.z_tube0}}};

    const double cable_stress =
        cable_electrical(c.dimensions, insulation->eps_r.value, u0, 60).stress_conductor_screen_kV_per_mm;
    const double wall_on_insulation =
        closedform::recovered_outer_radius_mm(in.tube, d.insulation) - d.insulation;
    const closedform::GradedLayer layer{u0,
                                        d.conductor_screen,
                                        d.insulation,
                                        insulation->eps_r.value,
                                        wall_on_insulation,
                                        in.tube_eps,
                                        l.z_tube1,
                                        in.tube_conduction == "none" ? 0.0 : in.tube_sigma,
                                        c.design.duty.frequency_hz};
    add_checks(l, contact_z, cable_stress, 1 / layer.beta_per_mm(), wedge, out);
    out.estimates = {{"insulation_tangential", layer.tangential_kV_per_mm(0),
                      "thin graded layer: beta U tanh(beta L), outer medium neglected"},
                     {"insulation_ratio", 1.0, "undisturbed cable"}};
    out.derived = {
        {"stress tube wall on insulation (mm)", wall_on_insulation},
        {"stress tube wall on screen (mm)", tube.points().front().r - under_tube.points().front().r},
        {"sleeve wall on insulation (mm)",
         closedform::recovered_outer_radius_mm(in.sleeve, d.insulation) - d.insulation},
        {"stress tube past the edge (mm)", l.z_tube1},
        {"1 / beta of the graded layer (mm)", 1 / layer.beta_per_mm()}};
    out.cautions = {
        "Work only on a cable that competent people have isolated, proved dead and earthed under the local "
        "rules.",
        "Torch, solvent and blade: ventilate, keep solvent away from flame, wear eye and hand protection.",
        "The computation is a design aid: it does not replace the type test or the maker's instructions."};
    return out;
}

ParameterSpec length_parameter(const char* key, const char* group, const char* label, const char* help,
                               double lowest, double highest,
                               std::function<double(const DesignContext&)> value) {
    return {key, group, label, help, ParameterKind::length, lowest, highest, std::move(value), {}};
}

} // namespace

Family heat_shrink_termination() {
    Family f;
    f.id = "heat_shrink_termination";
    f.title = "Heat-shrink termination";
    auto fixed = [](double v) { return [v](const DesignContext&) { return v; }; };
    auto of_layer = [](const char* layer, double factor) {
        return [layer, factor](const DesignContext& c) {
            return factor * c.dimensions.layer(layer).diameter_mm;
        };
    };
    auto number = [](const DesignContext& c, const char* key) {
        return number_of(*find_family("heat_shrink_termination"), c, key);
    };
    auto behind = [number](const char* key, double by) {
        return [number, key, by](const DesignContext& c) { return number(c, key) + by; };
    };
    auto clearance = [](const DesignContext& c) {
        return 60 + 7.5 * c.design.duty.class_kV;
    }; // length of insulation, invented default
    auto add = [&](ParameterSpec spec) { f.parameters.push_back(std::move(spec)); };
    auto eps = [&](const char* key, const char* group, const char* label, const char* material) {
        const std::string id = material;
        add({key,
             group,
             label,
             "Relative permittivity",
             ParameterKind::permittivity,
             1,
             100,
             [id](const DesignContext& c) { return c.materials.find(id)->eps_r.value; },
             {}});
    };
    auto choice = [&](const char* key, const char* group, const char* label, const char* help,
                      std::vector<std::pair<std::string, std::string>> options) {
        add({key, group, label, help, ParameterKind::choice, 0, 0, {}, std::move(options)});
    };

    const char* cuts = "Cutbacks, from the cable end";
    add(length_parameter("insulation_removed_mm", cuts, "Insulation removed",
                         "Lug barrel depth + 3 mm (common practice)", 5, 1000,
                         behind("lug_barrel_depth_mm", 3)));
    add(length_parameter("screen_edge_mm", cuts, "Screen edge",
                         "End of the insulation screen: drag it in BUILD", 20, 3000,
                         [number, clearance](const DesignContext& c) {
                             return number(c, "insulation_removed_mm") + clearance(c);
                         }));
    add(length_parameter("metallic_screen_cut_mm", cuts, "Metallic screen cut",
                         "Wires folded back or tape cut", 20, 3000, behind("screen_edge_mm", 45)));
    add(length_parameter("jacket_cut_mm", cuts, "Jacket cut", "", 20, 3000,
                         behind("metallic_screen_cut_mm", 15)));

    const char* edge = "Screen edge";
    choice("edge_preparation", edge, "Preparation", "What the tool leaves",
           {{"ring", "ring tool, square"}, {"filed", "filed round"}, {"chamfered", "chamfered"}});
    add(length_parameter("edge_radius_mm", edge, "Edge radius",
                         "Ring tool 0.15, filed 0.3, chamfer tip 0.1 mm (common practice)", 0.03, 2,
                         [](const DesignContext& c) {
                             const auto it = c.design.choices.find("edge_preparation");
                             if (it == c.design.choices.end() || it->second == "ring") return 0.15;
                             return it->second == "filed" ? 0.3 : 0.1;
                         }));
    add(length_parameter("chamfer_length_mm", edge, "Chamfer length", "Used when chamfered", 0.5, 30,
                         fixed(4)));

    const char* mastic = "Relief mastic";
    choice("relief_mastic", mastic, "Over the edge",
           "Left out, the tube spans the step and air stays under it",
           {{"present", "present"}, {"absent", "left out"}});
    add(length_parameter("mastic_on_insulation_mm", mastic, "Onto insulation",
                         "About 10 mm (common practice)", 1, 200, fixed(10)));
    add(length_parameter("mastic_on_screen_mm", mastic, "Onto screen", "About 20 mm (common practice)", 1,
                         200, fixed(20)));
    add(length_parameter("mastic_thickness_mm", mastic, "Thickness on screen", "Stretched thin", 0.1, 10,
                         fixed(1.0)));
    eps("mastic_eps_r", mastic, "Permittivity", "relief mastic");

    const char* tube = "Stress tube";
    add(length_parameter("tube_upper_end_mm", tube, "Upper end, from cable end", "Drag it in BUILD", 5, 3000,
                         [number](const DesignContext& c) {
                             return number(c, "screen_edge_mm") -
                                    0.62 * (number(c, "screen_edge_mm") - number(c, "insulation_removed_mm"));
                         }));
    add(length_parameter("tube_lower_end_mm", tube, "Lower end, from cable end", "Drag it in BUILD", 5, 3000,
                         behind("screen_edge_mm", 30)));
    add(length_parameter("tube_expanded_bore_mm", tube, "Expanded bore", "As supplied", 5, 300,
                         of_layer("insulation screen", 1.5)));
    add(length_parameter("tube_recovered_bore_mm", tube, "Recovered bore", "Fully recovered, free", 2, 200,
                         of_layer("insulation", 0.6)));
    add(length_parameter("tube_recovered_wall_mm", tube, "Recovered wall", "Fully recovered, free", 0.3, 20,
                         fixed(3.8)));
    eps("tube_eps_r", tube, "Permittivity", "stress tube");
    choice("tube_conduction", tube, "Conduction", "None: refractive grading only",
           {{"none", "none"}, {"constant", "constant"}, {"power", "field-dependent"}});
    add({"tube_S_per_m",
         tube,
         "Conductivity, S/m",
         "At low field, when it conducts (common practice, no source)",
         ParameterKind::conductivity,
         1e-16,
         1e2,
         fixed(1e-7),
         {}});
    add({"tube_E0_kV_per_mm",
         tube,
         "Switching field, kV/mm",
         "rms; sigma = sigma0 (1 + (E/E0)^n)",
         ParameterKind::number,
         0.01,
         20,
         fixed(0.4),
         {}});
    add({"tube_exponent",
         tube,
         "Exponent n",
         "Of the growth with field",
         ParameterKind::number,
         0,
         30,
         fixed(4),
         {}});
    choice("tube_end", tube, "Step at its ends", "Void filler where the sleeve steps down",
           {{"filled", "filled"}, {"open", "left open"}});

    const char* sleeve = "Anti-tracking sleeve";
    add(length_parameter(
        "sleeve_upper_end_mm", sleeve, "Upper end, from cable end", "On the lug barrel", 0, 3000,
        [number](const DesignContext& c) { return number(c, "lug_barrel_depth_mm") * 0.4; }));
    add(length_parameter("sleeve_lower_end_mm", sleeve, "Lower end, from cable end", "On the jacket", 20,
                         3500, behind("jacket_cut_mm", 40)));
    add(length_parameter("sleeve_expanded_bore_mm", sleeve, "Expanded bore", "As supplied", 5, 400,
                         of_layer("jacket", 1.7)));
    add(length_parameter("sleeve_recovered_bore_mm", sleeve, "Recovered bore", "Fully recovered, free", 2,
                         200, of_layer("conductor", 0.7)));
    add(length_parameter("sleeve_recovered_wall_mm", sleeve, "Recovered wall", "Fully recovered, free", 0.3,
                         20, fixed(3.4)));
    eps("sleeve_eps_r", sleeve, "Permittivity", "anti-tracking sleeve");

    const char* lug = "Lug and surroundings";
    add(length_parameter("lug_barrel_depth_mm", lug, "Lug barrel depth", "", 5, 300, fixed(55)));
    add(length_parameter("lug_barrel_diameter_mm", lug, "Lug barrel diameter", "Outside", 3, 150,
                         of_layer("conductor", 1.5)));
    add(length_parameter("earth_distance_mm", lug, "Nearby earth, from the axis",
                         "Nearest earthed part, taken all round", 20, 2000, fixed(200)));

    f.build = [](const DesignContext& c) { return build(*find_family("heat_shrink_termination"), c); };
    return f;
}

} // namespace ng
