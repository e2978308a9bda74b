// The cut-back of one side as a dimensioned drawing: the cable with everything cut and nothing laid, every
// mark with its distance from the datum in both units and its tolerance.
#pragma once
#include "draw/theme.h"
#include "plan/whole_end.h"
#include <QPainter>

namespace ng::draw {

/// Height that the drawing takes at this width, in the painter's units.
double cutback_height(const CutPlan& plan, CableSide side);
void paint_cutback(QPainter& painter, const QRectF& place, const PreparedDesign& prepared,
                   const CutPlan& plan, CableSide side, const Theme& theme);
/// On paper ground, for documents.
QImage cutback_image(int width, const PreparedDesign& prepared, const CutPlan& plan, CableSide side);

} // namespace ng::draw
