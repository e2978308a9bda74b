// What covers a connector laps too little onto the insulation.
#include "fault/lessen.h"
#include <algorithm>

namespace ng {

NEEDLEGAUGE_FAULT(cover_short, 14) {
    FaultKind k;
    k.id = "cover_short";
    k.title = "cover of the connector short";
    k.model =
        "The cover laps as much less onto the insulation; one number sets both sides of a joint, so on both";
    k.size_words = "missing lap";
    k.least_mm = 0.5;
    k.most_mm = 30;
    k.inspection = {"steel rule, before the next part only", 0.8, 0.5, 0.97};
    k.rework = "Lay or slide the cover anew to its mark on both sides, mastic over its ends";
    k.source = "common practice, no source";
    k.step = "cover-tube";
    k.change = [title = k.title](Job& job, const Fault& fault, const std::string& design,
                                 const Library& library) {
        constexpr double least_mm = 1;
        const auto lap = [](const PreparedDesign& p) {
            constexpr const char* key = "cover_lap_mm";
            const auto covers = [](const Part& part) {
                return part.place.kind == PlaceKind::connector_cover ||
                       part.place.kind == PlaceKind::connector_mastic;
            };
            const bool has = std::any_of(p.built.parts.begin(), p.built.parts.end(), covers);
            return std::string(has && p.family->parameter(key) ? key : "");
        };
        return lessen(job, fault, design, library, title, lap, least_mm,
                      "no cover laps from the connector onto the insulation here");
    };
    return k;
}

} // namespace ng
