#include "schedule/wet.h"
#include "geometry/clip.h"
#include <cmath>

namespace ng {
namespace {

constexpr double longest_mitre = 4; // of the film thickness
constexpr double band_length_mm = 8;

/// Without points that leave no room for the film beside them.
std::vector<Point> simplified(const std::vector<Point>& line, double least_mm) {
    std::vector<Point> out;
    for (const auto& p : line) {
        if (!out.empty() && distance(out.back(), p) < 1e-6) continue;
        if (out.size() >= 2) { // straight on: the point between says nothing
            const Point u = out.back() - out[out.size() - 2], v = p - out.back();
            if (std::abs(cross(u, v)) < 1e-9 * length(u) * length(v) && dot(u, v) > 0) out.pop_back();
        }
        out.push_back(p);
    }
    for (std::size_t i = 1; i + 1 < out.size();) { // short pieces of rounded corners become one corner
        if (distance(out[i], out[i + 1]) < least_mm && i + 2 < out.size())
            out.erase(out.begin() + static_cast<std::ptrdiff_t>(i + 1));
        else
            ++i;
    }
    return out;
}

} // namespace

Result<Section> with_wet_film(const BuiltAccessory& built, double ohm_per_square) {
    if (built.leakage_surface.size() < 2)
        return refuse("wet test", "this accessory has no surface in the rain", "Leave the test out");
    if (!(ohm_per_square > 0) || !std::isfinite(ohm_per_square))
        return refuse("wet film", "its surface resistance is not above zero",
                      "Give it in megohms per square");
    Section s = built.section;
    const double t = wet_film_thickness_mm;
    const auto inner = simplified(built.leakage_surface, 2 * t);
    if (inner.size() < 4) return refuse("wet test", "the leakage surface has no length", "Lengthen it");
    const auto outer = beside(inner, t, longest_mitre);
    if (outer.size() < 4)
        return refuse("wet test", "the leakage surface folds so closely that no film runs along it",
                      "Set the sheds further apart");
    Conduction law;
    law.law = "constant";
    law.sigma0_S_per_m = 1 / (ohm_per_square * t * 1e-3);
    law.provenance = "surface resistance of the duty";
    s.materials["wet film"] = {water_eps_r, law, "wet film"};
    auto outline = inner;
    outline.insert(outline.end(), outer.rbegin(), outer.rend());
    s.regions.push_back({name_of(place::wet_film), "wet film", Outline::polygon(outline)});
    // The earthed band that the film drains to, below the surface's lower end.
    const Point foot = inner.front();
    const double wall = inner[1].r > foot.r ? std::min(1.0, 0.5 * (inner[1].r - foot.r)) : 1.0;
    s.electrodes.push_back({name_of(place::earthed_band), 0, false,
                            Outline::polygon({{foot.r, foot.z - band_length_mm},
                                              {foot.r + wall, foot.z - band_length_mm},
                                              {foot.r + wall, foot.z},
                                              {foot.r, foot.z}})});
    // The dry path lies under the film now: its air side has moved out.
    std::erase_if(s.paths, [&](const auto& path) {
        return built.leakage_path && path.name == name_of(*built.leakage_path);
    });
    // Clear of both ends, where the film runs onto metal.
    s.paths.push_back({name_of(place::wet_film), {outer.begin() + 1, outer.end() - 1}, name_of(place::air)});
    s.analysis = s.depends_on_field() ? "nonlinear" : "complex";
    return s;
}

} // namespace ng
