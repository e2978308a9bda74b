#include "schedule/warm.h"
#include <algorithm>

namespace ng {

Section warmed(const BuiltAccessory& built, Section section, double to_C) {
    constexpr double from_C = 20;
    for (auto& [name, material] : section.materials) {
        const auto it = built.warming.find(name);
        if (it == built.warming.end()) continue;
        const double share = 1 + it->second.eps_per_kelvin * (to_C - from_C);
        material.eps_r = std::max(1.0, share * material.eps_r);
        for (auto& [hz, eps_r] : material.eps_r_by_frequency) eps_r = std::max(1.0, share * eps_r);
        if (auto& law = material.conduction) {
            if (law->per_kelvin == 0) law->per_kelvin = it->second.S_per_kelvin, law->reference_C = from_C;
            law->actual_C = to_C;
        }
    }
    return section;
}

} // namespace ng
