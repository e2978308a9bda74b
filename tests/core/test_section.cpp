#include "section/on_top.h"
#include "section/section_fields.h"
#include "support.h"
#include <QProcess>
#include <QTemporaryDir>
#include <filesystem>
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

/// The example with a value under every key that there is.
json with_everything() {
    auto d = parsed();
    d["analysis"] = "nonlinear";
    const json law{
        {"law", "power"},      {"sigma0_S_per_m", 1e-9},
        {"E0_kV_per_mm", 0.5}, {"exponent", 4},
        {"field", "rms"},      {"temperature", {{"per_kelvin", 0.05}, {"reference_C", 20}, {"actual_C", 70}}},
        {"provenance", "none"}};
    d["materials"]["graded"] = {{"eps_r", 12},
                                {"conduction", law},
                                {"title", "Graded"},
                                {"eps_r_by_frequency", {{1, 14}, {60, 12}}},
                                {"eps_provenance", "none"}};
    d["materials"]["rising"] = {
        {"eps_r", 5},
        {"conduction",
         {{"law", "exponential"}, {"sigma0_S_per_m", 1e-9}, {"a", 2}, {"exponent", 0.5}, {"field", "peak"}}}};
    d["materials"]["tabled"] = {
        {"eps_r", 5},
        {"conduction", {{"law", "table"}, {"table", {{0.1, 1e-9}, {2, 1e-7}}}, {"field", "peak"}}}};
    d["electrodes"][1]["outline"][3]["name"] = "lip";
    d["impulse"] = {{"front_us", 1.2},
                    {"tail_us", 50},
                    {"polarity", "negative"},
                    {"chopped_at_us", 4},
                    {"duration_us", 30}};
    d["nonlinear"] = {{"method", "time"}, {"most_cycles", 20}};
    d["dc"] = {{"duration_s", 30}};
    return d;
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
    void every_key_is_known_and_those_that_matter_are_needed_data() {
        QTest::addColumn<QString>("where"); // JSON pointer of the object
        QTest::addColumn<QString>("key");
        QTest::addColumn<bool>("needed");
        const auto row = [](const char* where, const char* key, bool needed) {
            QTest::addRow("%s/%s", where, key) << QString(where) << QString(key) << needed;
        };
        for (const char* key : {"symmetry", "frequency_hz", "materials", "regions"}) row("", key, true);
        for (const char* key :
             {"analysis", "electrodes", "boundaries", "paths", "probes", "nonlinear", "dc", "impulse"})
            row("", key, false);
        row("/materials/air", "eps_r", true);
        row("/materials/graded", "conduction", false);
        for (const char* key : {"law", "sigma0_S_per_m", "E0_kV_per_mm", "exponent", "field"})
            row("/materials/graded/conduction", key, true);
        for (const char* key : {"law", "sigma0_S_per_m", "a", "exponent", "field"})
            row("/materials/rising/conduction", key, true);
        for (const char* key : {"table", "field"}) row("/materials/tabled/conduction", key, true);
        row("/materials/graded/conduction", "temperature", false);
        for (const char* key : {"per_kelvin", "reference_C", "actual_C"})
            row("/materials/graded/conduction/temperature", key, true);
        for (const char* key : {"name", "material", "outline"}) row("/regions/0", key, true);
        for (const char* key : {"name", "voltage_kV", "outline"}) row("/electrodes/1", key, true);
        for (const char* key : {"arc_to", "centre"}) row("/electrodes/1/outline/3", key, true);
        row("/electrodes/1/outline/3", "name", false);
        for (const char* key : {"name", "voltage_kV", "along"}) row("/boundaries/0", key, true);
        for (const char* key : {"name", "points", "side"}) row("/paths/0", key, true);
        for (const char* key : {"name", "at", "side"}) row("/probes/0", key, true);
        for (const char* key : {"front_us", "tail_us"}) row("/impulse", key, true);
        for (const char* key : {"polarity", "chopped_at_us", "duration_us"}) row("/impulse", key, false);
        row("/nonlinear", "method", true);
        row("/nonlinear", "most_cycles", false);
        row("/dc", "duration_s", true);
    }
    void every_key_is_known_and_those_that_matter_are_needed() {
        QFETCH(QString, where);
        QFETCH(QString, key);
        QFETCH(bool, needed);
        const auto whole = with_everything();
        REQUIRE_OK(read_section(whole));
        const json::json_pointer at(where.toStdString());
        const std::string known = key.toStdString();
        auto misspelt = whole;
        auto& object = misspelt[at];
        const auto value = object[known];
        object.erase(known);
        std::string wrong = known;
        if (wrong.size() > 1) std::swap(wrong[wrong.size() / 2], wrong[wrong.size() / 2 - 1]);
        if (wrong == known) wrong += "s";
        object[wrong] = value;
        const auto refused = read_section(misspelt);
        QVERIFY2(!refused, "it was taken");
        if (known != "arc_to" &&
            known != "name") { // of an entry without "arc_to" the message speaks of what it then is
            const auto message = refused.error().message();
            QVERIFY2(message.find("“" + wrong + "”") != std::string::npos &&
                         message.find("“" + known + "”") != std::string::npos,
                     message.c_str());
        }
        auto dropped = whole;
        dropped[at].erase(known);
        const auto without = read_section(dropped);
        QCOMPARE(!without.has_value(), needed);
        auto null = whole;
        null[at][known] = nullptr;
        QVERIFY(!read_section(null));
        auto doubled = whole.dump(); // the same key twice, with two values
        if (where.isEmpty()) {
            doubled = "{\"" + known + "\":" + value.dump() + "," + doubled.substr(1);
            const auto twice = read_section_text(doubled, "twice");
            QVERIFY(!twice && twice.error().problem.find(known) != std::string::npos);
        }
    }
    void contradictions_are_refused_by_item_data() {
        QTest::addColumn<QString>("patch");
        QTest::addColumn<QString>("item");
        QTest::newRow("floating with a voltage")
            << R"({"electrodes":[{"name":"e","floating":true,"voltage_kV":3,"outline":[[0,0],[1,0],[1,1]]}]})"
            << "electrode e";
        QTest::newRow("a line with a centre")
            << R"({"electrodes":[{"name":"e","voltage_kV":3,"outline":[[0,0],{"to":[1,0],"centre":[0,0]},[1,1]]}]})"
            << "electrode e";
        QTest::newRow("a line and an arc")
            << R"({"electrodes":[{"name":"e","voltage_kV":3,"outline":[[0,0],{"to":[1,0],"arc_to":[1,0],"centre":[0,0]},[1,1]]}]})"
            << "electrode e";
        QTest::newRow("keys of another law")
            << R"({"materials":{"xlpe":{"eps_r":2,"conduction":{"law":"constant","sigma0_S_per_m":1,"exponent":2}}}})"
            << "material xlpe";
        QTest::newRow("a path 18 um on the wrong side")
            << R"({"paths":[{"name":"p","points":[[13.468,1],[13.468,100]],"side":"insulation"}]})"
            << "path p";
        QTest::newRow("an impulse chopped after its end")
            << R"({"analysis":"impulse","impulse":{"front_us":1.2,"tail_us":50,"chopped_at_us":8,"duration_us":5}})"
            << "impulse";
        QTest::newRow("two edges of one name")
            << R"({"electrodes":[{"name":"e","voltage_kV":3,"outline":[[1,0],{"arc_to":[0,1],"centre":[0,0],"name":"x"},[0,0]]},
                   {"name":"f","voltage_kV":3,"outline":[[1,10],{"arc_to":[0,11],"centre":[0,10],"name":"x"},[0,10]]}]})"
            << "electrode f";
        QTest::newRow("volts beyond what is")
            << R"({"boundaries":[{"name":"b","voltage_kV":1e160,"along":[[150,-80],[150,200]]}]})"
            << "boundary b";
        QTest::newRow("a frequency of nothing") << R"({"analysis":"complex","frequency_hz":1e-200})"
                                                << "section";
        QTest::newRow("a permittivity that rises")
            << R"({"materials":{"xlpe":{"eps_r":2,"eps_r_by_frequency":[[1,2],[50,3]]}}})"
            << "material xlpe";
        QTest::newRow("half a cycle") << R"({"nonlinear":{"method":"time","most_cycles":7.5}})"
                                      << "nonlinear";
    }
    void contradictions_are_refused_by_item() { bad_sections_are_refused_by_item(); }
    void what_only_solving_finds_is_refused_by_item() {
        const auto refused_as = [](const json& document) {
            const auto s = read_section(document);
            if (!s) return s.error().item;
            const auto r = solve(*s);
            return r ? std::string() : r.error().item;
        };
        auto d = parsed(); // a boundary that misses the section by a micrometre
        d["boundaries"][0]["along"] = {{150.001, -80}, {150.001, 200}};
        QCOMPARE(refused_as(d), std::string("boundary tank"));
        d = parsed(); // an electrode far outside
        d["electrodes"].push_back(
            {{"name", "lost"}, {"voltage_kV", 1}, {"outline", {{500, 0}, {510, 0}, {510, 5}}}});
        QCOMPARE(refused_as(d), std::string("electrode lost"));
        d = parsed(); // one wholly inside another of a different voltage
        d["electrodes"].push_back(
            {{"name", "core"}, {"voltage_kV", 1}, {"outline", {{2, 0}, {5, 0}, {5, 5}, {2, 5}}}});
        QCOMPARE(refused_as(d), std::string("electrode core"));
        d["electrodes"][2]["voltage_kV"] = 8.7; // of the same: one body
        QCOMPARE(refused_as(d), std::string());
        d = parsed(); // two boundaries of different voltage on one line
        d["boundaries"].push_back({{"name", "wall"}, {"voltage_kV", 4}, {"along", {{150, 0}, {150, 50}}}});
        QVERIFY(refused_as(d).starts_with("boundary "));
        d = parsed(); // an impulse that ends before its crest
        d["analysis"] = "impulse";
        d["impulse"] = {{"front_us", 1.2}, {"tail_us", 50}, {"duration_us", 1.0}};
        QCOMPARE(refused_as(d), std::string("impulse"));
    }
    void what_nothing_uses_stays_legal() {
        auto d = parsed();
        d["materials"]["spare"] = {{"eps_r", 7}};
        d["frequency_hz"] = 60; // of a capacitive file
        REQUIRE_OK(read_section(d));
    }
    void the_published_schema_is_the_table_and_holds() {
        std::ifstream in(NEEDLEGAUGE_DATA_DIR "/../docs/section.schema.json");
        QCOMPARE(nlohmann::ordered_json::parse(in).dump(1),
                 schema_of(section_fields(), "Needlegauge section").dump(1));
        if (!QFile::exists("/usr/lib/python3/dist-packages/jsonschema/__init__.py"))
            QSKIP("python3-jsonschema is not installed");
        QTemporaryDir folder;
        const auto valid = [&](const json& document) {
            const auto file = folder.filePath("section.json");
            std::ofstream(file.toStdString()) << document.dump();
            QProcess validator;
            validator.start("/usr/bin/python3", {"-m", "jsonschema", "-i", file,
                                                 NEEDLEGAUGE_DATA_DIR "/../docs/section.schema.json"});
            validator.waitForFinished(60000);
            return validator.exitCode() == 0;
        };
        QVERIFY(valid(parsed()));
        QVERIFY(valid(with_everything()));
        for (const auto& file : std::filesystem::directory_iterator(NEEDLEGAUGE_REFERENCE_DIR "/sections")) {
            std::ifstream section(file.path());
            QVERIFY2(valid(json::parse(section)), file.path().c_str());
        }
        auto wrong = with_everything();
        wrong["materials"]["graded"]["conduction"].erase("sigma0_S_per_m");
        QVERIFY(!valid(wrong));
        wrong = with_everything();
        wrong["electrodes"][0]["floating"] = true;
        QVERIFY(!valid(wrong));
        wrong = with_everything();
        wrong["prbes"] = json::array();
        QVERIFY(!valid(wrong));
        wrong = with_everything();
        wrong.erase("frequency_hz");
        QVERIFY(!valid(wrong));
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
        d["materials"]["xlpe"]["conduction"] = {
            {"law", "exponential"},
            {"sigma0_S_per_m", 1e-9},
            {"a", 2},
            {"exponent", 0.5},
            {"field", "peak"},
            {"temperature", {{"per_kelvin", 0.05}, {"reference_C", 20}, {"actual_C", 70}}}};
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
    void layers_are_listed_as_they_are_seen_along_a_radius() {
        const auto section = prepare_design(test::demo_job(), "ramp-pole", test::library())->built.section;
        const OnTop seen(section, 0.2);
        constexpr double end = 30, step = 0.01;
        for (const double z : {-40.0, -3.0, 0.05, 12.0, 90.0}) {
            std::vector<std::pair<const std::string*, double>> walked; // step by step
            for (double r = step / 2; r < end; r += step) {
                const auto* here = seen.at({r, z});
                if (!walked.empty() && walked.back().first == here)
                    walked.back().second = r + step / 2;
                else
                    walked.emplace_back(here, r + step / 2);
            }
            walked.pop_back(); // what reaches the end is not listed
            std::erase_if(walked, [](const auto& one) { return !one.first; });
            const auto listed = seen.along_radius(z, end);
            QVERIFY(listed.size() >= 3);
            QCOMPARE(listed.size(), walked.size());
            for (std::size_t k = 0; k < listed.size(); ++k) {
                QCOMPARE(*listed[k].name, *walked[k].first);
                QVERIFY2(std::abs(listed[k].outer_mm - walked[k].second) <= step, listed[k].name->c_str());
            }
        }
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
    void outlines_and_their_number_have_bounds() {
        const auto ring = [](std::size_t count) {
            std::vector<Point> points;
            for (std::size_t i = 0; i < count; ++i) {
                const double angle =
                                 2 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(count),
                             radius = i % 2 ? 40 : 39.9; // a comb all round: boxes of lines that overlap
                points.push_back({50 + radius * std::cos(angle), radius * std::sin(angle)});
            }
            return points;
        };
        Section s;
        s.symmetry = Symmetry::planar;
        s.materials = {{"air", {1, {}, {}}}};
        s.electrodes = {{"plate", 1, false, Outline::polygon({{0, 50}, {10, 50}, {10, 60}, {0, 60}})}};
        auto points = ring(30000);
        s.regions = {{"comb", "air", Outline::polygon(points)}};
        REQUIRE_OK(validate(s));
        std::swap(points[15000], points[15500]);
        s.regions[0].outline = Outline::polygon(points);
        const auto crossed = validate(s);
        QVERIFY(!crossed && crossed.error().problem.find("crosses itself") != std::string::npos);
        s.regions[0].outline = Outline::polygon(ring(most_points + 1));
        QVERIFY(!validate(s));
        s.regions.clear();
        for (std::size_t i = 0; i <= most_shapes; ++i) {
            const double x = static_cast<double>(i);
            s.regions.push_back(
                {"r" + std::to_string(i), "air", Outline::polygon({{x, 0}, {x + 1, 0}, {x + 1, 1}, {x, 1}})});
        }
        const auto many = validate(s);
        QVERIFY(!many && many.error().problem.find("2002") != std::string::npos);
    }
};
QTEST_APPLESS_MAIN(TestSection)
#include "test_section.moc"
