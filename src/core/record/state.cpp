#include "record/state.h"
#include "design/revisions.h"
#include "io/digest.h"
#include "io/json_reader.h"
#include "units/quantity.h"
#include "units/text.h"
#include "units/version.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <set>

namespace ng {
namespace {

template <class Row = RecordedRow> Row row_of(const Entry& e) {
    Row row;
    row.number = e.number;
    row.who = e.who;
    row.at = e.at;
    row.instrument = e.instrument;
    row.corrects = e.corrects;
    row.why = e.why;
    row.body = e.body();
    if (!row.body.is_object()) row.body = nlohmann::json::object();
    return row;
}

} // namespace

std::optional<double> RecordedRow::figure(const char* key) const {
    const auto it = body.find(key);
    return it == body.end() || !it->is_number() ? std::nullopt : std::optional(it->get<double>());
}

Side RecordedRow::side() const {
    const auto letter = text("side");
    return letter == "A" ? Side::a : letter == "B" ? Side::b : Side::none;
}

std::optional<bool> RecordedReading::within() const {
    const auto low = figure("lowest"), high = figure("highest");
    if (!low && !high) return std::nullopt;
    constexpr double shown_mm = 1e-6;
    return (!low || value() >= *low - shown_mm) && (!high || value() <= *high + shown_mm);
}

std::string RecordedReading::words() const {
    auto out = fmt::format("{} {:.6g} {}", text("label"), value(), text("unit"));
    const auto low = figure("lowest"), high = figure("highest");
    if (low && high)
        out += fmt::format(" ({:.6g} to {:.6g})", *low, *high);
    else if (low || high)
        out += fmt::format(" (at {} {:.6g})", low ? "least" : "most", low ? *low : *high);
    return out;
}

const RecordedReading* AccessoryRecord::last_of(const std::string& what, const std::string& place,
                                                int core) const {
    for (auto it = readings.rbegin(); it != readings.rend(); ++it)
        if (it->text("what") == what && it->text("place") == place && it->body.value("core", 0) == core)
            return &*it;
    return nullptr;
}

const RecordedHold* AccessoryRecord::hold_of(const std::string& step) const {
    for (auto it = holds.rbegin(); it != holds.rend(); ++it)
        if (it->text("step") == step) return &*it;
    return nullptr;
}

const RecordedSignOff* AccessoryRecord::signed_off(const std::string& closes) const {
    for (auto it = sign_offs.rbegin(); it != sign_offs.rend(); ++it)
        if (it->closes() == closes && it->stands()) return &*it;
    return nullptr;
}

int AccessoryRecord::reworks() const {
    return static_cast<int>(
        std::count_if(holds.begin(), holds.end(), [](const auto& h) { return !h.accepted(); }));
}

std::vector<std::int64_t> accessories_of(const Log& log) {
    std::vector<std::int64_t> out;
    for (const auto& e : log.entries())
        if (e.kind == "accessory" && !e.corrects) out.push_back(e.number);
    return out;
}

Result<AccessoryRecord> record_of(const Log& log, std::int64_t accessory) {
    const auto file = log.path().filename().string();
    const auto* begun = log.find(accessory);
    if (!begun || begun->kind != "accessory" || begun->corrects)
        return refuse(file, fmt::format("row {} begins no accessory", accessory),
                      accessories_of(log).empty()
                          ? "Begin the record of one first"
                          : fmt::format("Give one of: {}", fmt::join(accessories_of(log), ", ")));
    AccessoryRecord out;
    out.number = out.last_row = accessory;
    std::set<std::int64_t> corrected;
    for (const auto& e : log.entries())
        if (e.corrects) corrected.insert(*e.corrects);
    // What describes the accessory may be corrected too; the design that it was begun with may not.
    out.begun = row_of(*begun);
    for (const auto& e : log.entries())
        if (e.kind == "accessory" && e.corrects == accessory) {
            auto later = row_of(e);
            for (const char* key : {"design", "frozen", "sha256"}) later.body[key] = out.begun.body[key];
            out.begun.body = later.body;
        }
    out.design = out.begun.text("design");
    const auto frozen = out.begun.text("frozen");
    if (sha256_hex(frozen) != out.begun.text("sha256"))
        return refuse(file, fmt::format("the design of row {} is not the one that was frozen", accessory),
                      "Verify the record");
    const auto document = parse_json(frozen, file);
    if (!document) return tl::unexpected(document.error());
    auto job = read_job(*document, fmt::format("{}, row {}", file, accessory));
    if (!job) return tl::unexpected(job.error());
    if (!job->find_design(out.design))
        return refuse(file, fmt::format("row {} froze another design", accessory), "Verify the record");
    out.job = std::move(*job);
    for (const auto& e : log.entries()) {
        if (e.accessory != accessory) continue;
        out.last_row = e.number;
        for (auto& s : out.sign_offs) {
            const bool opens = (e.corrects && *e.corrects <= s.body.value("rows", std::int64_t{0})) ||
                               (e.kind == "hold_point" && e.body().value("decision", "") != "accept");
            if (opens && !s.opened_by) s.opened_by = e.number;
        }
        if (corrected.contains(e.number)) continue;
        if (e.kind == "reading") {
            auto row = row_of<RecordedReading>(e);
            if (row.figure("value")) out.readings.push_back(std::move(row));
        } else if (e.kind == "hold_point")
            out.holds.push_back(row_of<RecordedHold>(e));
        else if (e.kind == "sign_off")
            out.sign_offs.push_back(row_of<RecordedSignOff>(e));
        else if (e.kind == "fault")
            out.faults.push_back(row_of(e));
        else if (e.kind == "part")
            out.parts.push_back(row_of(e));
        else if (e.kind == "file")
            out.files.push_back(row_of(e));
        else if (e.kind == "test")
            out.tests.push_back(row_of(e));
        else if (e.kind == "note")
            out.notes.push_back(row_of(e));
    }
    return out;
}

EntryDraft begin_accessory(const Job& job, const Design& design, const Who& who,
                           const nlohmann::json& details) {
    EntryDraft draft;
    draft.kind = "accessory";
    draft.who = who;
    const auto frozen = nlohmann::json(write_job(alone(job, design))).dump();
    draft.body = details;
    draft.body["design"] = design.id;
    draft.body["title"] = design.title;
    draft.body["frozen"] = frozen;
    draft.body["sha256"] = sha256_hex(frozen);
    draft.body["revision"] = revision_words(job, design);
    return draft;
}

std::vector<std::string> open_holds(const AccessoryRecord& record, const WorkSheet& sheet) {
    std::vector<std::string> out;
    for (const auto& step : sheet.steps) {
        if (!step.hold) continue;
        const auto* hold = record.hold_of(step.id);
        if (!hold || !hold->accepted()) out.push_back(step.title);
    }
    return out;
}

const std::vector<std::string>& sign_off_order() {
    static const std::vector<std::string> order{"built", "inspected", "tested", "released"};
    return order;
}

int RecordedSignOff::rules() const {
    return static_cast<int>(figure("rules").value_or(rules_before_versions));
}

Result<EntryDraft> sign_off(const AccessoryRecord& record, const WorkSheet& sheet, const KeptHash& last,
                            const std::string& closes, const Who& who, const std::string& reason) {
    const auto& order = sign_off_order();
    const auto at = std::find(order.begin(), order.end(), closes);
    if (at == order.end())
        return refuse("Sign-off", fmt::format("“{}” is none", one_line(closes)),
                      fmt::format("Give one of: {}", fmt::join(order, ", ")));
    std::vector<std::string> open;
    for (const auto& title : open_holds(record, sheet)) open.push_back("hold point: " + title);
    for (auto before = order.begin(); before != at; ++before)
        if (!record.signed_off(*before)) open.push_back("not signed as " + *before);
    if (closes == "tested" || closes == "released") {
        if (record.tests.empty()) open.push_back("no test is recorded");
        for (const auto& test : record.tests) {
            const bool repeated =
                std::any_of(record.tests.begin(), record.tests.end(), [&](const auto& later) {
                    return later.number > test.number && later.text("test") == test.text("test") &&
                           later.text("result") == "pass";
                });
            if (test.text("result") != "pass" && !repeated)
                open.push_back("test: " + test.text("title") + " " + test.text("result"));
        }
    }
    if (closes == "inspected")
        if (const auto* built = record.signed_off("built"); built && built->who.initials == who.initials)
            open.push_back("inspected by whoever built it");
    if (!open.empty() && trimmed(reason).empty())
        return refuse("Sign-off",
                      fmt::format("{}{}", open.front(),
                                  open.size() > 1 ? fmt::format(", and {} more", open.size() - 1) : ""),
                      "Close what is open, or give the reason why it is signed over");
    EntryDraft draft;
    draft.kind = "sign_off";
    draft.who = who;
    draft.accessory = record.number;
    draft.body = {{"closes", closes}, {"rows", last.rows}, {"hash", last.hash}, {"rules", rules_version}};
    if (!open.empty()) {
        draft.body["open"] = fmt::format("{}", fmt::join(open, "\n"));
        draft.body["reason"] = trimmed(reason);
    }
    return draft;
}

ReadingRange range_of(const CutMark& mark, const CutPlan& plan) {
    if (!mark.accepted)
        return {mark.from_datum_mm - mark.tolerance_mm, mark.from_datum_mm + mark.tolerance_mm,
                "the firm's tolerance"};
    const auto* end = plan.find(MarkKind::cable_end, mark.side);
    const bool grows_to_end = !end || end->from_datum_mm > mark.from_datum_mm;
    const auto& a = *mark.accepted;
    return {mark.from_datum_mm - (grows_to_end ? a.away_mm : a.towards_end_mm),
            mark.from_datum_mm + (grows_to_end ? a.towards_end_mm : a.away_mm), a.origin};
}

EntryDraft mark_reading(const CutMark& mark, const CutPlan& plan, double from_datum_mm, const Who& who,
                        std::int64_t accessory) {
    const auto range = range_of(mark, plan);
    EntryDraft draft;
    draft.kind = "reading";
    draft.who = who;
    draft.accessory = accessory;
    draft.body = {{"what", "mark"},
                  {"place", name_of(mark.place)},
                  {"label", mark.label},
                  {"value", from_datum_mm},
                  {"unit", "mm"},
                  {"datum", name_of(plan.datum)},
                  {"designed", std::round(mark.from_datum_mm * 1e6) / 1e6},
                  {"lowest", std::round(range.lowest * 1e6) / 1e6},
                  {"highest", std::round(range.highest * 1e6) / 1e6},
                  {"whose", range.whose}};
    if (plan.two_sides()) draft.body["side"] = mark.side == CableSide::a ? "A" : "B";
    return draft;
}

} // namespace ng
