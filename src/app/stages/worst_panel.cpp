#include "app/stages/worst_panel.h"
#include "app/model/text.h"
#include "fault/fault.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>

namespace ng::app {
namespace {

constexpr int most_solves = 120;
constexpr std::size_t most_lines = 6;

/// Its share, and what lies furthest from the design, by its own tolerance.
QString words_of(const WorstCase& worst, const StudyPlan& plan, LengthUnit unit) {
    QStringList lines;
    const auto percent = [](double share, int figures) { return q(format_figures(100 * share, figures)); };
    lines << QString("%1 ± %2 % of the limit: %3. As designed %4 %.")
                 .arg(percent(worst.share, 3), percent(worst.error, 1), q(worst.check),
                      percent(worst.nominal_share, 3));
    std::vector<std::pair<double, std::size_t>> off;
    for (std::size_t k = 0; k < worst.drawn.size(); ++k) {
        const double room = worst.high[k] - worst.low[k];
        if (room > 0) off.emplace_back(-std::abs(worst.drawn[k] - plan.varied[k].middle) / room, k);
    }
    std::sort(off.begin(), off.end());
    const auto figure = [&](double value, const std::string& key) {
        return key.ends_with("_mm") ? q(format_length(value, unit)) : QString::number(value, 'g', 4);
    };
    for (std::size_t i = 0; i < std::min(most_lines, off.size()); ++i) {
        const auto k = off[i].second;
        const auto& v = plan.varied[k];
        lines << QString("%1: %2 for %3")
                     .arg(q(v.label), figure(worst.drawn[k], v.key), figure(v.middle, v.key));
    }
    lines << QString(
                 "%1 builds were judged%2. A local search: it is bad at least, nothing says that it is the "
                 "worst there is.")
                 .arg(worst.solves)
                 .arg(worst.refused ? QString(", %1 cannot be built").arg(worst.refused) : QString());
    return lines.join("\n");
}

} // namespace

WorstPanel::WorstPanel(Session& session, QWidget* parent)
    : StudyPanel(session,
                 {"Look for the worst",
                  "Within 99 % of each tolerance, without blunders: the corner of each check, then a search "
                  "from the worst of them.",
                  "Solving both ends of each…", "%1 of %2 solved", "look again", ""},
                 parent) {
    open_ = new QPushButton("Open it as a design");
    open_->setEnabled(false);
    static_cast<QVBoxLayout*>(layout())->addWidget(open_, 0, Qt::AlignLeft);
    connect(open_, &QPushButton::clicked, this, &WorstPanel::open_worst);
}

StudyPanel::Solve WorstPanel::solve() {
    forget();
    auto plan = design_plan(*session_.prepared(), session_.with_faults());
    return [this, plan, unit = session_.unit(), job = session_.document.job(), library = session_.library()](
               const CancelFlag& cancel, const Progress& progress) -> Result<Show> {
        if (!plan) return tl::unexpected(plan.error());
        const auto study = Study::begin(job, *plan, library, preparer(plan->with_faults), &cancel);
        if (!study) return tl::unexpected(study.error());
        auto worst = find_worst(*study, most_solves, &cancel, [&](const WorstCase& now) {
            progress(now.solves + now.refused, std::max(most_solves, now.solves + now.refused));
            progress.found([text = words_of(now, *plan, unit)] { return text; });
        });
        if (!worst) return tl::unexpected(worst.error());
        auto drawn = study->job_of(worst->drawn);
        if (!drawn) return tl::unexpected(drawn.error());
        return [this, worst = std::move(*worst), drawn = std::move(*drawn), plan = *plan, unit] {
            worst_ = worst;
            drawn_ = drawn;
            open_->setEnabled(true);
            return words_of(worst, plan, unit);
        };
    };
}

void WorstPanel::forget() {
    worst_.reset();
    drawn_.reset();
    open_->setEnabled(false);
}

void WorstPanel::open_worst() {
    if (drawn_) session_.document.open_drawn(*drawn_, ", worst of its tolerances");
}

} // namespace ng::app
