// Reading a solved mesh along paths, at probes and on electrode edges.
#pragma once
#include "field/solution.h"
#include "mesh/triangle_tree.h"

namespace ng {

/// Places along a path in mm from its start: even, and closer round its corners and ends.
std::vector<double> sample_places(const Path& path);
Point point_on_path(const Path& path, double s_mm, Point* direction = nullptr);

/// A place to read: the triangle on the asked side, found once per mesh.
struct Reading {
    int triangle = -1;
    Reference at;
};
Reading locate(const Mesh& mesh, const TriangleTree& tree, Point p, int region);

/// Samples of every path; refuses a path that leaves its region.
Result<std::vector<PathResult>> sample_paths(const Section& section, const Solution& solution,
                                             const TriangleTree& tree);
Result<std::vector<ProbeResult>> sample_probes(const Section& section, const Solution& solution,
                                               const TriangleTree& tree);
std::vector<EdgeResult> sample_edges(const Section& section, const Solution& solution);

int region_index(const Section& section, const std::string& name);

/// Derivative of a mean of the field over paths and edges, weighted towards their peaks, with respect to each
/// nodal potential: the load of the adjoint problem.
Eigen::VectorXd goal_load(const Section& section, const Solution& solution, const TriangleTree& tree);

} // namespace ng
