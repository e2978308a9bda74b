#include "app/context_menus.h"
#include "app/main_window.h"
#include "app/model/text.h"
#include "app/stages/stage_list.h"
#include "app/stages/verdict_page.h"
#include "app/strips/build_strip.h"
#include "app/strips/loupe.h"
#include "app/strips/stress_strip.h"
#include "app/strips/tape_strip.h"
#include "app/strips/void_strip.h"
#include <QAbstractItemView>
#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>

namespace ng::app {
namespace {

/// One line a row, cells parted by tabs.
QString text_of(const QAbstractItemView& view, int row) {
    const auto* model = view.model();
    QStringList cells;
    for (int c = 0; c < model->columnCount(view.rootIndex()); ++c)
        cells << model->index(row, c, view.rootIndex()).data().toString().simplified();
    return cells.join('\t');
}

} // namespace

ContextMenus::ContextMenus(MainWindow& window) : QObject(&window), window_(window) {
    qApp->installEventFilter(this);
}

bool ContextMenus::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() != QEvent::ContextMenu) return false;
    auto* widget = qobject_cast<QWidget*>(watched);
    const auto* at = static_cast<QContextMenuEvent*>(event);
    if (!widget || widget->window() != &window_) return false;
    auto* menu = menu_for(widget, at->pos());
    if (!menu) return false;
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->popup(at->globalPos());
    return true;
}

QMenu* ContextMenus::menu_for(QWidget* widget, QPoint at) {
    for (auto* w = widget; w && w != &window_; w = w->parentWidget()) {
        if (auto* row = qobject_cast<VerdictRow*>(w)) return of_check(row);
        if (auto* view = qobject_cast<QAbstractItemView*>(w))
            return of_rows(view, widget->mapTo(view->viewport(), at));
        if (qobject_cast<Strip*>(w) || qobject_cast<PlotStrip*>(w)) return of_strip(w, widget->mapTo(w, at));
    }
    return nullptr;
}

QMenu* ContextMenus::of_strip(QWidget* strip, QPoint at) {
    auto& session = window_.session();
    auto* menu = new QMenu(&window_);
    const double u = session.axis.u(at.x());
    const auto on = [&](const QString& words, auto act) { return menu->addAction(words, this, act); };
    on("Needle here", [this, u] { window_.session().axis.set_needle(u); });
    on("Loupe here\tL", [this, u] {
        window_.session().axis.set_needle(u);
        if (!window_.loupe()->isVisible()) window_.toggle_loupe();
    });
    menu->addSeparator();
    on("Zoom in here", [this, x = at.x()] { window_.session().axis.zoom(x, 2); });
    on("Whole accessory\tCtrl+Home", [this] { window_.session().axis.fit(); });
    menu->addSeparator();
    if (strip == window_.build_strip())
        on("Its dimensions…", [this] { window_.show_stage(stage::accessory); });
    else if (strip == window_.tape_strip())
        on("Type its marks…", [this] { window_.show_stage(stage::cutbacks); });
    else if (strip == window_.stress_strip())
        on("Next peak\tP", [this] { window_.next_peak(); });
    on("Faults here…", [this, u] {
        window_.session().axis.set_needle(u);
        window_.show_stage(stage::faults);
    });
    on(session.pinned() ? "Pin this state instead\tK" : "Pin this state\tK",
       [this] { window_.session().pin(); });
    menu->addSeparator();
    on("Copy the picture\tCtrl+Shift+C", [this] { window_.copy_picture(); });
    on("Copy the traces as CSV\tCtrl+Shift+T", [this] { window_.copy_traces(); });
    on("Export field, traces or picture…", [this] { window_.export_what_is_shown(); });
    on("What is this?\tF1", [this, name = strip->objectName()] { window_.open_help(name); });
    return menu;
}

QMenu* ContextMenus::of_check(VerdictRow* row) {
    auto* menu = new QMenu(&window_);
    const auto check = row->check();
    menu->addAction("Needle to it", this, [this, z = check.at.z] { window_.session().move_needle_to_z(z); });
    menu->addAction("Loupe at it", this, [this, z = check.at.z] {
        window_.session().move_needle_to_z(z);
        if (!window_.loupe()->isVisible()) window_.toggle_loupe();
    });
    menu->addSeparator();
    menu->addAction("How is this computed?", this,
                    [this, id = q(name_of(check.id))] { window_.open_help(id); });
    menu->addAction("What does it hang on?", this,
                    [this, id = check.id] { window_.session().find_sensitivity(id); });
    menu->addSeparator();
    menu->addAction("Copy it", this, [check] {
        QApplication::clipboard()->setText(
            QString("%1: %2 %3 %4 %5: %6")
                .arg(q(check.title), q(format_supported(check.value, check.relative_error)),
                     check.at_least ? "of at least" : "of at most", q(format_figures(check.limit, 3)),
                     q(check.unit), q(status_word(check.status))));
    });
    return menu;
}

QMenu* ContextMenus::of_rows(QAbstractItemView* view, QPoint at) {
    if (!view->model() || view->model()->rowCount(view->rootIndex()) == 0) return nullptr;
    auto* menu = new QMenu(&window_);
    const QPersistentModelIndex index = view->indexAt(at);
    auto* copy = menu->addAction("Copy this row", this, [view, index] {
        if (index.isValid()) QApplication::clipboard()->setText(text_of(*view, index.row()));
    });
    copy->setEnabled(index.isValid());
    menu->addAction("Copy all rows", this, [view] {
        QStringList lines;
        for (int r = 0; r < view->model()->rowCount(view->rootIndex()); ++r) lines << text_of(*view, r);
        QApplication::clipboard()->setText(lines.join('\n'));
    });
    return menu;
}

} // namespace ng::app
