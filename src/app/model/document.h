// The open job: undo, saving, autosave and recovery, and the lock that keeps two windows off one file.
#pragma once
#include "io/file.h"
#include "io/job.h"
#include <QObject>
#include <QString>
#include <QTimer>
#include <QUndoStack>
#include <functional>

namespace ng::app {

class Document : public QObject {
    Q_OBJECT
  public:
    explicit Document(QObject* parent = nullptr);
    ~Document() override { undo_.disconnect(this); }

    const Job& job() const { return job_; }
    const Design& design() const { return *job_.find_design(job_.open_design); }
    const Cable& cable() const { return *job_.find_cable(design().cable_id); }
    QString path() const { return path_; } ///< empty: never saved
    QUndoStack* undo_stack() { return &undo_; }
    bool is_changed() const { return !undo_.isClean() || recovered_; }

    /// One undoable edit. Edits of one gesture with one `merge_key` become one step.
    void edit(const QString& text, const QString& merge_key, const std::function<void(Job&)>& change);
    void begin_gesture() { ++gesture_; }

    void start_new();
    Result<void> open(const QString& path);
    /// Opens without tying the job to the file: the demo, or a file that another window holds.
    Result<void> open_copy(const QString& path);
    Result<void> save();
    Result<void> save_as(const QString& path);

    /// Another design is looked at: no undo step.
    void show_design(const std::string& id);

    /// A design of this family on the shown design's cable, shown at once.
    void add_design(const std::string& family);
    /// The shown design becomes one of this family with its defaults.
    void change_family(const std::string& family);
    /// A copy beside the shown one, shown at once; the last design cannot be deleted.
    void duplicate_design();
    void delete_design();
    /// A copy of the shown design's cable, used by it.
    void duplicate_cable();

    /// Work of a session that ended without saving this file (empty path: a job never saved).
    bool has_recovery(const QString& path) const;
    void recover(const QString& path);
    void discard_recovery(const QString& path);
    void autosave_now();
    /// Forgets the autosave: the work is saved or given up.
    void close();

  signals:
    void job_changed();
    void design_changed(); ///< another design or another job is shown
    void saved_state_changed();
    void autosave_failed(const QString& message);

  private:
    friend class JobCommand;
    void set_job(Job job);
    void replace(Job job, const QString& path);
    static QString recovery_file(const QString& path);

    Job job_;
    QString path_;
    QUndoStack undo_;
    QTimer autosave_;
    FileLock lock_;
    int gesture_ = 0;
    bool recovered_ = false;
    bool owns_recovery_ = false; ///< the recovery file of `path_` is this session's own
};

} // namespace ng::app
