// A wet or polluted surface: current through its film, and the voltage at which arcs in series with it bridge
// the surface.
#pragma once
#include "geometry/point.h"
#include <vector>

namespace ng::closedform {

/// Ohms of a film of this resistance per square along a surface of revolution, r against z in mm: R times the
/// integral of ds / (2 pi r), its form factor (IEC 60815, from memory). 0 for a line without length.
double film_resistance_ohm(const std::vector<Point>& surface, double ohm_per_square);

/// kV peak at which an AC arc in series with a film bridges `length_mm`: 23 r^0.40 V/cm, r in ohm per cm of
/// length, from an arc of 63 i^-0.76 V/cm and its reignition (Rizk, Electra 1981, from memory, 80 % sure).
double polluted_flashover_kV_peak(double length_mm, double film_ohm);

/// V/cm of an arc over a dry band at this current, A peak: 63 i^-0.76 (as above).
double dry_band_arc_V_per_cm(double peak_A);

} // namespace ng::closedform
