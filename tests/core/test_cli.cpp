// The command line as its users call it: exit codes, stable JSON, files.
#include "cli_support.h"
#include "io/file.h"
#include <QDir>
#include <QProcess>
#include <QTemporaryDir>
#include <QXmlStreamReader>
#include <cmath>
#include <set>

using namespace ng;
using nlohmann::json;
using test::cli;
using test::demo_path;

class TestCli : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString at(const char* name) const { return dir_.filePath(name); }

  private slots:
    void check_exits_by_verdict() {
        QCOMPARE(cli({"check", demo_path, "--design", "quay-mast"}).code, 0);
        QCOMPARE(cli({"check", demo_path, "--design", "switch-house", "--service-only"}).code,
                 0); // marginal still holds
        const auto fails = cli({"check", demo_path, "--design", "ramp-pole"});
        QCOMPARE(fails.code, 1);
        QVERIFY(fails.out.contains("does not replace a type test"));
    }
    void a_refusal_is_one_line_whatever_else_is_odd() {
        auto job = json::parse(*read_file(demo_path.toStdString()));
        job["designs"][0]["edge_prepration"] = "ring";
        job["designs"][0]["family"] = "heat_shrink_te0rmination";
        QTemporaryDir folder;
        const auto path = folder.filePath("odd.ngjob");
        QVERIFY(write_file_safely(path.toStdString(), job.dump()).has_value());
        const auto id = QString::fromStdString(job["designs"][0]["id"].get<std::string>());
        const auto refused = cli({"check", path, "--design", id, "--service-only"});
        QCOMPARE(refused.code, 2);
        QCOMPARE(refused.err.count('\n'), 1);
        QVERIFY(refused.err.contains("heat_shrink_te0rmination"));
    }
    void check_json_is_stable() {
        const auto answer = cli({"check", demo_path, "--json", "--service-only"});
        QCOMPARE(answer.code, 1);
        const auto d = json::parse(answer.out.toStdString());
        QCOMPARE(d["format"], "needlegauge-check");
        QCOMPARE(d["version"], 1);
        QCOMPARE(d["designs"].size(), test::demo_job().designs.size());
        for (const auto& design : d["designs"]) {
            for (const char* key : {"id", "title", "family", "status", "fit", "marks", "checks", "why",
                                    "solution", "fit_status", "quantities", "statements", "datum", "derived"})
                QVERIFY2(design.contains(key), key);
            for (const auto& check : design["fit"])
                for (const char* key :
                     {"part", "title", "value", "uncertainty", "lowest", "highest", "unit", "status", "why"})
                    QVERIFY2(check.contains(key), key);
            for (const auto& mark : design["marks"])
                QVERIFY(mark.contains("label") && mark.contains("from_datum_mm"));
            for (const auto& check : design["checks"])
                for (const char* key : {"id", "title", "value", "unit", "limit", "margin", "status", "where",
                                        "provenance", "why", "cure", "relative_error", "voltage_kV", "level"})
                    QVERIFY2(check.contains(key), key);
        }
        QCOMPARE(d["designs"][2]["status"], "falls short");
    }
    void check_json_gives_the_whole_schedule_under_another_duty() {
        const auto answer =
            cli({"check", demo_path, "--design", "quay-mast", "--duty", "ieee48:25", "--json"});
        QVERIFY2(answer.code == 0 || answer.code == 1, answer.err.constData());
        const auto d = json::parse(answer.out.toStdString());
        const auto& design = d["designs"][0];
        QCOMPARE(design["duty"]["class_kV"], 25);
        QVERIFY(std::abs(design["duty"]["u0_kV"].get<double>() - 25 / std::sqrt(3.0)) < 0.1);
        const auto& tests = design["schedule"]["tests"];
        std::set<std::string> kinds;
        for (const auto& t : tests) {
            for (const char* key :
                 {"id", "title", "kind", "applies", "status", "voltage_kV", "unit", "provenance", "model",
                  "seconds", "relative_error", "checks", "bodies", "notes"})
                QVERIFY2(t.contains(key), key);
            kinds.insert(t["kind"]);
            for (const auto& check : t["checks"])
                for (const char* key :
                     {"title", "value", "unit", "limit", "margin", "status", "where", "provenance", "why"})
                    QVERIFY2(check.contains(key), key);
        }
        for (const char* kind :
             {"service", "extinction", "ac_minutes", "ac_hours", "wet", "dc", "impulse", "geometry"})
            QVERIFY2(kinds.contains(kind), kind);
        const auto other = cli({"check", demo_path, "--design", "quay-mast", "--duty", "ieee48:17"});
        QCOMPARE(other.code, 2);
        QCOMPARE(other.err.count('\n'), 1);
    }
    void standards_lists_and_refuses_packs() {
        const auto listed = cli({"standards"});
        QCOMPARE(listed.code, 0);
        for (const char* word : {"ieee48", "ieee404", "iec60502-4", "verify against your edition"})
            QVERIFY2(listed.out.contains(word), word);
        auto packs = json::parse(cli({"standards", "--json"}).out.toStdString());
        auto pack = packs[0];
        REQUIRE_OK(write_file_safely(at("pack.json").toStdString(), pack.dump()));
        QCOMPARE(cli({"standards", "--check", at("pack.json")}).code, 0);
        auto& level = pack["classes"][1]["levels"].begin().value();
        level["value"] = -3;
        REQUIRE_OK(write_file_safely(at("broken.json").toStdString(), pack.dump()));
        const auto refused = cli({"standards", "--check", at("broken.json")});
        QCOMPARE(refused.code, 2);
        QCOMPARE(refused.err.count('\n'), 1);
    }
    void compare_puts_two_duties_side_by_side() {
        const auto answer =
            cli({"compare", demo_path, "--design", "ring-switch", "--with-duty", "ieee386:25", "--csv"});
        QVERIFY2(answer.code == 0 || answer.code == 1, answer.err.constData());
        const auto lines = answer.out.split('\n');
        QVERIFY(lines.size() > 20);
        QVERIFY(lines.front().contains("15 kV") && lines.front().contains("25 kV"));
        QCOMPARE(cli({"compare", demo_path, "--design", "nowhere"}).code, 2);
    }
    void why_ranks_what_a_check_hangs_on() {
        const auto answer =
            cli({"why", demo_path, "--design", "ramp-pole", "--check", "insulation_tangential", "--json"});
        QVERIFY2(answer.code == 0, answer.err.constData());
        const auto d = json::parse(answer.out.toStdString());
        QCOMPARE(d["format"], "needlegauge-why");
        QVERIFY(d["effects"].size() > 3);
        auto last = std::pair(true, 1e9); // cures that break nothing first, the most first
        for (const auto& effect : d["effects"]) {
            const double gain = effect["gain"];
            const auto now = std::pair(gain > 0 && effect["breaks"].empty(), gain - 1e-12);
            QVERIFY(now <= last);
            last = {now.first, gain};
        }
        QVERIFY(d["effects"][0]["gain"].get<double>() > 0 && d["effects"][0]["breaks"].empty());
        QCOMPARE(cli({"why", demo_path, "--design", "ramp-pole", "--check", "nothing"}).code, 2);
    }
    void marks_come_as_text_csv_and_json() {
        const auto text = cli({"marks", demo_path, "--design", "quay-mast"});
        QCOMPARE(text.code, 0);
        QVERIFY(text.out.contains("screen edge") && text.out.contains(" in") && text.out.contains("blade"));
        const auto d =
            json::parse(cli({"marks", demo_path, "--design", "causeway", "--json"}).out.toStdString());
        QCOMPARE(d["format"], "needlegauge-marks");
        const auto csv = cli({"marks", demo_path, "--design", "causeway", "--csv", "--datum", "jacket cut"});
        QVERIFY(csv.out.startsWith("mark,side,from jacket cut (mm)"));
        const auto refused = cli({"marks", demo_path, "--design", "causeway", "--datum", "the moon"});
        QCOMPARE(refused.code, 2);
        QVERIFY(refused.err.contains("the moon"));
    }
    void prints_are_the_same_bytes_for_the_same_input() {
        const auto same = [&](QStringList arguments, const char* ending) {
            QByteArray bytes[2];
            for (int i = 0; i < 2; ++i) {
                const auto path = at(ending) + QString::number(i) + "." + ending;
                const auto answer = cli(QStringList(arguments) << QString("--") + ending << path);
                if (answer.code < 0 || answer.code > 1) return false;
                QFile file(path);
                if (!file.open(QIODevice::ReadOnly)) return false;
                bytes[i] = file.readAll();
            }
            return bytes[0].size() > 1000 && bytes[0] == bytes[1];
        };
        QVERIFY(same({"template", demo_path, "--design", "causeway"}, "pdf"));
        QVERIFY(same({"template", demo_path, "--design", "causeway", "--paper", "Letter"}, "dxf"));
        QVERIFY(same({"sheet", demo_path, "--design", "quay-mast", "--not-judged"}, "pdf"));
        QVERIFY(same({"sheet", demo_path, "--design", "quay-mast", "--not-judged", "--large"}, "html"));
        QVERIFY(same({"report", demo_path, "--design", "ring-switch", "--date", "one day"}, "html"));
        QCOMPARE(
            cli({"template", demo_path, "--design", "causeway", "--paper", "A9", "--pdf", at("x.pdf")}).code,
            2);
        QCOMPARE(cli({"sheet", demo_path, "--design", "causeway"}).code, 2); // no file is named
        QCOMPARE(cli({"report", demo_path, "--design", "nowhere", "--pdf", at("x.pdf")}).code, 2);
    }
    void section_then_solve_answers_like_check() {
        const auto section = cli({"section", demo_path, "--design", "quay-mast"});
        QCOMPARE(section.code, 0);
        REQUIRE_OK(write_file_safely(at("q.ngsection").toStdString(), section.out.toStdString()));
        const auto solved =
            cli({"solve", at("q.ngsection"), "--json", "--csv", at("csv"), "--vtu", at("q.vtu")});
        QCOMPARE(solved.code, 0);
        const auto d = json::parse(solved.out.toStdString());
        QCOMPARE(d["format"], "needlegauge-solution");
        for (const char* key : {"probes", "paths", "electrodes", "edges", "energy_J", "solve"})
            QVERIFY2(d.contains(key), key);
        QVERIFY(QFile::exists(at("csv/insulation-surface.csv")));
        QVERIFY(QFileInfo(at("q.vtu")).size() > 10000);
        const auto check = json::parse(
            cli({"check", demo_path, "--design", "quay-mast", "--json", "--service-only"}).out.toStdString());
        for (const auto& edge : d["edges"])
            if (edge["name"] == "screen edge, outer") {
                double judged = 0;
                for (const auto& c : check["designs"][0]["checks"])
                    if (c["id"] == "screen_edge") judged = c["value"];
                // The same section; a check asks for no charges, so that its mesh is another.
                COMPARE_WITHIN(edge["peak_kV_per_mm"].get<double>(), judged,
                               edge["relative_error"].get<double>());
            }
    }
    void every_analysis_is_solved_from_a_file() {
        const QString sections = NEEDLEGAUGE_REFERENCE_DIR "/sections/";
        const auto swept =
            cli({"solve", sections + "conductive_tube.ngsection", "--frequencies", "60,250e3", "--json"});
        QCOMPARE(swept.code, 0);
        const auto list = json::parse(swept.out.toStdString());
        QCOMPARE(list.size(), std::size_t(2));
        QCOMPARE(list[1]["frequency_hz"], 250e3);
        QVERIFY(list[0]["losses"][0]["power_W"].get<double>() > 0);
        QVERIFY(list[0]["probes"]["surface 4"].contains("E_z_phase_deg"));
        const auto dependent =
            cli({"solve", sections + "field_dependent_tube.ngsection", "--json", "--vtu", at("n.vtu")});
        QCOMPARE(dependent.code, 0);
        const auto d = json::parse(dependent.out.toStdString());
        QVERIFY(d["solve"]["converged"].get<bool>() && d["solve"]["newton_iterations"].get<int>() > 0);
        QVERIFY(read_file(at("n.vtu").toStdString())->find("potential_imaginary_kV") != std::string::npos);
        const auto impulse = cli({"solve", sections + "field_dependent_tube.ngsection", "--analysis",
                                  "impulse", "--json", "--csv", at("impulse")});
        QCOMPARE(impulse.code, 0);
        const auto i = json::parse(impulse.out.toStdString());
        QCOMPARE(i["quantity"], "impulse, largest over time");
        QVERIFY(i["history"]["t_s"].size() > 20);
        QVERIFY(read_file(at("impulse/surface.csv").toStdString())->find("peak_time_s") != std::string::npos);
        const auto dc = cli({"solve", sections + "conductive_tube.ngsection", "--analysis", "dc"});
        QCOMPARE(dc.code, 2); // its insulation has no conductivity
        QVERIFY(dc.err.contains("conductivity"));
        const auto matrix = cli({"solve", sections + "joint.ngsection", "--capacitance"});
        QVERIFY(matrix.code == 0 && matrix.out.contains("capacitance outer screen:"));
        QCOMPARE(cli({"solve", sections + "joint.ngsection", "--frequencies", "sixty"}).code, 2);
    }
    void a_vtu_file_is_read_by_a_general_purpose_reader() {
        if (QProcess::execute("/usr/bin/python3", {"-c", "import meshio"}) != 0)
            QSKIP("python3-meshio is not installed here");
        const auto section = cli({"section", demo_path, "--design", "quay-mast"});
        REQUIRE_OK(write_file_safely(at("m.ngsection").toStdString(), section.out.toStdString()));
        QCOMPARE(cli({"solve", at("m.ngsection"), "--vtu", at("m.vtu")}).code, 0);
        QProcess python;
        python.start(
            "/usr/bin/python3",
            {"-c",
             "import meshio,sys; m=meshio.read(sys.argv[1]); print(m.cells[0].type, "
             "m.point_data['potential_kV'].max(), len(m.cells[0].data)==len(m.cell_data['eps_r'][0]))",
             at("m.vtu")});
        QVERIFY(python.waitForFinished(60000));
        const auto words = python.readAllStandardOutput().trimmed().split(' ');
        QCOMPARE(words.value(0), QByteArray("triangle6"));
        COMPARE_WITHIN(words.value(1).toDouble(), 15 / std::sqrt(3.0), 1e-6);
        QCOMPARE(words.value(2), QByteArray("True"));
    }
    void render_draws_without_a_display() {
        QCOMPARE(cli({"render", demo_path, "--design", "ramp-pole", "--png", at("r.png"), "--width", "600",
                      "--height", "300"})
                     .code,
                 0);
        const auto bytes = *read_file(at("r.png").toStdString());
        QVERIFY(bytes.size() > 5000);
        QVERIFY(bytes.substr(1, 3) == "PNG");
    }
    void bad_input_exits_2_with_one_line() {
        REQUIRE_OK(
            write_file_safely(at("bad.ngsection").toStdString(), "{\"format\": \"needlegauge-section\""));
        for (const auto& arguments :
             {QStringList{"solve", at("none.ngsection")}, QStringList{"solve", at("bad.ngsection")},
              QStringList{"check", at("none.ngjob")}, QStringList{"check", demo_path, "--design", "nobody"},
              QStringList{"section", demo_path, "--design", "nobody"},
              QStringList{"solve", at("bad.ngsection"), "--goal", "lots"},
              QStringList{"render", demo_path, "--design", "ramp-pole", "--png", "/proc/none/x.png"}}) {
            const auto answer = cli(arguments);
            QVERIFY2(answer.code == 2, qPrintable(arguments.join(' ')));
            QVERIFY(answer.out.isEmpty());
            QVERIFY2(answer.err.trimmed().count('\n') == 0, answer.err);
            QVERIFY(answer.err.size() > 10);
        }
        QCOMPARE(cli({}).code, 2);
        QCOMPARE(cli({"dance"}).code, 2);
        QCOMPARE(cli({"--help"}).code, 0);
    }
    void program_and_data_say_their_version() {
        const auto answer = cli({"--version"});
        QCOMPARE(answer.code, 0);
        QVERIFY(answer.out.startsWith("needlegauge-cli ") && answer.out.contains("\ndata 20"));
        const auto program = answer.out.split('\n').front().mid(16), data = answer.out.split('\n')[1].mid(5);
        const auto made_by = ("Needlegauge " + program + ", data " + data).toStdString();
        const auto marks =
            nlohmann::json::parse(cli({"marks", demo_path, "--design", "causeway", "--json"}).out);
        QCOMPARE(marks["made_by"].get<std::string>(), made_by);
    }
    void usage_errors_are_one_line_too() {
        for (const auto& words : {QStringList{"solve"},
                                  {"nonsense"},
                                  {"check", demo_path, "--frob"},
                                  {"marks", demo_path, "--design", "causeway", "--json", "--csv"},
                                  {"render", demo_path, "--design", "causeway", "--png", at("x.zzz")},
                                  {"check", "no\nsuch\x1b[31m.ngjob"}}) {
            const auto answer = cli(words);
            QCOMPARE(answer.code, 2);
            QCOMPARE(answer.err.count('\n'), 1);
            QVERIFY(!answer.err.contains('\x1b'));
        }
    }
    void output_that_is_not_written_is_not_called_written() {
        const auto full = [&](const QString& call) {
            QProcess shell;
            shell.start("sh", {"-c", QString("'%1' %2 > /dev/full").arg(QString(NEEDLEGAUGE_CLI), call)});
            shell.waitForFinished(120000);
            return shell.exitCode();
        };
        QCOMPARE(full("families"), 2);
        QCOMPARE(full("families --json"), 2);
        QCOMPARE(full("schema"), 2);
        QCOMPARE(full("--version"), 2);
        QCOMPARE(full(QString("marks '%1' --design causeway --csv").arg(demo_path)), 2);
        for (const char* kind : {"--svg", "--pdf", "--dxf"})
            QCOMPARE(cli({"template", demo_path, "--design", "causeway", kind, "/dev/full"}).code, 2);
        for (const char* kind : {"--html", "--pdf"})
            QCOMPARE(
                cli({"sheet", demo_path, "--design", "causeway", "--not-judged", kind, "/dev/full"}).code, 2);
        QCOMPARE(cli({"template", demo_path, "--design", "causeway", "--svg", at("none/x.svg")}).code, 2);
    }
    void paths_whose_names_are_alike_get_a_file_each() {
        const auto section = cli({"section", demo_path, "--design", "berth-2"});
        auto d = json::parse(section.out.toStdString());
        auto path = d["paths"][0];
        d["paths"] = json::array();
        for (const char* name : {"a b", "a-b", "a_b"}) {
            path["name"] = name;
            d["paths"].push_back(path);
        }
        REQUIRE_OK(write_file_safely(at("alike.ngsection").toStdString(), d.dump()));
        const auto answer = cli({"solve", at("alike.ngsection"), "--goal", "20%", "--csv", at("alike")});
        QVERIFY2(answer.code == 0, answer.err.constData());
        QVERIFY(answer.err.contains("is made"));
        QCOMPARE(QDir(at("alike")).entryList({"*.csv"}).size(), 3);
        QCOMPARE(cli({"solve", at("alike.ngsection"), "--goal", "20%", "--csv", at("no/such/folder")}).code,
                 2);
    }
    void titles_of_strangers_make_no_markup() {
        auto job = json::parse(write_job(test::demo_job()).dump());
        for (auto& design : job["designs"]) design["title"] = "R&D <script>alert(1)</script>";
        REQUIRE_OK(write_file_safely(at("t.ngjob").toStdString(), job.dump()));
        const auto answer = cli({"template", at("t.ngjob"), "--design", "causeway", "--svg", at("t.svg")});
        QVERIFY2(answer.code == 0 || answer.code == 1, answer.err.constData());
        const auto svg = QString::fromStdString(*read_file(at("t.svg").toStdString()));
        QVERIFY(!svg.contains("<script"));
        QXmlStreamReader xml(svg);
        while (!xml.atEnd()) xml.readNext();
        QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
    }
};
QTEST_GUILESS_MAIN(TestCli)
#include "test_cli.moc"
