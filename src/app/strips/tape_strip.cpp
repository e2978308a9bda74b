#include "app/strips/tape_strip.h"
#include "plan/move_mark.h"
#include "units/hand_length.h"
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
    connect(&session, &Session::built_changed, this, qOverload<>(&QWidget::update));
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
                 x_px,
                 mark.z_mm,
                 session_.plan()->line(mark.side),
                 holding_datum(*prepared, *session_.plan(), mark)};
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
            const bool free = static_cast<QMouseEvent*>(event)->modifiers().testFlag(Qt::ShiftModifier);
            double z = drag_->z_mm + (at.x() - drag_->x_px) / session_.axis.scale();
            if (!free) z = drag_->line.z(hand_snapped(drag_->line.from_datum(z), session_.unit()));
            // To the right is towards the cable end of side A: the distance from it falls.
            const double value = drag_->value - drag_->per_mm * (z - drag_->z_mm);
            auto numbers = drag_->held;
            numbers[drag_->parameter] = std::round(value * 1000) / 1000;
            session_.set_numbers(numbers, drag_->label);
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

void TapeStrip::paint_ruler(QPainter& painter, const DatumLine& line, double from_px, double to_px, double y,
                            LengthUnit unit, bool upwards) const {
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
    const double u0 = line.zero_z_mm - session_.datum_z();
    const auto at = [&](double x) { return line.grows * (axis.u(x) - u0) / unit_mm / step.size; };
    const auto [least, most] = std::minmax({at(from_px), at(to_px)});
    painter.setPen(QPen(session_.theme().ink, 0.8));
    QVector<QLineF> ticks;
    for (auto i = static_cast<long>(std::ceil(least - 1e-9)); static_cast<double>(i) <= most + 1e-9; ++i) {
        const double value = static_cast<double>(i) * step.size,
                     x = axis.x(u0 + line.grows * value * unit_mm);
        const bool numbered = i % step.numbered == 0, middle = i % (step.numbered / 2) == 0;
        const double tick = numbered ? 9 : middle ? 6 : 4;
        ticks << QLineF(x, y, x, y + (upwards ? -tick : tick));
        if (!numbered) continue;
        const auto number = QString::number(value);
        const double half = painter.fontMetrics().horizontalAdvance(number) / 2.0;
        if (x - half >= from_px && x + half <= to_px)
            painter.drawText(QRectF(x - 30, upwards ? y - 22 : y + 9, 60, 12), Qt::AlignCenter, number);
    }
    painter.drawLines(ticks);
}

/// As built: a filled flag under the ruler where a mark was read, with how far off it is; ringed where that
/// is out.
void TapeStrip::paint_built(QPainter& painter, double y) const {
    const auto& theme = session_.theme();
    const auto plan = session_.plan();
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    double free_from = -1e9; // the next label begins no earlier
    for (const auto& m : session_.built_marks()) {
        const auto* mark = plan->find(m.place);
        if (!mark) continue;
        const auto& line = plan->line(m.side);
        const double x = session_.axis.x(mark->z_mm + line.grows * m.off_mm() - session_.datum_z());
        const bool out = m.within && !*m.within;
        const QColor colour = out ? theme.brick : theme.ink;
        painter.setPen(QPen(colour, 1.2));
        painter.setBrush(colour);
        painter.drawPolygon(QPolygonF{{x, y + 1}, {x - 3.5, y + 8}, {x + 3.5, y + 8}});
        if (std::abs(m.off_mm()) < reads_as_designed_mm) continue;
        const auto words =
            QString("%1%2").arg(m.off_mm() > 0 ? "+" : "−").arg(std::abs(m.off_mm()), 0, 'f', 1);
        const double width = painter.fontMetrics().horizontalAdvance(words) + 4;
        if (x - width / 2 < free_from) continue;
        free_from = x + width / 2;
        QColor ground = theme.panel;
        ground.setAlpha(235);
        painter.fillRect(QRectF(x - width / 2, y + 8, width, 12), ground);
        painter.drawText(QRectF(x - width / 2, y + 8, width, 12), Qt::AlignCenter, words);
    }
    painter.restore();
}

bool TapeStrip::two_sided() const {
    const auto plan = session_.plan();
    return plan && plan->two_sides();
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
    if (const auto counted = session_.plan()) {
        const double middle = std::clamp(axis.x(0), plot().left(), plot().right());
        const auto both = [&](CableSide side, double from_px, double to_px) {
            paint_ruler(painter, counted->line(side), from_px, to_px, y, LengthUnit::mm, true);
            paint_ruler(painter, counted->line(side), from_px, to_px, y, LengthUnit::inch, false);
        };
        both(CableSide::a, plot().left(), two_sided() ? middle : end);
        if (two_sided()) both(CableSide::b, middle, end);
    }
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
    painter.setPen(theme.faint);
    painter.setClipping(false);
    painter.drawText(QRectF(plot().left() - 54, 18, 50, 26), Qt::AlignLeft | Qt::TextWordWrap,
                     QString("from %1").arg(QString::fromStdString(name_of(plan->datum))));
    painter.setClipRect(plot());
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
        if (m.kind != MarkKind::cable_end || m.z_mm != prepared->built.datum_z_mm || !plan->two_sides())
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
            name, QString::fromStdString(hand_length(m->from_datum_mm, session_.unit())));
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
    // How far each mark may lie off by the field: a bracket on the ruler.
    painter.setPen(QPen(theme.ochre, 1.4));
    for (const auto* m : marks) {
        if (!m->accepted) continue;
        // Towards the cable end of its side.
        const double towards = m->side == CableSide::b ? -1 : 1;
        const double x0 = axis.x(m->z_mm - towards * m->accepted->field_away_mm - session_.datum_z()),
                     x1 = axis.x(m->z_mm + towards * m->accepted->field_towards_mm - session_.datum_z());
        const double top = y + 20; // beneath the numbers
        painter.drawLine(QPointF(x0, top), QPointF(x1, top));
        for (const double x : {x0, x1}) painter.drawLine(QPointF(x, top - 3), QPointF(x, top + 3));
    }
    painter.setPen(QPen(theme.accent, 1));
    for (const auto& label : labels)
        painter.drawLine(QPointF(label.x, label.box.isNull() ? y - 22 : label.box.top() + 1),
                         QPointF(label.x, y));
    paint_built(painter, y);
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
