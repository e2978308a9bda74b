#include "verdict/leakage.h"
#include "units/quantity.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr double least_shed_mm = 5;
constexpr double widest_shed_mm = 15; // at half its height

Check plain(const std::string& id, const std::string& title, double value, double limit,
            const std::string& unit, bool at_least) {
    Check c;
    c.id = id;
    c.title = title;
    c.value = value;
    c.limit = limit;
    c.unit = unit;
    c.at_least = at_least;
    c.place = place::outer_surface;
    return c;
}

} // namespace

LeakageGeometry measure_leakage(const std::vector<Point>& surface) {
    LeakageGeometry out;
    for (std::size_t i = 0; i + 1 < surface.size(); ++i)
        out.creepage_mm += distance(surface[i], surface[i + 1]);
    // The taut string is the upper convex hull (Andrew's monotone chain) of r over z. At one z the outermost
    // point counts; the ends stay.
    for (const auto& p : surface) {
        auto& s = out.string;
        while (s.size() >= 2) {
            const Point a = s[s.size() - 2], b = s.back();
            if ((b.z - a.z) * (p.r - a.r) - (b.r - a.r) * (p.z - a.z) < 0) break;
            s.pop_back();
        }
        s.push_back(p);
    }
    for (std::size_t i = 0; i + 1 < out.string.size(); ++i)
        out.arc_mm += distance(out.string[i], out.string[i + 1]);
    return out;
}

std::vector<ShedMeasure> find_sheds(const std::vector<Point>& surface) {
    std::vector<ShedMeasure> out;
    if (surface.size() < 3) return out;
    // A shed is a plateau or peak; the body beside it is the lowest radius down to the neighbours.
    std::vector<std::pair<std::size_t, std::size_t>> tips; // first and last point of each rise's top
    for (std::size_t i = 1; i + 1 < surface.size(); ++i) {
        if (!(surface[i].r > surface[i - 1].r + 1e-9)) continue;
        std::size_t j = i;
        while (j + 1 < surface.size() && std::abs(surface[j + 1].r - surface[i].r) < 1e-9) ++j;
        if (j + 1 < surface.size() && surface[j + 1].r < surface[i].r - 1e-9) tips.push_back({i, j});
    }
    for (std::size_t k = 0; k < tips.size(); ++k) {
        const auto [i, j] = tips[k];
        const std::size_t from = k ? tips[k - 1].second : 0,
                          to = k + 1 < tips.size() ? tips[k + 1].first : surface.size() - 1;
        // The end faces themselves are no body: leave the very first and last point out.
        double below = surface[i].r, above = below;
        for (std::size_t x = std::max<std::size_t>(from, 1); x < i; ++x)
            below = std::min(below, surface[x].r);
        for (std::size_t x = j + 1; x <= std::min(to, surface.size() - 2); ++x)
            above = std::min(above, surface[x].r);
        const double overhang = surface[i].r - std::max(below, above);
        if (overhang < least_shed_mm) continue;
        // A shed is narrow: what bulges over a tube or mastic beneath is body.
        const double half = surface[i].r - overhang / 2;
        auto crossing = [&](std::size_t x, std::size_t y) { // z at half height between two points
            const Point a = surface[x], b = surface[y];
            return std::abs(b.r - a.r) < 1e-9 ? a.z : a.z + (b.z - a.z) * (half - a.r) / (b.r - a.r);
        };
        std::size_t lower = i, upper = j;
        while (lower > 0 && surface[lower - 1].r > half) --lower;
        while (upper + 1 < surface.size() && surface[upper + 1].r > half) ++upper;
        const double width = (upper + 1 < surface.size() ? crossing(upper, upper + 1) : surface[upper].z) -
                             (lower > 0 ? crossing(lower, lower - 1) : surface[lower].z);
        if (width > std::max(widest_shed_mm, overhang)) continue;
        out.push_back(
            {(surface[i].z + surface[j].z) / 2, surface[i].r, overhang, surface[i].z, surface[j].z});
    }
    return out;
}

double impulse_clearance_mm(double kV_peak) {
    constexpr std::array<std::pair<double, double>, 8> table{
        {{60, 90}, {75, 120}, {95, 160}, {125, 220}, {145, 270}, {170, 320}, {200, 380}, {250, 480}}};
    if (kV_peak <= table.front().first) return kV_peak * 1.5;
    for (std::size_t i = 1; i < table.size(); ++i)
        if (kV_peak <= table[i].first) {
            const auto [v0, d0] = table[i - 1];
            const auto [v1, d1] = table[i];
            return d0 + (d1 - d0) * (kV_peak - v0) / (v1 - v0);
        }
    return kV_peak * 1.92;
}

std::vector<Check> judge_leakage(const std::vector<Point>& surface, const Duty& duty, double highest_line_kV,
                                 const LimitTable& limits) {
    std::vector<Check> out;
    const auto measured = measure_leakage(surface);
    if (const auto specific = specific_creepage_mm_per_kV(duty.pollution); duty.outdoor && specific) {
        auto c = plain("creepage", "Creepage against pollution, " + duty.pollution, measured.creepage_mm,
                       *specific * highest_line_kV, "mm", true);
        c.limit_origin =
            fmt::format("{:g} mm/kV of {:.3g} kV, IEC 60815 from memory", *specific, highest_line_kV);
        c.protects_against = "flashover along a surface that is polluted and wet";
        c.cure = "Add sheds, lengthen the insulation, or choose the pollution level that the site has";
        out.push_back(std::move(c));
    }
    auto rule = [&](const char* id, const char* title, double value, bool at_least, const char* cure) {
        const auto* limit = limits.find(id);
        if (!limit) return;
        auto c = plain(id, title, value, limit->value.value, limit->value.unit, at_least);
        c.limit_origin = limit->value.origin();
        c.protects_against = limit->protects_against;
        c.cure = cure;
        out.push_back(std::move(c));
    };
    if (duty.outdoor)
        rule("creepage_over_arc", "Creepage over dry arc distance", measured.creepage_mm / measured.arc_mm,
             false, "Use fewer or smaller sheds over the length");
    const auto sheds = find_sheds(surface);
    if (!sheds.empty()) {
        double overhang = sheds.front().overhang_mm;
        for (const auto& s : sheds) overhang = std::min(overhang, s.overhang_mm);
        rule("shed_overhang", "Shed overhang, the least", overhang, true, "Use sheds of larger diameter");
        double spacing = INFINITY, clear = INFINITY;
        for (std::size_t i = 0; i + 1 < sheds.size(); ++i) {
            spacing = std::min(spacing, sheds[i + 1].z_mm - sheds[i].z_mm);
            clear = std::min(clear, sheds[i + 1].tip_z0_mm - sheds[i].tip_z1_mm);
        }
        if (sheds.size() > 1) {
            rule("shed_spacing_over_overhang", "Shed spacing over overhang, the least", spacing / overhang,
                 true, "Space the sheds further, or use smaller ones");
            rule("shed_clear_spacing", "Clear distance between shed tips, the least", clear, true,
                 "Space the sheds further");
        }
    }
    for (auto& c : out) judge_plain(c);
    return out;
}

} // namespace ng
