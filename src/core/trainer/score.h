// What inspection shows, what is right, and what an answer is worth.
#pragma once
#include "fault/answer.h"
#include "trainer/exercise.h"

namespace ng {

struct FaultTruth {
    Fault fault;
    FaultAnswer answer; ///< of it alone
};
/// What the field says of an exercise: each fault alone, and all of them together.
struct Truth {
    Sound sound;
    std::vector<FaultTruth> faults;
    FaultDecision whole = FaultDecision::accept; ///< the hardest of the faults' and of all together
    std::string why;                             ///< of the whole
    bool release() const { return whole == FaultDecision::accept; }
};
/// Solves. Refuses what the fault engine refuses.
Result<Truth> truth_of(const Exercise& exercise, const TrainerData& data, const CancelFlag* cancel = nullptr);

/// What a look with one means shows: whether each fault is found is settled by the seed, so that a second
/// look with the same means finds what the first one found.
struct Seen {
    std::string sees;
    Side side = Side::none;
    std::optional<double> from_edge_mm; ///< as well as hands measure it: to 0.5 mm; none: it has no place
    std::optional<double> size_mm;      ///< where the means reads sizes
    std::size_t fault = 0;              ///< which of the exercise's: never told
};
/// Refuses means that are none. A partial-discharge set needs the truth: what it shows is the field's.
Result<std::vector<Seen>> look(const Exercise& exercise, const std::string& means, const TrainerData& data,
                               const Truth* truth);
/// Whether the means needs the field.
bool needs_field(const Means& means);

struct Finding {
    std::string kind;
    Side side = Side::none;
    std::optional<double> from_edge_mm;
    FaultDecision decision = FaultDecision::ask;
};

/// An answer as somebody gives it (docs/trainer.md).
struct TrainAnswer {
    std::string exercise; ///< id; empty: not said
    double seconds = 0;   ///< that it took, apart from the looks
    std::vector<std::string> looks;
    std::vector<Finding> findings;
    bool release = false;
    std::vector<std::string> keys;
    std::optional<double> number;
};
Result<TrainAnswer> read_answer(const nlohmann::json& document, const std::string& file);
nlohmann::ordered_json answer_json(const TrainAnswer& answer);

struct Score {
    double points = 0;  ///< 0 to 1
    bool right = false; ///< all of it
    double seconds = 0; ///< of the answer, with its looks
    double cost_minutes = 0;
    std::vector<std::string> lines;                   ///< what was right, missed, imagined, and why
    std::vector<std::string> costs;                   ///< what it would have cost
    std::vector<std::pair<std::string, bool>> topics; ///< answered right
    std::size_t found = 0, missed = 0, imagined = 0;
};
/// Refuses an answer to another exercise, one that its question has no place for, tables that changed
/// meanwhile, and a design that no longer builds or asks what it asked: it is not scored then.
/// `truth`: of an inspection, solved if none.
Result<Score> score(const Exercise& exercise, const TrainAnswer& answer, const TrainerData& data,
                    const Truth* truth = nullptr, const CancelFlag* cancel = nullptr);
nlohmann::ordered_json score_json(const Exercise& exercise, const Score& score);

/// What would be right, in the form of an answer.
Result<TrainAnswer> right_answer(const Exercise& exercise, const TrainerData& data,
                                 const Truth* truth = nullptr);

} // namespace ng
