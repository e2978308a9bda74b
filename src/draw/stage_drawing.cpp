#include "draw/stage_drawing.h"
#include "draw/section_picture.h"
#include "plan/whole_end.h"

namespace ng::draw {

void paint_stage(QPainter& painter, const QRectF& place, const PreparedDesign& prepared, const CutPlan& plan,
                 const SheetStep& step, const Theme& theme) {
    const bool whole = has_whole_end(prepared);
    const auto picture =
        whole ? whole_end(prepared, plan, step).picture : stage_picture(prepared, plan, step);
    const double labels = 34, ruler = 30;
    View view;
    view.datum_z_mm = prepared.built.datum_z_mm;
    view.z_scale_px = place.width() / (picture.z1_mm - picture.z0_mm);
    view.x_of_datum_px = place.left() + (prepared.built.datum_z_mm - picture.z0_mm) * view.z_scale_px;
    const double room = place.height() - labels - ruler, foot = place.bottom() - ruler;
    view.axis_y_px = whole ? foot - room / 2 : foot;
    view.r_scale_px = -(whole ? room / 2 : room) / picture.r_mm;
    painter.save();
    painter.setClipRect(place);
    paint_section(painter, picture.section, picture.parts, view, theme);
    paint_part_labels(painter, Labelled(picture, whole), view, place.adjusted(0, 0, 0, -ruler), theme);
    painter.setPen(QPen(theme.faint, 0.8, Qt::DashDotLine));
    painter.drawLine(QPointF(place.left(), view.axis_y_px), QPointF(place.right(), view.axis_y_px));
    // Marks of this step, labels in two rows so that neighbours do not cover each other.
    painter.setFont(ui_font(8));
    double reached[2] = {-1e9, -1e9};
    std::vector<const CutMark*> marks;
    for (const auto& m : plan.marks)
        if (step.shown.contains(m.kind)) marks.push_back(&m);
    std::sort(marks.begin(), marks.end(), [](const auto* a, const auto* b) { return a->z_mm < b->z_mm; });
    for (const auto* m : marks) {
        const double x = view.x(m->z_mm);
        if (x < place.left() || x > place.right()) continue;
        painter.setPen(QPen(theme.accent, 1.4));
        painter.drawLine(QPointF(x, place.top() + labels - 6), QPointF(x, foot + 4));
        const auto text = QString::fromStdString(both_units(std::abs(m->from_datum_mm)));
        const double width = painter.fontMetrics().horizontalAdvance(text) + 6;
        const double left = std::clamp(x - width / 2, place.left(), place.right() - width);
        const int row = left >= reached[0] ? 0 : 1;
        reached[row] = left + width;
        painter.setPen(theme.ink);
        painter.drawText(QRectF(left, foot + 4 + 12 * row, width, 12), Qt::AlignCenter, text);
    }
    painter.restore();
}

QImage stage_image(const QSize& size, const PreparedDesign& prepared, const CutPlan& plan,
                   const SheetStep& step) {
    constexpr int finer = 2; // pixels for paper
    QImage image(size * finer, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    painter.scale(finer, finer);
    paint_stage(painter, QRectF(QPointF(), size), prepared, plan, step, Theme::light());
    return image;
}

} // namespace ng::draw
