// What counts of the rows of one accessory: readings without those that were corrected, hold points as last
// decided, faults found, tests, and sign-offs with what opened them again.
#pragma once
#include "document/job.h"
#include "plan/sheet.h"
#include "record/log.h"

namespace ng {

/// What every row that counts has.
struct RecordedRow {
    std::int64_t number = 0;
    Who who;
    TimeStamp at;
    std::optional<std::int64_t> instrument, corrects;
    std::string why; ///< of the correction
    nlohmann::json body;
    std::string text(const char* key) const { return body.value(key, std::string()); }
    std::optional<double> figure(const char* key) const;
    Side side() const;
};

struct RecordedReading : RecordedRow {
    double value() const { return *figure("value"); }
    /// Whether it lies in the range that was accepted; none: there was none.
    std::optional<bool> within() const;
    /// "screen edge A 84.2 mm (85 ± 1)"
    std::string words() const;
};

struct RecordedHold : RecordedRow {
    bool accepted() const { return text("decision") == "accept"; }
};

struct RecordedSignOff : RecordedRow {
    std::string closes() const { return text("closes"); }
    std::optional<std::int64_t> opened_by; ///< the row that opened it again
    bool stands() const { return !opened_by; }
    /// Version of the rules that the accessory was judged by when it was signed (units/version.h).
    int rules() const;
};

struct AccessoryRecord {
    std::int64_t number = 0;
    RecordedRow begun;
    Job job; ///< with the design as it was when the record began
    std::string design;
    std::vector<RecordedReading> readings;
    std::vector<RecordedHold> holds; ///< all decisions, oldest first
    std::vector<RecordedRow> faults, parts, files, tests, notes;
    std::vector<RecordedSignOff> sign_offs;
    std::int64_t last_row = 0; ///< of this accessory

    const Design& built_to() const { return *job.find_design(design); }
    /// The last reading of a mark (what: "mark"), by its place's name and core; none: it was not read.
    const RecordedReading* last_of(const std::string& what, const std::string& place, int core = 0) const;
    /// The last decision on the hold point of a step; none: nobody decided.
    const RecordedHold* hold_of(const std::string& step) const;
    /// The last sign-off of this role that stands.
    const RecordedSignOff* signed_off(const std::string& closes) const;
    /// How often a hold point was not accepted.
    int reworks() const;
};

/// Numbers of the rows that begin accessories, in order.
std::vector<std::int64_t> accessories_of(const Log& log);
/// Refuses a row that begins none, and a frozen design that can no longer be read.
Result<AccessoryRecord> record_of(const Log& log, std::int64_t accessory);

/// Begins the record of a design: freezes it, whole.
EntryDraft begin_accessory(const Job& job, const Design& design, const Who& who,
                           const nlohmann::json& details);

/// Titles of steps whose hold point is open: nobody decided, or the last decision was not to accept.
std::vector<std::string> open_holds(const AccessoryRecord& record, const WorkSheet& sheet);

/// "built", "inspected", "tested", "released": in this order.
const std::vector<std::string>& sign_off_order();
/// A sign-off that covers all that is written so far. Without a reason it is refused over open hold points,
/// before the ones that come before it, and by whoever signed as builder where another should inspect.
Result<EntryDraft> sign_off(const AccessoryRecord& record, const WorkSheet& sheet, const KeptHash& last,
                            const std::string& closes, const Who& who, const std::string& reason);

/// The range that a reading of this mark is held against, from the plan's datum: the window of the field or
/// the firm's tolerance, the tighter of the two, and whose it is.
struct ReadingRange {
    double lowest = 0, highest = 0;
    std::string whose;
};
ReadingRange range_of(const CutMark& mark, const CutPlan& plan);

/// A reading of a mark, with its range and place.
EntryDraft mark_reading(const CutMark& mark, const CutPlan& plan, double from_datum_mm, const Who& who,
                        std::int64_t accessory);

} // namespace ng
