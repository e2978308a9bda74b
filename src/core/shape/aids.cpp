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
#include <utility>

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

namespace {

/// What one aid is worked out from: the design, the field's limits, and where its family made its places.
class AidMaker {
  public:
    AidMaker(const PreparedDesign& p, const AidLimits& limits)
        : built_(p.built), family_(*p.family), context_(p.context()), limits_(limits),
          u0_(p.design.duty.u0()), radii_(radii_of(p.dimensions)),
          eps_(p.materials.find(p.cable.insulation_material)->eps_r.value),
          edge_z_(first_screen_edge_z(built_)) {}

    std::vector<Aid> cones(const AidRole& role) const;
    Aid tape_cone(const AidRole& role) const;
    Aid pencil(const AidRole& role) const;
    Aid edge_radius(const AidRole& role) const;
    Aid graded_layer(const AidRole& role) const;

  private:
    double number(const AidRole& role, const std::string& of) const {
        return number_of(context_, *role.key(of));
    }
    const Electrode* electrode(const PlaceId& place) const {
        for (const auto& e : built_.section.electrodes)
            if (e.name == name_of(place)) return &e;
        return nullptr;
    }
    /// Greatest radius of an outline; at least `least`.
    static double top_of(const Outline& outline, double least) {
        for (const auto& step : outline.steps) least = std::max(least, step.to.r);
        return least;
    }
    double joint_screen_radius(double otherwise) const {
        const auto* screen = electrode(place::joint_screen);
        return screen ? top_of(screen->outline, otherwise) : otherwise;
    }
    static std::vector<Point> in_section(const ShapeProfile& profile, double start_z) {
        std::vector<Point> points;
        for (const auto& p : profile.smooth) points.push_back({p.r, start_z + p.z});
        return points;
    }

    const BuiltAccessory& built_;
    const Family& family_;
    const DesignContext context_;
    const AidLimits& limits_;
    const double u0_;
    const CableRadii radii_;
    const double eps_, edge_z_;
};

/// Rise: the parameter, or what the body leaves (the greatest radius of the drawn cone).
std::vector<Aid> AidMaker::cones(const AidRole& role) const {
    const bool rises = role.key("rise").has_value();
    double top = radii_.insulation + (rises ? number(role, "rise") : 0), start = edge_z_;
    for (const auto& place : {place::cone, place::cone.on(Side::a)})
        if (const auto* cone = electrode(place)) {
            if (!rises) top = top_of(cone->outline, top);
            start = cone->outline.steps.front().to.z; // where the flare begins
        }
    const std::pair<const char*, ShapeProfile> profiles[] = {
        {"constant_axial", cone_of_axial_stress(u0_, limits_.cone_axial, radii_, top)},
        {"constant_tangential", cone_of_tangential_stress(u0_, limits_.cone_tangential, radii_, eps_,
                                                          number(role, "permittivity"), top)}};
    std::vector<Aid> out;
    for (const auto& [kind, profile] : profiles) {
        const bool axial = std::string(kind) == "constant_axial";
        const double length = profile.smooth.back().z;
        Aid aid;
        aid.id = std::string("cone_") + kind;
        aid.title = axial ? "Cone, constant stress on its surface" : "Cone, constant stress on the interface";
        aid.profile = profile;
        aid.drawn = in_section(profile, start);
        aid.answer =
            fmt::format("{} long for a rise of {} at {} kV/mm; {} straight lines within {} mm", in_mm(length),
                        in_mm(top - radii_.insulation), axial ? limits_.cone_axial : limits_.cone_tangential,
                        profile.straight.size() - 1, straight_tolerance_mm);
        aid.formula =
            axial ? "x = (U/E) ln[ln(R/rc)/ln(ri/rc)]" : "R = ri exp[(e2/e1) ln(ri/rc) k/(1-k)], k = E x/U";
        aid.numbers[*role.key("length")] = std::ceil(10 * length) / 10;
        aid.choices[*role.key("profile")] = kind;
        out.push_back(std::move(aid));
    }
    return out;
}

Aid AidMaker::tape_cone(const AidRole& role) const {
    double top = radii_.insulation + 1;
    for (const auto& r : built_.section.regions)
        if (r.name == name_of(place::insulating_tape)) top = top_of(r.outline, top);
    Aid aid;
    aid.id = "tape_cone";
    aid.title = "Cone of tape, constant stress on its surface";
    aid.profile = cone_of_axial_stress(u0_, limits_.cone_axial, radii_, top);
    aid.drawn = in_section(aid.profile, edge_z_ + number(role, "stop"));
    const double length = aid.profile.smooth.back().z;
    aid.answer = fmt::format("{} long at {} kV/mm; tape it as {} straight lines", in_mm(length),
                             limits_.cone_axial, aid.profile.straight.size() - 1);
    aid.formula = "x = (U/E) ln[ln(R/rc)/ln(ri/rc)]";
    aid.numbers[*role.key("length")] = std::ceil(length);
    return aid;
}

Aid AidMaker::pencil(const AidRole& role) const {
    const double screen = joint_screen_radius(radii_.insulation * 1.5);
    Aid aid;
    aid.id = "pencil";
    aid.title = "Pencil of constant tangential stress";
    aid.profile = pencil_of_tangential_stress(u0_, limits_.pencil_tangential, radii_, screen);
    const double length = aid.profile.smooth.back().z;
    for (const auto& mark : built_.marks)
        if (mark.kind == MarkKind::insulation_end && mark.side == CableSide::a)
            for (const auto& p : aid.profile.smooth)
                aid.drawn.push_back({p.r, built_.datum_z_mm - mark.from_datum_mm - p.z});
    aid.answer = fmt::format("{} long at {} kV/mm under a screen of radius {}", in_mm(length),
                             limits_.pencil_tangential, in_mm(screen));
    aid.formula = "x = U ln(r/rc) / (E ln(Ro/rc))";
    const auto& spec = *family_.parameter(*role.key("length"));
    aid.numbers[spec.key] = std::clamp(std::ceil(length), spec.lowest, spec.highest);
    aid.choices[*role.key("shape")] = "pencilled";
    return aid;
}

/// Gap: from the insulation, where the electrode's end lies, to the outer screen.
Aid AidMaker::edge_radius(const AidRole& role) const {
    const double outer = joint_screen_radius(0);
    const double gap = outer > 0 ? outer - radii_.insulation : radii_.insulation - radii_.conductor_screen;
    const auto radius = edge_radius_for_peak_mm(u0_, gap, limits_.electrode_peak);
    const auto& spec = *family_.parameter(*role.key("radius"));
    Aid aid;
    aid.id = "edge_radius";
    aid.title = spec.group + ": " + spec.label;
    aid.formula = "cylinder beside a plane: E = U sqrt((h+r)/(h-r)) / (r acosh(h/r))";
    if (!radius) {
        aid.answer =
            fmt::format("no radius gives {} kV/mm with only {} to earth", limits_.electrode_peak, in_mm(gap));
        return aid;
    }
    aid.answer = fmt::format("{} for a peak of {} kV/mm with {} to earth; the field decides", in_mm(*radius),
                             limits_.electrode_peak, in_mm(gap));
    aid.numbers[spec.key] = std::clamp(*radius, spec.lowest, spec.highest);
    return aid;
}

Aid AidMaker::graded_layer(const AidRole& role) const {
    const auto sizing = size_graded_layer(u0_, limits_.graded_tangential, radii_, eps_);
    const double eps_layer = number(role, "permittivity"),
                 wall = sizing.permittivity_times_wall_mm / eps_layer;
    Aid aid;
    aid.id = "graded";
    aid.title = "Graded layer";
    aid.formula = "E = beta U tanh(beta L), beta^2 = e1 / (ri ln(ri/rc) et t); outer medium neglected";
    aid.answer =
        fmt::format("eps_r x wall of {:.0f} mm for {} kV/mm: {} of wall at eps_r {:g}, {} past the edge. ",
                    sizing.permittivity_times_wall_mm, limits_.graded_tangential, in_mm(wall), eps_layer,
                    in_mm(sizing.useful_length_mm));
    for (const auto& row : sizing.rows)
        aid.answer += fmt::format("{}: {:.2f} kV/mm, {:.1f} % of U0 left at its end; ", in_mm(row.length_mm),
                                  row.tangential_kV_per_mm, 100 * row.left_share);
    aid.answer +=
        fmt::format("beyond {} more length buys nothing at the edge.", in_mm(sizing.useful_length_mm));
    // Free recovered wall that gives this wall on the insulation: w (b + w) = t (t + 2 ri).
    const double bore = number(role, "bore");
    const double free_wall = (-bore + std::sqrt(bore * bore + 4 * wall * (wall + 2 * radii_.insulation))) / 2;
    const auto& spec = *family_.parameter(*role.key("wall"));
    aid.numbers[spec.key] = std::clamp(free_wall, spec.lowest, spec.highest);
    if (const auto upper = role.key("upper end"))
        aid.numbers[*upper] = std::max(number(role, "least upper end") + 1,
                                       number(role, "screen edge") - sizing.useful_length_mm);
    aid.drawn = {{radii_.insulation + wall, edge_z_},
                 {radii_.insulation + wall, edge_z_ + sizing.useful_length_mm}};
    return aid;
}

} // namespace

std::vector<Aid> shape_aids(const PreparedDesign& prepared, const AidLimits& limits) {
    const AidMaker make(prepared, limits);
    std::vector<Aid> out;
    bool has_radius = false;
    for (const auto& role : prepared.family->aids) switch (role.kind) {
        case AidRole::Kind::cone:
            for (auto& aid : make.cones(role)) out.push_back(std::move(aid));
            break;
        case AidRole::Kind::tape_cone:
            out.push_back(make.tape_cone(role));
            break;
        case AidRole::Kind::pencil:
            out.push_back(make.pencil(role));
            break;
        case AidRole::Kind::edge_radius: // of several, the first by rank
            if (!std::exchange(has_radius, true)) out.push_back(make.edge_radius(role));
            break;
        case AidRole::Kind::graded_layer:
            out.push_back(make.graded_layer(role));
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
