#include "app/stages/duties_panel.h"
#include "app/model/text.h"
#include "draw/duties_picture.h"
#include "fault/fault.h"
#include "io/file.h"

namespace ng::app {

DutiesPanel::DutiesPanel(Session& session, QWidget* parent)
    : StudyPanel(session,
                 {"Ask every class",
                  "The same design at every class of the standards that ask for such a design: the highest "
                  "that its checks hold.",
                  "Solving its own class…", "%1 of %2 classes solved", "ask again", "classes"},
                 parent) {}

StudyPanel::Solve DutiesPanel::solve() {
    return [this, job = session_.document.job(), id = session_.document.design().id,
            prepare = preparer(session_.with_faults()),
            library = session_.library()](const CancelFlag& cancel, const Progress& progress) {
        return over_duties(job, id, library, prepare, &cancel, progress)
            .map([this](std::vector<DutyRow>&& rows) -> Show {
                return [this, rows = std::move(rows)] {
                    rows_ = rows;
                    QStringList said;
                    for (const auto& line : duties_words(rows)) said << q(line);
                    const QFontMetricsF metrics(draw::ui_font(8));
                    show_picture(static_cast<int>(draw::duties_lines(rows) * metrics.height()),
                                 "Classes that hold: " + said.join("; "));
                    return said.join(".\n") + ".\n" + QString(draw::duties_key);
                };
            });
    };
}

void DutiesPanel::paint(QPainter& painter, const QRectF& place) {
    draw::paint_duties(painter, place, rows_, session_.theme(), 8);
}

Result<void> DutiesPanel::save(const QString& path) const {
    if (rows_.empty()) return refuse("Every class", "nothing is solved yet", "Ask every class first");
    if (path.endsWith(".csv")) return write_output(path.toStdString(), duties_csv(rows_));
    return draw::write_duties_svg(rows_, session_.document.design().title + ": the classes that it holds",
                                  path.toStdString());
}

} // namespace ng::app
