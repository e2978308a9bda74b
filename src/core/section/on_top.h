// What of a section is seen at a place.
#pragma once
#include "section/section.h"

namespace ng {

/// Painter's order: regions that cover electrodes over electrodes over the other regions, of each kind a
/// later one over an earlier. Outlines by chords of at most `step_rad`; for exact arcs see validate().
class OnTop {
  public:
    OnTop(const Section& section, double step_rad);
    /// Name of the region or electrode at `p`; null: nothing is there. Of the section given, which it refers
    /// to.
    const std::string* at(Point p) const;

  private:
    std::vector<std::pair<const std::string*, std::vector<Point>>> shapes_; ///< topmost first
};

} // namespace ng
