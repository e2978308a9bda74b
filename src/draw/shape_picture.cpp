#include "draw/shape_picture.h"
#include "draw/svg.h"
#include "draw/theme.h"
#include <QPainter>
#include <QPainterPath>
#include <algorithm>

namespace ng::draw {

Result<void> write_profile_svg(const ShapeProfile& profile, const std::string& title,
                               const std::string& path) {
    constexpr double margin = 12;
    double length = 0, radius = 0;
    for (const auto& p : profile.smooth) {
        length = std::max(length, p.z);
        radius = std::max(radius, p.r);
    }
    const QSizeF size_mm(std::max(length, 60.0) + 2 * margin, radius + 2 * margin + 10);
    return write_svg(path, title, size_mm, [&](QPainter& painter) {
        const auto theme = Theme::light();
        auto curve = [&](const std::vector<Point>& points, const QPen& pen) {
            QPainterPath line;
            for (std::size_t i = 0; i < points.size(); ++i) {
                const QPointF at(margin + points[i].z, margin + radius - points[i].r);
                i == 0 ? line.moveTo(at) : line.lineTo(at);
            }
            painter.setPen(pen);
            painter.drawPath(line);
        };
        painter.setPen(QPen(theme.faint, 0.2, Qt::DashDotLine));
        painter.drawLine(QPointF(margin - 5, margin + radius),
                         QPointF(margin + length + 5, margin + radius)); // cable axis
        curve(profile.smooth, QPen(theme.accent, 0.35));
        curve(profile.straight, QPen(theme.ink, 0.2, Qt::DashLine));
        painter.setPen(QPen(theme.ink, 0.3));
        const double y = margin + radius + 8;
        painter.drawLine(QPointF(margin, y), QPointF(margin + 50, y));
        for (const double x : {0.0, 50.0})
            painter.drawLine(QPointF(margin + x, y - 1.5), QPointF(margin + x, y + 1.5));
        auto font = ui_font(8);
        font.setPointSizeF(3);
        painter.setFont(font);
        painter.drawText(QPointF(margin + 52, y + 1), "50 mm");
        painter.drawText(QPointF(margin, margin - 5), QString::fromStdString(title));
    });
}

} // namespace ng::draw
