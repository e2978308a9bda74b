// What the chain of a log can tell of its rows.
#pragma once
#include "record/entry.h"
#include <filesystem>

namespace ng {

/// The hash of a row that somebody kept elsewhere.
struct KeptHash {
    std::int64_t rows = 0;
    std::string hash;
    /// "41:0a3f...": as reports and exports print it. Refuses anything else.
    static Result<KeptHash> of(const std::string& words);
    std::string words() const { return std::to_string(rows) + ":" + hash; }
};

struct Verification {
    std::vector<std::string> findings; ///< empty: nothing was changed, as far as the chain can tell
    std::vector<std::string> remarks;  ///< such as a clock that was set back
    KeptHash last;
    bool holds() const { return findings.empty(); }
    /// One line: what was found, or what was not and what that does not prove.
    std::string words() const;
};

/// Rows missing, renumbered, changed or out of the chain; with a hash that was kept elsewhere, a cut tail.
/// Adds to findings and remarks, and says the last row.
void check_chain(const std::vector<Entry>& rows, const std::optional<KeptHash>& kept, Verification& out);

/// Files of rows that are gone or were changed.
void check_files(const std::vector<Entry>& rows, const std::filesystem::path& folder, Verification& out);

/// What the first row follows: 64 zeros.
extern const std::string before_first;

} // namespace ng
