#include "plan/whole_end.h"
#include "plan/mark_facts.h"
#include <algorithm>
#include <cmath>

namespace ng {
namespace {

// Drawn where the design gives no figure; all chosen.
constexpr double between_cores_mm = 8; // of spread cores, beyond their widest part
constexpr double bend_per_offset = 3;  // length of a core's bend from the crotch
constexpr double least_bend_mm = 40;
constexpr double finger_mm = 45, boot_mm = 60, boot_wall_mm = 3, tube_wall_mm = 1.5;
constexpr double shown_past_mm = 10,
                 shown_behind_mm = 90; // shown past the longest core; of the cable behind its cut
constexpr double core_chord_mm = 3;    // of a core's bend
constexpr double core_chord_rad = 0.3;

bool has_more(const Cable& cable) {
    return cable.cores == 3 || cable.armour != "none";
}

class EndDrawer {
  public:
    EndDrawer(const PreparedDesign& p, const CutPlan& plan, const SheetStep& step)
        : p_(p), plan_(plan), step_(step), stage_(stage_picture(p, plan, step)) {}

    WholeEnd draw() {
        out_.picture.z0_mm = stage_.z0_mm;
        out_.picture.z1_mm = stage_.z1_mm;
        if (const auto* m = plan_.find(MarkKind::jacket_cut))
            out_.picture.z0_mm = std::min(out_.picture.z0_mm, m->z_mm - shown_behind_mm);
        if (const auto* m = plan_.find(MarkKind::jacket_cut, CableSide::b))
            out_.picture.z1_mm = std::max(out_.picture.z1_mm, m->z_mm + shown_behind_mm);
        for (const auto side : {CableSide::a, CableSide::b})
            if (plan_.find(MarkKind::cable_end, side))
                cores_ = std::max(cores_, p_.context().cable_of(side).cores);
        for (const auto side : {CableSide::a, CableSide::b})
            if (plan_.find(MarkKind::cable_end, side)) take_side(side);
        const bool three = cores_ == 3;
        const double pitch = widest_core() * 2 + between_cores_mm;
        for (int i = 0; i < cores_; ++i) out_.core_offsets_mm.push_back(three ? (i - 1) * pitch : 0);
        if (const auto& layout = plan_.cores[0])
            for (std::size_t i = layout->core_length_mm.size(); i-- > 0;)
                if (layout->longer_mm(i) == 0) out_.shortest = i;
        if (out_.shortest >= out_.core_offsets_mm.size()) out_.shortest = 0;
        out_.picture.z1_mm += out_.side_b_moved_mm;
        for (int i = 0; i < cores_; ++i) add_core(i);
        for (const auto& trunk : trunks_) add_trunk(trunk);
        if (step_.laid_at(place::rejacketing_sleeve))
            if (const auto span = outer_cover_span(p_, plan_)) {
                const double to = span->second + plan_.stagger_mm();
                add_outer_cover(out_.picture, place::rejacketing_sleeve, span->first, to, true);
                out_.picture.z0_mm = std::min(out_.picture.z0_mm, span->first - shown_past_mm);
                if (plan_.two_sides()) out_.picture.z1_mm = std::max(out_.picture.z1_mm, to + shown_past_mm);
            }
        return std::move(out_);
    }

  private:
    struct Trunk {
        CableSide side;
        double towards = 1; ///< +1: the cable end lies towards +z
        double far = 0, end = 0;
        double crotch = 0;         ///< where the cores come out of what is over all of them
        double planned_crotch = 0; ///< the same in the plan: of a side B that a staggered joint moves out
        OverallDimensions over;
        double core_radius = 0;
    };

    /// Three cables of one core each, where the other side has three cores: each has its own jacket.
    bool apart(CableSide side) const { return cores_ == 3 && p_.context().cable_of(side).cores == 1; }

    void take_side(CableSide side) {
        if (apart(side)) return;
        Trunk t;
        t.side = side;
        t.towards = side == CableSide::a ? 1 : -1;
        t.far = side == CableSide::a ? out_.picture.z0_mm : out_.picture.z1_mm;
        t.end = plan_.find(MarkKind::cable_end, side)->z_mm;
        const auto* crotch = plan_.find(MarkKind::crotch, side);
        if (!crotch) crotch = plan_.find(MarkKind::bedding_cut, side);
        if (!crotch) crotch = plan_.find(MarkKind::jacket_cut, side);
        t.planned_crotch = crotch ? crotch->z_mm : t.far;
        if (side == CableSide::b) out_.side_b_moved_mm = plan_.stagger_mm();
        t.far += moved(side), t.end += moved(side);
        t.crotch = t.planned_crotch + moved(side);
        const auto& cable = p_.context().cable_of(side);
        const auto& d = p_.context().dimensions_of(side);
        t.over = overall_dimensions(cable, d);
        t.core_radius = d.radius_mm("metallic screen");
        trunks_.push_back(t);
    }

    /// By how much this side's common layers lie further out than in the plan.
    double moved(CableSide side) const { return side == CableSide::b ? out_.side_b_moved_mm : 0; }

    double widest_core() const {
        double r = 0;
        for (const auto& region : stage_.section.regions)
            for (const auto& p : polygon_of(region.outline, core_chord_rad)) r = std::max(r, p.r);
        return r;
    }

    /// Distance of a core's axis from the cable's: together in the trunk, spread beyond the crotch.
    double offset(int core, double z) const {
        const double spread = out_.core_offsets_mm[static_cast<std::size_t>(core)];
        double at = spread;
        const bool together = !trunks_.empty() && trunks_.size() == (plan_.two_sides() ? 2u : 1u) &&
                              !step_.cut.contains(MarkKind::jacket_cut); // nothing is opened yet
        if (together) return cores_ == 3 ? (core - 1) * trunks_.front().core_radius : 0;
        for (const auto& t : trunks_) {
            const double laid = cores_ == 3 ? (core - 1) * t.core_radius : 0;
            const double bend = std::max(least_bend_mm, bend_per_offset * std::abs(spread - laid));
            const double s = std::clamp(t.towards * (z - t.crotch) / bend, 0.0, 1.0);
            at += (laid - spread) * (1 - s * s * (3 - 2 * s));
        }
        return at;
    }

    /// A longer core has all that lies beyond the crotch further out.
    std::vector<Point> moved_out(int core, std::vector<Point> polygon) const {
        for (auto& p : polygon) p.z += moved_by(core, p.z);
        return polygon;
    }
    /// z of the plan; side A stays, and all beyond its crotch moves by what this core is longer there; from
    /// side B's crotch on by what it is longer on either side, which is the same for all cores.
    double moved_by(int core, double z) const {
        double by = 0;
        for (const auto& t : trunks_)
            if (const auto& layout = plan_.cores[t.side == CableSide::a ? 0 : 1])
                if (const double way = trunks_.size() > 1 ? 1 : t.towards; way * (z - t.planned_crotch) > 0)
                    by += way * layout->longer_mm(static_cast<std::size_t>(core));
        return by;
    }

    /// A shape about a core's axis: above it and below it.
    void add_about(int core, const std::string& name, const std::vector<Point>& polygon) {
        for (const double turn : {1.0, -1.0}) {
            std::vector<Point> points;
            for (std::size_t i = 0; i < polygon.size(); ++i) {
                const Point a = polygon[i], b = polygon[(i + 1) % polygon.size()];
                const int pieces =
                    cores_ == 3 ? std::max(1, static_cast<int>(std::abs(b.z - a.z) / core_chord_mm)) : 1;
                for (int k = 0; k < pieces; ++k) {
                    const double f = static_cast<double>(k) / pieces;
                    const double z = a.z + f * (b.z - a.z), r = a.r + f * (b.r - a.r);
                    points.push_back({offset(core, z) + turn * r, z});
                }
            }
            out_.picture.section.regions.push_back({name, "", Outline::polygon(points)});
            for (const auto& p : points) {
                out_.picture.r_mm = std::max(out_.picture.r_mm, std::abs(p.r));
                if (trunks_.size() == 1)
                    out_.picture.z1_mm = std::max(out_.picture.z1_mm, p.z + shown_past_mm);
            }
        }
    }

    bool sheathed(Side side) const {
        return has_common_sheath(p_.context().cable_of(side == Side::b ? CableSide::b : CableSide::a));
    }

    void add_part(const PlaceId& place, const char* hatch) {
        const auto& parts = out_.picture.parts;
        if (std::none_of(parts.begin(), parts.end(), [&](const auto& part) { return part.place == place; }))
            out_.picture.parts.push_back({place, name_of(place), hatch});
    }

    void add_core(int core) {
        std::set<std::string> covers; // jackets are drawn over all cores together
        for (const auto& part : stage_.parts)
            if ((part.place.kind == PlaceKind::jacket &&
                 !apart(part.place.side == Side::b ? CableSide::b : CableSide::a)) ||
                (part.place.kind == PlaceKind::metallic_screen && sheathed(part.place.side)))
                covers.insert(name_of(part.place));
            else if (core == 0)
                out_.picture.parts.push_back(part);
        for (const auto& region : stage_.section.regions)
            if (!covers.contains(region.name))
                add_about(core, region.name, moved_out(core, polygon_of(region.outline, core_chord_rad)));
        for (const auto& electrode : stage_.section.electrodes)
            add_about(core, electrode.name, moved_out(core, polygon_of(electrode.outline, core_chord_rad)));
        if (!step_.laid_at(place::core_tube)) return;
        for (const auto& t : trunks_)
            if (const auto* tube = plan_.find(MarkKind::core_tube_end, t.side)) {
                const double from = t.crotch + t.towards * 15, r = t.core_radius;
                const double to = tube->z_mm + moved_by(core, tube->z_mm);
                add_part(place::core_tube, "sleeve");
                add_about(core, name_of(place::core_tube),
                          {{r, from}, {r + tube_wall_mm, from}, {r + tube_wall_mm, to}, {r, to}});
            }
    }

    void add_trunk(const Trunk& t) {
        const auto& cable = p_.context().cable_of(t.side);
        const auto end_of = [&](MarkKind kind) {
            const auto* m = plan_.find(kind, t.side);
            return m && step_.cut.contains(kind) ? m->z_mm + moved(t.side) : t.end;
        };
        const auto tube = [&](const PlaceId& place, const char* hatch, double diameter, double from,
                              double to) {
            if (t.towards * (to - from) <= 0) return;
            const double r = diameter / 2;
            add_part(place, hatch);
            out_.picture.section.regions.push_back(
                {name_of(place), "", Outline::polygon({{-r, from}, {r, from}, {r, to}, {-r, to}})});
            out_.picture.r_mm = std::max(out_.picture.r_mm, r);
        };
        const double jacket = end_of(MarkKind::jacket_cut);
        if (cable.cores == 3)
            tube(place::laid_up_cores, "sealant", t.over.laid_up_mm, t.far,
                 step_.cut.contains(MarkKind::jacket_cut) ? t.crotch : t.end);
        if (has_common_sheath(cable))
            tube(place::lead_sheath, "metal",
                 t.over.laid_up_mm +
                     2 * p_.context().dimensions_of(t.side).layer("metallic screen").thickness_mm,
                 t.far, end_of(MarkKind::metallic_cut));
        if (cable.armour != "none") {
            tube(place::bedding, "jacket", t.over.bedding_mm, t.far, end_of(MarkKind::bedding_cut));
            tube(place::armour, "metal", t.over.armour_mm, t.far, end_of(MarkKind::armour_cut));
        }
        tube(place::jacket, "jacket", t.over.jacket_mm, t.far, jacket);
        if (step_.laid_at(place::breakout)) {
            const double from = jacket - t.towards * boot_mm, inner = t.over.jacket_mm / 2,
                         outer = inner + boot_wall_mm;
            add_part(place::breakout, "sleeve");
            for (const double turn : {1.0, -1.0}) // its wall: what it covers is seen
                out_.picture.section.regions.push_back({name_of(place::breakout), "",
                                                        Outline::polygon({{turn * inner, from},
                                                                          {turn * outer, from},
                                                                          {turn * outer, t.crotch},
                                                                          {turn * inner, t.crotch}})});
            out_.picture.r_mm = std::max(out_.picture.r_mm, outer);
            for (int i = 0; i < cores_; ++i)
                add_about(i, name_of(place::breakout),
                          {{t.core_radius, t.crotch},
                           {t.core_radius + boot_wall_mm, t.crotch},
                           {t.core_radius + boot_wall_mm, t.crotch + t.towards * finger_mm},
                           {t.core_radius, t.crotch + t.towards * finger_mm}});
        }
    }

    const PreparedDesign& p_;
    const CutPlan& plan_;
    const SheetStep& step_;
    const StagePicture stage_;
    int cores_ = 1;
    std::vector<Trunk> trunks_;
    WholeEnd out_;
};

} // namespace

bool has_whole_end(const PreparedDesign& prepared) {
    return has_more(prepared.cable) || (prepared.other_cable && has_more(*prepared.other_cable));
}

WholeEnd whole_end(const PreparedDesign& prepared, const CutPlan& plan, const SheetStep& step) {
    return EndDrawer(prepared, plan, step).draw();
}

SheetStep cut_back(const CutPlan& plan) {
    SheetStep step;
    for (const auto& m : plan.marks) {
        step.shown.insert(m.kind);
        if (!m.cuts.empty()) step.cut.insert(m.kind);
    }
    return step;
}

SheetStep finished(const PreparedDesign& prepared, const CutPlan& plan) {
    auto step = cut_back(plan);
    for (const auto& part : prepared.built.parts)
        if (!is_cable_layer(part.place.kind) && part.hatch != "air") step.laid.push_back(part.place);
    step.laid.push_back(place::breakout);
    step.laid.push_back(place::core_tube);
    return step;
}

} // namespace ng
