#include "app/stages/test_window.h"
#include "app/model/text.h"
#include "app/model/window_size.h"
#include "draw/chart_picture.h"
#include "draw/design_picture.h"
#include "fault/answer.h"
#include "io/file.h"
#include "units/quantity.h"
#include "units/text.h"
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>

namespace ng::app {

class TestWindow::Picture : public QWidget {
  public:
    explicit Picture(TestWindow& window) : QWidget(&window), window_(window) {
        setMinimumHeight(150);
        setAccessibleName("Trace of the test");
        auto policy = sizePolicy();
        policy.setRetainSizeWhenHidden(true);
        setSizePolicy(policy);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        const auto& theme = window_.session_.theme();
        painter.fillRect(rect(), theme.paper);
        if (window_.tests_.empty()) return;
        const auto& test = window_.tests_[static_cast<std::size_t>(window_.chosen_)];
        const bool pattern = test.set == "pd";
        const QRectF all(rect());
        if (!(test.level > 0)) return;
        const double share = pattern ? 0.55 : 1;
        draw::paint_test_trace(painter, {0, 0, all.width() * share, all.height()}, test, window_.trace_,
                               theme);
        if (pattern)
            draw::paint_pattern(painter, {all.width() * share, 0, all.width() * (1 - share), all.height()},
                                window_.pulses_, theme);
    }

  private:
    TestWindow& window_;
};

/// Both fields below one another, where the test's own frequency is not that of the grid.
class TestWindow::FieldPicture : public QWidget {
  public:
    explicit FieldPicture(TestWindow& window) : QWidget(&window), window_(window) {
        setFixedHeight(176);
        setAccessibleName("Field at the frequency of the test and at that of the grid");
        hide();
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        const auto& theme = window_.session_.theme();
        painter.fillRect(rect(), theme.paper);
        const auto* field = window_.field();
        if (!field) return;
        const auto title = [&](double hz) {
            return QString("%1 Hz, %2 kV").arg(hz).arg(field->voltage_kV, 0, 'g', 4);
        };
        draw::paint_fields(painter, QRectF(rect()).adjusted(2, 0, -2, 0), field->at_test->prepared,
                           {{&field->at_test->solutions.at_u0, title(field->test_hz)},
                            {&field->at_power->solutions.at_u0, title(field->power_hz)}},
                           field->voltage_kV, theme);
    }

  private:
    TestWindow& window_;
};

TestWindow::TestWindow(Session& session, Recorder& recorder, QWidget* parent)
    : QWidget(parent, Qt::Window), session_(session), recorder_(recorder), port_(this), field_worker_(this) {
    setObjectName("testWindow");
    setWindowTitle("Tests");
    open_within_screen(*this, {1080, 720});
    auto* row = new QHBoxLayout(this);
    auto* left = new QVBoxLayout;
    occasion_ = new QComboBox;
    occasion_->setAccessibleName("Occasion");
    for (const auto o : {Occasion::installation, Occasion::acceptance, Occasion::maintenance})
        occasion_->addItem(occasion_word(o));
    list_ = new QListWidget;
    list_->setAccessibleName("Tests");
    list_->setFixedWidth(280);
    list_->setWordWrap(true);
    list_->setStyleSheet("QListWidget::item { min-height: 44px; }");
    left->addWidget(occasion_);
    left->addWidget(list_, 1);
    row->addLayout(left);
    auto* column = new QVBoxLayout;
    row->addLayout(column, 1);
    const auto label = [&](double points, bool bold) {
        auto* l = new QLabel;
        l->setFont(draw::ui_font(points, bold));
        l->setWordWrap(true);
        l->setTextInteractionFlags(Qt::TextSelectableByMouse);
        column->addWidget(l);
        return l;
    };
    title_ = label(16, true);
    how_ = label(11, false);
    cautions_ = label(10.5, true);
    cautions_->setProperty("caution", true);
    picture_ = new Picture(*this);
    column->addWidget(picture_, 1);
    field_picture_ = new FieldPicture(*this);
    column->addWidget(field_picture_);
    field_ = label(9.5, false);
    field_->setObjectName("testField");
    auto* line = new QHBoxLayout;
    port_box_ = new QComboBox;
    port_box_->setEditable(true);
    port_box_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    port_box_->setMinimumContentsLength(8);
    port_box_->setAccessibleName("Port of the test set");
    port_box_->lineEdit()->setPlaceholderText("port of the test set");
    port_box_->addItems(instrument_ports());
    port_box_->setCurrentText("");
    listen_ = new QPushButton("Listen");
    start_ = new QPushButton("Start");
    abort_ = new QPushButton("Abort");
    typed_ = new QLineEdit;
    typed_->setPlaceholderText("or type the reading");
    typed_->setAccessibleName("Reading of the test");
    typed_->setFixedWidth(170);
    load_ = new QPushButton("CSV in…");
    save_ = new QPushButton("CSV out…");
    write_ = new QPushButton("Write to the record");
    line->addWidget(port_box_, 1);
    for (auto* b : {listen_, start_, abort_}) line->addWidget(b);
    auto* written = new QHBoxLayout;
    for (QWidget* w : std::initializer_list<QWidget*>{typed_, write_}) written->addWidget(w);
    written->addStretch();
    for (auto* b : {load_, save_}) written->addWidget(b);
    for (auto* b : {listen_, start_, abort_, load_, save_, write_}) b->setMinimumHeight(44);
    typed_->setMinimumHeight(44);
    column->addLayout(line);
    column->addLayout(written);
    state_ = label(9.5, false);
    state_->setProperty("faint", true);
    result_ = label(12, true);
    result_->setObjectName("testResult");

    connect(occasion_, &QComboBox::activated, this, &TestWindow::plan_tests);
    connect(list_, &QListWidget::currentRowChanged, this, [this](int i) {
        if (i >= 0 && i != chosen_) choose(i);
    });
    connect(listen_, &QPushButton::clicked, this, [this] {
        if (port_.is_open()) {
            stop_listening();
            state_->setText("");
        } else {
            state_->setText(port_says(port_box_->currentText()));
        }
        show_test();
    });
    connect(start_, &QPushButton::clicked, this, &TestWindow::start);
    connect(abort_, &QPushButton::clicked, this, &TestWindow::abort);
    connect(typed_, &QLineEdit::returnPressed, this, [this] { type_reading(typed_->text()); });
    connect(load_, &QPushButton::clicked, this, [this] {
        const auto path = QFileDialog::getOpenFileName(this, "Trace of a test set", {}, "CSV (*.csv)");
        if (!path.isEmpty())
            if (auto ok = load_trace(path); !ok)
                session_.tell(ok.error()), state_->setText(q(ok.error().message()));
    });
    connect(save_, &QPushButton::clicked, this, [this] {
        const auto path = QFileDialog::getSaveFileName(this, "Trace of the test", "trace.csv", "CSV (*.csv)");
        if (!path.isEmpty())
            if (auto ok = save_trace(path); !ok) session_.tell(ok.error());
    });
    connect(write_, &QPushButton::clicked, this, &TestWindow::write_result);
    connect(&port_, &InstrumentPort::event, this, &TestWindow::take);
    connect(&port_, &InstrumentPort::trouble, this,
            [this](const QString& words) { state_->setText("The test set: " + words + "."); });
    connect(&port_, &InstrumentPort::lost, this, [this](const QString& why) {
        state_->setText("The test set is gone: " + why);
        if (running_) finish(false);
        show_test();
    });
    connect(&recorder, &Recorder::changed, this, &TestWindow::show_test);
    connect(&session, &Session::prepared_changed, this, &TestWindow::plan_tests);
    connect(&session, &Session::look_changed, this, &TestWindow::show_test);
    plan_tests();
}

void TestWindow::plan_tests() {
    if (running_) return; // what runs is finished as it was begun
    tests_.clear();
    const auto prepared = session_.prepared();
    if (prepared) {
        const auto levels = load_site_levels(session_.library());
        auto tests =
            levels ? site_tests(*prepared, *occasion_of(occasion_->currentText().toStdString()), *levels)
                   : Result<std::vector<SiteTest>>(tl::unexpected(levels.error()));
        if (tests)
            tests_ = std::move(*tests);
        else
            state_->setText(q(tests.error().message()));
    }
    const QSignalBlocker quiet(list_);
    list_->clear();
    for (const auto& t : tests_)
        list_->addItem(QString("%1%2%3").arg(
            q(t.title), t.level > 0 ? QString("\n%1 %2").arg(t.level, 0, 'g', 4).arg(q(t.unit)) : "",
            t.minutes > 0 ? QString(" for %1 min").arg(t.minutes) : ""));
    choose(std::clamp(chosen_, 0, std::max(0, list_->count() - 1)));
}

void TestWindow::choose(int index) {
    if (running_ || index >= static_cast<int>(tests_.size())) return;
    chosen_ = index;
    {
        const QSignalBlocker quiet(list_);
        list_->setCurrentRow(index);
    }
    forget_trace();
    outcome_.reset();
    field_->clear();
    result_->clear();
    typed_->clear();
    show_test();
    find_field();
}

void TestWindow::show_test() {
    const auto& theme = session_.theme();
    setStyleSheet(QString("#testWindow { background: %1; }").arg(theme.panel.name()));
    if (tests_.empty()) {
        title_->setText("No tests");
        for (auto* w : std::initializer_list<QWidget*>{start_, abort_, typed_, load_, save_, write_})
            w->setEnabled(false);
        return;
    }
    const auto& t = tests_[static_cast<std::size_t>(chosen_)];
    title_->setText(q(t.title));
    QString limit;
    if (t.least) limit = QString(" At least %1 %2 is wanted.").arg(*t.least).arg(q(t.reading_unit));
    if (t.most) limit = QString(" At most %1 %2 is allowed.").arg(*t.most).arg(q(t.reading_unit));
    how_->setText(QString("%1%2%3 By: %4.")
                      .arg(t.level > 0 ? QString("%1 %2%3, %4 min. ")
                                             .arg(t.level, 0, 'g', 4)
                                             .arg(q(t.unit), t.frequency_hz > 0 ? " rms" : "")
                                             .arg(t.minutes)
                                       : QString(),
                           q(t.how), limit, q(t.limits)));
    QStringList cautions;
    for (const auto& c : t.cautions) cautions << "Caution. " + q(c);
    cautions_->setText(cautions.join("\n"));
    const bool open = port_.is_open();
    listen_->setText(open ? "Stop listening" : "Listen");
    start_->setEnabled(open && !running_);
    abort_->setEnabled(running_);
    typed_->setEnabled(!running_);
    load_->setEnabled(!running_ && t.level > 0);
    save_->setEnabled(!trace_.empty());
    list_->setEnabled(!running_);
    write_->setEnabled(!running_ && outcome_ && recorder_.record());
    write_->setToolTip(recorder_.record() ? "" : "Begin the record of this accessory first");
    if (outcome_) {
        result_->setText(q(upper_first(outcome_->result == "pass"   ? "passed"
                                       : outcome_->result == "fail" ? "failed"
                                                                    : "aborted") +
                           ": " + outcome_->why));
        result_->setStyleSheet(outcome_->result == "pass" ? QString()
                                                          : QString("color: %1").arg(theme.brick.name()));
    }
    picture_->setVisible(t.level > 0);
    picture_->update();
}

QString TestWindow::port_says(const QString& port) {
    const auto why = port_.open(port);
    show_test();
    return why.isEmpty() ? QString("Listening.") : why;
}

void TestWindow::forget_trace() {
    trace_.clear();
    pulses_.clear();
    inception_kV_.reset();
    extinction_kV_.reset();
}

void TestWindow::start() {
    if (tests_.empty() || !port_.is_open() || running_) return;
    const auto& t = tests_[static_cast<std::size_t>(chosen_)];
    forget_trace();
    outcome_.reset();
    result_->clear();
    if (!(t.level > 0)) {
        port_.send("R");
        return;
    }
    running_ = true;
    broke_down_ = false;
    source_ = "serial line";
    port_.send(QString("T %1 %2 %3").arg(t.level).arg(t.minutes).arg(t.frequency_hz));
    show_test();
}

/// A test that runs is stopped first: its set would go on with nobody looking.
void TestWindow::stop_listening() {
    if (running_) {
        port_.send("S");
        port_.flush();
        finish(false);
    }
    port_.close();
}

void TestWindow::closeEvent(QCloseEvent* event) {
    stop_listening();
    QWidget::closeEvent(event);
}

void TestWindow::abort() {
    if (!running_) return;
    port_.send("S");
    state_->setText("Stopped by hand: the voltage goes down. Discharge and earth before anything else.");
}

void TestWindow::take(const InstrumentEvent& event) {
    using Kind = InstrumentEvent::Kind;
    const auto& t = tests_.empty() ? SiteTest{} : tests_[static_cast<std::size_t>(chosen_)];
    switch (event.kind) {
    case Kind::identity:
        state_->setText(QString("%1 %2%3").arg(q(event.identity.kind), q(event.identity.serial),
                                               event.identity.was_due(time_now().utc.substr(0, 10))
                                                   ? ", OUT OF CALIBRATION since " + q(event.identity.due_on)
                                                   : ", calibration due " + q(event.identity.due_on)));
        break;
    case Kind::trace:
        if (!running_) break;
        if (event.reading.unit != t.reading_unit || event.level_unit != t.unit) {
            state_->setText(
                QString("The test set sends %1 and %2, this test is read in %3 and %4: not taken.")
                    .arg(q(event.level_unit), q(event.reading.unit), q(t.unit), q(t.reading_unit)));
            break;
        }
        if (!trace_.empty() && event.s < trace_.back().s) forget_trace(); // the last lines of a test before
        if (t.set == "pd") { // where it first rises above the limit, and where it is quiet again
            const bool loud = t.most && event.reading.value > *t.most;
            if (loud && !inception_kV_) inception_kV_ = event.level;
            if (loud) extinction_kV_ = event.level;
        }
        trace_.push_back({event.s, event.level, event.reading.value});
        picture_->update();
        break;
    case Kind::pulse:
        if (running_ && pulses_.size() < 20000) pulses_.emplace_back(event.phase_deg, event.charge_pC);
        break;
    case Kind::breakdown:
    case Kind::ended: // before any of this test was seen: of the one before
        if (running_ && !trace_.empty()) finish(event.kind == Kind::breakdown);
        break;
    case Kind::reading:
        if (running_ || t.level > 0) break;
        if (event.reading.unit != t.reading_unit) {
            state_->setText(QString("It sends %1, this test is read in %2: not taken.")
                                .arg(q(event.reading.unit), q(t.reading_unit)));
            break;
        }
        source_ = "serial line";
        outcome_ = judge_reading(t, event.reading.value);
        emit ended();
        show_test();
        break;
    case Kind::trouble:
        break;
    }
}

void TestWindow::finish(bool broke_down) {
    running_ = false;
    broke_down_ = broke_down;
    const auto& t = tests_[static_cast<std::size_t>(chosen_)];
    if (t.set == "insulation" && !broke_down && !trace_.empty()) {
        // What it is after its time decides, not the largest.
        outcome_ = judge_trace(t, trace_, false);
        if (outcome_->result != "aborted") {
            double at_end = trace_.back().reading;
            for (const auto& p : trace_)
                if (p.level >= 0.98 * t.level && p.s <= 60 * t.minutes + 2) at_end = p.reading;
            outcome_ = judge_reading(t, at_end);
        }
    } else {
        outcome_ = judge_trace(t, trace_, broke_down);
    }
    if (t.set == "pd" && inception_kV_)
        outcome_->why += QString("; above the limit from %1 kV, quiet below %2 kV")
                             .arg(*inception_kV_, 0, 'g', 3)
                             .arg(*extinction_kV_, 0, 'g', 3)
                             .toStdString();
    emit ended();
    show_test();
}

void TestWindow::type_reading(const QString& text) {
    if (tests_.empty() || running_) return;
    const auto& t = tests_[static_cast<std::size_t>(chosen_)];
    const auto value = parse_number(text.toStdString(), t.reading_unit, t.title);
    if (!value) {
        state_->setText(q(value.error().message()));
        return;
    }
    source_ = "typed";
    trace_.clear();
    outcome_ = judge_reading(t, *value);
    if (t.minutes > 0 && outcome_->result == "pass") outcome_->why += ", as typed";
    emit ended();
    show_test();
}

Result<void> TestWindow::load_trace(const QString& path) {
    const auto text = read_file(path.toStdString(), most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    auto trace = read_trace(*text, path.section('/', -1).toStdString());
    if (!trace) return tl::unexpected(trace.error());
    trace_ = std::move(*trace);
    source_ = "file " + path.section('/', -1).toStdString();
    finish(false);
    return {};
}

Result<void> TestWindow::save_trace(const QString& path) const {
    return write_output(path.toStdString(), trace_csv(tests_.at(static_cast<std::size_t>(chosen_)), trace_));
}

bool TestWindow::write_result() {
    if (!outcome_ || tests_.empty() || !recorder_.record()) return false;
    auto draft = test_entry(tests_[static_cast<std::size_t>(chosen_)], *outcome_, trace_, recorder_.who(),
                            recorder_.record()->number, source_);
    if (!pulses_.empty()) {
        auto rows = nlohmann::json::array();
        const std::size_t every = pulses_.size() / 2000 + 1;
        for (std::size_t i = 0; i < pulses_.size(); i += every)
            rows.push_back({pulses_[i].first, pulses_[i].second});
        draft.body["pattern"] = rows;
    }
    if (!field_->text().isEmpty()) draft.body["field"] = field_->text().toStdString();
    if (!recorder_.write(std::move(draft))) return false;
    outcome_.reset();
    result_->setText("Written.");
    show_test();
    return true;
}

/// What the field says of the test: below 1 Hz beside the power frequency; of partial discharge what is
/// predicted.
void TestWindow::find_field() {
    const int run = ++run_;
    field_worker_.cancel();
    shown_field_.reset();
    field_picture_->hide();
    if (tests_.empty()) return;
    const auto test = tests_[static_cast<std::size_t>(chosen_)];
    const bool slow = test.frequency_hz > 0 && test.frequency_hz < 1;
    if (!slow && test.set != "pd") return;
    const auto verdict = recorder_.verdict();
    auto job = verdict ? verdict->built.job : session_.document.job();
    const auto id = session_.document.design().id;
    if (!verdict && !session_.with_faults()) job.find_design(id)->faults.clear();
    field_->setText("Solving the field under this test…");
    field_worker_.start([this, run, test, slow, job, id,
                         library = session_.library()](const CancelFlag& cancel) {
        QString words;
        std::shared_ptr<const FieldAtTest> shown;
        if (slow) {
            const auto field = field_at_test(job, id, test, library, &cancel);
            if (!field) {
                words = q(field.error().message());
            } else {
                QStringList lines;
                for (const auto& row : field->rows)
                    if (std::abs(row.at_test - row.at_power) > (row.error + 0.01) * row.at_power)
                        lines << QString("%1: %2 kV/mm for %3 kV/mm")
                                     .arg(q(row.title), q(format_supported(row.at_test, row.error)),
                                          q(format_supported(row.at_power, row.error)));
                words =
                    lines.isEmpty()
                        ? QString("At %1 Hz the field is that of %2 Hz: nothing in this accessory conducts "
                                  "enough.")
                              .arg(field->test_hz)
                              .arg(field->power_hz)
                        : QString("At %1 Hz this test stresses other places than %2 Hz does. At %3 kV: ")
                                  .arg(field->test_hz)
                                  .arg(field->power_hz)
                                  .arg(field->voltage_kV) +
                              lines.mid(0, 5).join("; ") + ".";
                shown = std::make_shared<const FieldAtTest>(*field);
            }
        } else {
            const auto& faults = job.find_design(id)->faults;
            words = "No fault with air in it is known as built: nothing is predicted.";
            if (!faults.empty()) {
                EvaluateOptions options;
                options.cancel = &cancel;
                const auto sound = judge_sound(job, id, library, options);
                const auto answer = sound ? judge_faults(job, id, faults, library, *sound, options)
                                          : Result<FaultAnswer>(tl::unexpected(sound.error()));
                if (!answer)
                    words = q(answer.error().message());
                else if (answer->inception_kV_rms) {
                    double charge = 0;
                    for (const auto& air : answer->air) charge = std::max(charge, air.charge_pC);
                    words = QString("Predicted of the faults as built: inception at %1 kV rms, apparent "
                                    "charge up to %2 pC. A stand-in that is "
                                    "driven by the same faults proves nothing about a cable.")
                                .arg(*answer->inception_kV_rms, 0, 'g', 3)
                                .arg(charge, 0, 'g', 2);
                }
            }
        }
        if (cancel) return;
        field_worker_.hand_over([this, run, words, shown] {
            if (run != run_) return;
            field_->setText(q(words_in_stress_unit(words.toStdString(), session_.stress_unit())));
            shown_field_ = shown;
            field_picture_->setVisible(shown != nullptr);
            field_picture_->update();
        });
    });
}

} // namespace ng::app
