#include "kinds.h"
#include "cable/cable.h"
#include "document/drawing_io.h"
#include "field/solve.h"
#include "io/csv.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "plan/sheet.h"
#include "plan/template.h"
#include "record/as_built.h"
#include "record/exchange.h"
#include "record/instrument.h"
#include "record/search.h"
#include "record/site_test.h"
#include "study/study.h"
#include "trainer/train_file.h"
#include "units/quantity.h"
#include "verdict/limits.h"
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <fmt/format.h>
#include <unistd.h>

namespace ng::fuzz {
namespace {

[[noreturn]] void wrong(const char* what, const InputError* error, const std::string& text) {
    std::fprintf(stderr, "%s: %s\n%s\n", what, error ? error->message().c_str() : "",
                 text.substr(0, 4000).c_str());
    std::abort();
}

/// A refusal names the item and the remedy, in one line without control characters.
template <class T> bool stands(const Result<T>& result, const std::string& text) {
    if (result) return true;
    const auto& error = result.error();
    if (error.item.empty() || error.problem.empty() || error.remedy.empty())
        wrong("refused without item, problem or remedy", &error, text);
    const auto message = error.message();
    if (std::any_of(message.begin(), message.end(),
                    [](char c) { return static_cast<unsigned char>(c) < 0x20 || c == 0x7f; }))
        wrong("a refusal of more than one line", &error, text);
    return false;
}

struct Data {
    Library library;
    StepBook book;
    PreparedDesign prepared;
    CutPlan plan;
};
const Data& data() {
    static const Data data = [] {
        auto library = load_library(NEEDLEGAUGE_DATA_DIR);
        if (!library) std::exit((std::fprintf(stderr, "%s\n", library.error().message().c_str()), 2));
        auto book = load_steps(*library);
        auto job = load_job(NEEDLEGAUGE_DATA_DIR "/demo/osprey-point.ngjob");
        if (!book || !job) std::exit(2);
        auto prepared = prepare_design(*job, "causeway", *library);
        auto plan = make_plan(*prepared);
        return Data{std::move(*library), std::move(*book), std::move(*prepared), std::move(*plan)};
    }();
    return data;
}

bool take_section(const std::string& text, bool deep) {
    const auto section = read_section_text(text, "fuzz");
    if (!stands(section, text)) return false;
    const auto again = read_section(write_section(*section));
    if (!again || write_section(*again) != write_section(*section))
        wrong("a section changed on its way", nullptr, text);
    if (!deep) return true;
    SolveOptions options;
    options.coarse = true;
    options.most_unknowns = 40000;
    stands(solve(*section, options), text);
    return true;
}

bool take_job(const std::string& text, bool deep) {
    const auto document = parse_json(text, "fuzz");
    if (!stands(document, text)) return false;
    const auto job = read_job(*document, "fuzz");
    if (!stands(job, text)) return false;
    const auto written = write_job(*job);
    const auto again = read_job(written, "fuzz");
    if (!again) wrong("a written job was refused", &again.error(), text);
    if (write_job(*again).dump() != written.dump()) wrong("a job changed on its way", nullptr, text);
    if (!deep) return true;
    const auto& library = data().library;
    for (const auto& design : job->designs) {
        const auto prepared = prepare_design(*job, design.id, library);
        if (!stands(prepared, text)) continue;
        if (const auto varied = design_plan(*prepared, true); stands(varied, text))
            for (const auto& v : varied->varied)
                for (const double share : {1e-9, 0.5, 1 - 1e-9})
                    if (const double drawn = v.quantile(share);
                        !(drawn >= v.lowest - 1e-6 && drawn <= v.highest + 1e-6))
                        wrong("a draw lies outside its bounds", nullptr, text);
        const auto plan = make_plan(*prepared);
        if (!stands(plan, text)) continue;
        for (const auto& paper : papers()) tile(template_strips(*plan, *prepared), paper);
        stands(make_sheet(*prepared, *plan, data().book, library.connectors, job->step_texts), text);
    }
    return true;
}

bool take_standards(const std::string& text, bool) {
    const auto document = parse_json(text, "fuzz");
    if (!stands(document, text)) return false;
    const auto pack = read_standards_pack(*document);
    if (!stands(pack, text)) return false;
    const auto again = read_standards_pack(write_standards_pack(*pack));
    if (!again) wrong("a written pack was refused", &again.error(), text);
    return true;
}

bool take_steps(const std::string& text, bool deep) {
    const auto document = parse_json(text, "fuzz");
    if (!stands(document, text)) return false;
    const auto book = read_steps(*document);
    if (!stands(book, text)) return false;
    if (deep) stands(make_sheet(data().prepared, data().plan, *book, data().library.connectors, {}), text);
    return true;
}

template <auto read> bool take_table(const std::string& text, bool) {
    const auto document = parse_json(text, "fuzz");
    return stands(document, text) && stands(read(*document), text);
}
bool take_conductors(const std::string& text, bool) {
    const auto document = parse_json(text, "fuzz");
    static const auto insulation =
        *parse_json(*read_file(NEEDLEGAUGE_DATA_DIR "/cables/insulation.json"), "insulation");
    return stands(document, text) && stands(read_cable_tables(*document, insulation), text);
}
bool take_insulation(const std::string& text, bool) {
    const auto document = parse_json(text, "fuzz");
    static const auto conductors =
        *parse_json(*read_file(NEEDLEGAUGE_DATA_DIR "/cables/conductors.json"), "conductors");
    return stands(document, text) && stands(read_cable_tables(conductors, *document), text);
}
bool take_kits(const std::string& text, bool) {
    return stands(read_kit_table(text, "fuzz"), text);
}
bool take_connectors(const std::string& text, bool) {
    return stands(read_connectors(text, "fuzz"), text);
}

/// A length typed: a finite number, the same again when it is printed and read.
bool take_length(const std::string& text, bool) {
    bool read = false;
    for (const auto unit : {LengthUnit::mm, LengthUnit::inch}) {
        const auto length = parse_length_mm(text, unit);
        if (!stands(length, text)) continue;
        if (!std::isfinite(*length)) wrong("a length that is no number", nullptr, text);
        read = true;
    }
    for (const char* suffix : {"", "kV", "%", "°C"}) {
        const auto number = parse_number(text, suffix);
        if (stands(number, text) && !std::isfinite(*number)) wrong("not a number", nullptr, text);
    }
    return read;
}

bool take_drawing(const std::string& text, bool) {
    DxfReadOptions options;
    options.mm_per_unit = text.find("INSUNITS") == std::string::npos ? std::optional(1.0) : std::nullopt;
    const auto read = read_dxf_text(text, "fuzz", options);
    if (!stands(read, text)) return false;
    for (const auto& profile : read->profiles)
        for (const auto& p : polygon_of(profile.outline, 0.1))
            if (!std::isfinite(p.r) || !std::isfinite(p.z))
                wrong("a profile that is not finite", nullptr, text);
    return true;
}
bool take_body(const std::string& text, bool deep) {
    const auto document = parse_json(text, "fuzz");
    if (!stands(document, text)) return false;
    const auto drawing = read_drawing(*document, "fuzz");
    if (!stands(drawing, text)) return false;
    const auto again = read_drawing(drawing_json(*drawing), "fuzz");
    if (!again || drawing_json(*again).dump() != drawing_json(*drawing).dump())
        wrong("a drawing changed on its way", again ? nullptr : &again.error(), text);
    if (!deep) return true;
    auto job = new_job();
    job.designs[0].family = "drawn_body";
    job.drawings = {*drawing};
    stands(prepare_design(job, job.designs[0].id, data().library), text);
    return true;
}

/// The bytes of a log: opened, verified, folded, built; never written to.
bool take_log(const std::string& text, bool deep) {
    const auto path = std::filesystem::temp_directory_path() / fmt::format("ng-fuzz-{}.nglog", getpid());
    if (!write_file_safely(path, text)) std::exit(2);
    std::filesystem::permissions(path, std::filesystem::perms::owner_read);
    const auto log = Log::open(path);
    if (stands(verify_log(path), text) && stands(log, text)) {
        log->verify();
        for (const auto& e : log->entries()) words_of(e);
        for (const auto accessory : accessories_of(*log)) {
            const auto record = record_of(*log, accessory);
            if (stands(record, text) && deep) stands(as_built(*record, data().library), text);
        }
        stands(search_logs(path, {}), text);
        stands(trends_of(path, "screen edge", TrendBy::family), text);
    }
    const bool read = log.has_value();
    std::filesystem::remove(path);
    return read;
}
bool take_export(const std::string& text, bool) {
    const auto document = parse_json(text, "fuzz");
    if (!stands(document, text)) return false;
    const auto path =
        std::filesystem::temp_directory_path() / fmt::format("ng-fuzz-{}-import.nglog", getpid());
    std::filesystem::remove(path);
    const auto log = import_log(*document, path, "fuzz");
    const bool read = stands(log, text);
    if (read && !log->verify().holds() && log->verify().words().find("is not there") == std::string::npos)
        wrong("an imported log does not verify", nullptr, text);
    for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(path.string() + end);
    return read;
}
bool take_levels(const std::string& text, bool) {
    const auto document = parse_json(text, "fuzz");
    if (!stands(document, text)) return false;
    const auto levels = read_site_levels(*document, "fuzz");
    if (!stands(levels, text)) return false;
    for (const auto o : {Occasion::installation, Occasion::acceptance, Occasion::maintenance})
        stands(site_tests(data().prepared, o, *levels), text);
    return true;
}
const TrainerData& trainer() {
    static const TrainerData loaded = *load_trainer(data().library);
    return loaded;
}
bool take_means(const std::string& text, bool) {
    const auto document = parse_json(text, "fuzz");
    return stands(document, text) && stands(read_means(*document, "fuzz"), text);
}
bool take_exercise(const std::string& text, bool deep) {
    const auto document = parse_json(text, "fuzz");
    if (!stands(document, text)) return false;
    auto e = read_exercise(*document, "fuzz");
    if (!stands(e, text)) return false;
    if (deep && e->task != Task::inspect) stands(right_answer(*e, trainer()), text);
    return true;
}
bool take_answer(const std::string& text, bool) {
    static const Exercise blade = *new_exercise(new_job(), 2, {1, Task::blade, {}, {}}, trainer());
    const auto document = parse_json(text, "fuzz");
    if (!stands(document, text)) return false;
    const auto answer = read_answer(*document, "fuzz");
    if (!stands(answer, text)) return false;
    stands(score(blade, *answer, trainer()), text);
    return true;
}
/// The bytes of a trainer's file.
bool take_train_file(const std::string& text, bool) {
    const auto path = std::filesystem::temp_directory_path() / fmt::format("ng-fuzz-{}.ngtrain", getpid());
    if (!write_file_safely(path, text)) std::exit(2);
    bool read = false;
    {
        auto file = TrainFile::open(path);
        read = stands(file, text);
        if (read) {
            stands(file->answers(), text);
            stands(file->exams(), text);
            stands(file->trainees(), text);
            stands(score_again(*file, trainer()), text);
        }
    }
    for (const char* end : {"", "-wal", "-shm", "-journal"}) std::filesystem::remove(path.string() + end);
    return read;
}
std::string some_train_file() {
    const auto path =
        std::filesystem::temp_directory_path() / fmt::format("ng-fuzz-{}-own.ngtrain", getpid());
    std::filesystem::remove(path);
    {
        auto file = *TrainFile::create(path);
        const auto e = *new_exercise(new_job(), 2, {1, Task::blade, {}, {}}, trainer());
        const auto right = *right_answer(e, trainer());
        const Who who{"apprentice", "AB"};
        const auto exam = file.begin_exam(who, 2, 3, 1, 20);
        for (const bool scored : {true, false}) {
            const auto points = scored ? score(e, right, trainer()) : Result<Score>(refuse("a", "b", "c"));
            if (!file.keep(who, e, right, trainer(), points, exam->number)) std::exit(2);
        }
    }
    const auto text = *read_file(path);
    std::filesystem::remove(path);
    return text;
}
bool take_trace(const std::string& text, bool) {
    return stands(read_trace(text, "fuzz"), text);
}
bool take_lines(const std::string& text, bool) {
    InstrumentReader reader;
    bool read = false;
    for (const auto& event : reader.take(text)) {
        read |= event.kind == InstrumentEvent::Kind::reading;
        if (!std::isfinite(event.reading.value) || !std::isfinite(event.level))
            wrong("not a number", nullptr, text);
        if (event.kind == InstrumentEvent::Kind::trouble && event.words.empty())
            wrong("trouble without words", nullptr, text);
    }
    return read;
}
std::string demo_export() {
    const auto path = std::filesystem::temp_directory_path() / fmt::format("ng-fuzz-{}-demo.nglog", getpid());
    if (!write_file_safely(path, *read_file(NEEDLEGAUGE_DATA_DIR "/demo/osprey-point.nglog"))) std::exit(2);
    auto document = log_json(*Log::open(path));
    for (auto& entry : document["entries"]) entry.erase("hash"); // else nothing changed gets past it
    for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(path.string() + end);
    return document.dump(1);
}

std::string text_of(const char* name) {
    const auto text = read_file(std::filesystem::path(NEEDLEGAUGE_DATA_DIR) / name);
    if (!text) std::exit((std::fprintf(stderr, "%s\n", text.error().message().c_str()), 2));
    return *text;
}
std::vector<std::string> texts_of(const std::filesystem::path& folder, const char* extension) {
    std::vector<std::filesystem::path> paths;
    for (const auto& entry : std::filesystem::directory_iterator(folder))
        if (entry.path().extension() == extension) paths.push_back(entry.path());
    std::sort(paths.begin(), paths.end());
    std::vector<std::string> texts;
    for (const auto& path : paths) texts.push_back(*read_file(path));
    return texts;
}

/// The demo's first design, with what its quantities vary by.
std::string with_tolerances() {
    auto job = nlohmann::json::parse(text_of("demo/osprey-point.ngjob"));
    auto design = job["designs"][0];
    design["tolerances"] = {
        {"screen_edge_mm",
         {{"law", "normal"},
          {"spread", 0.5},
          {"blunder_share", 0.02},
          {"blunder", 12},
          {"provenance", "us"}}},
        {"edge_radius_mm", {{"law", "lognormal"}, {"spread", 1.5}, {"lowest", 0.05}, {"highest", 0.4}}},
        {"cable insulation_thickness_mm", {{"law", "uniform"}, {"spread", 0.2}}},
        {"jacket_cut_mm", {{"varies", false}}}};
    design["correlated"] = {{{"a", "screen_edge_mm"}, {"b", "edge_radius_mm"}, {"rho", -0.4}}};
    job["designs"] = {design};
    job["open_design"] = design["id"];
    return job.dump();
}

std::vector<std::string> bodies() {
    std::vector<std::string> texts;
    for (const auto& text : texts_of(NEEDLEGAUGE_DATA_DIR "/bodies", ".ngbody"))
        texts.push_back(nlohmann::json::parse(text)["drawing"].dump());
    return texts;
}

} // namespace

const std::vector<Kind>& kinds() {
    static const std::vector<Kind> list = {
        {"section", true, texts_of(NEEDLEGAUGE_REFERENCE_DIR "/sections", ".ngsection"), take_section},
        {"job", true, {text_of("demo/osprey-point.ngjob"), with_tolerances()}, take_job},
        {"standards", true, texts_of(NEEDLEGAUGE_DATA_DIR "/standards", ".json"), take_standards},
        {"steps", true, {text_of("steps/steps.json")}, take_steps},
        {"materials", true, {text_of("materials/materials.json")}, take_table<read_materials>},
        {"limits", true, {text_of("limits/limits.json")}, take_table<read_limits>},
        {"conductors", true, {text_of("cables/conductors.json")}, take_conductors},
        {"insulation", true, {text_of("cables/insulation.json")}, take_insulation},
        {"kits", false, {text_of("kits/kits.csv")}, take_kits},
        {"connectors", false, {text_of("connectors/connectors.csv")}, take_connectors},
        {"drawing", false, texts_of(NEEDLEGAUGE_DATA_DIR "/demo", ".dxf"), take_drawing},
        {"body", true, bodies(), take_body},
        {"log", false, {text_of("demo/osprey-point.nglog")}, take_log},
        {"export", true, {demo_export()}, take_export},
        {"site levels", true, {text_of("tests/site-levels.json")}, take_levels},
        {"means", true, {text_of("trainer/means.json")}, take_means},
        {"exercise",
         true,
         {exercise_json(*new_exercise(new_job(), 2, {1, Task::blade, {}, {}}, trainer()), trainer(), true)
              .dump(1)},
         take_exercise},
        {"answer",
         true,
         {R"({"format": "needlegauge-answer", "version": 1, "seconds": 3, "number": 0.4, "keys": [], "looks": ["eye"],
            "findings": [{"kind": "nick", "side": "A", "from_edge_mm": 2, "decision": "rework"}], "release": false})"},
         take_answer},
        {"train file", false, {some_train_file()}, take_train_file},
        {"trace", false, {"time_s,level,reading\n0,0,0\n1,21,0.2\n"}, take_trace},
        {"instrument",
         false,
         {"!kind=tape serial=T-8 unit=mm u=0.5*00\r\n" + with_sum("=17 185.5 mm low-battery") + "\n" +
          with_sum("~12.0 21.0 kV 0.31 mA") + "\n" + with_sum("^214.5 12.1 pC") + "\n+012.34mm\n"},
         take_lines},
        {"length", false, {"12.5 mm", "1.25in", "10 1/4 in", "25.4"}, take_length},
    };
    return list;
}

const Kind* find_kind(const std::string& name) {
    for (const auto& kind : kinds())
        if (kind.name == name) return &kind;
    return nullptr;
}

} // namespace ng::fuzz
