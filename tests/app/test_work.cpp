// Cutbacks, work sheet, step screen and report as their users have them: typed, dragged, ticked, printed, and
// the printed template measured.
#include "app/stages/body_dialog.h"
#include "app/stages/cutbacks_page.h"
#include "app/stages/faults_page.h"
#include "app/stages/report_page.h"
#include "app/stages/step_window.h"
#include "app/stages/work_page.h"
#include "app/strips/tape_strip.h"
#include "plan/template.h"
#include "plan/work.h"
#include "window_support.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPdfWriter>
#include <QProcess>
#include <QPushButton>
#include <QTableWidget>
#include <QTemporaryDir>

using namespace ng;
using ng::test::Window;

namespace {

/// A page of a PDF at 10 pixels to the millimetre, by a reader that is not ours.
QImage page_of(const QString& pdf, int page, const QTemporaryDir& dir) {
    QProcess reader;
    const auto out = dir.filePath("page");
    reader.start("pdftoppm", {"-r", "254", "-gray", "-singlefile", "-f", QString::number(page), "-l",
                              QString::number(page), pdf, out});
    if (!reader.waitForFinished(test::patient(60000)) || reader.exitCode() != 0) return {};
    return QImage(out + ".pgm").convertToFormat(QImage::Format_Grayscale8);
}

QString text_of(const QString& pdf) {
    QProcess reader;
    reader.start("pdftotext", {"-layout", pdf, "-"});
    reader.waitForFinished(test::patient(60000));
    return QString::fromUtf8(reader.readAllStandardOutput());
}

/// Lengths of the unbroken dark lines in a row of pixels, with where they begin.
std::vector<std::pair<int, int>> dark_runs(const QImage& image, int y, bool along_columns = false) {
    std::vector<std::pair<int, int>> out;
    const int n = along_columns ? image.height() : image.width();
    int begin = -1;
    for (int i = 0; i <= n; ++i) {
        const bool dark = i < n && qGray(along_columns ? image.pixel(y, i) : image.pixel(i, y)) < 128;
        if (dark && begin < 0) begin = i;
        if (!dark && begin >= 0) {
            out.emplace_back(begin, i - begin);
            begin = -1;
        }
    }
    return out;
}

} // namespace

class TestWork : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

  private slots:
    void marks_stand_in_the_table_and_explain_themselves() {
        Window w;
        QVERIFY(w.wait_refined());
        QTest::keyClick(w.window.get(), Qt::Key_5, Qt::ControlModifier);
        auto* page = w->cutbacks_page();
        QVERIFY(page->isVisible());
        const auto plan = w.session().plan();
        QCOMPARE(page->table()->rowCount(), static_cast<int>(plan->marks.size()));
        QCOMPARE(page->lines().size(), static_cast<qsizetype>(plan->checks.size()));
        for (int i = 0; i < page->table()->rowCount(); ++i)
            if (plan->marks[i].kind == MarkKind::screen_edge) {
                page->table()->setCurrentCell(i, 0);
                QVERIFY(std::abs(w.session().needle_z() - plan->marks[i].z_mm) < 1e-6);
                for (const char* words : {"must not touch insulation", "blade 0.4 mm",
                                          "Grading, mean tangential stress over 3 mm"})
                    QVERIFY2(page->detail().contains(words), words);
            }
    }
    void a_typed_distance_changes_the_design_and_a_wrong_one_says_so() {
        Window w;
        QVERIFY(w.wait_refined());
        auto* page = w->cutbacks_page();
        const auto row_of = [&](const char* label) {
            for (int i = 0; i < page->table()->rowCount(); ++i)
                if (page->table()->item(i, 0)->text() == label) return i;
            return -1;
        };
        const auto edge = [&] { return w.session().plan()->find(place::screen_edge); };
        const auto jacket = [&] { return w.session().plan()->find(place::jacket_cut)->z_mm; };
        const auto type = [&](double mm) {
            page->table()->item(row_of("screen edge"), 1)->setText(QString::number(mm));
        };
        // From the jacket cut, as it is by itself: the edge moves, the jacket stays.
        QVERIFY(w.session().plan()->datum == place::jacket_cut);
        const double jacket_before = jacket() - w.session().datum_z(), before = edge()->from_datum_mm;
        type(before - 3);
        QVERIFY2(std::abs(edge()->from_datum_mm - (before - 3)) < 0.011, qPrintable(w->banner_text()));
        QVERIFY(std::abs(jacket() - w.session().datum_z() - jacket_before) < 0.011);
        page->table()->item(row_of("screen edge"), 1)->setText("soon");
        QVERIFY(w->banner_text().contains("screen edge"));
        QVERIFY(std::abs(edge()->from_datum_mm - (before - 3)) < 0.011);
        // From the cable end the same mark counts the other way.
        w.session().change_work("Choose datum", [](WorkChoices& work) { work.datum = place::cable_end; });
        const auto from_end = edge()->from_datum_mm;
        type(from_end + 2);
        QCOMPARE(w.design().numbers.at("screen_edge_mm"), from_end + 2);
        w.session().document.undo_stack()->undo();
        QVERIFY(std::abs(edge()->from_datum_mm - from_end) < 1e-9);
    }
    void a_mark_dragged_in_tape_solves_again() {
        Window w;
        w.session().document.show_design("causeway");
        QVERIFY(w.wait_refined());
        auto* tape = w->tape_strip();
        for (const auto& id : {place::screen_edge.on(Side::a), place::screen_edge.on(Side::b)}) {
            const auto before = w.session().plan()->find(id)->from_datum_mm;
            const auto at = tape->mark_place(id)->toPoint();
            const int by = static_cast<int>(6 * w.session().axis.scale());
            QTest::mousePress(tape, Qt::LeftButton, {}, at);
            QTest::mouseMove(tape, at + QPoint(by / 2, 0));
            QTest::mouseMove(tape, at + QPoint(by, 0));
            QVERIFY(w.session().is_live());
            QTest::mouseRelease(tape, Qt::LeftButton, {}, at + QPoint(by, 0));
            const double moved = w.session().plan()->find(id)->from_datum_mm - before;
            // To the right: nearer to the end of side A, from the jacket that stays where it is.
            const double expected = id.side == Side::a ? 6 : -6;
            QVERIFY2(std::abs(moved - expected) < 1.5 / w.session().axis.scale() + 0.55,
                     qPrintable(QString::number(moved)));
            // The mark stands where hands can measure it: at halves of a millimetre.
            const double halves = 2 * w.session().plan()->find(id)->from_datum_mm;
            QVERIFY2(std::abs(halves - std::round(halves)) < 0.01, qPrintable(QString::number(halves / 2)));
        }
        QVERIFY(w.wait_refined());
        w.session().document.undo_stack()->undo();
        w.session().document.undo_stack()->undo();
        QVERIFY(!w.session().document.is_changed());
    }
    void choices_about_the_work_leave_the_field_alone() {
        Window w;
        w.session().document.show_design("causeway");
        QVERIFY(w.wait_refined());
        QVERIFY(QTest::qWaitFor([&] { return w.session().schedule_is_current(); }, test::patient(120000)));
        w.session().change_work("Choose long side", [](WorkChoices& work) { work.long_side = "a"; });
        QVERIFY(w.refined()); // at once: nothing was solved
        QVERIFY(w.session().schedule_is_current());
        for (const auto& part : w.session().plan()->parked) QVERIFY(part.side == CableSide::a);
        auto* field = w->cutbacks_page()->findChild<QLineEdit*>("straight_a_mm");
        QVERIFY(field);
        QTest::keyClick(w.window.get(), Qt::Key_5, Qt::ControlModifier);
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, "200");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(w.session().plan()->status, Status::falls_short);
        const auto lines = w->cutbacks_page()->lines();
        QVERIFY(std::any_of(lines.cbegin(), lines.cend(), [](const auto* line) {
            return line->status() == Status::falls_short && line->text().contains("clean, straight");
        }));
    }
    void the_steps_are_worked_through_with_hold_points() {
        Window w;
        QVERIFY(w.wait_refined());
        QTest::keyClick(w.window.get(), Qt::Key_8, Qt::ControlModifier);
        auto* page = w->work_page();
        QVERIFY(page->isVisible() && page->steps()->count() > 20);
        auto* steps = page->open_steps(0);
        QVERIFY(QTest::qWaitForWindowExposed(steps));
        QCOMPARE(steps->next_button()->text(), QString("Next (hold point open)"));
        QTest::mouseClick(steps->accepted(), Qt::LeftButton, {}, QPoint(8, steps->accepted()->height() / 2));
        QCOMPARE(steps->next_button()->text(), QString("Next"));
        QTest::mouseClick(steps->next_button(), Qt::LeftButton);
        QCOMPARE(steps->index(), 1);
        QTest::keyClick(steps, Qt::Key_Right);
        QCOMPARE(steps->index(), 2);
        QVERIFY(steps->findChild<QLabel*>("holdText")->text().contains("person in charge"));
        // An edit of the design changes the numbers in the open sheet.
        const auto find = [&](const std::string& id) {
            for (std::size_t i = 0; i < steps->sheet()->steps.size(); ++i)
                if (steps->sheet()->steps[i].step_id == id) return static_cast<int>(i);
            return -1;
        };
        steps->show_step(find("screen-strip"));
        w.session().set_number("screen_edge_mm", 300, "screen edge");
        const auto moved = both_units(w.session().plan()->find(place::screen_edge)->from_datum_mm);
        QVERIFY(steps->findChild<QLabel*>("stepText")->text().contains(QString::fromStdString(moved)));
    }
    void timers_run_on_while_other_steps_are_shown() {
        Window w;
        QVERIFY(w.wait_refined());
        auto* steps = w->work_page()->open_steps(0);
        qint64 now = 0;
        steps->set_clock([&] { return now; });
        int cool = -1;
        for (std::size_t i = 0; i < steps->sheet()->steps.size(); ++i)
            if (steps->sheet()->steps[i].step_id == "cool") cool = static_cast<int>(i);
        QVERIFY(cool > 0);
        steps->show_step(cool);
        QCOMPARE(steps->timer_text(), QString("30:00"));
        steps->start_timer();
        now = 61000;
        steps->tick();
        QCOMPARE(steps->timer_text(), QString("28:59"));
        steps->show_step(0);
        QVERIFY(steps->findChild<QLabel*>("runningTimers")->text().contains("cooling: 28:59"));
        QSignalSpy ended(steps, &app::StepWindow::timer_ended);
        now = 1800000;
        steps->tick();
        steps->tick();
        QCOMPARE(ended.size(), 1); // rings once
        steps->show_step(cool);
        QCOMPARE(steps->timer_text(), QString("done"));
        steps->stop_timer();
        QCOMPARE(steps->timer_text(), QString("30:00"));
    }
    void own_words_are_kept_in_the_job_and_undone() {
        Window w;
        QVERIFY(w.wait_refined());
        auto* steps = w->work_page()->open_steps(0);
        steps->set_own_words("Compare with our form 7; edge at {marks:screen_edge}.");
        QCOMPARE(w.session().document.job().step_texts.size(), std::size_t(1));
        QVERIFY(steps->findChild<QLabel*>("stepText")
                    ->text()
                    .contains("our form 7; edge at " +
                              QString::fromStdString(
                                  both_units(w.session().plan()->find(place::screen_edge)->from_datum_mm))));
        steps->set_own_words("See {what}.");
        QVERIFY(w->work_page()->problem().contains("what"));
        w.session().document.undo_stack()->undo();
        QVERIFY(w->work_page()->problem().isEmpty());
        steps->set_own_words(" ");
        QVERIFY(w.session().document.job().step_texts.empty());
    }
    void schools_are_chosen_on_the_page() {
        Window w;
        w.session().document.show_design("causeway");
        QVERIFY(w.wait_refined());
        auto* box = w->work_page()->findChild<QComboBox*>("outer_cover");
        QVERIFY(box);
        box->setCurrentIndex(1);
        emit box->activated(1);
        QCOMPARE(w.design().work.schools.at("outer_cover"), std::string("wrap-around"));
        bool wraps = false;
        for (int i = 0; i < w->work_page()->steps()->count(); ++i)
            wraps |= w->work_page()->steps()->item(i)->text().contains("Wrap-around");
        QVERIFY(wraps);
        emit box->activated(0);
        QVERIFY(w.design().work.schools.empty());
    }
    /// The bars and a mark are measured in the pixels that another program makes of the file.
    void the_printed_template_is_full_size() {
        Window w;
        QVERIFY(w.wait_refined());
        for (const char* paper : {"A4", "Letter"}) {
            const auto pdf = dir_.filePath(QString("template-%1.pdf").arg(paper));
            REQUIRE_OK(w->cutbacks_page()->save_to(pdf, paper));
            const auto strips = template_strips(*w.session().plan(), *w.session().prepared());
            const auto& p = papers()[std::string(paper) == "A4" ? 0 : 1];
            const auto tiles = tile(broken_strips(strips), p);
            std::size_t core = 0;
            const double edge = w.session().plan()->find(MarkKind::cable_end)->z_mm -
                                w.session().plan()->find(place::screen_edge)->z_mm;
            // The sheet of the core's strip that the edge lies on.
            while (strips[tiles[core].strip].title != "on the core" || tiles[core].to_mm < edge) ++core;
            const auto image = page_of(pdf, static_cast<int>(core) + 1, dir_);
            QVERIFY2(!image.isNull(), "pdftoppm could not read it");
            QVERIFY(std::abs(image.width() - 10 * p.width_mm) < 6 &&
                    std::abs(image.height() - 10 * p.height_mm) < 6);
            bool metric = false, inches = false;
            for (int y = 200; y < 380; ++y)
                for (const auto& [begin, length] : dark_runs(image, y)) {
                    metric |= std::abs(length - 1000) <= 4; // 100 mm, the pen 0.3 mm wide
                    inches |= std::abs(length - 1016) <= 4; // 4 in
                }
            QVERIFY2(metric && inches, paper);
            const auto& strip = strips[tiles[core].strip];
            double nearest = 1e9;
            for (int x = 100; x < image.width(); ++x)
                for (const auto& [begin, length] : dark_runs(image, x, true))
                    if (length > 0.95 * 10 * strip.wrap_mm)
                        nearest = std::min(
                            nearest, std::abs(x - 10 * (template_margin_mm + edge - tiles[core].from_mm)));
            QVERIFY2(nearest <= 3, qPrintable(QString("%1: off by %2 px").arg(paper).arg(nearest)));
        }
        for (const char* ending : {"svg", "dxf", "csv"}) {
            const auto file = dir_.filePath(QString("t.") + ending);
            REQUIRE_OK(w->cutbacks_page()->save_to(file, "A4"));
            QVERIFY(QFileInfo(file).size() > 500);
        }
        const auto refused = w->cutbacks_page()->save_to("/nowhere/t.pdf", "A4");
        QVERIFY(!refused && refused.error().message().find("/nowhere/t.pdf") != std::string::npos);
    }
    void the_printed_sheet_says_what_the_screen_says() {
        Window w;
        w.session().document.show_design("causeway");
        QVERIFY(w.wait_refined());
        const auto pdf = dir_.filePath("sheet.pdf"), large = dir_.filePath("large.pdf"),
                   html = dir_.filePath("sheet.html");
        REQUIRE_OK(w->work_page()->save_to(pdf, false));
        REQUIRE_OK(w->work_page()->save_to(large, true));
        REQUIRE_OK(w->work_page()->save_to(html, false));
        const auto sheet = w.session().sheet();
        REQUIRE_OK(sheet);
        const auto printed = text_of(pdf).simplified();
        int number = 0;
        for (const auto& step : sheet->steps) {
            const auto title =
                QString("%1. %2").arg(++number).arg(QString::fromStdString(step.title)).simplified();
            QVERIFY2(printed.contains(title), qPrintable(title));
        }
        QVERIFY(printed.contains("HOLD") &&
                printed.contains(QString::fromStdString(
                    both_units(w.session().plan()->find(MarkKind::screen_edge)->from_datum_mm))));
        QFile file(html);
        QVERIFY(file.open(QIODevice::ReadOnly));
        const auto text = QString::fromUtf8(file.readAll());
        QVERIFY(text.contains("data:image/png;base64,") && text.contains("Picking list"));
        QVERIFY(text_of(large).count('\f') > text_of(pdf).count('\f'));
    }
    void a_design_is_frozen_and_what_changed_is_said() {
        Window w;
        QVERIFY(w.wait_refined());
        QTest::keyClick(w.window.get(), Qt::Key_9, Qt::ControlModifier);
        auto* page = w->report_page();
        const auto words = [&] { return page->findChild<QLabel*>("revisions")->text(); };
        QVERIFY(words().contains("not frozen"));
        page->freeze_design(); // nobody is named: refused
        QVERIFY(w.design().revisions.empty() && w->banner_text().contains("nobody is named"));
        const auto type = [&](const char* name, const QString& text) {
            for (auto* edit : page->findChildren<QLineEdit*>())
                if (edit->accessibleName() == name) edit->setText(text);
        };
        type("Frozen by", "J. test role");
        type("Why it is frozen", "first issue");
        page->freeze_design();
        QCOMPARE(w.design().revisions.size(), std::size_t(1));
        QVERIFY(!w.session().is_refining() && w.session().is_current()); // nothing is solved again
        QVERIFY(words().contains("This state: revision A"));
        w.session().set_number("screen_edge_mm", 240, "screen edge");
        QVERIFY2(words().contains("changed since revision A") && words().contains("240 mm"),
                 qPrintable(words()));
        w.session().document.undo_stack()->undo();
        QVERIFY(words().contains("This state: revision A"));
        w.session().document.undo_stack()->undo(); // the freezing itself
        QVERIFY(w.design().revisions.empty());
    }
    /// With its faults the design is shown, judged and dragged everywhere; without them nothing is left of
    /// it.
    void a_design_is_judged_with_its_faults_when_asked() {
        Window w;
        w.session().document.show_design("breakwater");
        QVERIFY(w.wait_refined());
        const auto status = w.session().solved()->verdict.status;
        QVERIFY(status != Status::falls_short);
        w->faults_page()->everywhere()->setChecked(true);
        QVERIFY(w.session().with_faults());
        QVERIFY(w.wait_refined());
        QCOMPARE(w.session().solved()->verdict.status, Status::falls_short);
        const auto& built = w.session().prepared()->built;
        const auto handles = std::count_if(built.handles.begin(), built.handles.end(),
                                           [](const auto& h) { return fault_of_handle(h.key).has_value(); });
        QCOMPARE(handles, 3);
        QVERIFY(!built.statements.empty() &&
                built.statements.front().find("over-shaved") != std::string::npos);
        // Its handle moves the fault, as one step to undo.
        w.session().set_number(fault_handle(1), 22.5, "bubble");
        QCOMPARE(w.design().faults[1].from_edge_mm, std::optional(22.5));
        QVERIFY(w.wait_refined());
        w.session().document.undo_stack()->undo();
        QVERIFY(w.design().faults[1].from_edge_mm != std::optional(22.5));
        w->faults_page()->everywhere()->setChecked(false);
        QVERIFY(w.wait_refined());
        QCOMPARE(w.session().solved()->verdict.status, status);
        // What was looked for is printed where it is looked for, on the sheet of this design only.
        CriticalSize critical;
        critical.mm = 0.4;
        critical.found_from_mm = 0.8;
        critical.inspectability = 0.5;
        Fault nick;
        nick.kind = "nick";
        nick.side = Side::a;
        nick.size_mm = 0.1;
        w.session().keep_critical_sizes(w.session().design_hash(), {{nick, critical}});
        const auto printed = [&] {
            const auto sheet = w.session().sheet();
            for (const auto& step : sheet->steps)
                for (const auto& line : step.lines)
                    if (line.find("no check fails up to 0.4 mm") != std::string::npos &&
                        line.find("look twice") != std::string::npos)
                        return step.step_id;
            return std::string();
        };
        QCOMPARE(printed(), std::string("screen-strip"));
        w.session().document.show_design("causeway");
        QVERIFY(printed().empty());
    }
    void a_fault_is_tried_kept_and_looked_for() {
        Window w;
        w.session().document.show_design("breakwater");
        QVERIFY(w.wait_refined());
        QTest::keyClick(w.window.get(), Qt::Key_0, Qt::ControlModifier);
        auto* page = w->faults_page();
        QVERIFY(page->isVisible());
        const auto box = [&](const char* name) {
            for (auto* one : page->findChildren<QComboBox*>())
                if (one->accessibleName() == name) return one;
            return static_cast<QComboBox*>(nullptr);
        };
        QVERIFY(box("Kind") && box("Faults"));
        QCOMPARE(box("Faults")->count(), 3); // of the demo
        QSignalSpy judged(page, &app::FaultsPage::judged);
        box("Kind")->setCurrentIndex(box("Kind")->findText("bubble on the insulation"));
        emit box("Kind")->activated(box("Kind")->currentIndex());
        page->judge(); // of the least size
        QVERIFY(judged.wait(test::patient(60000)));
        QVERIFY2(page->answer().contains("Accept") && page->answer().contains("kV rms"),
                 qPrintable(page->answer()));
        page->keep();
        QCOMPARE(w.design().faults.size(), std::size_t(4));
        QVERIFY(!w.session().is_refining() && w.session().is_current()); // nothing is solved again
        w.session().document.undo_stack()->undo();
        QCOMPARE(w.design().faults.size(), std::size_t(3));
        // Field strength is said in the unit that is shown, whatever it was when the answer came.
        for (int i = 0; i < 3 && !page->answer().contains("kV/mm"); ++i) {
            box("Faults")->setCurrentIndex(i);
            emit box("Faults")->activated(i);
            QVERIFY(judged.wait(test::patient(60000)));
        }
        QVERIFY2(page->answer().contains("kV/mm"), qPrintable(page->answer()));
        w.session().set_stress_unit(StressUnit::V_per_mil);
        QVERIFY2(page->answer().contains("V/mil") && !page->answer().contains("kV/mm"),
                 qPrintable(page->answer()));
        w.session().set_stress_unit(StressUnit::kV_per_mm);
        // The look through all kinds grows row by row and can be cancelled; what was found stays.
        page->scan();
        QTRY_VERIFY_WITH_TIMEOUT(page->bars().rows().size() >= 2, test::patient(120000));
        for (auto* button : page->findChildren<QPushButton*>())
            if (button->text() == "Cancel") button->click();
        const auto found = page->bars().rows().size();
        QTest::qWait(300);
        QCOMPARE(page->bars().rows().size(), found);
        w.session().document.show_design("quay-mast"); // what was found belongs to the one before
        QTRY_VERIFY_WITH_TIMEOUT(page->bars().rows().empty(), test::patient(5000));
    }
    void build_shows_the_whole_end_of_three_cores() {
        Window w;
        w.session().document.show_design("quay-mast");
        QVERIFY(w.wait_refined());
        QTest::keyClick(&*w.operator->(), Qt::Key_E);
        QVERIFY(!w.session().whole_end() && w->banner_text().contains("one core"));
        w.session().document.show_design("gatehouse");
        QVERIFY(w.wait_refined());
        const auto before = w->build_strip()->grab().toImage();
        const double reach = w.session().axis.right_u() - w.session().axis.left_u();
        QTest::keyClick(&*w.operator->(), Qt::Key_E);
        QVERIFY(w.session().whole_end());
        QVERIFY(w->build_strip()->grab().toImage() != before);
        QVERIFY(w.session().axis.right_u() - w.session().axis.left_u() > 1.1 * reach);
        // Handles stand on a core and still move the design.
        QVERIFY(!w->build_strip()->handle_place("screen_edge_mm").isNull());
        QTest::keyClick(&*w.operator->(), Qt::Key_E);
        QVERIFY(!w.session().whole_end());
    }
    void a_report_is_written_in_the_background() {
        Window w;
        w.session().document.show_design("ramp-pole");
        QVERIFY(w.wait_refined());
        auto* page = w->report_page();
        QSignalSpy written(page, &app::ReportPage::written);
        const auto pdf = dir_.filePath("report.pdf");
        page->write(pdf, false);
        QVERIFY(written.wait(test::patient(120000)));
        QVERIFY2(written.first().first().toBool(), qPrintable(page->state()));
        const auto text = text_of(pdf).simplified();
        for (const char* words :
             {"Ramp pole, feeder A", "Verdict: falls short", "Test schedule", "Lightning impulse",
              "Overridden by the user", "does not replace a type test", "Marks, from the jacket cut"})
            QVERIFY2(text.contains(words), words);
        page->write("/nowhere/report.pdf", false); // said at once, before anything is solved
        QCOMPARE(written.count(), 2);
        QVERIFY(!written.last().first().toBool());
        QVERIFY(page->state().contains("/nowhere/report.pdf"));
    }
    void a_drawing_becomes_a_body() {
        const QString demo = NEEDLEGAUGE_DATA_DIR "/demo/";
        app::BodyDialog dialog(demo + "slip-on-cone.dxf", draw::Theme::light(), nullptr);
        auto* layers = dialog.findChild<QTableWidget*>();
        QCOMPARE(layers->rowCount(), 3);
        const auto button = [&](const QString& text) {
            for (auto* b : dialog.findChildren<QPushButton*>())
                if (b->text() == text) return b;
            return static_cast<QPushButton*>(nullptr);
        };
        QVERIFY(!button("Take the body")->isEnabled()); // nothing has a role yet
        const auto give = [&](int row, int role) {
            auto* box = qobject_cast<QComboBox*>(layers->cellWidget(row, 2));
            box->setCurrentIndex(role);
            emit box->activated(role);
        };
        give(0, 1);
        give(1, 4);
        give(2, 2);
        QVERIFY(button("Take the body")->isEnabled());
        // Another axis asked for and taken back: what was said of the layers stays.
        auto* axis = dialog.findChildren<QComboBox*>().at(1);
        for (const int i : {1, 0}) {
            axis->setCurrentIndex(i);
            emit axis->activated(i);
        }
        QVERIFY(button("Take the body")->isEnabled());
        dialog.findChild<QLineEdit*>()->setText("Our cone");
        button("Take the body")->click();
        QCOMPARE(dialog.result().id, std::string("our-cone"));
        QCOMPARE(dialog.result().parts.size(), std::size_t(4));
        // Only families that are made from a drawing ask for one.
        Window w;
        const auto asks = [&] {
            for (auto* label : w->findChildren<QLabel*>())
                if (label->text() == "Drawing of the body") return !label->isHidden();
            return false;
        };
        w.session().document.show_design("quay-mast");
        QVERIFY(!asks());
        w.session().document.change_family(test::family("drawn_body"));
        QVERIFY(asks());
        // A drawing that cannot be read says why, and nothing can be taken.
        QTemporaryDir dir;
        QFile broken(dir.filePath("broken.dxf"));
        QVERIFY(broken.open(QIODevice::WriteOnly) && broken.write("0\nSECTION\n") > 0);
        broken.close();
        app::BodyDialog other(broken.fileName(), draw::Theme::light(), nullptr);
        QCOMPARE(other.findChild<QTableWidget*>()->rowCount(), 0);
        bool said = false;
        for (auto* label : other.findChildren<QLabel*>()) said = said || label->text().contains("broken.dxf");
        QVERIFY(said);
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    ng::app::prepare_application(application);
    TestWork test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_work.moc"
