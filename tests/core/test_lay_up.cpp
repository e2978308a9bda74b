// The tools that families lay up with: profiles, cable ends, bands, planar shapes.
#include "accessory/across.h"
#include "accessory/lay_up.h"
#include "support.h"

using namespace ng;

namespace {

CableEnd end() {
    CableEnd e;
    e.r = {6.5, 7, 12, 12.9, 14, 16};
    e.insulation_title = "XLPE";
    e.far = -120;
    e.jacket = -90;
    e.metallic = -60;
    e.screen = 0;
    e.insulation = 100;
    e.conductor = 140;
    return e;
}

double area(const Outline& outline) {
    return std::abs(signed_area(polygon_of(outline, 0.02)));
}

} // namespace

class TestLayUp : public QObject {
    Q_OBJECT
  private slots:
    void a_profile_above_another_keeps_the_higher_and_touches_where_near() {
        const Profile floor({{10, 0}, {10, 100}});
        const Profile line({{10.005, 0}, {14, 40}, {8, 100}});
        const auto above = line.above(floor);
        QCOMPARE(above.radius(0), 10.0); // all but touching: touches
        QCOMPARE(above.radius(40), 14.0);
        QCOMPARE(above.radius(100), 10.0);
        COMPARE_WITHIN(above.radius(80), 10.0, 1e-9); // crossed at 80
        COMPARE_WITHIN(above.radius(60), 12.0, 1e-9);
    }
    void mirroring_twice_changes_nothing() {
        const auto e = end();
        const auto once = mirrored(e.screen_outline()), twice = mirrored(once);
        const auto a = polygon_of(e.screen_outline(), 0.1), b = polygon_of(twice, 0.1);
        QCOMPARE(a.size(), b.size());
        for (std::size_t i = 0; i < a.size(); ++i) QVERIFY(distance(a[i], b[i]) < 1e-9);
        COMPARE_WITHIN(area(once), area(e.screen_outline()), 1e-9);
    }
    void cuts_out_of_order_are_refused_with_their_side() {
        auto e = end();
        REQUIRE_OK(e.check());
        e.side = Side::b;
        e.metallic = 2;
        QCOMPARE(e.check().error().item, std::string("Metallic screen cut B"));
        e = end();
        e.pencil_mm = 97;
        QCOMPARE(e.check().error().item, std::string("Screen edge"));
        e = end();
        e.edge = {"chamfered", 0.1, 0.4, {}};
        QCOMPARE(e.check().error().item, std::string("Chamfer length"));
    }
    void a_pencil_leaves_its_step_and_the_conductor_screen() {
        auto e = end();
        e.pencil_mm = 48;
        e.conductor_screen_left_mm = 5;
        const auto profile = e.profile();
        QCOMPARE(profile.radius(51), 12.0);
        COMPARE_WITHIN(profile.radius(76), 0.5 * (12 + 7 + pencil_end_step_mm), 1e-9);
        QCOMPARE(profile.radius(103), 7.0);
        QCOMPARE(profile.radius(110), 6.5);
        QCOMPARE(e.insulation_surface().size(), std::size_t(3));
    }
    void a_band_has_the_area_of_its_walls_less_its_corners() {
        const Profile inner({{10, 0}, {10, 50}}), outer({{14, 0}, {14, 50}});
        COMPARE_WITHIN(area(band_outline(inner, outer, {}, {})), 200.0, 1e-9);
        // An outer corner of radius 2 loses (1 - pi / 4) 4 mm^2.
        const auto rounded = band_outline(inner, outer, {2, 0, place::screen_tube}, {});
        COMPARE_WITHIN(area(rounded), 200 - (1 - std::numbers::pi / 4) * 4, 1e-4);
        QCOMPARE(rounded.steps[1].name, std::string("screen tube, outer"));
        // What is laid over it begins below the arc: the chord.
        const auto course = rounded_course(outer, 2, 0);
        QCOMPARE(course.points().front(), (Point{12, 0}));
        COMPARE_WITHIN(course.radius(1), 13.0, 1e-9);
    }
    void rounded_bands_can_be_solved() {
        // A band with both corners rounded on a rod inside an earthed tube: a sound section whose charges
        // balance.
        Section s;
        s.materials["rubber"] = {2.8, {}, {}};
        s.regions.push_back({"rubber", "rubber", test::box(10, -40, 30, 60)});
        const Profile inner({{10, 0}, {10, 20}}), outer({{15, 0}, {15, 20}});
        s.electrodes.push_back({"band", 10, false,
                                band_outline(inner, outer, {2.5, 1, place::screen_tube.on(Side::a)},
                                             {2.5, 1, place::screen_tube.on(Side::b)})});
        s.boundaries.push_back({"tube", 0, {{30, -40}, {30, 60}}});
        REQUIRE_OK(validate(s));
        const auto r = solve(s);
        REQUIRE_OK(r);
        QCOMPARE(r->edges.size(), std::size_t(4));
        // Both ends are alike.
        COMPARE_WITHIN(r->edge("screen tube A, outer")->peak_kV_per_mm,
                       r->edge("screen tube B, outer")->peak_kV_per_mm, 0.02);
        double sum = 0;
        for (const auto& c : r->conductors) sum += c.charge_C;
        QVERIFY(std::abs(sum) < 1e-8 * std::abs(r->conductors[0].charge_C));
    }
    void shapes_across_have_their_areas() {
        COMPARE_WITHIN(area(circle({3, 4}, 5)), std::numbers::pi * 25, 1e-3);
        COMPARE_WITHIN(area(closed(ring({0, 0}, 5))), std::numbers::pi * 25, 2e-3);
        COMPARE_WITHIN(area(closed(stadium(6, 5))), std::numbers::pi * 25 + 12 * 10, 2e-3);
    }
    void a_core_between_parallel_earths_agrees_with_its_closed_form() {
        // A circle of radius a eccentric by c in an earthed circle of radius b (planar): capacitance per
        // metre 2 pi eps / acosh((a^2 + b^2 - c^2) / (2 a b)) (any textbook of electrostatics).
        const double a = 5, b = 15, c = 4;
        Section s;
        s.symmetry = Symmetry::planar;
        s.materials["paper"] = {3.5, {}, {}};
        const auto skin = ring({0, 0}, b, 360);
        s.regions.push_back({"paper", "paper", closed(skin)});
        s.boundaries.push_back({"sheath", 0, skin});
        s.electrodes.push_back({"core", 1, false, circle({0, c}, a)});
        const auto r = solve(s);
        REQUIRE_OK(r);
        double charge = 0;
        for (const auto& k : r->conductors)
            if (k.name == "core") charge = std::abs(k.charge_C);
        const double expected = 2 * std::numbers::pi * 8.8541878128e-12 * 3.5 /
                                std::acosh((a * a + b * b - c * c) / (2 * a * b)) * 1e3;
        COMPARE_WITHIN(charge, expected, 2e-3);
    }
};
QTEST_APPLESS_MAIN(TestLayUp)
#include "test_lay_up.moc"
