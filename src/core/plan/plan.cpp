#include "plan/plan.h"
#include "io/csv.h"
#include "plan/mark_facts.h"
#include "plan/work.h"
#include "units/hand_length.h"
#include "units/text.h"
#include "units/version.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr double least_allowance_mm = 2, most_allowance_mm = 20; // bare conductor beyond the connector
constexpr double core_tube_past_crotch_mm =
    150;                                // from the core tube's end back to the crotch, where not given
constexpr double belt_left_mm = 15;     // of the papers over all cores, past the lead
constexpr double bore_clearance_mm = 1; // a parked part must pass the cable with this much
constexpr double core_room_spare_mm = 20;

/// What lies over the middle is of both sides.
bool on_side(const PlaceId& place, CableSide side, bool two_sides) {
    if (!two_sides || (place.side != Side::a && place.side != Side::b)) return true;
    return (place.side == Side::b) == (side == CableSide::b);
}

std::vector<std::string> verdicts_of(const CutMark& mark, const BuiltAccessory& built, bool two_sides) {
    std::vector<std::string> out;
    const auto& sets = facts(mark.kind).places;
    for (const auto& check : built.checks)
        if (std::any_of(check.places.begin(), check.places.end(), [&](const auto& place) {
                return on_side(place, mark.side, two_sides) &&
                       std::find(sets.begin(), sets.end(), place.kind) != sets.end();
            }))
            out.push_back(check.title);
    return out;
}

void worse(CutPlan& plan, PlanCheck check) {
    if (severity(check.status) > severity(plan.status)) plan.status = check.status;
    plan.checks.push_back(std::move(check));
}

class Planner {
  public:
    explicit Planner(const PreparedDesign& p)
        : p_(p), built_(p.built), choices_(p.design.work), two_sides_(has_two_sides(built_)) {}

    Result<CutPlan> run() {
        plan_.data_version = p_.data_version;
        plan_.long_side = choices_.long_side == "b" ? CableSide::b : CableSide::a;
        for (const auto side : sides()) add_side(side);
        if (auto ok = take_datum(); !ok) return tl::unexpected(ok.error());
        for (const auto side : sides()) {
            check_order(side);
            check_allowance(side);
            check_cores(side);
        }
        park();
        check_sleeve();
        return std::move(plan_);
    }

  private:
    std::vector<CableSide> sides() const {
        return two_sides_ ? std::vector{CableSide::a, CableSide::b} : std::vector{CableSide::a};
    }
    const Cable& cable(CableSide side) const { return p_.context().cable_of(side); }
    const CableDimensions& dimensions(CableSide side) const { return p_.context().dimensions_of(side); }
    double number(const std::string& key) const { return work_number(choices_, key); }
    Side named(CableSide side) const {
        return !two_sides_ ? Side::none : side == CableSide::a ? Side::a : Side::b;
    }
    std::string tag(CableSide side) const { return tag_of(named(side)); }

    CutMark mark(MarkKind kind, const PlaceId& place, CableSide side, double d) const {
        CutMark m;
        m.kind = kind;
        m.place = place;
        m.label = name_of(place);
        m.side = side;
        m.from_datum_mm = d;
        m.z_mm = built_.datum_z_mm - (side == CableSide::a ? d : -d);
        return m;
    }

    /// All marks of one side, from the cable end backwards; distances from the datum of the accessory.
    void add_side(CableSide side) {
        std::vector<CutMark> list;
        const auto& c = cable(side);
        const bool armoured = c.armour != "none", sheathed = has_common_sheath(c);
        const bool parts_at_jacket = c.cores == 3 && !sheathed; // the cores come out where the jacket ends
        double sheath_cut = 0;
        bool has_end = false;
        double covered_end = 0; // where the core comes out of what is over it
        for (const auto& given : built_.marks) {
            if (two_sides_ && given.side != side && given.kind != MarkKind::reference) continue;
            if (given.kind == MarkKind::reference && side == CableSide::b) continue;
            const double d = side == CableSide::a ? given.from_datum_mm : -given.from_datum_mm;
            auto m = mark(given.kind, given.place, side, d);
            m.label = given.label;
            m.parameter = given.parameter;
            m.per_mm = given.per_mm;
            if (given.kind == MarkKind::metallic_cut) sheath_cut = d;
            has_end |= given.kind == MarkKind::cable_end;
            if (given.kind == MarkKind::jacket_cut || given.kind == MarkKind::core_tube_end) {
                covered_end = d;
                if (given.kind == MarkKind::jacket_cut && (armoured || parts_at_jacket)) {
                    // What the section calls the jacket's end is here where the core itself comes out.
                    m.kind = parts_at_jacket ? MarkKind::crotch : MarkKind::bedding_cut;
                    m.place = (parts_at_jacket ? place::crotch : place::bedding_cut).on(named(side));
                    m.label = name_of(m.place);
                }
            }
            list.push_back(std::move(m));
        }
        if (!has_end && built_.datum != place::cable_end)
            list.push_back(mark(MarkKind::cable_end, place::cable_end.on(named(side)), side, 0));
        double at = covered_end;
        if (c.cores == 3) {
            const bool from_tube = std::any_of(
                list.begin(), list.end(), [](const auto& m) { return m.kind == MarkKind::core_tube_end; });
            if (from_tube) {
                const double given = number("crotch_mm");
                at = given > 0 ? given : covered_end + core_tube_past_crotch_mm;
                list.push_back(mark(MarkKind::crotch, place::crotch.on(named(side)), side, at));
            }
            CoreLayout layout;
            layout.crotch_mm = at;
            if (sheathed) { // outside the lead, with a little of what binds the cores left
                layout.crotch_mm = std::max(0.0, sheath_cut - belt_left_mm);
                for (const auto& m : list) // behind all that is cut on the cores
                    if (m.from_datum_mm < sheath_cut && facts(m.kind).order >= 0)
                        layout.crotch_mm = std::max(layout.crotch_mm, m.from_datum_mm);
                list.push_back(mark(MarkKind::crotch, place::crotch.on(named(side)), side, layout.crotch_mm));
            }
            const double end = cable_end_of(list);
            const bool meets_cores =
                two_sides_ && side == CableSide::b && cable(CableSide::a).cores == 3; // the same three
            const auto longer = longer_cores_mm(choices_);
            const double most = *std::max_element(longer.begin(), longer.end());
            for (const double more : longer)
                layout.core_length_mm.push_back(layout.crotch_mm - end + (meets_cores ? most - more : more));
            layout.phase_labels = {"phase 1", "phase 2", "phase 3"};
            plan_.cores[side == CableSide::a ? 0 : 1] = layout;
            if (armoured && !sheathed)
                list.push_back(mark(MarkKind::bedding_cut, place::bedding_cut.on(named(side)), side, at));
        }
        if (armoured) {
            at += number("bedding_left_mm");
            list.push_back(mark(MarkKind::armour_cut, place::armour_cut.on(named(side)), side, at));
            at += number("armour_stub_mm");
        }
        if (armoured || parts_at_jacket)
            list.push_back(
                mark(MarkKind::jacket_cut, place::jacket_cut.on(named(side)), side, at + (armoured ? 0 : 5)));
        const bool moulded = std::any_of(built_.placed.begin(), built_.placed.end(), [](const auto& part) {
            return part.kind == FitItem::Kind::cold_shrink;
        });
        if (two_sides_ && moulded && side != plan_.long_side) {
            double furthest = 0;
            for (const auto& m : list) furthest = std::max(furthest, m.from_datum_mm);
            list.push_back(mark(MarkKind::calibration, place::calibration_mark.on(named(side)), side,
                                50 * std::ceil((furthest + 40) / 50)));
        }
        std::stable_sort(list.begin(), list.end(), [](const auto& a, const auto& b) {
            return std::pair(a.from_datum_mm, facts(a.kind).order) <
                   std::pair(b.from_datum_mm, facts(b.kind).order);
        });
        const double first = list.empty() ? 0 : list.front().from_datum_mm;
        for (std::size_t i = 0; i < list.size(); ++i) {
            describe(list[i], c, dimensions(side));
            list[i].verdicts = verdicts_of(list[i], built_, two_sides_);
            if (i == 0 && first == list[i].from_datum_mm) continue;
            list[i].neighbour = list[i - 1].label;
            list[i].from_neighbour_mm = list[i].from_datum_mm - list[i - 1].from_datum_mm;
        }
        plan_.marks.insert(plan_.marks.end(), list.begin(), list.end());
    }

    static double cable_end_of(const std::vector<CutMark>& list) {
        const auto it = std::find_if(list.begin(), list.end(),
                                     [](const auto& m) { return m.kind == MarkKind::cable_end; });
        return it == list.end() ? 0 : it->from_datum_mm;
    }

    /// Distances count from what the user chose; else from what stays to be seen until the end: the jacket's
    /// cut, or the centre line that a slip-on connector is trained to.
    Result<void> take_datum() {
        const auto of_family = built_.datum;
        const bool slip_on = of_family == place::bushing_centre || of_family == place::adapter_end;
        bool jackets = true;
        for (const auto side : sides()) jackets = jackets && plan_.find(MarkKind::jacket_cut, side);
        if (jackets && !slip_on) plan_.datums.push_back(place::jacket_cut);
        plan_.datums.push_back(of_family);
        if (of_family != place::cable_end) plan_.datums.push_back(place::cable_end);
        if (jackets && slip_on) plan_.datums.push_back(place::jacket_cut);
        plan_.datum = choices_.datum.value_or(plan_.datums.front());
        if (std::find(plan_.datums.begin(), plan_.datums.end(), plan_.datum) == plan_.datums.end()) {
            std::vector<std::string> names;
            for (const auto& datum : plan_.datums) names.push_back(name_of(datum));
            return refuse("Datum", fmt::format("this design has no {} to measure from", name_of(plan_.datum)),
                          fmt::format("Choose one of: {}", fmt::join(names, ", ")));
        }
        for (const auto side : sides()) {
            auto& line = plan_.lines[side == CableSide::a ? 0 : 1];
            const double outwards = side == CableSide::a ? -1 : 1; // away from the cable end
            line = {built_.datum_z_mm, outwards};
            if (plan_.datum != of_family) {
                const bool jacket = plan_.datum == place::jacket_cut;
                const auto* from = plan_.find(jacket ? MarkKind::jacket_cut : MarkKind::cable_end, side);
                if (!from) continue;
                line = {from->z_mm, jacket ? -outwards : outwards};
            }
            for (auto& m : plan_.marks)
                if (m.side == side) m.from_datum_mm = line.from_datum(m.z_mm) + 0.0;
        }
        for (auto& m : plan_.marks)
            if (m.kind == MarkKind::reference && m.place != plan_.datum)
                m.why = "What the accessory is centred on; hidden in the end.";
        return {};
    }

    void check_order(CableSide side) {
        const CutMark* last = nullptr;
        bool clear = true;
        std::vector<const CutMark*> cuts;
        for (const auto& m : plan_.marks)
            if (m.side == side && m.order >= 0) cuts.push_back(&m);
        std::stable_sort(cuts.begin(), cuts.end(),
                         [](const auto* a, const auto* b) { return a->order < b->order; });
        for (const auto* m : cuts) {
            if (last) {
                const double gap = side == CableSide::a ? last->z_mm - m->z_mm : m->z_mm - last->z_mm;
                const double slack = last->tolerance_mm + m->tolerance_mm;
                const bool same_place = m->kind == MarkKind::bedding_cut || last->kind == MarkKind::crotch;
                if (gap < -1e-9) {
                    clear = false;
                    worse(plan_, {"Marks in order", Status::falls_short,
                                  fmt::format("{} lies {} beyond {}", m->label, in_mm(-gap), last->label),
                                  "Move one of them"});
                } else if (gap < slack && !same_place) {
                    clear = false;
                    worse(plan_,
                          {"Marks in order", Status::marginal,
                           fmt::format("{} and {} are {} apart: within their tolerances they could cross",
                                       last->label, m->label, in_mm(gap)),
                           "Leave more between them, or measure more closely"});
                }
            }
            last = m;
        }
        if (clear)
            worse(plan_, {"Marks in order" + tag(side), Status::holds,
                          "no two cuts can cross within their tolerances", ""});
    }

    void check_allowance(CableSide side) {
        const auto *end = plan_.find(MarkKind::insulation_end, side),
                   *reach = plan_.find(MarkKind::connector_end, side);
        if (!end || !reach) return;
        const double allowance =
            std::abs(end->z_mm - built_.datum_z_mm) - std::abs(reach->z_mm - built_.datum_z_mm);
        PlanCheck check{
            "Allowance beyond the connector" + tag(side), Status::holds,
            fmt::format("{} of conductor stays between connector and insulation", in_mm(allowance)), ""};
        if (allowance < 0) {
            check.status = Status::falls_short;
            check.why = fmt::format("the connector reaches {} over the insulation", in_mm(-allowance));
            check.cure = "Remove more insulation";
        } else if (allowance < least_allowance_mm || allowance > most_allowance_mm) {
            check.status = Status::marginal;
            check.why += fmt::format("; usual are {:g} to {:g} mm", least_allowance_mm, most_allowance_mm);
            check.cure = allowance < least_allowance_mm ? "Remove more insulation" : "Remove less insulation";
        }
        worse(plan_, check);
    }

    void check_cores(CableSide side) {
        const auto& layout = plan_.cores[side == CableSide::a ? 0 : 1];
        const auto* crotch = plan_.find(MarkKind::crotch, side);
        if (!layout || !crotch) return;
        double furthest = 0;
        for (const auto& m : plan_.marks)
            // Tubes over a common sheath's end lie on it too.
            if (m.side == side && m.order < crotch->order && m.kind != MarkKind::reference &&
                (m.order >= 0 || !has_common_sheath(cable(side))) && m.kind != MarkKind::calibration)
                furthest = std::max(furthest, std::abs(m.z_mm - built_.datum_z_mm));
        const double shortest = layout->crotch_mm;
        PlanCheck check{
            "Room on the cores" + tag(side), Status::holds,
            fmt::format("the cores are {} long, their last mark is at {}", in_mm(shortest), in_mm(furthest)),
            ""};
        if (furthest > shortest + 1e-9) {
            check.status = Status::falls_short;
            check.why =
                fmt::format("a mark at {} lies behind the crotch at {}", in_mm(furthest), in_mm(shortest));
            check.cure = "Make the cores longer: move the crotch back";
        }
        worse(plan_, check);
    }

    /// What goes on before the connector: on its own side, or on the long side if it lies over the middle.
    void park() {
        if (!two_sides_) return;
        for (const auto& part : built_.placed) {
            if (part.integral || part.kind == FitItem::Kind::over_connector) continue;
            const bool own = part.z1_mm < 0 || part.z0_mm > 0;
            const auto side = !own ? plan_.long_side : part.z0_mm > 0 ? CableSide::b : CableSide::a;
            const bool shrinks = part.kind == FitItem::Kind::shrink;
            const double length = part.z1_mm - part.z0_mm;
            plan_.parked.push_back({part.part, part.place, side,
                                    shrinks ? supplied_length_mm(choices_, length) : length, part.bore_mm,
                                    false, !shrinks});
        }
        if (const double sleeve = sleeve_needed(); sleeve > 0)
            plan_.parked.push_back({name_of(place::rejacketing_sleeve), place::rejacketing_sleeve,
                                    plan_.long_side,
                                    number("outer_sleeve_mm") > 0 ? number("outer_sleeve_mm") : sleeve,
                                    number("outer_sleeve_bore_mm"), false, false});
        for (auto& part : plan_.parked) {
            const auto other = part.side == CableSide::a ? CableSide::b : CableSide::a;
            if (!goes_on(part, part.side) && goes_on(part, other)) part.side = other;
            place(part);
        }
        for (const auto side : sides()) check_room(side);
    }

    /// It passes the jacket of this side, or the core and finds room on what is prepared of it.
    bool goes_on(const ParkedPart& part, CableSide side) const {
        const auto& d = dimensions(side);
        const double over = overall_dimensions(cable(side), d).jacket_mm,
                     core = 2 * d.radius_mm("metallic screen");
        if (part.bore_mm <= 0 || part.bore_mm >= over + bore_clearance_mm) return true;
        return part.bore_mm >= core + bore_clearance_mm &&
               part.length_mm + core_room_spare_mm <= prepared_core_mm(side);
    }

    double prepared_core_mm(CableSide side) const {
        const auto* end = plan_.find(MarkKind::cable_end, side);
        const auto* cover = plan_.find(MarkKind::bedding_cut, side);
        if (has_common_sheath(cable(side)) || !cover) cover = plan_.find(MarkKind::crotch, side);
        if (!cover) cover = plan_.find(MarkKind::bedding_cut, side);
        if (!cover) cover = plan_.find(MarkKind::jacket_cut, side);
        return end && cover ? std::abs(cover->z_mm - end->z_mm) : 0;
    }

    void place(ParkedPart& part) {
        const auto& d = dimensions(part.side);
        const double over = overall_dimensions(cable(part.side), d).jacket_mm,
                     core = 2 * d.radius_mm("metallic screen");
        part.over_jacket = part.bore_mm <= 0 || part.bore_mm >= over + bore_clearance_mm;
        if (!part.over_jacket && part.bore_mm < core + bore_clearance_mm)
            worse(plan_, {"Parking: " + part.part, Status::falls_short,
                          fmt::format("its bore of {} does not pass the core's {}", in_mm(part.bore_mm),
                                      in_mm(core)),
                          "Use a larger size, or a wrap-around part"});
    }

    void check_room(CableSide side) {
        double on_core = 0, nested = 0, stacked = 0;
        for (const auto& part : plan_.parked) {
            if (part.side != side) continue;
            const double length = part.length_mm + number("park_spare_mm");
            if (!part.over_jacket)
                on_core = std::max(on_core, part.length_mm + core_room_spare_mm);
            else if (part.stacks)
                stacked += length;
            else
                nested = std::max(nested, length);
        }
        const int i = side == CableSide::a ? 0 : 1;
        plan_.room_needed_mm[i] = nested + stacked;
        if (const double room = prepared_core_mm(side); on_core > 0 && room > 0) {
            PlanCheck check{
                "Parking on the core" + tag(side), Status::holds,
                fmt::format("{} are needed on the prepared core, {} are there", in_mm(on_core), in_mm(room)),
                ""};
            if (room < on_core) {
                check.status = Status::falls_short;
                check.cure = "Strip the jacket further back on this side, choose the other as the long side, "
                             "or use parts "
                             "that pass over the jacket";
            }
            worse(plan_, check);
        }
        if (plan_.room_needed_mm[i] > 0) {
            const double straight = number(i == 0 ? "straight_a_mm" : "straight_b_mm");
            PlanCheck check{"Parking behind the jacket cut" + tag(side), Status::holds,
                            fmt::format("{} of clean, straight cable are needed, {} are there",
                                        in_mm(plan_.room_needed_mm[i]), in_mm(straight)),
                            ""};
            if (straight < plan_.room_needed_mm[i]) {
                check.status = Status::falls_short;
                check.cure = "Free more cable, choose the other as the long side, or use wrap-around parts";
            }
            worse(plan_, check);
        }
    }

    /// From jacket to jacket with its laps; 0 where nothing is slipped over.
    double sleeve_needed() const {
        if (work_school(choices_, "outer_cover") != "sleeve" || taped_over()) return 0;
        const auto *a = plan_.find(MarkKind::jacket_cut, CableSide::a),
                   *b = plan_.find(MarkKind::jacket_cut, CableSide::b);
        return a && b ? supplied_length_mm(choices_, std::abs(a->z_mm - b->z_mm) + plan_.stagger_mm() +
                                                         2 * number("outer_lap_mm"))
                      : 0;
    }
    bool taped_over() const {
        return std::any_of(built_.parts.begin(), built_.parts.end(), [](const auto& part) {
            return part.place.kind == PlaceKind::jacket_tape || part.place.kind == PlaceKind::resin;
        });
    }

    void check_sleeve() {
        const double needed = sleeve_needed(), given = number("outer_sleeve_mm");
        if (needed <= 0 || given <= 0) return;
        PlanCheck check{
            "Re-jacketing sleeve", Status::holds,
            fmt::format("{} long, {} are needed from jacket to jacket with laps and what shrinking "
                        "takes of its length",
                        in_mm(given), in_mm(needed)),
            ""};
        if (given < needed) {
            check.status = Status::falls_short;
            check.cure = "Use a longer sleeve, or cut the jackets nearer to the centre";
        }
        worse(plan_, check);
    }

    const PreparedDesign& p_;
    const BuiltAccessory& built_;
    const WorkChoices& choices_;
    bool two_sides_;
    CutPlan plan_;
};

} // namespace

double CoreLayout::longer_mm(std::size_t core) const {
    return core_length_mm[core] - *std::min_element(core_length_mm.begin(), core_length_mm.end());
}

std::string CutPlan::distance_words(double from_datum_mm) const {
    if (from_datum_mm > -0.05) return both_units(from_datum_mm);
    return fmt::format("{} {} the {}", both_units(-from_datum_mm),
                       datum == place::jacket_cut ? "behind" : "past", name_of(datum));
}

std::vector<double> CutPlan::added_by_core_mm(const CutMark& mark) const {
    const auto& layout = cores[mark.side == CableSide::a ? 0 : 1];
    const auto* crotch = find(MarkKind::crotch, mark.side);
    if (!layout || !crotch || datum != place::jacket_cut) return {};
    const double beyond = line(mark.side).grows * (mark.z_mm - crotch->z_mm); // towards the cores' ends
    std::vector<double> out;
    for (std::size_t i = 0; i < layout->core_length_mm.size(); ++i) out.push_back(layout->longer_mm(i));
    const bool alike = std::all_of(out.begin(), out.end(), [](double mm) { return mm == 0; });
    return beyond > 0 && !alike ? out : std::vector<double>{};
}

double CutPlan::stagger_mm() const {
    if (!two_sides()) return 0;
    double most = 0;
    for (std::size_t i = 0; i < 3; ++i) {
        double longer = 0; // of this core, on both sides together
        for (const auto& layout : cores)
            if (layout) longer += layout->longer_mm(i);
        most = std::max(most, longer);
    }
    return most;
}

std::string AcceptanceWindow::words() const {
    return fmt::format("{:g} mm towards the cable end, {:g} mm away from it ({})", towards_end_mm, away_mm,
                       origin);
}

const CutMark* CutPlan::find(const PlaceId& place) const {
    const auto it = std::find_if(marks.begin(), marks.end(), [&](const auto& m) { return m.place == place; });
    return it == marks.end() ? nullptr : &*it;
}

const CutMark* CutPlan::find(MarkKind kind, CableSide side) const {
    const auto it = std::find_if(marks.begin(), marks.end(),
                                 [&](const auto& m) { return m.kind == kind && m.side == side; });
    return it == marks.end() ? nullptr : &*it;
}

std::string id_of(const PlaceId& place) {
    return slug(name_of(place));
}

Result<CutPlan> make_plan(const PreparedDesign& prepared) {
    if (auto ok = check_work(prepared.design.work); !ok) return tl::unexpected(ok.error());
    return Planner(prepared).run();
}

} // namespace ng
