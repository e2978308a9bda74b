#include "accessory/cone.h"
#include "closedform/closedform.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace ng {
namespace {

/// k(L) of the constant-tangential form for this rise (closedform.h: cone_radius_mm).
double share_at_end(const ConeShape& shape, const ConeSurroundings& a) {
    const double q = std::log((a.insulation_radius_mm + shape.rise_mm) / a.insulation_radius_mm) *
                     a.insulation_eps_r /
                     (a.body_eps_r * std::log(a.insulation_radius_mm / a.conductor_screen_radius_mm));
    return q / (1 + q);
}

/// Radius of the fillet between bore and flare: what a mould is polished to (common practice, no source).
constexpr double start_radius_mm = 5;
/// Bends of the fillet's chords: metal that turns by less than 3.8 degrees gains less than 5 % a decade.
constexpr double most_bend = 3 * std::numbers::pi / 180;

/// The flare's start with its fillet, drawn as chords that touch it: a flare that leaves the bore at an angle
/// would be a sharp edge, which nobody moulds and which has no finite stress.
std::vector<Point> with_fillet(const std::vector<Point>& flare) {
    const Point first = flare[1] - flare[0];
    const double angle = std::atan2(first.r, first.z);
    const int bends = static_cast<int>(std::ceil(angle / most_bend));
    if (bends < 2) return flare;
    // Half the first chord at most: the flare further out stays as it is.
    const double tangent = std::min(start_radius_mm * std::tan(angle / 2), length(first) / 2),
                 radius = tangent / std::tan(angle / 2), turn = angle / bends;
    std::vector<Point> out;
    // Chords touch the circle where it has turned by 0, turn, 2 turn ...; they meet half way between.
    const double reach = radius / std::cos(turn / 2);
    for (int k = 0; k < bends; ++k) {
        const double turned = (k + 0.5) * turn;
        out.push_back({flare[0].r + radius - reach * std::cos(turned),
                       flare[0].z - tangent + reach * std::sin(turned)});
    }
    out.front().r = flare[0].r; // exactly: it lies on the bore
    out.insert(out.end(), flare.begin() + 1, flare.end());
    return out;
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
    if (shape.kind == "straight") return with_fillet({{ri, 0}, {top, L}});
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
    return with_fillet(out);
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
                          double tip_radius_mm, const PlaceId& place) {
    const auto end = end_of(flare, start_z);
    const Point centre{end.at.r + tip_radius_mm * end.along.z, end.at.z - tip_radius_mm * end.along.r};
    Outline outline;
    outline.start = {flare.front().r, base_z};
    for (const auto& p : flare) outline.line_to({p.r, p.z + start_z});
    outline.arc_to({centre.r + tip_radius_mm, centre.z}, centre, name_of(place.part(EdgePart::tip)));
    outline.line_to({centre.r + tip_radius_mm, base_z});
    return outline;
}

Point deflector_tip(const std::vector<Point>& flare, double start_z, double tip_radius_mm) {
    const auto end = end_of(flare, start_z);
    return {end.at.r + tip_radius_mm * end.along.z + tip_radius_mm,
            end.at.z - tip_radius_mm * end.along.r + tip_radius_mm};
}

} // namespace ng
