// Stage Tolerances as its users have it: builds that are paused and gone on with, windows, what varies, the
// range, other classes.
#include "app/stages/tolerance_page.h"
#include "io/file.h"
#include "study/study.h"
#include "window_support.h"
#include <QComboBox>
#include <QDir>
#include <QLineEdit>
#include <QPushButton>
#include <QRegularExpression>
#include <QTemporaryDir>

using namespace ng;
using ng::test::Window;

namespace {

QString studies_folder() {
    return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + "/studies";
}
void forget_kept_builds() {
    QDir(studies_folder()).removeRecursively();
}

/// Opens a design's tolerances and runs one of its studies to its end. False: it was saved before it was
/// solved, or never ended.
bool solves(Window& w, const char* design, app::StudyPanel& panel) {
    w.session().document.show_design(design);
    if (!w.wait_refined()) return false;
    QTest::keyClick(w.window.get(), Qt::Key_T, Qt::ControlModifier);
    if (panel.save("nothing.svg")) return false; // nothing is solved yet
    QSignalSpy finished(&panel, &app::StudyPanel::finished);
    panel.run();
    return finished.wait(test::patient(120000));
}

} // namespace

class TestStudies : public QObject {
    Q_OBJECT
  private slots:
    /// Builds grow on the histogram, the worst opens as a design of its own, windows stand on TAPE and the
    /// sheet.
    void a_thousand_builds_and_the_windows_of_marks() {
        Window w;
        w.session().document.show_design("ring-switch");
        QVERIFY(w.wait_refined());
        QTest::keyClick(w.window.get(), Qt::Key_T, Qt::ControlModifier);
        auto* page = w->tolerance_page();
        QVERIFY(page->isVisible());
        auto& builds = page->builds();
        forget_kept_builds();
        QSignalSpy finished(&builds, &app::StudyPanel::finished),
            found(&page->windows(), &app::StudyPanel::finished);
        builds.set_samples(0);
        builds.run();
        QVERIFY(finished.wait(test::patient(120000)));
        QVERIFY2(builds.shares().size() > 40, qPrintable(builds.said()));
        QVERIFY2(builds.said().contains("Falls short: none of 6") && builds.said().contains("at 95 % below"),
                 qPrintable(builds.said()));
        // As drawing and as rows, which are those that the command line writes.
        QTemporaryDir folder;
        REQUIRE_OK(builds.save(folder.filePath("a.svg")));
        REQUIRE_OK(builds.save(folder.filePath("a.csv")));
        const auto rows = read_table(*read_file(folder.filePath("a.csv").toStdString()), "a.csv");
        REQUIRE_OK(rows);
        QCOMPARE(rows->rows.size(), std::size_t{64});
        QCOMPARE(shares_of_builds(*rows, summarise(*rows)).size(), builds.shares().size());
        page->windows().run();
        QVERIFY(found.wait(test::patient(180000)));
        QVERIFY2(page->windows().said().count('\n') >= 2, qPrintable(page->windows().said()));
        const auto accepted = [&] {
            return std::count_if(w.session().plan()->marks.begin(), w.session().plan()->marks.end(),
                                 [](const auto& m) { return m.accepted.has_value(); });
        };
        QVERIFY(accepted() >= 3);
        for (const auto& m : w.session().plan()->marks)
            if (m.accepted) {
                QVERIFY(m.accepted->towards_end_mm <= m.tolerance_mm &&
                        m.accepted->away_mm <= m.tolerance_mm);
                QVERIFY(m.accepted->words().find("the field") != std::string::npos);
            }
        const auto sheet = w.session().sheet();
        REQUIRE_OK(sheet);
        // Another number: they are of another design then.
        w.session().set_number("screen_edge_mm", 190, "screen edge");
        QCOMPARE(accepted(), 0);
        QVERIFY(builds.shares().empty());
        QVERIFY(!builds.save(folder.filePath("b.svg")));
        w.session().document.undo_stack()->undo();
        QVERIFY(accepted() >= 3);
        builds.run();
        QVERIFY(finished.wait(test::patient(120000)));
        const auto designs = w.session().document.job().designs.size();
        builds.open_worst();
        QCOMPARE(w.session().document.job().designs.size(), designs + 1);
        QVERIFY(w.design().title.find("worst") != std::string::npos);
    }
    /// Builds wait while they are paused, and go on with the rows that an earlier run left, also of a window
    /// that is gone.
    void builds_are_paused_and_go_on_where_they_stopped() {
        forget_kept_builds();
        const auto kept = [] {
            const QDir folder(studies_folder());
            const auto files = folder.entryList({"*.csv"});
            return files.size() == 1 ? read_file(folder.filePath(files.front()).toStdString()).value_or("")
                                     : std::string();
        };
        std::string before;
        {
            Window w;
            w.session().document.show_design("meter-panel");
            QVERIFY(w.wait_refined());
            QTest::keyClick(w.window.get(), Qt::Key_T, Qt::ControlModifier);
            auto& builds = w->tolerance_page()->builds();
            builds.set_samples(0);
            builds.run();
            QVERIFY(builds.is_running());
            QTRY_VERIFY_WITH_TIMEOUT(builds.said().contains(QRegularExpression("^[1-9]\\d* of 64 built")),
                                     test::patient(60000));
            builds.pause();
            QTRY_VERIFY_WITH_TIMEOUT(builds.said().startsWith("Paused: "), test::patient(5000));
            QTest::qWait(1000); // what was on its way ends
            before = kept();
            QTest::qWait(1000);
            QCOMPARE(kept(), before);
            QVERIFY2(builds.is_running() && builds.said().startsWith("Paused: "), qPrintable(builds.said()));
            builds.pause(); // goes on
            QTRY_VERIFY_WITH_TIMEOUT(kept().size() > before.size(), test::patient(60000));
            builds.cancel();
            QVERIFY(!builds.is_running());
            QVERIFY(builds.said().startsWith("Cancelled."));
            before = kept();
        }
        const auto half = read_table(before, "rows", false);
        REQUIRE_OK(half);
        QVERIFY2(half->rows.size() > 1 && half->rows.size() < 64,
                 qPrintable(QString::number(half->rows.size())));
        Window w;
        w.session().document.show_design("meter-panel");
        QVERIFY(w.wait_refined());
        auto& builds = w->tolerance_page()->builds();
        builds.set_samples(0);
        QSignalSpy finished(&builds, &app::StudyPanel::finished);
        builds.run();
        QVERIFY(finished.wait(test::patient(120000)));
        QVERIFY(kept().starts_with(before.substr(0, before.rfind('\n') + 1)));
        const auto whole = read_table(kept(), "rows");
        REQUIRE_OK(whole);
        QCOMPARE(whole->rows.size(), std::size_t{64});
    }
    /// What varies is changed in the window, with whose word it is, as a part of the design that no field
    /// hangs on.
    void what_varies_is_changed_in_the_window() {
        Window w;
        w.session().document.show_design("ramp-pole");
        QVERIFY(w.wait_refined());
        QTest::keyClick(w.window.get(), Qt::Key_T, Qt::ControlModifier);
        auto& editor = w->tolerance_page()->editor();
        const auto row_of = [&](const QString& label) -> const QListWidgetItem* {
            for (int k = 0; k < editor.list()->count(); ++k)
                if (editor.list()->item(k)->text().startsWith(label)) return editor.list()->item(k);
            return nullptr;
        };
        const auto usual = usual_plan(*w.session().prepared(), false);
        QCOMPARE(editor.list()->count(), static_cast<int>(usual.varied.size()));
        const auto label = QString::fromStdString(usual.varied.front().label);
        QVERIFY(row_of(label) && row_of(label)->text().contains("sigma 1 mm, 1.5 % off by 15 mm"));
        QVERIFY(!row_of(label)->font().bold());
        // Nonsense is named and stays in the dialog.
        const auto variables = variables_of(*w.session().prepared(), false);
        const auto& variable = *std::find_if(variables.begin(), variables.end(), [&](const auto& v) {
            return v.key == usual.varied.front().key;
        });
        app::ToleranceDialog dialog(variable, {}, LengthUnit::mm, nullptr);
        const auto line = [&](const char* name) {
            for (auto* one : dialog.findChildren<QLineEdit*>())
                if (one->accessibleName() == name) return one;
            return static_cast<QLineEdit*>(nullptr);
        };
        const auto press = [&](const char* text) {
            for (auto* one : dialog.findChildren<QPushButton*>())
                if (one->text() == text) one->click();
        };
        const auto complaint = [&] {
            for (auto* one : dialog.findChildren<QLabel*>())
                if (one->property("caution").toBool() && !one->isHidden()) return one->text();
            return QString();
        };
        line("Standard deviation")->setText("wide");
        press("Use it");
        QVERIFY2(complaint().contains("Standard deviation"), qPrintable(complaint()));
        line("Standard deviation")->setText("0.02 in");
        line("Off by mistake, %")->setText("0");
        press("Use it");
        QVERIFY2(complaint().contains("Where from"), qPrintable(complaint()));
        line("Where from")->setText("own template, 2026");
        press("Use it");
        QCOMPARE(dialog.result(), static_cast<int>(QDialog::Accepted));
        QVERIFY(dialog.tolerance());
        QCOMPARE(dialog.tolerance()->spread, 0.508);
        // Entered: the list says so, nothing is solved again, and undo takes it back.
        const auto solved = w.session().solved();
        editor.set_tolerance(variable.key, dialog.tolerance());
        QVERIFY(row_of(label)->text().contains("sigma 0.508 mm") && row_of(label)->font().bold());
        QVERIFY(w.session().solved() && !w.session().solved()->coarse);
        QCOMPARE(w.session().solved()->solution.report.total_s, solved->solution.report.total_s);
        QVERIFY(w.session().is_current());
        QCOMPARE(design_plan(*w.session().prepared(), false)->varied.front().spread, 0.508);
        editor.set_correlation(0, Correlated{usual.varied[0].key, usual.varied[1].key, 0.6, "one hand"});
        QCOMPARE(editor.list()->count(), static_cast<int>(usual.varied.size()) + 1);
        w.session().document.undo_stack()->undo();
        QCOMPARE(editor.list()->count(), static_cast<int>(usual.varied.size()));
        w.session().document.undo_stack()->undo();
        QVERIFY(!row_of(label)->font().bold());
        QVERIFY(w.design().tolerances.empty() && w.design().correlated.empty());
        // A caliper reading on Fit narrows what varies.
        QVERIFY(!row_of("Diameter over the insulation"));
        w.session().document.edit("Read it", {}, [&](Job& job) {
            for (auto& cable : job.cables)
                if (cable.id == w.design().cable_id)
                    cable.caliper_readings["insulation"] = {
                        {w.session().prepared()->dimensions.layer("insulation").diameter_mm, false}};
        });
        QVERIFY(row_of("Diameter over the insulation"));
    }
    /// The kit is mapped over its cables; the map belongs to the design as it was.
    void a_range_is_mapped_in_the_window() {
        Window w;
        auto& range = w->tolerance_page()->range();
        QVERIFY(solves(w, "meter-panel", range));
        QVERIFY(range.map() && range.map()->cells.size() == 81);
        QVERIFY(std::any_of(range.map()->cables.begin(), range.map()->cables.end(),
                            [](const auto& c) { return c.own; }));
        QTemporaryDir folder;
        REQUIRE_OK(range.save(folder.filePath("a.svg")));
        REQUIRE_OK(range.save(folder.filePath("a.csv")));
        QFile csv(folder.filePath("a.csv"));
        QVERIFY(csv.open(QFile::ReadOnly));
        QCOMPARE(csv.readAll().toStdString(), range_csv(*range.map()));
        QVERIFY(!range.grid().corners);
        range.corners()->click();
        QVERIFY(range.grid().corners);
        w.session().set_number("screen_edge_mm", 190, "screen edge");
        QVERIFY(!range.map());
    }
    void a_design_is_asked_every_class_in_the_window() {
        Window w;
        auto& panel = w->tolerance_page()->duties();
        QVERIFY(solves(w, "meter-panel", panel));
        // As the core says, for the design as it is.
        const auto rows =
            over_duties(w.session().document.job(), "meter-panel", w.session().library(), prepare_design);
        REQUIRE_OK(rows);
        QCOMPARE(duties_csv(panel.rows()), duties_csv(*rows));
        QTemporaryDir folder;
        REQUIRE_OK(panel.save(folder.filePath("a.csv")));
        REQUIRE_OK(panel.save(folder.filePath("a.svg")));
        QFile csv(folder.filePath("a.csv")), svg(folder.filePath("a.svg"));
        QVERIFY(csv.open(QFile::ReadOnly) && svg.open(QFile::ReadOnly));
        QCOMPARE(csv.readAll().toStdString(), duties_csv(*rows));
        const auto drawing = svg.readAll();
        for (const auto& row : *rows) // every class stands in it
            QVERIFY(drawing.contains(QString("%1 kV<").arg(row.class_kV).toUtf8()));
        w.session().set_number("edge_radius_mm", 0.2, "Edge radius");
        QVERIFY(panel.rows().empty()); // they belong to the design as it was
    }
    void what_moves_a_design_most_is_drawn() {
        Window w;
        auto& panel = w->tolerance_page()->tornado();
        QVERIFY(solves(w, "ring-switch", panel));
        QVERIFY(panel.tornado());
        QCOMPARE(panel.tornado()->swings.size(), usual_plan(*w.session().prepared(), false).varied.size());
        QTemporaryDir folder;
        REQUIRE_OK(panel.save(folder.filePath("a.svg")));
        REQUIRE_OK(panel.save(folder.filePath("a.csv")));
        QFile csv(folder.filePath("a.csv"));
        QVERIFY(csv.open(QFile::ReadOnly) && csv.readAll().startsWith("key,label,"));
        w.session().set_number("edge_radius_mm", 0.2, "Edge radius");
        QVERIFY(!panel.tornado()); // it belongs to the design as it was
    }
    void effects_are_drawn_and_saved() {
        forget_kept_builds();
        Window w;
        auto& panel = w->tolerance_page()->effects();
        panel.set_blocks(4);
        QVERIFY(solves(w, "ring-switch", panel));
        QVERIFY2(panel.summary(), qPrintable(panel.said()));
        QCOMPARE(panel.summary()->effects.size(), usual_plan(*w.session().prepared(), false).varied.size());
        QVERIFY(panel.summary()->blocks >= 2);
        QVERIFY2(panel.said().contains("Estimated " + QString::fromStdString(blocks_words(*panel.summary()))),
                 qPrintable(panel.said()));
        QTemporaryDir folder;
        REQUIRE_OK(panel.save(folder.filePath("a.svg")));
        REQUIRE_OK(panel.save(folder.filePath("a.csv")));
        QFile csv(folder.filePath("a.csv")), svg(folder.filePath("a.svg"));
        QVERIFY(csv.open(QFile::ReadOnly) && csv.readAll().startsWith("key,label,main effect"));
        QVERIFY(svg.open(QFile::ReadOnly) &&
                svg.readAll().contains(
                    panel.summary()->effects.front().key == "edge_radius_mm" ? "dge radius" : "main effect"));
        w.session().set_number("edge_radius_mm", 0.2, "Edge radius");
        QVERIFY(!panel.summary()); // they belong to the design as it was
    }
    void the_worst_of_the_tolerances_opens_as_a_design() {
        Window w;
        auto& panel = w->tolerance_page()->worst();
        QVERIFY(solves(w, "meter-panel", panel));
        QVERIFY2(panel.worst(), qPrintable(panel.said()));
        QVERIFY(panel.worst()->share >= panel.worst()->nominal_share);
        QVERIFY2(panel.said().contains("of the limit") && panel.said().contains("bad at least"),
                 qPrintable(panel.said()));
        const auto designs = w.session().document.job().designs.size();
        const auto worst = *panel.worst();
        panel.open_worst();
        QCOMPARE(w.session().document.job().designs.size(), designs + 1);
        QVERIFY(w.design().title.find("worst of its tolerances") != std::string::npos);
        // Solved by itself it says the same.
        const auto direct = evaluate(w.session().document.job(), w.design().id, {}, test::library(),
                                     prepare_design, EvaluateOptions());
        REQUIRE_OK(direct);
        for (const auto& check : direct->verdict.checks)
            if (check.title == worst.check)
                QVERIFY2(std::abs(1 - check.margin - worst.share) <=
                             worst.error + check.relative_error + 0.01,
                         qPrintable(QString("%1, %2").arg(1 - check.margin).arg(worst.share)));
        QVERIFY(!panel.worst()); // another design is open
    }
    /// Builds that are judged with faults are not those without: their windows go when the faults do.
    void windows_with_faults_are_not_those_without() {
        Window w;
        w.session().document.show_design("breakwater");
        QVERIFY(w.wait_refined());
        const auto sound = w.session().judged_hash();
        w.session().set_with_faults(true);
        QVERIFY(w.session().judged_hash() != sound);
        QCOMPARE(w.session().design_hash(), sound);
        // What a fault is filled with is no part of its name, and makes another design all the same.
        const auto filled = w.session().judged_hash();
        w.session().document.edit("Fill it", {}, [](Job& job) {
            for (auto& fault : job.find_design("breakwater")->faults)
                if (fault.kind == "bubble") fault.filling = "water";
        });
        QVERIFY(w.session().judged_hash() != filled);
        MarkWindow window;
        window.key = w.session().plan()->marks.front().parameter;
        for (const auto& m : w.session().plan()->marks)
            if (!m.parameter.empty()) window.key = m.parameter, window.now = 100;
        window.looked_low = 90, window.looked_high = 110;
        w.session().keep_windows(w.session().judged_hash(), {window});
        const auto accepted = [&] {
            const auto& marks = w.session().plan()->marks;
            return std::any_of(marks.begin(), marks.end(),
                               [](const auto& m) { return m.accepted.has_value(); });
        };
        QVERIFY(accepted());
        w.session().set_with_faults(false);
        QVERIFY(!accepted());
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    ng::app::prepare_application(application);
    TestStudies test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_studies.moc"
