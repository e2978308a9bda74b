#include "app/stages/accessory_page.h"
#include <QSignalBlocker>
#include <fmt/format.h>

namespace ng::app {

AccessoryPage::AccessoryPage(Session& session, QWidget* parent) : Page(session, "Accessory", parent) {
    family_ = add_text("");
    note_ = add_text("", true);
    title_ = add_line(add_group("Design"), "Name");
    connect(title_, &QLineEdit::editingFinished, this, [this] {
        const auto text = title_->text().trimmed().toStdString();
        const auto id = session_.document.job().open_design;
        if (!text.empty())
            session_.document.edit("Rename design", {}, [&](Job& job) { job.find_design(id)->title = text; });
    });
    make_fields();
    connect(&session, &Session::prepared_changed, this, &AccessoryPage::refresh);
    connect(&session, &Session::look_changed, this, &AccessoryPage::refresh);
    refresh();
}

QWidget* AccessoryPage::field(const std::string& key) const {
    if (const auto it = numbers_.find(key); it != numbers_.end()) return it->second;
    if (const auto it = choices_.find(key); it != choices_.end()) return it->second;
    return nullptr;
}

void AccessoryPage::make_fields() {
    const auto* family = find_family(session_.document.design().family);
    if (!family) return;
    shown_family_ = family->id;
    std::string group;
    QFormLayout* form = nullptr;
    for (const auto& spec : family->parameters) {
        if (spec.group != group) form = add_group(QString::fromStdString(group = spec.group));
        const auto label = QString::fromStdString(spec.label), help = QString::fromStdString(spec.help);
        const auto key = spec.key;
        if (spec.kind == ParameterKind::choice) {
            QStringList words;
            for (const auto& [value, word] : spec.options) words << QString::fromStdString(word);
            auto* box = add_choice(form, label, words);
            box->setToolTip(help);
            connect(box, &QComboBox::activated, this, [this, key, label](int i) {
                const auto id = session_.document.job().open_design;
                const auto value =
                    find_family(shown_family_)->parameter(key)->options.at(static_cast<std::size_t>(i)).first;
                session_.document.edit("Set " + label, {},
                                       [&](Job& job) { job.find_design(id)->choices[key] = value; });
            });
            choices_[key] = box;
            continue;
        }
        auto* edit = add_quantity(form, label,
                                  spec.kind == ParameterKind::length ? QuantityEdit::Kind::length
                                                                     : QuantityEdit::Kind::number,
                                  help + (help.isEmpty() ? "" : ". ") + "Empty: default");
        edit->set_may_be_empty(true);
        if (spec.kind == ParameterKind::conductivity) edit->set_step(0); // spans decades: no nudging
        edit->setObjectName(QString::fromStdString(key));
        connect(edit, &QuantityEdit::entered, this,
                [this, key, label](double v) { session_.set_number(key, v, label); });
        connect(edit, &QuantityEdit::cleared, this, [this, key, label] {
            const auto id = session_.document.job().open_design;
            session_.document.edit("Default " + label, {},
                                   [&](Job& job) { job.find_design(id)->numbers.erase(key); });
            refresh();
        });
        numbers_[key] = edit;
    }
    derived_ = add_text("");
    if (const auto prepared = session_.prepared())
        for (const auto& caution : prepared->built.cautions) add_caution(QString::fromStdString(caution));
    column_->addStretch();
}

void AccessoryPage::refresh() {
    const auto& document = session_.document;
    const auto& design = document.design();
    const auto* family = find_family(design.family);
    if (!family) return;
    family_->setText(
        QString("%1 on %2")
            .arg(QString::fromStdString(family->title), QString::fromStdString(document.cable().title)));
    if (!title_->hasFocus()) title_->setText(QString::fromStdString(design.title));
    note_->setText(QString::fromStdString(design.note));
    note_->setVisible(!design.note.empty());
    const auto dimensions = derive_dimensions(document.cable(), session_.library().cables);
    if (!dimensions) return;
    const DesignContext context{design, document.cable(), *dimensions, session_.library().materials};
    for (const auto& [key, edit] : numbers_)
        edit->show_value(number_of(*family, context, key), !design.numbers.contains(key));
    for (const auto& [key, box] : choices_) {
        const QSignalBlocker quiet(box);
        const auto& options = family->parameter(key)->options;
        const auto value = choice_of(*family, context, key);
        for (std::size_t i = 0; i < options.size(); ++i)
            if (options[i].first == value) box->setCurrentIndex(static_cast<int>(i));
    }
    if (const auto prepared = session_.prepared()) {
        QString text = "On this cable: ";
        bool first = true;
        for (const auto& [words, value] : prepared->built.derived) {
            // Words end in "(mm)": the unit is written behind the value instead.
            const auto name = QString::fromStdString(words).section(" (mm)", 0, 0);
            text += QString("%1%2 %3").arg(first ? "" : " · ", name,
                                           QString::fromStdString(format_length(value, session_.unit())));
            first = false;
        }
        derived_->setText(text + ".");
    }
}

} // namespace ng::app
