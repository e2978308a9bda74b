#include "mesh/contacts.h"
#include "geometry/box.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace ng::drawing {
namespace {

constexpr double share_of_distance = 0.3;    // of a chord: it stands (0.3 / 2)^2 = 2 % of the cusp high
constexpr double share_of_radius = 1.0 / 64; // shortest that the cusp asks for
constexpr double tip_share = 1.0 / 256;      // of the radius: nearer nothing divides a chord

Box box_of(const Piece& piece, double snap_mm) {
    Box box;
    box.take(piece.from);
    box.take(piece.to);
    if (piece.arc) {
        // Of the whole circle: enough to tell what cannot touch.
        const Point half{piece.arc->radius_mm, piece.arc->radius_mm};
        box.take(piece.arc->centre - half);
        box.take(piece.arc->centre + half);
    }
    return box.grown(snap_mm);
}

/// Angle of `p` on the arc as way from its start in the direction of its sweep, [-pi, pi] round its middle.
double way_to(const Arc& arc, Point p) {
    const Point d = p - arc.centre;
    const double sign = arc.sweep_rad > 0 ? 1 : -1, half = std::abs(arc.sweep_rad) / 2;
    const double from_middle = sign * (std::atan2(d.z, d.r) - arc.start_rad) - half;
    return half + std::remainder(from_middle, 2 * std::numbers::pi);
}

/// How far a piece runs on from a place on it along and against `direction`, mm; none: the place is not on
/// it.
std::optional<std::pair<double, double>> runs(const Piece& piece, Point at, Point direction, double snap_mm) {
    double before = 0, after = 0;
    Point along;
    if (piece.arc) {
        const double way = way_to(*piece.arc, at), sweep = std::abs(piece.arc->sweep_rad);
        before = way * piece.arc->radius_mm;
        after = (sweep - way) * piece.arc->radius_mm;
        const Point out = at - piece.arc->centre;
        along = piece.arc->sweep_rad > 0 ? Point{-out.z, out.r} : Point{out.z, -out.r};
    } else {
        along = piece.to - piece.from;
        before = dot(at - piece.from, along) / length(along);
        after = length(along) - before;
    }
    if (before < -snap_mm || after < -snap_mm) return std::nullopt;
    return dot(along, direction) > 0 ? std::pair{after, before} : std::pair{before, after};
}

} // namespace

void Contacts::take(const Piece& round, const Piece& other) {
    const Arc& arc = *round.arc;
    Point outwards; // from the arc's centre to where they touch
    if (other.arc) {
        const Point between = other.arc->centre - arc.centre;
        const double apart = length(between);
        if (apart <= snap_) return; // one circle, or one inside the other
        const bool inside = std::abs(apart - std::abs(arc.radius_mm - other.arc->radius_mm)) <= snap_;
        if (!inside && std::abs(apart - arc.radius_mm - other.arc->radius_mm) > snap_) return;
        outwards = (inside && arc.radius_mm < other.arc->radius_mm ? -1 : 1) / apart * between;
    } else {
        const Point u = other.to - other.from;
        const double size = length(u);
        if (size <= snap_) return;
        const double off = cross(u, arc.centre - other.from) / size; // the centre lies to its left
        if (std::abs(std::abs(off) - arc.radius_mm) > snap_) return;
        outwards = (off > 0 ? 1 : -1) / size * Point{u.z, -u.r};
    }
    const Point at = arc.centre + arc.radius_mm * outwards, direction{-outwards.z, outwards.r};
    // A circle that a line meets at a small angle, within the snap length, touches it some way off.
    const double reach = 2 * std::sqrt(2 * arc.radius_mm * snap_);
    const auto one = runs(round, at, direction, reach), two = runs(other, at, direction, reach);
    if (!one || !two) return;
    if (std::min(one->first, two->first) > reach || std::min(one->second, two->second) > reach)
        contacts_.push_back({at, arc.centre, arc.radius_mm});
}

Contacts::Contacts(const std::vector<Piece>& pieces, double snap_mm) : snap_(snap_mm) {
    std::vector<Box> boxes;
    for (const auto& piece : pieces) boxes.push_back(box_of(piece, snap_mm));
    each_meeting_pair(boxes, [&](std::size_t i, std::size_t j) {
        if (pieces[i].arc) take(pieces[i], pieces[j]);
        if (pieces[j].arc) take(pieces[j], pieces[i]);
    });
}

bool Contacts::is_on(const Arc& arc, const Contact& contact) const {
    return distance(contact.centre, arc.centre) <= snap_ &&
           std::abs(contact.radius_mm - arc.radius_mm) <= snap_;
}

double Contacts::longest_chord_mm(const Arc& arc, double from_rad, double to_rad) const {
    double longest = std::numeric_limits<double>::infinity();
    const double half = arc.radius_mm * std::abs(to_rad - from_rad) / 2;
    const Point middle = arc.at((from_rad + to_rad) / 2);
    for (const auto& contact : contacts_) {
        if (!is_on(arc, contact)) continue;
        const double away = distance(contact.at, middle);
        // The chord that holds the contact ends in the tip, whose size does not count.
        longest = std::min(
            longest, std::max(share_of_radius * arc.radius_mm, away > half ? share_of_distance * away : 0));
    }
    return longest;
}

bool Contacts::may_divide(const Arc& arc, double at_rad) const {
    // Where the cusp is narrower than the snap length there is nothing to draw.
    const double tip = std::max(tip_share * arc.radius_mm, std::sqrt(2 * arc.radius_mm * snap_));
    const Point at = arc.at(at_rad);
    return std::none_of(contacts_.begin(), contacts_.end(), [&](const auto& contact) {
        return is_on(arc, contact) && distance(contact.at, at) < tip;
    });
}

} // namespace ng::drawing
