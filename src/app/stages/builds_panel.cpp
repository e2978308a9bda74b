#include "app/stages/builds_panel.h"
#include "app/model/kept_rows.h"
#include "app/model/text.h"
#include "draw/histogram_picture.h"
#include "fault/fault.h"
#include "io/file.h"
#include <QElapsedTimer>
#include <algorithm>

namespace ng::app {
namespace {

const int sample_counts[] = {64, 256, 1024};
constexpr int picture_px = 130;

QString words_of(const StudySummary& s) {
    QStringList lines;
    lines << q("Falls short: " + share_words(s.falls_short, s.failing, s.rows - s.refused));
    if (s.refused) lines << QString("%1 cannot be built at all.").arg(s.refused);
    if (s.again) lines << QString("%1 lay within their error of a limit and were solved again.").arg(s.again);
    std::vector<StudySummary::OfCheck> checks;
    for (const auto k : checks_that_tell(s)) checks.push_back(s.checks[k]);
    std::stable_sort(checks.begin(), checks.end(),
                     [](const auto& a, const auto& b) { return a.p99 > b.p99; });
    for (std::size_t k = 0; k < std::min<std::size_t>(3, checks.size()); ++k) {
        const auto title = checks[k].check.substr(checks[k].check.find(": ") + 2);
        lines << QString("%1: half below %2 %, 99 of 100 below %3 % of the limit")
                     .arg(q(title))
                     .arg(100 * checks[k].median, 0, 'f', 0)
                     .arg(100 * checks[k].p99, 0, 'f', 0);
    }
    return lines.join("\n");
}

} // namespace

BuildsPanel::BuildsPanel(Session& session, QWidget* parent)
    : StudyPanel(session,
                 {"Build and solve them",
                  "Each build is solved as exactly as its decision needs; those within their error of a "
                  "limit are solved again, finer.",
                  "Solving the design as it is…", "%1 of %2 built", "build it again", "builds"},
                 parent) {
    samples_ = new QComboBox;
    samples_->setAccessibleName("Builds");
    samples_->setFocusPolicy(Qt::StrongFocus);
    for (const int count : sample_counts) samples_->addItem(QString("%1 builds").arg(count));
    samples_->setCurrentIndex(1);
    auto* column = static_cast<QVBoxLayout*>(layout());
    column->insertWidget(0, samples_, 0, Qt::AlignLeft);
    worst_button_ = new QPushButton("Open the worst as a design");
    worst_button_->setEnabled(false);
    column->addWidget(worst_button_, 0, Qt::AlignLeft);
    connect(worst_button_, &QPushButton::clicked, this, &BuildsPanel::open_worst);
}

StudyPanel::Solve BuildsPanel::solve() {
    worst_.reset();
    worst_button_->setEnabled(false);
    auto plan = design_plan(*session_.prepared(), session_.with_faults());
    if (plan) plan->samples = static_cast<std::uint64_t>(sample_counts[samples_->currentIndex()]);
    return [this, plan, job = session_.document.job(), library = session_.library()](
               const CancelFlag& cancel, const Progress& progress) -> Result<Show> {
        if (!plan) return tl::unexpected(plan.error());
        const auto study = Study::begin(job, *plan, library, preparer(plan->with_faults), &cancel);
        if (!study) return tl::unexpected(study.error());
        KeptRows kept(*study);
        auto text = study->header({});
        std::size_t written = 0;
        const auto show = [&](const StudyTable& table, bool end) -> Show {
            const auto summary = summarise(table);
            auto words = words_of(summary);
            if (!kept.why_not().isEmpty())
                words += "\nIts rows are not kept to go on with: " + kept.why_not() + ".";
            std::optional<Job> worst;
            if (end && summary.worst)
                if (auto drawn = study->job_of(summary.worst->drawn)) worst = std::move(*drawn);
            return [this, words, shares = shares_of_builds(table, summary), text, worst = std::move(worst)] {
                shares_ = shares;
                rows_ = text;
                worst_ = worst;
                worst_button_->setEnabled(worst_.has_value());
                show_picture(shares_.empty() ? 0 : picture_px, "Distribution of the worst share of a limit");
                return words;
            };
        };
        QElapsedTimer shown;
        shown.start();
        const auto table = build_rows(*study, kept, cancel, [&](const StudyTable& so_far) {
            while (written < so_far.rows.size()) text += study->line(so_far.rows[written++]);
            progress(static_cast<int>(so_far.rows.size()), static_cast<int>(plan->samples));
            if (shown.elapsed() < 500) return;
            shown.restart();
            progress.found(show(so_far, false));
        });
        return show(table, true);
    };
}

void BuildsPanel::forget() {
    shares_.clear();
    rows_.clear();
    worst_.reset();
    worst_button_->setEnabled(false);
}

void BuildsPanel::paint(QPainter& painter, const QRectF& place) {
    painter.fillRect(place, session_.theme().panel);
    draw::paint_histogram(painter, place, shares_, session_.theme(), 8);
}

Result<void> BuildsPanel::save(const QString& path) const {
    if (rows_.empty()) return refuse("Builds", "nothing is built yet", "Build and solve them first");
    if (path.endsWith(".csv")) return write_output(path.toStdString(), rows_);
    return draw::write_histogram_svg(shares_, session_.document.design().title + ": builds",
                                     path.toStdString());
}

void BuildsPanel::open_worst() {
    if (worst_) session_.document.open_drawn(*worst_, ", worst of its builds");
}

} // namespace ng::app
