// Where a section is read: places along its paths, at and round its probes, on its edges. Chosen once, so
// that meshes can be compared place by place.
#pragma once
#include "field/slack.h"
#include "field/solution.h"

namespace ng {

/// Places along a path in mm from its start: even, and closer round its corners and ends.
std::vector<double> sample_places(const Path& path);
Point point_on_path(const Path& path, double s_mm, Point* direction = nullptr);
int region_index(const Section& section, const std::string& name);

/// A mesh edge of a reported arc: the share of the arc that it covers.
struct ArcPiece {
    double from, to;
    std::size_t arc_edge;
    bool reversed; ///< its first node is at `to`
};
/// Rising from the arc's start. `arc`: index into Mesh::arcs.
std::vector<ArcPiece> pieces_of(const Mesh& mesh, int arc);

struct ReadingPlan {
    struct PathPlaces {
        int region = -1;
        std::vector<PathSample> samples; ///< places, and which lie within the reach of a corner
        std::vector<Point> direction;
        std::vector<double> share_mm; ///< length that each sample stands for
        double slack = 1;             ///< factor on the goal
    };
    struct EdgePlaces {
        int arc = -1;              ///< index into Mesh::arcs
        std::vector<double> share; ///< of its sweep, from its start, rising from 0 to 1
        std::vector<Point> at;
        std::vector<char> near_singular;
        double slack = 1; ///< factor on the goal
    };
    struct ProbePlaces {
        int region = -1;
        std::vector<Point> round; ///< beside it, in its region: their changes tell of its error
    };
    std::vector<PathPlaces> paths;
    std::vector<EdgePlaces> edges;
    std::vector<ProbePlaces> probes;
    std::vector<Mesh::Singular> corners; ///< of the mesh that the plan was made with

    /// `first`: any mesh of the section, for its arcs, its corners and how finely it looks at a probe.
    static ReadingPlan of(const Section& section, const Mesh& first, const Slack& slack = {});
};

} // namespace ng
