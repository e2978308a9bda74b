// The open job: undo, saving, autosave and recovery, and the lock that keeps two windows off one file.
#pragma once
#include "app/model/safety_copy.h"
#include "design/design_templates.h"
#include <QByteArray>
#include <QObject>
#include <QString>
#include <QTimer>
#include <QUndoStack>
#include <functional>
#include <memory>
#include <nlohmann/json_fwd.hpp>

namespace ng {
struct Family;
}

namespace ng::app {

/// What memory holds at most of them: a job of a hundred designs is some 200 kB.
constexpr int most_undo_steps = 300;

class Document : public QObject {
    Q_OBJECT
  public:
    explicit Document(QObject* parent = nullptr);
    ~Document() override { undo_.disconnect(this); } // the safety copy stays: only close() gives it up

    const Job& job() const { return *job_; }
    const Design& design() const { return *job_->find_design(job_->open_design); }
    const Cable& cable() const { return *job_->find_cable(design().cable_id); }
    QString path() const { return path_; } ///< empty: never saved
    /// What open_copy() took it from, until another job is opened; what lies beside that belongs to it.
    QString copied_from() const { return copied_from_; }
    QUndoStack* undo_stack() { return &undo_; }
    /// Also while something is typed that is not entered yet.
    bool is_changed() const { return !undo_.isClean() || recovered_ || !typed_.isEmpty(); }

    /// One undoable edit. Edits of one gesture with one `merge_key` become one step.
    void edit(const QString& text, const QString& merge_key, const std::function<void(Job&)>& change);
    void begin_gesture() { ++gesture_; }

    void start_new();
    /// A new job, not saved yet, that somebody chose.
    void start_with(Job job);
    /// Whether what is open is the example of a new job, which nobody touched yet.
    bool is_example() const { return example_ && undo_.count() == 0; }
    Result<void> open(const QString& path);
    /// The open design and its cables as a study drew them, as a design of its own; one step to undo.
    void open_drawn(const Job& drawn, const std::string& of_title);
    /// Opens without tying the job to the file: the demo, or a file that another window holds.
    Result<void> open_copy(const QString& path);
    /// Where the file was changed by another program, that version is kept beside it first (kept_beside()).
    Result<void> save();
    Result<void> save_as(const QString& path);

    /// Another design is looked at: no undo step.
    void show_design(const std::string& id);

    /// A design of this family on the shown design's cable, shown at once.
    void add_design(const Family& family);
    /// On the cables of the shown design.
    void add_design(const DesignTemplate& from);
    /// The shown design becomes one of this family with its defaults.
    void change_family(const Family& family);
    /// A copy beside the shown one, shown at once; the last design cannot be deleted.
    void duplicate_design();
    void delete_design();
    /// A copy of the shown design's cable, used by it.
    void duplicate_cable();

    /// Whether another program changed the file since it was read or written here.
    bool file_changed_outside() const;
    /// The name that the other version was given at the last save(); empty: there was none.
    QString kept_beside() const { return kept_beside_; }

    /// What is typed in a field and not entered yet, as “text” in its field; empty: nothing. It counts as a
    /// change and goes into the safety copy as it stands.
    void set_typed(const QString& words);

    /// The work of an earlier session in place of the open job; its copy is given up once this session has
    /// its own.
    void recover(const LeftCopy& copy);
    void autosave_now();
    bool has_safety_copy() const { return safety_->exists(); } ///< of this session
    /// Forgets the safety copy: the work is saved or given up.
    void close();

  signals:
    void job_changed();    ///< edited, with the same design shown
    void design_changed(); ///< another design or another job is shown: instead of job_changed
    void job_opened();     ///< another job altogether, before design_changed
    void saved_state_changed();
    void autosave_failed(const QString& message);

  private:
    friend class JobCommand;
    void set_job(std::shared_ptr<const Job> job);
    void replace(Job job, const QString& path);
    Result<void> write_to(const QString& path);
    void remember_file();
    static Result<std::unique_ptr<QLockFile>> lock_of(const QString& path);
    static QByteArray print_of(const QString& path);

    std::shared_ptr<const Job> job_;
    bool example_ = false;
    QString path_, copied_from_, typed_, kept_beside_;
    QByteArray file_print_; ///< of the file's content as last read or written here
    QUndoStack undo_;
    QTimer autosave_;
    std::unique_ptr<QLockFile> lock_;
    std::unique_ptr<SafetyCopy> safety_;
    int gesture_ = 0;
    bool recovered_ = false;
};

} // namespace ng::app
