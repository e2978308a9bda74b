// The command line over faults and studies: what is asked, what is written, what goes on where it stopped.
#include "cli_support.h"
#include "fault/answer.h"
#include "io/file.h"
#include "study/study.h"
#include <QFile>
#include <QFileInfo>
#include <QTemporaryDir>

using namespace ng;
using nlohmann::json;
using test::cli;
using test::demo_path;

class TestCliStudies : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString at(const char* name) const { return dir_.filePath(name); }
    std::string text(const char* name) const { return read_file(at(name).toStdString()).value_or(""); }

    /// The usual plan with so many samples, as a file.
    QString plan_file(const char* name, const char* design, int samples) {
        auto plan = json::parse(cli({"study", "plan", demo_path, "--design", design}).out.toStdString());
        plan["samples"] = samples;
        auto few = json::array(); // a few quantities, to be quick
        for (const auto& v : plan["varied"])
            if (v["key"] == "overlap_mm" || v["key"] == "edge_radius_mm" ||
                v["key"] == "cable insulation_thickness_mm")
                few.push_back(v);
        plan["varied"] = few;
        if (!write_file_safely(at(name).toStdString(), plan.dump())) qFatal("no plan written");
        return at(name);
    }

  private slots:
    void a_rule_is_answered_without_a_field() {
        const auto answer =
            cli({"faults", demo_path, "--design", "ramp-pole", "--kind", "crimp_short", "--json"});
        QVERIFY2(answer.code == 1, answer.err.constData());
        const auto d = json::parse(answer.out.toStdString());
        QCOMPARE(d["faults"].size(), std::size_t(1));
        const auto& one = d["faults"][0];
        QCOMPARE(one["kind"], "crimp_short");
        QVERIFY(!one["why"].get<std::string>().empty());
        QVERIFY(!one.contains("size_mm") || one["size_mm"].is_null());
    }
    void a_fault_of_a_size_is_judged_with_and_without() {
        const auto answer = cli({"faults", demo_path, "--design", "quay-mast", "--kind", "nick", "--size",
                                 "0.2", "--no-critical", "--json"});
        QVERIFY2(answer.code == 0 || answer.code == 1, answer.err.constData());
        const auto d = json::parse(answer.out.toStdString());
        QVERIFY(!d["faults"][0]["checks"].empty());
        for (const auto& check : d["faults"][0]["checks"])
            QVERIFY(check.contains("with") && check.contains("without"));
    }
    void what_does_not_fit_is_refused_by_name() {
        const auto answer = cli({"faults", demo_path, "--design", "quay-mast", "--kind", "body_void",
                                 "--size", "30", "--no-critical"});
        QCOMPARE(answer.code, 2);
        QVERIFY2(answer.err.contains("body_void") || answer.err.contains("oid"), answer.err.constData());
        const auto unknown = cli({"faults", demo_path, "--design", "quay-mast", "--kind", "gremlin"});
        QCOMPARE(unknown.code, 2);
        QVERIFY(unknown.err.contains("gremlin"));
    }
    /// The demo's cold shrink joint has three faults on it: with them it is another design, and says so.
    void designs_are_checked_with_their_faults() {
        const auto design = [] {
            for (const auto& d : test::demo_job().designs)
                if (!d.faults.empty()) return QString::fromStdString(d.id);
            return QString();
        }();
        QVERIFY(!design.isEmpty());
        const auto sound = cli({"check", demo_path, "--design", design, "--service-only", "--json"});
        const auto with =
            cli({"check", demo_path, "--design", design, "--service-only", "--with-faults", "--json"});
        const auto a = json::parse(sound.out.toStdString()), b = json::parse(with.out.toStdString());
        QVERIFY(a["designs"][0]["checks"] != b["designs"][0]["checks"]);
        QCOMPARE(with.code, 1);
        const auto section = cli({"section", demo_path, "--design", design});
        const auto faulty = cli({"section", demo_path, "--design", design, "--with-faults"});
        QVERIFY(json::parse(faulty.out.toStdString())["regions"].size() >
                json::parse(section.out.toStdString())["regions"].size());
    }
    void plans_are_printed_and_taken_back() {
        const auto plan = json::parse(
            cli({"study", "plan", demo_path, "--design", "causeway", "--samples", "32"}).out.toStdString());
        QCOMPARE(plan["design"], "causeway");
        QCOMPARE(plan["samples"], 32);
        REQUIRE_OK(read_plan(plan));
        const auto refused = cli({"study", "plan", demo_path, "--design", "nowhere"});
        QCOMPARE(refused.code, 2);
        QVERIFY(refused.err.contains("nowhere"));
    }
    void shards_merge_and_a_stopped_run_goes_on() {
        const auto plan = plan_file("p.json", "ramp-pole", 8);
        const auto run = [&](const char* out, const char* shard) {
            return cli({"study", "tolerance", demo_path, "--design", "ramp-pole", "--plan", plan, "--shard",
                        shard, "--out", at(out)});
        };
        const auto whole = run("whole.csv", "0/1");
        QVERIFY2(whole.code == 0, whole.err.constData());
        QCOMPARE(run("s0.csv", "0/2").code, 0);
        QCOMPARE(run("s1.csv", "1/2").code, 0);
        const auto merged = cli({"study", "merge", at("s1.csv"), at("s0.csv")});
        QCOMPARE(merged.code, 0);
        QCOMPARE(merged.out.toStdString(), text("whole.csv"));
        const auto gap = cli({"study", "merge", at("s1.csv")});
        QCOMPARE(gap.code, 2);
        QVERIFY(gap.err.contains("missing"));
        // Cut in the middle of a row: refused whole, gone on with by the same call.
        const auto full = text("s0.csv");
        {
            QFile cut(at("s0.csv"));
            QVERIFY(cut.resize(static_cast<qint64>(full.size()) - 7));
        }
        QCOMPARE(cli({"study", "merge", at("s0.csv"), at("s1.csv")}).code, 2);
        QCOMPARE(run("s0.csv", "0/2").code, 0);
        QCOMPARE(text("s0.csv"), full);
        // Another plan does not go on in the same file.
        const auto other = plan_file("q.json", "ramp-pole", 16);
        const auto refused = cli({"study", "tolerance", demo_path, "--design", "ramp-pole", "--plan", other,
                                  "--out", at("whole.csv")});
        QCOMPARE(refused.code, 2);
        QCOMPARE(text("whole.csv"), merged.out.toStdString());
        const auto summary = cli({"study", "summary", at("whole.csv"), "--json"});
        QCOMPARE(summary.code, 0);
        QCOMPARE(json::parse(summary.out.toStdString())["rows"], 8);
        QVERIFY(cli({"study", "summary", at("whole.csv")}).out.contains("falls short"));
        // A row opened is a job whose design has the numbers of that row.
        const auto sample =
            cli({"study", "sample", demo_path, at("whole.csv"), "--index", "3", "--out", at("row3.ngjob")});
        QVERIFY2(sample.code == 0, sample.err.constData());
        const auto table = read_table(text("whole.csv"), "whole.csv");
        REQUIRE_OK(table);
        const auto job = load_job(at("row3.ngjob").toStdString());
        REQUIRE_OK(job);
        for (std::size_t k = 0; k < table->plan.varied.size(); ++k)
            if (const auto& key = table->plan.varied[k].key; !key.starts_with("cable "))
                QCOMPARE(job->find_design("ramp-pole")->numbers.at(key), table->rows[3].drawn[k]);
        QCOMPARE(
            cli({"study", "sample", demo_path, at("whole.csv"), "--index", "9", "--out", at("x.ngjob")}).code,
            2);
    }
    void a_range_is_drawn_and_listed() {
        const auto answer = cli({"study", "range", demo_path, "--design", "meter-panel", "--cells", "3",
                                 "--csv", "--svg", at("range.svg")});
        QVERIFY2(answer.code == 0, answer.err.constData());
        QCOMPARE(answer.out.count('\n'), 10);
        const auto svg = QString::fromStdString(text("range.svg"));
        QVERIFY(svg.contains("over the insulation") && svg.contains("serve"));
        const auto refused =
            cli({"study", "range", demo_path, "--design", "meter-panel", "--diameter", "30"});
        QCOMPARE(refused.code, 2);
        QVERIFY(refused.err.contains("--diameter") && refused.err.contains("lowest:highest"));
    }
    void a_range_at_corners_and_the_faults_are_listed() {
        const auto answer = cli({"study", "range", demo_path, "--design", "meter-panel", "--cells", "2",
                                 "--corners", "--csv", "--svg", at("corners.svg")});
        QVERIFY2(answer.code == 0, answer.err.constData());
        QVERIFY(answer.out.contains("holds at corners") && answer.out.contains(",yes,"));
        QVERIFY(QString::fromStdString(text("corners.svg")).contains("holds as designed only"));
        const auto faults = cli({"study", "faults", demo_path, "--design", "meter-panel", "--csv"});
        const auto scan = cli({"faults", demo_path, "--design", "meter-panel", "--scan", "--csv"});
        QCOMPARE(faults.out, scan.out);
        QVERIFY(faults.out.startsWith("kind,") && faults.out.count('\n') > 10);
    }
    void the_highest_class_that_holds_is_said() {
        const auto said = cli({"study", "duty", demo_path, "--design", "meter-panel"});
        QVERIFY2(said.code == 0 || said.code == 1, said.err.constData());
        QVERIFY(said.out.contains("holds up to") || said.out.contains("no class holds"));
        const auto table = cli({"study", "duty", demo_path, "--design", "meter-panel", "--json"});
        const auto rows = nlohmann::json::parse(table.out.toStdString());
        QCOMPARE(rows.at("format").get<std::string>(), std::string("needlegauge-duties"));
        QVERIFY(rows.at("rows").size() > 6);
        QCOMPARE(table.code, said.code);
        QTemporaryDir drawn;
        const auto path = drawn.filePath("classes.svg");
        cli({"study", "duty", demo_path, "--design", "meter-panel", "--svg", path});
        QFile svg(path);
        QVERIFY(svg.open(QFile::ReadOnly) && svg.readAll().contains("Framed: the class it is asked to hold"));
        const auto refused = cli({"study", "duty", demo_path, "--design", "nobody"});
        QCOMPARE(refused.code, 2);
        QVERIFY(refused.err.contains("nobody"));
    }
    void the_worst_case_is_opened_as_a_job() {
        const auto plan = plan_file("w.json", "ramp-pole", 16);
        const auto answer = cli({"study", "worst", demo_path, "--design", "ramp-pole", "--plan", plan,
                                 "--solves", "12", "--json", "--out", at("worst.ngjob")});
        QVERIFY2(answer.code == 1, answer.err.constData()); // it falls short as designed
        const auto d = json::parse(answer.out.toStdString());
        QVERIFY(d["share_of_limit"].get<double>() >= d["as_designed"].get<double>());
        REQUIRE_OK(load_job(at("worst.ngjob").toStdString()));
    }
    void what_moves_it_most_is_a_table_and_a_drawing() {
        const auto plan = plan_file("t.json", "ramp-pole", 1);
        const auto answer = cli({"study", "tornado", demo_path, "--design", "ramp-pole", "--plan", plan,
                                 "--json", "--svg", at("tornado.svg")});
        QVERIFY2(answer.code == 0, answer.err.constData());
        const auto d = json::parse(answer.out.toStdString());
        QVERIFY(!d["swings"].empty() && d["as_designed"].get<double>() > 1); // it falls short as designed
        QFile svg(at("tornado.svg"));
        QVERIFY(svg.open(QFile::ReadOnly));
        QVERIFY(svg.readAll().contains("<svg"));
        const auto full = cli(
            {"study", "tornado", demo_path, "--design", "ramp-pole", "--plan", plan, "--svg", "/dev/full"});
        QCOMPARE(full.code, 2);
    }
    void rows_that_cannot_be_written_are_said() {
        const auto plan = plan_file("r.json", "ramp-pole", 1);
        for (const auto& to : {QString("/dev/full"), at("none/rows.csv")}) {
            const auto answer =
                cli({"study", "tolerance", demo_path, "--design", "ramp-pole", "--plan", plan, "--out", to});
            QCOMPARE(answer.code, 2);
            QVERIFY2(answer.err.contains(QFileInfo(to).fileName().toUtf8()), answer.err.constData());
        }
    }
};
QTEST_GUILESS_MAIN(TestCliStudies)
#include "test_cli_studies.moc"
