// Rows of builds, kept in the cache folder until others come: what was stopped, by a hand or by the power,
// goes on where it was.
#pragma once
#include "study/rows_file.h"
#include <QLockFile>
#include <QString>
#include <memory>
#include <optional>

namespace ng::app {

class KeptRows {
  public:
    /// Of the same plan, job and program.
    explicit KeptRows(const Study& study);
    std::vector<StudyRow> before() const { return file_ ? file_->before() : std::vector<StudyRow>(); }
    void add(const Study& study, const StudyRow& row);
    /// Why nobody could go on with them; empty: one can.
    const QString& why_not() const { return why_not_; }

  private:
    std::unique_ptr<QLockFile> lock_;
    std::optional<RowsFile> file_;
    QString why_not_;
};

/// All rows of a study, on all cores: those that were kept, then the rest. `on_rows` with what there is
/// before the rest and after each of it, one call at a time.
StudyTable build_rows(const Study& study, KeptRows& kept, const CancelFlag& cancel,
                      const std::function<void(const StudyTable&)>& on_rows);

} // namespace ng::app
