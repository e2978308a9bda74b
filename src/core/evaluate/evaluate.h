// One design with something changed, from its numbers to its verdict: what search, sensitivity, schedule,
// comparison and studies all do with a variant, once.
#pragma once
#include "design/prepared.h"
#include "units/cancel.h"
#include "verdict/levels.h"

namespace ng {

/// What is changed of a design; nothing: as it is.
struct Variant {
    std::map<std::string, double> numbers;      ///< by parameter key
    std::map<std::string, std::string> choices; ///< by parameter key
};

/// How exactly a variant is solved: for what its figures are used.
enum class Use {
    judged,  ///< held against limits: 1 %
    drawn,   ///< only looked at: 3 %
    compared ///< beside others of its kind on a mesh as coarse: no error is known
};

struct Evaluation;
struct EvaluateOptions {
    Use use = Use::judged;
    std::optional<double> goal = {}; ///< instead of that of the use
    const CancelFlag* cancel = nullptr;
    std::size_t threads = 1; ///< of the solve
    /// Only as exactly as the decision needs: what is far from its limit is known to no better than this,
    /// what is within its error of it to the goal.
    std::optional<double> loosest = {};
    std::vector<std::string> read_too = {}; ///< paths that are read to the goal besides those of the checks
    /// Meshes of a design much like this one, for its own to follow; and whether to keep its own for others.
    std::vector<std::shared_ptr<const Follower>> like = {};
    bool movable = false; ///< then solved somewhat closer than this one needs: others lie nearer to limits
    /// Of a design much like this one, solved with the same use and goal: planar sections that are the same
    /// in both are not solved again.
    const Evaluation* beside = nullptr;
    const Verdict* prior = nullptr; ///< of a design much like this one: how far from its limits it lies
};

/// All of it: as large as its solutions.
struct Evaluation {
    PreparedDesign prepared;
    LevelSolutions solutions;
    Verdict verdict;
    bool solved_again = false; ///< finer: a check lay within its error of its limit
};
/// The design with something changed, not yet solved. Refuses what prepare_design refuses.
Result<PreparedDesign> prepare_variant(const Job& job, const std::string& design_id, const Variant& variant,
                                       const Library& library, const Preparer& prepare);
/// Prepares, solves and judges. `prepare` has no default: whoever asks says whether faults are on it. Refuses
/// what prepare_design and the solver refuse; cancelled: the solutions' report says so.
Result<Evaluation> evaluate(const Job& job, const std::string& design_id, const Variant& variant,
                            const Library& library, const Preparer& prepare,
                            const EvaluateOptions& options = {});

/// Solves and judges what is prepared, its section changed or not.
Result<Evaluation> evaluate_prepared(PreparedDesign prepared, const EvaluateOptions& options = {});

/// Writes what `prepared` takes by its usual value into the design: it stays when what that follows from
/// changes. Lengths alone: what was marked is marked.
void keep_usual_values(const PreparedDesign& prepared, Design& design, bool lengths_alone);

/// What is kept of many: some 16 bytes a check.
struct Outcome {
    struct Reading {
        std::uint16_t check = 0; ///< its number: check_id_of()
        Status status = Status::not_judged;
        float value = 0, limit = 0, relative_error = 0;
        float share() const { return value / limit; } ///< of the limit
    };
    Status status = Status::not_judged;
    bool cancelled = false;
    float control_length_mm = 0;
    std::vector<Reading> readings; ///< in the order of the verdict

    const Reading* find(const CheckId& check) const;
    /// Greatest share of a limit; 0: no check has one.
    float worst_share() const;
};
Outcome outcome_of(const Evaluation& evaluation);
/// The same from the start; `cancelled` where the flag was raised meanwhile.
Result<Outcome> outcome_of(const Job& job, const std::string& design_id, const Variant& variant,
                           const Library& library, const Preparer& prepare,
                           const EvaluateOptions& options = {});
/// Of a number that an outcome of this process holds.
const CheckId& check_id_of(std::uint16_t check);
const std::string& check_title_of(std::uint16_t check);

} // namespace ng
