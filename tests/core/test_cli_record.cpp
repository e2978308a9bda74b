// The record on the command line: exit codes, exchange, search, trends, report, and what is refused.
#include "cli_support.h"
#include "io/file.h"
#include "record/log.h"
#include <QFile>
#include <QTemporaryDir>
#include <SQLiteCpp/SQLiteCpp.h>

using namespace ng;
using nlohmann::json;
using test::cli;
using test::demo_path;

class TestCliRecord : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString at(const char* name) const { return dir_.filePath(name); }
    QString demo_log(const char* name) {
        QFile::remove(at(name));
        QFile::copy(NEEDLEGAUGE_DATA_DIR "/demo/osprey-point.nglog", at(name));
        QFile::setPermissions(at(name), QFile::ReadOwner | QFile::WriteOwner);
        return at(name);
    }

  private slots:
    void verify_exits_0_and_1_on_a_changed_value_and_2_on_what_is_no_record() {
        const auto log = demo_log("a.nglog");
        const auto good = cli({"record", "verify", log});
        QCOMPARE(good.code, 0);
        const auto last = QString::fromUtf8(good.out).section("keep ", 1).section(' ', 0, 0);
        QCOMPARE(cli({"record", "verify", log, "--kept", last}).code, 0);
        QCOMPARE(cli({"record", "verify", log, "--kept", "nonsense"}).code, 2);
        {
            SQLite::Database db(log.toStdString(), SQLite::OPEN_READWRITE);
            db.exec("DROP TRIGGER entry_kept");
            db.exec("DELETE FROM entry WHERE number = (SELECT max(number) FROM entry)");
            db.exec("CREATE TRIGGER entry_kept BEFORE DELETE ON entry BEGIN SELECT RAISE(ABORT, 'rows are "
                    "never taken out'); END");
        }
        QCOMPARE(cli({"record", "verify", log}).code, 0);
        const auto cut = cli({"record", "verify", log, "--kept", last, "--json"});
        QCOMPARE(cut.code, 1);
        QVERIFY(json::parse(cut.out.toStdString())["findings"][0].get<std::string>().find("cut off") !=
                std::string::npos);
        const auto other = demo_log("b.nglog");
        {
            SQLite::Database db(other.toStdString(), SQLite::OPEN_READWRITE);
            db.exec("DROP TRIGGER entry_unchanged");
            db.exec("UPDATE entry SET initials = 'XX' WHERE number = 9");
        }
        const auto changed = cli({"record", "verify", other});
        QCOMPARE(changed.code, 1);
        QVERIFY(changed.out.contains("row 9 was changed"));
        const auto none = cli({"record", "verify", demo_path});
        QCOMPARE(none.code, 2);
        QCOMPARE(none.err.count('\n'), 1);
    }
    void an_export_is_imported_as_the_same_chain() {
        const auto log = demo_log("a.nglog");
        QCOMPARE(cli({"record", "export", log, "--out", at("e.json")}).code, 0);
        const auto made = cli({"record", "import", at("e.json"), "--out", at("again.nglog")});
        QVERIFY2(made.code == 0, made.err.constData());
        QVERIFY(cli({"record", "verify", at("again.nglog"), "--kept", made.out.trimmed()}).code == 0);
        QCOMPARE(cli({"record", "import", at("e.json"), "--out", at("again.nglog")}).code,
                 2); // never over one
        auto document = json::parse(*read_file(at("e.json").toStdString()));
        document["entries"][7]["body"]["part"] = "another";
        QVERIFY(write_file_safely(at("f.json").toStdString(), document.dump()).has_value());
        const auto refused = cli({"record", "import", at("f.json"), "--out", at("f.nglog")});
        QCOMPARE(refused.code, 2);
        QVERIFY2(refused.err.contains("entry 8") && !QFile::exists(at("f.nglog")), refused.err.constData());
        const auto csv = cli({"record", "export", log, "--csv"});
        QVERIFY(csv.out.startsWith("number,kind,at_utc"));
        const auto longer = cli({"record", "continue", log, "--out", at("longer.nglog"), "--role", "jointer",
                                 "--initials", "AB"});
        QVERIFY2(longer.code == 0, longer.err.constData());
    }
    void what_was_built_is_shown_and_reported() {
        const auto log = demo_log("a.nglog");
        const auto shown = cli({"record", "show", log, "--json", "--out", at("built.ngjob")});
        QVERIFY2(shown.code == 0, shown.err.constData());
        const auto d = json::parse(shown.out.toStdString());
        QVERIFY(d["verdict"].get<std::string>().rfind("as built: ", 0) == 0);
        QVERIFY(d["open_hold_points"].empty());
        QVERIFY(d["marks"].size() >= 4 && d["checks"].size() >= 5 && !d["unmeasured"].empty());
        const auto again = cli({"check", at("built.ngjob"), "--design", "breakwater", "--service-only",
                                "--with-faults", "--json"});
        QCOMPARE(again.code, 0);
        const auto html = at("report.html"), pdf = at("report.pdf");
        const auto report = cli({"record", "report", log, "--html", html, "--pdf", pdf});
        QVERIFY2(report.code == 0, report.err.constData());
        const auto text = *read_file(html.toStdString());
        QVERIFY(text.find(report.out.trimmed().toStdString()) != std::string::npos);
        QVERIFY(read_file(pdf.toStdString())->rfind("%PDF", 0) == 0);
        QCOMPARE(cli({"record", "report", log}).code, 2);
        QCOMPARE(cli({"record", "show", log, "--accessory", "7"}).code, 2);
    }
    void rows_are_begun_added_corrected_found_and_charted() {
        QFile::copy(demo_path, at("job.ngjob"));
        const auto begun =
            cli({"record", "begin", at("job.ngjob"), "--design", "quay-mast", "--role", "jointer",
                 "--initials", "AB", "--details", R"({"place": "mast 3", "batch": "77"})"});
        QVERIFY2(begun.code == 0, begun.err.constData());
        const auto log = at("job.nglog");
        QVERIFY(QFile::exists(log));
        const auto add = [&](const char* kind, const char* body, QStringList more = {}) {
            return cli(QStringList{"record", "add", log, "--kind", kind, "--body", body, "--accessory", "2",
                                   "--role", "jointer", "--initials", "AB"} +
                       more);
        };
        QCOMPARE(
            add("reading",
                R"({"what":"mark","place":"screen edge","label":"screen edge","value":61,"unit":"mm","datum":"jacket cut","designed":60})")
                .code,
            0);
        QCOMPARE(add("reading", R"({"what":"mark","label":"x","value":"wide","unit":"mm"})").code, 2);
        QCOMPARE(add("hold_point",
                     R"({"step":"screen-strip","check":"edge","found":"ragged","decision":"rework"})")
                     .code,
                 0);
        QCOMPARE(add("note", "no json").code, 2);
        QCOMPARE(
            add("reading",
                R"({"what":"mark","place":"screen edge","label":"screen edge","value":60.5,"unit":"mm","datum":"jacket cut","designed":60})",
                {"--corrects", "3", "--why", "rule not straight"})
                .code,
            0);
        const auto found = cli({"record", "search", dir_.path(), "--batch", "77", "--reworked", "--json"});
        QCOMPARE(json::parse(found.out.toStdString())["found"].size(), std::size_t{1});
        const auto trends = cli({"record", "trends", at("job.nglog"), "--csv"});
        QVERIFY2(trends.code == 0 && trends.out.contains("all,"), trends.err.constData());
        QCOMPARE(cli({"record", "trends", at("job.nglog"), "--by", "weather"}).code, 2);
        const auto tests =
            cli({"record", "tests", at("job.ngjob"), "--design", "quay-mast", "--occasion", "acceptance"});
        QVERIFY(tests.out.contains("21") && tests.out.contains("Caution"));
        QCOMPARE(
            cli({"record", "tests", at("job.ngjob"), "--design", "quay-mast", "--occasion", "party"}).code,
            2);
        QCOMPARE(cli({"record", "verify", log}).code, 0);
    }
};

QTEST_GUILESS_MAIN(TestCliRecord)
#include "test_cli_record.moc"
