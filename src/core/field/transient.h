// Time stepping of div((sigma(|E|) + d/dt eps) grad V) = 0 on one mesh: impulses, DC steps, AC over cycles.
//
// Integrator: IDA of SUNDIALS (variable-order, variable-step backward differentiation; Hindmarsh et al., ACM
// Trans. Math. Softw. 31, 2005), its linear equations by GMRES preconditioned with the factorised matrix of
// the step.
#pragma once
#include "field/sampling.h"
#include "field/steady.h"
#include "field/waveform.h"

namespace ng {

struct TransientOptions {
    double relative_tolerance = 2e-4; ///< of the potential, per step
    const CancelFlag* cancel = nullptr;
};

struct TransientOutcome {
    bool cancelled = false;
    bool failed = false; ///< the integrator could not go on
    double reached_s = 0;
};

/// Fills paths, edges and probes of `out` with the largest fields over time, its history, its potentials at
/// the instant of the largest path field, and the report's step counts. AC (a sine) runs until the peaks of a
/// cycle repeat to 0.1 % or `section.cycles.most_cycles` are done; the last cycle is reported, as crest over
/// sqrt 2. `start`: a phasor solution whose instant t = 0 is the starting state of a sine, or null.
TransientOutcome run_transient(const Section& section, const std::shared_ptr<const Assembly>& assembly,
                               const Readings& readings, const Waveform& waveform, double end_s,
                               const Solution* start, const TransientOptions& options, Solution& out);

} // namespace ng
