// Where a line or another arc touches an arc and runs on beside it: the part between them closes up to
// nothing. Chords as long as elsewhere would draw that cusp much wider or narrower than it is.
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
    /// Takes arcs and pieces that come within `snap_mm` of each other with one direction for touching.
    Contacts(const std::vector<Piece>& pieces, double snap_mm);
    /// The longest chord of `arc` between two of its angles that leaves the cusps on it as they are: none is
    /// higher over its chord than some hundredths of the cusp there. Infinite where nothing touches it.
    double longest_chord_mm(const Arc& arc, double from_rad, double to_rad) const;
    /// Whether a chord may end at this angle: not in the tip of a cusp, that no mesh has to fill.
    bool may_divide(const Arc& arc, double at_rad) const;

  private:
    struct Contact {
        Point at, centre;
        double radius_mm;
    };
    double snap_;
    std::vector<Contact> contacts_;
    bool is_on(const Arc& arc, const Contact& contact) const;
    void take(const Piece& round, const Piece& other);
};

} // namespace ng::drawing
