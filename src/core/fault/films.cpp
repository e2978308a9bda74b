// Thin films on the insulation: grease that is missing, and water that got in.
#include "fault/site.h"
#include <fmt/format.h>

namespace ng {

NEEDLEGAUGE_FAULT(grease_missing, 35) {
    FaultKind k;
    k.id = "grease_missing";
    k.title = "grease missing";
    k.model = "A film of air as high as the surface is rough, all round, under what lies on the insulation";
    k.size_words = "length";
    k.least_mm = 0.5;
    k.most_mm = 30;
    k.width_mm = 0.03;
    k.width_words = "height";
    k.from_edge_mm = 20;
    k.inspection = {"nothing: it cannot be seen afterwards", 0, 0.5, 0.97};
    k.rework = "Take the body off while it can be, wipe, grease the whole surface, put it on anew";
    k.source = "height 0.01 to 0.05 mm, the roughness of abraded insulation: common practice, no source";
    k.step = "grease";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        const double high = site.width(), z = site.z(), r = site.radius(), half = fault.size_mm / 2;
        if (auto ok = site.needs_bare_insulation(half); !ok) return ok;
        if (fault.size_mm < 4 * high)
            return tl::unexpected(
                site.misfit(fmt::format("it is not longer than four times its height, {:g} mm", high),
                            "Give a greater length or a smaller height"));
        for (const double at : {z - 0.98 * half, z, z + 0.98 * half})
            if (!site.is_solid({r + 2 * high, at}))
                return tl::unexpected(
                    site.misfit("nothing solid lies on the insulation here",
                                "Choose a place under a tube or body, or a smaller length"));
        const double eps = site.eps_at({r - 0.1, z});
        site.add_region(Outline::polygon(film_points(r, z, high, fault.size_mm)), "air");
        site.add_gap({{r + 1e-3 * high, z}, {r + 0.999 * high, z}}, "air where grease is missing", eps,
                     fault.size_mm);
        return {};
    };
    return k;
}

NEEDLEGAUGE_FAULT(water_film, 65) {
    FaultKind k;
    k.id = "water_film";
    k.title = "water film on the insulation";
    k.model = "A floating conductive film 0.05 mm thick, all round, as a film does whose resistance is small "
              "beside its capacitance; drier films are milder along the surface";
    k.size_words = "length";
    k.least_mm = 0.5;
    k.most_mm = 60;
    k.from_edge_mm = 15;
    k.inspection = {"nothing: it is closed in; a moisture test of the ends", 0, 0.5, 0.97};
    k.rework = "Take off what lies on it, dry and wipe, look for the leak; water under the screen: cut back";
    k.source = "common practice, no source";
    k.step = "wipe";
    k.put = [](FaultSite& site, const Fault& fault) {
        constexpr double thick_mm = 0.05;
        return site.put_floating_film(fault.size_mm, thick_mm);
    };
    return k;
}

} // namespace ng
