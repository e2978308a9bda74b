// Solving a section: capacitive AC, div(eps grad V) = 0, refined towards paths and electrode edges.
//
// Not good for: conductive or field-dependent layers (their section is refused here, never treated as
// capacitive).
#pragma once
#include "field/solution.h"
#include "mesh/mesher.h"
#include <functional>

namespace ng {

struct SolveOptions {
    double goal = 0.01;         ///< relative, of the peak of each path and edge
    int most_unknowns = 150000; ///< budget: no pass is begun above it
    int most_passes = 7;
    bool coarse = false; ///< one quick pass while a hand moves; no error estimate
    const CancelFlag* cancel = nullptr;
    std::function<void(const SolveReport&)> progress; ///< called after each pass, on the solving thread
};

/// Refuses what cannot be solved, by item. A cancelled solve returns a Solution whose report says so.
Result<Solution> solve(const Section& section, const SolveOptions& options = {});

} // namespace ng
