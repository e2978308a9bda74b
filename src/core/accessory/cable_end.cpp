#include "accessory/cable_end.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace ng {
namespace {

constexpr double least_gap_mm = 0.05; // thinner than a hand leaves: a sliver of the drawing only

/// How far behind an edge of this radius, rounded towards what it lies on, the contact line is.
double contact_setback_mm(double radius_mm) {
    const double cosine = (radius_mm - truncated_cusp_gap_mm) / radius_mm;
    return radius_mm - radius_mm * std::sqrt(1 - cosine * cosine);
}

} // namespace

CableRadii radii_of(const CableDimensions& d) {
    return {d.radius_mm("conductor"),         d.radius_mm("conductor screen"), d.radius_mm("insulation"),
            d.radius_mm("insulation screen"), d.radius_mm("metallic screen"),  d.radius_mm("jacket")};
}

Result<void> CableEnd::stands_off(double metal_z, const std::string& item) const {
    const double gap = metal_z - insulation;
    if (gap <= 0 || gap >= least_gap_mm) return {};
    return refuse(item, fmt::format("it stands only {:.2g} mm off the connector", gap),
                  fmt::format("Let it touch the connector, or leave at least {} mm", least_gap_mm));
}

Result<void> CableEnd::check() const {
    if (screen >= insulation - pencil_mm - 5)
        return refuse("Screen edge" + tag(),
                      fmt::format("it is beyond, or within 5 mm of, {}: only {} are between",
                                  pencil_mm > 0 ? "the pencil" : "the insulation end",
                                  in_mm(insulation - pencil_mm - screen)),
                      "Move the screen edge back, or remove less insulation");
    if (metallic > screen - 5)
        return refuse("Metallic screen cut" + tag(), "it is beyond, or within 5 mm of, the screen edge",
                      "Cut the metallic screen further back");
    if (jacket > metallic)
        return refuse("Jacket cut" + tag(), "it is beyond the metallic screen cut",
                      "Cut the jacket further back");
    if (insulation + conductor_screen_left_mm > conductor)
        return refuse("Insulation end" + tag(), "it is beyond the end of the conductor",
                      "Remove more insulation");
    const double thickness = r.screen - r.insulation;
    if (edge.radius_mm > 0.45 * thickness)
        return refuse("Edge radius" + tag(),
                      fmt::format("{} does not fit the insulation screen, {} thick", in_mm(edge.radius_mm),
                                  in_mm(thickness)),
                      "Give at most 0.45 of the screen's thickness");
    if (edge.kind == "chamfered" && edge.chamfer_mm < thickness)
        return refuse("Chamfer length", "it is shorter than the screen is thick",
                      "Give at least the thickness of the screen");
    if (edge.kind == "chamfered" && edge.chamfer_mm >= screen - metallic)
        return refuse("Chamfer length", "it reaches the metallic screen", "Shorten it");
    return {};
}

double CableEnd::contact_z() const {
    return screen - contact_setback_mm(edge.radius_mm);
}

std::vector<PlaceId> CableEnd::edges() const {
    const auto screen_edge = place::screen_edge.on(side);
    return {screen_edge.part(EdgePart::inner),
            screen_edge.part(edge.kind == "chamfered" ? EdgePart::tip : EdgePart::outer)};
}

/// The inner edge, which the field sees, is an arc that would touch the insulation, cut off where the gap
/// closes.
Outline CableEnd::screen_outline() const {
    const double rho = edge.radius_mm;
    const auto parts = edges();
    Outline outline;
    outline.start = {r.insulation, far};
    outline.line_to({r.screen, far});
    if (edge.kind == "chamfered") {
        outline.line_to({r.screen, screen - edge.chamfer_mm});
        outline.line_to({r.insulation + 2 * rho, screen - rho});
        outline.arc_to({r.insulation + rho, screen}, {r.insulation + rho, screen - rho}, name_of(parts[1]));
    } else {
        outline.line_to({r.screen, screen - rho});
        outline.arc_to({r.screen - rho, screen}, {r.screen - rho, screen - rho}, name_of(parts[1]));
        outline.line_to({r.insulation + rho, screen});
    }
    outline.arc_to({r.insulation + truncated_cusp_gap_mm, contact_z()}, {r.insulation + rho, screen - rho},
                   name_of(parts[0]));
    outline.line_to({r.insulation, contact_z()});
    return outline;
}

Outline CableEnd::insulation_outline(double inner_mm) const {
    std::vector<Point> points{{inner_mm, far}, {r.insulation, far}};
    if (pencil_mm > 0) {
        points.push_back({r.insulation, insulation - pencil_mm});
        points.push_back({r.conductor_screen + pencil_end_step_mm, insulation});
    } else {
        points.push_back({r.insulation, insulation});
    }
    points.push_back({inner_mm, insulation});
    return Outline::polygon(points);
}

Outline CableEnd::conductor_outline() const {
    if (flush_end_radius_mm > 0) {
        const double rho = flush_end_radius_mm, face = r.conductor_screen - contact_setback_mm(rho);
        Outline flush;
        flush.start = {0, far};
        flush.line_to({r.conductor_screen, far});
        flush.line_to({r.conductor_screen, conductor - rho});
        flush.arc_to({face, conductor - truncated_cusp_gap_mm}, {r.conductor_screen - rho, conductor - rho},
                     name_of(place::conductor_end));
        flush.line_to({face, conductor});
        return flush.line_to({0, conductor});
    }
    const double screen_end = insulation + conductor_screen_left_mm;
    return Outline::polygon({{0, far},
                             {r.conductor_screen, far},
                             {r.conductor_screen, screen_end},
                             {r.conductor, screen_end},
                             {r.conductor, conductor},
                             {0, conductor}});
}

Profile CableEnd::profile() const {
    std::vector<Point> points{{r.jacket, far},
                              {r.jacket, jacket},
                              {r.metallic, jacket},
                              {r.metallic, metallic},
                              {r.screen, metallic}};
    if (edge.kind == "chamfered") {
        points.push_back({r.screen, screen - edge.chamfer_mm});
        points.push_back({r.insulation + 2 * edge.radius_mm, screen - edge.radius_mm});
        points.push_back({r.insulation + edge.radius_mm, screen});
    } else {
        points.push_back({r.screen, screen - edge.radius_mm});
        points.push_back({r.screen - edge.radius_mm, screen});
    }
    points.push_back({r.insulation, screen});
    if (pencil_mm > 0) {
        points.push_back({r.insulation, insulation - pencil_mm});
        points.push_back({r.conductor_screen + pencil_end_step_mm, insulation});
    } else {
        points.push_back({r.insulation, insulation});
    }
    if (conductor_screen_left_mm > 0) {
        points.push_back({r.conductor_screen, insulation});
        points.push_back({r.conductor_screen, insulation + conductor_screen_left_mm});
    }
    points.push_back({r.conductor, insulation + conductor_screen_left_mm});
    points.push_back({r.conductor, conductor});
    return Profile(std::move(points));
}

std::vector<Point> CableEnd::insulation_surface() const {
    if (pencil_mm > 0)
        return {{r.insulation, contact_z()},
                {r.insulation, insulation - pencil_mm},
                {r.conductor_screen + pencil_end_step_mm, insulation}};
    return {{r.insulation, contact_z()}, {r.insulation, insulation}};
}

Point mirrored(Point p) {
    return {p.r, -p.z};
}

Outline mirrored(const Outline& outline) {
    Outline out = outline;
    out.start = mirrored(out.start);
    for (auto& step : out.steps) {
        step.to = mirrored(step.to);
        if (step.centre) step.centre = mirrored(*step.centre);
        if (step.clockwise) step.clockwise = !*step.clockwise;
    }
    return out;
}

Profile rounded_course(const Profile& outer, double start_radius_mm, double end_radius_mm, int chords) {
    auto points = outer.points();
    // From the outer surface down to the end; `towards` is -1 at the start and 1 at the end.
    auto corner = [&](Point at, double radius, double towards) {
        std::vector<Point> out;
        for (int k = 0; k <= chords; ++k) {
            const double angle = std::numbers::pi / 2 * k / chords;
            out.push_back(
                {at.r - radius * (1 - std::cos(angle)), at.z - towards * radius * (1 - std::sin(angle))});
        }
        return out;
    };
    if (start_radius_mm > 0) {
        const auto start = corner(points.front(), start_radius_mm, -1);
        points.front() = start.front();
        points.insert(points.begin(), start.rbegin(), start.rend() - 1);
    }
    if (end_radius_mm > 0) {
        const auto end = corner(points.back(), end_radius_mm, 1);
        points.back() = end.front();
        points.insert(points.end(), end.begin() + 1, end.end());
    }
    return Profile(std::move(points));
}

std::vector<PlaceId> edges_of(const std::vector<BandEnd>& ends) {
    std::vector<PlaceId> out;
    for (const auto& end : ends)
        for (const auto part : {EdgePart::inner, EdgePart::outer}) out.push_back(end.place.part(part));
    return out;
}

Outline band_outline(const Profile& inner, const Profile& outer, const BandEnd& start, const BandEnd& end) {
    const auto& below = inner.points();
    const auto& above = outer.points();
    const double z0 = below.front().z, z1 = below.back().z;
    Outline outline;
    // Start: from the contact line up to the outer surface.
    if (start.inner_radius_mm > 0) {
        const double rho = start.inner_radius_mm, contact = z0 + contact_setback_mm(rho), r = below.front().r;
        outline.start = {r, contact};
        outline.line_to({r + truncated_cusp_gap_mm, contact});
        outline.arc_to({r + rho, z0}, {r + rho, z0 + rho}, name_of(start.place.part(EdgePart::inner)));
    } else {
        outline.start = below.front();
    }
    if (start.outer_radius_mm > 0) {
        const double rho = start.outer_radius_mm, r = above.front().r;
        outline.line_to({r - rho, z0});
        outline.arc_to({r, z0 + rho}, {r - rho, z0 + rho}, name_of(start.place.part(EdgePart::outer)));
    } else {
        outline.line_to(above.front());
    }
    for (const auto& p : above)
        if (p.z > z0 + start.outer_radius_mm && p.z < z1 - end.outer_radius_mm) outline.line_to(p);
    if (end.outer_radius_mm > 0) {
        const double rho = end.outer_radius_mm, r = above.back().r;
        outline.line_to({r, z1 - rho});
        outline.arc_to({r - rho, z1}, {r - rho, z1 - rho}, name_of(end.place.part(EdgePart::outer)));
    } else {
        outline.line_to(above.back());
    }
    double inner_from = z0, inner_to = z1;
    if (end.inner_radius_mm > 0) {
        const double rho = end.inner_radius_mm, r = below.back().r;
        inner_to = z1 - contact_setback_mm(rho);
        outline.line_to({r + rho, z1});
        outline.arc_to({r + truncated_cusp_gap_mm, inner_to}, {r + rho, z1 - rho},
                       name_of(end.place.part(EdgePart::inner)));
        outline.line_to({r, inner_to});
    } else {
        outline.line_to(below.back());
    }
    if (start.inner_radius_mm > 0) inner_from = z0 + contact_setback_mm(start.inner_radius_mm);
    for (auto p = below.rbegin(); p != below.rend(); ++p)
        if (p->z > inner_from && p->z < inner_to) outline.line_to(*p);
    return outline;
}

} // namespace ng
