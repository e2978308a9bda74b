// A ring cut too deep: a groove in the insulation beside the screen edge, or under the stress control.
#include "fault/site.h"
#include <fmt/format.h>

namespace ng {

NEEDLEGAUGE_FAULT(nick, 10) {
    FaultKind k;
    k.id = "nick";
    k.title = "ring nick";
    k.model = "A groove all round, half an ellipse across; a nick on one side only is the milder, or (as a score "
              "along the cable) another fault";
    k.size_words = "depth";
    k.least_mm = 0.02;
    k.most_mm = 1.5;
    k.width_mm = 0.4;
    k.from_edge_mm = 1;
    k.has_filling = true;
    k.inspection = {"gloved fingernail", 0.15, 0.5, 0.97};
    k.hurts_insulation = true;
    k.rework = "Abrade it out where it is shallow, fill with grease or mastic, feel again";
    k.source = "common practice, no source; threshold from memory";
    k.step = "screen-strip";
    k.put = [](FaultyDesign& design, const Fault& fault, int number) -> Result<void> {
        const auto& kind = *find_fault_kind("nick");
        auto site = FaultSite::of(design, fault, number, kind);
        if (!site) return tl::unexpected(site.error());
        const double half = site->width() / 2, along = site->towards() * (site->z() - site->edge_z());
        if (along - half < 0)
            return tl::unexpected(site->misfit("it would lie under the insulation screen",
                                               "Put it further from the screen edge"));
        if (site->towards() * (site->insulation_end_z() - site->z()) - half < 0)
            return tl::unexpected(
                site->misfit("it lies past the end of the insulation", "Put it nearer to the screen edge"));
        if (fault.size_mm > 0.9 * site->wall())
            return tl::unexpected(site->misfit(
                fmt::format("it is deeper than the insulation, {:.2f} mm", site->wall()), "Give a smaller depth"));
        const Point surface{site->radius(), site->z()};
        const double eps = site->eps_at({surface.r - fault.size_mm / 2, surface.z});
        site->add_region(lens(surface.r, surface.z, -fault.size_mm, site->width()), fault.filling);
        site->lead_surface_along(lens_points(surface.r, surface.z, -fault.size_mm, site->width()));
        if (fault.filling == "air")
            site->add_gap({{surface.r - 0.999 * fault.size_mm, surface.z}, {surface.r - 1e-3 * fault.size_mm, surface.z}},
                          "air in the nick", eps, site->width());
        return {};
    };
    return k;
}

} // namespace ng
