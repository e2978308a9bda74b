// The whole end of a cable, lengthways at its true lengths: jacket, armour, bedding, crotch, breakout and
// each core to its end, as it stands after a step of the sheet.
#pragma once
#include "plan/sheet.h"

namespace ng {

/// Whether there is more of the end than its section shows: three cores, or armour, on either side.
bool has_whole_end(const PreparedDesign& prepared);

/// The picture's radii are distances from the axis of the cable, of both signs; three cores are spread in its
/// plane, each drawn whole.
struct WholeEnd {
    StagePicture picture;
    std::vector<double> core_offsets_mm; ///< of the cores where they are spread
    std::size_t shortest = 0;            ///< the core whose marks lie where the plan has them
    double side_b_moved_mm =
        0; ///< of a staggered joint: by which B's crotch lies further out than in the plan
};
WholeEnd whole_end(const PreparedDesign& prepared, const CutPlan& plan, const SheetStep& step);

/// Everything cut and nothing laid: the cut-back; everything cut and laid: the finished end.
SheetStep cut_back(const CutPlan& plan);
SheetStep finished(const PreparedDesign& prepared, const CutPlan& plan);

} // namespace ng
