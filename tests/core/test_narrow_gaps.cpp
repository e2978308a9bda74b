// Round edges a thousandth of their radius away from something, against closed forms: what is near must stay
// where it is drawn while the mesh goes from chords onto arcs, and peaks far narrower than even places are
// apart must be read.
#include "field/reading_plan.h"
#include "mesh/mesher.h"
#include "support.h"

using namespace ng;
using std::numbers::pi;

namespace {

/// A circle of four arcs that begins `turn_rad` further on than to the right.
Outline circle(Point centre, double radius, double turn_rad, const std::string& name) {
    const auto at = [&](int quarter) {
        const double angle = quarter * pi / 2 + turn_rad;
        return Point{centre.r + radius * std::cos(angle), centre.z + radius * std::sin(angle)};
    };
    Outline out;
    out.start = at(0);
    for (int k = 1; k <= 4; ++k) out.arc_to(at(k), centre, name + " " + std::to_string(k));
    return out;
}

const EdgeResult& largest_of(const Solution& solution, const std::string& electrode) {
    const EdgeResult* out = nullptr;
    for (const auto& edge : solution.edges)
        if (edge.electrode == electrode && (!out || edge.peak_kV_per_mm > out->peak_kV_per_mm)) out = &edge;
    return *out;
}

/// Whether a peak is as near to `exact` as it says, and says 1 %.
void check(const std::string& what, double value, double exact, double stated) {
    const double off = std::abs(value / exact - 1);
    QVERIFY2(off <= stated && off <= 0.002 && stated <= 0.0101,
             qPrintable(QString("%1: off by %2 of %3").arg(what.c_str()).arg(off).arg(stated)));
}

Section planar_air(double width, double height) {
    Section s;
    s.symmetry = Symmetry::planar;
    s.materials = {{"air", {1, {}, {}}}};
    s.regions = {{"air", "air", test::box(0, 0, width, height)}};
    return s;
}

} // namespace

class TestNarrowGaps : public QObject {
    Q_OBJECT
  private slots:
    /// A rod over a plate by two image lines (textbooks of electrostatics, e.g. Smythe, Static and Dynamic
    /// Electricity; from memory). Read across the gap, on the rod, whose arcs end at the gap or beside it,
    /// and along the plate, where even places are some 1.3 mm apart.
    void a_rod_over_a_plate_has_the_field_of_two_image_lines() {
        constexpr double radius = 3, kV = 10;
        for (const double gap : {0.001, 0.003, 0.01, 0.03, 0.1, 0.3})
            for (const double turn : {0.0, 0.13}) {
                const double height = radius + gap, image = std::sqrt(height * height - radius * radius),
                             span = std::acosh(height / radius);
                auto s = planar_air(400, 300);
                s.electrodes = {{"rod", kV, false, circle({200, height}, radius, turn, "rod")}};
                s.boundaries = {{"plate", 0, {{0, 0}, {400, 0}}}};
                s.paths = {{"across", {{200, 0}, {200, gap}}, "air"}, {"along", {{0, 0}, {371, 0}}, "air"}};
                const auto r = solve(s);
                REQUIRE_OK(r);
                const auto name = std::to_string(gap) + " mm, turned by " + std::to_string(turn) + ", ";
                const auto& edge = largest_of(*r, "rod");
                check(name + "rod", edge.peak_kV_per_mm, kV * image / (span * radius * gap),
                      edge.relative_error);
                const double at_plate = 2 * kV / (image * span);
                const auto& across = r->paths[0].samples.front();
                check(name + "plate", across.E_kV_per_mm, at_plate,
                      across.error_kV_per_mm / across.E_kV_per_mm);
                check(name + "along it", r->paths[1].peak_kV_per_mm, at_plate,
                      r->paths[1].peak_relative_error);
            }
    }
    /// Forty rods stand in a row over the plate, each with a peak that even places miss: each is read.
    void every_peak_of_a_row_is_read() {
        constexpr double radius = 0.5, gap = 0.05, pitch = 9;
        constexpr int rods = 40;
        auto s = planar_air(rods * pitch, 60);
        for (int k = 0; k < rods; ++k)
            s.electrodes.push_back(
                {"rod " + std::to_string(k), 10, false,
                 circle({(k + 0.5) * pitch, radius + gap}, radius, 0.2, "edge " + std::to_string(k))});
        s.boundaries = {{"plate", 0, {{0, 0}, {rods * pitch, 0}}}};
        s.paths = {{"along", {{0, 0}, {rods * pitch - 1.3, 0}}, "air"}};
        SolveOptions how;
        how.goal = 0.03;
        const auto r = solve(s, how);
        REQUIRE_OK(r);
        // All alike, but for the walls: the field between them is that of a row (by symmetry).
        std::vector<double> peaks(rods, 0.0);
        for (const auto& sample : r->paths[0].samples) {
            auto& peak = peaks[static_cast<std::size_t>(sample.s_mm / pitch)];
            peak = std::max(peak, sample.E_kV_per_mm);
        }
        const auto [least, most] = std::minmax_element(peaks.begin(), peaks.end());
        QVERIFY2(*most / *least < 1.04, qPrintable(QString("%1 to %2").arg(*least).arg(*most)));
    }
    /// A rod in a tube beside its middle by two image lines, at a and -a on the line of centres: field
    /// 2 a V / (difference of asinh(a / R) (a^2 - x^2)) there. Both sides of the gap are round.
    void a_rod_close_to_the_wall_of_a_tube_has_the_field_of_two_image_lines() {
        constexpr double rod = 3, tube = 5, kV = 10;
        for (const double gap : {0.001, 0.01, 0.1}) {
            const double apart = tube - rod - gap, sum = apart * apart - rod * rod - tube * tube;
            const double a = std::sqrt(sum * sum - 4 * rod * rod * tube * tube) / (2 * apart);
            const double span = std::asinh(a / rod) - std::asinh(a / tube);
            const auto exact = [&](double radius) {
                const double x = std::sqrt(radius * radius + a * a) - radius;
                return 2 * a * kV / (span * (a * a - x * x));
            };
            auto s = planar_air(20, 20);
            const Point middle{10, 10};
            Outline left{{10, 5}, {}}, right{{10, 15}, {}};
            left.arc_to({5, 10}, middle, "low left").arc_to({10, 15}, middle, "high left");
            left.line_to({10, 20}).line_to({0, 20}).line_to({0, 0}).line_to({10, 0});
            right.arc_to({15, 10}, middle, "high right").arc_to({10, 5}, middle, "low right");
            right.line_to({10, 0}).line_to({20, 0}).line_to({20, 20}).line_to({10, 20});
            s.electrodes = {{"left", 0, false, left},
                            {"right", 0, false, right},
                            {"rod", kV, false, circle({10 - apart, 10}, rod, 0.4, "rod")}};
            const auto r = solve(s);
            REQUIRE_OK(r);
            const auto name = std::to_string(gap) + " mm, ";
            const auto &on_rod = largest_of(*r, "rod"), &on_tube = largest_of(*r, "left");
            check(name + "rod", on_rod.peak_kV_per_mm, exact(rod), on_rod.relative_error);
            check(name + "tube", on_tube.peak_kV_per_mm, exact(tube), on_tube.relative_error);
        }
    }
    /// A ball over a plate by its row of image charges (Smythe, as above; from memory). Arcs that run
    /// clockwise, one of which ends beside the gap.
    void a_ball_over_a_plate_has_the_field_of_its_image_charges() {
        constexpr double radius = 3, kV = 10;
        for (const double gap : {0.003, 0.03, 0.3}) {
            const double height = radius + gap;
            double at_ball = 0, at_plate = 0, charge = radius * kV, z = height;
            while (charge > 1e-16 * radius * kV) {
                at_plate += 2 * charge / (z * z);
                at_ball += charge / ((z - gap) * (z - gap)) + charge / ((z + gap) * (z + gap));
                charge *= radius / (height + z);
                z = height - radius * radius / (height + z);
            }
            Section s;
            s.materials = {{"air", {1, {}, {}}}};
            s.regions = {{"air", "air", test::box(0, 0, 900, 900)}};
            const Point centre{0, height};
            const auto at = [&](double angle) {
                return Point{radius * std::cos(angle), height + radius * std::sin(angle)};
            };
            Outline ball{{0, height + radius}, {}};
            ball.arc_to(at(0.2), centre, "high").arc_to(at(-1.3), centre, "side");
            ball.arc_to({0, height - radius}, centre, "low");
            s.electrodes = {{"ball", kV, false, ball}};
            s.boundaries = {{"plate", 0, {{0, 0}, {900, 0}}}};
            s.paths = {{"along", {{0, 0}, {800, 0}}, "air"}};
            const auto r = solve(s);
            REQUIRE_OK(r);
            const auto name = std::to_string(gap) + " mm, ";
            const auto& edge = largest_of(*r, "ball");
            check(name + "ball", edge.peak_kV_per_mm, at_ball, edge.relative_error);
            check(name + "plate", r->paths[0].peak_kV_per_mm, at_plate, r->paths[0].peak_relative_error);
        }
    }
    /// Places lie closer round the corners of a path. What follows something round by two hundred chords has
    /// none: it was read at eight thousand places.
    void chords_of_what_is_round_are_no_corners() {
        Path round;
        for (int i = 0; i <= 200; ++i)
            round.points.push_back({50 + 20 * std::cos(pi * i / 200), 50 + 20 * std::sin(pi * i / 200)});
        QVERIFY(sample_places(round).size() < 400);
        const Path bent{"bent", {{0, 0}, {30, 0}, {30, 30}}, "air"},
            straight{"straight", {{0, 0}, {60, 0}}, "air"};
        QVERIFY(sample_places(bent).size() > sample_places(straight).size() + 30);
    }
    /// What a corner does to an edge is asked at the places of the edge. Those of arcs that run clockwise
    /// were once looked for on the other side of their centre.
    void places_of_an_edge_lie_on_it_whichever_way_it_turns() {
        const Point centre{20, 12}, low{20, 10}, right{22, 12};
        for (const bool clockwise : {false, true}) {
            auto s = planar_air(40, 30);
            Outline rod{clockwise ? right : low, {}};
            rod.arc_to(clockwise ? low : right, centre, "edge");
            if (clockwise)
                rod.line_to({16, 10}).line_to({16, 18}).line_to({22, 18});
            else
                rod.line_to({22, 18}).line_to({16, 18}).line_to({16, 10});
            s.electrodes = {{"rod", 10, false, rod}};
            s.boundaries = {{"plate", 0, {{0, 0}, {40, 0}}}};
            auto mesher = Mesher::create(s, {});
            REQUIRE_OK(mesher);
            const auto made = mesher->make([](Point) { return 2.0; }, nullptr);
            REQUIRE_OK(made);
            const auto plan = ReadingPlan::of(s, made->mesh);
            QCOMPARE(plan.edges.size(), std::size_t(1));
            const auto& at = plan.edges[0].at;
            QVERIFY(distance(at.front(), clockwise ? right : low) < 1e-9);
            QVERIFY(distance(at.back(), clockwise ? low : right) < 1e-9);
            for (std::size_t i = 1; i < at.size(); ++i) {
                COMPARE_WITHIN(distance(at[i], centre), 2.0, 1e-9);
                QVERIFY(clockwise ? at[i].r < at[i - 1].r : at[i].r > at[i - 1].r);
            }
        }
    }
};
QTEST_APPLESS_MAIN(TestNarrowGaps)
#include "test_narrow_gaps.moc"
