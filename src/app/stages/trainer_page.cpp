#include "app/stages/trainer_page.h"
#include "app/model/text.h"
#include "app/stages/touch.h"
#include "app/stages/trainer_window.h"
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMessageBox>
#include <QRandomGenerator>

namespace ng::app {

constexpr std::size_t shown_answers = 10;

TrainerPage::TrainerPage(Session& session, Trainee& trainee, QWidget* parent)
    : Page(session, "Trainer", parent), trainee_(trainee) {
    add_text("Built accessories with faults that nobody names, and questions that their plan and sheet "
             "answer. The field "
             "says afterwards what is right.");
    next_ = new QPushButton("Begin: what comes next");
    next_->setObjectName("trainNext");
    make_large(next_, 11.5, true);
    column_->addWidget(next_);
    any_ = new QCheckBox("of any design of the job");
    column_->addWidget(any_);
    auto* form = add_group("Who");
    role_ = add_choice(form, "As", {"apprentice", "jointer", "inspector", "instructor"});
    initials_ = new QLineEdit;
    initials_->setMaxLength(8);
    initials_->setFixedWidth(96);
    initials_->setAccessibleName("Initials of the trainee");
    initials_->setPlaceholderText("initials");
    initials_->setToolTip(
        "With initials, answers are kept and what was weak comes again; without, nothing is kept");
    form->addRow("Initials", initials_);
    file_ = add_text("", true);
    auto* files = new QHBoxLayout;
    auto* choose = new QPushButton("Another file…");
    forget_ = new QPushButton("Delete all of mine…");
    files->addWidget(choose);
    files->addWidget(forget_);
    files->addStretch();
    column_->addLayout(files);
    form = add_group("One of my choice");
    QStringList tasks;
    for (const auto t : all_tasks()) tasks << task_title(t);
    task_ = add_wide_choice(form, "Exercise", tasks);
    level_ = add_choice(form, "Level", {"1: easily found", "2: found by half", "3: hardly found"});
    seed_ = new QLineEdit;
    seed_->setFixedWidth(110);
    seed_->setAccessibleName("Seed");
    seed_->setPlaceholderText("by chance");
    seed_->setToolTip("The same seed asks the same of everybody with this job");
    form->addRow("Seed", seed_);
    auto* row = new QHBoxLayout;
    chosen_ = new QPushButton("Begin it");
    own_ = new QPushButton("With the faults of this design");
    own_->setToolTip("An instructor puts faults onto the design (Faults), then the trainee looks for them");
    row->addWidget(chosen_);
    row->addWidget(own_);
    row->addStretch();
    column_->addLayout(row);
    form = add_group("Exam");
    count_ = new QLineEdit("10");
    minutes_ = new QLineEdit("30");
    for (const auto& [edit, words] : {std::pair{count_, "Exercises"}, std::pair{minutes_, "Minutes"}}) {
        edit->setFixedWidth(70);
        edit->setAccessibleName(QString("Exam: %1").arg(words));
        form->addRow(words, edit);
    }
    auto* exams = new QHBoxLayout;
    exam_ = new QPushButton("Begin the exam");
    exam_->setToolTip("With the seed and level above; what is right is seen at its end");
    result_ = new QPushButton("Result as PDF…");
    exams->addWidget(exam_);
    exams->addWidget(result_);
    exams->addStretch();
    column_->addLayout(exams);
    add_group("How it stands");
    standing_ = add_text("");
    standing_->setObjectName("standingWords");
    topics_ = new QListWidget;
    topics_->setAccessibleName("Topics and their boxes");
    topics_->setMinimumHeight(180);
    topics_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    column_->addWidget(topics_);
    column_->addStretch();
    for (auto* b : {chosen_, own_, exam_, result_, choose, forget_}) b->setMinimumHeight(34);

    const auto who = [this] {
        trainee_.set_who({role_->currentText().toStdString(), initials_->text().trimmed().toStdString()});
    };
    connect(role_, &QComboBox::activated, this, who);
    connect(initials_, &QLineEdit::editingFinished, this, who);
    connect(choose, &QPushButton::clicked, this, [this] {
        const auto path =
            QFileDialog::getSaveFileName(this, "Trainer's file", trainee_.path(), "Trainer (*.ngtrain)",
                                         nullptr, QFileDialog::DontConfirmOverwrite);
        if (!path.isEmpty()) trainee_.open_file(path.endsWith(".ngtrain") ? path : path + ".ngtrain");
    });
    connect(forget_, &QPushButton::clicked, this, [this] {
        const auto words = QString("Delete everything that %1 %2 answered, from the disk too?")
                               .arg(q(trainee_.who().role), q(trainee_.who().initials));
        if (QMessageBox::question(this, "Trainer", words) == QMessageBox::Yes) trainee_.forget();
    });
    connect(next_, &QPushButton::clicked, this, [this] {
        if (trainee_.ask_next(any_->isChecked())) open_window();
    });
    connect(chosen_, &QPushButton::clicked, this, &TrainerPage::ask_chosen);
    connect(own_, &QPushButton::clicked, this, [this] {
        if (trainee_.ask_own()) open_window();
    });
    connect(exam_, &QPushButton::clicked, this, &TrainerPage::begin_exam);
    connect(result_, &QPushButton::clicked, this, [this] {
        auto path = QFileDialog::getSaveFileName(this, "Result", "result.pdf", "PDF (*.pdf);;HTML (*.html)");
        if (path.isEmpty()) return;
        if (!path.endsWith(".pdf") && !path.endsWith(".html")) path += ".pdf";
        if (auto ok = trainee_.write_result(path); !ok) session_.tell(ok.error());
    });
    connect(&trainee, &Trainee::changed, this, &TrainerPage::refresh);
    connect(&trainee, &Trainee::judged, this, &TrainerPage::refresh);
    connect(&session.document, &Document::design_changed, this, &TrainerPage::refresh);
    refresh();
}

TrainerWindow* TrainerPage::open_window() {
    if (!window_) window_ = new TrainerWindow(session_, trainee_, this);
    window_->show();
    window_->raise();
    window_->activateWindow();
    return window_;
}

std::optional<std::uint64_t> TrainerPage::seed() {
    const auto text = seed_->text().trimmed();
    if (text.isEmpty()) return QRandomGenerator::global()->bounded(static_cast<quint64>(1'000'000));
    bool ok = false;
    const auto value = text.toULongLong(&ok);
    if (ok && value <= most_seed) return value;
    session_.tell({"Seed", "“" + one_line(text.toStdString(), 40) + "” is no whole number up to 2^53",
                   "Give one, or leave it empty"});
    return {};
}

void TrainerPage::ask_chosen() {
    const auto number = seed();
    if (!number) return;
    ExerciseWish wish;
    wish.level = level_->currentIndex() + 1;
    wish.task = all_tasks().at(static_cast<std::size_t>(task_->currentIndex()));
    if (!any_->isChecked()) wish.design = session_.document.design().id;
    if (trainee_.ask(wish, *number)) open_window();
}

void TrainerPage::begin_exam() {
    const auto number = seed();
    if (!number) return;
    bool whole = false, timed = false;
    const int count = count_->text().toInt(&whole);
    const double minutes = minutes_->text().replace(',', '.').toDouble(&timed);
    if (!whole || !timed) {
        session_.tell(
            {"Exam", "exercises or minutes are no numbers", "Give 1 to 100 exercises and up to 600 minutes"});
        return;
    }
    if (trainee_.who().initials.empty()) {
        session_.tell({"Exam", "nobody is named", "Give initials: the result is signed by them"});
        initials_->setFocus();
        return;
    }
    if (trainee_.begin_exam(*number, count, level_->currentIndex() + 1, minutes)) open_window();
}

void TrainerPage::refresh() {
    file_->setText(trainee_.who().initials.empty() ? QString("Without initials nothing is kept.")
                                                   : QString("Kept in %1: role and initials, never names.")
                                                         .arg(QFileInfo(trainee_.path()).fileName()));
    file_->setToolTip(trainee_.path());
    forget_->setEnabled(!trainee_.who().initials.empty());
    own_->setEnabled(!session_.document.design().faults.empty());
    result_->setEnabled(trainee_.last_exam().has_value());
    const auto& progress = trainee_.progress();
    standing_->setText(
        progress.exercises() == 0
            ? QString("Nothing answered yet. What is right goes a box up and comes later, what is not goes "
                      "back to the first.")
            : QString("%1 exercises answered.").arg(progress.exercises()));
    topics_->clear();
    auto topics = progress.topics();
    std::stable_sort(topics.begin(), topics.end(),
                     [](const auto& a, const auto& b) { return a.box < b.box; });
    for (const auto& t : topics) {
        // How it went, the last ten from left to right, and in which box that leaves it.
        QString lately;
        for (std::size_t i = t.answers.size() > shown_answers ? t.answers.size() - shown_answers : 0;
             i < t.answers.size(); ++i)
            lately += t.answers[i].second ? QChar(0x25A0) : QChar(0x25A1);
        auto* item = new QListWidgetItem(QString("%1\n%2  box %3 of %4")
                                             .arg(q(topic_title(t.name)), lately)
                                             .arg(t.box)
                                             .arg(leitner_boxes));
        item->setToolTip(
            QString("%1 of %2 right; filled: right, open: not").arg(t.right()).arg(t.answers.size()));
        topics_->addItem(item);
    }
}

} // namespace ng::app
