// The window's menus: files, copies, printing.
#include "app/banner.h"
#include "app/help_window.h"
#include "app/main_window.h"
#include "app/stages/entry_edit.h"
#include "app/stages/stage_list.h"
#include "app/strips/build_strip.h"
#include "app/strips/stress_strip.h"
#include "design/unknown_fields.h"
#include "field/result_io.h"
#include "io/file.h"
#include <QActionGroup>
#include <QApplication>
#include <QClipboard>
#include <QFileDialog>
#include <QFileInfo>
#include <QFrame>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QLocale>
#include <QMenuBar>
#include <QPainter>
#include <QPointer>
#include <QPrintDialog>
#include <QPrinter>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <QStandardPaths>

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
        if (!may_discard()) return;
        session_.document.start_new();
        show_start();
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
    add(file, "&Export field, traces or picture…", {}, [this] { export_what_is_shown(); });
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
    for (const auto& family : session_.library().families)
        add(fresh, QString::fromStdString(family.title), {},
            [this, &family] { session_.document.add_design(family); });
    fresh->addSeparator();
    templates_ = fresh->addMenu("From a &template");
    connect(templates_, &QMenu::aboutToShow, this, &MainWindow::fill_templates);
    add(edit, "&Keep this design as a template…", {}, [this] {
        bool ok = false;
        const auto title = QInputDialog::getText(
            this, "Keep as a template",
            "Title to find it by (one of the same title is replaced). Faults, notes and revisions stay here:",
            QLineEdit::Normal, QString::fromStdString(session_.document.design().title), &ok);
        if (ok) keep_template(title);
    });
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
    auto* stress = view->addMenu("&Stress in");
    auto* stress_group = new QActionGroup(stress);
    for (const auto unit : {StressUnit::kV_per_mm, StressUnit::V_per_mil, StressUnit::kV_per_inch}) {
        auto* one = stress->addAction(QString::fromStdString(in_stress_unit("kV/mm", unit)));
        one->setCheckable(true);
        stress_group->addAction(one);
        connect(one, &QAction::triggered, this, [this, unit] { session_.set_stress_unit(unit); });
        connect(stress, &QMenu::aboutToShow, one,
                [this, one, unit] { one->setChecked(session_.stress_unit() == unit); });
    }
    auto* dark =
        add(view, "&Dark", QKeySequence("Ctrl+D"), [this] { session_.set_dark(!session_.theme().dark); });
    dark->setCheckable(true);
    show_key("&Loupe", "L", [this] { toggle_loupe(); });
    show_key("Whole &end of the cable", "E", [this] { toggle_whole_end(); });
    add(view, "&Whole accessory", QKeySequence("Ctrl+Home"), [this] { session_.axis.fit(); });
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
        add(stage, stages_->button(i)->text(), QKeySequence(stage::key(i)),
            [this, i] { stages_->choose(i); });
    auto* help = menuBar()->addMenu("&Help");
    add(help, "On what is in &hand", QKeySequence("F1"), [this] { open_help(); });
    add(help, "&First steps", {}, [this] { open_help("first"); });
    add(help, "&Keys", {}, [this] { open_help("keys"); });
    add(help, "&Glossary and checks", {}, [this] { open_help()->search({}); });
}

QString MainWindow::demo_path(const Library& library) {
    return QString::fromStdString((library.folder / "demo" / "osprey-point.ngjob").string());
}

namespace {

/// What a job holds that nobody knows: all of it where it is little, else the first of it and how many more.
QString unknown_words(const Job& job, const FamilyTable& families) {
    constexpr std::size_t most = 3;
    const auto fields = unknown_fields(job, families);
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
    const auto unknown = unknown_words(session_.document.job(), session_.library().families);
    if (!unknown.isEmpty()) banner_->say(unknown);
    offer_recovery(session_.document.path());
}

void MainWindow::open_demo() {
    if (auto ok = session_.document.open_copy(demo_path(session_.library())); !ok) session_.tell(ok.error());
}

QWidget* MainWindow::make_offer() {
    offer_ = new QFrame;
    offer_->setObjectName("banner");
    auto* row = new QHBoxLayout(offer_);
    row->setContentsMargins(14, 4, 8, 4);
    offer_text_ = new QLabel;
    offer_text_->setWordWrap(true);
    offer_text_->setTextFormat(Qt::PlainText);
    offer_text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    recover_ = new QPushButton("Recover it");
    throw_away_ = new QPushButton("Throw it away");
    connect(recover_, &QPushButton::clicked, this, [this] {
        if (left_.empty() || !may_discard()) return;
        const auto copy = left_.front();
        left_.erase(left_.begin());
        session_.document.recover(copy);
        show_offer();
    });
    connect(throw_away_, &QPushButton::clicked, this, [this] {
        if (left_.empty()) return;
        SafetyCopy::throw_away(left_.front());
        left_.erase(left_.begin());
        show_offer();
    });
    row->addWidget(offer_text_, 1);
    row->addWidget(recover_);
    row->addWidget(throw_away_);
    offer_->hide();
    return offer_;
}

void MainWindow::offer_recovery(const QString& path) {
    left_ = SafetyCopy::left_for(path);
    show_offer();
}

QString MainWindow::offer_text() const {
    return offer_->isHidden() ? QString() : offer_text_->text();
}

void MainWindow::show_offer() {
    offer_->setVisible(!left_.empty());
    if (left_.empty()) return;
    const auto& copy = left_.front();
    const auto time = [](const QDateTime& t) { return QLocale::c().toString(t, "d MMM yyyy hh:mm:ss"); };
    QString words = QString("A session ended without saving. Its work was kept at %1").arg(time(copy.kept));
    if (copy.saved.isValid())
        words += QString(", %1 than the file (%2)")
                     .arg(copy.kept < copy.saved ? "older" : "newer", time(copy.saved));
    words += ".";
    if (!copy.job) {
        words += " It is damaged and cannot be recovered: " + copy.damage + " It lies at " + copy.file + ".";
    } else {
        const auto differs = copy.differences(session_.document.job());
        words += differs.isEmpty() ? " It is the same as what is open."
                                   : " It differs in " + differs.join("; ") + ".";
    }
    if (!copy.typed.isEmpty()) words += " Typed and not entered: " + copy.typed + ".";
    if (left_.size() > 1) words += QString(" %1 more after this one.").arg(left_.size() - 1);
    offer_text_->setText(words);
    offer_text_->setAccessibleName(words);
    recover_->setVisible(copy.job.has_value());
}

void MainWindow::survive(const QString& what) {
    auto& document = session_.document;
    document.autosave_now();
    banner_->say("The program met a fault of its own: " + what + ". " +
                 (document.has_safety_copy() ? "A safety copy is kept; " : "") +
                 "save under another name and start it again.");
}

// ---- what is typed and not entered

void MainWindow::watch_typing() {
    for (auto* edit : findChildren<QLineEdit*>()) {
        connect(edit, &QLineEdit::textEdited, this, &MainWindow::note_typed, Qt::UniqueConnection);
        connect(edit, &QLineEdit::editingFinished, this, &MainWindow::note_typed,
                static_cast<Qt::ConnectionType>(Qt::QueuedConnection | Qt::UniqueConnection));
    }
    note_typed();
}

QString MainWindow::typed_words() const {
    QStringList out;
    for (const auto* edit : findChildren<QLineEdit*>()) {
        // A field of ours knows what it has entered; others (of a box, of a table's cell) while they are in
        // hand.
        const bool ours = qobject_cast<const EntryEdit*>(edit);
        if (!edit->isModified() || !(ours || edit->hasFocus())) continue;
        out << (edit->accessibleName().isEmpty()
                    ? QString("“%1”").arg(edit->text())
                    : QString("“%1” in “%2”").arg(edit->text(), edit->accessibleName()));
    }
    return out.join(", ");
}

void MainWindow::note_typed() {
    session_.document.set_typed(typed_words());
}

bool MainWindow::enter_typed() {
    const QPointer<QWidget> in_hand = focusWidget();
    if (in_hand && !typed_words().isEmpty()) {
        in_hand->clearFocus(); // every field enters what it holds when it is left
        if (in_hand) in_hand->setFocus();
    }
    for (auto* edit : findChildren<EntryEdit*>()) // whether or not this window is the active one
        if (edit->isModified()) edit->enter();
    note_typed();
    return typed_words().isEmpty();
}

// ---- the file

void MainWindow::look_at_file() {
    const auto& document = session_.document;
    const auto when = QFileInfo(document.path()).lastModified();
    if (document.path().isEmpty() || when == looked_at_file_) return; // its content is read once a version
    looked_at_file_ = when;
    if (!document.file_changed_outside()) return;
    if (document.is_changed()) {
        banner_->say("Another program changed the file since it was opened. Saving keeps that version beside "
                     "yours, under another name.");
        return;
    }
    banner_->say("Another program changed the file since it was opened. Nothing here is unsaved.");
    banner_->offer("Open that version", [this] {
        if (may_discard()) open_file(session_.document.path());
    });
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
    const bool all = enter_typed();
    if (auto ok = session_.document.save_as(path); !ok) {
        session_.tell(ok.error());
        return false;
    }
    remember_recent(session_.document.path());
    if (const auto other = session_.document.kept_beside(); !other.isEmpty())
        banner_->say(
            QString("Another program had changed the file: that version is kept as “%1”.").arg(other));
    if (!all) banner_->say("Saved, but for what is typed and cannot be used: " + typed_words() + ".");
    return all;
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

QString MainWindow::traces_text() const {
    const auto solved = session_.solved();
    QString text;
    if (solved)
        for (const auto& path : solved->solution.paths)
            text += QString::fromStdString(path.name) + "\r\n" +
                    QString::fromStdString(path_csv(solved->solution, path));
    return text;
}

void MainWindow::copy_traces() {
    if (session_.solved()) QApplication::clipboard()->setText(traces_text());
}

/// By its ending: field (.vtu), traces (.csv), what is seen (.png).
Result<void> MainWindow::export_to(const QString& path) {
    const auto solved = session_.solved();
    if (!solved) return refuse("Export", "nothing is solved yet", "Wait for the field");
    if (path.endsWith(".vtu")) return write_output(path.toStdString(), solution_vtu(solved->solution));
    if (path.endsWith(".csv")) return write_output(path.toStdString(), traces_text().toStdString());
    if (!path.endsWith(".png"))
        return refuse("Export", "its ending says nothing",
                      "Give .vtu for the field, .csv for traces, .png for a picture");
    if (!centralWidget()->grab().save(path))
        return refuse(path.section('/', -1).toStdString(), "it could not be written", "Give another folder");
    return {};
}

void MainWindow::export_what_is_shown() {
    const auto path = QFileDialog::getSaveFileName(
        this, "Export", QString::fromStdString(session_.document.design().id) + ".vtu",
        "Field for a viewer (*.vtu);;Traces (*.csv);;Picture (*.png)");
    if (path.isEmpty()) return;
    if (auto ok = export_to(path); !ok) session_.tell(ok.error());
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

std::filesystem::path MainWindow::templates_folder() {
    return (QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/templates").toStdString();
}

bool MainWindow::keep_template(const QString& title) {
    const auto kept = ng::keep_template(session_.document.job(), session_.document.design(),
                                        title.trimmed().toStdString(), templates_folder());
    if (!kept) session_.tell(kept.error());
    return kept.has_value();
}

void MainWindow::fill_templates() {
    templates_->clear();
    std::vector<std::string> unreadable;
    const auto all = read_templates(templates_folder(), &unreadable);
    for (const auto& one : all)
        connect(templates_->addAction(QString::fromStdString(one.title)), &QAction::triggered, this,
                [this, one] { session_.document.add_design(one); });
    if (all.empty())
        templates_->addAction("No template kept yet: Edit, Keep this design as a template")
            ->setEnabled(false);
    for (const auto& why : unreadable)
        templates_->addAction("Cannot be read: " + QString::fromStdString(why).left(90))->setEnabled(false);
    if (all.empty()) return;
    auto* drop = templates_->addMenu("&Remove");
    for (const auto& one : all)
        connect(drop->addAction(QString::fromStdString(one.title)), &QAction::triggered, this, [this, one] {
            if (!QFile::moveToTrash(QString::fromStdString(one.file.string())) &&
                !QFile::remove(QString::fromStdString(one.file.string())))
                session_.tell({one.title, "it cannot be removed", "Look at the permissions of its folder"});
        });
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
