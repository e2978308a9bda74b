#include "app/strips/field_strip.h"
#include "draw/field_picture.h"
#include "draw/section_picture.h"
#include "units/parallel.h"
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace ng::app {

namespace {

/// Of the checks at U0, whose solution the map shows.
double greatest_judged(const Solved& solved) {
    double out = 0;
    const double u0 = solved.prepared->design.duty.u0();
    for (const auto& c : solved.verdict.checks)
        if (c.unit.rfind("kV/mm", 0) == 0 && std::abs(c.voltage_kV - u0) < 1e-6 * u0 && c.across.empty())
            out = std::max(out, c.value);
    return out;
}

} // namespace

FieldStrip::FieldStrip(Session& session, QWidget* parent) : Strip(session, "FIELD", parent) {
    new AxisMouse(session, this);
    connect(&session, &Session::traces_changed, this, [this] {
        if (isVisible() && session_.solved() && session_.map_is_near()) begin();
    });
    connect(&session, &Session::map_changed, this, QOverload<>::of(&QWidget::update));
}

void FieldStrip::begin() {
    const auto solved = session_.solved();
    Key key{solved, session_.axis.left_u(), session_.axis.scale(), size(), session_.theme().dark};
    if (key == key_) return;
    key_ = std::move(key);
    const auto v = view(solved->prepared->built, false);
    const auto seen = QRectF(rect()).adjusted(-40, -10, 40, 40);
    coming_ = beside(usable_threads(), [solved, v, seen, size = size(), theme = session_.theme()] {
        return Picture{
            draw::field_image(solved->solution, v, size, solved->full_scale_kV_per_mm, theme),
            draw::equipotentials(solved->solution, v, seen, solved->prepared->design.duty.u0() / 10)};
    });
}

void FieldStrip::paint(QPainter& painter) {
    const auto& theme = session_.theme();
    const auto solved = session_.solved();
    if (!solved) {
        painter.setPen(theme.faint);
        painter.setFont(draw::ui_font(9));
        painter.drawText(plot(), Qt::AlignCenter,
                         session_.input_error() ? "No field: correct what the message above names"
                                                : "Solving…");
        return;
    }
    begin();
    if (coming_.valid()) picture_ = coming_.get();
    painter.drawImage(0, 0, picture_.map);
    const auto& built = solved->prepared->built;
    const auto v = view(built, false);
    draw::paint_parts_of_field(painter, built.section, v, theme);
    painter.setPen(QPen(theme.field_line, 0.9));
    painter.drawLines(picture_.lines);
    draw::paint_field_key(painter, QRectF(plot().right() - 206, height() - 32, 202, 27),
                          solved->full_scale_kV_per_mm, theme, greatest_judged(*solved),
                          session_.stress_unit());
    painter.setPen(theme.ink);
    painter.setFont(draw::ui_font(7.5));
    const auto note =
        QString("equipotentials every 10 % of U0%1")
            .arg(session_.is_current() ? "" : " (of the last description that could be solved)");
    const auto place = plot().adjusted(6, 0, 0, -4);
    QColor ground = theme.paper; // no line strikes it through
    ground.setAlpha(220);
    painter.fillRect(painter.boundingRect(place, Qt::AlignLeft | Qt::AlignBottom, note).adjusted(-3, 0, 3, 0),
                     ground);
    painter.drawText(place, Qt::AlignLeft | Qt::AlignBottom, note);
}

} // namespace ng::app
