#include "io/database.h"
#include <SQLiteCpp/SQLiteCpp.h>
#include <fmt/format.h>
#include <fstream>
#include <sqlite3.h>
#include <sys/stat.h>
#include <unistd.h>

namespace ng {
namespace {

constexpr int wait_ms = 5000; // for another window's row

std::string name_of_file(const std::filesystem::path& path) {
    return path.filename().string();
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

} // namespace

InputError database_trouble(const std::filesystem::path& path, const SQLite::Exception& e) {
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
                "Copy it, and what it belongs to, to where you may write"};
    case SQLITE_CORRUPT:
    case SQLITE_NOTADB:
        return {file, fmt::format("it is damaged or cut short ({})", e.what()),
                "Nothing was written to it. Put a copy in its place"};
    default:
        return {file, e.what(), "Nothing was added"};
    }
}

bool is_damage(const SQLite::Exception& e) {
    return e.getErrorCode() == SQLITE_CORRUPT || e.getErrorCode() == SQLITE_NOTADB;
}

bool may_write_database(const std::filesystem::path& path) {
    struct stat info {};
    if (stat(path.c_str(), &info) != 0 || (info.st_mode & 0222) == 0) return false; // even to root
    const auto folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
    return access(path.c_str(), W_OK) == 0 && access(folder.c_str(), W_OK) == 0;
}

Result<std::unique_ptr<SQLite::Database>>
open_database(const std::filesystem::path& path, const DatabaseFormat& format, bool to_read, bool& damaged) {
    const auto file = name_of_file(path);
    std::error_code failed;
    if (!std::filesystem::is_regular_file(path, failed))
        return refuse(file, std::filesystem::exists(path, failed) ? "it is no file" : "there is no such file",
                      format.remedy);
    {
        std::ifstream in(path, std::ios::binary);
        std::string head(72, '\0');
        if (!in.read(head.data(), static_cast<std::streamsize>(head.size())) ||
            head.compare(0, 15, "SQLite format 3") != 0)
            return refuse(file, "it is no " + format.what, format.remedy);
    }
    try {
        std::unique_ptr<SQLite::Database> db;
        if (to_read) {
            db = open_to_read(path);
        } else {
            db = std::make_unique<SQLite::Database>(path.string(), SQLite::OPEN_READWRITE, wait_ms);
            db->exec("PRAGMA synchronous = FULL");
            db->exec("PRAGMA foreign_keys = ON");
            db->exec("PRAGMA trusted_schema = OFF");
        }
        if (db->execAndGet("PRAGMA application_id").getInt64() != format.application_id)
            return refuse(file, "it is a database of another program", format.remedy);
        if (const int version = db->execAndGet("PRAGMA user_version").getInt();
            version < format.oldest || version > format.version)
            return refuse(
                file, fmt::format("it is of version {}, this program knows {}", version, format.version),
                version > format.version ? "Open it with a newer version of this program"
                                         : fmt::format("Give a {} that this program wrote", format.what));
        if (const auto found = db->execAndGet("PRAGMA quick_check(1)").getString(); found != "ok") {
            damaged = true;
            return refuse(file, fmt::format("it is damaged or cut short ({})", one_line(found, 120)),
                          "Nothing was written to it. Put a copy in its place");
        }
        return db;
    } catch (const SQLite::Exception& e) {
        damaged = damaged || is_damage(e);
        return tl::unexpected(database_trouble(path, e));
    }
}

void raise_version(SQLite::Database& db, const DatabaseFormat& format) {
    if (db.execAndGet("PRAGMA user_version").getInt() < format.version)
        db.exec(fmt::format("PRAGMA user_version = {}", format.version));
}

Result<std::filesystem::path> make_database(const std::filesystem::path& path, const DatabaseFormat& format,
                                            const std::vector<std::string>& statements) {
    const std::filesystem::path made = path.string() + ".new";
    std::error_code ignored;
    std::filesystem::remove(made, ignored);
    try {
        SQLite::Database db(made.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
        for (const auto& statement : statements) db.exec(statement);
        db.exec(fmt::format("PRAGMA application_id = {}", format.application_id));
        db.exec(fmt::format("PRAGMA user_version = {}", format.version));
        return made;
    } catch (const SQLite::Exception& e) {
        std::filesystem::remove(made, ignored);
        return tl::unexpected(database_trouble(path, e));
    }
}

Result<void> publish_database(const std::filesystem::path& made, const std::filesystem::path& path) {
    std::error_code failed, ignored;
    std::filesystem::create_hard_link(made, path, failed); // never over one that came meanwhile
    if (failed && !std::filesystem::exists(path, ignored)) {
        failed.clear();
        std::filesystem::rename(made, path, failed); // a file system without links
    }
    std::filesystem::remove(made, ignored);
    if (failed)
        return refuse(name_of_file(path), fmt::format("it could not be made ({})", failed.message()),
                      "Give a folder in which you may write");
    return {};
}

} // namespace ng
