// By how much a check changes with the design, by the derivative of what it reads (field/shape_derivative.h):
// says what is not worth solving; what is worth it is solved.
#pragma once
#include "evaluate/evaluate.h"
#include "field/shape_derivative.h"

namespace ng {

/// May be shared by threads.
class Screening {
  public:
    /// Of a check of an evaluated design. None: it reads no summit of a field that scales with its voltage,
    /// along the axis; or its derivative is not known.
    static std::optional<Screening> of(const Evaluation& evaluation, const Check& check,
                                       const CancelFlag* cancel = nullptr);

    /// The places that it is read at: its summit and all that come near to it.
    std::size_t summits() const { return of_field_.values().size(); }
    /// Change of the check's value with the design as changed, over the value. None: not known, or the check
    /// is another then, or has another limit.
    std::optional<double> relative_change(const PreparedDesign& changed) const;

  private:
    Screening(ShapeDerivative of_field, CheckRequest request, std::optional<double> limit)
        : of_field_(std::move(of_field)), request_(std::move(request)), limit_(limit) {}
    ShapeDerivative of_field_;
    CheckRequest request_;
    std::optional<double> limit_;
};

} // namespace ng
