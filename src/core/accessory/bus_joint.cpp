// Disconnectable joint of a cable onto a bus: the body seats on a shoulder, and everything is measured from
// the end of the lug that bolts to the bus.
#include "accessory/screened_body.h"

namespace ng {
namespace {
constexpr auto datum = place::lug_end;
} // namespace

NEEDLEGAUGE_FAMILY(bus_joint, 120) {
    Family f;
    f.id = "bus_joint";
    f.title = "Disconnectable joint on a bus";
    f.usual_standard = "ieee404";
    ParameterList list(f);
    list.body_cuts(name_of(datum), list.value_of("contact_depth_mm", 5), by_class(64, 4.6));
    list.screen_edge("chamfered");
    list.insulation_end(20);
    list.group("Lug");
    list.length("contact_depth_mm", "Barrel end, from the lug end", "Its end on the cable side", 5, 600,
                fixed(85));
    list.length("contact_diameter_mm", "Diameter", "Outside, after crimping", 4, 150,
                of_layer("conductor", 1.6));
    list.takes_connector({"lug", "", "contact_diameter_mm"});
    add_screened_body_parameters(list, "screen_edge_mm", "insulation_end_mm", FitItem::Kind::slip_on);
    for (auto& p : f.parameters) // for the impulse on a hot cable, of the lowest classes too
        if (p.key == "body_recovered_wall_mm") p.default_value = by_class(8, 0.62);
    list.length("seat_offset_mm", "Not on its shoulder by", "The release tab is not home", 0, 60, fixed(0));
    f.build = [](const DesignContext& c) {
        return build_one_entrance(
            c, {datum,
                FitItem::Kind::slip_on,
                50,
                {"The section answers for the cable entrance; the bus and its shoulder are drawn "
                 "as a coaxial run."}});
    };
    return f;
}

} // namespace ng
