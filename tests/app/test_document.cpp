// The document behind the window: undo, merge, autosave, recovery, lock.
#include "app/application.h"
#include "app/model/session.h"
#include "app/model/time_left.h"
#include "support.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QFile>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QThread>

using namespace ng;
using app::Document;
using app::SafetyCopy;

namespace {

const QString demo = NEEDLEGAUGE_DATA_DIR "/demo/osprey-point.ngjob";

void set(Document& d, double value, const QString& merge = {}) {
    const auto id = d.job().open_design;
    d.edit("Set", merge, [&](Job& job) { job.find_design(id)->numbers["jacket_cut_mm"] = value; });
}
double value(const Document& d) {
    return d.design().numbers.at("jacket_cut_mm");
}

} // namespace

class TestDocument : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
  private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }
    void every_edit_can_be_undone_and_redone() {
        Document d;
        set(d, 310);
        set(d, 320);
        d.undo_stack()->undo();
        QCOMPARE(value(d), 310.0);
        d.undo_stack()->undo();
        QVERIFY(!d.design().numbers.contains("jacket_cut_mm"));
        d.undo_stack()->redo();
        d.undo_stack()->redo();
        QCOMPARE(value(d), 320.0);
    }
    void one_gesture_is_one_step() {
        Document d;
        d.begin_gesture();
        for (int i = 0; i < 20; ++i) set(d, 300 + i, "drag");
        QCOMPARE(d.undo_stack()->count(), 1);
        d.begin_gesture();
        set(d, 400, "drag");
        QCOMPARE(d.undo_stack()->count(), 2);
        d.undo_stack()->undo();
        QCOMPARE(value(d), 319.0);
    }
    void an_edit_that_changes_nothing_is_no_step() {
        Document d;
        set(d, 310);
        set(d, 310);
        QCOMPARE(d.undo_stack()->count(), 1);
    }
    void undo_has_a_budget() {
        Document d;
        for (int i = 0; i < app::most_undo_steps + 50; ++i) set(d, 300 + i);
        QCOMPARE(d.undo_stack()->count(), app::most_undo_steps);
        while (d.undo_stack()->canUndo()) d.undo_stack()->undo();
        QCOMPARE(value(d), 349.0);
        QVERIFY(d.is_changed());
    }
    void save_reopen_and_the_star() {
        const auto path = dir_.filePath("a.ngjob");
        Document d;
        REQUIRE_OK(d.open_copy(demo));
        QVERIFY(d.path().isEmpty() && !d.is_changed());
        set(d, 333);
        QVERIFY(d.is_changed());
        REQUIRE_OK(d.save_as(path));
        QVERIFY(!d.is_changed());
        Document other;
        QVERIFY(!other.open(path)); // held by the first
        d.start_new();
        REQUIRE_OK(other.open(path));
        QCOMPARE(value(other), 333.0);
    }
    void a_refused_file_leaves_the_open_job() {
        Document d;
        set(d, 310);
        QVERIFY(!d.open(dir_.filePath("none.ngjob")));
        QCOMPARE(value(d), 310.0);
        QVERIFY(!d.save_as("/proc/none/x.ngjob"));
        QVERIFY(d.is_changed());
        QVERIFY(d.path().isEmpty());
    }
    void work_of_a_crash_is_offered_until_answered() {
        const auto path = dir_.filePath("crash.ngjob");
        {
            Document d;
            REQUIRE_OK(d.open_copy(demo));
            REQUIRE_OK(d.save_as(path));
            set(d, 377);
            d.set_typed("“25.” in “Insulation”");
            d.autosave_now();
            QVERIFY(SafetyCopy::left_for(path).empty()); // its session runs
        }                                                // destroyed without close(): as a crash leaves it
        Document d;
        REQUIRE_OK(d.open(path));
        QVERIFY(!d.design().numbers.contains("jacket_cut_mm"));
        auto left = SafetyCopy::left_for(path);
        QCOMPARE(left.size(), std::size_t(1));
        QVERIFY(left[0].kept.isValid() && left[0].saved.isValid());
        QCOMPARE(left[0].typed, QString("“25.” in “Insulation”"));
        QCOMPARE(left[0].differences(d.job()).size(), 1);
        QVERIFY(left[0].differences(d.job())[0].contains("377"));
        // Editing, keeping and saving other work leaves the copy that nobody has answered for.
        set(d, 311);
        d.autosave_now();
        REQUIRE_OK(d.save());
        QCOMPARE(SafetyCopy::left_for(path).size(), std::size_t(1));
        d.recover(left[0]);
        QCOMPARE(value(d), 377.0);
        QVERIFY(d.is_changed());
        QVERIFY(SafetyCopy::left_for(path).empty());
        REQUIRE_OK(d.save());
        QVERIFY(!d.is_changed());
    }
    void a_damaged_copy_is_said() {
        const auto path = dir_.filePath("damaged.ngjob");
        {
            Document d;
            REQUIRE_OK(d.open_copy(demo));
            REQUIRE_OK(d.save_as(path));
            set(d, 377);
            d.autosave_now();
        }
        auto left = SafetyCopy::left_for(path);
        QCOMPARE(left.size(), std::size_t(1));
        QFile file(left[0].file);
        QVERIFY(file.resize(file.size() / 2));
        left = SafetyCopy::left_for(path);
        QCOMPARE(left.size(), std::size_t(1));
        QVERIFY(!left[0].job && !left[0].damage.isEmpty());
        SafetyCopy::throw_away(left[0]);
        QVERIFY(SafetyCopy::left_for(path).empty());
    }
    void sessions_never_share_a_copy() {
        auto first = std::make_unique<Document>(), second = std::make_unique<Document>();
        set(*first, 301);
        first->autosave_now();
        set(*second, 302);
        second->autosave_now();
        QVERIFY(SafetyCopy::left_for({}).empty()); // both run
        second->close();
        first.reset();
        const auto left = SafetyCopy::left_for({});
        QCOMPARE(left.size(), std::size_t(1));
        QCOMPARE(left[0].job->designs[0].numbers.at("jacket_cut_mm"), 301.0);
        SafetyCopy::throw_away(left[0]);
    }
    void steady_edits_are_kept_while_they_go_on() {
        auto d = std::make_unique<Document>();
        QElapsedTimer clock;
        clock.start();
        int kept = 0;
        for (int i = 0; clock.elapsed() < 2900; ++i) { // an edit every 100 ms: never 2 s of rest
            set(*d, 300 + i);
            QTest::qWait(100);
            if (kept == 0 && i > 0) kept = d->has_safety_copy() ? i : 0;
        }
        QVERIFY(kept > 0);
        d->close();
        QVERIFY(!d->has_safety_copy());
    }
    void a_file_changed_underneath_is_noticed_and_both_are_kept() {
        const auto path = dir_.filePath("two.ngjob");
        Document d;
        REQUIRE_OK(d.open_copy(demo));
        REQUIRE_OK(d.save_as(path));
        QVERIFY(!d.file_changed_outside());
        auto theirs = *load_job(path.toStdString());
        theirs.title = "Theirs";
        REQUIRE_OK(save_job(theirs, path.toStdString()));
        QVERIFY(d.file_changed_outside());
        set(d, 345);
        const auto saved = d.save();
        REQUIRE_OK(saved);
        QVERIFY(!d.kept_beside().isEmpty());
        QCOMPARE(load_job(dir_.filePath(d.kept_beside()).toStdString())->title, std::string("Theirs"));
        QVERIFY(load_job(path.toStdString())->title != "Theirs");
        set(d, 346);
        REQUIRE_OK(d.save());
        QVERIFY(d.kept_beside().isEmpty());
    }
    void two_names_of_one_file_are_one_file() {
        const auto path = dir_.filePath("real.ngjob"), link = dir_.filePath("link.ngjob");
        Document d;
        REQUIRE_OK(d.open_copy(demo));
        REQUIRE_OK(d.save_as(path));
        QVERIFY(QFile::link(path, link));
        Document other;
        const auto refused = other.open(link);
        QVERIFY(!refused && refused.error().problem.find("another window") != std::string::npos);
        QVERIFY(!other.save_as(link));
        d.start_new();
        REQUIRE_OK(other.open(link));
    }
    void closing_properly_leaves_no_copy() {
        const auto path = dir_.filePath("closed.ngjob");
        Document d;
        REQUIRE_OK(d.open_copy(demo));
        REQUIRE_OK(d.save_as(path));
        set(d, 377);
        d.autosave_now();
        QVERIFY(d.has_safety_copy());
        d.close();
        QVERIFY(!d.has_safety_copy());
        QVERIFY(SafetyCopy::left_for(path).empty());
    }
    void designs_and_cables_are_duplicated_and_deleted() {
        Document d;
        REQUIRE_OK(d.open_copy(demo));
        const auto before = d.job().designs.size();
        d.duplicate_design();
        QCOMPARE(d.job().designs.size(), before + 1);
        QCOMPARE(d.design().title, std::string("Ramp pole, feeder A (copy)"));
        d.duplicate_cable();
        QCOMPARE(d.cable().id, std::string("feeder-a-2"));
        d.delete_design();
        QCOMPARE(d.job().designs.size(), before);
        d.undo_stack()->undo();
        d.undo_stack()->undo();
        d.undo_stack()->undo();
        QCOMPARE(d.design().id, std::string("ramp-pole"));
        QCOMPARE(write_job(d.job()).dump(), write_job(test::demo_job()).dump());
    }
    /// What is about to be opened is solved beforehand, once, and refined when its picture has been painted;
    /// the job to begin with, which nobody sees then, is not.
    void what_is_opened_first_is_solved_beforehand() {
        app::Session session(test::library(), *load_job(demo.toStdString()));
        QTest::qWait(0);
        REQUIRE_OK(session.document.open_copy(demo));
        QVERIFY(session.is_refining());
        QTRY_VERIFY_WITH_TIMEOUT(session.solved(), test::patient(20000));
        QCOMPARE(session.solved()->prepared, session.prepared()); // what was foreseen is what is shown
        QVERIFY(session.solved()->coarse);
        QCOMPARE(session.solved()->prepared->design.id, std::string("ramp-pole"));
        // It waits until the picture is painted.
        QTest::qWait(300);
        QVERIFY(session.solved()->coarse && session.is_refining());
        session.go_on_refining();
        QTRY_VERIFY_WITH_TIMEOUT(!session.solved()->coarse, test::patient(60000));
        // An edit is solved and refined as ever.
        session.set_number("edge_radius_mm", 0.4, "edge radius");
        QTRY_VERIFY_WITH_TIMEOUT(session.is_current() && !session.solved()->coarse, test::patient(60000));
    }
    /// What is left is told by the time that is worked, not by that of a pause.
    void the_clock_of_what_is_left_stands_while_work_is_paused() {
        app::Worker worker;
        worker.start([](const CancelFlag& cancel) {
            while (!cancel) QThread::msleep(1);
        });
        const app::TimeLeft left(&worker);
        QElapsedTimer wall;
        wall.start();
        worker.pause();
        QVERIFY(worker.is_paused());
        QTest::qWait(600);
        worker.go_on();
        QVERIFY(!worker.is_paused());
        QVERIFY2(1e-3 * static_cast<double>(wall.elapsed()) - left.elapsed_s() > 0.55,
                 qPrintable(QString::number(left.elapsed_s())));
        worker.stop();
    }
    /// What a thread hands over is run on this one, in its order; that of a worker which is gone never is.
    void what_is_found_is_handed_over_in_order() {
        std::vector<int> seen;
        const auto* here = QThread::currentThread();
        bool elsewhere = false;
        {
            app::Worker worker;
            worker.start([&](const CancelFlag&) {
                for (int i = 0; i < 100; ++i)
                    worker.hand_over([&, i] {
                        elsewhere |= QThread::currentThread() != here;
                        seen.push_back(i);
                    });
            });
            QTRY_COMPARE_WITH_TIMEOUT(seen.size(), std::size_t{100}, test::patient(5000));
            worker.start([&](const CancelFlag&) { worker.hand_over([&] { seen.push_back(-1); }); });
        }
        QCoreApplication::processEvents();
        QVERIFY(!elsewhere && std::ranges::is_sorted(seen));
        QCOMPARE(seen.size(), std::size_t{100});
    }
    /// An exception that leaves the work is said, here.
    void work_that_throws_says_so() {
        app::Worker worker;
        QString said;
        connect(&worker, &app::Worker::failed, [&](const QString& why) { said = why; });
        worker.start([](const CancelFlag&) { throw std::runtime_error("a seam has come undone"); });
        QTRY_VERIFY_WITH_TIMEOUT(said.contains("a seam has come undone"), test::patient(5000));
        QVERIFY(!worker.is_running());
    }
    void another_job_than_was_foreseen_is_solved_too() {
        auto other = test::demo_job();
        other.open_design = "quay-mast";
        app::Session session(test::library(), other);
        REQUIRE_OK(session.document.open_copy(demo));
        // Nobody paints it here: it is refined all the same, a little later.
        QTRY_VERIFY_WITH_TIMEOUT(session.is_current() && !session.solved()->coarse, test::patient(60000));
        QCOMPARE(session.solved()->prepared->design.id, std::string("ramp-pole"));
    }
    void nothing_opened_is_the_job_to_begin_with() {
        app::Session session(test::library());
        QVERIFY(!session.is_refining());
        QTRY_VERIFY_WITH_TIMEOUT(session.is_current() && !session.solved()->coarse, test::patient(60000));
        QCOMPARE(session.solved()->prepared->design.id, new_job().open_design);
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    ng::app::prepare_application(application);
    TestDocument test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_document.moc"
