#include "app/stages/card_row.h"
#include <QPainter>

namespace ng::app {

CardRow::CardRow(Session& session, int height_px, QWidget* parent)
    : QAbstractButton(parent), session_(session) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(height_px);
}

void CardRow::paint_card(QPainter& painter, StageState state, double mark_y) const {
    painter.setRenderHint(QPainter::Antialiasing);
    const auto& theme = session_.theme();
    painter.fillRect(rect().adjusted(0, 0, 0, -2), isChecked() ? theme.paper : theme.panel);
    paint_stage_mark(painter, QRectF(6, mark_y, 12, 12), state, theme);
}

void CardRow::paint_focus(QPainter& painter) const {
    if (!hasFocus()) return;
    painter.setPen(QPen(session_.theme().accent, 1, Qt::DotLine));
    painter.drawRect(rect().adjusted(1, 1, -2, -4));
}

} // namespace ng::app
