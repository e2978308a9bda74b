// needlegauge-cli: the product without a window. Exit 0 done and holds, 1 done and something falls short, 2
// bad input, 3 internal.
#include "cli/body_calls.h"
#include "cli/render.h"
#include "cli/schedule_calls.h"
#include "cli/work_calls.h"
#include "design/prepared.h"
#include "field/kept.h"
#include "field/result_io.h"
#include "io/file.h"
#include "plan/plan.h"
#include "section/section_fields.h"
#include "units/quantity.h"
#include "units/version.h"
#include <CLI/CLI.hpp>
#include <cstdio>
#include <fmt/format.h>
#include <iostream>
#include <set>
#include <sstream>

namespace {
using namespace ng;
using nlohmann::ordered_json;

using cli::complain, cli::exit_holds, cli::exit_falls_short, cli::exit_bad_input, cli::exit_internal;

/// "1%" or "0.01".
Result<double> parse_goal(const std::string& text) {
    auto value = parse_number(text, "%", "goal");
    if (!value) return value;
    if (!text.empty() && text.back() == '%') *value /= 100;
    if (!(*value >= 1e-5 && *value <= 0.5))
        return refuse("goal", fmt::format("{} is out of range", text), "Give 0.001% to 50%");
    return value;
}

struct SolveArguments {
    std::string file, goal = "1%", csv, vtu, analysis, frequencies;
    bool json = false, capacitance = false;
};

void print_solution(const Section& section, const Solution& solution) {
    const auto& r = solution.report;
    const bool planar = section.symmetry == Symmetry::planar, in_time = !solution.history.empty();
    fmt::print("{} ({} passes, {} triangles, {} unknowns, {:.2f} s)\n", describe_end(r), r.passes,
               r.triangles, r.unknowns, r.total_s);
    for (const auto& note : r.notes) fmt::print("note: {}\n", note);
    fmt::print("{}: fields kV/mm, potentials kV, places [{}] mm\n", quantity_word(solution),
               planar ? "x, y" : "r, z");
    const auto when = [&](double t_s) {
        return in_time ? fmt::format(", at {:.4g} us", 1e6 * t_s) : std::string();
    };
    // A figure with its error, where one is known.
    const auto with_error = [&](double value, double error, const char* unit) {
        return r.error_known() ? fmt::format("{:.4g} ± {:.1g} {}", value, error, unit)
                               : fmt::format("{:.4g} {}, error not known", value, unit);
    };
    for (const auto& p : solution.paths)
        fmt::print("path {} (side {}): peak {} at [{:.3f}, {:.3f}], error {:.2g} %\n", p.name, p.side,
                   format_supported(p.peak_kV_per_mm, p.relative_error), p.peak_at.r, p.peak_at.z,
                   100 * p.relative_error);
    for (const auto& e : solution.edges) {
        fmt::print("edge {} of {}: radius {:.3g} mm, ", e.name, e.electrode, e.radius_mm);
        if (e.judged)
            fmt::print("peak {} at [{:.3f}, {:.3f}], error {:.2g} %{}{}\n",
                       format_supported(e.peak_kV_per_mm, e.relative_error), e.peak_at.r, e.peak_at.z,
                       100 * e.relative_error, when(e.peak_time_s),
                       e.part_not_judged ? "; part of it lies within the reach of a corner" : "");
        else
            fmt::print("not judged: within the reach of a corner\n");
    }
    for (const auto& p : solution.probes) {
        fmt::print("probe {}: {}, E {}{}{}", p.name, with_error(p.potential_kV, p.potential_error_kV, "kV"),
                   with_error(p.E_kV_per_mm, p.error_kV_per_mm, "kV/mm"), when(p.peak_time_s),
                   p.judged ? "" : ", not judged: within the reach of a corner");
        if (r.cycles > 0) fmt::print(", third harmonic {:.2g} %", 100 * p.third_harmonic);
        fmt::print("\n");
    }
    if (in_time) return;
    const char *coulomb = planar ? "C/m" : "C", *watt = planar ? "W/m" : "W", *farad = planar ? "F/m" : "F";
    for (const auto& c : solution.conductors)
        fmt::print("electrode {}: {:.4g} kV, charge {}, current {}\n", c.name, c.potential_kV,
                   with_error(c.charge_C, c.charge_error_C, coulomb),
                   with_error(c.current_A, c.current_error_A, planar ? "A/m" : "A"));
    for (const auto& loss : solution.losses)
        fmt::print("loss in {}: {}, at most {:.4g} W/m3\n", loss.region,
                   with_error(loss.power_W, loss.power_error_W, watt), loss.peak_W_per_m3);
    for (const auto& c : solution.interface_charges)
        fmt::print("charge between {} and {}: {}\n", c.region_a, c.region_b,
                   with_error(c.charge_C, c.charge_error_C, coulomb));
    for (Eigen::Index i = 0; i < solution.capacitance_F.rows(); ++i) {
        fmt::print("capacitance {}:", solution.conductors[static_cast<std::size_t>(i)].name);
        for (Eigen::Index j = 0; j < solution.capacitance_F.cols(); ++j)
            fmt::print("{} {}", j > 0 ? "," : "",
                       with_error(solution.capacitance_F(i, j),
                                  r.error_known() ? solution.capacitance_error_F(i, j) : 0, farad));
        fmt::print("\n");
    }
    fmt::print("energy {}\n", with_error(solution.energy_J, solution.energy_error_J, planar ? "J/m" : "J"));
}

/// A file name for each path: letters and digits of its name, told apart by a number where two agree.
std::vector<std::string> file_names(const std::vector<PathResult>& paths) {
    std::vector<std::string> out;
    std::set<std::string> taken;
    for (const auto& path : paths) {
        std::string base = path.name.substr(0, 100);
        for (auto& c : base) {
            const auto byte = static_cast<unsigned char>(c);
            if (byte < 0x80 && !std::isalnum(byte)) c = '-';
        }
        auto name = base;
        for (int n = 2; !taken.insert(name).second; ++n) name = fmt::format("{}-{}", base, n);
        out.push_back(name);
    }
    return out;
}

Result<std::vector<double>> parse_frequencies(const std::string& text) {
    std::vector<double> out;
    std::stringstream words(text);
    for (std::string word; std::getline(words, word, ',');) {
        const auto value = parse_number(word, "Hz", "frequencies");
        if (!value) return tl::unexpected(value.error());
        out.push_back(*value);
    }
    if (out.empty()) return refuse("frequencies", "none is given", "Give them as 60,400,1000");
    return out;
}

/// One mesh, several frequencies: probes and path peaks of each.
int run_sweep(Section section, const SolveArguments& arguments, const SolveOptions& options) {
    const auto frequencies = parse_frequencies(arguments.frequencies);
    if (!frequencies) return complain(frequencies.error());
    section.frequency_hz = frequencies->front();
    auto kept = Kept::make(section, options);
    if (!kept) return complain(kept.error());
    auto list = ordered_json::array();
    for (const double frequency : *frequencies) {
        section.frequency_hz = frequency;
        const auto solution = kept->solve(section);
        if (!solution) return complain(solution.error());
        if (arguments.json) {
            list.push_back(solution_json(section, *solution));
        } else {
            fmt::print("--- {:g} Hz\n", frequency);
            print_solution(section, *solution);
        }
    }
    if (arguments.json) std::cout << list.dump(1) << '\n';
    return exit_holds;
}

int run_solve(const SolveArguments& arguments) {
    const auto text = read_file(arguments.file, most_document_bytes);
    if (!text) return complain(text.error());
    auto section = read_section_text(*text, arguments.file);
    if (!section) return complain(section.error());
    const auto goal = parse_goal(arguments.goal);
    if (!goal) return complain(goal.error());
    if (!arguments.analysis.empty()) section->analysis = arguments.analysis;
    SolveOptions options;
    options.goal = *goal;
    options.capacitance_matrix = arguments.capacitance;
    if (*goal < 0.005) options.most_unknowns = 600000;
    if (!arguments.frequencies.empty()) return run_sweep(*section, arguments, options);
    const auto solution = solve(*section, options);
    if (!solution) return complain(solution.error());
    if (!arguments.csv.empty()) {
        const std::filesystem::path folder = arguments.csv;
        std::error_code code;
        if (std::filesystem::create_directory(folder, code))
            fmt::print(stderr, "The folder {} is made.\n", one_line(arguments.csv));
        if (!std::filesystem::is_directory(folder, code))
            return complain({arguments.csv, "it is no folder, and none can be made there",
                             "Name a folder, or make those that it lies in first"});
        const auto names = file_names(solution->paths);
        for (std::size_t k = 0; k < names.size(); ++k)
            if (auto ok =
                    write_file_safely(folder / (names[k] + ".csv"), path_csv(*solution, solution->paths[k]));
                !ok)
                return complain(ok.error());
    }
    if (!arguments.vtu.empty())
        if (auto ok = write_output(arguments.vtu, solution_vtu(*solution)); !ok) return complain(ok.error());
    if (arguments.json)
        std::cout << solution_json(*section, *solution).dump(1) << '\n';
    else
        print_solution(*section, *solution);
    if (!solution->report.converged) {
        fmt::print(stderr, "The iteration did not converge: do not use these figures.\n");
        return exit_falls_short;
    }
    return exit_holds;
}

struct JobArguments {
    std::string job, design, png, duty;
    bool json = false, service_only = false;
    int width = 1280, height = 640;
};

Result<Library> open_library() {
    return load_library(data_folder());
}

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

int run_check(const JobArguments& arguments) {
    const auto library = open_library();
    if (!library) return complain(library.error());
    auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    for (auto& design : job->designs)
        if (auto ok = cli::replace_duty(design.duty, arguments.duty); !ok) return complain(ok.error());
    if (!arguments.design.empty() && !job->find_design(arguments.design))
        return complain(
            {"design " + arguments.design, "it is not in the job", "Name one of the job's designs"});
    ordered_json out{{"format", "needlegauge-check"},
                     {"version", 1},
                     {"made_by", made_by(library->version)},
                     {"job", job->title},
                     {"designs", ordered_json::array()}};
    for (const auto& field : unknown_fields(*job, library->families)) {
        out["unknown_fields"].push_back(
            {{"item", field.item}, {"field", field.key}, {"nearest", field.nearest}});
        fmt::print(stderr, "{}\n", field.words());
    }
    int code = exit_holds;
    for (const auto& design : job->designs) {
        if (!arguments.design.empty() && design.id != arguments.design) continue;
        const auto judged = judge_design(*job, design.id, *library, !arguments.service_only);
        if (!judged) return complain(judged.error());
        const auto* prepared = &judged->prepared;
        const auto* solutions = &judged->solutions;
        const auto& verdict = judged->verdict;
        const auto plan = make_plan(*prepared);
        if (!plan) return complain(plan.error());
        const auto plan_out = plan_json(*plan);
        // The schedule holds all that is asked at U0 too: where it is as bad, its tightest check is the
        // reason.
        const bool schedule_decides =
            judged->schedule && severity(judged->schedule->status) >= severity(verdict.status);
        const int set_aside = judged->schedule ? judged->schedule->set_aside : verdict.set_aside;
        const auto status = schedule_decides ? judged->schedule->status : verdict.status;
        const auto& reason = schedule_decides ? judged->schedule->first_reason : verdict.first_reason;
        if (status == Status::falls_short || status == Status::not_judged ||
            plan->status == Status::falls_short)
            code = exit_falls_short;
        out["designs"].push_back({{"id", design.id},
                                  {"title", design.title},
                                  {"family", design.family},
                                  {"status", status_word(status)},
                                  {"words", status_words(status, set_aside)},
                                  {"why", reason},
                                  {"duty",
                                   {{"standard", design.duty.standard},
                                    {"class_kV", design.duty.class_kV},
                                    {"u0_kV", prepared->design.duty.u0()}}},
                                  {"solution", describe_end(solutions->at_u0.report)},
                                  {"fit_status", status_word(prepared->fit.status)},
                                  {"fit", fit_json(prepared->fit)},
                                  {"quantities", quantities_json(prepared->fit)},
                                  {"derived", ordered_json(prepared->built.derived)},
                                  {"statements", prepared->built.statements},
                                  {"datum", name_of(plan->datum)},
                                  {"marks_status", status_word(plan->status)},
                                  {"marks", plan_out["marks"]},
                                  {"marks_checks", plan_out["checks"]},
                                  {"checks", verdict_json(verdict)}});
        if (judged->schedule) out["designs"].back()["schedule"] = schedule_json(*judged->schedule);
        if (arguments.json) continue;
        fmt::print("{} ({}): {}\n", design.title, design.id, status_words(status, set_aside));
        for (const auto& statement : prepared->built.statements) fmt::print("  {}\n", statement);
        for (const auto& c : prepared->fit.checks)
            if (c.status != Status::holds)
                fmt::print("  {:<12} fit, {}: {}. {}{}\n", status_word(c.status), c.title, c.why, c.cure,
                           c.suggestion.empty() ? "." : "; " + c.suggestion + ".");
        for (const auto& c : plan->checks)
            if (c.status != Status::holds)
                fmt::print("  {:<12} marks, {}: {}. {}.\n", status_word(c.status), c.title, c.why, c.cure);
        for (const auto& c : verdict.checks) {
            fmt::print("  {:<12} {}: {}\n", status_word(c.status), c.title, c.why);
            if (!c.limit_origin.empty())
                fmt::print("  {:<12} limit {}; at {} {:.3g} kV ({}); place: {} [{:.2f}, {:.2f}]\n", "",
                           c.limit_origin, c.level, c.voltage_kV, c.voltage_origin,
                           c.place ? name_of(*c.place) : "", c.at.r, c.at.z);
            if (c.status != Status::holds && !c.cure.empty())
                fmt::print("  {:<12} usual remedy, not computed: {}.\n", "", c.cure);
        }
        if (judged->schedule) cli::print_schedule(*judged->schedule);
    }
    if (arguments.json)
        std::cout << out.dump(1) << '\n';
    else
        fmt::print("A design aid: it does not replace a type test, local codes or licensed practice.\n");
    return code;
}

/// Families with their parameters, so that a job can be written by hand.
int run_families(bool as_json) {
    static const char* const kinds[] = {"length", "permittivity", "conductivity", "number", "choice"};
    ordered_json out{{"format", "needlegauge-families"},
                     {"version", 1},
                     {"made_by", made_by()},
                     {"families", ordered_json::array()}};
    for (const auto& family : FamilyTable::shipped()) {
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

int run_section(const JobArguments& arguments) {
    const auto library = open_library();
    if (!library) return complain(library.error());
    const auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    const auto prepared = prepare_design(*job, arguments.design, *library);
    if (!prepared) return complain(prepared.error());
    std::cout << write_section(prepared->built.section).dump(1) << '\n';
    return exit_holds;
}

int run_render(const JobArguments& arguments) {
    const auto library = open_library();
    if (!library) return complain(library.error());
    const auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    const auto prepared = prepare_design(*job, arguments.design, *library);
    if (!prepared) return complain(prepared.error());
    const auto solution = solve(prepared->built.section);
    if (!solution) return complain(solution.error());
    if (auto ok = cli::render_png(*prepared, *solution, arguments.png, arguments.width, arguments.height);
        !ok)
        return complain(ok.error());
    return exit_holds;
}

/// Program and data: figures hang on both.
std::string version_words() {
    const auto library = open_library();
    return fmt::format("needlegauge-cli {}\ndata {}", program_version(),
                       library ? library->version : "not found");
}

int run(int argc, char** argv) {
    CLI::App app{"Needlegauge: electric field along medium-voltage cable accessories. A design aid: it does "
                 "not replace a type test."};
    app.require_subcommand(1);
    SolveArguments solving;
    auto* solve_call = app.add_subcommand("solve", "Solve any section file");
    solve_call->add_option("file", solving.file, "section file (.ngsection)")->required();
    solve_call->add_option("--goal", solving.goal, "relative error wanted at paths and edges, such as 1%");
    solve_call->add_option("--csv", solving.csv, "folder for one CSV file per path");
    solve_call->add_option("--vtu", solving.vtu, "file for a field viewer");
    solve_call->add_option("--analysis", solving.analysis,
                           "instead of the file's: capacitive, complex, nonlinear, impulse, dc");
    solve_call->add_option("--frequencies", solving.frequencies,
                           "several frequencies on one mesh, such as 0.1,60,250e3");
    solve_call->add_flag("--capacitance", solving.capacitance, "with the capacitance matrix");
    solve_call->add_flag("--json", solving.json, "print the result as JSON");
    JobArguments job;
    auto* check_call = app.add_subcommand("check", "Judge the designs of a job");
    check_call->add_option("job", job.job, "job file (.ngjob)")->required();
    check_call->add_option("--design", job.design, "one design only");
    check_call->add_option("--duty", job.duty, "another standard and class, such as ieee404:25");
    check_call->add_flag("--service-only", job.service_only,
                         "the checks at U0 and extinction, no test schedule");
    check_call->add_flag("--json", job.json, "print the result as JSON");
    cli::StandardsArguments standards;
    auto* standards_call = app.add_subcommand("standards", "List test levels, or check a standards pack");
    standards_call->add_option("--check", standards.file, "a pack to be checked and listed");
    standards_call->add_flag("--json", standards.json, "print the packs as JSON");
    cli::CompareArguments comparing;
    auto* compare_call = app.add_subcommand("compare", "Two schedules side by side");
    compare_call->add_option("job", comparing.job, "job file (.ngjob)")->required();
    compare_call->add_option("--design", comparing.design, "side A")->required();
    compare_call->add_option("--with", comparing.with, "design of side B; the same if none");
    compare_call->add_option("--duty", comparing.duty,
                             "duty of A, such as ieee48:15; the design's own if none");
    compare_call->add_option("--with-duty", comparing.with_duty, "duty of B");
    compare_call->add_flag("--csv", comparing.csv, "print as CSV");
    cli::WhyArguments why;
    auto* why_call = app.add_subcommand("why", "What a check hangs on, by solving");
    why_call->add_option("job", why.job, "job file (.ngjob)")->required();
    why_call->add_option("--design", why.design, "id of the design")->required();
    why_call->add_option("--check", why.check, "id of the check")->required();
    why_call->add_flag("--json", why.json, "print as JSON");
    cli::WorkArguments work;
    auto* marks_call = app.add_subcommand("marks", "Cut marks of a design from one datum");
    marks_call->add_flag("--json", work.json, "print as JSON");
    marks_call->add_flag("--csv", work.csv, "print as CSV");
    auto* template_call = app.add_subcommand("template", "Full-size template to wrap round the cable");
    template_call->add_option("--pdf", work.pdf, "sheets of paper");
    template_call->add_option("--svg", work.svg, "one drawing");
    template_call->add_option("--dxf", work.dxf, "one drawing");
    template_call->add_option("--paper", work.paper, "A4 or Letter");
    auto* sheet_call = app.add_subcommand("sheet", "Work sheet with hold points");
    sheet_call->add_option("--pdf", work.pdf, "printed");
    sheet_call->add_option("--html", work.html, "one file, pictures within");
    sheet_call->add_flag("--large", work.large_print, "large print for the field");
    auto* report_call = app.add_subcommand("report", "Engineering report of a job");
    report_call->add_option("job", work.job, "job file (.ngjob)")->required();
    report_call->add_option("--design", work.design, "one design only");
    report_call->add_option("--pdf", work.pdf, "printed");
    report_call->add_option("--html", work.html, "one file, pictures within");
    report_call->add_option("--date", work.date, "as it is to be printed; today if none");
    for (auto* call : {marks_call, template_call, sheet_call}) {
        call->add_option("job", work.job, "job file (.ngjob)")->required();
        call->add_option("--design", work.design, "id of the design")->required();
        call->add_option("--datum", work.datum, "what distances count from; the design's own if none");
    }
    cli::BodyArguments body;
    auto* body_call = app.add_subcommand("import-body", "A moulded body from a DXF drawing");
    body_call->add_option("drawing", body.drawing, "drawing (DXF)")->required();
    body_call->add_flag("--list", body.list, "print its layers with their closed profiles");
    body_call
        ->add_option("--role", body.roles,
                     "what is drawn on a layer, such as BODY=\"insulating body\"; again for each")
        ->take_all();
    body_call->add_option("--unit", body.unit, "mm or inch, where the drawing does not say");
    body_call->add_option("--axis", body.axis, "of the drawing on which the cable's axis lies: x or y");
    body_call->add_option("--id", body.id, "of the body; from the file's name if none");
    body_call->add_option("--title", body.title, "for people");
    body_call->add_option("--job", body.job, "job file that it is put into (.ngjob)");
    body_call->add_option("--out", body.out,
                          "file to write: a body (.ngbody), or with --job another job file");
    auto* section_call = app.add_subcommand("section", "Print the section file of a design");
    auto* schema_call = app.add_subcommand("schema", "Print the JSON Schema of section files");
    auto* families_call = app.add_subcommand("families", "List accessory families and their parameters");
    families_call->add_flag("--json", job.json, "All parameters, as JSON");
    auto* render_call = app.add_subcommand("render", "Picture of section and field");
    for (auto* call : {section_call, render_call}) {
        call->add_option("job", job.job, "job file (.ngjob)")->required();
        call->add_option("--design", job.design, "id of the design")->required();
    }
    render_call->add_option("--png", job.png, "file to write")->required();
    render_call->add_option("--width", job.width, "pixels")->check(CLI::Range(200, 8000));
    render_call->add_option("--height", job.height, "pixels")->check(CLI::Range(150, 8000));
    app.set_version_flag("--version", [] { return version_words(); });
    marks_call->get_option("--json")->excludes(marks_call->get_option("--csv"));
    render_call->get_option("--png")->check([](const std::string& name) {
        return name.size() > 4 && name.substr(name.size() - 4) == ".png"
                   ? std::string()
                   : std::string("a picture is written as PNG: give a name that ends in .png");
    });
    try {
        app.parse(argc, argv);
    } catch (const CLI::Success& wanted) { // --help, --version
        app.exit(wanted);
        return exit_holds;
    } catch (const CLI::ParseError& error) {
        return complain({"command line", error.what(), "See needlegauge-cli --help"});
    }
    if (*solve_call) return run_solve(solving);
    if (*check_call) return run_check(job);
    if (*standards_call || *compare_call || *why_call || *marks_call || *template_call || *sheet_call ||
        *report_call) {
        const auto library = open_library();
        if (!library) return complain(library.error());
        if (*marks_call) return cli::run_marks(work, *library);
        if (*report_call) return cli::run_report(work, *library);
        if (*sheet_call) return cli::run_sheet(work, *library);
        if (*template_call) return cli::run_template(work, *library);
        if (*standards_call) return cli::run_standards(standards, *library);
        return *compare_call ? cli::run_compare(comparing, *library) : cli::run_why(why, *library);
    }
    if (schema_call->parsed()) {
        std::cout << schema_of(section_fields(), "Needlegauge section").dump(1) << '\n';
        return 0;
    }
    if (*body_call) return cli::run_body(body);
    if (*families_call) return run_families(job.json);
    if (*section_call) return run_section(job);
    return run_render(job);
}

/// What was printed has arrived, or the exit code says that it has not.
int finish_output(int code) {
    std::cout.flush();
    const bool whole =
        std::cout.good() && std::fflush(stdout) == 0 && !std::ferror(stdout) && std::fclose(stdout) == 0;
    if (whole) return code;
    return complain(
        {"standard output", "it could not be written in full", "Free some space, or print elsewhere"});
}

} // namespace

int main(int argc, char** argv) {
    try {
        return finish_output(run(argc, argv));
    } catch (const std::exception& error) {
        fmt::print(stderr, "Internal error: {}\n", one_line(error.what()));
        return exit_internal;
    }
}
