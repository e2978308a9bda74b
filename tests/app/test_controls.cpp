// Every control of every stage: what it changes is one step, undo brings back what it showed, redo what it
// changed; what it refuses, it says.
#include "window_support.h"
#include <QAbstractButton>
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPointer>
#include <QScrollArea>
#include <QSpinBox>
#include <set>

using namespace ng;
using test::Window;

namespace {

void show_stage(Window& w, int number) {
    QTest::keyClick(w.window.get(), static_cast<Qt::Key>(Qt::Key_0 + number), Qt::ControlModifier);
    QApplication::processEvents();
}

/// Visible controls of a kind by name; names are what a screen reader says.
template <class Widget> std::map<QString, QPointer<Widget>> controls(Window& w) {
    std::map<QString, QPointer<Widget>> out;
    for (auto* widget : w->findChildren<Widget*>())
        if (widget->isVisible() && widget->isEnabled() && !widget->accessibleName().isEmpty() &&
            !widget->parentWidget()->inherits("QComboBox") && !widget->parentWidget()->inherits("QSpinBox"))
            out.emplace(widget->accessibleName(), widget);
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
        for (const char* design : {"ramp-pole", "causeway"})
            for (int stage = 1; stage <= 9; ++stage)
                QTest::addRow("%s, stage %d", design, stage) << QString(design) << stage;
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

  private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }

    void fields_are_one_step_each_data() { each_stage(); }
    void fields_are_one_step_each() {
        QFETCH(QString, design);
        QFETCH(int, stage);
        Window w;
        w.session().document.show_design(design.toStdString());
        show_stage(w, stage);
        int changed = 0;
        std::set<QString> names;
        for (const auto& [name, field] : controls<QLineEdit>(w)) names.insert(name);
        for (const auto& name : names) {
            auto now = controls<QLineEdit>(w);
            if (!now.contains(name) || now[name]->isReadOnly()) continue;
            auto* field = now[name].data();
            const auto before = written(w);
            const auto shown_before = field->text();
            field->setFocus();
            field->selectAll();
            QTest::keyClicks(field, other_value(shown_before));
            QTest::keyClick(field, Qt::Key_Return);
            QApplication::processEvents();
            changed += written(w) != before;
            check_step(
                w, name, before,
                [&] {
                    auto found = controls<QLineEdit>(w);
                    return found.contains(name) ? found[name]->text() : QString("gone");
                },
                shown_before);
            if (QTest::currentTestFailed()) return;
        }
        if (stage == 3) QVERIFY(changed > 15);
    }
    void choices_are_one_step_each_data() { each_stage(); }
    void choices_are_one_step_each() {
        QFETCH(QString, design);
        QFETCH(int, stage);
        Window w;
        w.session().document.show_design(design.toStdString());
        show_stage(w, stage);
        std::set<QString> names;
        for (const auto& [name, box] : controls<QComboBox>(w)) names.insert(name);
        for (const auto& name : names) {
            auto now = controls<QComboBox>(w);
            if (!now.contains(name) || now[name]->count() < 2) continue;
            const auto in_page = now[name].data();
            if (w.design().id != design.toStdString()) // the design chooser itself: no step
                w.session().document.show_design(design.toStdString());
            const auto open = w.design().id;
            const auto before = written(w);
            const auto shown_before = in_page->currentText();
            in_page->setFocus();
            QTest::keyClick(in_page,
                            in_page->currentIndex() + 1 < in_page->count() ? Qt::Key_Down : Qt::Key_Up);
            QApplication::processEvents();
            if (w.design().id != open) continue;
            check_step(
                w, name, before,
                [&] {
                    auto found = controls<QComboBox>(w);
                    return found.contains(name) ? found[name]->currentText() : QString("gone");
                },
                shown_before);
            if (QTest::currentTestFailed()) return;
        }
    }
    void boxes_are_one_step_each_data() { each_stage(); }
    void boxes_are_one_step_each() {
        QFETCH(QString, design);
        QFETCH(int, stage);
        Window w;
        w.session().document.show_design(design.toStdString());
        show_stage(w, stage);
        std::set<QString> names;
        for (auto* box : w->findChildren<QCheckBox*>())
            if (box->isVisible() && box->isEnabled()) names.insert(box->text());
        const auto find = [&](const QString& name) -> QCheckBox* {
            for (auto* box : w->findChildren<QCheckBox*>())
                if (box->isVisible() && box->text() == name) return box;
            return nullptr;
        };
        for (const auto& name : names) {
            auto* box = find(name);
            if (!box) continue;
            const auto before = written(w);
            const auto shown = [&] {
                auto* found = find(name);
                return QString(found && found->isChecked() ? "on" : "off");
            };
            const auto shown_before = shown();
            box->click();
            QApplication::processEvents();
            check_step(w, name, before, shown, shown_before);
            if (QTest::currentTestFailed()) return;
        }
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
