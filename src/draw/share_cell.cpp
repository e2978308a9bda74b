#include "draw/share_cell.h"
#include <algorithm>
#include <cmath>

namespace ng::draw {

void paint_share_cell(QPainter& painter, const QRectF& cell, double share, bool falls_short,
                      const Theme& theme, double line) {
    const double hair = line / 14;
    auto tone = falls_short ? theme.brick : theme.accent;
    // Mixed, not transparent: not every reader of SVG knows that.
    const double of_tone = falls_short ? 0.9 : 0.08 + 0.42 * std::clamp(share, 0.0, 1.0);
    const auto mixed = [&](int x, int y) { return static_cast<int>(of_tone * x + (1 - of_tone) * y); };
    tone = QColor(mixed(tone.red(), theme.panel.red()), mixed(tone.green(), theme.panel.green()),
                  mixed(tone.blue(), theme.panel.blue()));
    if (falls_short) {
        painter.setPen(QPen(tone, hair));
        // Clipped by hand: QSvgGenerator knows no clip.
        for (double x = cell.left() - cell.height(); x < cell.right(); x += line / 2) {
            const double from = std::clamp((cell.left() - x) / cell.height(), 0.0, 1.0),
                         to = std::clamp((cell.right() - x) / cell.height(), 0.0, 1.0);
            painter.drawLine(QPointF(x + from * cell.height(), cell.bottom() - from * cell.height()),
                             QPointF(x + to * cell.height(), cell.bottom() - to * cell.height()));
        }
    } else {
        painter.fillRect(cell.adjusted(hair, hair, -hair, -hair), tone);
    }
    const auto words = QString::number(std::lround(100 * share));
    QRectF plate(0, 0, QFontMetricsF(painter.font(), painter.device()).horizontalAdvance(words) + line / 3,
                 0.95 * line);
    plate.moveCenter(cell.center());
    if (falls_short) painter.fillRect(plate, theme.panel);
    painter.setPen(theme.ink);
    painter.drawText(plate, Qt::AlignCenter, words);
}

} // namespace ng::draw
