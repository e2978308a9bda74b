// The trainer on the command line: the same bytes for the same seed, the right answer scored right, what is
// kept, printed, forgotten and refused.
#include "cli_support.h"
#include "io/file.h"
#include <QFile>
#include <QTemporaryDir>
#include <set>

using namespace ng;
using nlohmann::json;
using test::cli;
using test::demo_path;

class TestCliTrainer : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString at(const char* name) const { return dir_.filePath(name); }
    static json parsed(const QByteArray& text) { return json::parse(text.toStdString()); }
    void put(const QString& path, const QByteArray& text) {
        QFile file(path);
        QVERIFY(file.open(QFile::WriteOnly));
        file.write(text);
    }

  private slots:
    void the_same_seed_prints_the_same_bytes_without_the_answer() {
        std::set<QByteArray> sheets;
        for (const int seed : {1, 2, 3, 4, 5, 6}) {
            const QStringList call{"train", "new", demo_path, "--seed", QString::number(seed), "--json"};
            const auto one = cli(call), two = cli(call);
            QCOMPARE(one.code, 0);
            QCOMPARE(one.out, two.out);
            const auto e = parsed(one.out);
            QVERIFY(!e.contains("job") && !e.contains("faults"));
            QVERIFY(!one.out.contains("decision\"") && !one.out.contains("size_mm"));
            sheets.insert(one.out);
            // The right answer has all points.
            const auto answer = cli({"train", "answer", demo_path, "--seed", QString::number(seed)});
            QCOMPARE(answer.code, 0);
            QCOMPARE(parsed(answer.out)["exercise"], e["id"]);
            put(at("right.json"), answer.out);
            const auto score = cli({"train", "score", demo_path, "--seed", QString::number(seed), "--given",
                                    at("right.json"), "--json"});
            QCOMPARE(score.code, 0);
            QCOMPARE(parsed(score.out)["points"], 1.0);
            // It is of this exercise and of no other.
            const auto other = cli({"train", "score", demo_path, "--seed", QString::number(seed + 1),
                                    "--given", at("right.json")});
            QCOMPARE(other.code, 2);
            QVERIFY(other.err.contains("it is of exercise"));
        }
        QCOMPARE(sheets.size(), std::size_t{6});
        const auto exam = cli({"train", "exam", demo_path, "--seed", "4", "--count", "5", "--json"});
        QCOMPARE(exam.out, cli({"train", "exam", demo_path, "--seed", "4", "--count", "5", "--json"}).out);
        QCOMPARE(parsed(exam.out)["exercises"].size(), std::size_t{5});
        QCOMPARE(parsed(exam.out)["exercises"][1],
                 parsed(cli({"train", "new", demo_path, "--seed", "5", "--json"}).out));
    }
    void an_instructors_exercise_goes_from_hand_to_hand() {
        auto job = json::parse(*read_file(demo_path.toStdString()));
        for (auto& d : job["designs"])
            if (d["id"] == "cellar")
                d["faults"] = {{{"kind", "over_shaved"}, {"side", "A"}, {"size_mm", 0.6}}};
        put(at("own.ngjob"), QByteArray::fromStdString(job.dump()));
        const auto whole = at("own.json");
        QCOMPARE(cli({"train", "make", at("own.ngjob"), "--design", "cellar", "--out", whole}).code, 0);
        const auto seen = cli({"train", "look", "--exercise", whole, "--means", "caliper", "--json"});
        QCOMPARE(seen.code, 0);
        const auto none = cli({"train", "look", "--exercise", whole, "--means", "continuity"});
        QVERIFY(none.out.contains("nothing is seen"));
        put(at("given.json"), R"({"format": "needlegauge-answer", "version": 1, "seconds": 60,
            "looks": ["caliper"], "findings": [{"kind": "over_shaved", "side": "A", "decision": "cut_back"}],
            "release": false})");
        const auto file = at("class.ngtrain");
        const auto score =
            cli({"train", "score", "--exercise", whole, "--given", at("given.json"), "--critical", "--json",
                 "--file", file, "--role", "apprentice", "--initials", "AB"});
        QCOMPARE(score.code, 0);
        const auto s = parsed(score.out);
        QCOMPARE(s["seconds"], 180.0);
        QVERIFY(s["faults"][0]["critical_mm"].is_number() || s["faults"][0].contains("critical"));
        // Released with what hurts: exit 1, no points, and what it would have cost.
        put(at("blind.json"), R"({"format": "needlegauge-answer", "version": 1, "release": true})");
        const auto blind = cli({"train", "score", "--exercise", whole, "--given", at("blind.json"), "--json",
                                "--file", file, "--role", "apprentice", "--initials", "AB"});
        QCOMPARE(blind.code, 1);
        QCOMPARE(parsed(blind.out)["points"], 0.0);
        QVERIFY(!parsed(blind.out)["costs"].empty());
        const auto progress = parsed(cli({"train", "progress", file, "--json"}).out);
        QCOMPARE(progress["trainees"][0]["exercises"], 2);
        QCOMPARE(progress["trainees"][0]["topics"][0]["box"], 1); // right, then missed
        // What was missed comes again after another exercise.
        const auto next = [&] {
            const auto a = cli({"train", "next", file, at("own.ngjob"), "--design", "cellar", "--role",
                                "apprentice", "--initials", "AB", "--json"});
            return a.code == 0 ? parsed(a.out).value("task", std::string()) : std::string("refused");
        };
        const QStringList blade{demo_path, "--seed", "2", "--task", "blade"};
        put(at("b.json"), cli(QStringList{"train", "answer"} + blade).out);
        QCOMPARE(cli(QStringList{"train", "score"} + blade +
                     QStringList{"--given", at("b.json"), "--file", file, "--role", "apprentice",
                                 "--initials", "AB"})
                     .code,
                 0);
        QCOMPARE(next(), std::string("inspect"));
        QCOMPARE(cli({"train", "forget", file, "--role", "apprentice", "--initials", "AB"}).code, 0);
        QCOMPARE(parsed(cli({"train", "progress", file, "--json"}).out)["trainees"].size(), std::size_t{0});
    }
    void an_exam_is_begun_answered_and_signed() {
        const auto file = at("exam.ngtrain");
        QCOMPARE(cli({"train", "exam", demo_path, "--seed", "30", "--count", "3", "--file", file, "--role",
                      "jointer", "--initials", "CD", "--pdf", at("exam.pdf"), "--html", at("exam.html")})
                     .code,
                 0);
        const auto html = *read_file(at("exam.html").toStdString());
        for (const int seed : {30, 31, 32}) {
            const auto e =
                parsed(cli({"train", "new", demo_path, "--seed", QString::number(seed), "--json"}).out);
            QVERIFY(html.find(e["id"].get<std::string>()) != std::string::npos);
            put(at("a.json"), cli({"train", "answer", demo_path, "--seed", QString::number(seed)}).out);
            QCOMPARE(
                cli({"train", "score", demo_path, "--seed", QString::number(seed), "--given", at("a.json"),
                     "--file", file, "--role", "jointer", "--initials", "CD", "--exam", "1"})
                    .code,
                0);
        }
        QCOMPARE(
            cli({"train", "report", file, "--exam", "1", "--pdf", at("r.pdf"), "--html", at("r.html")}).code,
            0);
        const auto result = *read_file(at("r.html").toStdString());
        QVERIFY(result.find("3 of 3 answered and scored, 100 %") != std::string::npos);
        QVERIFY(result.find("instructor") != std::string::npos);
        QVERIFY(read_file(at("r.pdf").toStdString())->starts_with("%PDF"));
        QCOMPARE(cli({"train", "report", file, "--exam", "9", "--pdf", at("r.pdf")}).code, 2);
    }
    void bad_input_is_named() {
        const auto refused = [](const QStringList& call, const char* words) {
            const auto a = cli(call);
            const bool as_said = a.code == 2 && a.err.contains(words) && a.out.isEmpty();
            if (!as_said) qWarning("%d %s %s", a.code, a.out.constData(), a.err.constData());
            return as_said;
        };
        QVERIFY(refused({"train", "new", demo_path, "--task", "juggle"}, "juggle"));
        QVERIFY(refused({"train", "new", demo_path, "--design", "nowhere"}, "nowhere"));
        QVERIFY(refused({"train", "new", at("none.ngjob")}, "none.ngjob"));
        QVERIFY(refused({"train", "answer"}, "which exercise"));
        QVERIFY(refused({"train", "look", demo_path, "--task", "inspect", "--means", "sonar"}, "sonar"));
        put(at("no.json"), "{\"format\": \"needlegauge-answer\", \"version\": 1");
        QVERIFY(refused({"train", "score", demo_path, "--given", at("no.json")}, "truncated"));
        put(at("no.json"), R"({"format": "needlegauge-answer", "version": 1, "findings": [{"kind": "dragon",
            "decision": "accept"}]})");
        QVERIFY(refused({"train", "score", demo_path, "--given", at("no.json")}, "dragon"));
        put(at("no.ngtrain"),
            "no database at all, but long enough to be looked at: it is a text file really");
        QVERIFY(refused({"train", "progress", at("no.ngtrain")}, "no trainer's file"));
        QVERIFY(refused({"train", "again", at("no.ngtrain")}, "no trainer's file"));
        QVERIFY(refused({"train", "score", demo_path, "--given", at("no.json"), "--file", at("x.ngtrain")},
                        "role"));
    }
};

QTEST_APPLESS_MAIN(TestCliTrainer)
#include "test_cli_trainer.moc"
