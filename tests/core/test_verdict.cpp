#include "field/result_io.h"
#include "support.h"
#include <set>
#include <thread>

using namespace ng;

namespace {

/// A solution made by hand: one path with a chosen field, so that each status can be reached exactly.
Solution made(double e_t, double error, int passes = 2) {
    Solution s;
    PathResult path;
    path.name = name_of(place::body_surface);
    path.place = place::body_surface;
    for (int i = 0; i <= 10; ++i) {
        PathSample sample;
        sample.s_mm = i;
        sample.at = {10, static_cast<double>(i)};
        sample.E_t_kV_per_mm = i == 4 ? -e_t : 0.1 * e_t;
        sample.E_kV_per_mm = std::abs(sample.E_t_kV_per_mm);
        sample.error_kV_per_mm = error * e_t;
        path.samples.push_back(sample);
    }
    path.relative_error = error;
    path.peak_kV_per_mm = e_t;
    s.paths.push_back(path);
    s.report.passes = passes;
    return s;
}

BuiltAccessory asking(TestKind level = TestKind::service, double divide_by = 1) {
    BuiltAccessory built;
    built.checks.push_back({.id = CheckKind::body_tangential,
                            .title = "Tangential",
                            .quantity = CheckRequest::Quantity::tangential,
                            .places = {place::body_surface},
                            .from_s_mm = 1,
                            .at = level,
                            .limit_id = "interface_tangential",
                            .divide_by = divide_by,
                            .because = "too steep",
                            .cure = "more length"});
    return built;
}

Check judged(const Solution& s, const BuiltAccessory& built = asking(),
             const LimitTable& limits = test::library().limits) {
    Duty duty;
    duty.u0_kV = 10;
    return judge(built, duty, *duty_levels(duty, test::library().standards), limits, LevelSolutions{s, {}})
        .checks.front();
}

} // namespace

class TestVerdict : public QObject {
    Q_OBJECT
  private slots:
    void well_below_the_limit_holds() {
        const auto c = judged(made(0.4, 0.001));
        QCOMPARE(c.status, Status::holds);
        COMPARE_WITHIN(c.margin, (0.6 - 0.4) / 0.6, 1e-12);
        QCOMPARE(c.at.z, 4.0);
        QVERIFY(c.place == place::body_surface);
        QCOMPARE(c.limit_origin, std::string("common practice"));
    }
    void near_the_limit_is_marginal() { QCOMPARE(judged(made(0.57, 0.001)).status, Status::marginal); }
    void above_the_limit_falls_short_and_says_why() {
        const auto c = judged(made(0.75, 0.001));
        QCOMPARE(c.status, Status::falls_short);
        QVERIFY(c.why.find("25 % above") != std::string::npos);
        QVERIFY(c.why.find("too steep") != std::string::npos);
        QCOMPARE(c.cure, std::string("more length"));
    }
    void an_error_band_across_the_limit_is_never_a_plain_answer() {
        QCOMPARE(judged(made(0.5, 0.3)).status, Status::marginal);
        QVERIFY(judged(made(0.5, 0.3)).why.find("numerical error") != std::string::npos);
    }
    void a_budget_too_small_for_a_verdict_is_raised_once() {
        const auto p = prepare_design(test::demo_job(), "ring-switch", test::library());
        REQUIRE_OK(p);
        // The first mesh alone takes more: one solve gives no error, or nothing at all.
        SolveOptions how;
        how.goal = 0.05;
        const auto without = [&] {
            const auto once = solve(p->built.section, how);
            return !once || !once->report.error_known();
        };
        for (how.most_unknowns = 20000; !without();)
            how.most_unknowns = static_cast<int>(0.9 * how.most_unknowns);
        const auto levels = solve_levels(p->built, p->design.duty, p->levels, how);
        REQUIRE_OK(levels);
        QVERIFY(levels->at_u0.report.error_known());
        for (const auto& check : judge(p->built, p->design.duty, p->levels, p->limits, *levels).checks)
            QVERIFY2(check.status != Status::not_judged, name_of(check.id).c_str());
        // What is meant to be coarse stays so: it is refused, or one pass.
        how.coarse = true;
        const auto meant = solve_levels(p->built, p->design.duty, p->levels, how);
        QVERIFY(!meant || meant->at_u0.report.passes == 1);
    }
    void the_numerical_error_never_raises_a_figure_above_its_limit_into_one_within() {
        for (const double value : {0.601, 0.62, 0.9}) {
            const auto c = judged(made(value, 0.1));
            QCOMPARE(c.status, Status::falls_short);
            QVERIFY2(c.why.find("above the limit of at most") != std::string::npos &&
                         c.why.find("within") == std::string::npos &&
                         c.why.find("below") == std::string::npos,
                     c.why.c_str());
        }
        const auto near = judged(made(0.58, 0.001));
        QVERIFY2(near.why.find("below the limit of at most") != std::string::npos, near.why.c_str());
    }
    void a_coarse_solution_is_not_judged() {
        const auto c = judged(made(0.1, 0, 1));
        QCOMPARE(c.status, Status::not_judged);
        QVERIFY(c.value > 0);
    }
    void other_voltages_scale_the_linear_field() {
        const auto c = judged(made(0.2, 0.001), asking(TestKind::extinction));
        COMPARE_WITHIN(c.value, 0.2 * 13 / 10, 1e-12);
        QVERIFY(c.voltage_origin.find("verify") != std::string::npos);
    }
    void ratios_divide_by_their_reference() {
        COMPARE_WITHIN(judged(made(0.2, 0.001), asking(TestKind::service, 0.5)).value, 0.4, 1e-12);
    }
    void nothing_nearer_than_the_stated_place_or_beside_a_corner_is_judged() {
        auto s = made(0.4, 0.001);
        s.paths[0].samples[0].E_t_kV_per_mm = 5; // s = 0: nearer than from_s_mm
        s.paths[0].samples[7].E_t_kV_per_mm = 5;
        s.paths[0].samples[7].near_singular = true;
        COMPARE_WITHIN(judged(s).value, 0.4, 1e-12);
    }
    void a_check_that_cannot_be_read_does_not_hold() {
        auto s = made(0.1, 0.001);
        s.paths.clear();
        QCOMPARE(judged(s).status, Status::not_judged);
        QCOMPARE(judged(made(0.1, 0.001), asking(), LimitTable{}).status, Status::not_judged);
    }
    void a_check_without_a_limit_is_counted_and_does_not_decide() {
        auto built = asking();
        built.checks.push_back(built.checks[0]);
        built.checks[1].id = CheckKind::splice_tangential;
        built.checks[1].limit_id = "nobody_gave_one";
        Duty duty;
        duty.u0_kV = 10;
        const auto verdict = judge(built, duty, *duty_levels(duty, test::library().standards),
                                   test::library().limits, LevelSolutions{made(0.2, 0.001), {}});
        QCOMPARE(verdict.status, Status::holds);
        QCOMPARE(verdict.set_aside, 1);
        QVERIFY(verdict.checks[1].set_aside && verdict.checks[1].status == Status::not_judged);
        COMPARE_WITHIN(verdict.checks[1].value, 0.2, 1e-12); // shown all the same
        QVERIFY(verdict.checks[1].why.find("no limit “nobody_gave_one”") != std::string::npos);
        QCOMPARE(status_words(verdict.status, verdict.set_aside),
                 std::string("holds for the checks made, 1 not judged"));
        QCOMPARE(status_words(Status::falls_short, 2), std::string("falls short, 2 not judged"));
        QCOMPARE(status_words(Status::holds, 0), std::string("holds"));
        // Nothing but such checks: nothing holds.
        built.checks.erase(built.checks.begin());
        QCOMPARE(judge(built, duty, *duty_levels(duty, test::library().standards), test::library().limits,
                       LevelSolutions{made(0.2, 0.001), {}})
                     .status,
                 Status::not_judged);
    }
    void a_stretch_of_the_path_is_read_to_its_ends() {
        // E_t rises by 0.1 kV/mm a mm: the largest value of a stretch is that at its interpolated end.
        auto s = made(0.1, 0.001);
        for (auto& sample : s.paths[0].samples)
            sample.E_t_kV_per_mm = 0.1 * sample.s_mm, sample.E_kV_per_mm = 0.1 * sample.s_mm;
        auto built = asking();
        built.checks[0].from_s_mm = 1.25;
        built.checks[0].to_s_mm = 3.5;
        COMPARE_WITHIN(judged(s, built).value, 0.35, 1e-12);
        QCOMPARE(judged(s, built).at.z, 3.5);
        built.checks[0].from_s_mm = built.checks[0].to_s_mm = 2.75; // one place
        COMPARE_WITHIN(judged(s, built).value, 0.275, 1e-12);
        // The largest mean over 2 mm of a straight line lies at its end; a tent's lies across its top.
        built.checks[0].from_s_mm = 1;
        built.checks[0].to_s_mm = 6;
        built.checks[0].mean_over_mm = 2;
        COMPARE_WITHIN(judged(s, built).value, 0.5, 1e-12);
        for (auto& sample : s.paths[0].samples) sample.E_t_kV_per_mm = 0.5 - 0.1 * std::abs(sample.s_mm - 4);
        COMPARE_WITHIN(judged(s, built).value, 0.45, 1e-12);
        QCOMPARE(judged(s, built).at.z, 4.0);
        // A stretch shorter than the length gives its own mean; samples beside a corner break it.
        built.checks[0].to_s_mm = 2;
        COMPARE_WITHIN(judged(s, built).value, (0.2 + 0.3) / 2, 1e-12);
        built.checks[0].to_s_mm = 6;
        s.paths[0].samples[4].near_singular = true;
        COMPARE_WITHIN(judged(s, built).value, (0.4 + 0.3) / 2, 1e-12);
    }
    void a_place_that_is_gone_is_named_and_nothing_holds_without_it() {
        auto built = asking();
        built.checks[0].places.push_back(place::sleeve_surface); // beside one that is there
        const auto c = judged(made(0.1, 0.001), built);
        QCOMPARE(c.status, Status::not_judged);
        QVERIFY(c.why.find("sleeve surface") != std::string::npos);
    }
    void an_edge_that_is_not_judged_does_not_hold() {
        auto s = made(0.1, 0.001);
        EdgeResult edge;
        edge.name = name_of(place::screen_edge.part(EdgePart::inner));
        edge.place = place::screen_edge.part(EdgePart::inner);
        edge.judged = false; // its peak is none: 0
        s.edges = {edge};
        auto built = asking();
        built.checks[0].quantity = CheckRequest::Quantity::edge_peak;
        built.checks[0].places = {place::screen_edge.part(EdgePart::inner)};
        const auto alone = judged(s, built);
        QCOMPARE(alone.status, Status::not_judged);
        QVERIFY(alone.why.find("inner: within the reach of a sharp corner") != std::string::npos);
        edge.name = name_of(place::cone.part(EdgePart::tip));
        edge.place = place::cone.part(EdgePart::tip);
        edge.judged = true;
        edge.peak_kV_per_mm = 0.1;
        s.edges.push_back(edge);
        built.checks[0].places = {place::screen_edge.part(EdgePart::inner), place::cone.part(EdgePart::tip)};
        const auto both = judged(s, built);
        QVERIFY(both.place == place::cone.part(EdgePart::tip));
        QVERIFY(both.why.find("corner: screen edge, inner") != std::string::npos);
        QVERIFY(alone.value == 0 && both.value > 0);
    }
    void an_overridden_limit_is_the_users() {
        const auto limits = test::library().limits.with_overrides(
            {{"interface_tangential", {0.3, "engineer A", "2026-11-25", ""}}});
        const auto c = judged(made(0.4, 0.001), asking(), limits);
        QCOMPARE(c.status, Status::falls_short);
        QCOMPARE(c.limit_origin, std::string("user, verified by engineer A, 2026-11-25"));
    }
    void the_worst_check_gives_the_verdict() {
        auto built = asking();
        built.checks.push_back(built.checks.front());
        built.checks.back().limit_id = "electrode_edge";
        Duty duty;
        duty.u0_kV = 10;
        const auto v = judge(built, duty, *duty_levels(duty, test::library().standards),
                             test::library().limits, LevelSolutions{made(0.75, 0.001), {}});
        QCOMPARE(v.checks[1].status, Status::holds);
        QCOMPARE(v.status, Status::falls_short);
        QVERIFY(v.first_reason.find("too steep") != std::string::npos);
    }
    void a_field_dependent_tube_is_solved_at_every_level() {
        auto job = test::demo_job();
        auto& design = job.designs.front();
        design.choices["tube_conduction"] = "power";
        const auto p = prepare_design(job, design.id, test::library());
        REQUIRE_OK(p);
        QCOMPARE(p->built.section.analysis, Analysis::nonlinear);
        const auto solutions = solve_levels(p->built, p->design.duty, p->levels);
        REQUIRE_OK(solutions);
        QVERIFY(!solutions->at_u0.linear);
        QVERIFY(solutions->at.contains({TestKind::extinction}));
        const auto verdict = judge(p->built, p->design.duty, p->levels, p->limits, *solutions);
        const auto check = std::find_if(verdict.checks.begin(), verdict.checks.end(),
                                        [](const auto& c) { return c.id == CheckKind::air_extinction; });
        const auto& there = solutions->at.at({TestKind::extinction});
        COMPARE_WITHIN(check->value, there.path("sleeve surface")->peak_kV_per_mm,
                       0.2); // of places that are judged
        // Without that solution the level is not judged rather than scaled.
        const auto without =
            judge(p->built, p->design.duty, p->levels, p->limits, LevelSolutions{solutions->at_u0, {}});
        for (const auto& c : without.checks)
            if (c.id == CheckKind::air_extinction) QCOMPARE(c.status, Status::not_judged);
        // A conducting tube without field dependence scales, and grades more than one that only refracts.
        design.choices["tube_conduction"] = "constant";
        const auto q = prepare_design(job, design.id, test::library());
        REQUIRE_OK(q);
        const auto linear = solve_levels(q->built, q->design.duty, q->levels);
        REQUIRE_OK(linear);
        QVERIFY(linear->at.empty() && linear->at_u0.linear && !linear->at_u0.losses.empty());
        design.numbers["tube_S_per_m"] = -1;
        QVERIFY(prepare_design(job, design.id, test::library()).error().item.find("Conductivity") !=
                std::string::npos);
    }
    void every_limit_says_what_it_is_for() {
        for (const auto& limit : test::library().limits.limits) {
            QVERIFY(limit.value.value > 0);
            QVERIFY(!limit.protects_against.empty());
        }
    }

    /// Planar sections that differ by their voltages are solved on one mesh, and say what each says by
    /// itself.
    void sections_of_one_shape_share_their_mesh() {
        const auto p = prepare_design(test::demo_job(), "old-quay-transition", test::library());
        REQUIRE_OK(p);
        QCOMPARE(p->built.across.size(), std::size_t(2));
        SolveOptions how;
        how.coarse = true;
        const auto coarse = solve_levels(p->built, p->design.duty, p->levels, how);
        REQUIRE_OK(coarse);
        QCOMPARE(coarse->across.at(p->built.across[0].id).mesh.get(),
                 coarse->across.at(p->built.across[1].id).mesh.get());
        const auto solved = solve_levels(p->built, p->design.duty, p->levels, {});
        REQUIRE_OK(solved);
        for (const auto& across : p->built.across) {
            SolveOptions own;
            own.slack = slack_for(across.checks, {}, 3);
            const auto direct = solve(across.section, own);
            REQUIRE_OK(direct);
            const auto& shared = solved->across.at(across.id);
            QVERIFY(shared.report.error_known());
            for (std::size_t k = 0; k < shared.paths.size(); ++k) {
                const auto &a = shared.paths[k], &b = direct->paths[k];
                QVERIFY2(std::abs(a.peak_kV_per_mm - b.peak_kV_per_mm) <=
                             a.relative_error * a.peak_kV_per_mm + b.relative_error * b.peak_kV_per_mm,
                         a.name.c_str());
            }
        }
    }
    /// Planar sections are solved beside the one along the cable where there are threads: not a figure hangs
    /// on it, a refusal of either is the answer, and only the section along the cable tells of its passes.
    void sections_across_the_cable_do_not_hang_on_the_threads() {
        auto p = prepare_design(test::demo_job(), "pier-branch", test::library());
        REQUIRE_OK(p);
        QVERIFY(!p->built.across.empty());
        const auto solved = [&](std::size_t threads, std::set<std::thread::id>* told) {
            SolveOptions how;
            how.goal = 0.05;
            how.threads = threads;
            how.progress = [told](const SolveReport&) { told->insert(std::this_thread::get_id()); };
            return solve_levels(p->built, p->design.duty, p->levels, how);
        };
        const auto written = [&](const LevelSolutions& solutions) {
            std::string out;
            const auto add = [&](const Section& section, const Solution& solution) {
                auto json = solution_json(section, solution);
                json["solve"].erase("times_s");
                out += json.dump();
            };
            add(p->built.section, solutions.at_u0);
            for (const auto& across : p->built.across) add(across.section, solutions.across.at(across.id));
            return out;
        };
        std::set<std::thread::id> told;
        const auto one = solved(1, &told), three = solved(3, &told);
        REQUIRE_OK(one);
        REQUIRE_OK(three);
        QCOMPARE(written(*three), written(*one));
        QCOMPARE(told.size(), std::size_t{1});
        QCOMPARE(*told.begin(), std::this_thread::get_id());
        p->built.across.front().section.probes = {{"far away", {1e4, 0}, {}}};
        for (const std::size_t threads : {1, 3}) {
            const auto refused = solved(threads, &told);
            QVERIFY(!refused);
            QVERIFY2(refused.error().message().find("far away") != std::string::npos,
                     refused.error().message().c_str());
        }
    }

    // The demo job tells its three stories.
    void the_demo_job_tells_its_stories_data() {
        QTest::addColumn<QString>("design");
        QTest::addColumn<int>("status");
        QTest::newRow("holds") << "quay-mast" << static_cast<int>(Status::holds);
        QTest::newRow("marginal") << "switch-house" << static_cast<int>(Status::marginal);
        QTest::newRow("fails") << "ramp-pole" << static_cast<int>(Status::falls_short);
    }
    void the_demo_job_tells_its_stories() {
        QFETCH(QString, design);
        QFETCH(int, status);
        const auto p = prepare_design(test::demo_job(), design.toStdString(), test::library());
        REQUIRE_OK(p);
        const auto r = solve(p->built.section);
        REQUIRE_OK(r);
        const auto v = judge(p->built, p->design.duty, p->levels, p->limits, LevelSolutions{*r, {}});
        QCOMPARE(static_cast<int>(v.status), status);
        if (v.status == Status::falls_short) {
            QVERIFY2(v.first_reason.find("stress tube reaches only") != std::string::npos,
                     v.first_reason.c_str());
            // It fails at the end of the tube, not at the edge.
            const double tube_end = p->built.derived.at("stress tube past the edge (mm)");
            for (const auto& c : v.checks)
                if (c.status == Status::falls_short) QVERIFY(std::abs(c.at.z - tube_end) < 6);
        }
    }
    void a_longer_tube_cures_the_failing_design() {
        auto job = test::demo_job();
        job.find_design("ramp-pole")->numbers.erase("tube_upper_end_mm");
        const auto p = prepare_design(job, "ramp-pole", test::library());
        REQUIRE_OK(p);
        const auto r = solve(p->built.section);
        REQUIRE_OK(r);
        QVERIFY(judge(p->built, p->design.duty, p->levels, p->limits, LevelSolutions{*r, {}}).status !=
                Status::falls_short);
    }
};
QTEST_APPLESS_MAIN(TestVerdict)
#include "test_verdict.moc"
