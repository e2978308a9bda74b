// Drawings as SVG at full size, in millimetres.
#pragma once
#include "units/result.h"
#include <QByteArray>
#include <QImage>
#include <QPainter>
#include <QSizeF>
#include <functional>

namespace ng::draw {

/// `paint` draws in millimetres from the upper left corner. Refuses a file that cannot be written.
Result<void> write_svg(const std::string& path, const std::string& title, const QSizeF& size_mm,
                       const std::function<void(QPainter&)>& paint);

/// The drawing of a study: its title, what its marks mean, and `paint` in the place below, in tenths of
/// millimetres, of `high_mm`. `points`: what its letters are painted at.
Result<void> write_study_svg(const std::string& path, const std::string& title, const QString& key,
                             double high_mm,
                             const std::function<void(QPainter&, const QRectF& place, double points)>& paint);

/// An SVG at its own size, with so many pixels to each of its units; empty: it is none.
QImage svg_image(const QByteArray& svg, double pixels);

} // namespace ng::draw
