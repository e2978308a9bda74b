// A log as JSON and CSV, and back.
#pragma once
#include "record/log.h"

namespace ng {

/// All rows with their hashes, and the last hash with the number of rows to be kept elsewhere.
nlohmann::ordered_json log_json(const Log& log);
/// One line a row; readings, decisions and results in columns of their own.
std::string log_csv(const Log& log);

/// A new log from such JSON: the rows as they were, with who and when. Where the document has hashes they
/// must come out the same. Refuses by row.
Result<Log> import_log(const nlohmann::json& document, const std::filesystem::path& path,
                       const std::string& file);

/// Goes on from a log in a new file: its first row names the old one's last hash, and the rows keep who and
/// when. The old file stays. Refuses a log that does not verify.
Result<Log> continue_log(const std::filesystem::path& old, const std::filesystem::path& path, const Who& who);

} // namespace ng
