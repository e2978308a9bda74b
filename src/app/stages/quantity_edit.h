// A field for a quantity typed with its unit. Wrong input stays as typed, is marked, and its message goes to
// the window; arrow keys nudge.
#pragma once
#include "app/model/session.h"
#include "app/stages/entry_edit.h"
#include <functional>

namespace ng::app {

class QuantityEdit : public EntryEdit {
    Q_OBJECT
  public:
    enum class Kind { length, voltage, stress, number };
    QuantityEdit(Session& session, Kind kind, const QString& name, QWidget* parent = nullptr);

    /// Shows a value; `is_default` in faint type. An empty field goes back to the default.
    /// Not a number: an empty field.
    void show_value(double value, bool is_default);
    void enter() override { commit(); }
    void set_may_be_empty(bool may) { may_be_empty_ = may; }
    void set_step(double step) { step_ = step; }

  signals:
    void entered(double value);
    void cleared();

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    void commit();
    void withdraw();
    void mark(bool wrong);
    QString written(double value) const;

    Session& session_;
    Kind kind_;
    QString name_;
    double value_ = 0, step_ = 0.5;
    bool is_default_ = false, may_be_empty_ = false, wrong_ = false;
    QString shown_;
    QString said_; ///< the refusal that is on screen because of this field
};

} // namespace ng::app
