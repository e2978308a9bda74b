#include "accessory/parameters.h"
#include "closedform/air.h"
#include "closedform/pollution.h"
#include "closedform/table.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace ng {

void ParameterList::length(const std::string& key, const std::string& label, const std::string& help,
                           double lowest_mm, double highest_mm, DefaultValue value) {
    family_.parameters.push_back({.key = key,
                                  .group = group_,
                                  .label = label,
                                  .help = help,
                                  .kind = ParameterKind::length,
                                  .lowest = lowest_mm,
                                  .highest = highest_mm,
                                  .default_value = std::move(value)});
}

void ParameterList::number(const std::string& key, const std::string& label, const std::string& help,
                           double lowest, double highest, DefaultValue value) {
    family_.parameters.push_back({.key = key,
                                  .group = group_,
                                  .label = label,
                                  .help = help,
                                  .kind = ParameterKind::number,
                                  .lowest = lowest,
                                  .highest = highest,
                                  .default_value = std::move(value)});
}

void ParameterList::conductivity(const std::string& key, const std::string& label, const std::string& help,
                                 double value_S_per_m) {
    family_.parameters.push_back({.key = key,
                                  .group = group_,
                                  .label = label,
                                  .help = help,
                                  .kind = ParameterKind::conductivity,
                                  .lowest = 1e-16,
                                  .highest = 1e4,
                                  .default_value = fixed(value_S_per_m)});
}

void ParameterList::permittivity(const std::string& key, const std::string& label,
                                 const std::string& material) {
    family_.parameters.push_back({.key = key,
                                  .group = group_,
                                  .label = label,
                                  .help = "Relative permittivity",
                                  .kind = ParameterKind::permittivity,
                                  .lowest = 1,
                                  .highest = 100,
                                  .default_value = [material](const DesignContext& c) {
                                      const auto* found = c.materials.find(material);
                                      return found ? found->eps_r.value : 0.0; // 0 is out of range: refused
                                  }});
    // Filled compounds differ by their filler; others hardly.
    family_.parameters.back().may_be = [](const DesignContext&, double assumed) {
        return std::optional((assumed > 5 ? 0.6 : 1.2) * assumed);
    };
}

void ParameterList::doubted(double factor, const std::string& key, const std::string& unused) {
    family_.parameters.back().may_be = [=](const DesignContext& c, double assumed) -> std::optional<double> {
        if (!key.empty() && choice_of(c, key) == unused) return {};
        return factor * assumed;
    };
}

void ParameterList::choice(const std::string& key, const std::string& label, const std::string& help,
                           std::vector<std::pair<std::string, std::string>> options) {
    family_.parameters.push_back({.key = key,
                                  .group = group_,
                                  .label = label,
                                  .help = help,
                                  .kind = ParameterKind::choice,
                                  .lowest = 0,
                                  .highest = 0,
                                  .default_value = {},
                                  .options = std::move(options)});
}

DefaultValue ParameterList::value_of(const std::string& key, double by, double factor) const {
    return [key, by, factor](const DesignContext& c) { return factor * number_of(c, key) + by; };
}

void ParameterList::screen_edge(const std::string& usual_preparation) {
    group("Screen edge");
    std::vector<std::pair<std::string, std::string>> ways{
        {"ring", "ring tool, square"}, {"filed", "filed round"}, {"chamfered", "chamfered"}};
    std::stable_partition(ways.begin(), ways.end(),
                          [&](const auto& way) { return way.first == usual_preparation; });
    choice("edge_preparation", "Preparation", "What the tool leaves", std::move(ways));
    length("edge_radius_mm", "Edge radius", "Ring tool 0.15, filed 0.3, chamfer tip 0.1 mm (common practice)",
           0.03, 2, [](const DesignContext& c) {
               const auto how = choice_of(c, "edge_preparation");
               return how == "ring" ? 0.15 : how == "filed" ? 0.3 : 0.1;
           });
    doubted(0.4);
    length("chamfer_length_mm", "Chamfer length", "Used when chamfered", 0.5, 30, fixed(4));
    choice("screen_body", "Insulation screen",
           "Ideal: at earth everywhere. Resistive: its own conductivity carries the charging current",
           {{"ideal", "taken as ideal"}, {"resistive", "resistive"}});
    conductivity("screen_S_per_m", "Conductivity, S/m", "Used when resistive (common practice, no source)",
                 1.0);
    doubted(10, "screen_body", "ideal");
}

void ParameterList::relief_mastic(const std::string& absent_help) {
    group("Relief mastic");
    choice("relief_mastic", "Over the edge", absent_help, {{"present", "present"}, {"absent", "left out"}});
    length("mastic_on_insulation_mm", "Onto insulation",
           "10 mm to 15 kV (common practice), then 2 mm more a kV", 1, 200, mastic_onto_insulation());
    length("mastic_on_screen_mm", "Onto screen", "About 20 mm (common practice)", 1, 200, fixed(20));
    length("mastic_thickness_mm", "Thickness on screen", "Stretched thin; thicker above 15 kV", 0.1, 10,
           mastic_thickness());
    permittivity("mastic_eps_r", "Permittivity", "relief mastic");
}

void ParameterList::edge_fill(const std::string& usual, DefaultValue mastic_onto_mm, DefaultValue mastic_mm) {
    group("Step at the screen edge");
    std::vector<std::pair<std::string, std::string>> fills{
        {"grease", "grease"}, {"mastic", "relief mastic"}, {"air", "nothing"}};
    std::stable_partition(fills.begin(), fills.end(), [&](const auto& fill) { return fill.first == usual; });
    choice("edge_fill", "Filled with", "Chamfer and grease, or mastic over the edge: two schools",
           std::move(fills));
    length("mastic_on_insulation_mm", "Mastic onto insulation",
           "10 mm to 15 kV (common practice), more above it (chosen)", 1, 200,
           mastic_onto_mm ? std::move(mastic_onto_mm) : mastic_onto_insulation());
    length("mastic_on_screen_mm", "Mastic onto screen", "About 20 mm (common practice)", 1, 200, fixed(20));
    length("mastic_thickness_mm", "Mastic thickness on screen", "Stretched thin; thicker above 15 kV", 0.1,
           10, mastic_mm ? std::move(mastic_mm) : mastic_thickness());
    permittivity("mastic_eps_r", "Permittivity of mastic", "relief mastic");
    permittivity("grease_eps_r", "Permittivity of grease", "grease");
}

void ParameterList::cone(bool with_tip) {
    group("Cone");
    choice("cone_profile", "Profile", "As moulded into the body",
           {{"constant_axial", "constant stress on the cone"},
            {"constant_tangential", "constant stress on the interface"},
            {"straight", "straight"},
            {"arc", "circular arc"}});
    length("cone_length_mm", "Length", "", 5, 400, by_class(20, 1.8));
    if (with_tip) {
        // Beyond 15 kV chosen: with it the body in air holds on the thickest conductor
        // (docs/families/defaults.md).
        length("cone_rise_mm", "Rise above the insulation", "At its upper end", 1, 120,
               by_class_beyond_15(3, 0.45, 1.0));
        length("cone_tip_radius_mm", "Tip radius", "Of the rounded upper end", 0.2, 15, fixed(2));
    }
    length("cone_overlap_mm", "Lap on the screen", "Behind the start of the cone", 2, 300, fixed(25));
    std::map<std::string, std::string> keys{
        {"length", "cone_length_mm"}, {"profile", "cone_profile"}, {"permittivity", "body_eps_r"}};
    if (with_tip) keys["rise"] = "cone_rise_mm";
    aid(AidRole::Kind::cone, std::move(keys));
    if (with_tip) aid(AidRole::Kind::edge_radius, {{"radius", "cone_tip_radius_mm"}}, 3);
}

void ParameterList::aid(AidRole::Kind kind, std::map<std::string, std::string> keys, int rank) {
    const AidRole role{kind, std::move(keys), rank};
    auto& aids = family_.aids;
    aids.insert(std::upper_bound(aids.begin(), aids.end(), role,
                                 [](const AidRole& a, const AidRole& b) {
                                     return std::pair(a.kind, a.rank) < std::pair(b.kind, b.rank);
                                 }),
                role);
}

void ParameterList::shrink_tube(const std::string& prefix, const std::string& material,
                                DefaultValue expanded_mm, DefaultValue recovered_mm, DefaultValue wall_mm) {
    length(prefix + "_expanded_bore_mm", "Expanded bore", "As supplied", 5, 400, std::move(expanded_mm));
    length(prefix + "_recovered_bore_mm", "Recovered bore", "Fully recovered, free", 2, 200,
           std::move(recovered_mm));
    length(prefix + "_recovered_wall_mm", "Recovered wall", "Fully recovered, free", 0.3, 40,
           std::move(wall_mm));
    permittivity(prefix + "_eps_r", "Permittivity", material);
}

void ParameterList::recovery() {
    group("Recovery");
    choice("wall_side", "Walls drawn", "A tube or body recovers eccentrically: its thin side decides",
           {{"mean", "mean wall"}, {"worst", "thinnest side"}});
    number("eccentricity_percent", "Thinner on one side by, %",
           "Used with the thinnest side (common practice, no source)", 0, 60, fixed(15));
}

void ParameterList::graded_layer_aid(const std::string& prefix,
                                     std::map<std::string, std::string> more_roles) {
    more_roles.insert({{"wall", prefix + "_recovered_wall_mm"},
                       {"bore", prefix + "_recovered_bore_mm"},
                       {"permittivity", prefix + "_eps_r"}});
    aid(AidRole::Kind::graded_layer, std::move(more_roles));
}

void ParameterList::conduction(const std::string& prefix) {
    choice(prefix + "_conduction", "Conduction", "None: refractive grading only",
           {{"none", "none"}, {"constant", "constant"}, {"power", "field-dependent"}});
    conductivity(prefix + "_S_per_m", "Conductivity, S/m",
                 "At low field, when it conducts (common practice, no source)", 1e-7);
    doubted(10, prefix + "_conduction", "none");
    number(prefix + "_E0_kV_per_mm", "Switching field, kV/mm", "rms; sigma = sigma0 (1 + (E/E0)^n)", 0.01, 20,
           fixed(0.4));
    number(prefix + "_exponent", "Exponent n", "Of the growth with field", 0, 30, fixed(4));
}

void ParameterList::termination_cuts(DefaultValue insulation_removed_mm, DefaultValue clearance_mm) {
    group("Cutbacks, from the cable end");
    length("insulation_removed_mm", "Insulation removed", "Lug barrel depth + 3 mm (common practice)", 5,
           1000, std::move(insulation_removed_mm));
    length("screen_edge_mm", "Screen edge", "End of the insulation screen: drag it in BUILD", 20, 3000,
           [removed = value_of("insulation_removed_mm"), clearance = std::move(clearance_mm)](
               const DesignContext& c) { return removed(c) + clearance(c); });
    length("metallic_screen_cut_mm", "Metallic screen cut", "Wires folded back or tape cut", 20, 3000,
           value_of("screen_edge_mm", 45));
    length("jacket_cut_mm", "Jacket cut", "On three-core cable the end of the core tube", 20, 3000,
           value_of("metallic_screen_cut_mm", 15));
}

void ParameterList::lug(bool earth_nearby) {
    group(earth_nearby ? "Lug and surroundings" : "Lug");
    length("lug_barrel_depth_mm", "Lug barrel depth", "Grows with the conductor", 5, 300, barrel_depth());
    length("lug_barrel_diameter_mm", "Lug barrel diameter", "Outside", 3, 150, of_layer("conductor", 1.5));
    length(
        "lug_palm_width_mm", "Lug palm width",
        "What goes on after the lug must pass it; usually half as wide again as the barrel (common practice)",
        5, 250, value_of("lug_barrel_diameter_mm", 0, 1.5));
    takes_connector({"lug", "lug_barrel_depth_mm", "lug_barrel_diameter_mm", "lug_palm_width_mm"});
    if (earth_nearby) {
        length("earth_distance_mm", "Nearby earth, from the axis", "Nearest earthed part, taken all round",
               20, 2000, fixed(200));
        doubted(0.5);
    }
}

void ParameterList::joint_cuts(DefaultValue insulation_end_mm, DefaultValue clearance_mm) {
    for (const char* side : {"a", "b"}) {
        const bool first = *side == 'a';
        const std::string key = std::string(side) + "_", tag = first ? " A" : " B";
        group("Side" + tag + ", from the joint centre");
        auto as_a = [&](const char* what, DefaultValue own) {
            return first ? std::move(own) : value_of(std::string("a_") + what);
        };
        length(key + "insulation_end_mm", "Insulation end" + tag,
               "Half the connector + 5 mm (common practice); 3 mm under cold-shrink bodies", 5, 1000,
               as_a("insulation_end_mm", insulation_end_mm));
        length(key + "screen_edge_mm", "Screen edge" + tag, "End of the insulation screen: drag it in BUILD",
               15, 3000,
               as_a("screen_edge_mm", [end = value_of("a_insulation_end_mm"), clearance_mm](
                                          const DesignContext& c) { return end(c) + clearance_mm(c); }));
        length(key + "metallic_cut_mm", "Metallic screen cut" + tag, "", 20, 3000,
               as_a("metallic_cut_mm", value_of("a_screen_edge_mm", 45)));
        length(key + "jacket_cut_mm", "Jacket cut" + tag,
               "The long side takes the parked parts: cut its jacket further back", 20, 3500,
               as_a("jacket_cut_mm", value_of("a_metallic_cut_mm", 40)));
    }
}

void ParameterList::body_cuts(const std::string& datum, DefaultValue insulation_end_mm,
                              DefaultValue clearance_mm) {
    group("Cutbacks, from the " + datum);
    length("insulation_end_mm", "Insulation end", "", 5, 1500, std::move(insulation_end_mm));
    length("screen_edge_mm", "Screen edge", "End of the insulation screen: drag it in BUILD", 15, 3000,
           [end = value_of("insulation_end_mm"),
            clearance = std::move(clearance_mm)](const DesignContext& c) { return end(c) + clearance(c); });
    length("metallic_cut_mm", "Metallic screen cut", "", 20, 3000, value_of("screen_edge_mm", 60));
    length("jacket_cut_mm", "Jacket cut", "", 20, 3500, value_of("metallic_cut_mm", 15));
}

void ParameterList::insulation_end(double pencil_mm, bool pencilled_first) {
    std::vector<std::pair<std::string, std::string>> options{{"square", "square"},
                                                             {"pencilled", "pencilled"}};
    if (pencilled_first) std::swap(options[0], options[1]);
    group("Insulation end");
    choice("insulation_end", "Shape", "A pencil eases the step to the connector; it takes skill and length",
           std::move(options));
    length("pencil_length_mm", "Pencil length", "45 to 50 mm (common practice)", 3, 200, fixed(pencil_mm));
    length("conductor_screen_left_mm", "Conductor screen left", "5 mm (common practice), when pencilled", 0.5,
           30, fixed(5));
    aid(AidRole::Kind::pencil, {{"length", "pencil_length_mm"}, {"shape", "insulation_end"}});
}

void ParameterList::connector() {
    group("Connector");
    length("connector_length_mm", "Length", "", 10, 600,
           [](const DesignContext& c) { return 50 + 3 * c.dimensions.layer("conductor").diameter_mm; });
    length("connector_diameter_mm", "Diameter", "Outside, after crimping or shearing", 4, 150,
           of_layer("conductor", 1.5));
    length("connector_end_radius_mm", "End radius", "Filed; a burr is sharper", 0.05, 10, fixed(1.5));
    aid(AidRole::Kind::edge_radius, {{"radius", "connector_end_radius_mm"}}, 2);
    takes_connector({"joint", "connector_length_mm", "connector_diameter_mm"});
}

DefaultValue fixed(double value) {
    return [value](const DesignContext&) { return value; };
}

DefaultValue of_layer(const std::string& layer, double factor, double plus_mm) {
    return [=](const DesignContext& c) {
        return plus_mm + factor * std::max(c.dimensions.layer(layer).diameter_mm,
                                           c.dimensions_of(CableSide::b).layer(layer).diameter_mm);
    };
}

DefaultValue of_smaller_layer(const std::string& layer, double factor, double plus_mm) {
    return [=](const DesignContext& c) {
        return plus_mm + factor * std::min(c.dimensions.layer(layer).diameter_mm,
                                           c.dimensions_of(CableSide::b).layer(layer).diameter_mm);
    };
}

namespace {

/// Usual wet level by class, the higher of both schools (from memory): what a default is made for, whatever
/// its standard.
double usual_wet_kV(double class_kV) {
    static constexpr std::array<std::pair<double, double>, 8> rows{
        {{2.5, 20}, {5, 25}, {8.7, 35}, {15, 45}, {20, 52}, {25, 61}, {35, 84}, {46, 100}}};
    return closedform::in_table(rows, class_kV);
}

bool is_iec(const Duty& duty) {
    return duty.standard.rfind("iec", 0) == 0;
}

constexpr double spare = 1.13;                  // over what the rules of distance need (chosen)
constexpr double wet_kV_per_mm = 0.22;          // flashover.wet of the limits
constexpr double creepage_over_length = 1.9;    // of a surface with sheds close together
constexpr double creepage_over_screen_mm = 130; // what creeps over jacket, screen and barrel
constexpr double creepage_of_shed_mm = 48;      // added by one, up and down

double creepage_needed_mm(const Duty& duty) {
    if (!duty.outdoor) return 0;
    // The highest voltage is 1.2 times the name of the class in the second school, else 1.1 times.
    const double highest = (is_iec(duty) ? 1.2 : 1.1) * duty.class_kV;
    return spare * specific_creepage_mm_per_kV(duty.pollution).value_or(31) * highest;
}

/// Of the surface in air that the second school's salt fog would bridge, outdoors: 1.25 U0 over a film of
/// 40 uS, as its pack has it.
double surface_for_fog_mm(const DesignContext& c) {
    const auto& duty = c.design.duty;
    if (!duty.outdoor || !is_iec(duty)) return 0;
    constexpr double multiple = 1.25, film_ohm = 25e3, fog_spare = 1.2;
    constexpr double over_insulation_mm = 10; // of tubes and sheds, on the average
    const double radius = c.dimensions.radius_mm("insulation") + over_insulation_mm;
    const double kV_per_mm =
        closedform::polluted_flashover_kV_peak(1, film_ohm / (2 * std::numbers::pi * radius));
    return fog_spare * multiple * duty.u0() * std::numbers::sqrt2 / kV_per_mm;
}

/// Of the surface from the lug to the screen's edge.
double surface_needed_mm(const DesignContext& c) {
    return std::max(creepage_needed_mm(c.design.duty) - creepage_over_screen_mm, surface_for_fog_mm(c));
}

} // namespace

double usual_impulse_kV(double class_kV) {
    static constexpr std::array<std::pair<double, double>, 10> rows{{{2.5, 60},
                                                                     {5, 75},
                                                                     {8, 95},
                                                                     {15, 110},
                                                                     {20, 125},
                                                                     {25, 150},
                                                                     {28, 165},
                                                                     {30, 175},
                                                                     {35, 200},
                                                                     {46, 250}}};
    return closedform::in_table(rows, class_kV);
}

DefaultValue insulation_in_air() {
    return [](const DesignContext& c) {
        const auto& duty = c.design.duty;
        double needed = closedform::impulse_clearance_mm(usual_impulse_kV(duty.class_kV));
        if (duty.outdoor) needed = std::max(needed, usual_wet_kV(duty.class_kV) / wet_kV_per_mm);
        needed *= spare * altitude_factor(duty.altitude_m);
        needed = std::max(needed, surface_needed_mm(c) / creepage_over_length);
        return 5 * std::ceil(needed / 5);
    };
}

DefaultValue usual_sheds(DefaultValue length_mm, DefaultValue spacing_mm) {
    return [=](const DesignContext& c) {
        const auto& duty = c.design.duty;
        if (!duty.outdoor) return duty.class_kV >= 33 ? 1.0 : 0.0;
        const double length = length_mm(c), lacks = surface_needed_mm(c) - length,
                     room = std::floor((length - 60) / spacing_mm(c)) + 1;
        return std::clamp(std::ceil(lacks / creepage_of_shed_mm), std::min(2.0, room), std::max(room, 2.0));
    };
}

DefaultValue barrel_depth() {
    // Of the connectors that ship with it: 12 mm + 3 conductor diameters in copper, 8 mm more in aluminium.
    return [](const DesignContext& c) {
        const double depth = 12 + 3 * c.dimensions.layer("conductor").diameter_mm +
                             (c.cable.conductor_material == "aluminium" ? 8 : 0);
        return std::round(depth);
    };
}

DefaultValue mastic_onto_insulation() {
    return by_class_beyond_15(10, 0, 2);
}

DefaultValue mastic_thickness() {
    return by_class_beyond_15(1.2, 0, 0.12);
}

DefaultValue plus(DefaultValue a, DefaultValue b) {
    return [a = std::move(a), b = std::move(b)](const DesignContext& c) { return a(c) + b(c); };
}

DefaultValue by_class(double base, double per_kV) {
    return [=](const DesignContext& c) { return base + per_kV * c.design.duty.class_kV; };
}

DefaultValue by_class_beyond_15(double base, double per_kV, double per_kV_beyond) {
    return [=](const DesignContext& c) {
        const double kV = c.design.duty.class_kV;
        return base + per_kV * std::min(kV, 15.0) + per_kV_beyond * std::max(kV - 15, 0.0);
    };
}

closedform::ShrinkTube ParameterValues::tube(const std::string& prefix) const {
    return {(*this)(prefix + "_expanded_bore_mm"), (*this)(prefix + "_recovered_bore_mm"),
            (*this)(prefix + "_recovered_wall_mm")};
}

std::optional<Conduction> ParameterValues::conduction(const std::string& prefix) const {
    const auto law = choice_of(context_, prefix + "_conduction");
    if (law == "none") return {};
    Conduction out;
    out.law = law;
    out.sigma0_S_per_m = (*this)(prefix + "_S_per_m");
    out.E0_kV_per_mm = (*this)(prefix + "_E0_kV_per_mm");
    out.exponent = (*this)(prefix + "_exponent");
    out.field = "rms";
    out.provenance = "user";
    return out;
}

double ParameterValues::wall_share() const {
    if (!family().parameter("wall_side")) return 1; // a family whose walls are drawn
    return is("wall_side", "worst") ? 1 - (*this)("eccentricity_percent") / 100 : 1;
}

EdgePreparation ParameterValues::edge() const {
    EdgePreparation out{
        choice_of(context_, "edge_preparation"), (*this)("edge_radius_mm"), (*this)("chamfer_length_mm"), {}};
    if (is("screen_body", "resistive")) out.screen_S_per_m = (*this)("screen_S_per_m");
    return out;
}

namespace {
CableEnd cable_end_of(const DesignContext& context, CableSide side, Side named) {
    CableEnd end;
    end.side = named;
    end.r = radii_of(context.dimensions_of(side));
    if (const auto* insulation = context.materials.find(context.cable_of(side).insulation_material)) {
        end.insulation_eps = insulation->eps_r.value;
        end.insulation_title = insulation->title;
    }
    return end;
}
} // namespace

ConeShape ParameterValues::cone() const {
    return {choice_of(context_, "cone_profile"), (*this)("cone_length_mm"),
            family().parameter("cone_rise_mm") ? (*this)("cone_rise_mm") : 0};
}

CableEnd ParameterValues::termination_end(double far_z_mm) const {
    const auto& value = *this;
    auto end = cable_end_of(context_, CableSide::a, Side::none);
    const double edge_at = value("screen_edge_mm");
    end.far = far_z_mm;
    end.jacket = edge_at - value("jacket_cut_mm");
    end.metallic = edge_at - value("metallic_screen_cut_mm");
    end.screen = 0;
    end.insulation = edge_at - value("insulation_removed_mm");
    end.conductor = edge_at;
    end.edge = edge();
    return end;
}

CableEnd ParameterValues::joint_end(CableSide side) const {
    return side == CableSide::a ? end_from_datum(side, "a_", Side::a) : end_from_datum(side, "b_", Side::b);
}

CableEnd ParameterValues::body_end() const {
    return end_from_datum(CableSide::a, "", Side::none);
}

CableEnd ParameterValues::end_from_datum(CableSide side, const std::string& key, Side named) const {
    const auto& value = *this;
    auto end = cable_end_of(context_, side, named);
    end.jacket = -value(key + "jacket_cut_mm");
    end.far = end.jacket - 30;
    end.metallic = -value(key + "metallic_cut_mm");
    end.screen = -value(key + "screen_edge_mm");
    if (family().parameter(key + "insulation_end_mm")) end.insulation = -value(key + "insulation_end_mm");
    end.conductor = 0;
    if (family().parameter("edge_preparation")) end.edge = edge();
    if (family().parameter("insulation_end") && is("insulation_end", "pencilled")) {
        end.pencil_mm = value("pencil_length_mm");
        end.conductor_screen_left_mm = value("conductor_screen_left_mm");
    }
    return end;
}

} // namespace ng
