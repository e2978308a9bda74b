#include "app/stages/report_page.h"
#include "app/model/time_left.h"
#include "design/revisions.h"
#include "draw/report_document.h"
#include "fault/fault.h"
#include "io/file.h"
#include "schedule/judgement.h"
#include <QDate>
#include <QFileDialog>
#include <QHBoxLayout>

namespace ng::app {

ReportPage::ReportPage(Session& session, QWidget* parent) : Page(session, "Report", parent) {
    add_text("Cable, duty, section, field, traces, verdicts, test schedule, fit, marks, cautions, what was "
             "overridden and what is "
             "from memory.");
    auto* form = add_group("What it covers");
    scope_ = add_choice(form, "Designs", {"this design", "the whole job"});
    auto* frozen = add_group("Revision");
    by_ = new QLineEdit;
    by_->setAccessibleName("Frozen by");
    by_->setPlaceholderText("role or initials");
    why_ = new QLineEdit;
    why_->setAccessibleName("Why it is frozen");
    why_->setPlaceholderText("what for, or what was changed");
    frozen->addRow("By", by_);
    frozen->addRow("Why", why_);
    auto* freeze = new QPushButton("Freeze this state");
    connect(freeze, &QPushButton::clicked, this, &ReportPage::freeze_design);
    column_->addWidget(freeze, 0, Qt::AlignLeft);
    revisions_ = add_text("");
    revisions_->setObjectName("revisions");
    connect(&session, &Session::prepared_changed, this, [this] {
        if (isVisible()) refresh_revisions(); // else when it is shown
    });
    add_group("Write it");
    std::vector<QPushButton*> buttons;
    for (const char* ending : {"pdf", "html"}) {
        auto* button = new QPushButton(QString(ending).toUpper() + "…");
        button->setAccessibleName(QString("Report as ") + QString(ending).toUpper());
        connect(button, &QPushButton::clicked, this, [this, ending] { save(ending); });
        buttons.push_back(button);
    }
    writing_ = add_run_row(column_, buttons, worker_);
    connect(writing_.cancel, &QPushButton::clicked, this, [this] {
        worker_.cancel();
        ++run_;
        writing_.hide();
        state_->setText("Cancelled: nothing was written.");
    });
    state_ = add_text("");
    state_->setObjectName("reportState");
    add_text("Every design is solved anew for it, so that it holds what the job says and nothing older.",
             true);
    add_caution(
        "A report of computations: it does not replace a type test, local codes or licensed practice.");
    column_->addStretch();
    connect(&worker_, &Worker::failed, this, [this](const QString& why) {
        state_->setText(why);
        writing_.hide();
        emit written(false);
    });
}

void ReportPage::freeze_design() {
    const auto& job = session_.document.job();
    auto revision =
        freeze(job, session_.document.design(), by_->text().toStdString(), why_->text().toStdString(),
               QDate::currentDate().toString(Qt::ISODate).toStdString());
    if (!revision) {
        session_.tell(revision.error());
        return;
    }
    const auto id = session_.document.design().id;
    session_.document.edit("Freeze revision " + QString::fromStdString(revision->name), {},
                           [&](Job& changed) { changed.find_design(id)->revisions.push_back(*revision); });
    why_->clear();
    refresh_revisions();
}

void ReportPage::refresh_revisions() {
    const auto& design = session_.document.design();
    const auto* family = session_.family();
    const auto words = [](const std::string& text) { return QString::fromStdString(text); };
    QStringList lines{"This state: " + words(revision_words(session_.document.job(), design)) + "."};
    for (const auto& change : changes_since(session_.document.job(), design, family))
        lines << "  " + words(change);
    for (std::size_t i = design.revisions.size(); i-- > 0;) {
        const auto& r = design.revisions[i];
        lines << QString("%1  %2, %3: %4").arg(words(r.name), words(r.on), words(r.by), words(r.why));
        for (const auto& change : changes_of(design, i, family)) lines << "  " + words(change);
    }
    revisions_->setText(lines.join("\n"));
}

void ReportPage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    refresh_revisions();
}

void ReportPage::save(const QString& ending) {
    const bool whole = scope_->currentIndex() == 1;
    const auto name = whole ? QString("job") : QString::fromStdString(session_.document.design().id);
    auto path = QFileDialog::getSaveFileName(this, "Write the report", name + "-report." + ending,
                                             QString("%1 (*.%2)").arg(ending.toUpper(), ending));
    if (path.isEmpty()) return;
    if (!path.endsWith("." + ending)) path += "." + ending;
    write(path, whole);
}

void ReportPage::write(const QString& path, bool whole_job) {
    const int run = ++run_;
    if (auto ok = check_output(path.toStdString()); !ok) { // not after minutes of solving
        worker_.cancel();
        writing_.hide();
        state_->setText(QString::fromStdString(ok.error().message()));
        emit written(false);
        return;
    }
    writing_.show();
    state_->setText("Solving…");
    auto job = session_.document.job();
    std::vector<std::string> ids;
    for (const auto& design : job.designs)
        if (whole_job || design.id == job.open_design) ids.push_back(design.id);
    worker_.start(
        [this, run, job = std::move(job), ids, path, date = QDate::currentDate().toString(Qt::ISODate),
         prepare = preparer(session_.with_faults()), library = session_.library()](const CancelFlag& cancel) {
            const auto say = [this, run](const QString& text, bool end, bool good) {
                worker_.hand_over([this, run, text, end, good] {
                    if (run != run_) return;
                    state_->setText(text);
                    if (!end) return;
                    writing_.hide();
                    emit written(good);
                });
            };
            std::vector<Judgement> judged;
            std::vector<CutPlan> plans;
            const TimeLeft left(&worker_);
            for (std::size_t i = 0; i < ids.size(); ++i) {
                say(QString("Solving design %1 of %2").arg(i + 1).arg(ids.size()) +
                        left.after(i, ids.size()) + "…",
                    false, false);
                auto one =
                    judge_design(job, ids[i], library, prepare, true, &session_.schedule_cache(), &cancel);
                if (cancel) return;
                if (!one) return say(QString::fromStdString(one.error().message()), true, false);
                auto plan = make_plan(one->prepared);
                if (!plan) return say(QString::fromStdString(plan.error().message()), true, false);
                judged.push_back(std::move(*one));
                plans.push_back(std::move(*plan));
            }
            std::vector<draw::ReportedDesign> designs;
            for (std::size_t i = 0; i < judged.size(); ++i)
                designs.push_back({&judged[i].prepared, &judged[i].solutions.at_u0, &judged[i].verdict,
                                   judged[i].schedule ? &*judged[i].schedule : nullptr, &plans[i]});
            const auto document = draw::report_document(job, designs, date);
            const auto ok = path.endsWith(".html") ? document.write_html(path.toStdString())
                                                   : document.write_pdf(path.toStdString());
            say(ok ? QString("Written: %1").arg(path) : QString::fromStdString(ok.error().message()), true,
                ok.has_value());
        });
}

} // namespace ng::app
