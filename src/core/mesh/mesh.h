// A triangle mesh of quadratic elements with its region, electrode and arc labels.
#pragma once
#include "section/section.h"
#include <array>
#include <vector>

namespace ng {

/// Six-node triangles: nodes 0-2 are corners (counter-clockwise), node 3 lies between 0 and 1, 4 between 1
/// and 2, 5 between 2 and 0. On an arc the middle node lies on the arc (isoparametric, curved element).
struct Mesh {
    std::vector<Point> nodes; ///< corners first, then middle nodes
    int corner_count = 0;
    std::vector<std::array<int, 6>> triangles;
    std::vector<int> region;                   ///< per triangle: index into Section::regions
    std::vector<char> curved;                  ///< per triangle: has a middle node off its chord
    std::vector<int> conductor;                ///< per node: index into `conductors`, -1 free
    std::vector<std::array<int, 3>> arc_edges; ///< end, end, middle node of mesh edges on reported arcs
    std::vector<int> arc_of_edge;              ///< per arc edge: index into `arcs`
    std::vector<int> arc_edge_triangle;        ///< per arc edge: the triangle beside it

    /// What holds or shares a potential: the electrodes of the section, then its boundaries.
    struct Conductor {
        std::string name;
        double voltage_kV = 0;
        bool floating = false;
    };
    std::vector<Conductor> conductors;

    /// Rounded edges whose peaks are reported: all arcs of electrodes, and named arcs of regions (the end of
    /// a conductive body), read on the side that is not the body.
    struct EdgeArc {
        std::string owner; ///< electrode or region
        std::string name;
        Arc arc;
        int region = -1; ///< the owner, where it is a region
    };
    std::vector<EdgeArc> arcs;

    /// Sharp metal corners, points where three materials meet and dielectric corners: places where the field
    /// of the drawn shape has no finite limit. Within `reach_mm` the drawn corner, not the built one, sets
    /// the figure, and nothing is reported.
    struct Singular {
        Point at;
        double reach_mm = 0;
        bool strong = true; ///< metal corner or three materials; false: a kink between two materials
    };
    std::vector<Singular> singular;
};

constexpr double longest_singular_reach_mm = 0.5; // common practice, no source
/// A corner of a small step disturbs the field only within a few lengths of that step.
constexpr double singular_reach_per_step = 5;

/// Point and potential-independent element geometry.
/// Reference coordinates (a, b): corner 0 at (0,0), corner 1 at (1,0), corner 2 at (0,1).
struct Reference {
    double a = 0, b = 0;
};
std::array<double, 6> shape_values(Reference x);
std::array<std::array<double, 2>, 6> shape_gradients(Reference x);
Point map_to_section(const Mesh& mesh, int triangle, Reference x);
/// Reference coordinates of `p` in `triangle` (Newton on curved elements).
Reference map_to_reference(const Mesh& mesh, int triangle, Point p);

} // namespace ng
