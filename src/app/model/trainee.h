// Who is being trained: the exercise that is open, what was looked at and found, its truth solved in the
// background, the score, and the file that keeps it all.
#pragma once
#include "app/model/session.h"
#include "trainer/train_file.h"
#include <QImage>
#include <functional>

namespace ng::app {

class Trainee : public QObject {
    Q_OBJECT
  public:
    explicit Trainee(Session& session, QObject* parent = nullptr);
    ~Trainee() override;

    /// None: the tables could not be read, then `trouble` says why.
    const TrainerData* data() const { return data_ ? &*data_ : nullptr; }
    QString trouble() const;
    Who who() const { return who_; }
    void set_who(const Who& who);
    /// Where answers are kept; made when the first is given. False: `session` was told why.
    bool open_file(const QString& path);
    QString path() const { return path_; }
    const Progress& progress() const { return progress_; }

    /// What comes next of the shown design, or of any of the job. False: `session` was told why.
    bool ask_next(bool any_design);
    bool ask(const ExerciseWish& wish, std::uint64_t seed);
    /// Of the faults that lie on the shown design.
    bool ask_own();
    /// One with the next number; in an exam its next.
    bool ask_another();
    /// The exercise is left, and with it the exam that runs. What was answered and waits for its field is
    /// kept.
    void close();

    bool begin_exam(std::uint64_t seed, int count, int level, double minutes);
    const std::optional<Exam>& exam() const { return exam_; }           ///< that runs
    const std::optional<Exam>& last_exam() const { return last_exam_; } ///< that was ended
    int exam_at() const { return exam_at_; }                            ///< which of its exercises, from 1
    qint64 exam_left_ms() const;
    /// Ends an exam whose time is over.
    void tick();
    Result<void> write_result(const QString& path) const;

    const std::optional<Exercise>& exercise() const { return exercise_; }
    struct Looked {
        std::string means;
        std::vector<Seen> seen;
    };
    const std::vector<Looked>& looked() const { return looked_; }
    bool is_truth_known() const { return truth_ != nullptr; }
    std::shared_ptr<const Truth> truth() const { return truth_; }
    QString solving_words() const { return solving_; } ///< empty: nothing is being solved
    /// False: it must wait for the field, or `session` was told why.
    bool look(const std::string& means);
    void add_finding(const Finding& finding);
    void remove_finding(std::size_t index);
    const std::vector<Finding>& findings() const { return answer_.findings; }
    double seconds() const; ///< so far, with the looks

    /// Answers: it is scored as soon as the field is known.
    void release(bool release);
    void answer_keys(std::vector<std::string> keys);
    bool answer_number(double number);
    bool is_answered() const { return answered_; }
    const std::optional<Score>& score() const { return score_; }
    const TrainAnswer& answer() const { return answer_; }

    /// Of each fault, when it is judged: without and with it, one scale, and the size that hurts.
    struct Seeing {
        Fault fault;
        QImage without, with;
        QString checks, critical;
    };
    const std::vector<Seeing>& seeing() const { return seeing_; }

    bool forget();
    /// Milliseconds since some start; a test puts its own.
    void set_clock(std::function<qint64()> clock) { clock_ = std::move(clock); }

  signals:
    void changed();
    void judged();
    void seen(); ///< a picture more
    void exam_ended();

  private:
    bool open_exercise(Result<Exercise> exercise);
    void solve_truth();
    void score_now();
    void keep(const Result<Score>& score);
    void leave_exercise();
    void end_exam();
    bool is_ready(); ///< to ask outside an exam; one that runs is ended
    void show_field();
    TrainFile* file();
    void read_progress();
    void refuse_words(const InputError& error) { session_.tell(error); }

    Session& session_;
    std::optional<TrainerData> data_;
    std::optional<InputError> trouble_;
    Who who_{"apprentice", ""};
    QString path_;
    std::optional<TrainFile> file_;
    Progress progress_;
    std::optional<Exercise> exercise_;
    std::shared_ptr<const Truth> truth_;
    QString solving_;
    std::vector<Looked> looked_;
    TrainAnswer answer_;
    bool answered_ = false, kept_ = false;
    std::optional<Score> score_;
    std::vector<Seeing> seeing_;
    std::optional<Exam> exam_, last_exam_;
    int exam_at_ = 0;
    Job exam_job_;
    qint64 exam_begun_ms_ = 0, asked_ms_ = 0;
    std::function<qint64()> clock_;
    bool last_any_design_ = false;
    int run_ = 0; ///< of what is solved: what belongs to an exercise that was left goes nowhere
    Worker solver_, viewer_;
};

} // namespace ng::app
