// The work sheet as a document.
#pragma once
#include "draw/document.h"
#include "plan/sheet.h"

namespace ng::draw {

/// `large`: large print for the field.
Document sheet_document(const WorkSheet& sheet, const PreparedDesign& prepared, const CutPlan& plan,
                        bool large);

/// Rows of the marks as documents show them: mark, distance, neighbour, tolerance, what is cut, tool, why.
std::vector<std::vector<QString>> mark_rows(const CutPlan& plan);
const std::vector<QString>& mark_head();

} // namespace ng::draw
