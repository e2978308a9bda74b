// Every control of every stage: what it changes is one step, undo brings back what it showed, redo what it
// changed; what it refuses, it says.
#include "window_support.h"
#include <QAbstractButton>
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QPointer>
#include <QStackedWidget>
#include <set>

using namespace ng;
using test::Window;

namespace {

void show_stage(Window& w, int number) {
    QTest::keyClick(w.window.get(), static_cast<Qt::Key>(Qt::Key_0 + number), Qt::ControlModifier);
    QApplication::processEvents();
}

/// What a screen reader says.
QString name_of(QWidget* widget) {
    const auto* button = qobject_cast<QAbstractButton*>(widget);
    return button && widget->accessibleName().isEmpty() ? button->text() : widget->accessibleName();
}

/// Visible controls of a kind by name: those of the stage's page, and of what stands beside it where the row
/// of data says so.
template <class Widget> std::map<QString, QPointer<Widget>> controls(Window& w) {
    QFETCH(bool, beside);
    std::map<QString, QPointer<Widget>> out;
    const QWidget* page = w->findChild<QStackedWidget*>("stages")->currentWidget();
    for (auto* widget : w->findChildren<Widget*>())
        if (widget->isVisible() && widget->isEnabled() && !widget->parentWidget()->inherits("QComboBox") &&
            (beside || page->isAncestorOf(widget)))
            out.emplace(name_of(widget), widget);
    return out;
}

QString other_value(const QString& shown) {
    // The same unit, a little larger: "25.0 mm" to "25.3 mm".
    static const QRegularExpression number(R"(^\s*(-?[0-9]+(?:\.[0-9]+)?)(.*)$)");
    const auto match = number.match(shown);
    if (!match.hasMatch()) return shown + "x";
    const double value = match.captured(1).toDouble();
    return QString::number(value * 1.01 + 0.05, 'f', 2) + match.captured(2);
}

std::string written(const Window& w) {
    return write_job(w.session().document.job()).dump();
}

} // namespace

class TestControls : public QObject {
    Q_OBJECT
    static void each_stage() {
        QTest::addColumn<QString>("design");
        QTest::addColumn<int>("stage");
        QTest::addColumn<bool>("beside"); // what stands beside the pages is the same at each: once a design
        for (int stage = 1; stage <= 9; ++stage)
            QTest::addRow("ramp-pole, stage %d", stage) << QString("ramp-pole") << stage << (stage == 1);
        for (const int stage : {3, 8}) // a joint: two sides
            QTest::addRow("causeway, stage %d", stage) << QString("causeway") << stage << (stage == 3);
        QTest::newRow("cellar, stage 4") << QString("cellar") << 4 << true; // its tape
    }

    /// After an edit: one step at most, and undo and redo lead there and back.
    void check_step(Window& w, const QString& name, const std::string& before,
                    const std::function<QString()>& shown, const QString& shown_before) {
        auto* stack = w.session().document.undo_stack();
        const auto what = name.toUtf8();
        const auto after = written(w);
        if (after == before) {
            QVERIFY2(stack->count() == 0, what); // a step that changes nothing
            return;
        }
        QVERIFY2(stack->count() == 1, what);
        const auto shown_after = shown();
        stack->undo();
        QApplication::processEvents();
        QVERIFY2(written(w) == before, what);
        QVERIFY2(shown() == shown_before,
                 qPrintable(name + ": shows “" + shown() + "” after undo, “" + shown_before + "” before"));
        stack->redo();
        QApplication::processEvents();
        QVERIFY2(written(w) == after, what);
        QVERIFY2(shown() == shown_after, what);
        stack->undo();
        QApplication::processEvents();
        stack->clear();
        QVERIFY2(written(w) == before, what);
    }

    /// Changes every control of a kind on the stage that is asked for, one after the other; how many changed
    /// the job. `change` says whether it did anything.
    template <class Widget>
    int each_control(const std::function<QString(Widget*)>& read,
                     const std::function<bool(Widget*)>& change) {
        QFETCH(QString, design);
        QFETCH(int, stage);
        Window w;
        w.session().document.show_design(design.toStdString());
        show_stage(w, stage);
        std::set<QString> names;
        for (const auto& [name, widget] : controls<Widget>(w)) names.insert(name);
        int changed = 0;
        for (const auto& name : names) {
            const auto find = [&] { // pages may make their controls anew
                auto now = controls<Widget>(w);
                return now.contains(name) ? now[name].data() : nullptr;
            };
            const auto shown = [&] {
                auto* found = find();
                return found ? read(found) : QString("gone");
            };
            if (!find()) continue;
            const auto before = written(w);
            const auto shown_before = shown();
            if (!change(find())) continue;
            QApplication::processEvents();
            changed += written(w) != before;
            check_step(w, name, before, shown, shown_before);
            if (QTest::currentTestFailed()) break;
        }
        return changed;
    }

  private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }

    void fields_are_one_step_each_data() { each_stage(); }
    void fields_are_one_step_each() {
        QFETCH(int, stage);
        const int changed = each_control<QLineEdit>([](QLineEdit* field) { return field->text(); },
                                                    [](QLineEdit* field) {
                                                        if (field->isReadOnly()) return false;
                                                        const auto other = other_value(field->text());
                                                        field->setFocus();
                                                        field->selectAll();
                                                        QTest::keyClicks(field, other);
                                                        QTest::keyClick(field, Qt::Key_Return);
                                                        return true;
                                                    });
        QVERIFY(stage != 3 || changed > 15);
    }
    void choices_are_one_step_each_data() { each_stage(); }
    void choices_are_one_step_each() {
        each_control<QComboBox>([](QComboBox* box) { return box->currentText(); },
                                [](QComboBox* box) {
                                    if (box->count() < 2 || box->accessibleName() == "Design")
                                        return false; // to look is no step
                                    box->setFocus();
                                    const bool last = box->currentIndex() + 1 == box->count();
                                    QTest::keyClick(box, last ? Qt::Key_Up : Qt::Key_Down);
                                    return true;
                                });
    }
    void boxes_are_one_step_each_data() { each_stage(); }
    void boxes_are_one_step_each() {
        each_control<QCheckBox>([](QCheckBox* box) { return QString(box->isChecked() ? "on" : "off"); },
                                [](QCheckBox* box) {
                                    box->click();
                                    return true;
                                });
    }
    void nonsense_changes_nothing_and_says_so_data() { each_stage(); }
    void nonsense_changes_nothing_and_says_so() {
        QFETCH(QString, design);
        QFETCH(int, stage);
        Window w;
        w.session().document.show_design(design.toStdString());
        show_stage(w, stage);
        std::set<QString> names;
        for (const auto& [name, field] : controls<QLineEdit>(w)) names.insert(name);
        static const QRegularExpression number(R"(^\s*-?[0-9])");
        for (const auto& name : names) {
            auto now = controls<QLineEdit>(w);
            if (!now.contains(name) || now[name]->isReadOnly()) continue;
            auto* field = now[name].data();
            const auto shown = field->text();
            if (!number.match(shown).hasMatch()) continue; // words may be any words
            const auto before = written(w);
            field->setFocus();
            field->selectAll();
            QTest::keyClicks(field, "half a yard or so");
            QTest::keyClick(field, Qt::Key_Return);
            QApplication::processEvents();
            QVERIFY2(written(w) == before, qPrintable(name));
            QVERIFY2(!w->banner_text().isEmpty(), qPrintable(name));
            now = controls<QLineEdit>(w);
            QVERIFY2(now.contains(name), qPrintable(name));
            now[name]->setFocus();
            now[name]->selectAll();
            QTest::keyClicks(now[name], shown);
            QTest::keyClick(now[name], Qt::Key_Return);
            QApplication::processEvents();
            w.session().document.undo_stack()->undo(); // where the shown figure became the user's own
            w.session().document.undo_stack()->clear();
        }
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    ng::app::prepare_application(application);
    TestControls test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_controls.moc"
