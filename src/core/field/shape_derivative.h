// What figures of a field change by when outlines and materials change a little, without solving again: one
// adjoint for each figure, and for each change the equations of the mesh that has moved along, into which the
// old potentials are put (the discrete adjoint of shape optimisation: Haslinger and Maekinen, Introduction to
// Shape Optimization, SIAM 2003).
//
// Not good for: fields in time and laws of the field; changes that the mesh cannot follow (mesh/motion.h).
#pragma once
#include "field/solution.h"
#include "units/cancel.h"
#include <memory>
#include <optional>

namespace ng {

/// The size of the field at a point of a region, or of its component along a direction.
struct FieldFigure {
    Point at;                     ///< it moves with the mesh, as places on outlines do
    std::string region = {};      ///< its name; empty: whichever is nearest
    std::optional<Point> along{}; ///< of any length; it turns with the mesh
};

/// May be shared by threads.
class ShapeDerivative {
  public:
    /// On the mesh of a steady `solution` of `section`: factorised once. None: the field is no steady one of
    /// laws that hang on nothing, its outlines are not known well enough, a point lies on no triangle, or
    /// `cancel` was raised.
    static std::optional<ShapeDerivative> of(const Section& section, const Solution& solution,
                                             const std::vector<FieldFigure>& figures,
                                             const CancelFlag* cancel = nullptr);

    const std::vector<double>& values() const; ///< of the figures, kV/mm; of phasors their major axes, rms

    /// By how much each figure grows from the section to `to`, kV/mm, but for what is of second order in the
    /// change of the potentials. None: the mesh cannot follow, or `to` is another analysis or has other
    /// voltages.
    std::optional<std::vector<double>> change(const Section& to) const;

  private:
    struct State;
    explicit ShapeDerivative(std::shared_ptr<const State> state) : state_(std::move(state)) {}
    std::shared_ptr<const State> state_;
};

} // namespace ng
