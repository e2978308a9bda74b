// The outer surface of a termination in air: creepage, dry arc distance and sheds, measured on its real
// profile.
#pragma once
#include "verdict/verdict.h"

namespace ng {

struct LeakageGeometry {
    double creepage_mm = 0;     ///< along the whole surface, metal to metal: what pollution creeps over
    double over_earthed_mm = 0; ///< of that, what lies over earthed parts
    double over_live_mm = 0;    ///< and over live ones
    double between_mm = 0;      ///< along the surface between live and earthed end
    double arc_mm = 0;          ///< taut string over the surface between them: what a flashover has to bridge
    std::vector<Point> between, string; ///< that part of the surface, and the string over it
};
/// `surface` runs from the earthed to the live end, r against z, z never falling. Without `ends` all of it
/// lies between them.
LeakageGeometry measure_leakage(const std::vector<Point>& surface, const std::optional<AirEnds>& ends = {});

struct ShedMeasure {
    double z_mm = 0, tip_radius_mm = 0, overhang_mm = 0; ///< overhang over the body beside it
    double tip_z0_mm = 0, tip_z1_mm = 0;
};
/// Sheds that stand out at least 5 mm of the body between them, from the earthed end upwards.
std::vector<ShedMeasure> find_sheds(const std::vector<Point>& surface);

/// Creepage against the pollution level, and the shapes of sheds, each as a judged check.
std::vector<Check> judge_leakage(const std::vector<Point>& surface, const Duty& duty, double highest_line_kV,
                                 const LimitTable& limits, const std::optional<AirEnds>& ends = {});

} // namespace ng
