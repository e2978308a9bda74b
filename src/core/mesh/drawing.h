// A section's outlines as a constrained Delaunay triangulation with labelled faces: what the mesher refines,
// and where corners are looked for. Only for the files of this folder that are built with CGAL's flags.
#pragma once
#include "mesh/contacts.h"
#include "mesh/corner.h"
#include "mesh/mesher.h"
#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Delaunay_mesh_face_base_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Triangulation_face_base_with_info_2.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>
#include <map>

namespace ng::drawing {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using VertexBase = CGAL::Triangulation_vertex_base_with_info_2<int, Kernel>;
using InfoFace = CGAL::Triangulation_face_base_with_info_2<int, Kernel>;
using ConstrainedFace = CGAL::Constrained_Delaunay_triangulation_face_base_2<
    Kernel, CGAL::Constrained_triangulation_face_base_2<Kernel, InfoFace>>;
/// A face that knows where it waits to be divided (mesh/worst_first.h).
template <class Base> struct QueuedFace : Base {
    template <class Structure> struct Rebind_TDS {
        using Other = QueuedFace<typename Base::template Rebind_TDS<Structure>::Other>;
    };
    using Base::Base;
    std::size_t queued = 0;
};
using FaceBase = QueuedFace<CGAL::Delaunay_mesh_face_base_2<Kernel, ConstrainedFace>>;
using Triangulation = CGAL::Constrained_Delaunay_triangulation_2<
    Kernel, CGAL::Triangulation_data_structure_2<VertexBase, FaceBase>, CGAL::Exact_predicates_tag>;
using Vertex = Triangulation::Vertex_handle;
using Face = Triangulation::Face_handle;

constexpr double snap_mm = 1e-4;

// Labels of faces: 0 and up are regions, `nothing` lies outside all, electrode k is electrode_base - k.
constexpr int nothing = -1;
constexpr int electrode_base = -2;

/// In the coordinates of the mesh, which Stretch takes to those of the section.
inline Point on_mesh(Vertex v) {
    return {v->point().x(), v->point().y()};
}

/// A line of the outlines that lies on an arc or holds a boundary: between two vertices of the triangulation,
/// which refinement may divide.
struct Tagged {
    Vertex a, b;
    int arc, boundary;
};

struct Drawing {
    const Section* section = nullptr;
    std::shared_ptr<const Stretch> stretch;
    Triangulation triangulation;
    std::vector<Arc> arcs;         ///< of every outline; Tagged::arc points here
    std::vector<int> reported_arc; ///< per arc: index into `edge_arcs` or -1
    std::vector<Mesh::EdgeArc> edge_arcs;
    std::vector<std::vector<Point>> region_polygons, electrode_polygons;
    std::vector<Tagged> tagged;
    std::vector<Kernel::Point_2> seeds; ///< one in each part that is not meshed

    /// Where a vertex lies in the section.
    Point place(Vertex v) const { return stretch->none() ? on_mesh(v) : stretch->to_section(on_mesh(v)); }
    /// Labels the faces of each part bounded by constrained edges by one point in its largest triangle.
    void label();
    int label_at(Point p) const;
};

/// Draws a section. Arcs in steps of at most `arc_step_rad`, halved until no chord is longer than `size` asks
/// (null: not halved). Refuses two boundaries of different voltage on one line.
Result<std::unique_ptr<Drawing>> draw(const Section& section, const Contacts& contacts,
                                      std::shared_ptr<const Stretch> stretch, double arc_step_rad,
                                      const SizeField& size);
/// Where the lines of a section touch its arcs, or come close to them.
Contacts contacts_of(const Section& section);

/// Every electrode and every piece of a boundary borders on a region, or is there for nothing: drawn
/// elsewhere than meant.
Result<void> check_conductors(const Drawing& drawing);

/// What lies round a vertex of the outlines: wedges of material between ends, or one closed ring.
struct Corner {
    struct Wedge {
        SectorEnd first = SectorEnd::metal, last = SectorEnd::metal;
        std::vector<std::pair<int, double>> parts; ///< region, angle
    };
    Point at;
    double reach_mm = 0;
    double cusp_reach_mm = 0; ///< where a part closes up between an arc and its tangent
    bool closed = false, on_axis = false;
    std::vector<Wedge> wedges;
};
std::vector<Corner> find_corners(const Drawing& drawing);

/// Corners whose field is irregular in any of the loads: the largest growth of all. `region_weights`: per
/// load and region.
std::vector<Mesh::Singular> singular_for(const std::vector<Corner>& corners,
                                         const std::vector<std::vector<double>>& region_weights);

} // namespace ng::drawing
