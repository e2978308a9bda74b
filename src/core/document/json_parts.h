// Parts of job files that several readers share.
#pragma once
#include "io/json_reader.h"
#include <map>
#include <string>
#include <vector>

namespace ng {

using Keys = std::vector<std::string>;

/// What is left of an object when the known fields are taken out.
nlohmann::json leftover(const nlohmann::json& object, const Keys& known);
/// Puts back what this version does not know.
void add_unknown(nlohmann::ordered_json& out, const nlohmann::json& unknown);
/// The object under a key, all of its values numbers.
std::map<std::string, double> number_map(JsonReader& in, const char* key);

} // namespace ng
