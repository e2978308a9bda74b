// Field recovery per material side, and the error estimates built on it.
// Recovery: Zhang and Naga, "A new finite element gradient recovery method: superconvergence property", SIAM
// J. Sci. Comput. 26 (2005): a cubic fitted to the potential round each corner, patches never crossing a
// region's border. Estimate: Zienkiewicz and Zhu, IJNME 24 (1987); goal weighting: Oden and Prudhomme,
// Comput. Math. Appl. 41 (2001).
//
// Not good for: points nearer to a sharp metal corner or triple point than a few elements, where no smooth
// polynomial fits.
#pragma once
#include "field/element.h"
#include <vector>

namespace ng {

/// Field E = -grad V in kV/mm at the nodes of each region; a node on an interface has one value per side.
struct RecoveredField {
    std::vector<std::array<int, 6>> index; ///< per triangle: where its nodes' values are in `field`
    std::vector<Point> field;

    Point at(int triangle, Reference x) const;
};

RecoveredField recover(const Mesh& mesh, const Eigen::VectorXd& potential_kV);

/// Field straight from the element's shape functions, kV/mm.
Point raw_field(const Mesh& mesh, const Eigen::VectorXd& potential_kV, int triangle, Reference x);

/// Energy-norm difference of recovered and raw field per triangle: sqrt of the integral of eps_r |dE|^2.
std::vector<double> recovery_error(const Mesh& mesh, const std::vector<double>& eps_r, Symmetry symmetry,
                                   const Eigen::VectorXd& potential_kV, const RecoveredField& recovered);

} // namespace ng
