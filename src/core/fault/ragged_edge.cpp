// A screen edge that is torn or slanted: a thin tongue of screen on the insulation. And one that is sharp.
#include "closedform/points.h"
#include "fault/lessen.h"
#include "fault/site.h"

namespace ng {

NEEDLEGAUGE_FAULT(ragged_edge, 61) {
    FaultKind k;
    k.id = "ragged_edge";
    k.title = "ragged screen edge";
    k.model = "A tongue of screen 0.1 mm thick with a rounded end, all round, from the screen edge along the "
              "insulation; single teeth are worse at their points, by the ratio of a hemisphere to a ridge";
    k.size_words = "length";
    k.least_mm = 0.2;
    k.most_mm = 10;
    k.inspection = {"eye, square", 0.5, 0.5, 0.97};
    k.rework =
        "Dress the edge square with the ring tool or abrasive cloth, wipe towards the screen, look again";
    k.source = "common practice, no source";
    k.step = "screen-dress";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        constexpr double thick_mm = 0.1, under_mm = 0.3;
        const double r = site.radius(), edge = site.edge_z(), t = site.towards();
        if (site.is_electrode(site.at({r + thick_mm / 2, edge + t * fault.size_mm})))
            return tl::unexpected(
                site.misfit("a conductive part lies on the insulation here", "Give a smaller length"));
        const auto tip = site.place().part(EdgePart::tip);
        const double back = edge - t * under_mm, front = edge + t * fault.size_mm;
        site.add_electrode(conductive_film(r, std::min(back, front), std::max(back, front), thick_mm,
                                           t < 0 ? name_of(tip) : "", t > 0 ? name_of(tip) : ""),
                           0, false);
        site.add_edge_check(tip, "Stress at the ragged edge", closedform::point_over_ridge(1));
        return {};
    };
    return k;
}

NEEDLEGAUGE_FAULT(edge_not_dressed, 62) {
    FaultKind k;
    k.id = "edge_not_dressed";
    k.title = "screen edge not dressed";
    k.model = "The edge is as much sharper: its radius is smaller by this";
    k.size_words = "missing radius";
    k.least_mm = 0.02;
    k.most_mm = 2;
    k.inspection = {"eye and fingertip, against a gauge", 0.15, 0.5, 0.97};
    k.rework = "Dress the edge with abrasive cloth, wipe towards the screen";
    k.source = "common practice, no source";
    k.step = "screen-dress";
    k.change = [title = k.title](Job& job, const Fault& fault, const std::string& design,
                                 const Library& library) {
        constexpr double least_mm = 0.02;
        const auto radius = [](const PreparedDesign& p) {
            constexpr const char* key = "edge_radius_mm";
            return std::string(p.family->parameter(key) ? key : "");
        };
        return lessen(job, fault, design, library, title, radius, least_mm,
                      "the radius of its screen edge is no number of this design");
    };
    return k;
}

} // namespace ng
