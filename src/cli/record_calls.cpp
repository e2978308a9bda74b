#include "cli/record_calls.h"
#include "cli/answer.h"
#include "cli/offscreen.h"
#include "draw/record_document.h"
#include "fault/fault.h"
#include "io/csv.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "plan/planned_work.h"
#include "record/as_built.h"
#include "record/exchange.h"
#include "record/search.h"
#include "record/site_test.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>
#include <iostream>

namespace ng::cli {
namespace {

Result<AccessoryRecord> record_in(const Log& log, const RecordArguments& a) {
    const auto all = accessories_of(log);
    return record_of(log, a.accessory ? a.accessory : all.empty() ? 0 : all.back());
}

Result<WorkSheet> sheet_of(const AccessoryRecord& record, const Library& library) {
    const auto book = load_steps(library);
    if (!book) return tl::unexpected(book.error());
    auto work = plan_work(record.job, record.design, library, *book);
    if (!work) return tl::unexpected(work.error());
    return std::move(work->sheet);
}

Result<std::optional<KeptHash>> kept_of(const RecordArguments& a) {
    if (a.kept.empty()) return std::optional<KeptHash>();
    auto kept = KeptHash::of(a.kept);
    if (!kept) return tl::unexpected(kept.error());
    return std::optional(*kept);
}

int written(const std::string& path, const std::string& content) {
    if (path.empty()) {
        std::cout << content;
        return exit_holds;
    }
    if (auto ok = write_output(path, content); !ok) return complain(ok.error());
    return exit_holds;
}

/// The last hash goes with whatever leaves: what a cut tail is found against.
void say_last(const Log& log) {
    fmt::print("{}\n", log.last().words());
}

} // namespace

int run_record_verify(const RecordArguments& a) {
    const auto kept = kept_of(a);
    if (!kept) return complain(kept.error());
    const auto seen = verify_log(a.file, *kept);
    if (!seen) return complain(seen.error());
    if (a.json) {
        std::cout << nlohmann::ordered_json{{"holds", seen->holds()},
                                            {"findings", seen->findings},
                                            {"remarks", seen->remarks},
                                            {"last", seen->last.words()}}
                         .dump(1)
                  << '\n';
    } else if (seen->holds()) {
        fmt::print("{}\n", seen->words());
    }
    for (const auto& finding : seen->findings)
        if (!a.json) fmt::print("{}\n", finding);
    for (const auto& remark : seen->remarks)
        if (!a.json) fmt::print("Remark: {}\n", remark);
    return seen->holds() ? exit_holds : exit_falls_short;
}

int run_record_export(const RecordArguments& a) {
    const auto log = Log::open(a.file, Log::Access::read);
    if (!log) return complain(log.error());
    return written(a.out, a.csv ? log_csv(*log) : log_json(*log).dump(1) + "\n");
}

int run_record_import(const RecordArguments& a) {
    const auto text = read_file(a.file);
    if (!text) return complain(text.error());
    const auto document = parse_json(*text, std::filesystem::path(a.file).filename().string());
    if (!document) return complain(document.error());
    const auto log = import_log(*document, a.out, std::filesystem::path(a.file).filename().string());
    if (!log) return complain(log.error());
    say_last(*log);
    return exit_holds;
}

int run_record_continue(const RecordArguments& a) {
    const auto log = continue_log(a.file, a.out, {a.role, a.initials});
    if (!log) return complain(log.error());
    say_last(*log);
    return exit_holds;
}

int run_record_search(const RecordArguments& a) {
    SearchQuery query{a.words,  a.batch, a.jointer,  a.tool,
                      a.family, a.cable, a.reworked, a.out_of_calibration};
    const auto found = search_logs(a.folder, query);
    if (!found) return complain(found.error());
    if (a.json || a.csv) {
        auto rows = nlohmann::ordered_json::array();
        std::string csv = csv_line({"file", "row", "accessory", "kind", "at", "who", "words"});
        for (const auto& f : found->found) {
            rows.push_back({{"file", f.file},
                            {"row", f.row},
                            {"accessory", f.accessory_title},
                            {"kind", f.kind},
                            {"at", f.at},
                            {"who", f.who},
                            {"words", f.words}});
            csv += csv_line({f.file, std::to_string(f.row), f.accessory_title, f.kind, f.at, f.who, f.words});
        }
        std::cout << (a.csv ? csv
                            : nlohmann::ordered_json{{"found", rows}, {"unread", found->unread}}.dump(1) +
                                  "\n");
    } else {
        for (const auto& f : found->found)
            fmt::print("{}:{}  {}  {}  {}  {}: {}\n", f.file, f.row, f.at, f.who, f.accessory_title, f.kind,
                       f.words);
        fmt::print("{} rows in {} records\n", found->found.size(), found->logs);
    }
    for (const auto& u : found->unread) fmt::print(stderr, "{}\n", u);
    return exit_holds;
}

int run_record_trends(const RecordArguments& a) {
    const auto by = trend_by(a.by);
    if (!by)
        return complain(
            {"--by", fmt::format("“{}” is no grouping", a.by), "Give all, jointer, tool, month or family"});
    const auto trends = trends_of(a.folder, a.mark, *by);
    if (!trends) return complain(trends.error());
    if (a.csv) {
        std::cout << trends_csv(*trends);
    } else {
        for (const auto& t : trends->groups) {
            const auto& c = t.chart;
            fmt::print("{}: {} readings of {}, mean {:+.2f} mm, limits {:+.2f} to {:+.2f}{}; {} beyond; {} "
                       "of {} hold points not "
                       "accepted ({:.0f} %)\n",
                       t.group, c.values.size(), a.mark, c.mean, c.lower, c.upper,
                       c.provisional() ? " (provisional)" : "", c.outside.size(), t.not_accepted, t.holds,
                       100 * t.rework_rate());
        }
    }
    for (const auto& u : trends->unread) fmt::print(stderr, "{}\n", u);
    return exit_holds;
}

int run_record_begin(const RecordArguments& a, const Library& library) {
    const auto job = load_job(a.job);
    if (!job) return complain(job.error());
    const auto* design = job->find_design(a.design);
    if (!design)
        return complain({"design " + a.design, "it is not in the job", "Name one of the job's designs"});
    if (const auto ok = prepare_design(*job, a.design, library); !ok) return complain(ok.error());
    const auto path = a.file.empty() ? log_path_of(a.job) : std::filesystem::path(a.file);
    const Who who{a.role, a.initials};
    auto log = std::filesystem::exists(path) ? Log::open(path) : Log::create(path, who, job->title);
    if (!log) return complain(log.error());
    nlohmann::json details = nlohmann::json::object();
    if (!a.body.empty()) {
        const auto given = parse_json(a.body, "--details");
        if (!given) return complain(given.error());
        if (!given->is_object())
            return complain({"--details", "it is no object", "Give {\"place\": \"...\"}"});
        details = *given;
    }
    const auto row = log->append(begin_accessory(*job, *design, who, details));
    if (!row) return complain(row.error());
    fmt::print("accessory {} begun in {}\n", row->number, path.filename().string());
    say_last(*log);
    return exit_holds;
}

int run_record_add(const RecordArguments& a) {
    auto log = Log::open(a.file);
    if (!log) return complain(log.error());
    const auto body = parse_json(a.body, "--body");
    if (!body) return complain(body.error());
    EntryDraft draft;
    draft.kind = a.kind;
    draft.who = {a.role, a.initials};
    draft.body = *body;
    draft.why = a.why;
    if (a.accessory) draft.accessory = a.accessory;
    if (a.instrument) draft.instrument = a.instrument;
    if (a.corrects) draft.corrects = a.corrects;
    const auto row = log->append(draft);
    if (!row) return complain(row.error());
    fmt::print("row {}\n", row->number);
    say_last(*log);
    return exit_holds;
}

int run_record_show(const RecordArguments& a, const Library& library) {
    const auto log = Log::open(a.file, Log::Access::read);
    if (!log) return complain(log.error());
    const auto record = record_in(*log, a);
    if (!record) return complain(record.error());
    const auto sheet = sheet_of(*record, library);
    if (!sheet) return complain(sheet.error());
    const auto open = open_holds(*record, *sheet);
    const auto judged = judge_as_built(*record, library);
    if (!judged) return complain(judged.error());
    const auto& built = judged->built;
    if (!a.out.empty()) {
        auto job = built.job;
        if (auto ok = save_job(job, a.out); !ok) return complain(ok.error());
    }
    std::optional<StudySummary> study;
    std::string study_words;
    if (a.study) {
        const auto table = vary_unmeasured(*judged, a.study, library, static_cast<int>(usable_threads()));
        if (!table) return complain(table.error());
        study = summarise(*table);
        study_words = unmeasured_words(*table);
    }
    const bool falls = judged->as_built->verdict.status == Status::falls_short;
    if (a.json) {
        nlohmann::ordered_json out{{"accessory", record->number},
                                   {"title", record->begun.text("title")},
                                   {"verdict", judged->words()},
                                   {"status", status_word(judged->as_built->verdict.status)},
                                   {"status_designed", status_word(judged->designed->verdict.status)}};
        for (const auto& m : built.marks)
            out["marks"].push_back({{"place", name_of(m.place)},
                                    {"designed_mm", m.designed_mm},
                                    {"built_mm", m.built_mm},
                                    {"row", m.row}});
        for (const auto& p : judged->pairs()) {
            nlohmann::ordered_json check{{"id", name_of(p.id)}, {"title", p.title}};
            for (const auto& [key, c] :
                 {std::pair{"designed", p.designed}, std::pair{"as_built", p.as_built}})
                if (c)
                    check[key] = {{"value", c->value},
                                  {"limit", c->limit},
                                  {"status", status_word(c->status)},
                                  {"error", c->relative_error}};
            out["checks"].push_back(std::move(check));
        }
        out["differences"] = built.differences;
        out["not_taken"] = built.not_taken;
        out["unmeasured"] = built.unmeasured;
        out["open_hold_points"] = open;
        if (study)
            out["share_that_falls_short"] = {{"share", study->falls_short.share}, {"samples", a.study}};
        std::cout << out.dump(1) << '\n';
        return falls ? exit_falls_short : exit_holds;
    }
    fmt::print("{}: {}\n", record->begun.text("title"), judged->words());
    const auto list = [](const char* title, const std::vector<std::string>& lines) {
        if (!lines.empty()) fmt::print("{}\n", title);
        for (const auto& line : lines) fmt::print("  {}\n", line);
    };
    list("Differs from the design:", built.differences);
    list("Not shown by the section:", built.not_taken);
    list("Not measured, taken as designed:", built.unmeasured);
    list("Open hold points:", open);
    if (study) fmt::print("{}\n", upper_first(study_words));
    for (const auto& s : record->sign_offs)
        fmt::print("{} by {} {}{}\n", s.closes(), s.who.role, s.who.initials,
                   s.stands() ? "" : fmt::format(", opened again by row {}", *s.opened_by));
    return falls ? exit_falls_short : exit_holds;
}

int run_record_report(const RecordArguments& a, const Library& library) {
    if (a.pdf.empty() && a.html.empty())
        return complain({"report", "no file is named", "Give --pdf or --html"});
    const auto log = Log::open(a.file, Log::Access::read);
    if (!log) return complain(log.error());
    const auto record = record_in(*log, a);
    if (!record) return complain(record.error());
    const auto sheet = sheet_of(*record, library);
    if (!sheet) return complain(sheet.error());
    const auto judged = judge_as_built(*record, library);
    std::string study_words;
    if (judged && a.study) {
        const auto table = vary_unmeasured(*judged, a.study, library, static_cast<int>(usable_threads()));
        if (!table) return complain(table.error());
        study_words = upper_first(unmeasured_words(*table)) + ".";
    }
    const auto seen = log->verify();
    const OffscreenGui gui;
    draw::ReportedRecord reported{&*record,
                                  judged ? &*judged : nullptr,
                                  judged ? "" : judged.error().message(),
                                  study_words,
                                  &*log,
                                  &seen,
                                  open_holds(*record, *sheet),
                                  library.version};
    const auto document = draw::record_document(reported);
    if (!a.pdf.empty())
        if (auto ok = document.write_pdf(a.pdf); !ok) return complain(ok.error());
    if (!a.html.empty())
        if (auto ok = document.write_html(a.html); !ok) return complain(ok.error());
    fmt::print("{}\n", seen.last.words());
    return seen.holds() ? exit_holds : exit_falls_short;
}

int run_record_tests(const RecordArguments& a, const Library& library) {
    const auto job = load_job(a.job);
    if (!job) return complain(job.error());
    const auto prepared = prepare_design(*job, a.design, library);
    if (!prepared) return complain(prepared.error());
    const auto occasion = occasion_of(a.occasion);
    if (!occasion)
        return complain({"--occasion", fmt::format("“{}” is none", a.occasion),
                         "Give installation, acceptance or maintenance"});
    auto levels = load_site_levels(library);
    if (!a.file.empty()) {
        const auto text = read_file(a.file, most_table_bytes);
        if (!text) return complain(text.error());
        const auto document = parse_json(*text, a.file);
        if (!document) return complain(document.error());
        levels = read_site_levels(*document, a.file);
    }
    if (!levels) return complain(levels.error());
    const auto tests = site_tests(*prepared, *occasion, *levels);
    if (!tests) return complain(tests.error());
    for (const auto& t : *tests) {
        fmt::print("{}: {}{}; by {}\n", t.title,
                   t.level > 0 ? fmt::format("{} {}", format_figures(t.level, 4), t.unit) : "",
                   t.minutes > 0 ? fmt::format(" for {:g} min", t.minutes) : "", t.limits);
        if (!a.field || !(t.frequency_hz > 0) || t.frequency_hz > 1) continue;
        const auto field = field_at_test(*job, a.design, t, library);
        if (!field) return complain(field.error());
        fmt::print("  field at {:g} kV rms, {:g} Hz beside {:g} Hz:\n", field->voltage_kV, field->test_hz,
                   field->power_hz);
        for (const auto& row : field->rows)
            fmt::print("    {:<44} {:>9} {:>9} {}\n", row.title, format_supported(row.at_test, row.error),
                       format_supported(row.at_power, row.error), row.unit);
    }
    std::vector<std::string> cautions;
    for (const auto& t : *tests)
        for (const auto& caution : t.cautions)
            if (std::find(cautions.begin(), cautions.end(), caution) == cautions.end())
                cautions.push_back(caution);
    for (const auto& caution : cautions) fmt::print("Caution. {}\n", caution);
    return exit_holds;
}

} // namespace ng::cli
