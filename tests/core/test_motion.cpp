// Meshes that move with the outlines of their section, and solutions on them: against areas and positions
// that the outlines have, closed forms, and fresh meshes.
#include "field/follow.h"
#include "field/kept.h"
#include "mesh/mesher.h"
#include "support.h"
#include <random>

using namespace ng;

namespace {

/// A box of two materials round a disc; where the inner material ends and how the disc lies is given.
Section section(Point disc, double radius, double inner_top, double inner_side = 25) {
    Section s;
    s.materials = {{"inner", {2.3, {}, {}}}, {"outer", {4, {}, {}}}};
    s.regions = {{"outer", "outer", test::box(5, 0, 40, 30)},
                 {"inner", "inner", test::box(5, 5, inner_side, inner_top)}};
    Outline round;
    round.start = {disc.r - radius, disc.z};
    round.arc_to({disc.r, disc.z - radius}, disc, "south")
        .arc_to({disc.r + radius, disc.z}, disc)
        .arc_to({disc.r, disc.z + radius}, disc)
        .arc_to({disc.r - radius, disc.z}, disc);
    s.electrodes = {{"disc", 10, false, round}};
    s.boundaries = {{"box", 0, {{5, 0}, {40, 0}, {40, 30}, {5, 30}}}};
    return s;
}

std::shared_ptr<const Mesh> meshed(const Section& s, double size) {
    auto mesher = Mesher::create(s, {});
    if (!mesher) qFatal("%s", mesher.error().message().c_str());
    auto made = mesher->make([size](Point) { return size; }, nullptr);
    if (!made) qFatal("%s", made.error().message().c_str());
    return std::make_shared<const Mesh>(std::move(made->mesh));
}

double area_of(const Mesh& mesh, int region) {
    double sum = 0;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        if (mesh.region[t] == region)
            for (const auto& q : quadrature())
                sum += q.weight * evaluate(mesh, static_cast<int>(t), q.at).jacobian;
    return sum;
}

} // namespace

class TestMotion : public QObject {
    Q_OBJECT
  private slots:
    void regions_have_the_area_of_their_new_outlines() {
        const auto before = section({14, 15}, 3, 25);
        const auto mesh = meshed(before, 1.5);
        const auto motion = Motion::of(before, mesh);
        QVERIFY(motion);
        std::mt19937 random(5);
        std::uniform_real_distribution<double> off(-1.5, 1.5);
        for (int i = 0; i < 20; ++i) {
            const Point disc{14 + off(random), 15 + off(random)};
            const double radius = 3 + 0.4 * off(random), top = 25 + off(random), side = 25 + off(random);
            const auto moved = motion->moved(section(disc, radius, top, side));
            QVERIFY(moved);
            const double hole = M_PI * radius * radius, inner = (side - 5) * (top - 5) - hole;
            // Quadratic sides follow an arc to the fourth power of their angle.
            COMPARE_WITHIN(area_of(*moved, 1), inner, 2e-5 * inner);
            COMPARE_WITHIN(area_of(*moved, 0), 35 * 30 - (side - 5) * (top - 5), 1e-6);
            QCOMPARE(moved->triangles, mesh->triangles);
            for (std::size_t n = 0; n < moved->nodes.size(); ++n)
                if (moved->conductor[n] == 0) COMPARE_WITHIN(distance(moved->nodes[n], disc), radius, 1e-9);
            COMPARE_WITHIN(moved->arcs.front().arc.radius_mm, radius, 1e-12);
        }
        const auto same = motion->moved(before);
        QVERIFY(same);
        for (std::size_t n = 0; n < same->nodes.size(); ++n)
            QVERIFY(distance(same->nodes[n], mesh->nodes[n]) < 1e-9);
    }
    void outlines_that_meet_otherwise_are_not_followed() {
        const auto before = section({14, 15}, 3, 25);
        const auto motion = Motion::of(before, meshed(before, 1.5));
        QVERIFY(motion);
        QVERIFY(!motion->moved(section({14, 15}, 3, 16)));     // the inner material now ends beside the disc
        QVERIFY(!motion->moved(section({14, 15}, 3, 25, 40))); // and here on the outer wall
        auto more = before;
        more.regions[1].outline.steps.back().name = "edge";
        more.regions[1].outline.line_to({5.5, 6});
        QVERIFY(!motion->moved(more));
        auto renamed = before;
        renamed.regions[1].name = "other";
        QVERIFY(!motion->moved(renamed));
    }
    /// A coax of which the insulation grows: E = U / (r ln(b/a)) at the conductor (textbook).
    void a_coax_that_grows_keeps_its_closed_form() {
        const auto coax = [](double a, double b) {
            Section s;
            s.materials = {{"xlpe", {2.3, {}, {}}}};
            s.regions = {{"insulation", "xlpe", test::box(a, 0, b, 20)}};
            s.boundaries = {{"inner", 10, {{a, 0}, {a, 20}}}, {"outer", 0, {{b, 0}, {b, 20}}}};
            s.paths = {{"across", {{a, 10}, {b, 10}}, "insulation"}};
            return s;
        };
        const auto kept = Kept::make(coax(6, 12));
        REQUIRE_OK(kept);
        SolveOptions options;
        options.like = {kept->follower()};
        QVERIFY(options.like.front());
        for (const auto& [a, b] : {std::pair{6.0, 13.0}, {5.0, 11.5}, {7.5, 12.0}}) {
            const auto solved = solve(coax(a, b), options);
            REQUIRE_OK(solved);
            QCOMPARE(solved->report.mesh_s, 0.0); // no mesh was made
            const auto& path = solved->paths.front();
            const double exact = 10 / (a * std::log(b / a));
            QVERIFY2(
                std::abs(path.peak_kV_per_mm / exact - 1) <= path.relative_error,
                qPrintable(QString("%1 %2 %3").arg(path.peak_kV_per_mm).arg(exact).arg(path.relative_error)));
        }
    }
    /// Corners and readings are found beside the matrix where there are threads for it.
    void what_follows_does_not_hang_on_the_threads() {
        for (const bool coarse : {true, false}) {
            SolveOptions options;
            options.coarse = coarse;
            const auto kept = Kept::make(section({14, 15}, 3, 25), options);
            REQUIRE_OK(kept);
            options.like = {kept->follower()};
            std::vector<Solution> found;
            for (const std::size_t threads : {1, 2, 4}) {
                options.threads = threads;
                auto solved = solve(section({14.2, 15.1}, 3.05, 25), options);
                REQUIRE_OK(solved);
                QCOMPARE(solved->report.mesh_s, 0.0);
                found.push_back(std::move(*solved));
            }
            for (std::size_t k = 1; k < found.size(); ++k) {
                QVERIFY(found[k].potential_kV == found[0].potential_kV);
                for (std::size_t i = 0; i < found[0].edges.size(); ++i) {
                    QCOMPARE(found[k].edges[i].peak_kV_per_mm, found[0].edges[i].peak_kV_per_mm);
                    QCOMPARE(found[k].edges[i].relative_error, found[0].edges[i].relative_error);
                }
            }
        }
    }
    /// What only the outlines' drawing can tell is refused as it is of a section that nothing follows.
    void what_cannot_be_drawn_is_refused_though_a_mesh_would_follow() {
        const auto coax = [](double b, double second_kV) {
            Section s;
            s.materials = {{"xlpe", {2.3, {}, {}}}};
            s.regions = {{"insulation", "xlpe", test::box(5, 0, b, 20)}};
            s.boundaries = {{"inner", 10, {{5, 0}, {5, 20}}},
                            {"again", second_kV, {{5, 0}, {5, 20}}},
                            {"outer", 0, {{b, 0}, {b, 20}}}};
            s.paths = {{"across", {{5, 10}, {b, 10}}, "insulation"}};
            return s;
        };
        const auto kept = Kept::make(coax(12, 10));
        REQUIRE_OK(kept);
        SolveOptions options;
        options.like = {kept->follower()};
        REQUIRE_OK(solve(coax(12.5, 10), options));
        const auto afresh = solve(coax(12.5, 9)), followed = solve(coax(12.5, 9), options);
        QVERIFY(!afresh && !followed);
        QCOMPARE(followed.error().message(), afresh.error().message());
    }
    /// What two meshes differ by tells nothing of an arc that neither divides: edges keep a good part of the
    /// error that they had where the mesh was made, at every voltage.
    void edges_are_not_known_better_than_where_the_mesh_was_made() {
        SolveOptions options;
        options.goal = 0.02;
        const auto kept = Kept::make(section({14, 15}, 3, 25), options);
        REQUIRE_OK(kept);
        options.like = {kept->follower()};
        const auto moved = section({14.2, 15.1}, 3.05, 25);
        auto followed = Kept::make(moved, options);
        REQUIRE_OK(followed);
        auto other = moved;
        other.electrodes.front().voltage_kV = 7;
        QCOMPARE(followed->follower(), options.like.front()); // it has none of its own to make
        const auto at_another = followed->solve(other);
        REQUIRE_OK(at_another);
        for (const auto* solution : {&followed->solution(), &*at_another}) {
            QCOMPARE(solution->report.mesh_s, 0.0);
            QVERIFY(!solution->edges.empty());
            for (std::size_t k = 0; k < solution->edges.size(); ++k)
                QVERIFY(solution->edges[k].relative_error >= 3 * kept->solution().edges[k].relative_error);
            QCOMPARE(solution->report.end == SolveReport::End::goal_met,
                     solution->report.worst_error <= options.goal);
        }
    }
    /// Charges that nobody asks for are not bounded: their error says so, and what is read stays as known.
    void what_is_not_asked_for_is_not_claimed() {
        SolveOptions options;
        options.slack.integrals = std::numeric_limits<double>::infinity();
        const auto solved = solve(section({14, 15}, 3, 25), options);
        REQUIRE_OK(solved);
        QCOMPARE(solved->report.end, SolveReport::End::goal_met);
        for (const auto& c : solved->conductors) QCOMPARE(c.charge_error_C, std::abs(c.charge_C));
        QCOMPARE(solved->energy_error_J, solved->energy_J);
        const auto whole = solve(section({14, 15}, 3, 25));
        REQUIRE_OK(whole);
        for (std::size_t k = 0; k < whole->edges.size(); ++k) {
            const auto &a = solved->edges[k], &b = whole->edges[k];
            if (a.judged)
                QVERIFY(std::abs(a.peak_kV_per_mm / b.peak_kV_per_mm - 1) <=
                        a.relative_error + b.relative_error);
        }
        for (const auto& c : whole->conductors) QVERIFY(c.charge_error_C < 0.02 * std::abs(c.charge_C));
    }
};
QTEST_GUILESS_MAIN(TestMotion)
#include "test_motion.moc"
