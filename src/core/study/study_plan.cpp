// Plans of studies: what varies by itself, read and written, held to the design; the design as drawn.
#include "document/tolerance_io.h"
#include "plan/plan.h"
#include "study/study.h"
#include "units/text.h"
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fmt/format.h>
#include <map>
#include <optional>
#include <set>

namespace ng {
namespace {

const std::string of_cable = "cable ", of_other_cable = "other cable "; // of side B
const std::string of_fault = "fault ";                                  // "fault 2 size_mm"

/// Quantities of the cable that a maker delivers with a spread.
struct OfCable {
    const char* key;
    double Cable::*figure;
    std::optional<double> Cable::*optional;
};
constexpr OfCable cable_figures[] = {
    {"insulation_thickness_mm", nullptr, &Cable::insulation_thickness_mm},
    {"insulation_screen_thickness_mm", &Cable::insulation_screen_thickness_mm, nullptr},
    {"conductor_screen_thickness_mm", &Cable::conductor_screen_thickness_mm, nullptr},
    {"jacket_thickness_mm", &Cable::jacket_thickness_mm, nullptr}};

const OfCable* cable_figure(const std::string& key) {
    for (const auto& of : {of_cable, of_other_cable})
        if (key.starts_with(of))
            for (const auto& one : cable_figures)
                if (key.substr(of.size()) == one.key) return &one;
    return nullptr;
}

/// Id of the cable that a key speaks of; empty: the design has no second one.
const std::string& cable_id_of(const Design& design, const std::string& key) {
    return key.starts_with(of_other_cable) ? design.other_cable_id : design.cable_id;
}

/// Number of the fault, from 0, whose size a key speaks of; none: of no fault's.
std::optional<std::size_t> fault_size(const std::string& key) {
    std::size_t number = 0;
    int read = 0;
    if (!key.starts_with(of_fault) ||
        std::sscanf(key.c_str() + of_fault.size(), "%zu size_mm%n", &number, &read) != 1 || number < 1 ||
        of_fault.size() + static_cast<std::size_t>(read) != key.size())
        return {};
    return number - 1;
}

/// Layers whose diameter counts for the field, and where the caliper lies.
constexpr std::pair<const char*, const char*> read_layers[] = {
    {"conductor", "Diameter of the conductor"},
    {"conductor screen", "Diameter over the conductor screen"},
    {"insulation", "Diameter over the insulation"},
    {"insulation screen", "Diameter over the insulation screen"}};
const std::string diameter_end = "_diameter_mm";

std::string diameter_key(std::string layer) {
    std::replace(layer.begin(), layer.end(), ' ', '_');
    return layer + diameter_end;
}

/// The layer whose diameter a key speaks of; none: of no diameter.
std::optional<std::string> diameter_layer(const std::string& key) {
    for (const auto& of : {of_cable, of_other_cable})
        for (const auto& [layer, words] : read_layers)
            if (key == of + diameter_key(layer)) return layer;
    return {};
}

void take_diameter(Cable& cable, const std::string& layer, double diameter_mm) {
    cable.caliper_readings.erase(layer);
    cable.measured_diameter_mm[layer] = diameter_mm;
}

/// Where the diameter over the insulation is known, what lies beneath is as thick as is left.
void fill_inwards(Cable& cable, double thickness_mm) {
    std::optional<double> over;
    if (const auto it = cable.measured_diameter_mm.find("insulation"); it != cable.measured_diameter_mm.end())
        over = it->second;
    if (const auto it = cable.caliper_readings.find("insulation"); it != cable.caliper_readings.end())
        if (const auto mean = measured_diameter(it->second, "insulation")) over = mean->mean_mm;
    if (!over) return;
    const double screen = *over - 2 * thickness_mm;
    take_diameter(cable, "conductor screen", screen);
    take_diameter(cable, "conductor", screen - 2 * cable.conductor_screen_thickness_mm);
}

constexpr const char* of_wall = "least wall 0.9 t - 0.1 mm (IEC, from memory, 90 % sure)";

/// With the part that it is of: two parts may each have a wall. Cuts are known by themselves.
std::string label_of(const ParameterSpec& spec) {
    const auto part = spec.group.substr(0, spec.group.find(','));
    if (part.empty() || part == "Cutbacks" || part.starts_with("Side ")) return spec.label;
    return part + ": " + lower_first(spec.label);
}

/// What makers deliver of a cable, and what a caliper read of it.
void add_cable(std::vector<Variable>& out, const std::string& of, const std::string& whose,
               const CableDimensions& dimensions) {
    const auto read = [&](const char* layer) {
        return dimensions.layer(layer).provenance == Provenance::measured;
    };
    for (const auto& [layer, words] : read_layers) {
        if (!read(layer)) continue;
        const auto& as_read = dimensions.layer(layer);
        Variable v;
        v.key = of + diameter_key(layer);
        v.label = fmt::format("{} of {}", words, whose);
        v.middle = as_read.diameter_mm;
        constexpr double absurd = 0.2, reach = 4; // of the diameter; standard deviations
        v.lowest = (1 - absurd) * v.middle, v.highest = (1 + absurd) * v.middle;
        const double sigma = as_read.uncertainty_mm / 2;
        if (sigma > 0)
            v.usual = Distribution{
                Law::normal, v.middle, sigma, 0, 0, v.middle - reach * sigma, v.middle + reach * sigma};
        v.provenance = as_read.note + "; half of the expanded uncertainty (JCGM 100)";
        out.push_back(std::move(v));
    }
    if (read("insulation") && (read("conductor") || read("conductor screen")))
        return; // so is what is between
    const double t = dimensions.layer("insulation").thickness_mm;
    Variable v;
    v.key = of + "insulation_thickness_mm";
    v.label = "Insulation thickness of " + whose;
    v.middle = t;
    v.lowest = 0.2 * t, v.highest = 3 * t;
    v.usual = Distribution{Law::uniform, t, 0.1 * t + 0.1, 0, 0, 0.9 * t - 0.1, 1.1 * t + 0.1};
    v.provenance = of_wall;
    out.push_back(std::move(v));
}

double thinnest_screen(const PreparedDesign& p) {
    const auto thick = [](const CableDimensions& d) {
        return d.radius_mm("insulation screen") - d.radius_mm("insulation");
    };
    return p.other_dimensions ? std::min(thick(p.dimensions), thick(*p.other_dimensions))
                              : thick(p.dimensions);
}

Result<StudyPlan> plan_of(const PreparedDesign& prepared, bool with_faults,
                          const std::map<std::string, Tolerance>& tolerances,
                          const std::vector<Correlated>& correlated) {
    StudyPlan plan;
    plan.design = prepared.design.id;
    plan.with_faults = with_faults;
    std::set<std::string> keys;
    for (const auto& variable : variables_of(prepared, with_faults)) {
        const auto it = tolerances.find(variable.key);
        auto varied = variable.varied(it == tolerances.end() ? nullptr : &it->second);
        if (!varied) return tl::unexpected(varied.error());
        if (!*varied) continue;
        keys.insert(variable.key);
        plan.varied.push_back(std::move(**varied));
    }
    for (const auto& c : correlated)
        if (keys.contains(c.a) && keys.contains(c.b)) plan.correlated.push_back(c);
    return plan;
}

} // namespace

std::set<std::string> mark_parameters(const PreparedDesign& prepared) {
    std::set<std::string> out;
    if (const auto cuts = make_plan(prepared))
        for (const auto& mark : cuts->marks)
            if (!mark.parameter.empty()) out.insert(mark.parameter);
    return out;
}

Job drawn_job(Job job, const StudyPlan& plan, const std::vector<double>& drawn) {
    auto& design = *job.find_design(plan.design);
    const auto change_cable = [&](const std::string& key, const auto& change) {
        for (auto& cable : job.cables)
            if (cable.id == cable_id_of(design, key)) change(cable);
    };
    for (const bool thicknesses : {false, true}) // what a caliper read stands before what lies beneath it
        for (std::size_t k = 0; k < drawn.size(); ++k) {
            const auto& key = plan.varied[k].key;
            const auto* figure = cable_figure(key);
            if (thicknesses != (figure != nullptr)) continue;
            if (const auto fault = fault_size(key); fault && *fault < design.faults.size())
                design.faults[*fault].size_mm = drawn[k];
            else if (const auto layer = diameter_layer(key))
                change_cable(key, [&](Cable& cable) { take_diameter(cable, *layer, drawn[k]); });
            else if (figure)
                change_cable(key, [&](Cable& cable) {
                    if (figure->figure)
                        cable.*(figure->figure) = drawn[k];
                    else
                        cable.*(figure->optional) = drawn[k];
                    if (figure->optional == &Cable::insulation_thickness_mm) fill_inwards(cable, drawn[k]);
                });
            else
                design.numbers[key] = drawn[k];
        }
    return job;
}

std::vector<Variable> variables_of(const PreparedDesign& prepared, bool with_faults) {
    std::vector<Variable> out;
    const auto context = prepared.context();
    const auto of_marks = mark_parameters(prepared);
    for (const auto& spec : prepared.family->parameters) {
        if (spec.kind == ParameterKind::choice || spec.kind == ParameterKind::number) continue;
        const double now = number_of(context, spec.key);
        if (!(now > 0)) continue;
        Variable v;
        v.key = spec.key;
        v.label = label_of(spec);
        v.middle = now;
        v.lowest = spec.lowest;
        v.highest = spec.highest;
        Distribution d;
        d.middle = now;
        d.lowest = std::max(spec.lowest, 0.2 * now);
        d.highest = std::min(spec.highest, 5 * now);
        bool varies = true;
        if (of_marks.contains(spec.key)) {
            d.spread = 1;
            d.blunder_share = 0.015;
            d.blunder = 15;
            d.lowest = std::max(spec.lowest, now - 40);
            d.highest = std::min(spec.highest, now + 40);
            v.provenance = "sigma 1 mm, 1.5 % blunders of 15 mm: common practice, no source";
        } else if (spec.key == "edge_radius_mm") {
            d.law = Law::lognormal;
            d.spread = 2;
            constexpr double fits_screen = 0.45; // of its thickness: a greater one does not fit
            d.lowest = v.lowest = std::max(spec.lowest, 0.03);
            d.highest = v.highest = std::min({spec.highest, 2.0, fits_screen * thinnest_screen(prepared)});
            v.provenance = "geometric deviation 2: common practice, no source";
        } else if (spec.kind == ParameterKind::length && spec.key.ends_with("wall_mm")) {
            d.law = Law::uniform;
            d.spread = 0.1 * now + 0.1;
            v.provenance = of_wall;
        } else if (spec.kind == ParameterKind::permittivity) {
            d.spread = 0.065 * now;
            d.lowest = std::max(1.0, 0.7 * now);
            d.highest = 1.3 * now;
            v.lowest = std::max(1.0, spec.lowest);
            v.provenance = "5 to 8 % (common practice, no source)";
        } else if (spec.kind == ParameterKind::conductivity) {
            if (!prepared.built.section.conducts()) continue;
            d.law = Law::lognormal;
            d.spread = 3;
            d.lowest = now / 100;
            d.highest = now * 100;
            v.provenance = "geometric deviation 3 (from memory, 50 % sure)";
        } else {
            varies = false;
        }
        if (varies && d.lowest < d.highest) v.usual = d;
        if (!(v.lowest < v.highest)) continue;
        out.push_back(std::move(v));
    }
    const auto& d = prepared.design;
    const bool second = prepared.other_dimensions && prepared.other_cable && d.other_cable_id != d.cable_id;
    add_cable(out, of_cable, second ? "cable A" : "the cable", prepared.dimensions);
    if (second) add_cable(out, of_other_cable, "cable B", *prepared.other_dimensions);
    for (std::size_t k = 0; with_faults && k < d.faults.size(); ++k) {
        const auto& fault = d.faults[k];
        if (!(fault.size_mm > 0)) continue; // a rule
        auto kind = fault.kind;
        std::replace(kind.begin(), kind.end(), '_', ' ');
        Variable size;
        size.key = fmt::format("{}{} size_mm", of_fault, k + 1);
        size.label = fmt::format("Size of fault {}, {}", k + 1, kind);
        size.middle = fault.size_mm;
        size.lowest = fault.size_mm / 100, size.highest = 100 * fault.size_mm;
        size.usual =
            Distribution{Law::lognormal, fault.size_mm, 1.6, 0, 0, fault.size_mm / 4, 4 * fault.size_mm};
        size.provenance = "geometric deviation 1.6: common practice, no source";
        out.push_back(std::move(size));
    }
    return out;
}

StudyPlan usual_plan(const PreparedDesign& prepared, bool with_faults) {
    return *plan_of(prepared, with_faults, {}, {}); // what is usual can be drawn
}

Result<StudyPlan> design_plan(const PreparedDesign& prepared, bool with_faults) {
    return plan_of(prepared, with_faults, prepared.design.tolerances, prepared.design.correlated);
}

nlohmann::ordered_json plan_json(const StudyPlan& plan) {
    nlohmann::ordered_json out{{"format", "needlegauge-study-plan"},
                               {"version", 1},
                               {"kind", plan.kind},
                               {"design", plan.design},
                               {"seed", plan.seed},
                               {"samples", plan.samples},
                               {"with_faults", plan.with_faults},
                               {"varied", nlohmann::ordered_json::array()}};
    for (const auto& v : plan.varied) out["varied"].push_back(varied_json(v));
    if (!plan.correlated.empty()) {
        out["correlated"] = nlohmann::ordered_json::array();
        for (const auto& c : plan.correlated) out["correlated"].push_back(correlation_json(c));
    }
    return out;
}

Result<StudyPlan> read_plan(const nlohmann::json& document) {
    if (!document.is_object() || document.value("format", "") != "needlegauge-study-plan")
        return refuse("study plan", "it is none", "Give a file that “study plan” wrote");
    if (document.value("version", 0) != 1)
        return refuse("study plan", "its version is not 1", "Update the program");
    static const std::set<std::string> keys{"format",  "version",     "kind",   "design",    "seed",
                                            "samples", "with_faults", "varied", "correlated"};
    for (const auto& [key, unused] : document.items())
        if (!keys.contains(key))
            return refuse("study plan", fmt::format("“{}” is no field of it", key), "Remove or correct it");
    StudyPlan plan;
    try {
        plan.kind = document.at("kind").get<std::string>();
        plan.design = document.at("design").get<std::string>();
        plan.seed = document.at("seed").get<std::uint64_t>();
        plan.samples = document.at("samples").get<std::uint64_t>();
        plan.with_faults = document.value("with_faults", false);
        for (const auto& entry : document.at("varied")) {
            auto v = read_varied(entry, "study plan");
            if (!v) return tl::unexpected(v.error());
            plan.varied.push_back(std::move(*v));
        }
        if (document.contains("correlated")) {
            auto correlated = read_correlations(document.at("correlated"), "study plan");
            if (!correlated) return tl::unexpected(correlated.error());
            plan.correlated = std::move(*correlated);
        }
    } catch (const nlohmann::json::exception&) {
        return refuse("study plan", "a field is missing or of another type",
                      "Compare it with what “study plan” prints");
    }
    return plan;
}

Result<void> check_plan(const StudyPlan& plan, const Job& job, const Library& library) {
    if (plan.kind != "tolerance" && plan.kind != "effects")
        return refuse("study", fmt::format("“{}” is no kind of study that draws samples", plan.kind),
                      "Give tolerance or effects");
    const auto* design = job.find_design(plan.design);
    if (!design)
        return refuse("design " + plan.design, "it is not in the job", "Name one of the job's designs");
    const auto* family = library.families.find(design->family);
    if (!family) return refuse("design " + plan.design, "its family is unknown", "Update the program");
    if (plan.varied.empty()) return refuse("study", "nothing varies", "Give at least one quantity");
    if (plan.samples < 1) return refuse("study", "it has no samples", "Give at least one");
    std::set<std::string> seen;
    for (const auto& v : plan.varied) {
        if (!seen.insert(v.key).second) return refuse("study, " + v.key, "it is varied twice", "Remove one");
        if (cable_figure(v.key) || diameter_layer(v.key)) {
            const auto& id = cable_id_of(*design, v.key);
            if (id.empty() || (v.key.starts_with(of_other_cable) && id == design->cable_id))
                return refuse("study, " + v.key, "the design has no second cable", "Remove it");
            continue;
        }
        if (const auto fault = fault_size(v.key)) {
            if (!plan.with_faults)
                return refuse("study, " + v.key, "the study leaves faults out", "Give --with-faults");
            if (*fault >= design->faults.size() || !(design->faults[*fault].size_mm > 0))
                return refuse("study, " + v.key, "the design has no such fault with a size", "Remove it");
            continue;
        }
        const auto* spec = family->parameter(v.key);
        if (!spec || spec->kind == ParameterKind::choice)
            return refuse("study, " + v.key, "the design has no such number", "See “families --json”");
    }
    for (const auto& c : plan.correlated)
        if (!seen.contains(c.a) || !seen.contains(c.b) || c.a == c.b || !(std::abs(c.rho) < 1))
            return refuse(fmt::format("study, correlation of {} and {}", c.a, c.b),
                          "both must be varied, differ, and their correlation lie between -1 and 1",
                          "Correct it");
    return {};
}

} // namespace ng
