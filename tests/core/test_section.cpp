#include "support.h"
#include <fstream>

using namespace ng;
using nlohmann::json;

namespace {

const char* sketch =
    R"({ "format": "needlegauge-section", "version": 1, "symmetry": "axisymmetric", "frequency_hz": 60,
  "materials": { "air": {"eps_r": 1}, "xlpe": {"eps_r": 2.3} },
  "regions":    [ {"name": "air", "material": "air", "outline": [[0,-80],[150,-80],[150,200],[0,200]]},
                  {"name": "insulation", "material": "xlpe", "outline": [[9,-80],[13.45,-80],[13.45,150],[9,150]]} ],
  "electrodes": [ {"name": "conductor", "voltage_kV": 8.7, "outline": [[0,-80],[9,-80],[9,150],[0,150]]},
                  {"name": "screen", "voltage_kV": 0, "outline": [[13.45,-80],[14.45,-80],{"to":[14.45,-0.3]},{"arc_to":[14.15,0],"centre":[14.15,-0.3]},[13.45,0]]} ],
  "boundaries": [ {"name": "tank", "voltage_kV": 0, "along": [[150,-80],[150,200]]} ],
  "paths":      [ {"name": "insulation surface", "points": [[13.45,0],[13.45,150]], "side": "insulation"} ],
  "probes":     [ {"name": "z5", "at": [13.45,5], "side": "insulation"} ] })";

json parsed() {
    return json::parse(sketch);
}

} // namespace

class TestSection : public QObject {
    Q_OBJECT
  private slots:
    void the_documented_example_is_read() {
        const auto s = read_section(parsed());
        REQUIRE_OK(s);
        QCOMPARE(s->regions.size(), std::size_t(2));
        QCOMPARE(s->electrodes[1].outline.steps[2].centre->r, 14.15);
        QCOMPARE(s->materials.at("xlpe").eps_r, 2.3);
        QCOMPARE(s->boundaries[0].along.size(), std::size_t(2));
    }
    void what_is_written_reads_back_the_same() {
        const auto s = read_section(parsed());
        REQUIRE_OK(s);
        const auto written = write_section(*s);
        const auto again = read_section(json::parse(written.dump()));
        REQUIRE_OK(again);
        QCOMPARE(write_section(*again).dump(), written.dump());
    }
    void conduction_arc_names_and_floating_survive_a_round_trip() {
        auto d = parsed();
        d["materials"]["graded"] = {{"eps_r", 12},
                                    {"conduction",
                                     {{"law", "power"},
                                      {"sigma0_S_per_m", 1e-9},
                                      {"E0_kV_per_mm", 0.5},
                                      {"exponent", 4},
                                      {"field", "rms"}}}};
        d["electrodes"][1]["outline"][3]["name"] = "lip";
        d["electrodes"].push_back(
            {{"name", "island"}, {"floating", true}, {"outline", {{20, 5}, {22, 5}, {22, 6}}}});
        const auto s = read_section(d);
        REQUIRE_OK(s);
        const auto again = read_section(json::parse(write_section(*s).dump()));
        REQUIRE_OK(again);
        QVERIFY(again->materials.at("graded").conduction == s->materials.at("graded").conduction);
        QCOMPARE(again->electrodes[1].outline.steps[2].name, std::string("lip"));
        QVERIFY(again->electrodes[2].floating);
    }
    void bad_sections_are_refused_by_item_data() {
        QTest::addColumn<QString>("patch"); // JSON merge patch
        QTest::addColumn<QString>("item");
        QTest::newRow("crossing outline")
            << R"({"regions":[{"name":"bow","material":"air","outline":[[0,0],[10,10],[10,0],[0,10]]}]})"
            << "region bow";
        QTest::newRow("unknown material")
            << R"({"regions":[{"name":"air","material":"ether","outline":[[0,0],[10,0],[10,10]]}]})"
            << "region air";
        QTest::newRow("no electrode") << R"({"electrodes":null,"boundaries":null})"
                                      << "section";
        QTest::newRow("no region") << R"({"regions":null})"
                                   << "section";
        QTest::newRow("path outside")
            << R"({"paths":[{"name":"far","points":[[13,0],[500,0]],"side":"air"}]})"
            << "path far";
        QTest::newRow("path on the wrong side")
            << R"({"paths":[{"name":"deep","points":[[30,0],[30,50]],"side":"insulation"}]})"
            << "path deep";
        QTest::newRow("side is no region")
            << R"({"paths":[{"name":"p","points":[[30,0],[30,50]],"side":"oil"}]})"
            << "path p";
        QTest::newRow("negative radius")
            << R"({"regions":[{"name":"air","material":"air","outline":[[-5,0],[10,0],[10,10]]}]})"
            << "region air";
        QTest::newRow("text for a number")
            << R"({"regions":[{"name":"air","material":"air","outline":[["a",0],[10,0],[10,10]]}]})"
            << "region air";
        QTest::newRow("two points")
            << R"({"regions":[{"name":"air","material":"air","outline":[[0,0],[10,0]]}]})"
            << "region air";
        QTest::newRow("no area")
            << R"({"regions":[{"name":"air","material":"air","outline":[[0,0],[10,0],[5,0]]}]})"
            << "region air";
        QTest::newRow("unequal arc")
            << R"({"electrodes":[{"name":"e","voltage_kV":1,"outline":[[1,0],{"arc_to":[5,5],"centre":[2,0]},[1,5]]}]})"
            << "electrode e";
        QTest::newRow("half circle")
            << R"({"electrodes":[{"name":"e","voltage_kV":1,"outline":[[0,1],{"arc_to":[0,3],"centre":[0,2]}]}]})"
            << "electrode e";
        QTest::newRow("permittivity below 1") << R"({"materials":{"xlpe":{"eps_r":0.5}}})"
                                              << "material xlpe";
        QTest::newRow("negative conductivity")
            << R"({"materials":{"xlpe":{"eps_r":2,"conduction":{"law":"constant","sigma0_S_per_m":-1}}}})"
            << "material xlpe";
        QTest::newRow("no voltage") << R"({"electrodes":[{"name":"e","outline":[[0,0],[1,0],[1,1]]}]})"
                                    << "electrode e";
        QTest::newRow("all float")
            << R"({"boundaries":null,"electrodes":[{"name":"e","floating":true,"outline":[[0,0],[1,0],[1,1]]}]})"
            << "section";
        QTest::newRow("same name twice")
            << R"({"probes":[{"name":"a","at":[30,0],"side":"air"},{"name":"a","at":[31,0],"side":"air"}]})"
            << "probe a";
        QTest::newRow("newer version") << R"({"version":99})"
                                       << "section";
        QTest::newRow("foreign format") << R"({"format":"something-else"})"
                                        << "section";
        QTest::newRow("unknown symmetry") << R"({"symmetry":"spiral"})"
                                          << "section";
    }
    void bad_sections_are_refused_by_item() {
        QFETCH(QString, patch);
        QFETCH(QString, item);
        auto d = parsed();
        d.merge_patch(json::parse(patch.toStdString()));
        const auto s = read_section(d);
        QVERIFY2(!s, "it was accepted");
        QCOMPARE(QString::fromStdString(s.error().item), item);
        QVERIFY(!s.error().remedy.empty());
    }
    void truncated_text_says_so() {
        const std::string text = std::string(sketch).substr(0, 300);
        const auto s = read_section_text(text, "cut.ngsection");
        QVERIFY(!s);
        QVERIFY(s.error().problem.find("truncated") != std::string::npos);
    }
    void every_truncation_of_the_example_is_refused_without_a_crash() {
        const std::string text = sketch;
        for (std::size_t n = 0; n + 2 < text.size(); n += 7)
            QVERIFY(!read_section_text(text.substr(0, n), "cut"));
    }
    void unknown_analyses_and_ignored_conduction_are_refused() {
        auto d = parsed();
        d["analysis"] = "magnetic";
        QVERIFY(!read_section(d));
        d["analysis"] = "capacitive";
        d["materials"]["xlpe"]["conduction"] = {{"law", "constant"}, {"sigma0_S_per_m", 1e-9}};
        QVERIFY(solve(*read_section(d)).error().item.find("xlpe") != std::string::npos);
    }
    void settings_of_analyses_survive_reading_and_writing() {
        auto d = parsed();
        d["analysis"] = "impulse";
        d["impulse"] = {{"front_us", 1.2}, {"tail_us", 50}, {"polarity", "negative"}, {"chopped_at_us", 4}};
        d["nonlinear"] = {{"method", "time"}, {"most_cycles", 20}};
        d["dc"] = {{"duration_s", 30}};
        d["materials"]["xlpe"]["conduction"] = {{"law", "exponential"},
                                                {"sigma0_S_per_m", 1e-9},
                                                {"a", 2},
                                                {"exponent", 0.5},
                                                {"field", "peak"},
                                                {"temperature", {{"per_kelvin", 0.05}, {"actual_C", 70}}}};
        const auto s = read_section(d);
        REQUIRE_OK(s);
        const auto again = read_section(write_section(*s));
        REQUIRE_OK(again);
        QVERIFY(again->impulse == s->impulse && again->impulse.negative);
        QVERIFY(again->cycles == s->cycles && again->cycles.in_time);
        QCOMPARE(again->dc_duration_s.value(), 30.0);
        QVERIFY(again->materials.at("xlpe").conduction == s->materials.at("xlpe").conduction);
        d["impulse"]["tail_us"] = 2;
        QVERIFY(read_section(d).error().item == "impulse");
    }
    void touching_electrodes_at_different_potentials_are_refused() {
        auto d = parsed();
        d["electrodes"].push_back({{"name", "clamp"},
                                   {"voltage_kV", 5},
                                   {"outline", {{14.45, -40}, {20, -40}, {20, -30}, {14.45, -30}}}});
        const auto s = read_section(d);
        REQUIRE_OK(s);
        const auto solution = solve(*s);
        QVERIFY(!solution);
        QVERIFY(solution.error().item.find("clamp") != std::string::npos);
    }
    void an_isolated_region_is_refused_by_name() {
        auto d = parsed();
        d["regions"].push_back({{
                                    "name",
                                    "island",
                                },
                                {"material", "air"},
                                {"outline", {{200, 0}, {210, 0}, {210, 10}, {200, 10}}}});
        const auto s = read_section(d);
        REQUIRE_OK(s);
        const auto solution = solve(*s);
        QVERIFY(!solution);
        QCOMPARE(solution.error().item, std::string("region island"));
    }
    void a_later_region_covers_an_earlier_one() {
        // Two boxes over one another: the field in the gap is that of the later one's permittivity in series.
        Section s;
        s.symmetry = Symmetry::planar;
        s.materials = {{"low", {1, {}, {}}}, {"high", {4, {}, {}}}};
        s.regions = {{"whole", "low", test::box(0, 0, 10, 10)}, {"upper", "high", test::box(0, 5, 10, 10)}};
        s.boundaries = {{"top", 10, {{0, 10}, {10, 10}}}, {"bottom", 0, {{0, 0}, {10, 0}}}};
        s.probes = {{"below", {5, 2}, "whole"}, {"above", {5, 8}, "upper"}};
        const auto r = solve(s);
        REQUIRE_OK(r);
        COMPARE_WITHIN(length(r->probes[0].field_kV_per_mm), 1.6, 1e-9); // 10 kV over 5/1 + 5/4
        COMPARE_WITHIN(length(r->probes[1].field_kV_per_mm), 0.4, 1e-9);
    }
    void arcs_of_two_outlines_share_their_vertices() {
        Outline a = Outline::polygon({{1, 0}}), b = Outline::polygon({{0, 1}});
        a.arc_to({0, 1}, {0, 0});
        b.arc_to({1, 0}, {0, 0});
        auto p = polygon_of(a, 0.1), q = polygon_of(b, 0.1);
        std::reverse(q.begin(), q.end());
        QCOMPARE(p.size(), q.size());
        for (std::size_t i = 0; i < p.size(); ++i) QVERIFY(distance(p[i], q[i]) < 1e-12);
    }
    void chords_stay_near_their_arc_however_large_it_is() {
        for (const double radius : {0.3, 3.0, 30.0, 300.0}) {
            Outline quarter = Outline::polygon({{radius, 0}});
            quarter.arc_to({0, radius}, {0, 0});
            const auto points = polygon_of(quarter, 0.26);
            for (std::size_t i = 0; i + 1 < points.size(); ++i) {
                QVERIFY(distance(points[i], points[i + 1]) <= 1.4 * 0.26 * radius);
                QVERIFY(radius - length(0.5 * (points[i] + points[i + 1])) < 0.02);
            }
        }
        Outline vast = Outline::polygon({{1e12, 0}}); // of no use, but no reason to hang
        vast.arc_to({0, 1e12}, {0, 0});
        QVERIFY(polygon_of(vast, 0.26).size() < 1000);
    }
};
QTEST_APPLESS_MAIN(TestSection)
#include "test_section.moc"
