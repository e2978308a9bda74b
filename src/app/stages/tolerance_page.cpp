#include "app/stages/tolerance_page.h"
#include "app/model/text.h"
#include "app/model/time_left.h"
#include "draw/theme.h"
#include "fault/fault.h"
#include "units/hand_length.h"
#include <QElapsedTimer>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <set>

namespace ng::app {
namespace {

const int sample_counts[] = {64, 256, 1024};

QString spread_words(const Varied& v) {
    switch (v.law) {
    case Varied::Law::uniform:
        return QString("± %1, even").arg(v.spread, 0, 'g', 3);
    case Varied::Law::lognormal:
        return QString("times or over %1").arg(v.spread, 0, 'g', 3);
    case Varied::Law::normal:
        break;
    }
    auto out = QString("sigma %1").arg(v.spread, 0, 'g', 3);
    if (v.blunder_share > 0)
        out += QString(", %1 % off by %2").arg(100 * v.blunder_share, 0, 'g', 2).arg(v.blunder, 0, 'g', 3);
    return out;
}

} // namespace

ShareHistogram::ShareHistogram(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedHeight(130);
    setAccessibleName("Distribution of the worst share of a limit");
    connect(&session, &Session::look_changed, this, qOverload<>(&QWidget::update));
}

void ShareHistogram::show_shares(std::vector<double> shares) {
    shares_ = std::move(shares);
    update();
}

void ShareHistogram::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto& theme = session_.theme();
    painter.fillRect(rect(), theme.panel);
    const QRectF plot(10, 20, width() - 20, height() - 42);
    painter.setFont(draw::ui_font(8));
    painter.setPen(theme.faint);
    if (shares_.empty()) {
        painter.drawText(rect(), Qt::AlignCenter, "No builds yet");
        return;
    }
    const double largest = *std::max_element(shares_.begin(), shares_.end());
    const double to = std::clamp(1.05 * largest, 1.15, 3.0);
    constexpr int bins = 40;
    std::vector<int> count(bins, 0);
    for (const double s : shares_) ++count[std::clamp(static_cast<int>(bins * s / to), 0, bins - 1)];
    const int most = *std::max_element(count.begin(), count.end());
    const auto x = [&](double share) { return plot.left() + plot.width() * share / to; };
    for (int k = 0; k < bins; ++k) {
        if (count[k] == 0) continue;
        const double high = std::max(1.5, plot.height() * count[k] / most);
        const QRectF bar(x(to * k / bins), plot.bottom() - high, plot.width() / bins - 1, high);
        // Beyond the limit by hatch as well as by colour.
        const bool beyond = to * (k + 0.5) / bins > 1;
        painter.fillRect(bar, beyond ? theme.brick : theme.accent);
        if (beyond) {
            painter.setPen(QPen(theme.panel, 1));
            for (double y = bar.top() + 3; y < bar.bottom(); y += 4)
                painter.drawLine(QPointF(bar.left(), y), QPointF(bar.right(), y));
        }
    }
    painter.setPen(QPen(theme.line, 1));
    painter.drawLine(plot.bottomLeft(), plot.bottomRight());
    painter.setPen(QPen(theme.brick, 1.4));
    painter.drawLine(QPointF(x(1), plot.top() - 6), QPointF(x(1), plot.bottom()));
    painter.drawText(QRectF(x(1) + 3, 2, 40, 14), Qt::AlignLeft, "limit");
    painter.setPen(theme.ink);
    for (const double tick : {0.0, 0.25, 0.5, 0.75, 1.0})
        painter.drawText(QRectF(x(tick) - 20, plot.bottom() + 2, 40, 14), Qt::AlignCenter,
                         QString("%1 %").arg(100 * tick, 0, 'f', 0));
    painter.setPen(theme.faint);
    painter.drawText(QRectF(plot.left(), 2, plot.width(), 14), Qt::AlignLeft,
                     "builds by worst share of a limit");
}

TolerancePage::TolerancePage(Session& session, QWidget* parent) : Page(session, "Tolerances", parent) {
    add_caution("What is assumed of hands and makers is common practice: change it where you know "
                "better. No computation replaces a type test.");
    auto* form = add_group("A thousand builds");
    samples_ = add_choice(form, "Builds", {"64", "256", "1024"});
    samples_->setCurrentIndex(1);
    auto* run_button = new QPushButton("Build and solve them");
    cancel_ = add_run_row(column_, {run_button});
    histogram_ = new ShareHistogram(session, this);
    column_->addWidget(histogram_);
    result_ = add_text(
        "Each build is solved as exactly as its decision needs; those within their error of a limit are "
        "solved again, finer.",
        true);
    worst_button_ = new QPushButton("Open the worst as a design");
    worst_button_->setEnabled(false);
    column_->addWidget(worst_button_, 0, Qt::AlignLeft);
    add_group("How far each mark may lie off");
    auto* window_button = new QPushButton("Find the windows");
    cancel_windows_ = add_run_row(column_, {window_button});
    windows_ = add_text(
        "One mark at a time, all else as designed: the range within which no check falls short. Found "
        "windows stand as brackets on TAPE and on the work sheet.",
        true);
    add_group("What moves it most");
    tornado_ = new TornadoPanel(session, this);
    column_->addWidget(tornado_);
    add_group("The kit over its cables");
    range_ = new RangePanel(session, this);
    column_->addWidget(range_);
    add_group("The design at other classes");
    duties_ = new DutiesPanel(session, this);
    column_->addWidget(duties_);
    add_group("What varies");
    varied_ = add_text("", true);
    column_->addStretch();
    connect(run_button, &QPushButton::clicked, this, &TolerancePage::run);
    connect(window_button, &QPushButton::clicked, this, &TolerancePage::find_windows);
    connect(worst_button_, &QPushButton::clicked, this, &TolerancePage::open_worst);
    connect(cancel_, &QPushButton::clicked, this, [this] {
        builds_.cancel();
        ++run_builds_;
        cancel_->hide();
        result_->setText(result_->text() + "\nCancelled; what was built so far stays.");
    });
    connect(cancel_windows_, &QPushButton::clicked, this, [this] {
        marks_.cancel();
        ++run_marks_;
        cancel_windows_->hide();
        windows_->setText("Cancelled.");
    });
    for (auto* worker : {&builds_, &marks_})
        connect(worker, &Worker::failed, this, [this](const QString& why) {
            result_->setText(why);
            cancel_->hide();
            cancel_windows_->hide();
        });
    follow_design(session, this, &TolerancePage::refresh);
}

void TolerancePage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    show_varied();
}

void TolerancePage::show_varied() {
    QStringList lines;
    std::set<std::string> sources;
    if (session_.prepared())
        for (const auto& v : usual_plan(*session_.prepared(), session_.with_faults()).varied) {
            lines << QString("%1: %2").arg(q(v.label), spread_words(v));
            sources.insert(v.provenance);
        }
    lines << ""
          << "Where that comes from:";
    for (const auto& source : sources) lines << q(source);
    varied_->setText(lines.join("\n"));
}

void TolerancePage::refresh() {
    if (isVisible()) show_varied();
    if (of_.empty() || of_ == session_.judged_text()) return;
    of_.clear();
    builds_.cancel();
    ++run_builds_;
    cancel_->hide();
    worst_.reset();
    worst_button_->setEnabled(false);
    histogram_->show_shares({});
    result_->setText("The design has changed: build it again.");
}

void TolerancePage::show_table(const StudyTable& table, std::uint64_t asked, double seconds) {
    const auto s = summarise(table);
    // A check that is the same in every build tells nothing of them, unless it fails.
    constexpr double varies = 0.01;
    std::vector<std::size_t> shown;
    for (std::size_t k = 0; k < s.checks.size(); ++k)
        if (s.checks[k].p99 - s.checks[k].median > varies || s.checks[k].largest > 1) shown.push_back(k);
    std::vector<double> shares;
    for (const auto& one : table.rows) {
        if (!one.refusal.empty()) continue;
        double worst = shown.empty() ? one.worst_share() : 0;
        for (const auto k : shown) worst = std::max(worst, one.readings[k].share);
        shares.push_back(worst);
    }
    histogram_->show_shares(std::move(shares));
    QStringList lines;
    if (s.rows < asked && s.rows > 0)
        lines << QString("%1 of %2 built, %3")
                     .arg(s.rows)
                     .arg(asked)
                     .arg(time_left_words(seconds * static_cast<double>(asked - s.rows) /
                                          static_cast<double>(s.rows)));
    lines << q("Falls short: " + share_words(s.falls_short, s.failing, s.rows - s.refused));
    if (s.refused) lines << QString("%1 cannot be built at all.").arg(s.refused);
    if (s.again) lines << QString("%1 lay within their error of a limit and were solved again.").arg(s.again);
    std::vector<StudySummary::OfCheck> checks;
    for (const auto k : shown) checks.push_back(s.checks[k]);
    std::stable_sort(checks.begin(), checks.end(),
                     [](const auto& a, const auto& b) { return a.p99 > b.p99; });
    for (std::size_t k = 0; k < std::min<std::size_t>(3, checks.size()); ++k) {
        const auto title = checks[k].check.substr(checks[k].check.find(": ") + 2);
        lines << QString("%1: half below %2 %, 99 of 100 below %3 % of the limit")
                     .arg(q(title))
                     .arg(100 * checks[k].median, 0, 'f', 0)
                     .arg(100 * checks[k].p99, 0, 'f', 0);
    }
    result_->setText(lines.join("\n"));
}

void TolerancePage::run() {
    if (!session_.prepared()) return;
    const int run = ++run_builds_;
    of_ = session_.judged_text();
    cancel_->show();
    worst_.reset();
    worst_button_->setEnabled(false);
    result_->setText("Solving the design as it is…");
    auto plan = usual_plan(*session_.prepared(), session_.with_faults());
    plan.samples = static_cast<std::uint64_t>(sample_counts[samples_->currentIndex()]);
    builds_.start([this, run, plan, job = session_.document.job(),
                   library = session_.library()](const CancelFlag& cancel) {
        const auto study = Study::begin(job, plan, library, preparer(plan.with_faults), &cancel);
        if (cancel) return;
        if (!study) {
            QMetaObject::invokeMethod(this, [this, run, why = q(study.error().message())] {
                if (run != run_builds_) return;
                cancel_->hide();
                result_->setText(why);
                emit finished();
            });
            return;
        }
        StudyTable table;
        table.plan = plan;
        table.checks = study->checks();
        QElapsedTimer timer, shown;
        timer.start();
        shown.start();
        const auto tell = [&](bool end) {
            std::optional<Job> worst;
            if (const auto s = summarise(table); end && s.worst)
                if (auto drawn = study->job_of(s.worst->drawn)) worst = std::move(*drawn);
            QMetaObject::invokeMethod(
                this, [this, run, end, table, worst, seconds = 1e-3 * static_cast<double>(timer.elapsed())] {
                    if (run != run_builds_) return;
                    show_table(table, table.plan.samples, seconds);
                    if (!end) return;
                    worst_ = worst;
                    worst_button_->setEnabled(worst_.has_value());
                    cancel_->hide();
                    emit finished();
                });
        };
        run_rows(*study, {0, 1}, 0, 2, &cancel, [&](const StudyRow& row) {
            table.rows.push_back(row);
            if (shown.elapsed() < 500) return;
            shown.restart();
            tell(false);
        });
        if (!cancel) tell(true);
    });
}

void TolerancePage::open_worst() {
    if (!worst_) return;
    const auto id = session_.document.design().id;
    const auto* drawn = worst_->find_design(id);
    if (!drawn) return;
    auto design = *drawn;
    design.title += ", worst of its builds";
    design.revisions.clear();
    const auto& job = session_.document.job();
    const auto free_id = [](const std::string& base, const auto& taken) {
        auto out = base;
        for (int n = 2; taken(out); ++n) out = base + "-" + std::to_string(n);
        return out;
    };
    design.id =
        free_id(id + "-worst", [&](const std::string& one) { return job.find_design(one) != nullptr; });
    std::vector<Cable> cables;
    for (auto* cable_id : {&design.cable_id, &design.other_cable_id})
        for (const auto& cable : worst_->cables)
            if (cable.id == *cable_id) {
                auto copy = cable;
                copy.id = free_id(cable.id + "-worst", [&](const std::string& one) {
                    return std::any_of(job.cables.begin(), job.cables.end(),
                                       [&](const auto& c) { return c.id == one; }) ||
                           std::any_of(cables.begin(), cables.end(),
                                       [&](const auto& c) { return c.id == one; });
                });
                copy.title += ", as drawn";
                *cable_id = copy.id;
                cables.push_back(std::move(copy));
                break;
            }
    session_.document.edit("Open the worst build", {}, [&](Job& changed) {
        for (const auto& cable : cables) changed.cables.push_back(cable);
        changed.designs.push_back(design);
    });
    session_.document.show_design(design.id);
}

void TolerancePage::find_windows() {
    if (!session_.prepared()) return;
    const int run = ++run_marks_;
    cancel_windows_->show();
    windows_->setText("Solving the design as it is…");
    auto plan = usual_plan(*session_.prepared(), session_.with_faults());
    marks_.start([this, run, plan, of = session_.judged_text(), unit = session_.unit(),
                  job = session_.document.job(), library = session_.library()](const CancelFlag& cancel) {
        QStringList lines;
        const auto say = [&](const QString& state) {
            QMetaObject::invokeMethod(this, [this, run, text = (QStringList{state} + lines).join("\n")] {
                if (run == run_marks_) windows_->setText(text);
            });
        };
        const auto study = Study::begin(job, plan, library, preparer(plan.with_faults), &cancel);
        if (cancel) return;
        if (!study) return say(q(study.error().message()));
        const auto bound = [&](const std::optional<double>& b, double looked, double now) {
            return (b ? QString() : QString("beyond ")) + QString(b.value_or(looked) < now ? "−" : "+") +
                   q(hand_length(std::abs(b.value_or(looked) - now), unit));
        };
        const TimeLeft left;
        auto found = ng::find_windows(*study, 0, &cancel, [&](const MarkWindow& w, int done, int all) {
            lines << QString("%1 %2: %3 to %4%5")
                         .arg(q(w.label), q(hand_length(w.now, unit)), bound(w.lowest, w.looked_low, w.now),
                              bound(w.highest, w.looked_high, w.now),
                              w.why_low.empty() && w.why_high.empty()
                                  ? QString()
                                  : QString("; then %1").arg(q(w.why_low.empty() ? w.why_high : w.why_low)));
            say(QString("%1 of %2 marks").arg(done).arg(all) + left.after(done, all));
        });
        if (cancel) return;
        QMetaObject::invokeMethod(this, [this, run, of, found = std::move(found)]() mutable {
            if (run != run_marks_) return;
            cancel_windows_->hide();
            if (found) session_.keep_windows(of, std::move(*found));
            emit windows_found();
        });
    });
}

} // namespace ng::app
