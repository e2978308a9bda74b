// A row of a list: a card with the mark of a state at its left, that the keyboard reaches.
#pragma once
#include "app/model/session.h"
#include "app/stages/stage_list.h"
#include <QAbstractButton>

namespace ng::app {

class CardRow : public QAbstractButton {
    Q_OBJECT
  protected:
    CardRow(Session& session, int height_px, QWidget* parent);
    /// The card, tinted while it is open, and its mark so far below its top.
    void paint_card(QPainter& painter, StageState state, double mark_y) const;
    void paint_focus(QPainter& painter) const;

    Session& session_;
};

} // namespace ng::app
