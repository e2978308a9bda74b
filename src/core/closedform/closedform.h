// Closed forms: first estimates on screen while the field is solved, and checks in tests.
// Lengths mm, voltages kV to earth, fields kV/mm, rms unless the voltage given is a peak.
#pragma once
#include "units/result.h"
#include <complex>
#include <span>

namespace ng::closedform {

/// One dielectric layer between two radii.
struct RadialLayer {
    double outer_radius_mm;
    double eps_r;
};

/// E(r) = U / (eps_k r sum_j ln(r_{j+1}/r_j)/eps_j) of concentric cylinders (any textbook, e.g. Kuffel,
/// Zaengl, Kuffel, High Voltage Engineering Fundamentals). `inner_radius_mm` is the conductor screen.
double radial_field_kV_per_mm(double voltage_kV, double inner_radius_mm, std::span<const RadialLayer> layers,
                              double radius_mm);

/// 2 pi eps0 / sum_j ln(r_{j+1}/r_j)/eps_j.
double capacitance_F_per_m(double inner_radius_mm, std::span<const RadialLayer> layers);

/// omega C U per metre.
double charging_current_A_per_m(double capacitance_F_per_m, double voltage_kV, double frequency_hz);

/// Thin graded layer on cable insulation, earthed at z = 0, free at z = length (transmission-line form of the
/// insulation's capacitance per area feeding a sheet that conducts along z):
///   d2V/dz2 = beta^2 (V - U),  beta^2 = j w c / ((sigma_t + j w eps0 eps_t) t),  c = eps0 eps_1 / (r_i
///   ln(r_i/r_c))
/// Limits: the layer is thin beside r_i and 1/beta, and what lies outside it is neglected.
struct GradedLayer {
    double voltage_kV;
    double conductor_screen_radius_mm;
    double insulation_radius_mm;
    double insulation_eps_r;
    double layer_thickness_mm;
    double layer_eps_r;
    double length_mm;
    double layer_S_per_m = 0;
    double frequency_hz = 60; ///< matters only where the layer conducts

    std::complex<double> propagation_per_mm() const; ///< beta
    double beta_per_mm() const { return propagation_per_mm().real(); }
    std::complex<double> phasor_kV(double z_mm) const; ///< U (1 - cosh(beta (L - z)) / cosh(beta L))
    double potential_kV(double z_mm) const { return std::abs(phasor_kV(z_mm)); }
    double tangential_kV_per_mm(double z_mm) const; ///< magnitude; at z = 0 it is |beta U tanh(beta L)|
};

/// Grading lengths (1 / beta) that a layer should reach past the edge: tanh(3) is 0.995, more buys nothing.
constexpr double useful_grading_lengths = 3;

/// Stress cone whose earthed profile has a constant axial stress: the place along the axis where its radius
/// is R, x = (U / E_l) ln[ln(R/r_c) / ln(r_i/r_c)] (handbook form, single permittivity; slender cones).
double cone_axial_mm(double voltage_kV, double axial_kV_per_mm, double conductor_screen_radius_mm,
                     double insulation_radius_mm, double radius_mm);

/// Stress cone with a constant tangential stress on the insulation: R(x) = r_i exp[(eps_2/eps_1) ln(r_i/r_c)
/// k/(1-k)], k = E_t x / U; infinite from k = 1 (slender cones).
double cone_radius_mm(double voltage_kV, double tangential_kV_per_mm, double conductor_screen_radius_mm,
                      double insulation_radius_mm, double insulation_eps_r, double body_eps_r, double x_mm);

/// Pencil with a constant tangential stress under an outer screen of radius R_o, one permittivity:
/// x = U ln(r/r_c) / (E_t ln(R_o/r_c)) (slender pencils).
double pencil_mm(double voltage_kV, double tangential_kV_per_mm, double conductor_screen_radius_mm,
                 double outer_screen_radius_mm, double radius_mm);

/// Heat-shrink tube by its supplied dimensions (diameters, mm).
struct ShrinkTube {
    double expanded_bore_mm;
    double recovered_bore_mm;
    double recovered_wall_mm;

    /// Cross-section of the wall over pi, mm^2: kept when the tube recovers onto a core (length kept, volume
    /// conserved).
    double wall_area_over_pi_mm2() const;
};

/// Wall after recovery on a core of diameter D: t = (sqrt(D^2 + OD^2 - ID^2) - D) / 2 from the fully
/// recovered OD, ID. Refuses a core below the recovered bore or above the expanded bore; `item` names the
/// tube.
Result<double> recovered_wall_mm(const ShrinkTube& tube, double core_diameter_mm, const std::string& item);

/// Outer radius of a layer of the given wall area on a core of this radius.
double recovered_outer_radius_mm(const ShrinkTube& tube, double core_radius_mm);

} // namespace ng::closedform
