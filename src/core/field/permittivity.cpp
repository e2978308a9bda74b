#include "field/permittivity.h"
#include "field/monotone.h"
#include "units/promise.h"
#include <cmath>
#include <numbers>

namespace ng {

double equivalent_frequency_hz(const Section& section) {
    if (section.analysis == Analysis::dc) return 0;
    if (section.analysis == Analysis::impulse) return 1e6 / (std::numbers::pi * section.impulse.front_us);
    return section.frequency_hz;
}

double eps_r_at(const SectionMaterial& material, double frequency_hz) {
    const auto& rows = material.eps_r_by_frequency;
    if (rows.empty()) return material.eps_r;
    promise(rows.size() >= 2, "a permittivity table has at least two rows");
    if (frequency_hz <= rows.front().first) return rows.front().second;
    if (frequency_hz >= rows.back().first) return rows.back().second;
    std::vector<double> log_f, eps;
    for (const auto& [hz, value] : rows) log_f.push_back(std::log(hz)), eps.push_back(value);
    return Monotone(log_f, eps).at(std::log(frequency_hz));
}

std::vector<double> permittivities(const Section& section) {
    const double hz = equivalent_frequency_hz(section);
    std::vector<double> out;
    for (const auto& region : section.regions)
        out.push_back(eps_r_at(section.materials.at(region.material), hz));
    return out;
}

} // namespace ng
