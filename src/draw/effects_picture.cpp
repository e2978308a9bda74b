#include "draw/effects_picture.h"
#include "draw/svg.h"
#include <algorithm>

namespace ng::draw {
namespace {

constexpr double lines_per_effect = 2.2, scale_lines = 1.6;

} // namespace

double effects_lines(std::size_t bars) {
    return scale_lines + 0.4 + lines_per_effect * static_cast<double>(bars);
}

void paint_effects(QPainter& painter, const QRectF& place, const StudyPlan& plan, const StudySummary& summary,
                   std::size_t most, const Theme& theme, double points) {
    const auto letters = set_letters(painter, points);
    const auto& metrics = letters.metrics;
    const double line = letters.line, hair = letters.hair;
    const auto count = std::min(most, summary.effects.size());
    if (count == 0) return;
    const QRectF plot = place.adjusted(0.6 * line, 0.4 * line, -1.2 * line, -scale_lines * line);
    double to = 0.1; // estimates of few blocks lie a little beyond their range
    for (std::size_t k = 0; k < count; ++k)
        to = std::max({to, summary.effects[k].main, summary.effects[k].total});
    const auto x = [&](double share) {
        return plot.left() + plot.width() * std::clamp(share / to, 0.0, 1.0);
    };
    const double each = plot.height() / static_cast<double>(count);
    for (std::size_t k = 0; k < count; ++k) {
        const auto& e = summary.effects[k];
        const auto v = std::find_if(plan.varied.begin(), plan.varied.end(),
                                    [&](const auto& one) { return one.key == e.key; });
        const double top = plot.top() + each * static_cast<double>(k);
        painter.setPen(theme.ink);
        painter.drawText(QRectF(plot.left(), top, plot.width(), line), Qt::AlignLeft | Qt::AlignVCenter,
                         metrics.elidedText(QString::fromStdString(v == plan.varied.end() ? e.key : v->label),
                                            Qt::ElideRight, plot.width()));
        const QRectF band(plot.left(), top + 1.05 * line, plot.width(), each - 1.35 * line);
        painter.fillRect(QRectF(band.topLeft(), QPointF(x(e.main), band.bottom())), theme.accent);
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme.ink, hair));
        painter.drawRect(QRectF(band.topLeft(), QPointF(x(e.total), band.bottom())));
    }
    painter.setPen(QPen(theme.line, hair));
    painter.drawLine(plot.bottomLeft(), plot.bottomRight());
    painter.setPen(theme.ink);
    const double step = to > 0.4 ? 0.2 : to > 0.15 ? 0.1 : 0.05;
    for (double share = 0; share <= to + 1e-9; share += step)
        painter.drawText(QRectF(x(share) - 2 * line, plot.bottom() + 0.2 * line, 4 * line, line),
                         Qt::AlignCenter, QString("%1 %").arg(100 * share, 0, 'f', 0));
}

Result<void> write_effects_svg(const StudyPlan& plan, const StudySummary& summary, const std::string& title,
                               const std::string& path) {
    if (summary.effects.empty())
        return refuse("Effects", "there are none in these rows", "Give whole blocks of “study effects”");
    constexpr double line_mm = 4.2;
    const auto count = summary.effects.size();
    return write_study_svg(
        path, title,
        QString(effects_key) + " Estimated " + QString::fromStdString(blocks_words(summary)) + ".",
        effects_lines(count) * line_mm, [&](QPainter& painter, const QRectF& place, double points) {
            paint_effects(painter, place, plan, summary, count, Theme::light(), points);
        });
}

} // namespace ng::draw
