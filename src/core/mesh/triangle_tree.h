// Finds the triangle at a point, on the side of an interface that is asked for.
#pragma once
#include "geometry/box.h"
#include "mesh/mesh.h"
#include <vector>

namespace ng {

/// The point of `triangle`, curved sides as they are, that is nearest to `p`: where to read what lies a
/// little outside all of them.
Reference nearest_point(const Mesh& mesh, int triangle, Point p);

/// Bounding-box tree over the triangles of a mesh, halved in their order: quick where neighbours follow one
/// another in it.
class TriangleTree {
  public:
    explicit TriangleTree(const Mesh& mesh);

    /// The triangle of region `region` (-1: any) that holds `p`, or the nearest one within `reach_mm`; -1 if
    /// none. `first` (-1: none) is looked at first: of places in a row, the triangle of the one before.
    int find(Point p, int region, double reach_mm = 1e-3, int first = -1) const;

  private:
    struct Node {
        Box box;
        int begin, end; ///< leaves: range in shapes_; inner nodes: children at `left`, `left + 1`
        int left;
    };
    /// What tells whether a place lies in a triangle, of each: read one after the other.
    struct Shape {
        Point corner, u, v; ///< u, v: the sides from there
        double twice_area, longest;
        double bow; ///< how far its sides are bent, mm; 0: straight
        int region;
    };
    int find_within(Point p, int region, double reach_mm) const;
    void halve(int node, const std::vector<Box>& boxes);
    double least_coordinate_of(int triangle, Point p, double reach_mm) const;
    const Mesh& mesh_;
    std::vector<Shape> shapes_;
    std::vector<Node> nodes_;
};

} // namespace ng
