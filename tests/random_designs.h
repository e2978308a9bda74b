// Random designs of a family: parameters scattered round their defaults on random cables, built, meshed,
// solved coarsely, and asked for what no right solution can break.
#pragma once
#include "design/prepared.h"
#include "fault/fault.h"
#include "field/solve.h"
#include "verdict/verdict.h"
#include <fmt/format.h>
#include <random>

namespace ng::test {

/// A cable and a design on it; not every one is valid.
inline Job random_job(const Family& family, std::mt19937& generator) {
    auto between = [&](double a, double b) { return std::uniform_real_distribution<>(a, b)(generator); };
    auto pick = [&](auto options) {
        return options[std::uniform_int_distribution<std::size_t>(0, options.size() - 1)(generator)];
    };
    Job job;
    for (const char* id : {"a", "b"}) {
        Cable cable;
        cable.id = cable.title = id;
        cable.conductor_size = fmt::format("{:.0f} mm2", between(35, 500));
        cable.insulation_material = pick(std::vector<std::string>{"xlpe", "tr-xlpe", "epr"});
        cable.insulation_thickness_mm = between(3.5, 10);
        cable.insulation_screen_thickness_mm = between(0.6, 1.1);
        cable.cores = pick(std::vector<int>{1, 1, 3});
        if (*id == 'b' && family.id == "transition_joint") cable.insulation_material = "paper";
        job.cables.push_back(cable);
    }
    Design design;
    design.id = design.title = "random";
    design.family = family.id;
    design.cable_id = "a";
    if (family.two_cables && (family.id == "transition_joint" || between(0, 1) < 0.5)) {
        design.other_cable_id = "b";
        // Cables that one kit could take.
        job.cables[1].insulation_thickness_mm = *job.cables[0].insulation_thickness_mm * between(0.85, 1.15);
        job.cables[1].conductor_size = job.cables[0].conductor_size;
    }
    design.duty.standard = family.usual_standard;
    design.duty.class_kV = pick(std::vector<double>{5, 15, 25});
    design.duty.outdoor = between(0, 1) < 0.5;
    job.designs.push_back(design);
    job.open_design = design.id;

    auto& d = job.designs.front();
    for (const auto& spec : family.parameters)
        if (spec.kind == ParameterKind::choice && between(0, 1) < 0.5) {
            const auto& option = pick(spec.options);
            // Laws that depend on the field take a full iteration: left to tests of their own.
            if (option.first != "power") d.choices[spec.key] = option.first;
        }
    const auto prepared = derive_dimensions(job.cables[0], CableTables{});
    const auto other = derive_dimensions(job.cables[1], CableTables{});
    static const auto library = *load_library(NEEDLEGAUGE_DATA_DIR);
    if (!prepared || !other) return job;
    const bool two = !d.other_cable_id.empty();
    const DesignContext context{family,
                                d,
                                job.cables[0],
                                *prepared,
                                library.materials,
                                two ? &job.cables[1] : nullptr,
                                two ? &*other : nullptr};
    for (const auto& spec : family.parameters) {
        if (spec.kind == ParameterKind::choice || between(0, 1) < 0.6) continue;
        const double now = number_of(context, spec.key);
        double value = spec.kind == ParameterKind::conductivity ? now * std::pow(10, between(-2, 2))
                                                                : now * between(0.8, 1.25);
        if (spec.key == "sheds" || spec.key == "insulating_layers") value = std::round(value);
        if (now == 0) value = between(0, 3);
        if (spec.lowest < 0) value = now + between(-4, 4);
        d.numbers[spec.key] = std::clamp(value, spec.lowest, spec.highest);
    }
    return job;
}

/// `not_judged`: solved, and a check says itself that no place of it can be read.
enum class Outcome { solved, not_judged, refused, wrong };
struct RandomResult {
    Outcome outcome = Outcome::wrong;
    std::string why;
};

/// What any right coarse solution keeps: potentials between those of the electrodes, no net charge, energy
/// half of voltage times charge, finite readings.
inline std::string what_is_wrong(const Section& section, const Solution& solution) {
    double low = 0, high = 0;
    for (const auto& e : section.electrodes) {
        low = std::min(low, e.voltage_kV);
        high = std::max(high, e.voltage_kV);
    }
    const double span = high - low;
    // Coarse quadratic elements overshoot a little; where layers conduct, the in-phase part may exceed U0
    // itself.
    const double beyond = (section.conducts() ? 0.10 : 0.03) * span;
    if (!(solution.potential_kV.minCoeff() > low - beyond &&
          solution.potential_kV.maxCoeff() < high + beyond))
        return fmt::format("potentials from {:.3f} to {:.3f} lie outside those of the electrodes",
                           solution.potential_kV.minCoeff() / span, solution.potential_kV.maxCoeff() / span);
    double sum = 0, most = 0;
    for (const auto& c : solution.conductors) {
        sum += c.charge_C;
        most = std::max(most, std::abs(c.charge_C));
    }
    // Where layers conduct, charge gathers in them too.
    if (!(most > 0) || (!section.conducts() && !(std::abs(sum) < 1e-6 * most)))
        return "the charges do not balance";
    for (const auto& path : solution.paths)
        for (const auto& s : path.samples)
            if (!std::isfinite(s.E_kV_per_mm) || !std::isfinite(s.potential_kV))
                return "a reading is not finite";
    for (const auto& path : solution.paths)
        if (!path.samples.empty() && path.peak_kV_per_mm > 100)
            return "a path reads an absurd field: " + path.name;
    for (const auto& edge : solution.edges)
        if (edge.peak_kV_per_mm > 100) return "an edge reads an absurd field: " + edge.name;
    return {};
}

/// A fault about as large as what is searched, at or near its usual place; not every one fits.
inline Fault random_fault(std::mt19937& generator, bool two_sides) {
    auto between = [&](double a, double b) { return std::uniform_real_distribution<>(a, b)(generator); };
    std::vector<const FaultKind*> kinds;
    for (const auto& kind : fault_kinds())
        if (!kind.rule) kinds.push_back(&kind);
    const auto& kind = *kinds[std::uniform_int_distribution<std::size_t>(0, kinds.size() - 1)(generator)];
    Fault f;
    f.kind = kind.id;
    if (two_sides) f.side = between(0, 1) < 0.5 ? Side::a : Side::b;
    f.size_mm = std::exp(between(std::log(kind.least_mm / 2), std::log(kind.most_mm)));
    if (kind.put && kind.from_edge_mm > 0 && between(0, 1) < 0.5)
        f.from_edge_mm = kind.from_edge_mm * between(0.3, 3);
    if (kind.width_mm > 0 && between(0, 1) < 0.5) f.width_mm = kind.width_mm * std::exp(between(-1, 1));
    if (kind.has_filling)
        f.filling =
            fillings()[std::uniform_int_distribution<std::size_t>(0, fillings().size() - 1)(generator)].id;
    if (kind.has_sheet() && between(0, 1) < 0.5) f.sheet_ohm = std::pow(10, between(5, 12));
    return f;
}

inline RandomResult try_random(const Family& family, std::mt19937& generator, const Library& library,
                               Job* job_out = nullptr, bool with_fault = false) {
    auto job = random_job(family, generator);
    if (with_fault) {
        const auto plain = prepare_design(job, "random", library);
        job.designs.front().faults = {random_fault(generator, plain && has_two_sides(plain->built))};
    }
    if (job_out) *job_out = job;
    const auto prepared = preparer(with_fault)(job, "random", library);
    if (!prepared) {
        const auto& e = prepared.error();
        const bool named = !e.item.empty() && !e.problem.empty() && !e.remedy.empty();
        return {named ? Outcome::refused : Outcome::wrong,
                named ? e.item : "a refusal without item or remedy"};
    }
    SolveOptions coarse;
    coarse.coarse = true;
    const auto solutions = solve_levels(prepared->built, prepared->design.duty, prepared->levels, coarse);
    if (!solutions) return {Outcome::wrong, solutions.error().message()};
    if (auto wrong = what_is_wrong(prepared->built.section, solutions->at_u0); !wrong.empty())
        return {Outcome::wrong, wrong};
    for (const auto& across : prepared->built.across)
        if (auto wrong = what_is_wrong(across.section, solutions->across.at(across.id)); !wrong.empty())
            return {Outcome::wrong, across.title + ": " + wrong};
    const auto verdict =
        judge(prepared->built, prepared->design.duty, prepared->levels, prepared->limits, *solutions);
    for (const auto& check : verdict.checks) {
        if (check.limit == 0) return {Outcome::not_judged, name_of(check.id)};
        if (!std::isfinite(check.value) || check.value < 0)
            return {Outcome::wrong, "check " + name_of(check.id) + " has no value"};
    }
    return {Outcome::solved, {}};
}

} // namespace ng::test
