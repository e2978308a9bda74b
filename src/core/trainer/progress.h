// What comes next: Leitner's boxes (S. Leitner, So lernt man lernen, 1972; from memory). A topic that is
// answered right goes one box up, one that is not goes back to the first; box n is asked again after 2^(n-1)
// exercises.
#pragma once
#include "trainer/exercise.h"

namespace ng {

constexpr int leitner_boxes = 5;

struct Topic {
    std::string name; ///< a kind of fault, "drill: order", "nothing wrong"
    int box = 1;
    std::vector<std::pair<std::size_t, bool>> answers; ///< exercise, from 1, and whether it was right
    std::size_t right() const;
    std::size_t last() const { return answers.empty() ? 0 : answers.back().first; } ///< exercise
    bool due(std::size_t exercises) const { return exercises - last() >= (std::size_t{1} << (box - 1)); }
};
/// "ring nick", "Put the steps in order"
std::string topic_title(const std::string& topic);

class Progress {
  public:
    /// One exercise's topics, in the order in which they were answered.
    void take(const std::vector<std::pair<std::string, bool>>& topics);
    const std::vector<Topic>& topics() const { return topics_; } ///< as they first came
    std::size_t exercises() const { return exercises_; }
    /// What to ask of these designs' topics: what is due in the first box, waiting longest; else one that was
    /// never asked, by the seed; else what is due in the lowest box; else what waits longest.
    std::string next(const std::vector<std::string>& possible, std::uint64_t seed) const;
    /// Faults are made harder to find as their kind goes up.
    int level_of(const std::string& topic) const;

  private:
    const Topic* find(const std::string& name) const;
    std::vector<Topic> topics_;
    std::size_t exercises_ = 0;
};

/// The wish that asks for a topic.
ExerciseWish wish_for(const std::string& topic, const Progress& progress);
/// What comes next for somebody: of a design of the job (empty: by the seed), which is the number of
/// exercises that they have answered. Refuses what new_exercise refuses.
Result<Exercise> next_exercise(const Job& job, const std::string& design, const Progress& progress,
                               const TrainerData& data);
/// Every drill, and every kind of fault that a design can have.
Result<std::vector<std::string>> topics_of(const Job& job, const std::string& design,
                                           const TrainerData& data);

} // namespace ng
