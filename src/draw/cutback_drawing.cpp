#include "draw/cutback_drawing.h"
#include "draw/section_picture.h"
#include "units/hand_length.h"
#include <algorithm>

namespace ng::draw {
namespace {

constexpr double cable_px = 110, row_px = 15, head_px = 30, foot_px = 18, margin_px = 14;
constexpr double shown_behind_mm = 60,
                 shown_beyond_mm = 12; // of what is furthest from the cable end, and past it

std::vector<const CutMark*> dimensioned(const CutPlan& plan, CableSide side) {
    std::vector<const CutMark*> out;
    for (const auto& m : plan.marks)
        if (m.side == side && m.kind != MarkKind::reference && m.place != plan.datum &&
            std::abs(m.from_datum_mm) > 0.05)
            out.push_back(&m);
    std::stable_sort(out.begin(), out.end(), [](const auto* a, const auto* b) {
        return std::abs(a->from_datum_mm) < std::abs(b->from_datum_mm);
    });
    return out;
}

std::string lengths_of_cores(const CutPlan& plan, CableSide side) {
    const auto& layout = plan.cores[side == CableSide::a ? 0 : 1];
    if (!layout) return {};
    std::string out = "From the crotch:";
    for (std::size_t i = 0; i < layout->core_length_mm.size(); ++i)
        out += (i ? ", " : " ") + layout->phase_labels[i] + " " + both_units(layout->core_length_mm[i]);
    for (const auto& m : plan.marks)
        if (m.side == side && !plan.added_by_core_mm(m).empty())
            return out +
                   ". Distances are those of the shortest; the marks of a longer core lie as much further.";
    return out;
}

void arrow(QPainter& painter, QPointF from, QPointF to) {
    painter.drawLine(from, to);
    const double way = to.x() > from.x() ? 1 : -1;
    painter.drawLine(to, to + QPointF(-5 * way, -2.5));
    painter.drawLine(to, to + QPointF(-5 * way, 2.5));
}

} // namespace

double cutback_height(const CutPlan& plan, CableSide side) {
    return head_px + cable_px + row_px * static_cast<double>(dimensioned(plan, side).size()) + 2 * foot_px;
}

void paint_cutback(QPainter& painter, const QRectF& place, const PreparedDesign& prepared,
                   const CutPlan& plan, CableSide side, const Theme& theme) {
    const auto marks = dimensioned(plan, side);
    const auto* end = plan.find(MarkKind::cable_end, side);
    if (marks.empty() || !end) return;
    const auto whole = whole_end(prepared, plan, cut_back(plan));
    // Of a staggered joint the picture has side B further out.
    const double moved = side == CableSide::b ? whole.side_b_moved_mm : 0;
    double z0 = end->z_mm + moved;
    double z1 = z0;
    for (const auto& m : plan.marks)
        if (m.side == side) {
            z0 = std::min(z0, m.z_mm + moved);
            z1 = std::max(z1, m.z_mm + moved);
        }
    (side == CableSide::a ? z0 : z1) += side == CableSide::a ? -shown_behind_mm : shown_behind_mm;
    (side == CableSide::a ? z1 : z0) += side == CableSide::a ? shown_beyond_mm : -shown_beyond_mm;
    if (!plan.two_sides()) z1 = std::max(z1, whole.picture.z1_mm); // the longest core
    Labelled shown(whole.picture, true);
    shown.z0_mm = z0;
    shown.z1_mm = z1;
    View view;
    view.datum_z_mm = z0;
    view.z_scale_px = (place.width() - 2 * margin_px) / (z1 - z0);
    view.x_of_datum_px = place.left() + margin_px;
    view.axis_y_px = place.top() + head_px + cable_px / 2;
    view.r_scale_px = -cable_px / 2 / whole.picture.r_mm;
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.save();
    painter.setClipRect(QRectF(view.x(z0), place.top(), view.x(z1) - view.x(z0), head_px + cable_px + 4));
    paint_section(painter, shown.section, shown.parts, view, theme);
    painter.restore();
    paint_part_labels(
        painter, shown, view,
        QRectF(place.left() + margin_px, place.top(), place.width() - 2 * margin_px, head_px + cable_px),
        theme);
    painter.setPen(QPen(theme.faint, 0.7, Qt::DashDotLine));
    painter.drawLine(QPointF(view.x(z0), view.axis_y_px), QPointF(view.x(z1), view.axis_y_px));
    painter.setFont(ui_font(8));
    const double below = place.top() + head_px + cable_px,
                 datum_x = view.x(plan.line(side).zero_z_mm + moved);
    const double last = below + row_px * static_cast<double>(marks.size());
    painter.setPen(QPen(theme.accent, 1.2));
    painter.drawLine(QPointF(datum_x, place.top() + head_px), QPointF(datum_x, last + 2));
    double y = below;
    for (const auto* m : marks) {
        y += row_px;
        const double x = view.x(m->z_mm + moved);
        painter.setPen(QPen(theme.faint, 0.6));
        painter.drawLine(QPointF(x, place.top() + head_px), QPointF(x, y));
        painter.setPen(QPen(theme.ink, 0.9));
        arrow(painter, {datum_x, y}, {x, y});
        const auto text = QString::fromStdString(m->label + "  " + both_units(std::abs(m->from_datum_mm))) +
                          QString("  ±%1").arg(m->tolerance_mm);
        const double wide = painter.fontMetrics().horizontalAdvance(text) + 8;
        // On its line where it has room, else past the mark, else before the datum.
        double left = (x + datum_x - wide) / 2;
        if (std::abs(x - datum_x) < wide + 12) {
            left = std::max(x, datum_x) + 4;
            if (left + wide > place.right()) left = std::min(x, datum_x) - wide - 4;
        }
        left = std::clamp(left, place.left(), place.right() - wide);
        const QRectF box(left, y - row_px / 2, wide, row_px - 2);
        painter.fillRect(box, Qt::white);
        painter.drawText(box, Qt::AlignCenter, text);
    }
    painter.setPen(theme.ink);
    const double across = std::abs(view.r_scale_px) / view.z_scale_px;
    auto foot = QString("Datum: %1%2. Drawn across at %3 times the scale along.")
                    .arg(QString::fromStdString(name_of(plan.datum)), !plan.two_sides()      ? ""
                                                                      : side == CableSide::a ? ", side A"
                                                                                             : ", side B")
                    .arg(across, 0, 'f', 1);
    painter.drawText(QRectF(place.left(), last + 4, place.width(), foot_px), Qt::AlignLeft | Qt::AlignVCenter,
                     foot);
    painter.drawText(QRectF(place.left(), last + 4 + foot_px - 4, place.width(), foot_px),
                     Qt::AlignLeft | Qt::AlignVCenter, QString::fromStdString(lengths_of_cores(plan, side)));
    painter.restore();
}

QImage cutback_image(int width, const PreparedDesign& prepared, const CutPlan& plan, CableSide side) {
    constexpr int finer = 3; // pixels for paper
    const auto height = static_cast<int>(cutback_height(plan, side));
    QImage image(QSize(width, height) * finer, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    painter.scale(finer, finer);
    paint_cutback(painter, QRectF(0, 0, width, height), prepared, plan, side, Theme::light());
    return image;
}

} // namespace ng::draw
