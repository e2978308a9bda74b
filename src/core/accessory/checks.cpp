#include "accessory/checks.h"

namespace ng::checks {
namespace {

using Q = CheckRequest::Quantity;

CheckRequest request(std::string id, std::string title, Q quantity, std::vector<PlaceId> places,
                     std::string level, std::string limit, const Words& words) {
    CheckRequest out;
    out.id = std::move(id);
    out.title = std::move(title);
    out.quantity = quantity;
    out.places = std::move(places);
    out.at_level = std::move(level);
    out.limit_id = std::move(limit);
    out.because = words.because;
    out.cure = words.cure;
    return out;
}

} // namespace

std::string with_side(const std::string& id, Side side) {
    return id + (side == Side::a ? "_a" : side == Side::b ? "_b" : "");
}

CheckRequest insulation_tangential(const CableEnd& end, const Words& words) {
    auto out = request(with_side("insulation_tangential", end.side),
                       "Tangential stress on the insulation surface" + end.tag(), Q::tangential,
                       {place::insulation_surface.on(end.side)}, "u0", "interface_tangential", words);
    out.edge_s_mm = end.screen - end.contact_z();
    out.from_s_mm = judged_from_edge_mm + out.edge_s_mm;
    return out;
}

CheckRequest interface_tangential(const std::string& id, const std::string& title, const PlaceId& path,
                                  const Words& words) {
    return request(id, title, Q::tangential, {path}, "u0", "interface_tangential", words);
}

CheckRequest screen_edge(const CableEnd& end, const Words& words) {
    return electrode_edge(with_side("screen_edge", end.side), "Stress at the screen edge" + end.tag(),
                          end.edges(), words);
}

CheckRequest electrode_edge(const std::string& id, const std::string& title, std::vector<PlaceId> edges,
                            const Words& words) {
    return request(id, title, Q::edge_peak, std::move(edges), "u0", "electrode_edge", words);
}

CheckRequest electrode_surface(const std::string& id, const std::string& title, const PlaceId& path,
                               const Words& words) {
    return request(id, title, Q::magnitude, {path}, "u0", "electrode_edge", words);
}

CheckRequest insulation_ratio(const CableEnd& end, double cable_stress_kV_per_mm, const std::string& cure) {
    auto out =
        request(with_side("insulation_ratio", end.side),
                "Cable insulation" + end.tag() + " beside the undisturbed conductor stress", Q::magnitude,
                {place::conductor_screen.on(end.side), place::insulation_surface.on(end.side)}, "u0",
                "insulation_ratio",
                {"the accessory stresses the cable insulation more than the cable itself does", cure});
    out.divide_by = cable_stress_kV_per_mm;
    return out;
}

std::vector<CheckRequest> surface_in_air(const std::string& part, const PlaceId& path,
                                         const Words& tangential, const std::string& cure_of_extinction) {
    return {request(part + "_tangential", "Tangential stress on the " + part + " in air", Q::tangential,
                    {path}, "u0", "air_tangential", tangential),
            request("air_extinction", "Stress in air on the " + part + " at extinction voltage", Q::magnitude,
                    {path}, "pd_extinction_kV", "air_extinction",
                    {"the air beside the " + part + " ionises below the extinction voltage",
                     cure_of_extinction})};
}

std::vector<Point> air_wedge(const CableEnd& end) {
    const double step = end.r.screen - end.r.insulation, height = 0.3 * step;
    // The tube leaves the edge where its rounding begins and comes down at its slope.
    const double down = bridge_length_per_height * (step - height) - end.edge.radius_mm;
    return {{end.r.insulation + height, end.screen + 0.02},
            {end.r.insulation + height, end.screen + 0.85 * down}};
}

CheckRequest enclosed_air(const std::string& id, const std::string& title, const PlaceId& path,
                          const Words& words) {
    return request(id, title, Q::magnitude, {path}, "pd_extinction_kV", "air_extinction", words);
}

} // namespace ng::checks
