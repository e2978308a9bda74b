#include "draw/histogram_picture.h"
#include "draw/svg.h"
#include <algorithm>

namespace ng::draw {

void paint_histogram(QPainter& painter, const QRectF& place, const std::vector<double>& shares,
                     const Theme& theme, double points) {
    if (shares.empty()) return;
    const auto letters = set_letters(painter, points);
    const auto& metrics = letters.metrics;
    const double line = letters.line, hair = letters.hair;
    const QRectF plot = place.adjusted(0.8 * line, 1.5 * line, -0.8 * line, -1.6 * line);
    const double largest = *std::max_element(shares.begin(), shares.end());
    const double to = std::clamp(1.05 * largest, 1.15, 3.0);
    constexpr int bins = 40;
    std::vector<int> count(bins, 0);
    for (const double s : shares) ++count[std::clamp(static_cast<int>(bins * s / to), 0, bins - 1)];
    const int most = *std::max_element(count.begin(), count.end());
    const auto x = [&](double share) { return plot.left() + plot.width() * share / to; };
    for (int k = 0; k < bins; ++k) {
        if (count[k] == 0) continue;
        const double high = std::max(1.5 * hair, plot.height() * count[k] / most);
        const QRectF bar(x(to * k / bins), plot.bottom() - high, plot.width() / bins - hair, high);
        const bool beyond = to * (k + 0.5) / bins > 1;
        painter.fillRect(bar, beyond ? theme.brick : theme.accent);
        if (!beyond) continue;
        painter.setPen(QPen(theme.panel, hair));
        for (double y = bar.top() + 3 * hair; y < bar.bottom(); y += 4 * hair)
            painter.drawLine(QPointF(bar.left(), y), QPointF(bar.right(), y));
    }
    painter.setPen(QPen(theme.line, hair));
    painter.drawLine(plot.bottomLeft(), plot.bottomRight());
    painter.setPen(QPen(theme.brick, 1.4 * hair));
    painter.drawLine(QPointF(x(1), plot.top() - 0.4 * line), QPointF(x(1), plot.bottom()));
    const auto limit = metrics.horizontalAdvance("limit");
    painter.drawText(
        QRectF(std::min(x(1) + 0.2 * line, place.right() - limit), place.top() + 0.1 * line, limit + 1, line),
        Qt::AlignLeft, "limit");
    painter.setPen(theme.ink);
    for (const double tick : {0.0, 0.25, 0.5, 0.75, 1.0})
        painter.drawText(QRectF(x(tick) - 2 * line, plot.bottom() + 0.2 * line, 4 * line, line),
                         Qt::AlignCenter, QString("%1 %").arg(100 * tick, 0, 'f', 0));
    painter.setPen(theme.faint);
    painter.drawText(QRectF(plot.left(), place.top() + 0.1 * line, plot.width(), line), Qt::AlignLeft,
                     "builds by worst share of a limit");
}

Result<void> write_histogram_svg(const std::vector<double>& shares, const std::string& title,
                                 const std::string& path) {
    if (shares.empty()) return refuse("Histogram", "no build could be made", "Correct what the rows say");
    constexpr double high_mm = 60;
    return write_study_svg(path, title, histogram_key, high_mm,
                           [&](QPainter& painter, const QRectF& place, double points) {
                               paint_histogram(painter, place, shares, Theme::light(), points);
                           });
}

} // namespace ng::draw
