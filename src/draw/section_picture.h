// The section as an engineering drawing: tones, hatches, outlines and labels.
#pragma once
#include "accessory/family.h"
#include "draw/theme.h"
#include "draw/view.h"
#include "field/solution.h"
#include <QPainter>

namespace ng::draw {

QPainterPath outline_path(const Outline& outline, const View& view);
void paint_section(QPainter& painter, const Section& section, const std::vector<Part>& parts,
                   const View& view, const Theme& theme);
/// A planar section, fitted into `place`, with its equipotentials where a solution is given.
void paint_across(QPainter& painter, const AcrossSection& across, const Solution* solution,
                  const QRectF& place, const Theme& theme);
/// Names of the visible parts with leader lines, set in one row above the drawing within `clip`.
void paint_part_labels(QPainter& painter, const BuiltAccessory& built, const View& view, const QRectF& clip,
                       const Theme& theme);

} // namespace ng::draw
