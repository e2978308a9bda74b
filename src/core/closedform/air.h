// Air in small gaps: when it breaks down, and the field in cavities. What a void may measure before it
// discharges.
#pragma once

namespace ng::closedform {

/// Relative air density: exp(-altitude / 8150 m) (the pressure rule of IEC 60071-2) times 293 K over the
/// absolute temperature; 1 at 20 degC and sea level.
double relative_air_density(double temperature_C, double altitude_m);

/// Breakdown voltage of a uniform air gap, kV peak. From 0.053 mm (at density 1), where the two rules agree
/// to 0.1 %, upwards V = 24.22 delta d + 6.08 sqrt(delta d), d in cm (Kuffel, Zaengl, Kuffel, High Voltage
/// Engineering Fundamentals); below, Paschen's law with A = 15 and B = 365 V per cm Torr and gamma = 0.01
/// (the same book), and below its minimum (305 V; measured minimum in air 327 V) the minimum itself, the
/// careful side.
double uniform_gap_breakdown_kV_peak(double gap_mm, double relative_density);

/// Largest gap, mm, whose breakdown field is not below this peak field in it; infinite when no gap breaks
/// down (below 2.422 delta kV/mm peak).
double largest_quiet_gap_mm(double peak_field_kV_per_mm, double relative_density);

/// Field in a cavity over the field around it (any textbook of electrostatics, e.g. Stratton, Electromagnetic
/// Theory).
double sphere_cavity_factor(double eps_r);          ///< 3 eps / (1 + 2 eps)
double flat_cavity_across_factor(double eps_r);     ///< thin gap across the field: eps
double cylinder_cavity_across_factor(double eps_r); ///< long cylinder across the field: 2 eps / (1 + eps)
double flat_cavity_along_factor();                  ///< gap along the field: 1

} // namespace ng::closedform
