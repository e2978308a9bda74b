// Traces of stress along the judged paths: which are drawn in which line, and a picture of them.
#pragma once
#include "design/prepared.h"
#include "draw/theme.h"
#include "field/solution.h"
#include <QPainter>

namespace ng::draw {

/// One trace of a design.
struct TraceStyle {
    std::string path;
    bool tangential;
    QString label;
    Qt::PenStyle style;
};
/// Which paths of a design are drawn, in which line.
std::vector<TraceStyle> trace_styles(const BuiltAccessory& built);

/// A limit over the stretch of the axis on which a check reads its path.
struct LimitLine {
    double z0_mm = 0, z1_mm = 0;
    double limit = 0;  ///< kV/mm
    bool mean = false; ///< of a mean, not of each value
    QString words;     ///< "grading, mean"
    QString label;     ///< "0.6 grading, mean"; once for both sides of a joint
    Qt::PenStyle style = Qt::SolidLine;
};
std::vector<LimitLine> limit_lines(const PreparedDesign& prepared, const Solution& solution);

/// Axes, traces at U0 and their limits as lines.
void paint_traces(QPainter& painter, const QRectF& place, const PreparedDesign& prepared,
                  const Solution& solution, const Theme& theme);

} // namespace ng::draw
