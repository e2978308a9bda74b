#include "closedform/air.h"
#include "closedform/table.h"
#include <algorithm>
#include <array>
#include <boost/math/tools/roots.hpp>
#include <cmath>
#include <limits>
#include <numbers>

namespace ng::closedform {
namespace {

constexpr double A = 15, B = 365, gamma = 0.01; // 1/(cm Torr), V/(cm Torr), electrons per ion
constexpr double torr_at_density_1 = 760;

double paschen_kV(double pressure_gap_cm_Torr) {
    const double needed = std::log(1 + 1 / gamma);
    const double at_minimum = std::numbers::e * needed / A;
    const double pd = std::max(pressure_gap_cm_Torr, at_minimum);
    return 1e-3 * B * pd / std::log(A * pd / needed);
}

double long_gap_kV(double density_gap_cm) {
    return 24.22 * density_gap_cm + 6.08 * std::sqrt(density_gap_cm);
}

template <class F> double root(F f, double a, double b) {
    std::uintmax_t most = 100;
    const auto range =
        boost::math::tools::toms748_solve(f, a, b, boost::math::tools::eps_tolerance<double>(48), most);
    return 0.5 * (range.first + range.second);
}

/// Net ionisation per mm bar over kV per mm bar: steep (x - centre)^2 - offset, from `joins` on slope x -
/// below.
constexpr double bar_at_density_1 = 1.01325, attaches_below = 2.588, joins = 7.943;
constexpr double steep = 1.6053, centre = 2.165, offset = 0.2873, slope = 16.7766, below = 80.0;

/// delta d in cm where the two rules come closest (0.1 %): the lower end of the one, the upper of the other.
constexpr double takeover_cm = 5.3e-3;

} // namespace

double relative_air_density(double temperature_C, double altitude_m) {
    return std::exp(-altitude_m / 8150) * 293.15 / (273.15 + temperature_C);
}

double uniform_gap_breakdown_kV_peak(double gap_mm, double relative_density) {
    const double x = 0.1 * gap_mm * relative_density;
    return x >= takeover_cm ? long_gap_kV(x) : paschen_kV(torr_at_density_1 * x);
}

double net_ionisation_per_mm(double E, double relative_density) {
    const double pressure = bar_at_density_1 * relative_density, reduced = E / pressure;
    if (reduced < attaches_below) return 0;
    return pressure *
           (reduced <= joins ? steep * std::pow(reduced - centre, 2) - offset : slope * reduced - below);
}

double streamer_inception_factor(const std::vector<std::pair<double, double>>& field, double relative_density,
                                 double K) {
    constexpr double infinite = std::numeric_limits<double>::infinity();
    double greatest = 0;
    for (const auto& [s, E] : field) greatest = std::max(greatest, E);
    if (!(greatest > 0) || bar_at_density_1 * relative_density * (field.back().first - field.front().first) <
                               shortest_streamer_mm_bar)
        return infinite;
    const auto excess = [&](double factor) {
        double sum = 0;
        for (std::size_t i = 1; i < field.size(); ++i)
            sum += (field[i].first - field[i - 1].first) / 2 *
                   (net_ionisation_per_mm(factor * field[i].second, relative_density) +
                    net_ionisation_per_mm(factor * field[i - 1].second, relative_density));
        return sum - K;
    };
    // Nothing ionises below the one; the net ionisation rises without end above.
    const double low = attaches_below * bar_at_density_1 * relative_density / greatest;
    double high = 2 * low;
    while (excess(high) < 0) high *= 2;
    return root(excess, low, high);
}

double first_electron_wait_s(double volume_mm3, double times_inception, double relative_density) {
    constexpr double per_mm3_s = 2e6 * 1e-9;
    if (!(times_inception > 1)) return std::numeric_limits<double>::infinity();
    return 1 / (per_mm3_s * relative_density * volume_mm3 * (1 - std::sqrt(1 / times_inception)));
}

double streamer_inception_kV_peak(double gap_mm, double relative_density, double K) {
    const double pressure_gap = bar_at_density_1 * relative_density * gap_mm; // mm bar
    if (pressure_gap < shortest_streamer_mm_bar) return std::numeric_limits<double>::infinity();
    const double needed = K / pressure_gap; // per mm bar
    double reduced = centre + std::sqrt((needed + offset) / steep);
    if (reduced > joins) reduced = (needed + below) / slope;
    return reduced * pressure_gap;
}

double gap_inception_kV_peak(double gap_mm, double relative_density) {
    return std::min(uniform_gap_breakdown_kV_peak(gap_mm, relative_density),
                    streamer_inception_kV_peak(gap_mm, relative_density));
}

double disc_void_charge_pC(double thickness_mm, double diameter_mm, double eps_r, double E_i_kV_per_mm,
                           double E_res_kV_per_mm, double gradient_per_mm) {
    constexpr double eps0_pF_per_mm = 8.8541878128e-3;
    const double volume_mm3 = std::numbers::pi / 4 * diameter_mm * diameter_mm * thickness_mm;
    // mm3 pF/mm kV/mm 1/mm is pF kV, a thousand pC.
    return 1e3 * volume_mm3 * eps0_pF_per_mm * eps_r * (E_i_kV_per_mm - E_res_kV_per_mm) * gradient_per_mm;
}

double extinction_over_inception(double residual_share) {
    return std::max(0.5, (1 + residual_share) / 2);
}

double largest_quiet_gap_mm(double peak_field_kV_per_mm, double relative_density) {
    constexpr double longest_mm = 1e6, shortest_mm = 1e-6;
    if (!(peak_field_kV_per_mm > 2.422 * relative_density)) return std::numeric_limits<double>::infinity();
    auto spare = [&](double ln_gap) {
        const double gap = std::exp(ln_gap);
        return std::log(gap_inception_kV_peak(gap, relative_density) / gap / peak_field_kV_per_mm);
    };
    if (spare(std::log(longest_mm)) > 0) return std::numeric_limits<double>::infinity();
    return std::exp(root(spare, std::log(shortest_mm), std::log(longest_mm)));
}

double impulse_clearance_mm(double kV_peak) {
    constexpr std::array<std::pair<double, double>, 8> table{
        {{60, 90}, {75, 120}, {95, 160}, {125, 220}, {145, 270}, {170, 320}, {200, 380}, {250, 480}}};
    if (kV_peak <= table.front().first) return kV_peak * 1.5;
    return kV_peak <= table.back().first ? in_table(table, kV_peak) : kV_peak * 1.92;
}

double pressed_interface_kV_per_mm(double fresh_pressure_kPa) {
    const double share = 0.7 * std::max(fresh_pressure_kPa, 0.0) / 100; // of 0.1 MPa
    return 0.8 * std::pow(share, share < 1 ? 0.5 : 0.25);
}

double sphere_cavity_factor(double eps_r) {
    return 3 * eps_r / (1 + 2 * eps_r);
}
double flat_cavity_across_factor(double eps_r) {
    return eps_r;
}
double cylinder_cavity_across_factor(double eps_r) {
    return 2 * eps_r / (1 + eps_r);
}
double flat_cavity_along_factor() {
    return 1;
}

} // namespace ng::closedform
