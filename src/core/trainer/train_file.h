// What somebody answered (*.ngtrain): a SQLite file of its own, apart from job and record. It holds roles and
// initials only, and what was asked whole, so that it can be scored again; a trainee is deleted when asked.
#pragma once
#include "record/entry.h"
#include "trainer/progress.h"
#include "trainer/score.h"
#include <memory>

namespace ng {

constexpr std::int64_t train_application_id = 0x4E475452; // "NGTR"
/// 2: scores say by which version of the rules was judged. Files of version 1 are read, and become version 2
/// with the first answer that is added to them.
constexpr int train_format_version = 2;

struct KeptAnswer {
    std::int64_t number = 0;
    Who who;
    std::string at_utc;
    std::optional<std::int64_t> exam;
    std::string exercise, given; ///< JSON, whole
    std::optional<double> points;
    std::string result;     ///< JSON of the score; empty: not scored
    std::string not_scored; ///< why
    /// Of the rules that it was scored by (units/version.h); none: it is not scored.
    std::optional<int> rules;
};

struct Exam {
    std::int64_t number = 0;
    Who who;
    std::uint64_t seed = 0;
    int count = 10, level = 1;
    double minutes = 30;
    std::string begun_utc, ended_utc; ///< empty: it runs
};

class TrainFile {
  public:
    /// Refuses a file that is there; and in `open` what is no such file, newer, or damaged.
    static Result<TrainFile> create(const std::filesystem::path& path);
    static Result<TrainFile> open(const std::filesystem::path& path, bool to_read = false);
    static Result<TrainFile> open_or_create(const std::filesystem::path& path);
    TrainFile(TrainFile&&) noexcept;
    TrainFile& operator=(TrainFile&&) noexcept;
    ~TrainFile();
    const std::filesystem::path& path() const;

    /// Keeps an answer, scored or with why it was not. Refuses nobody's.
    Result<std::int64_t> keep(const Who& who, const Exercise& exercise, const TrainAnswer& given,
                              const TrainerData& data, const Result<Score>& score,
                              std::optional<std::int64_t> exam = {}, const TimeStamp& at = time_now());
    /// Puts the score to an answer that was kept without one.
    Result<void> set_score(std::int64_t number, const Exercise& exercise, const Score& score);
    /// In the order in which they were given; of nobody in particular: all.
    Result<std::vector<KeptAnswer>> answers(const std::optional<Who>& who = {}) const;
    Result<Progress> progress(const Who& who) const;
    Result<std::vector<Who>> trainees() const;

    Result<Exam> begin_exam(const Who& who, std::uint64_t seed, int count, int level, double minutes,
                            const TimeStamp& at = time_now());
    Result<void> end_exam(std::int64_t number, const TimeStamp& at = time_now());
    Result<std::vector<Exam>> exams(const std::optional<Who>& who = {}) const;

    /// Deletes all of somebody, and from the disk; how many answers that were.
    Result<std::size_t> forget(const Who& who);

  private:
    struct Impl;
    explicit TrainFile(std::unique_ptr<Impl> impl);
    std::unique_ptr<Impl> impl_;
};

/// Scores what was kept without a score, where that is possible now; how many were.
Result<std::size_t> score_again(TrainFile& file, const TrainerData& data);

/// Exercises of an exam: seeds one after the other.
Result<std::vector<Exercise>> exam_of(const Job& job, std::uint64_t seed, int count, const ExerciseWish& wish,
                                      const TrainerData& data);

} // namespace ng
