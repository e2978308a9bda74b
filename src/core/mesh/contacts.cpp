#include "mesh/contacts.h"
#include "geometry/box.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace ng::drawing {
namespace {

constexpr double share_of_room = 1.0 / 44;   // what a chord's arc may stand high over it
constexpr double share_of_radius = 1.0 / 64; // shortest chord that a cusp asks for
constexpr double tip_share = 1.0 / 256;      // of the radius: nearer nothing divides a chord
constexpr double along_rad = 0.55;           // what leaves an arc at a larger angle is bent along with it

/// No chord of an arc stands higher than 0.02 mm, or is longer than some pi / 14 radii (geometry/outline.h):
/// what lies further away has room enough.
double reach_of(const Arc& arc) {
    return std::min(0.9, 0.3 * arc.radius_mm);
}

/// Angle of `p` on the arc as way from its start in the direction of its sweep, [-pi, pi] round its middle.
double way_to(const Arc& arc, Point p) {
    const Point d = p - arc.centre;
    const double sign = arc.sweep_rad > 0 ? 1 : -1, half = std::abs(arc.sweep_rad) / 2;
    const double from_middle = sign * (std::atan2(d.z, d.r) - arc.start_rad) - half;
    return half + std::remainder(from_middle, 2 * std::numbers::pi);
}

bool is_within(const Arc& arc, Point p, double slack_mm) {
    const double way = arc.radius_mm * way_to(arc, p);
    return way >= -slack_mm && way <= arc.radius_mm * std::abs(arc.sweep_rad) + slack_mm;
}

Box box_of(const Piece& piece) {
    Box box;
    box.take(piece.from);
    box.take(piece.to);
    if (!piece.arc) return box;
    for (int quarter = 0; quarter < 4; ++quarter)
        if (const Point p = piece.arc->at(quarter * std::numbers::pi / 2); is_within(*piece.arc, p, 0))
            box.take(p);
    return box.grown(reach_of(*piece.arc));
}

/// The room that asks for the shortest chord of a cusp.
double least_room(const Arc& arc) {
    return share_of_radius * share_of_radius * arc.radius_mm / (8 * share_of_room);
}

/// The place of a piece that is nearest to another.
struct Nearest {
    Point at, along; ///< along: direction of the piece there, of length 1
    bool is_end;
};
Nearest nearest_on(const Piece& piece, Point p) {
    if (piece.arc) {
        const Point out = p - piece.arc->centre;
        const double far = length(out);
        if (far > 0 && is_within(*piece.arc, p, 0))
            return {piece.arc->centre + (piece.arc->radius_mm / far) * out, (1 / far) * Point{-out.z, out.r},
                    false};
        return {distance(p, piece.from) < distance(p, piece.to) ? piece.from : piece.to, {}, true};
    }
    const Point u = piece.to - piece.from;
    const double size = length(u), t = size > 0 ? dot(p - piece.from, u) / size : 0;
    if (t <= 0) return {piece.from, {}, true};
    if (t >= size) return {piece.to, {}, true};
    return {piece.from + (t / size) * u, (1 / size) * u, false};
}

/// Where the circles or lines of two pieces cross; the first is an arc.
std::vector<Point> crossings(const Piece& round, const Piece& other) {
    const Arc& arc = *round.arc;
    Point foot, along; // foot: of the centre, on the line through the crossings
    if (other.arc) {
        const Point between = other.arc->centre - arc.centre;
        const double apart = length(between);
        const double out =
            (apart * apart + arc.radius_mm * arc.radius_mm - other.arc->radius_mm * other.arc->radius_mm) /
            (2 * apart);
        foot = arc.centre + (out / apart) * between;
        along = (1 / apart) * Point{-between.z, between.r};
    } else {
        const Point u = other.to - other.from;
        along = (1 / length(u)) * u;
        foot = other.from + dot(arc.centre - other.from, along) * along;
    }
    const double off = distance(foot, arc.centre);
    if (!(off < arc.radius_mm)) return {};
    const double half = std::sqrt(arc.radius_mm * arc.radius_mm - off * off);
    return {foot - half * along, foot + half * along};
}

/// Whether an arc and a piece share a place.
bool meet(const Piece& round, const Piece& other, double snap_mm) {
    const auto is_on = [&](const Piece& piece, Point p) {
        return distance(nearest_on(piece, p).at, p) <= snap_mm;
    };
    if (is_on(round, other.from) || is_on(round, other.to) || is_on(other, round.from) ||
        is_on(other, round.to))
        return true;
    const auto shared = crossings(round, other);
    return std::any_of(shared.begin(), shared.end(),
                       [&](Point p) { return is_on(round, p) && is_on(other, p); });
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

bool Contacts::take(const Piece& round, const Piece& other) {
    const Arc& arc = *round.arc;
    Point outwards; // from the arc's centre to where they touch
    if (other.arc) {
        const Point between = other.arc->centre - arc.centre;
        const double apart = length(between);
        const bool inside = std::abs(apart - std::abs(arc.radius_mm - other.arc->radius_mm)) <= snap_;
        if (!inside && std::abs(apart - arc.radius_mm - other.arc->radius_mm) > snap_) return false;
        outwards = (inside && arc.radius_mm < other.arc->radius_mm ? -1 : 1) / apart * between;
    } else {
        const Point u = other.to - other.from;
        const double size = length(u);
        const double off = cross(u, arc.centre - other.from) / size; // the centre lies to its left
        if (std::abs(std::abs(off) - arc.radius_mm) > snap_) return false;
        outwards = (off > 0 ? 1 : -1) / size * Point{u.z, -u.r};
    }
    const Point at = arc.centre + arc.radius_mm * outwards, direction{-outwards.z, outwards.r};
    // A circle that a line meets at a small angle, within the snap length, touches it some way off.
    const double reach = 2 * std::sqrt(2 * arc.radius_mm * snap_);
    const auto one = runs(round, at, direction, reach), two = runs(other, at, direction, reach);
    if (!one || !two ||
        (std::min(one->first, two->first) <= reach && std::min(one->second, two->second) <= reach))
        return false;
    contacts_.push_back({at, arc.centre, arc.radius_mm});
    return true;
}

Contacts::Contacts(const std::vector<Piece>& pieces, double snap_mm) : snap_(snap_mm) {
    std::vector<Box> boxes;
    for (const auto& piece : pieces) boxes.push_back(box_of(piece).grown(snap_mm));
    std::vector<Room> rooms(pieces.size());
    const auto take_pair = [&](std::size_t i, std::size_t j) {
        const auto &round = pieces[i], &other = pieces[j];
        if (!round.arc) return;
        // Arcs about one centre are divided alike: their chords keep the room between them.
        if (other.arc ? distance(round.arc->centre, other.arc->centre) <= snap_
                      : distance(other.from, other.to) <= snap_)
            return;
        const bool touch = take(round, other);
        rooms[i].neighbours.push_back({other, touch || meet(round, other, snap_), touch});
    };
    each_meeting_pair(boxes, [&](std::size_t i, std::size_t j) {
        take_pair(i, j);
        take_pair(j, i);
    });
    for (std::size_t i = 0; i < pieces.size(); ++i) {
        if (rooms[i].neighbours.empty()) continue;
        rooms[i].arc = *pieces[i].arc;
        rooms_.push_back(std::move(rooms[i]));
    }
    std::sort(rooms_.begin(), rooms_.end(),
              [](const auto& a, const auto& b) { return a.arc.centre.r < b.arc.centre.r; });
}

bool Contacts::is_one_circle(Point centre, double radius_mm, const Arc& arc) const {
    return distance(centre, arc.centre) <= snap_ && std::abs(radius_mm - arc.radius_mm) <= snap_;
}

/// From a place on the arc, mm.
double Contacts::room_at(const Room& room, Point p) const {
    const Point out = p - room.arc.centre, along = (1 / room.arc.radius_mm) * Point{-out.z, out.r};
    double least = std::numeric_limits<double>::infinity();
    for (const auto& [piece, meets, touches] : room.neighbours) {
        const auto nearest = nearest_on(piece, p);
        const auto leaves = [&] { return std::abs(cross(along, nearest.along)) > std::sin(along_rad); };
        if (meets && (nearest.is_end || (!touches && leaves()))) continue;
        const double away = distance(nearest.at, p), floor = meets ? least_room(room.arc) : 0;
        least = std::min(least, std::max(away, floor));
    }
    return least;
}

double Contacts::longest_chord_mm(const Arc& arc, double from_rad, double to_rad) const {
    const Point middle = arc.at((from_rad + to_rad) / 2);
    double least = std::numeric_limits<double>::infinity();
    auto room = std::lower_bound(rooms_.begin(), rooms_.end(), arc.centre.r - snap_,
                                 [](const Room& a, double r) { return a.arc.centre.r < r; });
    for (; room != rooms_.end() && room->arc.centre.r <= arc.centre.r + snap_; ++room)
        if (is_one_circle(room->arc.centre, room->arc.radius_mm, arc) && is_within(room->arc, middle, snap_))
            least = std::min(least, room_at(*room, middle));
    // The arc stands chord^2 / (8 radius) high.
    return std::sqrt(8 * arc.radius_mm * share_of_room * least);
}

bool Contacts::may_divide(const Arc& arc, double at_rad) const {
    // Where the cusp is narrower than the snap length there is nothing to draw.
    const double tip = std::max(tip_share * arc.radius_mm, std::sqrt(2 * arc.radius_mm * snap_));
    const Point at = arc.at(at_rad);
    return std::none_of(contacts_.begin(), contacts_.end(), [&](const auto& contact) {
        return is_one_circle(contact.centre, contact.radius_mm, arc) && distance(contact.at, at) < tip;
    });
}

} // namespace ng::drawing
