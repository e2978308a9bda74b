#include "cable/measurement.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {

Result<MeasuredDiameter> measured_diameter(const std::vector<CaliperReading>& readings,
                                           const std::string& item) {
    if (readings.empty())
        return refuse(item, "it has no caliper reading", "Measure it, or remove the readings");
    double lowest = readings.front().diameter_mm, highest = lowest;
    double sum[2] = {0, 0};
    int count[2] = {0, 0};
    for (const auto& r : readings) {
        if (!std::isfinite(r.diameter_mm) || r.diameter_mm <= 0 || r.diameter_mm > 500)
            return refuse(item, "a caliper reading is not a usable number", "Measure again, or remove it");
        lowest = std::min(lowest, r.diameter_mm);
        highest = std::max(highest, r.diameter_mm);
        sum[r.across] += r.diameter_mm;
        ++count[r.across];
    }
    if (highest > 1.2 * lowest)
        return refuse(item,
                      fmt::format("its caliper readings run from {} to {}",
                                  format_length(lowest, LengthUnit::mm),
                                  format_length(highest, LengthUnit::mm)),
                      "Measure again: readings of one diameter do not differ by a fifth");
    MeasuredDiameter out;
    out.readings = static_cast<int>(readings.size());
    const double mean[2] = {count[0] ? sum[0] / count[0] : sum[1] / count[1],
                            count[1] ? sum[1] / count[1] : sum[0] / count[0]};
    out.mean_mm = (mean[0] + mean[1]) / 2;
    out.ovality_mm = std::abs(mean[0] - mean[1]);
    double squares = 0;
    for (const auto& r : readings) squares += std::pow(r.diameter_mm - mean[r.across], 2);
    const int freedom = out.readings - (count[0] > 0) - (count[1] > 0);
    const double spread = freedom > 0 ? std::sqrt(squares / freedom) : single_reading_spread_mm;
    const double type_a = spread / std::sqrt(out.readings);
    const double caliper = caliper_limit_mm / std::sqrt(3.0), oval = out.ovality_mm / 2 / std::sqrt(3.0);
    out.uncertainty_mm = 2 * std::sqrt(type_a * type_a + caliper * caliper + oval * oval);
    return out;
}

} // namespace ng
