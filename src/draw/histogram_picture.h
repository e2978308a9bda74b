// Builds by their worst share of a limit, with the limit as a line.
#pragma once
#include "draw/theme.h"
#include "units/result.h"
#include <QPainter>
#include <vector>

namespace ng::draw {

constexpr const char* histogram_key =
    "Builds by their worst share of a limit; each build once. Hatched: beyond the limit.";

/// What lies beyond the limit is hatched: colour alone says nothing. `points`: size of its letters, in the
/// painter's units.
void paint_histogram(QPainter& painter, const QRectF& place, const std::vector<double>& shares,
                     const Theme& theme, double points);
/// Refuses where there is nothing to draw, and a file that cannot be written.
Result<void> write_histogram_svg(const std::vector<double>& shares, const std::string& title,
                                 const std::string& path);

} // namespace ng::draw
