#include "app/stages/range_panel.h"
#include "app/model/text.h"
#include "draw/range_picture.h"
#include "fault/fault.h"
#include "io/file.h"
#include <QVBoxLayout>

namespace ng::app {

RangePanel::RangePanel(Session& session, QWidget* parent)
    : StudyPanel(
          session,
          {"Map the range",
           "The same design on thicker and thinner cables: where its kit serves, and which cable a type "
           "test should be made on.",
           "Solving the first cables…", "%1 of %2 cables solved", "map it again", "range"},
          parent) {
    corners_ = new QCheckBox("At the corners of its tolerances too");
    corners_->setToolTip("Each cable with marks, walls and materials where each check comes nearest to its "
                         "limit: some times as long");
    static_cast<QVBoxLayout*>(layout())->insertWidget(1, corners_);
}

RangeGrid RangePanel::grid() const {
    auto out = usual_range(*session_.prepared());
    out.corners = corners_->isChecked();
    return out;
}

StudyPanel::Solve RangePanel::solve() {
    return [this, grid = grid(), job = session_.document.job(), id = session_.document.design().id,
            prepare = preparer(session_.with_faults()),
            library = session_.library()](const CancelFlag& cancel, const Progress& progress) {
        return map_range(job, id, library, prepare, grid, &cancel, progress)
            .map([this](RangeMap&& map) -> Show {
                return [this, map = std::move(map)] {
                    map_ = map;
                    show_picture(300, "Map of the range: " + q(range_words(map)));
                    return q(range_words(map)) + ". " + draw::range_key(map);
                };
            });
    };
}

void RangePanel::paint(QPainter& painter, const QRectF& place) {
    if (map_) draw::paint_range(painter, place, *map_, session_.theme(), 7.5);
}

Result<void> RangePanel::save(const QString& path) const {
    if (!map_) return refuse("The kit over its cables", "nothing is solved yet", "Map the range first");
    if (path.endsWith(".csv")) return write_output(path.toStdString(), range_csv(*map_));
    return draw::write_range_svg(*map_, session_.document.design().title + ": the kit over its cables",
                                 path.toStdString());
}

} // namespace ng::app
