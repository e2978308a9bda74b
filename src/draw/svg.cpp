#include "draw/svg.h"
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
