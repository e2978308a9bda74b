// Design limits: editable rules with provenance. They screen a design; they are no type test.
#pragma once
#include "duty/duty.h"
#include "material/material.h"
#include "units/provenance.h"
#include "units/result.h"
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace ng {

struct Limit {
    std::string id;
    std::string title;
    SourcedValue value;
    std::string protects_against;
    std::string valid_for; ///< where the rule may be used; empty: everywhere that it is asked for
    /// Of insulation that ages: what the value holds for, and the exponents n of E^n t = const where the
    /// material has none of its own.
    std::optional<double> at_duration_s;
    LifeExponents exponents = {};
    /// Of an impulse test on a hot cable: the share of the value that is left there.
    std::optional<double> hot_share;
    /// The value for another duration, by the careful one of the exponents: the greatest towards shorter
    /// times, the least towards longer ones; the value itself where no duration is stated.
    double value_for(double duration_s, const std::optional<LifeExponents>& of_material = {}) const;
};

/// A question that is not asked in a kind of test, and why.
struct NotAsked {
    std::string id;  ///< as of a limit: "air_tangential.minutes"
    std::string why; ///< said with the test
};

/// Id of the limit that a rule has in tests of this kind: "interface_tangential.minutes"; in service the
/// rule's own.
std::string limit_id(const std::string& rule, TestKind kind);

struct LimitTable {
    std::vector<Limit> limits;
    std::vector<NotAsked> not_asked;
    const Limit* find(const std::string& id) const;
    const NotAsked* find_not_asked(const std::string& id) const;
    /// The job's values put in place, marked as the user's.
    LimitTable with_overrides(const std::map<std::string, Override>& by_id) const;
};

Result<LimitTable> read_limits(const nlohmann::json& document);

} // namespace ng
