#include "app/stages/windows_panel.h"
#include "app/model/text.h"
#include "fault/fault.h"
#include "study/study.h"
#include "units/hand_length.h"
#include <cmath>

namespace ng::app {
namespace {

QString words_of(const MarkWindow& w, LengthUnit unit) {
    const auto bound = [&](const std::optional<double>& b, double looked) {
        return (b ? QString() : QString("beyond ")) + QString(b.value_or(looked) < w.now ? "−" : "+") +
               q(hand_length(std::abs(b.value_or(looked) - w.now), unit));
    };
    const auto& why = w.why_low.empty() ? w.why_high : w.why_low;
    return QString("%1 %2: %3 to %4%5")
        .arg(q(w.label), q(hand_length(w.now, unit)), bound(w.lowest, w.looked_low),
             bound(w.highest, w.looked_high), why.empty() ? QString() : QString("; then %1").arg(q(why)));
}

} // namespace

WindowsPanel::WindowsPanel(Session& session, QWidget* parent)
    : StudyPanel(session,
                 {"Find the windows",
                  "One mark at a time, all else as designed: the range within which no check falls short. "
                  "Found windows stand as brackets on TAPE and on the work sheet.",
                  "Solving the design as it is…", "%1 of %2 marks", "find them again", ""},
                 parent) {}

StudyPanel::Solve WindowsPanel::solve() {
    auto plan = usual_plan(*session_.prepared(), session_.with_faults()); // of all marks, however they vary
    return
        [this, plan, of = session_.judged_hash(), unit = session_.unit(), job = session_.document.job(),
         library = session_.library()](const CancelFlag& cancel, const Progress& progress) -> Result<Show> {
            const auto study = Study::begin(job, plan, library, preparer(plan.with_faults), &cancel);
            if (!study) return tl::unexpected(study.error());
            QStringList lines;
            auto windows = find_windows(*study, 0, &cancel, [&](const MarkWindow& w, int done, int all) {
                lines << words_of(w, unit);
                progress(done, all);
                progress.found([text = lines.join("\n")] { return text; });
            });
            if (!windows) return tl::unexpected(windows.error());
            return [this, of, windows = std::move(*windows), text = lines.join("\n")] {
                session_.keep_windows(of, windows);
                return text;
            };
        };
}

} // namespace ng::app
