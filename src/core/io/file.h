// Reading and writing whole files. Writing is by temporary file, fsync and rename: a crash at any instant
// leaves the old file or the new one.
#pragma once
#include "units/result.h"
#include <cstdint>
#include <filesystem>
#include <string>

namespace ng {

/// No file above these is read: jobs and sections, tables (kits, connectors, standards, steps).
constexpr std::uintmax_t most_document_bytes = 64u << 20, most_table_bytes = 16u << 20;

/// The content of a regular file. Refuses folders, devices and pipes, and what is larger than `most_bytes`.
Result<std::string> read_file(const std::filesystem::path& path,
                              std::uintmax_t most_bytes = most_document_bytes);

/// Replaces the file that `path` names, through symbolic links, with its permissions and owner kept; a new
/// one gets those that the umask leaves. Files of others and files that may not be written are refused.
/// Devices and pipes are written to as they are. Temporary files that an earlier process left are removed.
Result<void> write_file_safely(const std::filesystem::path& path, const std::string& content);
/// The same, for what somebody asked for by a whole path: a refusal names all of it.
Result<void> write_output(const std::string& path, const std::string& content);

/// What can be said of it before there is anything to write: the refusal that write_output() would end in
/// when the folder is missing or may not be written to, or `path` is a folder. Long work asks first.
Result<void> check_output(const std::string& path);

} // namespace ng
