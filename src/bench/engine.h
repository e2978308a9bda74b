// Figures of the field engine alone: against FreeFem++, growth with size, other analyses, cancelling.
#pragma once
#include "design/library.h"
#include "document/job.h"
#include "field/solution.h"
#include <string>

namespace ng::bench {

void against_freefem();
void growth();
void analyses();
void cancelling();
void studies(const Job& job, const Library& library);
void following(const Job& job, const Library& library);
/// What each design's tightest check hangs on: until the list stands, until its best are refined.
void hanging(const Job& job, const Library& library);
/// Error against unknowns, uniform and adaptive, as CSV (scripts/convergence-plots draws it).
void convergence();
std::string end_words(const SolveReport& report);

} // namespace ng::bench
