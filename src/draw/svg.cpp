#include "draw/svg.h"
#include "draw/theme.h"
#include "io/file.h"
#include <QBuffer>
#include <QPainter>
#include <QSvgGenerator>
#include <QSvgRenderer>

namespace ng::draw {

Result<void> write_svg(const std::string& path, const std::string& title, const QSizeF& size_mm,
                       const std::function<void(QPainter&)>& paint) {
    constexpr double per_mm = 72 / 25.4; // user units at 72 to the inch
    QBuffer buffer;
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setResolution(72);
    svg.setSize((size_mm * per_mm).toSize());
    svg.setViewBox(QRectF(QPointF(), size_mm * per_mm));
    svg.setTitle(QString::fromStdString(title).toHtmlEscaped()); // it is written as it is given
    svg.setDescription("Full size: check the scale bar before it is used.");
    {
        QPainter painter(&svg);
        painter.scale(per_mm, per_mm);
        paint(painter);
    }
    return write_output(path, buffer.data().toStdString());
}

Result<void>
write_study_svg(const std::string& path, const std::string& title, const QString& key, double high_mm,
                const std::function<void(QPainter&, const QRectF& place, double points)>& paint) {
    constexpr double wide_mm = 180, fine = 0.1; // letters of whole points are set evenly
    constexpr double top = 220, foot = 40, side = 60;
    const QSizeF size(wide_mm, high_mm + fine * (top + foot));
    return write_svg(path, title, size, [&](QPainter& painter) {
        painter.scale(fine, fine);
        const QRectF all(QPointF(), size / fine);
        painter.fillRect(all, Qt::white);
        auto font = paper_font(8);
        font.setHintingPreference(QFont::PreferNoHinting);
        font.setPointSizeF(34);
        painter.setFont(font);
        painter.setPen(Theme::light().ink);
        painter.drawText(QRectF(80, 40, all.width() - 160, 60), Qt::AlignLeft | Qt::AlignVCenter,
                         QString::fromStdString(title));
        font.setPointSizeF(25);
        painter.setFont(font);
        painter.drawText(QRectF(80, 105, all.width() - 160, 110), Qt::AlignLeft | Qt::TextWordWrap, key);
        paint(painter, all.adjusted(side, top, -side, -foot), 26);
    });
}

QImage svg_image(const QByteArray& svg, double pixels) {
    QSvgRenderer renderer(svg);
    if (!renderer.isValid()) return {};
    QImage image(renderer.defaultSize() * pixels, QImage::Format_ARGB32_Premultiplied);
    image.setDevicePixelRatio(pixels);
    image.fill(Qt::transparent);
    QPainter painter(&image);
    renderer.render(&painter, QRectF(QPointF(), renderer.defaultSize()));
    return image;
}

} // namespace ng::draw
