#include "field/conduction.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace ng {

ConductionLaw::ConductionLaw(const Conduction& law, FieldMeasure measure)
    : law_(law), factor_(law.temperature_factor()) {
    const bool stated_in_peak = law.field == "peak";
    if (measure == FieldMeasure::phasor_rms && stated_in_peak) to_law_ = std::numbers::sqrt2;
    if (measure == FieldMeasure::instantaneous && !stated_in_peak) to_law_ = 1 / std::numbers::sqrt2;
    if (law.law == "table") {
        std::vector<double> field, ln_sigma;
        for (const auto& [e, s] : law.table) field.push_back(e), ln_sigma.push_back(std::log(s));
        table_.emplace(field, ln_sigma);
    }
}

double ConductionLaw::known_up_to_kV_per_mm() const {
    return table_ ? law_.table.back().first / to_law_ : std::numeric_limits<double>::infinity();
}

Conductivity ConductionLaw::at(double field_kV_per_mm) const {
    const double e = field_kV_per_mm * to_law_;
    double sigma = law_.sigma0_S_per_m, slope = 0; // slope in the law's own field
    if (law_.law == "power") {
        const double x = std::pow(e / law_.E0_kV_per_mm, law_.exponent);
        slope = e > 0 ? sigma * law_.exponent * x / e : 0;
        sigma *= 1 + x;
    } else if (law_.law == "exponential") {
        constexpr double most = 60;
        const double x = law_.a * std::pow(e, law_.exponent);
        sigma *= std::exp(std::min(x, most));
        slope = e > 0 && x < most ? sigma * law_.exponent * x / e : 0;
    } else if (table_) {
        const double first = law_.table.front().first, last = law_.table.back().first;
        const double inside = std::clamp(e, first, last);
        sigma = std::exp(table_->at(inside));
        if (e > first && e < last) slope = sigma * table_->slope(inside);
    }
    return {sigma * factor_, slope * factor_ * to_law_};
}

RegionLaws::RegionLaws(const Section& section, FieldMeasure measure)
    : constant_S_per_m(section.regions.size(), 0.0), dependent(section.regions.size(), nullptr) {
    for (std::size_t k = 0; k < section.regions.size(); ++k) {
        const auto& conduction = section.materials.at(section.regions[k].material).conduction;
        if (!conduction) continue;
        auto law = std::make_unique<ConductionLaw>(*conduction, measure);
        if (law->depends_on_field()) {
            owned_.push_back(std::move(law));
            dependent[k] = owned_.back().get();
        } else {
            constant_S_per_m[k] = law->at(0).sigma_S_per_m;
        }
    }
}

bool RegionLaws::any_dependent() const {
    return !owned_.empty();
}

} // namespace ng
