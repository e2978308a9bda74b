// Air in small gaps: when it breaks down, and the field in cavities. What a void may measure before it
// discharges.
#pragma once
#include <utility>
#include <vector>

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

constexpr double streamer_K = 9.15;              ///< net ionisation at which a streamer begins
constexpr double shortest_streamer_mm_bar = 0.2; ///< below it the streamer integral says nothing

/// Net ionisation of air, per mm, in a field of kV/mm peak; 0 where attachment wins. The coefficients are
/// those of streamer_inception_kV_peak.
double net_ionisation_per_mm(double E_kV_per_mm, double relative_density);

/// Factor on the field along a path (mm along it, kV/mm peak, rising) at which the net ionisation along it
/// reaches K; infinite on a path shorter than shortest_streamer_mm_bar, or without a field.
double streamer_inception_factor(const std::vector<std::pair<double, double>>& field, double relative_density,
                                 double K = streamer_K);

/// Mean wait, s, for the first electron in a virgin void of this volume at so many times its inception
/// voltage: 2e6 per m3 s and density times (1 - sqrt(U_i / U)) (from memory, 75 % sure). Infinite at and
/// below inception.
double first_electron_wait_s(double volume_mm3, double times_inception, double relative_density);

/// Streamer inception voltage of a uniform air gap, kV peak: the net ionisation along it reaches K = 9.15,
/// with (alpha - eta) / p = 1.6053 (E/p - 2.165)^2 - 0.2873 per mm bar for E/p from 2.588 to 7.943 kV per mm
/// bar and 16.7766 E/p - 80.0 above (Petcharaks, ETH Zurich 1995, from memory). Not for less than 0.2 mm bar:
/// infinite there.
double streamer_inception_kV_peak(double gap_mm, double relative_density, double K = streamer_K);

/// The lower of breakdown and streamer inception of a uniform air gap, kV peak.
double gap_inception_kV_peak(double gap_mm, double relative_density);

/// Extinction over inception of a gap whose residual field is this share of its inception field:
/// (1 + share) / 2, never below 0.5 (from memory, 75 % sure).
double extinction_over_inception(double residual_share);

/// Apparent charge, pC, of a discharge in a flat round void across the field: K Omega eps0 eps_r (E_i -
/// E_res) grad lambda0 with K = 1 (Pedersen, Crichton, McAllister, from memory, 95 % sure). `E_i` and
/// `E_res`, kV/mm peak, in the void at inception and when it is over; `gradient_per_mm`, the field around it
/// over the voltage.
double disc_void_charge_pC(double thickness_mm, double diameter_mm, double eps_r, double E_i_kV_per_mm,
                           double E_res_kV_per_mm, double gradient_per_mm);

/// Largest gap, mm, whose inception field is not below this peak field in it; infinite when no gap
/// discharges (below 2.422 delta kV/mm peak).
double largest_quiet_gap_mm(double peak_field_kV_per_mm, double relative_density);

/// Least clearance in air for a lightning impulse, mm, rod to structure (IEC 60071-2, from memory): 60 kV 90,
/// 75 120, 95 160, 125 220, 145 270, 170 320, 200 380, 250 480; linear between, 1.92 mm/kV above, 1.5 below.
double impulse_clearance_mm(double kV_peak);

/// Field, kV/mm rms, that a pressed interface is designed for: 0.8 (p / 0.1 MPa)^m, p after the rubber has
/// relaxed to 0.7 of it, m the careful one of 0.25 to 0.5 (compare Fournier and Lamarre; Kantar and Ildstad;
/// from memory, 50 % sure). It warns; it decides nothing.
double pressed_interface_kV_per_mm(double fresh_pressure_kPa);

/// Field in a cavity over the field around it (any textbook of electrostatics, e.g. Stratton, Electromagnetic
/// Theory).
double sphere_cavity_factor(double eps_r);          ///< 3 eps / (1 + 2 eps)
double flat_cavity_across_factor(double eps_r);     ///< thin gap across the field: eps
double cylinder_cavity_across_factor(double eps_r); ///< long cylinder across the field: 2 eps / (1 + eps)
double flat_cavity_along_factor();                  ///< gap along the field: 1

} // namespace ng::closedform
