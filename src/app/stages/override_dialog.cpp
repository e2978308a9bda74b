#include "app/stages/override_dialog.h"
#include "app/stages/form_dialog.h"
#include <QDate>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>

namespace ng::app {

OverrideDialog::OverrideDialog(const QString& item, const SourcedValue& shipped,
                               const std::optional<Override>& now, QWidget* parent)
    : QDialog(parent), shipped_(shipped) {
    setObjectName("overrideDialog");
    auto* form = new QFormLayout;
    value_ = add_line(form, QString("Value, %1").arg(QString::fromStdString(shipped.unit)),
                      QString::number(now && now->value ? *now->value : shipped.value));
    by_ = add_line(form, "Who", now ? QString::fromStdString(now->by) : QString());
    by_->setPlaceholderText("role or initials");
    document_ = add_line(form, "Document and edition", now ? QString::fromStdString(now->note) : QString());
    const auto back = [this] {
        choice_ = Choice::back;
        accept();
    };
    problem_ =
        set_out(this, "Check against your own copy", item,
                QString("As shipped: %1 %2, %3.")
                    .arg(shipped.value)
                    .arg(QString::fromStdString(shipped.unit), QString::fromStdString(shipped.origin())),
                form,
                {{"It is right as shipped", [this] { take(false); }},
                 {"Use this value", [this] { take(true); }, true},
                 {"Back to the shipped value", back, false, now.has_value()}});
}

void OverrideDialog::take(bool with_value) {
    if (by_->text().trimmed().isEmpty()) {
        by_->setFocus();
        return complain(problem_, {"Who", "it is empty", "Say who looked it up"});
    }
    result_ = {};
    if (with_value) {
        const auto value = parse_number(value_->text().toStdString(), "", "Value");
        if (!value || !(*value > 0)) {
            value_->setFocus();
            return complain(problem_, value ? InputError{"Value", "it is not above zero", "Correct it"}
                                            : value.error());
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
