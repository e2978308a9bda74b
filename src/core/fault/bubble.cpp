// A bubble, wrinkle or gap left between the insulation and what lies on it.
#include "fault/site.h"
#include <fmt/format.h>

namespace ng {

NEEDLEGAUGE_FAULT(bubble, 30) {
    FaultKind k;
    k.id = "bubble";
    k.title = "bubble on the insulation";
    k.model = "Half an ellipse all round on the insulation surface, under what covers it; for voids the ring "
              "is the "
              "safe one";
    k.size_words = "height";
    k.least_mm = 0.01;
    k.most_mm = 1.2;
    k.width_mm = 5;
    k.from_edge_mm = 15;
    k.has_filling = true;
    k.inspection = {"eye, from outside a cover of 2 to 3 mm", 0.55, 0.5, 0.95};
    k.rework =
        "Warm a tube again and press it out; a body is taken off, greased again and put on anew; look at the "
        "whole surface again";
    k.source = "common practice, no source; threshold from memory";
    k.step = "place-control";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        const double z = site.z(), r = site.radius();
        if (auto ok = site.needs_bare_insulation(site.width() / 2); !ok) return ok;
        for (const double up : {0.02, 0.5, 1.0, 1.05}) // within what is solid, and not through it
            if (!site.is_solid({r + up * fault.size_mm, z}))
                return tl::unexpected(site.misfit(
                    fmt::format("what covers the insulation here is not {:.2f} mm thick", fault.size_mm),
                    "Give a smaller height, or a place under a tube, mastic or body"));
        const double eps = site.eps_at({r - 0.1, z});
        site.add_region(Outline::polygon(lens_points(r, z, fault.size_mm, site.width())), fault.filling);
        if (fault.filling == "air")
            site.add_gap({{r + 1e-3 * fault.size_mm, z}, {r + 0.999 * fault.size_mm, z}}, "air in the bubble",
                         eps, site.width());
        return {};
    };
    return k;
}

} // namespace ng
