// Analyses in time: meshes adapted to the steady states that bound them, the transient stepped on the last
// two.
#pragma once
#include "field/adapt.h"

namespace ng {

bool is_transient(const Section& section);

/// The steady states that the meshes of a transient are adapted to: an impulse's at the frequencies of its
/// front and of its tail, a DC step's first instant, its state after about its duration and its final one,
/// AC's phasor state.
std::vector<Section> bounding_states(const Section& section);

/// Steps through on the meshes of `adaptation`, whose bounding states `states` were just found; makes finer
/// ones while the errors of the transient itself, of mesh and integrator, miss the goal and the budget allows
/// it.
Result<Solution> solve_in_time(const Section& section, Adaptation& adaptation,
                               const std::vector<Section>& loads, const std::vector<Solution>& states,
                               const SolveOptions& options);

} // namespace ng
