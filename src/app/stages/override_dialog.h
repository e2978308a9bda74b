// Confirms or replaces a value of a table against the user's own copy: who, when, which document.
#pragma once
#include "app/model/session.h"
#include <QDialog>

class QLineEdit;
class QPushButton;

namespace ng::app {

class OverrideDialog : public QDialog {
    Q_OBJECT
  public:
    /// `shipped`: the value without the job's override; `now`: the override in force, if any.
    OverrideDialog(const QString& item, const SourcedValue& shipped, const std::optional<Override>& now,
                   QWidget* parent);

    enum class Choice { none, keep, back };
    Choice choice() const { return choice_; }
    Override result() const { return result_; }

  private:
    void take(bool with_value);
    QLineEdit *value_, *by_, *document_;
    QLabel* problem_;
    SourcedValue shipped_;
    Choice choice_ = Choice::none;
    Override result_;
};

/// Asks, and puts the answer into the map of the job under `key` as one undoable edit.
void edit_override(Session& session, QWidget* parent, const QString& item, const SourcedValue& shipped,
                   std::map<std::string, Override> Job::*map, const std::string& key);

} // namespace ng::app
