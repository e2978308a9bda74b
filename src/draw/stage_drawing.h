// The section as it stands at a step of the work, with the marks of that step.
#pragma once
#include "draw/theme.h"
#include "plan/sheet.h"
#include <QPainter>

namespace ng::draw {

void paint_stage(QPainter& painter, const QRectF& place, const PreparedDesign& prepared, const CutPlan& plan,
                 const SheetStep& step, const Theme& theme);
/// On paper ground, for documents.
QImage stage_image(const QSize& size, const PreparedDesign& prepared, const CutPlan& plan,
                   const SheetStep& step);

} // namespace ng::draw
