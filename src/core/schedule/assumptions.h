// What was assumed and moves the answer: values nobody gave, each put to what it may as well be, the design
// solved again.
#pragma once
#include "evaluate/evaluate.h"

namespace ng {

struct Assumption {
    std::string key;   ///< parameter
    std::string label; ///< in words, with its group
    double assumed = 0, other = 0;
    std::string check; ///< title of the check that it moves most
    double moves = 0;  ///< of its figure, relative, towards `other`
    std::string words; ///< all of it in a sentence
};

/// A change of a figure that is worth a line.
constexpr double assumption_moves = 0.10;

/// Permittivities, conductivities, edge radii and distances to earth that are the family's defaults and that
/// move a check's figure by more than a tenth, the most first. Solved coarsely: differences, not figures, are
/// used. `prepare`: the design as it is judged, with faults or without. Refuses what cannot be prepared;
/// empty when cancelled.
Result<std::vector<Assumption>> find_assumptions(const Job& job, const std::string& design_id,
                                                 const Library& library, const Preparer& prepare,
                                                 const CancelFlag* cancel = nullptr);

} // namespace ng
