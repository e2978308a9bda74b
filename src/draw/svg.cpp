#include "draw/svg.h"
#include <QFile>
#include <QSvgGenerator>

namespace ng::draw {

Result<void> write_svg(const std::string& path, const std::string& title, const QSizeF& size_mm,
                       const std::function<void(QPainter&)>& paint) {
    constexpr double per_mm = 72 / 25.4; // user units at 72 to the inch
    QFile file(QString::fromStdString(path));
    if (!file.open(QIODevice::WriteOnly))
        return refuse(path, "it could not be written", "Choose another place");
    QSvgGenerator svg;
    svg.setOutputDevice(&file);
    svg.setResolution(72);
    svg.setSize((size_mm * per_mm).toSize());
    svg.setViewBox(QRectF(QPointF(), size_mm * per_mm));
    svg.setTitle(QString::fromStdString(title));
    svg.setDescription("Full size: check the scale bar before it is used.");
    QPainter painter(&svg);
    painter.scale(per_mm, per_mm);
    paint(painter);
    return {};
}

} // namespace ng::draw
