#include "app/header.h"
#include "app/stages/stage_list.h"
#include "app/state_label.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>

namespace ng::app {

Header::Header(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
    setObjectName("header");
    setFixedHeight(44);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(14, 0, 12, 0);
    row->setSpacing(10);
    job_ = new QLabel;
    job_->setFont(draw::ui_font(10, true));
    design_ = new QComboBox;
    design_->setAccessibleName("Design");
    design_->setToolTip("Design shown");
    design_->setMinimumWidth(190);
    duty_ = new QLabel;
    state_ = new StateLabel;
    state_->setObjectName("solveState");
    cancel_ = new QPushButton("Cancel");
    cancel_->setToolTip("Keep the coarse solution (Esc)");
    cancel_->setAccessibleName("Cancel refinement");
    verdict_word_ = new QLabel;
    verdict_word_->setObjectName("verdictWord");
    verdict_word_->setFont(draw::ui_font(10.5, true));
    mm_ = new QPushButton("mm");
    inch_ = new QPushButton("in");
    for (auto* b : {mm_, inch_}) {
        b->setCheckable(true);
        b->setFixedWidth(44);
        b->setToolTip("Units (U)");
        b->setAccessibleName(b == mm_ ? "Millimetres" : "Inches");
        connect(b, &QPushButton::clicked, this, [this, b] {
            session_.set_unit(b == mm_ ? LengthUnit::mm : LengthUnit::inch);
            refresh(); // a second click on it changes no unit
        });
    }
    connect(cancel_, &QPushButton::clicked, this, [this] { session_.cancel(); });
    connect(design_, &QComboBox::activated, this, [this](int i) {
        session_.document.show_design(session_.document.job().designs.at(static_cast<std::size_t>(i)).id);
    });
    row->addWidget(job_);
    row->addWidget(design_);
    row->addWidget(duty_);
    row->addWidget(mm_);
    row->addWidget(inch_);
    row->addStretch(1);
    row->addWidget(state_, 2);
    row->addWidget(cancel_);
    row->addWidget(verdict_word_);
    for (const auto signal : {&Session::state_changed, &Session::schedule_changed, &Session::prepared_changed,
                              &Session::look_changed})
        connect(&session_, signal, this, &Header::refresh);
    connect(&session_.document, &Document::saved_state_changed, this, &Header::refresh);
    refresh();
}

void Header::refresh() {
    const auto& document = session_.document;
    const auto& duty = document.design().duty;
    job_->setText(QString::fromStdString(document.job().title) + (document.is_changed() ? " *" : ""));
    refresh_designs();
    duty_->setText(
        QString("%1 kV, %2, %3").arg(duty.class_kV).arg(standard(), duty.outdoor ? "outdoor" : "indoor"));
    mm_->setChecked(session_.unit() == LengthUnit::mm);
    inch_->setChecked(session_.unit() == LengthUnit::inch);
    state_->set_words(session_.solve_state());
    cancel_->setVisible(session_.is_refining());
    show_verdict();
}

void Header::refresh_designs() {
    const auto& job = session_.document.job();
    const QSignalBlocker quiet(design_);
    if (design_->count() != static_cast<int>(job.designs.size())) design_->clear();
    for (std::size_t i = 0; i < job.designs.size(); ++i) {
        const auto title = QString::fromStdString(job.designs[i].title);
        const int index = static_cast<int>(i);
        if (index >= design_->count())
            design_->addItem(title);
        else if (design_->itemText(index) != title)
            design_->setItemText(index, title);
        if (job.designs[i].id == job.open_design) design_->setCurrentIndex(index);
    }
}

QString Header::standard() const {
    const auto spoken = [](const std::string& title) {
        return QString::fromStdString(title).section(' ', 0, 1);
    };
    const auto& id = session_.document.design().duty.standard;
    if (const auto prepared = session_.prepared()) return spoken(prepared->standard_title);
    if (const auto packs = packs_of(session_.document.job(), session_.library()))
        for (const auto& pack : *packs)
            if (pack.id == id) return spoken(pack.title);
    return QString::fromStdString(id);
}

void Header::show_verdict() {
    const auto& document = session_.document;
    const auto words = session_.overall_words();
    const auto faults = session_.with_faults() ? document.design().faults.size() : 0;
    verdict_word_->setText((document.is_example() ? QString("EXAMPLE VALUES: ") : QString()) +
                           words.toUpper() +
                           (faults == 0   ? QString()
                            : faults == 1 ? QString(", with its fault")
                                          : QString(", with its %1 faults").arg(faults)));
    verdict_word_->setToolTip(
        words.endsWith("†") ? "† a level of the standard is from memory and not confirmed" : "");
    const auto sheet =
        QString("color: %1;").arg(colour_of(stage_state(session_.overall()), session_.theme()).name());
    if (sheet != verdict_word_->styleSheet()) verdict_word_->setStyleSheet(sheet);
}

} // namespace ng::app
