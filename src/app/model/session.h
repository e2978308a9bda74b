// What the window shows, in one place: document, prepared design, solution, pinned state, units, theme, axis.
#pragma once
#include "app/model/axis_model.h"
#include "app/model/document.h"
#include "app/model/paced.h"
#include "app/model/solver.h"
#include "app/model/worker.h"
#include "draw/theme.h"
#include "fault/answer.h"
#include "plan/sheet.h"
#include "record/as_built.h"
#include "schedule/sensitivity.h"
#include "study/study.h"
#include "units/quantity.h"
#include <optional>

namespace ng::app {

class Session : public QObject {
    Q_OBJECT
  public:
    /// `foreseen`: the job that is about to be opened. Its design is solved while the window is still built.
    explicit Session(Library library, const std::optional<Job>& foreseen = {}, QObject* parent = nullptr);

    Document document;
    AxisModel axis;

    const Library& library() const { return library_; }
    /// Of the design that is shown; none: a newer version made it.
    const Family* family() const { return library_.families.find(document.design().family); }
    LengthUnit unit() const { return unit_; }
    const draw::Theme& theme() const { return theme_; }
    /// The design as described now; null while the input cannot be used, then `input_error` says why.
    std::shared_ptr<const PreparedDesign> prepared() const { return prepared_; }
    const std::optional<InputError>& input_error() const { return input_error_; }
    /// Cut plan of the prepared design; null where it has none, then `plan_error` says why.
    std::shared_ptr<const CutPlan> plan() const { return plan_; }
    const std::optional<InputError>& plan_error() const { return plan_error_; }
    /// The work sheet, made when asked for.
    Result<WorkSheet> sheet() const;
    /// Changes what hands choose about the work: the field is not touched.
    void change_work(const QString& what, const std::function<void(WorkChoices&)>& change);
    SolvedPtr solved() const { return solved_; }
    /// Of the shown design: a pin stays with the design that it was set on.
    SolvedPtr pinned() const;
    /// The job as it was when this design was pinned; none: it is not.
    std::shared_ptr<const Job> pinned_job(const std::string& design) const;
    /// Whether `solved` belongs to the design as described now.
    bool is_current() const { return solved_ && solved_->prepared == prepared_; }
    QString solve_state() const { return solve_state_; }
    bool is_refining() const { return refining_; }

    /// The test schedule of the design; runs in the background after every refined solution.
    std::shared_ptr<const Schedule> schedule() const { return schedule_; }
    /// Whether it belongs to the design as described now and is whole.
    bool schedule_is_current() const {
        return schedule_ && schedule_->complete && schedule_for_ == prepared_;
    }
    const ScheduleProgress& schedule_progress() const { return schedule_progress_; }
    bool schedule_runs() const { return schedule_runs_; }
    void run_schedule();
    void stop_schedule();
    ScheduleCache& schedule_cache() { return cache_; }
    /// Worst of checks and schedule, as far as they are known for the design as described now.
    Status overall() const;
    int set_aside() const;         ///< checks that are not judged and do not decide
    QString overall_words() const; ///< with a dagger where a level is unconfirmed

    /// What a check hangs on; runs in the background when asked.
    std::shared_ptr<const Sensitivity> sensitivity() const { return sensitivity_; }
    QString sensitivity_state() const { return sensitivity_state_; }
    const std::optional<CheckId>& sensitivity_check() const { return sensitivity_check_; }
    void find_sensitivity(const CheckId& check);
    void stop_sensitivity();          ///< what was found so far stays
    void apply(const Effect& effect); ///< as one undo step

    /// While a hand moves, only coarse solutions are made.
    void set_live(bool live);
    bool is_live() const { return live_; }
    /// Whether map_changed follows the traces at once.
    bool map_is_near() const { return !live_ || map_.is_near(); }
    /// While a hand drags: what shows the field waits for it instead of showing that it has none.
    bool solution_is_coming() const { return live_ && prepared_; }
    static constexpr double usual_goal = 0.01;
    void refine(double goal = usual_goal);
    /// The first picture is painted: its refinement, which would have kept it waiting, may begin.
    void go_on_refining();
    void cancel();
    void set_unit(LengthUnit unit);
    StressUnit stress_unit() const { return stress_unit_; }
    void set_stress_unit(StressUnit unit);
    void set_dark(bool dark);
    /// BUILD shows all cores from the jacket to their ends, and the axis reaches that far.
    void set_whole_end(bool whole);
    bool whole_end() const { return whole_end_; }
    /// Whether the design is shown and judged everywhere with the faults that lie on it.
    bool with_faults() const { return with_faults_; }
    void set_with_faults(bool with);
    /// Critical sizes that were looked for, of the design with the hash `of`: for hold points of its sheet.
    void keep_critical_sizes(std::string of, std::vector<std::pair<Fault, CriticalSize>> sizes);
    /// Windows of its marks, of the design with the hash judged_hash(): on TAPE and on its sheet.
    void keep_windows(std::string of, std::vector<MarkWindow> windows);
    /// Marks of the shown design as they were built: on TAPE.
    void keep_built(std::vector<BuiltMark> marks);
    const std::vector<BuiltMark>& built_marks() const { return built_marks_; }
    /// Hash of the open design alone: what solutions that are kept elsewhere belong to.
    std::string design_hash() const;
    /// The same with the faults that it is judged with, if it is.
    std::string judged_hash() const;
    /// The same with what its quantities vary by.
    std::string varied_hash() const;
    void pin();
    void unpin();
    void set_number(const std::string& key, double value_mm, const QString& label);
    void set_numbers(const std::map<std::string, double>& numbers, const QString& label); ///< one undo step
    void tell(const InputError& error) { emit message(QString::fromStdString(error.message())); }

    /// A proposed profile, drawn over the section in its coordinates.
    void show_proposal(std::vector<Point> line);
    const std::vector<Point>& proposal() const { return proposal_; }
    Library& changeable_library() { return library_; }
    /// After the library has changed: the design is prepared anew.
    void prepare_again() { prepare(); }

    double needle_z() const; ///< in the coordinates of the prepared (else solved) design
    double datum_z() const;
    void move_needle_to_z(double z_mm);

  signals:
    void prepared_changed();
    void traces_changed(); ///< a solution to be drawn at once
    void map_changed();    ///< its map and lines: a hand sees them after the traces
    void solved_changed(); ///< what says it in words and figures: while a hand moves, some times a second
    void state_changed();
    void pinned_changed();
    void proposal_changed();
    void schedule_changed();
    void sensitivity_changed();
    void built_changed();
    void look_changed(); ///< units, theme or what BUILD shows
    void message(QString text);
    void withdrawn(QString text); ///< a message whose cause is gone

  private:
    void show_solution(); ///< emits all three, in their time
    void say_solution();  ///< emits the last two
    void prepare();
    void cannot_prepare(const InputError& error);
    void foresee(const Job& job);
    std::shared_ptr<const PreparedDesign> take_foreseen();
    void say_refining();
    void take_plan(CutPlan plan);
    bool keep_solution();
    Job judged_job() const; ///< the open design alone, and what it is judged with
    void take(SolvedPtr solved);

    Library library_;
    Solver solver_;
    std::shared_ptr<const PreparedDesign> prepared_;
    std::optional<InputError> input_error_;
    std::shared_ptr<const CutPlan> plan_;
    std::optional<InputError> plan_error_;
    Result<StepBook> book_;
    std::shared_ptr<const PreparedDesign> before_; ///< the description before the last edit
    /// The design alone without what is chosen about the work, and whether with its faults.
    std::optional<std::pair<Job, bool>> judged_before_;
    SolvedPtr solved_;
    /// Run while a hand's solution is drawn and not yet mapped, and said. Half a frame after it is drawn: by
    /// then it is painted. Nobody reads figures more than ten times a second.
    Paced map_{8, 40}, words_{8, 100};
    struct Pinned {
        SolvedPtr solved;
        std::shared_ptr<const Job> job;
    };
    std::map<std::string, Pinned> pinned_; ///< by design
    LengthUnit unit_ = LengthUnit::mm;
    StressUnit stress_unit_ = StressUnit::kV_per_mm;
    bool whole_end_ = false, with_faults_ = false;
    std::string critical_of_;
    std::vector<std::pair<Fault, CriticalSize>> critical_;
    std::string windows_of_;
    std::vector<MarkWindow> windows_;
    std::vector<BuiltMark> built_marks_;
    void set_axis_limits();
    std::vector<Point> proposal_;
    draw::Theme theme_ = draw::Theme::light();
    QString solve_state_;
    ScheduleCache cache_;
    Worker scheduler_, why_;
    std::shared_ptr<const Schedule> schedule_;
    std::shared_ptr<const PreparedDesign> schedule_for_;
    ScheduleProgress schedule_progress_;
    bool schedule_runs_ = false;
    int schedule_run_ = 0, why_run_ = 0; ///< results of earlier runs are dropped
    std::shared_ptr<const Sensitivity> sensitivity_;
    std::optional<CheckId> sensitivity_check_;
    QString sensitivity_state_;
    bool live_ = false, refining_ = false, fresh_design_ = true;
    bool starting_ = true, begun_ = false; ///< until something was given to the solver
    struct Foreseen {
        Job job;
        std::shared_ptr<const PreparedDesign> prepared; ///< that the solver has
    };
    std::optional<Foreseen> foreseen_;
};

} // namespace ng::app
