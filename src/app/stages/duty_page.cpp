#include "app/stages/duty_page.h"
#include "app/stages/override_dialog.h"
#include "io/file.h"
#include "io/json_reader.h"
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QSignalBlocker>
#include <algorithm>
#include <limits>

namespace ng::app {
namespace {

constexpr int row_px = 22;

/// "65 kV rms", with a dagger while nobody has confirmed it.
QString value_words(const SourcedValue& value) {
    const bool open = !value.verified && value.provenance != Provenance::computed;
    return QString("%1 %2%3").arg(value.value).arg(QString::fromStdString(value.unit), open ? " †" : "");
}

} // namespace

QTableWidget* DutyPage::add_table(const QString& heading, const QStringList& columns, const QString& name) {
    add_group(heading);
    auto* table = new QTableWidget(0, static_cast<int>(columns.size()));
    table->setHorizontalHeaderLabels(columns);
    table->verticalHeader()->hide();
    table->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table->setColumnWidth(1, 116);
    table->setMinimumWidth(100);
    table->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    table->verticalHeader()->setDefaultSectionSize(row_px);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setAccessibleName(name);
    table->setTabKeyNavigation(false);
    column_->addWidget(table);
    return table;
}

DutyPage::DutyPage(Session& session, QWidget* parent) : Page(session, "Duty", parent) {
    add_standard();
    add_pack_buttons();
    add_site();
    rules_ = add_table("Design rules", {"rule", "limit"}, "Design rules");
    rules_->setToolTip("Double-click or Enter: confirm or replace a rule for this job");
    add_caution("Levels are design inputs written from memory. Verify them against your own edition; a "
                "computation does not replace a type test.");
    column_->addStretch();
    connect_class();
    connect_numbers();
    connect(pollution_, &QComboBox::activated, this, [this](int i) {
        edit("pollution", [i](Duty& d) { d.pollution = pollution_levels.at(static_cast<std::size_t>(i)); });
    });
    connect(outdoor_, &QCheckBox::clicked, this,
            [this](bool on) { edit("site", [on](Duty& d) { d.outdoor = on; }); });
    connect(levels_, &QTableWidget::cellActivated, this, [this](int i) { open_level(i); });
    connect(rules_, &QTableWidget::cellActivated, this, [this](int i) { open_rule(i); });
    follow_design(session, this, &DutyPage::refresh);
    refresh();
}

void DutyPage::add_standard() {
    auto* form = add_group("Standard and class");
    standard_ = add_wide_choice(form, "Standard", {});
    class_ = add_choice(form, "Class", {});
    by_cable_ = new QPushButton;
    by_cable_->setToolTip("The class that the cable itself is made for");
    by_cable_->setObjectName("classOfCable");
    form->addRow("", by_cable_);
    u0_ = add_quantity(form, "U0, to earth", QuantityEdit::Kind::voltage, "Empty: that of the class");
    u0_->set_may_be_empty(true);
    u0_->set_step(0.1);
    frequency_ = add_quantity(form, "Frequency, Hz", QuantityEdit::Kind::number, "Service frequency");
    frequency_->set_step(10);

    levels_ = add_table("Levels of this class", {"test", "level"}, "Test levels");
    levels_->setToolTip("Double-click or Enter: confirm or replace a level against your own copy");
    scope_ = add_text("", true);
}

void DutyPage::add_pack_buttons() {
    auto* row = new QHBoxLayout;
    auto button = [&](const QString& text, const QString& help, auto action) {
        auto* b = new QPushButton(text);
        b->setToolTip(help);
        connect(b, &QPushButton::clicked, this, action);
        row->addWidget(b);
    };
    button("Import pack…", "A standards pack of your own; it travels with the job", [this] {
        const auto path =
            QFileDialog::getOpenFileName(this, "Import a standards pack", {}, "Standards packs (*.json)");
        if (!path.isEmpty()) import_pack(path);
    });
    button("Export pack…", "This pack with the job's values in place", [this] {
        const auto path = QFileDialog::getSaveFileName(this, "Export the standards pack", "standards.json",
                                                       "Standards packs (*.json)");
        if (!path.isEmpty()) export_pack(path);
    });
    row->addStretch();
    column_->addLayout(row);
}

void DutyPage::add_site() {
    auto* site = add_group("Site");
    outdoor_ = new QCheckBox("outdoor");
    outdoor_->setAccessibleName("Outdoor");
    site->addRow("", outdoor_);
    altitude_ =
        add_quantity(site, "Altitude, m", QuantityEdit::Kind::number,
                     "Above 1000 m external withstand falls as exp(-(H - 1000) / 8150), IEC 62271-1 from "
                     "memory; thinner air also lowers the void allowance");
    altitude_->set_step(100);
    ambient_ =
        add_quantity(site, "Ambient, °C", QuantityEdit::Kind::number,
                     "Air density of the void allowance, with the altitude (IEC 60071-2, from memory)");
    ambient_->set_step(5);
    QStringList pollution;
    for (const auto& level : pollution_levels) pollution << QString::fromStdString(level);
    pollution_ = add_choice(site, "Pollution", pollution);
    film_ = add_quantity(site, "Wet film, MΩ per square", QuantityEdit::Kind::number,
                         "Surface resistance of the conductive film of the wet test");
    film_->set_step(0.5);
    const auto clearance = [&](const QString& label, const QString& help) {
        auto* field = add_quantity(site, label, QuantityEdit::Kind::length, help);
        field->set_may_be_empty(true);
        return field;
    };
    phases_ =
        clearance("Clear air between phases", "As installed, live part to live part; empty: not judged");
    earth_ = clearance("Clear air to earth", "As installed, live part to earthed part; empty: not judged");
}

void DutyPage::connect_class() {
    connect(standard_, &QComboBox::activated, this, [this](int i) {
        const auto& pack = packs_.at(static_cast<std::size_t>(i));
        edit("standard", [&](Duty& d) {
            d.standard = pack.id;
            if (pack.find(d.class_kV)) return;
            // The class nearest to the one that was set: the two schools name their classes differently.
            const auto nearest =
                std::min_element(pack.classes.begin(), pack.classes.end(), [&](const auto& a, const auto& b) {
                    return std::abs(a.class_kV - d.class_kV) < std::abs(b.class_kV - d.class_kV);
                });
            d.class_kV = nearest->class_kV;
        });
    });
    connect(class_, &QComboBox::activated, this, [this] {
        edit("class", [&](Duty& d) { d.class_kV = class_->currentText().split(' ').first().toDouble(); });
    });
    connect(by_cable_, &QPushButton::clicked, this, [this] {
        if (class_of_cable_kV_)
            edit("class", [kV = *class_of_cable_kV_](Duty& d) { d.class_kV = kV, d.u0_kV.reset(); });
    });
}

void DutyPage::connect_numbers() {
    auto number = [this](QuantityEdit* field, const QString& what, double Duty::*member) {
        connect(field, &QuantityEdit::entered, this,
                [this, what, member](double v) { edit(what, [v, member](Duty& d) { d.*member = v; }); });
    };
    number(frequency_, "frequency", &Duty::frequency_hz);
    number(altitude_, "altitude", &Duty::altitude_m);
    number(ambient_, "ambient temperature", &Duty::ambient_C);
    number(film_, "wet film", &Duty::wet_film_Mohm);
    auto may_be_empty = [this](QuantityEdit* field, const QString& what,
                               std::optional<double> Duty::*member) {
        connect(field, &QuantityEdit::entered, this,
                [this, what, member](double v) { edit(what, [v, member](Duty& d) { d.*member = v; }); });
        connect(field, &QuantityEdit::cleared, this,
                [this, what, member] { edit(what, [member](Duty& d) { (d.*member).reset(); }); });
    };
    may_be_empty(u0_, "U0", &Duty::u0_kV);
    may_be_empty(phases_, "clearance between phases", &Duty::phase_clearance_mm);
    may_be_empty(earth_, "clearance to earth", &Duty::earth_clearance_mm);
}

void DutyPage::refresh_proposal(const StandardsPack* pack) {
    const auto& cable = session_.document.cable();
    const auto* of_cable = pack ? pack->for_cable(cable.insulation_class_kV) : nullptr;
    class_of_cable_kV_ = of_cable ? std::optional(of_cable->class_kV) : std::nullopt;
    const bool other = class_of_cable_kV_ && *class_of_cable_kV_ != session_.document.design().duty.class_kV;
    by_cable_->setVisible(other);
    if (other)
        by_cable_->setText(QString("Take the cable's: %1 kV, %2 kV to earth")
                               .arg(*class_of_cable_kV_)
                               .arg(of_cable->u0(), 0, 'f', 1));
}

void DutyPage::edit(const QString& what, const std::function<void(Duty&)>& change) {
    const auto id = session_.document.job().open_design;
    session_.document.edit("Set " + what, {}, [&](Job& job) { change(job.find_design(id)->duty); });
}

bool DutyPage::import_pack(const QString& path) {
    const auto text = read_file(path.toStdString(), most_table_bytes);
    if (!text) return session_.tell(text.error()), false;
    const auto document = parse_json(*text, path.section('/', -1).toStdString());
    if (!document) return session_.tell(document.error()), false;
    const auto pack = read_standards_pack(*document);
    if (!pack) return session_.tell(pack.error()), false;
    const auto id = session_.document.job().open_design;
    session_.document.edit("Import " + QString::fromStdString(pack->title), {}, [&](Job& job) {
        std::erase_if(job.standards_packs, [&](const auto& old) { return old.value("id", "") == pack->id; });
        job.standards_packs.push_back(*document);
        auto& duty = job.find_design(id)->duty;
        if (pack->find(duty.class_kV)) duty.standard = pack->id;
    });
    return true;
}

bool DutyPage::export_pack(const QString& path) {
    const auto& duty = session_.document.design().duty;
    for (const auto& pack : packs_)
        if (pack.id == duty.standard) {
            if (auto ok = write_file_safely(path.toStdString(), write_standards_pack(pack).dump(1) + "\n");
                !ok)
                return session_.tell(ok.error()), false;
            return true;
        }
    return false;
}

void DutyPage::open_level(int row) {
    const auto& duty = session_.document.design().duty;
    // The dialog shows the shipped value: packs without the job's overrides.
    auto plain = session_.document.job();
    plain.level_overrides.clear();
    const auto packs = packs_of(plain, session_.library());
    if (!packs) return;
    for (const auto& pack : *packs)
        if (const auto* of_class = pack.find(duty.class_kV); of_class && pack.id == duty.standard) {
            const auto& spec = of_class->specs.at(static_cast<std::size_t>(row));
            edit_override(session_, this,
                          QString("%1, %2 kV: %3")
                              .arg(QString::fromStdString(pack.title))
                              .arg(duty.class_kV)
                              .arg(QString::fromStdString(spec.title)),
                          of_class->levels.at(spec.name), &Job::level_overrides,
                          level_key(pack.id, of_class->class_kV, spec.name));
            return;
        }
}

void DutyPage::open_rule(int row) {
    const auto& limit = session_.library().limits.limits.at(static_cast<std::size_t>(row));
    edit_override(session_, this, QString::fromStdString(limit.title), limit.value, &Job::limit_overrides,
                  limit.id);
}

void DutyPage::refresh_levels(const StandardsPack& pack) {
    const auto& duty = session_.document.design().duty;
    const auto* row = pack.find(duty.class_kV);
    levels_->setRowCount(row ? static_cast<int>(row->specs.size()) : 0);
    levels_->setFixedHeight(row_px * levels_->rowCount() + 26);
    scope_->setText(QString("%1 Edition: %2. Partial discharge limit %3 pC.")
                        .arg(QString::fromStdString(pack.scope), QString::fromStdString(pack.edition))
                        .arg(pack.pd_limit_pC));
    if (!row) return;
    bool open = false;
    for (int i = 0; i < levels_->rowCount(); ++i) {
        const auto& spec = row->specs.at(static_cast<std::size_t>(i));
        const auto& value = row->levels.at(spec.name);
        auto* title = new QTableWidgetItem(QString::fromStdString(spec.title));
        auto* level = new QTableWidgetItem(value_words(value));
        level->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        open = open || level->text().endsWith("†");
        for (auto* item : {title, level}) item->setToolTip(QString::fromStdString(value.origin()));
        levels_->setItem(i, 0, title);
        levels_->setItem(i, 1, level);
    }
    if (open) scope_->setText("† from memory: double-click to confirm or replace. " + scope_->text());
}

void DutyPage::refresh_rules() {
    const auto limits = session_.library().limits.with_overrides(session_.document.job().limit_overrides);
    rules_->setRowCount(static_cast<int>(limits.limits.size()));
    rules_->setFixedHeight(row_px * rules_->rowCount() + 26);
    for (int i = 0; i < rules_->rowCount(); ++i) {
        const auto& limit = limits.limits.at(static_cast<std::size_t>(i));
        auto* title = new QTableWidgetItem(QString::fromStdString(limit.title));
        auto* value = new QTableWidgetItem(
            QString("%1 %2").arg(limit.value.value).arg(QString::fromStdString(limit.value.unit)));
        value->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        for (auto* item : {title, value})
            item->setToolTip(QString("%1. Against %2.%3")
                                 .arg(QString::fromStdString(limit.value.origin()),
                                      QString::fromStdString(limit.protects_against),
                                      limit.valid_for.empty()
                                          ? QString()
                                          : " Valid for: " + QString::fromStdString(limit.valid_for) + "."));
        rules_->setItem(i, 0, title);
        rules_->setItem(i, 1, value);
    }
}

void DutyPage::refresh() {
    auto packs = packs_of(session_.document.job(), session_.library());
    if (packs) packs_ = std::move(*packs);
    const auto& duty = session_.document.design().duty;
    const auto pack =
        std::find_if(packs_.begin(), packs_.end(), [&](const auto& p) { return p.id == duty.standard; });
    const auto prepared = session_.prepared();
    u0_->show_value(prepared ? prepared->design.duty.u0() : duty.u0(), !duty.u0_kV);
    frequency_->show_value(duty.frequency_hz, false);
    const Duty usual;
    altitude_->show_value(duty.altitude_m, duty.altitude_m == usual.altitude_m);
    ambient_->show_value(duty.ambient_C, duty.ambient_C == usual.ambient_C);
    film_->show_value(duty.wet_film_Mohm, duty.wet_film_Mohm == usual.wet_film_Mohm);
    const auto none = std::numeric_limits<double>::quiet_NaN();
    phases_->show_value(duty.phase_clearance_mm.value_or(none), false);
    earth_->show_value(duty.earth_clearance_mm.value_or(none), false);
    show_text(pollution_, QString::fromStdString(duty.pollution));
    outdoor_->setChecked(duty.outdoor);
    refresh_rules();
    {
        const QSignalBlocker quiet(standard_), quiet_too(class_);
        standard_->clear();
        for (const auto& p : packs_) standard_->addItem(QString::fromStdString(p.title));
        class_->clear();
        if (pack != packs_.end())
            for (const auto& c : pack->classes) class_->addItem(QString::number(c.class_kV) + " kV");
    }
    refresh_proposal(pack == packs_.end() ? nullptr : &*pack);
    if (pack == packs_.end()) return;
    show_text(standard_, QString::fromStdString(pack->title));
    show_text(class_, QString::number(duty.class_kV) + " kV");
    refresh_levels(*pack);
}

} // namespace ng::app
