// Shape aids against their formulas and the field, exports, and the search for the best shape.
#include "io/csv.h"
#include "io/file.h"
#include "shape/aids.h"
#include "shape/optimise.h"
#include "support.h"
#include <QTemporaryDir>

using namespace ng;

namespace {

const CableRadii cable{6.5, 7, 12, 13, 14, 16};

PreparedDesign prepared(const std::string& family) {
    auto job = new_job();
    job.designs[0].family = family;
    job.designs[0].duty.standard = test::family(family).usual_standard;
    return *prepare_design(job, job.designs[0].id, test::library());
}

const Aid* find(const std::vector<Aid>& aids, const std::string& id) {
    for (const auto& aid : aids)
        if (aid.id == id) return &aid;
    return nullptr;
}

} // namespace

class TestShape : public QObject {
    Q_OBJECT
  private slots:
    void cones_end_where_the_handbook_forms_say() {
        // x = (U/E) ln[ln(R/rc)/ln(ri/rc)], worked by hand: 8.66 / 0.25 x ln[ln(22/7) / ln(12/7)].
        const auto axial = cone_of_axial_stress(8.66, 0.25, cable, 22);
        COMPARE_WITHIN(axial.smooth.back().z, 8.66 / 0.25 * std::log(std::log(22.0 / 7) / std::log(12.0 / 7)),
                       1e-12);
        // One permittivity: k = ln(R/ri) / ln(R/rc), x = k U / E.
        const auto tangential = cone_of_tangential_stress(8.66, 0.3, cable, 2.3, 2.3, 22);
        COMPARE_WITHIN(tangential.smooth.back().z, std::log(22.0 / 12) / std::log(22.0 / 7) * 8.66 / 0.3,
                       1e-12);
        COMPARE_WITHIN(tangential.smooth.back().r, 22.0, 1e-9);
        const auto pencil = pencil_of_tangential_stress(8.66, 0.3, cable, 24);
        COMPARE_WITHIN(pencil.smooth.back().z, 8.66 * std::log(12.0 / 7) / (0.3 * std::log(24.0 / 7)), 1e-12);
    }
    void straight_lines_stay_within_their_tolerance() {
        for (const auto& profile : {cone_of_axial_stress(8.66, 0.2, cable, 30),
                                    cone_of_tangential_stress(8.66, 0.2, cable, 2.3, 2.8, 30),
                                    pencil_of_tangential_stress(8.66, 0.3, cable, 24)}) {
            QVERIFY(profile.straight.size() >= 2 && profile.straight.size() < profile.smooth.size() / 2);
            QCOMPARE(profile.straight.front(), profile.smooth.front());
            QCOMPARE(profile.straight.back(), profile.smooth.back());
            for (const auto& p : profile.smooth) {
                double nearest = 1e9;
                for (std::size_t i = 0; i + 1 < profile.straight.size(); ++i) {
                    const Point a = profile.straight[i], d = profile.straight[i + 1] - a;
                    const double f = std::clamp(dot(p - a, d) / dot(d, d), 0.0, 1.0);
                    nearest = std::min(nearest, distance(p, a + f * d));
                }
                QVERIFY(nearest <= straight_tolerance_mm + 1e-9);
            }
        }
    }
    void an_edge_radius_gives_its_peak_in_the_field() {
        // Cylinder beside an earthed plane, planar: the field agrees with the image-charge form behind the
        // aid.
        const double gap = 6, voltage = 10;
        for (const double peak : {3.0, 5.0}) {
            const auto radius = edge_radius_for_peak_mm(voltage, gap, peak);
            QVERIFY(radius);
            const double h = *radius + gap, far = 60 * (h + gap);
            Section s;
            s.symmetry = Symmetry::planar;
            s.materials["air"] = {1, {}, {}};
            s.regions.push_back({"air", "air", test::box(0, 0, far, far)});
            Outline half; // the right half of the cylinder; x = 0 is a line of symmetry
            half.start = {0, h - *radius};
            half.arc_to({*radius, h}, {0, h}, "edge below");
            half.arc_to({0, h + *radius}, {0, h}, "edge above");
            s.electrodes.push_back({"cylinder", voltage, false, half});
            s.boundaries.push_back({"plane", 0, {{0, 0}, {far, 0}}});
            const auto solved = solve(s);
            REQUIRE_OK(solved);
            double most = 0;
            for (const auto& e : solved->edges) most = std::max(most, e.peak_kV_per_mm);
            COMPARE_WITHIN(most, peak, 0.03); // the far walls are not at infinity
        }
        QVERIFY(!edge_radius_for_peak_mm(10, 6, 1.5)); // below the uniform field of the gap
    }
    void a_sized_graded_layer_keeps_its_stress() {
        const auto sizing = size_graded_layer(8.66, 0.5, cable, 2.3);
        const closedform::GradedLayer layer{8.66, 7,  12, 2.3, sizing.permittivity_times_wall_mm / 20,
                                            20,   500};
        COMPARE_WITHIN(layer.tangential_kV_per_mm(0), 0.5, 1e-6);
        for (std::size_t i = 0; i + 1 < sizing.rows.size(); ++i) {
            QVERIFY(sizing.rows[i + 1].tangential_kV_per_mm >=
                    sizing.rows[i].tangential_kV_per_mm); // the tanh law
            QVERIFY(sizing.rows[i + 1].left_share < sizing.rows[i].left_share);
        }
        COMPARE_WITHIN(sizing.rows[3].tangential_kV_per_mm, 0.5 * std::tanh(3.0),
                       1e-9); // at the useful length
        QVERIFY(sizing.rows[5].tangential_kV_per_mm / sizing.rows[3].tangential_kV_per_mm <
                1.006); // half as long again: nothing
    }
    void every_family_gets_the_aids_that_it_can_take_over() {
        for (const auto& family : FamilyTable::shipped()) {
            auto job = new_job();
            job.cables[0].insulation_material = "xlpe";
            auto paper = job.cables[0];
            paper.id = "paper";
            paper.insulation_material = "paper";
            job.cables.push_back(paper);
            job.designs[0].family = family.id;
            job.designs[0].duty.standard = family.usual_standard;
            if (family.id == "transition_joint") {
                job.designs[0].other_cable_id = "paper";
                job.cables[1].insulation_screen_thickness_mm = 0.4;
            }
            const auto p = prepare_design(job, job.designs[0].id, test::library());
            REQUIRE_OK(p);
            const auto aids = shape_aids(*p, {});
            for (const auto& aid : aids) {
                QVERIFY(!aid.answer.empty() && !aid.formula.empty());
                for (const auto& [key, value] : aid.numbers) {
                    const auto* spec = family.parameter(key);
                    QVERIFY2(spec && value >= spec->lowest && value <= spec->highest, key.c_str());
                }
                for (const auto& [key, value] : aid.choices) QVERIFY2(family.parameter(key), key.c_str());
            }
            if (family.id != "portable_splice" && !family.from_drawing)
                QVERIFY2(!aids.empty(), family.id.c_str());
        }
    }
    void a_cone_is_taken_over_and_drawn_where_it_lies() {
        const auto p = prepared("cold_shrink_termination_cone");
        const auto aids = shape_aids(p, {});
        const auto* aid = find(aids, "cone_constant_tangential");
        QVERIFY(aid && aid->drawn.size() > 10);
        COMPARE_WITHIN(aid->drawn.front().r, p.dimensions.radius_mm("insulation"), 1e-9);
        // The cone's start, and its fillet a little before it.
        QVERIFY(aid->drawn.front().z < 2 && aid->drawn.front().z > 1.5);
        auto design = p.design;
        take_over(design, *aid);
        QCOMPARE(design.choices.at("cone_profile"), std::string("constant_tangential"));
        COMPARE_WITHIN(design.numbers.at("cone_length_mm"), aid->profile.smooth.back().z, 0.01);
    }
    void a_graded_layer_taken_over_has_the_wall_asked_for() {
        auto p = prepared("heat_shrink_termination");
        const auto aids = shape_aids(p, {});
        auto job = new_job();
        take_over(job.designs[0], *find(aids, "graded"));
        const auto again = prepare_design(job, job.designs[0].id, test::library());
        REQUIRE_OK(again);
        const auto sizing = size_graded_layer(p.design.duty.u0(), 0.5, radii_of(p.dimensions), 2.3);
        COMPARE_WITHIN(again->built.derived.at("stress tube wall on insulation (mm)"),
                       sizing.permittivity_times_wall_mm / p.materials.find("stress tube")->eps_r.value,
                       1e-6);
    }
    void profiles_are_written_as_csv_and_dxf() {
        const auto profile = cone_of_axial_stress(8.66, 0.25, cable, 22);
        const auto rows = read_csv(profile_csv(profile), "profile.csv");
        REQUIRE_OK(rows);
        QCOMPARE(rows->size(), profile.smooth.size() + profile.straight.size());
        COMPARE_WITHIN(*rows->back().number("radius_mm", ""), 22.0, 1e-3);
        QTemporaryDir folder;
        const auto path = folder.filePath("cone.dxf").toStdString();
        REQUIRE_OK(write_profile_dxf(profile, path));
        const auto text = QString::fromStdString(*read_file(path));
        QVERIFY(text.contains("LWPOLYLINE") || text.contains("POLYLINE"));
        QVERIFY(text.contains("straight") && text.contains("smooth") && text.trimmed().endsWith("EOF"));
        QVERIFY(!write_profile_dxf(profile, folder.filePath("nowhere/cone.dxf").toStdString()));
    }
    void the_search_shortens_a_tube_while_all_holds() {
        OptimiseRequest request;
        request.job = new_job();
        request.job.cables[0].insulation_level = "133%";
        request.design_id = request.job.designs[0].id;
        request.dimensions = {{"tube_upper_end_mm", 60, 200}};
        request.most_steps = 18;
        request.goal = 0.03;
        int told = 0;
        const auto result =
            optimise(request, test::library(), prepare_design, [&](const OptimiseStep&, int) { ++told; });
        REQUIRE_OK(result);
        QCOMPARE(told, static_cast<int>(result->path.size()));

        QVERIFY(result->best);
        const auto& start = result->path.front();
        const auto& best = result->path[*result->best];
        QVERIFY(best.holds && best.worst_share <= 0.9 + 1e-9);
        QVERIFY2(!start.holds || best.objective < start.objective - 5,
                 qPrintable(QString("%1 to %2").arg(start.objective).arg(best.objective)));
        QVERIFY(best.values[0] >= 60 && best.values[0] <= 200);
    }
    void a_search_can_be_cancelled_and_refuses_nonsense() {
        OptimiseRequest request;
        request.job = new_job();
        request.design_id = request.job.designs[0].id;
        request.dimensions = {{"tube_upper_end_mm", 60, 200}, {"tube_recovered_wall_mm", 2, 6}};
        request.goal = 0.05;
        CancelFlag cancel = false;
        const auto result = optimise(
            request, test::library(), prepare_design,
            [&](const OptimiseStep&, int done) { cancel = done >= 3; }, &cancel);
        REQUIRE_OK(result);
        QCOMPARE(result->end, std::string("cancelled"));
        QVERIFY(result->path.size() <= 5);
        auto bad = request;
        bad.dimensions.clear();
        QVERIFY(!optimise(bad, test::library(), prepare_design));
        bad.dimensions.assign(5, request.dimensions[0]);
        QVERIFY(!optimise(bad, test::library(), prepare_design));
        bad.dimensions = {{"edge_preparation", 0, 1}};
        QVERIFY(!optimise(bad, test::library(), prepare_design));
        bad.dimensions = {{"tube_upper_end_mm", 200, 60}};
        QCOMPARE(optimise(bad, test::library(), prepare_design).error().item,
                 std::string("Upper end, from cable end"));
        bad = request;
        bad.lowest_check = CheckKind::crotch_air; // of another family
        QVERIFY(!optimise(bad, test::library(), prepare_design));
    }
};
QTEST_APPLESS_MAIN(TestShape)
#include "test_shape.moc"
