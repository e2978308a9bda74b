// One design at the classes of the standards: a row of cells for each standard.
#pragma once
#include "draw/theme.h"
#include "study/duties.h"
#include <QPainter>

namespace ng::draw {

/// What its cells mean, in words.
constexpr const char* duties_key =
    "Numbers: % of the limit. Hatched: falls short. –: not for this cable or kit. "
    "·: cannot be built. Framed: the class it is asked to hold.";

double duties_lines(const std::vector<DutyRow>& rows); ///< its height in lines of its letters
/// `points`: size of its letters, in the painter's units.
void paint_duties(QPainter& painter, const QRectF& place, const std::vector<DutyRow>& rows,
                  const Theme& theme, double points);
Result<void> write_duties_svg(const std::vector<DutyRow>& rows, const std::string& title,
                              const std::string& path);

} // namespace ng::draw
