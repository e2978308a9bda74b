#include "draw/duties_picture.h"
#include "draw/share_cell.h"
#include "draw/svg.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace ng::draw {
namespace {

constexpr double head_lines = 1.3, class_lines = 1.1, cell_lines = 1.7, gap_lines = 0.6;

std::size_t standards_of(const std::vector<DutyRow>& rows) {
    std::size_t out = 0;
    for (std::size_t k = 0; k < rows.size(); ++k) out += k == 0 || rows[k].standard != rows[k - 1].standard;
    return out;
}

} // namespace

double duties_lines(const std::vector<DutyRow>& rows) {
    return static_cast<double>(standards_of(rows)) * (head_lines + class_lines + cell_lines + gap_lines);
}

void paint_duties(QPainter& painter, const QRectF& place, const std::vector<DutyRow>& rows,
                  const Theme& theme, double points) {
    const auto letters = set_letters(painter, points);
    const auto& metrics = letters.metrics;
    const double line = letters.line, hair = letters.hair;
    std::map<std::string, std::size_t> classes;
    for (const auto& row : rows) ++classes[row.standard];
    std::size_t most = 1;
    for (const auto& [standard, count] : classes) most = std::max(most, count);
    const double width = (place.width() - 2 * hair) / static_cast<double>(most); // classes in line
    double y = place.top();
    for (std::size_t k = 0, at = 0; k < rows.size(); ++k) {
        const auto& row = rows[k];
        if (k > 0 && row.standard == rows[k - 1].standard)
            ++at;
        else {
            if (k > 0) y += (head_lines + class_lines + cell_lines + gap_lines) * line;
            at = 0;
            painter.setPen(theme.faint);
            painter.drawText(
                QRectF(place.left(), y, place.width(), head_lines * line), Qt::AlignLeft,
                metrics.elidedText(QString::fromStdString(row.title), Qt::ElideRight, place.width()));
        }
        const QRectF head(place.left() + hair + width * static_cast<double>(at), y + head_lines * line, width,
                          class_lines * line);
        painter.setPen(row.own ? theme.ink : theme.faint);
        painter.drawText(head, Qt::AlignCenter, QString::fromStdString(fmt::format("{:g} kV", row.class_kV)));
        const QRectF cell(head.left(), head.bottom(), width, cell_lines * line);
        painter.setPen(QPen(theme.line, hair));
        painter.setBrush(theme.panel);
        painter.drawRect(cell);
        if (!row.refusal.empty() || row.above_cable || row.fit == Status::falls_short) {
            painter.setPen(theme.faint);
            painter.drawText(cell, Qt::AlignCenter, row.refusal.empty() ? "–" : "·");
        } else {
            paint_share_cell(painter, cell, row.share, !row.holds(), theme, line);
        }
        if (row.own) {
            painter.setPen(QPen(theme.ink, 3 * hair));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(cell.adjusted(hair, hair, -hair, -hair));
        }
    }
}

Result<void> write_duties_svg(const std::vector<DutyRow>& rows, const std::string& title,
                              const std::string& path) {
    constexpr double line_mm = 4;
    return write_study_svg(path, title, duties_key, duties_lines(rows) * line_mm,
                           [&](QPainter& painter, const QRectF& place, double points) {
                               paint_duties(painter, place, rows, Theme::light(), points);
                           });
}

} // namespace ng::draw
