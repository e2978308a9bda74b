#include "cli/design_calls.h"
#include "cli/answer.h"
#include "cli/render.h"
#include "cli/schedule_calls.h"
#include "design/unknown_fields.h"
#include "fault/fault.h"
#include "field/result_io.h"
#include "plan/plan.h"
#include "schedule/judgement.h"
#include "units/quantity.h"
#include "units/version.h"
#include <fmt/format.h>
#include <iostream>

namespace ng::cli {
namespace {

using nlohmann::ordered_json;

ordered_json fit_json(const FitReport& fit) {
    auto list = ordered_json::array();
    for (const auto& c : fit.checks)
        list.push_back({{"part", c.part},
                        {"title", c.title},
                        {"value", c.value},
                        {"uncertainty", c.uncertainty},
                        {"lowest", c.lowest > 0 ? ordered_json(c.lowest) : ordered_json()},
                        {"highest", c.highest > 0 ? ordered_json(c.highest) : ordered_json()},
                        {"unit", c.unit},
                        {"status", status_word(c.status)},
                        {"why", c.why},
                        {"cure", c.cure},
                        {"suggestion", c.suggestion}});
    return list;
}

ordered_json quantities_json(const FitReport& fit) {
    auto list = ordered_json::array();
    for (const auto& q : fit.quantities) {
        ordered_json row{{"part", q.part}, {"volume_cm3", q.volume_cm3}};
        if (q.tape) {
            row["passes"] = q.tape->passes;
            row["tape_m"] = q.tape->supplied_mm / 1e3;
            row["rolls"] = q.tape->rolls;
        }
        list.push_back(std::move(row));
    }
    return list;
}

/// What is said of a design as a whole. The schedule holds all that is asked at U0 too: where it is as bad,
/// its tightest check is the reason.
struct Whole {
    explicit Whole(const Judgement& judged) {
        const auto& verdict = judged.verdict;
        const bool by_schedule =
            judged.schedule && severity(judged.schedule->status) >= severity(verdict.status);
        status = by_schedule ? judged.schedule->status : verdict.status;
        reason = by_schedule ? judged.schedule->first_reason : verdict.first_reason;
        set_aside = judged.schedule ? judged.schedule->set_aside : verdict.set_aside;
    }
    Status status;
    std::string reason;
    int set_aside;
};

ordered_json design_json(const Judgement& judged, const Whole& whole, const CutPlan& plan) {
    const auto& p = judged.prepared;
    const auto plan_out = plan_json(plan);
    ordered_json out{{"id", p.design.id},
                     {"title", p.design.title},
                     {"family", p.design.family},
                     {"status", status_word(whole.status)},
                     {"words", status_words(whole.status, whole.set_aside)},
                     {"why", whole.reason},
                     {"duty",
                      {{"standard", p.design.duty.standard},
                       {"class_kV", p.design.duty.class_kV},
                       {"u0_kV", p.design.duty.u0()}}},
                     {"solution", describe_end(judged.solutions.at_u0.report)},
                     {"fit_status", status_word(p.fit.status)},
                     {"fit", fit_json(p.fit)},
                     {"quantities", quantities_json(p.fit)},
                     {"derived", ordered_json(p.built.derived)},
                     {"statements", p.built.statements},
                     {"datum", name_of(plan.datum)},
                     {"marks_status", status_word(plan.status)},
                     {"marks", plan_out["marks"]},
                     {"marks_checks", plan_out["checks"]},
                     {"checks", verdict_json(judged.verdict)}};
    if (judged.schedule) out["schedule"] = schedule_json(*judged.schedule);
    return out;
}

void print_design(const Judgement& judged, const Whole& whole, const CutPlan& plan) {
    const auto& p = judged.prepared;
    fmt::print("{} ({}): {}\n", p.design.title, p.design.id, status_words(whole.status, whole.set_aside));
    for (const auto& statement : p.built.statements) fmt::print("  {}\n", statement);
    for (const auto& c : p.fit.checks)
        if (c.status != Status::holds)
            fmt::print("  {:<12} fit, {}: {}. {}{}\n", status_word(c.status), c.title, c.why, c.cure,
                       c.suggestion.empty() ? "." : "; " + c.suggestion + ".");
    for (const auto& c : plan.checks)
        if (c.status != Status::holds)
            fmt::print("  {:<12} marks, {}: {}. {}.\n", status_word(c.status), c.title, c.why, c.cure);
    for (const auto& c : judged.verdict.checks) {
        fmt::print("  {:<12} {}: {}\n", status_word(c.status), c.title, c.why);
        if (!c.limit_origin.empty())
            fmt::print("  {:<12} limit {}; at {} {:.3g} kV ({}); place: {} [{:.2f}, {:.2f}]\n", "",
                       c.limit_origin, c.level, c.voltage_kV, c.voltage_origin,
                       c.place ? name_of(*c.place) : "", c.at.r, c.at.z);
        if (c.status != Status::holds && !c.cure.empty())
            fmt::print("  {:<12} usual remedy, not computed: {}.\n", "", c.cure);
    }
    if (judged.schedule) print_schedule(*judged.schedule);
}

} // namespace

int run_check(const DesignArguments& arguments, const Library& library) {
    auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    for (auto& design : job->designs)
        if (auto ok = replace_duty(design.duty, arguments.duty); !ok) return complain(ok.error());
    if (!arguments.design.empty() && !job->find_design(arguments.design))
        return complain(
            {"design " + arguments.design, "it is not in the job", "Name one of the job's designs"});
    ordered_json out{{"format", "needlegauge-check"},
                     {"version", 1},
                     {"made_by", made_by(library.version)},
                     {"job", job->title},
                     {"designs", ordered_json::array()}};
    const auto unknown = unknown_fields(*job, library.families);
    for (const auto& field : unknown)
        out["unknown_fields"].push_back(
            {{"item", field.item}, {"field", field.key}, {"nearest", field.nearest}});
    int code = exit_holds;
    for (const auto& design : job->designs) {
        if (!arguments.design.empty() && design.id != arguments.design) continue;
        const auto judged =
            judge_design(*job, design.id, library, preparer(arguments.with_faults), !arguments.service_only);
        if (!judged) return complain(judged.error());
        const auto plan = make_plan(judged->prepared);
        if (!plan) return complain(plan.error());
        const Whole whole(*judged);
        code = worse_exit(code, exit_of(whole.status));
        if (plan->status == Status::falls_short) code = worse_exit(code, exit_falls_short);
        out["designs"].push_back(design_json(*judged, whole, *plan));
        if (!arguments.json) print_design(*judged, whole, *plan);
    }
    // Of what was judged only: a refusal is one line.
    for (const auto& field : unknown) fmt::print(stderr, "{}\n", field.words());
    if (arguments.json)
        std::cout << out.dump(1) << '\n';
    else
        fmt::print("A design aid: it does not replace a type test, local codes or licensed practice.\n");
    return code;
}

int run_families(bool as_json, const Library& library) {
    static const char* const kinds[] = {"length", "permittivity", "conductivity", "number", "choice"};
    ordered_json out{{"format", "needlegauge-families"},
                     {"version", 1},
                     {"made_by", made_by(library.version)},
                     {"families", ordered_json::array()}};
    for (const auto& family : library.families) {
        auto parameters = ordered_json::array();
        for (const auto& p : family.parameters) {
            ordered_json row{{"key", p.key}, {"group", p.group}, {"label", p.label}, {"help", p.help}};
            row["kind"] = kinds[static_cast<int>(p.kind)];
            if (p.kind == ParameterKind::choice) {
                for (const auto& [value, words] : p.options) row["options"][value] = words;
                row["default"] = p.options.front().first;
            } else {
                row["lowest"] = p.lowest;
                row["highest"] = p.highest;
            }
            parameters.push_back(std::move(row));
        }
        out["families"].push_back({{"id", family.id},
                                   {"title", family.title},
                                   {"two_cables", family.two_cables},
                                   {"usual_standard", family.usual_standard},
                                   {"parameters", std::move(parameters)}});
        if (!as_json) fmt::print("{:<32} {}\n", family.id, family.title);
    }
    if (as_json) std::cout << out.dump(1) << '\n';
    return exit_holds;
}

int run_section(const DesignArguments& arguments, const Library& library) {
    const auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    const auto prepared = preparer(arguments.with_faults)(*job, arguments.design, library);
    if (!prepared) return complain(prepared.error());
    std::cout << write_section(prepared->built.section).dump(1) << '\n';
    return exit_holds;
}

int run_render(const DesignArguments& arguments, const Library& library) {
    const auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    const auto prepared = preparer(arguments.with_faults)(*job, arguments.design, library);
    if (!prepared) return complain(prepared.error());
    const auto solution = solve(prepared->built.section);
    if (!solution) return complain(solution.error());
    if (auto ok = render_png(*prepared, *solution, arguments.png, arguments.width, arguments.height); !ok)
        return complain(ok.error());
    return exit_holds;
}

} // namespace ng::cli
