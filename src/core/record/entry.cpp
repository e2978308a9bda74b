#include "record/entry.h"
#include "units/text.h"
#include <chrono>
#include <ctime>
#include <fmt/format.h>

namespace ng {
namespace {

using Type = FieldSpec::Type;

FieldSpec words(std::string key, std::string meaning, bool required = false) {
    return {.key = std::move(key), .type = Type::text, .meaning = std::move(meaning), .required = required};
}
FieldSpec figure(std::string key, std::string meaning, bool required = false) {
    return {.key = std::move(key), .type = Type::number, .meaning = std::move(meaning), .required = required};
}
FieldSpec whole(std::string key, std::string meaning, bool required = false) {
    return {.key = std::move(key),
            .type = Type::whole,
            .meaning = std::move(meaning),
            .required = required,
            .least = 0,
            .most = 9e15};
}
FieldSpec one_of(std::string key, std::string meaning, std::vector<std::string> choices,
                 bool required = true) {
    return {.key = std::move(key),
            .type = Type::text,
            .meaning = std::move(meaning),
            .required = required,
            .choices = std::move(choices)};
}
FieldSpec of(Type type, std::string key, std::string meaning, const ObjectFields* table,
             bool required = false) {
    return {.key = std::move(key),
            .type = type,
            .meaning = std::move(meaning),
            .required = required,
            .of = table};
}

const ObjectFields continued{"continued log",
                             {words("file", "name of the log that this one goes on from", true),
                              words("hash", "of its last row", true), whole("rows", "that it has", true)}};
const ObjectFields log_fields{"log",
                              {whole("format", "version of the format", true),
                               words("program", "that began it", true),
                               words("id", "of this log: random, once", true),
                               words("job", "its title", true), words("note", "what it is for"),
                               of(Type::object, "continues", "the log that it goes on from", &continued)}};
const ObjectFields accessory_fields{
    "accessory",
    {words("design", "id of the design in its job", true), words("title", "of the design", true),
     words("frozen", "the job with this design only, as it was, as JSON text", true),
     words("sha256", "of those bytes", true), words("revision", "as printed on papers"),
     words("place", "where it stands"), words("phase", "or core"), words("drum", "of the cable"),
     words("drum_b", "of the cable on side B"), words("kit", "its number"), words("batch", "of the kit"),
     words("weather", "as found"), words("jointer", "role and initials of who builds it"),
     words("note", "whatever else")}};
const ObjectFields instrument_fields{
    "instrument",
    {one_of("instrument", "what it is",
            {"caliper", "tape", "rule", "thermometer", "torque wrench", "insulation tester",
             "continuity meter", "withstand set", "partial-discharge meter", "other"}),
     words("serial", "number on it", true), words("calibrated_on", "date, 2026-03-01"),
     words("due_on", "date of its next calibration"), words("unit", "that it reads in"),
     figure("uncertainty", "expanded (k = 2), in its unit"), words("note", "whatever else")}};
const ObjectFields reading_fields{
    "reading",
    {one_of("what", "that is read",
            {"mark", "diameter", "thickness", "temperature", "humidity", "torque", "crimps", "resistance",
             "other"}),
     words("place", "of the mark, or layer of the cable"),
     words("label", "for people", true),
     one_of("side", "of a joint", {"A", "B"}, false),
     whole("core", "1 to 3"),
     words("step", "of the work sheet"),
     figure("value", "in the unit", true),
     words("unit", "", true),
     words("datum", "that a mark is measured from"),
     words("typed", "as it was typed or sent"),
     {.key = "across", .type = Type::boolean, .meaning = "at 90 degrees to the first direction"},
     figure("designed", "what it should be"),
     figure("lowest", "that is accepted"),
     figure("highest", "that is accepted"),
     words("whose", "range that is: the field's, the firm's"),
     figure("uncertainty", "expanded (k = 2)"),
     whole("sequence", "number that the instrument gave it")}};
const ObjectFields hold_fields{
    "hold point",
    {words("step", "of the work sheet", true), words("check", "what is held", true), words("found", "", true),
     one_of("decision", "", {"accept", "rework", "cut_back"}),
     words("against", "the range it was held against"), words("field", "what the field says of it"),
     words("reason", "of the decision")}};
const ObjectFields fault_fields{
    "fault",
    {words("fault", "its kind", true), one_of("side", "", {"A", "B"}, false), figure("size_mm", ""),
     figure("from_edge_mm", "from the screen edge"), figure("width_mm", ""), words("filling", ""),
     figure("sheet_ohm", "of a film, ohm per square"), words("words", "", true),
     words("step", "of the work sheet"), words("means", "how it was found"),
     one_of("decision", "", {"accept", "rework", "cut_back", "open"}), words("reason", "of the decision")}};
const ObjectFields part_fields{"part",
                               {words("part", "", true), words("size", "as printed on the bag"),
                                words("batch", ""), words("expires", "date"), figure("quantity", ""),
                                words("step", "of the work sheet")}};
const ObjectFields file_fields{"file",
                               {words("name", "as it was called", true),
                                words("sha256", "of its bytes", true), whole("bytes", "", true),
                                words("about", "what it shows"), words("step", "of the work sheet")}};
const ObjectFields test_fields{
    "test",
    {words("test", "id of the plan", true), words("title", "", true), words("step", "of the work sheet"),
     words("set", "waveform: AC, VLF 0.1 Hz, DC"), figure("level", "that was asked for"),
     words("unit", "of levels"), figure("frequency_hz", ""), figure("minutes", "that it was held"),
     one_of("result", "", {"pass", "fail", "aborted"}), words("why", "of the result"),
     words("limits", "whose they are", true), figure("reading", "that decides"), words("reading_unit", ""),
     of(Type::rows, "trace", "s and level", nullptr), of(Type::rows, "readings", "s and reading", nullptr),
     of(Type::rows, "pattern", "phase in degrees and pC", nullptr),
     words("field", "what the field says of this test"), words("source", "typed, serial line, or a file")}};
const ObjectFields sign_fields{
    "sign-off",
    {one_of("closes", "", {"built", "inspected", "tested", "released"}),
     whole("rows", "number of the last row that it covers", true), words("hash", "of that row", true),
     whole("rules", "version of the rules that it was judged by; 1 where it is not given"),
     words("open", "what is open, a line each"), words("reason", "why it is signed over that")}};
const ObjectFields note_fields{"note", {words("text", "", true), words("step", "of the work sheet")}};

} // namespace

const std::vector<EntryKind>& entry_kinds() {
    static const std::vector<EntryKind> kinds{{"log", "beginning of the log", &log_fields, false},
                                              {"accessory", "accessory", &accessory_fields, false},
                                              {"instrument", "instrument", &instrument_fields, false},
                                              {"reading", "reading", &reading_fields, true},
                                              {"hold_point", "hold point", &hold_fields, true},
                                              {"fault", "fault", &fault_fields, true},
                                              {"part", "part", &part_fields, true},
                                              {"file", "file", &file_fields, true},
                                              {"test", "test", &test_fields, true},
                                              {"sign_off", "sign-off", &sign_fields, true},
                                              {"note", "note", &note_fields, true}};
    return kinds;
}

const EntryKind* find_entry_kind(const std::string& id) {
    for (const auto& kind : entry_kinds())
        if (kind.id == id) return &kind;
    return nullptr;
}

TimeStamp time_now() {
    const auto now = std::chrono::system_clock::now();
    const auto ms = std::chrono::duration_cast<std::chrono::milliseconds>(now.time_since_epoch()).count();
    const std::time_t s = ms / 1000;
    std::tm utc{}, local{};
    gmtime_r(&s, &utc);
    localtime_r(&s, &local);
    const auto date = [](const std::tm& t) {
        return fmt::format("{:04}-{:02}-{:02}T{:02}:{:02}:{:02}", t.tm_year + 1900, t.tm_mon + 1, t.tm_mday,
                           t.tm_hour, t.tm_min, t.tm_sec);
    };
    const long offset = local.tm_gmtoff / 60;
    return {fmt::format("{}.{:03}Z", date(utc), ms % 1000),
            fmt::format("{}{}{:02}:{:02}", date(local), offset < 0 ? '-' : '+', std::abs(offset) / 60,
                        std::abs(offset) % 60)};
}

std::string canonical_bytes(const Entry& e) {
    std::string out = "needlegauge-log 1,";
    const auto text = [&](const std::string& value) { out += fmt::format("{}:{},", value.size(), value); };
    const auto number = [&](const std::optional<std::int64_t>& value) {
        value ? text(std::to_string(*value)) : void(out += "-,");
    };
    number(e.number);
    text(e.kind);
    text(e.who.role);
    text(e.who.initials);
    text(e.at.utc);
    text(e.at.local);
    number(e.accessory);
    number(e.instrument);
    number(e.corrects);
    text(e.why);
    text(e.body_text);
    text(e.previous);
    return out;
}

nlohmann::json Entry::body() const {
    auto value = nlohmann::json::parse(body_text, nullptr, false);
    const auto* known = find_entry_kind(kind);
    if (!known || !value.is_object() || !check_fields(value, *known->fields, known->words))
        return nlohmann::json::object();
    return value;
}

Result<void> check_draft(const EntryDraft& draft) {
    const auto* kind = find_entry_kind(draft.kind);
    if (!kind)
        return refuse("record", fmt::format("“{}” is no kind of entry", one_line(draft.kind)),
                      "Give one of docs/record-format.md");
    for (const auto& [text, item, remedy] :
         {std::tuple{draft.who.role, "Role", "Say as what you write this: jointer, inspector, tester"},
          std::tuple{draft.who.initials, "Initials", "Give the initials of who did it"}}) {
        if (trimmed(text).empty()) return refuse(item, "nobody is named", remedy);
        if (!is_utf8(text) || text.size() > 40)
            return refuse(item, "it is no short text", "Give up to 40 letters");
    }
    if (kind->of_accessory && !draft.accessory)
        return refuse(kind->words, "it belongs to no accessory", "Begin the record of one first");
    if (draft.corrects && trimmed(draft.why).empty())
        return refuse("Correction", "no reason is given",
                      "Say why row " + std::to_string(*draft.corrects) + " is not right");
    if (!is_utf8(draft.why)) return refuse("Correction", "its reason is no UTF-8", "Type it again");
    return check_fields(draft.body, *kind->fields, kind->words);
}

} // namespace ng
