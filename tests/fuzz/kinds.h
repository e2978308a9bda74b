// What comes from outside, kind by kind: whatever the text, it is read or refused by item and remedy, and
// what is read can be written and read again, prepared, planned and coarsely solved, or is refused.
#pragma once
#include <filesystem>
#include <string>
#include <vector>

namespace ng::fuzz {

struct Kind {
    std::string name;
    bool is_json;
    /// Good inputs to begin with.
    std::vector<std::string> seeds;
    /// Reads and does with it what a program does; `deep` also what takes longer. Aborts, having said why,
    /// where something is wrong. Returns whether it was read.
    bool (*take)(const std::string& text, bool deep);
};

/// All of them, with seeds from the data and the section files. Exits with a word where these cannot be read.
const std::vector<Kind>& kinds();
const Kind* find_kind(const std::string& name);

} // namespace ng::fuzz
