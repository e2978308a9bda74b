// The outer surface of a termination in air: creepage, dry arc distance and sheds, measured on its real
// profile.
#pragma once
#include "verdict/verdict.h"

namespace ng {

struct LeakageGeometry {
    double creepage_mm = 0; ///< along the surface
    double arc_mm = 0;      ///< taut string over the surface, end to end
    std::vector<Point> string;
};
/// `surface` runs from the earthed to the live end, r against z.
LeakageGeometry measure_leakage(const std::vector<Point>& surface);

struct ShedMeasure {
    double z_mm = 0, tip_radius_mm = 0, overhang_mm = 0; ///< overhang over the body beside it
    double tip_z0_mm = 0, tip_z1_mm = 0;
};
/// Sheds that stand out at least 5 mm of the body between them, from the earthed end upwards.
std::vector<ShedMeasure> find_sheds(const std::vector<Point>& surface);

/// Least clearance in air for a lightning impulse, mm, rod to structure (IEC 60071-2, from memory): 60 kV 90,
/// 75 120, 95 160, 125 220, 145 270, 170 320, 200 380, 250 480; linear between, 1.92 mm/kV above, 1.5 below.
double impulse_clearance_mm(double kV_peak);

/// Creepage against the pollution level, and the shapes of sheds, each as a judged check.
std::vector<Check> judge_leakage(const std::vector<Point>& surface, const Duty& duty, double highest_line_kV,
                                 const LimitTable& limits);

} // namespace ng
