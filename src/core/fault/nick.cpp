// A ring cut too deep: a groove in the insulation beside the screen edge, or under the stress control.
#include "fault/site.h"

namespace ng {

NEEDLEGAUGE_FAULT(nick, 10) {
    FaultKind k;
    k.id = "nick";
    k.title = "ring nick";
    k.model =
        "A groove all round, half an ellipse across; a nick on one side only is the milder, or (as a score "
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
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        if (auto ok = site.needs_bare_insulation(site.width() / 2); !ok) return ok;
        return site.cut_groove(lens_points(site.radius(), site.z(), -fault.size_mm, site.width()),
                               fault.size_mm, fault.filling, "air in the nick", false);
    };
    return k;
}

} // namespace ng
