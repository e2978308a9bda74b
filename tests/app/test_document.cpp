// The document behind the window: undo, merge, autosave, recovery, lock.
#include "app/application.h"
#include "app/model/document.h"
#include "support.h"
#include <QApplication>
#include <QStandardPaths>
#include <QTemporaryDir>

using namespace ng;
using app::Document;

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
    void work_of_a_crash_is_recovered() {
        const auto path = dir_.filePath("crash.ngjob");
        {
            Document d;
            REQUIRE_OK(d.open_copy(demo));
            REQUIRE_OK(d.save_as(path));
            set(d, 377);
            d.autosave_now();
        } // destroyed without close(): as a crash leaves it
        Document d;
        REQUIRE_OK(d.open(path));
        QVERIFY(!d.design().numbers.contains("jacket_cut_mm"));
        QVERIFY(d.has_recovery(path));
        d.recover(path);
        QCOMPARE(value(d), 377.0);
        QVERIFY(d.is_changed());
        REQUIRE_OK(d.save());
        QVERIFY(!d.has_recovery(path));
    }
    void closing_properly_leaves_no_recovery() {
        const auto path = dir_.filePath("closed.ngjob");
        Document d;
        REQUIRE_OK(d.open_copy(demo));
        REQUIRE_OK(d.save_as(path));
        set(d, 377);
        d.autosave_now();
        QVERIFY(d.has_recovery(path));
        d.close();
        QVERIFY(!d.has_recovery(path));
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
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    ng::app::prepare_application(application);
    TestDocument test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_document.moc"
