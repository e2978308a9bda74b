// Outlines as JSON (docs/section-format.md).
#pragma once
#include "geometry/outline.h"
#include <nlohmann/json.hpp>

namespace ng {

/// Of a list that check_fields() has passed; refuses, as `item`, one that is too short.
Result<Outline> read_outline(const nlohmann::json& list, const std::string& item);
nlohmann::ordered_json outline_json(const Outline& outline);

} // namespace ng
