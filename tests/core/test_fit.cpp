// Caliper readings, kit tables, connectors, tape arithmetic, interface pressure, and fit as a whole.
#include "fit/fit.h"
#include "io/csv.h"
#include "support.h"

using namespace ng;

namespace {

Result<PreparedDesign> prepared(Job job) {
    return prepare_design(job, job.designs[0].id, test::library());
}

const FitCheck* find(const FitReport& report, const std::string& title) {
    for (const auto& c : report.checks)
        if (c.title == title) return &c;
    return nullptr;
}

} // namespace

class TestFit : public QObject {
    Q_OBJECT
  private slots:
    void each_figure_of_the_tape_is_set_by_its_name_and_has_a_range() {
        const Tape usual;
        for (const auto& f : tape_figures) {
            QVERIFY2(usual.*f.figure >= f.lowest && usual.*f.figure <= f.highest, f.key);
            const double between = (f.lowest + f.highest) / 2;
            const auto set = tape_of({{f.key, between}});
            REQUIRE_OK(set);
            for (const auto& other : tape_figures)
                QCOMPARE((*set).*other.figure, &f == &other ? between : usual.*other.figure);
            for (const double bad : {f.lowest * 0.99, f.highest * 1.01, std::nan("")}) {
                const auto refused = tape_of({{f.key, bad}});
                QVERIFY2(!refused, f.key);
                QCOMPARE(refused.error().item, std::string(f.label));
            }
        }
        QCOMPARE(tape_of({})->width_mm, usual.width_mm);
    }
    void readings_give_mean_oval_and_uncertainty() {
        const auto m =
            measured_diameter({{25.10, false}, {25.30, true}, {25.14, false}, {25.34, true}}, "insulation");
        REQUIRE_OK(m);
        QCOMPARE(m->readings, 4);
        COMPARE_WITHIN(m->mean_mm, 25.22, 1e-12);
        COMPARE_WITHIN(m->ovality_mm, 0.20, 1e-9);
        // By hand after JCGM 100: within each direction the readings lie 0.02 from its mean, two degrees of
        // freedom: s = sqrt(4 x 0.0004 / 2); type A s / 2; caliper 0.05 / sqrt 3; oval 0.1 / sqrt 3; twice
        // the root sum.
        const double s = std::sqrt(4 * 0.0004 / 2), a = s / 2, c = 0.05 / std::sqrt(3.0),
                     o = 0.1 / std::sqrt(3.0);
        COMPARE_WITHIN(m->uncertainty_mm, 2 * std::sqrt(a * a + c * c + o * o), 1e-9);
    }
    void more_readings_make_it_surer() {
        std::vector<CaliperReading> readings{{25.1}};
        double last = measured_diameter(readings, "x")->uncertainty_mm;
        for (int i = 0; i < 3; ++i) { // the same spread, more of them
            readings.push_back({25.08});
            readings.push_back({25.12});
            readings.push_back({25.10});
            const double now = measured_diameter(readings, "x")->uncertainty_mm;
            QVERIFY(now < last);
            last = now;
        }
    }
    void bad_readings_name_the_layer() {
        for (const auto& bad :
             {std::vector<CaliperReading>{}, {{-1.0}}, {{std::nan("")}}, {{25.0}, {35.0}}}) {
            const auto m = measured_diameter(bad, "insulation");
            QVERIFY(!m);
            QCOMPARE(m.error().item, std::string("insulation"));
        }
    }
    void readings_go_before_table_and_single_value() {
        auto job = new_job();
        job.cables[0].measured_diameter_mm["insulation"] = 26;
        job.cables[0].caliper_readings["insulation"] = {{25.4, false}, {25.6, true}};
        const auto p = prepared(job);
        REQUIRE_OK(p);
        COMPARE_WITHIN(p->dimensions.layer("insulation").diameter_mm, 25.5, 1e-9);
        QVERIFY(p->dimensions.layer("insulation").note.find("2 caliper readings") != std::string::npos);
        QVERIFY(p->dimensions.layer("insulation").uncertainty_mm > 0.05);
        // And they survive the file.
        const auto again = read_job(nlohmann::json::parse(write_job(job).dump()), "again");
        REQUIRE_OK(again);
        QVERIFY(again->cables[0].caliper_readings == job.cables[0].caliper_readings);
    }
    void a_value_within_its_uncertainty_of_an_end_is_marginal() {
        QCOMPARE(within_range(20, 0.5, 18, 30), Status::holds);
        QCOMPARE(within_range(18.3, 0.5, 18, 30), Status::marginal);
        QCOMPARE(within_range(17.8, 0.5, 18, 30), Status::marginal);
        QCOMPARE(within_range(17, 0.5, 18, 30), Status::falls_short);
        QCOMPARE(within_range(29.8, 0.5, 18, 30), Status::marginal);
        QCOMPARE(within_range(31, 0.5, 18, 30), Status::falls_short);
        QCOMPARE(within_range(500, 1, 18, 0), Status::holds); // no upper end
    }
    void parts_are_judged_and_a_size_is_suggested() {
        auto job = new_job();
        const auto base = prepared(job);
        REQUIRE_OK(base);
        QCOMPARE(base->fit.status, Status::holds);
        const auto* on = find(base->fit, "stress tube on insulation");
        QVERIFY(on);
        // A bore just below the insulation: within its uncertainty.
        job.designs[0].numbers["tube_recovered_bore_mm"] = on->value - 0.2;
        const auto near = prepared(job);
        REQUIRE_OK(near);
        const auto* check = find(near->fit, "stress tube on insulation");
        QCOMPARE(check->status, Status::marginal);
        QVERIFY(check->suggestion.rfind("fits: OP-S", 0) == 0);
        QCOMPARE(near->fit.status, Status::marginal);
    }
    void suggested_sizes_fit() {
        const FitItem item{place::stress_tube.on(Side::a),
                           "stress tube A",
                           FitItem::Kind::shrink,
                           {20, 19, 2},
                           {{place::insulation, 25.2}, {place::insulation_screen, 27}},
                           "tube"};
        const auto* size = best_size(test::library().kits, item, 0.5, test::library().limits);
        QVERIFY(size && size->tube.recovered_bore_mm <= 24.7 && size->tube.expanded_bore_mm >= 27.5);
        const FitItem huge{place::stress_tube,         "stress tube", FitItem::Kind::shrink, {},
                           {{place::insulation, 250}}, "tube"};
        QVERIFY(!best_size(test::library().kits, huge, 0.5, test::library().limits));
    }
    void rubber_is_judged_by_its_stretch() {
        // Common practice, no source: 12 to 120 % on the core.
        auto job = new_job();
        job.designs[0].family = "cold_shrink_joint";
        job.designs[0].duty.standard = "ieee404";
        const double insulation = prepared(job)->dimensions.layer("insulation").diameter_mm;
        job.designs[0].numbers["body_recovered_bore_mm"] = insulation / 1.05;
        const auto loose = prepared(job);
        REQUIRE_OK(loose);
        QCOMPARE(loose->fit.status, Status::falls_short);
        QVERIFY(loose->fit.notes.front().find("stretched 5 %") != std::string::npos);
    }
    void pressure_agrees_with_small_strain_theory() {
        // Lame's thick cylinder for an incompressible elastic tube in plane strain (any textbook of
        // elasticity): an inner displacement u gives p = 2 G (u / a) (1 - a^2 / b^2).
        const closedform::ShrinkTube tube{60, 20, 5};
        const double a = 10, b = 15, u = 0.01, G = 0.35;
        COMPARE_WITHIN(interface_pressure_kPa(tube, 2 * (a + u), G),
                       1e3 * 2 * G * (u / a) * (1 - a * a / (b * b)), 5e-3);
        QVERIFY(interface_pressure_kPa(tube, 30, G) > interface_pressure_kPa(tube, 25, G));
        QVERIFY(std::abs(interface_pressure_kPa(tube, 20, G)) < 1e-9);
    }
    void half_lapped_tape_by_hand() {
        // 19 mm x 0.76 mm tape pulled to double length: width and thickness fall by sqrt 2, a half-lapped
        // pass adds two thicknesses: 1.075 mm on the radius. From 20 to 42 mm over 100 mm: 11 mm in 11
        // passes; volume pi/4 (42^2 - 20^2) 100 = 107128 mm^3; divided by 19 x 0.76 it is 7419 mm of tape.
        Tape tape;
        COMPARE_WITHIN(tape.laid_thickness_mm(), 0.5374, 1e-3);
        COMPARE_WITHIN(tape.laid_width_mm(), 13.435, 1e-3);
        const auto q = tape_quantity(20, 42, 100, tape);
        QCOMPARE(q.passes, 11);
        COMPARE_WITHIN(q.volume_mm3, 107128.0, 1e-4);
        COMPARE_WITHIN(q.supplied_mm, 7419.0, 1e-3);
        QCOMPARE(q.rolls, 1);
        QVERIFY(q.laid_diameter_mm >= 42);
        COMPARE_WITHIN(cone_step_mm(60, 12), 5.0, 1e-12);
        // Volume kept: passes times laid thickness times length, whatever the stretch.
        Tape slack = tape;
        slack.stretch = 1;
        COMPARE_WITHIN(tape_quantity(20, 42, 100, slack).supplied_mm, q.supplied_mm, 1e-9);
        QVERIFY(tape_quantity(20, 42, 100, slack).passes < q.passes);
    }
    void volumes_of_cones_by_hand() {
        // Frustum of radii 10 and 16 over 30 mm on a cylinder of radius 10: pi 30 (100 + 160 + 256) / 3 - pi
        // 100 30.
        const std::vector<Point> inner{{10, 0}, {10, 30}}, outer{{10, 0}, {16, 30}};
        COMPARE_WITHIN(volume_between_mm3(inner, outer), std::numbers::pi * (30 * 516.0 / 3 - 3000), 1e-12);
    }
    void a_taped_joint_counts_its_tape() {
        auto job = new_job();
        job.designs[0].family = "taped_joint";
        job.designs[0].duty.standard = "ieee404";
        const auto p = prepared(job);
        REQUIRE_OK(p);
        const auto it = std::find_if(p->fit.quantities.begin(), p->fit.quantities.end(),
                                     [](const auto& q) { return q.part == "insulating tape"; });
        QVERIFY(it != p->fit.quantities.end() && it->tape && it->tape->passes > 5 && it->tape->rolls >= 1);
        job.designs[0].numbers["tape_roll_mm"] = 1000;
        QVERIFY(prepared(job)->fit.quantities[1].tape->rolls > it->tape->rolls);
    }
    void connectors_are_offered_and_taken() {
        auto job = new_job();
        const auto p = prepared(job);
        const auto list = connectors_for(test::library().connectors, "lug", p->cable, p->dimensions);
        QVERIFY(list.size() > 3);
        QVERIFY(p->dimensions.conductor_area_mm2 >= list.front()->least_mm2 &&
                p->dimensions.conductor_area_mm2 <= list.front()->most_mm2);
        take_connector(job.designs[0], test::family(job.designs[0].family).connector, *list.front());
        const auto taken = prepared(job);
        REQUIRE_OK(taken);
        const auto* area = find(taken->fit, "conductor in the range of " + list.front()->id);
        QVERIFY(area && area->status == Status::holds);
        QCOMPARE(job.designs[0].numbers.at("lug_barrel_depth_mm"), list.front()->length_mm);
        job.designs[0].choices["connector"] = list.back()->id;
        QVERIFY(prepared(job)->fit.status != Status::holds);
        job.designs[0].choices["connector"] = "no such";
        QCOMPARE(prepared(job)->fit.status, Status::marginal);
    }
    void clearances_are_judged() {
        auto job = new_job();
        job.designs[0].family = "extension_adapter";
        job.designs[0].duty.standard = "ieee404";
        job.designs[0].numbers["phase_spacing_mm"] = 60;
        const auto p = prepared(job);
        REQUIRE_OK(p);
        QCOMPARE(p->fit.status, Status::falls_short);
    }
    void tables_name_the_row_that_is_wrong_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("words");
        const QString head = "part,kind,size,expanded_bore_mm,recovered_bore_mm,recovered_wall_mm\n";
        QTest::newRow("empty") << ""
                               << "empty";
        QTest::newRow("no column") << "part,kind\nbody,shrink\n"
                                   << "size";
        QTest::newRow("no number") << head + "body,shrink,S,ten,5,2\n"
                                   << "ten";
        QTest::newRow("kind") << head + "body,stretch,S,10,5,2\n"
                              << "stretch";
        QTest::newRow("upside down") << head + "body,shrink,S,5,10,2\n"
                                     << "row 2";
        QTest::newRow("short row") << head + "body,shrink,S,5\n"
                                   << "row 2";
        QTest::newRow("open quote") << head + "body,\"shrink,S,5,3,2\n"
                                    << "CSV";
    }
    void tables_name_the_row_that_is_wrong() {
        QFETCH(QString, text);
        QFETCH(QString, words);
        const auto table = read_kit_table(text.toStdString(), "kits.csv");
        QVERIFY(!table);
        QCOMPARE(table.error().item, std::string("kits.csv"));
        QVERIFY2(QString::fromStdString(table.error().message()).contains(words),
                 table.error().message().c_str());
    }
    void connectors_refuse_nonsense() {
        const std::string head =
            "id,use,method,material,least_mm2,most_mm2,bore_mm,diameter_mm,length_mm,die,crimps_each_side\n";
        REQUIRE_OK(read_connectors(head + "A,lug,compression,copper,50,70,11,17,44,17,2\n", "c.csv"));
        QVERIFY(!read_connectors(head + "A,nail,compression,copper,50,70,11,17,44,17,2\n", "c.csv"));
        QVERIFY(!read_connectors(head + "A,lug,compression,copper,70,50,11,17,44,17,2\n", "c.csv"));
    }
    void tables_of_strangers() {
        const std::string head = "part,kind,size,expanded_bore_mm,recovered_bore_mm,recovered_wall_mm\r\n",
                          row = "body,cold-shrink,S,30,10,3\r\n";
        REQUIRE_OK(read_kit_table("\xef\xbb\xbf" + head + row, "bom.csv"));
        const auto refusal = [&](const std::string& text) {
            const auto table = read_kit_table(text, "k.csv");
            return table ? std::string() : table.error().message();
        };
        QVERIFY(refusal(head + "boddy,cold-shrink,S,30,10,3\r\n").find("boddy") != std::string::npos);
        QVERIFY(refusal(head + row + row).find("row 3") != std::string::npos);
        QVERIFY(refusal(head + row +
                        "body,cold-shrink,gr\xf6\xdf"
                        "e,30,10,3\r\n")
                    .find("row 3") != std::string::npos);
        QVERIFY(refusal("part,part\r\n").find("twice") != std::string::npos);
        std::string many = head;
        for (int i = 0; i < most_csv_rows + 5; ++i) many += "a,b,c,1,2,3\n";
        QVERIFY(refusal(many).find("100000 rows") != std::string::npos);
        const std::string connectors =
            "id,use,method,material,least_mm2,most_mm2,bore_mm,diameter_mm,length_mm,die,crimps_each_side\n"
            "A,lug,compression,copper,50,70,11,17,44,17,2\n";
        REQUIRE_OK(read_connectors(connectors, "c.csv"));
        QVERIFY(!read_connectors(connectors + "A,lug,compression,copper,50,70,11,17,44,17,2\n", "c.csv"));
    }
    void what_families_ask_for_can_be_in_a_table() {
        const auto library = load_library(NEEDLEGAUGE_DATA_DIR);
        REQUIRE_OK(library);
        for (const auto& design : test::demo_job().designs) {
            const auto prepared = prepare_design(test::demo_job(), design.id, *library);
            REQUIRE_OK(prepared);
            for (const auto& item : prepared->built.fit) {
                // The name of the part, without what tells its side or layer.
                bool known = false;
                for (auto name = item.part; !name.empty() && !known; name.pop_back())
                    known = read_kit_table("part,kind,size,expanded_bore_mm,recovered_bore_mm,"
                                           "recovered_wall_mm\n" +
                                               name + ",shrink,S,30,10,3\n",
                                           "k.csv")
                                .has_value();
                QVERIFY2(known, item.part.c_str());
            }
        }
    }
    void cells_start_no_formula() {
        QCOMPARE(csv_field("=1+2"), std::string("'=1+2"));
        QCOMPARE(csv_field("@x, y"), std::string("\"'@x, y\""));
        QCOMPARE(csv_field("-cut"), std::string("'-cut"));
        for (const char* number : {"-1.5", "+3e-4", "-0"}) QCOMPARE(csv_field(number), std::string(number));
    }
    void csv_keeps_quoted_commas() {
        const auto rows = read_csv("name,size\r\n\"tube, long\",\"3 \"\"S\"\"\"\r\n", "x.csv");
        REQUIRE_OK(rows);
        QCOMPARE(*rows->front().text("name", "x.csv"), std::string("tube, long"));
        QCOMPARE(*rows->front().text("size", "x.csv"), std::string("3 \"S\""));
        QCOMPARE(csv_field("tube, long"), std::string("\"tube, long\""));
        QCOMPARE(csv_field("plain"), std::string("plain"));
    }
};
QTEST_APPLESS_MAIN(TestFit)
#include "test_fit.moc"
