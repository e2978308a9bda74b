#include "draw/chart_picture.h"
#include "draw/round_numbers.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace ng::draw {
namespace {

/// Axes with a few round figures each way; maps values to the painter.
class Axes {
  public:
    Axes(QPainter& painter, const QRectF& place, double x0, double x1, double y0, double y1,
         const QString& x_title, const QString& y_title, const Theme& theme)
        : plot_(place.adjusted(46, 16, -8, -30)), x0_(x0), x1_(std::max(x1, x0 + 1e-9)), y0_(y0),
          y1_(std::max(y1, y0 + 1e-9)) {
        painter.setFont(ui_font(8));
        painter.setPen(QPen(theme.line, 1));
        painter.setBrush(theme.panel);
        painter.drawRect(plot_);
        for (const double v : round_figures(y0_, y1_)) {
            const double y = at(x0_, v).y();
            painter.setPen(QPen(theme.line, 1));
            painter.drawLine(QPointF(plot_.left(), y), QPointF(plot_.right(), y));
            painter.setPen(theme.faint);
            painter.drawText(QRectF(plot_.left() - 46, y - 8, 42, 16), Qt::AlignRight | Qt::AlignVCenter,
                             QString::number(v, 'g', 4));
        }
        for (const double v : round_figures(x0_, x1_)) {
            painter.setPen(theme.faint);
            painter.drawText(QRectF(at(v, y0_).x() - 30, plot_.bottom() + 1, 60, 14), Qt::AlignCenter,
                             QString::number(v, 'g', 5));
        }
        painter.setPen(theme.ink);
        painter.drawText(QRectF(plot_.left(), plot_.bottom() + 14, plot_.width(), 15), Qt::AlignCenter,
                         x_title);
        painter.drawText(QRectF(place.left(), place.top(), plot_.width(), 15),
                         Qt::AlignLeft | Qt::AlignVCenter, y_title);
    }
    QPointF at(double x, double y) const {
        return {plot_.left() + plot_.width() * (x - x0_) / (x1_ - x0_),
                plot_.bottom() - plot_.height() * (y - y0_) / (y1_ - y0_)};
    }
    const QRectF& plot() const { return plot_; }
    /// A level across the plot with its words at the right.
    void level(QPainter& painter, double y, const QString& words, const QColor& colour,
               Qt::PenStyle style) const {
        if (y < y0_ || y > y1_) return;
        painter.setPen(QPen(colour, 1.2, style));
        painter.drawLine(at(x0_, y), at(x1_, y));
        painter.drawText(QRectF(plot_.left(), at(x0_, y).y() - 15, plot_.width() - 4, 14),
                         Qt::AlignRight | Qt::AlignBottom, words);
    }

  private:
    static std::vector<double> round_figures(double from, double to) {
        const double step = round_at_least((to - from) / 8);
        std::vector<double> out;
        for (double v = std::ceil(from / step) * step; v <= to + step * 1e-9; v += step)
            out.push_back(std::abs(v) < step * 1e-9 ? 0 : v);
        return out;
    }
    QRectF plot_;
    double x0_, x1_, y0_, y1_;
};

} // namespace

void paint_chart(QPainter& painter, const QRectF& place, const IndividualsChart& chart, const QString& unit,
                 const Theme& theme) {
    painter.setRenderHint(QPainter::Antialiasing);
    if (chart.values.empty()) {
        painter.setPen(theme.faint);
        painter.drawText(place, Qt::AlignCenter, "Nothing was read yet");
        return;
    }
    auto [low, high] = std::minmax_element(chart.values.begin(), chart.values.end());
    double y0 = std::min(*low, chart.lower), y1 = std::max(*high, chart.upper);
    const double rim = std::max(0.1 * (y1 - y0), 0.1);
    y0 -= rim, y1 += rim;
    const Axes axes(painter, place, 0, static_cast<double>(chart.values.size()) + 1, y0, y1,
                    "readings in the order of time", "off what was designed, " + unit, theme);
    if (chart.values.size() > 1) {
        const QString kind = chart.provisional() ? ", provisional" : "";
        axes.level(painter, chart.upper, "upper limit " + QString::number(chart.upper, 'f', 2) + kind,
                   theme.brick, Qt::DashLine);
        axes.level(painter, chart.lower, "lower limit " + QString::number(chart.lower, 'f', 2) + kind,
                   theme.brick, Qt::DashLine);
        axes.level(painter, chart.mean, "mean " + QString::number(chart.mean, 'f', 2), theme.accent,
                   Qt::SolidLine);
    }
    QPolygonF line;
    for (std::size_t i = 0; i < chart.values.size(); ++i)
        line << axes.at(static_cast<double>(i) + 1, chart.values[i]);
    painter.setPen(QPen(theme.ink, 1));
    painter.drawPolyline(line);
    for (std::size_t i = 0; i < chart.values.size(); ++i) {
        const bool outside = std::find(chart.outside.begin(), chart.outside.end(), i) != chart.outside.end();
        painter.setBrush(outside ? theme.brick : theme.ink);
        painter.setPen(Qt::NoPen);
        painter.drawEllipse(line[static_cast<qsizetype>(i)], 2.4, 2.4);
        if (!outside) continue;
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme.brick, 1.6));
        painter.drawEllipse(line[static_cast<qsizetype>(i)], 7, 7);
    }
}

void paint_test_trace(QPainter& painter, const QRectF& place, const SiteTest& test,
                      const std::vector<TracePoint>& trace, const Theme& theme) {
    painter.setRenderHint(QPainter::Antialiasing);
    double most_s = 60 * test.minutes, most_level = test.level, most_reading = 0;
    for (const auto& p : trace) {
        most_s = std::max(most_s, p.s);
        most_level = std::max(most_level, p.level);
        most_reading = std::max(most_reading, p.reading);
    }
    const auto unit = QString::fromStdString(test.unit.empty() ? test.reading_unit : test.unit);
    const Axes axes(painter, place, 0, most_s, 0, 1.15 * std::max(most_level, 1e-3), "s", unit, theme);
    axes.level(painter, test.level, QString("%1 %2 asked for").arg(test.level, 0, 'g', 4).arg(unit),
               theme.ochre, Qt::DashLine);
    QPolygonF level, reading;
    for (const auto& p : trace) {
        level << axes.at(p.s, p.level);
        if (most_reading > 0) reading << axes.at(p.s, 0.45 * most_level * p.reading / most_reading);
    }
    painter.setPen(QPen(theme.accent, 2));
    painter.drawPolyline(level);
    if (most_reading <= 0) return;
    painter.setPen(QPen(theme.ink, 1.2, Qt::DotLine));
    painter.drawPolyline(reading);
    painter.drawText(axes.plot().adjusted(6, 2, 0, 0), Qt::AlignLeft | Qt::AlignTop,
                     QString("dotted: reading, at most %1 %2")
                         .arg(most_reading, 0, 'g', 3)
                         .arg(QString::fromStdString(test.reading_unit)));
}

void paint_pattern(QPainter& painter, const QRectF& place,
                   const std::vector<std::pair<double, double>>& pulses, const Theme& theme) {
    painter.setRenderHint(QPainter::Antialiasing);
    double most = 1;
    for (const auto& [phase, charge] : pulses) most = std::max(most, std::abs(charge));
    const Axes axes(painter, place, 0, 360, 0, 1.2 * most, "phase of the voltage, degrees", "pC", theme);
    QPolygonF wave;
    for (int d = 0; d <= 360; d += 4)
        wave << axes.at(d, most * (0.6 + 0.5 * std::sin(d * std::numbers::pi / 180)));
    painter.setPen(QPen(theme.line, 1.5));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(wave);
    painter.setPen(Qt::NoPen);
    auto tone = theme.accent;
    tone.setAlpha(130);
    painter.setBrush(tone);
    for (const auto& [phase, charge] : pulses) painter.drawEllipse(axes.at(phase, std::abs(charge)), 2, 2);
}

} // namespace ng::draw
