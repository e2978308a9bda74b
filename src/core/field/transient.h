// Time stepping of div((sigma(|E|) + d/dt eps) grad V) = 0 on one mesh: impulses, DC steps, AC over cycles.
//
// What is stepped is d = V - w(t) V_cap, the difference to the capacitive state V_cap scaled by the source's
// factor w: d is zero on every held conductor, and at free nodes K(eps) V_cap = 0, so that K(eps) d' +
// conduction flux of V = 0. The errors of the integrator are then those of what conduction moves, and vanish
// at conductors; where nothing conducts d stays zero, and the fields are those of the capacitive state at
// every instant.
//
// Constant conduction: a combination of few states, integrated exactly (field/relaxation.h). Laws of the
// field, and AC: IDA of SUNDIALS (variable-order, variable-step backward differentiation; Hindmarsh et al.,
// ACM Trans. Math. Softw. 31, 2005), its linear equations by GMRES preconditioned with the factorised matrix
// of the step.
#pragma once
#include "field/envelope.h"
#include "field/steady.h"
#include "field/waveform.h"
#include <optional>

namespace ng {

struct TransientOptions {
    double tolerance = 1e-4; ///< of d, per step, relative to the largest voltage
    double repeats = 1e-3;   ///< AC: relative, by what peaks may change from cycle to cycle in the end
    const CancelFlag* cancel = nullptr;
    /// Potentials per node of `mesh` at t = 0 to begin a sine from; null: from zero.
    const Mesh* start_mesh = nullptr;
    const Eigen::VectorXd* start_kV = nullptr;
};

struct TransientOutcome {
    bool cancelled = false;
    bool failed = false; ///< the integrator could not go on
    double reached_s = 0;
    Envelope envelope;             ///< AC: of the last cycle, as crest over sqrt 2
    std::vector<double> roughness; ///< Readings::roughness at the instant of the largest path field
    /// At every place, what the tolerance is measured by: the larger of the envelope and of the capacitive
    /// state at the crest.
    PlaceErrors scale;
    Eigen::VectorXd end_kV; ///< potentials per node at the end
    /// Where the course was combined of states: what it may be off by at every place, from what leaving out
    /// the last of them changes.
    std::optional<PlaceErrors> left_out;
};

/// Fills paths, edges and probes of `out` with the largest fields over time, its history, its potentials at
/// the instant of the largest path field, and the report's step counts. AC (a sine) runs until the peaks of a
/// cycle repeat to `repeats` or `section.cycles.most_cycles` are done; the last cycle is reported, as crest
/// over sqrt 2.
TransientOutcome run_transient(const Section& section, const std::shared_ptr<const Assembly>& assembly,
                               const Readings& readings, const Waveform& waveform, double end_s,
                               const TransientOptions& options, Solution& out);

} // namespace ng
