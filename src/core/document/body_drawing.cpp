#include "document/body_drawing.h"
#include <algorithm>
#include <fmt/format.h>
#include <numbers>

namespace ng {
namespace {
constexpr std::pair<BodyRole, const char*> roles[] = {{BodyRole::insulating_body, "insulating body"},
                                                      {BodyRole::shed, "shed"},
                                                      {BodyRole::grading_layer, "grading layer"},
                                                      {BodyRole::earthed_deflector, "earthed deflector"},
                                                      {BodyRole::inner_electrode, "inner electrode"}};
constexpr double least_bore_radius_mm = 0.5, largest_radius_mm = 1500, furthest_mm = 10000;
} // namespace

const std::vector<BodyRole>& body_roles() {
    static const std::vector<BodyRole> list = [] {
        std::vector<BodyRole> out;
        for (const auto& [role, words] : roles) out.push_back(role);
        return out;
    }();
    return list;
}

const char* role_words(BodyRole role) {
    return std::find_if(std::begin(roles), std::end(roles), [&](const auto& r) { return r.first == role; })
        ->second;
}

std::optional<BodyRole> body_role(std::string_view words) {
    const auto it =
        std::find_if(std::begin(roles), std::end(roles), [&](const auto& r) { return words == r.second; });
    return it == std::end(roles) ? std::nullopt : std::optional(it->first);
}

Result<void> check_drawing(const BodyDrawing& drawing) {
    const auto item = "drawing " + drawing.title;
    if (std::none_of(drawing.parts.begin(), drawing.parts.end(),
                     [](const auto& p) { return p.role == BodyRole::insulating_body; }))
        return refuse(item, "none of its profiles is the insulating body", "Give one profile that role");
    for (const auto& part : drawing.parts) {
        const auto which = fmt::format("{} on layer {} of {}", role_words(part.role), part.layer, item);
        const auto polygon = polygon_of(part.outline, std::numbers::pi / 24);
        if (polygon.size() < 3) return refuse(which, "it has fewer than three points", "Draw it closed");
        for (const auto& p : polygon)
            if (!(p.r >= least_bore_radius_mm && p.r <= largest_radius_mm && std::abs(p.z) <= furthest_mm))
                return refuse(
                    which,
                    fmt::format("it reaches to a radius of {:g} mm at {:g} mm along the axis", p.r, p.z),
                    "Draw the half above the axis, near its origin, in the right unit; a bore has a radius "
                    "of at "
                    "least 0.5 mm");
        if (const auto crossing = self_crossing(polygon))
            return refuse(
                which,
                fmt::format("it crosses itself near z {:.4g}, r {:.4g} mm", crossing->at.z, crossing->at.r),
                "Remove the crossing");
    }
    return {};
}

} // namespace ng
