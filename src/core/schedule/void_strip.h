// Gaps on the interfaces at the extinction voltage: what stays quiet beside what hands leave.
#pragma once
#include "design/prepared.h"

namespace ng {

/// Point by point along an insulation surface: the gap that stays quiet at the extinction voltage, and the
/// gap that hands leave.
struct VoidStrip {
    PlaceId path;
    double voltage_kV = 0; ///< extinction
    double prestress = 1;  ///< the allowance is that of so many times the voltage
    std::vector<Point> at;
    std::vector<double> s_mm, allowed_mm, left_mm;
    std::vector<bool> judged; ///< false beside a sharp corner, where the allowance means nothing
    std::vector<double>
        charge_pC;          ///< of the gap left, were it to discharge, ten times as wide as thick (chosen)
    double worst_ratio = 0; ///< greatest left over allowed
    std::size_t worst = 0;
    double relative_density = 1;
    bool error_known = false; ///< false: from a coarse or unfinished solution
    bool scaled = true;       ///< false: solved at the extinction voltage itself
};
/// Empty where the duty has no extinction voltage or a nonlinear design was not solved at it.
std::vector<VoidStrip> void_strips(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
                                   const LimitTable& limits, const LevelSolutions& solutions);

/// The worst place of each strip as a check: the gap left against the gap allowed there.
/// One that would discharge, but with less than a tenth of `pd_limit_pC`, is marginal: no laboratory sees it.
std::vector<Check> void_checks(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
                               const LimitTable& limits, const LevelSolutions& solutions, double pd_limit_pC);

/// The same checks where the standards pack has no extinction level: not judged, and they say so.
std::vector<Check> void_checks_without_level(const BuiltAccessory& built);

} // namespace ng
