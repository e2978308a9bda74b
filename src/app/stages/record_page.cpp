#include "app/stages/record_page.h"
#include "app/model/text.h"
#include "app/stages/record_entry.h"
#include "app/stages/test_window.h"
#include "app/stages/trend_window.h"
#include "draw/record_document.h"
#include "io/file.h"
#include "record/exchange.h"
#include "record/search.h"
#include "units/quantity.h"
#include "units/text.h"
#include <QClipboard>
#include <QFileDialog>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QInputDialog>

namespace ng::app {
namespace {
constexpr std::uint64_t unmeasured_builds = 256;
}

RecordPage::RecordPage(Session& session, Recorder& recorder, QWidget* parent)
    : Page(session, "Record", parent), recorder_(recorder) {
    chain_ = add_text("", true);
    chain_->setObjectName("chainWords");
    auto* row = new QHBoxLayout;
    copy_ = new QPushButton("Copy the last hash");
    copy_->setToolTip(
        "Kept elsewhere (a signed print, a letter), it finds rows that were cut off at the end");
    auto* hold = new QPushButton("Hold against…");
    hold->setToolTip("A last hash that was kept elsewhere: finds rows that were cut off at the end");
    row->addWidget(copy_);
    row->addWidget(hold);
    connect(hold, &QPushButton::clicked, this, [this] {
        bool ok = false;
        const auto kept = QInputDialog::getText(
            this, "Hold the record against a kept hash",
            "Rows and hash, as a report or an export printed them:", QLineEdit::Normal, {}, &ok);
        if (ok) session_.tell({"Record", recorder_.verify_against(kept).toStdString(), ""});
    });
    row->addStretch();
    column_->addLayout(row);
    begin_box_ = new QWidget;
    auto* box = new QVBoxLayout(begin_box_);
    box->setContentsMargins(0, 0, 0, 0);
    auto* form = new QFormLayout;
    form->setVerticalSpacing(3);
    for (const auto& [key, words] :
         {std::pair{"place", "Place"}, std::pair{"phase", "Phase or core"}, std::pair{"drum", "Cable drum"},
          std::pair{"kit", "Kit"}, std::pair{"batch", "Batch"}, std::pair{"weather", "Weather"}}) {
        auto* edit = new QLineEdit;
        edit->setAccessibleName(words);
        edit->setFixedWidth(170);
        form->addRow(words, edit);
        details_[key] = edit;
    }
    box->addLayout(form);
    begin_ = new QPushButton("Begin the record");
    begin_->setObjectName("beginRecordPage");
    box->addWidget(begin_, 0, Qt::AlignLeft);
    column_->addWidget(begin_box_);
    verdict_ = add_text("");
    verdict_->setObjectName("builtVerdict");
    verdict_->setFont(draw::ui_font(10, true));
    differs_ = add_text("");
    differs_->setObjectName("builtDiffers");
    vary_ = new QPushButton("Vary what was not measured");
    vary_->setObjectName("varyUnmeasured");
    vary_->setToolTip(
        "Builds what was made anew, many times, each within the tolerances of what nobody measured");
    column_->addWidget(vary_, 0, Qt::AlignLeft);
    varied_ = add_text("");
    varied_->setObjectName("unmeasuredWords");
    auto* go = new QHBoxLayout;
    steps_ = new QPushButton("Step by step…");
    tests_ = new QPushButton("Tests…");
    auto* find = new QPushButton("Find, trends…");
    for (auto* b : {steps_, tests_, find}) go->addWidget(b);
    go->addStretch();
    column_->addLayout(go);
    add_group("Written so far");
    rows_ = new QListWidget;
    rows_->setAccessibleName("Rows of the record");
    rows_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    rows_->setTextElideMode(Qt::ElideRight);
    rows_->setMinimumHeight(210);
    column_->addWidget(rows_);
    correct_ = new QPushButton("Correct the chosen reading…");
    column_->addWidget(correct_, 0, Qt::AlignLeft);
    entry_ = new RecordEntry(session, recorder);
    column_->addWidget(entry_);
    open_ = add_text("");
    open_->setObjectName("openHolds");
    add_group("Sign");
    signed_ = add_text("");
    signed_->setObjectName("signedWords");
    auto* sign_row = new QHBoxLayout;
    closes_ = new QComboBox;
    closes_->setAccessibleName("Signed as");
    for (const auto& closes : sign_off_order()) closes_->addItem(q(closes));
    reason_ = new QLineEdit;
    reason_->setPlaceholderText("reason, where something is open");
    reason_->setAccessibleName("Reason of the sign-off");
    sign_ = new QPushButton("Sign");
    sign_row->addWidget(closes_);
    sign_row->addWidget(reason_, 1);
    sign_row->addWidget(sign_);
    column_->addLayout(sign_row);
    add_group("Report and exchange");
    auto* out = new QHBoxLayout;
    for (const auto& [words, ending] : {std::pair{"PDF…", "pdf"}, std::pair{"HTML…", "html"},
                                        std::pair{"CSV…", "csv"}, std::pair{"JSON…", "json"}}) {
        auto* button = new QPushButton(words);
        button->setAccessibleName(QString("As-built report as %1").arg(words));
        connect(button, &QPushButton::clicked, this, [this, ending = QString(ending)] {
            auto path = QFileDialog::getSaveFileName(this, "Save",
                                                     q(session_.document.design().id) + "-as-built." + ending,
                                                     QString("%1 (*.%2)").arg(ending.toUpper(), ending));
            if (path.isEmpty()) return;
            if (!path.endsWith("." + ending)) path += "." + ending;
            if (auto ok = save_report(path); !ok) session_.tell(ok.error());
        });
        out->addWidget(button);
    }
    out->addStretch();
    column_->addLayout(out);
    column_->addStretch();

    connect(copy_, &QPushButton::clicked, this, [this] {
        if (recorder_.log()) QGuiApplication::clipboard()->setText(q(recorder_.log()->last().words()));
    });
    connect(begin_, &QPushButton::clicked, this, &RecordPage::begin);
    connect(steps_, &QPushButton::clicked, this, &RecordPage::wants_steps);
    connect(tests_, &QPushButton::clicked, this, &RecordPage::open_tests);
    connect(find, &QPushButton::clicked, this, &RecordPage::open_trends);
    connect(correct_, &QPushButton::clicked, this, &RecordPage::correct_chosen);
    connect(rows_, &QListWidget::currentRowChanged, this, [this] {
        const auto* item = rows_->currentItem();
        correct_->setEnabled(item && item->data(Qt::UserRole + 1).toBool());
    });
    connect(sign_, &QPushButton::clicked, this, &RecordPage::sign);
    connect(vary_, &QPushButton::clicked, this, [this] {
        if (recorder_.is_varying())
            recorder_.stop_varying();
        else
            recorder_.vary_unmeasured(unmeasured_builds);
    });
    connect(&recorder, &Recorder::varied, this, &RecordPage::fill_varied);
    connect(&recorder, &Recorder::changed, this, &RecordPage::refresh);
    connect(&recorder, &Recorder::judged, this, &RecordPage::fill_verdict);
    connect(&session, &Session::look_changed, this, &RecordPage::refresh);
    refresh();
}

void RecordPage::refresh() {
    const auto record = recorder_.record();
    const auto* log = recorder_.log();
    chain_->setText(recorder_.words());
    const bool bad = log && !recorder_.verification().holds();
    chain_->setStyleSheet(bad ? QString("color: %1; font-weight: bold").arg(session_.theme().brick.name())
                              : QString());
    copy_->setEnabled(log != nullptr);
    begin_box_->setVisible(!record);
    begin_->setEnabled(recorder_.trouble().isEmpty());
    for (auto* w : std::initializer_list<QWidget*>{rows_, entry_, sign_, closes_, reason_, tests_})
        w->setEnabled(record != nullptr);
    rows_->clear();
    QStringList open, signs;
    if (record && log) {
        for (const auto& e : log->entries()) {
            if (e.accessory != record->number && e.number != record->number) continue;
            const bool was_corrected =
                std::any_of(log->entries().begin(), log->entries().end(),
                            [&](const auto& later) { return later.corrects == e.number; });
            auto* item = new QListWidgetItem(
                QString("%1  %2%3%4")
                    .arg(e.number)
                    .arg(q(words_of(e)), was_corrected ? "  (corrected later)" : "",
                         e.corrects ? QString("  (corrects %1: %2)").arg(*e.corrects).arg(q(e.why)) : ""));
            item->setToolTip(QString("%1, %2 %3: %4")
                                 .arg(q(e.at.local), q(e.who.role), q(e.who.initials), q(words_of(e))));
            item->setData(Qt::UserRole, QVariant::fromValue<qlonglong>(e.number));
            item->setData(Qt::UserRole + 1, e.kind == "reading" && !was_corrected);
            rows_->addItem(item);
        }
        rows_->scrollToBottom();
        if (recorder_.sheet())
            for (const auto& title : open_holds(*record, *recorder_.sheet())) open << q(title);
        for (const auto& closes : sign_off_order()) {
            const RecordedSignOff* last = nullptr;
            for (const auto& s : record->sign_offs)
                if (s.closes() == closes) last = &s;
            signs << (!last ? QString("□ %1: not signed").arg(q(closes))
                      : last->stands()
                          ? QString("■ %1: %2 %3, %4%5")
                                .arg(q(closes), q(last->who.role), q(last->who.initials),
                                     q(last->at.local).left(16).replace('T', ' '),
                                     last->text("reason").empty()
                                         ? ""
                                         : ", over what was open: " + q(last->text("reason")))
                          : QString("◪ %1: opened again by row %2").arg(q(closes)).arg(*last->opened_by));
        }
    }
    open_->setText(!record          ? QString()
                   : open.isEmpty() ? QString("No hold point is open.")
                                    : QString("%1 hold points open: %2")
                                          .arg(open.size())
                                          .arg(open.mid(0, 4).join("; ") + (open.size() > 4 ? "; …" : "")));
    open_->setToolTip(open.join("\n"));
    signed_->setText(signs.join("\n"));
    correct_->setEnabled(false);
    fill_verdict();
}

void RecordPage::fill_verdict() {
    const auto verdict = recorder_.verdict();
    verdict_->setText(q(upper_first(recorder_.verdict_words().toStdString())));
    verdict_->setVisible(!verdict_->text().isEmpty());
    const bool falls =
        !recorder_.is_judging() && verdict && verdict->as_built->verdict.status == Status::falls_short;
    verdict_->setStyleSheet(falls ? QString("color: %1").arg(session_.theme().brick.name()) : QString());
    QStringList lines;
    if (verdict && recorder_.record()) {
        const auto& built = verdict->built;
        for (const auto& d : built.differences) lines << q(d);
        if (!built.unmeasured.empty())
            lines << QString("%1 not measured: taken as designed.").arg(built.unmeasured.size());
        for (const auto& n : built.not_taken) lines << q(n);
        QStringList unmeasured;
        for (const auto& u : built.unmeasured) unmeasured << q(u);
        differs_->setToolTip(unmeasured.join("\n"));
    }
    differs_->setText(lines.join("\n"));
    differs_->setVisible(!lines.isEmpty());
    fill_varied();
}

void RecordPage::fill_varied() {
    const auto verdict = recorder_.verdict();
    vary_->setVisible(verdict && !verdict->built.unmeasured.empty());
    vary_->setEnabled(!recorder_.is_judging());
    vary_->setText(recorder_.is_varying() ? "Stop building" : "Vary what was not measured");
    varied_->setText(recorder_.unmeasured_words());
    varied_->setVisible(!varied_->text().isEmpty());
}

void RecordPage::begin() {
    nlohmann::json details = nlohmann::json::object();
    for (const auto& [key, edit] : details_)
        if (const auto text = edit->text().trimmed(); !text.isEmpty()) details[key] = text.toStdString();
    if (recorder_.begin(details))
        for (auto& [key, edit] : details_) edit->clear();
}

void RecordPage::correct_chosen() {
    const auto* item = rows_->currentItem();
    const auto* old =
        item && recorder_.log() ? recorder_.log()->find(item->data(Qt::UserRole).toLongLong()) : nullptr;
    if (!old) return;
    const auto body = old->body();
    const auto label = q(body.value("label", std::string()));
    bool ok = false;
    const auto text =
        QInputDialog::getText(this, "Correct a reading",
                              QString("%1: row %2 stays; the correction is a row of its own.\nValue in %3:")
                                  .arg(label)
                                  .arg(old->number)
                                  .arg(q(body.value("unit", std::string()))),
                              QLineEdit::Normal, QString::number(body.value("value", 0.0)), &ok);
    if (!ok) return;
    const auto value =
        parse_number(text.toStdString(), body.value("unit", std::string()), label.toStdString());
    if (!value) {
        session_.tell(value.error());
        return;
    }
    const auto why = QInputDialog::getText(
        this, "Correct a reading",
        "Why row " + QString::number(old->number) + " is not right:", QLineEdit::Normal, {}, &ok);
    if (ok) recorder_.correct(old->number, *value, why.toStdString());
}

void RecordPage::sign() {
    if (recorder_.sign(closes_->currentText().toStdString(), reason_->text())) {
        reason_->clear();
        closes_->setCurrentIndex(std::min(closes_->currentIndex() + 1, closes_->count() - 1));
    }
}

Result<void> RecordPage::save_report(const QString& path) {
    const auto record = recorder_.record();
    const auto* log = recorder_.log();
    if (!record || !log)
        return refuse("As-built report", "nothing is recorded of this design", "Begin its record first");
    if (path.endsWith(".csv")) return write_output(path.toStdString(), log_csv(*log));
    if (path.endsWith(".json")) return write_output(path.toStdString(), log_json(*log).dump(1) + "\n");
    if (recorder_.is_judging())
        return refuse("As-built report", "what was built is still being solved", "Wait a moment");
    const auto seen = log->verify();
    const auto verdict = recorder_.verdict();
    draw::ReportedRecord reported{
        record.get(),
        verdict.get(),
        recorder_.verdict_words().toStdString(),
        recorder_.is_varying() ? std::string() : recorder_.unmeasured_words().toStdString(),
        log,
        &seen,
        recorder_.sheet() ? open_holds(*record, *recorder_.sheet()) : std::vector<std::string>{},
        session_.library().version};
    const auto document = draw::record_document(reported);
    return path.endsWith(".html") ? document.write_html(path.toStdString())
                                  : document.write_pdf(path.toStdString());
}

TestWindow* RecordPage::open_tests() {
    auto* window = findChild<TestWindow*>();
    if (!window) {
        window = new TestWindow(session_, recorder_, this);
        window->setAttribute(Qt::WA_DeleteOnClose);
    }
    window->show();
    window->raise();
    return window;
}

TrendWindow* RecordPage::open_trends() {
    auto* window = findChild<TrendWindow*>();
    if (!window) {
        window = new TrendWindow(session_, recorder_, this);
        window->setAttribute(Qt::WA_DeleteOnClose);
    }
    window->show();
    window->raise();
    return window;
}

} // namespace ng::app
