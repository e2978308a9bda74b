// Verdicts: each check of an accessory read from a solved section, with value, limit, margin, place,
// provenance, the sentence that says why and what would cure it.
#pragma once
#include "accessory/family.h"
#include "verdict/levels.h"
#include "verdict/limits.h"
#include <string>
#include <vector>

namespace ng {

/// A value nearer to its limit than this share of it is marginal, whatever the numerical error.
constexpr double marginal_share = 0.10;

enum class Status { holds, marginal, falls_short, not_judged };
const char* status_word(Status status);

struct Check {
    std::string id;
    std::string title;
    double value = 0;
    double limit = 0;
    std::string unit;
    double margin = 0;         ///< (limit - value) / limit
    double relative_error = 0; ///< numerical, of the value
    double voltage_kV = 0;     ///< at which it is judged
    std::string level;         ///< name of that voltage
    Status status = Status::not_judged;
    Point at;
    std::string place;  ///< path or edge
    std::string across; ///< id of the planar section it is read from; empty: the section along the axis
    double edge_radius_mm = 0; ///< of edge checks
    std::string limit_origin;  ///< provenance of the limit
    std::string voltage_origin;
    std::string why;
    std::string cure;
    std::string protects_against;
    std::string near_edge; ///< readings at 0.5 and 1 mm from the path's start, where that is informative
};

struct Verdict {
    Status status = Status::not_judged;
    std::vector<Check> checks;
    std::string first_reason; ///< the worst check's sentence
};

/// Judges. From a coarse or unfinished solution nothing "holds": its checks are `not_judged`, though values
/// are given. A check whose error band crosses its limit is marginal.
Verdict judge(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
              const LimitTable& limits, const LevelSolutions& solutions);

nlohmann::ordered_json verdict_json(const Verdict& verdict);

} // namespace ng
