// Branch (Y) joint: one cable on side A, two cores on side B. Each core by itself is axisymmetric; how the
// two lie beside each other under one screen is a planar section.
#include "accessory/across.h"
#include "accessory/checks.h"
#include "accessory/heat_shrink_joint.h"
#include <numbers>

namespace ng {
namespace {

/// Two cores of side B at line voltage, each in its stress tube, packed and insulated under one screen.
Result<void> add_two_cores(LayUp& lay, const ParameterValues& v, const CableEnd& b) {
    const double tube = closedform::recovered_outer_radius_mm(v.tube("tube"), b.r.insulation);
    const double half = tube + v("core_gap_mm") / 2, hull = tube + v("packing_mm");
    // The tubes recover onto the hull: their wall as on a circle of the hull's perimeter.
    const double equal = hull + 2 * half / std::numbers::pi;
    const double inner_wall = closedform::recovered_outer_radius_mm(v.tube("insulating"), equal) - equal;
    const double wall = closedform::recovered_outer_radius_mm(v.tube("dual"), equal + inner_wall) - equal;
    AcrossSection across;
    across.id = "two_cores";
    across.title = "Across the two-core side";
    auto& s = across.section;
    s.symmetry = Symmetry::planar;
    s.frequency_hz = lay.out.section.frequency_hz;
    const bool packed = v.is("packing", "mastic");
    s.materials = {{"insulating tubes", {v("insulating_eps_r"), {}, {}}},
                   {"packing", {packed ? v("mastic_eps_r") : 1.0, {}, {}}},
                   {"stress tube", {v("tube_eps_r"), {}, {}}},
                   {"insulation", {b.insulation_eps, {}, {}}}};
    auto add = [&](const PlaceId& place, const std::string& material, Outline outline,
                   const std::string& label, const std::string& hatch) {
        s.regions.push_back({name_of(place), material, std::move(outline)});
        across.parts.push_back({place, label, hatch, false});
    };
    const auto skin = stadium(half, hull + wall);
    add(place::insulating_tubes, "insulating tubes", closed(skin), "insulating and dual-wall tube", "sleeve");
    s.boundaries.push_back({name_of(place::joint_screen), 0, skin});
    add(place::packing, "packing", stadium_outline(half, hull), packed ? "packing mastic" : "air",
        packed ? "mastic" : "air");
    for (const double side : {-1.0, 1.0}) {
        const Point centre{0, side * half};
        const int number = side < 0 ? 1 : 2;
        add(place::stress_tube.number(number), "stress tube", circle(centre, tube),
            side < 0 ? "stress tube" : "", "grading");
        add(place::insulation.number(number), "insulation", circle(centre, b.r.insulation),
            side < 0 ? "core insulation" : "", "insulation");
        s.electrodes.push_back(
            {name_of(place::core.number(number)), lay.u0_kV, false, circle(centre, b.r.conductor_screen)});
        across.parts.push_back({place::core.number(number), "", "metal", true});
    }
    const auto inside = name_of(place::insulation.number(2));
    s.paths.push_back(
        {name_of(place::outward), {{0, half + b.r.conductor_screen}, {0, half + b.r.insulation}}, inside});
    s.paths.push_back(
        {name_of(place::upward), {{b.r.conductor_screen, half}, {b.r.insulation, half}}, inside});
    s.paths.push_back({name_of(place::hull), stadium(half, hull, 96), name_of(place::insulating_tubes)});
    if (!packed)
        s.paths.push_back(
            {name_of(place::crotch), {{-0.8 * hull, 0}, {0.8 * hull, 0}}, name_of(place::packing)});
    CheckRequest ratio;
    ratio.id = CheckKind::cores_ratio;
    ratio.title = "Core insulation across the two-core side";
    ratio.quantity = CheckRequest::Quantity::magnitude;
    ratio.places = {place::outward, place::upward};
    ratio.at = TestKind::service;
    ratio.limit_id = "insulation_ratio";
    ratio.divide_by = lay.cable_stress(b);
    ratio.because = "the outer side of the cores is stressed more than in the cable";
    ratio.cure = "Spread the cores evenly, pack them, use more wall";
    across.checks.push_back(ratio);
    across.checks.push_back(checks::interface_tangential(
        CheckKind::hull_tangential, "Tangential stress on the packing across the two-core side", place::hull,
        {"the packing lies unevenly round the cores", "Pack the hull round and smooth"}));
    if (!packed)
        across.checks.push_back(checks::enclosed_air(
            CheckKind::crotch_air, "Stress in the unpacked crotch at extinction voltage", place::crotch,
            {"air is left between the cores, and the field in it is above inception",
             "Pack the voids with mastic"}));
    lay.out.across.push_back(std::move(across));
    lay.out.work_facts.insert(WorkFact::two_cores_on_b);
    lay.out.statements.push_back(
        "The section along the axis is each core by itself, with its own half of the connector; "
        "the section across shows what the cores do to each other.");
    return {};
}

} // namespace

NEEDLEGAUGE_FAMILY(branch_joint, 90) {
    Family f;
    f.id = "branch_joint";
    f.title = "Branch joint";
    f.two_cables = true;
    f.usual_standard = "ieee404";
    ParameterList list(f);
    add_heat_shrink_joint_parameters(list);
    list.group("Two-core side");
    list.choice("packing", "Between the cores", "Voids are packed with mastic",
                {{"mastic", "packing mastic"}, {"air", "left open"}});
    list.length("core_gap_mm", "Gap between the cores", "Between their stress tubes", 0.5, 60, fixed(3));
    list.length("packing_mm", "Packing over the cores", "", 0.5, 30, fixed(2));
    f.build = [](const DesignContext& c) {
        HeatShrinkJointSteps steps;
        steps.at_end = [](LayUp& lay, const ParameterValues& v, const CableEnd&, const CableEnd& b) {
            return add_two_cores(lay, v, b);
        };
        return build_heat_shrink_joint(c, steps);
    };
    return f;
}

} // namespace ng
