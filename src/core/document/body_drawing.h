// A moulded body as it is drawn: closed profiles in a half plane, each with what it is. From a drawing
// (design/ import_body.h), or from the data that ships.
#pragma once
#include "geometry/outline.h"
#include <nlohmann/json.hpp>
#include <string_view>
#include <tuple>
#include <vector>

namespace ng {

enum class BodyRole { insulating_body, earthed_deflector, inner_electrode, grading_layer, shed };
/// All, in the order in which they lie over one another: electrodes last.
const std::vector<BodyRole>& body_roles();
/// "insulating body", "earthed deflector", "inner electrode", "grading layer", "shed".
const char* role_words(BodyRole role);
std::optional<BodyRole> body_role(std::string_view words);

struct DrawnPart {
    BodyRole role = BodyRole::insulating_body;
    std::string layer; ///< of the drawing that it came from
    Outline outline;   ///< mm: the drawing's axis as z, the distance from it as r
    auto fields() const { return std::tie(role, layer, outline); }
    friend bool operator==(const DrawnPart&, const DrawnPart&) = default;
};

struct BodyDrawing {
    std::string id, title;
    std::string file; ///< that it was read from; for people
    std::vector<DrawnPart> parts;
    nlohmann::json unknown = nlohmann::json::object(); ///< kept on rewrite
    auto fields() const { return std::tie(id, title, file, parts, unknown); }
    friend bool operator==(const BodyDrawing&, const BodyDrawing&) = default;
};

/// Refuses, by part: no insulating body, parts that lie on or beyond the axis, parts that cross themselves.
Result<void> check_drawing(const BodyDrawing& drawing);

} // namespace ng
