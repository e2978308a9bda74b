#include "app/model/trainee.h"
#include "app/model/text.h"
#include "draw/loupe_picture.h"
#include "draw/train_document.h"
#include "units/parallel.h"
#include <QDateTime>
#include <QDir>
#include <QStandardPaths>
#include <cmath>

namespace ng::app {
namespace {

constexpr int glass_px = 250;
constexpr double least_glass_mm = 0.4;

/// Checks that a fault moves, a line each.
QString check_words(const FaultAnswer& answer) {
    QStringList lines;
    for (const auto& line : moved_checks(answer)) lines << q(line);
    for (const auto& air : answer.air)
        lines << QString("%1: quiet up to %2 kV rms ± %4 %%3")
                     .arg(q(air.words), q(format_figures(air.inception_kV_rms, 3)),
                          answer.required_kV_rms
                              ? QString(", %1 are asked").arg(q(format_figures(*answer.required_kV_rms, 3)))
                              : QString(),
                          QString::number(100 * air.relative_error, 'g', 2));
    if (lines.isEmpty()) lines << "It moves no check by more than a fiftieth of its limit.";
    return lines.join("\n");
}

QString critical_words(const Fault& fault, const Result<CriticalSize>& size) {
    const auto& kind = *find_fault_kind(fault.kind);
    if (kind.rule) return "A rule of the trade: no size decides.";
    if (!size) return q(size.error().message());
    const double found = found_from_mm(kind.inspection);
    const auto hands = std::isfinite(found)
                           ? QString("hands find %1 mm in nine of ten").arg(q(format_figures(found, 2)))
                           : QString("hands find no size of it");
    if (!size->mm)
        return QString("No size from %1 to %2 mm hurts here; %3.")
            .arg(q(format_figures(size->least_mm, 2)), q(format_figures(size->most_mm, 2)), hands);
    return QString("%1 %2 ± %5 mm here, this one is %3 mm; %4.")
        .arg(size->at_most ? "Hurts at the latest from" : "Hurts from", q(format_figures(*size->mm, 2)),
             q(format_figures(fault.size_mm, 2)), hands, q(format_figures(size->error_mm, 1)));
}

} // namespace

Trainee::Trainee(Session& session, QObject* parent)
    : QObject(parent), session_(session), clock_([] { return QDateTime::currentMSecsSinceEpoch(); }) {
    auto data = load_trainer(session.library());
    if (data)
        data_ = std::move(*data);
    else
        trouble_ = data.error();
    path_ =
        QDir(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation)).filePath("trainer.ngtrain");
    for (auto* worker : {&solver_, &viewer_})
        connect(worker, &Worker::failed, this, [this](const QString& words) {
            solving_.clear();
            session_.tell({"Trainer", words.toStdString(), ""});
            emit changed();
        });
}

QString Trainee::trouble() const {
    return trouble_ ? q(trouble_->message()) : QString();
}

void Trainee::set_who(const Who& who) {
    if (!(who == who_)) progress_ = {};
    who_ = who;
    read_progress();
    emit changed();
}

TrainFile* Trainee::file() {
    if (file_) return &*file_;
    QDir().mkpath(QFileInfo(path_).absolutePath());
    auto opened = TrainFile::open_or_create(path_.toStdString());
    if (!opened) {
        session_.tell(opened.error());
        return nullptr;
    }
    file_ = std::move(*opened);
    return &*file_;
}

bool Trainee::open_file(const QString& path) {
    auto opened = TrainFile::open_or_create(path.toStdString());
    if (!opened) {
        session_.tell(opened.error());
        return false;
    }
    path_ = path;
    file_ = std::move(*opened);
    read_progress();
    emit changed();
    return true;
}

void Trainee::read_progress() {
    if (who_.initials.empty()) return;
    progress_ = {};
    if (!file_) {
        if (!QFileInfo::exists(path_)) return;
        auto opened = TrainFile::open(path_.toStdString());
        if (!opened) {
            session_.tell(opened.error());
            return;
        }
        file_ = std::move(*opened);
    }
    if (auto known = file_->progress(who_))
        progress_ = std::move(*known);
    else
        session_.tell(known.error());
}

Trainee::~Trainee() {
    leave_exercise();
}

bool Trainee::is_ready() {
    if (exam_) {
        leave_exercise();
        end_exam();
    }
    if (!data_) session_.tell(*trouble_);
    return data_.has_value();
}

bool Trainee::ask_next(bool any_design) {
    if (!is_ready()) return false;
    last_any_design_ = any_design;
    return open_exercise(next_exercise(session_.document.job(),
                                       any_design ? std::string() : session_.document.design().id, progress_,
                                       *data_));
}

bool Trainee::ask(const ExerciseWish& wish, std::uint64_t seed) {
    if (!is_ready()) return false;
    return open_exercise(new_exercise(session_.document.job(), seed, wish, *data_));
}

bool Trainee::ask_own() {
    if (!is_ready()) return false;
    return open_exercise(exercise_from(session_.document.job(), session_.document.design().id, *data_));
}

bool Trainee::ask_another() {
    if (!exam_) return ask_next(last_any_design_);
    if (exam_at_ >= exam_->count || exam_left_ms() <= 0) {
        leave_exercise();
        end_exam();
        emit changed();
        return false;
    }
    ExerciseWish wish;
    wish.level = exam_->level;
    auto e = new_exercise(exam_job_, exam_->seed + static_cast<std::uint64_t>(exam_at_), wish, *data_);
    ++exam_at_;
    return open_exercise(std::move(e));
}

void Trainee::leave_exercise() {
    ++run_;
    solver_.cancel();
    viewer_.cancel();
    if (exercise_ && answered_ && !kept_)
        keep(refuse("Exercise " + exercise_->id, "it was left before its field was known",
                    "Score it again: “train again”"));
    exercise_.reset();
}

void Trainee::end_exam() {
    if (auto* kept = file())
        if (auto ok = kept->end_exam(exam_->number); !ok) session_.tell(ok.error());
    last_exam_ = std::exchange(exam_, std::nullopt);
    emit exam_ended();
}

void Trainee::close() {
    leave_exercise();
    if (exam_) end_exam();
    emit changed();
}

bool Trainee::begin_exam(std::uint64_t seed, int count, int level, double minutes) {
    if (!is_ready()) return false;
    auto* kept = file();
    if (!kept) return false;
    auto exam = kept->begin_exam(who_, seed, count, level, minutes);
    if (!exam) {
        session_.tell(exam.error());
        return false;
    }
    exam_ = std::move(*exam);
    exam_job_ = session_.document.job(); // it stays what it was when the exam began
    exam_at_ = 0;
    exam_begun_ms_ = clock_();
    return ask_another();
}

qint64 Trainee::exam_left_ms() const {
    return exam_ ? static_cast<qint64>(exam_->minutes * 60000) - (clock_() - exam_begun_ms_) : 0;
}

void Trainee::tick() {
    // What was answered in time is waited for.
    if (exam_ && exercise_ && !answered_ && exam_left_ms() <= 0) ask_another();
}

bool Trainee::open_exercise(Result<Exercise> exercise) {
    if (!exercise) {
        session_.tell(exercise.error());
        return false;
    }
    leave_exercise();
    exercise_ = std::move(*exercise);
    truth_.reset();
    looked_.clear();
    answer_ = {};
    answer_.exercise = exercise_->id;
    answered_ = kept_ = false;
    score_.reset();
    seeing_.clear();
    solving_.clear();
    asked_ms_ = clock_();
    if (exercise_->task == Task::inspect) solve_truth();
    emit changed();
    return true;
}

void Trainee::solve_truth() {
    solving_ = "The field is being solved…";
    const int run = run_;
    solver_.start([this, run, e = *exercise_, data = *data_,
                   library = session_.library()](const CancelFlag& cancel) mutable {
        data.library = &library;
        auto truth = std::make_shared<Result<Truth>>(truth_of(e, data, &cancel));
        if (cancel) return;
        // What was prepared names the library of the session, which lives as long as the window.
        solver_.hand_over([this, run, truth] {
            if (run != run_) return;
            solving_.clear();
            if (*truth)
                truth_ = std::shared_ptr<const Truth>(truth, &**truth);
            else
                session_.tell(truth->error());
            if (answered_) score_now();
            emit changed();
        });
    });
}

bool Trainee::look(const std::string& means) {
    if (!exercise_ || answered_) return false;
    const auto seen = ng::look(*exercise_, means, *data_, truth_.get());
    if (!seen) {
        session_.tell(seen.error());
        return false;
    }
    const auto again =
        std::find_if(looked_.begin(), looked_.end(), [&](const auto& l) { return l.means == means; });
    if (again == looked_.end()) looked_.push_back({means, *seen});
    answer_.looks.push_back(means); // each takes its time
    emit changed();
    return true;
}

void Trainee::add_finding(const Finding& finding) {
    answer_.findings.push_back(finding);
    emit changed();
}

void Trainee::remove_finding(std::size_t index) {
    if (index >= answer_.findings.size()) return;
    answer_.findings.erase(answer_.findings.begin() + static_cast<std::ptrdiff_t>(index));
    emit changed();
}

double Trainee::seconds() const {
    double out = exercise_ ? static_cast<double>(clock_() - asked_ms_) / 1000 : 0;
    for (const auto& id : answer_.looks)
        if (const auto* m = data_->means.find(id)) out += m->seconds;
    return out;
}

void Trainee::release(bool release) {
    if (!exercise_ || answered_) return;
    answer_.release = release;
    answer_.seconds = std::round(static_cast<double>(clock_() - asked_ms_) / 1000);
    answered_ = true;
    if (truth_ || solving_.isEmpty()) score_now();
    emit changed();
}

void Trainee::answer_keys(std::vector<std::string> keys) {
    if (!exercise_ || answered_) return;
    answer_.keys = std::move(keys);
    answer_.seconds = std::round(static_cast<double>(clock_() - asked_ms_) / 1000);
    answered_ = true;
    score_now();
    emit changed();
}

bool Trainee::answer_number(double number) {
    if (!exercise_ || answered_ || !std::isfinite(number)) return false;
    answer_.number = number;
    answer_.seconds = std::round(static_cast<double>(clock_() - asked_ms_) / 1000);
    answered_ = true;
    score_now();
    emit changed();
    return true;
}

void Trainee::score_now() {
    auto scored = exercise_->task == Task::inspect && !truth_
                      ? Result<Score>(refuse("Exercise " + exercise_->id, "its field could not be solved",
                                             "It is kept and not scored"))
                      : ng::score(*exercise_, answer_, *data_, truth_.get());
    keep(scored);
    if (scored)
        score_ = std::move(*scored);
    else
        session_.tell(scored.error());
    if (exam_) { // what is right is seen when it is over
        ask_another();
        return;
    }
    if (exercise_->task == Task::inspect && truth_) show_field();
    emit judged();
}

void Trainee::keep(const Result<Score>& scored) {
    kept_ = true;
    if (scored) progress_.take(scored->topics);
    if (who_.initials.empty() && !exam_) return; // who says no initials keeps nothing, but goes on
    auto* kept = file();
    if (!kept) return;
    const auto row = kept->keep(who_, *exercise_, answer_, *data_, scored,
                                exam_ ? std::optional(exam_->number) : std::nullopt);
    if (!row) session_.tell(row.error());
}

void Trainee::show_field() {
    const int run = run_;
    viewer_.start([this, run, e = *exercise_, truth = truth_, library = session_.library(),
                   theme = session_.theme()](const CancelFlag& cancel) {
        for (const auto& t : truth->faults) {
            if (cancel) return;
            Seeing one{t.fault, {}, {}, check_words(t.answer), {}};
            const auto faulty = prepare_faulty(e.job, e.design, {t.fault}, library);
            if (faulty && !find_fault_kind(t.fault.kind)->rule) {
                const auto box = place_of(*faulty, t.fault.side);
                draw::LoupeLook look;
                look.centre = box.middle();
                look.across_mm = std::clamp(3 * std::max(box.high.r - box.low.r, box.high.z - box.low.z),
                                            least_glass_mm, draw::widest_loupe_mm / 2);
                look.round = false;
                const auto& sound = truth->sound.evaluation;
                one.without =
                    draw::loupe_picture(sound.prepared, sound.solutions.at_u0, look, glass_px, theme, 2)
                        .image;
                EvaluateOptions options;
                options.use = Use::drawn;
                options.cancel = &cancel;
                if (const auto solved = evaluate_prepared(faulty->prepared, options); solved && !cancel)
                    one.with = draw::loupe_picture(solved->prepared, solved->solutions.at_u0, look, glass_px,
                                                   theme, 2)
                                   .image;
            }
            if (cancel) return;
            const auto hand_over = [&] {
                viewer_.hand_over([this, run, one] {
                    if (run != run_) return;
                    for (auto& known : seeing_)
                        if (known.fault.kind == one.fault.kind && known.fault.side == one.fault.side) {
                            known = one;
                            emit seen();
                            return;
                        }
                    seeing_.push_back(one);
                    emit seen();
                });
            };
            one.critical = find_fault_kind(t.fault.kind)->rule
                               ? critical_words(t.fault, CriticalSize{})
                               : QString("The size that hurts is being looked for…");
            hand_over();
            if (find_fault_kind(t.fault.kind)->rule) continue;
            const auto size =
                critical_size(e.job, e.design, t.fault, library, truth->sound, &cancel, usable_threads());
            if (cancel) return;
            one.critical = critical_words(t.fault, size);
            hand_over();
        }
    });
}

Result<void> Trainee::write_result(const QString& path) const {
    if (!last_exam_ || !file_) return refuse("Result", "no exam was ended", "Play one to its end");
    const auto exams = file_->exams(who_);
    const auto answers = file_->answers(who_);
    if (!exams) return tl::unexpected(exams.error());
    if (!answers) return tl::unexpected(answers.error());
    for (const auto& exam : *exams) {
        if (exam.number != last_exam_->number) continue;
        std::vector<KeptAnswer> of_it;
        for (const auto& a : *answers)
            if (a.exam == exam.number) of_it.push_back(a);
        const auto document = draw::result_document(exam, of_it, progress_);
        return path.endsWith(".html") ? document.write_html(path.toStdString())
                                      : document.write_pdf(path.toStdString());
    }
    return refuse("Result", "the exam is not in the file any more", "Begin another");
}

bool Trainee::forget() {
    if (!file_) return true;
    const auto gone = file_->forget(who_);
    if (!gone) session_.tell(gone.error());
    close();
    read_progress();
    emit changed();
    return gone.has_value();
}

} // namespace ng::app
