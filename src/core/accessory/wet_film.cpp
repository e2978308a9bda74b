#include "accessory/wet_film.h"
#include "geometry/clip.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

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

Outline WetFilm::outline() const {
    auto points = inner;
    points.insert(points.end(), outer.rbegin(), outer.rend());
    return Outline::polygon(points);
}

Result<WetFilm> wet_film(const BuiltAccessory& built, const std::string& item, double length_mm) {
    if (built.leakage_surface.size() < 2)
        return refuse(item, "this accessory has no surface in the rain", "Leave it out");
    auto line = built.leakage_surface;
    if (std::isfinite(length_mm)) {
        double s = 0;
        std::size_t i = 1;
        for (; i < line.size(); s += distance(line[i - 1], line[i]), ++i)
            if (const double step = distance(line[i - 1], line[i]); s + step >= length_mm) {
                line[i] = line[i - 1] + (length_mm - s) / step * (line[i] - line[i - 1]);
                break;
            }
        if (i == line.size())
            return refuse(item, fmt::format("the surface is {:.0f} mm long", s), "Give a smaller length");
        line.resize(i + 1);
    }
    const double t = wet_film_thickness_mm;
    WetFilm film{simplified(line, 2 * t), {}};
    const std::size_t least = std::isfinite(length_mm) ? 2 : 4;
    if (film.inner.size() < least) return refuse(item, "the leakage surface has no length", "Lengthen it");
    film.outer = beside(film.inner, t, longest_mitre);
    if (film.outer.size() < least)
        return refuse(item, "the leakage surface folds so closely that no film runs along it",
                      "Set the sheds further apart");
    return film;
}

SectionMaterial film_material(double ohm_per_square, double thickness_mm, double eps_r,
                              const std::string& title, const std::string& provenance) {
    Conduction law;
    law.law = "constant";
    law.sigma0_S_per_m = 1 / (ohm_per_square * thickness_mm * 1e-3);
    law.provenance = provenance;
    return {eps_r, law, title};
}

Electrode earthed_band(const WetFilm& film) {
    const Point foot = film.inner.front();
    const double wall = film.inner[1].r > foot.r ? std::min(1.0, 0.5 * (film.inner[1].r - foot.r)) : 1.0;
    return {name_of(place::earthed_band), 0, false,
            Outline::polygon({{foot.r, foot.z - band_length_mm},
                              {foot.r + wall, foot.z - band_length_mm},
                              {foot.r + wall, foot.z},
                              {foot.r, foot.z}})};
}

Result<Section> with_wet_film(const BuiltAccessory& built, double ohm_per_square) {
    if (!(ohm_per_square > 0) || !std::isfinite(ohm_per_square))
        return refuse("wet film", "its surface resistance is not above zero",
                      "Give it in megohms per square");
    const auto film = wet_film(built, "wet test");
    if (!film) return tl::unexpected(film.error());
    Section s = built.section;
    s.materials["wet film"] = film_material(ohm_per_square, wet_film_thickness_mm, water_eps_r, "wet film",
                                            "surface resistance of the duty");
    s.regions.push_back({name_of(place::wet_film), "wet film", film->outline()});
    s.electrodes.push_back(earthed_band(*film));
    // The dry path lies under the film now: its air side has moved out.
    std::erase_if(s.paths, [&](const auto& path) {
        return built.leakage_path && path.name == name_of(*built.leakage_path);
    });
    // Clear of both ends, where the film runs onto metal.
    s.paths.push_back(
        {name_of(place::wet_film), {film->outer.begin() + 1, film->outer.end() - 1}, name_of(place::air)});
    s.analysis = s.depends_on_field() ? Analysis::nonlinear : Analysis::complex;
    return s;
}

} // namespace ng
