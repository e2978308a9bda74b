// A mark of the design moved while all else stays where it was marked: for faults that change numbers.
#pragma once
#include "fault/fault.h"
#include "plan/move_mark.h"

namespace ng {

class MarkShift {
  public:
    /// Fixes what follows from others by its usual value, so that a moved mark takes nothing along. Refuses a
    /// side that the design does not have, by `title`.
    static Result<MarkShift> begin(Job& job, const Fault& fault, const std::string& design,
                                   const Library& library, std::string title);

    /// The marks of the fault's side, as they were.
    std::vector<CutMark> marks() const;
    /// Whether a mark is set by a number of its own: of this side alone, or one that moves a part as a whole.
    bool is_own(const CutMark& mark) const;
    bool has_number(const CutMark& mark) const { return !mark.parameter.empty(); }
    /// Distances of the family's datum grow away from the live end.
    static double towards_live(double from_datum_mm, double mm) { return from_datum_mm - mm; }
    /// Puts a mark at this distance from the family's datum.
    Result<void> put(const CutMark& mark, double from_datum_mm);
    /// Where the mark lies now; none: it is there no more, or the design cannot be made.
    Result<double> z_of(const PlaceId& mark) const;
    /// Puts back what the shift needed.
    void end();
    InputError misfit(const std::string& problem) const { return {title_, problem, "Give a smaller size"}; }

  private:
    Job* job_ = nullptr;
    Design* design_ = nullptr;
    const Library* library_ = nullptr;
    std::string title_;
    std::optional<PlaceId> datum_;
    CableSide side_ = CableSide::a;
    CutPlan plan_;
};

} // namespace ng
