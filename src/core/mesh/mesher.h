// Graded Delaunay meshing of a section (CGAL's Delaunay mesher, after Shewchuk, "Delaunay refinement
// algorithms for triangular mesh generation", 2002), kept alive so that refinement only adds points.
//
// Not good for: sections whose thinnest part is below the snap length (1e-4 mm), or angles below about 2
// degrees between outlines, round which the mesh gets very fine.
#pragma once
#include "mesh/mesh.h"
#include <atomic>
#include <functional>
#include <memory>

namespace ng {

/// Set from any thread to stop a running solve at the next step.
using CancelFlag = std::atomic<bool>;

/// Wanted edge length in mm at a place.
using SizeField = std::function<double(Point)>;

struct MesherOptions {
    double arc_step_rad = 3.14159265358979 / 24; ///< longest chord angle on arcs
    int most_triangles = 400000;
    /// Per region, what decides how the field bends at its border (permittivity, or magnitude of sigma + j
    /// omega eps): tells corners with unbounded field from harmless ones.
    std::vector<double> region_weight;
};

class Mesher {
  public:
    Mesher(Mesher&&) noexcept;
    ~Mesher();

    /// Triangulates the outlines. The section must outlive the mesher.
    static Result<Mesher> create(const Section& section, const MesherOptions& options);

    /// Adds points until every edge is no longer than the size field asks and no angle is below about 20
    /// degrees. False when cancelled or out of triangles.
    bool refine(const SizeField& size_mm, const CancelFlag* cancel);

    /// Sharp corners and points where materials meet, known from the outlines alone.
    const std::vector<Mesh::Singular>& singular() const;

    /// The mesh as it stands. Refuses electrodes at different voltages that touch.
    Result<Mesh> mesh() const;

  private:
    struct State;
    explicit Mesher(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

} // namespace ng
