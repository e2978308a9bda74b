// Design limits: editable rules with provenance. They screen a design; they are no type test.
#pragma once
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
};

struct LimitTable {
    std::vector<Limit> limits;
    const Limit* find(const std::string& id) const;
    /// The job's values put in place, marked as the user's.
    LimitTable with_overrides(const std::map<std::string, Override>& by_id) const;
};

Result<LimitTable> read_limits(const nlohmann::json& document);

} // namespace ng
