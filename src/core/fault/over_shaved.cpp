// Insulation shaved below its diameter over a length, with a step at either end.
#include "fault/site.h"
#include <fmt/format.h>

namespace ng {

NEEDLEGAUGE_FAULT(over_shaved, 20) {
    FaultKind k;
    k.id = "over_shaved";
    k.title = "over-shaved insulation";
    k.model = "The insulation is lower by this depth over a length, all round, its steps 1 mm long; filled with what "
              "is said, air where the tube does not follow";
    k.size_words = "depth";
    k.least_mm = 0.05;
    k.most_mm = 1.5;
    k.width_mm = 30;
    k.from_edge_mm = 20;
    k.has_filling = true;
    k.inspection = {"caliper", 0.1, 0.5, 0.97};
    k.hurts_insulation = true;
    k.rework = "Taper the steps by abrading, measure over it again in two directions";
    k.source = "common practice, no source";
    k.step = "screen-shave";
    k.put = [](FaultyDesign& design, const Fault& fault, int number) -> Result<void> {
        constexpr double ramp_mm = 1;
        const auto& kind = *find_fault_kind("over_shaved");
        auto site = FaultSite::of(design, fault, number, kind);
        if (!site) return tl::unexpected(site.error());
        const double half = site->width() / 2, z = site->z(), r = site->radius();
        if (half <= ramp_mm)
            return tl::unexpected(site->misfit("it is shorter than its two steps of 1 mm", "Give a greater width"));
        if (site->towards() * (z - site->edge_z()) - half < 0 ||
            site->towards() * (site->insulation_end_z() - z) - half < 0)
            return tl::unexpected(site->misfit("it reaches under the screen or past the end of the insulation",
                                               "Give a smaller width, or another place"));
        if (fault.size_mm > 0.9 * site->wall())
            return tl::unexpected(site->misfit(
                fmt::format("it is deeper than the insulation, {:.2f} mm", site->wall()), "Give a smaller depth"));
        const double eps = site->eps_at({r - fault.size_mm / 2, z});
        const std::vector<Point> bottom{{r, z - half},
                                        {r - fault.size_mm, z - half + ramp_mm},
                                        {r - fault.size_mm, z + half - ramp_mm},
                                        {r, z + half}};
        site->add_region(Outline::polygon(bottom), fault.filling);
        site->lead_surface_along(bottom);
        if (fault.filling == "air")
            site->add_gap({{r - 0.999 * fault.size_mm, z}, {r - 1e-3 * fault.size_mm, z}}, "air in the shaved length",
                          eps, site->width());
        return {};
    };
    return k;
}

} // namespace ng
