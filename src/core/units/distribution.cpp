#include "units/distribution.h"
#include <algorithm>
#include <boost/math/distributions/normal.hpp>
#include <cmath>

namespace ng {

const std::vector<std::string>& law_words() {
    static const std::vector<std::string> words{"normal", "uniform", "lognormal"};
    return words;
}

std::optional<Law> law_of(const std::string& word) {
    const auto it = std::find(law_words().begin(), law_words().end(), word);
    if (it == law_words().end()) return {};
    return static_cast<Law>(it - law_words().begin());
}

double Distribution::quantile(double share) const {
    const auto score = [](double u) { return boost::math::quantile(boost::math::normal(), u); };
    double value = middle;
    switch (law) {
    case Law::normal:
        if (share < blunder_share / 2)
            value = middle - blunder;
        else if (share > 1 - blunder_share / 2)
            value = middle + blunder;
        else
            value = middle + spread * score((share - blunder_share / 2) / (1 - blunder_share));
        break;
    case Law::uniform:
        value = middle + spread * (2 * share - 1);
        break;
    case Law::lognormal:
        value = middle * std::pow(spread, score(share));
        break;
    }
    // To 1e-6; of what is itself small to six figures.
    constexpr double small = 1e-3;
    const double scale = std::abs(middle) < small && middle != 0
                             ? std::pow(10, 6 - std::floor(std::log10(std::abs(middle))))
                             : 1e6;
    return std::round(std::clamp(value, lowest, highest) * scale) / scale;
}

Result<void> check_distribution(const Distribution& d, const std::string& item) {
    for (const double v : {d.middle, d.spread, d.blunder_share, d.blunder, d.lowest, d.highest})
        if (!std::isfinite(v)) return refuse(item, "a number of its spread is none", "Correct it");
    if (!(d.spread > (d.law == Law::lognormal ? 1 : 0)))
        return refuse(item, "its spread is too small",
                      d.law == Law::lognormal ? "Give a geometric standard deviation above 1"
                                              : "Give a spread above 0, or leave the quantity out");
    if (d.law == Law::lognormal && !(d.middle > 0))
        return refuse(item, "its median is not above zero", "Correct it");
    if (!(d.blunder_share >= 0 && d.blunder_share <= 0.5))
        return refuse(item, "its share of blunders is outside 0 to 0.5", "Correct it");
    if (d.blunder_share > 0 && d.law != Law::normal)
        return refuse(item, "only the normal distribution has blunders",
                      "Take the normal one, or no blunders");
    if (!(d.lowest < d.highest)) return refuse(item, "nothing lies between its bounds", "Correct them");
    return {};
}

} // namespace ng
