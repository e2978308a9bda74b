// Rows of a record (docs/record-format.md): who wrote what when, with which instrument, and the hash that
// ties each row to the one before it.
#pragma once
#include "io/fields.h"
#include <cstdint>
#include <optional>

namespace ng {

/// Who writes: a role and initials, never a whole name.
struct Who {
    std::string role, initials;
    friend bool operator==(const Who&, const Who&) = default;
};

/// One instant, in both writings.
struct TimeStamp {
    std::string utc;   ///< "2026-11-28T02:31:29.120Z"
    std::string local; ///< "2026-11-28T03:31:29+01:00"
};
/// As the clock of this machine has it; a machine that knows no time zone writes UTC twice.
TimeStamp time_now();

/// What somebody wants to write down.
struct EntryDraft {
    std::string kind; ///< of entry_kinds()
    Who who;
    std::optional<std::int64_t> accessory = {};  ///< number of the row that began it
    std::optional<std::int64_t> instrument = {}; ///< number of the row that describes it
    std::optional<std::int64_t> corrects = {};   ///< number of the row that this one takes the place of
    std::string why = {};                        ///< of a correction
    nlohmann::json body = nlohmann::json::object();
};

/// A row as it stands in the log.
struct Entry {
    std::int64_t number = 0; ///< from 1, without gaps
    std::string kind;
    Who who;
    TimeStamp at;
    std::optional<std::int64_t> accessory, instrument, corrects;
    std::string why;
    std::string body_text; ///< JSON, byte for byte as it was written and hashed
    std::string previous;  ///< hash of the row before; of the first 64 zeros
    std::string hash;

    /// Read; an empty object where it is not what its kind may hold.
    nlohmann::json body() const;
};

/// What is hashed of a row: its fields in one order, each as its length in bytes, a colon, its bytes and a
/// comma (a netstring); an absent one as "-,". `hash` itself is left out.
std::string canonical_bytes(const Entry& entry);

struct EntryKind {
    std::string id;
    std::string words; ///< for people
    const ObjectFields* fields;
    bool of_accessory = false; ///< belongs to one
};
const std::vector<EntryKind>& entry_kinds();
const EntryKind* find_entry_kind(const std::string& id);

/// Refuses by item an unknown kind, fields that its table does not allow, nobody who wrote it, text that is
/// no UTF-8, and a correction without a reason.
Result<void> check_draft(const EntryDraft& draft);

} // namespace ng
