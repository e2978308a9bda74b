// Hands that do anything: seeded random typing, choosing, dragging and undoing over all stages. Whatever they
// do, the job can be written and read, what cannot be used says what to do, and undo leads all the way back.
#include "app/strips/tape_strip.h"
#include "window_support.h"
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QTableWidget>
#include <cstdio>
#include <fstream>
#include <random>
#include <unistd.h>

using namespace ng;
using test::Window;

namespace {

class Hands {
  public:
    Hands(Window& window, unsigned seed) : w_(window), generator_(seed) {}

    /// One act; its words are for the message of a failed check.
    QString act() {
        switch (pick(9)) {
        case 0:
            return stage();
        case 1:
        case 2:
        case 3:
            return type_something();
        case 4:
            return choose();
        case 5:
            return write_a_cell();
        case 6:
            return drag();
        case 7:
            return press();
        default:
            return another_design();
        }
    }

  private:
    int pick(int count) { return std::uniform_int_distribution<int>(0, count - 1)(generator_); }

    template <class Widget> Widget* any_visible() {
        QList<Widget*> usable;
        for (auto* widget : w_->findChildren<Widget*>())
            if (widget->isVisible() && widget->isEnabled() &&
                !qobject_cast<QComboBox*>(widget->parentWidget()))
                usable.push_back(widget);
        return usable.isEmpty() ? nullptr : usable[pick(static_cast<int>(usable.size()))];
    }

    QString something() {
        const QStringList words{"12.5",    "21 mm",   "240",  "6.5", "-7",     "3 1/2 in",
                                "1e9",     "abc",     "",     "0",   "nan",    "inf",
                                "1,5",     "½",       "mm",   "24",  "300 mm", "0.1 mm",
                                "8.25 in", "''\"<>&", "1e-9", "5e",  "  ",     QString(4000, '9')};
        return words[pick(static_cast<int>(words.size()))];
    }

    QString stage() {
        const int number = pick(9) + 1;
        QTest::keyClick(w_.window.get(), static_cast<Qt::Key>(Qt::Key_0 + number), Qt::ControlModifier);
        return QString("stage %1").arg(number);
    }
    QString type_something() {
        auto* field = any_visible<QLineEdit>();
        if (!field || field->isReadOnly()) return "no field";
        const auto text = something();
        const auto words = QString("type “%1” into %2").arg(text.left(20), field->accessibleName());
        field->setFocus();
        field->selectAll();
        field->insert(text);
        QTest::keyClick(field, Qt::Key_Return);
        return words;
    }
    QString choose() {
        auto* box = any_visible<QComboBox>();
        if (!box || box->count() < 2) return "no choice";
        const auto words = QString("choose in %1").arg(box->accessibleName());
        box->setFocus();
        QTest::keyClick(box, pick(2) ? Qt::Key_Down : Qt::Key_Up);
        return words;
    }
    QString write_a_cell() {
        auto* table = any_visible<QTableWidget>();
        if (!table || table->rowCount() == 0) return "no table";
        auto* item = table->item(pick(table->rowCount()), pick(table->columnCount()));
        if (!item || !(item->flags() & Qt::ItemIsEditable)) return "a fixed cell";
        const auto text = something();
        item->setText(text);
        return QString("write “%1” into a cell of %2").arg(text.left(20), table->accessibleName());
    }
    QString drag() {
        QWidget* strip = w_->build_strip();
        if (pick(2))
            if (auto* tape = w_->findChild<app::TapeStrip*>()) strip = tape;
        if (!strip->isVisible()) return "no strip";
        const QPoint from(pick(strip->width()), pick(strip->height())),
            to(pick(strip->width()), pick(strip->height()));
        QTest::mousePress(strip, Qt::LeftButton, {}, from);
        for (int i = 1; i <= 4; ++i) QTest::mouseMove(strip, from + i * (to - from) / 4);
        QTest::mouseRelease(strip, Qt::LeftButton, {}, to);
        return QString("drag from %1, %2").arg(from.x()).arg(from.y());
    }
    QString press() {
        const Qt::Key keys[] = {Qt::Key_U,    Qt::Key_K,           Qt::Key_P,  Qt::Key_BracketRight,
                                Qt::Key_Home, Qt::Key_BracketLeft, Qt::Key_F5, Qt::Key_Escape};
        auto* strip = w_->build_strip();
        strip->setFocus();
        const auto key = keys[pick(8)];
        QTest::keyClick(strip, key);
        if (pick(3) == 0) w_.session().document.undo_stack()->undo();
        return QString("key %1").arg(key);
    }
    QString another_design() {
        const auto& designs = w_.session().document.job().designs;
        const auto id = designs[pick(static_cast<int>(designs.size()))].id;
        w_.session().document.show_design(id);
        return "show " + QString::fromStdString(id);
    }

    Window& w_;
    std::mt19937 generator_;
};

std::string written(const Window& w) {
    auto job = w.session().document.job();
    job.open_design = {}; // to look at another design is no step
    return write_job(job).dump();
}

/// What the process holds, MB (proc(5)).
double resident_MB() {
    std::ifstream status("/proc/self/statm");
    double pages = 0, resident = 0;
    status >> pages >> resident;
    return resident * static_cast<double>(sysconf(_SC_PAGESIZE)) / 1e6;
}

} // namespace

class TestRandomHands : public QObject {
    Q_OBJECT
  private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }

    void whatever_is_done_can_be_kept_explained_and_undone_data() {
        QTest::addColumn<unsigned>("seed");
        for (unsigned seed = 1; seed <= 6; ++seed) QTest::addRow("seed %u", seed) << seed;
    }
    void whatever_is_done_can_be_kept_explained_and_undone() {
        QFETCH(unsigned, seed);
        Window w;
        const auto before = written(w);
        Hands hands(w, seed);
        QStringList done;
        for (int i = 0; i < test::some(120); ++i) {
            done << hands.act();
            const auto words = done.mid(std::max(0, static_cast<int>(done.size()) - 4)).join("; ").toUtf8();
            const char* story = words.constData();
            QVERIFY2(w->isVisible() && !QApplication::activeModalWidget(), story);
            const auto& session = w.session();
            if (!session.prepared()) {
                QVERIFY2(session.input_error(), story);
                QVERIFY2(!session.input_error()->item.empty() && !session.input_error()->remedy.empty(),
                         story);
                QVERIFY2(!w->banner_text().isEmpty(), story);
            }
            const auto text = write_job(session.document.job()).dump();
            const auto again = read_job(nlohmann::json::parse(text), "again");
            QVERIFY2(again.has_value(), story);
            QVERIFY2(write_job(*again).dump() == text, story);
        }
        auto* stack = w.session().document.undo_stack();
        qInfo("%d steps were made", stack->count());
        QVERIFY(stack->count() > 5);
        while (stack->canRedo()) stack->redo();
        const auto after = written(w);
        QVERIFY(after != before);
        while (stack->canUndo()) stack->undo();
        QVERIFY(written(w) == before);
        while (stack->canRedo()) stack->redo();
        QVERIFY(written(w) == after);
    }
    /// NEEDLEGAUGE_HANDS_MINUTES: how long they work, each act given time to be solved; half a minute of them
    /// else.
    void memory_stays_flat_however_long_hands_work() {
        const double minutes = qEnvironmentVariableIsSet("NEEDLEGAUGE_HANDS_MINUTES")
                                   ? QString(qgetenv("NEEDLEGAUGE_HANDS_MINUTES")).toDouble()
                                   : 0.5;
        Window w;
        QVERIFY(w.wait_refined());
        Hands hands(w, 7);
        QElapsedTimer timer;
        timer.start();
        int acts = 0, printed = 0;
        double most = 0;
        const auto worked = [&] { return static_cast<double>(timer.elapsed()) / 60000; };
        while (worked() < minutes) {
            hands.act();
            QTest::qWait(++acts % 10 == 0 ? 1500 : 100);
            most = std::max(most, resident_MB());
            if (worked() >= minutes / 12 * (printed + 1)) {
                ++printed;
                std::printf("  after %5.1f min, %6d acts: %4.0f MB, %d steps to undo\n", worked(), acts,
                            resident_MB(), w.session().document.undo_stack()->count());
                std::fflush(stdout);
            }
        }
        if (minutes >= 1) QTest::qWait(60000);
        QVERIFY(acts > 10);
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__) // which keep what is freed
        QTRY_VERIFY2_WITH_TIMEOUT(resident_MB() < 200, "more than a window holds at rest",
                                  test::patient(60000));
#endif
        std::printf("  at rest: %.0f MB, at most %.0f MB\n", resident_MB(), most);
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    ng::app::prepare_application(application);
    TestRandomHands test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_random_hands.moc"
