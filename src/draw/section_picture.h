// The section as an engineering drawing: tones, hatches, outlines and labels.
#pragma once
#include "accessory/family.h"
#include "draw/theme.h"
#include "draw/view.h"
#include "field/solution.h"
#include "plan/sheet.h"
#include <QPainter>

namespace ng::draw {

QPainterPath outline_path(const Outline& outline, const View& view);

/// Over a picture of the field: electrodes as metal and faint outlines, so that the eye finds the parts
/// again.
void paint_parts_of_field(QPainter& painter, const Section& section, const View& view, const Theme& theme);
void paint_section(QPainter& painter, const Section& section, const std::vector<Part>& parts,
                   const View& view, const Theme& theme);
/// A planar section, fitted into `place`, with its equipotentials where a solution is given.
void paint_across(QPainter& painter, const AcrossSection& across, const Solution* solution,
                  const QRectF& place, const Theme& theme);
/// What is labelled, and where labels look for it.
struct Labelled {
    const Section& section;
    const std::vector<Part>& parts;
    double z0_mm, z1_mm, r0_mm, r_mm;

    explicit Labelled(const BuiltAccessory& built);
    /// `both_signs`: of radii, as whole ends have them.
    Labelled(const StagePicture& picture, bool both_signs);
};
/// Names of the visible parts with leader lines, set in one row above the drawing within `clip`.
void paint_part_labels(QPainter& painter, const Labelled& shown, const View& view, const QRectF& clip,
                       const Theme& theme);

} // namespace ng::draw
