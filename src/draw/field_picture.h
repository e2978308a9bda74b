// The solved field as a picture: a map of |E| and equipotentials as ink lines.
#pragma once
#include "draw/theme.h"
#include "draw/view.h"
#include "field/solution.h"
#include "units/quantity.h"
#include <QImage>
#include <QLineF>
#include <QPainter>
#include <QVector>

namespace ng::draw {

/// |E| in `size` pixels, transparent where nothing is solved (electrodes). `full_scale_kV_per_mm` has the
/// last colour.
QImage field_image(const Solution& solution, const View& view, QSize size, double full_scale_kV_per_mm,
                   const Theme& theme);

/// Lines of equal potential every `step_kV`.
QVector<QLineF> equipotentials(const Solution& solution, const View& view, const QRectF& clip,
                               double step_kV);

/// The field, kV/mm, that this share of the area stays below, of pieces with their field and area; 1 without
/// any.
double field_below(std::vector<std::pair<double, double>> fields, double share);

/// A scale that keeps most of the section readable: the field that 99 % of the seen area stays below.
double readable_full_scale(const Solution& solution, double z0_mm, double z1_mm, double r_mm);

/// Key of the map, with its unit; what is judged beyond its scale is said at its end.
void paint_field_key(QPainter& painter, const QRectF& place, double full_scale_kV_per_mm, const Theme& theme,
                     double judged_up_to_kV_per_mm = 0, StressUnit shown = StressUnit::kV_per_mm);

} // namespace ng::draw
