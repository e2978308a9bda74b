// Cable entrance of a slip-on separable connector (elbow or tee), and of an extension adapter for one: the
// cutbacks are measured from the centre line of the bushing.
#include "accessory/checks.h"
#include "accessory/screened_body.h"
#include "units/quantity.h"
#include <fmt/format.h>

namespace ng {
namespace {

constexpr const char* connector_id = "separable_connector";
constexpr const char* adapter_id = "extension_adapter";
constexpr auto datum = place::bushing_centre;
constexpr double shown_beyond_mm = 45;

const char* const scope_statement = "Separable connectors have a standard of their own: the test levels "
                                    "shown are from memory and out of scope here.";
const char* const turned_statement =
    "The head is turned straight: the section answers for the cable entrance, not for the bushing interface.";

void add_common(ParameterList& list, const std::string& reference, DefaultValue contact_depth,
                DefaultValue insulation_end) {
    list.body_cuts(reference, std::move(insulation_end), by_class(66, 4.4));
    list.screen_edge();
    list.insulation_end(20);
    list.group("Connector");
    list.length("contact_depth_mm", "Connector end, from the " + reference, "Its end on the cable side", 5,
                1200, std::move(contact_depth));
    list.length("contact_diameter_mm", "Diameter", "Outside, after crimping", 4, 150,
                of_layer("conductor", 1.5));
    list.takes_connector({"lug", "", "contact_diameter_mm"});
    add_screened_body_parameters(list, "screen_edge_mm", "insulation_end_mm", FitItem::Kind::slip_on);
    list.length("seat_offset_mm", "Not fully home by", "The seating indicator still shows", 0, 60, fixed(0));
}

} // namespace

NEEDLEGAUGE_FAMILY(separable_connector, 40) {
    Family f;
    f.id = connector_id;
    f.title = "Separable connector, cable entrance";
    f.usual_standard = "ieee386";
    ParameterList list(f);
    list.group("Form");
    list.choice("form", "Form", "A tee stands deeper on its connector than an elbow",
                {{"elbow", "elbow"}, {"tee", "tee"}});
    const auto depth = [](const DesignContext& c) { return choice_of(c, "form") == "tee" ? 78.0 : 55.0; };
    add_common(list, name_of(datum), depth, list.value_of("contact_depth_mm", 6));
    f.build = [](const DesignContext& c) {
        return build_one_entrance(
            c, {datum, FitItem::Kind::slip_on, shown_beyond_mm, {turned_statement, scope_statement}});
    };
    return f;
}

NEEDLEGAUGE_FAMILY(extension_adapter, 50) {
    Family f;
    f.id = adapter_id;
    f.title = "Extension adapter for a separable connector";
    f.usual_standard = "ieee386";
    ParameterList list(f);
    list.group("Adapter");
    list.length("added_length_mm", "Added length", "Fixed by the adapter", 20, 800, fixed(115));
    list.length("phase_spacing_mm", "Phase spacing", "Between centre lines of neighbours", 20, 1000,
                fixed(130));
    list.length("least_clearance_mm", "Clearance wanted", "Between the skins of neighbours", 0, 500,
                fixed(12));
    add_common(list, name_of(datum), list.value_of("added_length_mm", 50),
               list.value_of("contact_depth_mm", 6));
    f.build = [](const DesignContext& c) -> Result<BuiltAccessory> {
        const ParameterValues v(c);
        if (v("contact_depth_mm") < v("added_length_mm") + 5)
            return refuse("Connector end", "it lies inside the adapter",
                          "Add the adapter's length to the cutbacks");
        auto built = build_one_entrance(
            c, {datum, FitItem::Kind::slip_on, shown_beyond_mm, {turned_statement, scope_statement}});
        if (!built) return built;
        double skin = 0;
        for (const auto& e : built->section.electrodes)
            if (e.name == name_of(place::joint_screen))
                for (const auto& step : e.outline.steps) skin = std::max(skin, step.to.r);
        built->clearances.push_back({.title = "Clearance to the neighbouring phase",
                                     .value_mm = v("phase_spacing_mm") - 2 * skin,
                                     .needed_mm = v("least_clearance_mm"),
                                     .cure = "Spread the bushings, or stagger the adapters"});
        built->marks.push_back({.kind = MarkKind::reference,
                                .place = place::adapter_end,
                                .label = name_of(place::adapter_end),
                                .from_datum_mm = v("added_length_mm"),
                                .side = CableSide::a,
                                .parameter = "",
                                .per_mm = 1});
        return built;
    };
    return f;
}

} // namespace ng
