#include "draw/trace_picture.h"
#include "draw/round_numbers.h"
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <iterator>

namespace ng::draw {

std::vector<TraceStyle> trace_styles(const BuiltAccessory& built) {
    static const Qt::PenStyle styles[] = {Qt::SolidLine, Qt::DashLine, Qt::DashDotLine, Qt::DotLine};
    std::vector<TraceStyle> out;
    std::size_t names = 0;
    for (const auto& check : built.checks) {
        if (check.at != TestKind::service || check.quantity == CheckRequest::Quantity::edge_peak ||
            check.places.size() != 1)
            continue;
        const bool tangential = check.quantity == CheckRequest::Quantity::tangential;
        // The two sides of a joint share line and name: they never lie at the same place.
        auto name = QString::fromStdString(name_of(check.places.front().on(Side::none)));
        const auto label = QString("%1 %2").arg(tangential ? "E_t" : "|E|", name);
        const auto path = name_of(check.places.front());
        if (std::any_of(out.begin(), out.end(),
                        [&](const auto& t) { return t.path == path && t.tangential == tangential; }))
            continue; // several checks read one trace
        const auto same =
            std::find_if(out.begin(), out.end(), [&](const auto& t) { return t.label == label; });
        out.push_back(
            {path, tangential, label, same == out.end() ? styles[names++ % std::size(styles)] : same->style});
    }
    return out;
}

std::vector<LimitLine> limit_lines(const PreparedDesign& prepared, const Solution& solution) {
    constexpr double least_drawn_mm = 3; // of a limit at one place
    const auto styles = trace_styles(prepared.built);
    std::vector<LimitLine> out;
    QStringList labelled;
    for (const auto& check : prepared.built.checks) {
        if (check.at != TestKind::service || check.quantity == CheckRequest::Quantity::edge_peak ||
            check.places.size() != 1)
            continue;
        const bool tangential = check.quantity == CheckRequest::Quantity::tangential;
        const auto* limit = prepared.limits.find(check.limit_id);
        const auto* path = solution.path(check.places.front());
        if (!limit || !path || path->samples.empty()) continue;
        const auto style = std::find_if(styles.begin(), styles.end(), [&](const auto& t) {
            return t.path == path->name && t.tangential == tangential;
        });
        LimitLine line;
        line.limit = limit->value.value;
        line.mean = check.mean_over_mm > 0;
        if (style != styles.end()) line.style = style->style;
        double low = 1e9, high = -1e9;
        for (const auto& s : path->samples)
            if (s.s_mm >= check.from_s_mm - 1e-9 && s.s_mm <= check.to_s_mm + 1e-9)
                low = std::min(low, s.at.z), high = std::max(high, s.at.z);
        if (low > high) { // between two samples
            const auto next = std::find_if(path->samples.begin(), path->samples.end(),
                                           [&](const auto& s) { return s.s_mm >= check.from_s_mm; });
            if (next == path->samples.end()) continue;
            low = high = next->at.z;
        }
        const double widen = std::max(0.0, least_drawn_mm - (high - low)) / 2;
        line.z0_mm = low - widen;
        line.z1_mm = high + widen;
        const auto where = check.zone == InsulationZone::none ? name_of(check.places.front().on(Side::none))
                                                              : zone_words(check.zone);
        line.words = QString::fromStdString(where) + (line.mean ? ", mean" : "");
        const auto label = QString("%1 %2").arg(line.limit).arg(line.words);
        if (!labelled.contains(label)) {
            labelled << label;
            line.label = label;
        }
        out.push_back(std::move(line));
    }
    return out;
}

void paint_traces(QPainter& painter, const QRectF& place, const PreparedDesign& prepared,
                  const Solution& solution, const Theme& theme) {
    const auto styles = trace_styles(prepared.built);
    const QRectF plot = place.adjusted(44, 8, -8, -34);
    double highest = 0.1;
    for (const auto& style : styles) {
        if (const auto* path = solution.path(style.path))
            for (const auto& s : path->samples)
                if (!s.near_singular)
                    highest = std::max(highest, style.tangential ? std::abs(s.E_t_kV_per_mm) : s.E_kV_per_mm);
    }
    const auto limits = limit_lines(prepared, solution);
    for (const auto& line : limits) highest = std::max(highest, line.limit);
    highest *= 1.15;
    const double z0 = prepared.built.view_z0_mm, z1 = prepared.built.view_z1_mm;
    const auto x = [&](double z) { return plot.left() + (z - z0) / (z1 - z0) * plot.width(); };
    const auto y = [&](double value) { return plot.bottom() - value / highest * plot.height(); };
    constexpr double most_lines = 8;
    const auto nice = [](double span) { return round_at_least(span / most_lines); };
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(ui_font(8));
    for (double v = 0; v <= highest; v += nice(highest)) {
        painter.setPen(QPen(theme.line, 0.6));
        painter.drawLine(QPointF(plot.left(), y(v)), QPointF(plot.right(), y(v)));
        painter.setPen(theme.ink);
        painter.drawText(QRectF(place.left(), y(v) - 7, 38, 14), Qt::AlignRight | Qt::AlignVCenter,
                         QString::number(v, 'g', 3));
    }
    const double step = nice(z1 - z0);
    for (double z = std::ceil(z0 / step) * step; z <= z1; z += step) {
        painter.setPen(QPen(theme.line, 0.6));
        painter.drawLine(QPointF(x(z), plot.top()), QPointF(x(z), plot.bottom()));
        painter.setPen(theme.ink);
        painter.drawText(QRectF(x(z) - 30, plot.bottom() + 2, 60, 13), Qt::AlignCenter, QString::number(z));
    }
    painter.setPen(theme.faint);
    painter.drawText(
        QRectF(plot.left(), plot.bottom() + 15, plot.width(), 14), Qt::AlignCenter,
        QString("z from %1, mm; kV/mm rms at U0").arg(QString::fromStdString(name_of(prepared.built.zero))));
    painter.setClipRect(plot);
    QStringList keyed;
    for (const auto& line : limits) {
        painter.setPen(QPen(theme.brick, 1, line.style));
        painter.drawLine(QPointF(x(line.z0_mm), y(line.limit)), QPointF(x(line.z1_mm), y(line.limit)));
        if (line.label.isEmpty()) continue;
        painter.setFont(ui_font(7));
        constexpr double width =
            110; // of the longest words: what ends nearer to the edge is written before it
        if (x(line.z1_mm) + width > plot.right())
            painter.drawText(QRectF(x(line.z1_mm) - 200, y(line.limit) - 14, 197, 14),
                             Qt::AlignRight | Qt::AlignVCenter, line.label);
        else
            painter.drawText(QRectF(x(line.z1_mm) + 3, y(line.limit) - 7, 200, 14), Qt::AlignVCenter,
                             line.label);
        painter.setFont(ui_font(8));
    }
    for (const auto& style : styles) {
        const auto* path = solution.path(style.path);
        if (!path) continue;
        QPainterPath line;
        bool drawing = false;
        for (const auto& s : path->samples) {
            const QPointF at(x(s.at.z), y(style.tangential ? std::abs(s.E_t_kV_per_mm) : s.E_kV_per_mm));
            if (s.near_singular) {
                drawing = false;
                continue;
            }
            drawing ? line.lineTo(at) : line.moveTo(at);
            drawing = true;
        }
        painter.setPen(QPen(theme.accent, 1.8, style.style));
        painter.setBrush(Qt::NoBrush);
        painter.drawPath(line);
        if (keyed.contains(style.label)) continue;
        const double row = plot.top() + 10 + 14 * static_cast<double>(keyed.size());
        painter.drawLine(QPointF(plot.left() + 10, row), QPointF(plot.left() + 40, row));
        painter.drawText(QRectF(plot.left() + 46, row - 7, 400, 14), Qt::AlignVCenter, style.label);
        keyed << style.label;
    }
    painter.restore();
}

} // namespace ng::draw
