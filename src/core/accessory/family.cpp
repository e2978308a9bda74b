#include "accessory/family.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {

// Registration: each family is a file of its own and a line here, in the order in which the window offers
// them.
#define NG_FAMILIES(FAMILY)                                                                                  \
    FAMILY(heat_shrink_termination)                                                                          \
    FAMILY(cold_shrink_termination_graded)                                                                   \
    FAMILY(cold_shrink_termination_cone)                                                                     \
    FAMILY(separable_connector)                                                                              \
    FAMILY(extension_adapter)                                                                                \
    FAMILY(heat_shrink_joint)                                                                                \
    FAMILY(cold_shrink_joint)                                                                                \
    FAMILY(taped_joint)                                                                                      \
    FAMILY(branch_joint)                                                                                     \
    FAMILY(transition_joint)                                                                                 \
    FAMILY(live_end_cap)                                                                                     \
    FAMILY(bus_joint)                                                                                        \
    FAMILY(portable_splice)

#define NG_DECLARE(name) Family name();
NG_FAMILIES(NG_DECLARE)

const std::vector<Family>& families() {
#define NG_MAKE(name) name(),
    static const std::vector<Family> all{NG_FAMILIES(NG_MAKE)};
    return all;
}

double first_screen_edge_z(const BuiltAccessory& built) {
    double z = 0; // the lowest: side A of a joint
    for (const auto& mark : built.marks)
        if (mark.label.rfind("screen edge", 0) == 0) z = std::min(z, built.datum_z_mm - mark.from_datum_mm);
    return z;
}

const Family* find_family(const std::string& id) {
    for (const auto& family : families())
        if (family.id == id) return &family;
    return nullptr;
}

const ParameterSpec* Family::parameter(const std::string& key) const {
    const auto it =
        std::find_if(parameters.begin(), parameters.end(), [&](const auto& p) { return p.key == key; });
    return it == parameters.end() ? nullptr : &*it;
}

double number_of(const Family& family, const DesignContext& context, const std::string& key) {
    if (const auto it = context.design.numbers.find(key); it != context.design.numbers.end())
        return it->second;
    return family.parameter(key)->default_value(context);
}

std::string choice_of(const Family& family, const DesignContext& context, const std::string& key) {
    if (const auto it = context.design.choices.find(key); it != context.design.choices.end())
        return it->second;
    return family.parameter(key)->options.front().first;
}

Result<BuiltAccessory> build_accessory(const DesignContext& context) {
    const auto* family = find_family(context.design.family);
    if (!family)
        return refuse("design " + context.design.title,
                      fmt::format("accessory family “{}” is unknown", context.design.family),
                      "Open it with a version that has this family");
    for (const auto side : {CableSide::a, CableSide::b})
        if (const auto& id = context.cable_of(side).insulation_material; !context.materials.find(id))
            return refuse("insulation", fmt::format("material “{}” is unknown", id),
                          "Choose XLPE, TR-XLPE, EPR or paper");
    // What was typed before what follows from it: a default of a bad value is not the item to name.
    std::vector<const ParameterSpec*> specs;
    for (const auto& spec : family->parameters) specs.push_back(&spec);
    std::stable_partition(specs.begin(), specs.end(), [&](const auto* spec) {
        return spec->kind == ParameterKind::choice || context.design.numbers.contains(spec->key);
    });
    for (const auto* one : specs) {
        const auto& spec = *one;
        if (spec.kind == ParameterKind::choice) {
            const auto value = choice_of(*family, context, spec.key);
            if (std::none_of(spec.options.begin(), spec.options.end(),
                             [&](const auto& o) { return o.first == value; }))
                return refuse(spec.label, fmt::format("“{}” is not one of its choices", value),
                              "Choose again");
            continue;
        }
        const double value = number_of(*family, context, spec.key);
        if (!std::isfinite(value)) return refuse(spec.label, "it is not a number", "Type one such as 12.5");
        if (value < spec.lowest || value > spec.highest) {
            const bool is_length = spec.kind == ParameterKind::length;
            auto words = [&](double v) {
                return is_length ? format_length(v, LengthUnit::mm) : format_figures(v, 3);
            };
            return refuse(spec.label, fmt::format("{} is out of range", words(value)),
                          fmt::format("Give {} to {}", words(spec.lowest), words(spec.highest)));
        }
    }
    return family->build(context);
}

} // namespace ng
