#include "shape/aids.h"
#include "closedform/closedform.h"
#include "units/quantity.h"
#include <algorithm>
#include <boost/geometry.hpp>
#include <boost/geometry/geometries/linestring.hpp>
#include <boost/geometry/geometries/point_xy.hpp>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr int profile_steps = 40;

/// Few lines within the tolerance (Douglas and Peucker, by Boost.Geometry).
std::vector<Point> straightened(const std::vector<Point>& smooth) {
    namespace bg = boost::geometry;
    using Flat = bg::model::d2::point_xy<double>;
    bg::model::linestring<Flat> line, few;
    for (const auto& p : smooth) line.emplace_back(p.z, p.r);
    bg::simplify(line, few, straight_tolerance_mm);
    std::vector<Point> out;
    for (const auto& p : few) out.push_back({p.y(), p.x()});
    return out;
}

ShapeProfile with_straight(std::vector<Point> smooth) {
    ShapeProfile out;
    out.straight = straightened(smooth);
    out.smooth = std::move(smooth);
    return out;
}

bool has(const Family& family, const char* key) {
    return family.parameter(key) != nullptr;
}

} // namespace

ShapeProfile cone_of_axial_stress(double voltage_kV, double axial_kV_per_mm, const CableRadii& cable,
                                  double top_radius_mm) {
    std::vector<Point> points;
    for (int i = 0; i <= profile_steps; ++i) {
        const double r = cable.insulation + (top_radius_mm - cable.insulation) * i / profile_steps;
        points.push_back({r, closedform::cone_axial_mm(voltage_kV, axial_kV_per_mm, cable.conductor_screen,
                                                       cable.insulation, r)});
    }
    return with_straight(std::move(points));
}

ShapeProfile cone_of_tangential_stress(double voltage_kV, double tangential_kV_per_mm,
                                       const CableRadii& cable, double insulation_eps_r, double body_eps_r,
                                       double top_radius_mm) {
    const double q = std::log(top_radius_mm / cable.insulation) * insulation_eps_r /
                     (body_eps_r * std::log(cable.insulation / cable.conductor_screen));
    const double length = voltage_kV / tangential_kV_per_mm * q / (1 + q);
    std::vector<Point> points;
    for (int i = 0; i <= profile_steps; ++i) {
        const double x = length * i / profile_steps;
        points.push_back({closedform::cone_radius_mm(voltage_kV, tangential_kV_per_mm, cable.conductor_screen,
                                                     cable.insulation, insulation_eps_r, body_eps_r, x),
                          x});
    }
    return with_straight(std::move(points));
}

ShapeProfile pencil_of_tangential_stress(double voltage_kV, double tangential_kV_per_mm,
                                         const CableRadii& cable, double outer_screen_radius_mm) {
    std::vector<Point> points;
    for (int i = 0; i <= profile_steps; ++i) {
        const double r =
            cable.conductor_screen + (cable.insulation - cable.conductor_screen) * i / profile_steps;
        points.push_back({r, closedform::pencil_mm(voltage_kV, tangential_kV_per_mm, cable.conductor_screen,
                                                   outer_screen_radius_mm, r)});
    }
    return with_straight(std::move(points));
}

std::optional<double> edge_radius_for_peak_mm(double voltage_kV, double gap_mm, double peak_kV_per_mm) {
    if (!(voltage_kV > 0 && gap_mm > 0) || peak_kV_per_mm <= 1.02 * voltage_kV / gap_mm) return {};
    auto excess = [&](double log_radius) {
        const double r = std::exp(log_radius), h = r + gap_mm;
        return std::log(voltage_kV * std::sqrt((h + r) / gap_mm) / (r * std::acosh(h / r)) / peak_kV_per_mm);
    };
    double low = std::log(1e-3), high = std::log(1e3 * gap_mm);
    if (excess(low) <= 0 || excess(high) >= 0) return {};
    std::uintmax_t steps = 60;
    const auto [a, b] = boost::math::tools::toms748_solve(
        excess, low, high, boost::math::tools::eps_tolerance<double>(40), steps);
    return std::exp((a + b) / 2);
}

GradedSizing size_graded_layer(double voltage_kV, double tangential_kV_per_mm, const CableRadii& cable,
                               double insulation_eps_r) {
    GradedSizing out;
    const double per_area =
        insulation_eps_r / (cable.insulation * std::log(cable.insulation / cable.conductor_screen));
    const double beta = tangential_kV_per_mm / voltage_kV; // E = beta U for a long layer
    out.permittivity_times_wall_mm = per_area / (beta * beta);
    out.useful_length_mm = closedform::useful_grading_lengths / beta;
    const closedform::GradedLayer layer{voltage_kV,
                                        cable.conductor_screen,
                                        cable.insulation,
                                        insulation_eps_r,
                                        1.0,
                                        out.permittivity_times_wall_mm,
                                        1.0};
    for (const double share : {0.25, 0.5, 0.75, 1.0, 1.25, 1.5, 2.0}) {
        auto one = layer;
        one.length_mm = share * out.useful_length_mm;
        out.rows.push_back(
            {one.length_mm, one.tangential_kV_per_mm(0), 1 - one.potential_kV(one.length_mm) / voltage_kV});
    }
    return out;
}

std::vector<Aid> shape_aids(const PreparedDesign& prepared, const AidLimits& limits) {
    std::vector<Aid> out;
    const auto& family = *find_family(prepared.design.family);
    const auto context = prepared.context();
    const double u0 = prepared.design.duty.u0();
    const auto radii = radii_of(prepared.dimensions);
    const double eps = prepared.materials.find(prepared.cable.insulation_material)->eps_r.value;
    const double edge_z = first_screen_edge_z(prepared.built);
    auto number = [&](const char* key) { return number_of(family, context, key); };
    auto to_section = [&](const ShapeProfile& profile, double start_z) {
        std::vector<Point> points;
        for (const auto& p : profile.smooth) points.push_back({p.r, start_z + p.z});
        return points;
    };

    if (has(family, "cone_length_mm") && has(family, "cone_profile")) {
        // Rise: the parameter, or what the body leaves (the greatest radius of the drawn cone).
        double top = radii.insulation + (has(family, "cone_rise_mm") ? number("cone_rise_mm") : 0);
        double start = edge_z;
        for (const auto& e : prepared.built.section.electrodes)
            if (e.name == "cone" || e.name == "cone A") {
                if (!has(family, "cone_rise_mm"))
                    for (const auto& step : e.outline.steps) top = std::max(top, step.to.r);
                start = e.outline.steps.front().to.z; // where the flare begins
            }
        const double body_eps = number("body_eps_r");
        const std::pair<const char*, ShapeProfile> cones[] = {
            {"constant_axial", cone_of_axial_stress(u0, limits.cone_axial, radii, top)},
            {"constant_tangential",
             cone_of_tangential_stress(u0, limits.cone_tangential, radii, eps, body_eps, top)}};
        for (const auto& [kind, profile] : cones) {
            const bool axial = std::string(kind) == "constant_axial";
            Aid aid;
            aid.id = std::string("cone_") + kind;
            aid.title =
                axial ? "Cone, constant stress on its surface" : "Cone, constant stress on the interface";
            aid.profile = profile;
            aid.drawn = to_section(profile, start);
            const double length = profile.smooth.back().z;
            aid.answer = fmt::format("{} long for a rise of {} at {} kV/mm; {} straight lines within {} mm",
                                     in_mm(length), in_mm(top - radii.insulation),
                                     axial ? limits.cone_axial : limits.cone_tangential,
                                     profile.straight.size() - 1, straight_tolerance_mm);
            aid.formula = axial ? "x = (U/E) ln[ln(R/rc)/ln(ri/rc)]"
                                : "R = ri exp[(e2/e1) ln(ri/rc) k/(1-k)], k = E x/U";
            aid.numbers["cone_length_mm"] = std::ceil(10 * length) / 10;
            aid.choices["cone_profile"] = kind;
            out.push_back(std::move(aid));
        }
    } else if (has(family, "cone_length_mm") && has(family, "build_up_mm")) { // taped
        double top = radii.insulation + 1,
               start = edge_z + (has(family, "tape_stop_mm") ? number("tape_stop_mm") : 0);
        for (const auto& r : prepared.built.section.regions)
            if (r.name == "insulating tape")
                for (const auto& step : r.outline.steps) top = std::max(top, step.to.r);
        Aid aid;
        aid.id = "tape_cone";
        aid.title = "Cone of tape, constant stress on its surface";
        aid.profile = cone_of_axial_stress(u0, limits.cone_axial, radii, top);
        aid.drawn = to_section(aid.profile, start);
        const double length = aid.profile.smooth.back().z;
        aid.answer = fmt::format("{} long at {} kV/mm; tape it as {} straight lines", in_mm(length),
                                 limits.cone_axial, aid.profile.straight.size() - 1);
        aid.formula = "x = (U/E) ln[ln(R/rc)/ln(ri/rc)]";
        aid.numbers["cone_length_mm"] = std::ceil(length);
        out.push_back(std::move(aid));
    }
    if (has(family, "pencil_length_mm")) {
        double screen = radii.insulation * 1.5;
        for (const auto& e : prepared.built.section.electrodes)
            if (e.name == "joint screen")
                for (const auto& step : e.outline.steps) screen = std::max(screen, step.to.r);
        Aid aid;
        aid.id = "pencil";
        aid.title = "Pencil of constant tangential stress";
        aid.profile = pencil_of_tangential_stress(u0, limits.pencil_tangential, radii, screen);
        const double length = aid.profile.smooth.back().z;
        for (const auto& mark : prepared.built.marks)
            if (mark.label == "insulation end A" || mark.label == "insulation end")
                for (const auto& p : aid.profile.smooth)
                    aid.drawn.push_back({p.r, prepared.built.datum_z_mm - mark.from_datum_mm - p.z});
        aid.answer = fmt::format("{} long at {} kV/mm under a screen of radius {}", in_mm(length),
                                 limits.pencil_tangential, in_mm(screen));
        aid.formula = "x = U ln(r/rc) / (E ln(Ro/rc))";
        aid.numbers["pencil_length_mm"] = std::clamp(std::ceil(length), 3.0, 200.0);
        aid.choices["insulation_end"] = "pencilled";
        out.push_back(std::move(aid));
    }
    for (const char* key : {"electrode_end_radius_mm", "conductor_end_radius_mm", "connector_end_radius_mm",
                            "cone_tip_radius_mm"}) {
        if (!has(family, key)) continue;
        // Gap: from the insulation, where the electrode's end lies, to the outer screen.
        double outer = 0;
        for (const auto& e : prepared.built.section.electrodes)
            if (e.name == "joint screen")
                for (const auto& step : e.outline.steps) outer = std::max(outer, step.to.r);
        const double gap = outer > 0 ? outer - radii.insulation : radii.insulation - radii.conductor_screen;
        const auto radius = edge_radius_for_peak_mm(u0, gap, limits.electrode_peak);
        Aid aid;
        aid.id = "edge_radius";
        aid.title = family.parameter(key)->group + ": " + family.parameter(key)->label;
        aid.formula = "cylinder beside a plane: E = U sqrt((h+r)/(h-r)) / (r acosh(h/r))";
        if (radius) {
            aid.answer = fmt::format("{} for a peak of {} kV/mm with {} to earth; the field decides",
                                     in_mm(*radius), limits.electrode_peak, in_mm(gap));
            aid.numbers[key] =
                std::clamp(*radius, family.parameter(key)->lowest, family.parameter(key)->highest);
        } else {
            aid.answer = fmt::format("no radius gives {} kV/mm with only {} to earth", limits.electrode_peak,
                                     in_mm(gap));
        }
        out.push_back(std::move(aid));
        break;
    }
    for (const char* prefix : {"tube", "layer"}) {
        const std::string p = prefix;
        if (!has(family, (p + "_recovered_wall_mm").c_str())) continue;
        const auto sizing = size_graded_layer(u0, limits.graded_tangential, radii, eps);
        const double eps_layer = number((p + "_eps_r").c_str()),
                     wall = sizing.permittivity_times_wall_mm / eps_layer;
        Aid aid;
        aid.id = "graded";
        aid.title = "Graded layer";
        aid.formula = "E = beta U tanh(beta L), beta^2 = e1 / (ri ln(ri/rc) et t); outer medium neglected";
        aid.answer = fmt::format(
            "eps_r x wall of {:.0f} mm for {} kV/mm: {} of wall at eps_r {:g}, {} past the edge. ",
            sizing.permittivity_times_wall_mm, limits.graded_tangential, in_mm(wall), eps_layer,
            in_mm(sizing.useful_length_mm));
        for (const auto& row : sizing.rows)
            aid.answer += fmt::format("{}: {:.2f} kV/mm, {:.1f} % of U0 left at its end; ",
                                      in_mm(row.length_mm), row.tangential_kV_per_mm, 100 * row.left_share);
        aid.answer +=
            fmt::format("beyond {} more length buys nothing at the edge.", in_mm(sizing.useful_length_mm));
        // Free recovered wall that gives this wall on the insulation: w (b + w) = t (t + 2 ri).
        const double bore = number((p + "_recovered_bore_mm").c_str());
        const double free_wall =
            (-bore + std::sqrt(bore * bore + 4 * wall * (wall + 2 * radii.insulation))) / 2;
        aid.numbers[p + "_recovered_wall_mm"] = std::clamp(free_wall, 0.3, 40.0);
        const std::string upper = p + "_upper_end_mm";
        if (has(family, upper.c_str()))
            aid.numbers[upper] = std::max(number("insulation_removed_mm") + 1,
                                          number("screen_edge_mm") - sizing.useful_length_mm);
        aid.drawn = {{radii.insulation + wall, edge_z},
                     {radii.insulation + wall, edge_z + sizing.useful_length_mm}};
        out.push_back(std::move(aid));
        break;
    }
    return out;
}

void take_over(Design& design, const Aid& aid) {
    for (const auto& [key, value] : aid.numbers) design.numbers[key] = value;
    for (const auto& [key, value] : aid.choices) design.choices[key] = value;
}

std::string profile_csv(const ShapeProfile& profile) {
    std::string out = "curve,x_mm,radius_mm\r\n";
    for (const auto* curve : {&profile.smooth, &profile.straight})
        for (const auto& p : *curve)
            out += fmt::format("{},{:.3f},{:.3f}\r\n", curve == &profile.smooth ? "smooth" : "straight", p.z,
                               p.r);
    return out;
}

} // namespace ng
