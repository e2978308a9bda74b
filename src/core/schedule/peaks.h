// Where a test's field is largest.
#pragma once
#include "schedule/schedule.h"

namespace ng {

/// Of every body, the largest first; corners that are not judged are left out. `factor`: on the solution's
/// figures.
std::vector<BodyPeak> body_peaks(const Solution& solution, double factor);

/// In words: along the paths at the end of a DC test, and just after it, each with its error. Needs end
/// states.
std::string end_state_words(const Solution& solution, double factor);

} // namespace ng
