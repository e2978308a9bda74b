#include "app/stages/effects_panel.h"
#include "app/model/kept_rows.h"
#include "app/model/text.h"
#include "draw/effects_picture.h"
#include "fault/fault.h"
#include "io/file.h"

namespace ng::app {
namespace {
constexpr std::size_t most_effects = 10;
}

EffectsPanel::EffectsPanel(Session& session, QWidget* parent)
    : StudyPanel(session,
                 {"Find the effects",
                  "Which quantity the spread of all builds comes from, by itself and together with others: "
                  "64 blocks of builds.",
                  "Solving the design as it is…", "%1 of %2 built", "find them again", "effects"},
                 parent) {}

StudyPanel::Solve EffectsPanel::solve() {
    auto plan = design_plan(*session_.prepared(), session_.with_faults());
    if (plan) {
        plan->kind = "effects";
        plan->samples = blocks_ * (plan->varied.size() + 2);
    }
    return [this, plan, job = session_.document.job(), library = session_.library()](
               const CancelFlag& cancel, const Progress& progress) -> Result<Show> {
        if (!plan) return tl::unexpected(plan.error());
        const auto study = Study::begin(job, *plan, library, preparer(plan->with_faults), &cancel);
        if (!study) return tl::unexpected(study.error());
        KeptRows kept(*study);
        const auto table = build_rows(*study, kept, cancel, [&](const StudyTable& so_far) {
            progress(static_cast<int>(so_far.rows.size()), static_cast<int>(plan->samples));
        });
        return [this, shown = std::make_shared<const Shown>(Shown{*plan, summarise(table)})] {
            shown_ = shown;
            const auto bars = std::min(most_effects, shown->summary.effects.size());
            const QFontMetricsF metrics(draw::ui_font(8));
            show_picture(bars ? static_cast<int>(draw::effects_lines(bars) * metrics.height()) : 0,
                         "What the spread hangs on");
            return QString(draw::effects_key) + " Estimated " + q(blocks_words(shown->summary)) + ".";
        };
    };
}

void EffectsPanel::paint(QPainter& painter, const QRectF& place) {
    if (!shown_) return;
    painter.fillRect(place, session_.theme().panel);
    draw::paint_effects(painter, place, shown_->plan, shown_->summary, most_effects, session_.theme(), 8);
}

Result<void> EffectsPanel::save(const QString& path) const {
    if (!shown_) return refuse("What its spread hangs on", "nothing is solved yet", "Find the effects first");
    if (path.endsWith(".csv"))
        return write_output(path.toStdString(), effects_csv(shown_->plan, shown_->summary));
    return draw::write_effects_svg(shown_->plan, shown_->summary,
                                   session_.document.design().title + ": what its spread hangs on",
                                   path.toStdString());
}

} // namespace ng::app
