#include "app/stages/verdict_page.h"
#include "app/model/text.h"
#include "app/model/time_left.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng::app {
namespace {

constexpr std::size_t most_bodies = 5; // named in an opened test; the JSON has all

/// The dimensions that lower it, those that break nothing first; no choices.
std::vector<std::string> gaining_dimensions(const Sensitivity& found) {
    std::vector<std::string> out;
    for (const auto& effect : found.effects)
        if (effect.gain > 0 && effect.choice.empty() &&
            std::find(out.begin(), out.end(), effect.key) == out.end())
            out.push_back(effect.key);
    return out;
}

} // namespace

VerdictPage::VerdictPage(Session& session, QWidget* parent) : Page(session, "Verdict", parent) {
    overall_ = add_text("");
    overall_->setFont(draw::ui_font(11, true));
    reason_ = add_text("");
    compared_ = add_text("", true);
    statements_ = add_text("");
    statements_->setObjectName("statements");
    add_group("At U0 and extinction, live");
    list_ = new QVBoxLayout;
    list_->setSpacing(2);
    column_->addLayout(list_);
    add_group("Test schedule");
    auto* row = new QHBoxLayout;
    schedule_state_ = new QLabel;
    schedule_state_->setObjectName("scheduleState");
    schedule_state_->setProperty("faint", true);
    schedule_state_->setWordWrap(true);
    run_ = new QPushButton;
    run_->setAccessibleName("Run or stop the schedule");
    row->addWidget(schedule_state_, 1);
    row->addWidget(run_);
    column_->addLayout(row);
    progress_ = new QProgressBar;
    progress_->setTextVisible(false);
    progress_->setFixedHeight(4);
    progress_->setAccessibleName("Schedule progress");
    column_->addWidget(progress_);
    tests_ = new QVBoxLayout;
    tests_->setSpacing(2);
    column_->addLayout(tests_);
    schedule_notes_ = add_text("", true);
    add_caution("These checks screen a design. They do not replace a type test, the maker's instructions, "
                "local codes or licensed practice.");
    column_->addStretch();
    connect(run_, &QPushButton::clicked, this, [this] {
        if (session_.schedule_runs())
            session_.stop_schedule();
        else if (session_.is_current() && !session_.solved()->coarse)
            session_.run_schedule();
        else
            session_.refine();
    });
    connect(&session, &Session::solved_changed, this, [this] {
        if (!session_.is_live() || isVisible()) refresh(); // the refined solution comes when the hand lets go
    });
    connect(&session, &Session::prepared_changed, this, [this] {
        if (!session_.solution_is_coming()) refresh();
    });
    connect(&session, &Session::pinned_changed, this, &VerdictPage::refresh);
    connect(&session, &Session::look_changed, this, &VerdictPage::refresh);
    connect(&session, &Session::schedule_changed, this, &VerdictPage::refresh_schedule);
    connect(&session, &Session::sensitivity_changed, this, &VerdictPage::refresh);
    refresh();
}

QLabel* VerdictPage::make_detail() {
    auto* detail = new QLabel;
    detail->setWordWrap(true);
    detail->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::LinksAccessibleByMouse |
                                    Qt::LinksAccessibleByKeyboard);
    detail->setContentsMargins(26, 0, 4, 6);
    detail->hide();
    connect(detail, &QLabel::linkActivated, this, &VerdictPage::follow_link);
    return detail;
}

void VerdictPage::follow_link(const QString& link) {
    const auto what = link.section(':', 1);
    const auto found = session_.sensitivity();
    if (link.startsWith("help:"))
        emit wants_help(what);
    else if (const auto check = check_of(what.toStdString()); check && link.startsWith("why:"))
        session_.find_sensitivity(*check);
    else if (link.startsWith("several:") && found)
        emit wants_search(found->check, gaining_dimensions(*found));
    else if (link.startsWith("stop:"))
        session_.stop_sensitivity();
    else if (const auto k = what.toULong(); found && k < found->effects.size())
        session_.apply(Effect(found->effects[k])); // a copy: the edit drops what was found
}

QString VerdictPage::why_text(const Check& check) const {
    // A row of the schedule hangs on the same dimensions as its check at U0 or extinction.
    if (session_.sensitivity_check() != check.id)
        return QString("<p><a href=\"why:%1\">What it hangs on, by solving</a> · <a href=\"help:%1\">How is "
                       "this computed</a></p>")
            .arg(q(name_of(check.id)));
    const auto& state = session_.sensitivity_state();
    const QString running = state.isEmpty() ? QString() : "<p>" + state + " <a href=\"stop:\">Stop</a></p>";
    if (const auto found = session_.sensitivity()) {
        QString text = "<p><b>What it hangs on</b>";
        auto line = [](const Effect& e) {
            QStringList broken;
            for (const auto& title : e.breaks) broken << QString::fromStdString(title);
            return QString("<br>%1 % of the limit: %2, %3%4%5")
                .arg(-100 * e.gain, 0, 'f', 1)
                .arg(QString::fromStdString(e.label), QString::fromStdString(e.change),
                     e.refined ? "" : " (coarse)",
                     broken.isEmpty() ? QString() : "; then falls short: " + broken.join(", "));
        };
        if (found->nearest) text += "<br><i>nearest dimension</i>" + line(*found->nearest);
        text += "<br><i>cures, by solving: those that break nothing first</i>";
        int shown = 0;
        for (std::size_t k = 0; k < found->effects.size(); ++k)
            if (found->effects[k].gain > 0 && shown++ < 6)
                text += line(found->effects[k]) + QString(" <a href=\"apply:%1\">Apply</a>").arg(k);
        if (shown == 0 && state.isEmpty()) text += "<br>nothing that was tried lowers it";
        if (found->complete && gaining_dimensions(*found).size() > 1)
            text +=
                "<br><a href=\"several:\">Several at once</a>: the search, over up to four of them, for what "
                "holds all checks at U0 and extinction";
        return text + QString("</p><p>%1.</p>").arg(QString::fromStdString(tried_words(*found))) + running;
    }
    return running;
}

QString VerdictPage::in_unit(const QString& words) const {
    return QString::fromStdString(words_in_stress_unit(words.toStdString(), session_.stress_unit()));
}

QString VerdictPage::detail_text(const Check& c) const {
    auto s = [](const std::string& t) { return QString::fromStdString(t); };
    const auto unit = session_.unit();
    QString text = "<p>" + s(c.why) + "</p>";
    text += QString("<p><b>Read</b> %1 at %2 %3 kV (%4), on %5, z %6, r %7.")
                .arg(c.place == place::outer_surface || c.unit == "mm" ? "on the section"
                     : c.unit == "ratio" ? "highest field over the undisturbed conductor stress"
                                         : "highest value",
                     s(c.level))
                .arg(c.voltage_kV, 0, 'f', 2)
                .arg(s(c.voltage_origin), s(c.place ? name_of(*c.place) : ""), s(format_length(c.at.z, unit)),
                     s(format_length(c.at.r, unit)));
    if (c.edge_radius_mm > 0)
        text += QString(" Edge radius %1.").arg(s(format_length(c.edge_radius_mm, unit)));
    text += QString(" Numerical error %1 %.</p>").arg(100 * c.relative_error, 0, 'g', 2);
    if (!c.near_edge.empty())
        text += "<p>" + s(upper_first(c.near_edge)) + ": these depend little on the edge's radius.</p>";
    text += QString("<p><b>Limit</b> %1 %2 (%3), against %4.</p>")
                .arg(s(format_figures(c.limit, 3)))
                .arg(s(c.unit), s(c.limit_origin), s(c.protects_against));
    if (c.status == Status::falls_short || c.status == Status::marginal)
        text += QString("<p><b>Usual remedy</b>, not computed: %1.</p>").arg(s(c.cure));
    return in_unit(text + why_text(c));
}

void VerdictPage::refresh_checks() {
    const auto solved = session_.is_current() ? session_.solved() : nullptr;
    const auto prepared = session_.prepared();
    std::vector<CheckRequest> requests; // of the section along the axis, then of those across
    if (prepared) {
        requests = prepared->built.checks;
        for (const auto& across : prepared->built.across)
            requests.insert(requests.end(), across.checks.begin(), across.checks.end());
        QStringList said;
        for (const auto& statement : prepared->built.statements) said << QString::fromStdString(statement);
        statements_->setText(said.join("\n\n"));
        statements_->setVisible(!said.isEmpty());
    }
    const std::size_t count = requests.size();
    while (rows_.size() > static_cast<qsizetype>(count)) {
        delete rows_.takeLast();
        delete details_.takeLast();
    }
    while (rows_.size() < static_cast<qsizetype>(count)) {
        const int index = static_cast<int>(rows_.size());
        auto* row = new VerdictRow(session_, this);
        auto* detail = make_detail();
        list_->addWidget(row);
        list_->addWidget(detail);
        connect(row, &QAbstractButton::clicked, this, [this, index] { show_detail(index); });
        rows_.append(row);
        details_.append(detail);
    }
    const Status overall = session_.overall();
    const int set_aside = session_.set_aside();
    QString word = overall == Status::holds && set_aside > 0
                       ? QString("Holds for the checks made; %1 not judged.").arg(set_aside)
                   : overall == Status::holds       ? "Holds, for every check made here."
                   : overall == Status::marginal    ? "Marginal."
                   : overall == Status::falls_short ? "Falls short."
                   : session_.schedule_runs()       ? "Being judged."
                   : prepared                       ? "Not judged yet."
                                                    : "Cannot be judged.";
    if (session_.overall_words().endsWith("†")) word += " †";
    overall_->setText(word);
    const bool schedule_decides = session_.schedule_is_current() && solved &&
                                  severity(session_.schedule()->status) >= severity(solved->verdict.status);
    reason_->setText(unbroken(in_unit(
        schedule_decides ? QString::fromStdString(session_.schedule()->first_reason)
        : solved && solved->verdict.status != Status::not_judged
            ? QString::fromStdString(solved->verdict.first_reason)
        : prepared
            ? (solved ? "Coarse values follow the hand; they are judged when the solution is refined."
                      : "First estimates are closed forms; the field is being solved.")
            : QString::fromStdString(session_.input_error() ? session_.input_error()->message() : ""))));
    for (std::size_t i = 0; i < count; ++i) {
        const auto& request = requests[i];
        QString estimate = "being solved";
        for (const auto& e : prepared->built.estimates)
            if (e.check == request.id)
                estimate = QString("first estimate %1 (%2)")
                               .arg(QString::fromStdString(format_figures(e.value, 2)),
                                    QString::fromStdString(e.formula));
        Check check;
        check.title = request.title;
        if (solved)
            for (const auto& judged : solved->verdict.checks)
                if (judged.id == request.id) check = judged;
        const auto index = static_cast<qsizetype>(i);
        rows_[index]->show_check(check, estimate);
        const bool open = open_ == static_cast<int>(i);
        rows_[index]->setChecked(open);
        details_[index]->setVisible(open);
        if (open) // words of many that nobody reads are not set while a hand moves
            details_[index]->setText(
                solved ? detail_text(check) + (estimate.startsWith("first") ? "<p>" + estimate + "</p>" : "")
                       : estimate);
    }
    QString compared;
    if (solved && session_.pinned())
        for (const auto& check : solved->verdict.checks)
            for (const auto& old : session_.pinned()->verdict.checks)
                if (old.id == check.id && old.value > 0 && old.limit > 0)
                    compared += QString("%1%2: %3 → %4 (%5 %)")
                                    .arg(compared.isEmpty() ? "Against the pinned state. " : " · ",
                                         QString::fromStdString(check.title), figure(old.value, old),
                                         figure(check.value, check))
                                    .arg(100 * (check.value / old.value - 1), 0, 'f', 1);
    compared_->setText(compared);
    compared_->setVisible(!compared.isEmpty());
}

void VerdictPage::refresh() {
    if (session_.schedule_runs()) refresh_checks(); // else with the schedule
    refresh_schedule();
}

void VerdictPage::refresh_schedule() {
    const auto schedule = session_.schedule();
    const bool current = session_.schedule_is_current(), runs = session_.schedule_runs();
    const auto& p = session_.schedule_progress();
    progress_->setVisible(runs);
    progress_->setRange(0, std::max(1, p.all));
    progress_->setValue(p.done);
    run_->setText(runs ? "Stop" : "Run");
    run_->setVisible(runs || !current);
    schedule_state_->setText(
        runs ? QString("%1 (%2 of %3), %4")
                   .arg(QString::fromStdString(p.test))
                   .arg(p.done)
                   .arg(p.all)
                   .arg(time_left_words(p.left_s))
        : current ? QString("%1 tests in %2 s").arg(schedule->tests.size()).arg(schedule->seconds, 0, 'f', 1)
                  : QString(schedule ? "the design has changed since" : "runs when the solution is refined"));
    const std::size_t count = schedule ? schedule->tests.size() : 0;
    if (open_test_body_) {
        delete open_test_body_;
        open_test_body_ = nullptr;
    }
    while (test_rows_.size() > static_cast<qsizetype>(count)) delete test_rows_.takeLast();
    while (test_rows_.size() < static_cast<qsizetype>(count)) {
        auto* row = new TestRow(session_, this);
        tests_->addWidget(row);
        connect(row, &QAbstractButton::clicked, this, [this, row] {
            open_test(open_test_ == row->test().id ? std::optional<TestId>() : row->test().id);
        });
        test_rows_.append(row);
    }
    for (std::size_t i = 0; i < count; ++i) {
        auto* row = test_rows_[static_cast<qsizetype>(i)];
        row->show_test(schedule->tests[i], !current);
        row->setChecked(schedule->tests[i].id == open_test_);
    }
    QString notes;
    if (schedule)
        for (const auto& s : schedule->statements)
            notes += (notes.isEmpty() ? "" : "\n") + QString::fromStdString(s);
    if (schedule && !schedule->assumptions.empty()) {
        notes += "\n\nAssumed, and it moves the answer:";
        for (const auto& a : schedule->assumptions) notes += "\n• " + QString::fromStdString(a.words);
    }
    schedule_notes_->setText(in_unit(notes));
    fill_open_test();
    if (!runs) refresh_checks(); // the overall word
}

void VerdictPage::open_test(const std::optional<TestId>& test, const std::optional<CheckId>& check) {
    open_test_ = test;
    open_check_ = check;
    refresh_schedule();
}

void VerdictPage::fill_open_test() {
    const auto schedule = session_.schedule();
    const auto* test = schedule && open_test_ ? schedule->find(*open_test_) : nullptr;
    if (!test) return;
    int place = 0;
    for (int i = 0; i < test_rows_.size(); ++i)
        if (test_rows_[i]->test().id == open_test_) place = i + 1;
    open_test_body_ = new QWidget;
    auto* column = new QVBoxLayout(open_test_body_);
    column->setContentsMargins(12, 0, 0, 8);
    column->setSpacing(2);
    auto text = [&](const QString& words) {
        auto* label = new QLabel(in_unit(words));
        label->setWordWrap(true);
        label->setTextInteractionFlags(Qt::TextSelectableByMouse);
        label->setProperty("faint", true);
        column->addWidget(label);
    };
    if (!test->applies || test->checks.empty()) text(QString::fromStdString(test->why));
    if (!test->model.empty())
        text(QString("Model: %1. %2 s%3, error at most %4 %. Level: %5.")
                 .arg(QString::fromStdString(test->model))
                 .arg(test->seconds, 0, 'f', 2)
                 .arg(test->kept ? ", kept from an earlier run" : "")
                 .arg(100 * test->relative_error, 0, 'g', 2)
                 .arg(QString::fromStdString(test->voltage_origin)));
    for (const auto& check : test->checks) {
        auto* row = new VerdictRow(session_, open_test_body_);
        row->show_check(check, "not judged");
        column->addWidget(row);
        auto* detail = make_detail();
        detail->setText(check.limit > 0 ? detail_text(check) : in_unit(QString::fromStdString(check.why)));
        detail->setVisible(check.id == open_check_);
        row->setChecked(check.id == open_check_);
        column->addWidget(detail);
        connect(row, &QAbstractButton::clicked, this, [this, detail, row, id = check.id] {
            open_check_ = open_check_ == id ? std::optional<CheckId>() : id;
            detail->setVisible(open_check_ == id);
            row->setChecked(open_check_ == id);
            if (open_check_ == id && session_.is_current() && row->check().across.empty())
                session_.move_needle_to_z(row->check().at.z);
        });
    }
    if (!test->bodies.empty()) {
        auto highest = test->bodies;
        std::sort(highest.begin(), highest.end(),
                  [](const auto& a, const auto& b) { return a.E_kV_per_mm > b.E_kV_per_mm; });
        if (highest.size() > most_bodies) highest.resize(most_bodies);
        QString bodies = "Highest field in a body:";
        for (const auto& body : highest)
            bodies += QString(" %1 %2 kV/mm at z %3;")
                          .arg(QString::fromStdString(body.region),
                               QString::fromStdString(format_figures(body.E_kV_per_mm, 2)))
                          .arg(body.at.z, 0, 'f', 0);
        bodies.chop(1);
        text(bodies + ".");
    }
    for (const auto& note : test->notes) text(QString::fromStdString(note));
    tests_->insertWidget(place, open_test_body_);
}

void VerdictPage::open_row(int index) {
    if (index < rows_.size()) rows_[index]->click();
}

void VerdictPage::show_detail(int index) {
    open_ = open_ == index ? -1 : index;
    refresh_checks();
    if (open_ >= 0 && session_.is_current() && rows_[open_]->check().limit > 0 &&
        rows_[open_]->check().across.empty())
        session_.move_needle_to_z(rows_[open_]->check().at.z);
}

} // namespace ng::app
