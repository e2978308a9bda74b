// Figures of the field engine alone: against FreeFem++, growth with size, other analyses, cancelling.
#pragma once
#include "field/solution.h"
#include <string>

namespace ng::bench {

void against_freefem();
void growth();
void analyses();
void cancelling();
/// Error against unknowns, uniform and adaptive, as CSV (scripts/convergence-plots draws it).
void convergence();
std::string end_words(const SolveReport& report);

} // namespace ng::bench
