#include "design/revisions.h"
#include "design/unknown_fields.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "support.h"
#include <QProcess>
#include <QTemporaryDir>
#include <csignal>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

using namespace ng;
using nlohmann::json;

class TestJob : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::filesystem::path at(const char* name) const {
        return std::filesystem::path(dir_.path().toStdString()) / name;
    }

  private slots:
    void the_demo_is_invented_and_says_so() {
        const auto job = test::demo_job();
        QVERIFY(job.note.find("invented") != std::string::npos);
        QVERIFY(job.designs.size() >= 3);
        QCOMPARE(job.open_design, std::string("ramp-pole")); // opens in the failing design
    }
    void what_is_saved_loads_the_same() {
        const auto job = test::demo_job();
        REQUIRE_OK(save_job(job, at("a.ngjob")));
        const auto again = load_job(at("a.ngjob"));
        REQUIRE_OK(again);
        QCOMPARE(write_job(*again).dump(), write_job(job).dump());
        QVERIFY(std::distance(std::filesystem::directory_iterator(dir_.path().toStdString()), {}) ==
                1); // no temporary left
    }
    void what_nobody_knows_is_kept_and_named() {
        auto document = nlohmann::json::parse(write_job(test::demo_job()).dump());
        QVERIFY(unknown_fields(*read_job(document, "demo"), FamilyTable::shipped()).empty());
        document["titel"] = "x";
        document["cables"][0]["strandng"] = 3;
        document["designs"][0]["duty"]["altitud_m"] = 1200;
        document["designs"][0]["work"]["datun"] = "end";
        document["designs"][0]["numbers"]["tube_lenght"] = 90;
        const auto job = read_job(document, "demo");
        REQUIRE_OK(job);
        std::string words;
        for (const auto& field : unknown_fields(*job, FamilyTable::shipped())) words += field.words() + "\n";
        for (const char* part : {"job: “titel”", "“title”?", "“strandng”", "“stranding”?", "“altitud_m”",
                                 "“altitude_m”?", "“datun”", "“datum”?", "“tube_lenght”"})
            QVERIFY2(words.find(part) != std::string::npos, (std::string(part) + " in " + words).c_str());
        const auto written = nlohmann::json::parse(write_job(*job).dump());
        QCOMPARE(written["titel"].get<std::string>(), std::string("x"));
        QCOMPARE(written["designs"][0]["work"]["datun"].get<std::string>(), std::string("end"));
        QCOMPARE(written["designs"][0]["duty"]["altitud_m"].get<int>(), 1200);
    }
    void numbers_that_are_not_whole_are_not_cut() {
        auto document = nlohmann::json::parse(write_job(test::demo_job()).dump());
        document["cables"][0]["cores"] = 1.9;
        QVERIFY(!read_job(document, "demo"));
        QVERIFY(!parse_json(R"({"format":"needlegauge-job","title":"a","title":"b"})", "twice"));
    }
    void jobs_satisfy_the_published_schema() {
        // By a general-purpose validator (Debian: python3-jsonschema); machines without it say so.
        if (!QFile::exists("/usr/lib/python3/dist-packages/jsonschema/__init__.py"))
            QSKIP("python3-jsonschema is not installed");
        auto full = test::demo_job(); // everything that may be written, once
        auto& cable = full.cables[0];
        cable.cores = 3;
        cable.armour = "steel tape";
        cable.metallic_screen = "corrugated tape";
        cable.jacket_material = "PVC";
        cable.insulation_thickness_mm = 5;
        cable.measured_diameter_mm["insulation"] = 25;
        cable.caliper_readings["jacket"] = {{36, false}, {36.4, true}};
        auto& design = full.designs[0];
        design.other_cable_id = full.cables[1].id;
        design.duty.u0_kV = 8.7;
        design.duty.altitude_m = 1200;
        design.work.datum = place::jacket_cut;
        design.work.long_side = "b";
        design.work.numbers["crossing_mm"] = 300;
        design.work.schools["shrinking"] = "middle outwards";
        design.tolerances["screen_edge_mm"] = {true, Law::normal, 0.4, 0.02, 12, 100, 300, "a template", {}};
        design.tolerances["edge_radius_mm"].varies = false;
        design.correlated = {{"screen_edge_mm", "edge_radius_mm", 0.5, "one hand"}};
        full.step_texts["identify"] = "Our words";
        full.drawings = test::library().drawings;
        full.designs[0].drawing_id = full.drawings[0].id;
        full.material_overrides["xlpe"] = 2.4;
        full.limit_overrides["paper"] = {3, "engineer A", "2026-11-25", "own tests"};
        full.level_overrides["ieee48/15/bil_kV"] = {115, "engineer A", "2026-11-25", "own copy"};
        REQUIRE_OK(save_job(full, at("full.ngjob")));
        auto broken = json::parse(write_job(full).dump());
        broken["cables"][0]["jacket_thickness_mm"] = "two";
        REQUIRE_OK(write_file_safely(at("broken.ngjob"), broken.dump()));
        const auto valid = [&](const std::string& file) {
            QProcess validator;
            validator.start("/usr/bin/python3", {"-m", "jsonschema", "-i", QString::fromStdString(file),
                                                 NEEDLEGAUGE_DATA_DIR "/../docs/job.schema.json"});
            validator.waitForFinished(60000);
            const auto words = validator.readAllStandardError() + validator.readAllStandardOutput();
            if (validator.exitCode() != 0) qInfo("%s", words.left(300).constData());
            return validator.exitCode() == 0;
        };
        QVERIFY(valid(NEEDLEGAUGE_DATA_DIR "/demo/osprey-point.ngjob"));
        QVERIFY(valid(NEEDLEGAUGE_DATA_DIR "/demo/drawn-bodies.ngjob"));
        QVERIFY(valid(at("full.ngjob").string()));
        QVERIFY(!valid(at("broken.ngjob").string()));
    }
    void unknown_fields_survive_a_rewrite() {
        auto d = json::parse(write_job(test::demo_job()).dump());
        d["reviewed_by"] = "inspector B";
        d["cables"][0]["drum"] = 17;
        d["designs"][1]["mood"] = {{"a", 1}};
        d["designs"][1]["duty"]["site"] = "quay";
        const auto job = read_job(d, "x");
        REQUIRE_OK(job);
        const auto out = json::parse(write_job(*job).dump());
        QCOMPARE(out["reviewed_by"], "inspector B");
        QCOMPARE(out["cables"][0]["drum"], 17);
        QCOMPARE(out["designs"][1]["mood"]["a"], 1);
        QCOMPARE(out["designs"][1]["duty"]["site"], "quay");
    }
    void overrides_travel_with_the_job() {
        auto job = test::demo_job();
        job.limit_overrides["interface_tangential"].value = 0.5;
        job.material_overrides["stress tube"] = 22;
        const auto again = read_job(json::parse(write_job(job).dump()), "x");
        REQUIRE_OK(again);
        const auto p = prepare_design(*again, "quay-mast", test::library());
        REQUIRE_OK(p);
        QCOMPARE(p->limits.find("interface_tangential")->value.value, 0.5);
        QCOMPARE(p->limits.find("interface_tangential")->value.provenance, Provenance::user);
        QCOMPARE(p->built.section.materials.at("stress tube").eps_r, 22.0);
        job.material_overrides["stress tube"] = 0.1;
        QVERIFY(!prepare_design(job, "quay-mast", test::library()));
    }
    void bad_documents_are_refused_by_item_data() {
        QTest::addColumn<QString>("patch");
        QTest::addColumn<QString>("item");
        QTest::newRow("foreign") << R"({"format":"recipe"})"
                                 << "x.ngjob";
        QTest::newRow("newer") << R"({"version":7})"
                               << "x.ngjob";
        QTest::newRow("no version") << R"({"version":null})"
                                    << "x.ngjob";
        QTest::newRow("no cables") << R"({"cables":null})"
                                   << "x.ngjob";
        QTest::newRow("no designs") << R"({"designs":[]})"
                                    << "x.ngjob";
        QTest::newRow("designs are no list") << R"({"designs":3})"
                                             << "x.ngjob";
        QTest::newRow("text for a number") << R"({"limit_overrides":{"interface_tangential":"low"}})"
                                           << "x.ngjob";
    }
    void bad_documents_are_refused_by_item() {
        QFETCH(QString, patch);
        QFETCH(QString, item);
        auto d = json::parse(write_job(test::demo_job()).dump());
        d.merge_patch(json::parse(patch.toStdString()));
        const auto job = read_job(d, "x.ngjob");
        QVERIFY2(!job, "it was accepted");
        QCOMPARE(QString::fromStdString(job.error().item), item);
        QVERIFY(!job.error().remedy.empty());
    }
    void bad_items_name_themselves() {
        auto d = json::parse(write_job(test::demo_job()).dump());
        auto changed = [&](auto change) {
            auto copy = d;
            change(copy);
            return read_job(copy, "x").error().item;
        };
        QCOMPARE(changed([](json& j) { j["cables"][0].erase("jacket_thickness_mm"); }),
                 std::string("cable feeder-a"));
        // A word that nobody knows is no other word: not taken for the usual one.
        for (const char* key :
             {"conductor_material", "stranding", "metallic_screen", "armour", "jacket_material"}) {
            auto copy = d;
            copy["cables"][0][key] = "foil";
            const auto refused = read_job(copy, "x");
            QVERIFY2(!refused, key);
            QCOMPARE(refused.error().item, std::string("cable feeder-a"));
            QVERIFY2(refused.error().message().find("foil") != std::string::npos, key);
        }
        QCOMPARE(changed([](json& j) { j["cables"][1]["id"] = "feeder-a"; }), std::string("cable feeder-a"));
        QCOMPARE(changed([](json& j) { j["designs"][0]["cable"] = "lost"; }),
                 std::string("design quay-mast"));
        QCOMPARE(changed([](json& j) { j["designs"][0]["duty"].erase("class_kV"); }),
                 std::string("duty of design quay-mast"));
        QCOMPARE(changed([](json& j) { j["designs"][0]["numbers"]["screen_edge_mm"] = "far"; }),
                 std::string("design quay-mast"));
    }
    void truncated_and_missing_files_say_so() {
        const auto text = write_job(test::demo_job()).dump();
        REQUIRE_OK(write_file_safely(at("cut.ngjob"), text.substr(0, text.size() / 2)));
        QVERIFY(load_job(at("cut.ngjob")).error().problem.find("truncated") != std::string::npos);
        QVERIFY(!load_job(at("none.ngjob")));
        QVERIFY(!load_job(dir_.path().toStdString()));
        REQUIRE_OK(write_file_safely(at("text.ngjob"), "a plain letter"));
        QVERIFY(load_job(at("text.ngjob")).error().problem.find("not valid JSON") != std::string::npos);
    }
    void a_folder_that_cannot_be_written_is_refused() {
        const auto ok = save_job(test::demo_job(), "/proc/needlegauge-test.ngjob");
        QVERIFY(!ok);
        QVERIFY(!ok.error().remedy.empty());
    }
    void a_full_disk_leaves_the_old_file() {
        const auto path = at("full.ngjob");
        auto job = test::demo_job();
        REQUIRE_OK(save_job(job, path));
        const auto before = *read_file(path);
        // The file size limit stops the write half way, as a full disk does.
        std::signal(SIGXFSZ, SIG_IGN);
        rlimit old{};
        getrlimit(RLIMIT_FSIZE, &old);
        const rlimit small{512, old.rlim_max};
        setrlimit(RLIMIT_FSIZE, &small);
        job.title = "changed";
        const auto ok = save_job(job, path);
        setrlimit(RLIMIT_FSIZE, &old);
        QVERIFY(!ok);
        QVERIFY(ok.error().remedy.find("unchanged") != std::string::npos);
        QCOMPARE(*read_file(path), before);
    }
    void saving_through_a_link_keeps_the_link() {
        REQUIRE_OK(save_job(test::demo_job(), at("real.ngjob")));
        std::filesystem::create_symlink(at("real.ngjob"), at("link.ngjob"));
        REQUIRE_OK(save_job(test::demo_job(), at("link.ngjob")));
        QVERIFY(std::filesystem::is_symlink(at("link.ngjob")));
    }
    void saving_respects_permissions_and_leaves_nothing() {
        namespace fs = std::filesystem;
        const auto path = at("private.ngjob");
        REQUIRE_OK(write_file_safely(path, "one"));
        fs::permissions(path, fs::perms::owner_read | fs::perms::owner_write);
        REQUIRE_OK(write_file_safely(path, "two"));
        QCOMPARE(fs::status(path).permissions(), fs::perms::owner_read | fs::perms::owner_write);
        // What a killed save left is removed by the next one, that of a running process is not.
        const auto dead = at(".private.ngjob.999999999-00c0ffee.tmp"),
                   mine = at((".private.ngjob." + std::to_string(getpid()) + "-00c0ffee.tmp").c_str()),
                   other = at(".private.ngjob.notes.tmp");
        for (const auto& left : {dead, mine, other}) REQUIRE_OK(write_file_safely(left, "half"));
        REQUIRE_OK(write_file_safely(path, "three"));
        QVERIFY(!fs::exists(dead) && fs::exists(mine) && fs::exists(other));
        QCOMPARE(*read_file(path), std::string("three"));
    }
    void what_cannot_be_written_is_known_before_the_work() {
        REQUIRE_OK(write_file_safely(at("file"), "x"));
        for (const std::string& path :
             {std::string("/nowhere/report.pdf"), (at("file") / "report.pdf").string()}) {
            const auto before = check_output(path), after = write_output(path, "x");
            QVERIFY(!before && !after);
            QCOMPARE(before.error().message(), after.error().message());
        }
        QVERIFY(!check_output(at("")));
        REQUIRE_OK(check_output(at("new.pdf")));
        QVERIFY(!std::filesystem::exists(at("new.pdf"))); // it only asks
        REQUIRE_OK(check_output("/dev/null"));
    }
    void only_regular_files_are_read_and_only_so_much() {
        QVERIFY(!read_file("/dev/zero"));
        QVERIFY(!read_file("/dev/full"));
        const auto pipe = at("pipe");
        QCOMPARE(mkfifo(pipe.c_str(), 0600), 0);
        const auto refused = read_file(pipe); // nobody writes to it: it is not waited for
        QVERIFY(!refused && refused.error().problem.find("pipe") != std::string::npos);
        QVERIFY(!read_file(at("")));
        REQUIRE_OK(write_file_safely(at("ten"), "0123456789"));
        REQUIRE_OK(read_file(at("ten"), 10));
        QVERIFY(!read_file(at("ten"), 9));
        QVERIFY(!write_file_safely("/dev/full", "x"));
        REQUIRE_OK(write_file_safely("/dev/null", "x"));
    }
    void a_text_that_nests_for_ever_is_refused() {
        const std::string deep = "{\"format\":\"needlegauge-job\",\"x\":" + std::string(75000, '[');
        for (const auto& text : {deep, deep + std::string(75000, ']') + "}"}) {
            const auto document = parse_json(text, "deep.ngjob");
            QVERIFY(!document);
            QVERIFY(document.error().problem.find("deeper") != std::string::npos);
        }
        REQUIRE_OK(parse_json(std::string(90, '[') + std::string(90, ']'), "flat.ngjob"));
    }
    void a_refusal_is_one_line_whatever_is_in_it() {
        const InputError error{"a\nb", "\x1b[31mred\x07 and \xff", "Mend\r\nit"};
        QCOMPARE(error.message(), std::string("a\\nb: \\x1b[31mred\\x07 and \xef\xbf\xbd. Mend\\r\\nit."));
        QVERIFY(one_line(std::string(5000, 'x')).size() < 500);
    }
    void the_library_names_a_broken_data_file() {
        const auto copy = at("data");
        std::filesystem::copy(NEEDLEGAUGE_DATA_DIR, copy, std::filesystem::copy_options::recursive);
        REQUIRE_OK(load_library(copy));
        REQUIRE_OK(write_file_safely(copy / "limits" / "limits.json", "{"));
        QCOMPARE(load_library(copy).error().item, std::string("limits.json"));
        QVERIFY(!load_library(at("nowhere")));
    }
    void a_frozen_design_is_kept_and_its_changes_are_told() {
        auto job = test::demo_job();
        auto* design = job.find_design("causeway");
        QCOMPARE(revision_words(job, *design), std::string("not frozen"));
        QVERIFY(!freeze(job, *design, " ", "issue", "2026-11-27"));
        QVERIFY(!freeze(job, *design, "engineer", "", "2026-11-27"));
        const auto first = freeze(job, *design, "engineer", "issue", "2026-11-27");
        REQUIRE_OK(first);
        QCOMPARE(first->name, std::string("A"));
        design->revisions.push_back(*first);
        QCOMPARE(revision_words(job, *design), std::string("revision A, 2026-11-27"));
        const auto again = freeze(job, *design, "engineer", "again", "2026-11-28");
        QVERIFY(!again && again.error().message().find("nothing has changed") != std::string::npos);
        // What another design is changed in is no change of this one.
        job.find_design("quay-mast")->numbers["screen_edge_mm"] = 300;
        QCOMPARE(revision_words(job, *design), std::string("revision A, 2026-11-27"));
        design->numbers["mastic_on_insulation_mm"] = 14;
        design->choices["connector_cover"] = "tube";
        for (auto& cable : job.cables)
            if (cable.id == design->cable_id) cable.jacket_thickness_mm = 2.4;
        job.limit_overrides["air_extinction"].value = 1.2;
        const auto since = changes_since(job, *design, FamilyTable::shipped().find(design->family));
        const auto said = [&](const std::string& words) {
            return std::any_of(since.begin(), since.end(),
                               [&](const auto& line) { return line.find(words) != std::string::npos; });
        };
        std::string all;
        for (const auto& line : since) all += line + "\n";
        QVERIFY2(since.size() == 4, all.c_str());
        QVERIFY2(said("14 mm") && said("jacket thickness") && said("2.4") && said("imit overrides"),
                 all.c_str());
        QCOMPARE(revision_words(job, *design), std::string("changed since revision A: not frozen"));
        const auto second = freeze(job, *design, "engineer", "thicker mastic", "2026-11-29");
        REQUIRE_OK(second);
        QCOMPARE(second->name, std::string("B"));
        design->revisions.push_back(*second);
        QCOMPARE(changes_of(*design, 1, FamilyTable::shipped().find(design->family)), since);
        // Through a file and back; revision A is still what it was.
        const auto read = read_job(nlohmann::json(write_job(job)), "job");
        REQUIRE_OK(read);
        QVERIFY(nlohmann::json(write_job(*read)) == nlohmann::json(write_job(job)));
        QVERIFY(unknown_fields(*read, FamilyTable::shipped()).empty());
        const auto old = state_of(*read, "causeway@A");
        REQUIRE_OK(old);
        QVERIFY(!old->job.find_design("causeway")->numbers.contains("mastic_on_insulation_mm"));
        REQUIRE_OK(prepare_design(old->job, "causeway", test::library()));
        QCOMPARE(old->revision, std::string("revision A, 2026-11-27"));
        QVERIFY(!state_of(*read, "causeway@C") && !state_of(*read, "nobody@A") && !state_of(*read, "nobody"));
        // Past Z the names go on.
        for (int i = 2; i < 28; ++i) {
            design->numbers["mastic_on_insulation_mm"] = 14 + i;
            design->revisions.push_back(*freeze(job, *design, "engineer", "next", "2026-11-29"));
        }
        QCOMPARE(design->revisions[25].name, std::string("Z"));
        QCOMPARE(design->revisions[26].name, std::string("AA"));
        QCOMPARE(design->revisions[27].name, std::string("AB"));
    }
};
QTEST_APPLESS_MAIN(TestJob)
#include "test_job.moc"
