// Section above the axis and field below it, with the key of the map.
#pragma once
#include "design/prepared.h"
#include "field/solution.h"
#include <QImage>

namespace ng::draw {

/// `finer`: pixels for each of the drawing's, for paper.
QImage design_picture(const PreparedDesign& prepared, const Solution& solution, int width, int height,
                      int finer = 1);

/// The same beside the first screen edge, with one scale along and across: undistorted.
QImage edge_picture(const PreparedDesign& prepared, const Solution& solution, int width, int height,
                    int finer = 1);

} // namespace ng::draw
