#include "app/stages/duty_page.h"
#include <QHeaderView>
#include <QSignalBlocker>
#include <algorithm>

namespace ng::app {

DutyPage::DutyPage(Session& session, QWidget* parent) : Page(session, "Duty", parent) {
    auto* form = add_group("Standard and class");
    QStringList titles;
    for (const auto& pack : session.library().standards) titles << QString::fromStdString(pack.title);
    standard_ = add_choice(form, "Standard", titles);
    class_ = add_choice(form, "Class", {});
    u0_ = add_quantity(form, "U0, to earth", QuantityEdit::Kind::voltage, "Empty: class / √3");
    u0_->set_may_be_empty(true);
    u0_->set_step(0.1);
    frequency_ = add_quantity(form, "Frequency, Hz", QuantityEdit::Kind::number, "Service frequency");
    frequency_->set_step(10);
    outdoor_ = new QCheckBox("outdoor");
    outdoor_->setAccessibleName("Outdoor");
    form->addRow("", outdoor_);

    add_group("Levels of this class");
    levels_ = new QTableWidget(0, 2);
    levels_->setHorizontalHeaderLabels({"test", "level"});
    levels_->verticalHeader()->hide();
    levels_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    levels_->setColumnWidth(1, 104);
    levels_->setMinimumWidth(100);
    levels_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    levels_->verticalHeader()->setDefaultSectionSize(22);
    levels_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    levels_->setAccessibleName("Test levels");
    levels_->setTabKeyNavigation(false);
    column_->addWidget(levels_);
    scope_ = add_text("", true);
    add_caution("Levels are design inputs written from memory. Verify them against your own edition; a "
                "computation does not replace a type test.");
    column_->addStretch();

    connect(standard_, &QComboBox::activated, this, [this](int i) {
        edit("standard",
             [&](Duty& d) { d.standard = session_.library().standards.at(static_cast<std::size_t>(i)).id; });
    });
    connect(class_, &QComboBox::activated, this, [this] {
        edit("class", [&](Duty& d) { d.class_kV = class_->currentText().split(' ').first().toDouble(); });
    });
    connect(u0_, &QuantityEdit::entered, this,
            [this](double v) { edit("U0", [v](Duty& d) { d.u0_kV = v; }); });
    connect(u0_, &QuantityEdit::cleared, this, [this] { edit("U0", [](Duty& d) { d.u0_kV.reset(); }); });
    connect(frequency_, &QuantityEdit::entered, this,
            [this](double v) { edit("frequency", [v](Duty& d) { d.frequency_hz = v; }); });
    connect(outdoor_, &QCheckBox::clicked, this,
            [this](bool on) { edit("site", [on](Duty& d) { d.outdoor = on; }); });
    connect(&session, &Session::prepared_changed, this, &DutyPage::refresh);
    refresh();
}

void DutyPage::edit(const QString& what, const std::function<void(Duty&)>& change) {
    const auto id = session_.document.job().open_design;
    session_.document.edit("Set " + what, {}, [&](Job& job) { change(job.find_design(id)->duty); });
}

void DutyPage::refresh() {
    const auto& duty = session_.document.design().duty;
    const auto& packs = session_.library().standards;
    const auto pack =
        std::find_if(packs.begin(), packs.end(), [&](const auto& p) { return p.id == duty.standard; });
    u0_->show_value(duty.u0(), !duty.u0_kV);
    frequency_->show_value(duty.frequency_hz, false);
    outdoor_->setChecked(duty.outdoor);
    if (pack == packs.end()) return;
    show_text(standard_, QString::fromStdString(pack->title));
    {
        const QSignalBlocker quiet(class_);
        class_->clear();
        for (const auto& c : pack->classes) class_->addItem(QString::number(c.class_kV) + " kV");
    }
    show_text(class_, QString::number(duty.class_kV) + " kV");
    scope_->setText(QString("%1 Edition: %2. Partial discharge limit %3 pC.")
                        .arg(QString::fromStdString(pack->scope), QString::fromStdString(pack->edition))
                        .arg(pack->pd_limit_pC));
    const auto* row = pack->find(duty.class_kV);
    if (!row) return;
    levels_->setRowCount(static_cast<int>(pack->level_order.size()));
    levels_->setFixedHeight(22 * levels_->rowCount() + 26);
    for (int i = 0; i < levels_->rowCount(); ++i) {
        const auto& name = pack->level_order.at(static_cast<std::size_t>(i));
        const auto& value = row->levels.at(name);
        auto* title = new QTableWidgetItem(QString::fromStdString(pack->level_titles.at(name)));
        auto* level =
            new QTableWidgetItem(QString("%1 %2%3")
                                     .arg(value.value)
                                     .arg(QString::fromStdString(value.unit), value.verified ? "" : " †"));
        level->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        for (auto* item : {title, level}) item->setToolTip(QString::fromStdString(value.origin()));
        levels_->setItem(i, 0, title);
        levels_->setItem(i, 1, level);
    }
    scope_->setText("† " + QString::fromStdString(row->levels.begin()->second.origin()) + ". " +
                    scope_->text());
}

} // namespace ng::app
