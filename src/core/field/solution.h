// What a solved section answers. Fields in kV/mm, potentials in kV, rms for AC (the section's voltages are
// rms).
#pragma once
#include "field/recovery.h"
#include "mesh/mesh.h"
#include "section/section.h"
#include <memory>
#include <string>
#include <vector>

namespace ng {

struct PathSample {
    double s_mm = 0; ///< along the path from its first point
    Point at;
    double potential_kV = 0;
    double E_t_kV_per_mm = 0; ///< along the path, positive forwards
    double E_n_kV_per_mm =
        0;                  ///< across it, positive to the right of its direction (outwards for a path in +z)
    double E_kV_per_mm = 0; ///< magnitude
    bool near_singular = false; ///< within the reach of a sharp corner (Mesh::Singular): drawn, never judged
    double error_kV_per_mm =
        0; ///< change since the last coarser solution, an upper estimate; 0 when not known
};

struct PathResult {
    std::string name;
    std::string side;
    std::vector<PathSample> samples;
    double peak_kV_per_mm = 0; ///< greatest magnitude of the samples that are not near a sharp corner
    double peak_s_mm = 0;
    Point peak_at;
    double relative_error = 0; ///< greatest sample error over the peak
};

/// A rounded edge (arc) of an electrode.
struct EdgeResult {
    std::string electrode;
    std::string name;
    double radius_mm = 0;
    double peak_kV_per_mm = 0;
    Point peak_at;
    double relative_error = 0;
};

struct ConductorResult {
    std::string name;
    bool floating = false;
    double potential_kV = 0;
    double charge_C = 0; ///< C axisymmetric (whole turn), C/m planar
};

struct ProbeResult {
    std::string name;
    Point at;
    double potential_kV = 0;
    Point field_kV_per_mm;
};

struct SolveReport {
    enum class End { goal_met, budget, single_pass, cancelled };
    End end = End::single_pass;
    double goal = 0;
    double worst_error = 0; ///< greatest relative error of all paths and edges; 0 when only one pass was made
    int passes = 0;
    int triangles = 0;
    int unknowns = 0;
    double mesh_s = 0, assembly_s = 0, factor_s = 0, solve_s = 0, recovery_s = 0, sampling_s = 0, total_s = 0;
    bool error_known() const { return passes > 1; }
};

struct Solution {
    Symmetry symmetry = Symmetry::axisymmetric;
    std::shared_ptr<const Mesh> mesh;
    std::vector<std::string> region_names;
    std::vector<double> eps_r; ///< per region
    Eigen::VectorXd potential_kV;
    RecoveredField recovered;
    std::vector<PathResult> paths;
    std::vector<EdgeResult> edges;
    std::vector<ConductorResult> conductors;
    std::vector<ProbeResult> probes;
    double energy_J = 0; ///< stored electric energy (time mean for rms voltages), J or J/m
    SolveReport report;

    const PathResult* path(const std::string& name) const;
    const EdgeResult* edge(const std::string& name) const;
};

} // namespace ng
