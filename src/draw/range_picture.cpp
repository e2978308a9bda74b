#include "draw/range_picture.h"
#include "draw/share_cell.h"
#include "draw/svg.h"
#include "units/quantity.h"
#include <algorithm>

namespace ng::draw {

void paint_range(QPainter& painter, const QRectF& place, const RangeMap& map, const Theme& theme,
                 double points) {
    const auto letters = set_letters(painter, points);
    const double line = letters.line;
    const QRectF plot = place.adjusted(3.2 * line, 0.4 * line, -0.6 * line, -2.6 * line);
    const auto columns = map.diameters_mm.size(), rows = map.thicknesses_mm.size();
    const double width = plot.width() / static_cast<double>(columns),
                 height = plot.height() / static_cast<double>(rows);
    const auto box = [&](std::size_t row, std::size_t column) {
        return QRectF(plot.left() + width * static_cast<double>(column),
                      plot.bottom() - height * static_cast<double>(row + 1), width, height);
    };
    const double hair = line / 14;
    std::vector<std::pair<QRectF, bool>> corners; // marked; whether something fails there
    for (std::size_t row = 0; row < rows; ++row)
        for (std::size_t column = 0; column < columns; ++column) {
            const auto& cell = map.at(row, column);
            const QRectF b = box(row, column);
            painter.setPen(QPen(theme.line, hair));
            painter.setBrush(theme.panel);
            painter.drawRect(b);
            if (!cell.refusal.empty() || cell.fit == Status::falls_short) {
                painter.setPen(theme.faint);
                painter.drawText(b, Qt::AlignCenter, cell.refusal.empty() ? "–" : "·");
                continue;
            }
            paint_share_cell(painter, b, cell.share, cell.status == Status::falls_short, theme, line);
            const auto holds = cell.serves_at_corners();
            if (cell.serves() && holds != true) corners.emplace_back(b, holds.has_value());
        }
    const auto along = [](const std::vector<double>& at, double v) { // in cells, from the middle of the first
        return (v - at.front()) / (at.back() - at.front()) * static_cast<double>(at.size() - 1) + 0.5;
    };
    if (map.to_test) {
        painter.setPen(QPen(theme.ink, 3 * hair));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(
            box(*map.to_test / columns, *map.to_test % columns).adjusted(hair, hair, -hair, -hair));
    }
    painter.setPen(QPen(theme.brick, hair));
    for (const auto& [b, fails] : corners) {
        painter.setBrush(fails ? theme.brick : theme.panel);
        const double leg = 0.7 * line;
        const QPointF corner = b.bottomRight() - QPointF(3 * hair, 3 * hair);
        painter.drawPolygon(QPolygonF{corner, corner - QPointF(leg, 0), corner - QPointF(0, leg)});
    }
    std::vector<QRectF> labels;
    for (const auto& cable : map.cables) {
        const double x = along(map.diameters_mm, cable.diameter_mm),
                     y = along(map.thicknesses_mm, cable.thickness_mm);
        if (x < 0 || y < 0 || x > static_cast<double>(columns) || y > static_cast<double>(rows)) continue;
        const QPointF at(plot.left() + width * x, plot.bottom() - height * y);
        painter.setPen(QPen(theme.ink, 1.5 * hair));
        painter.setBrush(cable.own ? theme.ink : theme.paper);
        painter.drawEllipse(at, 0.3 * line, 0.3 * line);
        const auto id = QString::fromStdString(cable.id);
        const double wide = letters.metrics.horizontalAdvance(id) + line / 2;
        QRectF label;
        for (const auto& [dx, dy] :
             {QPointF(0.4 * line, -1.3 * line), QPointF(0.4 * line, 0.3 * line),
              QPointF(-0.4 * line - wide, -1.3 * line), QPointF(-0.4 * line - wide, 0.3 * line),
              QPointF(-wide / 2, -2.3 * line), QPointF(-wide / 2, 1.3 * line)}) {
            label = QRectF(at.x() + dx, at.y() + dy, wide, line);
            if (plot.contains(label) && std::none_of(labels.begin(), labels.end(), [&](const QRectF& other) {
                    return other.intersects(label);
                }))
                break;
        }
        labels.push_back(label);
        painter.fillRect(label, theme.paper);
        painter.drawText(label, Qt::AlignCenter, id);
    }
    painter.setPen(theme.faint);
    for (std::size_t column = 0; column<columns; column += columns> 6 ? 2 : 1)
        painter.drawText(QRectF(box(0, column).left() - width / 2, plot.bottom() + line / 6, 2 * width, line),
                         Qt::AlignCenter,
                         QString::fromStdString(format_figures(map.diameters_mm[column], 3)));
    for (std::size_t row = 0; row<rows; row += rows> 8 ? 2 : 1)
        painter.drawText(QRectF(place.left() + line, box(row, 0).center().y() - line / 2, 2 * line, line),
                         Qt::AlignRight | Qt::AlignVCenter,
                         QString::fromStdString(format_figures(map.thicknesses_mm[row], 2)));
    painter.drawText(QRectF(plot.left(), plot.bottom() + 1.3 * line, plot.width(), line), Qt::AlignCenter,
                     "over the insulation, mm");
    painter.save();
    painter.translate(place.left() + line / 2, plot.center().y());
    painter.rotate(-90);
    painter.drawText(QRectF(-plot.height() / 2, -line / 2, plot.height(), line), Qt::AlignCenter,
                     "insulation, mm");
    painter.restore();
}

QString range_key(const RangeMap& map) {
    return QString("Numbers: % of the limit%1. Hatched: falls short.%2 –: the kit does not fit. ·: cannot be "
                   "built. Framed: to type-test.")
        .arg(map.corners > 0 ? ", the worst of all corners" : "",
             map.corners > 0 ? " Marked in its corner: holds as designed only; hollow: not all of its "
                               "corners can be built."
                             : "");
}

Result<void> write_range_svg(const RangeMap& map, const std::string& title, const std::string& path) {
    constexpr double high_mm = 114;
    return write_study_svg(path, title, QString::fromStdString(range_words(map)) + ". " + range_key(map),
                           high_mm, [&](QPainter& painter, const QRectF& place, double points) {
                               paint_range(painter, place, map, Theme::light(), points);
                           });
}

} // namespace ng::draw
