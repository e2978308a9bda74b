// Revisions: a design frozen with who, when and why, and what has changed since, in words.
#pragma once
#include "design/library.h"
#include "document/job.h"

namespace ng {

/// A job that holds this design only, without its revisions: its cables, its drawing, and whatever of the job
/// its numbers depend on.
Job alone(const Job& job, const Design& design);

/// Freezes the design as its next revision ("A", "B", ... "Z", "AA"). Refuses an empty name or reason, and a
/// design that has not changed since the last one.
Result<Revision> freeze(const Job& job, const Design& design, const std::string& by, const std::string& why,
                        const std::string& on);

/// The job as it was frozen. Refuses by the revision's name what cannot be read.
Result<Job> job_of(const Revision& revision);
/// Refuses a name that no revision has.
Result<const Revision*> find_revision(const Design& design, const std::string& name);

/// A state of a design that calls name: "pole" as it is now, "pole@A" as revision A froze it.
struct DesignState {
    Job job;
    std::string design;
    std::string revision;   ///< as revision_words
    bool is_frozen = false; ///< it is what a revision froze: the last that its design holds
};
/// Refuses a design or a revision that is not there.
Result<DesignState> state_of(const Job& job, const std::string& name);

/// "revision B, 2026-11-27", "changed since revision B: not frozen", "not frozen".
std::string revision_words(const Job& job, const Design& design);

/// What differs between two states of one design, a line each: "Screen edge: 186.5 mm → 190 mm". Labels are
/// those of `family`; none: keys.
std::vector<std::string> changes_between(const Job& before, const Job& after, const Family* family);

/// What the revision changed against the one before it; of the first that it is the first.
std::vector<std::string> changes_of(const Design& design, std::size_t revision, const Family* family);
/// What the present state changes against the last revision; none: nothing, or there is none.
std::vector<std::string> changes_since(const Job& job, const Design& design, const Family* family);

} // namespace ng
