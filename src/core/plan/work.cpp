#include "plan/work.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>
#include <stdexcept>

namespace ng {
namespace {
constexpr const char* core_longer_help =
    "To reach its lug; in a joint on side A, and as much shorter on B: joints staggered along the cable";
}

const std::vector<WorkNumber>& work_numbers() {
    static const std::vector<WorkNumber> list{
        {"armour_stub_mm", "Armour stub", "Left of the armour, to be bonded", 35, 5, 300, "armour"},
        {"bedding_left_mm", "Bedding left", "Past the armour", 15, 2, 200, "armour"},
        {"crotch_mm", "Crotch, from the cable end", "0: 150 mm behind the core tube's end", 0, 0, 10000,
         "three cores"},
        {"core_1_longer_mm", "Core 1 longer by", core_longer_help, 0, 0, 3000, "three cores"},
        {"core_2_longer_mm", "Core 2 longer by", core_longer_help, 0, 0, 3000, "three cores"},
        {"core_3_longer_mm", "Core 3 longer by", core_longer_help, 0, 0, 3000, "three cores"},
        {"straight_a_mm", "Straight cable, side A", "Clean and free behind the jacket cut", 1800, 0, 20000,
         "joint"},
        {"straight_b_mm", "Straight cable, side B", "Clean and free behind the jacket cut", 1800, 0, 20000,
         "joint"},
        {"park_spare_mm", "Spare when parked", "For each part", 50, 0, 500, "joint"},
        {"outer_lap_mm", "Outer cover on the jacket", "Each side", 80, 10, 500, "joint"},
        {"outer_sleeve_mm", "Sleeve, length supplied", "0: as long as it must be", 0, 0, 5000, "joint"},
        {"shrink_loss_percent", "Length lost in shrinking",
         "Heat-shrink tubes lose 5 to 10 % of their length; 10 is the safe one", 10, 0, 30, "shrink"},
        {"outer_sleeve_bore_mm", "Sleeve, bore supplied", "0: passes the jacket", 0, 0, 500, "joint"},
    };
    return list;
}

const std::vector<WorkSchool>& work_schools() {
    static const std::vector<WorkSchool> list{
        {"shear_bolts",
         "Order of shear bolts",
         "The maker's order goes before it",
         {{"outer first", "outer bolts, then inner"}, {"inner first", "inner bolts, then outer"}}},
        {"connector",
         "Connector",
         "",
         {{"compression", "compression"},
          {"shear bolt", "shear bolts"},
          {"soldered", "soldered, with an oil stop"}}},
        {"connector_when",
         "Connector and screen cut",
         "A barrel grows when it is pressed: where the edge is measured from its end, it is fitted first",
         {{"by kind", "slip-on connectors first, others after the screen"},
          {"after screen", "connector after the screen is cut"},
          {"before screen", "connector first, the edge measured from its end"}}},
        {"body_when",
         "Cold-shrink body and lug",
         "The body must pass the lug: try it on first",
         {{"after lug", "lug first, the body over its neck"}, {"before lug", "body first, then the lug"}}},
        {"bolts_per_side",
         "Bolts a side",
         "",
         {{"table", "by the connector's table"}, {"1", "one"}, {"2", "two"}, {"3", "three"}, {"4", "four"}}},
        {"crimps",
         "Order of crimps",
         "",
         {{"middle outwards", "from the middle outwards"}, {"end inwards", "from the cable side inwards"}}},
        {"shrinking",
         "Direction of shrinking",
         "",
         {{"middle outwards", "from the middle to both ends"},
          {"bottom upwards", "from the earthed end upwards"}}},
        {"surface",
         "Surface before the stress control",
         "",
         {{"abrade", "abrade and wipe"}, {"warm and abrade", "warm, let it relax, abrade and wipe"}}},
        {"screen_cut",
         "Cut of a strippable screen",
         "",
         {{"tool", "ring-cut tool with a fixed depth"}, {"file", "round file against a spring"}}},
        {"solvent",
         "Solvent before covering",
         "",
         {{"flash", "let it flash off"}, {"warm", "warm the core a little until it has gone"}}},
        {"armour_earth",
         "Earth of armour and screen",
         "The earthing plan of the site goes before it",
         {{"together", "armour and screens joined"}, {"apart", "armour insulated from the screens"}}},
        {"resin_mould",
         "Mould of a resin joint",
         "",
         {{"shell", "cast shell, resin poured"}, {"spacer tape", "spacer tape, resin pressed in"}}},
        {"fire_wrap",
         "Fire- and arc-proof wrap",
         "Of joints in chambers that are shared",
         {{"none", "none"}, {"wrap", "all phases wrapped together"}}},
        {"screen_connection",
         "Earth connection",
         "",
         {{"spring", "braid under a constant-force spring"},
          {"solder", "soldered braid"},
          {"wires", "screen wires gathered"}}},
        {"outer_cover",
         "Outer cover of a joint",
         "",
         {{"sleeve", "sleeve, slipped on before"},
          {"wrap-around", "wrap-around sleeve"},
          {"tape", "jacket tape"}}},
        {"seal",
         "Sealant at the jacket",
         "",
         {{"mastic", "mastic under and over the earth connection"}, {"glue-line", "glue-lined sleeve only"}}},
    };
    return list;
}

double supplied_length_mm(const WorkChoices& choices, double placed_mm) {
    return placed_mm / (1 - work_number(choices, "shrink_loss_percent") / 100);
}

double work_number(const WorkChoices& choices, const std::string& key) {
    if (const auto it = choices.numbers.find(key); it != choices.numbers.end()) return it->second;
    for (const auto& spec : work_numbers())
        if (spec.key == key) return spec.usual;
    throw std::logic_error("no work number " + key);
}

std::string work_school(const WorkChoices& choices, const std::string& key) {
    if (const auto it = choices.schools.find(key); it != choices.schools.end()) return it->second;
    for (const auto& spec : work_schools())
        if (spec.key == key) return spec.options.front().first;
    throw std::logic_error("no school " + key);
}

std::array<double, 3> longer_cores_mm(const WorkChoices& choices) {
    return {work_number(choices, "core_1_longer_mm"), work_number(choices, "core_2_longer_mm"),
            work_number(choices, "core_3_longer_mm")};
}

Result<void> check_work(const WorkChoices& choices) {
    if (choices.long_side != "a" && choices.long_side != "b")
        return refuse("Long side", fmt::format("“{}” is neither a nor b", choices.long_side),
                      "Choose a side");
    for (const auto& [key, value] : choices.numbers) {
        const auto& all = work_numbers();
        const auto it = std::find_if(all.begin(), all.end(), [&](const auto& s) { return s.key == key; });
        if (it == all.end())
            return refuse("work", fmt::format("“{}” is no number of the work", key), "Take it out");
        if (!(value >= it->lowest && value <= it->highest)) {
            const auto said = [&](double v) { return it->is_length() ? in_mm(v) : fmt::format("{:g} %", v); };
            return refuse(it->label, fmt::format("{} is out of range", said(value)),
                          fmt::format("Give {} to {}", said(it->lowest), said(it->highest)));
        }
    }
    for (const auto& [key, value] : choices.schools) {
        const auto& all = work_schools();
        const auto it = std::find_if(all.begin(), all.end(), [&](const auto& s) { return s.key == key; });
        if (it == all.end())
            return refuse("work", fmt::format("“{}” is no choice of the work", key), "Take it out");
        if (std::none_of(it->options.begin(), it->options.end(),
                         [&](const auto& o) { return o.first == value; }))
            return refuse(it->label, fmt::format("“{}” is no option", value), "Choose one that is offered");
    }
    return {};
}

} // namespace ng
