#include "closedform/closedform.h"
#include "units/quantity.h"
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>

namespace ng::closedform {
namespace {
double radial_sum(double inner_radius_mm, std::span<const RadialLayer> layers) {
    double sum = 0, inner = inner_radius_mm;
    for (const auto& layer : layers) {
        sum += std::log(layer.outer_radius_mm / inner) / layer.eps_r;
        inner = layer.outer_radius_mm;
    }
    return sum;
}
} // namespace

double radial_field_kV_per_mm(double voltage_kV, double inner_radius_mm, std::span<const RadialLayer> layers,
                              double radius_mm) {
    double eps_r = 1;
    for (const auto& layer : layers) {
        eps_r = layer.eps_r;
        if (radius_mm <= layer.outer_radius_mm) break;
    }
    return voltage_kV / (eps_r * radius_mm * radial_sum(inner_radius_mm, layers));
}

double capacitance_F_per_m(double inner_radius_mm, std::span<const RadialLayer> layers) {
    return 2 * std::numbers::pi * eps0_F_per_m / radial_sum(inner_radius_mm, layers);
}

double charging_current_A_per_m(double capacitance_F_per_m, double voltage_kV, double frequency_hz) {
    return 2 * std::numbers::pi * frequency_hz * capacitance_F_per_m * voltage_kV * 1e3;
}

std::complex<double> GradedLayer::propagation_per_mm() const {
    const double insulation =
        insulation_eps_r /
        (insulation_radius_mm * std::log(insulation_radius_mm / conductor_screen_radius_mm));
    const std::complex<double> layer(layer_eps_r,
                                     -layer_S_per_m / (2 * std::numbers::pi * frequency_hz * eps0_F_per_m));
    return std::sqrt(insulation / (layer * layer_thickness_mm));
}

std::complex<double> GradedLayer::phasor_kV(double z_mm) const {
    const auto beta = propagation_per_mm();
    return voltage_kV * (1.0 - std::cosh(beta * (length_mm - z_mm)) / std::cosh(beta * length_mm));
}

double GradedLayer::tangential_kV_per_mm(double z_mm) const {
    const auto beta = propagation_per_mm();
    return voltage_kV * std::abs(beta * std::sinh(beta * (length_mm - z_mm)) / std::cosh(beta * length_mm));
}

double cone_axial_mm(double voltage_kV, double axial_kV_per_mm, double conductor_screen_radius_mm,
                     double insulation_radius_mm, double radius_mm) {
    return voltage_kV / axial_kV_per_mm *
           std::log(std::log(radius_mm / conductor_screen_radius_mm) /
                    std::log(insulation_radius_mm / conductor_screen_radius_mm));
}

double cone_radius_mm(double voltage_kV, double tangential_kV_per_mm, double conductor_screen_radius_mm,
                      double insulation_radius_mm, double insulation_eps_r, double body_eps_r, double x_mm) {
    const double k = tangential_kV_per_mm * x_mm / voltage_kV;
    if (k >= 1) return std::numeric_limits<double>::infinity();
    return insulation_radius_mm *
           std::exp(body_eps_r / insulation_eps_r *
                    std::log(insulation_radius_mm / conductor_screen_radius_mm) * k / (1 - k));
}

double pencil_mm(double voltage_kV, double tangential_kV_per_mm, double conductor_screen_radius_mm,
                 double outer_screen_radius_mm, double radius_mm) {
    return voltage_kV * std::log(radius_mm / conductor_screen_radius_mm) /
           (tangential_kV_per_mm * std::log(outer_screen_radius_mm / conductor_screen_radius_mm));
}

double ShrinkTube::wall_area_over_pi_mm2() const {
    return recovered_wall_mm * (recovered_bore_mm + recovered_wall_mm); // ((ID/2 + w)^2 - (ID/2)^2)
}

double recovered_outer_radius_mm(const ShrinkTube& tube, double core_radius_mm) {
    return std::sqrt(core_radius_mm * core_radius_mm + tube.wall_area_over_pi_mm2());
}

Result<double> recovered_wall_mm(const ShrinkTube& tube, double core_diameter_mm, const std::string& item) {
    if (!(tube.recovered_bore_mm > 0) || !(tube.recovered_wall_mm > 0) ||
        !(tube.expanded_bore_mm > tube.recovered_bore_mm))
        return refuse(item, "its bores and wall do not make a shrink tube",
                      "Give an expanded bore above the recovered bore, and a recovered wall above 0");
    if (core_diameter_mm < tube.recovered_bore_mm)
        return refuse(
            item,
            fmt::format("it cannot recover onto {:.1f} mm: fully recovered its bore is still {:.1f} mm",
                        core_diameter_mm, tube.recovered_bore_mm),
            "Choose a tube with a smaller recovered bore");
    if (core_diameter_mm > tube.expanded_bore_mm)
        return refuse(item,
                      fmt::format("it cannot go over {:.1f} mm: its expanded bore is {:.1f} mm",
                                  core_diameter_mm, tube.expanded_bore_mm),
                      "Choose a tube with a larger expanded bore");
    return recovered_outer_radius_mm(tube, core_diameter_mm / 2) - core_diameter_mm / 2;
}

} // namespace ng::closedform
