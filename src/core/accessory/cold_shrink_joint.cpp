// Cold-shrink and premoulded joints: one rubber body with inner electrode and cones.
#include "accessory/screened_body.h"

namespace ng {
NEEDLEGAUGE_FAMILY(cold_shrink_joint, 70) {
    Family f;
    f.id = "cold_shrink_joint";
    f.title = "Cold-shrink or premoulded joint";
    f.two_cables = true;
    f.usual_standard = "ieee404";
    ParameterList list(f);
    list.joint_cuts(list.value_of("connector_length_mm", 3, 0.5), by_class(62, 5));
    list.screen_edge("chamfered");
    list.insulation_end(48);
    list.connector();
    add_screened_body_parameters(list, "a_screen_edge_mm", "a_insulation_end_mm", FitItem::Kind::cold_shrink);
    list.length("body_offset_mm", "Body off centre", "Towards side B; read again when half shrunk", -300, 300,
                fixed(0));
    f.build = [](const DesignContext& c) { return build_two_entrances(c, {}); };
    return f;
}

} // namespace ng
