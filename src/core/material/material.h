// Materials by name, with permittivity and where it comes from. `hatch` names how it is drawn.
#pragma once
#include "units/provenance.h"
#include "units/result.h"
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

namespace ng {

/// Of E^n t = const, the least and the greatest n that are believed of a material (from memory, 60 % sure).
struct LifeExponents {
    double least = 7, greatest = 12;
};

/// What a material becomes when it is warm (from memory, 50 % sure).
struct Warming {
    double eps_per_kelvin = 0; ///< relative, of the permittivity, from 20 degC on
    double S_per_kelvin = 0;   ///< conductivity grows by exp of this times the kelvins above 20 degC
};

struct Material {
    std::string id;
    std::string title;
    SourcedValue eps_r; ///< at power frequency
    /// Hz, permittivity over that at power frequency: of filled compounds, which polarise more slowly than
    /// their base. Empty: 1.
    std::vector<std::pair<double, double>> eps_share_by_frequency;
    Provenance eps_share_provenance = Provenance::common_practice;
    SourcedValue dc_S_per_m;           ///< at 20 degC; orders of magnitude, they decide the field at DC
    std::optional<LifeExponents> life; ///< of insulation that ages under voltage
    Warming warming;
    std::string hatch; ///< insulation, semiconductor, metal, mastic, grading, sleeve, jacket, air
};

class MaterialTable {
  public:
    std::vector<Material> materials;
    /// Null when unknown.
    const Material* find(const std::string& id) const;
};

Result<MaterialTable> read_materials(const nlohmann::json& document);

} // namespace ng
