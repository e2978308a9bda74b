#include "app/main_window.h"
#include "app/compare_window.h"
#include "app/context_menus.h"
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
#include "app/state_label.h"
#include "app/strips/build_strip.h"
#include "app/strips/field_strip.h"
#include "app/strips/loupe.h"
#include "app/strips/needle_bar.h"
#include "app/strips/stress_strip.h"
#include "app/strips/tape_strip.h"
#include "app/strips/void_strip.h"
#include <QAbstractSpinBox>
#include <QApplication>
#include <QCloseEvent>
#include <QComboBox>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QScreen>
#include <QSettings>
#include <QSignalBlocker>
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
    column->addWidget(make_header());
    column->addWidget(make_offer());
    make_banner()->setParent(centre); // over the strips: nothing moves when it comes

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
            [this, shape](const std::string& check_id, const std::vector<std::string>& keys) {
                show_stage(stage::shape);
                shape->search_for(check_id, keys);
            });
    connect(verdict_, &VerdictPage::wants_help, this, [this](const QString& about) { open_help(about); });
    connect(&session_, &Session::state_changed, this, &MainWindow::refresh_header);
    connect(&session_, &Session::schedule_changed, this, &MainWindow::refresh_header);
    connect(&session_, &Session::prepared_changed, this, &MainWindow::refresh_header);
    connect(&session_, &Session::look_changed, this, &MainWindow::restyle);
    connect(&session_, &Session::look_changed, this, &MainWindow::refresh_header);
    connect(&session_, &Session::message, this, &MainWindow::show_message);
    connect(&session_, &Session::withdrawn, this, [this](const QString& text) {
        if (banner_text_->text() == text) banner_->hide();
    });
    connect(&session_.document, &Document::saved_state_changed, this, &MainWindow::refresh_header);
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
    refresh_header();
}

MainWindow::~MainWindow() {
    // The widgets look at the session: they go first, and nothing listens any more.
    disconnect(qApp, nullptr, this, nullptr);
    session_.disconnect();
    session_.axis.disconnect();
    session_.document.disconnect();
    delete takeCentralWidget();
}

QWidget* MainWindow::make_header() {
    auto* header = new QFrame;
    header->setObjectName("header");
    header->setFixedHeight(44);
    auto* row = new QHBoxLayout(header);
    row->setContentsMargins(14, 0, 12, 0);
    row->setSpacing(10);
    job_ = new QLabel;
    job_->setFont(draw::ui_font(10, true));
    design_ = new QComboBox;
    design_->setAccessibleName("Design");
    design_->setToolTip("Design shown");
    design_->setMinimumWidth(190);
    duty_ = new QLabel;
    state_ = new StateLabel;
    state_->setObjectName("solveState");
    cancel_ = new QPushButton("Cancel");
    cancel_->setToolTip("Keep the coarse solution (Esc)");
    cancel_->setAccessibleName("Cancel refinement");
    verdict_word_ = new QLabel;
    verdict_word_->setObjectName("verdictWord");
    verdict_word_->setFont(draw::ui_font(10.5, true));
    mm_ = new QPushButton("mm");
    inch_ = new QPushButton("in");
    for (auto* b : {mm_, inch_}) {
        b->setCheckable(true);
        b->setFixedWidth(44);
        b->setToolTip("Units (U)");
        b->setAccessibleName(b == mm_ ? "Millimetres" : "Inches");
    }
    connect(mm_, &QPushButton::clicked, this, [this] {
        session_.set_unit(LengthUnit::mm);
        refresh_header();
    });
    connect(inch_, &QPushButton::clicked, this, [this] {
        session_.set_unit(LengthUnit::inch);
        refresh_header();
    });
    connect(cancel_, &QPushButton::clicked, this, [this] { session_.cancel(); });
    connect(design_, &QComboBox::activated, this, [this](int i) {
        session_.document.show_design(session_.document.job().designs.at(static_cast<std::size_t>(i)).id);
    });
    row->addWidget(job_);
    row->addWidget(design_);
    row->addWidget(duty_);
    row->addWidget(mm_);
    row->addWidget(inch_);
    row->addStretch(1);
    row->addWidget(state_, 2);
    row->addWidget(cancel_);
    row->addWidget(verdict_word_);
    return header;
}

QWidget* MainWindow::make_banner() {
    banner_ = new QFrame;
    banner_->setObjectName("banner");
    auto* row = new QHBoxLayout(banner_);
    row->setContentsMargins(14, 4, 8, 4);
    banner_text_ = new QLabel;
    banner_text_->setWordWrap(true);
    banner_text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    banner_action_ = new QPushButton;
    banner_dismiss_ = new QPushButton("Dismiss");
    connect(banner_dismiss_, &QPushButton::clicked, banner_, &QWidget::hide);
    row->addWidget(banner_text_, 1);
    row->addWidget(banner_action_);
    row->addWidget(banner_dismiss_);
    banner_action_->hide();
    banner_->hide();
    return banner_;
}

QString MainWindow::banner_text() const {
    return banner_->isHidden() ? QString() : banner_text_->text();
}

void MainWindow::show_message(const QString& text) {
    banner_text_->setText(text);
    banner_text_->setAccessibleName(text);
    banner_action_->hide();
    banner_->show();
    place_banner();
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

void MainWindow::refresh_header() {
    const auto& document = session_.document;
    const auto& job = document.job();
    job_->setText(QString::fromStdString(job.title) + (document.is_changed() ? " *" : ""));
    {
        const QSignalBlocker quiet(design_);
        if (design_->count() != static_cast<int>(job.designs.size())) design_->clear();
        for (std::size_t i = 0; i < job.designs.size(); ++i) {
            const auto title = QString::fromStdString(job.designs[i].title);
            const int index = static_cast<int>(i);
            if (index >= design_->count())
                design_->addItem(title);
            else if (design_->itemText(index) != title)
                design_->setItemText(index, title);
            if (job.designs[i].id == job.open_design) design_->setCurrentIndex(index);
        }
    }
    const auto& duty = document.design().duty;
    auto standard = QString::fromStdString(duty.standard);
    if (const auto prepared = session_.prepared())
        standard = QString::fromStdString(prepared->standard_title).section(' ', 0, 1);
    else if (const auto packs = packs_of(job, session_.library()))
        for (const auto& pack : *packs)
            if (pack.id == duty.standard) standard = QString::fromStdString(pack.title).section(' ', 0, 1);
    duty_->setText(
        QString("%1 kV, %2, %3").arg(duty.class_kV).arg(standard, duty.outdoor ? "outdoor" : "indoor"));
    mm_->setChecked(session_.unit() == LengthUnit::mm);
    inch_->setChecked(session_.unit() == LengthUnit::inch);
    state_->set_words(session_.solve_state());
    cancel_->setVisible(session_.is_refining());
    const Status status = session_.overall();
    const auto faults = session_.with_faults() ? document.design().faults.size() : 0;
    verdict_word_->setText((document.is_example() ? QString("EXAMPLE VALUES: ") : QString()) +
                           session_.overall_words().toUpper() +
                           (faults == 0   ? QString()
                            : faults == 1 ? QString(", with its fault")
                                          : QString(", with its %1 faults").arg(faults)));
    verdict_word_->setToolTip(session_.overall_words().endsWith("†")
                                  ? "† a level of the standard is from memory and not confirmed"
                                  : "");
    const auto& theme = session_.theme();
    const QColor colour = status == Status::holds         ? theme.accent
                          : status == Status::falls_short ? theme.brick
                          : status == Status::marginal    ? theme.ochre
                                                          : theme.faint;
    const auto sheet = QString("color: %1;").arg(colour.name());
    if (sheet != verdict_word_->styleSheet()) verdict_word_->setStyleSheet(sheet);
    // An input that cannot be used says so once; the message goes when it is cured.
    const auto error =
        session_.input_error() ? QString::fromStdString(session_.input_error()->message()) : QString();
    banner_dismiss_->setVisible(error.isEmpty()); // what cannot be used stays said until it is cured
    if (!error.isEmpty())
        show_message(error);
    else if (!shown_error_.isEmpty() && banner_text_->text() == shown_error_)
        banner_->hide();
    shown_error_ = error;
    const auto name = document.path().isEmpty() ? QString("not saved yet") : document.path().section('/', -1);
    setWindowTitle(QString("%1 (%2)%3 · Needlegauge")
                       .arg(QString::fromStdString(job.title), name, document.is_changed() ? " *" : ""));
}

void MainWindow::restyle() {
    const auto& t = session_.theme();
    QPalette p;
    p.setColor(QPalette::Window, t.paper);
    p.setColor(QPalette::Base, t.panel);
    p.setColor(QPalette::AlternateBase, t.paper);
    p.setColor(QPalette::Button, t.panel);
    for (const auto role :
         {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
        p.setColor(role, t.ink);
    p.setColor(QPalette::ToolTipBase, t.panel);
    p.setColor(QPalette::Highlight, t.accent);
    p.setColor(QPalette::HighlightedText, t.dark ? t.paper : QColor("#FFFFFF"));
    p.setColor(QPalette::PlaceholderText, t.faint);
    for (const auto role : {QPalette::Link, QPalette::LinkVisited}) p.setColor(role, t.accent);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        p.setColor(QPalette::Disabled, role, t.faint);
    p.setColor(QPalette::Light, t.line);
    p.setColor(QPalette::Mid, t.line);
    p.setColor(QPalette::Dark, t.line);
    const auto sheet =
        QString("QLabel[faint=\"true\"] { color: %1; }"
                "QLabel[caution=\"true\"] { color: %2; border-left: 3px solid %2; padding: 2px 6px; "
                "margin-top: 6px; }"
                "#header { border-bottom: 1px solid %3; background: %4; }"
                "#banner { background: %4; border-bottom: 2px solid %2; }"
                "QSplitter::handle { background: %3; }"
                "QLineEdit, QTableWidget { background: %4; border: 1px solid %3; border-radius: 2px; "
                "padding: 1px 4px; }"
                "QTableWidget { padding: 0; gridline-color: %3; }"
                "QHeaderView::section { background: %5; border: none; border-bottom: 1px solid %3; padding: "
                "2px; }"
                "QLineEdit:focus { border: 1px solid %6; }"
                "QMenuBar, QScrollArea, #pageBody { background: %5; }"
                "QPushButton { background: %4; border: 1px solid %3; border-radius: 2px; padding: 3px 8px; }"
                "QPushButton:checked { background: %6; color: %4; }"
                "QPushButton:focus { border: 1px solid %6; }")
            .arg(t.faint.name(), t.ochre.name(), t.line.name(), t.panel.name(), t.paper.name(),
                 t.accent.name());
    setFont(draw::ui_font(9));
    // Every widget is styled and laid out anew by either.
    if (p != QApplication::palette()) QApplication::setPalette(p);
    if (sheet != styleSheet()) setStyleSheet(sheet);
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
