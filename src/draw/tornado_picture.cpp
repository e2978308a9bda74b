#include "draw/tornado_picture.h"
#include "draw/svg.h"
#include "units/quantity.h"
#include <algorithm>

namespace ng::draw {
namespace {

constexpr double line_per_bar = 2.5, above_bars = 1.4, below_bars = 1.6;

} // namespace

double tornado_lines(std::size_t bars) {
    return above_bars + below_bars + line_per_bar * static_cast<double>(bars);
}

void paint_tornado(QPainter& painter, const QRectF& place, const StudyPlan& plan, const Tornado& tornado,
                   std::size_t most, const Theme& theme, double points) {
    const auto letters = set_letters(painter, points);
    const auto& metrics = letters.metrics;
    const double line = letters.line, hair = letters.hair;
    const auto count = std::min(most, tornado.swings.size());
    if (count == 0) return;
    // Shares from the least to the greatest of all ends, the limit always within.
    double low = tornado.nominal.share, high = std::max(1.0, tornado.nominal.share);
    for (std::size_t i = 0; i < count; ++i)
        for (const auto* end : {&tornado.swings[i].at_low, &tornado.swings[i].at_high})
            if (*end) low = std::min(low, (*end)->share), high = std::max(high, (*end)->share);
    const double margin = 0.06 * (high - low) + 1e-3;
    low -= margin, high += margin;
    const QRectF plot = place.adjusted(0.6 * line, above_bars * line, -0.6 * line, -below_bars * line);
    const auto x = [&](double share) { return plot.left() + plot.width() * (share - low) / (high - low); };
    const auto upright = [&](double share, const QColor& colour, Qt::PenStyle style) {
        painter.setPen(QPen(colour, 2 * hair, style));
        painter.drawLine(QPointF(x(share), plot.top()), QPointF(x(share), plot.bottom()));
    };
    const double each = plot.height() / static_cast<double>(count);
    for (std::size_t i = 0; i < count; ++i) {
        const auto& s = tornado.swings[i];
        const auto& v = plan.varied[s.varied];
        const double top = plot.top() + each * static_cast<double>(i), foot = top + each;
        painter.setPen(theme.ink);
        painter.drawText(QRectF(plot.left(), top, plot.width(), line), Qt::AlignLeft | Qt::AlignVCenter,
                         metrics.elidedText(QString::fromStdString(v.label), Qt::ElideRight, plot.width()));
        const QRectF band(0, top + line, 1, foot - top - 1.25 * line);
        const double middle = tornado.nominal.share;
        for (const bool upper : {false, true}) {
            const auto& end = upper ? s.at_high : s.at_low;
            if (!end) { // an open end: it cannot be built
                painter.setPen(QPen(theme.brick, 2 * hair, Qt::DotLine));
                painter.setBrush(Qt::NoBrush);
                painter.drawRect(
                    QRectF(QPointF(x(middle), band.top()), QPointF(plot.right(), band.bottom())));
                continue;
            }
            const auto bar =
                QRectF(QPointF(x(middle), band.top()), QPointF(x(end->share), band.bottom())).normalized();
            painter.setPen(Qt::NoPen);
            painter.setBrush(upper ? theme.accent : theme.faint);
            painter.drawRect(bar);
            if (const double beyond = std::max(x(1.0), bar.left()); beyond < bar.right()) {
                const QRectF over(QPointF(beyond, bar.top()), bar.bottomRight());
                painter.fillRect(over, theme.brick);
                painter.setPen(QPen(theme.panel, 1.2 * hair));
                for (double at = over.left(); at < over.right(); at += 0.35 * line)
                    painter.drawLine(QPointF(at, over.bottom()),
                                     QPointF(std::min(at + 0.3 * line, over.right()), over.top()));
            }
        }
    }
    upright(tornado.nominal.share, theme.ink, Qt::SolidLine);
    upright(1, theme.brick, Qt::DashLine);
    const auto said = [&](double share, const QString& words, const QColor& colour, double y) {
        painter.setPen(colour);
        const double wide = metrics.horizontalAdvance(words);
        painter.drawText(
            QRectF(std::clamp(x(share) - wide / 2, place.left(), place.right() - wide), y, wide + 1, line),
            Qt::AlignCenter, words);
    };
    said(1, "limit", theme.brick, place.top() + 0.2 * line);
    said(tornado.nominal.share,
         QString("as designed %1 %")
             .arg(QString::fromStdString(format_figures(100 * tornado.nominal.share, 3))),
         theme.ink, plot.bottom() + 0.25 * line);
}

Result<void> write_tornado_svg(const StudyPlan& plan, const Tornado& tornado, const std::string& title,
                               const std::string& path) {
    constexpr double line_mm = 4.2;
    const auto count = tornado.swings.size();
    return write_study_svg(path, title, tornado_key, tornado_lines(count) * line_mm,
                           [&](QPainter& painter, const QRectF& place, double points) {
                               paint_tornado(painter, place, plan, tornado, count, Theme::light(), points);
                           });
}

} // namespace ng::draw
