// Places that are near one another, one after the other.
#pragma once
#include "geometry/point.h"
#include <vector>

namespace ng {

/// The numbers of `places` in the order of a Hilbert curve through them.
std::vector<int> along_curve(const std::vector<Point>& places);

} // namespace ng
