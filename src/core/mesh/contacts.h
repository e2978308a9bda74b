// Where something touches an arc and runs on beside it, or comes close to it: the part between them closes up
// to little or nothing. Chords as long as elsewhere would draw it much wider or narrower than it is.
#pragma once
#include "geometry/outline.h"
#include <optional>
#include <vector>

namespace ng::drawing {

/// A straight piece of an outline or, with `arc`, a round one.
struct Piece {
    Point from, to;
    std::optional<Arc> arc;
};

class Contacts {
  public:
    /// Takes what comes within `snap_mm` of an arc for touching it.
    Contacts(const std::vector<Piece>& pieces, double snap_mm);
    /// The longest chord of `arc` between two of its angles that leaves the room beside it as it is: none is
    /// higher over its chord than some hundredths of the room there. Infinite where nothing is near.
    double longest_chord_mm(const Arc& arc, double from_rad, double to_rad) const;
    /// Whether a chord may end at this angle: not in the tip of a cusp, that no mesh has to fill.
    bool may_divide(const Arc& arc, double at_rad) const;

  private:
    struct Contact {
        Point at, centre;
        double radius_mm;
    };
    /// An arc and what comes close to it.
    struct Room {
        Arc arc;
        struct Neighbour {
            Piece piece;
            bool meets;   ///< the arc, somewhere: what leaves it at a large angle there does not count
            bool touches; ///< with one direction
        };
        std::vector<Neighbour> neighbours;
    };
    double snap_;
    std::vector<Contact> contacts_;
    std::vector<Room> rooms_; ///< by their arc's centre, the lower r first
    bool is_one_circle(Point centre, double radius_mm, const Arc& arc) const;
    double room_at(const Room& room, Point p) const;
    /// Whether they touch, with one direction.
    bool take(const Piece& round, const Piece& other);
};

} // namespace ng::drawing
