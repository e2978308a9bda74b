// The engineering report: cover, and of each design its cable, duty, section, field, traces, verdicts, test
// schedule, fit, marks, cautions, what was overridden and what is from memory.
#pragma once
#include "draw/document.h"
#include "plan/plan.h"
#include "schedule/schedule.h"

namespace ng::draw {

/// A design with all that is known of it.
struct ReportedDesign {
    const PreparedDesign* prepared = nullptr;
    const Solution* solution = nullptr; ///< at U0
    const Verdict* verdict = nullptr;
    const Schedule* schedule = nullptr; ///< may be missing
    const CutPlan* plan = nullptr;
    Status overall() const;
    std::string overall_words() const; ///< with how many checks are not judged
};

/// `date` as it is to be printed; the only thing in it that is not the job's.
Document report_document(const Job& job, const std::vector<ReportedDesign>& designs, const QString& date);

} // namespace ng::draw
