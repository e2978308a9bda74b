#include "app/model/recorder.h"
#include "app/model/text.h"
#include "app/model/time_left.h"
#include "units/parallel.h"
#include "units/text.h"
#include <QFile>
#include <QSettings>

namespace ng::app {
namespace {

constexpr int look_every_ms = 2000;

} // namespace

Recorder::Recorder(Session& session, QObject* parent)
    : QObject(parent), session_(session), worker_(this), verifier_(this), builds_(this), port_(this) {
    const QSettings settings;
    who_ = {settings.value("record/role", "jointer").toString().toStdString(),
            settings.value("record/initials").toString().toStdString()};
    connect(&session.document, &Document::saved_state_changed, this, &Recorder::look);
    connect(&session.document, &Document::design_changed, this, &Recorder::look);
    connect(&worker_, &Worker::failed, this, [this](const QString& why) {
        judging_ = false;
        verdict_words_ = why;
        emit judged();
    });
    connect(&builds_, &Worker::failed, this, [this](const QString& why) {
        unmeasured_words_ = why;
        varying_ = false;
        emit varied();
    });
    connect(&verifier_, &Worker::failed, this, [this](const QString& why) {
        verifying_ = false;
        trouble_ = why;
        emit changed();
    });
    connect(&timer_, &QTimer::timeout, this, &Recorder::look_again);
    timer_.start(look_every_ms);
    look();
}

std::filesystem::path Recorder::path() const {
    const auto& document = session_.document;
    if (!document.path().isEmpty()) return log_path_of(document.path().toStdString());
    return copy_ ? std::filesystem::path(copy_->filePath("copy.nglog").toStdString())
                 : std::filesystem::path();
}

/// A job that is open as a copy (the demo) has its record as a copy, which goes with the window, or along
/// when the job is saved.
void Recorder::copy_record() {
    const auto& document = session_.document;
    const auto from = document.copied_from();
    std::error_code ignored;
    if (from != copied_from_) {
        copied_from_ = from;
        copy_.reset();
        if (from.isEmpty()) return;
        copy_ = std::make_unique<QTemporaryDir>();
        const auto beside = q(log_path_of(from.toStdString()).string());
        QFile::copy(beside, copy_->filePath("copy.nglog"));
        QFile::setPermissions(copy_->filePath("copy.nglog"), QFile::ReadOwner | QFile::WriteOwner);
    } else if (copy_ && !document.path().isEmpty() && !std::filesystem::exists(path(), ignored)) {
        log_.reset(); // all of it is in one file then
        std::filesystem::copy_file(copy_->filePath("copy.nglog").toStdString(), path(), ignored);
    }
}

void Recorder::look() {
    copy_record();
    const auto at = path();
    std::error_code none;
    const auto written =
        at.empty() ? std::filesystem::file_time_type::min() : std::filesystem::last_write_time(at, none);
    if (at != looked_at_ || (!log_ && written != looked_at_time_)) {
        looked_at_ = at;
        looked_at_time_ = written;
        open();
    }
    fold();
}

/// The log at looked_at_, if there is one and it is of this job.
void Recorder::open() {
    const auto& document = session_.document;
    log_.reset();
    trouble_.clear();
    verification_ = {};
    if (looked_at_.empty()) {
        trouble_ = "Save the job first: its record lies beside it.";
        return;
    }
    std::error_code none;
    if (!std::filesystem::exists(looked_at_, none)) return;
    auto log = Log::open(looked_at_);
    if (!log) {
        trouble_ = q(log.error().message());
        return;
    }
    const auto all = accessories_of(*log);
    const bool any_ours = std::any_of(all.begin(), all.end(), [&](auto n) {
        return document.job().find_design(log->find(n)->body().value("design", std::string()));
    });
    if (!all.empty() && !any_ours) {
        const auto title = log->entries().front().body().value("job", std::string());
        trouble_ =
            QString("%1 is the record of another job (“%2”): it is left alone. Move it elsewhere, or save "
                    "this job under another name.")
                .arg(q(looked_at_.filename().string()), q(one_line(title, 60)));
        return;
    }
    log_ = std::move(*log);
    if (log_->is_read_only()) trouble_ = "This record may only be read: nothing is written to it.";
    verify();
}

/// Every row and file, off the interface thread; what is found is told.
void Recorder::verify() {
    verifying_ = true;
    verifier_.start([this, at = looked_at_](const CancelFlag& cancel) {
        auto seen = verify_log(at);
        if (cancel) return;
        verifier_.hand_over([this, at, seen = std::move(seen)]() mutable {
            if (at != looked_at_ || !log_) return;
            verifying_ = false;
            if (seen)
                verification_ = std::move(*seen);
            else
                verification_.findings = {seen.error().problem};
            if (!verification_.holds())
                session_.tell({"Record " + at.filename().string(),
                               "it does not verify: " + verification_.words(),
                               "Hold it against a copy; nothing in it was touched"});
            emit changed();
        });
    });
}

void Recorder::look_again() {
    if (!log_) return look(); // somebody may have made or mended one
    const auto news = log_->refresh();
    if (!news) {
        trouble_ = q(news.error().message());
        emit changed();
    } else if (*news) {
        verify();
        fold();
    }
}

void Recorder::fold() {
    const auto& design = session_.document.design().id;
    const auto state = std::tuple(looked_at_, log_ ? log_->last().rows : -1, trouble_, design);
    if (state == folded_) return;
    folded_ = state;
    std::optional<std::int64_t> latest;
    if (log_)
        for (const auto number : accessories_of(*log_))
            if (log_->find(number)->body().value("design", std::string()) == design) latest = number;
    record_.reset();
    if (latest) {
        if (auto record = record_of(*log_, *latest))
            record_ = std::make_shared<AccessoryRecord>(std::move(*record));
        else
            trouble_ = q(record.error().message());
    }
    plan_built_to();
    if (!record_) {
        verdict_.reset();
        verdict_words_.clear();
        judged_ = {};
        ++run_;
        judging_ = false;
        unmeasured_words_.clear();
        stop_varying();
        session_.keep_built({});
    }
    emit changed();
    judge();
}

/// Plan and sheet of the frozen design: made once for each record.
void Recorder::plan_built_to() {
    const auto of = record_ ? record_->begun.text("sha256") : std::string();
    if (of == planned_) return;
    planned_ = of;
    plan_.reset();
    sheet_.reset();
    if (!record_) return;
    const auto prepared = prepare_design(record_->job, record_->design, session_.library());
    if (!prepared) return;
    auto plan = make_plan(*prepared);
    if (!plan) return;
    if (const auto book = load_steps(session_.library()))
        if (auto sheet =
                make_sheet(*prepared, *plan, *book, session_.library().connectors, record_->job.step_texts))
            sheet_ = std::move(*sheet);
    plan_ = std::make_shared<const CutPlan>(std::move(*plan));
}

void Recorder::stop_varying() {
    builds_.cancel();
    ++varying_run_;
    varying_ = false;
    emit varied();
}

void Recorder::vary_unmeasured(std::uint64_t samples) {
    if (!verdict_ || judging_) return;
    const int run = ++varying_run_;
    varying_ = true;
    unmeasured_words_ = "Preparing the builds…";
    emit varied();
    builds_.start([this, run, samples, verdict = verdict_,
                   library = session_.library()](const CancelFlag& cancel) {
        std::uint64_t done = 0, failing = 0;
        const TimeLeft left;
        const auto tell = [&](const QString& words, bool ended) {
            builds_.hand_over([this, run, words, ended] {
                if (run != varying_run_) return;
                unmeasured_words_ = words;
                varying_ = !ended;
                emit varied();
            });
        };
        double told_s = 0;
        const auto table = ng::vary_unmeasured(
            *verdict, samples, library, static_cast<int>(usable_threads()), &cancel,
            [&](const StudyRow& row) {
                ++done;
                failing += row.status == Status::falls_short;
                if (left.elapsed_s() - told_s < 0.5) return;
                told_s = left.elapsed_s();
                tell(QString("%1 of %2 built, %3 fall short").arg(done).arg(samples).arg(failing) +
                         left.after(done, samples),
                     false);
            });
        if (cancel) return;
        tell(table ? q(upper_first(ng::unmeasured_words(*table))) + "." : q(table.error().message()), true);
    });
}

void Recorder::judge() {
    if (!record_) return;
    const auto rows = std::tuple(looked_at_, record_->number, record_->last_row);
    if (rows == judged_) return;
    judged_ = rows;
    const int run = ++run_;
    judging_ = true;
    if (!unmeasured_words_.isEmpty() || varying_) {
        unmeasured_words_.clear();
        stop_varying();
    }
    verdict_words_ = "solving what was built…";
    emit judged();
    worker_.start([this, run, record = record_, before = verdict_,
                   library = session_.library()](const CancelFlag& cancel) {
        auto judged = judge_as_built(*record, library, &cancel, before.get());
        if (cancel) return;
        worker_.hand_over([this, run, judged = std::move(judged)]() mutable {
            if (run != run_) return;
            judging_ = false;
            if (judged) {
                verdict_ = std::make_shared<const BuiltVerdict>(std::move(*judged));
                verdict_words_ = q(verdict_->words());
                session_.keep_built(verdict_->built.marks);
            } else {
                verdict_.reset();
                verdict_words_ = "As built it cannot be solved: " + q(judged.error().message());
                session_.keep_built({});
            }
            emit this->judged();
        });
    });
}

QString Recorder::words() const {
    if (!log_) return trouble_.isEmpty() ? QString("Nothing is recorded yet.") : trouble_;
    if (verifying_) return QString("%1 rows; they are being verified…").arg(log_->last().rows);
    if (!verification_.holds()) return "THE RECORD DOES NOT VERIFY: " + q(verification_.words()) + ".";
    const auto& last = verification_.last;
    auto words = QString("%1 rows, each as it was written. Rows cut off at the end are found only against a "
                         "last hash that is "
                         "kept elsewhere: keep %1:%2…")
                     .arg(last.rows)
                     .arg(q(last.hash.substr(0, 12)));
    for (const auto& remark : verification_.remarks) words += "\n" + q(upper_first(remark)) + ".";
    return trouble_.isEmpty() ? words : trouble_ + "\n" + words;
}

void Recorder::set_who(const Who& who) {
    who_ = who;
    QSettings settings;
    settings.setValue("record/role", q(who.role));
    settings.setValue("record/initials", q(who.initials));
}

bool Recorder::begin(const nlohmann::json& details) {
    const auto& document = session_.document;
    if (!log_) {
        if (!trouble_.isEmpty()) {
            session_.tell({"Record", trouble_.toStdString(), ""});
            return false;
        }
        auto made = Log::create(path(), who_, document.job().title);
        if (!made) {
            session_.tell(made.error());
            return false;
        }
        log_ = std::move(*made);
        verification_.last = log_->last();
    }
    return write(begin_accessory(document.job(), document.design(), who_, details));
}

bool Recorder::write(EntryDraft draft) {
    if (!log_) {
        session_.tell({"Record", trouble_.isEmpty() ? "it is not begun" : trouble_.toStdString(), ""});
        return false;
    }
    draft.who = who_;
    if (!draft.accessory && find_entry_kind(draft.kind) && find_entry_kind(draft.kind)->of_accessory &&
        record_)
        draft.accessory = record_->number;
    return written(log_->append(draft));
}

bool Recorder::written(const Result<Entry>& row) {
    if (!row) {
        session_.tell(row.error());
        return false;
    }
    verification_.last = log_->last();
    fold();
    return true;
}

std::optional<std::int64_t> Recorder::instrument_row() {
    const auto& identity = port_.identity();
    if (!log_ || !identity || identity->serial.empty()) return std::nullopt;
    for (auto it = log_->entries().rbegin(); it != log_->entries().rend(); ++it) {
        if (it->kind != "instrument") continue;
        const auto body = it->body();
        if (body.value("serial", std::string()) == identity->serial &&
            body.value("due_on", std::string()) == identity->due_on)
            return it->number;
    }
    EntryDraft draft;
    draft.kind = "instrument";
    draft.body = {{"instrument", identity->kind}, {"serial", identity->serial}};
    for (const auto& [key, value] :
         {std::pair{"calibrated_on", identity->calibrated_on}, std::pair{"due_on", identity->due_on},
          std::pair{"unit", identity->unit}})
        if (!value.empty()) draft.body[key] = value;
    if (identity->uncertainty) draft.body["uncertainty"] = *identity->uncertainty;
    if (!write(draft)) return std::nullopt;
    return log_->last().rows;
}

bool Recorder::write_mark(const PlaceId& place, double from_datum_mm, const std::string& step,
                          const InstrumentReading* from) {
    const auto* mark = plan_ ? plan_->find(place) : nullptr;
    if (!mark || !record_) return false;
    const auto shown =
        session_.plan() ? session_.plan()->find(place) : nullptr; // with its window, where it is known
    auto with_window = *mark;
    if (shown && shown->accepted && std::abs(shown->from_datum_mm - mark->from_datum_mm) < 1e-6)
        with_window.accepted = shown->accepted;
    auto draft = mark_reading(with_window, *plan_, from_datum_mm, who_, record_->number);
    draft.body["step"] = step;
    if (from) {
        draft.instrument = instrument_row();
        draft.body["typed"] = from->sent;
        if (from->sequence) draft.body["sequence"] = *from->sequence;
    }
    return write(std::move(draft));
}

bool Recorder::correct(std::int64_t number, double value, const std::string& why,
                       const InstrumentReading* from) {
    const auto* old = log_ ? log_->find(number) : nullptr;
    if (!old || old->kind != "reading") return false;
    EntryDraft draft;
    draft.kind = "reading";
    draft.accessory = old->accessory;
    draft.corrects = number;
    draft.why = why;
    draft.body = old->body();
    draft.body["value"] = value;
    draft.body.erase("sequence");
    draft.body.erase("typed");
    if (from) {
        draft.instrument = instrument_row();
        draft.body["typed"] = from->sent;
        if (from->sequence) draft.body["sequence"] = *from->sequence;
    }
    return write(std::move(draft));
}

bool Recorder::write_hold(const SheetStep& step, const QString& found, const char* decision,
                          const QString& reason) {
    EntryDraft draft;
    draft.kind = "hold_point";
    draft.body = {{"step", step.id},
                  {"check", step.hold ? step.hold->check : step.title},
                  {"found", found.trimmed().isEmpty() ? "as it should be" : found.trimmed().toStdString()},
                  {"decision", decision}};
    if (step.hold) draft.body["against"] = step.hold->accept;
    if (!reason.trimmed().isEmpty()) draft.body["reason"] = reason.trimmed().toStdString();
    if (verdict_ && !judging_) draft.body["field"] = verdict_words_.toStdString();
    return write(std::move(draft));
}

bool Recorder::write_file(const QString& path, const QString& about) {
    if (!log_ || !record_) return false;
    return written(log_->append_file(path.toStdString(), about.toStdString(), {}, who_, record_->number));
}

QString Recorder::verify_against(const QString& kept) {
    if (!log_) return words();
    const auto hash = KeptHash::of(kept.trimmed().toStdString());
    if (!hash) return q(hash.error().message());
    verification_ = log_->verify(*hash);
    emit changed();
    return verification_.holds()
               ? QString("The record holds that hash at row %1, and every row is as it was written.")
                     .arg(hash->rows)
               : "THE RECORD DOES NOT VERIFY: " + q(verification_.words());
}

bool Recorder::sign(const std::string& closes, const QString& reason) {
    if (!record_ || !log_ || !sheet_) return false;
    auto draft = sign_off(*record_, *sheet_, log_->last(), closes, who_, reason.toStdString());
    if (!draft) {
        session_.tell(draft.error());
        return false;
    }
    return write(std::move(*draft));
}

} // namespace ng::app
