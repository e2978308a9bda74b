#include "units/hand_length.h"
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace ng {
namespace {

constexpr double least_measured_mm = 10; ///< shorter ones are set on a tool, not measured along the cable
constexpr int parts_of_an_inch = 16;

} // namespace

std::string inch_fraction(double value_mm) {
    const int all = static_cast<int>(std::lround(std::abs(value_mm) / mm_per_inch * parts_of_an_inch));
    const int whole = all / parts_of_an_inch, rest = all % parts_of_an_inch,
              divisor = std::gcd(rest, parts_of_an_inch);
    const std::string sign = value_mm < 0 && all > 0 ? "-" : "";
    if (rest == 0) return fmt::format("{}{} in", sign, whole);
    const auto fraction = fmt::format("{}/{}", rest / divisor, parts_of_an_inch / divisor);
    return whole == 0 ? fmt::format("{}{} in", sign, fraction)
                      : fmt::format("{}{} {} in", sign, whole, fraction);
}

std::string hand_length(double value_mm, LengthUnit unit) {
    const bool measured = std::abs(value_mm) >= least_measured_mm || value_mm == 0;
    if (unit == LengthUnit::inch) return measured ? inch_fraction(value_mm) : format_length(value_mm, unit);
    return measured ? fmt::format("{:g} mm", std::round(2 * value_mm) / 2 + 0.0)
                    : fmt::format("{:g} mm", std::round(100 * value_mm) / 100 + 0.0);
}

std::string both_units(double value_mm) {
    return hand_length(value_mm, LengthUnit::mm) + " / " + hand_length(value_mm, LengthUnit::inch);
}

double hand_snapped(double value_mm, LengthUnit unit) {
    const bool measured = std::abs(value_mm) >= least_measured_mm;
    const double step = unit == LengthUnit::mm ? measured ? 0.5 : 0.1
                        : measured             ? mm_per_inch / parts_of_an_inch
                                               : mm_per_inch / 200;
    return std::round(value_mm / step) * step + 0.0;
}

} // namespace ng
