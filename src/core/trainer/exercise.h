// An exercise: a built accessory with faults that nobody names, or a question about its sheet and plan. It
// carries the design that it is about, frozen, so that it can be answered when the job has gone on.
#pragma once
#include "plan/sheet.h"
#include "trainer/chance.h"
#include "trainer/means.h"

namespace ng {

enum class Task { inspect, order, missing, blade, tool, connector, datum, window, caution };
const std::vector<Task>& all_tasks();
const char* task_word(Task task);  ///< "inspect": in files
const char* task_title(Task task); ///< "Find and judge the faults"
std::optional<Task> task_of(const std::string& word);

struct Option {
    std::string key, words; ///< "a", "b", ...
};

/// What is asked, without its answer.
struct Question {
    enum class Form { inspection, order, one, number };
    Form form = Form::inspection;
    std::string words;
    std::vector<std::string> given; ///< what one may know
    std::vector<Option> options;    ///< to be put in order, or to choose one of
    std::string unit;               ///< of a number
};

struct Exercise {
    std::uint64_t seed = 0;
    int level = 1; ///< 1 to 3: faults easily found, found as often as not, hardly found
    Task task = Task::inspect;
    std::string design;
    bool made_by_hand = false; ///< by an instructor, from the faults of a design
    Job job;                   ///< frozen: this design alone, with the faults that are asked for
    Question question;
    std::string data_hash; ///< TrainerData::hash when it was asked
    std::string id;        ///< 16 hexadecimal digits of what it holds

    const std::vector<Fault>& faults() const { return job.find_design(design)->faults; }
    /// What is tied to its seed, one thing apart from another.
    Chance chance(const std::string& purpose) const;
    /// What progress counts: each kind of fault in it, or the drill.
    std::vector<std::string> topics() const;
};

struct ExerciseWish {
    int level = 1;
    std::optional<Task> task; ///< none: by the seed
    std::string design;       ///< empty: by the seed
    std::string kind;         ///< of fault, that the first one is where the design can have it
};

constexpr std::uint64_t most_seed = (1ull << 53) - 1; ///< what every JSON reader keeps whole

/// The same for the same job, seed and wish. Refuses a seed above most_seed, a level that is none, a design
/// that is not there or does not build, and a wish that no design of the job can meet.
Result<Exercise> new_exercise(const Job& job, std::uint64_t seed, const ExerciseWish& wish,
                              const TrainerData& data);
/// Of the faults that a design has: an instructor's. Refuses one that does not build.
Result<Exercise> exercise_from(const Job& job, const std::string& design, const TrainerData& data);

/// What is handed out: `whole` with the frozen job and so with its answer.
nlohmann::ordered_json exercise_json(const Exercise& exercise, const TrainerData& data, bool whole);
/// Refuses by the file's name what is no whole exercise, and one that was changed since it was written.
Result<Exercise> read_exercise(const nlohmann::json& document, const std::string& file);

/// Refuses where the tables are not those that it was asked with: it is kept, and not scored.
Result<void> check_unchanged(const Exercise& exercise, const TrainerData& data);

/// Kinds that the design can have: those with a field, and rules where the sheet has their step.
Result<std::vector<Fault>> faults_to_ask(const PreparedDesign& prepared, const WorkSheet& sheet);

} // namespace ng
