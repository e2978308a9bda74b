// A mark moved to a distance from the datum that somebody typed or dragged: which numbers of the design do
// it.
#pragma once
#include "plan/plan.h"

namespace ng {

/// What keeps the datum where it lies on the cable while a mark is moved: its parameter, as it is now.
std::map<std::string, double> holding_datum(const PreparedDesign& prepared, const CutPlan& plan,
                                            const CutMark& mark);

/// Numbers of the design, by parameter, that put a mark at this distance from the plan's datum: the mark's
/// own, and the datum's as it is now where the datum would else move with the mark. Refuses by name a mark
/// that cannot be moved against the datum.
Result<std::map<std::string, double>> numbers_for(const Job& job, const PreparedDesign& prepared,
                                                  const Library& library, const PlaceId& mark,
                                                  double from_datum_mm);

} // namespace ng
