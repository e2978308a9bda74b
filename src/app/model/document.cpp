#include "app/model/document.h"
#include "io/json_reader.h"
#include <QCryptographicHash>
#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>
#include <QUndoCommand>
#include <algorithm>

namespace ng::app {

/// Holds the job before and after: jobs are small values.
class JobCommand : public QUndoCommand {
  public:
    JobCommand(Document& document, const QString& text, QString merge_key, int gesture, Job before, Job after)
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
    Job before_, after_;
};

Document::Document(QObject* parent) : QObject(parent), job_(new_job()) {
    autosave_.setSingleShot(true);
    autosave_.setInterval(2000);
    connect(&autosave_, &QTimer::timeout, this, &Document::autosave_now);
    connect(&undo_, &QUndoStack::cleanChanged, this, &Document::saved_state_changed);
}

void Document::edit(const QString& text, const QString& merge_key, const std::function<void(Job&)>& change) {
    Job after = job_;
    change(after);
    if (write_job(after) == write_job(job_)) return;
    undo_.push(new JobCommand(*this, text, merge_key, gesture_, job_, std::move(after)));
}

void Document::set_job(Job job) {
    const bool other_design = job.open_design != job_.open_design;
    job_ = std::move(job);
    autosave_.start();
    emit job_changed();
    if (other_design) emit design_changed();
}

void Document::replace(Job job, const QString& path) {
    job_ = std::move(job);
    path_ = path;
    recovered_ = false;
    undo_.clear();
    autosave_.stop();
    emit job_changed();
    emit design_changed();
    emit saved_state_changed();
}

void Document::start_new() {
    close();
    lock_ = FileLock();
    replace(new_job(), {});
}

Result<void> Document::open(const QString& path) {
    const auto absolute = QFileInfo(path).absoluteFilePath();
    auto job = load_job(absolute.toStdString());
    if (!job) return tl::unexpected(job.error());
    if (absolute != path_) {
        auto lock = FileLock::take(absolute.toStdString());
        if (!lock) return tl::unexpected(lock.error());
        close();
        lock_ = std::move(*lock);
    }
    replace(std::move(*job), absolute);
    return {};
}

Result<void> Document::open_copy(const QString& path) {
    auto job = load_job(path.toStdString());
    if (!job) return tl::unexpected(job.error());
    close();
    lock_ = FileLock();
    replace(std::move(*job), {});
    return {};
}

Result<void> Document::save() {
    if (auto ok = save_job(job_, path_.toStdString()); !ok) return ok;
    discard_recovery(path_);
    autosave_.stop();
    recovered_ = false;
    undo_.setClean();
    emit saved_state_changed();
    return {};
}

Result<void> Document::save_as(const QString& path) {
    const auto absolute = QFileInfo(path).absoluteFilePath();
    if (absolute == path_) return save();
    auto lock = FileLock::take(absolute.toStdString());
    if (!lock) return tl::unexpected(lock.error());
    if (auto ok = save_job(job_, absolute.toStdString()); !ok) return ok;
    close();
    lock_ = std::move(*lock);
    path_ = absolute;
    return save();
}

void Document::show_design(const std::string& id) {
    if (id == job_.open_design || !job_.find_design(id)) return;
    job_.open_design = id;
    emit design_changed();
}

namespace {

/// `base` followed by the first number that no item has.
template <class Items> std::string free_id(const Items& items, const std::string& base) {
    for (int n = 2;; ++n) {
        const auto id = base + "-" + std::to_string(n);
        if (std::none_of(items.begin(), items.end(), [&](const auto& i) { return i.id == id; })) return id;
    }
}

} // namespace

namespace {

/// Gives a design this family with its defaults; the duty keeps its class where the usual standard has it.
void begin_family(Design& design, const Family& family) {
    design.family = family.id;
    design.numbers.clear();
    design.choices.clear();
    if (design.duty.standard != family.usual_standard) design.duty.standard = family.usual_standard;
}

} // namespace

void Document::add_design(const std::string& family_id) {
    const auto* family = find_family(family_id);
    if (!family) return;
    edit("New design", {}, [&](Job& job) {
        Design design = *job.find_design(job.open_design);
        design.id = free_id(job.designs, family->id);
        design.title = family->title;
        design.note.clear();
        design.unknown = nlohmann::json::object();
        design.other_cable_id.clear();
        begin_family(design, *family);
        job.open_design = design.id;
        job.designs.push_back(std::move(design));
    });
}

void Document::change_family(const std::string& family_id) {
    const auto* family = find_family(family_id);
    if (!family || family_id == design().family) return;
    edit("Change family", {}, [&](Job& job) { begin_family(*job.find_design(job.open_design), *family); });
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
    if (job_.designs.size() < 2) return;
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

QString Document::recovery_file(const QString& path) {
    const auto folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/autosave";
    QDir().mkpath(folder);
    const auto name =
        path.isEmpty() ? QString("never-saved")
                       : QString(QCryptographicHash::hash(path.toUtf8(), QCryptographicHash::Sha1).toHex());
    return folder + "/" + name + ".ngjob";
}

bool Document::has_recovery(const QString& path) const {
    return QFileInfo::exists(recovery_file(path));
}

void Document::recover(const QString& path) {
    auto job = load_job(recovery_file(path).toStdString());
    if (!job) return;
    replace(std::move(*job), path);
    recovered_ = true;
    owns_recovery_ = true;
    autosave_.start();
    emit saved_state_changed();
}

void Document::discard_recovery(const QString& path) {
    QFile::remove(recovery_file(path));
    owns_recovery_ = false;
}

void Document::autosave_now() {
    if (!is_changed()) return;
    owns_recovery_ = true;
    if (auto ok = save_job(job_, recovery_file(path_).toStdString()); !ok)
        emit autosave_failed(QString::fromStdString(ok.error().message()));
}

void Document::close() {
    autosave_.stop();
    if (owns_recovery_) discard_recovery(path_);
}

} // namespace ng::app
