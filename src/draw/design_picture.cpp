#include "draw/design_picture.h"
#include "draw/field_picture.h"
#include "draw/section_picture.h"
#include <algorithm>
#include <cmath>

namespace ng::draw {

namespace {

constexpr double header_px = 30, labels_px = 44; // of part names

/// Stretch of the section that is shown, and its scales.
struct Window {
    double z0_mm, z1_mm;
    View view; ///< of the upper half
};

QImage section_over_field(const PreparedDesign& prepared, const Solution& solution, const Window& window,
                          const QString& title, int width, int height, int finer) {
    const auto theme = Theme::light();
    const auto& built = prepared.built;
    QImage image(width * finer, height * finer, QImage::Format_RGB32);
    image.fill(theme.paper);
    QPainter painter(&image);
    painter.scale(finer, finer);
    painter.setFont(ui_font(10, true));
    painter.setPen(theme.ink);
    const double half = (height - header_px) / 2;
    painter.drawText(QRectF(12, 0, width - 24, header_px), Qt::AlignVCenter, title);
    const auto& view = window.view;
    painter.setClipRect(QRectF(0, header_px, width, half));
    paint_section(painter, built.section, built.parts, view, theme);
    paint_part_labels(painter, Labelled(built), view, QRectF(0, header_px, width, half), theme);

    const double scale = readable_full_scale(solution, window.z0_mm, window.z1_mm, built.view_r_mm);
    View below = view;
    below.axis_y_px = 0;
    below.r_scale_px = -view.r_scale_px;
    const QSize size(width, static_cast<int>(half));
    const auto field = field_image(solution, below, size, scale, theme);
    const auto lines =
        equipotentials(solution, below, QRectF(QPointF(), size), prepared.design.duty.u0() / 10);
    painter.setClipRect(QRectF(0, header_px + half, width, half));
    painter.translate(0, header_px + half);
    painter.drawImage(0, 0, field);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme.field_line, 0.8));
    painter.drawLines(lines);
    paint_field_key(painter, QRectF(width - 170, half - 34, 158, 28), scale, theme);
    painter.end();
    return image;
}

} // namespace

void paint_fields(QPainter& painter, const QRectF& place, const PreparedDesign& prepared,
                  const std::vector<TitledField>& fields, double voltage_kV, const Theme& theme) {
    if (fields.empty()) return;
    constexpr double title_px = 18, gap_px = 4;
    const auto& built = prepared.built;
    double scale = 0;
    for (const auto& f : fields)
        scale = std::max(
            scale, readable_full_scale(*f.solution, built.view_z0_mm, built.view_z1_mm, built.view_r_mm));
    const double each = place.height() / static_cast<double>(fields.size());
    const QSize size(static_cast<int>(place.width()), static_cast<int>(each - title_px - gap_px));
    if (size.width() < 20 || size.height() < 10) return;
    View view; // the axis at its foot
    view.datum_z_mm = built.view_z0_mm;
    view.x_of_datum_px = 0;
    view.z_scale_px = size.width() / (built.view_z1_mm - built.view_z0_mm);
    view.r0_mm = built.view_r0_mm;
    view.axis_y_px = size.height();
    view.r_scale_px = -size.height() / (built.view_r_mm - built.view_r0_mm);
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    double top = place.top();
    for (const auto& f : fields) {
        painter.save();
        painter.translate(place.left(), top);
        painter.setFont(ui_font(9, true));
        painter.setPen(theme.ink);
        painter.drawText(QRectF(0, 0, size.width(), title_px), Qt::AlignVCenter, f.title);
        painter.translate(0, title_px);
        const QRectF box(QPointF(), size);
        painter.setClipRect(box);
        painter.fillRect(box, theme.panel);
        painter.drawImage(0, 0, field_image(*f.solution, view, size, scale, theme));
        paint_parts_of_field(painter, built.section, view, theme);
        painter.setPen(QPen(theme.field_line, 0.8));
        painter.drawLines(equipotentials(*f.solution, view, box, voltage_kV / 10));
        painter.restore();
        top += each;
    }
    paint_field_key(painter, QRectF(place.right() - 170, place.top() + title_px + 4, 158, 28), scale, theme);
    painter.restore();
}

QImage design_picture(const PreparedDesign& prepared, const Solution& solution, int width, int height,
                      int finer) {
    const auto& built = prepared.built;
    const double half = (height - header_px) / 2;
    Window w{built.view_z0_mm, built.view_z1_mm, {}};
    w.view.datum_z_mm = built.datum_z_mm;
    w.view.z_scale_px = width / (built.view_z1_mm - built.view_z0_mm);
    w.view.x_of_datum_px = width - (built.view_z1_mm - built.datum_z_mm) * w.view.z_scale_px;
    w.view.axis_y_px = header_px + half;
    w.view.r0_mm = built.view_r0_mm;
    w.view.r_scale_px = -(half - labels_px) / (built.view_r_mm - built.view_r0_mm);
    return section_over_field(prepared, solution, w,
                              QString("%1 (across at %2 times the scale along)")
                                  .arg(QString::fromStdString(prepared.design.title))
                                  .arg(std::abs(w.view.r_scale_px) / w.view.z_scale_px, 0, 'f', 1),
                              width, height, finer);
}

QImage edge_picture(const PreparedDesign& prepared, const Solution& solution, int width, int height,
                    int finer) {
    const auto& built = prepared.built;
    const double half = (height - header_px) / 2, edge = first_screen_edge_z(built);
    Window w{};
    w.view.r0_mm = built.view_r0_mm;
    w.view.r_scale_px = -(half - labels_px) / (built.view_r_mm - built.view_r0_mm);
    w.view.z_scale_px = -w.view.r_scale_px;
    w.view.datum_z_mm = edge;
    w.view.x_of_datum_px = width / 2.0;
    w.view.axis_y_px = header_px + half;
    w.z0_mm = w.view.z_at(0);
    w.z1_mm = w.view.z_at(width);
    return section_over_field(prepared, solution, w, "Beside the screen edge, one scale along and across",
                              width, height, finer);
}

} // namespace ng::draw
