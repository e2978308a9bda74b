// SQLite files of ours: known by their number before anything in them runs, and their troubles in words.
#pragma once
#include "units/result.h"
#include <cstdint>
#include <filesystem>
#include <memory>
#include <vector>

namespace SQLite {
class Database;
class Exception;
} // namespace SQLite

namespace ng {

struct DatabaseFormat {
    std::int64_t application_id = 0;
    int version = 1;    ///< that is written
    int oldest = 1;     ///< that is still opened
    std::string what;   ///< "record": what a foreign file is not
    std::string remedy; ///< "Give the record of a job (.nglog)"
};

/// What went wrong with a file, in words, with what to do about it.
InputError database_trouble(const std::filesystem::path& path, const SQLite::Exception& e);
/// SQLite says that the file is damaged, or no database.
bool is_damage(const SQLite::Exception& e);

/// Whether the file and its folder may be written: by its permissions, even to root.
bool may_write_database(const std::filesystem::path& path);

/// Every commit on the disk when it returns, foreign keys held, nothing of its schema trusted; waits 5 s for
/// another program's transaction. To read, nothing is written beside it either. Refuses by the file's name:
/// what is no file, no SQLite file, of another program, of a newer version, damaged (`damaged` says so then).
Result<std::unique_ptr<SQLite::Database>>
open_database(const std::filesystem::path& path, const DatabaseFormat& format, bool to_read, bool& damaged);

/// Marks a file of an older version as one of this, within the transaction that is about to write what the
/// older version does not know: an older program refuses the file from then on.
void raise_version(SQLite::Database& db, const DatabaseFormat& format);

/// A new file of these statements under a name of its own, which is returned; publish_database gives it the
/// one that it is for.
Result<std::filesystem::path> make_database(const std::filesystem::path& path, const DatabaseFormat& format,
                                            const std::vector<std::string>& statements);
/// Gives a file that is closed its name: never over one that is there.
Result<void> publish_database(const std::filesystem::path& made, const std::filesystem::path& path);

} // namespace ng
