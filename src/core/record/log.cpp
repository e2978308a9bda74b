#include "record/log.h"
#include "io/digest.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "record/schema.h"
#include "units/text.h"
#include "units/version.h"
#include <SQLiteCpp/SQLiteCpp.h>
#include <fmt/format.h>
#include <fstream>
#include <random>
#include <sqlite3.h>
#include <sys/stat.h>
#include <unistd.h>

namespace ng {
namespace {

constexpr int wait_ms = 5000; // for another window's row
const std::string before_first(64, '0');

std::string name_of_file(const std::filesystem::path& path) {
    return path.filename().string();
}

/// What went wrong, in words, with what to do about it.
InputError told(const std::filesystem::path& path, const SQLite::Exception& e) {
    const auto file = name_of_file(path);
    switch (e.getErrorCode()) {
    case SQLITE_FULL:
    case SQLITE_IOERR:
        return {file, "it could not be written: the disk is full or does not answer; nothing was added",
                "Make room, and enter it again"};
    case SQLITE_BUSY:
    case SQLITE_LOCKED:
        return {file, "another program holds it", "Wait until that one is done, and enter it again"};
    case SQLITE_READONLY:
    case SQLITE_PERM:
    case SQLITE_CANTOPEN:
        return {file, "it may not be written here; nothing was added",
                "Copy the job and its record to where you may write"};
    case SQLITE_CORRUPT:
    case SQLITE_NOTADB:
        return {file, fmt::format("it is damaged or cut short ({})", e.what()),
                "Nothing was written to it. Put a copy in its place"};
    default:
        return {file, e.what(), "Nothing was added"};
    }
}

void bind_whole(SQLite::Statement& s, int at, const std::optional<std::int64_t>& value) {
    value ? s.bind(at, *value) : s.bind(at);
}

std::optional<std::int64_t> whole_of(const SQLite::Column& column) {
    return column.isNull() ? std::nullopt : std::optional(column.getInt64());
}

constexpr auto columns =
    "number, kind, role, initials, at_utc, at_local, accessory, instrument, corrects, why, "
    "body, previous, hash";

std::vector<Entry> rows_from(SQLite::Database& db, std::int64_t after) {
    std::vector<Entry> out;
    SQLite::Statement read(db, fmt::format("SELECT {} FROM entry WHERE number > ? ORDER BY number", columns));
    read.bind(1, after);
    while (read.executeStep())
        out.push_back({read.getColumn(0).getInt64(),
                       read.getColumn(1).getString(),
                       {read.getColumn(2).getString(), read.getColumn(3).getString()},
                       {read.getColumn(4).getString(), read.getColumn(5).getString()},
                       whole_of(read.getColumn(6)),
                       whole_of(read.getColumn(7)),
                       whole_of(read.getColumn(8)),
                       read.getColumn(9).getString(),
                       read.getColumn(10).getString(),
                       read.getColumn(11).getString(),
                       read.getColumn(12).getString()});
    return out;
}

void set_manners(SQLite::Database& db) {
    db.exec("PRAGMA synchronous = FULL");
    db.exec("PRAGMA foreign_keys = ON");
    db.exec("PRAGMA trusted_schema = OFF");
    db.setBusyTimeout(wait_ms);
}

bool may_write(const std::filesystem::path& path) {
    struct stat info {};
    if (stat(path.c_str(), &info) != 0 || (info.st_mode & 0222) == 0) return false; // even to root
    const auto folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
    return access(path.c_str(), W_OK) == 0 && access(folder.c_str(), W_OK) == 0;
}

/// As what may only be read: where SQLite cannot make the files that its write-ahead log wants, as a file
/// that nobody changes.
std::unique_ptr<SQLite::Database> open_to_read(const std::filesystem::path& path) {
    std::string uri = "file:";
    for (const unsigned char c : std::filesystem::absolute(path).string())
        uri += std::isalnum(c) || c == '/' || c == '-' || c == '_' || c == '.'
                   ? std::string(1, static_cast<char>(c))
                   : fmt::format("%{:02X}", c);
    const bool has_wal = std::filesystem::exists(path.string() + "-wal");
    auto db = std::make_unique<SQLite::Database>(uri + (has_wal ? "?mode=ro" : "?mode=ro&immutable=1"),
                                                 SQLite::OPEN_READONLY | SQLite::OPEN_URI, wait_ms);
    db->exec("PRAGMA trusted_schema = OFF");
    return db;
}

std::string random_id() {
    std::random_device device;
    std::string out;
    for (int i = 0; i < 4; ++i) out += fmt::format("{:08x}", device());
    return out;
}

} // namespace

Result<KeptHash> KeptHash::of(const std::string& words) {
    const auto colon = words.find(':');
    const auto digits = [](std::string_view t, std::string_view of) {
        return !t.empty() && t.find_first_not_of(of) == std::string_view::npos;
    };
    if (colon == std::string::npos || colon > 15 ||
        !digits(std::string_view(words).substr(0, colon), "0123456789") || words.size() != colon + 65 ||
        !digits(std::string_view(words).substr(colon + 1), "0123456789abcdef"))
        return refuse("hash", fmt::format("“{}” is none that a report prints", one_line(words, 80)),
                      "Give the number of rows, a colon and 64 hexadecimal digits");
    return KeptHash{std::stoll(words.substr(0, colon)), words.substr(colon + 1)};
}

struct Log::Impl {
    std::filesystem::path path;
    std::unique_ptr<SQLite::Database> db;
    bool read_only = false, guards_differ = false;
    std::vector<Entry> entries;
    /// A call of SQLite, its trouble in words.
    template <class Act> auto tried(Act act) const -> Result<decltype(act())> {
        try {
            return act();
        } catch (const SQLite::Exception& e) {
            return tl::unexpected(told(path, e));
        }
    }
};

Log::Log(std::unique_ptr<Impl> impl) : impl_(std::move(impl)) {}
Log::Log(Log&&) noexcept = default;
Log& Log::operator=(Log&&) noexcept = default;
Log::~Log() = default;
const std::filesystem::path& Log::path() const {
    return impl_->path;
}
bool Log::is_read_only() const {
    return impl_->read_only;
}
const std::vector<Entry>& Log::entries() const {
    return impl_->entries;
}

std::filesystem::path Log::files_folder() const {
    return impl_->path.string() + ".files";
}

const Entry* Log::find(std::int64_t number) const {
    if (number < 1 || number > static_cast<std::int64_t>(impl_->entries.size())) return nullptr;
    const auto& entry = impl_->entries[static_cast<std::size_t>(number - 1)];
    return entry.number == number ? &entry : nullptr;
}

KeptHash Log::last() const {
    if (impl_->entries.empty()) return {0, before_first};
    return {impl_->entries.back().number, impl_->entries.back().hash};
}

namespace {

EntryDraft first_row(const Who& who, const std::string& job_title) {
    EntryDraft first;
    first.kind = "log";
    first.who = who;
    first.body = {
        {"format", log_format_version}, {"program", made_by()}, {"id", random_id()}, {"job", job_title}};
    return first;
}

} // namespace

Result<Log> Log::create(const std::filesystem::path& path, const Who& who, const std::string& job_title,
                        const TimeStamp& at) {
    return begin(path, first_row(who, job_title), at);
}

Result<Log> Log::begin(const std::filesystem::path& path, const EntryDraft& first, const TimeStamp& at) {
    if (auto ok = check_draft(first); !ok) return tl::unexpected(ok.error());
    if (std::filesystem::exists(path))
        return refuse(name_of_file(path), "there is a file of this name already",
                      "Open that, or give another name");
    auto impl = std::make_unique<Impl>();
    impl->path = path;
    // Made under another name: what stands there under its own has its first row.
    const std::filesystem::path made = path.string() + ".new";
    std::error_code ignored;
    std::filesystem::remove(made, ignored);
    const auto done = impl->tried([&] {
        {
            SQLite::Database db(made.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
            for (const auto& statement : log_schema()) db.exec(statement);
            db.exec(fmt::format("PRAGMA application_id = {}", log_application_id));
            db.exec(fmt::format("PRAGMA user_version = {}", log_format_version));
        }
        return true;
    });
    if (!done) {
        std::filesystem::remove(made, ignored);
        return tl::unexpected(done.error());
    }
    auto fresh = open(made);
    if (!fresh) return tl::unexpected(fresh.error());
    if (auto row = fresh->append(first, at); !row) {
        std::filesystem::remove(made, ignored);
        return tl::unexpected(row.error());
    }
    fresh->impl_.reset(); // its write-ahead log is in the file then
    std::error_code failed;
    std::filesystem::create_hard_link(made, path, failed); // never over one that came meanwhile
    if (failed && !std::filesystem::exists(path)) {
        failed.clear();
        std::filesystem::rename(made, path, failed); // a file system without links
    }
    std::filesystem::remove(made, ignored);
    if (failed)
        return refuse(name_of_file(path), fmt::format("it could not be made ({})", failed.message()),
                      "Give a folder in which you may write");
    return open(path);
}

Result<Log> Log::open(const std::filesystem::path& path) {
    const auto file = name_of_file(path);
    std::error_code failed;
    if (!std::filesystem::is_regular_file(path, failed))
        return refuse(file, std::filesystem::exists(path) ? "it is no file" : "there is no such file",
                      "Give the record of a job (.nglog)");
    {
        std::ifstream in(path, std::ios::binary);
        std::string head(72, '\0');
        if (!in.read(head.data(), static_cast<std::streamsize>(head.size())) ||
            head.compare(0, 15, "SQLite format 3") != 0)
            return refuse(file, "it is no record", "Give the record of a job (.nglog)");
    }
    auto impl = std::make_unique<Impl>();
    impl->path = path;
    impl->read_only = !may_write(path);
    const auto opened = impl->tried([&]() -> Result<void> {
        if (!impl->read_only) {
            impl->db = std::make_unique<SQLite::Database>(path.string(), SQLite::OPEN_READWRITE, wait_ms);
            set_manners(*impl->db);
        } else {
            impl->db = open_to_read(path);
        }
        auto& db = *impl->db;
        if (db.execAndGet("PRAGMA application_id").getInt64() != log_application_id)
            return refuse(file, "it is a database of another program", "Give the record of a job (.nglog)");
        if (const int version = db.execAndGet("PRAGMA user_version").getInt(); version != log_format_version)
            return refuse(
                file, fmt::format("it is of version {}, this program knows {}", version, log_format_version),
                version > log_format_version ? "Open it with a newer version of this program"
                                             : "Give a record that this program wrote");
        if (const auto found = db.execAndGet("PRAGMA quick_check(1)").getString(); found != "ok")
            return refuse(file, fmt::format("it is damaged or cut short ({})", one_line(found, 120)),
                          "Nothing was written to it. Put a copy in its place");
        impl->guards_differ = !schema_differences(db).empty();
        if (impl->guards_differ) impl->read_only = true; // whatever else lies in it shall not run
        if (!impl->read_only) db.exec("PRAGMA journal_mode = WAL");
        impl->entries = rows_from(db, 0);
        return {};
    });
    if (!opened) return tl::unexpected(opened.error());
    if (!*opened) return tl::unexpected(opened->error());
    return Log(std::move(impl));
}

Result<bool> Log::refresh() {
    auto rows = impl_->tried([&] { return rows_from(*impl_->db, last().rows); });
    if (!rows) return tl::unexpected(rows.error());
    for (auto& row : *rows) impl_->entries.push_back(std::move(row));
    return !rows->empty();
}

Result<Entry> Log::append(const EntryDraft& draft, const TimeStamp& at) {
    const auto file = name_of_file(impl_->path);
    if (impl_->read_only)
        return refuse(file,
                      impl_->guards_differ ? "its guards were changed: it may be read, not written"
                                           : "it may only be read; nothing was added",
                      impl_->guards_differ ? "Go on in a new record"
                                           : "Copy the job and its record to where you may write");
    if (auto ok = check_draft(draft); !ok) return tl::unexpected(ok.error());
    Entry entry;
    entry.kind = draft.kind;
    entry.who = {trimmed(draft.who.role), trimmed(draft.who.initials)};
    entry.at = at;
    entry.accessory = draft.accessory;
    entry.instrument = draft.instrument;
    entry.corrects = draft.corrects;
    entry.why = trimmed(draft.why);
    entry.body_text = draft.body.dump();
    const auto written = impl_->tried([&]() -> Result<void> {
        auto& db = *impl_->db;
        SQLite::Transaction transaction(db, SQLite::TransactionBehavior::IMMEDIATE);
        const auto kind_of = [&](std::int64_t number) -> std::pair<std::string, std::optional<std::int64_t>> {
            SQLite::Statement ask(db, "SELECT kind, accessory FROM entry WHERE number = ?");
            ask.bind(1, number);
            if (!ask.executeStep()) return {};
            return {ask.getColumn(0).getString(), whole_of(ask.getColumn(1))};
        };
        if (entry.accessory && kind_of(*entry.accessory).first != "accessory")
            return refuse(file, fmt::format("row {} begins no accessory", *entry.accessory),
                          "Name the row that does");
        if (entry.instrument && kind_of(*entry.instrument).first != "instrument")
            return refuse(file, fmt::format("row {} is no instrument", *entry.instrument),
                          "Name the row that is one");
        if (entry.corrects) {
            const auto [kind, accessory] = kind_of(*entry.corrects);
            if (kind != entry.kind || accessory != entry.accessory || kind == "log")
                return refuse(file,
                              fmt::format("row {} is no {} of this accessory", *entry.corrects,
                                          find_entry_kind(entry.kind)->words),
                              "Name the row that is to be corrected");
        }
        entry.number = 1;
        entry.previous = before_first;
        {
            SQLite::Statement last(db, "SELECT number, hash FROM entry ORDER BY number DESC LIMIT 1");
            if (last.executeStep()) {
                entry.number = last.getColumn(0).getInt64() + 1;
                entry.previous = last.getColumn(1).getString();
            }
        }
        entry.hash = sha256_hex(canonical_bytes(entry));
        SQLite::Statement insert(
            db, fmt::format("INSERT INTO entry ({}) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?)", columns));
        insert.bind(1, entry.number);
        insert.bind(2, entry.kind);
        insert.bind(3, entry.who.role);
        insert.bind(4, entry.who.initials);
        insert.bind(5, entry.at.utc);
        insert.bind(6, entry.at.local);
        bind_whole(insert, 7, entry.accessory);
        bind_whole(insert, 8, entry.instrument);
        bind_whole(insert, 9, entry.corrects);
        insert.bind(10, entry.why);
        insert.bind(11, entry.body_text);
        insert.bind(12, entry.previous);
        insert.bind(13, entry.hash);
        insert.exec();
        transaction.commit();
        return {};
    });
    if (!written) return tl::unexpected(written.error());
    if (!*written) return tl::unexpected(written->error());
    if (auto read = refresh(); !read) return tl::unexpected(read.error());
    return entry;
}

Result<Entry> Log::append_file(const std::filesystem::path& path, const std::string& about,
                               const std::string& step, const Who& who, std::int64_t accessory,
                               const TimeStamp& at) {
    auto bytes = read_file(path);
    if (!bytes) return tl::unexpected(bytes.error());
    EntryDraft draft;
    draft.kind = "file";
    draft.who = who;
    draft.accessory = accessory;
    const auto hash = sha256_hex(*bytes);
    draft.body = {{"name", name_of_file(path)}, {"sha256", hash}, {"bytes", bytes->size()}, {"about", about}};
    if (!step.empty()) draft.body["step"] = step;
    if (auto ok = check_draft(draft); !ok) return tl::unexpected(ok.error());
    if (!impl_->read_only) {
        std::error_code failed;
        std::filesystem::create_directories(files_folder(), failed);
        const auto kept = files_folder() / (hash + path.extension().string());
        if (!std::filesystem::exists(kept))
            if (auto ok = write_output(kept.string(), *bytes); !ok) return tl::unexpected(ok.error());
    }
    return append(draft, at);
}

Verification Log::verify(const std::optional<KeptHash>& kept) const {
    Verification out;
    const auto say = [&](std::string words) { out.findings.push_back(std::move(words)); };
    std::vector<std::string> guards;
    const auto looked = impl_->tried([&] {
        if (const auto found = impl_->db->execAndGet("PRAGMA integrity_check(3)").getString(); found != "ok")
            say("the file is damaged: " + one_line(found, 200));
        guards = schema_differences(*impl_->db);
        return rows_from(*impl_->db, std::numeric_limits<std::int64_t>::min());
    });
    if (!looked) {
        say(looked.error().problem);
        return out;
    }
    std::string previous = before_first, utc;
    std::int64_t expected = 1;
    bool kept_found = false;
    for (const auto& e : *looked) {
        const auto row = fmt::format("row {}", e.number);
        if (e.number != expected) {
            say(expected + 1 == e.number ? fmt::format("row {} is missing", expected)
                                         : fmt::format("rows {} to {} are missing", expected, e.number - 1));
            expected = e.number;
        }
        ++expected;
        if (e.previous != previous) say(row + " does not follow from the row before it");
        if (sha256_hex(canonical_bytes(e)) != e.hash) say(row + " was changed after it was written");
        previous = e.hash;
        if (e.body().empty()) out.remarks.push_back(row + " is of a kind that this version does not know");
        if (e.at.utc < utc)
            out.remarks.push_back(fmt::format(
                "{} was written at {}, before the row above it: the clock was set back", row, e.at.utc));
        utc = e.at.utc;
        if (kept && e.number == kept->rows) {
            kept_found = true;
            if (e.hash != kept->hash) say(row + " has another hash than the one that was kept elsewhere");
        }
        if (e.kind == "file" && e.body().is_object()) {
            const auto body = e.body();
            const auto name = body.value("name", "");
            const auto at = files_folder() /
                            (body.value("sha256", "") + std::filesystem::path(name).extension().string());
            const auto bytes = read_file(at);
            if (!bytes)
                say(fmt::format("{}: its file “{}” is not there", row, one_line(name, 80)));
            else if (sha256_hex(*bytes) != body.value("sha256", ""))
                say(fmt::format("{}: its file “{}” was changed", row, one_line(name, 80)));
        }
    }
    for (auto& difference : guards) say(std::move(difference));
    if (looked->empty()) say("it has no rows");
    if (kept && !kept_found)
        say(fmt::format("it ends at row {}; the hash that was kept elsewhere is of row {}: rows were cut off",
                        expected - 1, kept->rows));
    out.last = {expected - 1, previous};
    return out;
}

std::string Verification::words() const {
    if (!findings.empty())
        return fmt::format("{}{}", findings.front(),
                           findings.size() > 1 ? fmt::format(", and {} more", findings.size() - 1) : "");
    return fmt::format(
        "{} rows, each as it was written. That none was cut off at the end only a hash kept elsewhere can "
        "tell: keep {} in a signed print or an export",
        last.rows, last.words());
}

Result<Verification> verify_log(const std::filesystem::path& path, const std::optional<KeptHash>& kept) {
    const auto log = Log::open(path);
    if (log) return log->verify(kept);
    if (log.error().problem.find("damaged") == std::string::npos) return tl::unexpected(log.error());
    Verification out;
    out.findings.push_back(log.error().problem);
    return out;
}

Result<Log> continue_log(const std::filesystem::path& old, const std::filesystem::path& path,
                         const Who& who) {
    auto from = Log::open(old);
    if (!from) return tl::unexpected(from.error());
    if (const auto found = from->verify(); !found.holds())
        return refuse(name_of_file(old), found.words(), "Go on from a copy that verifies");
    const auto last = from->last();
    const auto head = from->entries().front().body();
    auto first = first_row(who, head.value("job", ""));
    first.body["continues"] = {{"file", name_of_file(old)}, {"hash", last.hash}, {"rows", last.rows}};
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
        return refuse(name_of_file(path), "the files of the old one could not be copied",
                      "Copy its folder by hand");
    return log;
}

std::filesystem::path log_path_of(const std::filesystem::path& job) {
    auto path = job;
    return path.replace_extension(".nglog");
}

} // namespace ng
