#include "draw/document.h"
#include "draw/pdf.h"
#include "draw/theme.h"
#include "io/file.h"
#include <QAbstractTextDocumentLayout>
#include <QBuffer>
#include <QPainter>
#include <QTextDocument>
#include <memory>

namespace ng::draw {
namespace {

constexpr double css_px_per_mm = 96 / 25.4;
constexpr double paper_margin_mm = 16, foot_mm = 8, head_mm = 7, chunk_gap_mm = 2.5;

QString attribute(const QString& css_class) {
    return css_class.isEmpty() ? QString() : QString(" class=\"%1\"").arg(css_class);
}

QString attributes(const Document::Data& data) {
    QString out;
    for (const auto& [name, value] : data)
        out += QString(" data-%1=\"%2\"").arg(name, Document::escaped(value));
    return out;
}

QString style(bool large) {
    const auto theme = Theme::light();
    const double size = large ? 14 : 10;
    return QString("body { font-family: Inter, sans-serif; font-size: %1pt; color: %2; }"
                   "h1 { font-size: %3pt; } h2 { font-size: %4pt; color: %5; } h3 { font-size: %6pt; }"
                   "table { border-collapse: collapse; } td, th { font-size: %10pt; padding: 2px 6px; "
                   "text-align: left; "
                   "vertical-align: top; }"
                   "th { color: %7; font-weight: normal; } .faint { color: %7; } .caution { color: %8; "
                   "font-weight: bold; }"
                   ".short { color: %9; font-weight: bold; }")
        .arg(size)
        .arg(theme.ink.name())
        .arg(size * 1.9)
        .arg(size * 1.35)
        .arg(theme.accent.name())
        .arg(size * 1.12)
        .arg(theme.faint.name(), theme.ochre.name(), theme.brick.name())
        .arg(large ? size : size * 0.84);
}

} // namespace

void Document::heading(int level, const QString& text, const Data& data) {
    body() += QString("<h%1%2>%3</h%1>\n").arg(level).arg(attributes(data), escaped(text));
}

void Document::paragraph(const QString& text, const QString& css_class) {
    body() += QString("<p%1>%2</p>\n").arg(attribute(css_class), escaped(text));
}

void Document::list(const std::vector<QString>& items, const QString& css_class) {
    body() += QString("<ul%1>\n").arg(attribute(css_class));
    for (const auto& item : items) body() += "<li>" + escaped(item) + "</li>\n";
    body() += "</ul>\n";
}

void Document::table(const std::vector<QString>& head, const std::vector<std::vector<QString>>& rows,
                     const QString& css_class, const std::vector<Data>& row_data) {
    const auto theme = Theme::light();
    body() += QString("<table border=\"2\" cellspacing=\"0\" cellpadding=\"3\" width=\"100%\" "
                      "style=\"border-collapse: collapse; border-color: %1\"%2>\n")
                  .arg(theme.faint.name(), attribute(css_class));
    if (!head.empty()) {
        body() += "<tr>";
        for (const auto& cell : head) body() += "<th>" + escaped(cell) + "</th>";
        body() += "</tr>\n";
    }
    std::size_t number = 0;
    for (const auto& row : rows) {
        body() += "<tr" + (number < row_data.size() ? attributes(row_data[number]) : QString()) + ">";
        ++number;
        for (const auto& cell : row) body() += "<td>" + escaped(cell) + "</td>";
        body() += "</tr>\n";
    }
    body() += "</table>\n";
}

void Document::picture(const QImage& image, double width_mm, const QString& what) {
    const auto name = QString("picture-%1.png").arg(pictures_.size() + 1);
    pictures_.push_back({name, image, width_mm});
    body() += QString("<p><img src=\"%1\" alt=\"%2\" width=\"%3\"/></p>\n")
                  .arg(name, escaped(what))
                  .arg(qRound(width_mm * css_px_per_mm));
}

void Document::keep_together() {
    chunks_.emplace_back();
}

void Document::page_break() {
    chunks_.push_back({{}, true});
}

QString Document::page(const QString& body, bool for_paper) const {
    const QString width = for_paper ? "" : "<style>body { max-width: 190mm; margin: 10mm auto; }</style>";
    return QString("<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>%1</title>\n"
                   "<style>%2</style>%3</head>\n<body>\n%4</body></html>\n")
        .arg(escaped(title_), style(large_), width, body);
}

QString Document::html() const {
    QString body;
    if (!warning_.isEmpty())
        body = QString("<p class=\"short\" role=\"alert\">%1</p>\n").arg(escaped(warning_));
    for (const auto& chunk : chunks_) body += chunk.html;
    for (const auto& picture : pictures_) {
        QByteArray png;
        QBuffer buffer(&png);
        buffer.open(QIODevice::WriteOnly);
        picture.image.save(&buffer, "PNG");
        body.replace("src=\"" + picture.name + "\"",
                     "src=\"data:image/png;base64," + QString::fromLatin1(png.toBase64()) + "\"");
    }
    return page(body, false);
}

Result<void> Document::write_html(const std::string& path) const {
    return write_output(path, html().toStdString());
}

Result<void> Document::write_pdf(const std::string& path) const {
    const QPageLayout layout(QPageSize(QPageSize::A4), QPageLayout::Portrait,
                             QMarginsF(paper_margin_mm, paper_margin_mm, paper_margin_mm, paper_margin_mm),
                             QPageLayout::Millimeter);
    return draw::write_pdf(path, title_, layout, [&](QPdfWriter& writer) {
        const double per_mm = writer.resolution() / 25.4;
        const double head = warning_.isEmpty() ? 0 : head_mm * per_mm;
        const QSizeF room(writer.width(), writer.height() - foot_mm * per_mm - head);
        // Every chunk is laid out by itself; what does not fit below the last one begins a page.
        struct Placed {
            std::unique_ptr<QTextDocument> text;
            int page = 0;
            double top = 0;
        };
        std::vector<Placed> placed;
        int page_number = 0;
        double used = 0;
        for (const auto& chunk : chunks_) {
            if (chunk.html.isEmpty() && !chunk.new_page) continue;
            auto text = std::make_unique<QTextDocument>();
            text->setDefaultFont(paper_font(large_ ? 14 : 10));
            text->documentLayout()->setPaintDevice(&writer);
            text->setDocumentMargin(0);
            for (const auto& picture : pictures_)
                if (chunk.html.contains(picture.name))
                    text->addResource(QTextDocument::ImageResource, QUrl(picture.name), picture.image);
            text->setHtml(page(chunk.html, true));
            text->setTextWidth(room.width());
            const double height = text->size().height();
            if (used > 0) used += chunk_gap_mm * per_mm;
            if (used > 0 && (chunk.new_page || used + height > room.height())) {
                ++page_number;
                used = 0;
            }
            if (height > room.height())
                text->setPageSize(room); // longer than a page: it begins one and flows on
            placed.push_back({std::move(text), page_number, used});
            if (height > room.height()) {
                const int pages = placed.back().text->pageCount();
                const double last = placed.back().text->size().height() - (pages - 1) * room.height();
                page_number += pages - 1;
                used = last;
            } else {
                used += height;
            }
        }
        const int pages = page_number + 1;
        QPainter painter(&writer);
        QAbstractTextDocumentLayout::PaintContext context;
        context.palette.setColor(QPalette::Text, Theme::light().ink);
        for (int i = 0; i < pages; ++i) {
            if (i > 0) writer.newPage();
            for (const auto& piece : placed) {
                const int of = std::max(1, piece.text->pageCount());
                const bool flows = piece.text->pageSize().height() > 0 && of > 1;
                if (i < piece.page || i >= piece.page + (flows ? of : 1)) continue;
                const double skipped = (i - piece.page) * room.height();
                painter.save();
                painter.translate(0, head + (flows ? -skipped : piece.top));
                context.clip = flows ? QRectF(0, skipped, room.width(), room.height()) : QRectF();
                if (flows) painter.setClipRect(context.clip);
                piece.text->documentLayout()->draw(&painter, context);
                painter.restore();
            }
            if (head > 0) {
                const QFont font = paper_font(10, true);
                painter.setFont(font);
                painter.setPen(Theme::light().brick);
                const QRectF line(0, 0, room.width(), 5 * per_mm);
                painter.drawText(
                    line, Qt::AlignLeft,
                    QFontMetricsF(font, &writer).elidedText(warning_, Qt::ElideRight, line.width()));
            }
            painter.setFont(paper_font(8));
            painter.setPen(Theme::light().faint);
            const QRectF foot(0, head + room.height() + 2 * per_mm, room.width(), 5 * per_mm);
            painter.drawText(foot, Qt::AlignLeft, title_);
            painter.drawText(foot, Qt::AlignRight, QString("%1 / %2").arg(i + 1).arg(pages));
        }
    });
}

} // namespace ng::draw
