// needlegauge-cli: the product without a window. Exit 0 done and holds, 1 done and something falls short, 2
// bad input, 3 internal.
#include "cli/body_calls.h"
#include "cli/design_calls.h"
#include "cli/fault_calls.h"
#include "cli/options.h"
#include "cli/record_calls.h"
#include "cli/schedule_calls.h"
#include "cli/solve_calls.h"
#include "cli/study_calls.h"
#include "cli/work_calls.h"
#include "io/file.h"
#include "section/section_fields.h"
#include "units/text.h"
#include "units/version.h"
#include <CLI/CLI.hpp>
#include <cstdio>
#include <fmt/format.h>
#include <iostream>
#include <memory>

namespace {
using namespace ng;

using cli::add_output, cli::complain, cli::exit_holds, cli::exit_internal, cli::print_as;

/// The calls of the program: each declares its options, and says what it does once they are read.
class Calls {
  public:
    Calls();
    int run(int argc, char** argv);

  private:
    CLI::App app_{"Needlegauge: electric field along medium-voltage cable accessories. A design aid: it does "
                  "not replace a type test."};
    cli::CallList calls_;

    void add_solve();
    void add_designs();
    void add_schedules();
    void add_work();
    void add_revisions();
    void add_faults();
    void add_studies();
    void add_bodies();
    CLI::App* add(const char* name, const char* words, std::function<int()> act) {
        auto* call = app_.add_subcommand(name, words);
        calls_.emplace_back(call, std::move(act));
        return call;
    }
    /// A call that wants the library.
    template <class Arguments>
    CLI::App* add(const char* name, const char* words, const std::shared_ptr<Arguments>& arguments,
                  int (*act)(const Arguments&, const Library&)) {
        return add(name, words, [arguments, act] {
            const auto library = load_library(data_folder());
            return library ? act(*arguments, *library) : complain(library.error());
        });
    }
};

void Calls::add_solve() {
    const auto a = std::make_shared<cli::SolveArguments>();
    auto* call = add("solve", "Solve any section file", [a] { return cli::run_solve(*a); });
    call->add_option("file", a->file, "section file (.ngsection)")->required();
    call->add_option("--goal", a->goal, "relative error wanted at paths and edges, such as 1%");
    call->add_option("--csv", a->csv, "folder for one CSV file per path");
    add_output(call, "--vtu", a->vtu, "file for a field viewer");
    call->add_option("--analysis", a->analysis,
                     "instead of the file's: capacitive, complex, nonlinear, impulse, dc");
    call->add_option("--frequencies", a->frequencies,
                     "several frequencies on one mesh, such as 0.1,60,250e3");
    call->add_flag("--capacitance", a->capacitance, "with the capacitance matrix");
    call->add_flag("--json", a->json, "print the result as JSON");
}

void Calls::add_designs() {
    const auto a = std::make_shared<cli::DesignArguments>();
    auto* check = add("check", "Judge the designs of a job", a, cli::run_check);
    check->add_option("job", a->job, "job file (.ngjob)")->required();
    check->add_option("--design", a->design, "one design only");
    check->add_option("--duty", a->duty, "another standard and class, such as ieee404:25");
    check->add_flag("--service-only", a->service_only, "the checks at U0 and extinction, no test schedule");
    check->add_flag("--json", a->json, "print the result as JSON");
    auto* section = add("section", "Print the section file of a design", a, cli::run_section);
    add("schema", "Print the JSON Schema of section files", [] {
        std::cout << schema_of(section_fields(), "Needlegauge section").dump(1) << '\n';
        return exit_holds;
    });
    auto* families = add(
        "families", "List accessory families and their parameters", a,
        +[](const cli::DesignArguments& arguments, const Library& library) {
            return cli::run_families(arguments.json, library);
        });
    families->add_flag("--json", a->json, "All parameters, as JSON");
    auto* render = add("render", "Picture of section and field", a, cli::run_render);
    for (auto* call : {check, section, render})
        call->add_flag("--with-faults", a->with_faults, "with the faults that the job has on it");
    for (auto* call : {section, render}) {
        call->add_option("job", a->job, "job file (.ngjob)")->required();
        call->add_option("--design", a->design, "id of the design")->required();
    }
    add_output(render, "--png", a->png, "file to write")->required()->check([](const std::string& name) {
        return name.size() > 4 && name.substr(name.size() - 4) == ".png"
                   ? std::string()
                   : std::string("a picture is written as PNG: give a name that ends in .png");
    });
    render->add_option("--width", a->width, "pixels")->check(CLI::Range(200, 8000));
    render->add_option("--height", a->height, "pixels")->check(CLI::Range(150, 8000));
}

void Calls::add_schedules() {
    const auto packs = std::make_shared<cli::StandardsArguments>();
    auto* standards =
        add("standards", "List test levels, or check a standards pack", packs, cli::run_standards);
    standards->add_option("--check", packs->file, "a pack to be checked and listed");
    standards->add_flag("--json", packs->json, "print the packs as JSON");
    const auto two = std::make_shared<cli::CompareArguments>();
    auto* compare = add("compare", "Two schedules side by side", two, cli::run_compare);
    compare->add_option("job", two->job, "job file (.ngjob)")->required();
    compare->add_option("--design", two->design, "side A; ID@A: as revision A froze it")->required();
    compare->add_option("--with", two->with, "design of side B; the same if none");
    compare->add_option("--duty", two->duty, "duty of A, such as ieee48:15; the design's own if none");
    compare->add_option("--with-duty", two->with_duty, "duty of B");
    compare->add_flag("--csv", two->csv, "print as CSV");
    compare->add_flag("--with-faults", two->with_faults, "side A with the faults that the job has on it");
    const auto what = std::make_shared<cli::WhyArguments>();
    auto* why = add("why", "What a check hangs on, by solving", what, cli::run_why);
    why->add_option("job", what->job, "job file (.ngjob)")->required();
    why->add_option("--design", what->design, "id of the design")->required();
    why->add_option("--check", what->check, "id of the check")->required();
    why->add_flag("--json", what->json, "print as JSON");
    why->add_flag("--with-faults", what->with_faults, "with the faults that the job has on it");
}

void Calls::add_work() {
    const auto a = std::make_shared<cli::WorkArguments>();
    auto* marks = add("marks", "Cut marks of a design from one datum", a, cli::run_marks);
    print_as(marks, a);
    auto* strip = add("template", "Full-size template to wrap round the cable", a, cli::run_template);
    add_output(strip, "--pdf", a->pdf, "sheets of paper");
    add_output(strip, "--svg", a->svg, "one drawing");
    add_output(strip, "--dxf", a->dxf, "one drawing");
    strip->add_option("--paper", a->paper, "A4 or Letter");
    auto* sheet = add("sheet", "Work sheet with hold points", a, cli::run_sheet);
    sheet->add_flag("--large", a->large_print, "large print for the field");
    sheet->add_flag("--not-judged", a->not_judged,
                    "do not solve the design: the sheet then says that it is not judged");
    sheet->add_flag("--critical-sizes", a->critical_sizes,
                    "look for the smallest fault that hurts and print it where it is looked for");
    auto* report = add("report", "Engineering report of a job", a, cli::run_report);
    report->add_option("job", a->job, "job file (.ngjob)")->required();
    report->add_option("--design", a->design, "one design only");
    report->add_option("--date", a->date, "as it is to be printed; today if none");
    for (auto* call : {sheet, report}) {
        call->add_flag("--with-faults", a->with_faults, "with the faults that the job has on it");
        add_output(call, "--pdf", a->pdf, "printed");
        add_output(call, "--html", a->html, "one file, pictures within");
    }
    for (auto* call : {marks, strip, sheet}) {
        call->add_option("job", a->job, "job file (.ngjob)")->required();
        call->add_option("--design", a->design, "id of the design; ID@A: as revision A froze it")->required();
        call->add_option("--datum", a->datum, "what distances count from; the design's own if none");
    }
}

void Calls::add_revisions() {
    const auto a = std::make_shared<cli::ReviseArguments>();
    auto* revise = add("revise", "Freeze a design as its next revision, in the job file", a, cli::run_revise);
    revise->add_option("--by", a->by, "role or initials of who freezes it")->required();
    revise->add_option("--why", a->why, "the reason")->required();
    revise->add_option("--on", a->on, "date; today if none");
    auto* list = add("revisions", "Revisions of a design and what each changed", a, cli::run_revisions);
    list->add_flag("--json", a->json, "print as JSON");
    for (auto* call : {revise, list}) {
        call->add_option("job", a->job, "job file (.ngjob)")->required();
        call->add_option("--design", a->design, "id of the design")->required();
    }
}

void Calls::add_studies() {
    const cli::CallGroup study(app_, calls_, "study",
                               "Thousands of builds of one design: tolerances, effects, windows");
    const auto of_design = [](CLI::App* one, const std::shared_ptr<cli::StudyArguments>& a) {
        one->add_option("job", a->job, "job file (.ngjob)")->required();
        one->add_option("--design", a->design, "id of the design; that of the plan if none");
        one->add_option(
            "--plan", a->plan,
            "what varies and how, as “study plan” prints it; the design's own and the usual if none");
        one->add_option("--samples", a->samples, "16 times a power of two is best; of effects: blocks");
        one->add_option("--seed", a->seed, "of the scrambling");
        one->add_flag("--with-faults", a->with_faults, "with the faults that the job has on it");
    };
    for (const char* kind : {"tolerance", "effects"}) {
        const auto a = std::make_shared<cli::StudyArguments>();
        a->what = kind;
        auto* rows =
            study.add(kind,
                      kind == std::string("effects") ? "Rows from which main and total effects are read"
                                                     : "Rows of builds within their tolerances",
                      a, cli::run_study);
        of_design(rows, a);
        rows->add_option("--shard", a->shard, "i/n, i from 0");
        add_output(rows, "--out", a->out, "file of rows; goes on where it stopped; standard output if none");
        rows->add_option("--threads", a->threads, "all if none");
    }
    const auto plan = std::make_shared<cli::StudyArguments>();
    plan->what = "tolerance";
    of_design(study.add("plan", "Print what varies and how, to be changed", plan, cli::run_study_plan), plan);
    const auto win = std::make_shared<cli::StudyArguments>();
    win->what = "tolerance";
    auto* windows = study.add("windows", "How far each mark may lie off before a check falls short", win,
                              cli::run_study_windows);
    of_design(windows, win);
    windows->add_option("--others", win->others,
                        "so many draws of all the others at once; as designed if none");
    windows->add_flag("--json", win->json, "print as JSON");
    const auto range = std::make_shared<cli::StudyArguments>();
    auto* map = study.add("range", "The kit over cables of other diameters and thicknesses", range,
                          cli::run_study_range);
    map->add_option("job", range->job, "job file (.ngjob)")->required();
    map->add_option("--design", range->design, "id of the design")->required();
    map->add_option("--diameter", range->diameter, "over the insulation, lowest:highest");
    map->add_option("--thickness", range->thickness, "of the insulation, lowest:highest");
    map->add_option("--cells", range->cells, "each way");
    map->add_flag("--corners", range->corners, "each cable at the corners of the usual tolerances too");
    add_output(map, "--svg", range->svg, "drawing to write");
    print_as(map, range);
    const auto scan = std::make_shared<cli::FaultArguments>();
    scan->scan = true;
    auto* faults =
        study.add("faults", "Every kind of fault: the size that hurts beside the one that hands find", scan,
                  cli::run_faults);
    faults->add_option("job", scan->job, "job file (.ngjob)")->required();
    faults->add_option("--design", scan->design, "id of the design")->required();
    print_as(faults, scan);
    const auto classes = std::make_shared<cli::StudyArguments>();
    auto* duty = study.add("duty", "The design at every class of the standards: the highest that holds",
                           classes, cli::run_study_duty);
    duty->add_option("job", classes->job, "job file (.ngjob)")->required();
    duty->add_option("--design", classes->design, "id of the design")->required();
    add_output(duty, "--svg", classes->svg, "drawing to write");
    print_as(duty, classes);
    const auto corner = std::make_shared<cli::StudyArguments>();
    corner->what = "tolerance";
    auto* worst = study.add("worst", "The worst combination of tolerances", corner, cli::run_study_worst);
    of_design(worst, corner);
    worst->add_option("--solves", corner->most_solves, "builds to judge at the most");
    add_output(worst, "--out", corner->out, "job file to write, with the design as found worst");
    worst->add_flag("--json", corner->json, "print as JSON");
    const auto single = std::make_shared<cli::StudyArguments>();
    single->what = "tolerance";
    auto* swings = study.add("tornado", "Each quantity by itself to both ends of its tolerance", single,
                             cli::run_study_tornado);
    of_design(swings, single);
    add_output(swings, "--svg", single->svg, "drawing to write");
    print_as(swings, single);
    const auto rows = std::make_shared<cli::StudyArguments>();
    auto* merge = study.add("merge", "Rows of all shards in one", rows, cli::run_study_merge);
    auto* summary = study.add("summary", "What the rows say", rows, cli::run_study_summary);
    auto* sample =
        study.add("sample", "Write the job with the design as a row drew it", rows, cli::run_study_sample);
    sample->add_option("job", rows->job, "job file (.ngjob)")->required();
    for (auto* one : {merge, summary, sample})
        one->add_option("rows", rows->files, one == merge ? "files of rows" : "file of rows")->required();
    summary->add_flag("--json", rows->json, "print as JSON");
    add_output(summary, "--svg", rows->svg, "histogram, or bars of effects, to write");
    sample->add_option("--index", rows->index, "of the row")->required();
    add_output(sample, "--out", rows->out, "job file to write")->required();
}

void Calls::add_faults() {
    const auto a = std::make_shared<cli::FaultArguments>();
    auto* call =
        add("faults", "What a fault that hands left does, and what to do about it", a, cli::run_faults);
    call->add_option("job", a->job, "job file (.ngjob)")->required();
    call->add_option("--design", a->design, "id of the design")->required();
    call->add_option("--kind", a->kind, "kind of fault; the design's own faults if none");
    call->add_option("--size", a->size, "its size; the critical one if none");
    call->add_option("--at", a->at, "from the screen edge towards the live end");
    call->add_option("--side", a->side, "A or B of a joint")->check(CLI::IsMember({"A", "B"}));
    call->add_option("--width", a->width, "along the cable");
    call->add_option("--filling", a->filling, "air, grease, mastic or water");
    call->add_option("--sheet", a->sheet, "surface resistance of a film that conducts, ohm per square");
    call->add_flag("--scan", a->scan, "every kind at its usual place, with its critical size");
    call->add_flag("--fits", a->fits, "which kinds can be on this design, and why others cannot");
    call->add_flag("--elsewhere", a->elsewhere, "the same fault on the job's other designs: other schools");
    call->add_flag("--no-critical", a->no_critical, "judge the size given only");
    print_as(call, a);
}

void Calls::add_bodies() {
    const auto a = std::make_shared<cli::BodyArguments>();
    auto* call = add("import-body", "A moulded body from a DXF drawing", [a] { return cli::run_body(*a); });
    call->add_option("drawing", a->drawing, "drawing (DXF)")->required();
    call->add_flag("--list", a->list, "print its layers with their closed profiles");
    call->add_option("--role", a->roles,
                     "what is drawn on a layer, such as BODY=\"insulating body\"; again for each")
        ->take_all();
    call->add_option("--unit", a->unit, "mm or inch, where the drawing does not say");
    call->add_option("--axis", a->axis, "of the drawing on which the cable's axis lies: x or y");
    call->add_option("--id", a->id, "of the body; from the file's name if none");
    call->add_option("--title", a->title, "for people");
    call->add_option("--job", a->job, "job file that it is put into (.ngjob)");
    add_output(call, "--out", a->out, "file to write: a body (.ngbody), or with --job another job file");
}

Calls::Calls() {
    app_.require_subcommand(1);
    app_.footer(cli::exit_code_table());
    app_.set_version_flag("--version", [] { // program and data: figures hang on both
        const auto library = load_library(data_folder());
        return fmt::format("needlegauge-cli {}\ndata {}", program_version(),
                           library ? library->version : "not found");
    });
    add_solve();
    add_designs();
    add_schedules();
    add_work();
    add_revisions();
    add_faults();
    add_studies();
    add_bodies();
    cli::add_record_calls(app_, calls_);
    cli::add_train_calls(app_, calls_);
}

int Calls::run(int argc, char** argv) {
    try {
        app_.parse(argc, argv);
    } catch (const CLI::Success& wanted) { // --help, --version
        app_.exit(wanted);
        return exit_holds;
    } catch (const CLI::ParseError& error) {
        return complain({"command line", error.what(), "See needlegauge-cli --help"});
    }
    for (const auto& [call, act] : calls_)
        if (*call) {
            for (const auto* option : call->get_options())
                if (option->get_type_name() == cli::output_file)
                    for (const auto& path : option->results())
                        if (auto ok = check_output(path); !ok) return complain(ok.error());
            return act();
        }
    return exit_internal;
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
        return finish_output(Calls().run(argc, argv));
    } catch (const std::exception& error) {
        fmt::print(stderr, "Internal error: {}\n", one_line(error.what()));
        return exit_internal;
    }
}
