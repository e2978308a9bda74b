#include "app/strips/tape_strip.h"
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <span>

namespace ng::app {

TapeStrip::TapeStrip(Session& session, QWidget* parent) : Strip(session, "TAPE", parent) {
    new AxisMouse(session, this);
    setMinimumHeight(116);
    setMaximumHeight(140);
    setMouseTracking(true);
    installEventFilter(this); // last installed is asked first: marks before needle
}

double TapeStrip::x_of(const CutMark& mark) const {
    return session_.axis.x(mark.z_mm - session_.datum_z());
}

std::optional<QPointF> TapeStrip::mark_place(const PlaceId& place) const {
    const auto plan = session_.plan();
    const auto* mark = plan ? plan->find(place) : nullptr;
    return mark ? std::optional(QPointF(x_of(*mark), ruler_y())) : std::nullopt;
}

const CutMark* TapeStrip::mark_at(QPointF p) const {
    const auto plan = session_.plan();
    if (!plan || std::abs(p.y() - ruler_y()) > 12) return nullptr;
    const CutMark* nearest = nullptr;
    for (const auto& mark : plan->marks)
        if (!mark.parameter.empty() && std::abs(x_of(mark) - p.x()) <= 6 &&
            (!nearest || std::abs(x_of(mark) - p.x()) < std::abs(x_of(*nearest) - p.x())))
            nearest = &mark;
    return nearest;
}

void TapeStrip::begin_drag(const CutMark& mark, double x_px) {
    const auto prepared = session_.prepared();
    drag_ = Drag{mark.place,
                 mark.parameter,
                 QString::fromStdString(mark.label),
                 mark.per_mm,
                 number_of(prepared->context(), mark.parameter),
                 x_px};
    setFocus();
    session_.set_live(true);
}

bool TapeStrip::eventFilter(QObject* watched, QEvent* event) {
    if (watched != this) return Strip::eventFilter(watched, event);
    if (event->type() == QEvent::MouseButtonPress) {
        auto* mouse = static_cast<QMouseEvent*>(event);
        const auto* mark = mouse->button() == Qt::LeftButton ? mark_at(mouse->position()) : nullptr;
        if (mark) {
            begin_drag(*mark, mouse->position().x());
            return true;
        }
    }
    if (event->type() == QEvent::MouseMove) {
        const auto at = static_cast<QMouseEvent*>(event)->position();
        if (drag_) {
            // To the right is towards the cable end of side A: the distance from the datum falls.
            const double moved_mm = -(at.x() - drag_->x_px) / session_.axis.scale();
            const double value = drag_->value + drag_->per_mm * moved_mm;
            session_.set_number(drag_->parameter, std::round(value * 100) / 100, drag_->label);
            return true;
        }
        const auto* mark = mark_at(at);
        const auto now = mark ? std::optional(mark->place) : std::nullopt;
        if (now != hovered_) {
            hovered_ = now;
            setCursor(mark ? Qt::SizeHorCursor : Qt::ArrowCursor);
            update();
        }
    }
    if (event->type() == QEvent::MouseButtonRelease && drag_) {
        drag_.reset();
        session_.set_live(false);
        update();
        return true;
    }
    return Strip::eventFilter(watched, event);
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
    const auto plan = session_.plan();
    if (!plan) return;
    if (plan->datum != prepared->built.datum) {
        painter.setPen(theme.faint);
        painter.drawText(QRectF(plot().right() - 260, 2, 256, 12), Qt::AlignRight,
                         QString("distances from the %1").arg(QString::fromStdString(name_of(plan->datum))));
    }
    // Each label takes the first free place beside its mark, row by row: marks on the left half look left
    // first.
    struct Label {
        double x;
        QRectF box;
        QString text;
        bool draggable, hot;
    };
    std::vector<Label> labels;
    std::vector<const CutMark*> marks;
    for (const auto& m : plan->marks)
        if (m.kind != MarkKind::cable_end || m.z_mm != prepared->built.datum_z_mm ||
            plan->datum != prepared->built.datum || prepared->built.datum == place::cable_end)
            marks.push_back(&m);
    // What is cut is named first, then what is placed; the two sides of a joint need no tag here.
    const auto rank = [](const CutMark& m) {
        return m.kind == MarkKind::screen_edge     ? 0
               : !m.cuts.empty()                   ? 1
               : m.kind == MarkKind::connector_end ? 3
                                                   : 2;
    };
    std::stable_sort(marks.begin(), marks.end(), [&](const auto* a, const auto* b) {
        return std::pair(rank(*a), a->z_mm) < std::pair(rank(*b), b->z_mm);
    });
    const double middle = plot().center().x();
    for (const auto* m : marks) {
        const double x = x_of(*m);
        auto name = QString::fromStdString(m->label);
        if (const QString tag = tag_of(m->place.side); two_sided() && !tag.isEmpty() && name.endsWith(tag))
            name.chop(tag.size());
        const auto text = QString("%1 %2").arg(
            name, QString::fromStdString(format_length(m->from_datum_mm, session_.unit())));
        const double width = painter.fontMetrics().horizontalAdvance(text) + 8;
        QRectF box;
        const bool left_half = x < middle;
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
        labels.push_back({x, box, text, !m->parameter.empty(),
                          hovered_ == m->place || (drag_ && drag_->place == m->place)});
    }
    painter.setPen(QPen(theme.accent, 1));
    for (const auto& label : labels)
        painter.drawLine(QPointF(label.x, label.box.isNull() ? y - 22 : label.box.top() + 1),
                         QPointF(label.x, y));
    for (const auto& label : labels) { // a grip on the ruler where the mark can be dragged
        if (!label.draggable) continue;
        QPainterPath grip;
        grip.moveTo(label.x, y - 5);
        grip.lineTo(label.x + 4, y);
        grip.lineTo(label.x, y + 5);
        grip.lineTo(label.x - 4, y);
        grip.closeSubpath();
        painter.setPen(QPen(theme.accent, label.hot ? 2 : 1.2));
        painter.setBrush(label.hot ? theme.accent : theme.panel);
        painter.drawPath(grip);
    }
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
