// The record in the window: begun, written at the steps, solved as built, signed, tested with instruments on
// real terminals, and what goes wrong with each.
#include "app/stages/record_entry.h"
#include "app/stages/record_page.h"
#include "app/stages/record_panel.h"
#include "app/stages/step_window.h"
#include "app/stages/test_window.h"
#include "app/stages/trend_window.h"
#include "app/stages/work_page.h"
#include "io/file.h"
#include "record/search.h"
#include "window_support.h"
#include <QPointer>
#include <QProcess>
#include <QTemporaryDir>
#include <SQLiteCpp/SQLiteCpp.h>
#include <fstream>

using namespace ng;
using test::Window;

namespace {

/// A stand-in at its terminal.
struct Instrument {
    QProcess process;
    QString port;
    Instrument(const char* program, QStringList arguments) {
        if (!arguments.contains("--seed"))
            arguments << "--seed"
                      << "3";
        process.start(QString(NEEDLEGAUGE_INSTRUMENTS "/needlegauge-") + program, arguments);
        if (process.waitForReadyRead(test::patient(20000)))
            port = QString::fromUtf8(process.readLine()).section(' ', -1).trimmed();
        if (!port.startsWith("/dev/"))
            qWarning("%s: %s", program, process.readAllStandardError().constData());
    }
    ~Instrument() {
        process.kill();
        process.waitForFinished(test::patient(3000));
    }
};

/// A window on a saved copy of the demo job, without its record unless that is wanted.
struct Folder {
    QTemporaryDir folder; // outlives the window that has its files open
};
struct Saved : Folder, Window {
    explicit Saved(const char* design, bool with_record = false) {
        const auto path = folder.filePath("job.ngjob");
        QFile::copy(test_demo("osprey-point.ngjob"), path);
        QFile::setPermissions(path, QFile::ReadOwner | QFile::WriteOwner);
        if (with_record) {
            QFile::copy(test_demo("osprey-point.nglog"), log_path());
            QFile::setPermissions(log_path(), QFile::ReadOwner | QFile::WriteOwner);
        }
        window->open_file(path);
        session().document.show_design(design);
        recorder().set_who({"jointer", "AB"});
    }
    static QString test_demo(const char* name) { return QString(NEEDLEGAUGE_DATA_DIR "/demo/") + name; }
    QString log_path() const { return folder.filePath("job.nglog"); }
    app::Recorder& recorder() { return window->recorder(); }
    bool wait_verified() {
        return QTest::qWaitFor([this] { return !recorder().is_verifying(); }, test::patient(20000));
    }
    bool wait_judged() {
        return QTest::qWaitFor([this] { return !recorder().is_judging(); }, test::patient(60000));
    }
};

const SheetStep& step_of(const app::StepWindow& steps, const std::string& id) {
    const auto& all = steps.sheet()->steps;
    return *std::find_if(all.begin(), all.end(), [&](const auto& s) { return s.id == id; });
}
int index_of(const app::StepWindow& steps, const std::string& id) {
    return static_cast<int>(&step_of(steps, id) - steps.sheet()->steps.data());
}

} // namespace

class TestRecording : public QObject {
    Q_OBJECT
  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QCoreApplication::setOrganizationName("Needlegauge tests");
    }
    void the_demo_has_one_joint_from_first_mark_to_release() {
        Window w;
        w.session().document.show_design("breakwater");
        auto& recorder = w->recorder();
        QVERIFY(recorder.record());
        QTRY_VERIFY_WITH_TIMEOUT(!recorder.is_verifying(), test::patient(20000));
        QVERIFY(recorder.verification().last.rows >= 50);
        QVERIFY2(recorder.verification().holds(), recorder.verification().words().c_str());
        QCOMPARE(recorder.record()->reworks(), 1);
        QVERIFY(recorder.record()->signed_off("released"));
        QVERIFY(recorder.sheet() && open_holds(*recorder.record(), *recorder.sheet()).empty());
        QVERIFY(QTest::qWaitFor([&] { return !recorder.is_judging(); }, test::patient(60000)));
        QVERIFY(recorder.verdict() && recorder.verdict()->as_built->verdict.status == Status::holds);
        QVERIFY(!w.session().built_marks().empty()); // on TAPE
        w.session().document.show_design("causeway");
        QVERIFY(!recorder.record());
        QVERIFY(w.session().built_marks().empty());
    }
    /// Every entry within two actions: type and Return; or touch the instrument's button and Write.
    void a_step_writes_what_is_read_and_says_what_is_out() {
        Saved w("breakwater");
        QTest::keyClick(w.window.get(), Qt::Key_8, Qt::ControlModifier);
        auto* steps = w->work_page()->open_steps();
        steps->show_step(index_of(*steps, "screen-strip"));
        auto* panel = steps->record_panel();
        QVERIFY(panel->begin_button()->isVisible());
        QTest::mouseClick(panel->begin_button(), Qt::LeftButton);
        QVERIFY(w.recorder().record());
        QVERIFY(!panel->begin_button()->isVisible());
        QCOMPARE(panel->rows().size(), std::size_t{2}); // the edges of both sides
        const auto rows_before = w.recorder().log()->last().rows;
        QTest::keyClicks(panel->rows()[0].field, "85,2"); // refused or taken, never guessed
        QTest::keyClick(panel->rows()[0].field, Qt::Key_Return);
        if (w.recorder().log()->last().rows == rows_before) {
            QCOMPARE(panel->rows()[0].field->text(), QString("85,2"));
            panel->rows()[0].field->clear();
            QTest::keyClicks(panel->rows()[0].field, "85.2");
            QTest::keyClick(panel->rows()[0].field, Qt::Key_Return);
        }
        QCOMPARE(w.recorder().log()->last().rows, rows_before + 1);
        QTest::keyClicks(panel->rows()[1].field, "88.5");
        QTest::keyClick(panel->rows()[1].field, Qt::Key_Return);
        QVERIFY2(panel->rows()[1].state->text().contains("OUT"), qPrintable(panel->rows()[1].state->text()));
        QVERIFY(!panel->rows()[0].state->text().contains("OUT"));
        QVERIFY(w.wait_judged());
        QVERIFY2(panel->field_words()->text().startsWith("As built: "),
                 qPrintable(panel->field_words()->text()));
        QCOMPARE(w.recorder().verdict()->built.differences.size(), std::size_t{2});
        QTest::mouseClick(steps->findChild<QPushButton*>("reworkHold"), Qt::LeftButton);
        QVERIFY(panel->hold_words()->text().contains("still open"));
        QTest::mouseClick(steps->findChild<QPushButton*>("acceptHold"), Qt::LeftButton);
        QVERIFY(panel->hold_words()->text().startsWith("Accepted"));
        QVERIFY(w.recorder().verification().holds() && w.recorder().log()->verify().holds());
        for (auto* button : panel->findChildren<QPushButton*>())
            if (button->isVisible()) QVERIFY2(button->height() >= 44, qPrintable(button->text()));
    }
    /// Two touches besides the value: Correct, and the reason. What was written stays.
    void a_reading_is_corrected_by_touch() {
        Saved w("breakwater");
        QVERIFY(w.recorder().begin(nlohmann::json::object()));
        auto* steps = w->work_page()->open_steps();
        steps->show_step(index_of(*steps, "screen-strip"));
        auto* panel = steps->record_panel();
        QVERIFY(!panel->rows()[0].correct->isVisible()); // nothing to correct yet
        panel->rows()[0].field->setText("58.8");
        QTest::mouseClick(panel->rows()[0].write, Qt::LeftButton);
        const auto first = *panel->rows()[0].written;
        QVERIFY(panel->rows()[0].correct->isVisible());
        panel->rows()[0].field->setText("85,8 cubits");
        QTest::mouseClick(panel->rows()[0].correct, Qt::LeftButton);
        QVERIFY(!panel->reasons()->isVisible()); // what cannot be read asks for no reason
        QCOMPARE(panel->rows()[0].field->text(), QString("85,8 cubits"));
        panel->rows()[0].field->setText("85.8");
        QTest::mouseClick(panel->rows()[0].correct, Qt::LeftButton);
        QVERIFY(panel->reasons()->isVisible());
        QPushButton* mistyped = nullptr;
        for (auto* button : panel->reasons()->findChildren<QPushButton*>()) {
            QVERIFY2(button->height() >= 44, qPrintable(button->text()));
            if (button->text() == "Mistyped") mistyped = button;
        }
        QVERIFY(mistyped);
        QTest::mouseClick(mistyped, Qt::LeftButton);
        QVERIFY(!panel->reasons()->isVisible());
        const auto* now = w.recorder().record()->last_of("mark", "screen edge A");
        QVERIFY(now);
        QCOMPARE(now->value(), 85.8);
        QVERIFY(now->corrects == first);
        QCOMPARE(now->why, std::string("mistyped"));
        QVERIFY(w.recorder().log()->find(first)); // it stays
        QCOMPARE(w.recorder().log()->find(first)->body()["value"].get<double>(), 58.8);
        QVERIFY(panel->rows()[0].field->text().isEmpty());
    }
    void what_was_not_measured_is_varied_on_demand() {
        Saved w("breakwater", true);
        QVERIFY(w.wait_judged());
        auto* button = w->record_page()->findChild<QPushButton*>("varyUnmeasured");
        auto* words = w->record_page()->findChild<QLabel*>("unmeasuredWords");
        QVERIFY(!w.recorder().verdict()->built.unmeasured.empty());
        QVERIFY(!button->isHidden() && words->isHidden());
        w.recorder().vary_unmeasured(16);
        QCOMPARE(button->text(), QString("Stop building"));
        QTRY_VERIFY_WITH_TIMEOUT(!w.recorder().is_varying(), test::patient(120000));
        const auto table = vary_unmeasured(*w.recorder().verdict(), 16, test::library(), 1);
        REQUIRE_OK(table);
        QCOMPARE(table->rows.size(), std::size_t{16});
        QCOMPARE(words->text(), QString::fromStdString(upper_first(unmeasured_words(*table))) + ".");
        // What was measured is not varied, and what changes the build makes the answer old.
        for (const auto& varied : table->plan.varied)
            QVERIFY2(!w.recorder().verdict()->built.measured_keys.contains(varied.key), varied.key.c_str());
        const auto html = w.folder.filePath("report.html");
        REQUIRE_OK(w->record_page()->save_report(html));
        QVERIFY(read_file(html.toStdString())->find("of what was not measured fall short") !=
                std::string::npos);
        w.recorder().vary_unmeasured(4096);
        QVERIFY(w.recorder().is_varying());
        const auto* edge = w.recorder().record()->last_of("mark", "screen edge A");
        QVERIFY(w.recorder().correct(edge->number, edge->value() + 0.6, "read wrongly"));
        QVERIFY(!w.recorder().is_varying());
        QVERIFY(w.recorder().unmeasured_words().isEmpty());
        QVERIFY(words->isHidden());
    }
    void a_slow_test_shows_its_field_beside_that_of_the_grid() {
        Saved w("quay-mast");
        auto* tests = w->record_page()->open_tests();
        const auto& all = tests->tests();
        const auto slow = std::find_if(
            all.begin(), all.end(), [](const auto& t) { return t.frequency_hz > 0 && t.frequency_hz < 1; });
        QVERIFY(slow != all.end());
        tests->choose(static_cast<int>(slow - all.begin()));
        QTRY_VERIFY_WITH_TIMEOUT(tests->field(), test::patient(60000));
        const auto& field = *tests->field();
        QCOMPARE(field.test_hz, slow->frequency_hz);
        QCOMPARE(field.at_power->prepared.design.duty.frequency_hz, field.power_hz);
        QCOMPARE(field.at_test->prepared.design.duty.frequency_hz, field.test_hz);
        QVERIFY(!field.rows.empty());
        tests->choose(static_cast<int>(slow == all.begin() ? 1 : 0));
        QVERIFY(!tests->field());
    }
    void the_tape_reader_fills_the_next_field() {
        Saved w("breakwater");
        QVERIFY(w.recorder().begin({{"place", "pit 3"}}));
        auto* steps = w->work_page()->open_steps();
        steps->show_step(index_of(*steps, "screen-strip"));
        auto* panel = steps->record_panel();
        Instrument tape("tape",
                        {"--length", "85.5", "--spread", "0", "--serial", "T-8", "--due", "2020-01-01"});
        QCOMPARE(w.recorder().port().open(tape.port), QString());
        QTRY_VERIFY_WITH_TIMEOUT(w.recorder().port().identity().has_value(), test::patient(5000));
        QVERIFY(panel->findChild<QLabel*>("portState")->text().contains("OUT OF CALIBRATION"));
        w.recorder().port().send("R");
        QTRY_COMPARE_WITH_TIMEOUT(panel->rows()[0].field->text(), QString("85.50"), test::patient(5000));
        QTest::mouseClick(panel->rows()[0].write, Qt::LeftButton);
        const auto* reading = w.recorder().record()->last_of("mark", "screen edge A");
        QVERIFY(reading && reading->instrument);
        QCOMPARE(reading->value(), 85.5);
        QCOMPARE(w.recorder().log()->find(*reading->instrument)->body()["serial"].get<std::string>(),
                 std::string("T-8"));
        SearchQuery due;
        due.out_of_calibration = true;
        QCOMPARE(search_logs(w.folder.path().toStdString(), due)->found.size(), std::size_t{1});
    }
    void faults_of_instruments_are_said_and_nothing_of_them_is_written_data() {
        QTest::addColumn<QStringList>("fault");
        QTest::addColumn<QString>("words");
        QTest::newRow("stale") << QStringList{"--stale", "1"} << "second time";
        QTest::newRow("garbled") << QStringList{"--garble", "1"} << "cut or garbled";
        QTest::newRow("wrong unit") << QStringList{"--wrong-unit", "furlong"} << "no unit known";
        QTest::newRow("nonsense") << QStringList{"--nonsense", "1"} << "no reading";
        QTest::newRow("low battery") << QStringList{"--low-battery"} << "battery is low";
        QTest::newRow("inches") << QStringList{"--wrong-unit", "in"} << "sent in in";
    }
    void faults_of_instruments_are_said_and_nothing_of_them_is_written() {
        QFETCH(QStringList, fault);
        QFETCH(QString, words);
        Instrument tape("tape", QStringList{"--length", "3.5", "--spread", "0"} + fault);
        app::InstrumentPort port;
        QStringList said;
        int readings = 0;
        connect(&port, &app::InstrumentPort::trouble, this, [&](const QString& w) { said << w; });
        connect(&port, &app::InstrumentPort::reading, this, [&](const InstrumentReading& r) {
            ++readings;
            for (const auto& remark : r.remarks) said << QString::fromStdString(remark);
            if (fault.contains("in")) QVERIFY(std::abs(r.value - 3.5 * 25.4) < 1e-6);
        });
        QCOMPARE(port.open(tape.port), QString());
        for (int i = 0; i < 2; ++i) {
            QTest::qWait(150);
            port.send("R");
        }
        QVERIFY2(QTest::qWaitFor([&] { return said.join("\n").contains(words); }, test::patient(5000)),
                 qPrintable(said.join("\n")));
        QVERIFY(readings <= 2);
        if (words == "cut or garbled" || words == "no unit known") QCOMPARE(readings, 0);
    }
    void an_instrument_that_goes_away_is_said() {
        app::InstrumentPort port;
        QSignalSpy lost(&port, &app::InstrumentPort::lost);
        {
            Instrument tape("tape", {});
            QCOMPARE(port.open(tape.port), QString());
        }
        QVERIFY(lost.count() || lost.wait(test::patient(5000)));
        QVERIFY(!port.is_open());
        QVERIFY(!port.open("/dev/no-such-port").isEmpty());
    }
    void a_withstand_set_runs_the_test_of_the_plan_data() {
        QTest::addColumn<QStringList>("more");
        QTest::addColumn<QString>("result");
        QTest::newRow("held") << QStringList{} << "Passed";
        QTest::newRow("breakdown") << QStringList{"--breakdown-s", "100"} << "Failed: breakdown";
        QTest::newRow("leakage") << QStringList{"--resistance", "20"} << "Failed";
        QTest::newRow("lost lines") << QStringList{"--drop", "0.1", "--garble", "0.05"} << "Passed";
    }
    void a_withstand_set_runs_the_test_of_the_plan() {
        QFETCH(QStringList, more);
        QFETCH(QString, result);
        Saved w("breakwater");
        QVERIFY(w.recorder().begin(nlohmann::json::object()));
        auto* tests = w->record_page()->open_tests();
        int at = -1;
        for (std::size_t i = 0; i < tests->tests().size(); ++i)
            if (tests->tests()[i].id == "withstand") at = static_cast<int>(i);
        QVERIFY(at >= 0);
        tests->choose(at);
        Instrument set("withstand", QStringList{"--speed", "3000"} + more);
        QCOMPARE(tests->port_says(set.port), QString("Listening."));
        QSignalSpy ended(tests, &app::TestWindow::ended);
        tests->start();
        QVERIFY(tests->is_running());
        QVERIFY(ended.wait(test::patient(60000)));
        QVERIFY2(tests->result().startsWith(result), qPrintable(tests->result()));
        QVERIFY(tests->write_result());
        QCOMPARE(w.recorder().record()->tests.size(), std::size_t{1});
        const auto& row = w.recorder().record()->tests.front();
        QCOMPARE(row.text("result"), std::string(result == "Passed" ? "pass" : "fail"));
        QVERIFY(row.body["trace"].size() > 50 && row.body["trace"].size() <= 2001);
        QCOMPARE(row.body["readings"].size(), row.body["trace"].size());
    }
    void a_test_is_stopped_by_hand_typed_or_read_from_a_file() {
        Saved w("breakwater");
        QVERIFY(w.recorder().begin(nlohmann::json::object()));
        auto* tests = w->record_page()->open_tests();
        const auto index = [&](const char* id) {
            for (std::size_t i = 0; i < tests->tests().size(); ++i)
                if (tests->tests()[i].id == id) return static_cast<int>(i);
            return -1;
        };
        tests->choose(index("withstand"));
        Instrument set("withstand", {"--speed", "200"});
        tests->port_says(set.port);
        QSignalSpy ended(tests, &app::TestWindow::ended);
        tests->start();
        QVERIFY(QTest::qWaitFor([&] { return tests->trace().size() > 40; }, test::patient(20000)));
        tests->abort();
        QVERIFY(ended.wait(test::patient(5000)));
        QVERIFY2(tests->result().startsWith("Aborted"), qPrintable(tests->result()));
        // Who stops listening, or closes the window, does not leave a test running.
        tests->start();
        QVERIFY(QTest::qWaitFor([&] { return tests->trace().size() > 5; }, test::patient(20000)));
        QPointer<app::TestWindow> closed = tests;
        tests->close();
        QVERIFY(!tests->is_running());
        QTRY_VERIFY_WITH_TIMEOUT(!closed, test::patient(5000));
        tests = w->record_page()->open_tests();
        tests->choose(index("withstand"));
        tests->port_says(set.port);
        QSignalSpy again(tests, &app::TestWindow::ended);
        tests->start(); // the set answers: it was stopped
        QVERIFY2(QTest::qWaitFor([&] { return tests->trace().size() > 40; }, test::patient(6000)),
                 qPrintable(QString("%1 %2 %3 | %4")
                                .arg(tests->is_running())
                                .arg(tests->trace().size())
                                .arg(tests->result(), tests->state())));
        tests->abort();
        QVERIFY(again.count() || again.wait(test::patient(5000)));
        QVERIFY(tests->result().startsWith("Aborted"));
        const auto file = w.folder.filePath("trace.csv");
        REQUIRE_OK(tests->save_trace(file));
        REQUIRE_OK(tests->load_trace(file));
        QVERIFY(tests->result().startsWith("Aborted"));
        std::ofstream(file.toStdString()) << "time_s,level\n1,2\n";
        const auto bad = tests->load_trace(file);
        QVERIFY(!bad && bad.error().message().find("reading") != std::string::npos);
        tests->choose(index("insulation-resistance"));
        tests->type_reading("nothing");
        QCOMPARE(tests->result(), QString());
        tests->type_reading("900 Mohm");
        QVERIFY(tests->result().startsWith("Failed"));
        tests->type_reading("4200");
        QVERIFY(tests->result().startsWith("Passed"));
        QVERIFY(tests->write_result());
    }
    void every_instrument_speaks_through_its_terminal_data() {
        QTest::addColumn<QString>("program");
        QTest::addColumn<QString>("unit");
        QTest::newRow("tape") << "tape"
                              << "mm";
        QTest::newRow("continuity") << "continuity"
                                    << "ohm";
        QTest::newRow("insulation") << "insulation"
                                    << "Mohm";
        QTest::newRow("withstand") << "withstand"
                                   << "mA";
        QTest::newRow("discharge") << "discharge"
                                   << "pC";
        QTest::newRow("caliper") << "caliper"
                                 << "mm";
    }
    void every_instrument_speaks_through_its_terminal() {
        QFETCH(QString, program);
        QFETCH(QString, unit);
        Instrument one(program.toLatin1(), program == "caliper" ? QStringList{"--numbered"} : QStringList{});
        app::InstrumentPort port;
        QSignalSpy read(&port, &app::InstrumentPort::reading);
        QCOMPARE(port.open(one.port), QString());
        QTRY_VERIFY_WITH_TIMEOUT(port.identity().has_value(), test::patient(5000));
        QVERIFY(!port.identity()->kind.empty() && !port.identity()->serial.empty());
        port.send("R");
        QVERIFY(read.wait(test::patient(5000)));
        QCOMPARE(read.first().first().value<InstrumentReading>().unit, unit.toStdString());
    }
    /// Model against model: the stand-in is driven by the same voids, so that its inception is the predicted
    /// one.
    void the_discharge_meter_is_driven_by_the_voids_as_built() {
        Saved w("breakwater");
        QVERIFY(w.recorder().begin(nlohmann::json::object()));
        auto* tests = w->record_page()->open_tests();
        int at = -1;
        for (std::size_t i = 0; i < tests->tests().size(); ++i)
            if (tests->tests()[i].set == "pd") at = static_cast<int>(i);
        tests->choose(at);
        Instrument meter("discharge", {"--job", Saved::test_demo("osprey-point.ngjob"), "--design",
                                       "breakwater", "--speed", "2000"});
        QVERIFY(meter.port.startsWith("/dev/"));
        tests->port_says(meter.port);
        QSignalSpy ended(tests, &app::TestWindow::ended);
        tests->start();
        QVERIFY(ended.wait(test::patient(60000)));
        QVERIFY(tests->write_result());
        const auto& row = w.recorder().record()->tests.front();
        QVERIFY2(row.body.contains("pattern") && row.body["pattern"].size() > 20,
                 row.body.dump().substr(0, 300).c_str());
    }
    void a_log_of_another_job_is_left_alone() {
        Saved w("breakwater");
        {
            auto log = Log::create(w.log_path().toStdString(), {"jointer", "XY"}, "Some other job");
            auto job = test::demo_job();
            auto design = *job.find_design("quay-mast");
            design.id = "elsewhere";
            job.designs = {design};
            const auto row =
                log->append(begin_accessory(job, design, {"jointer", "XY"}, nlohmann::json::object()));
            REQUIRE_OK(row);
        }
        const auto before = *read_file(w.log_path().toStdString());
        w.session().document.show_design("causeway");
        QVERIFY2(w.recorder().trouble().contains("another job"), qPrintable(w.recorder().trouble()));
        QVERIFY(!w.recorder().begin(nlohmann::json::object()));
        QCOMPARE(QByteArray::fromStdString(*read_file(w.log_path().toStdString())),
                 QByteArray::fromStdString(before));
    }
    void a_changed_log_says_so_in_the_window_and_is_not_written_to() {
        Saved plain("breakwater", true);
        QVERIFY(plain.wait_verified());
        QVERIFY(plain.recorder().verification().holds());
        QTemporaryDir folder;
        const auto job = folder.filePath("job.ngjob"), log = folder.filePath("job.nglog");
        QFile::copy(Saved::test_demo("osprey-point.ngjob"), job);
        QFile::copy(Saved::test_demo("osprey-point.nglog"), log);
        for (const auto& f : {job, log}) QFile::setPermissions(f, QFile::ReadOwner | QFile::WriteOwner);
        {
            SQLite::Database db(log.toStdString(), SQLite::OPEN_READWRITE);
            db.exec("DROP TRIGGER entry_unchanged");
            db.exec("UPDATE entry SET body = replace(body, 'as it should be', 'as it could be') WHERE number "
                    "= 20");
        }
        Window w;
        w->open_file(job);
        QTRY_VERIFY_WITH_TIMEOUT(!w->recorder().is_verifying(), test::patient(20000));
        QVERIFY2(w->banner_text().contains("row 20 was changed"), qPrintable(w->banner_text()));
        QVERIFY(w->record_page()->chain_words().contains("DOES NOT VERIFY"));
        EntryDraft note;
        note.kind = "note";
        note.body = {{"text", "x"}};
        w.session().document.show_design("breakwater");
        QVERIFY(!w->recorder().write(note));
    }
    void two_windows_see_one_anothers_rows() {
        Saved w("breakwater");
        QVERIFY(w.recorder().begin(nlohmann::json::object()));
        auto other = Log::open(w.log_path().toStdString());
        REQUIRE_OK(other);
        EntryDraft note;
        note.kind = "note";
        note.who = {"inspector", "KL"};
        note.accessory = w.recorder().record()->number;
        note.body = {{"text", "from the other window"}};
        const auto row = other->append(note);
        REQUIRE_OK(row);
        QTRY_VERIFY_WITH_TIMEOUT(!w.recorder().record()->notes.empty(), test::patient(6000));
        QVERIFY(w->record_page()->list()->count() >= 2);
    }
    void a_correction_opens_a_sign_off_again_and_the_report_says_all() {
        Saved w("breakwater", true);
        QVERIFY(w.recorder().record());
        QVERIFY(w.recorder().record()->signed_off("built"));
        auto* page = w->record_page();
        const auto* edge = w.recorder().record()->last_of("mark", "screen edge A");
        QVERIFY(edge);
        QVERIFY(!w.recorder().correct(edge->number, 84.9, "")); // without a reason
        QVERIFY(w.recorder().correct(edge->number, 84.5, "second reading"));
        QVERIFY(!w.recorder().record()->signed_off("built"));
        QVERIFY(w->findChild<QLabel*>("signedWords")->text().contains("opened again"));
        w.recorder().set_who({"jointer", "JB"});
        QVERIFY(w.recorder().sign("built", ""));
        QVERIFY(w.recorder().record()->signed_off("built"));
        QVERIFY(w.wait_judged());
        const auto html = w.folder.filePath("report.html"), csv = w.folder.filePath("rows.csv");
        REQUIRE_OK(page->save_report(html));
        REQUIRE_OK(page->save_report(csv));
        const auto text = QString::fromStdString(*read_file(html.toStdString()));
        for (const char* words : {"As-built report", "REWORK", "OPENED AGAIN", "second reading",
                                  "Withstand at 0.1 Hz", "taken as designed"})
            QVERIFY2(text.contains(words), words);
        QVERIFY(text.contains(QString::fromStdString(w.recorder().log()->last().words())));
    }
    void parts_notes_readings_and_faults_are_written_and_judged() {
        Saved w("breakwater");
        QVERIFY(w.recorder().begin(nlohmann::json::object()));
        auto* entry = w->record_page()->entry();
        using Kind = app::RecordEntry::Kind;
        QVERIFY(entry->add(Kind::note, "rain stopped at nine", ""));
        QVERIFY(entry->add(Kind::part, "body, size 2", "2611"));
        QVERIFY(entry->add(Kind::temperature, "air", "14 °C"));
        QVERIFY(!entry->add(Kind::torque, "bolt 1", "tight"));
        QVERIFY(w->banner_text().contains("Torque"));
        QVERIFY(!entry->add(Kind::note, "  ", ""));
        const auto record = w.recorder().record();
        QCOMPARE(record->notes.size(), std::size_t{1});
        QCOMPARE(record->parts.size(), std::size_t{1});
        QCOMPARE(record->readings.size(), std::size_t{1});
        QCOMPARE(entry->faults()->count(), 3); // those of the demo
        QVERIFY(entry->add(Kind::fault, "", ""));
        QVERIFY(w.wait_judged());
        QCOMPARE(w.recorder().verdict()->built.job.find_design("breakwater")->faults.size(), std::size_t{1});
        std::ofstream(w.folder.filePath("edge.txt").toStdString()) << "a picture, say";
        QVERIFY(w.recorder().write_file(w.folder.filePath("edge.txt"), "the edge"));
        const auto kept = QString::fromStdString(w.recorder().log()->last().words());
        QVERIFY(w.recorder().verify_against(kept).contains("every row"));
        QVERIFY(w.recorder().verify_against("9999:" + kept.section(':', 1)).contains("cut off"));
        QVERIFY(w.recorder().verify_against("nonsense").contains("64 hexadecimal"));
    }
    void rows_are_found_and_charted_in_the_window() {
        Saved w("breakwater", true);
        auto* trends = w->record_page()->open_trends();
        QVERIFY(trends->table()->rowCount() > 40);
        QTest::keyClicks(trends->words_field(), "2611 connector");
        QTest::keyClick(trends->words_field(), Qt::Key_Return);
        QCOMPARE(trends->table()->rowCount(), 1);
        QCOMPARE(trends->trends().groups.size(), std::size_t{1});
        QCOMPARE(trends->trends().groups[0].chart.values.size(), std::size_t{3});
        trends->set_folder("/nowhere/at/all");
        QVERIFY(trends->summary().contains("no such folder"));
    }
    void a_saved_demo_takes_its_record_along_and_a_new_job_wants_saving_first() {
        QTemporaryDir folder;
        Window w;
        QVERIFY(w->save_to(folder.filePath("mine.ngjob")));
        w.session().document.show_design("breakwater");
        QVERIFY(QFile::exists(folder.filePath("mine.nglog")));
        QVERIFY(w->recorder().record());
        w.session().document.start_new();
        QVERIFY(!w->recorder().record());
        QVERIFY(w->recorder().trouble().contains("Save the job first"));
    }
};

QTEST_MAIN(TestRecording)
#include "test_recording.moc"
