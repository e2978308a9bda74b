// Quadratic (six-node, isoparametric) triangle: shape functions and stiffness, axisymmetric or planar.
// Source: Zienkiewicz, Taylor, Zhu, The Finite Element Method; quadrature after Dunavant, IJNME 21 (1985).
#pragma once
#include "mesh/mesh.h"
#include <Eigen/Core>
#include <span>

namespace ng {

struct QuadraturePoint {
    Reference at;
    double weight; ///< sums to 1/2, the area of the reference triangle
};
/// Exact to degree 4 (six points).
std::span<const QuadraturePoint> quadrature();

/// Shape functions, their section gradients (1/mm) and the volume weight of one point of one element.
struct ElementPoint {
    std::array<double, 6> value;
    std::array<Point, 6> gradient;
    Point at;
    double jacobian = 0; ///< mm^2 per unit of reference area
};
ElementPoint evaluate(const Mesh& mesh, int triangle, Reference x);

/// Integral of grad(N_i) . grad(N_j): in mm over the whole turn (axisymmetric: weight 2 pi r), or
/// dimensionless per unit depth (planar).
Eigen::Matrix<double, 6, 6> stiffness(const Mesh& mesh, int triangle, Symmetry symmetry);

} // namespace ng
