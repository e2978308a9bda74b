// The accessory as it was built: its design with the readings in place of its numbers, and the faults that
// were found and left, to be solved and judged like any other.
#pragma once
#include "record/state.h"
#include "study/study.h"

namespace ng {

struct BuiltMark {
    PlaceId place;
    std::string label;
    CableSide side = CableSide::a;
    double designed_mm = 0, built_mm = 0; ///< from the datum that it was read from
    double z_mm = 0;                      ///< in the section as designed
    double off_mm() const { return built_mm - designed_mm; }
    std::optional<bool> within; ///< the range that it was held against
    std::int64_t row = 0;
};

struct AsBuilt {
    Job job; ///< the frozen job with what was read
    std::string design;
    std::vector<BuiltMark> marks;         ///< in the plan's order
    std::vector<std::string> differences; ///< against the design, a line each
    std::vector<std::string> not_taken;   ///< readings that the section cannot show, and why
    std::vector<std::string> unmeasured;  ///< taken as designed
    std::set<std::string> measured_keys;  ///< parameters and "cable ..." keys that readings set
};

/// What is read to no better than this leaves the design's number alone, mm.
constexpr double reads_as_designed_mm = 0.05;

/// Refuses, naming it, readings that contradict one another so that nothing can be built.
Result<AsBuilt> as_built(const AccessoryRecord& record, const Library& library,
                         const CancelFlag* cancel = nullptr);

/// As designed and as built, solved and judged; a check's margins beside one another.
struct BuiltVerdict {
    AsBuilt built;
    std::string frozen;                                   ///< hash of the design that it was built to
    std::shared_ptr<const Evaluation> designed, as_built; ///< one and the same where nothing differs
    struct Pair {
        std::string title;
        CheckId id;
        const Check *designed = nullptr, *as_built = nullptr; ///< none: only one of them has it
    };
    std::vector<Pair> pairs() const;
    /// "as built: holds: 31 ± 1 % left to the limit of “…” (as designed: …)"
    std::string words() const;
};
/// `before`: of the same record, with fewer rows; what it solved is not solved again.
Result<BuiltVerdict> judge_as_built(const AccessoryRecord& record, const Library& library,
                                    const CancelFlag* cancel = nullptr, const BuiltVerdict* before = nullptr);

/// What varies where nobody measured: the usual plan of the design as built without what was read.
Result<StudyPlan> unmeasured_plan(const AsBuilt& built, const PreparedDesign& prepared);
/// So many builds of it, on `threads` threads; `on_row` as in run_rows. Cancelled: of the rows there are.
Result<StudyTable> vary_unmeasured(const BuiltVerdict& verdict, std::uint64_t samples, const Library& library,
                                   int threads, const CancelFlag* cancel = nullptr,
                                   const std::function<void(const StudyRow&)>& on_row = {});
/// "within the tolerances of what was not measured … fall short: none of 256 (…)"
std::string unmeasured_words(const StudyTable& table);

} // namespace ng
