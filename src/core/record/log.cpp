#include "record/log.h"
#include "io/database.h"
#include "io/digest.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "record/schema.h"
#include "record/verify.h"
#include "units/text.h"
#include "units/version.h"
#include <SQLiteCpp/SQLiteCpp.h>
#include <fmt/format.h>
#include <random>

namespace ng {
namespace {

const DatabaseFormat log_format{log_application_id, log_format_version, 1, "record",
                                "Give the record of a job (.nglog)"};

std::string name_of_file(const std::filesystem::path& path) {
    return path.filename().string();
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

std::string random_id() {
    std::random_device device;
    std::string out;
    for (int i = 0; i < 4; ++i) out += fmt::format("{:08x}", device());
    return out;
}

} // namespace

struct Log::Impl {
    std::filesystem::path path;
    std::unique_ptr<SQLite::Database> db;
    bool read_only = false, guards_differ = false;
    std::vector<Entry> entries;
    mutable bool damaged = false; ///< SQLite said so
    /// A call of SQLite, its trouble in words.
    template <class Act> auto tried(Act act) const -> Result<decltype(act())> {
        try {
            return act();
        } catch (const SQLite::Exception& e) {
            damaged = damaged || is_damage(e);
            return tl::unexpected(database_trouble(path, e));
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

EntryDraft Log::first_row(const Who& who, const std::string& job_title) {
    EntryDraft first;
    first.kind = "log";
    first.who = who;
    first.body = {
        {"format", log_format_version}, {"program", made_by()}, {"id", random_id()}, {"job", job_title}};
    return first;
}

Result<Log> Log::create(const std::filesystem::path& path, const Who& who, const std::string& job_title,
                        const TimeStamp& at) {
    return begin(path, first_row(who, job_title), at);
}

Result<Log> Log::begin(const std::filesystem::path& path, const EntryDraft& first, const TimeStamp& at) {
    if (auto ok = check_draft(first); !ok) return tl::unexpected(ok.error());
    if (std::filesystem::exists(path))
        return refuse(name_of_file(path), "there is a file of this name already",
                      "Open that, or give another name");
    // Made under another name: what stands there under its own has its first row.
    const auto made = make_database(path, log_format, log_schema());
    if (!made) return tl::unexpected(made.error());
    auto fresh = open(*made);
    if (!fresh) return tl::unexpected(fresh.error());
    if (auto row = fresh->append(first, at); !row) {
        std::error_code ignored;
        std::filesystem::remove(*made, ignored);
        return tl::unexpected(row.error());
    }
    fresh->impl_.reset(); // its write-ahead log is in the file then
    if (auto ok = publish_database(*made, path); !ok) return tl::unexpected(ok.error());
    return open(path);
}

Result<Log> Log::open(const std::filesystem::path& path, Access access) {
    bool damaged = false;
    return opened(path, access, damaged);
}

Result<Log> Log::opened(const std::filesystem::path& path, Access access, bool& damaged) {
    auto impl = std::make_unique<Impl>();
    impl->path = path;
    impl->read_only = access == Access::read || !may_write_database(path);
    auto db = open_database(path, log_format, impl->read_only, damaged);
    if (!db) return tl::unexpected(db.error());
    impl->db = std::move(*db);
    const auto done = impl->tried([&] {
        auto& opened_db = *impl->db;
        impl->guards_differ = !schema_differences(opened_db).empty();
        if (impl->guards_differ) impl->read_only = true; // whatever else lies in it shall not run
        if (!impl->read_only) opened_db.exec("PRAGMA journal_mode = WAL");
        impl->entries = rows_from(opened_db, 0);
        return true;
    });
    damaged = damaged || impl->damaged;
    if (!done) return tl::unexpected(done.error());
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
        raise_version(db, log_format);
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
    std::vector<std::string> guards;
    const auto looked = impl_->tried([&] {
        if (const auto found = impl_->db->execAndGet("PRAGMA integrity_check(3)").getString(); found != "ok")
            out.findings.push_back("the file is damaged: " + one_line(found, 200));
        guards = schema_differences(*impl_->db);
        return rows_from(*impl_->db, std::numeric_limits<std::int64_t>::min());
    });
    if (!looked) {
        out.findings.push_back(looked.error().problem);
        return out;
    }
    check_chain(*looked, kept, out);
    check_files(*looked, files_folder(), out);
    std::move(guards.begin(), guards.end(), std::back_inserter(out.findings));
    return out;
}

Result<Verification> verify_log(const std::filesystem::path& path, const std::optional<KeptHash>& kept) {
    bool damaged = false;
    const auto log = Log::opened(path, Log::Access::read, damaged);
    if (log) return log->verify(kept);
    if (!damaged) return tl::unexpected(log.error());
    Verification out;
    out.findings.push_back(log.error().problem);
    return out;
}

std::filesystem::path log_path_of(const std::filesystem::path& job) {
    auto path = job;
    return path.replace_extension(".nglog");
}

} // namespace ng
