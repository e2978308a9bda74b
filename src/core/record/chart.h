// Individuals and moving-range charts (Shewhart; D. C. Montgomery, Introduction to Statistical Quality
// Control, chapter 6): limits from the data, mean +- 2.66 mean moving range, and 3.267 mean moving range for
// the ranges.
#pragma once
#include <cstddef>
#include <vector>

namespace ng {

struct IndividualsChart {
    std::vector<double> values, ranges; ///< ranges[i] = |values[i + 1] - values[i]|
    double mean = 0, mean_range = 0;
    double lower = 0, upper = 0, range_upper = 0;
    std::vector<std::size_t> outside; ///< values beyond the limits, by index
    std::vector<std::size_t> jumps;   ///< values that lie further from the one before than range_upper
    bool provisional() const { return values.size() < enough; }
    static constexpr std::size_t enough = 20; ///< points from which limits are taken to be known
};

/// Without limits (all 0) of fewer than two values.
IndividualsChart individuals_chart(std::vector<double> values);

} // namespace ng
