#include "draw/template_picture.h"
#include "draw/pdf.h"
#include "draw/svg.h"
#include "draw/theme.h"
#include "units/hand_length.h"
#include <QPainter>

namespace ng::draw {
namespace {

constexpr double label_every_mm = 70; // a label is repeated round the cable

/// Drawn in a space of 1/100 of its size: pixel sizes are whole numbers.
QFont large_font(bool bold = false) {
    auto font = paper_font(8, bold);
    font.setPixelSize(100);
    return font;
}

/// Text of this height in a painter that counts millimetres; `turned`: reading upwards.
void words(QPainter& painter, QPointF at, double height_mm, const QString& text, bool turned = false,
           bool bold = false) {
    painter.save();
    painter.translate(at);
    if (turned) painter.rotate(-90);
    painter.scale(height_mm / 100, height_mm / 100);
    painter.setFont(large_font(bold));
    painter.drawText(QPointF(0, 0), text);
    painter.restore();
}

double width_of(const QString& text, double height_mm) {
    return QFontMetricsF(large_font()).horizontalAdvance(text) * height_mm / 100;
}

/// The piece of a strip between these places, its upper left corner at the origin.
void paint_piece(QPainter& painter, const TemplateStrip& strip, const TemplateTile& t, const Theme& theme) {
    const double length = t.to_mm - t.from_mm, width = t.across_to_mm - t.across_from_mm;
    painter.setPen(QPen(theme.ink, 0.25));
    const bool first = t.from_mm == 0, last = t.to_mm >= strip.length_mm - 1e-9;
    const bool top = t.across_from_mm == 0, bottom = t.across_to_mm >= strip.wrap_mm - 1e-9;
    if (top) painter.drawLine(QPointF(0, 0), QPointF(length, 0));
    if (bottom) painter.drawLine(QPointF(0, width), QPointF(length, width));
    if (first) painter.drawLine(QPointF(0, 0), QPointF(0, width));
    if (last) painter.drawLine(QPointF(length, 0), QPointF(length, width));
    for (const auto& line : strip.lines) {
        const double x = line.along_mm - t.from_mm;
        if (x < 0 || x > length) continue;
        painter.setPen(QPen(theme.ink, line.cut ? 0.35 : 0.25, line.cut ? Qt::SolidLine : Qt::DashLine));
        painter.drawLine(QPointF(x, 0), QPointF(x, width));
        const auto label = QString::fromStdString(line.label);
        const double need = width_of(label, 2.6) + 4;
        painter.setPen(theme.ink);
        for (double y = width; y >= std::min(need, width); y -= std::max(label_every_mm, need))
            words(painter, {x - 0.8, y - 2}, 2.6, label, true);
    }
    for (const auto& gap : strip.breaks) {
        const double x = gap.along_mm - t.from_mm;
        if (x < 0 || x > length) continue;
        painter.setPen(QPen(theme.ink, 0.25));
        for (const double shift : {-0.9, 0.9}) { // a broken edge: two zigzag lines
            QPolygonF zigzag;
            int turn = 0;
            for (double y = 0; y < width; y += 6, ++turn)
                zigzag << QPointF(x + shift + (turn % 2 ? 1.5 : -1.5), y);
            zigzag << QPointF(x + shift, width);
            painter.drawPolyline(zigzag);
        }
        const auto text = QString("here %1 are left out: measure them")
                              .arg(QString::fromStdString(both_units(gap.left_out_mm)));
        const double need = width_of(text, 2.6) + 4;
        for (double y = width; y >= std::min(need, width); y -= std::max(label_every_mm, need))
            words(painter, {x - 3.5, y - 2}, 2.6, text, true);
    }
    // Registration crosses stand at the same place of the strip on both sheets that share them.
    painter.setPen(QPen(theme.ink, 0.15));
    const auto cross = [&](double x, double y) {
        painter.drawLine(QPointF(x - 3, y), QPointF(x + 3, y));
        painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 3));
        painter.drawEllipse(QPointF(x, y), 1.5, 1.5);
    };
    const double half = template_overlap_mm / 2;
    for (const double y : {0.25 * width, 0.75 * width}) {
        if (!first) cross(half, y);
        if (!last) cross(length - half, y);
    }
    for (const double x : {0.25 * length, 0.75 * length}) {
        if (!top) cross(x, half);
        if (!bottom) cross(x, width - half);
    }
}

void paint_scale_bars(QPainter& painter, QPointF at, const Theme& theme) {
    painter.setPen(QPen(theme.ink, 0.3));
    const auto bar = [&](double y, double length, int parts, const QString& name) {
        painter.drawLine(at + QPointF(0, y), at + QPointF(length, y));
        for (int i = 0; i <= parts; ++i)
            painter.drawLine(at + QPointF(length * i / parts, y - (i % parts ? 1 : 1.8)),
                             at + QPointF(length * i / parts, y));
        words(painter, at + QPointF(length + 2, y), 2.8, name);
    };
    bar(0, scale_bar_mm, 10, "100 mm");
    bar(5, 4 * mm_per_inch, 4, "4 in");
}

void paint_sheet(QPainter& painter, const TemplateStrip& strip, const TemplateTile& t,
                 const std::string& title, const Theme& theme) {
    painter.translate(template_margin_mm, template_margin_mm);
    painter.setPen(theme.ink);
    words(painter, {0, 4}, 4,
          QString("%1: %2").arg(QString::fromStdString(title), QString::fromStdString(strip.title)), false,
          true);
    words(painter, {0, 9}, 2.8,
          QString("Sheet %1 of %2. Lay the left edge to the %3; once round it is %4 (diameter %5).")
              .arg(t.number)
              .arg(t.of)
              .arg(QString::fromStdString(strip.start),
                   QString::fromStdString(format_length(strip.wrap_mm, LengthUnit::mm)),
                   QString::fromStdString(format_length(strip.diameter_mm, LengthUnit::mm))));
    words(painter, {0, 13.2}, 2.8,
          t.of > 1 ? "Print at 100 %, check both bars with a rule, lay the crosses of neighbouring sheets "
                     "over each other."
                   : "Print at 100 % and check both bars with a rule before it is used.");
    paint_scale_bars(painter, {0, 17.5}, theme);
    painter.translate(0, template_header_mm);
    paint_piece(painter, strip, t, theme);
}

} // namespace

Result<void> write_template_pdf(const std::vector<TemplateStrip>& strips, const Paper& paper,
                                const std::string& title, const std::string& path) {
    const auto theme = Theme::light();
    const QPageSize size(QSizeF(paper.height_mm, paper.width_mm), QPageSize::Millimeter,
                         QString::fromStdString(paper.name), QPageSize::ExactMatch);
    const QPageLayout layout(size, QPageLayout::Landscape, QMarginsF(0, 0, 0, 0));
    return write_pdf(path, QString::fromStdString(title), layout, [&](QPdfWriter& writer) {
        QPainter painter(&writer);
        const double per_mm = writer.resolution() / mm_per_inch;
        bool first = true;
        const auto broken = broken_strips(strips);
        for (const auto& t : tile(broken, paper)) {
            if (!first) writer.newPage();
            first = false;
            painter.save();
            painter.scale(per_mm, per_mm);
            paint_sheet(painter, broken[t.strip], t, title, theme);
            painter.restore();
        }
    });
}

Result<void> write_template_svg(const std::vector<TemplateStrip>& strips, const std::string& title,
                                const std::string& path) {
    constexpr double margin = 10, gap = 14;
    QSizeF size(margin * 2 + scale_bar_mm + 20, margin * 2 + 14);
    for (const auto& strip : strips) {
        size.setWidth(std::max(size.width(), strip.length_mm + 2 * margin));
        size.setHeight(size.height() + strip.wrap_mm + gap);
    }
    return write_svg(path, title, size, [&](QPainter& painter) {
        const auto theme = Theme::light();
        paint_scale_bars(painter, {margin, margin}, theme);
        double y = margin + 14;
        for (std::size_t i = 0; i < strips.size(); ++i) {
            painter.save();
            painter.setPen(theme.ink);
            words(painter, {margin, y + 3}, 3.2,
                  QString::fromStdString(strips[i].title + ", from " + strips[i].start), false, true);
            painter.translate(margin, y + 6);
            paint_piece(painter, strips[i], {i, 0, strips[i].length_mm, 0, strips[i].wrap_mm, 1, 1}, theme);
            painter.restore();
            y += strips[i].wrap_mm + gap;
        }
    });
}

} // namespace ng::draw
