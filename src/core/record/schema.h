// What SQLite is told of a log: its table, guards and views; and whether a file still has them.
#pragma once
#include <SQLiteCpp/Database.h>
#include <string>
#include <vector>

namespace ng {

constexpr std::int64_t log_application_id = 0x4E474C47; // "NGLG"

/// Statements that make a new log, in order.
const std::vector<std::string>& log_schema();

/// What differs from that, a line each; empty: nothing.
std::vector<std::string> schema_differences(SQLite::Database& database);

} // namespace ng
