// Insulation shaved below its diameter over a length, with a step at either end.
#include "fault/site.h"

namespace ng {

NEEDLEGAUGE_FAULT(over_shaved, 20) {
    FaultKind k;
    k.id = "over_shaved";
    k.title = "over-shaved insulation";
    k.model = "The insulation is lower by this depth over a length, all round, its steps 1 mm long; filled "
              "with what "
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
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        constexpr double ramp_mm = 1;
        const double half = site.width() / 2, z = site.z(), r = site.radius();
        if (half <= ramp_mm)
            return tl::unexpected(
                site.misfit("it is shorter than its two steps of 1 mm", "Give a greater width"));
        if (auto ok = site.needs_bare_insulation(half); !ok) return ok;
        return site.cut_groove({{r, z - half},
                                {r - fault.size_mm, z - half + ramp_mm},
                                {r - fault.size_mm, z + half - ramp_mm},
                                {r, z + half}},
                               fault.size_mm, fault.filling, "air in the shaved length", true);
    };
    return k;
}

} // namespace ng
