// What a study varies, and how: distributions with their provenance.
#pragma once
#include "units/provenance.h"
#include "units/result.h"
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace ng {

/// One quantity that hands, tools or makers set with a spread.
struct Varied {
    std::string key; ///< parameter of the design, "cable insulation_thickness_mm" or "fault 1 size_mm"
    std::string label;
    enum class Law { normal, uniform, lognormal } law = Law::normal;
    double middle = 0; ///< mean, middle of the range, or median
    double spread = 0; ///< standard deviation, half the range, or geometric standard deviation (above 1)
    double blunder_share = 0,
           blunder = 0;             ///< normal: this share lies off by this much, half of it to either side
    double lowest = 0, highest = 0; ///< draws are cut there: what no maker or hand delivers
    std::string provenance;

    /// The value below which this share of all lies, rounded to 1e-6 (of what is below 1e-3 to six figures);
    /// share in (0, 1).
    double quantile(double share) const;
};

/// Two quantities that one hand sets: correlation of their normal scores.
struct Correlated {
    std::string a, b;
    double rho = 0;
};

nlohmann::ordered_json varied_json(const Varied& v);
/// Refuses by name a law that is none, spreads that are not above zero (lognormal: above 1), blunder shares
/// outside 0 to 0.5, and bounds that leave nothing.
Result<Varied> read_varied(const nlohmann::json& value, const std::string& item);

} // namespace ng
