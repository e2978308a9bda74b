#include "app/strips/strip.h"
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <cmath>

namespace ng::app {

AxisMouse::AxisMouse(Session& session, QWidget* widget)
    : QObject(widget), session_(session), widget_(widget) {
    widget->installEventFilter(this);
}

bool AxisMouse::eventFilter(QObject*, QEvent* event) {
    switch (event->type()) {
    case QEvent::Wheel: {
        auto* wheel = static_cast<QWheelEvent*>(event);
        if (wheel->angleDelta().x() != 0 || (wheel->modifiers() & Qt::ShiftModifier))
            session_.axis.pan((wheel->angleDelta().x() + wheel->angleDelta().y()) * 0.4);
        else
            session_.axis.zoom(wheel->position().x(), std::pow(1.0015, wheel->angleDelta().y()));
        return true;
    }
    case QEvent::MouseButtonPress: {
        auto* mouse = static_cast<QMouseEvent*>(event);
        last_x_ = mouse->position().x();
        if (mouse->button() == Qt::MiddleButton ||
            (mouse->button() == Qt::LeftButton && (mouse->modifiers() & Qt::ShiftModifier)))
            drag_ = Drag::pan;
        else if (mouse->button() == Qt::LeftButton) {
            drag_ = Drag::needle;
            session_.axis.set_needle(session_.axis.u(last_x_));
        }
        return drag_ != Drag::none;
    }
    case QEvent::MouseMove: {
        const double x = static_cast<QMouseEvent*>(event)->position().x();
        if (drag_ == Drag::needle) session_.axis.set_needle(session_.axis.u(x));
        if (drag_ == Drag::pan) session_.axis.pan(x - last_x_);
        last_x_ = x;
        return drag_ != Drag::none;
    }
    case QEvent::MouseButtonRelease:
        drag_ = Drag::none;
        return false;
    case QEvent::MouseButtonDblClick:
        session_.axis.fit();
        return true;
    default:
        return false;
    }
}

Strip::Strip(Session& session, const QString& name, QWidget* parent)
    : QWidget(parent), session_(session), name_(name) {
    setFocusPolicy(Qt::StrongFocus);
    setObjectName(name);
    setAccessibleName(name + " strip");
    setMinimumHeight(44);
    connect(&session.axis, &AxisModel::view_changed, this, QOverload<>::of(&QWidget::update));
    connect(&session.axis, &AxisModel::needle_changed, this, QOverload<>::of(&QWidget::update));
    connect(&session, &Session::prepared_changed, this, [this] {
        if (shows_design() || !session_.solution_is_coming()) update();
    });
    connect(&session, &Session::look_changed, this, QOverload<>::of(&QWidget::update));
}

void Strip::resizeEvent(QResizeEvent*) {
    session_.axis.set_width(width());
}

QRectF Strip::plot() const {
    return {AxisModel::gutter_px, 0, width() - AxisModel::gutter_px - AxisModel::margin_px,
            static_cast<double>(height())};
}

draw::View Strip::view(const BuiltAccessory& built, bool upwards) const {
    draw::View v;
    v.datum_z_mm = built.datum_z_mm;
    v.r0_mm = built.view_r0_mm;
    v.x_of_datum_px = session_.axis.x(0);
    v.z_scale_px = session_.axis.scale();
    const double room = height() - (upwards ? 42 : 10);
    v.axis_y_px = upwards ? height() : 0;
    v.r_scale_px = (upwards ? -1 : 1) * room / (built.view_r_mm - built.view_r0_mm);
    return v;
}

void Strip::paint_needle(QPainter& painter) const {
    const double x = session_.axis.x(session_.axis.needle_u());
    if (!plot().adjusted(-1, 0, 1, 0).contains(QPointF(x, 1))) return;
    painter.setPen(QPen(session_.theme().accent, 1.4));
    painter.drawLine(QPointF(x, 0), QPointF(x, height()));
}

void Strip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto& theme = session_.theme();
    painter.fillRect(rect(), theme.paper);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.save();
    painter.setClipRect(plot());
    paint(painter);
    paint_needle(painter);
    painter.restore();
    painter.setPen(hasFocus() ? theme.accent : theme.faint);
    painter.setFont(draw::ui_font(8, true));
    painter.drawText(QRectF(8, 4, AxisModel::gutter_px - 12, 16), Qt::AlignLeft, name_);
    painter.setPen(QPen(theme.line, 1));
    painter.drawLine(QPointF(0, height() - 0.5), QPointF(width(), height() - 0.5));
}

} // namespace ng::app
