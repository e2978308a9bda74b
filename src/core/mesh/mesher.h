// Graded Delaunay meshing of a section (CGAL's Delaunay mesher, after Shewchuk, "Delaunay refinement
// algorithms for triangular mesh generation", 2002).
//
// Not good for: sections whose thinnest part is below the snap length (1e-4 mm), or angles below about 2
// degrees between outlines, round which the mesh gets very fine.
#pragma once
#include "mesh/mesh.h"
#include "mesh/stretch.h"
#include "units/cancel.h"
#include <functional>
#include <memory>

namespace ng {

/// Wanted edge length at a place, both in the coordinates of Mesh::stretch: mm where nothing is stretched.
using SizeField = std::function<double(Point)>;

struct MesherOptions {
    double arc_step_rad = 3.14159265358979 / 24; ///< longest chord angle on arcs
    int most_triangles = 400000;
    /// Per load that the mesh serves and per region, what decides how the field bends at its border
    /// (permittivity, or magnitude of sigma + j omega eps): tells corners with unbounded field from harmless
    /// ones. Empty: permittivity.
    std::vector<std::vector<double>> region_weights;
    /// Spans at least this many times as long as their thinnest layer get slender triangles (mesh/stretch.h).
    double shortest_stretched_span = 1000;
};

struct MadeMesh {
    Mesh mesh;
    bool complete = true; ///< false: it ran out of triangles before every size was met
    bool cancelled = false;
    bool spoiled = false; ///< a triangle beside an arc lost half of its area as it went from chord to arc
};

class Mesher {
  public:
    Mesher(Mesher&&) noexcept;
    ~Mesher();

    /// Looks at the outlines. The section must outlive the mesher. Refuses, by item, electrodes that touch no
    /// region, boundaries that leave the regions, and two boundaries of different voltage on one line.
    static Result<Mesher> create(const Section& section, const MesherOptions& options);

    /// Triangulates the outlines and adds points until every edge is no longer than the size field asks and
    /// no angle is below about 20 degrees (in the coordinates of the mesh). Arcs are divided as finely as the
    /// mesh beside them. Each call begins anew; the first takes arcs at their widest steps. Refuses
    /// electrodes at different voltages that touch, and a line of an outline that the triangulation has lost
    /// (none is known that does).
    Result<MadeMesh> make(const SizeField& size, const CancelFlag* cancel);
    /// Adds points to the last mesh only: where `size` asks for nothing it stays as it is. Arcs keep their
    /// chords; where the mesh that is made of them is spoiled, as between an arc and a line that touches it,
    /// make() is called for.
    Result<MadeMesh> add(const SizeField& size, const CancelFlag* cancel);

    /// Sharp corners and points where materials meet, known from the outlines alone.
    const std::vector<Mesh::Singular>& singular() const;
    const Stretch& stretch() const;
    /// Looks at the corners again for other loads; meshes that were made stay as they are. True when any
    /// corner is now judged otherwise.
    bool judge_corners(const std::vector<std::vector<double>>& region_weights);

  private:
    struct State;
    explicit Mesher(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

} // namespace ng
