// What is fetched before the work: kit, connector, tapes, consumables with spares.
#pragma once
#include "plan/sheet.h"
#include "plan/sheet_writer.h"

namespace ng {

std::vector<PickItem> picking_list(const PreparedDesign& prepared, const CutPlan& plan, const StepBook& book,
                                   const SheetWriter& writer);

} // namespace ng
