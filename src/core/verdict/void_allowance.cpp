#include "verdict/void_allowance.h"
#include "closedform/air.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace ng {

double gap_air_density(double ambient_C, double altitude_m) {
    return std::min(closedform::relative_air_density(ambient_C, altitude_m),
                    closedform::relative_air_density(20, altitude_m));
}

double gap_field_kV_per_mm(const Solution& solution, const PathResult& path, const PathSample& sample,
                           double voltage_factor) {
    const auto it = std::find(solution.region_names.begin(), solution.region_names.end(), path.side);
    const double eps_r =
        it == solution.region_names.end() ? 1 : solution.eps_r[it - solution.region_names.begin()];
    const bool value = solution.analysis == Analysis::impulse || solution.analysis == Analysis::dc;
    const double across = closedform::flat_cavity_across_factor(eps_r) * sample.E_n_kV_per_mm,
                 along = closedform::flat_cavity_along_factor() * sample.E_t_kV_per_mm;
    return (value ? 1 : std::numbers::sqrt2) * voltage_factor * std::hypot(across, along);
}

std::vector<double> void_allowances_mm(const Solution& solution, const PathResult& path,
                                       const VoidAllowance& how) {
    std::vector<double> out;
    for (const auto& sample : path.samples)
        out.push_back(closedform::largest_quiet_gap_mm(
            gap_field_kV_per_mm(solution, path, sample, how.voltage_factor), how.relative_density));
    return out;
}

} // namespace ng
