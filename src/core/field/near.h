// The field round a place, for who looks closer than a mesh was made for.
#pragma once
#include "field/solve.h"

namespace ng {

struct NearSolution {
    Solution solution;
    /// Greatest error of the field at the places that were asked for, over the greatest field there; none:
    /// nothing lies in the window that may be judged.
    std::optional<double> relative_error;
    int places = 0;
};

/// Solves the section again for a square window of 2 `half_mm` round `centre` alone: an even grid of places
/// in it is read to `goal`, all else as it comes. Nothing of the solution outside the window is to be trusted
/// further than a coarse one. On all cores.
Result<NearSolution> solve_near(const Section& section, Point centre, double half_mm, double goal,
                                const CancelFlag* cancel = nullptr);

} // namespace ng
