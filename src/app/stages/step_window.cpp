#include "app/stages/step_window.h"
#include "app/model/text.h"
#include "app/model/window_size.h"
#include "draw/stage_drawing.h"
#include <QApplication>
#include <QDateTime>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QPainter>
#include <QScrollArea>
#include <QScroller>
#include <QVBoxLayout>

namespace ng::app {
namespace {

QString minutes(qint64 ms) {
    const qint64 s = (std::max<qint64>(0, ms) + 999) / 1000;
    return QString("%1:%2").arg(s / 60).arg(s % 60, 2, 10, QChar('0'));
}

} // namespace

StagePictureView::StagePictureView(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setMinimumHeight(90);
    setAccessibleName("Section at this stage");
}

void StagePictureView::set_wanted_height(int px) {
    setMaximumHeight(px);
    updateGeometry();
}

QSize StagePictureView::sizeHint() const {
    return {400, maximumHeight()};
}

void StagePictureView::show_step(const SheetStep* step) {
    step_ = step ? std::optional(*step) : std::nullopt;
    setVisible(step_.has_value());
    update();
}

void StagePictureView::paintEvent(QPaintEvent*) {
    const auto prepared = session_.prepared();
    const auto plan = session_.plan();
    if (!step_ || !prepared || !plan) return;
    QPainter painter(this);
    painter.fillRect(rect(), session_.theme().paper);
    draw::paint_stage(painter, QRectF(rect()).adjusted(6, 2, -6, -2), *prepared, *plan, *step_,
                      session_.theme());
}

StepWindow::StepWindow(Session& session, Recorder& recorder, QWidget* parent)
    : QWidget(parent, Qt::Window), session_(session), recorder_(recorder),
      clock_([] { return QDateTime::currentMSecsSinceEpoch(); }) {
    setObjectName("stepWindow");
    open_within_screen(*this, {1180, 780});
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 12, 12, 12);
    list_ = new QListWidget;
    list_->setAccessibleName("Steps");
    list_->setFixedWidth(290);
    list_->setWordWrap(false);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setTextElideMode(Qt::ElideRight);
    list_->setStyleSheet("QListWidget::item { min-height: 34px; }"); // for fingers
    QScroller::grabGesture(list_->viewport(), QScroller::TouchGesture);
    row->addWidget(list_);
    auto* column = new QVBoxLayout;
    row->addLayout(column, 1);
    phase_ = large_label(9.5, true);
    phase_->setProperty("faint", true);
    title_ = large_label(18, true);
    column->addWidget(phase_);
    column->addWidget(title_);
    picture_ = new StagePictureView(session);
    column->addWidget(picture_);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    auto* body = new QWidget;
    body->setObjectName("pageBody");
    auto* texts = new QVBoxLayout(body);
    text_ = large_label(12.5, false);
    text_->setObjectName("stepText");
    caution_ = large_label(11, true);
    caution_->setProperty("caution", true);
    texts->addWidget(text_);
    texts->addWidget(caution_);
    hold_box_ = new QFrame;
    hold_box_->setObjectName("holdBox");
    auto* hold = new QVBoxLayout(hold_box_);
    hold_ = large_label(11.5, false);
    hold_->setObjectName("holdText");
    accepted_ = new QCheckBox("Looked at, and within the range");
    accepted_->setFont(draw::ui_font(11, true));
    hold->addWidget(hold_);
    hold->addWidget(accepted_);
    texts->addWidget(hold_box_);
    texts->addStretch();
    scroll->setWidget(body);
    column->addWidget(scroll, 1);
    record_ = new RecordPanel(session, recorder);
    column->addWidget(record_);
    auto* timing = new QHBoxLayout;
    timer_ = new QPushButton("Start the timer");
    timer_label_ = large_label(16, true);
    timer_label_->setObjectName("timer");
    running_ = large_label(10, false);
    running_->setObjectName("runningTimers");
    timing->addWidget(timer_);
    timing->addWidget(timer_label_);
    timing->addWidget(running_, 1);
    column->addLayout(timing);
    auto* buttons = new QHBoxLayout;
    back_ = new QPushButton("Back");
    next_ = new QPushButton("Next");
    words_ = new QPushButton("Own words…");
    words_->setToolTip("Your firm's text for this step, kept in the job");
    count_ = large_label(10, false);
    for (auto* b : {back_, next_}) b->setFont(draw::ui_font(12, true));
    buttons->addWidget(back_);
    buttons->addWidget(next_);
    buttons->addWidget(count_, 1);
    buttons->addWidget(words_);
    column->addLayout(buttons);
    says_ = large_label(8.5, false);
    says_->setProperty("faint", true);
    column->addWidget(says_);

    connect(list_, &QListWidget::currentRowChanged, this, [this](int i) {
        if (i >= 0 && i != index_) show_step(i);
    });
    connect(back_, &QPushButton::clicked, this, [this] { show_step(index_ - 1); });
    connect(next_, &QPushButton::clicked, this, [this] { show_step(index_ + 1); });
    connect(words_, &QPushButton::clicked, this, &StepWindow::ask_own_words);
    connect(accepted_, &QCheckBox::clicked, this, [this](bool on) {
        if (!sheet_) return;
        const auto& id = sheet_->steps[index_].id;
        on ? (void)ticked_.insert(id) : (void)ticked_.erase(id);
        fill_step();
    });
    connect(timer_, &QPushButton::clicked, this, [this] {
        if (sheet_ && timers_.contains(sheet_->steps[index_].id))
            stop_timer();
        else
            start_timer();
    });
    for (auto* b : {back_, next_}) b->setMinimumHeight(44);
    connect(&recorder, &Recorder::changed, this, [this] {
        if (sheet_) fill_step();
    });
    connect(record_, &RecordPanel::wants_begin, this, &StepWindow::begin_record);
    heartbeat_.setInterval(500);
    connect(&heartbeat_, &QTimer::timeout, this, &StepWindow::tick);
    connect(&session, &Session::prepared_changed, this, &StepWindow::refresh);
    connect(&session, &Session::look_changed, this, &StepWindow::refresh);
    refresh();
}

void StepWindow::refresh() {
    const auto& theme = session_.theme();
    setStyleSheet(
        QString("#stepWindow { background: %1; } #holdBox { border: 2px solid %2; background: %3; }")
            .arg(theme.panel.name(), theme.ink.name(), theme.paper.name()));
    auto sheet = session_.sheet();
    if (!sheet) {
        sheet_.reset();
        title_->setText("No work sheet");
        text_->setText(q(sheet.error().message()));
        for (auto* w : std::initializer_list<QWidget*>{picture_, hold_box_, timer_, next_, back_, words_})
            w->setEnabled(false);
        return;
    }
    for (auto* w : std::initializer_list<QWidget*>{picture_, hold_box_, timer_, words_}) w->setEnabled(true);
    sheet_ = std::move(*sheet);
    if (design_ != session_.document.design().id) { // another joint: nothing of it is done
        design_ = session_.document.design().id;
        ticked_.clear();
        timers_.clear();
        index_ = 0;
    }
    setWindowTitle("Step by step: " + q(sheet_->title));
    show_step(index_);
}

bool StepWindow::is_closed(const SheetStep& step) const {
    const auto record = recorder_.record();
    if (!record) return ticked_.contains(step.id);
    const auto* hold = record->hold_of(step.id);
    return hold && hold->accepted();
}

void StepWindow::begin_record() {
    recorder_.begin(nlohmann::json::object());
}

QString StepWindow::list_text(int index) const {
    const auto& step = sheet_->steps[index];
    const QString mark = !step.hold ? "   " : is_closed(step) ? "■ " : "□ ";
    return QString("%1%2. %3").arg(mark).arg(index + 1).arg(q(step.title));
}

void StepWindow::show_step(int index) {
    if (!sheet_) return;
    index_ = std::clamp(index, 0, static_cast<int>(sheet_->steps.size()) - 1);
    fill_step();
}

void StepWindow::fill_step() {
    const auto& steps = sheet_->steps;
    const auto& step = steps[index_];
    {
        const QSignalBlocker quiet(list_);
        while (list_->count() > static_cast<int>(steps.size())) delete list_->takeItem(list_->count() - 1);
        for (int i = 0; i < static_cast<int>(steps.size()); ++i) {
            if (i >= list_->count()) list_->addItem("");
            list_->item(i)->setText(list_text(i));
        }
        list_->setCurrentRow(index_);
    }
    phase_->setText(q(step.phase).toUpper());
    title_->setText(q(step.title));
    picture_->show_step(&step);
    QStringList lines;
    for (const auto& line : step.lines) lines << q(line);
    if (!step.tools.empty()) {
        QStringList tools;
        for (const auto& tool : step.tools) tools << q(tool);
        lines << "Tools: " + tools.join(", ") + ".";
    }
    if (!step.consumables.empty()) {
        QStringList uses;
        for (const auto& item : step.consumables) uses << q(item);
        lines << "Uses: " + uses.join(", ") + ".";
    }
    if (step.own_words) lines << "(Your firm's words.)";
    text_->setText(lines.join("\n\n"));
    QStringList cautions;
    for (const auto& caution : step.cautions) cautions << "Caution. " + q(caution);
    for (const auto& broken : sheet_->broken_rules) cautions << "Do not use this sheet: " + q(broken);
    caution_->setText(cautions.join("\n"));
    caution_->setVisible(!cautions.isEmpty());
    hold_box_->setVisible(step.hold.has_value());
    if (step.hold)
        hold_->setText(QString("HOLD. %1\nAccept: %2\nIf not: %3")
                           .arg(q(step.hold->check), q(step.hold->accept), q(step.hold->otherwise)));
    const bool recorded = recorder_.record() != nullptr;
    accepted_->setVisible(!recorded);
    accepted_->setChecked(ticked_.contains(step.id));
    record_->show_step(step);
    picture_->set_wanted_height(recorded ? 130 : 220); // less where the window is low
    says_->setText(QString("For competent, licensed people. The maker's instructions and local codes go "
                           "before every line. %1")
                       .arg(recorded ? "What is written here stays written: a correction is a new row."
                                     : "Ticks here are no record."));
    back_->setEnabled(index_ > 0);
    next_->setEnabled(index_ + 1 < static_cast<int>(steps.size()));
    const bool open = step.hold && !is_closed(step);
    next_->setText(open ? "Next (hold point open)" : "Next");
    int open_before = 0;
    for (int i = 0; i < index_; ++i) {
        const auto& s = steps[i];
        open_before += s.hold && !is_closed(s);
    }
    count_->setText(QString("step %1 of %2%3")
                        .arg(index_ + 1)
                        .arg(steps.size())
                        .arg(open_before ? QString("; %1 hold point%2 before it still open")
                                               .arg(open_before)
                                               .arg(open_before == 1 ? "" : "s")
                                         : ""));
    tick();
}

void StepWindow::start_timer() {
    if (!sheet_) return;
    const auto& step = sheet_->steps[index_];
    if (step.wait_s <= 0) return;
    timers_[step.id] = {clock_() + static_cast<qint64>(step.wait_s * 1000), q(step.wait_for), false};
    heartbeat_.start();
    tick();
}

void StepWindow::stop_timer() {
    if (!sheet_) return;
    timers_.erase(sheet_->steps[index_].id);
    tick();
}

void StepWindow::tick() {
    if (!sheet_) return;
    const auto now = clock_();
    const auto& step = sheet_->steps[index_];
    const bool waits = step.wait_s > 0;
    timer_->setVisible(waits);
    timer_label_->setVisible(waits);
    const auto own = timers_.find(step.id);
    timer_->setText(own == timers_.end() ? "Start the timer" : "Stop the timer");
    timer_label_->setText(!waits                       ? ""
                          : own == timers_.end()       ? minutes(static_cast<qint64>(step.wait_s * 1000))
                          : own->second.ends_ms <= now ? "done"
                                                       : minutes(own->second.ends_ms - now));
    QStringList others;
    for (auto& [id, timer] : timers_) {
        const auto left = timer.ends_ms - now;
        others << timer.title + (left > 0 ? ": " + minutes(left) + " left" : ": done");
        if (left <= 0 && !timer.rung) {
            timer.rung = true;
            QApplication::beep();
            emit timer_ended(timer.title);
        }
    }
    running_->setText(others.join("; "));
    if (timers_.empty()) heartbeat_.stop();
}

void StepWindow::set_own_words(const QString& text) {
    if (!sheet_) return;
    const auto id = sheet_->steps[index_].step_id;
    const auto words = text.trimmed().toStdString();
    session_.document.edit("Own words", {}, [&](Job& job) {
        if (words.empty())
            job.step_texts.erase(id);
        else
            job.step_texts[id] = words;
    });
}

void StepWindow::ask_own_words() {
    if (!sheet_) return;
    const auto& step = sheet_->steps[index_];
    const auto& texts = session_.document.job().step_texts;
    const auto it = texts.find(step.step_id);
    QStringList lines;
    for (const auto& line : step.lines) lines << q(line);
    bool ok = false;
    const auto text =
        QInputDialog::getMultiLineText(this, "Own words",
                                       "Text of this step in this job; empty: the text that ships.\nNumbers "
                                       "in braces are filled in, such as {marks:screen_edge}.",
                                       it == texts.end() ? lines.join("\n") : q(it->second), &ok);
    if (ok) set_own_words(text);
}

void StepWindow::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Right || event->key() == Qt::Key_PageDown)
        show_step(index_ + 1);
    else if (event->key() == Qt::Key_Left || event->key() == Qt::Key_PageUp)
        show_step(index_ - 1);
    else if (event->key() == Qt::Key_Escape)
        close();
    else
        QWidget::keyPressEvent(event);
}

} // namespace ng::app
