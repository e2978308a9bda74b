// How a quantity is spread over what hands, tools and makers deliver.
#pragma once
#include "units/result.h"
#include <optional>
#include <string>
#include <vector>

namespace ng {

enum class Law { normal, uniform, lognormal };
const std::vector<std::string>& law_words(); ///< in the order of the laws
std::optional<Law> law_of(const std::string& word);

struct Distribution {
    Law law = Law::normal;
    double middle = 0; ///< mean, middle of the range, or median
    double spread = 0; ///< standard deviation, half the range, or geometric standard deviation (above 1)
    double blunder_share = 0,
           blunder = 0;             ///< normal: this share lies off by this much, half of it to either side
    double lowest = 0, highest = 0; ///< draws are cut there: what no maker or hand delivers

    /// The value below which this share of all lies, rounded to 1e-6 (of what is below 1e-3 to six figures);
    /// share in (0, 1).
    double quantile(double share) const;
};

/// Refuses by name spreads that are not above zero (lognormal: above 1), medians that are not above zero,
/// blunder shares outside 0 to 0.5 or of another law than the normal, and bounds that leave nothing.
Result<void> check_distribution(const Distribution& distribution, const std::string& item);

} // namespace ng
