#include "record/exchange.h"
#include "io/csv.h"
#include "io/json_reader.h"
#include "units/quantity.h"
#include <fmt/format.h>

namespace ng {
namespace {

constexpr auto exchange_format = "needlegauge-record";
constexpr int exchange_version = 1;

} // namespace

nlohmann::ordered_json log_json(const Log& log) {
    nlohmann::ordered_json out{
        {"format", exchange_format}, {"version", exchange_version}, {"last", log.last().words()}};
    out["entries"] = nlohmann::ordered_json::array();
    for (const auto& e : log.entries()) {
        nlohmann::ordered_json row{{"number", e.number}, {"kind", e.kind},
                                   {"role", e.who.role}, {"initials", e.who.initials},
                                   {"at_utc", e.at.utc}, {"at_local", e.at.local}};
        if (e.accessory) row["accessory"] = *e.accessory;
        if (e.instrument) row["instrument"] = *e.instrument;
        if (e.corrects) row["corrects"] = *e.corrects;
        if (!e.why.empty()) row["why"] = e.why;
        row["body"] = e.body();
        row["hash"] = e.hash;
        out["entries"].push_back(std::move(row));
    }
    return out;
}

std::string log_csv(const Log& log) {
    std::vector<std::string> head{"number",   "kind",      "at_utc",   "role",
                                  "initials", "accessory", "corrects", "why"};
    const std::vector<std::string> fields{
        "label", "title",    "words",  "part",    "name",     "check",  "closes", "text",   "side",  "value",
        "unit",  "designed", "lowest", "highest", "decision", "result", "reason", "serial", "batch", "step"};
    auto all = head;
    all.insert(all.end(), fields.begin(), fields.end());
    all.push_back("hash");
    std::string out = csv_line(all);
    const auto number = [](const std::optional<std::int64_t>& n) {
        return n ? std::to_string(*n) : std::string();
    };
    for (const auto& e : log.entries()) {
        const auto body = e.body();
        std::vector<std::string> row{
            std::to_string(e.number), e.kind, e.at.utc, e.who.role, e.who.initials, number(e.accessory),
            number(e.corrects),       e.why};
        for (const auto& key : fields) {
            const auto it = body.find(key);
            row.push_back(it == body.end() ? "" : it->is_string() ? it->get<std::string>() : it->dump());
        }
        row.push_back(e.hash);
        out += csv_line(row);
    }
    return out;
}

Result<Log> import_log(const nlohmann::json& document, const std::filesystem::path& path,
                       const std::string& file) {
    if (auto v = check_format(document, exchange_format, exchange_version, file); !v)
        return tl::unexpected(v.error());
    JsonReader top(document, file);
    const auto& rows = top.array("entries", true);
    if (!top.ok()) return tl::unexpected(*top.error());
    if (rows.empty()) return refuse(file, "it has no entries", "Give an export of a record");
    // Written under another name until it is whole.
    const std::filesystem::path made = path.string() + ".import";
    const auto remove = [&] {
        std::error_code ignored;
        for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(made.string() + end, ignored);
    };
    if (std::filesystem::exists(path))
        return refuse(path.filename().string(), "there is a file of this name already", "Give another name");
    remove();
    std::optional<Log> log;
    std::int64_t expected = 1;
    InputError trouble;
    for (const auto& value : rows) {
        JsonReader in(value, fmt::format("{}, entry {}", file, expected));
        const auto whole = [&](const char* key) -> std::optional<std::int64_t> {
            const auto n = in.optional_number(key);
            return n ? std::optional(static_cast<std::int64_t>(*n)) : std::nullopt;
        };
        EntryDraft draft;
        draft.kind = in.text("kind");
        draft.who = {in.text("role"), in.text("initials")};
        draft.accessory = whole("accessory");
        draft.instrument = whole("instrument");
        draft.corrects = whole("corrects");
        draft.why = in.text_or("why", "");
        draft.body = in.object("body", true);
        const TimeStamp at{in.text("at_utc"), in.text_or("at_local", in.text("at_utc"))};
        const auto hash = in.text_or("hash", "");
        if (const auto number = whole("number"); in.ok() && number && *number != expected)
            in.fail(fmt::format("it is number {}", *number), "Give all entries in their order");
        if (!in.ok()) {
            trouble = *in.error();
            break;
        }
        const auto said = [&](const InputError& e) {
            trouble = {in.item(), e.item + ": " + e.problem,
                       e.remedy.empty() ? "Correct the export" : e.remedy};
        };
        if (expected == 1) {
            if (draft.kind != "log") {
                trouble = {in.item(), "it does not begin a log", "Give an export of a record"};
                break;
            }
            auto made_log = Log::begin(made, draft, at);
            if (!made_log) {
                said(made_log.error());
                break;
            }
            log.emplace(std::move(*made_log));
        } else if (auto row = log->append(draft, at); !row) {
            said(row.error());
            break;
        }
        if (!hash.empty() && log->last().hash != hash) {
            trouble = {in.item(), "its hash does not follow from what it says: the export was changed",
                       "Take it from the log again"};
            break;
        }
        ++expected;
    }
    log.reset();
    if (!trouble.problem.empty()) {
        remove();
        return tl::unexpected(trouble);
    }
    std::error_code failed;
    std::filesystem::rename(made, path, failed);
    if (failed)
        return refuse(path.filename().string(), failed.message(), "Give a folder in which you may write");
    return Log::open(path);
}

Result<Log> continue_log(const std::filesystem::path& old, const std::filesystem::path& path,
                         const Who& who) {
    auto from = Log::open(old, Log::Access::read);
    if (!from) return tl::unexpected(from.error());
    if (const auto found = from->verify(); !found.holds())
        return refuse(old.filename().string(), found.words(), "Go on from a copy that verifies");
    const auto last = from->last();
    const auto head = from->entries().front().body();
    auto first = Log::first_row(who, head.value("job", ""));
    first.body["continues"] = {{"file", old.filename().string()}, {"hash", last.hash}, {"rows", last.rows}};
    auto log = Log::begin(path, first, time_now());
    if (!log) return log;
    for (const auto& e : from->entries()) {
        if (e.number == 1) continue; // the new one has its own
        if (auto row =
                log->append({e.kind, e.who, e.accessory, e.instrument, e.corrects, e.why, e.body()}, e.at);
            !row)
            return tl::unexpected(row.error());
    }
    std::error_code failed;
    if (std::filesystem::exists(from->files_folder()))
        std::filesystem::copy(
            from->files_folder(), log->files_folder(),
            std::filesystem::copy_options::recursive | std::filesystem::copy_options::skip_existing, failed);
    if (failed)
        return refuse(path.filename().string(), "the files of the old one could not be copied",
                      "Copy its folder by hand");
    return log;
}

} // namespace ng
