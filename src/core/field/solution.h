// What a solved section answers. Fields in kV/mm, potentials in kV. AC figures are rms (the section's
// voltages are rms), impulse and DC figures are values.
#pragma once
#include "field/recovery.h"
#include "mesh/mesh.h"
#include "place/place.h"
#include "section/section.h"
#include <memory>
#include <string>
#include <vector>

namespace ng {

/// Components are signed where the field has no phase (capacitive, DC); of phasors they are magnitudes with a
/// phase; of transients they are the largest magnitudes over time, with the sign they had then.
struct PathSample {
    double s_mm = 0; ///< along the path from its first point
    Point at;
    double potential_kV = 0;
    double E_t_kV_per_mm = 0; ///< along the path, positive forwards
    double E_n_kV_per_mm =
        0; ///< across it, positive to the right of its direction (outwards for a path in +z)
    /// Magnitude. Of phasors: the largest |E| of the cycle (major axis of the ellipse) over sqrt 2; of
    /// transients: the largest over time.
    double E_kV_per_mm = 0;
    double potential_phase_deg = 0, E_t_phase_deg = 0, E_n_phase_deg = 0; ///< phasors only
    double peak_time_s = 0;     ///< transients: the instant of E_kV_per_mm
    bool near_singular = false; ///< within the reach of a sharp corner (Mesh::Singular): drawn, never judged
    double error_kV_per_mm =
        0; ///< of each of the field's figures; meaningful when SolveReport::error_known()
};

struct PathResult {
    std::string name;
    std::optional<PlaceId> place; ///< that the name says; none: of a section with names of its own
    std::string side;
    std::vector<PathSample> samples;
    /// Greatest magnitude of what is not near a sharp corner, by the parabola through the greatest sample and
    /// its neighbours. A path that lies within such a reach altogether has none: 0.
    double peak_kV_per_mm = 0;
    double peak_s_mm = 0;
    Point peak_at;
    double peak_relative_error = 0; ///< of the peak
    double relative_error = 0;      ///< greatest error of a sample that may be judged, over the peak
};

/// A rounded edge (arc) of an electrode, or a named one of a region.
struct EdgeResult {
    std::string electrode; ///< owner
    std::string name;
    std::optional<PlaceId> place; ///< that the name says
    double radius_mm = 0;
    double peak_kV_per_mm = 0; ///< of the places that are judged
    Point peak_at;
    double peak_time_s = 0; ///< transients
    double relative_error = 0;
    bool judged = true;           ///< false: all of it lies within the reach of a sharp corner
    bool part_not_judged = false; ///< some of it does
    std::vector<double> share; ///< places along the arc, of its sweep: from 0 to 1, closer where it is near
                               ///< something
    std::vector<double> along_kV_per_mm; ///< there; 0 where it is covered
};

struct ConductorResult {
    std::string name;
    bool floating = false;
    double potential_kV = 0; ///< phasors: magnitude
    double charge_C = 0;     ///< C axisymmetric (whole turn), C/m planar; phasors: magnitude
    double potential_phase_deg = 0, charge_phase_deg = 0;
    double current_A = 0; ///< A or A/m: phasors the rms total current, DC the leakage current
    double potential_error_kV = 0, charge_error_C = 0, current_error_A = 0;
    /// Of charge_C (DC: of current_A), what lies at points where it touches other conductors: whose it is
    /// hangs on the mesh.
    double at_contacts = 0;
};

struct ProbeResult {
    std::string name;
    Point at;
    double potential_kV = 0;
    Point field_kV_per_mm; ///< components: signed, phasor magnitudes, or at the instant of the largest field
    double E_kV_per_mm = 0;
    double potential_phase_deg = 0, E_r_phase_deg = 0, E_z_phase_deg = 0;
    double peak_time_s = 0;
    double error_kV_per_mm = 0, potential_error_kV = 0;
    bool judged = true; ///< false: within the reach of a sharp corner
    /// AC in time: rms of the field's fundamental along its larger component, and its third harmonic over
    /// that.
    double fundamental_kV_per_mm = 0, third_harmonic = 0;
};

/// Loss in a conductive region.
struct LossResult {
    std::string region;
    double power_W = 0;       ///< W axisymmetric; W/m planar
    double per_length_W = 0;  ///< axisymmetric: W per metre of the region's extent along the axis
    double peak_W_per_m3 = 0; ///< greatest power density, in the middles of elements: no error is known
    double power_error_W = 0;
};

/// Free charge that conduction leaves on the border of two regions (DC).
struct InterfaceCharge {
    std::string region_a, region_b;
    double charge_C = 0; ///< C, or C/m planar
    double charge_error_C = 0;
    double at_ends =
        0; ///< of it, at the nodes next to the border's ends: which border they count to hangs on the mesh
};

/// One instant of a transient at the probes.
struct HistoryPoint {
    double t_s = 0;
    double source = 0; ///< factor on the electrode voltages
    std::vector<double> probe_kV, probe_kV_per_mm;
};

/// DC in time: largest field along a path at the end, and just after it, while charges still lie where
/// conduction has left them: with all conductors earthed, and with the voltage reversed.
struct EndState {
    struct Field {
        double peak_kV_per_mm = 0, error_kV_per_mm = 0;
    };
    std::string path;
    Field end, earthed, reversed;
};

struct SolveReport {
    enum class End { goal_met, budget, single_pass, cancelled };
    End end = End::single_pass;
    double goal = 0;
    /// Greatest relative error of all that the goal holds: paths, edges, probes, charges, currents, energy,
    /// losses; small figures relative to a floor (field/tuning.h), those with slack over their factor.
    /// Meaningful when error_known().
    double worst_error = 0;
    int passes = 0;
    int triangles = 0;
    int unknowns = 0;
    double mesh_s = 0, assembly_s = 0, factor_s = 0, solve_s = 0, recovery_s = 0, sampling_s = 0, total_s = 0;
    int iterations = 0;    ///< nonlinear: Newton iterations on the last mesh
    double residual = 0;   ///< nonlinear: the Newton correction that is left, relative to the largest voltage
    bool converged = true; ///< false: the nonlinear iteration or the periodic state was not reached
    int time_steps = 0;    ///< transients, on the last mesh
    int cycles = 0;        ///< AC in time: cycles until the state repeated
    double cycle_change = 0;        ///< AC in time: change of the peaks from the cycle before, relative
    std::vector<std::string> notes; ///< what a reader must know of the figures
    bool error_known() const { return passes > 1 && error_is_known; }
    bool error_is_known = true; ///< false: two solutions were made, but what lies between them says nothing
};

/// What the last two meshes changed of each integral, for its next error; in the order of field/errors.cpp.
struct IntegralChanges {
    std::vector<double> change;
};

struct Solution {
    Symmetry symmetry = Symmetry::axisymmetric;
    Analysis analysis = Analysis::capacitive;
    bool linear = true; ///< scales with the voltages
    std::shared_ptr<const Mesh> mesh;
    std::vector<std::string> region_names;
    std::vector<double> eps_r;    ///< per region
    Eigen::VectorXd potential_kV; ///< per node; phasors: real part; transients: at `shown_at_s`
    Eigen::VectorXd imaginary_kV; ///< phasors only, else empty
    NodalField field;             ///< for pictures
    double shown_at_s = 0;
    std::vector<Mesh::Singular> corners; ///< within whose reach nothing is judged
    std::vector<double> missed_at_tips;  ///< per corner of the mesh (field/corner_errors.h); empty: not known
    std::vector<PathResult> paths;
    std::vector<EdgeResult> edges;
    std::vector<ConductorResult> conductors;
    std::vector<ProbeResult> probes;
    std::vector<LossResult> losses;
    std::vector<InterfaceCharge> interface_charges;
    std::vector<HistoryPoint> history;
    std::vector<EndState> end_states;                   ///< by path
    Eigen::MatrixXd capacitance_F, capacitance_error_F; ///< between conductors, F or F/m; only when asked for
    double energy_J = 0; ///< stored electric energy (time mean for AC), J or J/m; not for transients
    double energy_error_J = 0;
    IntegralChanges integral_changes;
    SolveReport report;

    bool is_phasor() const { return imaginary_kV.size() > 0; }
    const PathResult* path(const PlaceId& place) const;
    const EdgeResult* edge(const PlaceId& place) const;
    /// Of sections that call their paths and edges otherwise.
    const PathResult* path(const std::string& name) const;
    const EdgeResult* edge(const std::string& name) const;
};

/// The same linear solution at `factor` times all voltages. Refuses nonlinear ones.
Result<Solution> scaled(const Solution& solution, double factor);

} // namespace ng
