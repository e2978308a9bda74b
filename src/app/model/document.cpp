#include "app/model/document.h"
#include "accessory/family.h"
#include "io/file.h"
#include <QCryptographicHash>
#include <QDateTime>
#include <QFileInfo>
#include <QUndoCommand>
#include <algorithm>

namespace ng::app {

/// Holds the job before and after; steps that follow one another share what lies between them.
class JobCommand : public QUndoCommand {
  public:
    JobCommand(Document& document, const QString& text, QString merge_key, int gesture,
               std::shared_ptr<const Job> before, std::shared_ptr<const Job> after)
        : QUndoCommand(text), document_(document), merge_key_(std::move(merge_key)), gesture_(gesture),
          before_(std::move(before)), after_(std::move(after)) {}
    void undo() override { document_.set_job(before_); }
    void redo() override { document_.set_job(after_); }
    int id() const override { return merge_key_.isEmpty() ? -1 : 1; }
    bool mergeWith(const QUndoCommand* other) override {
        const auto* next = static_cast<const JobCommand*>(other);
        if (next->merge_key_ != merge_key_ || next->gesture_ != gesture_) return false;
        after_ = next->after_;
        return true;
    }

  private:
    Document& document_;
    QString merge_key_;
    int gesture_;
    std::shared_ptr<const Job> before_, after_;
};

Document::Document(QObject* parent) : QObject(parent), job_(std::make_shared<const Job>(new_job())) {
    undo_.setUndoLimit(most_undo_steps);
    autosave_.setSingleShot(true);
    autosave_.setInterval(2000); // never started anew while it runs: edits that go on do not put it off
    safety_ = std::make_unique<SafetyCopy>(path_);
    connect(&autosave_, &QTimer::timeout, this, &Document::autosave_now);
    connect(&undo_, &QUndoStack::cleanChanged, this, &Document::saved_state_changed);
}

void Document::edit(const QString& text, const QString& merge_key, const std::function<void(Job&)>& change) {
    Job after = *job_;
    change(after);
    if (after == *job_) return;
    undo_.push(new JobCommand(*this, text, merge_key, gesture_, job_,
                              std::make_shared<const Job>(std::move(after))));
}

void Document::set_job(std::shared_ptr<const Job> job) {
    const bool other_design = job->open_design != job_->open_design;
    job_ = std::move(job);
    if (!autosave_.isActive()) autosave_.start();
    if (other_design)
        emit design_changed();
    else
        emit job_changed();
}

void Document::replace(Job job, const QString& path) {
    job_ = std::make_shared<const Job>(std::move(job));
    path_ = path;
    recovered_ = example_ = false;
    typed_.clear();
    undo_.clear();
    autosave_.stop();
    safety_ = std::make_unique<SafetyCopy>(path_);
    remember_file();
    emit job_opened();
    emit design_changed();
    emit saved_state_changed();
}

/// The lock is beside the file that links lead to, so that two names of one file meet. Null: it lies where
/// nothing can be written, by anybody here.
Result<std::unique_ptr<QLockFile>> Document::lock_of(const QString& path) {
    const QFileInfo info(path);
    const QFileInfo real(info.exists() ? info.canonicalFilePath() : info.absoluteFilePath());
    auto lock = std::make_unique<QLockFile>(real.absolutePath() + "/." + real.fileName() + ".lock");
    lock->setStaleLockTime(0); // only the death of its process makes it stale
    if (lock->tryLock()) return lock;
    if (lock->error() != QLockFile::LockFailedError) return std::unique_ptr<QLockFile>();
    return refuse(info.fileName().toStdString(), "it is open in another window",
                  "Close it there, or open a copy here");
}

QByteArray Document::print_of(const QString& path) {
    const auto text = path.isEmpty() ? Result<std::string>(std::string())
                                     : read_file(path.toStdString(), most_document_bytes);
    return text && !path.isEmpty()
               ? QCryptographicHash::hash(QByteArray::fromStdString(*text), QCryptographicHash::Sha1)
               : QByteArray();
}

void Document::remember_file() {
    file_print_ = print_of(path_);
}

bool Document::file_changed_outside() const {
    if (path_.isEmpty() || !QFileInfo::exists(path_)) return false;
    const auto now = print_of(path_);
    return !now.isEmpty() && now != file_print_;
}

void Document::start_new() {
    start_with(new_job());
    example_ = true;
    emit saved_state_changed();
}

void Document::start_with(Job job) {
    close();
    lock_.reset();
    copied_from_.clear();
    replace(std::move(job), {});
}

Result<void> Document::open(const QString& path) {
    const auto absolute = QFileInfo(path).absoluteFilePath();
    auto job = load_job(absolute.toStdString());
    if (!job) return tl::unexpected(job.error());
    const bool same = !path_.isEmpty() && QFileInfo(absolute) == QFileInfo(path_);
    if (!same) {
        auto lock = lock_of(absolute);
        if (!lock) return tl::unexpected(lock.error());
        close();
        lock_ = std::move(*lock);
    } else {
        close();
    }
    copied_from_.clear();
    replace(std::move(*job), absolute);
    return {};
}

Result<void> Document::open_copy(const QString& path) {
    auto job = load_job(path.toStdString());
    if (!job) return tl::unexpected(job.error());
    close();
    lock_.reset();
    copied_from_ = QFileInfo(path).absoluteFilePath();
    replace(std::move(*job), {});
    return {};
}

Result<void> Document::write_to(const QString& path) {
    if (auto ok = save_job(*job_, path.toStdString()); !ok) return ok;
    path_ = path;
    remember_file();
    autosave_.stop();
    recovered_ = false;
    undo_.setClean();
    emit saved_state_changed();
    return {};
}

Result<void> Document::save() {
    kept_beside_.clear();
    if (file_changed_outside()) {
        const QFileInfo info(path_);
        const auto other =
            QString("%1/%2 (changed elsewhere %3).%4")
                .arg(info.absolutePath(), info.completeBaseName(),
                     QDateTime::currentDateTime().toString("yyyy-MM-dd hh.mm.ss.zzz"), info.suffix());
        const auto text = read_file(path_.toStdString(), most_document_bytes);
        if (!text) return tl::unexpected(text.error());
        if (auto ok = write_file_safely(other.toStdString(), *text); !ok) return ok;
        kept_beside_ = QFileInfo(other).fileName();
    }
    if (auto ok = write_to(path_); !ok) return ok;
    safety_->remove();
    return {};
}

Result<void> Document::save_as(const QString& path) {
    const auto absolute = QFileInfo(path).absoluteFilePath();
    if (!path_.isEmpty() && QFileInfo(absolute) == QFileInfo(path_)) return save();
    auto lock = lock_of(absolute);
    if (!lock) return tl::unexpected(lock.error());
    kept_beside_.clear();
    if (auto ok = write_to(absolute); !ok) return ok;
    safety_->remove();
    safety_ = std::make_unique<SafetyCopy>(path_);
    lock_ = std::move(*lock);
    return {};
}

void Document::set_typed(const QString& words) {
    if (words == typed_) return;
    const bool was = is_changed();
    typed_ = words;
    if (!typed_.isEmpty() && !autosave_.isActive()) autosave_.start();
    if (was != is_changed()) emit saved_state_changed();
}

void Document::show_design(const std::string& id) {
    if (id == job_->open_design || !job_->find_design(id)) return;
    Job shown = *job_;
    shown.open_design = id;
    job_ = std::make_shared<const Job>(std::move(shown));
    emit design_changed();
}

namespace {

/// Gives a design this family with its defaults; the duty keeps its class where the usual standard has it.
void begin_family(Design& design, const Family& family) {
    design.family = family.id;
    design.numbers.clear();
    design.choices.clear();
    if (design.duty.standard != family.usual_standard) design.duty.standard = family.usual_standard;
}

} // namespace

void Document::add_design(const Family& family) {
    edit("New design", {}, [&](Job& job) {
        Design design = *job.find_design(job.open_design);
        design.id = free_id(job.designs, family.id);
        design.title = family.title;
        design.note.clear();
        design.unknown = nlohmann::json::object();
        design.other_cable_id.clear();
        begin_family(design, family);
        job.open_design = design.id;
        job.designs.push_back(std::move(design));
    });
}

void Document::add_design(const DesignTemplate& from) {
    edit("New design from a template", {}, [&](Job& job) { begin_from(job, from); });
}

void Document::change_family(const Family& family) {
    if (family.id == design().family) return;
    edit("Change family", {}, [&](Job& job) { begin_family(*job.find_design(job.open_design), family); });
}

void Document::duplicate_design() {
    edit("Duplicate design", {}, [](Job& job) {
        Design copy = *job.find_design(job.open_design);
        copy.id = free_id(job.designs, copy.id);
        copy.title += " (copy)";
        job.open_design = copy.id;
        job.designs.push_back(std::move(copy));
    });
}

void Document::delete_design() {
    if (job_->designs.size() < 2) return;
    edit("Delete design", {}, [](Job& job) {
        std::erase_if(job.designs, [&](const auto& d) { return d.id == job.open_design; });
        job.open_design = job.designs.front().id;
    });
}

void Document::duplicate_cable() {
    edit("Duplicate cable", {}, [](Job& job) {
        auto& design = *job.find_design(job.open_design);
        Cable copy = *job.find_cable(design.cable_id);
        copy.id = free_id(job.cables, copy.id);
        copy.title += " (copy)";
        design.cable_id = copy.id;
        job.cables.push_back(std::move(copy));
    });
}

void Document::recover(const LeftCopy& copy) {
    if (!copy.job) return;
    job_ = std::make_shared<const Job>(*copy.job);
    undo_.clear();
    recovered_ = true;
    emit design_changed();
    emit saved_state_changed();
    if (const auto ok = safety_->write(*job_, copy.typed); ok)
        SafetyCopy::throw_away(copy);
    else
        emit autosave_failed(QString::fromStdString(ok.error().message()));
}

void Document::autosave_now() {
    if (!is_changed()) {
        if (safety_->exists()) safety_->remove(); // undone: there is nothing to keep
        return;
    }
    if (auto ok = safety_->write(*job_, typed_); !ok)
        emit autosave_failed(QString::fromStdString(ok.error().message()));
}

void Document::close() {
    autosave_.stop();
    safety_->remove();
}

void Document::open_drawn(const Job& drawn_job, const std::string& of_title) {
    const auto* drawn = drawn_job.find_design(design().id);
    if (!drawn) return;
    auto made = *drawn;
    made.title += of_title;
    made.revisions.clear();
    made.id = free_id(job().designs, made.id);
    auto cables = job().cables;
    for (auto* id : {&made.cable_id, &made.other_cable_id})
        if (const auto* cable = drawn_job.find_cable(*id)) {
            auto copy = *cable;
            copy.id = *id = free_id(cables, cable->id);
            copy.title += ", as drawn";
            cables.push_back(std::move(copy));
        }
    edit("Open a drawn build", {}, [&](Job& changed) {
        changed.cables = cables;
        changed.designs.push_back(made);
    });
    show_design(made.id);
}

} // namespace ng::app
