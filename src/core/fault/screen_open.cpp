// The screen over a joint or body open over a length.
#include "fault/site.h"
#include <fmt/format.h>

namespace ng {

NEEDLEGAUGE_FAULT(screen_open, 80) {
    FaultKind k;
    k.id = "screen_open";
    k.title = "joint screen open over a length";
    k.model =
        "The screen over the accessory is missing for this length, all round, with air instead; nothing "
        "that is earthed lies outside it";
    k.size_words = "length";
    k.least_mm = 0.5;
    k.most_mm = 60;
    k.inspection = {"eye, before the outer cover only", 1.2, 0.5, 0.97};
    k.rework = "Lay the screen anew with its lap, check continuity end to end";
    k.source = "common practice, no source";
    k.step = "joint-screen";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        const auto name = name_of(place::joint_screen);
        constexpr double behind_end_mm = 5;
        const double z = site.z_is_given() || !site.connector_end_z()
                             ? site.z()
                             : *site.connector_end_z() + site.towards() * behind_end_mm,
                     half = fault.size_mm / 2;
        const auto here = site.electrode_at(name, z);
        if (!here)
            return tl::unexpected(
                site.misfit("no screen lies over the accessory here", "Choose another place or kind"));
        for (const double at : {z - half, z + half})
            if (!site.electrode_at(name, at))
                return tl::unexpected(site.misfit("the screen ends nearer than that",
                                                  "Give a smaller length or another place"));
        if (here->second - here->first < 0.05)
            return tl::unexpected(
                site.misfit("its screen has no thickness of its own here", "Choose another place"));
        constexpr double beyond_mm = 0.05;
        const double r0 = here->first - beyond_mm, r1 = here->second + beyond_mm;
        site.add_region_over_all(
            Outline::polygon({{r0, z - half}, {r1, z - half}, {r1, z + half}, {r0, z + half}}), "air");
        site.add_gap({{here->first, z}, {here->second, z}}, "air in the opening", 1, 0);
        return {};
    };
    return k;
}

} // namespace ng
