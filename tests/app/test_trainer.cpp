// The trainer in the window: exercises played by touch and by keys, judged by the field, kept, examined, and
// what goes wrong with each.
#include "app/stages/trainer_page.h"
#include "app/stages/trainer_window.h"
#include "io/file.h"
#include "window_support.h"
#include <QAbstractItemView>
#include <QScrollArea>
#include <QScrollBar>
#include <QTemporaryDir>
#include <fstream>

using namespace ng;
using test::Window;

namespace {

struct Class : Window {
    QTemporaryDir dir;
    qint64 now = 1'000'000;
    explicit Class(const char* design = "cellar") {
        session().document.show_design(design);
        trainee().open_file(dir.filePath("class.ngtrain"));
        trainee().set_who({"apprentice", "AB"});
        trainee().set_clock([this] { return now; });
    }
    ~Class() { window.reset(); }
    app::Trainee& trainee() { return window->trainee(); }
    app::TrainerPage& page() { return *window->trainer_page(); }
    bool wait_truth() {
        return QTest::qWaitFor([this] { return trainee().is_truth_known(); }, test::patient(60000));
    }
    void ask(Task task, std::uint64_t seed, const char* kind = "") {
        ExerciseWish wish;
        wish.task = task;
        wish.kind = kind;
        wish.design = design().id;
        QVERIFY(trainee().ask(wish, seed));
    }
    /// The first inspection with this fault alone, so large at least.
    void ask_for_one(const char* kind, double least_mm) {
        for (std::uint64_t seed = 0; seed < 400; ++seed) {
            ask(Task::inspect, seed, kind);
            const auto faults = trainee().exercise()->faults();
            if (faults.size() == 1 && faults[0].kind == kind && faults[0].side == Side::a &&
                faults[0].size_mm >= least_mm)
                return;
        }
        QFAIL("no seed asks for it");
    }
};

void touch(QWidget* widget) {
    QVERIFY(widget->isVisible() && widget->isEnabled());
    QTest::mouseClick(widget, Qt::LeftButton);
}

} // namespace

class TestTrainerWindow : public QObject {
    Q_OBJECT
  private slots:
    void init() { QStandardPaths::setTestModeEnabled(true); }

    void a_fault_is_looked_for_found_judged_and_shown() {
        Class c;
        c.ask_for_one("over_shaved", 0.7); // insulation taken off too deep
        auto* w = c.page().open_window();
        QVERIFY(QTest::qWaitForWindowExposed(w));
        const auto fault = c.trainee().exercise()->faults().at(0);
        QCOMPARE(fault.kind, std::string("over_shaved"));
        // Nothing on the screen names it before it is judged.
        for (const auto* l : w->findChildren<QLabel*>()) QVERIFY(!l->text().contains("over-shaved"));
        touch(w->means_button("caliper"));
        QVERIFY(w->seen_words().contains("the diameter drops"));
        QVERIFY(c.wait_truth()); // then the discharge set too can say what it shows
        touch(w->means_button("discharge"));
        QCOMPARE(c.trainee().looked().size(), std::size_t{2});
        QVERIFY(c.trainee().seconds() >= 120 + 2400);
        w->kind_box()->setCurrentIndex(w->kind_box()->findData("over_shaved"));
        touch(w->decision_button(FaultDecision::cut_back));
        QCOMPARE(c.trainee().findings().size(), std::size_t{1});
        touch(w->release_button(false));
        QVERIFY(c.trainee().score() && c.trainee().score()->right);
        QVERIFY(w->said().contains("Right") && w->said().contains("over-shaved"));
        // Its field without and with it, and the size that hurts.
        QVERIFY(QTest::qWaitFor(
            [&] {
                const auto& s = c.trainee().seeing();
                return !s.empty() && s[0].critical.contains("Hurts from");
            },
            test::patient(60000)));
        const auto& s = c.trainee().seeing()[0];
        QVERIFY(!s.without.isNull() && !s.with.isNull() && s.without != s.with);
        QVERIFY(s.checks.contains("limit"));
        // It is kept, and its topic went a box up.
        QCOMPARE(c.trainee().progress().exercises(), std::size_t{1});
        QCOMPARE(c.trainee().progress().topics().at(0).box, 2);
        QCOMPARE(c.page().topics()->count(), 1);
        // Judged once: nothing can be changed any more.
        QVERIFY(!w->decision_button(FaultDecision::accept)->isVisible());
        c.trainee().release(true);
        QCOMPARE(c.trainee().progress().exercises(), std::size_t{1});
    }
    void whoever_releases_what_hurts_has_nothing_and_sees_why() {
        Class c;
        c.ask_for_one("over_shaved", 0.7);
        auto* w = c.page().open_window();
        touch(w->release_button(true)); // before the field is known: it is judged when it is
        QVERIFY(c.trainee().is_answered());
        QVERIFY(QTest::qWaitFor([&] { return c.trainee().score().has_value(); }, test::patient(60000)));
        QCOMPARE(c.trainee().score()->points, 0.0);
        QVERIFY(w->said().contains("must not be") && w->said().contains("cut out"));
        QCOMPARE(c.trainee().progress().topics().at(0).box, 1);
    }
    void drills_are_played_by_keys() {
        Class c;
        auto* w = c.page().open_window();
        for (const auto task : {Task::order, Task::tool, Task::missing, Task::caution, Task::window}) {
            c.ask(task, 3);
            const auto right = *right_answer(*c.trainee().exercise(), *c.trainee().data());
            auto* list = w->options();
            QVERIFY2(list->isVisible(), task_word(task));
            const auto row_of = [&](const std::string& key) {
                for (int i = 0; i < list->count(); ++i)
                    if (list->item(i)->data(Qt::UserRole).toString().toStdString() == key) return i;
                return -1;
            };
            if (task == Task::order) {
                for (int to = 0; to < list->count(); ++to) { // each to its place, by Alt and arrows
                    list->setCurrentRow(row_of(right.keys[static_cast<std::size_t>(to)]));
                    while (list->currentRow() > to) QTest::keyClick(w, Qt::Key_Up, Qt::AltModifier);
                }
            } else {
                list->setCurrentRow(row_of(right.keys[0]));
            }
            QTest::keyClick(w, Qt::Key_Return);
            QVERIFY2(c.trainee().score() && c.trainee().score()->right, task_word(task));
        }
        QCOMPARE(c.trainee().progress().exercises(), std::size_t{5});
        QTest::keyClick(w, Qt::Key_N); // the next
        QVERIFY(!c.trainee().is_answered());
    }
    void a_number_that_is_none_stays_as_typed() {
        Class c;
        c.ask(Task::blade, 2);
        auto* w = c.page().open_window();
        const auto right = *right_answer(*c.trainee().exercise(), *c.trainee().data());
        w->number_field()->setText("deep");
        touch(w->answer_button());
        QVERIFY(!c.trainee().is_answered());
        QCOMPARE(w->number_field()->text(), QString("deep"));
        bool said = false;
        for (const auto* l : w->findChildren<QLabel*>()) said = said || l->text().contains("Answer");
        QVERIFY(said);
        w->number_field()->setText(
            QString("%1").arg(*right.number).replace('.', ',')); // as some write decimals
        touch(w->answer_button());
        QVERIFY(c.trainee().score() && c.trainee().score()->right);
        // Nothing chosen is no answer.
        c.ask(Task::tool, 3);
        w->options()->setCurrentRow(-1);
        w->options()->clearSelection();
        touch(w->answer_button());
        QVERIFY(!c.trainee().is_answered());
    }
    void a_newcomer_begins_and_plays_on() {
        Class c("quay-mast");
        c.trainee().set_who({"apprentice", ""});
        auto* list = c.window->findChild<QAbstractButton*>("stageTrainer");
        QVERIFY(list);
        QTest::mouseClick(list, Qt::LeftButton);
        touch(c.page().next_button());
        auto* w = c.window->findChild<app::TrainerWindow*>();
        QVERIFY(w && w->isVisible());
        std::set<std::string> met;
        for (int i = 0; i < 10; ++i) { // ten of them, one after the other, whatever they are
            QVERIFY(c.trainee().exercise());
            const auto e = *c.trainee().exercise();
            met.insert(e.id);
            if (e.task == Task::inspect) {
                touch(w->means_button("loupe"));
                touch(w->release_button(false));
                QVERIFY(
                    QTest::qWaitFor([&] { return c.trainee().score().has_value(); }, test::patient(60000)));
            } else if (e.question.form == Question::Form::number) {
                w->number_field()->setText("12");
                touch(w->answer_button());
            } else {
                w->options()->setCurrentRow(0);
                touch(w->answer_button());
            }
            QVERIFY(c.trainee().score());
            QVERIFY(!w->said().isEmpty());
            touch(w->another_button());
        }
        QCOMPARE(met.size(), std::size_t{10});
    }
    void an_exam_is_played_to_its_end_and_signed() {
        Class c;
        QVERIFY(c.trainee().begin_exam(40, 3, 1, 20));
        auto* w = c.page().open_window();
        QSignalSpy ended(&c.trainee(), &app::Trainee::exam_ended);
        for (int i = 1; i <= 3; ++i) {
            QCOMPARE(c.trainee().exam_at(), i);
            QVERIFY(!w->another_button()->isVisible());
            const auto e = *c.trainee().exercise();
            if (e.task == Task::inspect) {
                QVERIFY(c.wait_truth());
                touch(w->release_button(false));
            } else {
                const auto right = *right_answer(e, *c.trainee().data());
                right.number ? (void)c.trainee().answer_number(*right.number)
                             : c.trainee().answer_keys(right.keys);
            }
        }
        QCOMPARE(ended.count(), 1);
        const auto pdf = c.dir.filePath("result.pdf"), html = c.dir.filePath("result.html");
        QVERIFY(c.trainee().write_result(pdf));
        QVERIFY(c.trainee().write_result(html));
        QVERIFY(read_file(html.toStdString())->find("3 of 3 answered") != std::string::npos);
        // The same seed asks the same of the next one.
        const auto again = new_exercise(c.session().document.job(), 40, {}, *c.trainee().data());
        QVERIFY(again);
        // One that runs out of time ends by itself.
        QVERIFY(c.trainee().begin_exam(41, 5, 1, 1));
        c.now += 59'000;
        c.trainee().tick();
        QVERIFY(c.trainee().exercise());
        c.now += 2'000;
        c.trainee().tick();
        QVERIFY(!c.trainee().exercise());
        QCOMPARE(ended.count(), 2);
        QVERIFY(!c.trainee().begin_exam(41, 0, 1, 1));
        // After an exam an exercise is one of its own again.
        c.ask(Task::blade, 2);
        QVERIFY(!c.trainee().exam());
        c.trainee().answer_number(0.1);
        QVERIFY(c.trainee().exercise() && c.trainee().score());
    }
    void what_was_answered_is_kept_whatever_comes_then() {
        const auto kept = [](const QTemporaryDir& dir) {
            return *TrainFile::open(dir.filePath("class.ngtrain").toStdString())->answers();
        };
        Class c;
        QVERIFY(c.trainee().begin_exam(40, 3, 1, 1));
        while (c.trainee().exercise() && c.trainee().exercise()->task != Task::inspect)
            c.trainee().exercise()->question.form == Question::Form::number
                ? (void)c.trainee().answer_number(1)
                : c.trainee().answer_keys(right_answer(*c.trainee().exercise(), *c.trainee().data())->keys);
        const auto before = kept(c.dir).size();
        QVERIFY(c.trainee().exercise());
        c.trainee().release(false); // in time; its field is still being solved
        c.now += 120'000;
        c.trainee().tick();
        QVERIFY(QTest::qWaitFor([&] { return !c.trainee().exam(); }, test::patient(60000)));
        QCOMPARE(kept(c.dir).size(), before + 1);
        QVERIFY(kept(c.dir).back().points);
        // One that is left before its field is known is kept without points.
        c.ask(Task::inspect, 12);
        c.trainee().release(false);
        c.trainee().close();
        QCOMPARE(kept(c.dir).size(), before + 2);
        QVERIFY(!kept(c.dir).back().points && !kept(c.dir).back().not_scored.empty());
    }
    void an_instructor_hides_a_fault_of_their_own() {
        Class c;
        QVERIFY(!c.trainee().exercise());
        c.session().document.edit("a fault", {}, [](Job& job) {
            Fault f;
            f.kind = "connector_burr";
            f.side = Side::b;
            f.size_mm = 0.5;
            job.find_design("cellar")->faults = {f};
        });
        QVERIFY(c.trainee().ask_own());
        QVERIFY(c.trainee().exercise()->made_by_hand);
        QVERIFY(c.wait_truth());
        QVERIFY(!c.trainee().truth()->release());
        c.trainee().close(); // left: nothing is kept
        QCOMPARE(c.trainee().progress().exercises(), std::size_t{0});
    }
    void files_that_are_none_are_said_and_a_trainee_is_forgotten() {
        Class c;
        QSignalSpy said(&c.session(), &app::Session::message);
        const auto other = c.dir.filePath("other.ngtrain");
        std::ofstream(other.toStdString())
            << "a text of some length that is certainly no database of anybody at all, "
               "and it is longer than a header";
        QVERIFY(!c.trainee().open_file(other));
        QVERIFY(said.last()[0].toString().contains("no trainer's file"));
        QCOMPARE(c.trainee().path(), c.dir.filePath("class.ngtrain")); // the one before stays
        c.ask(Task::blade, 2);
        c.trainee().answer_number(0.1);
        QCOMPARE(c.trainee().progress().exercises(), std::size_t{1});
        QVERIFY(c.trainee().forget());
        QCOMPARE(c.trainee().progress().exercises(), std::size_t{0});
        // Without initials nothing is kept.
        c.trainee().set_who({"apprentice", ""});
        c.ask(Task::blade, 2);
        c.trainee().answer_number(0.1);
        c.trainee().set_who({"apprentice", "AB"});
        QCOMPARE(c.trainee().progress().exercises(), std::size_t{0});
    }
    void what_is_left_while_it_is_solved_goes_nowhere() {
        Class c;
        for (int i = 0; i < 4; ++i) c.ask(Task::inspect, static_cast<std::uint64_t>(i));
        c.ask(Task::blade, 2);
        QTest::qWait(1500);
        QVERIFY(!c.trainee().truth());
        c.ask(Task::inspect, 12);
        c.window.reset(); // closed in the middle
    }
    void everything_is_large_enough_and_named() {
        Class c;
        auto* w = c.page().open_window();
        for (const auto task : all_tasks()) {
            c.ask(task, 3);
            for (const auto* b : w->findChildren<QPushButton*>()) {
                if (!b->isVisible()) continue;
                QVERIFY2(b->height() >= app::touch_px, qPrintable(b->text()));
                QVERIFY2(!b->accessibleName().isEmpty() || !b->text().isEmpty(), "a button without a name");
            }
            for (const auto* edit : w->findChildren<QLineEdit*>())
                if (edit->isVisible()) QVERIFY(!edit->accessibleName().isEmpty());
            QVERIFY(w->width() <= 1280);
            // A small screen, or a large one at 200 %: nothing has to be reached for sideways.
            w->resize(940, 500);
            QTest::qWait(30);
            QCOMPARE(w->size(), QSize(940, 500));
            for (const auto* b : w->findChildren<QPushButton*>())
                if (b->isVisible())
                    QVERIFY2(b->visibleRegion().isEmpty() ||
                                 b->visibleRegion().boundingRect().width() == b->width(),
                             qPrintable(b->text()));
            for (const auto* area : w->findChildren<QScrollArea*>())
                QVERIFY(area->horizontalScrollBar()->maximum() == 0);
            w->resize(1180, 780);
        }
    }
};

QTEST_MAIN(TestTrainerWindow)
#include "test_trainer.moc"
