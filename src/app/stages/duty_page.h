#pragma once
#include "app/stages/page.h"
#include <QCheckBox>
#include <QTableWidget>

namespace ng::app {

/// Stage Duty: standard, class, U0 and frequency; the levels with where each comes from.
class DutyPage : public Page {
    Q_OBJECT
  public:
    DutyPage(Session& session, QWidget* parent);

  private:
    void refresh();
    void edit(const QString& what, const std::function<void(Duty&)>& change);

    QComboBox *standard_, *class_;
    QuantityEdit *u0_, *frequency_;
    QCheckBox* outdoor_;
    QTableWidget* levels_;
    QLabel* scope_;
};

} // namespace ng::app
