#include "app/strips/tape_strip.h"
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <span>

namespace ng::app {

TapeStrip::TapeStrip(Session& session, QWidget* parent) : Strip(session, "TAPE", parent) {
    new AxisMouse(session, this);
    setMinimumHeight(116);
    setMaximumHeight(140);
}

void TapeStrip::paint_ruler(QPainter& painter, double y, LengthUnit unit, bool upwards) const {
    const auto& axis = session_.axis;
    const double unit_mm = unit == LengthUnit::mm ? 1.0 : mm_per_inch;
    // The finest graduation that stays 4 px apart, numbered every `numbered` graduations.
    struct Step {
        double size;
        int numbered;
    };
    static constexpr Step mm_steps[] = {{0.1, 10}, {0.5, 10}, {1, 10}, {5, 10}, {10, 10}, {50, 4}};
    static constexpr Step inch_steps[] = {{1.0 / 16, 8}, {1.0 / 8, 8}, {0.25, 4}, {0.5, 4}, {1, 5}, {2, 5}};
    Step step = unit == LengthUnit::mm ? mm_steps[5] : inch_steps[5];
    for (const auto& s : unit == LengthUnit::mm ? std::span(mm_steps) : std::span(inch_steps))
        if (s.size * unit_mm * axis.scale() >= 4) {
            step = s;
            break;
        }
    const auto from = static_cast<long>(std::floor(-axis.right_u() / unit_mm / step.size)),
               to = static_cast<long>(std::ceil(-axis.left_u() / unit_mm / step.size));
    painter.setPen(QPen(session_.theme().ink, 0.8));
    for (long i = two_sided() ? from : std::max(0L, from); i <= to; ++i) {
        const double value = static_cast<double>(i) * step.size, x = axis.x(-value * unit_mm);
        const bool numbered = i % step.numbered == 0, middle = i % (step.numbered / 2) == 0;
        const double tick = numbered ? 9 : middle ? 6 : 4;
        painter.drawLine(QPointF(x, y), QPointF(x, y + (upwards ? -tick : tick)));
        if (numbered) {
            const QRectF box(x - 30, upwards ? y - 22 : y + 9, 60, 12);
            painter.drawText(box, Qt::AlignCenter, QString::number(std::abs(value)));
        }
    }
}

bool TapeStrip::two_sided() const {
    const auto prepared = session_.prepared();
    return prepared && !prepared->built.marks.empty() && prepared->built.marks.front().from_datum_mm < 0;
}

void TapeStrip::paint(QPainter& painter) {
    const auto& theme = session_.theme();
    const auto& axis = session_.axis;
    const double y = height() - 24;
    const double end = two_sided() ? plot().right() : std::min(axis.x(0), plot().right());
    painter.fillRect(QRectF(plot().left(), y - 22, end - plot().left(), 44), theme.panel);
    painter.setFont(draw::ui_font(7.5));
    painter.setPen(QPen(theme.line, 1));
    painter.drawLine(QPointF(plot().left(), y), QPointF(end, y));
    paint_ruler(painter, y, LengthUnit::mm, true);
    paint_ruler(painter, y, LengthUnit::inch, false);
    painter.setPen(theme.faint);
    const double unit_x = two_sided() ? plot().left() - 24 : end + 4;
    painter.setClipping(false);
    painter.drawText(QRectF(unit_x, y - 14, 60, 12), Qt::AlignLeft, "mm");
    painter.drawText(QRectF(unit_x, y + 2, 60, 12), Qt::AlignLeft, "in");
    painter.setClipRect(plot());
    const auto prepared = session_.prepared();
    if (!prepared) return;
    // Each label takes the first free place beside its mark, row by row: marks on the left half look left
    // first.
    struct Label {
        double x;
        QRectF box;
        QString text;
    };
    std::vector<Label> labels;
    const auto& marks = prepared->built.marks;
    for (auto it = marks.rbegin(); it != marks.rend(); ++it) {
        const double x = axis.x(-it->from_datum_mm);
        const auto text = QString("%1 %2").arg(
            QString::fromStdString(it->label),
            QString::fromStdString(format_length(std::abs(it->from_datum_mm), session_.unit())));
        const double width = painter.fontMetrics().horizontalAdvance(text) + 8;
        QRectF box;
        const bool left_half = labels.size() < marks.size() / 2;
        for (int row = 0; row < 5 && box.isNull(); ++row)
            for (const bool leftwards : {left_half, !left_half}) {
                const double left = leftwards ? x - width - 1 : x + 1;
                const QRectF wanted(left, 2 + row * 13, width, 13);
                const bool inside = wanted.left() >= plot().left() && wanted.right() <= plot().right();
                if (inside && std::none_of(labels.begin(), labels.end(),
                                           [&](const auto& l) { return l.box.intersects(wanted); })) {
                    box = wanted;
                    break;
                }
            }
        labels.push_back({x, box, text});
    }
    painter.setPen(QPen(theme.accent, 1));
    for (const auto& label : labels)
        painter.drawLine(QPointF(label.x, label.box.isNull() ? y - 22 : label.box.top() + 1),
                         QPointF(label.x, y));
    for (const auto& label : labels) {
        if (label.box.isNull()) continue; // crowded out at this zoom: its line stays
        QColor ground = theme.paper;
        ground.setAlpha(225);
        painter.fillRect(label.box, ground);
        painter.setPen(theme.ink);
        painter.drawText(label.box, Qt::AlignCenter, label.text);
    }
}

} // namespace ng::app
