// A field that is entered as a whole, by Return or by leaving it. Until then its undo is its own; afterwards
// undo belongs to the job.
#pragma once
#include <QLineEdit>

namespace ng::app {

class EntryEdit : public QLineEdit {
    Q_OBJECT
  public:
    using QLineEdit::QLineEdit;
    /// Enters what is typed, as leaving the field does.
    virtual void enter() {}

  protected:
    bool event(QEvent* event) override;
};

/// A name; an empty one is not taken.
class NameEdit : public EntryEdit {
    Q_OBJECT
  public:
    explicit NameEdit(const QString& label, QWidget* parent = nullptr);
    /// Leaves what is being typed alone.
    void show_name(const QString& name);
    void enter() override;

  signals:
    void entered(const QString& name);

  private:
    QString shown_;
};

} // namespace ng::app
