#include "accessory/family.h"
#include "closedform/tape.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>
#include <set>

namespace ng {

#define FAMILY(name, order) Family name();
#include "families.inc" // made by CMake from the lines NEEDLEGAUGE_FAMILY of this folder
#undef FAMILY

const FamilyTable& FamilyTable::shipped() {
    static const FamilyTable all = [] {
        std::vector<std::pair<int, Family>> numbered;
#define FAMILY(name, order) numbered.emplace_back(order, name());
#include "families.inc"
#undef FAMILY
        std::stable_sort(numbered.begin(), numbered.end(),
                         [](const auto& a, const auto& b) { return a.first < b.first; });
        std::vector<Family> out;
        for (auto& [order, family] : numbered) out.push_back(std::move(family));
        return FamilyTable(std::move(out));
    }();
    return all;
}

const char* zone_words(InsulationZone zone) {
    switch (zone) {
    case InsulationZone::edge:
        return "edge zone";
    case InsulationZone::grading:
        return "grading";
    case InsulationZone::live_end:
        return "live end";
    case InsulationZone::none:
        break;
    }
    return "";
}

const char* fact_words(WorkFact fact) {
    switch (fact) {
    case WorkFact::belted:
        return "belted";
    case WorkFact::two_cores_on_b:
        return "two cores on B";
    case WorkFact::portable:
        break;
    }
    return "portable";
}

bool has_two_sides(const BuiltAccessory& built) {
    return std::any_of(built.marks.begin(), built.marks.end(), [](const auto& mark) {
        return mark.kind == MarkKind::screen_edge && mark.side == CableSide::b;
    });
}

double first_screen_edge_z(const BuiltAccessory& built) {
    double z = 0; // the lowest: side A of a joint
    for (const auto& mark : built.marks)
        if (mark.kind == MarkKind::screen_edge) z = std::min(z, built.datum_z_mm - mark.from_datum_mm);
    return z;
}

const Family* FamilyTable::find(const std::string& id) const {
    for (const auto& family : *families_)
        if (family.id == id) return &family;
    return nullptr;
}

const ParameterSpec* Family::parameter(const std::string& key) const {
    const auto it =
        std::find_if(parameters.begin(), parameters.end(), [&](const auto& p) { return p.key == key; });
    return it == parameters.end() ? nullptr : &*it;
}

double number_of(const DesignContext& context, const std::string& key) {
    if (const auto it = context.design.numbers.find(key); it != context.design.numbers.end())
        return it->second;
    return context.family.parameter(key)->default_value(context);
}

std::string choice_of(const DesignContext& context, const std::string& key) {
    if (const auto it = context.design.choices.find(key); it != context.design.choices.end())
        return it->second;
    return context.family.parameter(key)->options.front().first;
}

namespace {

/// Changes of one letter that turn one word into the other (Levenshtein).
std::size_t letters_apart(const std::string& a, const std::string& b) {
    std::vector<std::size_t> row(b.size() + 1);
    std::iota(row.begin(), row.end(), std::size_t{0});
    for (std::size_t i = 0; i < a.size(); ++i) {
        std::size_t diagonal = row[0]++;
        for (std::size_t j = 0; j < b.size(); ++j) {
            const std::size_t replaced = diagonal + (a[i] == b[j] ? 0 : 1);
            diagonal = row[j + 1];
            row[j + 1] = std::min({diagonal + 1, row[j] + 1, replaced});
        }
    }
    return row.back();
}

/// A misspelt name would leave its default in force unseen.
Result<void> known_names(const Family& family, const Design& design) {
    const auto check = [&](const std::string& key, bool choice) -> Result<void> {
        const auto fits = [&](const ParameterSpec& p) { return (p.kind == ParameterKind::choice) == choice; };
        const auto* spec = family.parameter(key);
        const bool common = choice ? key == connector_choice
                                   : std::any_of(tape_figures.begin(), tape_figures.end(),
                                                 [&](const auto& f) { return f.key == key; });
        if (common || (spec && fits(*spec))) return {};
        const ParameterSpec* nearest = nullptr;
        for (const auto& p : family.parameters)
            if (fits(p) && (!nearest || letters_apart(key, p.key) < letters_apart(key, nearest->key)))
                nearest = &p;
        const bool close = nearest && letters_apart(key, nearest->key) <= 3;
        return refuse(
            "parameter " + key,
            fmt::format("“{}” has no {} of this name", family.title, choice ? "choice" : "dimension"),
            close ? fmt::format("Write “{}” in the job file, or take it out", nearest->key)
                  : "Correct it in the job file, or take it out");
    };
    for (const auto& [key, value] : design.numbers)
        if (auto ok = check(key, false); !ok) return ok;
    for (const auto& [key, value] : design.choices)
        if (auto ok = check(key, true); !ok) return ok;
    return {};
}

/// What is asked of a place that nobody made would never be answered: said aloud, for it is a fault of the
/// family.
Result<void> places_of(const std::vector<CheckRequest>& checks, const Section& section) {
    std::set<std::string> paths, edges;
    for (const auto& path : section.paths) paths.insert(path.name);
    const auto add = [&](const Outline& outline) {
        for (const auto& step : outline.steps)
            if (!step.name.empty()) edges.insert(step.name);
    };
    for (const auto& electrode : section.electrodes) add(electrode.outline);
    for (const auto& region : section.regions) add(region.outline);
    for (const auto& check : checks)
        for (const auto& place : check.places)
            if (!(check.quantity == CheckRequest::Quantity::edge_peak ? edges : paths)
                     .contains(name_of(place)))
                return refuse(
                    "check " + name_of(check.id),
                    fmt::format("it asks for the {}, which this section does not have", name_of(place)),
                    "This is a fault of the accessory family: report it with the job");
    return {};
}
Result<void> all_places_are_there(const BuiltAccessory& built) {
    if (auto ok = places_of(built.checks, built.section); !ok) return ok;
    for (const auto& across : built.across)
        if (auto ok = places_of(across.checks, across.section); !ok) return ok;
    const auto has_path = [&](const PlaceId& place) {
        return std::any_of(built.section.paths.begin(), built.section.paths.end(),
                           [&](const auto& path) { return path.name == name_of(place); });
    };
    for (const auto& gap : built.gaps)
        if (!has_path(gap.path))
            return refuse("gap left", fmt::format("the section has no {}", name_of(gap.path)),
                          "This is a fault of the accessory family: report it with the job");
    return {};
}

} // namespace

Result<BuiltAccessory> build_accessory(const DesignContext& context) {
    const auto& family = context.family;
    for (const auto side : {CableSide::a, CableSide::b})
        if (const auto& id = context.cable_of(side).insulation_material; !context.materials.find(id))
            return refuse("insulation", fmt::format("material “{}” is unknown", id),
                          "Choose XLPE, TR-XLPE, EPR or paper");
    if (auto ok = known_names(family, context.design); !ok) return tl::unexpected(ok.error());
    // What was typed before what follows from it: a default of a bad value is not the item to name.
    std::vector<const ParameterSpec*> specs;
    for (const auto& spec : family.parameters) specs.push_back(&spec);
    std::stable_partition(specs.begin(), specs.end(), [&](const auto* spec) {
        return spec->kind == ParameterKind::choice || context.design.numbers.contains(spec->key);
    });
    for (const auto* one : specs) {
        const auto& spec = *one;
        if (spec.kind == ParameterKind::choice) {
            const auto value = choice_of(context, spec.key);
            if (std::none_of(spec.options.begin(), spec.options.end(),
                             [&](const auto& o) { return o.first == value; }))
                return refuse(spec.label, fmt::format("“{}” is not one of its choices", value),
                              "Choose again");
            continue;
        }
        const double value = number_of(context, spec.key);
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
    auto built = family.build(context);
    if (built)
        if (auto ok = all_places_are_there(*built); !ok) return tl::unexpected(ok.error());
    return built;
}

} // namespace ng
