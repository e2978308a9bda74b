// The cut plan: marks, sums, tolerances, parking, and that a dragged mark changes what it says it changes.
#include "plan/move_mark.h"
#include "plan/work.h"
#include "support.h"
#include <set>

using namespace ng;

namespace {

PreparedDesign prepared(const Job& job, const std::string& design) {
    auto p = prepare_design(job, design, test::library());
    if (!p) qFatal("%s", p.error().message().c_str());
    return std::move(*p);
}

CutPlan planned(const Job& job, const std::string& design) {
    auto plan = make_plan(prepared(job, design));
    if (!plan) qFatal("%s", plan.error().message().c_str());
    return std::move(*plan);
}

/// A design of a family with every default, on an invented cable; distances from the cable end.
Job with_defaults(const std::string& family) {
    Job job = new_job();
    job.designs[0].family = family;
    job.designs[0].duty.standard = test::family(family).usual_standard;
    job.designs[0].work.datum = place::cable_end;
    return job;
}

const PlanCheck* find(const CutPlan& plan, const std::string& title) {
    for (const auto& check : plan.checks)
        if (check.title.starts_with(title)) return &check;
    return nullptr;
}

} // namespace

class TestPlan : public QObject {
    Q_OBJECT
  private slots:
    void every_demo_design_has_a_plan_that_adds_up() {
        const auto job = test::demo_job();
        for (const auto& design : job.designs) {
            const auto p = prepared(job, design.id);
            const auto plan = make_plan(p);
            REQUIRE_OK(plan);
            std::set<std::string> ids;
            std::map<CableSide, double> sum, last;
            for (const auto& m : plan->marks) {
                QVERIFY2(ids.insert(id_of(m.place)).second, (design.id + ": " + id_of(m.place)).c_str());
                QVERIFY2(!m.why.empty(), m.label.c_str());
                if (!m.cuts.empty()) QVERIFY2(!m.tool.empty(), m.label.c_str());
                QVERIFY2(m.tolerance_mm > 0 || m.kind == MarkKind::reference, m.label.c_str());
                // Distances grow away from the cable end, or towards it where they count from the jacket.
                const double way = plan->datum == place::jacket_cut ? -1 : 1;
                if (!sum.contains(m.side)) sum[m.side] = m.from_datum_mm;
                sum[m.side] += way * m.from_neighbour_mm;
                last[m.side] = m.from_datum_mm;
                QVERIFY2(m.from_neighbour_mm >= 0, m.label.c_str());
            }
            for (const auto& [side, total] : sum) QVERIFY(std::abs(total - last[side]) < 1e-9);
            QVERIFY2(plan->find(MarkKind::screen_edge) && plan->find(MarkKind::jacket_cut),
                     design.id.c_str());
            const auto family = FamilyTable::shipped().find(design.family);
            QCOMPARE(plan->find(MarkKind::screen_edge, CableSide::b) != nullptr, family->two_cables);
            QVERIFY2(!plan->find(MarkKind::screen_edge)->verdicts.empty(), design.id.c_str());
            QVERIFY2(plan->status != Status::falls_short, (design.id + ": " +
                                                           [&] {
                                                               for (const auto& c : plan->checks)
                                                                   if (c.status == Status::falls_short)
                                                                       return c.title + ": " + c.why;
                                                               return std::string();
                                                           }())
                                                              .c_str());
        }
    }
    void blades_stay_off_the_layer_beneath() {
        const auto job = test::demo_job();
        for (const auto& design : job.designs) {
            const auto p = prepared(job, design.id);
            const auto plan = make_plan(p);
            REQUIRE_OK(plan);
            for (const auto& m : plan->marks) {
                if (!m.blade_mm) continue;
                const auto& cable = p.context().cable_of(m.side);
                const auto& d = p.context().dimensions_of(m.side);
                const double thickness =
                    m.kind == MarkKind::screen_edge      ? d.layer("insulation screen").thickness_mm
                    : m.kind == MarkKind::insulation_end ? d.layer("insulation").thickness_mm
                    : m.kind == MarkKind::bedding_cut    ? cable.bedding_thickness_mm
                                                         : cable.jacket_thickness_mm;
                const bool shaved = m.kind == MarkKind::screen_edge && !cable.strippable_screen;
                QVERIFY2(shaved ? *m.blade_mm <= thickness : *m.blade_mm < thickness, m.label.c_str());
                QVERIFY(*m.blade_mm > 0);
            }
        }
    }
    // Common practice, no source: the figures that a jointer knows by heart.
    void defaults_are_those_of_the_trade() {
        auto job = with_defaults("heat_shrink_termination");
        auto plan = planned(job, "design-1");
        const auto at = [&](const PlaceId& place) { return plan.find(place)->from_datum_mm; };
        QCOMPARE(at(place::insulation_end) - at(place::lug_barrel_end), 3.0);     // barrel depth + 3 mm
        QCOMPARE(at(place::screen_edge) - at(place::mastic_on_insulation), 10.0); // 10 mm onto the insulation
        QCOMPARE(at(place::mastic_on_screen) - at(place::screen_edge), 20.0);     // 20 mm onto the screen
        QCOMPARE(*plan.find(place::screen_edge)->blade_mm, 0.4);                  // ring-cut tool
        const auto* jacket = plan.find(place::jacket_cut);
        const double least = 0.9 * job.cables[0].jacket_thickness_mm - 0.1;
        QVERIFY(std::abs(*jacket->blade_mm - (least - 1)) < 0.01 || least <= 2); // 1 mm off the least depth
        plan = planned(with_defaults("cold_shrink_termination_cone"), "design-1");
        QCOMPARE(at(place::anchor_mark) - at(place::screen_edge), 15.0); // 15 mm behind the screen edge
        plan = planned(with_defaults("heat_shrink_joint"), "design-1");
        QCOMPARE(at(place::insulation_end.on(Side::a)) - at(place::connector_end.on(Side::a)),
                 5.0); // half connector + 5 mm
        plan = planned(with_defaults("cold_shrink_joint"), "design-1");
        QCOMPARE(at(place::insulation_end.on(Side::a)) - at(place::connector_end.on(Side::a)), 3.0); // + 3 mm
        job = with_defaults("taped_joint");
        plan = planned(job, "design-1");
        const double pencil = at(place::pencil_start.on(Side::a)) - at(place::insulation_end.on(Side::a));
        QVERIFY(pencil >= 45 && pencil <= 50);
        job.cables[0].armour = "steel tape";
        plan = planned(job, "design-1");
        QCOMPARE(at(place::armour_cut.on(Side::a)) - at(place::bedding_cut.on(Side::a)),
                 15.0); // bedding 10 to 20 mm
        QCOMPARE(at(place::jacket_cut.on(Side::a)) - at(place::armour_cut.on(Side::a)),
                 35.0); // stub of 30 to 40 mm
    }
    void distances_count_from_the_chosen_datum() {
        auto job = test::demo_job();
        for (const char* id : {"quay-mast", "causeway", "ring-switch"}) {
            job.find_design(id)->work.datum = prepared(job, id).built.datum;
            const auto from_usual = planned(job, id);
            job.find_design(id)->work.datum = place::jacket_cut;
            const auto from_jacket = planned(job, id);
            QVERIFY(from_jacket.datum == place::jacket_cut);
            for (const auto& m : from_usual.marks) {
                const double jacket = from_usual.find(MarkKind::jacket_cut, m.side)->from_datum_mm;
                const auto* other = from_jacket.find(m.place);
                QVERIFY(other);
                QVERIFY(std::abs(jacket - m.from_datum_mm - other->from_datum_mm) < 1e-9);
                QVERIFY(std::abs(other->z_mm - m.z_mm) < 1e-9);
            }
        }
        job.find_design("quay-mast")->work.datum = place::bushing_centre;
        const auto refused = make_plan(prepared(job, "quay-mast"));
        QVERIFY(!refused);
        QVERIFY(refused.error().message().find("Datum") != std::string::npos);
    }
    /// What nobody covers: the jacket's cut, or the centre line that a slip-on connector stands at.
    void by_itself_the_datum_is_what_stays_to_be_seen() {
        const auto job = test::demo_job();
        for (const auto& design : job.designs) {
            const auto p = prepared(job, design.id);
            const auto plan = planned(job, design.id);
            const bool slip_on =
                p.built.datum == place::bushing_centre || p.built.datum == place::adapter_end;
            QVERIFY2(plan.datum == (slip_on ? p.built.datum : place::jacket_cut), design.id.c_str());
            for (const auto side : {CableSide::a, CableSide::b})
                if (const auto* jacket = plan.find(MarkKind::jacket_cut, side); jacket && !slip_on) {
                    QCOMPARE(jacket->from_datum_mm, 0.0);
                    const auto* edge = plan.find(MarkKind::screen_edge, side);
                    if (!edge) continue;
                    QVERIFY2(edge->from_datum_mm > 0, design.id.c_str());
                    COMPARE_WITHIN(edge->from_datum_mm, std::abs(edge->z_mm - jacket->z_mm), 1e-12);
                    COMPARE_WITHIN(plan.line(side).z(edge->from_datum_mm), edge->z_mm, 1e-12);
                }
        }
    }
    /// A distance typed from any datum is where the mark then lies, with the datum where it was; or it is
    /// refused by the mark's name. Nothing else happens.
    void typed_distances_are_obeyed_or_refused() {
        const auto job = test::demo_job();
        int obeyed = 0, refused = 0;
        for (const char* id : {"quay-mast", "causeway", "ring-switch", "berth-1", "cellar", "slipway-end"})
            for (const auto& datum : planned(job, id).datums) {
                auto chosen = job;
                chosen.find_design(id)->work.datum = datum;
                const auto p = prepared(chosen, id);
                const auto plan = planned(chosen, id);
                for (const auto& m : plan.marks) {
                    const double wanted = m.from_datum_mm + 2;
                    const auto value = numbers_for(chosen, p, test::library(), m.place, wanted);
                    if (!value) {
                        ++refused;
                        QVERIFY(!value.error().item.empty() && !value.error().remedy.empty());
                        continue;
                    }
                    ++obeyed;
                    auto typed = chosen;
                    for (const auto& [key, number] : *value) typed.find_design(id)->numbers[key] = number;
                    COMPARE_WITHIN(planned(typed, id).find(m.place)->from_datum_mm, wanted, 0.011);
                }
            }
        QVERIFY(obeyed > 60 && refused > 10);
        // The screen edge can be typed from where distances count by themselves.
        const auto usual = prepared(job, "quay-mast");
        const auto from_jacket = planned(job, "quay-mast").find(MarkKind::screen_edge)->from_datum_mm;
        const auto numbers = numbers_for(job, usual, test::library(), place::screen_edge, from_jacket + 4);
        REQUIRE_OK(numbers);
        QVERIFY(numbers->contains("screen_edge_mm"));
        // The datum itself cannot be moved against itself.
        const auto p = prepared(job, "quay-mast");
        const auto itself = numbers_for(job, p, test::library(), place::jacket_cut, 10);
        QVERIFY(!itself);
        QVERIFY2(itself.error().message().find("all distances count from here") != std::string::npos,
                 itself.error().message().c_str());
    }
    /// What TAPE relies on: a mark moved by one millimetre through its parameter is where the hand is.
    void a_dragged_mark_follows_its_parameter() {
        const auto job = test::demo_job();
        int tried = 0;
        for (const auto& design : job.designs) {
            const auto p = prepared(job, design.id);
            for (const auto& mark : p.built.marks) {
                if (mark.parameter.empty()) continue;
                const auto* family = FamilyTable::shipped().find(design.family);
                QVERIFY2(family->parameter(mark.parameter), (design.id + ": " + mark.parameter).c_str());
                auto moved = job;
                const double now = number_of(p.context(), mark.parameter);
                moved.find_design(design.id)->numbers[mark.parameter] = now + 0.5 * mark.per_mm;
                const auto q = prepare_design(moved, design.id, test::library());
                if (!q) continue; // half a millimetre too much for this design: it says so
                const auto it = std::find_if(q->built.marks.begin(), q->built.marks.end(),
                                             [&](const auto& m) { return m.label == mark.label; });
                QVERIFY2(it != q->built.marks.end(), mark.label.c_str());
                QVERIFY2(std::abs(it->from_datum_mm - mark.from_datum_mm - 0.5) < 0.02,
                         qPrintable(QString("%1, %2: moved by %3")
                                        .arg(design.id.c_str(), mark.label.c_str())
                                        .arg(it->from_datum_mm - mark.from_datum_mm)));
                ++tried;
            }
        }
        QVERIFY(tried > 60);
    }
    void cuts_that_could_cross_are_marginal_and_crossed_ones_fall_short() {
        auto job = with_defaults("heat_shrink_termination");
        auto& numbers = job.designs[0].numbers;
        auto plan = planned(job, "design-1");
        const double metallic = plan.find(MarkKind::metallic_cut)->from_datum_mm;
        numbers["metallic_screen_cut_mm"] = metallic;
        numbers["jacket_cut_mm"] = metallic + 4;
        plan = planned(job, "design-1");
        QCOMPARE(find(plan, "Marks in order")->status, Status::marginal);
        numbers.erase("jacket_cut_mm");
        job.cables[0].cores = 3;
        job.designs[0].work.numbers["crotch_mm"] = 60;
        plan = planned(job, "design-1");
        QCOMPARE(find(plan, "Marks in order")->status, Status::falls_short);
        QCOMPARE(find(plan, "Room on the cores")->status, Status::falls_short);
        QVERIFY(!find(plan, "Room on the cores")->cure.empty());
    }
    void allowance_is_held_against_what_is_usual() {
        auto job = with_defaults("heat_shrink_termination");
        job.designs[0].numbers["insulation_removed_mm"] = 95;
        const auto plan = planned(job, "design-1");
        QCOMPARE(find(plan, "Allowance")->status, Status::marginal);
    }
    void parts_over_the_middle_are_parked_on_the_long_side() {
        auto job = with_defaults("cold_shrink_joint");
        auto& work = job.designs[0].work;
        auto plan = planned(job, "design-1");
        const auto body = std::find_if(plan.parked.begin(), plan.parked.end(),
                                       [](const auto& p) { return p.part == "Body"; });
        QVERIFY(body != plan.parked.end());
        QVERIFY(body->side == CableSide::a && body->over_jacket && body->stacks);
        // One body and one sleeve that nests over nothing: lengths and their spares, worked by hand.
        double needed = 0, nested = 0;
        for (const auto& part : plan.parked)
            if (part.stacks)
                needed += part.length_mm + 50;
            else
                nested = std::max(nested, part.length_mm + 50);
        QCOMPARE(plan.room_needed_mm[0], needed + nested);
        QCOMPARE(plan.room_needed_mm[1], 0.0);
        work.numbers["straight_a_mm"] = 300;
        QCOMPARE(find(planned(job, "design-1"), "Parking behind the jacket cut A")->status,
                 Status::falls_short);
        work.long_side = "b";
        plan = planned(job, "design-1");
        QCOMPARE(plan.status, Status::holds);
        QVERIFY(plan.find(MarkKind::calibration, CableSide::a)); // on the short side
        // A bore that passes the core but not the jacket must find room on the core.
        work = {};
        const auto p = prepared(job, "design-1");
        job.designs[0].numbers["body_expanded_bore_mm"] = 2 * p.dimensions.radius_mm("metallic screen") + 2;
        plan = planned(job, "design-1");
        QCOMPARE(find(plan, "Parking on the core A")->status, Status::falls_short);
        job.designs[0].numbers["a_jacket_cut_mm"] = 900;
        QVERIFY(find(planned(job, "design-1"), "Parking on the core A")->status == Status::holds);
        // A sleeve that is too short for the opening.
        work.numbers["outer_sleeve_mm"] = 300;
        QCOMPARE(find(planned(job, "design-1"), "Re-jacketing sleeve")->status, Status::falls_short);
    }
    void cores_are_cut_to_reach_their_lugs() {
        auto job = with_defaults("heat_shrink_termination");
        job.cables[0].cores = 3;
        job.cables[0].armour = "round wire";
        job.designs[0].work.numbers["core_2_longer_mm"] = 120;
        const auto plan = planned(job, "design-1");
        QVERIFY(plan.cores[0]);
        QCOMPARE(plan.cores[0]->core_length_mm[0], plan.cores[0]->crotch_mm);
        QCOMPARE(plan.cores[0]->core_length_mm[1], plan.cores[0]->crotch_mm + 120);
        QCOMPARE(plan.find(MarkKind::core_tube_end)->from_datum_mm + 150, plan.cores[0]->crotch_mm);
        QVERIFY(plan.find(MarkKind::jacket_cut)->from_datum_mm >
                plan.find(MarkKind::armour_cut)->from_datum_mm);
        // Three equal circles in a circle: diameter (1 + 2/sqrt 3) of one (geometry).
        const auto p = prepared(job, "design-1");
        const auto& c = job.cables[0];
        COMPARE_WITHIN(overall_dimensions(c, p.dimensions).jacket_mm,
                       2.1547 * 2 * p.dimensions.radius_mm("metallic screen") +
                           2 * (c.jacket_thickness_mm + c.armour_thickness_mm + c.bedding_thickness_mm),
                       1e-4);
    }
    /// What a core is longer on A it is shorter on B, so that it runs straight from crotch to crotch; the
    /// opening grows by what the core needs that lies furthest over.
    void staggered_joints_lie_side_by_side_no_more() {
        auto job = with_defaults("heat_shrink_joint");
        job.cables[0].cores = 3;
        const auto plain = planned(job, "design-1");
        QCOMPARE(plain.stagger_mm(), 0.0);
        job.designs[0].work.datum = place::jacket_cut;
        auto& numbers = job.designs[0].work.numbers;
        numbers = {{"core_1_longer_mm", 40}, {"core_2_longer_mm", 100}, {"core_3_longer_mm", 190}};
        const auto plan = planned(job, "design-1");
        QCOMPARE(plan.stagger_mm(), 150.0);
        const auto &a = *plan.cores[0], &b = *plan.cores[1];
        for (std::size_t i = 0; i < 3; ++i)
            COMPARE_WITHIN(a.core_length_mm[i] + b.core_length_mm[i],
                           a.core_length_mm[0] + b.core_length_mm[0], 1e-12);
        QCOMPARE(a.longer_mm(0), 0.0);
        QCOMPARE(a.longer_mm(2), 150.0);
        QCOMPARE(b.longer_mm(0), 150.0);
        QCOMPARE(b.longer_mm(2), 0.0);
        QCOMPARE(plan.added_by_core_mm(*plan.find(MarkKind::screen_edge, CableSide::a)),
                 (std::vector<double>{0, 60, 150}));
        QCOMPARE(plan.added_by_core_mm(*plan.find(MarkKind::screen_edge, CableSide::b)),
                 (std::vector<double>{150, 90, 0}));
        const auto sleeve = [](const CutPlan& p) {
            for (const auto& part : p.parked)
                if (part.place == place::rejacketing_sleeve) return part.length_mm;
            return 0.0;
        };
        QVERIFY(sleeve(plain) > 0);
        COMPARE_WITHIN(sleeve(plan) - sleeve(plain), 150 / 0.9, 1e-9); // as supplied: a tenth is lost
        // A joint of three single cables onto one of three cores has nothing opposite that could be shorter.
        job.cables.push_back(job.cables[0]);
        job.cables[1].id = job.cables[1].title = "single";
        job.cables[1].cores = 1;
        job.designs[0].other_cable_id = "single";
        const auto apart = planned(job, "design-1");
        QVERIFY(!apart.cores[1]);
        QCOMPARE(apart.stagger_mm(), 150.0);
    }
    void unknown_or_absurd_choices_are_named() {
        auto job = with_defaults("heat_shrink_joint");
        auto& work = job.designs[0].work;
        const auto message = [&] {
            const auto plan = make_plan(prepared(job, "design-1"));
            return plan ? std::string() : plan.error().message();
        };
        work.numbers["armour_stub_mm"] = -4;
        QVERIFY(message().find("Armour stub") != std::string::npos);
        work = {};
        work.numbers["nonsense"] = 1;
        QVERIFY(message().find("nonsense") != std::string::npos);
        work = {};
        work.schools["crimps"] = "sideways";
        QVERIFY(message().find("Order of crimps") != std::string::npos);
        work = {};
        work.long_side = "c";
        QVERIFY(message().find("Long side") != std::string::npos);
    }
    void csv_and_json_carry_both_units_and_sources() {
        const auto plan = planned(test::demo_job(), "causeway");
        const auto csv = plan_csv(plan);
        QVERIFY(csv.starts_with("mark,side,from jacket cut (mm),from jacket cut (in)"));
        QCOMPARE(std::count(csv.begin(), csv.end(), '\n'), static_cast<long>(plan.marks.size()) + 1);
        const auto json = plan_json(plan);
        QCOMPARE(json["format"], "needlegauge-marks");
        QCOMPARE(json["marks"].size(), plan.marks.size());
        for (const auto& mark : json["marks"])
            for (const char* key : {"id", "label", "side", "from_datum_mm", "from_neighbour_mm",
                                    "tolerance_mm", "cuts", "spares", "tool", "blade_mm", "why", "verdicts"})
                QVERIFY2(mark.contains(key), key);
    }
    void the_job_keeps_the_choices_of_the_work() {
        auto job = test::demo_job();
        auto& work = job.find_design("causeway")->work;
        work.datum = place::jacket_cut;
        work.long_side = "b";
        work.numbers["outer_lap_mm"] = 95;
        work.schools["shrinking"] = "bottom upwards";
        job.cables[0].armour = "interlocked";
        job.cables[0].bedding_thickness_mm = 1.7;
        job.step_texts["prove-dead"] = "By our rule 12.";
        const auto again = read_job(write_job(job), "x");
        REQUIRE_OK(again);
        QVERIFY(again->find_design("causeway")->work == work);
        QCOMPARE(again->cables[0].armour, std::string("interlocked"));
        QCOMPARE(again->cables[0].bedding_thickness_mm, 1.7);
        QCOMPARE(again->step_texts.at("prove-dead"), std::string("By our rule 12."));
        QCOMPARE(write_job(*again).dump(), write_job(job).dump());
    }
};

QTEST_APPLESS_MAIN(TestPlan)
#include "test_plan.moc"
