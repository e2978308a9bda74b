// Thin films on the insulation: grease that is missing, and water that got in.
#include "fault/site.h"
#include <fmt/format.h>

namespace ng {
namespace {
constexpr double conductive_film_mm = 0.05;
}

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
    k.model =
        "A conductive film 0.05 mm thick, all round: floating, as one does whose resistance is small beside "
        "its capacitance, or of the surface resistance that is given; drier films are milder along the "
        "surface";
    k.takes_sheet = true;
    k.size_words = "length";
    k.least_mm = 0.5;
    k.most_mm = 60;
    k.from_edge_mm = 15;
    k.inspection = {"nothing: it is closed in; a moisture test of the ends", 0, 0.5, 0.97};
    k.rework = "Take off what lies on it, dry and wipe, look for the leak; water under the screen: cut back";
    k.source = "common practice, no source";
    k.step = "wipe";
    k.put = [](FaultSite& site, const Fault& fault) { return site.put_film(fault, conductive_film_mm); };
    return k;
}

NEEDLEGAUGE_FAULT(carbon_streak, 64) {
    FaultKind k;
    k.id = "carbon_streak";
    k.title = "carbon streak or dirt";
    k.model =
        "A film 0.05 mm thick of this surface resistance, all round, as a wipe from the screen over the "
        "insulation leaves it; a streak on one side only is the milder";
    k.size_words = "length";
    k.least_mm = 0.5;
    k.most_mm = 60;
    k.from_edge_mm = 15;
    k.sheet_ohm = 1e9;
    k.inspection = {"eye, a clean wipe", 0.5, 0.5, 0.97};
    k.rework = "Wipe with a fresh cloth towards the screen, never back; abrade what stays, wipe again";
    k.source =
        "surface resistance of a thin smear of screen compound, 1e6 to 1e10 ohm: common practice, no source";
    k.step = "wipe";
    k.put = [](FaultSite& site, const Fault& fault) { return site.put_film(fault, conductive_film_mm); };
    return k;
}

} // namespace ng
