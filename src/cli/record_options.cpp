#include "cli/options.h"
#include "cli/record_calls.h"

namespace ng::cli {

void add_record_calls(CLI::App& parent, CallList& calls) {
    const CallGroup record(parent, calls, "record",
                           "What was built, tested and signed: a log that only grows");
    using Arguments = std::shared_ptr<RecordArguments>;
    const auto fresh = [] { return std::make_shared<RecordArguments>(); };
    const auto log = [](CLI::App* one, const Arguments& a) {
        one->add_option("log", a->file, "record (.nglog)")->required();
    };
    const auto who = [](CLI::App* one, const Arguments& a) {
        one->add_option("--role", a->role, "as what: jointer, inspector, tester")->required();
        one->add_option("--initials", a->initials, "of who writes, never a name")->required();
    };
    auto a = fresh();
    auto* verify =
        record.add("verify", "Whether any row was changed, taken out or cut off", a, run_record_verify);
    log(verify, a);
    verify->add_option("--kept", a->kept, "last hash as a report or an export printed it");
    verify->add_flag("--json", a->json, "print as JSON");
    a = fresh();
    auto* exported = record.add("export", "All rows with their hashes, as JSON or CSV", a, run_record_export);
    log(exported, a);
    add_output(exported, "--out", a->out, "file to write; standard output if none");
    exported->add_flag("--csv", a->csv, "as CSV");
    a = fresh();
    auto* imported = record.add("import", "A new record from an export", a, run_record_import);
    imported->add_option("export", a->file, "export (JSON)")->required();
    add_output(imported, "--out", a->out, "record to make (.nglog)")->required();
    a = fresh();
    auto* longer = record.add("continue", "A new record that goes on from another, by its last hash", a,
                              run_record_continue);
    log(longer, a);
    add_output(longer, "--out", a->out, "record to make (.nglog)")->required();
    who(longer, a);
    a = fresh();
    auto* search = record.add("search", "Rows of all records of a folder", a, run_record_search);
    search->add_option("folder", a->folder, "folder of jobs, or one record")->required();
    search->add_option("--words", a->words, "that must all occur");
    search->add_option("--batch", a->batch, "of kits and parts");
    search->add_option("--jointer", a->jointer, "initials");
    search->add_option("--tool", a->tool, "instrument by kind or number");
    search->add_option("--family", a->family, "of the accessory");
    search->add_option("--cable", a->cable, "drum, or words of the cable");
    search->add_flag("--reworked", a->reworked, "hold points that were not accepted");
    search->add_flag("--out-of-calibration", a->out_of_calibration, "read with an instrument that was due");
    print_as(search, a);
    a = fresh();
    auto* trends = record.add("trends", "Control charts of marks, and how often work was done again", a,
                              run_record_trends);
    trends->add_option("folder", a->folder, "folder of jobs, or one record")->required();
    trends->add_option("--mark", a->mark, "whose readings are charted");
    trends->add_option("--by", a->by, "all, jointer, tool, month or family");
    trends->add_flag("--csv", a->csv, "print as CSV");
    a = fresh();
    auto* begin =
        record.add("begin", "Begin the record of a design: it is frozen, whole", a, run_record_begin);
    begin->add_option("job", a->job, "job file (.ngjob)")->required();
    begin->add_option("--design", a->design, "id of the design")->required();
    begin->add_option("--log", a->file, "record; that beside the job if none");
    begin->add_option("--details", a->body, "place, phase, drum, kit, batch, weather, jointer as JSON");
    who(begin, a);
    a = fresh();
    auto* add_row = record.add("add", "Write one row", a, run_record_add);
    log(add_row, a);
    add_row->add_option("--kind", a->kind, "of docs/record-format.md")->required();
    add_row->add_option("--body", a->body, "fields as JSON")->required();
    add_row->add_option("--accessory", a->accessory, "row that began it");
    add_row->add_option("--instrument", a->instrument, "row that describes it");
    add_row->add_option("--corrects", a->corrects, "row that this one takes the place of");
    add_row->add_option("--why", a->why, "of a correction");
    who(add_row, a);
    a = fresh();
    auto* show =
        record.add("show", "As built beside as designed: marks, checks, what is open", a, run_record_show);
    log(show, a);
    show->add_option("--accessory", a->accessory, "row that began it; the last if none");
    show->add_option("--study", a->study, "so many builds within the tolerances of what was not measured");
    add_output(show, "--out", a->out, "job file to write, with the design as built");
    show->add_flag("--json", a->json, "print as JSON");
    a = fresh();
    auto* report = record.add("report", "As-built report", a, run_record_report);
    log(report, a);
    report->add_option("--accessory", a->accessory, "row that began it; the last if none");
    add_output(report, "--pdf", a->pdf, "printed");
    add_output(report, "--html", a->html, "one file, pictures within");
    report->add_option("--study", a->study,
                       "with so many builds within the tolerances of what was not measured");
    a = fresh();
    auto* tests = record.add("tests", "What is tested on site, at which level", a, run_record_tests);
    tests->add_option("job", a->job, "job file (.ngjob)")->required();
    tests->add_option("--design", a->design, "id of the design")->required();
    tests->add_option("--occasion", a->occasion, "installation, acceptance or maintenance");
    tests->add_option("--levels", a->file, "owner's own levels (JSON)");
    tests->add_flag("--field", a->field, "with the field at the test's own frequency");
}

} // namespace ng::cli
