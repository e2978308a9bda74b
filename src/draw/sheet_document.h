// The work sheet as a document.
#pragma once
#include "design/revisions.h"
#include "draw/document.h"
#include "plan/sheet.h"
#include "schedule/schedule.h"

namespace ng::draw {

/// What stands in its title block beside the design.
struct SheetHead {
    QString job, date;
    QString revision = {}, author = {}; ///< as revision_words; who froze it
    std::optional<Status> status = {};  ///< of checks and tests; none: not solved
    std::string reason = {};

    /// Takes how the design is frozen.
    void take(const DesignState& state);
    /// Takes the worse of checks and tests with its reason; `schedule` null: not run to its end, which the
    /// reason then says.
    void take(const Verdict& verdict, const Schedule* schedule);
};

/// Why nobody may build by this sheet; empty: nothing speaks against it.
std::string not_to_be_built(const WorkSheet& sheet, const PreparedDesign& prepared, const CutPlan& plan,
                            const SheetHead& head);

/// `large`: large print for the field. A design that falls short says so on every page.
Document sheet_document(const WorkSheet& sheet, const PreparedDesign& prepared, const CutPlan& plan,
                        bool large, const SheetHead& head);

/// Rows of the marks as documents show them: mark, distance, neighbour, tolerance, what is cut, tool, why.
std::vector<std::vector<QString>> mark_rows(const CutPlan& plan);
const std::vector<QString>& mark_head();

} // namespace ng::draw
