#include "draw/design_picture.h"
#include "draw/field_picture.h"
#include "draw/section_picture.h"
#include <QPainterPath>

namespace ng::draw {

QImage design_picture(const PreparedDesign& prepared, const Solution& solution, int width, int height,
                      int finer) {
    const auto theme = Theme::light();
    const auto& built = prepared.built;
    QImage image(width * finer, height * finer, QImage::Format_RGB32);
    image.fill(theme.paper);
    QPainter painter(&image);
    painter.scale(finer, finer);
    painter.setFont(ui_font(10, true));
    painter.setPen(theme.ink);
    const double header = 30, half = (height - header) / 2;
    painter.drawText(QRectF(12, 0, width - 24, header), Qt::AlignVCenter,
                     QString::fromStdString(prepared.design.title));
    View view;
    view.datum_z_mm = built.datum_z_mm;
    view.z_scale_px = width / (built.view_z1_mm - built.view_z0_mm);
    view.x_of_datum_px = width - (built.view_z1_mm - built.datum_z_mm) * view.z_scale_px;
    view.axis_y_px = header + half;
    view.r0_mm = built.view_r0_mm;
    view.r_scale_px = -(half - 44) / (built.view_r_mm - built.view_r0_mm);
    painter.setClipRect(QRectF(0, header, width, half));
    paint_section(painter, built.section, built.parts, view, theme);
    paint_part_labels(painter, built, view, QRectF(0, header, width, half), theme);

    const double scale = readable_full_scale(solution, built.view_z0_mm, built.view_z1_mm, built.view_r_mm);
    View below = view;
    below.axis_y_px = 0;
    below.r_scale_px = -view.r_scale_px;
    const QSize size(width, static_cast<int>(half));
    const auto field = field_image(solution, below, size, scale, theme);
    const auto lines =
        equipotentials(solution, below, QRectF(QPointF(), size), prepared.design.duty.u0() / 10);
    painter.setClipRect(QRectF(0, header + half, width, half));
    painter.translate(0, header + half);
    painter.drawImage(0, 0, field);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme.field_line, 0.8));
    painter.drawLines(lines);
    paint_field_key(painter, QRectF(width - 170, half - 34, 158, 28), scale, theme);
    painter.end();
    return image;
}

} // namespace ng::draw
