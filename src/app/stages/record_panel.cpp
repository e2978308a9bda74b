#include "app/stages/record_panel.h"
#include "app/model/text.h"
#include "units/quantity.h"
#include "units/text.h"
#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QVBoxLayout>

namespace ng::app {
RecordPanel::RecordPanel(Session& session, Recorder& recorder, QWidget* parent)
    : QWidget(parent), session_(session), recorder_(recorder) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(6);
    auto* who = new QHBoxLayout;
    role_ = new QComboBox;
    role_->addItems({"jointer", "inspector", "tester", "engineer in charge"});
    role_->setAccessibleName("Role");
    make_large(role_, 11);
    initials_ = new QLineEdit;
    initials_->setPlaceholderText("initials");
    initials_->setAccessibleName("Initials");
    initials_->setMaxLength(8);
    initials_->setFixedWidth(96);
    make_large(initials_, 12);
    port_ = new QComboBox;
    port_->setEditable(true);
    port_->setAccessibleName("Port of the instrument");
    port_->lineEdit()->setPlaceholderText("port of the instrument");
    make_large(port_, 10);
    listen_ = new QPushButton("Listen");
    read_ = new QPushButton("Read");
    read_->setToolTip("Asks the instrument for a reading");
    pad_button_ = new QPushButton("Keys");
    pad_button_->setCheckable(true);
    for (auto* b : {listen_, read_, pad_button_}) make_large(b, 11);
    who->addWidget(role_);
    who->addWidget(initials_);
    who->addWidget(port_, 1);
    who->addWidget(listen_);
    who->addWidget(read_);
    who->addWidget(pad_button_);
    column->addLayout(who);
    port_state_ = large_label(9.5);
    port_state_->setObjectName("portState");
    port_state_->setProperty("faint", true);
    column->addWidget(port_state_);
    begin_ = new QPushButton("Begin the record of this accessory");
    begin_->setObjectName("beginRecord");
    make_large(begin_, 12, true);
    column->addWidget(begin_);
    entry_box_ = new QWidget;
    auto* entry = new QVBoxLayout(entry_box_);
    entry->setContentsMargins(0, 0, 0, 0);
    fields_ = new QWidget;
    grid_ = new QGridLayout(fields_);
    grid_->setContentsMargins(0, 0, 0, 0);
    grid_->setColumnStretch(2, 1);
    entry->addWidget(fields_);
    why_box_ = new QWidget;
    auto* why_column = new QVBoxLayout(why_box_);
    why_column->setContentsMargins(0, 0, 0, 0);
    why_words_ = large_label(10.5);
    why_column->addWidget(why_words_);
    auto* reasons = new QHBoxLayout;
    for (const char* reason : {"mistyped", "read wrongly", "another mark was read"}) {
        auto* button = new QPushButton(q(upper_first(reason)));
        make_large(button, 11);
        connect(button, &QPushButton::clicked, this, [this, reason] {
            if (correct_row(corrected_, reason)) why_box_->hide();
        });
        reasons->addWidget(button);
    }
    auto* leave = new QPushButton("Leave it");
    make_large(leave, 11);
    connect(leave, &QPushButton::clicked, why_box_, &QWidget::hide);
    reasons->addWidget(leave);
    reasons->addStretch();
    why_column->addLayout(reasons);
    why_box_->hide();
    entry->addWidget(why_box_);
    hold_box_ = new QWidget;
    auto* hold = new QVBoxLayout(hold_box_);
    hold->setContentsMargins(0, 0, 0, 0);
    auto* line = new QHBoxLayout;
    found_ = new QLineEdit;
    found_->setPlaceholderText("found: as it should be");
    found_->setAccessibleName("What was found");
    make_large(found_, 12);
    accept_ = new QPushButton("Accept");
    rework_ = new QPushButton("Rework");
    cut_back_ = new QPushButton("Cut back");
    accept_->setObjectName("acceptHold");
    rework_->setObjectName("reworkHold");
    cut_back_->setObjectName("cutBackHold");
    line->addWidget(found_, 1);
    for (auto* b : {accept_, rework_, cut_back_}) {
        make_large(b, 12, true);
        line->addWidget(b);
    }
    hold->addLayout(line);
    hold_state_ = large_label(10.5);
    hold_state_->setObjectName("holdState");
    hold->addWidget(hold_state_);
    entry->addWidget(hold_box_);
    field_ = large_label(10.5, true);
    field_->setObjectName("builtField");
    entry->addWidget(field_);
    column->addWidget(entry_box_);
    pad_ = new KeyPad;
    pad_->hide();
    column->addWidget(pad_);
    say({});

    connect(role_, &QComboBox::activated, this, &RecordPanel::enter_who);
    connect(initials_, &QLineEdit::textEdited, this, &RecordPanel::enter_who);
    connect(listen_, &QPushButton::clicked, this, &RecordPanel::connect_port);
    connect(read_, &QPushButton::clicked, this, [this] { recorder_.port().send("R"); });
    connect(pad_button_, &QPushButton::toggled, pad_, &QWidget::setVisible);
    connect(qApp, &QApplication::focusChanged, this,
            [this](QWidget*, QWidget* now) { pad_->show_letters(now == initials_ || now == found_); });
    connect(begin_, &QPushButton::clicked, this, &RecordPanel::wants_begin);
    connect(accept_, &QPushButton::clicked, this, [this] { decide("accept"); });
    connect(rework_, &QPushButton::clicked, this, [this] { decide("rework"); });
    connect(cut_back_, &QPushButton::clicked, this, [this] { decide("cut_back"); });
    auto& port = recorder_.port();
    connect(&port, &InstrumentPort::reading, this, &RecordPanel::take);
    connect(&port, &InstrumentPort::trouble, this,
            [this](const QString& words) { say("The instrument: " + words + "."); });
    connect(&port, &InstrumentPort::lost, this, [this](const QString& why) {
        say("The instrument is gone: " + why + ". What was written stays.");
        refresh();
    });
    connect(&port, &InstrumentPort::event, this, [this](const InstrumentEvent& event) {
        if (event.kind != InstrumentEvent::Kind::identity) return;
        const auto today = time_now().utc.substr(0, 10);
        say(QString("%1 %2, calibrated %3%4")
                .arg(q(event.identity.kind), q(event.identity.serial), q(event.identity.calibrated_on),
                     event.identity.was_due(today) ? ". OUT OF CALIBRATION since " +
                                                         q(event.identity.due_on) + ": the record will say so"
                                                   : ", due " + q(event.identity.due_on)));
    });
    connect(&recorder, &Recorder::changed, this, &RecordPanel::refresh);
    connect(&recorder, &Recorder::judged, this, &RecordPanel::fill_states);
    role_->setCurrentText(q(recorder.who().role));
    initials_->setText(q(recorder.who().initials));
    refresh();
}

void RecordPanel::say(const QString& words) {
    port_state_->setText(words);
    port_state_->setVisible(!words.isEmpty());
}

void RecordPanel::enter_who() {
    recorder_.set_who({role_->currentText().toStdString(), initials_->text().trimmed().toStdString()});
}

void RecordPanel::connect_port() {
    auto& port = recorder_.port();
    if (port.is_open()) {
        port.close();
        say("");
    } else if (const auto why = port.open(port_->currentText()); !why.isEmpty()) {
        say(why);
    } else {
        say("Listening: a reading goes into the next field.");
    }
    refresh();
}

void RecordPanel::show_step(const SheetStep& step) {
    const bool same = step_ && step_->id == step.id && !rows_.empty();
    step_ = step;
    if (!same) {
        found_->clear();
        why_box_->hide();
        for (auto& row : rows_) row = {};
        rows_.clear();
    }
    refresh();
}

void RecordPanel::refresh() {
    const auto record = recorder_.record();
    begin_->setVisible(!record);
    begin_->setEnabled(recorder_.trouble().isEmpty());
    entry_box_->setVisible(record != nullptr);
    listen_->setText(recorder_.port().is_open() ? "Stop" : "Listen");
    read_->setEnabled(recorder_.port().is_open());
    if (port_->count() == 0) {
        const auto text = port_->currentText();
        port_->addItems(instrument_ports());
        port_->setCurrentText(text);
    }
    if (!record && !recorder_.trouble().isEmpty()) say(recorder_.trouble());
    const auto plan = recorder_.plan();
    if (!record || !plan || !step_) return;
    if (rows_.empty()) {
        while (auto* item = grid_->takeAt(0)) {
            if (item->widget()) item->widget()->deleteLater();
            delete item;
        }
        const auto cuts = [&](const CutMark& mark) {
            return std::find(step_->cuts.begin(), step_->cuts.end(), mark.place) != step_->cuts.end();
        };
        for (const auto& mark : plan->marks) {
            if (mark.tolerance_mm <= 0 || mark.place.kind == plan->datum.kind) continue;
            if (step_->cuts.empty() ? !step_->shown.contains(mark.kind) : !cuts(mark)) continue;
            rows_.push_back(
                {.what = Row::What::mark, .place = mark.place, .label = mark.label, .side = "", .from = {}});
        }
        if (step_->step_id == "cable")
            for (const char* side : plan->two_sides() ? std::vector{"A", "B"} : std::vector{""})
                for (const bool across : {false, true})
                    rows_.push_back({.what = Row::What::diameter,
                                     .place = place::insulation,
                                     .label = fmt::format("over the insulation{}{}{}", *side ? " " : "", side,
                                                          across ? ", across" : ""),
                                     .side = side,
                                     .across = across,
                                     .from = {}});
        for (std::size_t i = 0; i < rows_.size(); ++i) {
            auto& row = rows_[i];
            auto* label = large_label(11.5, true);
            label->setText(q(row.label));
            label->setMinimumWidth(190);
            row.field = new QLineEdit;
            row.field->setAccessibleName(q(row.label));
            row.field->setFixedWidth(120);
            make_large(row.field, 14, true);
            row.state = large_label(10.5);
            row.write = new QPushButton("Write");
            row.write->setAccessibleName("Write " + q(row.label));
            make_large(row.write, 11);
            row.correct = new QPushButton("Correct");
            row.correct->setToolTip("What was written stays; this takes its place, with the reason");
            row.correct->setAccessibleName("Correct " + q(row.label));
            make_large(row.correct, 11);
            connect(row.correct, &QPushButton::clicked, this, [this, i] { ask_why(i); });
            connect(row.field, &QLineEdit::textEdited, this, [this, i] {
                if (i < rows_.size()) rows_[i].from.reset();
            });
            connect(row.field, &QLineEdit::returnPressed, this, [this, i] { write_row(i); });
            connect(row.write, &QPushButton::clicked, this, [this, i] { write_row(i); });
            const int at = static_cast<int>(i);
            grid_->addWidget(label, at, 0);
            grid_->addWidget(row.field, at, 1);
            grid_->addWidget(row.state, at, 2);
            grid_->addWidget(row.write, at, 3);
            grid_->addWidget(row.correct, at, 4);
        }
    }
    fields_->setVisible(!rows_.empty());
    hold_box_->setVisible(step_->hold.has_value());
    fill_states();
}

void RecordPanel::fill_states() {
    const auto record = recorder_.record();
    const auto plan = recorder_.plan();
    if (!record || !plan || !step_) return;
    const auto unit = session_.unit();
    for (auto& row : rows_) {
        const auto* last = last_of(row);
        row.written = last ? std::optional(last->number) : std::nullopt;
        row.correct->setVisible(last != nullptr);
        QString words;
        if (row.what == Row::What::mark) {
            const auto* mark = plan->find(row.place);
            const auto range = range_of(*mark, *plan);
            words = QString("%1 to %2, by %3")
                        .arg(q(format_length(range.lowest, unit, false)),
                             q(format_length(range.highest, unit)), q(range.whose));
        }
        bool out = false;
        if (last) {
            out = last->within() == std::optional(false);
            words = QString("%1 %2, %3 %4%5")
                        .arg(q(format_length(last->value(), unit)), out ? "is OUT" : "written",
                             q(last->who.role), q(last->who.initials), words.isEmpty() ? "" : "\n" + words);
        }
        row.state->setText(words);
        row.state->setStyleSheet(
            out ? QString("color: %1; font-weight: bold").arg(session_.theme().brick.name()) : QString());
    }
    const auto* hold = record->hold_of(step_->id);
    hold_state_->setText(!hold ? "The hold point is open."
                               : QString("%1 by %2 %3, %4: %5")
                                     .arg(hold->accepted()                       ? "Accepted"
                                          : hold->text("decision") == "cut_back" ? "CUT BACK, still open"
                                                                                 : "REWORK, still open",
                                          q(hold->who.role), q(hold->who.initials),
                                          q(hold->at.local).left(16).replace('T', ' '),
                                          q(hold->text("found"))));
    field_->setText(recorder_.verdict_words().isEmpty()
                        ? QString()
                        : q(upper_first(recorder_.verdict_words().toStdString())) + ".");
    const auto verdict = recorder_.verdict();
    const bool short_of =
        !recorder_.is_judging() && verdict && verdict->as_built->verdict.status == Status::falls_short;
    field_->setStyleSheet(short_of ? QString("color: %1").arg(session_.theme().brick.name()) : QString());
}

void RecordPanel::take(const InstrumentReading& reading) {
    if (!isVisible() || reading.unit != "mm") {
        if (isVisible()) say(QString("“%1” is no length: it was left out.").arg(q(reading.sent)));
        return;
    }
    QStringList remarks;
    for (const auto& remark : reading.remarks) remarks << q(remark);
    if (!remarks.isEmpty()) say("The instrument: " + remarks.join("; ") + ".");
    Row* into = nullptr;
    for (auto& row : rows_)
        if (row.field->hasFocus()) into = &row;
    for (auto& row : rows_)
        if (!into && row.field->text().isEmpty()) into = &row;
    if (!into) return;
    into->field->setText(q(format_length(reading.value, session_.unit(), false)));
    into->from = reading;
    into->write->setFocus();
}

const RecordedReading* RecordPanel::last_of(const Row& row) const {
    const auto record = recorder_.record();
    if (!record) return nullptr;
    if (row.what == Row::What::mark) return record->last_of("mark", name_of(row.place));
    const RecordedReading* last = nullptr;
    for (const auto& r : record->readings)
        if (r.text("what") == "diameter" && r.text("place") == name_of(row.place) &&
            r.text("side") == row.side && r.body.value("across", false) == row.across)
            last = &r;
    return last;
}

/// What the field holds, mm; what cannot be used is said beside it and stays as typed.
Result<double> RecordPanel::value_of(Row& row) {
    auto value = row.from ? Result<double>(row.from->value)
                          : parse_length_mm(row.field->text().toStdString(), session_.unit(), row.label);
    if (value && row.what == Row::What::diameter && !(*value > 0))
        value = refuse(row.label, "a diameter is above zero", "Read it again");
    if (!value) {
        session_.tell(value.error());
        row.state->setText(q(value.error().message()));
        row.field->setFocus();
        row.field->selectAll();
    }
    return value;
}

void RecordPanel::was_written(std::size_t index) {
    if (index >= rows_.size()) return;
    rows_[index].from.reset();
    rows_[index].field->clear();
    for (auto& next : rows_)
        if (next.field->text().isEmpty() && &next > &rows_[index]) {
            next.field->setFocus();
            break;
        }
}

void RecordPanel::ask_why(std::size_t index) {
    auto& row = rows_.at(index);
    const auto value = value_of(row);
    if (!value || !row.written) return;
    corrected_ = index;
    why_words_->setText(QString("%1: row %2 stays, %3 takes its place. Why is it corrected?")
                            .arg(q(row.label))
                            .arg(*row.written)
                            .arg(q(format_length(*value, session_.unit()))));
    why_box_->show();
}

bool RecordPanel::correct_row(std::size_t index, const std::string& why) {
    auto& row = rows_.at(index);
    const auto value = value_of(row);
    if (!value || !row.written) return false;
    const auto from = row.from;
    if (!recorder_.correct(*row.written, *value, why, from ? &*from : nullptr)) return false;
    was_written(index);
    return true;
}

bool RecordPanel::write_row(std::size_t index) {
    auto& row = rows_.at(index);
    const auto value = value_of(row);
    if (!value) return false;
    const auto from = row.from;
    bool done = false;
    if (row.what == Row::What::mark) {
        done = recorder_.write_mark(row.place, *value, step_->id, from ? &*from : nullptr);
    } else {
        EntryDraft draft;
        draft.kind = "reading";
        draft.body = {{"what", "diameter"},
                      {"place", name_of(row.place)},
                      {"label", "diameter " + row.label},
                      {"value", *value},
                      {"unit", "mm"},
                      {"across", row.across},
                      {"step", step_->id}};
        if (!row.side.empty()) draft.body["side"] = row.side;
        if (from) {
            draft.instrument = recorder_.instrument_row();
            draft.body["typed"] = from->sent;
        }
        done = recorder_.write(std::move(draft));
    }
    if (!done) return false; // what was typed stays
    was_written(index);
    return true;
}

bool RecordPanel::decide(const char* decision) {
    if (!step_ || !recorder_.write_hold(*step_, found_->text(), decision, {})) return false;
    found_->clear();
    return true;
}

} // namespace ng::app
