// What of a section is seen at a place.
#pragma once
#include "geometry/box.h"
#include "section/section.h"

namespace ng {

/// A region or electrode of a section, by its number.
struct PaintedShape {
    bool electrode = false;
    std::size_t index = 0;
};
/// Painter's order, topmost first: regions that cover electrodes, electrodes, the other regions; of each a
/// later one over an earlier.
std::vector<PaintedShape> topmost_first(const Section& section);

/// What is seen in that order. Outlines by chords of at most `step_rad`; for exact arcs see validate().
class OnTop {
  public:
    OnTop(const Section& section, double step_rad);
    /// Name of the region or electrode at `p`; null: nothing is there. Of the section given, which it refers
    /// to.
    const std::string* at(Point p) const;

    struct Layer {
        const std::string* name;
        double outer_mm; ///< radius
    };
    /// What is seen along the radius at `z`, from inside out, as far as it ends below `end_mm`; where nothing
    /// is, nothing is listed.
    std::vector<Layer> along_radius(double z, double end_mm) const;

  private:
    struct Shape {
        const std::string* name;
        std::vector<Point> polygon;
        Box box; ///< of the polygon
    };
    std::vector<Shape> shapes_; ///< topmost first
};

} // namespace ng
