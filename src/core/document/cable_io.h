// Cables as job files hold them, and libraries of them (*.json).
#pragma once
#include "cable/cable.h"

namespace ng {

/// Fields of a cable that are known.
const std::vector<std::string>& cable_keys();

/// Refuses by the cable and the field.
Result<Cable> read_cable(const nlohmann::json& value);
nlohmann::ordered_json cable_json(const Cable& cable);

constexpr int cable_library_version = 1;

/// A firm's cables. Refuses foreign and newer files, and by the cable what it cannot be; two of one id too.
Result<std::vector<Cable>> read_cable_library(const nlohmann::json& document, const std::string& file);
nlohmann::ordered_json cable_library_json(const std::vector<Cable>& cables);

} // namespace ng
