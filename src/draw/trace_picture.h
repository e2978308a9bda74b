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
    std::string limit_id;
    Qt::PenStyle style;
};
/// Which paths of a design are drawn, in which line.
std::vector<TraceStyle> trace_styles(const BuiltAccessory& built);

/// Axes, traces at U0 and their limits as lines.
void paint_traces(QPainter& painter, const QRectF& place, const PreparedDesign& prepared,
                  const Solution& solution, const Theme& theme);

} // namespace ng::draw
