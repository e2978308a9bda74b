#include "cable/cable.h"
#include "duty/duty.h"
#include "support.h"
#include "units/quantity.h"

using namespace ng;
using ng::test::library;

class TestCable : public QObject {
    Q_OBJECT
  private slots:
    void conductor_areas() {
        // 1 kcmil = 0.5067 mm2 exactly by definition of the mil; AWG diameters by ASTM B258, d = 0.127 mm x
        // 92^((36-n)/39).
        COMPARE_WITHIN(*conductor_area_mm2("500 kcmil"), 253.35, 1e-4);
        COMPARE_WITHIN(*conductor_area_mm2("4/0 AWG"), 107.2, 1e-3); // 0.4600 in solid
        COMPARE_WITHIN(*conductor_area_mm2("2 AWG"), 33.63, 1e-3);   // 0.2576 in solid
        QCOMPARE(*conductor_area_mm2("240 mm2"), 240.0);
    }
    void bad_conductor_sizes_are_refused() {
        for (const char* size : {"", "240", "5/0 AWG", "-3 kcmil", "many mm2", "240 cm", "99999 kcmil"}) {
            const auto area = conductor_area_mm2(size);
            QVERIFY2(!area, size);
            QCOMPARE(area.error().item, std::string("conductor size"));
        }
    }
    void tabled_conductors_have_a_possible_fill_factor() {
        // Metal area over the circle of the tabled diameter: strands leave gaps, so between 0.70 and 1
        // (handbook range from memory).
        for (const auto& row : library().cables.conductors) {
            const double circle = std::numbers::pi / 4 * row.diameter_mm.value * row.diameter_mm.value;
            const double fill = *conductor_area_mm2(row.size) / circle;
            QVERIFY2(fill > 0.70 && fill < 1.0,
                     qPrintable(QString("%1 %2: %3").arg(row.size.c_str(), row.stranding.c_str()).arg(fill)));
        }
    }
    void every_diameter_follows_from_the_layers() {
        Cable c; // 4/0 AWG compressed, 15 kV 100 %
        const auto d = derive_dimensions(c, library().cables);
        REQUIRE_OK(d);
        QCOMPARE(d->layer("conductor").diameter_mm, 13.0); // 0.512 in
        QCOMPARE(d->layer("conductor screen").diameter_mm, 14.0);
        QCOMPARE(d->layer("insulation").diameter_mm, 14.0 + 2 * 4.445); // 175 mil
        QCOMPARE(d->layer("jacket").diameter_mm, 14.0 + 2 * (4.445 + 0.8 + 1.3 + 2.0));
        QCOMPARE(d->layer("insulation").provenance, Provenance::from_memory);
    }
    void a_measured_diameter_goes_before_the_table() {
        Cable c;
        c.measured_diameter_mm["insulation"] = 23.4;
        const auto d = derive_dimensions(c, library().cables);
        REQUIRE_OK(d);
        QCOMPARE(d->layer("insulation").diameter_mm, 23.4);
        QCOMPARE(d->layer("insulation").thickness_mm, 4.7);
        QCOMPARE(d->layer("insulation").provenance, Provenance::measured);
        QCOMPARE(d->layer("insulation screen").diameter_mm, 25.0);
    }
    void sizes_outside_the_table_are_computed_and_say_so() {
        Cable c;
        c.conductor_size = "400 kcmil";
        const auto d = derive_dimensions(c, library().cables);
        REQUIRE_OK(d);
        QCOMPARE(d->layer("conductor").provenance, Provenance::computed);
        COMPARE_WITHIN(d->layer("conductor").diameter_mm,
                       std::sqrt(4 * 400 * mm2_per_kcmil / (std::numbers::pi * 0.80)), 1e-12);
    }
    void impossible_layers_name_themselves_data() {
        QTest::addColumn<QString>("layer");
        QTest::addColumn<double>("thickness");
        QTest::newRow("zero") << "insulation" << 0.0;
        QTest::newRow("zero after rounding") << "insulation" << 0.004;
        QTest::newRow("negative") << "insulation screen" << -0.8;
        QTest::newRow("not a number") << "jacket" << std::nan("");
        QTest::newRow("absurd") << "jacket" << 4000.0;
    }
    void impossible_layers_name_themselves() {
        QFETCH(QString, layer);
        QFETCH(double, thickness);
        Cable c;
        if (layer == "insulation") c.insulation_thickness_mm = thickness;
        if (layer == "insulation screen") c.insulation_screen_thickness_mm = thickness;
        if (layer == "jacket") c.jacket_thickness_mm = thickness;
        const auto d = derive_dimensions(c, library().cables);
        QVERIFY(!d);
        QCOMPARE(QString::fromStdString(d.error().item), layer);
    }
    void a_measured_diameter_that_contradicts_class_and_level_says_so() {
        Cable c;
        const auto table = derive_dimensions(c, library().cables);
        REQUIRE_OK(table);
        const auto& layer = table->layer("insulation");
        // Within what table and caliper leave open: nothing. A class higher: said, with both figures.
        c.measured_diameter_mm["insulation"] = layer.diameter_mm + 0.5 * layer.uncertainty_mm;
        QVERIFY(derive_dimensions(c, library().cables)->layer("insulation").contradiction.empty());
        c.measured_diameter_mm["insulation"] = layer.diameter_mm + 2 * (6.604 - 4.445); // of 25 kV
        const auto said = derive_dimensions(c, library().cables)->layer("insulation").contradiction;
        QVERIFY2(said.find("15 kV at level 100%") != std::string::npos &&
                     said.find("another class") != std::string::npos,
                 said.c_str());
        c.insulation_thickness_mm = 4.445; // typed in: the user's own
        QVERIFY(derive_dimensions(c, library().cables)->layer("insulation").contradiction.empty());
        Cable conductor;
        conductor.measured_diameter_mm["conductor"] = 1.2 * table->layer("conductor").diameter_mm;
        QVERIFY(!derive_dimensions(conductor, library().cables)->layer("conductor").contradiction.empty());
    }
    void a_measured_diameter_below_the_layer_beneath_is_refused() {
        Cable c;
        c.measured_diameter_mm["insulation"] = 13.5; // the conductor screen is 14.0
        const auto d = derive_dimensions(c, library().cables);
        QVERIFY(!d);
        QCOMPARE(d.error().item, std::string("insulation"));
    }
    void electrical_figures_match_the_handbook_formulas() {
        // C = 2 pi eps0 eps_r / ln(D/d), I = omega C U, E = U / (r ln(R/r)): any power-cable handbook.
        Cable c;
        const auto d = *derive_dimensions(c, library().cables);
        const auto e = cable_electrical(d, 2.3, 8.7, 60);
        const double ratio = std::log(22.89 / 14.0);
        COMPARE_WITHIN(e.capacitance_F_per_m, 2 * std::numbers::pi * 8.8541878128e-12 * 2.3 / ratio, 1e-9);
        COMPARE_WITHIN(e.charging_current_A_per_m, 2 * std::numbers::pi * 60 * e.capacitance_F_per_m * 8700,
                       1e-9);
        COMPARE_WITHIN(e.stress_conductor_screen_kV_per_mm, 8.7 / (7.0 * ratio), 1e-9);
        COMPARE_WITHIN(e.stress_insulation_screen_kV_per_mm, 8.7 / (11.445 * ratio), 1e-9);
    }
    void duty_levels_come_with_provenance() {
        Duty duty;
        const auto levels = duty_levels(duty, library().standards);
        REQUIRE_OK(levels);
        COMPARE_WITHIN(duty.u0(), 8.660, 1e-3); // 15 / sqrt 3
        for (const auto& [name, value] : levels->levels) {
            QVERIFY(!value.verified);
            QCOMPARE(value.provenance, Provenance::from_memory);
        }
        QCOMPARE(levels->levels.at("bil_kV").unit, std::string("kV peak"));
    }
    void every_class_from_5_to_46_kV_is_there() {
        for (const double c : {5.0, 8.7, 15.0, 25.0, 34.5, 46.0}) {
            Duty duty;
            duty.class_kV = c;
            REQUIRE_OK(duty_levels(duty, library().standards));
        }
    }
    void an_unknown_class_or_voltage_is_refused() {
        Duty duty;
        duty.class_kV = 17;
        QVERIFY(duty_levels(duty, library().standards).error().remedy.find("34.5") != std::string::npos);
        duty.class_kV = 15;
        duty.u0_kV = -3;
        QVERIFY(!duty_levels(duty, library().standards));
        duty.u0_kV = 8.7;
        duty.frequency_hz = 0;
        QVERIFY(!duty_levels(duty, library().standards));
        duty.standard = "none";
        QVERIFY(!duty_levels(duty, library().standards));
    }
    void a_contradictory_pack_is_refused_by_item() {
        const auto pack = [](double second_bil) {
            const auto level = [](double v) {
                return nlohmann::json{
                    {"bil_kV", {{"value", v}, {"unit", "kV peak"}, {"provenance", "user"}}}};
            };
            return nlohmann::json{{"format", "needlegauge-standards"},
                                  {"version", 1},
                                  {"id", "x"},
                                  {"title", "X"},
                                  {"edition", "1"},
                                  {"pd_limit_pC", 5},
                                  {"levels", {{{"name", "bil_kV"}, {"title", "BIL"}, {"kind", "impulse"}}}},
                                  {"classes",
                                   {{{"class_kV", 15}, {"levels", level(110)}},
                                    {{"class_kV", 25}, {"levels", level(second_bil)}}}}};
        };
        REQUIRE_OK(read_standards_pack(pack(150)));
        QVERIFY(read_standards_pack(pack(100)).error().item.find("25") != std::string::npos);
        QVERIFY(!read_standards_pack(pack(-1)));
    }
};
QTEST_APPLESS_MAIN(TestCable)
#include "test_cable.moc"
