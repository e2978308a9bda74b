#include "app/stages/override_dialog.h"
#include <QDate>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace ng::app {

OverrideDialog::OverrideDialog(const QString& item, const SourcedValue& shipped,
                               const std::optional<Override>& now, QWidget* parent)
    : QDialog(parent), shipped_(shipped) {
    setWindowTitle("Check against your own copy");
    setObjectName("overrideDialog");
    auto* column = new QVBoxLayout(this);
    auto* heading = new QLabel(item);
    heading->setFont(draw::ui_font(11, true));
    column->addWidget(heading);
    column->addWidget(
        new QLabel(QString("As shipped: %1 %2, %3.")
                       .arg(shipped.value)
                       .arg(QString::fromStdString(shipped.unit), QString::fromStdString(shipped.origin()))));
    auto* form = new QFormLayout;
    auto line = [&](const QString& label, const QString& text) {
        auto* edit = new QLineEdit(text);
        edit->setAccessibleName(label);
        edit->setMinimumWidth(260);
        form->addRow(label, edit);
        return edit;
    };
    value_ = line(QString("Value, %1").arg(QString::fromStdString(shipped.unit)),
                  QString::number(now && now->value ? *now->value : shipped.value));
    by_ = line("Who", now ? QString::fromStdString(now->by) : QString());
    by_->setPlaceholderText("role or initials");
    document_ = line("Document and edition", now ? QString::fromStdString(now->note) : QString());
    column->addLayout(form);
    problem_ = new QLabel;
    problem_->setWordWrap(true);
    problem_->setProperty("caution", true);
    problem_->hide();
    column->addWidget(problem_);
    auto* row = new QHBoxLayout;
    auto button = [&](const QString& text, auto action) {
        auto* b = new QPushButton(text);
        b->setAutoDefault(false);
        connect(b, &QPushButton::clicked, this, action);
        row->addWidget(b);
        return b;
    };
    button("It is right as shipped", [this] { take(false); });
    button("Use this value", [this] { take(true); })->setDefault(true);
    auto* back = button("Back to the shipped value", [this] {
        choice_ = Choice::back;
        accept();
    });
    back->setEnabled(now.has_value());
    row->addStretch();
    button("Leave", [this] { reject(); });
    column->addLayout(row);
}

void OverrideDialog::take(bool with_value) {
    auto complain = [this](const QString& text) {
        problem_->setText(text);
        problem_->show();
    };
    if (by_->text().trimmed().isEmpty()) {
        by_->setFocus();
        return complain("Who: it is empty. Say who looked it up.");
    }
    result_ = {};
    if (with_value) {
        const auto value = parse_number(value_->text().toStdString(), "", "Value");
        if (!value || !(*value > 0)) {
            value_->setFocus();
            return complain(value ? "Value: it is not above zero. Correct it."
                                  : QString::fromStdString(value.error().message()));
        }
        result_.value = *value;
    }
    result_.by = by_->text().trimmed().toStdString();
    result_.on = QDate::currentDate().toString(Qt::ISODate).toStdString();
    result_.note = document_->text().trimmed().toStdString();
    choice_ = Choice::keep;
    accept();
}

void edit_override(Session& session, QWidget* parent, const QString& item, const SourcedValue& shipped,
                   std::map<std::string, Override> Job::*map, const std::string& key) {
    const auto& in_force = session.document.job().*map;
    const auto it = in_force.find(key);
    OverrideDialog dialog(item, shipped, it == in_force.end() ? std::nullopt : std::optional(it->second),
                          parent);
    if (dialog.exec() != QDialog::Accepted) return;
    session.document.edit(QString("Set %1").arg(item), {}, [&](Job& job) {
        if (dialog.choice() == OverrideDialog::Choice::back)
            (job.*map).erase(key);
        else
            (job.*map)[key] = dialog.result();
    });
}

} // namespace ng::app
