#include "document/tolerance_io.h"
#include "document/json_parts.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace ng {
namespace {

const Keys correlation_keys{"a", "b", "rho", "provenance"};

} // namespace

const std::vector<std::string>& tolerance_keys() {
    static const Keys keys{"varies",  "law",    "spread",  "blunder_share",
                           "blunder", "lowest", "highest", "provenance"};
    return keys;
}

Distribution distribution_of(const Tolerance& t, double middle, double lowest, double highest) {
    return {t.law,
            middle,
            t.spread,
            t.blunder_share,
            t.blunder,
            t.lowest.value_or(lowest),
            t.highest.value_or(highest)};
}

Result<std::map<std::string, Tolerance>> read_tolerances(const nlohmann::json& by_key,
                                                         const std::string& item) {
    std::map<std::string, Tolerance> out;
    for (const auto& [key, value] : by_key.items()) {
        const auto named = fmt::format("tolerance “{}” of {}", key, item);
        JsonReader in(value, named);
        Tolerance t;
        t.varies = in.boolean_or("varies", true);
        t.provenance = in.text_or("provenance", "");
        if (t.varies) {
            const auto word = in.text("law");
            const auto law = law_of(word);
            if (in.ok() && !law)
                in.fail(fmt::format("“{}” is no distribution", word),
                        fmt::format("Give one of: {}", fmt::join(law_words(), ", ")));
            t.law = law.value_or(Law::normal);
            t.spread = in.number("spread");
            t.blunder_share = in.number_or("blunder_share", 0);
            t.blunder = in.number_or("blunder", 0);
            t.lowest = in.optional_number("lowest");
            t.highest = in.optional_number("highest");
        }
        if (!in.ok()) return tl::unexpected(*in.error());
        if (t.varies) {
            // Whatever the number is: where it cannot be drawn with it, the study says so.
            const double low = t.highest.value_or(1) - 1;
            const auto d = distribution_of(t, 1, low, t.lowest.value_or(low) + 1);
            if (auto ok = check_distribution(d, named); !ok) return tl::unexpected(ok.error());
        }
        t.unknown = leftover(value, tolerance_keys());
        out[key] = std::move(t);
    }
    return out;
}

nlohmann::ordered_json tolerance_json(const Tolerance& t) {
    auto out = nlohmann::ordered_json::object();
    if (t.varies) {
        out["law"] = law_words()[static_cast<std::size_t>(t.law)];
        out["spread"] = t.spread;
        if (t.blunder_share > 0) out["blunder_share"] = t.blunder_share, out["blunder"] = t.blunder;
        if (t.lowest) out["lowest"] = *t.lowest;
        if (t.highest) out["highest"] = *t.highest;
    } else {
        out["varies"] = false;
    }
    if (!t.provenance.empty()) out["provenance"] = t.provenance;
    add_unknown(out, t.unknown);
    return out;
}

Result<std::vector<Correlated>> read_correlations(const nlohmann::json& list, const std::string& item) {
    std::vector<Correlated> out;
    for (const auto& entry : list) {
        JsonReader in(entry, "correlation of " + item);
        Correlated c{in.text("a"), in.text("b"), in.number("rho"), in.text_or("provenance", "")};
        if (in.ok() && !(std::abs(c.rho) < 1))
            in.fail(fmt::format("{} and {}: it does not lie between -1 and 1", c.a, c.b), "Correct it");
        if (in.ok() && c.a == c.b)
            in.fail(fmt::format("“{}” is joined with itself", c.a), "Name two quantities");
        if (in.ok())
            for (const auto& [key, unused] : entry.items())
                if (std::find(correlation_keys.begin(), correlation_keys.end(), key) ==
                    correlation_keys.end())
                    in.fail(fmt::format("“{}” is no field of it", key), "Remove or correct it");
        if (!in.ok()) return tl::unexpected(*in.error());
        out.push_back(std::move(c));
    }
    return out;
}

nlohmann::ordered_json correlation_json(const Correlated& c) {
    nlohmann::ordered_json out{{"a", c.a}, {"b", c.b}, {"rho", c.rho}};
    if (!c.provenance.empty()) out["provenance"] = c.provenance;
    return out;
}

} // namespace ng
