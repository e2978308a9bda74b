#include "study/varied.h"
#include "io/json_reader.h"
#include <algorithm>
#include <boost/math/distributions/normal.hpp>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

const char* law_words[] = {"normal", "uniform", "lognormal"};
const std::vector<std::string> varied_keys{"key",           "label",   "law",    "middle",  "spread",
                                           "blunder_share", "blunder", "lowest", "highest", "provenance"};

} // namespace

double Varied::quantile(double share) const {
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

nlohmann::ordered_json varied_json(const Varied& v) {
    nlohmann::ordered_json out{{"key", v.key},
                               {"label", v.label},
                               {"law", law_words[static_cast<int>(v.law)]},
                               {"middle", v.middle},
                               {"spread", v.spread}};
    if (v.blunder_share > 0) out["blunder_share"] = v.blunder_share, out["blunder"] = v.blunder;
    out["lowest"] = v.lowest;
    out["highest"] = v.highest;
    out["provenance"] = v.provenance;
    return out;
}

Result<Varied> read_varied(const nlohmann::json& value, const std::string& item) {
    JsonReader in(value, item);
    Varied v;
    v.key = in.text("key");
    const auto named = fmt::format("{}, {}", item, v.key);
    v.label = in.text_or("label", v.key);
    const auto law = in.text("law");
    v.middle = in.number("middle");
    v.spread = in.number("spread");
    v.blunder_share = in.number_or("blunder_share", 0);
    v.blunder = in.number_or("blunder", 0);
    v.lowest = in.number("lowest");
    v.highest = in.number("highest");
    v.provenance = in.text_or("provenance", "");
    if (!in.ok()) return tl::unexpected(*in.error());
    for (const auto& [key, unused] : value.items())
        if (std::find(varied_keys.begin(), varied_keys.end(), key) == varied_keys.end())
            return refuse(named, fmt::format("“{}” is no field of it", key), "Remove or correct it");
    const auto it = std::find(std::begin(law_words), std::end(law_words), law);
    if (it == std::end(law_words))
        return refuse(named, fmt::format("“{}” is no distribution", law),
                      "Give normal, uniform or lognormal");
    v.law = static_cast<Varied::Law>(it - std::begin(law_words));
    if (!(v.spread > (v.law == Varied::Law::lognormal ? 1 : 0)))
        return refuse(named, "its spread is too small",
                      v.law == Varied::Law::lognormal ? "Give a geometric standard deviation above 1"
                                                      : "Give a spread above 0, or leave the quantity out");
    if (v.law == Varied::Law::lognormal && !(v.middle > 0))
        return refuse(named, "its median is not above zero", "Correct it");
    if (!(v.blunder_share >= 0 && v.blunder_share <= 0.5))
        return refuse(named, "its share of blunders is outside 0 to 0.5", "Correct it");
    if (!(v.lowest < v.highest)) return refuse(named, "nothing lies between its bounds", "Correct them");
    return v;
}

} // namespace ng
