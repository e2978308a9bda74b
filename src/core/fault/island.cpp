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
    k.put = [](FaultSite& site, const Fault& fault) {
        constexpr double thick_mm = 0.05;
        return site.put_film(fault, thick_mm);
    };
    return k;
}

} // namespace ng
