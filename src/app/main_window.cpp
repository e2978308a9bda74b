#include "app/main_window.h"
#include "app/banner.h"
#include "app/compare_window.h"
#include "app/context_menus.h"
#include "app/header.h"
#include "app/help_window.h"
#include "app/model/spare_memory.h"
#include "app/model/window_size.h"
#include "app/stages/accessory_page.h"
#include "app/stages/cable_page.h"
#include "app/stages/cutbacks_page.h"
#include "app/stages/duty_page.h"
#include "app/stages/faults_page.h"
#include "app/stages/fit_page.h"
#include "app/stages/record_page.h"
#include "app/stages/report_page.h"
#include "app/stages/shape_page.h"
#include "app/stages/stage_list.h"
#include "app/stages/tolerance_page.h"
#include "app/stages/trainer_page.h"
#include "app/stages/verdict_page.h"
#include "app/stages/work_page.h"
#include "app/start_page.h"
#include "app/strips/build_strip.h"
#include "app/strips/field_strip.h"
#include "app/strips/loupe.h"
#include "app/strips/needle_bar.h"
#include "app/strips/stress_strip.h"
#include "app/strips/tape_strip.h"
#include "app/strips/void_strip.h"
#include "app/window_style.h"
#include <QAbstractSpinBox>
#include <QApplication>
#include <QCloseEvent>
#include <QComboBox>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QMessageBox>
#include <QMimeData>
#include <QScreen>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QUrl>
#include <QVBoxLayout>
#include <algorithm>

namespace ng::app {
namespace {

constexpr int least_with_voids = 620; ///< height of the window, px

/// The wheel scrolls the panel: it changes a box only while that is in hand.
class WheelGuard : public QObject {
  public:
    using QObject::QObject;
    bool eventFilter(QObject* watched, QEvent* event) override {
        if (event->type() != QEvent::Wheel) return false;
        auto* box = qobject_cast<QWidget*>(watched);
        if (!box || box->hasFocus() ||
            !(qobject_cast<QComboBox*>(box) || qobject_cast<QAbstractSpinBox*>(box)))
            return false;
        event->ignore(); // its parent has it next
        return true;
    }
};

/// None: there is none, or opening it says what is wrong with it.
std::optional<Job> job_of(const QString& path) {
    if (path.isEmpty()) return {};
    auto job = load_job(path.toStdString());
    return job ? std::optional(std::move(*job)) : std::nullopt;
}

} // namespace

MainWindow::MainWindow(Library library, const QString& opens_first, QWidget* parent)
    : QMainWindow(parent), session_(std::move(library), job_of(opens_first)) {
    setAcceptDrops(true);
    new SpareMemory(session_, this);
    auto* centre = new QWidget;
    auto* column = new QVBoxLayout(centre);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(new Header(session_));
    column->addWidget(make_offer());
    banner_ = new Banner(centre);

    stages_ = new StageList(session_);
    strips_ = new QSplitter(Qt::Vertical);
    auto* strips = strips_;
    strips->setHandleWidth(3);
    strips->setChildrenCollapsible(false);
    build_ = new BuildStrip(session_);
    field_ = new FieldStrip(session_);
    stress_ = new StressStrip(session_);
    connect(stress_, &StressStrip::painted, this, [this] {
        if (session_.solved()) session_.go_on_refining();
    });
    void_ = new VoidStripView(session_);
    tape_ = new TapeStrip(session_);
    for (auto* strip : {static_cast<QWidget*>(build_), field_, static_cast<QWidget*>(stress_),
                        static_cast<QWidget*>(void_), static_cast<QWidget*>(tape_)})
        strips->addWidget(strip);
    strips->setStretchFactor(0, 5);
    strips->setStretchFactor(1, 4);
    strips->setStretchFactor(2, 5);
    strips->setStretchFactor(3, 4);
    strips->setStretchFactor(4, 1);

    pages_ = new QStackedWidget;
    pages_->setObjectName("stages");
    accessory_ = new AccessoryPage(session_, this);
    verdict_ = new VerdictPage(session_, this);
    pages_->addWidget(new CablePage(session_, this));
    duty_page_ = new DutyPage(session_, this);
    pages_->addWidget(duty_page_);
    pages_->addWidget(accessory_);
    pages_->addWidget(new FitPage(session_, this));
    cutbacks_ = new CutbacksPage(session_, this);
    pages_->addWidget(cutbacks_);
    pages_->addWidget(verdict_);
    auto* shape = new ShapePage(session_, this);
    pages_->addWidget(shape);
    work_ = new WorkPage(session_, recorder_, this);
    pages_->addWidget(work_);
    report_ = new ReportPage(session_, this);
    pages_->addWidget(report_);
    faults_ = new FaultsPage(session_, this);
    pages_->addWidget(faults_);
    tolerance_ = new TolerancePage(session_, this);
    pages_->addWidget(tolerance_);
    record_ = new RecordPage(session_, recorder_, this);
    pages_->addWidget(record_);
    trainer_ = new TrainerPage(session_, trainee_, this);
    pages_->addWidget(trainer_);
    connect(record_, &RecordPage::wants_steps, this, [this] { work_->open_steps(); });
    pages_->setMinimumWidth(300);

    middle_ = new QSplitter(Qt::Horizontal);
    auto* middle = middle_;
    middle->setHandleWidth(3);
    middle->setChildrenCollapsible(false);
    middle->addWidget(stages_);
    middle->addWidget(strips);
    middle->addWidget(pages_);
    middle->setStretchFactor(1, 1);
    middle->setSizes({128, 830, 322});
    column->addWidget(middle, 1);
    needle_ = new NeedleBar(session_);
    column->addWidget(needle_);
    setCentralWidget(centre);
    loupe_ = new Loupe(session_, Loupe::Shows::current, centre);
    make_menus();

    connect(stages_, &StageList::chosen, this, &MainWindow::choose_stage);
    stages_->choose(stage::verdict);
    connect(verdict_, &VerdictPage::wants_search, this,
            [this, shape](const CheckId& check, const std::vector<std::string>& keys) {
                show_stage(stage::shape);
                shape->search_for(check, keys);
            });
    connect(verdict_, &VerdictPage::wants_help, this, [this](const QString& about) { open_help(about); });
    for (const auto signal : {&Session::state_changed, &Session::prepared_changed})
        for (const auto slot : {&MainWindow::show_input_error, &MainWindow::show_title})
            connect(&session_, signal, this, slot);
    connect(&session_.document, &Document::saved_state_changed, this, &MainWindow::show_title);
    connect(&session_, &Session::look_changed, this, &MainWindow::restyle);
    connect(banner_, &Banner::shown, this, &MainWindow::place_banner);
    connect(&session_, &Session::message, banner_, &Banner::say);
    connect(&session_, &Session::withdrawn, banner_, &Banner::withdraw);
    watch_typing();
    // Later: focus also changes while widgets are being taken apart.
    connect(qApp, &QApplication::focusChanged, this, &MainWindow::watch_typing, Qt::QueuedConnection);
    for (const auto signal : {&Document::job_changed, &Document::design_changed})
        connect(
            &session_.document, signal, this,
            [this] {
                if (!session_.is_live()) note_typed(); // a hand that drags types nothing
            },
            Qt::QueuedConnection);
    resize(1280, 800);
    qApp->installEventFilter(new WheelGuard(this));
    menus_ = new ContextMenus(*this);
    restyle();
    show_title();
    show_input_error();
}

MainWindow::~MainWindow() {
    // The widgets look at the session: they go first, and nothing listens any more.
    disconnect(qApp, nullptr, this, nullptr);
    session_.disconnect();
    session_.axis.disconnect();
    session_.document.disconnect();
    delete takeCentralWidget();
}

QString MainWindow::banner_text() const {
    return banner_->text();
}

void MainWindow::show_title() {
    const auto& document = session_.document;
    const auto name = document.path().isEmpty() ? QString("not saved yet") : document.path().section('/', -1);
    setWindowTitle(
        QString("%1 (%2)%3 · Needlegauge")
            .arg(QString::fromStdString(document.job().title), name, document.is_changed() ? " *" : ""));
}

/// An input that cannot be used says so until it is cured.
void MainWindow::show_input_error() {
    const auto error =
        session_.input_error() ? QString::fromStdString(session_.input_error()->message()) : QString();
    banner_->set_dismissible(error.isEmpty());
    if (!error.isEmpty())
        banner_->say(error);
    else if (!shown_error_.isEmpty())
        banner_->withdraw(shown_error_);
    shown_error_ = error;
}

void MainWindow::restyle() {
    apply_style(*this, session_.theme());
}

/// Beneath the header, over the upper rim of the strips.
void MainWindow::place_banner() {
    if (!centralWidget()) return;
    const int top = stages_->mapTo(centralWidget(), QPoint(0, 0)).y();
    const int width = pages_->mapTo(centralWidget(), QPoint(0, 0)).x() - stages_->width();
    banner_->setFixedWidth(std::max(300, width - 8));
    banner_->adjustSize();
    banner_->move(stages_->width() + 4, top);
    banner_->raise();
}

void MainWindow::resizeEvent(QResizeEvent* event) {
    QMainWindow::resizeEvent(event);
    if (low_ != (height() < least_with_voids)) share_strips();
    if (banner_->isVisible()) place_banner();
    if (start_) start_->setGeometry(centralWidget()->rect());
}

void MainWindow::keyPressEvent(QKeyEvent* event) {
    const auto mods = event->modifiers();
    if (mods & Qt::ControlModifier) return QMainWindow::keyPressEvent(event); // those are the menus'
    const double step = mods & Qt::AltModifier ? 0.1 : mods & Qt::ShiftModifier ? 10.0 : 1.0;
    switch (event->key()) {
    case Qt::Key_BracketLeft:
    case Qt::Key_BraceLeft:
        session_.axis.set_needle(session_.axis.needle_u() - step);
        return;
    case Qt::Key_BracketRight:
    case Qt::Key_BraceRight:
        session_.axis.set_needle(session_.axis.needle_u() + step);
        return;
    case Qt::Key_Home:
        if (session_.prepared()) session_.move_needle_to_z(first_screen_edge_z(session_.prepared()->built));
        return;
    case Qt::Key_P:
        next_peak();
        return;
    case Qt::Key_K:
        if (session_.pinned() && session_.pinned() == session_.solved())
            session_.unpin();
        else
            session_.pin();
        return;
    case Qt::Key_U:
        session_.set_unit(session_.unit() == LengthUnit::mm ? LengthUnit::inch : LengthUnit::mm);
        return;
    case Qt::Key_E:
        toggle_whole_end();
        return;
    case Qt::Key_L:
        toggle_loupe();
        return;
    case Qt::Key_F5:
        session_.refine(session_.is_current() && !session_.solved()->coarse ? 0.003 : 0.01);
        return;
    case Qt::Key_F6:
        next_strip();
        return;
    case Qt::Key_Escape:
        if (session_.is_refining())
            session_.cancel();
        else if (!session_.input_error())
            banner_->hide();
        return;
    default:
        QMainWindow::keyPressEvent(event);
    }
}

void MainWindow::toggle_loupe() {
    if (loupe_->isVisible()) {
        loupe_->hide();
        return;
    }
    if (!loupe_->isWindow()) // over the strips, beside the panel
        loupe_->move(pages_->mapTo(centralWidget(), QPoint(0, 0)) + QPoint(-loupe_->width() - 14, 12));
    loupe_->open();
}

void MainWindow::toggle_whole_end() {
    const auto prepared = session_.prepared();
    if (prepared && !has_whole_end(*prepared))
        session_.tell({"Whole end", "this cable has one core and no armour: BUILD shows all of it", ""});
    else
        session_.set_whole_end(!session_.whole_end());
}

void MainWindow::show_stage(int index) {
    stages_->choose(index);
}

void MainWindow::choose_stage(int index) {
    pages_->setCurrentIndex(index);
    share_strips();
}

/// The void strip answers the verdict's question: it stands there with it, where BUILD and FIELD can still be
/// read beside it (else the needle and the checks say what it would).
void MainWindow::share_strips() {
    low_ = height() < least_with_voids;
    const bool voids = pages_->currentWidget() == verdict_ && !low_;
    void_->setVisible(voids);
    strips_->setSizes(voids  ? QList<int>{158, 118, 136, 128, 112}
                      : low_ ? QList<int>{124, 90, 120, 0, 112}
                             : QList<int>{185, 150, 190, 0, 112});
}

CompareWindow* MainWindow::open_comparison() {
    auto* window = new CompareWindow(session_, this);
    window->setAttribute(Qt::WA_DeleteOnClose);
    window->show();
    return window;
}

StartPage* MainWindow::show_start() {
    if (start_) return start_;
    start_ = new StartPage(session_, centralWidget());
    start_->set_recent(QSettings().value("recent").toStringList());
    start_->setGeometry(centralWidget()->rect());
    const auto done = [this] {
        if (start_) start_->deleteLater();
        start_ = nullptr;
    };
    connect(start_, &StartPage::begun, this, [this, done](const Job& job) {
        session_.document.start_with(job);
        stages_->choose(stage::verdict);
        done();
    });
    connect(start_, &StartPage::wants_demo, this, &MainWindow::open_demo);
    connect(start_, &StartPage::wants_file, this, &MainWindow::open_file);
    connect(start_, &StartPage::wants_other, this, [this] {
        const auto path = QFileDialog::getOpenFileName(this, "Open a job", {}, "Jobs (*.ngjob)");
        if (!path.isEmpty()) open_file(path);
    });
    connect(&session_.document, &Document::design_changed, start_, done);
    start_->show();
    start_->raise();
    return start_;
}

HelpWindow* MainWindow::open_help(const QString& about) {
    auto words = about;
    if (words.isEmpty())
        for (const auto* w = QApplication::focusWidget(); w && words.isEmpty(); w = w->parentWidget())
            words = w->accessibleName();
    auto* window = findChild<HelpWindow*>();
    if (!window) {
        window = new HelpWindow(session_, this);
        window->setAttribute(Qt::WA_DeleteOnClose);
    }
    if (!window->show_about(words)) window->search({});
    window->show();
    window->raise();
    return window;
}

void MainWindow::next_strip() {
    QList<QWidget*> strips{build_, field_, stress_->plot_widget(), tape_};
    if (void_->isVisible()) strips.insert(3, void_->plot_widget());
    const auto at = strips.indexOf(QApplication::focusWidget());
    strips[(at + 1) % strips.size()]->setFocus(Qt::ShortcutFocusReason);
    for (auto* strip : strips) strip->update();
}

void MainWindow::next_peak() {
    const auto solved = session_.solved();
    if (!solved) return;
    std::vector<double> places; // of peaks, along the cable
    for (const auto& check : solved->verdict.checks)
        if (check.limit > 0 && check.across.empty())
            places.push_back(check.at.z - solved->prepared->built.datum_z_mm);
    std::sort(places.begin(), places.end());
    if (places.empty()) return;
    for (const double u : places)
        if (u > session_.axis.needle_u() + 0.05) return session_.axis.set_needle(u);
    session_.axis.set_needle(places.front());
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    const auto urls = event->mimeData()->urls();
    if (!urls.isEmpty() && may_discard()) open_file(urls.first().toLocalFile());
}

void MainWindow::changeEvent(QEvent* event) {
    QMainWindow::changeEvent(event);
    if (event->type() == QEvent::ActivationChange && isActiveWindow()) look_at_file();
}

void MainWindow::closeEvent(QCloseEvent* event) {
    if (!may_discard()) {
        event->ignore();
        return;
    }
    if (keeps_manners_) {
        QSettings settings;
        settings.setValue("window/geometry", saveGeometry());
        settings.setValue("window/panels", middle_->saveState());
        settings.setValue("window/dark", session_.theme().dark);
        settings.setValue("window/inches", session_.unit() == LengthUnit::inch);
        settings.setValue("window/stress", static_cast<int>(session_.stress_unit()));
        settings.setValue("window/stage", pages_->currentIndex());
    }
    session_.document.close();
    event->accept();
}

void MainWindow::restore_manners() {
    keeps_manners_ = true;
    const QSettings settings;
    if (!restoreGeometry(settings.value("window/geometry").toByteArray())) // the first time
        open_within_screen(*this, {1280, 800});
    middle_->restoreState(settings.value("window/panels").toByteArray());
    if (settings.value("window/dark").toBool()) session_.set_dark(true);
    if (settings.value("window/inches").toBool()) session_.set_unit(LengthUnit::inch);
    session_.set_stress_unit(
        static_cast<StressUnit>(std::clamp(settings.value("window/stress").toInt(), 0, 2)));
    const int stage = settings.value("window/stage", static_cast<int>(stage::verdict)).toInt();
    if (stage >= 0 && stage < stages_->count()) stages_->choose(stage);
}

bool MainWindow::may_discard() {
    enter_typed();
    if (!ask_before_closing_ || !session_.document.is_changed()) return true;
    QMessageBox ask(this);
    ask.setText(QString("“%1” has changes that are not saved.")
                    .arg(QString::fromStdString(session_.document.job().title)));
    auto* save_button = ask.addButton("Save", QMessageBox::AcceptRole);
    auto* discard = ask.addButton("Do not save", QMessageBox::DestructiveRole);
    ask.addButton("Stay here", QMessageBox::RejectRole);
    ask.exec();
    if (ask.clickedButton() == save_button) return save();
    return ask.clickedButton() == discard;
}

} // namespace ng::app
