// A triangle mesh of quadratic elements with its region, electrode and arc labels.
#pragma once
#include "section/section.h"
#include <array>
#include <memory>
#include <vector>

namespace ng {

class Stretch;

/// Six-node triangles: nodes 0-2 are corners (counter-clockwise), node 3 lies between 0 and 1, 4 between 1
/// and 2, 5 between 2 and 0. On an arc the middle node lies on the arc (isoparametric, curved element).
struct Mesh {
    std::vector<Point> nodes; ///< corners first, then middle nodes
    int corner_count = 0;
    /// The mesher leaves them in the order of a curve, neighbours near one another: what walks over them
    /// finds what it needs close by, and TriangleTree halves them as they are.
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
    /// A node where conductors of one potential touch: each with its share of the conducting sides that meet
    /// there, by length. `conductor` names one of them.
    struct SharedNode {
        int node = 0;
        std::vector<std::pair<int, double>> shares; ///< conductor, share; they sum to 1
    };
    std::vector<SharedNode> shared_nodes;

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
    /// of the drawn shape has no finite limit (order below 1). Within `reach_mm` the drawn corner, not the
    /// built one, sets the figure, and nothing is judged. Corners where it falls to nothing (order above 1)
    /// are here too.
    struct Singular {
        enum class Kind { metal_corner, triple_point, dielectric_corner };
        Point at;
        double reach_mm = 0; ///< nothing is judged within it
        double influence_mm =
            0; ///< about how far the corner shapes the field; the reach of all but weak ones
        Kind kind = Kind::metal_corner;
        double order = 1; ///< of the potential, r^order (mesh/corner.h)
        /// Whether the first mesh is fine round it: all but the weakest corners between dielectrics.
        bool strong() const { return kind != Kind::dielectric_corner || order < 0.9; }
    };
    std::vector<Singular> singular;

    /// Where triangles are stretched along thin long layers; null: nowhere.
    std::shared_ptr<const Stretch> stretch;
    /// Where the mesher has the corner nodes: stretched, and on the chords of arcs. What a SizeField is asked
    /// in.
    std::vector<Point> on_drawing;
};

constexpr double longest_singular_reach_mm = 0.5; // common practice, no source
/// A corner of a small step disturbs the field only within a few lengths of that step.
constexpr double singular_reach_per_step = 5;
/// Chosen: of corners whose field grows by less than 5 % per decade, or falls, only the innermost is not
/// judged (no mesh gets to the end of such a power), and what the mesh does not resolve of it counts as
/// error.
constexpr double weak_reach_share = 0.1;

/// Point and potential-independent element geometry.
/// Reference coordinates (a, b): corner 0 at (0,0), corner 1 at (1,0), corner 2 at (0,1).
struct Reference {
    double a = 0, b = 0;
};
std::array<double, 6> shape_values(Reference x);
/// Of the six nodes: corners, then the middles of the sides that begin there.
inline constexpr Reference node_places[6] = {{0, 0}, {1, 0}, {0, 1}, {0.5, 0}, {0.5, 0.5}, {0, 0.5}};
std::array<std::array<double, 2>, 6> shape_gradients(Reference x);
Point map_to_section(const Mesh& mesh, int triangle, Reference x);

/// The first of `corners` within whose reach `p` lies; null: it may be judged.
const Mesh::Singular* corner_that_reaches(const std::vector<Mesh::Singular>& corners, Point p);
/// Reference coordinates of `p` in `triangle` (Newton on curved elements).
Reference map_to_reference(const Mesh& mesh, int triangle, Point p);

} // namespace ng
