// What a user says of how a quantity of a design is spread, in place of what is usual.
#pragma once
#include "units/distribution.h"
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <tuple>

namespace ng {

/// Its middle is the design's own number.
struct Tolerance {
    bool varies = true; ///< false: every build has it as designed
    Law law = Law::normal;
    double spread = 0, blunder_share = 0, blunder = 0; ///< as in Distribution
    std::optional<double> lowest, highest;             ///< draws are cut there; none: where it can be built
    std::string provenance;                            ///< measured where, said by whom
    nlohmann::json unknown = nlohmann::json::object();
    friend bool operator==(const Tolerance&, const Tolerance&) = default;
    auto fields() const {
        return std::tie(varies, law, spread, blunder_share, blunder, lowest, highest, provenance, unknown);
    }
};

/// Two quantities that one hand sets: correlation of their normal scores, between -1 and 1.
struct Correlated {
    std::string a, b; ///< keys
    double rho = 0;
    std::string provenance = {};
    friend bool operator==(const Correlated&, const Correlated&) = default;
    auto fields() const { return std::tie(a, b, rho, provenance); }
};

} // namespace ng
