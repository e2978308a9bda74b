// The window's menus: files, copies, printing.
#include "app/main_window.h"
#include "app/stages/stage_list.h"
#include "app/strips/build_strip.h"
#include "app/strips/stress_strip.h"
#include "field/result_io.h"
#include <QApplication>
#include <QClipboard>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QMenuBar>
#include <QPainter>
#include <QPrintDialog>
#include <QPrinter>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>

namespace ng::app {

void MainWindow::make_menus() {
    auto add = [this](QMenu* menu, const QString& text, const QKeySequence& key, auto action) {
        auto* item = menu->addAction(text);
        item->setShortcut(key);
        connect(item, &QAction::triggered, this, action);
        return item;
    };
    auto* file = menuBar()->addMenu("&Job");
    add(file, "&New", QKeySequence::New, [this] {
        if (may_discard()) session_.document.start_new();
    });
    add(file, "&Open…", QKeySequence::Open, [this] {
        if (!may_discard()) return;
        const auto path = QFileDialog::getOpenFileName(this, "Open a job", {}, "Jobs (*.ngjob)");
        if (!path.isEmpty()) open_file(path);
    });
    recent_ = file->addMenu("&Recent");
    connect(recent_, &QMenu::aboutToShow, this, &MainWindow::fill_recent);
    add(file, "Open the &demo job", {}, [this] {
        if (may_discard()) open_demo();
    });
    file->addSeparator();
    add(file, "&Save", QKeySequence::Save, [this] { save(); });
    add(file, "Save &as…", QKeySequence::SaveAs, [this] { save_as(); });
    add(file, "Save the section &file…", {}, [this] { save_section(); });
    file->addSeparator();
    add(file, "&Print what is seen…", QKeySequence::Print, [this] { print_window(); });
    add(file, "&Quit", QKeySequence::Quit, [this] { close(); });

    auto* edit = menuBar()->addMenu("&Edit");
    auto* undo = session_.document.undo_stack()->createUndoAction(this, "&Undo");
    auto* redo = session_.document.undo_stack()->createRedoAction(this, "&Redo");
    undo->setShortcut(QKeySequence::Undo);
    redo->setShortcuts({QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")});
    edit->addAction(undo);
    edit->addAction(redo);
    edit->addSeparator();
    auto* fresh = edit->addMenu("&New design");
    for (const auto& family : families())
        add(fresh, QString::fromStdString(family.title), {},
            [this, id = family.id] { session_.document.add_design(id); });
    add(edit, "&Duplicate this design", {}, [this] { session_.document.duplicate_design(); });
    add(edit, "D&elete this design", {}, [this] { session_.document.delete_design(); });
    add(edit, "Duplicate this ca&ble for this design", {}, [this] { session_.document.duplicate_cable(); });
    edit->addSeparator();
    add(edit, "&Copy picture", QKeySequence("Ctrl+Shift+C"), [this] { copy_picture(); });
    add(edit, "Copy &traces as CSV", QKeySequence("Ctrl+Shift+T"), [this] { copy_traces(); });

    auto* view = menuBar()->addMenu("&View");
    auto show_key = [&](const QString& text, const QString& key, auto action) {
        add(view, text + "\t" + key, {}, action);
    };
    show_key("&Units mm / in", "U", [this] {
        session_.set_unit(session_.unit() == LengthUnit::mm ? LengthUnit::inch : LengthUnit::mm);
    });
    auto* dark =
        add(view, "&Dark", QKeySequence("Ctrl+D"), [this] { session_.set_dark(!session_.theme().dark); });
    dark->setCheckable(true);
    add(view, "&Whole accessory", QKeySequence("Ctrl+0"), [this] { session_.axis.fit(); });
    add(view, "Zoom &in", QKeySequence::ZoomIn,
        [this] { session_.axis.zoom(session_.axis.x(session_.axis.needle_u()), 1.5); });
    add(view, "Zoom &out", QKeySequence::ZoomOut,
        [this] { session_.axis.zoom(session_.axis.x(session_.axis.needle_u()), 1 / 1.5); });
    show_key("&Pin this state", "K", [this] { session_.pin(); });
    show_key("Take the pin &away", "K", [this] { session_.unpin(); });
    add(view, "&Side by side…", QKeySequence("Ctrl+B"), [this] { open_comparison(); });
    show_key("&Refine further", "F5", [this] { session_.refine(0.003); });

    auto* stage = menuBar()->addMenu("&Stage");
    for (int i = 0; i < stages_->count(); ++i)
        add(stage, stages_->button(i)->text(), QKeySequence(QString("Ctrl+%1").arg(i + 1)),
            [this, i] { stages_->choose(i); });
}

QString MainWindow::demo_path() const {
    return QString::fromStdString((session_.library().folder / "demo" / "osprey-point.ngjob").string());
}

namespace {

/// What a job holds that nobody knows: all of it where it is little, else the first of it and how many more.
QString unknown_words(const Job& job) {
    constexpr std::size_t most = 3;
    const auto fields = unknown_fields(job);
    QStringList lines;
    for (std::size_t i = 0; i < std::min(most, fields.size()); ++i)
        lines << QString::fromStdString(fields[i].words());
    if (fields.size() > most) lines << QString("… and %1 more").arg(fields.size() - most);
    return lines.join("\n");
}

} // namespace

void MainWindow::open_file(const QString& path) {
    if (auto ok = session_.document.open(path); !ok) {
        session_.tell(ok.error());
        return;
    }
    remember_recent(session_.document.path());
    const auto unknown = unknown_words(session_.document.job());
    if (!unknown.isEmpty()) show_message(unknown);
    offer_recovery(session_.document.path(), unknown);
}

void MainWindow::open_demo() {
    if (auto ok = session_.document.open_copy(demo_path()); !ok) session_.tell(ok.error());
}

void MainWindow::offer_recovery(const QString& path, const QString& also) {
    if (!session_.document.has_recovery(path)) return;
    show_message("The last session ended without saving. Its work was kept." +
                 (also.isEmpty() ? also : "\n" + also));
    banner_action_->setText("Recover it");
    disconnect(banner_connection_);
    banner_connection_ = connect(banner_action_, &QPushButton::clicked, this, [this, path] {
        session_.document.recover(path);
        banner_->hide();
    });
    banner_action_->show();
}

bool MainWindow::save() {
    return session_.document.path().isEmpty() ? save_as() : save_to(session_.document.path());
}

bool MainWindow::save_as() {
    auto path = QFileDialog::getSaveFileName(this, "Save the job", {}, "Jobs (*.ngjob)");
    if (path.isEmpty()) return false;
    if (QFileInfo(path).suffix().isEmpty()) path += ".ngjob";
    return save_to(path);
}

bool MainWindow::save_to(const QString& path) {
    if (auto ok = session_.document.save_as(path); !ok) {
        session_.tell(ok.error());
        return false;
    }
    remember_recent(session_.document.path());
    return true;
}

void MainWindow::save_section() {
    const auto prepared = session_.prepared();
    if (!prepared) return;
    auto path = QFileDialog::getSaveFileName(this, "Save the section", {}, "Sections (*.ngsection)");
    if (path.isEmpty()) return;
    if (QFileInfo(path).suffix().isEmpty()) path += ".ngsection";
    if (auto ok =
            write_file_safely(path.toStdString(), write_section(prepared->built.section).dump(1) + "\n");
        !ok)
        session_.tell(ok.error());
}

void MainWindow::copy_picture() {
    QApplication::clipboard()->setPixmap(centralWidget()->grab());
}

void MainWindow::copy_traces() {
    const auto solved = session_.solved();
    if (!solved) return;
    QString text;
    for (const auto& path : solved->solution.paths)
        text += QString::fromStdString(path.name) + "\r\n" +
                QString::fromStdString(path_csv(solved->solution, path));
    QApplication::clipboard()->setText(text);
}

void MainWindow::print_window() {
    QPrinter printer(QPrinter::HighResolution);
    printer.setPageOrientation(QPageLayout::Landscape);
    QPrintDialog dialog(&printer, this);
    if (dialog.exec() != QDialog::Accepted) return;
    QPainter painter(&printer);
    const double scale = printer.pageRect(QPrinter::DevicePixel).width() / centralWidget()->width();
    painter.scale(scale, scale);
    centralWidget()->render(&painter);
}

void MainWindow::remember_recent(const QString& path) {
    QSettings settings;
    auto list = settings.value("recent").toStringList();
    list.removeAll(path);
    list.prepend(path);
    settings.setValue("recent", list.mid(0, 8));
}

void MainWindow::fill_recent() {
    recent_->clear();
    const auto list = QSettings().value("recent").toStringList();
    for (const auto& path : list)
        connect(recent_->addAction(path), &QAction::triggered, this, [this, path] {
            if (may_discard()) open_file(path);
        });
    if (list.isEmpty()) recent_->addAction("No job opened yet")->setEnabled(false);
}

} // namespace ng::app
