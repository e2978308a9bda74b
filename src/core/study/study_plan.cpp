// Plans of studies: what varies by itself, read and written, held to the design; the design as drawn.
#include "plan/plan.h"
#include "study/study.h"
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

double thinnest_screen(const PreparedDesign& p) {
    const auto thick = [](const CableDimensions& d) {
        return d.radius_mm("insulation screen") - d.radius_mm("insulation");
    };
    return p.other_dimensions ? std::min(thick(p.dimensions), thick(*p.other_dimensions))
                              : thick(p.dimensions);
}

} // namespace

Job drawn_job(Job job, const StudyPlan& plan, const std::vector<double>& drawn) {
    auto& design = *job.find_design(plan.design);
    for (std::size_t k = 0; k < drawn.size(); ++k) {
        const auto& key = plan.varied[k].key;
        const auto* figure = cable_figure(key);
        if (const auto fault = fault_size(key); fault && *fault < design.faults.size()) {
            design.faults[*fault].size_mm = drawn[k];
            continue;
        }
        if (!figure) {
            design.numbers[key] = drawn[k];
            continue;
        }
        for (auto& cable : job.cables)
            if (cable.id == cable_id_of(design, key)) {
                if (figure->figure)
                    cable.*(figure->figure) = drawn[k];
                else
                    cable.*(figure->optional) = drawn[k];
            }
    }
    return job;
}

StudyPlan usual_plan(const PreparedDesign& prepared, bool with_faults) {
    StudyPlan plan;
    plan.design = prepared.design.id;
    plan.with_faults = with_faults;
    const auto context = prepared.context();
    std::set<std::string> of_marks;
    if (const auto cuts = make_plan(prepared))
        for (const auto& mark : cuts->marks)
            if (!mark.parameter.empty()) of_marks.insert(mark.parameter);
    for (const auto& spec : prepared.family->parameters) {
        if (spec.kind == ParameterKind::choice) continue;
        const double now = number_of(context, spec.key);
        if (!(now > 0)) continue;
        Varied v;
        v.key = spec.key;
        v.label = spec.label;
        v.middle = now;
        v.lowest = std::max(spec.lowest, 0.2 * now);
        v.highest = std::min(spec.highest, 5 * now);
        if (of_marks.contains(spec.key)) {
            v.spread = 1;
            v.blunder_share = 0.015;
            v.blunder = 15;
            v.lowest = std::max(spec.lowest, now - 40);
            v.highest = std::min(spec.highest, now + 40);
            v.provenance = "sigma 1 mm, 1.5 % blunders of 15 mm: common practice, no source";
        } else if (spec.key == "edge_radius_mm") {
            v.law = Varied::Law::lognormal;
            v.spread = 2;
            v.lowest = std::max(spec.lowest, 0.03);
            constexpr double fits_screen = 0.45; // of its thickness: a greater one does not fit
            v.highest = std::min({spec.highest, 2.0, fits_screen * thinnest_screen(prepared)});
            v.provenance = "geometric deviation 2: common practice, no source";
        } else if (spec.kind == ParameterKind::length && spec.key.ends_with("wall_mm")) {
            v.law = Varied::Law::uniform;
            v.spread = 0.1 * now + 0.1;
            v.provenance = "least wall 0.9 t - 0.1 mm (IEC, from memory, 90 % sure)";
        } else if (spec.kind == ParameterKind::permittivity) {
            v.spread = 0.065 * now;
            v.lowest = std::max(1.0, 0.7 * now);
            v.highest = 1.3 * now;
            v.provenance = "5 to 8 % (common practice, no source)";
        } else if (spec.kind == ParameterKind::conductivity && prepared.built.section.conducts()) {
            v.law = Varied::Law::lognormal;
            v.spread = 3;
            v.lowest = now / 100;
            v.highest = now * 100;
            v.provenance = "geometric deviation 3 (from memory, 50 % sure)";
        } else {
            continue;
        }
        if (v.lowest < v.highest) plan.varied.push_back(std::move(v));
    }
    // Two parts may each have a wall: then the part is named.
    std::map<std::string, int> named;
    for (const auto& v : plan.varied) ++named[v.label];
    for (auto& v : plan.varied)
        if (const auto* spec = prepared.family->parameter(v.key); spec && named[v.label] > 1)
            v.label = spec->group + ": " + v.label;
    const auto vary_insulation = [&](const std::string& of, const std::string& whose, const Cable& cable,
                                     const CableDimensions& d) {
        const double t = cable.insulation_thickness_mm.value_or(d.radius_mm("insulation") -
                                                                d.radius_mm("conductor screen"));
        Varied insulation;
        insulation.key = of + "insulation_thickness_mm";
        insulation.label = "Insulation thickness of " + whose;
        insulation.law = Varied::Law::uniform;
        insulation.middle = t;
        insulation.spread = 0.1 * t + 0.1;
        insulation.lowest = 0.9 * t - 0.1;
        insulation.highest = 1.1 * t + 0.1;
        insulation.provenance = "least wall 0.9 t - 0.1 mm (IEC, from memory, 90 % sure)";
        plan.varied.push_back(std::move(insulation));
    };
    const auto& d = prepared.design;
    const bool second = prepared.other_dimensions && prepared.other_cable && d.other_cable_id != d.cable_id;
    vary_insulation(of_cable, second ? "cable A" : "the cable", prepared.cable, prepared.dimensions);
    if (second) vary_insulation(of_other_cable, "cable B", *prepared.other_cable, *prepared.other_dimensions);
    for (std::size_t k = 0; with_faults && k < d.faults.size(); ++k) {
        const auto& fault = d.faults[k];
        if (!(fault.size_mm > 0)) continue; // a rule
        auto kind = fault.kind;
        std::replace(kind.begin(), kind.end(), '_', ' ');
        Varied size;
        size.key = fmt::format("{}{} size_mm", of_fault, k + 1);
        size.label = fmt::format("Size of fault {}, {}", k + 1, kind);
        size.law = Varied::Law::lognormal;
        size.middle = fault.size_mm;
        size.spread = 1.6;
        size.lowest = fault.size_mm / 4;
        size.highest = 4 * fault.size_mm;
        size.provenance = "geometric deviation 1.6: common practice, no source";
        plan.varied.push_back(std::move(size));
    }
    return plan;
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
        for (const auto& c : plan.correlated)
            out["correlated"].push_back({{"a", c.a}, {"b", c.b}, {"rho", c.rho}});
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
        if (document.contains("correlated"))
            for (const auto& entry : document.at("correlated"))
                plan.correlated.push_back({entry.at("a").get<std::string>(), entry.at("b").get<std::string>(),
                                           entry.at("rho").get<double>()});
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
        if (cable_figure(v.key)) {
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
