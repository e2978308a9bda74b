// What each quantity does by itself: bars from one end of its tolerance to the other, the widest on top.
#pragma once
#include "draw/theme.h"
#include "study/worst.h"
#include <QPainter>

namespace ng::draw {

/// What its bars mean, in words.
constexpr const char* tornado_key =
    "Share of the limit of the check that is nearest to it. Dark: the upper end of the tolerance, light: the "
    "lower; hatched: beyond the limit; open: cannot be built.";

/// Height of so many bars, in units of the letters' height.
double tornado_lines(std::size_t bars);
/// The share of the limit along; what lies beyond the limit is hatched, an end that cannot be built is open:
/// colour alone says nothing. At most `most` bars. `points`: size of its letters, in the painter's units.
void paint_tornado(QPainter& painter, const QRectF& place, const StudyPlan& plan, const Tornado& tornado,
                   std::size_t most, const Theme& theme, double points);
Result<void> write_tornado_svg(const StudyPlan& plan, const Tornado& tornado, const std::string& title,
                               const std::string& path);

} // namespace ng::draw
