#include "fault/mark_shift.h"
#include <algorithm>

namespace ng {

Result<MarkShift> MarkShift::begin(Job& job, const Fault& fault, const std::string& id,
                                   const Library& library, std::string title) {
    MarkShift out;
    out.job_ = &job;
    out.library_ = &library;
    out.title_ = std::move(title);
    out.side_ = fault.side == Side::b ? CableSide::b : CableSide::a;
    out.design_ = job.find_design(id);
    if (!out.design_) return refuse("design " + id, "it is not in the job", "Name one of the job's designs");
    out.datum_ = out.design_->work.datum;
    auto before = prepare_design(job, id, library);
    if (!before) return tl::unexpected(before.error());
    before->design.work.datum = out.design_->work.datum = before->built.datum;
    auto plan = make_plan(*before);
    if (!plan) return tl::unexpected(plan.error());
    out.plan_ = std::move(*plan);
    if (auto ok = check_side(before->built, fault.side, out.title_); !ok) return tl::unexpected(ok.error());
    for (const auto& spec : before->family->parameters)
        if (spec.kind == ParameterKind::length)
            out.design_->numbers[spec.key] = number_of(before->context(), spec.key);
    return out;
}

std::vector<CutMark> MarkShift::marks() const {
    std::vector<CutMark> out;
    for (const auto& mark : plan_.marks)
        if (mark.side == side_) out.push_back(mark);
    return out;
}

bool MarkShift::is_own(const CutMark& mark) const {
    return has_number(mark) && std::none_of(plan_.marks.begin(), plan_.marks.end(), [&](const auto& m) {
               return m.side != side_ && m.parameter == mark.parameter && m.per_mm * mark.per_mm > 0;
           });
}

Result<void> MarkShift::put(const CutMark& mark, double from_datum_mm) {
    const auto now = prepare_design(*job_, design_->id, *library_);
    if (!now) return tl::unexpected(now.error());
    const auto numbers = numbers_for(*job_, *now, *library_, mark.place, from_datum_mm);
    if (!numbers) return tl::unexpected(numbers.error());
    for (const auto& [key, value] : *numbers) design_->numbers[key] = value;
    return {};
}

Result<double> MarkShift::z_of(const PlaceId& mark) const {
    const auto now = prepare_design(*job_, design_->id, *library_);
    if (!now) return tl::unexpected(now.error());
    const auto plan = make_plan(*now);
    if (!plan) return tl::unexpected(plan.error());
    const auto* same = plan->find(mark);
    if (!same) return tl::unexpected(misfit("a mark is lost by it"));
    return same->z_mm;
}

void MarkShift::end() {
    design_->work.datum = datum_;
}

} // namespace ng
