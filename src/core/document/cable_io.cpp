#include "document/cable_io.h"
#include "document/json_parts.h"
#include "units/text.h"
#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <set>

namespace ng {

using nlohmann::json;
using nlohmann::ordered_json;

json leftover(const json& object, const Keys& known) {
    json rest = object;
    for (const auto& key : known) rest.erase(key);
    return rest;
}

void add_unknown(ordered_json& out, const json& unknown) {
    for (const auto& [key, value] : unknown.items())
        if (!out.contains(key)) out[key] = value;
}

std::map<std::string, double> number_map(JsonReader& in, const char* key) {
    std::map<std::string, double> out;
    for (const auto& [name, value] : in.object(key).items()) {
        if (!value.is_number()) {
            in.fail(fmt::format("“{}” in “{}” is not a number", name, key), "Correct it");
            break;
        }
        out[name] = value.get<double>();
    }
    return out;
}

const std::vector<std::string>& cable_keys() {
    static const Keys keys{"id",
                           "title",
                           "cores",
                           "conductor_size",
                           "conductor_material",
                           "stranding",
                           "conductor_screen_thickness_mm",
                           "insulation_material",
                           "insulation_class_kV",
                           "insulation_level",
                           "insulation_thickness_mm",
                           "insulation_screen_thickness_mm",
                           "strippable_screen",
                           "metallic_screen",
                           "jacket_material",
                           "metallic_screen_thickness_mm",
                           "jacket_thickness_mm",
                           "measured_diameter_mm",
                           "caliper_readings",
                           "armour",
                           "armour_thickness_mm",
                           "bedding_thickness_mm"};
    return keys;
}

Result<Cable> read_cable(const json& value) {
    JsonReader in(value, "cable");
    Cable c;
    c.id = in.text("id");
    if (!in.ok()) return tl::unexpected(*in.error());
    JsonReader named(value, "cable " + c.id);
    c.title = named.text("title");
    const double cores = named.optional_number("cores").value_or(1);
    if (cores != 1 && cores != 3) named.fail("“cores” is neither 1 nor 3", "Correct it");
    c.cores = cores == 3 ? 3 : 1;
    c.conductor_size = named.text("conductor_size");
    const auto named_as = [](std::string key) {
        std::replace(key.begin(), key.end(), '_', ' ');
        return key;
    };
    const auto one_of = [&](const char* key, const std::vector<std::string>& words, bool required = true) {
        const auto word = required ? named.text(key) : named.text_or(key, words.front());
        if (named.ok() && std::find(words.begin(), words.end(), word) == words.end())
            named.fail(fmt::format("“{}” is no {}", word, named_as(key)),
                       fmt::format("Give one of: {}", fmt::join(words, ", ")));
        return word;
    };
    c.conductor_material = one_of("conductor_material", cable_words().conductor_material);
    c.stranding = one_of("stranding", cable_words().stranding);
    c.conductor_screen_thickness_mm = named.number("conductor_screen_thickness_mm");
    c.insulation_material = named.text("insulation_material");
    c.insulation_class_kV = named.number("insulation_class_kV");
    c.insulation_level = named.text("insulation_level");
    c.insulation_thickness_mm = named.optional_number("insulation_thickness_mm");
    c.insulation_screen_thickness_mm = named.number("insulation_screen_thickness_mm");
    c.strippable_screen = named.boolean_or("strippable_screen", true);
    c.metallic_screen = one_of("metallic_screen", cable_words().metallic_screen);
    c.metallic_screen_thickness_mm = named.number("metallic_screen_thickness_mm");
    c.armour = one_of("armour", cable_words().armour, false);
    c.armour_thickness_mm = named.optional_number("armour_thickness_mm").value_or(c.armour_thickness_mm);
    c.bedding_thickness_mm = named.optional_number("bedding_thickness_mm").value_or(c.bedding_thickness_mm);
    c.jacket_material = one_of("jacket_material", cable_words().jacket_material, false);
    c.jacket_thickness_mm = named.number("jacket_thickness_mm");
    c.measured_diameter_mm = number_map(named, "measured_diameter_mm");
    for (const auto& [layer, list] : named.object("caliper_readings").items()) {
        if (!list.is_array()) {
            named.fail(fmt::format("“{}” in “caliper_readings” is no list", layer), "Correct it");
            break;
        }
        for (const auto& entry : list) {
            JsonReader reading(entry, "caliper readings of " + layer);
            c.caliper_readings[layer].push_back(
                {reading.number("diameter_mm"), reading.boolean_or("across", false)});
            if (!reading.ok()) return tl::unexpected(*reading.error());
        }
    }
    if (!named.ok()) return tl::unexpected(*named.error());
    c.unknown = leftover(value, cable_keys());
    return c;
}

ordered_json cable_json(const Cable& c) {
    ordered_json out{{"id", c.id},
                     {"title", c.title},
                     {"conductor_size", c.conductor_size},
                     {"conductor_material", c.conductor_material},
                     {"stranding", c.stranding},
                     {"conductor_screen_thickness_mm", c.conductor_screen_thickness_mm},
                     {"insulation_material", c.insulation_material},
                     {"insulation_class_kV", c.insulation_class_kV},
                     {"insulation_level", c.insulation_level}};
    if (c.cores != 1) out["cores"] = c.cores;
    if (c.insulation_thickness_mm) out["insulation_thickness_mm"] = *c.insulation_thickness_mm;
    out["insulation_screen_thickness_mm"] = c.insulation_screen_thickness_mm;
    out["strippable_screen"] = c.strippable_screen;
    out["metallic_screen"] = c.metallic_screen;
    out["metallic_screen_thickness_mm"] = c.metallic_screen_thickness_mm;
    if (c.armour != "none") {
        out["armour"] = c.armour;
        out["armour_thickness_mm"] = c.armour_thickness_mm;
        out["bedding_thickness_mm"] = c.bedding_thickness_mm;
    }
    if (c.jacket_material != cable_words().jacket_material.front())
        out["jacket_material"] = c.jacket_material;
    out["jacket_thickness_mm"] = c.jacket_thickness_mm;
    if (!c.measured_diameter_mm.empty()) out["measured_diameter_mm"] = c.measured_diameter_mm;
    for (const auto& [layer, readings] : c.caliper_readings)
        for (const auto& r : readings)
            out["caliper_readings"][layer].push_back({{"diameter_mm", r.diameter_mm}, {"across", r.across}});
    add_unknown(out, c.unknown);
    return out;
}

Result<std::vector<Cable>> read_cable_library(const json& document, const std::string& file) {
    if (auto v = check_format(document, "needlegauge-cables", cable_library_version, file); !v)
        return tl::unexpected(v.error());
    JsonReader top(document, file);
    std::vector<Cable> out;
    std::set<std::string> ids;
    for (const auto& value : top.array("cables", true)) {
        auto cable = read_cable(value);
        if (!cable) return tl::unexpected(cable.error());
        if (!ids.insert(cable->id).second)
            return refuse("cable " + one_line(cable->id), "its id is used twice",
                          "Give each cable its own id");
        out.push_back(std::move(*cable));
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    return out;
}

ordered_json cable_library_json(const std::vector<Cable>& cables) {
    ordered_json out{{"format", "needlegauge-cables"},
                     {"version", cable_library_version},
                     {"cables", ordered_json::array()}};
    for (const auto& cable : cables) out["cables"].push_back(cable_json(cable));
    return out;
}

} // namespace ng
