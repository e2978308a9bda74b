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
    CheckId id;
    std::string title;
    double value = 0;
    double limit = 0;
    std::string unit;
    bool at_least = false;     ///< the limit is the least that is needed
    double margin = 0;         ///< what is left to the limit, over the limit
    double relative_error = 0; ///< numerical, of the value
    double voltage_kV = 0;     ///< at which it is judged
    std::string level;         ///< name of that voltage
    Status status = Status::not_judged;
    /// Asked, but not judged: the limits have no figure for this test, or its one place lies within the reach
    /// of a sharp corner. It is counted, and does not decide.
    bool set_aside = false;
    Point at;
    std::optional<PlaceId> place; ///< path or edge
    InsulationZone zone = InsulationZone::none;
    std::string across; ///< id of the planar section it is read from; empty: the section along the axis
    double edge_radius_mm = 0; ///< of edge checks
    std::string limit_origin;  ///< provenance of the limit
    std::string voltage_origin;
    std::string why;
    std::string cure;
    std::string protects_against;
    std::string near_edge; ///< readings at 0.5 and 1 mm from the path's start, where that is informative
};

/// Voltage and solution from which a request is read.
struct ReadAt {
    const Solution* solution = nullptr; ///< none: that voltage was not solved
    double factor = 1;                  ///< on its figures
    double voltage_kV = 0;
    std::string level, voltage_origin;
    const Limit* limit = nullptr;   ///< none: the figure is given, and not judged
    std::string limit_id = {};      ///< what it would be called, where that is not the request's
    std::string unit = "kV/mm rms"; ///< of the figure, where no limit says so
};
Check judge_check(const CheckRequest& request, const ReadAt& at);

/// A check that the standards pack has no level for: counted, not judged, and it says so.
Check check_without_level(const CheckRequest& request);

/// A check that is no reading of the field: sets margin, status and (where empty) the sentence.
void judge_plain(Check& check);

/// The order of bad news: falls short, not judged, marginal, holds.
int severity(Status status);

/// What several checks come to: the worst status of those that decide, by the one with the least margin
/// of that status.
struct Summary {
    Status status = Status::not_judged;
    const Check* worst = nullptr; ///< none: there are no checks
    int set_aside = 0;            ///< checks that are not judged and do not decide
};
/// Takes one more check into the summary.
void take(Summary& summary, const Check& check);

/// "holds", or "holds for the checks made, 3 not judged" where checks were set aside.
std::string status_words(Status status, int set_aside);

struct Verdict {
    Status status = Status::not_judged;
    std::vector<Check> checks;
    int set_aside = 0;        ///< of these, not judged
    std::string first_reason; ///< the worst check's sentence
};

/// Judges every check that the accessory asks. From a coarse or unfinished solution nothing "holds": its
/// checks are `not_judged`, though values are given. A check whose error band crosses its limit is marginal.
Verdict judge(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
              const LimitTable& limits, const LevelSolutions& solutions);

nlohmann::ordered_json verdict_json(const Verdict& verdict);

} // namespace ng
