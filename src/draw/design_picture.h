// Section above the axis and field below it, with the key of the map.
#pragma once
#include "design/prepared.h"
#include "draw/theme.h"
#include "field/solution.h"
#include <QImage>
#include <QPainter>

namespace ng::draw {

/// `finer`: pixels for each of the drawing's, for paper.
QImage design_picture(const PreparedDesign& prepared, const Solution& solution, int width, int height,
                      int finer = 1);

/// A field of a design and what is said of it.
struct TitledField {
    const Solution* solution = nullptr;
    QString title;
};
/// Fields of one design below one another, on one colour scale: what another frequency does to it.
void paint_fields(QPainter& painter, const QRectF& place, const PreparedDesign& prepared,
                  const std::vector<TitledField>& fields, double voltage_kV, const Theme& theme);

/// The same beside the first screen edge, with one scale along and across: undistorted.
QImage edge_picture(const PreparedDesign& prepared, const Solution& solution, int width, int height,
                    int finer = 1);

} // namespace ng::draw
