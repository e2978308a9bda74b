// The field round a place, solved for it alone: against closed forms, and against whole solves made finer.
#include "field/near.h"
#include "support.h"

using namespace ng;

class TestNear : public QObject {
    Q_OBJECT
  private slots:
    /// Two layers between cylinders: E = V / (r eps (ln(r1/r0)/eps1 + ln(r2/r1)/eps2)).
    void coax_agrees_with_the_closed_form() {
        const double r0 = 8, r1 = 12, r2 = 16, V = 10, e1 = 2.3, e2 = 4.0;
        const auto section = test::coaxial(r0, {{r1, e1}, {r2, e2}}, 60, V);
        for (const double half : {2.0, 0.1}) {
            const auto near = solve_near(section, {12, 30}, half, 0.01);
            REQUIRE_OK(near);
            QVERIFY(near->relative_error && *near->relative_error < 0.01);
            QCOMPARE(near->places, 49);
            const double sum = std::log(r1 / r0) / e1 + std::log(r2 / r1) / e2;
            double greatest = 0;
            for (const auto& p : near->solution.probes) greatest = std::max(greatest, p.E_kV_per_mm);
            // Nobody asks for potentials: 100 % of them is stated, not a bound that nothing was solved for.
            for (const auto& p : near->solution.probes)
                QCOMPARE(p.potential_error_kV, std::abs(p.potential_kV));
            for (const auto& p : near->solution.probes) {
                const double exact = V / (p.at.r * (p.at.r < r1 ? e1 : e2) * sum);
                QVERIFY2(std::abs(p.E_kV_per_mm - exact) <= *near->relative_error * greatest + 1e-9,
                         qPrintable(QString("%1 for %2").arg(p.E_kV_per_mm).arg(exact)));
            }
        }
    }
    void its_error_covers_what_a_finer_solve_finds_data() {
        QTest::addColumn<QString>("design");
        for (const char* design : {"quay-mast", "breakwater", "causeway", "berth-2"})
            QTest::newRow(design) << design;
    }
    void its_error_covers_what_a_finer_solve_finds() {
        QFETCH(QString, design);
        const auto p = *prepare_design(test::demo_job(), design.toStdString(), test::library());
        const double z = first_screen_edge_z(p.built), r = p.dimensions.radius_mm("insulation");
        for (const double half : {3.0, 0.4}) {
            const auto near = solve_near(p.built.section, {r + 0.1 * half, z + 0.3 * half}, half, 0.01);
            REQUIRE_OK(near);
            QVERIFY(near->places > 5 && near->relative_error);
            auto fine_section = p.built.section;
            fine_section.paths.clear();
            fine_section.probes.clear();
            for (const auto& probe : near->solution.probes)
                for (const auto& region : p.built.section.regions)
                    if (inside_polygon(polygon_of(region.outline, 0.05), probe.at)) {
                        if (!fine_section.probes.empty() && fine_section.probes.back().name == probe.name)
                            fine_section.probes.back().side = region.name;
                        else
                            fine_section.probes.push_back({probe.name, probe.at, region.name});
                    }
            SolveOptions options;
            options.goal = 0.001;
            options.slack.reads_others = false;
            options.slack.integrals = std::numeric_limits<double>::infinity();
            const auto fine = solve(fine_section, options);
            REQUIRE_OK(fine);
            double greatest = 0;
            for (const auto& probe : fine->probes)
                if (probe.judged) greatest = std::max(greatest, probe.E_kV_per_mm);
            for (std::size_t i = 0; i < fine->probes.size(); ++i) {
                const auto &a = near->solution.probes[i], &b = fine->probes[i];
                QCOMPARE(a.name, b.name);
                if (!a.judged) continue;
                QVERIFY2(std::abs(a.E_kV_per_mm - b.E_kV_per_mm) <=
                             *near->relative_error * greatest + b.error_kV_per_mm,
                         qPrintable(QString("half %1, %2: %3 for %4, %5 % stated")
                                        .arg(half)
                                        .arg(a.name.c_str())
                                        .arg(a.E_kV_per_mm)
                                        .arg(b.E_kV_per_mm)
                                        .arg(100 * *near->relative_error)));
            }
        }
    }
    void a_window_in_metal_has_no_error_and_a_raised_flag_ends_it() {
        const auto p = *prepare_design(test::demo_job(), "quay-mast", test::library());
        const auto metal = solve_near(p.built.section, {0.5, p.built.datum_z_mm - 300}, 0.05, 0.01);
        QVERIFY(!metal || !metal->relative_error);
        CancelFlag cancel{true};
        const auto stopped = solve_near(p.built.section, {12, 0}, 1, 0.01, &cancel);
        QVERIFY(!stopped || stopped->solution.report.end == SolveReport::End::cancelled);
    }
};

QTEST_APPLESS_MAIN(TestNear)
#include "test_near.moc"
