// Studies: thousands of variants of one design, each solved only as exactly as decides it. A plan says what
// varies and how; a sample is a pure function of plan and index; rows are all that is kept.
#pragma once
#include "evaluate/evaluate.h"
#include "plan/plan.h"
#include "study/varied.h"
#include "units/version.h"
#include <functional>
#include <map>
#include <mutex>
#include <set>
#include <span>

namespace ng {

struct StudyPlan {
    std::string kind = "tolerance"; ///< "tolerance" or "effects"
    std::string design;
    std::uint64_t seed = 1;
    std::uint64_t samples = 256; ///< of effects: rows of all kinds together
    bool with_faults = false;    ///< the faults that lie on the design come with it, their sizes may vary
    std::vector<Varied> varied;
    std::vector<Correlated> correlated;
};

/// What hands, tools, makers and materials vary of this design by themselves: marks 1 mm and blunders of
/// 15 mm, edge radius, walls, permittivities, conductivities, insulation (common practice, no source;
/// docs/studies.md), what a caliper has read of its cables as the readings leave it open. With the faults
/// that lie on it, their sizes too.
StudyPlan usual_plan(const PreparedDesign& prepared, bool with_faults);
/// The same, with what the design's own tolerances say in place of the usual, and its correlations of what
/// varies. Refuses tolerances that cannot be drawn round the design's numbers.
Result<StudyPlan> design_plan(const PreparedDesign& prepared, bool with_faults);
/// Numbers of the design that marks of its cut plan hang on.
std::set<std::string> mark_parameters(const PreparedDesign& prepared);

nlohmann::ordered_json plan_json(const StudyPlan& plan);
Result<StudyPlan> read_plan(const nlohmann::json& document);
/// Refuses what the design does not have, by key, and quantities varied twice.
Result<void> check_plan(const StudyPlan& plan, const Job& job, const Library& library);

/// The job with the plan's design, and its cables, as drawn: numbers in the order of the plan. An
/// insulation's thickness is drawn outwards from the conductor, or inwards where the diameter over it was
/// measured.
Job drawn_job(Job job, const StudyPlan& plan, const std::vector<double>& drawn);

/// One variant of a study.
struct StudyRow {
    std::uint64_t index = 0;
    std::vector<double> drawn; ///< in the order of the plan
    std::string refusal;       ///< why it cannot be built or solved; empty: it can
    Status status = Status::not_judged;
    bool solved_again = false;
    struct Reading {
        double share = 0; ///< of its limit; above 1 falls short; 0: not judged
        double error = 0; ///< numerical, of the share
    };
    std::vector<Reading> readings; ///< in the order of Study::checks
    /// Greatest share of a limit; above 1 falls short.
    double worst_share() const;
};

/// Of the rows' format; 1 and 2 are read.
constexpr int study_rows_version = 2;

/// i of n, from 0.
struct Shard {
    std::uint64_t index = 0, count = 1;
};
Result<Shard> read_shard(const std::string& text);

/// A plan made ready: the design as it is judged once, what each row needs of it.
class Study {
  public:
    /// `prepare`: with the faults that lie on the design or without them, as the plan says (fault/fault.h).
    static Result<Study> begin(const Job& job, StudyPlan plan, const Library& library, Preparer prepare,
                               const CancelFlag* cancel = nullptr);
    /// The same bytes for the same plan and index on one build and kind of processor, whoever asks.
    StudyRow row(std::uint64_t index, const CancelFlag* cancel = nullptr) const;
    /// The job with the design as this row drew it.
    Result<Job> job_of(const std::vector<double>& drawn) const;

    std::vector<double> drawn_of(std::uint64_t index) const;
    const StudyPlan& plan() const { return plan_; }
    const std::vector<std::string>& checks() const { return checks_; } ///< "id: title" of each reading
    const Evaluation& nominal() const { return *nominal_; }
    /// Lines before the rows: format, program, processor, plan; what must be alike for rows to be merged.
    std::string header(Shard shard) const;
    std::string name() const; ///< of all that must be alike, for a file of its rows: a UUID
    /// Judges the design with these numbers, to decide only.
    Result<Evaluation> evaluated(const std::vector<double>& drawn, const CancelFlag* cancel = nullptr) const;
    std::string line(const StudyRow& row) const;

  private:
    Job job_;
    const Library* library_ = nullptr;
    Preparer prepare_;
    StudyPlan plan_;
    std::shared_ptr<const Evaluation> nominal_;
    /// Meshes that samples' meshes follow, by the outlines that they are for (outline_kinds): of draws that
    /// many of the first ones can follow. Made when the first sample is asked for.
    struct Followers {
        std::once_flag once;
        std::map<std::string, std::vector<std::shared_ptr<const Follower>>> of;
    };
    std::shared_ptr<Followers> followers_ = std::make_shared<Followers>();
    EvaluateOptions options(const CancelFlag* cancel) const; ///< to decide, not to know
    void mesh_followers(const CancelFlag* cancel) const;
    std::vector<std::string> checks_;
    std::vector<double> correlation_; ///< lower triangle of its Cholesky factor; empty: none
};

/// Runs the rows of a shard that `done` does not hold yet, on `threads` threads; `on_row` is called in the
/// order of the index, from any thread, one at a time. Stops early when cancelled.
void run_rows(const Study& study, Shard shard, std::uint64_t first, int threads, const CancelFlag* cancel,
              const std::function<void(const StudyRow&)>& on_row);

/// Rows as a file holds them.
struct StudyTable {
    std::string header;                ///< with its shard as 0/1
    int rules = rules_before_versions; ///< that its rows were judged by (units/version.h)
    Shard shard;
    StudyPlan plan;
    std::vector<std::string> checks;
    std::vector<StudyRow> rows;
    std::vector<std::string> lines; ///< as written, one a row
};
/// `whole`: refuses a table whose last line is cut; else it is left out (a run that was stopped).
Result<StudyTable> read_table(const std::string& text, const std::string& file, bool whole = true);
/// All rows in the order of their index, byte for byte as one run would have written them. Refuses other
/// plans, programs and processors, gaps and overlaps.
Result<std::string> merge_tables(const std::vector<StudyTable>& tables);

/// A share of all with its interval from the spread between the 16 scramblings (95 %, Student's t of 15).
struct ShareEstimate {
    double share = 0, half_width = 0;
};
struct StudySummary {
    std::uint64_t rows = 0, refused = 0, again = 0, failing = 0;
    ShareEstimate falls_short; ///< of those that can be built
    struct OfCheck {
        std::string check;
        ShareEstimate falls_short;
        double median = 0, p95 = 0, p99 = 0, largest = 0; ///< share of the limit
        double largest_error = 0;
    };
    std::vector<OfCheck> checks;
    std::optional<StudyRow> worst; ///< by the checks that tell
    double worst_share = 0;
    struct Effect {
        std::string key;
        double main = 0, total = 0; ///< shares of the variance of the worst share of a limit
    };
    /// Largest total first; of a plan "effects" only, from its blocks in which all could be built, by the
    /// checks that tell.
    std::vector<Effect> effects;
    std::uint64_t blocks = 0, blocks_left_out = 0;
};
/// Of its checks those that differ between builds, or that some build fails: the others tell nothing of what
/// varies. By number in `checks`.
std::vector<std::size_t> checks_that_tell(const StudySummary& summary);
/// Of each build that could be made the worst share of their limits.
std::vector<double> shares_of_builds(const StudyTable& table, const StudySummary& summary);
/// "3.1 ± 0.4 % (8 of 256; …)"; where none falls short, how many could unseen.
std::string share_words(const ShareEstimate& share, std::uint64_t failing, std::uint64_t built);
StudySummary summarise(const StudyTable& table);
/// "key,label,main,total", rows as in the summary.
std::string effects_csv(const StudyPlan& plan, const StudySummary& summary);
/// "from 60 blocks; 4 with builds that cannot be made are left out"
std::string blocks_words(const StudySummary& summary);
nlohmann::ordered_json summary_json(const StudyTable& table, const StudySummary& summary);

/// Main and total effects from rows of a plan "effects" (Jansen 1999; Saltelli et al. 2010): value of row i
/// of block A, B, or A with one column of B. `values[block][variant]`: 0 is A, 1 is B, 2 + k has column k of
/// B.
std::vector<std::pair<double, double>> effects_of(const std::vector<std::vector<double>>& values);

/// How far one number may lie off before a check falls short that holds now.
struct MarkWindow {
    std::string key, label;
    double now = 0;                        ///< as designed
    std::optional<double> lowest, highest; ///< of the number; none: as far as was looked
    double looked_low = 0, looked_high = 0;
    double error = 0; ///< of the bounds
    std::string why_low, why_high;
};
/// Of each mark that the plan varies the range of its number within which no check
/// falls short that holds now: others as designed, or with `others` draws of the plan for them at once.
Result<std::vector<MarkWindow>>
find_windows(const Study& study, int others, const CancelFlag* cancel = nullptr,
             const std::function<void(const MarkWindow&, int done, int all)>& found = {});

/// What a sheet and TAPE then say of each mark that has one: the tighter of the field's window and the mark's
/// own tolerance, and which of them it is.
void accept_windows(const std::vector<MarkWindow>& windows, CutPlan& plan);

} // namespace ng
