// Which triangles the next mesh divides.
#pragma once
#include <vector>

namespace ng {

struct Marks {
    std::vector<double> factor; ///< per triangle: wanted share of its size; 1: as it is
    double left_over = 0;       ///< sum of the indicators of the triangles that stay as they are
};

/// Marks the triangles that carry `share` of the indicator's sum, the greatest first, or fewer once what is
/// left is below `enough_left`; and those with a factor below 1 in `forced` (a reading there is known to be
/// off) whatever they carry. No more than `most` of all triangles by the indicator. (Bulk marking: Doerfler,
/// SIAM J. Numer. Anal. 33, 1996.)
Marks mark(const std::vector<double>& indicator, const std::vector<double>& forced, double share,
           double enough_left, double most);

} // namespace ng
