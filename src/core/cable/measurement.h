// A diameter from caliper readings, and how far it can be trusted.
#pragma once
#include "units/result.h"
#include <string>
#include <tuple>
#include <vector>

namespace ng {

/// One caliper reading over a layer. Readings in two directions, 90 degrees apart, show an oval.
struct CaliperReading {
    double diameter_mm = 0;
    bool across = false; ///< taken at 90 degrees to the first direction
    friend bool operator==(const CaliperReading&, const CaliperReading&) = default;
    auto fields() const { return std::tie(diameter_mm, across); }
};

struct MeasuredDiameter {
    double mean_mm = 0;        ///< of the two directions' means
    double ovality_mm = 0;     ///< difference of the two directions' means; 0 with one direction
    double uncertainty_mm = 0; ///< expanded, coverage factor 2
    int readings = 0;
};

/// Limit of error of a workshop caliper, taken as a rectangular distribution (common practice, no source).
constexpr double caliper_limit_mm = 0.05;
/// A single reading says nothing of the spread: taken as this standard deviation (common practice, no
/// source).
constexpr double single_reading_spread_mm = 0.08;

/// Mean, ovality and expanded uncertainty after the Guide to the Expression of Uncertainty in Measurement
/// (JCGM 100: type A from the spread within a direction, type B from the caliper, and the oval as a
/// rectangular distribution of half its size), k = 2. Refuses none, values not above zero, and readings that
/// differ by more than a fifth.
Result<MeasuredDiameter> measured_diameter(const std::vector<CaliperReading>& readings,
                                           const std::string& item);

} // namespace ng
