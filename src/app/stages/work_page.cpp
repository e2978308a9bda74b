#include "app/stages/work_page.h"
#include "app/model/text.h"
#include "app/stages/step_window.h"
#include "draw/sheet_document.h"
#include "plan/work.h"
#include <QFileDialog>
#include <QHBoxLayout>
#include <QSignalBlocker>

namespace ng::app {
WorkPage::WorkPage(Session& session, Recorder& recorder, QWidget* parent)
    : Page(session, "Work sheet", parent), recorder_(recorder) {
    add_caution(
        "For competent, licensed people. The maker's instructions and local codes go before this sheet.");
    problem_ = add_text("");
    problem_->setObjectName("sheetProblem");
    auto* open = new QPushButton("Step by step…");
    open->setObjectName("openSteps");
    connect(open, &QPushButton::clicked, this, [this] { open_steps(std::max(0, steps_->currentRow())); });
    column_->addWidget(open, 0, Qt::AlignLeft);
    add_group("Steps (□ hold point)");
    steps_ = new QListWidget;
    steps_->setAccessibleName("Steps of the work sheet");
    steps_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    steps_->setTextElideMode(Qt::ElideRight);
    steps_->setMinimumHeight(250);
    column_->addWidget(steps_);
    connect(steps_, &QListWidget::itemActivated, this, [this] { open_steps(steps_->currentRow()); });

    add_group("Print");
    auto* row = new QHBoxLayout;
    const auto add = [&](const QString& text, const QString& ending, bool large) {
        auto* button = new QPushButton(text);
        button->setAccessibleName("Work sheet as " + text);
        connect(button, &QPushButton::clicked, this, [this, ending, large] { save(ending, large); });
        row->addWidget(button);
    };
    add("PDF…", "pdf", false);
    add("Large print…", "pdf", true);
    add("HTML…", "html", false);
    row->addStretch();
    column_->addLayout(row);

    auto* form = add_group("Where the trade disagrees");
    form->setRowWrapPolicy(QFormLayout::WrapAllRows);
    for (const auto& spec : work_schools()) {
        QStringList words;
        for (const auto& [value, text] : spec.options) words << q(text);
        auto* box = add_choice(form, q(spec.label), words);
        box->setToolTip(q(spec.help));
        box->setObjectName(q(spec.key));
        box->setFixedWidth(270);
        connect(box, &QComboBox::activated, this,
                [this, key = spec.key, options = spec.options, label = q(spec.label)](int i) {
                    session_.change_work("Choose " + label.toLower(), [&](WorkChoices& work) {
                        if (i == 0)
                            work.schools.erase(key);
                        else
                            work.schools[key] = options[i].first;
                    });
                });
        schools_[spec.key] = box;
    }
    add_group("Picking list");
    picking_ = add_text("");
    picking_->setObjectName("picking");
    column_->addStretch();
    follow_design(session, this, &WorkPage::refresh);
    connect(&session, &Session::look_changed, this, &WorkPage::refresh);
    refresh();
}

StepWindow* WorkPage::open_steps(int index) {
    auto* window = findChild<StepWindow*>();
    if (!window) {
        window = new StepWindow(session_, recorder_, this);
        window->setAttribute(Qt::WA_DeleteOnClose);
    }
    window->show_step(index);
    window->show();
    window->raise();
    return window;
}

Result<void> WorkPage::save_to(const QString& path, bool large) {
    const auto sheet = session_.sheet();
    if (!sheet) return tl::unexpected(sheet.error());
    draw::SheetHead head{q(session_.document.job().title), QDate::currentDate().toString(Qt::ISODate)};
    if (const auto state = state_of(session_.document.job(), session_.document.design().id))
        head.take(*state);
    if (session_.is_current() && !session_.solved()->coarse)
        head.take(session_.solved()->verdict,
                  session_.schedule_is_current() ? session_.schedule().get() : nullptr);
    const auto document = draw::sheet_document(*sheet, *session_.prepared(), *session_.plan(), large, head);
    return path.endsWith(".html") ? document.write_html(path.toStdString())
                                  : document.write_pdf(path.toStdString());
}

void WorkPage::save(const QString& ending, bool large) {
    auto path = QFileDialog::getSaveFileName(this, "Save the work sheet",
                                             q(session_.document.design().id) +
                                                 (large ? "-sheet-large." : "-sheet.") + ending,
                                             QString("%1 (*.%2)").arg(ending.toUpper(), ending));
    if (path.isEmpty()) return;
    if (!path.endsWith("." + ending)) path += "." + ending;
    if (auto ok = save_to(path, large); !ok) session_.tell(ok.error());
}

void WorkPage::refresh() {
    const auto sheet = session_.sheet();
    const int was = steps_->currentRow();
    steps_->clear();
    QStringList problems;
    if (!sheet) {
        problems << q(sheet.error().message());
    } else {
        for (const auto& broken : sheet->broken_rules) problems << "Do not use this sheet: " + q(broken);
        int number = 0;
        for (const auto& step : sheet->steps)
            steps_->addItem(
                QString("%1%2. %3").arg(step.hold ? "□ " : "   ").arg(++number).arg(q(step.title)));
        steps_->setCurrentRow(std::clamp(was, 0, steps_->count() - 1));
        QStringList items;
        for (const auto& item : sheet->picking)
            items << QString("%1: %2%3%4")
                         .arg(q(item.item), q(item.quantity),
                              item.spare.empty() ? "" : " + " + q(item.spare) + " spare",
                              item.note.empty() ? "" : ", " + q(item.note));
        picking_->setText(items.join("\n"));
    }
    problem_->setText(problems.join("\n"));
    problem_->setVisible(!problems.isEmpty());
    const auto& work = session_.document.design().work;
    for (auto& [key, box] : schools_) {
        const QSignalBlocker quiet(box);
        for (const auto& spec : work_schools())
            if (spec.key == key)
                for (std::size_t i = 0; i < spec.options.size(); ++i)
                    if (spec.options[i].first == work_school(work, key))
                        box->setCurrentIndex(static_cast<int>(i));
    }
}

} // namespace ng::app
