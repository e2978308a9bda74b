// Field recovery per material side.
//
// FieldReader, for the figures that are reported: a cubic fitted to the potential round each corner, patches
// never crossing a region's border (Zhang and Naga, "A new finite element gradient recovery method:
// superconvergence property", SIAM J. Sci. Comput. 26, 2005). It is linear in the potentials, so the factors
// of the fits are kept: reading again (another phase, another instant, another voltage) is one small solution
// a patch.
// averaged_field(), for pictures and for marking triangles: area-weighted mean of the raw gradients
// (Zienkiewicz and Zhu, IJNME 24, 1987).
//
// Not good for: points nearer to a sharp metal corner or triple point than a few elements, where no smooth
// polynomial fits.
#pragma once
#include "field/element.h"
#include <Eigen/Core>
#include <complex>
#include <memory>
#include <vector>

namespace ng {

/// A place to read: the triangle on the asked side, found once per mesh.
struct Reading {
    int triangle = -1;
    Reference at;
};

class FieldReader {
  public:
    FieldReader(const Mesh& mesh, std::vector<Reading> places);

    int size() const { return static_cast<int>(places_.size()); }
    const std::vector<Reading>& places() const { return places_; }
    /// E = -grad V in kV/mm at each place, from the potentials in kV at the nodes.
    std::vector<Point> field(const Eigen::VectorXd& potential_kV) const;
    std::vector<double> potential(const Eigen::VectorXd& potential_kV) const;
    /// -grad V of the elements themselves, unrecovered.
    std::vector<Point> raw_field(const Eigen::VectorXd& potential_kV) const;
    /// Sum over places of weight . E as a load on the nodes: the transpose of field().
    Eigen::VectorXd load(const std::vector<Point>& weights) const;
    /// Per place: what bounds the field that a potential of 1 kV anywhere could make of it, 1/mm.
    std::vector<double> sum_of_weights() const;

  private:
    struct Patches;
    class PatchMaker;
    /// The field at a node on one side, the `node`-th of a triangle: the mean of two fits, which at a corner
    /// are one; where one cannot be made (-1), of the triangle itself.
    struct Slot {
        std::array<int, 2> patch;
        Point at;
        int triangle, node;
        bool is_raw() const { return patch[0] < 0 || patch[1] < 0; }
    };
    const Mesh& mesh_;
    std::vector<Reading> places_;
    std::vector<std::array<int, 6>> slots_of_; // per place
    std::vector<Slot> slots_;
    std::shared_ptr<const Patches> patches_;
};

/// Where the values at the nodes of each region are kept: a node on an interface has one per side. Hangs on
/// the triangles alone, not on where their nodes are.
struct NodalLayout {
    std::vector<std::array<int, 6>> of; ///< per triangle, of its nodes
    std::size_t count = 0;
};
std::shared_ptr<const NodalLayout> nodal_layout(const Mesh& mesh);

/// A field at the nodes of each region. Complex for phasors.
struct NodalField {
    std::shared_ptr<const NodalLayout> layout;
    std::vector<Point> field;     ///< per slot, kV/mm, real part
    std::vector<Point> imaginary; ///< empty for real fields

    /// Magnitude: of phasors the rms of the cycle's largest value over sqrt 2 (major axis of the ellipse).
    double magnitude(std::size_t slot) const;
    double magnitude_at(int triangle, Reference x) const;
    Point at(int triangle, Reference x) const;
    Point imaginary_at(int triangle, Reference x) const;
};

/// `layout` is of the mesh.
NodalField averaged_field(const Mesh& mesh, std::shared_ptr<const NodalLayout> layout,
                          const Eigen::VectorXd& potential_kV, const Eigen::VectorXd& imaginary_kV);

/// Semi-major axis of the ellipse that Re((a + j b) exp(j phi)) runs through.
double major_axis(Point a, Point b);

/// Averaged less raw gradient at three points of a triangle, r and z each, times the root of weight and share
/// of its volume.
using FieldDifference = std::array<std::complex<double>, 6>;

/// Per triangle: sqrt of the integral of weight |averaged - raw|^2, `weight` per region (the averaging
/// estimate of Zienkiewicz and Zhu); no less than a share of its height times what is left of the equation
/// inside it (tuning::residual_weight; the residual estimate of Babuska and Rheinboldt, IJNME 12, 1978).
std::vector<double> averaging_error(const Mesh& mesh, const std::vector<double>& weight, Symmetry symmetry,
                                    const Eigen::VectorXd& potential_kV, const Eigen::VectorXd& imaginary_kV,
                                    const NodalField& averaged,
                                    std::vector<FieldDifference>* differences = nullptr);

} // namespace ng
