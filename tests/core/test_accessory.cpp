#include "accessory/profile.h"
#include "closedform/closedform.h"
#include "support.h"
#include <random>

using namespace ng;

namespace {

Result<PreparedDesign> with(const std::map<std::string, double>& numbers,
                            const std::map<std::string, std::string>& choices = {}) {
    auto job = new_job();
    job.designs[0].numbers = numbers;
    job.designs[0].choices = choices;
    return prepare_design(job, job.designs[0].id, test::library());
}

} // namespace

class TestAccessory : public QObject {
    Q_OBJECT
  private slots:
    void a_new_design_builds_with_every_default() {
        const auto p = with({});
        REQUIRE_OK(p);
        REQUIRE_OK(validate(p->built.section));
        QVERIFY(p->built.marks.size() >= 7);
        QCOMPARE(p->built.handles.size(), std::size_t(3));
        QVERIFY(!p->built.cautions.empty());
    }
    void every_family_describes_itself() {
        for (const auto& family : FamilyTable::shipped()) {
            QVERIFY(FamilyTable::shipped().find(family.id) == &family);
            for (const auto& spec : family.parameters) {
                QVERIFY(!spec.label.empty() && !spec.group.empty());
                QCOMPARE(spec.options.empty(), spec.kind != ParameterKind::choice);
            }
        }
    }
    void common_practice_dimensions_are_the_defaults() {
        // Common practice, no source: mastic about 10 mm onto the insulation and 20 mm onto the screen;
        // insulation removed is barrel depth + 3 mm.
        const auto p = with({{"lug_barrel_depth_mm", 60}});
        REQUIRE_OK(p);
        const auto mark = [&](const std::string& label) {
            return std::find_if(p->built.marks.begin(), p->built.marks.end(),
                                [&](const auto& m) { return m.label == label; })
                ->from_datum_mm;
        };
        QCOMPARE(mark("insulation end"), 63.0);
        QCOMPARE(mark("screen edge") - mark("mastic onto insulation"), 10.0);
        QCOMPARE(mark("mastic onto screen") - mark("screen edge"), 20.0);
    }
    void the_recovered_wall_is_in_the_section() {
        const auto p = with(
            {{"tube_recovered_bore_mm", 12}, {"tube_recovered_wall_mm", 3}, {"tube_expanded_bore_mm", 40}});
        REQUIRE_OK(p);
        const double insulation = p->dimensions.layer("insulation").diameter_mm;
        COMPARE_WITHIN(p->built.derived.at("stress tube wall on insulation (mm)"),
                       *closedform::recovered_wall_mm({40, 12, 3}, insulation, ""), 1e-12);
    }
    void bad_parameters_name_themselves_data() {
        QTest::addColumn<QString>("key");
        QTest::addColumn<double>("value");
        QTest::addColumn<QString>("item");
        QTest::newRow("negative") << "jacket_cut_mm" << -5.0 << "Jacket cut";
        QTest::newRow("not a number") << "screen_edge_mm" << std::nan("") << "Screen edge";
        QTest::newRow("absurd") << "screen_edge_mm" << 1e7 << "Screen edge";
        QTest::newRow("screen edge beyond the insulation end") << "screen_edge_mm" << 50.0 << "Screen edge";
        QTest::newRow("mastic longer than the tube") << "mastic_on_insulation_mm" << 190.0 << "Relief mastic";
        QTest::newRow("mastic longer than the tube's lap")
            << "mastic_on_screen_mm" << 40.0 << "Relief mastic";
        QTest::newRow("tube cannot recover onto this core")
            << "tube_recovered_bore_mm" << 30.0 << "Stress tube";
        QTest::newRow("tube cannot go over") << "tube_expanded_bore_mm" << 20.0 << "Stress tube";
        QTest::newRow("sleeve cannot go over the jacket")
            << "sleeve_expanded_bore_mm" << 30.0 << "Anti-tracking sleeve";
        QTest::newRow("sleeve cannot recover")
            << "sleeve_recovered_bore_mm" << 25.0 << "Anti-tracking sleeve";
        QTest::newRow("tube upside down") << "tube_upper_end_mm" << 400.0 << "Stress tube";
        QTest::newRow("tube beyond the insulation") << "tube_upper_end_mm" << 20.0 << "Stress tube";
        QTest::newRow("tube not on the screen") << "tube_lower_end_mm" << 200.0 << "Stress tube";
        QTest::newRow("edge radius too large") << "edge_radius_mm" << 0.7 << "Edge radius";
        QTest::newRow("lug too small") << "lug_barrel_diameter_mm" << 10.0 << "Lug barrel diameter";
        QTest::newRow("earth inside") << "earth_distance_mm" << 21.0 << "Nearby earth";
        QTest::newRow("permittivity") << "tube_eps_r" << 0.0 << "Permittivity";
    }
    void bad_parameters_name_themselves() {
        QFETCH(QString, key);
        QFETCH(double, value);
        QFETCH(QString, item);
        const auto p = with({{key.toStdString(), value}});
        QVERIFY2(!p, "it was accepted");
        QCOMPARE(QString::fromStdString(p.error().item), item);
        QVERIFY(!p.error().remedy.empty());
    }
    void an_unknown_choice_or_family_is_refused() {
        QVERIFY(with({}, {{"edge_preparation", "chewed"}}).error().item.find("Preparation") !=
                std::string::npos);
        auto job = new_job();
        job.designs[0].family = "flux capacitor";
        QVERIFY(!prepare_design(job, job.designs[0].id, test::library()));
    }
    void a_misspelt_name_is_named_with_the_nearest() {
        const auto number = with({{"screen_egde_mm", 250}});
        QVERIFY(!number);
        QCOMPARE(number.error().item, std::string("parameter screen_egde_mm"));
        QVERIFY(number.error().remedy.find("“screen_edge_mm”") != std::string::npos);
        const auto choice = with({}, {{"relief_mastik", "absent"}});
        QVERIFY(!choice);
        QVERIFY(choice.error().remedy.find("“relief_mastic”") != std::string::npos);
        const auto foreign = with({{"cone_length_mm", 60}}); // of another family
        QVERIFY(!foreign);
        QVERIFY(foreign.error().remedy.find("take it out") != std::string::npos);
        QVERIFY(!with({{"relief_mastic", 1}}));         // a choice is no dimension
        QVERIFY(with({}, {{connector_choice, "any"}})); // of every family
        QVERIFY(with({{"tape_width_mm", 25}, {"tape_stretch", 1.5}}));
        QCOMPARE(with({{"tape_stretch", 9}}).error().item, std::string("Stretch"));
    }
    void a_sharper_edge_is_stressed_more() {
        double last = 0;
        for (const double radius : {0.30, 0.15, 0.06}) {
            const auto p = with({{"edge_radius_mm", radius}});
            REQUIRE_OK(p);
            const auto r = solve(p->built.section);
            REQUIRE_OK(r);
            const double peak = std::max(r->edge("screen edge, inner")->peak_kV_per_mm,
                                         r->edge("screen edge, outer")->peak_kV_per_mm);
            QVERIFY(peak > last);
            last = peak;
        }
    }
    void without_mastic_air_is_left_at_the_edge_and_judged() {
        const auto p = with({}, {{"relief_mastic", "absent"}});
        REQUIRE_OK(p);
        const auto r = solve(p->built.section);
        REQUIRE_OK(r);
        const auto* wedge = r->path("air wedge");
        QVERIFY(wedge && wedge->peak_kV_per_mm > 0);
        const auto verdict = judge(p->built, p->design.duty, p->levels, p->limits, LevelSolutions{*r, {}});
        const auto it = std::find_if(verdict.checks.begin(), verdict.checks.end(),
                                     [](const auto& c) { return c.id == CheckKind::air_wedge; });
        QVERIFY(it != verdict.checks.end());
        QCOMPARE(it->status, Status::falls_short);
        QVERIFY(it->cure.find("mastic") != std::string::npos);
    }
    void every_preparation_builds_and_solves() {
        for (const char* how : {"ring", "filed", "chamfered"})
            for (const char* mastic : {"present", "absent"})
                for (const char* step : {"filled", "open"}) {
                    const auto p =
                        with({}, {{"edge_preparation", how}, {"relief_mastic", mastic}, {"tube_end", step}});
                    REQUIRE_OK(p);
                    SolveOptions coarse;
                    coarse.coarse = true;
                    REQUIRE_OK(solve(p->built.section, coarse));
                }
    }
    void random_parameters_build_and_solve_or_name_what_is_wrong() {
        std::mt19937 generator(20261124);
        auto between = [&](double a, double b) { return std::uniform_real_distribution<>(a, b)(generator); };
        int built = 0;
        for (int i = 0; i < 120; ++i) {
            const double edge = between(120, 400), tube_up = edge - between(2, 110);
            const auto p = with({{"screen_edge_mm", edge},
                                 {"tube_upper_end_mm", tube_up},
                                 {"tube_lower_end_mm", edge + between(2, 44)},
                                 {"mastic_on_insulation_mm", between(1, 20)},
                                 {"mastic_on_screen_mm", between(1, 30)},
                                 {"mastic_thickness_mm", between(0.1, 3)},
                                 {"edge_radius_mm", between(0.03, 0.35)},
                                 {"tube_recovered_wall_mm", between(0.8, 6)},
                                 {"tube_eps_r", between(2, 40)}},
                                {{"edge_preparation", i % 3 == 0   ? "ring"
                                                      : i % 3 == 1 ? "filed"
                                                                   : "chamfered"},
                                 {"relief_mastic", i % 4 ? "present" : "absent"}});
            if (!p) {
                QVERIFY(!p.error().item.empty() && !p.error().remedy.empty());
                continue;
            }
            ++built;
            SolveOptions coarse;
            coarse.coarse = true;
            const auto r = solve(p->built.section, coarse);
            REQUIRE_OK(r);
            const double u0 = p->design.duty.u0();
            // A potential outside its electrodes' range would be silent nonsense; P2 elements overshoot by a
            // little.
            QVERIFY(r->potential_kV.minCoeff() > -0.02 * u0 && r->potential_kV.maxCoeff() < 1.02 * u0);
            double sum = 0;
            for (const auto& c : r->conductors) sum += c.charge_C;
            QVERIFY(std::abs(sum) < 1e-8 * std::abs(r->conductors[0].charge_C));
        }
        QVERIFY2(built > 40, qPrintable(QString("only %1 of 120 built").arg(built)));
    }
    void profiles_span_steps_at_the_stated_slope() {
        const Profile step({{10, 0}, {10, 20}, {8, 20}, {8, 60}});
        const auto spanned = step.spanned();
        QCOMPARE(spanned.radius(20), 10.0);
        COMPARE_WITHIN(spanned.radius(20 + bridge_length_per_height), 9.0, 1e-9);
        QCOMPARE(spanned.radius(20 + 2 * bridge_length_per_height + 0.01), 8.0);
        const Profile rise({{8, 0}, {8, 20}, {10, 20}, {10, 60}});
        COMPARE_WITHIN(rise.spanned().radius(20 - bridge_length_per_height), 9.0, 1e-9);
    }
    void a_part_laid_over_a_profile_replaces_it_there_only() {
        const Profile base({{10, 0}, {10, 100}});
        const auto over = base.covered_by(Profile({{12, 40}, {12, 60}}));
        QCOMPARE(over.radius(30), 10.0);
        QCOMPARE(over.radius(50), 12.0);
        QCOMPARE(over.radius(70), 10.0);
        QCOMPARE(over.greatest_radius(), 12.0);
        QCOMPARE(over.between(45, 55).smallest_radius(), 12.0);
    }
};
QTEST_APPLESS_MAIN(TestAccessory)
#include "test_accessory.moc"
