#include "accessory/checks.h"
#include <algorithm>
#include <cmath>

namespace ng::checks {
namespace {

using Q = CheckRequest::Quantity;

CheckRequest request(CheckId id, std::string title, Q quantity, std::vector<PlaceId> places, TestKind at,
                     std::string limit, const Words& words) {
    CheckRequest out;
    out.id = id;
    out.title = std::move(title);
    out.quantity = quantity;
    out.places = std::move(places);
    out.at = at;
    out.limit_id = std::move(limit);
    out.because = words.because;
    out.cure = words.cure;
    return out;
}

} // namespace

Zones zones_of(const CableEnd& end, double mastic_mm, double control_to, double live_from) {
    Zones out;
    // A step that nothing fills to its end is over where a tube comes down to the insulation.
    const double step = bridge_length_per_height * (end.r.screen - end.r.insulation);
    out.filled_to = end.screen + std::max({mastic_mm, step, judged_from_edge_mm});
    out.control_to = std::max(control_to, out.filled_to);
    out.live_from = live_from;
    return out;
}

void add_insulation_surface(std::vector<CheckRequest>& to, const CableEnd& end, const Zones& zones,
                            const Words& grading, const Words& live_end) {
    const auto path = place::insulation_surface.on(end.side);
    const double contact = end.contact_z(), edge_s = end.screen - contact;
    const auto ask = [&](InsulationZone zone, CheckKind kind, const std::string& title,
                         const std::string& limit, const Words& words, double from_z, double to_z) {
        auto one = request({kind, end.side}, title + end.tag(), Q::tangential, {path}, TestKind::service,
                           limit, words);
        one.zone = zone;
        one.from_s_mm = from_z - contact;
        one.to_s_mm = to_z - contact;
        return one;
    };
    if (zones.edge_is_bare) {
        const Words words{"the field is crowded at the screen edge, whatever its radius",
                          "Fill the edge with relief mastic, or bring the stress control closer to it"};
        const auto at = [&](double distance, CheckKind kind, const char* title) {
            const double z = end.screen + distance;
            to.push_back(ask(InsulationZone::edge, kind, title, name_of(CheckId(kind)), words, z, z));
        };
        at(0.5, CheckKind::edge_zone_half, "Edge zone, tangential stress at 0.5 mm");
        at(1.0, CheckKind::edge_zone_one, "Edge zone, tangential stress at 1 mm");
    }
    const double insulation_end = end.insulation - end.pencil_mm;
    const double filled = std::min(zones.filled_to, insulation_end - judged_from_edge_mm);
    const double control = std::clamp(zones.control_to, filled, insulation_end);
    double live = std::min(zones.live_from, end.insulation);
    live = end.pencil_mm > 0 ? insulation_end : (control + std::max(live, control)) / 2;
    live = std::max(live, filled + judged_from_edge_mm);
    auto mean =
        ask(InsulationZone::grading, CheckKind::insulation_tangential,
            "Grading, mean tangential stress over 3 mm", "interface_tangential", grading, filled, live);
    mean.mean_over_mm = grading_mean_mm;
    mean.edge_s_mm = edge_s;
    to.push_back(std::move(mean));
    to.push_back(ask(InsulationZone::grading, CheckKind::insulation_tangential_peak,
                     "Grading, peak tangential stress", "interface_tangential_peak", grading, filled, live));
    auto rest = ask(InsulationZone::live_end, CheckKind::live_end_tangential, "Live end, tangential stress",
                    "live_end_tangential", live_end, live, live);
    rest.to_s_mm = std::numeric_limits<double>::infinity();
    to.push_back(std::move(rest));
}

CheckRequest interface_tangential(CheckId id, const std::string& title, const PlaceId& path,
                                  const Words& words) {
    return request(id, title, Q::tangential, {path}, TestKind::service, "interface_tangential", words);
}

CheckRequest screen_edge(const CableEnd& end, const Words& words) {
    return electrode_edge({CheckKind::screen_edge, end.side}, "Stress at the screen edge" + end.tag(),
                          end.edges(), words);
}

CheckRequest electrode_edge(CheckId id, const std::string& title, std::vector<PlaceId> edges,
                            const Words& words) {
    return request(id, title, Q::edge_peak, std::move(edges), TestKind::service, "electrode_edge", words);
}

CheckRequest electrode_surface(CheckId id, const std::string& title, const PlaceId& path,
                               const Words& words) {
    return request(id, title, Q::magnitude, {path}, TestKind::service, "electrode_edge", words);
}

CheckRequest insulation_ratio(const CableEnd& end, double cable_stress_kV_per_mm, const std::string& cure) {
    auto out =
        request({CheckKind::insulation_ratio, end.side},
                "Cable insulation" + end.tag() + " beside the undisturbed conductor stress", Q::magnitude,
                {place::conductor_screen.on(end.side), place::insulation_surface.on(end.side)},
                TestKind::service, "insulation_ratio",
                {"the accessory stresses the cable insulation more than the cable itself does", cure});
    out.divide_by = cable_stress_kV_per_mm;
    return out;
}

std::vector<CheckRequest> surface_in_air(CheckKind kind, const std::string& part, const PlaceId& path,
                                         const Words& tangential, const std::string& cure_of_extinction) {
    return {request(kind, "Tangential stress on the " + part + " in air", Q::tangential, {path},
                    TestKind::service, "air_tangential", tangential),
            request(CheckKind::air_extinction, "Stress in air on the " + part + " at extinction voltage",
                    Q::magnitude, {path}, TestKind::extinction, "air_extinction",
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

CheckRequest enclosed_air(CheckId id, const std::string& title, const PlaceId& path, const Words& words) {
    return request(id, title, Q::magnitude, {path}, TestKind::extinction, "air_extinction", words);
}

} // namespace ng::checks
