// What the spread of a design hangs on: bars of main and total effects, the largest on top.
#pragma once
#include "draw/theme.h"
#include "study/study.h"
#include <QPainter>

namespace ng::draw {

constexpr const char* effects_key = "Shares of the variance of the worst share of a limit. Dark: by itself "
                                    "(main effect). Outline: with all that "
                                    "it does together with others (total effect).";

/// Height of so many bars, in units of the letters' height.
double effects_lines(std::size_t bars);
/// At most `most` bars. `points`: size of its letters, in the painter's units.
void paint_effects(QPainter& painter, const QRectF& place, const StudyPlan& plan, const StudySummary& summary,
                   std::size_t most, const Theme& theme, double points);
/// Refuses where there are none.
Result<void> write_effects_svg(const StudyPlan& plan, const StudySummary& summary, const std::string& title,
                               const std::string& path);

} // namespace ng::draw
