// Bodies from drawings: reading DXF, combining shapes, regions that cover electrodes, the stretch over a
// cable, and the family made of them.
#include "accessory/drawn_body.h"
#include "cli_support.h"
#include "document/drawing_io.h"
#include "evaluate/evaluate.h"
#include "geometry/clip.h"
#include "plan/plan.h"
#include <QTemporaryDir>

using namespace ng;
using std::numbers::pi;

namespace {

/// A DXF of one line an entity: kind, layer, and group codes with values.
std::string dxf(const std::vector<std::string>& entities, int unit = 4) {
    std::string out;
    if (unit >= 0)
        out += "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n" + std::to_string(unit) + "\n0\nENDSEC\n";
    out += "0\nSECTION\n2\nENTITIES\n";
    for (const auto& entity : entities) out += entity;
    return out + "0\nENDSEC\n0\nEOF\n";
}
std::string line(double x0, double y0, double x1, double y1, const char* handle = "2F") {
    return fmt::format("0\nLINE\n5\n{}\n8\nBODY\n10\n{}\n20\n{}\n30\n0\n11\n{}\n21\n{}\n31\n0\n", handle, x0,
                       y0, x1, y1);
}
const std::vector<std::string> square{line(0, 10, 20, 10, "10"), line(20, 10, 20, 15, "11"),
                                      line(20, 15, 0, 15, "12"), line(0, 15, 0, 10, "13")};

std::string refusal(const std::vector<std::string>& entities, DxfReadOptions options = {}, int unit = 4) {
    const auto read = read_dxf_text(dxf(entities, unit), "body.dxf", options);
    return read ? "" : read.error().message();
}
bool says(const std::string& message, std::initializer_list<const char*> words) {
    return std::all_of(words.begin(), words.end(),
                       [&](const char* word) { return message.find(word) != std::string::npos; });
}

double area_of(const Outline& outline) {
    return std::abs(signed_area(polygon_of(outline, pi / 720)));
}
/// Volume of the body that the profile sweeps round the axis, mm^3: 2 pi times the integral of r over the
/// profile (Pappus).
double volume_of(const Outline& outline) {
    const auto p = polygon_of(outline, pi / 720);
    double sum = 0;
    for (std::size_t i = 0; i < p.size(); ++i) {
        const Point a = p[i], b = p[(i + 1) % p.size()];
        sum += (a.r + b.r) * cross(a, b) / 6;
    }
    return 2 * pi * std::abs(sum);
}

BodyDrawing sleeve(double bore, double outer, double length) {
    return {"s", "sleeve", "", {{BodyRole::insulating_body, "BODY", test::box(bore, 0, outer, length)}}, {}};
}

Job bodies_job() {
    return *load_job(NEEDLEGAUGE_DATA_DIR "/demo/drawn-bodies.ngjob");
}

Section notched(bool by_region) {
    Section s;
    s.symmetry = Symmetry::planar;
    s.materials = {{"oil", {2.2, {}, {}}}, {"air", {1, {}, {}}}};
    s.regions.push_back({"oil", "oil", test::box(0, 0, 20, 10)});
    Outline plate = test::box(-1, -5, 21, 1), pit;
    pit.start = {8, 1};
    pit.line_to({8, 0})
        .arc_to({9, -1}, {9, 0}, "pit 1")
        .line_to({11, -1})
        .arc_to({12, 0}, {11, 0}, "pit 2")
        .line_to({12, 1});
    pit.steps[1].clockwise = pit.steps[3].clockwise = false;
    if (by_region) {
        s.regions.push_back({"notch", "air", pit, true});
    } else { // drawn by hand: air in a plate that has the pit cut out
        s.regions.push_back({"notch", "air", pit});
        plate = Outline{};
        plate.start = {-1, -5};
        plate.line_to({21, -5}).line_to({21, 1}).line_to({12, 1}).line_to({12, 0});
        plate.arc_to({11, -1}, {11, 0})
            .line_to({9, -1})
            .arc_to({8, 0}, {9, 0})
            .line_to({8, 1})
            .line_to({-1, 1});
        plate.steps[4].clockwise = plate.steps[6].clockwise = true;
    }
    s.electrodes.push_back({"plate", 0, false, plate});
    s.boundaries.push_back({"top", 10, {{0, 10}, {20, 10}}});
    s.paths.push_back({"across", {{10, -0.5}, {10, 0.9}}, "notch"});
    s.probes = {{"in the notch", {10, 0.2}, "notch"}, {"above", {10, 3}, "oil"}};
    return s;
}

} // namespace

class TestBodies : public QObject {
    Q_OBJECT
  private slots:
    void drawn_demo_bodies_are_solved_coarsely_too() {
        // A deflector's long arc leaves the insulation in a cusp: a coarse chord of it lies beneath the
        // surface.
        const auto job = load_job(NEEDLEGAUGE_DATA_DIR "/demo/drawn-bodies.ngjob");
        REQUIRE_OK(job);
        for (const auto& design : job->designs)
            REQUIRE_OK(outcome_of(*job, design.id, {}, test::library(), prepare_design,
                                  {Use::compared, {}, nullptr}));
    }
    void shapes_are_combined() {
        const Polygon a{{0, 0}, {4, 0}, {4, 4}, {0, 4}}, b{{2, 2}, {6, 2}, {6, 6}, {2, 6}};
        const auto both = united({a, b});
        QCOMPARE(both.size(), std::size_t(1));
        COMPARE_WITHIN(signed_area(both[0]), 28, 1e-9);
        COMPARE_WITHIN(signed_area(without(a, {b})[0]), 12, 1e-9);
        QCOMPARE(united({a, {{10, 0}, {11, 0}, {11, 1}}}).size(), std::size_t(2));
    }
    void a_line_is_moved_to_its_right() {
        const auto moved = beside({{10, 0}, {10, 10}, {20, 10}, {20, 20}}, 1, 4);
        QCOMPARE(moved.size(), std::size_t(4));
        const std::vector<Point> by_hand{{11, 0}, {11, 9}, {21, 9}, {21, 20}}; // corners mitred
        for (std::size_t i = 0; i < 4; ++i) QVERIFY(distance(moved[i], by_hand[i]) < 1e-5);
        // Backwards it is the other side.
        const auto back = beside({{20, 20}, {20, 10}, {10, 10}, {10, 0}}, 1, 4);
        QVERIFY(distance(back.front(), {19, 20}) < 1e-5 && distance(back.back(), {9, 0}) < 1e-5);
        // A pocket narrower than twice the distance is closed: the line beside it does not cross itself.
        const auto pocket = beside({{10, 0}, {10, 5}, {5, 5}, {5, 6}, {10, 6}, {10, 12}}, 1, 4);
        QVERIFY(!pocket.empty());
        for (const auto& p : pocket) QVERIFY(p.r > 11 - 1e-5);
    }
    /// By painter's order or cut out by hand: one field, to the stated errors; and its rounded pit is read.
    void a_region_that_says_so_covers_an_electrode() {
        const auto section = notched(true), by_hand = notched(false);
        for (const auto* s : {&section, &by_hand}) REQUIRE_OK(validate(*s));
        const auto a = solve(section, {}), b = solve(by_hand, {});
        REQUIRE_OK(a);
        REQUIRE_OK(b);
        for (std::size_t i = 0; i < 2; ++i) {
            const double x = a->probes[i].E_kV_per_mm, y = b->probes[i].E_kV_per_mm;
            QVERIFY(x > 0.05);
            QVERIFY2(std::abs(x - y) <=
                         1e-3 * y + a->probes[i].error_kV_per_mm + b->probes[i].error_kV_per_mm,
                     qPrintable(QString("%1 %2").arg(x).arg(y)));
        }
        QVERIFY(std::abs(a->energy_J - b->energy_J) <= 1e-3 * b->energy_J);
        QVERIFY(a->edge("pit 1") && a->edge("pit 1")->peak_kV_per_mm > 0);
        auto without = section; // not said: the electrode covers it, and the path lies in metal
        without.regions[1].covers_electrodes = false;
        QVERIFY(!validate(without));
        const auto again = read_section(write_section(section));
        REQUIRE_OK(again);
        QVERIFY(again->regions[1].covers_electrodes && !again->regions[0].covers_electrodes);
    }
    void a_drawing_is_read_by_what_its_header_says() {
        const auto mm = read_dxf_text(dxf(square), "body.dxf", {});
        REQUIRE_OK(mm);
        QCOMPARE(mm->profiles.size(), std::size_t(1));
        COMPARE_WITHIN(area_of(mm->profiles[0].outline), 100, 1e-12);
        QCOMPARE(mm->profiles[0].outline.start.r, 10.0);
        const auto inch = read_dxf_text(dxf(square, 1), "body.dxf", {});
        REQUIRE_OK(inch);
        COMPARE_WITHIN(area_of(inch->profiles[0].outline), 100 * 25.4 * 25.4, 1e-12);
        QVERIFY(says(refusal(square, {}, -1), {"body.dxf", "unit"}));
        QVERIFY(says(refusal(square, {}, 0), {"body.dxf", "unit"}));
        QVERIFY(says(refusal(square, {25.4, {}, {}}), {"1 mm", "25.4"}));
        const auto told = read_dxf_text(dxf(square, 0), "body.dxf", {25.4, {}, {}});
        REQUIRE_OK(told);
        QVERIFY(!told->unit_was_read);
        // The other axis: x is the radius.
        const auto y = read_dxf_text(
            dxf({line(10, 0, 10, 20), line(10, 20, 15, 20), line(15, 20, 15, 0), line(15, 0, 10, 0)}), "b",
            {{}, {}, DxfReadOptions::Axis::y});
        REQUIRE_OK(y);
        QCOMPARE(y->profiles[0].outline.start.r, 10.0);
    }
    void what_is_no_closed_profile_is_refused_by_entity() {
        auto open = square;
        open.pop_back();
        QVERIFY2(says(refusal(open), {"LINE 10", "open", "x 0, y 15"}), refusal(open).c_str());
        auto branch = square;
        branch.insert(branch.begin() + 1, line(20, 10, 30, 12, "99"));
        QVERIFY2(says(refusal(branch), {"LINE 10", "branches"}), refusal(branch).c_str());
        const std::vector<std::string> crossed{line(0, 10, 20, 15), line(20, 15, 20, 10), line(20, 10, 0, 15),
                                               line(0, 15, 0, 10)};
        QVERIFY2(says(refusal(crossed), {"crosses itself", "x 10"}), refusal(crossed).c_str());
        const std::vector<std::string> below{line(0, -5, 20, -5), line(20, -5, 20, 15), line(20, 15, 0, 15),
                                             line(0, 15, 0, -5)};
        QVERIFY2(says(refusal(below), {"beyond the axis"}), refusal(below).c_str());
        QVERIFY(says(refusal(square, {1000, {}, {}}, 0), {"20000"})); // metres
        QVERIFY(says(refusal(square, {{}, {"COVER"}, {}}), {"COVER", "BODY"}));
        QVERIFY(says(refusal({}), {"nothing is drawn"}));
        QVERIFY(says(refusal({"0\nINSERT\n8\nBODY\n2\nplug\n10\n0\n20\n0\n"}), {"INSERT", "plug"}));
        QVERIFY(says(refusal({"0\nSPLINE\n8\nBODY\n70\n8\n71\n3\n72\n0\n73\n0\n74\n2\n11\n0\n21\n10\n31\n0\n1"
                              "1\n5\n21\n12\n31\n0\n"}),
                     {"SPLINE", "control points"}));
        for (const char* text : {"", "hello", "0\nSECTION\n", "\xff\xfe SECTION"})
            QVERIFY(!read_dxf_text(text, "x.dxf", {}));
    }
    /// A whole circle as a rational spline of degree 2 (Piegl and Tiller, "The NURBS Book", 7.5), and a bulge
    /// of 1.
    void splines_and_bulges_have_their_exact_areas() {
        std::string spline = "0\nSPLINE\n8\nBODY\n70\n12\n71\n2\n72\n12\n73\n9\n74\n0\n";
        for (const double k : {0., 0., 0., .25, .25, .5, .5, .75, .75, 1., 1., 1.})
            spline += fmt::format("40\n{}\n", k);
        const double w = std::sqrt(0.5);
        for (const double v : {1., w, 1., w, 1., w, 1., w, 1.}) spline += fmt::format("41\n{}\n", v);
        const double x[] = {1, 1, 0, -1, -1, -1, 0, 1, 1}, y[] = {0, 1, 1, 1, 0, -1, -1, -1, 0};
        for (int i = 0; i < 9; ++i) spline += fmt::format("10\n{}\n20\n{}\n30\n0\n", 7 * x[i], 20 + 7 * y[i]);
        const auto read = read_dxf_text(dxf({spline}), "s", {});
        REQUIRE_OK(read);
        for (const auto& p : polygon_of(read->profiles[0].outline, 0.1))
            QVERIFY(std::abs(distance(p, {20, 0}) - 7) < 1e-9);
        COMPARE_WITHIN(area_of(read->profiles[0].outline), pi * 49, 2 * flattened_within_mm / 7);
        const auto bulge = read_dxf_text(
            dxf({"0\nLWPOLYLINE\n8\nBODY\n90\n2\n70\n1\n10\n0\n20\n20\n42\n1\n10\n8\n20\n20\n42\n1\n"}), "b",
            {});
        REQUIRE_OK(bulge);
        QCOMPARE(bulge->profiles[0].outline.steps.size(), std::size_t(2));
        QVERIFY(bulge->profiles[0].outline.steps[0].centre);
        COMPARE_WITHIN(area_of(bulge->profiles[0].outline), pi * 16, 1e-5);
    }
    /// ezdxf (a general-purpose DXF library) draws and measures; the reader finds the same profiles.
    void random_drawings_measure_as_their_drawer_says() {
        if (!QFile::exists("/usr/lib/python3/dist-packages/ezdxf/__init__.py"))
            QSKIP("python3-ezdxf is not installed");
        QTemporaryDir dir;
        for (const auto& [seed, unit, mm] :
             {std::tuple(1, 4, 1.0), {2, 1, 25.4}, {3, 5, 10.0}, {4, 4, 1.0}}) {
            const auto file = dir.filePath(QString("%1.dxf").arg(seed));
            const auto drawn =
                test::call("/usr/bin/python3", {NEEDLEGAUGE_REFERENCE_DIR "/draw_profiles.py", file,
                                                QString::number(seed), QString::number(unit)});
            QVERIFY2(drawn.code == 0, drawn.err);
            const auto measured = nlohmann::json::parse(drawn.out.toStdString());
            const auto read = read_dxf_profiles(file.toStdString(), {});
            REQUIRE_OK(read);
            QCOMPARE(read->profiles.size(), measured.size());
            for (const auto& profile : read->profiles) {
                const auto& m = measured.at(profile.layer);
                COMPARE_WITHIN(area_of(profile.outline), m["area"].get<double>() * mm * mm, 1e-3);
                double top = 0;
                for (const auto& p : polygon_of(profile.outline, 0.01)) top = std::max(top, p.r);
                QVERIFY(std::abs(top - m["box"][3].get<double>() * mm) < 2 * flattened_within_mm);
            }
        }
    }
    /// Rubber that is stretched over a cable keeps its volume, slice by slice; along the axis it comes as
    /// asked.
    void stretching_keeps_the_volume_and_lies_on_the_cable() {
        const Profile cable({{12, -100}, {12, 100}});
        for (const double axial : {1.0, 1.25})
            for (const double shrinkage : {1.0, 0.98}) {
                const auto drawing = sleeve(8, 15, 40);
                const auto fitted = FittedBody::fit(drawing, {-10, true, shrinkage, axial}, cable);
                REQUIRE_OK(fitted);
                const auto on = fitted->on_cable(drawing.parts[0].outline);
                COMPARE_WITHIN(volume_of(on), std::pow(shrinkage, 3) * volume_of(drawing.parts[0].outline),
                               1e-3);
                double low = 1e9, high = 0, z1 = -1e9;
                for (const auto& p : polygon_of(on, 0.05)) {
                    low = std::min(low, p.r);
                    high = std::max(high, p.r);
                    z1 = std::max(z1, p.z);
                }
                COMPARE_WITHIN(low, 12, 1e-9);
                COMPARE_WITHIN(high, std::sqrt(144 + shrinkage * shrinkage * (225 - 64) / axial), 1e-9);
                COMPARE_WITHIN(z1, -10 + 40 * shrinkage * axial, 1e-9);
                COMPARE_WITHIN(fitted->greatest_stretch(), 12 / (8 * shrinkage), 1e-9);
            }
        // Wider than the cable: it stays as it is.
        const auto loose = FittedBody::fit(sleeve(14, 20, 40), {0, false, 1, 1}, cable);
        REQUIRE_OK(loose);
        COMPARE_WITHIN(volume_of(loose->on_cable(test::box(14, 0, 20, 40))),
                       volume_of(test::box(14, 0, 20, 40)), 1e-9);
        BodyDrawing stepped = sleeve(8, 15, 40);
        stepped.parts[0].outline = Outline::polygon({{8, 0}, {15, 0}, {15, 40}, {11, 40}, {11, 20}, {8, 20}});
        const auto refused = FittedBody::fit(stepped, {0, true, 1, 1}, cable);
        QVERIFY(!refused && refused.error().message().find("step") != std::string::npos);
    }
    void arcs_stay_arcs_when_they_are_stretched() {
        const Profile cable({{12, -100}, {12, 100}});
        BodyDrawing drawing = sleeve(8, 20, 60);
        Outline ball;
        ball.start = {16, 30};
        ball.arc_to({14, 32}, {14, 30})
            .arc_to({12, 30}, {14, 30})
            .arc_to({14, 28}, {14, 30})
            .arc_to({16, 30}, {14, 30});
        const auto fitted = FittedBody::fit(drawing, {0, true, 1, 1}, cable);
        REQUIRE_OK(fitted);
        const auto on = fitted->on_cable(ball, [i = 0]() mutable { return "arc " + std::to_string(++i); });
        QVERIFY(std::all_of(on.steps.begin(), on.steps.end(),
                            [](const auto& s) { return s.centre && !s.name.empty(); }));
        COMPARE_WITHIN(volume_of(on), volume_of(ball), 1e-3);
        Point from = on.start;
        for (const auto& step : on.steps) { // smooth from one to the next, within a degree
            QVERIFY(resolve_arc(from, step));
            from = step.to;
        }
        const auto polygon = polygon_of(on, pi / 90);
        QVERIFY(!self_crossing(polygon));
    }
    void the_bodies_that_ship_are_those_of_their_drawings() {
        const std::string demo = std::string(NEEDLEGAUGE_DATA_DIR) + "/demo/";
        const auto cone = import_body(demo + "slip-on-cone.dxf", {"slip-on-cone",
                                                                  "Slip-on cone (invented)",
                                                                  {{"BODY", BodyRole::insulating_body},
                                                                   {"DEFLECTOR", BodyRole::earthed_deflector},
                                                                   {"SHEDS", BodyRole::shed}}});
        const auto graded =
            import_body(demo + "graded-body.dxf",
                        {"graded-body",
                         "Graded body (invented)",
                         {{"BODY", BodyRole::insulating_body}, {"LAYER", BodyRole::grading_layer}}});
        REQUIRE_OK(cone);
        REQUIRE_OK(graded);
        QCOMPARE(test::library().drawings.size(), std::size_t(2));
        for (const auto* body : {&*cone, &*graded})
            QVERIFY(std::any_of(
                test::library().drawings.begin(), test::library().drawings.end(),
                [&](const auto& d) { return drawing_json(d).dump() == drawing_json(*body).dump(); }));
    }
    void a_drawing_travels_with_its_job() {
        auto job = new_job();
        job.designs[0].family = "drawn_body";
        job.drawings = test::library().drawings;
        job.designs[0].drawing_id = job.drawings[1].id;
        const auto again = read_job(nlohmann::json::parse(write_job(job).dump()), "job");
        REQUIRE_OK(again);
        QCOMPARE(write_job(*again).dump(), write_job(job).dump());
        Library bare = test::library();
        bare.drawings.clear();
        REQUIRE_OK(prepare_design(*again, again->designs[0].id, bare));
        auto broken = nlohmann::json::parse(write_job(job).dump());
        broken["drawings"][0]["parts"][0]["outline"][2] = {-5, 3};
        const auto refused = read_job(broken, "job");
        QVERIFY(!refused && says(refused.error().message(), {"drawing"}));
        auto vast = nlohmann::json::parse(write_job(job).dump());
        vast["drawings"][0]["parts"][0]["outline"][2] = {1e13, 3};
        const auto too_large = read_job(vast, "job");
        QVERIFY(!too_large && says(too_large.error().message(), {"drawing", "unit"}));
        job.designs[0].drawing_id = "lost";
        const auto lost = prepare_design(job, job.designs[0].id, test::library());
        QVERIFY(!lost && says(lost.error().message(), {"lost"}));
        job.designs[0].drawing_id.clear();
        job.drawings.clear();
        QVERIFY(!prepare_design(job, job.designs[0].id, bare)); // no drawing anywhere
    }
    void a_body_is_judged_by_its_roles() {
        for (const auto& drawing : test::library().drawings) {
            const auto job = bodies_job();
            const auto prepared = prepare_design(job, drawing.id, test::library());
            REQUIRE_OK(prepared);
            std::set<CheckId> ids;
            for (const auto& check : prepared->built.checks) ids.insert(check.id);
            const bool cone = drawing.id == "slip-on-cone";
            QVERIFY(ids.contains(CheckKind::insulation_tangential) &&
                    ids.contains(CheckKind::air_extinction));
            QCOMPARE(ids.contains(CheckKind::cone_surface), cone);
            QCOMPARE(ids.contains(CheckKind::deflector_edge), cone);
            QCOMPARE(ids.contains(CheckKind::screen_edge),
                     !cone); // beneath the deflector there is nothing to read
            const auto solution = solve(prepared->built.section, {});
            REQUIRE_OK(solution);
            QVERIFY2(solution->report.end == SolveReport::End::goal_met, drawing.id.c_str());
            REQUIRE_OK(make_plan(*prepared));
        }
    }
    void a_body_that_cannot_lie_there_is_refused_by_name() {
        auto job = bodies_job();
        auto& design = *job.find_design("slip-on-cone");
        const auto message = [&] {
            const auto prepared = prepare_design(job, design.id, test::library());
            return prepared ? std::string() : prepared.error().message();
        };
        QCOMPARE(message(), std::string());
        const auto usual = prepare_design(job, design.id, test::library());
        const double edge = usual->built.datum_z_mm;
        design.numbers["body_at_mm"] = edge - 40;
        QVERIFY2(says(message(), {"Deflector", "earthed"}), message().c_str());
        design.numbers["body_at_mm"] = edge + 600;
        QVERIFY2(!message().empty(), "a body behind everything");
    }
};

QTEST_GUILESS_MAIN(TestBodies)
#include "test_bodies.moc"
