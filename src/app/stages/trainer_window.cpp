#include "app/stages/trainer_window.h"
#include "app/model/text.h"
#include "app/model/window_size.h"
#include "units/quantity.h"
#include "units/text.h"
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QScrollArea>
#include <QScroller>
#include <QVBoxLayout>

namespace ng::app {
namespace {

QString clock_words(double seconds) {
    const int s = static_cast<int>(seconds);
    return QString("%1:%2").arg(s / 60).arg(s % 60, 2, 10, QChar('0'));
}

QString finding_words(const Finding& f) {
    const auto* kind = find_fault_kind(f.kind);
    return QString("%1%2%3: %4")
        .arg(q(kind ? kind->title : f.kind), tag_of(f.side),
             f.from_edge_mm ? QString(", %1 mm from the screen edge").arg(*f.from_edge_mm) : QString(),
             decision_in_words(f.decision));
}

/// A column that scrolls under a finger.
QVBoxLayout* scrolling(QBoxLayout* into, int stretch) {
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    auto* body = new QWidget;
    body->setObjectName("pageBody");
    auto* column = new QVBoxLayout(body);
    column->setSpacing(8);
    scroll->setWidget(body);
    QScroller::grabGesture(scroll->viewport(), QScroller::TouchGesture);
    into->addWidget(scroll, stretch);
    return column;
}

} // namespace

TrainerWindow::TrainerWindow(Session& session, Trainee& trainee, QWidget* parent)
    : QWidget(parent, Qt::Window), session_(session), trainee_(trainee) {
    setObjectName("trainerWindow");
    setWindowTitle("Trainer");
    open_within_screen(*this, {1180, 780});
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(16, 12, 16, 12);
    auto* head = new QHBoxLayout;
    title_ = large_label(18, true);
    time_ = large_label(13, true);
    time_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    time_->setAccessibleName("Time");
    head->addWidget(title_, 1);
    head->addWidget(time_);
    all->addLayout(head);
    auto* row = new QHBoxLayout;
    row->setSpacing(20);
    all->addLayout(row, 1);
    auto* left = scrolling(row, 5);
    given_ = large_label(10.5);
    given_->setObjectName("givenWords");
    asks_ = large_label(13, true);
    asks_->setObjectName("asksWords");
    left->addWidget(given_);
    picture_ = new ExercisePicture(session, this);
    left->addWidget(picture_);
    left->addWidget(asks_);

    inspect_ = new QWidget;
    auto* inspect = new QVBoxLayout(inspect_);
    inspect->setContentsMargins(0, 0, 0, 0);
    auto* grid = new ButtonGrid;
    if (const auto* data = trainee.data())
        for (const auto& m : data->means.means) {
            auto* b = new QPushButton(QString("%1\n%2").arg(q(m.title), q(spent_words(m.seconds))));
            make_large(b, 10.5);
            b->setMinimumHeight(52);
            b->setToolTip(q(m.how));
            b->setAccessibleName(
                QString("Look with %1, takes %2").arg(q(m.title), q(spent_words(m.seconds))));
            connect(b, &QPushButton::clicked, this, [this, id = m.id] { trainee_.look(id); });
            grid->add(b);
            means_[m.id] = b;
        }
    inspect->addWidget(grid);
    seen_ = large_label(11.5);
    seen_->setObjectName("seenWords");
    inspect->addWidget(seen_);
    left->addWidget(inspect_);
    drill_ = new QWidget;
    auto* drill = new QVBoxLayout(drill_);
    drill->setContentsMargins(0, 0, 0, 0);
    options_ = new QListWidget;
    options_->setAccessibleName("Options");
    options_->setFont(draw::ui_font(12));
    options_->setWordWrap(true);
    options_->setSpacing(3);
    options_->setStyleSheet("QListWidget::item { min-height: 44px; }");
    options_->setMinimumHeight(280);
    drill->addWidget(options_, 1);
    moves_ = new QWidget;
    auto* moves = new QHBoxLayout(moves_);
    moves->setContentsMargins(0, 0, 0, 0);
    for (const auto& [words, by] : {std::pair{"▲ Earlier", -1}, std::pair{"▼ Later", 1}}) {
        auto* b = new QPushButton(words);
        make_large(b);
        connect(b, &QPushButton::clicked, this, [this, by = by] { move_option(by); });
        moves->addWidget(b);
    }
    drill->addWidget(moves_);
    number_box_ = new QWidget;
    auto* number_row = new QVBoxLayout(number_box_);
    number_row->setContentsMargins(0, 0, 0, 0);
    number_ = new QLineEdit;
    number_->setAccessibleName("Answer, mm");
    number_->setPlaceholderText("mm");
    number_->setMaximumWidth(200);
    make_large(number_, 16);
    number_row->addWidget(number_);
    number_row->addWidget(new KeyPad);
    drill->addWidget(number_box_);
    left->addWidget(drill_);
    left->addStretch();

    auto* right = scrolling(row, 5);
    work_ = new QWidget;
    auto* column = new QVBoxLayout(work_);
    column->setContentsMargins(0, 0, 0, 0);
    auto* found = large_label(13, true);
    found->setText("What I found");
    column->addWidget(found);
    kind_ = new QComboBox;
    kind_->setAccessibleName("Kind of fault");
    for (const auto& k : fault_kinds()) kind_->addItem(q(k.title), q(k.id));
    kind_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    make_large(kind_, 11.5);
    auto* where = new QHBoxLayout;
    side_ = new QComboBox;
    side_->setAccessibleName("Side");
    side_->addItems({"A", "B"});
    make_large(side_, 11.5);
    at_ = new QLineEdit;
    at_->setAccessibleName("From the screen edge, mm");
    at_->setPlaceholderText("mm from the screen edge, if known");
    make_large(at_, 11.5);
    where->addWidget(side_);
    where->addWidget(at_, 1);
    column->addWidget(kind_);
    column->addLayout(where);
    auto* judge = new QGridLayout;
    judge->setSpacing(6);
    int i = 0;
    for (const auto& [words, d] :
         {std::pair{"Accept", FaultDecision::accept}, std::pair{"Rework", FaultDecision::rework},
          std::pair{"Cut back", FaultDecision::cut_back}, std::pair{"Stop and ask", FaultDecision::ask}}) {
        auto* b = new QPushButton(words);
        b->setAccessibleName(QString("Judge it: %1").arg(words));
        make_large(b);
        connect(b, &QPushButton::clicked, this, [this, d = d] { find(d); });
        judge->addWidget(b, i / 2, i % 2);
        ++i;
        decide_[d] = b;
    }
    column->addLayout(judge);
    findings_ = new QListWidget;
    findings_->setAccessibleName("Found and judged; a touch takes one back");
    findings_->setToolTip("A touch takes one back");
    findings_->setFont(draw::ui_font(11));
    findings_->setWordWrap(true);
    findings_->setMinimumHeight(110);
    findings_->setStyleSheet("QListWidget::item { min-height: 34px; }");
    connect(findings_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        if (!trainee_.is_answered()) trainee_.remove_finding(static_cast<std::size_t>(findings_->row(item)));
    });
    column->addWidget(findings_);
    auto* whole = large_label(13, true);
    whole->setText("The whole");
    column->addWidget(whole);
    auto* verdict = new QHBoxLayout;
    release_ = new QPushButton("Release it");
    hold_ = new QPushButton("Do not release");
    for (auto* b : {release_, hold_}) make_large(b, 12, true), verdict->addWidget(b);
    column->addLayout(verdict);
    connect(release_, &QPushButton::clicked, this, [this] { trainee_.release(true); });
    connect(hold_, &QPushButton::clicked, this, [this] { trainee_.release(false); });
    right->addWidget(work_);
    judged_ = new QWidget;
    auto* judged = new QVBoxLayout(judged_);
    judged->setContentsMargins(0, 0, 0, 0);
    result_ = large_label(12);
    result_->setObjectName("resultWords");
    judged->addWidget(result_);
    seeing_ = new SeeingView;
    judged->addWidget(seeing_);
    right->addWidget(judged_);
    right->addStretch();

    auto* foot = new QHBoxLayout;
    answer_ = new QPushButton("Answer");
    another_ = new QPushButton("Next exercise");
    close_ = new QPushButton("Leave");
    state_ = large_label(10);
    state_->setProperty("faint", true);
    for (auto* b : {answer_, another_, close_}) make_large(b, 12, true), foot->addWidget(b);
    foot->addWidget(state_, 1);
    all->addLayout(foot);
    auto* says = large_label(8.5);
    says->setProperty("faint", true);
    says->setText(
        "It trains hands and eyes and licenses nobody: the maker's instructions, local rules and who is in "
        "charge go before it.");
    all->addWidget(says);
    connect(answer_, &QPushButton::clicked, this, &TrainerWindow::answer);
    connect(number_, &QLineEdit::returnPressed, this, &TrainerWindow::answer);
    connect(options_, &QListWidget::itemDoubleClicked, this, [this] {
        if (trainee_.exercise() && trainee_.exercise()->question.form == Question::Form::one) answer();
    });
    connect(another_, &QPushButton::clicked, this, [this] { trainee_.ask_another(); });
    connect(close_, &QPushButton::clicked, this, [this] {
        trainee_.close();
        close();
    });
    connect(&trainee, &Trainee::changed, this, &TrainerWindow::refresh);
    connect(&trainee, &Trainee::judged, this, &TrainerWindow::refresh);
    connect(&trainee, &Trainee::seen, this, [this] { seeing_->show_all(trainee_.seeing()); });
    connect(&session, &Session::look_changed, this, &TrainerWindow::refresh);
    connect(&session, &Session::message, state_, [this](const QString& text) {
        if (isActiveWindow()) state_->setText(text); // the banner is in the window behind
    });
    connect(&heartbeat_, &QTimer::timeout, this, [this] {
        trainee_.tick();
        if (!trainee_.exercise() || trainee_.is_answered()) return;
        time_->setText(trainee_.exam() ? QString("%1 left").arg(
                                             clock_words(static_cast<double>(trainee_.exam_left_ms()) / 1000))
                                       : clock_words(trainee_.seconds()));
    });
    heartbeat_.start(500);
    refresh();
}

void TrainerWindow::find(FaultDecision decision) {
    Finding f;
    f.kind = kind_->currentData().toString().toStdString();
    if (!side_->isHidden()) f.side = side_->currentIndex() == 1 ? Side::b : Side::a;
    f.decision = decision;
    if (const auto text = at_->text().trimmed(); !text.isEmpty()) {
        const auto at = parse_length_mm(text.toStdString(), LengthUnit::mm, "From the screen edge");
        if (!at) {
            state_->setText(q(at.error().message()));
            return; // it stays as typed
        }
        f.from_edge_mm = *at;
    }
    trainee_.add_finding(f);
    at_->clear();
}

void TrainerWindow::move_option(int by) {
    const int at = options_->currentRow(), to = at + by;
    if (at < 0 || to < 0 || to >= options_->count()) return;
    auto* item = options_->takeItem(at);
    options_->insertItem(to, item);
    options_->setCurrentRow(to);
}

void TrainerWindow::answer() {
    const auto& e = trainee_.exercise();
    if (!e || trainee_.is_answered()) return;
    if (e->question.form == Question::Form::number) {
        const auto value = parse_length_mm(number_->text().toStdString(), LengthUnit::mm, "Answer");
        if (!value) {
            state_->setText(q(value.error().message()));
            return;
        }
        trainee_.answer_number(*value);
        return;
    }
    std::vector<std::string> keys;
    if (e->question.form == Question::Form::order) {
        for (int i = 0; i < options_->count(); ++i)
            keys.push_back(options_->item(i)->data(Qt::UserRole).toString().toStdString());
    } else {
        const auto* item = options_->currentItem();
        if (!item) {
            state_->setText("Choose one first.");
            return;
        }
        keys.push_back(item->data(Qt::UserRole).toString().toStdString());
    }
    trainee_.answer_keys(std::move(keys));
}

void TrainerWindow::keyPressEvent(QKeyEvent* event) {
    const auto& e = trainee_.exercise();
    if (event->key() == Qt::Key_Escape) {
        close_->click();
    } else if (e && trainee_.is_answered() && (event->key() == Qt::Key_Return || event->key() == Qt::Key_N)) {
        another_->click();
    } else if (e && e->question.form == Question::Form::order && event->modifiers() & Qt::AltModifier &&
               (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down)) {
        move_option(event->key() == Qt::Key_Up ? -1 : 1);
    } else if (e && e->task != Task::inspect && event->key() == Qt::Key_Return) {
        answer();
    } else {
        QWidget::keyPressEvent(event);
    }
}

void TrainerWindow::fill_question() {
    const auto& e = *trainee_.exercise();
    shown_ = e.id;
    title_->setText(trainee_.exam() ? QString("%1 of %2: %3")
                                          .arg(trainee_.exam_at())
                                          .arg(trainee_.exam()->count)
                                          .arg(task_title(e.task))
                                    : QString(task_title(e.task)));
    QStringList given;
    for (const auto& g : e.question.given) given << q(g);
    given_->setText(given.join("\n"));
    asks_->setText(q(e.question.words));
    options_->clear();
    for (const auto& o : e.question.options) {
        auto* item = new QListWidgetItem(q(o.words));
        item->setData(Qt::UserRole, q(o.key));
        options_->addItem(item);
    }
    number_->clear();
    at_->clear();
    const auto form = e.question.form;
    inspect_->setVisible(form == Question::Form::inspection);
    drill_->setVisible(form != Question::Form::inspection);
    options_->setVisible(form == Question::Form::one || form == Question::Form::order);
    moves_->setVisible(form == Question::Form::order);
    number_box_->setVisible(form == Question::Form::number);
    picture_->show_design(e.job, e.design);
    side_->setVisible(picture_->has_two_sides());
    state_->clear();
    if (form == Question::Form::number) number_->setFocus();
    if (form == Question::Form::one || form == Question::Form::order) options_->setFocus();
}

void TrainerWindow::fill_answer() {
    const auto& e = *trainee_.exercise();
    QStringList lines;
    for (const auto& looked : trainee_.looked()) {
        const auto title = q(trainee_.data()->means.find(looked.means)->title);
        if (looked.seen.empty()) lines << title + ": nothing is seen";
        for (const auto& s : looked.seen)
            lines << QString("%1: %2%3%4%5")
                         .arg(title, q(s.sees),
                              s.side == Side::none ? "" : QString(", side%1").arg(tag_of(s.side)),
                              s.from_edge_mm ? QString(", %1 mm from the screen edge").arg(*s.from_edge_mm)
                                             : QString(),
                              s.size_mm ? QString(", reads %1 mm").arg(*s.size_mm) : QString());
    }
    seen_->setText(lines.isEmpty() ? "Nothing looked at yet: each means takes its time and finds what it can."
                                   : lines.join("\n"));
    findings_->clear();
    for (const auto& f : trainee_.findings()) findings_->addItem(finding_words(f));
    const bool answered = trainee_.is_answered();
    for (auto& [id, b] : means_) b->setEnabled(!answered);
    if (const auto it = means_.find("discharge"); it != means_.end() && !answered)
        it->second->setEnabled(trainee_.is_truth_known()); // it shows what the field makes of the air
    for (auto& [d, b] : decide_) b->setEnabled(!answered);
    for (auto* w :
         std::initializer_list<QWidget*>{release_, hold_, kind_, side_, at_, options_, number_, moves_})
        w->setEnabled(!answered);
    answer_->setVisible(e.task != Task::inspect && !answered);
    another_->setVisible(answered && !trainee_.exam());
    close_->setText(trainee_.exam() ? "Leave the exam" : "Leave");
    work_->setVisible(e.task == Task::inspect && !answered);
    judged_->setVisible(answered);
    if (const auto solving = trainee_.solving_words(); !solving.isEmpty())
        state_->setText(solving_ = solving);
    else if (state_->text() == solving_)
        state_->clear();
    if (!answered) return;
    QString text;
    if (const auto& s = trainee_.score()) {
        text = QString("<p style='font-size: 17pt; font-weight: bold; color: %3'>%1 %2 % of the points</p>")
                   .arg(s->right        ? "■ Right."
                        : s->points > 0 ? "◪ In part."
                                        : "▼ Not right.")
                   .arg(100 * s->points, 0, 'f', 0)
                   .arg((s->right        ? session_.theme().accent
                         : s->points > 0 ? session_.theme().ochre
                                         : session_.theme().brick)
                            .name());
        for (const auto& line : s->lines) text += "<p>" + q(line).toHtmlEscaped() + "</p>";
        for (const auto& line : s->costs) text += "<p><b>" + q(line).toHtmlEscaped() + "</b></p>";
        text += QString("<p>%2: %1</p>")
                    .arg(clock_words(s->seconds), e.task == Task::inspect ? "Time with its looks" : "Time");
        time_->setText(clock_words(s->seconds));
    } else {
        text = trainee_.solving_words().isEmpty() ? "It is kept and not scored."
                                                  : "The field is being solved: then it is judged…";
    }
    result_->setText(text);
    another_->setFocus();
    seeing_->show_all(trainee_.seeing());
}

void TrainerWindow::refresh() {
    const auto& e = trainee_.exercise();
    if (!e) {
        shown_.clear();
        title_->setText(trainee_.last_exam() ? "The exam is over" : "No exercise is open");
        given_->clear();
        asks_->setText(trainee_.last_exam() ? "Its result can be printed in the stage Trainer, to be signed."
                                            : "");
        for (auto* w : std::initializer_list<QWidget*>{inspect_, drill_, judged_, picture_}) w->hide();
        work_->hide();
        answer_->hide();
        another_->hide();
        close_->setText("Leave");
        time_->clear();
        return;
    }
    picture_->show();
    if (shown_ != e->id) fill_question();
    fill_answer();
}

} // namespace ng::app
