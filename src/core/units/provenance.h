// Where a number comes from; it travels with the number onto screens and into reports.
#pragma once
#include <string>

namespace ng {

enum class Provenance { from_memory, computed, common_practice, measured, user, invented };

std::string to_word(Provenance provenance);
/// Unknown words are taken as `from_memory`, the weakest claim.
Provenance provenance_from_word(const std::string& word);

/// A value with its origin and whether a user has confirmed it against their own document.
struct SourcedValue {
    double value = 0;
    std::string unit;
    Provenance provenance = Provenance::from_memory;
    bool verified = false;
    std::string note; ///< what it is for, or the edition it is meant for

    /// Such as "from memory, verify against your edition".
    std::string origin() const;
};

} // namespace ng
