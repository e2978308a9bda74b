// PDF files by Qt, the same bytes for the same input.
#pragma once
#include "units/result.h"
#include <QPageLayout>
#include <QPdfWriter>
#include <functional>

namespace ng::draw {

/// Opens the writer at 600 dpi, lets `paint` fill it, and takes the date out of what was written. Refuses a
/// file that cannot be written.
Result<void> write_pdf(const std::string& path, const QString& title, const QPageLayout& layout,
                       const std::function<void(QPdfWriter&)>& paint);

} // namespace ng::draw
