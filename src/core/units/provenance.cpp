#include "units/provenance.h"
#include <array>
#include <utility>

namespace ng {
namespace {
constexpr std::array<std::pair<Provenance, const char*>, 7> words{
    {{Provenance::from_memory, "from-memory"},
     {Provenance::computed, "computed"},
     {Provenance::common_practice, "common-practice"},
     {Provenance::chosen, "chosen"},
     {Provenance::measured, "measured"},
     {Provenance::user, "user"},
     {Provenance::invented, "invented"}}};
}

std::string to_word(Provenance provenance) {
    for (const auto& [value, word] : words)
        if (value == provenance) return word;
    return "from-memory";
}

Provenance provenance_from_word(const std::string& word) {
    for (const auto& [value, known] : words)
        if (word == known) return value;
    return Provenance::from_memory;
}

std::string SourcedValue::origin() const {
    std::string text = to_word(provenance);
    for (auto& c : text)
        if (c == '-') c = ' ';
    if (provenance == Provenance::from_memory && !verified)
        text += ", verify against your edition";
    else if (verified)
        text += ", verified";
    if (!by.empty()) text += " by " + by;
    if (!on.empty()) text += ", " + on;
    return text;
}

SourcedValue overridden(SourcedValue value, const Override& change) {
    if (change.value) {
        value.value = *change.value;
        value.provenance = Provenance::user;
    }
    value.verified = true;
    value.by = change.by;
    value.on = change.on;
    if (!change.note.empty()) value.note = change.note;
    return value;
}

} // namespace ng
