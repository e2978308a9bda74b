// Relief mastic missing at the step: air where it would be.
#include "fault/site.h"
#include "geometry/clip.h"
#include <algorithm>
#include <fmt/format.h>
#include <numbers>

namespace ng {

NEEDLEGAUGE_FAULT(mastic_missing, 50) {
    FaultKind k;
    k.id = "mastic_missing";
    k.title = "mastic missing at the step";
    k.model = "Air instead of relief mastic for this length on either side of the screen edge, all round; "
              "what lies "
              "over it does not sink in";
    k.size_words = "length";
    k.least_mm = 0.1;
    k.most_mm = 10;
    k.inspection = {"eye, before the tube only", 0.6, 0.5, 0.97};
    k.rework = "Take the tube or body off if that can be done without a cut, wipe, lay the mastic anew; else "
               "cut back";
    k.source = "common practice, no source";
    k.step = "mastic";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        const auto name = name_of(place::relief_mastic.on(fault.side));
        const auto& regions = site.design().prepared.built.section.regions;
        const auto mastic = std::find_if(regions.begin(), regions.end(),
                                         [&](const auto& region) { return region.name == name; });
        if (mastic == regions.end())
            return tl::unexpected(
                site.misfit("this design has no relief mastic here", "Choose another kind"));
        const double far = 1e3, size = fault.size_mm, z = site.edge_z();
        const auto left = united(without(polygon_of(mastic->outline, std::numbers::pi / 24),
                                         {{{-far, -far}, {far, -far}, {far, z - size}, {-far, z - size}},
                                          {{-far, z + size}, {far, z + size}, {far, far}, {-far, far}}}));
        if (left.empty())
            return tl::unexpected(
                site.misfit("no mastic lies within this length of the screen edge", "Give more"));
        const auto piece = *std::max_element(left.begin(), left.end(), [](const auto& a, const auto& b) {
            return std::abs(signed_area(a)) < std::abs(signed_area(b));
        });
        // The gap that matters runs along the insulation from the step, as far as the mastic did.
        constexpr double step_mm = 0.02;
        const double t = site.towards(), r = site.radius() + 0.01;
        double reach = 0;
        while (inside_polygon(piece, {r, z + t * (reach + step_mm)})) reach += step_mm;
        if (reach < 2.5 * step_mm || site.at({r, z + t * 2 * step_mm}) != name)
            return tl::unexpected(
                site.misfit("its relief mastic does not lie on the insulation beside the screen edge here",
                            "Choose another side or kind"));
        site.add_region_over(name, Outline::polygon(piece), "air");
        site.add_gap({{r, z + t * step_mm}, {r, z + t * reach}}, "air beside the screen edge", 1, 0);
        return {};
    };
    return k;
}

} // namespace ng
