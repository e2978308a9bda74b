// What is said of a whole schedule.
#pragma once
#include "schedule/schedule.h"

namespace ng {

/// Checks that are set aside, what the pressure of rubber bodies is good for, which test governs those that
/// follow from one field, levels that nobody has confirmed, and what a schedule is not.
void add_statements(const PreparedDesign& prepared, Schedule& schedule);

} // namespace ng
