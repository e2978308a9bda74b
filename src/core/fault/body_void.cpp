// A void inside a body, a tape build-up or resin.
#include "fault/site.h"
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace ng {

NEEDLEGAUGE_FAULT(body_void, 40) {
    FaultKind k;
    k.id = "body_void";
    k.title = "void in what covers the insulation";
    k.model = "A round void all round, in the middle of what lies on the insulation; for voids the ring is "
              "the safe one";
    k.size_words = "diameter";
    k.least_mm = 0.05;
    k.most_mm = 3;
    k.from_edge_mm = 10;
    k.inspection = {"nothing: it is closed in", 0, 0.5, 0.97};
    k.rework = "Unwind tape and wind it anew at even tension; a body or a tube is replaced";
    k.source = "common practice, no source";
    k.step = "tape-up";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        const double z = site.z(), r0 = site.radius();
        const auto name = site.at({r0 + 0.01, z});
        if (!site.is_solid({r0 + 0.01, z}))
            return tl::unexpected(site.misfit("nothing solid lies on the insulation here",
                                              "Choose a place under a tube, tape or body"));
        double r1 = r0 + 0.01;
        constexpr double step_mm = 0.05;
        while (site.at({r1 + step_mm, z}) == name) r1 += step_mm;
        const double radius = fault.size_mm / 2, middle = (r0 + r1) / 2;
        if (fault.size_mm > 0.8 * (r1 - r0))
            return tl::unexpected(site.misfit(fmt::format("what it lies in is only {:.2f} mm thick", r1 - r0),
                                              "Give a smaller diameter, or another place"));
        std::vector<Point> circle;
        for (int i = 0; i < 48; ++i) {
            const double angle = 2 * std::numbers::pi * i / 48;
            circle.push_back({middle + radius * std::sin(angle), z + radius * std::cos(angle)});
        }
        const double eps = site.eps_at({middle, z});
        site.add_region(Outline::polygon(circle), "air");
        site.add_gap({{middle - 0.999 * radius, z}, {middle + 0.999 * radius, z}}, "air in the void", eps,
                     fault.size_mm);
        return {};
    };
    return k;
}

} // namespace ng
