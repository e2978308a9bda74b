// What must hold whatever the section: balance of charges, translation, scaling and mirroring, on sections
// drawn at random from a fixed seed.
#include "section_changes.h"
#include "support.h"
#include <random>

using namespace ng;
using test::changed;

namespace {

Section random_section(unsigned seed) {
    std::mt19937 random(seed);
    auto between = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    Section s;
    s.symmetry = seed % 3 == 0 ? Symmetry::planar : Symmetry::axisymmetric;
    s.materials["space"] = {1, {}, {}};
    s.regions = {{"space", "space", test::box(5, 0, 65, 50)}};
    const int pieces = 1 + static_cast<int>(seed % 4);
    for (int i = 0; i < pieces; ++i) {
        const auto name = "piece " + std::to_string(i);
        s.materials[name] = {between(1, 30), {}, {}};
        // A convex four-corner shape; pieces may cross and cover each other.
        const Point c{between(15, 55), between(10, 40)};
        const double a = between(0, 1), w = between(3, 8);
        std::vector<Point> corners;
        for (int k = 0; k < 4; ++k) {
            const double angle = a + k * std::numbers::pi / 2;
            corners.push_back({c.r + w * std::cos(angle), c.z + 0.6 * w * std::sin(angle)});
        }
        s.regions.push_back({name, name, Outline::polygon(corners)});
    }
    Outline disc; // rounded electrode
    const Point c{between(25, 45), between(18, 32)};
    disc.start = {c.r - 2, c.z};
    disc.arc_to({c.r, c.z - 2}, c, "south")
        .arc_to({c.r + 2, c.z}, c)
        .arc_to({c.r, c.z + 2}, c)
        .arc_to({c.r - 2, c.z}, c);
    s.electrodes = {{"disc", between(1, 20), false, disc}};
    s.boundaries = {{"box", 0, {{5, 0}, {65, 0}, {65, 50}, {5, 50}}}};
    return s;
}

} // namespace

class TestRandomSections : public QObject {
    Q_OBJECT
  private slots:
    void hold_what_every_section_must_data() {
        QTest::addColumn<unsigned>("seed");
        for (unsigned seed = 1; seed <= 16; ++seed) QTest::addRow("seed %u", seed) << seed;
    }
    void hold_what_every_section_must() {
        QFETCH(unsigned, seed);
        const auto s = random_section(seed);
        const auto base = solve(s);
        REQUIRE_OK(base);
        double sum = 0, largest = 0, energy = 0;
        for (const auto& c : base->conductors) {
            sum += c.charge_C;
            largest = std::max(largest, std::abs(c.charge_C));
            energy += 0.5e3 * c.potential_kV * c.charge_C;
        }
        QVERIFY(largest > 0);
        QVERIFY(std::abs(sum) < 1e-9 * largest);
        COMPARE_WITHIN(base->energy_J, energy, 1e-9);

        const auto moved = solve(changed(s, [](Point& p) { p.z += 137.5; }));
        REQUIRE_OK(moved);
        QVERIFY(std::abs(moved->energy_J - base->energy_J) <= moved->energy_error_J + base->energy_error_J);
        COMPARE_WITHIN(moved->energy_J, base->energy_J, 5e-3);
        COMPARE_WITHIN(moved->edge("south")->peak_kV_per_mm, base->edge("south")->peak_kV_per_mm, 0.02);

        const auto mirrored = solve(changed(s, [](Point& p) { p.z = 50 - p.z; }));
        REQUIRE_OK(mirrored);
        QVERIFY(std::abs(mirrored->energy_J - base->energy_J) <=
                mirrored->energy_error_J + base->energy_error_J);
        COMPARE_WITHIN(mirrored->energy_J, base->energy_J, 5e-3);

        const auto larger = solve(changed(s, [](Point& p) { p = 3 * p; }));
        REQUIRE_OK(larger);
        const double expected = s.symmetry == Symmetry::planar ? base->energy_J : 3 * base->energy_J;
        COMPARE_WITHIN(larger->energy_J, expected, 2e-3); // chords of large arcs are finer: another mesh
        COMPARE_WITHIN(3 * larger->edge("south")->peak_kV_per_mm, base->edge("south")->peak_kV_per_mm, 0.02);
    }
};
QTEST_APPLESS_MAIN(TestRandomSections)
#include "test_random_sections.moc"
