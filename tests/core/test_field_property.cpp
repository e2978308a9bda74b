// Conservation and invariance on a real termination: charge, energy, refinement, translation, scaling,
// mirror.
#include "field/result_io.h"
#include "section_changes.h"
#include "stored_sections.h"
#include "support.h"

using namespace ng;

namespace {

Section demo_section() {
    return prepare_design(test::demo_job(), "quay-mast", test::library())->built.section;
}

/// E_t at a place well away from corners.
double reading(const Solution& s, double fraction = 0.1) {
    const auto* path = s.path("insulation surface");
    const double wanted = fraction * path->samples.back().s_mm;
    for (const auto& sample : path->samples)
        if (sample.s_mm >= wanted) return std::abs(sample.E_t_kV_per_mm);
    return 0;
}

} // namespace

class TestFieldProperty : public QObject {
    Q_OBJECT
    Solution base_;
  private slots:
    void initTestCase() {
        auto r = solve(demo_section());
        REQUIRE_OK(r);
        QCOMPARE(r->report.end, SolveReport::End::goal_met);
        base_ = std::move(*r);
    }
    void more_threads_change_no_figure_and_no_refusal() {
        const auto figures = [](const Section& section, SolveOptions options, std::size_t threads) {
            options.threads = threads;
            const auto r = solve(section, options);
            auto out = solution_json(section, *r);
            out["solve"].erase("times_s");
            return out.dump();
        };
        for (const bool coarse : {true, false}) {
            SolveOptions options;
            options.coarse = coarse;
            auto section = demo_section();
            section.probes = {{"in the air", {40, section.paths.front().points.front().z}, "air"}};
            QCOMPARE(figures(section, options, 3), figures(section, options, 1));
        }
        auto in_time = test::reference_section("field_dependent_tube");
        REQUIRE_OK(in_time);
        SolveOptions rough;
        rough.goal = 0.1;
        in_time->analysis = Analysis::impulse;
        QCOMPARE(figures(*in_time, rough, 3), figures(*in_time, rough, 1));
        in_time->analysis = Analysis::nonlinear;
        in_time->cycles = {true, 4};
        QCOMPARE(figures(*in_time, rough, 3), figures(*in_time, rough, 1));
        auto outside = demo_section();
        outside.probes = {{"far away", {1e4, 0}, "air"}};
        for (const std::size_t threads : {1, 3}) {
            SolveOptions options;
            options.threads = threads;
            const auto refused = solve(outside, options);
            QVERIFY(!refused);
            QVERIFY2(refused.error().message().find("far away") != std::string::npos,
                     refused.error().message().c_str());
        }
    }
    void charges_sum_to_zero() {
        // Galerkin reactions balance to rounding: 1e-9 of the conductor's charge.
        double sum = 0, largest = 0;
        for (const auto& c : base_.conductors) {
            sum += c.charge_C;
            largest = std::max(largest, std::abs(c.charge_C));
        }
        QVERIFY(std::abs(sum) < 1e-9 * largest);
    }
    void energy_is_half_voltage_times_charge() {
        double sum = 0;
        for (const auto& c : base_.conductors) sum += 0.5 * c.potential_kV * 1e3 * c.charge_C;
        COMPARE_WITHIN(base_.energy_J, sum, 1e-9);
    }
    void refinement_changes_less_than_the_stated_error() {
        SolveOptions finer;
        finer.goal = 0.002;
        finer.most_unknowns = 400000;
        const auto r = solve(demo_section(), finer);
        REQUIRE_OK(r);
        for (const auto& path : base_.paths) {
            const auto* fine = r->path(path.name);
            for (std::size_t i = 0; i < path.samples.size(); ++i)
                if (!path.samples[i].near_singular)
                    QVERIFY2(std::abs(path.samples[i].E_kV_per_mm - fine->samples[i].E_kV_per_mm) <=
                                 std::max(path.relative_error, 0.002) * path.peak_kV_per_mm * 1.2,
                             qPrintable(QString("%1 at z %2: %3 then %4")
                                            .arg(path.name.c_str())
                                            .arg(path.samples[i].at.z)
                                            .arg(path.samples[i].E_kV_per_mm)
                                            .arg(fine->samples[i].E_kV_per_mm)));
        }
        for (const auto& edge : base_.edges)
            COMPARE_WITHIN(edge.peak_kV_per_mm, r->edge(edge.name)->peak_kV_per_mm, 0.01);
    }
    void translation_along_the_cable_changes_nothing() {
        const auto r = solve(test::changed(demo_section(), [](Point& p) { p.z += 137.31; }));
        REQUIRE_OK(r);
        COMPARE_WITHIN(reading(*r), reading(base_), 0.005); // another mesh: half the goal
        COMPARE_WITHIN(r->conductors[0].charge_C, base_.conductors[0].charge_C, 1e-4);
    }
    void lengths_scale() {
        const auto r = solve(test::changed(demo_section(), [](Point& p) { p = 2 * p; }));
        REQUIRE_OK(r);
        COMPARE_WITHIN(2 * reading(*r), reading(base_), 0.005);
        COMPARE_WITHIN(r->conductors[0].charge_C, 2 * base_.conductors[0].charge_C, 1e-4);
    }
    void a_mirrored_section_answers_the_same() {
        const auto r = solve(test::changed(demo_section(), [](Point& p) { p.z = -p.z; }));
        REQUIRE_OK(r);
        COMPARE_WITHIN(reading(*r), reading(base_), 0.005);
    }
    void voltages_scale() {
        auto s = demo_section();
        for (auto& e : s.electrodes) e.voltage_kV *= 3;
        const auto r = solve(s);
        REQUIRE_OK(r);
        COMPARE_WITHIN(reading(*r), 3 * reading(base_), 1e-6);
    }
    void normal_displacement_is_continuous_at_the_insulation_surface() {
        auto s = demo_section();
        s.paths = {{"inner", {{12.588, 30}, {12.588, 60}}, "insulation"},
                   {"outer", {{12.588, 30}, {12.588, 60}}, "stress tube"}};
        const auto r = solve(s);
        REQUIRE_OK(r);
        const double inner = 2.3, outer = s.materials.at("stress tube").eps_r;
        for (std::size_t i = 5; i + 5 < r->paths[0].samples.size(); ++i) {
            const auto &a = r->paths[0].samples[i], &b = r->paths[1].samples[i];
            QVERIFY(std::abs(a.E_t_kV_per_mm - b.E_t_kV_per_mm) < 0.01 * r->paths[0].peak_kV_per_mm);
            QVERIFY(std::abs(inner * a.E_n_kV_per_mm - outer * b.E_n_kV_per_mm) <
                    0.01 * inner * r->paths[0].peak_kV_per_mm);
        }
    }
    void a_coarse_solution_is_near_and_claims_no_error() {
        SolveOptions coarse;
        coarse.coarse = true;
        const auto r = solve(demo_section(), coarse);
        REQUIRE_OK(r);
        QVERIFY(!r->report.error_known());
        COMPARE_WITHIN(reading(*r), reading(base_), 0.05);
    }
    void exports_hold_what_was_solved() {
        const auto csv = path_csv(base_, base_.paths[0]);
        QCOMPARE(std::count(csv.begin(), csv.end(), '\n'),
                 static_cast<std::ptrdiff_t>(base_.paths[0].samples.size() + 1));
        const auto vtu = solution_vtu(base_);
        QVERIFY(vtu.find("NumberOfCells=\"" + std::to_string(base_.mesh->triangles.size()) + "\"") !=
                std::string::npos);
        const auto out = solution_json(demo_section(), base_);
        QCOMPARE(out["format"], "needlegauge-solution");
        QCOMPARE(out["paths"].size(), base_.paths.size());
        QCOMPARE(out["solve"]["end"], "goal met");
    }
};
QTEST_APPLESS_MAIN(TestFieldProperty)
#include "test_field_property.moc"
