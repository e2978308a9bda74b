// An island or smear of insulation screen left on the insulation.
#include "fault/site.h"

namespace ng {

NEEDLEGAUGE_FAULT(island, 60) {
    FaultKind k;
    k.id = "island";
    k.title = "island of screen";
    k.model = "A floating conductive ring 0.05 mm thick with rounded ends, all round; an island on one side "
              "only is "
              "the milder along the surface, the worse at its points";
    k.size_words = "length";
    k.least_mm = 0.2;
    k.most_mm = 20;
    k.from_edge_mm = 10;
    k.inspection = {"eye in good light", 0.15, 0.5, 0.97};
    k.rework = "Abrade it off, wipe towards the screen, look again under a light along the surface";
    k.source = "common practice, no source";
    k.step = "abrade";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        constexpr double thick_mm = 0.05;
        const double half = fault.size_mm / 2, z = site.z(), r = site.radius();
        if (auto ok = site.needs_bare_insulation(half); !ok) return ok;
        if (site.is_electrode_between(z - half, z + half, thick_mm))
            return tl::unexpected(
                site.misfit("a conductive part lies on the insulation here", "Choose another place"));
        if (fault.size_mm <= thick_mm)
            return tl::unexpected(
                site.misfit("it is shorter than it is thick, 0.05 mm", "Give a greater length"));
        site.add_electrode(conductive_film(r, z - half, z + half, thick_mm), 0, true);
        return {};
    };
    return k;
}

} // namespace ng
