// The line at the top of the window: which job and design, in which units, how far it is solved, and whether
// it holds.
#pragma once
#include "app/model/session.h"
#include <QFrame>

class QComboBox;
class QLabel;
class QPushButton;

namespace ng::app {

class StateLabel;

class Header : public QFrame {
    Q_OBJECT
  public:
    explicit Header(Session& session, QWidget* parent = nullptr);

  private:
    void refresh();
    void refresh_designs();
    QString standard() const; ///< as short as it is spoken of
    void show_verdict();

    Session& session_;
    QLabel *job_, *duty_, *verdict_word_;
    QComboBox* design_;
    StateLabel* state_;
    QPushButton *mm_, *inch_, *cancel_;
};

} // namespace ng::app
