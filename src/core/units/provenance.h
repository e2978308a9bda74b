// Where a number comes from; it travels with the number onto screens and into reports.
#pragma once
#include <optional>
#include <string>
#include <tuple>

namespace ng {

/// `chosen`: set here because no source gives it.
enum class Provenance { from_memory, computed, common_practice, chosen, measured, user, invented };

std::string to_word(Provenance provenance);
/// Unknown words are taken as `from_memory`, the weakest claim.
Provenance provenance_from_word(const std::string& word);

/// A value with its origin and whether a user has confirmed it against their own document.
struct SourcedValue {
    double value = 0;
    std::string unit;
    Provenance provenance = Provenance::from_memory;
    bool verified = false;
    std::string note;             ///< what it is for, or the edition it is meant for
    std::string by = {}, on = {}; ///< who confirmed or replaced it against their own copy, and when

    /// Such as "from memory, verify against your edition".
    std::string origin() const;
};

/// What a user puts in the place of a shipped value, or their word that it is right (no value).
struct Override {
    std::optional<double> value;
    std::string by, on, note; ///< who, when, and which document
    friend bool operator==(const Override&, const Override&) = default;
    auto fields() const { return std::tie(value, by, on, note); }
};
/// The value as it counts with this override.
SourcedValue overridden(SourcedValue value, const Override& change);

} // namespace ng
