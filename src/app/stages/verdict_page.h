#pragma once
#include "app/stages/page.h"
#include <QAbstractButton>
#include <QFrame>

namespace ng::app {

/// One check: mark, title, value against limit; opens to why, inputs, provenance, place and cure.
class VerdictRow : public QAbstractButton {
    Q_OBJECT
  public:
    VerdictRow(Session& session, QWidget* parent);
    void show_check(const Check& check, const QString& estimate);
    const Check& check() const { return check_; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    Session& session_;
    Check check_;
    QString estimate_;
};

/// Stage Verdict: does it hold, and why.
class VerdictPage : public Page {
    Q_OBJECT
  public:
    VerdictPage(Session& session, QWidget* parent);
    QList<VerdictRow*> rows() const { return rows_; }
    void open_row(int index);

  private:
    void refresh();
    void show_detail(int index);
    QString detail_text(const Check& check) const;

    QLabel *overall_, *reason_, *compared_, *statements_;
    QVBoxLayout* list_;
    QList<VerdictRow*> rows_;
    QList<QLabel*> details_;
    int open_ = -1;
};

} // namespace ng::app
