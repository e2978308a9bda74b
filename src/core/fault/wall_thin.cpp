// A tube thinner than it was drawn: shrunk too far, scorched, thin on one side.
#include "fault/mark_shift.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {

NEEDLEGAUGE_FAULT(wall_thin, 45) {
    FaultKind k;
    k.id = "wall_thin";
    k.title = "tube wall thin or scorched";
    k.model =
        "The recovered wall of the innermost tube is thinner by this, all round and all along; a thin side "
        "or a scorched place alone is milder";
    k.size_words = "missing wall";
    k.least_mm = 0.05;
    k.most_mm = 5;
    k.inspection = {"caliper, eye for scorch", 0.15, 0.5, 0.97};
    k.rework = "Slit the tube off and shrink on a new one";
    k.source = "10 to 30 % of the wall: common practice, no source";
    k.step = "place-control";
    k.change = [title = k.title](Job& job, const Fault& fault, const std::string& design,
                                 const Library& library) -> Result<void> {
        constexpr double least_mm = 0.3;
        const auto now = prepare_design(job, design, library);
        if (!now) return tl::unexpected(now.error());
        if (has_two_sides(now->built) != (fault.side != Side::none))
            return refuse(title, "this design has no such side", "Say A or B of a joint, else nothing");
        std::string key;
        for (const auto& item : now->built.fit)
            if (const auto own = item.prefix + "_recovered_wall_mm";
                key.empty() && !item.prefix.empty() && now->family->parameter(own))
                key = own;
        if (key.empty())
            return refuse(title, "no tube with a wall of its own lies on the insulation here",
                          "Choose another kind");
        const double left = number_of(now->context(), key) - fault.size_mm;
        if (left < least_mm)
            return refuse(title, fmt::format("its wall is {:g} mm only", left + fault.size_mm),
                          "Give a smaller size");
        job.find_design(design)->numbers[key] = left;
        return {};
    };
    return k;
}

} // namespace ng
