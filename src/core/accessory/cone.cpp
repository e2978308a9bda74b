#include "accessory/cone.h"
#include "closedform/closedform.h"
#include <algorithm>
#include <cmath>

namespace ng {
namespace {

/// k(L) of the constant-tangential form for this rise (closedform.h: cone_radius_mm).
double share_at_end(const ConeShape& shape, const ConeSurroundings& a) {
    const double q = std::log((a.insulation_radius_mm + shape.rise_mm) / a.insulation_radius_mm) *
                     a.insulation_eps_r /
                     (a.body_eps_r * std::log(a.insulation_radius_mm / a.conductor_screen_radius_mm));
    return q / (1 + q);
}

/// End of the flare, and its direction there.
struct FlareEnd {
    Point at, along;
};
FlareEnd end_of(const std::vector<Point>& flare, double start_z) {
    const Point last = flare.back(), before = flare[flare.size() - 2];
    const Point step = last - before;
    return {{last.r, last.z + start_z}, (1 / length(step)) * step};
}

} // namespace

std::vector<Point> flare(const ConeShape& shape, const ConeSurroundings& a, int steps) {
    std::vector<Point> out;
    const double ri = a.insulation_radius_mm, top = ri + shape.rise_mm, L = shape.length_mm;
    if (shape.kind == "straight") return {{ri, 0}, {top, L}};
    const double full = closedform::cone_axial_mm(1, 1, a.conductor_screen_radius_mm, ri, top);
    const double k_end = share_at_end(shape, a);
    const double arc_radius = (L * L + shape.rise_mm * shape.rise_mm) / (2 * shape.rise_mm);
    for (int i = 0; i <= steps; ++i) {
        const double f = static_cast<double>(i) / steps;
        Point p{ri + f * shape.rise_mm, f * L};
        if (shape.kind == "constant_axial")
            p.z = L * closedform::cone_axial_mm(1, 1, a.conductor_screen_radius_mm, ri, p.r) / full;
        else if (shape.kind == "constant_tangential")
            p.r = closedform::cone_radius_mm(L, k_end, a.conductor_screen_radius_mm, ri, a.insulation_eps_r,
                                             a.body_eps_r, p.z);
        else
            p.r = ri + arc_radius - std::sqrt(std::max(0.0, arc_radius * arc_radius - p.z * p.z));
        out.push_back(p);
    }
    out.back() = {top, L};
    return out;
}

double cone_tangential_kV_per_mm(const ConeShape& shape, const ConeSurroundings& around, double voltage_kV) {
    return voltage_kV * share_at_end(shape, around) / shape.length_mm;
}

std::vector<Point> exposed_flare(const std::vector<Point>& flare, double start_z, const Profile& beneath) {
    constexpr double clear_mm = 0.2;
    constexpr int parts = 8; // a straight flare is two points: look between them
    std::vector<Point> out;
    for (std::size_t i = 0; i + 1 < flare.size(); ++i)
        for (int k = 0; k <= parts; ++k) {
            if (k == 0 && i > 0) continue;
            const Point p = flare[i] + static_cast<double>(k) / parts * (flare[i + 1] - flare[i]);
            const Point q{p.r, p.z + start_z};
            if (q.r < beneath.radius(q.z) + clear_mm) {
                out.clear(); // only the last uncovered stretch, which ends at the top
                continue;
            }
            if (out.empty() || k == parts) out.push_back(q);
        }
    if (out.size() < 2) out.clear();
    return out;
}

bool edge_stands_out(const std::vector<Point>& flare, double start_z, const CableEnd& end) {
    return Profile(flare).radius(end.contact_z() - start_z) > end.r.insulation + 0.1;
}

Outline deflector_outline(const std::vector<Point>& flare, double start_z, double base_z,
                          double tip_radius_mm, const std::string& name) {
    const auto end = end_of(flare, start_z);
    const Point centre{end.at.r + tip_radius_mm * end.along.z, end.at.z - tip_radius_mm * end.along.r};
    Outline outline;
    outline.start = {flare.front().r, base_z};
    for (const auto& p : flare) outline.line_to({p.r, p.z + start_z});
    outline.arc_to({centre.r + tip_radius_mm, centre.z}, centre, name + ", tip");
    outline.line_to({centre.r + tip_radius_mm, base_z});
    return outline;
}

Point deflector_tip(const std::vector<Point>& flare, double start_z, double tip_radius_mm) {
    const auto end = end_of(flare, start_z);
    return {end.at.r + tip_radius_mm * end.along.z + tip_radius_mm,
            end.at.z - tip_radius_mm * end.along.r + tip_radius_mm};
}

} // namespace ng
