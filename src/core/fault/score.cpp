// A score along the cable: a groove that no ring can stand for.
#include "fault/site.h"
#include "field/solve.h"
#include <fmt/format.h>

namespace ng {
namespace {

/// mm from the bottom of a groove upwards, and the field there over the undisturbed normal field in the
/// insulation: solved in the plane across the score.
Result<AirBody::Profile> across_a_score(double depth, double width, double eps_below, double eps_above) {
    constexpr double far = 12, inside = 0.999;
    const double size = far * std::max(depth, width);
    Section s;
    s.symmetry = Symmetry::planar;
    s.materials["insulation"].eps_r = eps_below;
    s.materials["over it"].eps_r = eps_above;
    s.materials["air"].eps_r = 1;
    // r is across the score, z away from the cable: the groove's bottom points to -z.
    s.regions.push_back({"insulation", "insulation",
                         Outline::polygon({{-size, -size}, {size, -size}, {size, 0}, {-size, 0}})});
    s.regions.push_back(
        {"over it", "over it", Outline::polygon({{-size, 0}, {size, 0}, {size, size}, {-size, size}})});
    std::vector<Point> groove;
    for (const auto& p : lens_points(0, 0, -depth, width)) groove.push_back({p.z, p.r});
    s.regions.push_back({"groove", "air", Outline::polygon(groove)});
    const double volts = size + size * eps_below / eps_above; // 1 kV/mm in the insulation
    s.boundaries.push_back({"below", volts, {{-size, -size}, {size, -size}}});
    s.boundaries.push_back({"above", 0, {{-size, size}, {size, size}}});
    s.paths.push_back({"gap", {{0, -inside * depth}, {0, -(1 - inside) * depth}}, "groove"});
    auto solved = solve(s);
    if (!solved) return tl::unexpected(solved.error());
    AirBody::Profile out;
    for (const auto& sample : solved->path("gap")->samples) out.emplace_back(sample.s_mm, sample.E_kV_per_mm);
    return out;
}

} // namespace

NEEDLEGAUGE_FAULT(score, 15) {
    FaultKind k;
    k.id = "score";
    k.title = "score along the cable";
    k.model =
        "A groove along the cable, half an ellipse 0.3 mm wide across: its air sees the normal field of "
        "the surface as a plane section across it does, and along itself the tangential field over its "
        "length; what it does to the checks is left out";
    k.size_words = "depth";
    k.least_mm = 0.02;
    k.most_mm = 1.5;
    k.width_mm = 10;
    k.width_words = "length";
    k.from_edge_mm = 8;
    k.has_filling = true;
    k.inspection = {"gloved fingernail and a light along the surface", 0.12, 0.5, 0.97};
    k.hurts_insulation = true;
    k.rework = "Abrade it out where it is shallow, fill with grease or mastic, feel again";
    k.source = "common practice, no source; threshold from memory";
    k.step = "abrade";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        constexpr double wide_mm = 0.3, deepest = 0.9;
        const double half = site.width() / 2, z = site.z(), r = site.radius();
        if (auto ok = site.needs_bare_insulation(half); !ok) return ok;
        if (fault.size_mm > deepest * site.wall())
            return tl::unexpected(
                site.misfit(fmt::format("it is deeper than the insulation, {:.2f} mm", site.wall()),
                            "Give a smaller depth"));
        site.draw_only(Outline::polygon(
            {{r - fault.size_mm, z - half}, {r - fault.size_mm, z + half}, {r, z + half}, {r, z - half}}));
        if (fault.filling != "air") return {};
        const double below = site.eps_at({r - fault.size_mm / 2, z}),
                     above = site.is_electrode(site.at({r + 0.02, z})) ? below : site.eps_at({r + 0.02, z});
        AirBody deep{site.place(), site.insulation_surface(), "air across the score", below, wide_mm};
        deep.across = [depth = fault.size_mm, below, above] {
            return across_a_score(depth, wide_mm, below, above);
        };
        deep.z_mm = z;
        site.add_air(std::move(deep));
        AirBody length{site.place(), site.insulation_surface(), "air along the score", below, wide_mm};
        length.along = {z - half, z + half};
        site.add_air(std::move(length));
        return {};
    };
    return k;
}

} // namespace ng
