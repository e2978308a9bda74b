// Two schedules side by side, test by test and check by check.
#pragma once
#include "schedule/schedule.h"

namespace ng {

struct ComparedRow {
    std::string test, check;           ///< titles; `check` empty: the line of the test itself
    std::optional<double> left, right; ///< values; of a test's line its voltage
    std::optional<double> left_limit, right_limit;
    std::string left_status, right_status;
    std::string unit;
};

/// Tests are matched by kind and duration rank, checks by id; what only one side has stands alone.
std::vector<ComparedRow> compare(const Schedule& left, const Schedule& right);

/// RFC 4180.
std::string compared_csv(const std::vector<ComparedRow>& rows, const std::string& left,
                         const std::string& right);

} // namespace ng
