// Thin layers that run on for long: the mesh is made in coordinates in which such a stretch is short, so that
// its triangles, well shaped there, are long and slender along the layer in the section. The field there
// varies along the layer only as slowly as the distance to the nearest feature.
//
// What lies across the layers pays for it: there too triangles may be no longer than they are far from the
// ends of the span. So only spans are stretched that are long beside all that lies across them.
//
// Not good for: layers that run neither along r (x) nor along z (y), or that bend. They get triangles as
// small as they are thin.
#pragma once
#include "section/section.h"
#include <array>

namespace ng {

/// Two piecewise linear, rising maps, one of r and one of z.
class Stretch {
  public:
    /// Finds the spans of a section that no corner, arc end, path end or probe lies in, that only lines along
    /// the axis cross, and that are at least `shortest_span` times as long as the thinnest layer in them.
    static Stretch of(const Section& section, double shortest_span);

    bool none() const { return r_.from.empty() && z_.from.empty(); }
    Point to_mesh(Point p) const { return {r_.there(p.r), z_.there(p.z)}; }
    Point to_section(Point p) const { return {r_.back(p.r), z_.back(p.z)}; }
    /// How many times longer in the section a triangle of the mesh is than the field allows: than both the
    /// edge length `wanted` and the distance of its middle from the ends of the span. 0 where it is no longer
    /// than on the mesh.
    double overlength(const std::array<Point, 3>& on_mesh, double wanted) const;

  private:
    struct Axis {
        std::vector<double> from, to; ///< break points, rising; empty: as it is
        std::vector<double> ends;     ///< of the spans, in the section, rising
        double overlength(double low, double high, double wanted) const;
        double there(double x) const { return mapped(from, to, x); }
        double back(double x) const { return mapped(to, from, x); }
        static double mapped(const std::vector<double>& from, const std::vector<double>& to, double x);
    };
    /// `round`: the axis is where r is 0, and what lies within the innermost line counts as a layer.
    static Axis axis_of(const std::vector<std::pair<Point, Point>>& lines, std::vector<double> stops,
                        bool along_z, bool round, double shortest_span);
    Axis r_, z_;
};

} // namespace ng
