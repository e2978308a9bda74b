// Values between the rows of a table.
#pragma once
#include <array>
#include <utility>

namespace ng::closedform {

/// Linear between rows of rising x, level beyond the first and the last.
template <std::size_t N> double in_table(const std::array<std::pair<double, double>, N>& rows, double x) {
    if (x <= rows.front().first) return rows.front().second;
    for (std::size_t i = 1; i < N; ++i)
        if (x <= rows[i].first) {
            const double f = (x - rows[i - 1].first) / (rows[i].first - rows[i - 1].first);
            return rows[i - 1].second + f * (rows[i].second - rows[i - 1].second);
        }
    return rows.back().second;
}

} // namespace ng::closedform
