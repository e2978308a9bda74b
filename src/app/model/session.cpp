#include "app/model/session.h"
#include "app/model/time_left.h"
#include "design/revisions.h"
#include "fault/fault.h"
#include "field/result_io.h"
#include "io/digest.h"
#include "plan/whole_end.h"
#include "units/parallel.h"

namespace ng::app {
namespace {

/// What the verdict does not hang on.
void leave_out_unjudged(Design& design) {
    design.work = {};
    design.tolerances.clear();
    design.correlated.clear();
}

Result<Schedule> run_schedule_of(const Solved& solved, const ScheduleOptions& options) {
    return ng::run_schedule(*solved.prepared, solved.level_solutions(), options);
}

} // namespace

Session::Session(Library library, const std::optional<Job>& foreseen, QObject* parent)
    : QObject(parent), library_(std::move(library)), book_(load_steps(library_)) {
    connect(&document, &Document::job_changed, this, &Session::prepare);
    connect(&document, &Document::job_opened, this, [this] { pinned_.clear(); });
    connect(&document, &Document::design_changed, this, [this] {
        fresh_design_ = true;
        solved_.reset();
        prepare();
        show_solution();
    });
    connect(&document, &Document::autosave_failed, this, &Session::message);
    connect(&solver_, &Solver::ready, this, &Session::take);
    connect(&map_, &QTimer::timeout, this, [this] {
        map_.done();
        emit map_changed();
    });
    connect(&words_, &QTimer::timeout, this, &Session::say_solution);
    connect(&solver_, &Solver::progress, this, [this](int passes, double worst_error, double seconds) {
        solve_state_ =
            passes < 2
                ? QString("refining, pass %1 done, %2 s").arg(passes).arg(seconds, 0, 'f', 2)
                : QString("refining, pass %1: error %2 %").arg(passes).arg(100 * worst_error, 0, 'g', 2);
        emit state_changed();
    });
    connect(&solver_, &Solver::failed, this, [this](const QString& text) {
        refining_ = false;
        solve_state_ = "not solved";
        emit state_changed();
        emit message(text);
    });
    connect(&solver_, &Solver::cancelled, this, [this] {
        refining_ = false;
        solve_state_ = "refinement cancelled: coarse on screen, F5 refines";
        emit state_changed();
    });
    connect(&scheduler_, &Worker::failed, this, &Session::message);
    connect(&why_, &Worker::failed, this, &Session::message);
    if (foreseen) foresee(*foreseen);
    prepare();
    starting_ = false;
    // What is opened at once is solved in the place of the job to begin with; what was foreseen is given
    // time.
    constexpr int most_ms = 1000;
    QTimer::singleShot(foreseen_ ? most_ms : 0, this, [this] {
        go_on_refining();
        if (!begun_) refine();
    });
}

void Session::foresee(const Job& job) {
    auto prepared = prepare_design(job, job.open_design, library_);
    if (!prepared) return; // opening it says why
    foreseen_ = Foreseen{job, std::make_shared<const PreparedDesign>(std::move(*prepared))};
    solver_.hold(true);
    solver_.request(foreseen_->prepared, true, usual_goal);
}

void Session::go_on_refining() {
    solver_.hold(false);
}

/// The design as it was foreseen, where that is what is open.
std::shared_ptr<const PreparedDesign> Session::take_foreseen() {
    if (!foreseen_ || begun_ || with_faults_ || live_ || foreseen_->job != document.job()) return {};
    return std::exchange(foreseen_, std::nullopt)->prepared;
}

void Session::cannot_prepare(const InputError& error) {
    prepared_.reset();
    plan_.reset();
    input_error_ = error;
    refining_ = false;
    solve_state_ = "not solved: the description cannot be used yet";
    solver_.cancel();
    emit prepared_changed();
    emit state_changed();
}

void Session::prepare() {
    stop_schedule();
    why_.cancel();
    ++why_run_;
    sensitivity_.reset();
    sensitivity_state_.clear();
    sensitivity_check_.reset();
    auto ready = take_foreseen();
    const bool foreseen = ready != nullptr;
    if (!foreseen) {
        auto prepared = preparer(with_faults_)(document.job(), document.job().open_design, library_);
        if (!prepared) return cannot_prepare(prepared.error());
        ready = std::make_shared<const PreparedDesign>(std::move(*prepared));
    }
    input_error_.reset();
    before_ = std::exchange(prepared_, std::move(ready));
    const bool kept = keep_solution();
    if (live_ && !kept) refine(); // while it is solved, the rest follows
    const auto& built = prepared_->built;
    plan_.reset();
    plan_error_.reset();
    if (auto plan = make_plan(*prepared_))
        take_plan(std::move(*plan));
    else
        plan_error_ = plan.error();
    if (!has_whole_end(*prepared_)) whole_end_ = false;
    set_axis_limits();
    if (fresh_design_) {
        fresh_design_ = false;
        axis.fit();
        move_needle_to_z(first_screen_edge_z(built));
    }
    emit prepared_changed();
    if (kept)
        show_solution();
    else if (foreseen)
        say_refining();
    else if (!live_ && !starting_)
        refine();
}

/// Where an edit touched only what the field does not see (the work, revisions, tolerances, faults that lie
/// on the design without being judged), field and schedule stay as they are.
bool Session::keep_solution() {
    auto job = judged_job();
    job.step_texts.clear();
    const bool same = judged_before_ && *judged_before_ == std::pair(job, with_faults_);
    judged_before_.emplace(std::move(job), with_faults_);
    if (!same || !solved_ || solved_->coarse || refining_ || solved_->prepared != before_) return false;
    auto moved = std::make_shared<Solved>(*solved_);
    moved->prepared = prepared_;
    if (schedule_for_ == before_) schedule_for_ = prepared_;
    solved_ = std::move(moved);
    if (!schedule_is_current()) run_schedule();
    return true;
}

Result<WorkSheet> Session::sheet() const {
    if (!prepared_ || !plan_)
        return refuse("Work sheet", "the design has no cut plan", "Correct what the message above names");
    if (!book_) return tl::unexpected(book_.error());
    auto sheet = make_sheet(*prepared_, *plan_, *book_, library_.connectors, document.job().step_texts);
    if (sheet && !critical_.empty() && critical_of_ == design_hash()) write_hold_points(critical_, *sheet);
    return sheet;
}

void Session::take_plan(CutPlan plan) {
    if (!windows_.empty() && windows_of_ == judged_hash()) accept_windows(windows_, plan);
    plan_ = std::make_shared<const CutPlan>(std::move(plan));
}

void Session::keep_windows(std::string of, std::vector<MarkWindow> windows) {
    windows_of_ = std::move(of);
    windows_ = std::move(windows);
    if (plan_) take_plan(*plan_);
    emit state_changed();
    emit look_changed();
}

void Session::keep_critical_sizes(std::string of, std::vector<std::pair<Fault, CriticalSize>> sizes) {
    critical_of_ = std::move(of);
    critical_ = std::move(sizes);
    emit state_changed();
}

void Session::keep_built(std::vector<BuiltMark> marks) {
    if (marks.empty() && built_marks_.empty()) return;
    built_marks_ = std::move(marks);
    emit built_changed();
}

std::string Session::design_hash() const {
    auto job = alone(document.job(), document.design());
    leave_out_unjudged(job.designs.front());
    return hash_of(job);
}

std::string Session::judged_hash() const {
    return hash_of(judged_job());
}

std::string Session::varied_hash() const {
    auto job = judged_job();
    job.designs.front().tolerances = document.design().tolerances;
    job.designs.front().correlated = document.design().correlated;
    return hash_of(job);
}

Job Session::judged_job() const {
    auto job = alone(document.job(), document.design());
    leave_out_unjudged(job.designs.front());
    if (with_faults_) job.designs.front().faults = document.design().faults; // no part of a design alone
    return job;
}

void Session::set_with_faults(bool with) {
    if (with == with_faults_) return;
    with_faults_ = with;
    prepare();
    emit look_changed();
}

void Session::change_work(const QString& what, const std::function<void(WorkChoices&)>& change) {
    const auto id = document.job().open_design;
    document.edit(what, {}, [&](Job& job) { change(job.find_design(id)->work); });
}

void Session::refine(double goal) {
    if (!prepared_) return;
    solver_.request(prepared_, !live_, goal);
    if (live_)
        refining_ = false; // a hand's solution says so itself
    else
        say_refining();
    begun_ = true;
}

void Session::say_refining() {
    begun_ = refining_ = true;
    solve_state_ = "solving: first estimates are closed forms";
    emit state_changed();
}

void Session::cancel() {
    solver_.cancel();
    refining_ = false;
    solve_state_ = "refinement cancelled: coarse on screen, F5 refines";
    emit state_changed();
}

void Session::set_live(bool live) {
    if (live == live_) return;
    live_ = live;
    if (live) {
        document.begin_gesture();
        return;
    }
    if (words_.isActive()) say_solution();
    emit prepared_changed(); // what is not seen did not follow the hand
    refine();
}

void Session::take(SolvedPtr solved) {
    if (!prepared_ || solved->prepared->design.id != prepared_->design.id)
        return; // of a design no longer shown
    // A late coarse picture of the same description must not replace its refined one.
    if (solved_ && solved_->prepared == solved->prepared && solved->coarse && !solved_->coarse) return;
    solved_ = std::move(solved);
    if (solved_->coarse) {
        const auto time = QString("%1 ms").arg(solved_->edit_to_ready_ms, 0, 'f', 0);
        solve_state_ = live_       ? "coarse, follows the hand, " + time
                       : refining_ ? "coarse, " + time + "; refining"
                                   : "coarse, " + time + "; F5 refines";
    } else {
        refining_ = false;
        solve_state_ = QString("refined, %1, %2 s")
                           .arg(QString::fromStdString(describe_end(solved_->solution.report)))
                           .arg(solved_->solution.report.total_s, 0, 'f', 2);
        if (is_current() && solved_->solution.report.converged) run_schedule();
    }
    show_solution();
}

void Session::show_solution() {
    if (live_) {
        map_.ask();
        words_.ask();
    }
    emit traces_changed();
    if (!live_) say_solution();
}

void Session::say_solution() {
    map_.done();
    words_.done();
    emit map_changed();
    emit solved_changed();
    emit state_changed();
}

void Session::run_schedule() {
    const auto solved = solved_;
    if (!is_current() || solved->coarse) return;
    const int run = ++schedule_run_;
    schedule_runs_ = true;
    schedule_progress_ = {};
    emit schedule_changed();
    scheduler_.start([this, run, solved, job = document.job(), prepare = preparer(with_faults_),
                      library = library_](const CancelFlag& cancel) {
        ScheduleOptions options;
        options.cancel = &cancel;
        options.threads = usable_threads();
        options.cache = &cache_;
        options.progress = [this, run](const ScheduleProgress& progress, const TestResult*) {
            scheduler_.hand_over([this, run, progress] {
                if (run != schedule_run_) return;
                schedule_progress_ = progress;
                emit schedule_changed();
            });
        };
        auto result = run_schedule_of(*solved, options);
        scheduler_.hand_over([this, run, result, solved] {
            if (run != schedule_run_) return;
            schedule_runs_ = false;
            if (result) {
                schedule_ = std::make_shared<const Schedule>(*result);
                schedule_for_ = solved->prepared;
            } else {
                tell(result.error());
            }
            emit schedule_changed();
            emit state_changed();
        });
        // The verdict stands; what was assumed is looked for behind it.
        if (!result || !result->complete) return;
        auto assumed = find_assumptions(job, solved->prepared->design.id, library, prepare, &cancel);
        if (!assumed || assumed->empty()) return;
        scheduler_.hand_over([this, run, assumed = std::move(*assumed)] {
            if (run != schedule_run_ || !schedule_) return;
            auto with = *schedule_;
            with.assumptions = assumed;
            schedule_ = std::make_shared<const Schedule>(std::move(with));
            emit schedule_changed();
        });
    });
}

void Session::stop_schedule() {
    scheduler_.cancel();
    ++schedule_run_;
    if (!schedule_runs_) return;
    schedule_runs_ = false;
    emit schedule_changed();
}

Status Session::overall() const {
    if (!is_current() || solved_->coarse) return Status::not_judged;
    const auto checks = solved_->verdict.status;
    if (!schedule_is_current()) return checks == Status::falls_short ? checks : Status::not_judged;
    return severity(schedule_->status) > severity(checks) ? schedule_->status : checks;
}

int Session::set_aside() const {
    if (schedule_is_current()) return schedule_->set_aside;
    return is_current() && !solved_->coarse ? solved_->verdict.set_aside : 0;
}

QString Session::overall_words() const {
    const auto status = overall();
    if (status == Status::not_judged && schedule_runs_) return "judging";
    const bool unconfirmed =
        schedule_is_current() && std::any_of(schedule_->tests.begin(), schedule_->tests.end(),
                                             [](const auto& t) { return t.applies && !t.verified; });
    return QString::fromStdString(status_words(status, set_aside())) +
           (unconfirmed && status != Status::not_judged ? " †" : "");
}

void Session::find_sensitivity(const CheckId& check) {
    if (!prepared_) return;
    const int run = ++why_run_;
    sensitivity_.reset();
    sensitivity_check_ = check;
    sensitivity_state_ = "solving the alternatives";
    emit sensitivity_changed();
    SensitivityRequest request;
    request.job = document.job();
    request.design_id = prepared_->design.id;
    request.check = check;
    if (schedule_is_current()) request.tightest = tightest_limits(*schedule_);
    why_.start([this, run, request, prepare = preparer(with_faults_),
                library = library_](const CancelFlag& cancel) {
        const TimeLeft left;
        auto result = ng::find_sensitivity(
            request, library, prepare,
            [this, run, left](const Sensitivity& so_far, int done, int all) {
                const auto words =
                    QString("solving the alternatives: %1 of %2").arg(done).arg(all) + left.after(done, all);
                why_.hand_over([this, run, so_far, words] {
                    if (run != why_run_) return;
                    sensitivity_ = std::make_shared<const Sensitivity>(so_far);
                    sensitivity_state_ = words;
                    emit sensitivity_changed();
                });
            },
            &cancel);
        why_.hand_over([this, run, result] {
            if (run != why_run_) return;
            sensitivity_state_ = result ? QString() : QString::fromStdString(result.error().message());
            if (result) sensitivity_ = std::make_shared<const Sensitivity>(*result);
            emit sensitivity_changed();
        });
    });
}

void Session::stop_sensitivity() {
    why_.cancel();
    ++why_run_;
    sensitivity_state_.clear();
    emit sensitivity_changed();
}

void Session::apply(const Effect& effect) {
    if (!prepared_) return;
    const auto what = QString::fromStdString(effect.label);
    if (!effect.choice.empty())
        document.edit("Set " + what, {}, [&, id = document.job().open_design](Job& job) {
            job.find_design(id)->choices[effect.key] = effect.choice;
        });
    else
        set_number(effect.key, number_of(prepared_->context(), effect.key) + effect.step, what);
}

void Session::set_stress_unit(StressUnit unit) {
    if (unit == stress_unit_) return;
    stress_unit_ = unit;
    emit look_changed();
}

void Session::set_unit(LengthUnit unit) {
    if (unit == unit_) return;
    unit_ = unit;
    emit look_changed();
}

void Session::set_axis_limits() {
    const auto& built = prepared_->built;
    double z0 = built.view_z0_mm, z1 = built.view_z1_mm;
    if (whole_end_ && plan_) {
        constexpr double beyond_mm = 60; // of the last cut
        for (const auto& m : plan_->marks) {
            z0 = std::min(z0, m.z_mm - beyond_mm);
            z1 = std::max(z1, m.z_mm + (plan_->two_sides() ? beyond_mm + plan_->stagger_mm() : 0));
        }
    }
    axis.set_limits(z0 - built.datum_z_mm, z1 - built.datum_z_mm);
}

void Session::set_whole_end(bool whole) {
    if (whole == whole_end_ || !prepared_ || (whole && !has_whole_end(*prepared_))) return;
    whole_end_ = whole;
    set_axis_limits();
    axis.fit();
    emit look_changed();
}

void Session::set_dark(bool dark) {
    theme_ = dark ? draw::Theme::night() : draw::Theme::light();
    emit look_changed();
}

SolvedPtr Session::pinned() const {
    const auto it = pinned_.find(document.design().id);
    return it == pinned_.end() ? nullptr : it->second.solved;
}

std::shared_ptr<const Job> Session::pinned_job(const std::string& design) const {
    const auto it = pinned_.find(design);
    return it == pinned_.end() ? nullptr : it->second.job;
}

void Session::pin() {
    if (!solved_) return;
    pinned_[document.design().id] = {solved_, std::make_shared<const Job>(document.job())};
    emit pinned_changed();
}

void Session::unpin() {
    pinned_.erase(document.design().id);
    emit pinned_changed();
}

void Session::show_proposal(std::vector<Point> line) {
    proposal_ = std::move(line);
    emit proposal_changed();
}

void Session::set_number(const std::string& key, double value_mm, const QString& label) {
    const auto id = document.job().open_design;
    document.edit(QString("Set %1").arg(label), live_ ? QString::fromStdString(key) : QString(),
                  [&](Job& job) {
                      auto& design = *job.find_design(id);
                      if (const auto fault = fault_of_handle(key); fault && *fault < design.faults.size())
                          design.faults[*fault].from_edge_mm = value_mm;
                      else
                          design.numbers[key] = value_mm;
                  });
}

void Session::set_numbers(const std::map<std::string, double>& numbers, const QString& label) {
    const auto id = document.job().open_design;
    const auto merged =
        live_ && !numbers.empty() ? QString::fromStdString(numbers.begin()->first) : QString();
    document.edit(QString("Set %1").arg(label), merged, [&](Job& job) {
        for (const auto& [key, value] : numbers) job.find_design(id)->numbers[key] = value;
    });
}

double Session::datum_z() const {
    if (prepared_) return prepared_->built.datum_z_mm;
    return solved_ ? solved_->prepared->built.datum_z_mm : 0;
}

double Session::needle_z() const {
    return axis.needle_u() + datum_z();
}
void Session::move_needle_to_z(double z_mm) {
    axis.set_needle(z_mm - datum_z());
}

} // namespace ng::app
