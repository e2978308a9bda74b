#include "fault/lessen.h"
#include <fmt/format.h>

namespace ng {

Result<void> lessen(Job& job, const Fault& fault, const std::string& design, const Library& library,
                    const std::string& title, const std::function<std::string(const PreparedDesign&)>& key,
                    double least_mm, const std::string& none_here) {
    const auto now = prepare_design(job, design, library);
    if (!now) return tl::unexpected(now.error());
    if (auto ok = check_side(now->built, fault.side, title); !ok) return ok;
    const auto of = key(*now);
    if (of.empty()) return refuse(title, none_here, "Choose another kind");
    const double is = number_of(now->context(), of), left = is - fault.size_mm;
    if (left < least_mm)
        return refuse(title, fmt::format("it is {:g} mm only, and {:g} mm must be left", is, least_mm),
                      "Give a smaller size");
    job.find_design(design)->numbers[of] = left;
    return {};
}

} // namespace ng
