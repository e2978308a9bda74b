#include "schedule/limit_for.h"
#include <algorithm>

namespace ng {
namespace {

/// The careful ones of the materials in which the request is read; none: no path of it lies in one that has
/// them.
std::optional<LifeExponents> life_of(const BuiltAccessory& built, const CheckRequest& request) {
    std::optional<LifeExponents> out;
    const auto take = [&](const std::string& region_name) {
        for (const auto& region : built.section.regions) {
            const auto it = built.life.find(region.material);
            if (region.name != region_name || it == built.life.end()) continue;
            if (!out) out = it->second;
            out->least = std::min(out->least, it->second.least);
            out->greatest = std::max(out->greatest, it->second.greatest);
        }
    };
    for (const auto& path : built.section.paths)
        if (std::any_of(request.places.begin(), request.places.end(),
                        [&](const auto& place) { return path.name == name_of(place); }))
            take(path.side);
    return out;
}

} // namespace

std::optional<Limit> limit_for(const PreparedDesign& prepared, const std::string& id,
                               const CheckRequest& request, double duration_s, bool hot) {
    const auto* found = prepared.limits.find(id);
    if (!found) return {};
    auto out = *found;
    const auto life = life_of(prepared.built, request);
    out.value.value = found->value_for(duration_s, life);
    if (life) out.exponents = *life;
    // Nothing bears for longer what it does not bear for minutes.
    if (found->at_duration_s)
        if (const auto* minutes = prepared.limits.find(limit_id(request.limit_id, TestKind::ac_minutes)))
            out.value.value = std::min(out.value.value, minutes->value.value);
    if (hot && out.hot_share) out.value.value *= *out.hot_share;
    return out;
}

} // namespace ng
