#include "app/stages/accessory_page.h"
#include "app/model/text.h"
#include "app/stages/body_dialog.h"
#include "draw/section_picture.h"
#include <QFileDialog>
#include <QFormLayout>
#include <QPainter>
#include <QPushButton>
#include <QSignalBlocker>
#include <fmt/format.h>

namespace ng::app {
namespace {

/// A job travels without the program's data: a drawing that ships goes with it once it is chosen.
void keep_with_job(Job& job, const std::string& id, const Library& library) {
    if (std::any_of(job.drawings.begin(), job.drawings.end(), [&](const auto& d) { return d.id == id; }))
        return;
    for (const auto& drawing : library.drawings)
        if (drawing.id == id) job.drawings.push_back(drawing);
}

} // namespace

AcrossPicture::AcrossPicture(Session& session, std::size_t index, QWidget* parent)
    : QWidget(parent), session_(session), index_(index) {
    setFixedHeight(170);
    connect(&session, &Session::prepared_changed, this, QOverload<>::of(&QWidget::update));
    connect(&session, &Session::solved_changed, this, QOverload<>::of(&QWidget::update));
    connect(&session, &Session::look_changed, this, QOverload<>::of(&QWidget::update));
}

void AcrossPicture::paintEvent(QPaintEvent*) {
    const auto prepared = session_.prepared();
    if (!prepared || index_ >= prepared->built.across.size()) return;
    const auto& across = prepared->built.across[index_];
    const Solution* solution = nullptr;
    if (session_.is_current())
        if (const auto it = session_.solved()->across.find(across.id); it != session_.solved()->across.end())
            solution = &it->second;
    QPainter painter(this);
    draw::paint_across(painter, across, solution, QRectF(rect()), session_.theme());
}

/// Says what does not come along: undo brings it back.
void AccessoryPage::change_family(const Family& family) {
    const auto before = session_.document.design();
    if (family.id == before.family) return;
    QStringList dropped;
    if (const auto* old = session_.family())
        for (const auto& spec : old->parameters)
            if (before.numbers.contains(spec.key) || before.choices.contains(spec.key))
                dropped << q(spec.label);
    session_.document.change_family(family);
    if (dropped.isEmpty()) return;
    session_.tell(
        {family.title,
         QString("it begins with its own dimensions. Kept: cable, duty, faults. No longer there: %1")
             .arg(dropped.mid(0, 6).join(", ") +
                  (dropped.size() > 6 ? QString(" and %1 more").arg(dropped.size() - 6) : QString()))
             .toStdString(),
         "Undo brings them back"});
}

AccessoryPage::AccessoryPage(Session& session, QWidget* parent) : Page(session, "Accessory", parent) {
    note_ = add_text("", true);
    auto* form = add_group("Design");
    title_ = add_name(form, "Name");
    connect(title_, &NameEdit::entered, this, [this](const QString& name) {
        const auto id = session_.document.job().open_design;
        session_.document.edit("Rename design", {},
                               [&](Job& job) { job.find_design(id)->title = name.toStdString(); });
    });
    QStringList titles;
    for (const auto& family : session_.library().families) titles << QString::fromStdString(family.title);
    family_ = add_wide_choice(form, "Family", titles);
    family_->setToolTip("Another family begins with its own defaults (undo brings this one back)");
    connect(family_, &QComboBox::activated, this,
            [this](int i) { change_family(session_.library().families[i]); });
    other_cable_ = add_wide_choice(form, "Cable of side B", {});
    connect(other_cable_, &QComboBox::activated, this, [this](int i) {
        const auto id = session_.document.job().open_design;
        const auto cable =
            i == 0 ? std::string() : session_.document.job().cables.at(static_cast<std::size_t>(i - 1)).id;
        session_.document.edit("Choose cable of side B", {},
                               [&](Job& job) { job.find_design(id)->other_cable_id = cable; });
    });
    design_form_ = form;
    drawing_row_ = form->rowCount();
    drawing_ = add_wide_choice(form, "Drawing of the body", {});
    connect(drawing_, &QComboBox::activated, this, [this](int i) {
        const auto id = session_.document.job().open_design;
        const auto drawing = drawing_ids_.at(static_cast<std::size_t>(i));
        session_.document.edit("Choose drawing", {}, [&](Job& job) {
            job.find_design(id)->drawing_id = drawing;
            keep_with_job(job, drawing, session_.library());
        });
    });
    auto* import = new QPushButton("Import a drawing (DXF)…");
    form->addRow("", import);
    connect(import, &QPushButton::clicked, this, [this] {
        const auto file = QFileDialog::getOpenFileName(this, "Drawing of a body", {}, "Drawings (*.dxf)");
        if (!file.isEmpty()) import_drawing(file);
    });
    follow_design(session, this, &AccessoryPage::refresh);
    connect(&session, &Session::look_changed, this, &AccessoryPage::refresh);
    refresh();
}

void AccessoryPage::import_drawing(const QString& file) {
    BodyDialog dialog(file, session_.theme(), this);
    if (dialog.exec() != QDialog::Accepted) return;
    const auto id = session_.document.job().open_design;
    session_.document.edit("Import drawing", {}, [&](Job& job) {
        auto body = dialog.result();
        job.find_design(id)->drawing_id = body.id;
        job.put_drawing(std::move(body));
    });
}

QWidget* AccessoryPage::field(const std::string& key) const {
    if (const auto it = numbers_.find(key); it != numbers_.end()) return it->second;
    if (const auto it = choices_.find(key); it != choices_.end()) return it->second;
    return nullptr;
}

void AccessoryPage::make_fields() {
    delete fields_;
    fields_ = nullptr;
    derived_ = nullptr;
    numbers_.clear();
    choices_.clear();
    const auto* family = session_.family();
    if (!family) return;
    shown_family_ = family->id;
    auto* page = column_;
    fields_ = new QWidget;
    column_ = new QVBoxLayout(fields_);
    column_->setContentsMargins(0, 0, 0, 0);
    column_->setSpacing(page->spacing());
    page->addWidget(fields_);
    std::string group;
    QFormLayout* form = nullptr;
    for (const auto& spec : family->parameters) {
        if (spec.group != group) form = add_group(QString::fromStdString(group = spec.group));
        const auto label = QString::fromStdString(spec.label), help = QString::fromStdString(spec.help);
        const auto name = QString::fromStdString(spec.group + ": " + spec.label); // labels recur
        const auto key = spec.key;
        if (spec.kind == ParameterKind::choice) {
            QStringList words;
            for (const auto& [value, word] : spec.options) words << QString::fromStdString(word);
            auto* box = add_choice(form, label, words);
            box->setToolTip(help);
            box->setAccessibleName(name);
            connect(box, &QComboBox::activated, this, [this, key, label](int i) {
                const auto id = session_.document.job().open_design;
                const auto value = session_.library()
                                       .families.find(shown_family_)
                                       ->parameter(key)
                                       ->options.at(static_cast<std::size_t>(i))
                                       .first;
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
        edit->setAccessibleName(name);
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
    if (const auto prepared = session_.prepared()) {
        shown_across_ = prepared->built.across.size();
        for (std::size_t i = 0; i < shown_across_; ++i) {
            add_group(QString::fromStdString(prepared->built.across[i].title));
            column_->addWidget(new AcrossPicture(session_, i, this));
        }
        for (const auto& caution : prepared->built.cautions) add_caution(QString::fromStdString(caution));
    }
    column_->addStretch();
    column_ = page;
}

void AccessoryPage::refresh() {
    const auto& document = session_.document;
    const auto& design = document.design();
    const auto* family = session_.family();
    if (!family) return;
    const auto prepared = session_.prepared();
    if (family->id != shown_family_ || !fields_ ||
        (prepared && prepared->built.across.size() != shown_across_))
        make_fields();
    show_text(family_, QString::fromStdString(family->title));
    {
        const QSignalBlocker quiet(other_cable_);
        other_cable_->clear();
        other_cable_->addItem("as side A");
        for (const auto& cable : document.job().cables) {
            other_cable_->addItem(QString::fromStdString(cable.title));
            if (cable.id == design.other_cable_id) other_cable_->setCurrentIndex(other_cable_->count() - 1);
        }
        other_cable_->setEnabled(family->two_cables);
    }
    {
        const QSignalBlocker quiet(drawing_);
        drawing_->clear();
        drawing_ids_.clear();
        const auto* chosen = drawing_of(design, document.job(), session_.library());
        for (const auto* list : {&document.job().drawings, &session_.library().drawings})
            for (const auto& drawing : *list) {
                if (std::find(drawing_ids_.begin(), drawing_ids_.end(), drawing.id) != drawing_ids_.end())
                    continue;
                drawing_->addItem(QString::fromStdString(drawing.title));
                drawing_ids_.push_back(drawing.id);
                if (chosen && chosen->id == drawing.id) drawing_->setCurrentIndex(drawing_->count() - 1);
            }
        for (const int row : {drawing_row_, drawing_row_ + 1})
            design_form_->setRowVisible(row, family->from_drawing);
    }
    title_->show_name(QString::fromStdString(design.title));
    note_->setText(QString::fromStdString(design.note));
    note_->setVisible(!design.note.empty());
    const auto dimensions = derive_dimensions(document.cable(), session_.library().cables);
    if (!dimensions) return;
    const auto* other = document.job().find_cable(design.other_cable_id);
    const auto other_dimensions = other ? derive_dimensions(*other, session_.library().cables) : dimensions;
    if (!other_dimensions) return;
    const DesignContext context{
        *family,           design, document.cable(), *dimensions, session_.library().materials, other,
        &*other_dimensions};
    for (const auto& [key, edit] : numbers_)
        edit->show_value(number_of(context, key), !design.numbers.contains(key));
    for (const auto& [key, box] : choices_) {
        const QSignalBlocker quiet(box);
        const auto& options = family->parameter(key)->options;
        const auto value = choice_of(context, key);
        for (std::size_t i = 0; i < options.size(); ++i)
            if (options[i].first == value) box->setCurrentIndex(static_cast<int>(i));
    }
    if (prepared && derived_) {
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
