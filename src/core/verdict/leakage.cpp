#include "verdict/leakage.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>

namespace ng {
namespace {

constexpr double least_shed_mm = 5;
constexpr double widest_shed_mm = 15; // at half its height

Check plain(CheckId id, const std::string& title, double value, double limit, const std::string& unit,
            bool at_least) {
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

namespace {

double length_of(const std::vector<Point>& line) {
    double out = 0;
    for (std::size_t i = 0; i + 1 < line.size(); ++i) out += distance(line[i], line[i + 1]);
    return out;
}

/// The part of a surface, whose z never falls, between two z.
std::vector<Point> between(const std::vector<Point>& surface, double z0, double z1) {
    std::vector<Point> out;
    for (std::size_t i = 0; i < surface.size(); ++i) {
        const Point b = surface[i];
        if (i > 0) {
            const Point a = surface[i - 1];
            for (const double z : {z0, z1})
                if ((a.z - z) * (b.z - z) < 0) out.push_back(a + ((z - a.z) / (b.z - a.z)) * (b - a));
        }
        if (b.z >= z0 && b.z <= z1) out.push_back(b);
    }
    return out;
}

} // namespace

LeakageGeometry measure_leakage(const std::vector<Point>& whole, const std::optional<AirEnds>& ends) {
    LeakageGeometry out;
    out.creepage_mm = length_of(whole);
    constexpr double none = std::numeric_limits<double>::infinity();
    if (ends) {
        out.over_earthed_mm = length_of(between(whole, -none, ends->earthed_z_mm));
        out.over_live_mm = length_of(between(whole, ends->live_z_mm, none));
    }
    const auto surface = ends ? between(whole, ends->earthed_z_mm, ends->live_z_mm) : whole;
    out.between = surface;
    out.between_mm = length_of(surface);
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

std::vector<Check> judge_leakage(const std::vector<Point>& surface, const Duty& duty, double highest_line_kV,
                                 const LimitTable& limits, const std::optional<AirEnds>& ends) {
    std::vector<Check> out;
    const auto measured = measure_leakage(surface, ends);
    if (const auto specific = specific_creepage_mm_per_kV(duty.pollution); duty.outdoor && specific) {
        auto c = plain(CheckKind::creepage, "Creepage against pollution, " + duty.pollution,
                       measured.creepage_mm, *specific * highest_line_kV, "mm", true);
        c.limit_origin =
            fmt::format("{:g} mm/kV of {:.3g} kV between phases, which is {:.3g} mm/kV of that to earth; IEC "
                        "60815 from memory",
                        *specific, highest_line_kV, *specific * std::numbers::sqrt3);
        c.why =
            fmt::format("{:.0f} mm from metal to metal, {:.0f} mm of them over the earthed screen; at least "
                        "{:.0f} mm are needed.",
                        c.value, measured.over_earthed_mm, c.limit);
        c.protects_against = "flashover along a surface that is polluted and wet";
        c.cure = "Add sheds, lengthen the insulation, or choose the pollution level that the site has";
        out.push_back(std::move(c));
    }
    auto rule = [&](CheckId id, const char* title, double value, bool at_least, const char* cure) {
        const auto* limit = limits.find(name_of(id));
        if (!limit) return;
        auto c = plain(id, title, value, limit->value.value, limit->value.unit, at_least);
        c.limit_origin = limit->value.origin();
        c.protects_against = limit->protects_against;
        c.cure = cure;
        out.push_back(std::move(c));
    };
    if (duty.outdoor)
        rule(CheckKind::creepage_over_arc,
             "Creepage over dry arc distance, both between live and earthed end",
             measured.between_mm / measured.arc_mm, false, "Use fewer or smaller sheds over the length");
    const auto sheds = find_sheds(surface);
    if (!sheds.empty()) {
        double overhang = sheds.front().overhang_mm;
        for (const auto& s : sheds) overhang = std::min(overhang, s.overhang_mm);
        rule(CheckKind::shed_overhang, "Shed overhang, the least", overhang, true,
             "Use sheds of larger diameter");
        double spacing = INFINITY, clear = INFINITY;
        for (std::size_t i = 0; i + 1 < sheds.size(); ++i) {
            spacing = std::min(spacing, sheds[i + 1].z_mm - sheds[i].z_mm);
            clear = std::min(clear, sheds[i + 1].tip_z0_mm - sheds[i].tip_z1_mm);
        }
        if (sheds.size() > 1) {
            rule(CheckKind::shed_spacing_over_overhang, "Shed spacing over overhang, the least",
                 spacing / overhang, true, "Space the sheds further, or use smaller ones");
            rule(CheckKind::shed_clear_spacing, "Clear distance between shed tips, the least", clear, true,
                 "Space the sheds further");
        }
    }
    for (auto& c : out) judge_plain(c);
    return out;
}

} // namespace ng
