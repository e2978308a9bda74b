// The map of a range: cells by their share of the limit, with the job's cables on it.
#pragma once
#include "draw/theme.h"
#include "study/range.h"
#include <QPainter>

namespace ng::draw {

/// What its cells mean, in words.
QString range_key(const RangeMap& map);

/// What serves is toned by its share of the limit, with a mark where it does so as designed only; what falls
/// short is hatched, what does not fit or cannot be built is empty: colour alone says nothing. `points`: size
/// of its letters, in the painter's units.
void paint_range(QPainter& painter, const QRectF& place, const RangeMap& map, const Theme& theme,
                 double points);
Result<void> write_range_svg(const RangeMap& map, const std::string& title, const std::string& path);

} // namespace ng::draw
