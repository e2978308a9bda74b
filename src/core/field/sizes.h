// How fine a mesh is asked to be: the first one from the section alone, later ones from the triangles that
// were marked.
#pragma once
#include "field/slack.h"
#include "geometry/box.h"
#include "mesh/mesher.h"
#include "mesh/triangle_tree.h"

namespace ng {

/// Wanted edge length before anything is known of the field: fine on electrode arcs, at corners and ends of
/// paths and at probes, growing evenly away from them. In the coordinates of the mesh (Mesh::stretch);
/// lengths scale with the section.
class FirstSizes {
  public:
    /// `coarse`: for the one quick pass while a hand moves.
    FirstSizes(const Section& section, const Mesher& mesher, bool coarse, const Slack& slack = {});
    double operator()(Point on_mesh) const;

  private:
    struct Source {
        Point a, b;
        double reach; ///< round it that have the full fineness
        double size;
        double distance_to(Point p) const;
    };
    double growth_, largest_;
    std::vector<Source> sources_;

    /// A part of the section: halved across its longer side, or with the sources that may be the least in it.
    struct Part {
        Box box;
        int halves = -1; ///< the first of two, in parts_; -1: `sources` are all that count
        bool by_r = false;
        double at = 0; ///< where it is halved
        std::vector<int> sources;
    };
    std::vector<Part> parts_;
    void halve(int part, int times);
    double at_source(int source, Point p, double nearer) const;
};

/// The sizes of a mesh's triangles, smaller in some of them.
class RefinedSizes {
  public:
    /// `factor`: per triangle the share of its longest side that is wanted. `marked_only`: nothing is wanted
    /// in triangles whose factor is 1.
    RefinedSizes(const Mesh& mesh, const std::vector<double>& factor, bool marked_only);
    double operator()(Point on_mesh) const;

  private:
    Mesh shape_; // in the coordinates of the mesh
    bool marked_only_;
    std::vector<double> wanted_;
    std::unique_ptr<TriangleTree> tree_;
};

} // namespace ng
