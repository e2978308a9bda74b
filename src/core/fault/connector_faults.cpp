// What a connector may be left with: a burr, a hole that is not filled.
#include "closedform/points.h"
#include "fault/site.h"
#include <fmt/format.h>

namespace ng {
namespace {

/// On the connector, by itself a little behind its end; refuses designs without one.
Result<FaultSite::Surface> on_connector(const FaultSite& site, double& z) {
    constexpr double behind_end_mm = 5;
    if (!site.z_is_given()) {
        if (!site.connector_end_z())
            return tl::unexpected(site.misfit("this design has no connector", "Choose another kind"));
        z = *site.connector_end_z() + site.towards() * behind_end_mm;
    }
    const auto surface = site.live_surface_at(z);
    if (!surface) return tl::unexpected(site.misfit("no live metal is here", "Put it onto the connector"));
    return *surface;
}

} // namespace

NEEDLEGAUGE_FAULT(connector_burr, 70) {
    FaultKind k;
    k.id = "connector_burr";
    k.title = "burr on the connector";
    k.model = "A rounded ridge all round, three times as high as half as wide, on the outermost live metal; "
              "a single point is worse by the ratio of a spheroid to a ridge of that shape (Stratton, from "
              "memory)";
    k.size_words = "height";
    k.least_mm = 0.1;
    k.most_mm = 3;
    k.inspection = {"finger", 0.15, 0.5, 0.97};
    k.rework = "File it off, wipe the filings away, feel again";
    k.source = "0.2 to 2 mm: common practice, no source";
    k.step = "connector-finish";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        constexpr double slender = 3, foot_mm = 0.2;
        double z = site.z();
        const auto surface = on_connector(site, z);
        if (!surface) return tl::unexpected(surface.error());
        const double half = fault.size_mm / slender, top = surface->radius + fault.size_mm,
                     foot = surface->radius - std::min(foot_mm, fault.size_mm);
        for (const double at : {surface->radius + 0.02, top, top + 0.05})
            if (!site.is_solid({at, z}) && !site.at({at, z}).empty() && site.is_electrode(site.at({at, z})))
                return tl::unexpected(
                    site.misfit("it would reach another conductive part", "Give a smaller height"));
        if (site.at({top + 0.05, z}).empty())
            return tl::unexpected(site.misfit("it would reach out of the section", "Give a smaller height"));
        const auto tip = site.place().part(EdgePart::tip);
        Outline ridge;
        ridge.start = {foot, z - half};
        ridge.line_to({top - half, z - half});
        ridge.arc_to({top - half, z + half}, {top - half, z}, name_of(tip));
        ridge.steps.back().clockwise = false;
        ridge.line_to({foot, z + half});
        site.add_electrode(ridge, surface->voltage_kV, false);
        site.add_edge_check(tip, "Stress at the burr", closedform::point_over_ridge(slender));
        return {};
    };
    return k;
}

NEEDLEGAUGE_FAULT(connector_hole, 71) {
    FaultKind k;
    k.id = "connector_hole";
    k.title = "bolt hole or indent not filled";
    k.model = "A groove all round in the outermost live metal, filled with what is said; a single hole is "
              "milder";
    k.size_words = "depth";
    k.least_mm = 0.1;
    k.most_mm = 6;
    k.width_mm = 6;
    k.has_filling = true;
    k.inspection = {"eye", 0.3, 0.5, 0.97};
    k.rework = "Fill it with mastic, wipe, lay the cover anew";
    k.source = "common practice, no source";
    k.step = "connector-finish";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        double z = site.z();
        const auto surface = on_connector(site, z);
        if (!surface) return tl::unexpected(surface.error());
        const double r = surface->radius, half = site.width() / 2;
        for (const double at : {z - half, z + half}) {
            const auto beside = site.live_surface_at(at);
            if (!beside || beside->electrode != surface->electrode || std::abs(beside->radius - r) > 0.05)
                return tl::unexpected(
                    site.misfit(fmt::format("the connector is not even for {:g} mm here", site.width()),
                                "Give a smaller width, or another place"));
        }
        if (!site.is_electrode(site.at({r - fault.size_mm, z})))
            return tl::unexpected(
                site.misfit("the metal is not as thick as it is deep", "Give a smaller depth"));
        const double eps = site.eps_at({r + 0.05, z});
        site.add_region_over_all(
            Outline::polygon(
                {{r - fault.size_mm, z - half}, {r - fault.size_mm, z + half}, {r, z + half}, {r, z - half}}),
            fault.filling);
        if (fault.filling == "air")
            site.add_gap({{r - 0.999 * fault.size_mm, z}, {r - 0.001 * fault.size_mm, z}}, "air in the hole",
                         eps, site.width());
        return {};
    };
    return k;
}

} // namespace ng
