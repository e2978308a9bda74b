#include "record/chart.h"
#include <cmath>
#include <numeric>

namespace ng {

IndividualsChart individuals_chart(std::vector<double> values) {
    // 3 / d2 and D4 of ranges of two values: 3 / 1.128 and 3.267.
    constexpr double of_mean = 2.66, of_range = 3.267;
    IndividualsChart out;
    out.values = std::move(values);
    const auto n = out.values.size();
    if (n == 0) return out;
    out.mean = std::accumulate(out.values.begin(), out.values.end(), 0.0) / static_cast<double>(n);
    if (n < 2) return out;
    for (std::size_t i = 1; i < n; ++i) out.ranges.push_back(std::abs(out.values[i] - out.values[i - 1]));
    out.mean_range = std::accumulate(out.ranges.begin(), out.ranges.end(), 0.0) / static_cast<double>(n - 1);
    out.lower = out.mean - of_mean * out.mean_range;
    out.upper = out.mean + of_mean * out.mean_range;
    out.range_upper = of_range * out.mean_range;
    for (std::size_t i = 0; i < n; ++i)
        if (out.values[i] < out.lower || out.values[i] > out.upper) out.outside.push_back(i);
    for (std::size_t i = 1; i < n; ++i)
        if (out.ranges[i - 1] > out.range_upper) out.jumps.push_back(i);
    return out;
}

} // namespace ng
