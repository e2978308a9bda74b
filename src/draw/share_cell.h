// A cell of a map that says a share of a limit.
#pragma once
#include "draw/theme.h"
#include <QPainter>

namespace ng::draw {

/// Toned by the share where it holds, hatched where it falls short: colour alone says nothing. `line`: height
/// of a line of the painter's font, which sets the width of its strokes too.
void paint_share_cell(QPainter& painter, const QRectF& cell, double share, bool falls_short,
                      const Theme& theme, double line);

} // namespace ng::draw
