// Pictures of the record: control charts, traces of tests with their level, phase-resolved patterns.
#pragma once
#include "draw/theme.h"
#include "record/chart.h"
#include "record/site_test.h"
#include <QPainter>

namespace ng::draw {

/// Values in their order with mean and limits; what lies beyond is ringed. `unit`: of the values.
void paint_chart(QPainter& painter, const QRectF& place, const IndividualsChart& chart, const QString& unit,
                 const Theme& theme);

/// Level and reading over time, the level that is asked for as a line.
void paint_test_trace(QPainter& painter, const QRectF& place, const SiteTest& test,
                      const std::vector<TracePoint>& trace, const Theme& theme);

/// Charges over the phase of the voltage, which is drawn behind them.
void paint_pattern(QPainter& painter, const QRectF& place,
                   const std::vector<std::pair<double, double>>& pulses, const Theme& theme);

} // namespace ng::draw
