// Rows of a study in a file, one by one as they are made: what was stopped goes on behind its last whole row.
#pragma once
#include "study/study.h"
#include <fstream>

namespace ng {

class RowsFile {
  public:
    /// A new file, or one that a run of the same plan, job, program and kind of processor left. Refuses rows
    /// of anything else, and what cannot be written.
    static Result<RowsFile> open(const std::string& path, const Study& study, Shard shard);
    /// The rows that it held already, in the order of their index; run_rows goes on behind them.
    const std::vector<StudyRow>& before() const { return before_; }
    /// False: it could not be written (no room); what is whole of it stays.
    bool add(const Study& study, const StudyRow& row);

  private:
    std::ofstream file_;
    std::vector<StudyRow> before_;
};

} // namespace ng
