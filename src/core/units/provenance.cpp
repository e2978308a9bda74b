#include "units/provenance.h"
#include <array>
#include <utility>

namespace ng {
namespace {
constexpr std::array<std::pair<Provenance, const char*>, 6> words{
    {{Provenance::from_memory, "from-memory"},
     {Provenance::computed, "computed"},
     {Provenance::common_practice, "common-practice"},
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
    return text;
}

} // namespace ng
