// What a study varies, and how: distributions with their provenance.
#pragma once
#include "document/tolerance.h"
#include "units/distribution.h"
#include "units/result.h"
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

namespace ng {

struct PreparedDesign;

/// One quantity that hands, tools or makers set with a spread.
struct Varied : Distribution {
    std::string key; ///< parameter of the design, "cable insulation_thickness_mm", "cable
                     ///< insulation_diameter_mm" or "fault 1 size_mm"
    std::string label;
    std::string provenance;
};

nlohmann::ordered_json varied_json(const Varied& v);
/// Refuses by name a law that is none, and what check_distribution refuses.
Result<Varied> read_varied(const nlohmann::json& value, const std::string& item);

/// A quantity of a design that may vary.
struct Variable {
    std::string key, label;
    double middle = 0;                 ///< as designed
    double lowest = 0, highest = 0;    ///< what can be built, or is absurd beyond
    std::optional<Distribution> usual; ///< none: by itself it does not vary
    std::string provenance;            ///< of the usual

    /// As a tolerance says it, or as is usual; none: it does not vary. Refuses what cannot be drawn.
    Result<std::optional<Varied>> varied(const Tolerance* tolerance) const;
};

/// Numbers of the design above zero, what the cables' makers deliver, and with faults their sizes. What a
/// caliper has read of a cable varies as the readings leave it open (Guide to the Expression of Uncertainty
/// in Measurement, JCGM 100): a diameter by half of its expanded uncertainty; where the diameter over the
/// insulation is read but nothing beneath, the insulation's thickness varies inwards.
std::vector<Variable> variables_of(const PreparedDesign& prepared, bool with_faults);

} // namespace ng
