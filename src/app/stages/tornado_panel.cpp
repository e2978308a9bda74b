#include "app/stages/tornado_panel.h"
#include "app/model/text.h"
#include "draw/tornado_picture.h"
#include "fault/fault.h"
#include "io/file.h"

namespace ng::app {
namespace {
constexpr std::size_t most_bars = 12;
}

TornadoPanel::TornadoPanel(Session& session, QWidget* parent)
    : StudyPanel(
          session,
          {"One at a time",
           "Each quantity by itself to both ends of its tolerance, all else as designed: which of them "
           "the nearest limit hangs on.",
           "Solving both ends of each…", "%1 of %2 solved", "look again", "one-at-a-time"},
          parent) {}

StudyPanel::Solve TornadoPanel::solve() {
    auto plan = design_plan(*session_.prepared(), session_.with_faults());
    return [this, plan, job = session_.document.job(), library = session_.library()](
               const CancelFlag& cancel, const Progress& progress) -> Result<Show> {
        if (!plan) return tl::unexpected(plan.error());
        auto study = Study::begin(job, *plan, library, preparer(plan->with_faults), &cancel);
        if (!study) return tl::unexpected(study.error());
        auto tornado = one_at_a_time(*study, &cancel, progress);
        if (!tornado) return tl::unexpected(tornado.error());
        return [this, shown = std::make_shared<const Shown>(Shown{study->plan(), std::move(*tornado)})] {
            shown_ = shown;
            const auto bars = std::min(most_bars, shown->tornado.swings.size());
            const QFontMetricsF metrics(draw::ui_font(8));
            show_picture(bars ? static_cast<int>(draw::tornado_lines(bars) * metrics.height()) : 0,
                         bars ? "What moves it most: " +
                                    q(shown->plan.varied[shown->tornado.swings.front().varied].label)
                              : QString());
            return QString(draw::tornado_key);
        };
    };
}

void TornadoPanel::paint(QPainter& painter, const QRectF& place) {
    if (!shown_) return;
    const auto& theme = session_.theme();
    painter.fillRect(place, theme.panel);
    draw::paint_tornado(painter, place, shown_->plan, shown_->tornado, most_bars, theme, 8);
}

Result<void> TornadoPanel::save(const QString& path) const {
    if (!shown_) return refuse("What moves it most", "nothing is solved yet", "Solve it first");
    if (path.endsWith(".csv"))
        return write_output(path.toStdString(), tornado_csv(shown_->plan, shown_->tornado));
    return draw::write_tornado_svg(shown_->plan, shown_->tornado,
                                   session_.document.design().title + ": what moves it most",
                                   path.toStdString());
}

} // namespace ng::app
