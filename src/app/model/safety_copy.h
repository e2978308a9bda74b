// Work that is not saved yet, kept beside it: one copy per session and job, never written over by another
// session, offered until somebody has answered.
#pragma once
#include "document/job.h"
#include "units/result.h"
#include <QDateTime>
#include <QLockFile>
#include <QString>
#include <QStringList>
#include <memory>
#include <optional>

namespace ng::app {

/// A copy that a session left which no longer runs.
struct LeftCopy {
    QString file;    ///< of the copy
    QDateTime kept;  ///< when it was written
    QDateTime saved; ///< when the job's own file was written last; invalid: it has none
    QString typed;   ///< what was typed and not yet entered, with its field; may be empty
    std::optional<Job> job;
    QString damage; ///< why it cannot be read, where `job` is empty
    /// What differs from `now`, in words: at most `most` places, and how many more.
    QStringList differences(const Job& now, int most = 3) const;
};

class SafetyCopy {
  public:
    /// Of this session; `path` as in Document, empty for a job never saved.
    explicit SafetyCopy(const QString& path);
    ~SafetyCopy();
    SafetyCopy(const SafetyCopy&) = delete;
    SafetyCopy& operator=(const SafetyCopy&) = delete;

    Result<void> write(const Job& job, const QString& typed);
    void remove();
    bool exists() const;

    /// Copies of `path` that sessions left which do not run any more, the newest first.
    static std::vector<LeftCopy> left_for(const QString& path);
    static void throw_away(const LeftCopy& copy);

  private:
    QString path_, file_;
    std::unique_ptr<QLockFile> alive_; ///< held while this session may write the copy
};

} // namespace ng::app
