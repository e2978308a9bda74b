// What holds of every mark of a kind: tolerance, order among the cuts, tool, reason. All common practice, no
// source.
#pragma once
#include "plan/plan.h"

namespace ng {

struct MarkFacts {
    double tolerance_mm = 1;
    int order = -1; ///< of the cuts, from the cable end; below 0: no cut
    std::string cuts, spares, tool, why;
    std::vector<PlaceKind> places; ///< paths and edges whose field it sets
};
const MarkFacts& facts(MarkKind kind);

/// One sheath over all three cores, as paper-insulated cables have it.
bool has_common_sheath(const Cable& cable);

/// Of a cable that has armour: "armour wires" and so on.
const char* armour_words(const Cable& cable);

/// Sets what is cut, spared, with which tool and blade, and why, on this cable.
void describe(CutMark& mark, const Cable& cable, const CableDimensions& dimensions);

} // namespace ng
