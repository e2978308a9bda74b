#include "app/strips/build_strip.h"
#include "units/hand_length.h"
#include <QMouseEvent>
#include <QPainterPath>

namespace ng::app {

BuildStrip::BuildStrip(Session& session, QWidget* parent) : Strip(session, "BUILD", parent) {
    setMouseTracking(true);
    new AxisMouse(session, this);
    installEventFilter(this); // last installed is asked first: handles before needle
    connect(&session, &Session::proposal_changed, this, QOverload<>::of(&QWidget::update));
    connect(&session, &Session::prepared_changed, this, [this] {
        if (session_.prepared()) last_good_ = session_.prepared();
    });
    if (session.prepared()) last_good_ = session.prepared();
    toggle_ = new QToolButton(this);
    toggle_->setText("whole\nend");
    toggle_->setToolTip("All cores from the jacket to their ends (E)");
    toggle_->setAccessibleName("Whole end of the cable");
    toggle_->setCheckable(true);
    toggle_->setFocusPolicy(Qt::NoFocus);
    toggle_->setFont(draw::ui_font(7.5));
    connect(toggle_, &QToolButton::toggled, &session, &Session::set_whole_end);
    connect(&session, &Session::prepared_changed, this, &BuildStrip::place_toggle);
    connect(&session, &Session::look_changed, this, &BuildStrip::place_toggle);
    place_toggle();
}

void BuildStrip::place_toggle() {
    const QSignalBlocker quiet(toggle_);
    toggle_->setVisible(shown() && has_whole_end(*shown()));
    toggle_->setChecked(session_.whole_end());
    toggle_->setGeometry(6, height() - 42, static_cast<int>(AxisModel::gutter_px) - 12, 34);
}

void BuildStrip::resizeEvent(QResizeEvent* event) {
    Strip::resizeEvent(event);
    place_toggle();
}

const WholeEnd& BuildStrip::whole() const {
    if (whole_of_ != session_.plan()) {
        whole_of_ = session_.plan();
        whole_ = ng::whole_end(*shown(), *whole_of_, finished(*shown(), *whole_of_));
    }
    return whole_;
}

const PreparedDesign* BuildStrip::shown() const {
    // What could be drawn last stays while an input is being corrected, but never that of another design.
    const auto& design = session_.document.design();
    return last_good_ && last_good_->design.id == design.id && last_good_->design.family == design.family
               ? last_good_.get()
               : nullptr;
}

draw::View BuildStrip::shown_view() const {
    auto v = view(shown()->built, true);
    if (!is_whole()) return v;
    // Cores of both signs about the middle.
    v.r0_mm = 0;
    v.axis_y_px = 36 + (height() - 44) / 2.0;
    v.r_scale_px = -(height() - 44) / 2.0 / whole().picture.r_mm;
    return v;
}

void BuildStrip::paint(QPainter& painter) {
    const auto& theme = session_.theme();
    if (!shown()) {
        painter.setPen(theme.faint);
        painter.drawText(plot(), Qt::AlignCenter, "No section: correct what the message above names");
        return;
    }
    const auto v = shown_view();
    const auto shown_now =
        is_whole() ? draw::Labelled(whole().picture, true) : draw::Labelled(shown()->built);
    draw::paint_section(painter, shown_now.section, shown_now.parts, v, theme);
    draw::paint_part_labels(painter, shown_now, v, plot(), theme);
    if (session_.proposal().size() > 1) { // what a shape aid proposes
        QPainterPath line;
        line.moveTo(v.map(session_.proposal().front()));
        for (const auto& p : session_.proposal()) line.lineTo(v.map(p));
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme.panel, 4));
        painter.drawPath(line);
        painter.setPen(QPen(theme.ochre, 2, Qt::DashLine));
        painter.drawPath(line);
    }
    for (const auto& handle : shown()->built.handles) {
        const QPointF at = handle_place(handle.key);
        const bool active = handle.key == dragged_ || handle.key == hovered_;
        QPainterPath grip; // a diamond on a stem
        grip.moveTo(at.x(), at.y() - 8);
        grip.lineTo(at.x() + 6, at.y());
        grip.lineTo(at.x(), at.y() + 8);
        grip.lineTo(at.x() - 6, at.y());
        grip.closeSubpath();
        painter.setPen(QPen(theme.accent, active ? 2 : 1.2));
        painter.drawLine(QPointF(at.x(), at.y() + 8), QPointF(at.x(), height()));
        painter.setBrush(active ? theme.accent : theme.panel);
        painter.drawPath(grip);
    }
    for (const auto& handle : shown()->built.handles) { // over all grips: none covers the words
        if (handle.key != dragged_ && handle.key != hovered_) continue;
        const QPointF at = handle_place(handle.key);
        painter.setFont(draw::ui_font(8.5, true));
        const double value = handle.at_datum_mm + handle.per_mm * (handle.at.z - shown()->built.datum_z_mm);
        const auto text =
            QString("%1: %2").arg(QString::fromStdString(handle.label),
                                  QString::fromStdString(format_length(value, session_.unit())));
        const auto width = QFontMetricsF(painter.font()).horizontalAdvance(text) + 12;
        QRectF box(at.x() + 10, at.y() - 9, width, 18);
        if (box.right() > plot().right()) box.moveRight(at.x() - 10);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme.accent);
        painter.drawRoundedRect(box, 3, 3);
        painter.setPen(theme.dark ? theme.paper : QColor("#FFFFFF"));
        painter.drawText(box, Qt::AlignCenter, text);
    }
    painter.setFont(draw::ui_font(7.5));
    painter.setPen(theme.faint);
    const auto scale = QString("radial ×%1").arg(std::abs(v.r_scale_px) / v.z_scale_px, 0, 'f', 1);
    painter.drawText(plot().adjusted(4, 0, -4, -3), Qt::AlignRight | Qt::AlignBottom, scale);
    if (is_whole() && whole().side_b_moved_mm > 0) {
        const auto words =
            QString("joints staggered: side B stands %1 further out here than on TAPE")
                .arg(QString::fromStdString(format_length(whole().side_b_moved_mm, session_.unit())));
        const QRectF box(plot().left() + 6, plot().bottom() - 17,
                         painter.fontMetrics().horizontalAdvance(words) + 12, 15);
        painter.fillRect(box, theme.panel);
        painter.drawText(box, Qt::AlignCenter, words);
    }
}

Point BuildStrip::on_core(Point p) const {
    return is_whole() ? Point{p.r + whole().core_offsets_mm[whole().shortest], p.z} : p;
}

QPointF BuildStrip::handle_place(const std::string& key) const {
    if (!shown()) return {};
    for (const auto& handle : shown()->built.handles)
        if (handle.key == key) return shown_view().map(on_core(handle.at));
    return {};
}

const Handle* BuildStrip::handle_at(QPointF p) const {
    if (!shown()) return nullptr;
    for (const auto& handle : shown()->built.handles) {
        const auto at = shown_view().map(on_core(handle.at));
        if (std::abs(p.x() - at.x()) <= 7 && std::abs(p.y() - at.y()) <= 10) return &handle;
    }
    return nullptr;
}

bool BuildStrip::eventFilter(QObject* watched, QEvent* event) {
    // A handle under the pointer goes before the needle.
    if (watched == this && event->type() == QEvent::MouseButtonPress) {
        auto* mouse = static_cast<QMouseEvent*>(event);
        if (mouse->button() == Qt::LeftButton && handle_at(mouse->position())) {
            mousePressEvent(mouse);
            return true;
        }
    }
    if (watched == this && event->type() == QEvent::MouseMove && !dragged_.empty()) {
        mouseMoveEvent(static_cast<QMouseEvent*>(event));
        return true;
    }
    return Strip::eventFilter(watched, event);
}

void BuildStrip::mousePressEvent(QMouseEvent* event) {
    const auto* handle = handle_at(event->position());
    if (!handle) return;
    dragged_ = handle->key;
    dragged_label_ = QString::fromStdString(handle->label);
    at_datum_mm_ = handle->at_datum_mm;
    per_mm_ = handle->per_mm;
    grab_offset_px_ = event->position().x() - handle_place(dragged_).x();
    setFocus();
    session_.set_live(true);
    update();
}

void BuildStrip::drag_to(double x_px, bool free) {
    const double value = at_datum_mm_ + per_mm_ * session_.axis.u(x_px - grab_offset_px_);
    session_.set_number(dragged_, free ? std::round(value * 100) / 100 : hand_snapped(value, session_.unit()),
                        dragged_label_);
}

void BuildStrip::mouseMoveEvent(QMouseEvent* event) {
    if (!dragged_.empty()) {
        drag_to(event->position().x(), event->modifiers().testFlag(Qt::ShiftModifier));
        return;
    }
    const auto* handle = handle_at(event->position());
    const std::string now = handle ? handle->key : std::string();
    if (now != hovered_) {
        hovered_ = now;
        setCursor(handle ? Qt::SizeHorCursor : Qt::ArrowCursor);
        update();
    }
}

void BuildStrip::mouseReleaseEvent(QMouseEvent*) {
    if (dragged_.empty()) return;
    dragged_.clear();
    session_.set_live(false);
    update();
}

} // namespace ng::app
