// The parts that hands lay, with their ends and diameters: what somebody needs to build the section, or to
// draw it anew.
#pragma once
#include "plan/plan.h"

namespace ng {

struct LaidPart {
    PlaceId place;
    std::string label;
    CableSide side = CableSide::a; ///< whose datum its distances count from
    double from_mm = 0, to_mm = 0; ///< of its ends, from the datum; `from` lies nearer to the cable end
    double diameter_at_from_mm = 0, diameter_at_to_mm = 0, greatest_diameter_mm = 0; ///< over it
    std::vector<Point> outline; ///< r, and z as distance from the datum
};

/// All parts of the section but the cable's own layers and air; in the order of the section.
std::vector<LaidPart> laid_parts(const PreparedDesign& prepared, const CutPlan& plan);

} // namespace ng
