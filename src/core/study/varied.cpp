#include "study/varied.h"
#include "document/tolerance_io.h"
#include "io/json_reader.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace ng {
namespace {

const std::vector<std::string> varied_keys{"key",           "label",   "law",    "middle",  "spread",
                                           "blunder_share", "blunder", "lowest", "highest", "provenance"};
constexpr double normal_reach = 6; // standard deviations: what lies beyond is nobody's

/// How far from its middle a tolerance goes by itself.
std::pair<double, double> reach_of(const Tolerance& t, double middle) {
    switch (t.law) {
    case Law::uniform:
        return {middle - t.spread, middle + t.spread};
    case Law::lognormal:
        return {middle * std::pow(t.spread, -normal_reach), middle * std::pow(t.spread, normal_reach)};
    case Law::normal:
        break;
    }
    const double off = std::max(normal_reach * t.spread, t.blunder_share > 0 ? std::abs(t.blunder) : 0.0);
    return {middle - off, middle + off};
}

} // namespace

Result<std::optional<Varied>> Variable::varied(const Tolerance* tolerance) const {
    Varied out;
    out.key = key;
    out.label = label;
    if (!tolerance) {
        if (!usual) return std::optional<Varied>{};
        static_cast<Distribution&>(out) = *usual;
        out.provenance = provenance;
        return std::optional(std::move(out));
    }
    if (!tolerance->varies) return std::optional<Varied>{};
    const auto [from, to] = reach_of(*tolerance, middle);
    static_cast<Distribution&>(out) =
        distribution_of(*tolerance, middle, std::max(lowest, from), std::min(highest, to));
    out.lowest = std::max(out.lowest, lowest);
    out.highest = std::min(out.highest, highest);
    out.provenance = tolerance->provenance;
    const auto named = "tolerance of " + label;
    if (auto ok = check_distribution(out, named); !ok) return tl::unexpected(ok.error());
    if (!(out.lowest <= middle && middle <= out.highest))
        return refuse(
            named,
            fmt::format("the design's own {:g} lies outside {:g} to {:g}", middle, out.lowest, out.highest),
            "Correct the bounds or the design");
    return std::optional(std::move(out));
}

nlohmann::ordered_json varied_json(const Varied& v) {
    nlohmann::ordered_json out{{"key", v.key},
                               {"label", v.label},
                               {"law", law_words()[static_cast<std::size_t>(v.law)]},
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
    const auto word = in.text("law");
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
    const auto law = law_of(word);
    if (!law)
        return refuse(named, fmt::format("“{}” is no distribution", word),
                      fmt::format("Give one of: {}", fmt::join(law_words(), ", ")));
    v.law = *law;
    if (auto ok = check_distribution(v, named); !ok) return tl::unexpected(ok.error());
    return v;
}

} // namespace ng
