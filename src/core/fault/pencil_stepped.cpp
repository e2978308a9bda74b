// A pencil with a step in it: the knife was set down twice.
#include "fault/site.h"
#include <fmt/format.h>

namespace ng {

NEEDLEGAUGE_FAULT(pencil_stepped, 15) {
    FaultKind k;
    k.id = "pencil_stepped";
    k.title = "step in the pencil";
    k.model =
        "A step all round in the middle of the pencil's flank: it drops by this and runs level until the "
        "flank is reached again; what lies over it does not sink in";
    k.size_words = "height";
    k.least_mm = 0.05;
    k.most_mm = 2;
    k.has_filling = true;
    k.inspection = {"eye and finger", 0.3, 0.5, 0.97};
    k.hurts_insulation = true;
    k.rework = "Smooth the flank with abrasive cloth as far as its length allows, wipe, feel again";
    k.source = "common practice, no source";
    k.step = "pencil";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        const auto flank = site.pencil();
        if (!flank)
            return tl::unexpected(site.misfit("this design has no pencil here", "Choose another kind"));
        const auto [top, foot] = *flank;
        const Point middle = 0.5 * (top + foot);
        const double most = 0.9 * (middle.r - foot.r);
        if (fault.size_mm > most)
            return tl::unexpected(site.misfit(
                fmt::format("its flank leaves room for a step of {:.2f} mm", most), "Give a smaller height"));
        const double share = fault.size_mm / (top.r - foot.r); // of the flank
        const Point level{middle.r - fault.size_mm, middle.z}, end = middle + share * (foot - top);
        const std::vector<Point> contour{middle, level, end};
        site.add_region(Outline::polygon(contour), fault.filling);
        site.lead_surface_along(contour, false);
        if (fault.filling == "air") { // beside the step's face, where the gap is widest
            const double z = middle.z + 0.1 * (end.z - middle.z);
            site.add_gap({{level.r + 1e-3 * fault.size_mm, z}, {level.r + 0.89 * fault.size_mm, z}},
                         "air in the step", site.eps_at({level.r - 0.1, middle.z}),
                         std::abs(end.z - middle.z));
        }
        return {};
    };
    return k;
}

} // namespace ng
