// Dialogs that ask for a few fields: a heading, a form, a place for what is wrong, buttons, and one to leave.
#pragma once
#include "units/result.h"
#include <QDialog>
#include <functional>
#include <vector>

class QFormLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ng::app {

struct DialogButton {
    QString text;
    std::function<void()> act;
    bool is_default = false, enabled = true;
};

/// A line of a form, known by its label.
QLineEdit* add_line(QFormLayout* form, const QString& label, const QString& text);
/// Sets the dialog out; `about` below the heading may be empty. Returns the place for complain().
QLabel* set_out(QDialog* dialog, const QString& title, const QString& heading, const QString& about,
                QFormLayout* form, const std::vector<DialogButton>& buttons);
void complain(QLabel* place, const InputError& error);

} // namespace ng::app
