// Somebody new at the window: the first page, help, and the manners of fields, messages, boxes, pins and
// cables.
#include "app/compare_window.h"
#include "app/context_menus.h"
#include "app/help_window.h"
#include "app/model/paced.h"
#include "app/model/time_left.h"
#include "app/stages/cable_library.h"
#include "app/stages/cable_page.h"
#include "app/stages/cutbacks_page.h"
#include "app/stages/record_page.h"
#include "app/stages/stage_list.h"
#include "app/stages/step_window.h"
#include "app/stages/test_window.h"
#include "app/stages/trend_window.h"
#include "app/stages/work_page.h"
#include "app/start_page.h"
#include "app/state_label.h"
#include "app/strips/field_strip.h"
#include "app/strips/tape_strip.h"
#include "app/strips/void_strip.h"
#include "document/cable_io.h"
#include "io/file.h"
#include "window_support.h"
#include <QClipboard>
#include <QComboBox>
#include <QDir>
#include <QLabel>
#include <QRegularExpression>
#include <QTableWidget>
#include <QTextBrowser>
#include <QWheelEvent>
#include <cmath>
#include <fstream>
#include <set>

using namespace ng;
using test::Window;

namespace {

void type(QLineEdit* field, const QString& text) {
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
}

/// Relative luminance and contrast of Web Content Accessibility Guidelines 2.1 (from memory).
double luminance(const QColor& c) {
    const auto part = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
}
double contrast(const QColor& a, const QColor& b) {
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

} // namespace

class TestFirstUse : public QObject {
    Q_OBJECT
  private slots:
    /// Own 25 kV cable to the first verdict: six choices and a button are 13 clicks, below 20 actions. By the
    /// keystroke-level model (Card, Moran, Newell 1980, from memory: M 1.35 s, P 1.1 s, B 0.1 s): each choice
    /// is M, then P and B twice, so 7 x 1.35 + 13 x 1.2 = 25 s, and the solution 2 s more: below 60 s.
    void a_cable_of_ones_own_is_judged_from_the_first_page() {
        Window w;
        auto* page = w->show_start();
        QVERIFY(page->isVisible());
        int actions = 0;
        const auto choose = [&](const char* name, const QString& text) {
            auto* box = page->choice(name);
            const int at = box->findText(text);
            if (at < 0) qWarning("%s has no %s", name, qPrintable(text));
            box->setCurrentIndex(at);
            actions += 2; // opened, and chosen
        };
        choose("startClass", "25 kV");
        choose("startConductor", "aluminium");
        choose("startSize", "500 kcmil");
        choose("startLevel", "133%");
        choose("startScreen", "wires");
        choose("startFamily", QString::fromStdString(test::family("heat_shrink_termination").title));
        QVERIFY(page->begin_button()->isEnabled());
        QTest::mouseClick(page->begin_button(), Qt::LeftButton);
        ++actions;
        QVERIFY(actions < 20);
        QCOMPARE(w.design().duty.class_kV, 25.0);
        QCOMPARE(w.session().document.cable().conductor_size, std::string("500 kcmil"));
        QVERIFY(w.wait_refined());
        QVERIFY(w.session().solved()->verdict.status != Status::not_judged);
        QVERIFY(!w->start_page());
        QVERIFY(w.session().document.path().isEmpty());
    }
    void every_family_and_class_is_drawn_or_refused_by_name() {
        Window w;
        auto* page = w->show_start();
        auto* families = page->choice("startFamily");
        auto* classes = page->choice("startClass");
        int drawn = 0;
        for (int f = 0; f < families->count(); ++f)
            for (int c = 0; c < classes->count(); ++c) {
                families->setCurrentIndex(f);
                classes->setCurrentIndex(c);
                const auto job = page->chosen();
                drawn += job.has_value();
                QCOMPARE(page->begin_button()->isEnabled(), job.has_value());
                if (!job) QVERIFY(!job.error().item.empty() && !job.error().remedy.empty());
            }
        QVERIFY(drawn > families->count() * classes->count() / 2);
    }
    void a_new_job_says_that_its_values_are_an_example_until_touched() {
        Window w;
        w.session().document.start_new();
        auto* header = w->findChild<QLabel*>("verdictWord");
        QVERIFY(header->text().startsWith("EXAMPLE"));
        auto* stages = w->findChild<app::StageList*>();
        QVERIFY(stages->button(app::stage::cable)->accessibleName().contains("example values"));
        w.session().set_number("screen_edge_mm", 310, "screen edge");
        QVERIFY(!header->text().startsWith("EXAMPLE"));
        QVERIFY(!stages->button(app::stage::cable)->accessibleName().contains("example values"));
    }
    void decimals_are_what_is_typed_in_every_field() {
        Window w;
        QTest::keyClick(w.window.get(), Qt::Key_3, Qt::ControlModifier);
        w.session().document.show_design("quay-mast");
        auto* field = qobject_cast<QLineEdit*>(w->accessory_page()->field("edge_radius_mm"));
        QVERIFY(field);
        type(field, "0,4");
        QCOMPARE(w.design().numbers.at("edge_radius_mm"), 0.4);
        type(field, "1,234");
        QCOMPARE(w.design().numbers.at("edge_radius_mm"), 0.4);
        QVERIFY2(w->banner_text().contains("thousands"), qPrintable(w->banner_text()));
        QCOMPARE(field->text(), QString("1,234")); // stays as typed, marked
        type(field, "0.3");
        QCOMPARE(w.design().numbers.at("edge_radius_mm"), 0.3);
        QVERIFY2(w->banner_text().isEmpty(), qPrintable(w->banner_text())); // its cause is gone
    }
    void a_message_moves_nothing() {
        Window w;
        QTest::qWait(50);
        const auto strip = w->build_strip()->mapTo(w.window.get(), QPoint(0, 0));
        w.session().tell({"Anything", "it is said", "Read it"});
        QTest::qWait(50);
        QVERIFY(w->banner_text().contains("Anything"));
        QCOMPARE(w->build_strip()->mapTo(w.window.get(), QPoint(0, 0)), strip);
    }
    void the_wheel_over_a_box_out_of_hand_changes_nothing() {
        Window w;
        QTest::keyClick(w.window.get(), Qt::Key_8, Qt::ControlModifier);
        QTest::qWait(20);
        int looked_at = 0;
        for (auto* box : w->findChildren<QComboBox*>()) {
            if (!box->isVisible() || box->count() < 2 || box->hasFocus()) continue;
            const int was = box->currentIndex();
            for (const int angle : {-120, 120}) {
                QWheelEvent wheel(QPointF(5, 5), box->mapToGlobal(QPoint(5, 5)), {}, QPoint(0, angle),
                                  Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
                QApplication::sendEvent(box, &wheel);
                QCOMPARE(box->currentIndex(), was);
            }
            ++looked_at;
        }
        QVERIFY(looked_at >= 3);
    }
    void a_pin_stays_with_its_design() {
        Window w;
        w.session().document.show_design("quay-mast");
        QVERIFY(w.wait_refined());
        w.session().pin();
        QVERIFY(w.session().pinned());
        w.session().document.show_design("breakwater");
        QVERIFY(!w.session().pinned());
        w.session().document.show_design("quay-mast");
        QVERIFY(w.session().pinned());
        w->open_demo(); // the same names, another job
        w.session().document.show_design("quay-mast");
        QVERIFY(!w.session().pinned());
    }
    void a_shared_cable_says_who_uses_it_and_offers_a_copy() {
        Window w;
        QTest::keyClick(w.window.get(), Qt::Key_1, Qt::ControlModifier);
        w.session().document.show_design("quay-mast");
        auto* shared = w->findChild<QLabel*>("sharedCable");
        QVERIFY(shared && shared->isVisible());
        QVERIFY2(shared->text().contains("Cable cellar"), qPrintable(shared->text()));
        const auto was = w.session().document.cable().id;
        w.session().document.duplicate_cable();
        QVERIFY(w.session().document.cable().id != was);
        QVERIFY(!shared->isVisible());
    }
    void the_firms_cables_are_kept_found_and_taken() {
        QFile::remove(app::CableLibrary::path());
        Window w;
        w.session().document.show_design("breakwater");
        const auto feeder = w.session().document.cable();
        {
            app::CableLibrary library(w.session(), w.window.get());
            QVERIFY(library.cables().empty());
            QVERIFY(library.put_in());
            w.session().document.show_design("quay-mast");
            QVERIFY(library.put_in());
            library.search("25 500");
            QCOMPARE(library.list()->count(), 1);
        }
        app::CableLibrary library(w.session(), w.window.get()); // of the next session
        QCOMPARE(library.cables().size(), std::size_t{2});
        const auto steps = w.session().document.undo_stack()->count();
        QVERIFY(library.take(0));
        QCOMPARE(w.session().document.undo_stack()->count(), steps + 1);
        QCOMPARE(w.session().document.cable().conductor_size, feeder.conductor_size);
        QVERIFY(w.session().document.cable().id !=
                feeder.id); // a copy: the other design's cable stays its own
        QVERIFY2(w->banner_text().contains("made for 25 kV"), qPrintable(w->banner_text()));
        const auto file = QDir::temp().filePath("ng-cables-test.json");
        REQUIRE_OK(library.export_to(file));
        QVERIFY(library.remove(0));
        const auto again = library.import(file);
        REQUIRE_OK(again);
        QCOMPARE(library.cables().size(), std::size_t{2});
        std::ofstream(file.toStdString())
            << R"({"format":"needlegauge-cables","version":1,"cables":[{"id":"x","title":"y"}]})";
        const auto bad = library.import(file);
        QVERIFY(!bad && bad.error().message().find("cable x") != std::string::npos);
        QCOMPARE(library.cables().size(), std::size_t{2});
        QFile::remove(app::CableLibrary::path());
    }
    void cables_that_cannot_be_read_are_put_aside_each_time() {
        const auto path = app::CableLibrary::path();
        const auto asides = [&] {
            return QDir(QFileInfo(path).path()).entryList({"cables.json.damaged*"}, QDir::Files).size();
        };
        for (const auto& old : QDir(QFileInfo(path).path()).entryList({"cables.json.damaged*"}, QDir::Files))
            QFile::remove(QFileInfo(path).path() + "/" + old);
        Window w;
        for (int i = 1; i <= 2; ++i) {
            std::ofstream(path.toStdString()) << "no cables, the " << i;
            app::CableLibrary library(w.session(), w.window.get());
            QVERIFY(library.put_in());
            QVERIFY(library.put_in()); // what was written meanwhile can be read
            QCOMPARE(asides(), i);
        }
        // Where nothing can be written nothing is shown as if it were.
        QFile::remove(path);
        app::CableLibrary library(w.session(), w.window.get());
        QVERIFY(QDir().mkpath(path + "/x")); // a folder stands there meanwhile
        QVERIFY(!library.put_in());
        QVERIFY(library.cables().empty());
        const auto file = QDir::temp().filePath("ng-cables-other.json");
        REQUIRE_OK(
            write_file_safely(file.toStdString(), cable_library_json({w.session().document.cable()}).dump()));
        QVERIFY(!library.import(file));
        QDir(path).removeRecursively();
        QFile::remove(file);
    }
    void what_is_shown_is_exported_by_its_ending() {
        Window w;
        QVERIFY(w.wait_refined());
        const QDir dir(QDir::tempPath());
        const auto field = dir.filePath("ng-export.vtu"), traces = dir.filePath("ng-export.csv"),
                   picture = dir.filePath("ng-export.png");
        for (const auto& path : {field, traces, picture}) REQUIRE_OK(w->export_to(path));
        QVERIFY(read_file(field.toStdString())->find("<VTKFile") != std::string::npos);
        QVERIFY(read_file(traces.toStdString())->find("insulation surface") != std::string::npos);
        QVERIFY(read_file(picture.toStdString())->substr(1, 3) == "PNG");
        QVERIFY(w->export_to(dir.filePath("ng-export.doc")).error().message().find(".vtu") !=
                std::string::npos);
        for (const auto& path : {field, traces, picture}) QFile::remove(path);
    }
    void a_right_click_offers_what_can_be_done_there() {
        Window w;
        QVERIFY(w.wait_refined());
        const auto act = [](QMenu* menu, const char* words) {
            for (auto* a : menu->actions())
                if (a->text().startsWith(words)) return a->trigger(), true;
            return false;
        };
        auto& menus = *w->context_menus();
        auto* plot = w->findChild<QWidget*>("stressPlot"); // a child of the strip, as a mouse finds it
        QVERIFY(plot);
        const QPoint at(plot->width() / 3, 40);
        std::unique_ptr<QMenu> menu(menus.menu_for(plot, at));
        QVERIFY(menu);
        QVERIFY(act(menu.get(), "Needle here"));
        QVERIFY(std::abs(w.session().axis.x(w.session().axis.needle_u()) - at.x()) < 2);
        QVERIFY(act(menu.get(), "Copy the traces"));
        QVERIFY(QGuiApplication::clipboard()->text().contains("insulation surface"));
        const double before = w.session().axis.scale();
        QVERIFY(act(menu.get(), "Zoom in here"));
        QVERIFY(w.session().axis.scale() > 1.5 * before);
        menu.reset(menus.menu_for(w->tape_strip(), {200, 30}));
        QVERIFY(act(menu.get(), "Type its marks"));
        QVERIFY(w->cutbacks_page()->isVisible());
        // Rows of tables and lists, and checks.
        auto* table = w->cutbacks_page()->findChild<QTableWidget*>();
        QVERIFY(table && table->rowCount() > 2);
        menu.reset(menus.menu_for(table->viewport(), table->visualItemRect(table->item(1, 0)).center()));
        QVERIFY(act(menu.get(), "Copy this row"));
        QVERIFY(QGuiApplication::clipboard()->text().contains(table->item(1, 0)->text()));
        QVERIFY(act(menu.get(), "Copy all rows"));
        QCOMPARE(QGuiApplication::clipboard()->text().count('\n'), table->rowCount() - 1);
        w->show_stage(app::stage::verdict);
        auto* row = w->verdict_page()->rows().at(0);
        menu.reset(menus.menu_for(row, {5, 5}));
        QVERIFY(act(menu.get(), "Copy it"));
        QVERIFY(QGuiApplication::clipboard()->text().contains(QString::fromStdString(row->check().title)));
        QVERIFY(act(menu.get(), "How is this computed"));
        QVERIFY(w->findChild<app::HelpWindow*>()->isVisible());
    }
    void stress_is_shown_in_what_is_chosen_and_kept() {
        Window w;
        QVERIFY(w.wait_refined());
        const auto plot = w->stress_strip()->plot_widget();
        const double top = plot->yAxis->range().upper;
        const auto needle = w->needle_bar()->text();
        w.session().set_stress_unit(StressUnit::V_per_mil);
        QCOMPARE(plot->yAxis->label(), QString("V/mil"));
        COMPARE_WITHIN(plot->yAxis->range().upper, 25.4 * top, 1e-6);
        QVERIFY(w->needle_bar()->text() != needle);
        w.session().set_stress_unit(StressUnit::kV_per_mm);
        QCOMPARE(w->needle_bar()->text(), needle);
        QCOMPARE(plot->yAxis->range().upper, top);
        w.session().set_stress_unit(StressUnit::V_per_mil);
        // Sentences, aids and what is typed too: nowhere one unit beside the other.
        for (const auto stage : {app::stage::cable, app::stage::shape, app::stage::verdict}) {
            w->show_stage(stage);
            w->verdict_page()->open_row(0);
            for (const auto* label : w->findChildren<QLabel*>())
                if (label->isVisible()) QVERIFY2(!label->text().contains("kV/mm"), qPrintable(label->text()));
            for (const auto* edit : w->findChildren<QLineEdit*>())
                if (edit->isVisible()) QVERIFY2(!edit->text().contains("kV/mm"), qPrintable(edit->text()));
            if (stage == app::stage::verdict) w->verdict_page()->open_row(0);
        }
    }
    void words_of_limits_never_stand_on_one_another() {
        Window w;
        std::size_t seen = 0;
        for (const char* design : {"switch-house", "cellar", "berth-1", "causeway"}) {
            w.session().document.show_design(design);
            QVERIFY(w.wait_refined());
            for (const auto& size : {QSize(1024, 700), QSize(1280, 800), QSize(1920, 1080)}) {
                w->resize(size);
                QApplication::processEvents();
                w->stress_strip()->plot_widget()->replot();
                const auto boxes = w->stress_strip()->label_boxes();
                const auto frame = w->stress_strip()->plot_widget()->axisRect()->rect();
                seen += boxes.size();
                for (std::size_t i = 0; i < boxes.size(); ++i) {
                    QVERIFY2(boxes[i].bottom() <= frame.bottom() + 1, design);
                    QVERIFY2(boxes[i].right() <= w->stress_strip()->plot_widget()->width(), design);
                    for (std::size_t j = 0; j < i; ++j)
                        QVERIFY2(!boxes[i].adjusted(0, 0.5, 0, -0.5).intersects(boxes[j]), design);
                }
            }
        }
        QVERIFY(seen > 30);
    }
    void what_follows_a_hand_comes_once_for_many_moves_and_no_sooner_than_it_may() {
        app::Paced paced(10, 200);
        QElapsedTimer since;
        std::vector<qint64> at;
        QObject::connect(&paced, &QTimer::timeout, &paced, [&] {
            at.push_back(since.elapsed());
            paced.done();
        });
        since.start();
        for (int move = 0; move < 40; ++move) { // every 10 ms
            paced.ask();
            QTest::qWait(10);
        }
        QVERIFY(QTest::qWaitFor([&] { return !paced.isActive(); },
                                test::patient(2000))); // the last move is followed too
        QVERIFY2(at.size() >= 2 && at.size() < 10, qPrintable(QString::number(at.size())));
        for (std::size_t k = 1; k < at.size(); ++k) QVERIFY(at[k] - at[k - 1] >= 195);
        QVERIFY(at.back() >= 300);
    }
    void time_left_is_said_as_exactly_as_it_is_known() {
        QCOMPARE(app::time_left_words(0.2), QString("about 1 s left"));
        QCOMPARE(app::time_left_words(11.7), QString("about 12 s left"));
        QCOMPARE(app::time_left_words(63), QString("about 65 s left"));
        QCOMPARE(app::time_left_words(121), QString("about 3 min left"));
        const app::TimeLeft left;
        QCOMPARE(left.after(0, 7), QString());
        QCOMPARE(left.after(7, 7), QString());
        QTest::qWait(300);
        // 0.3 s or more for one of eleven: three or more for the rest.
        const auto seconds = left.after(1, 11).section(' ', 2, 2).toDouble();
        QVERIFY2(seconds >= 3 && seconds <= 10 * left.elapsed_s() + 1, qPrintable(left.after(1, 11)));
    }
    void a_small_screen_cuts_nothing_off() {
        Window w;
        w.session().document.show_design("quay-mast");
        w->show_stage(app::stage::verdict);
        QVERIFY(w.wait_refined());
        for (const auto& size : {QSize(1280, 800), QSize(1024, 700), QSize(960, 540)}) { // the last: 200 %
            const auto name = QString("%1 x %2").arg(size.width()).arg(size.height());
            w->resize(size);
            QTest::qWait(50);
            QVERIFY2(w->size() == size, qPrintable(name));
            const auto* needle = w->findChild<QWidget*>("needleBar");
            QVERIFY2(needle->mapTo(w.window.get(), QPoint(0, needle->height())).y() <= size.height(),
                     qPrintable(name));
            QVERIFY(needle->toolTip().contains("E_t"));
            // How it ended is said in whole words, and all of it where there is room.
            const auto* state = static_cast<app::StateLabel*>(w->findChild<QWidget*>("solveState"));
            QVERIFY2(state->shown().startsWith("refined, goal met") && !state->shown().contains("…"),
                     qPrintable(name + ": " + state->shown()));
            QVERIFY(state->toolTip().startsWith("refined, goal met: error"));
            if (size.width() == 1280) QCOMPARE(state->shown(), state->toolTip());
            // Every stage can be read, and none stands on another.
            const auto* list = w->findChild<app::StageList*>();
            int below = 0;
            std::vector<QWidget*> shown;
            for (auto* child : list->findChildren<QWidget*>())
                if (child->isVisible()) shown.push_back(child);
            std::sort(shown.begin(), shown.end(), [](auto* a, auto* b) { return a->y() < b->y(); });
            for (const auto* child : shown) {
                QVERIFY2(child->y() >= below, qPrintable(name + ", " + child->objectName()));
                QVERIFY2(child->height() >= child->fontMetrics().height(), qPrintable(name));
                below = child->y() + child->height();
            }
            QVERIFY2(below <= list->height(), qPrintable(name));
            QVERIFY2(shown.size() >= static_cast<std::size_t>(list->count()), qPrintable(name));
            QVERIFY(list->button(app::stage::cable)->toolTip().contains("Cable: table sizes (Ctrl+1)"));
            // Where there is no room for VOID, BUILD and FIELD keep what they need to be read.
            const auto* field = w->findChild<app::FieldStrip*>();
            QVERIFY2(w->build_strip()->height() >= 90 && field->height() >= 70,
                     qPrintable(QString("%1: BUILD %2, FIELD %3 px")
                                    .arg(name)
                                    .arg(w->build_strip()->height())
                                    .arg(field->height())));
            QCOMPARE(w->findChild<app::VoidStripView*>()->isVisible(), size.height() > 600);
            // What VOID shows stands beside its title.
            auto* plot = w->findChild<QCustomPlot*>("voidPlot");
            plot->replot();
            int keys = 0;
            for (int i = 0; i < plot->itemCount(); ++i) {
                const auto* item = qobject_cast<QCPItemText*>(plot->item(i));
                if (!item || !item->text().contains("argest")) continue;
                ++keys;
                QVERIFY2(item->topLeft->pixelPosition().x() > 40, qPrintable(name + ": " + item->text()));
            }
            QCOMPARE(keys, 1);
            // Nor do the words of limits leave the frame, however low it is.
            const auto frame = w->stress_strip()->plot_widget()->axisRect()->rect();
            const auto limits = w->stress_strip()->label_boxes();
            QVERIFY2(limits.size() >= 2, qPrintable(name));
            for (const auto& box : limits)
                QVERIFY2(box.top() > frame.top() - 4 && box.bottom() <= frame.bottom() + 1, qPrintable(name));
        }
    }
    void every_window_fits_a_small_screen() {
        Window w;
        w.session().document.show_design("causeway");
        QVERIFY(w.wait_refined());
        auto* record = w->findChild<app::RecordPage*>();
        const std::vector<std::pair<const char*, QWidget*>> windows{
            {"help", w->open_help()},
            {"comparison", w->open_comparison()},
            {"step by step", w->findChild<app::WorkPage*>()->open_steps()},
            {"trends", record->open_trends()},
            {"tests", record->open_tests()}};
        for (const auto& [name, window] : windows) {
            QVERIFY2(window, name);
            window->show();
            window->resize(940, 500);
            QTest::qWait(30);
            QVERIFY2(window->size() == QSize(940, 500),
                     qPrintable(QString("%1: %2 x %3").arg(name).arg(window->width()).arg(window->height())));
            for (const auto* b : window->findChildren<QPushButton*>())
                if (b->isVisible())
                    QVERIFY2(b->visibleRegion().isEmpty() ||
                                 b->visibleRegion().boundingRect().width() == b->width(),
                             qPrintable(QString("%1: %2").arg(name, b->text())));
            window->close();
        }
    }
    void the_worst_gaps_of_two_sides_never_stand_on_one_another() {
        Window w;
        w.session().document.show_design("causeway");
        w->show_stage(app::stage::verdict);
        QVERIFY(w.wait_refined());
        for (const auto& size : {QSize(1024, 700), QSize(1280, 800), QSize(960, 540)}) {
            w->resize(size);
            QTest::qWait(50);
            auto* plot = w->findChild<QCustomPlot*>("voidPlot");
            plot->replot();
            std::vector<QRectF> boxes;
            for (int i = 0; i < plot->itemCount(); ++i)
                if (const auto* item = qobject_cast<QCPItemText*>(plot->item(i));
                    item && item->text().contains(" left, "))
                    boxes.emplace_back(item->topLeft->pixelPosition(), item->bottomRight->pixelPosition());
            QCOMPARE(boxes.size(), std::size_t(2));
            QVERIFY2(!boxes[0].adjusted(0, 1, 0, -1).intersects(boxes[1].adjusted(0, 1, 0, -1)),
                     qPrintable(QString::number(size.width())));
        }
    }
    void a_design_is_kept_as_a_template_and_others_begin_from_it() {
        std::filesystem::remove_all(app::MainWindow::templates_folder());
        Window w;
        w.session().document.show_design("quay-mast");
        w.session().set_number("edge_radius_mm", 0.35, "Edge radius");
        QVERIFY(!w->keep_template("  ?! "));
        QVERIFY(w->banner_text().contains("title"));
        QVERIFY(w->keep_template("Mast, as we build it"));
        QVERIFY(w->keep_template("Mast, as we build it")); // in place of it
        auto all = read_templates(app::MainWindow::templates_folder());
        QCOMPARE(all.size(), std::size_t{1});
        QCOMPARE(all[0].title, std::string("Mast, as we build it"));
        QVERIFY(all[0].job.designs[0].faults.empty() && all[0].job.designs[0].revisions.empty());
        auto& document = w.session().document;
        document.show_design("switch-house");
        const auto cable = document.design().cable_id;
        const auto before = write_job(document.job()).dump();
        document.add_design(all[0]);
        QCOMPARE(document.design().numbers.at("edge_radius_mm"), 0.35);
        QCOMPARE(document.design().cable_id, cable);
        QVERIFY(document.design().id != "quay-mast");
        QVERIFY(w.session().prepared());
        document.undo_stack()->undo();
        QCOMPARE(write_job(document.job()).dump(), before);
        // One that cannot be read hides no other.
        std::ofstream(app::MainWindow::templates_folder() / "broken.ngjob") << "{";
        std::vector<std::string> unreadable;
        QCOMPARE(read_templates(app::MainWindow::templates_folder(), &unreadable).size(), std::size_t{1});
        QCOMPARE(unreadable.size(), std::size_t{1});
        QVERIFY2(unreadable[0].find("broken.ngjob") != std::string::npos, unreadable[0].c_str());
        std::filesystem::remove_all(app::MainWindow::templates_folder());
    }
    void another_family_says_what_does_not_come_along() {
        Window w;
        w.session().document.show_design("quay-mast");
        w.session().set_number("edge_radius_mm", 0.35, "Edge radius");
        auto* box = w->accessory_page()->findChild<QComboBox*>();
        for (auto* one : w->accessory_page()->findChildren<QComboBox*>())
            if (one->accessibleName() == "Family") box = one;
        QTest::keyClick(w.window.get(), Qt::Key_3, Qt::ControlModifier);
        box->setCurrentIndex(box->currentIndex() + 1);
        emit box->activated(box->currentIndex());
        QVERIFY2(w->banner_text().contains("No longer there") &&
                     w->banner_text().contains("radius", Qt::CaseInsensitive),
                 qPrintable(w->banner_text()));
    }
    void help_is_there_for_terms_and_for_every_check() {
        const auto topics = app::help_topics(test::library());
        REQUIRE_OK(topics);
        QVERIFY(topics->size() > 50);
        Window w;
        auto* help = w->open_help("keys");
        QCOMPARE(help->shown(), QString("keys"));
        // Every figure that a term names is drawn, in the colours of the theme.
        help->search("");
        int figures = 0;
        for (const auto& topic : *topics) {
            static const QRegularExpression figure("figure:([a-z-]+)");
            const auto match = figure.match(topic.html);
            if (!match.hasMatch()) continue;
            ++figures;
            QVERIFY(help->show_about(topic.title));
            auto* browser = help->findChild<QTextBrowser*>();
            const auto image = browser->document()
                                   ->resource(QTextDocument::ImageResource, QUrl(match.captured(0)))
                                   .value<QImage>();
            QVERIFY2(image.width() >= 400, qPrintable(topic.title));
            std::set<QRgb> colours;
            for (int x = 0; x < image.width(); x += 2)
                for (int y = 0; y < image.height(); y += 2) colours.insert(image.pixel(x, y));
            QVERIFY2(colours.size() > 3, qPrintable(topic.title));
        }
        QVERIFY(figures > 15);
        help->search("pollution length");
        QVERIFY(help->list()->count() >= 1);
        help->search("Mastic");
        QCOMPARE(help->shown(), QString("term:Mastic"));
        help->search("nothing like this at all");
        QCOMPARE(help->list()->count(), 0);
        for (const char* id : {"insulation_tangential", "insulation_tangential_peak_b", "screen_edge_a",
                               "edge_zone_half", "cone_surface", "inner_electrode", "insulation_ratio_a",
                               "live_end_tangential", "sleeve_tangential", "air_extinction"}) {
            QVERIFY2(help->show_about(id), id);
            QVERIFY2(help->shown().startsWith("check:") && QString(id).startsWith(help->shown().mid(6)),
                     qPrintable(help->shown()));
        }
        QVERIFY(help->show_about("Edge radius"));
        QCOMPARE(help->shown(), QString("term:Edge radius"));
        QTest::keyClick(w.window.get(), Qt::Key_F1);
        QVERIFY(w->findChild<app::HelpWindow*>()->isVisible());
    }
    void text_stands_out_from_its_ground_in_both_themes() {
        for (const auto& theme : {draw::Theme::light(), draw::Theme::night()})
            for (const auto& ground : {theme.paper, theme.panel})
                for (const auto& [name, colour] :
                     {std::pair{"ink", theme.ink}, std::pair{"faint", theme.faint},
                      std::pair{"accent", theme.accent}, std::pair{"ochre", theme.ochre},
                      std::pair{"brick", theme.brick}})
                    QVERIFY2(contrast(colour, ground) >= 4.5,
                             qPrintable(QString("%1 on %2 (%3): %4")
                                            .arg(name, ground.name(), theme.dark ? "dark" : "light")
                                            .arg(contrast(colour, ground))));
    }
};

QTEST_MAIN(TestFirstUse)
#include "test_first_use.moc"
