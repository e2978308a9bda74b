// Drawings as SVG at full size, in millimetres.
#pragma once
#include "units/result.h"
#include <QPainter>
#include <QSizeF>
#include <functional>

namespace ng::draw {

/// `paint` draws in millimetres from the upper left corner. Refuses a file that cannot be written.
Result<void> write_svg(const std::string& path, const std::string& title, const QSizeF& size_mm,
                       const std::function<void(QPainter&)>& paint);

} // namespace ng::draw
