#include "app/stages/form_dialog.h"
#include "app/model/text.h"
#include "draw/theme.h"
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace ng::app {

QLineEdit* add_line(QFormLayout* form, const QString& label, const QString& text) {
    auto* edit = new QLineEdit(text);
    edit->setAccessibleName(label);
    edit->setMinimumWidth(260);
    form->addRow(label, edit);
    return edit;
}

QLabel* set_out(QDialog* dialog, const QString& title, const QString& heading, const QString& about,
                QFormLayout* form, const std::vector<DialogButton>& buttons) {
    dialog->setWindowTitle(title);
    auto* column = new QVBoxLayout(dialog);
    auto* label = new QLabel(heading);
    label->setFont(draw::ui_font(11, true));
    column->addWidget(label);
    if (!about.isEmpty()) column->addWidget(new QLabel(about));
    column->addLayout(form);
    auto* problem = new QLabel;
    problem->setWordWrap(true);
    problem->setProperty("caution", true);
    problem->hide();
    column->addWidget(problem);
    auto* row = new QHBoxLayout;
    const auto add = [&](const DialogButton& one) {
        auto* button = new QPushButton(one.text);
        button->setAutoDefault(false);
        button->setDefault(one.is_default);
        button->setEnabled(one.enabled);
        QObject::connect(button, &QPushButton::clicked, dialog, one.act);
        row->addWidget(button);
    };
    for (const auto& one : buttons) add(one);
    row->addStretch();
    add({"Leave", [dialog] { dialog->reject(); }});
    column->addLayout(row);
    return problem;
}

void complain(QLabel* place, const InputError& error) {
    place->setText(q(error.message()));
    place->show();
}

} // namespace ng::app
