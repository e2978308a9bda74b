#include "app/stages/fit_page.h"
#include "app/model/text.h"
#include <QFileDialog>
#include <QHBoxLayout>
#include <QPainter>
#include <QSerialPortInfo>
#include <QSignalBlocker>
#include <algorithm>

namespace ng::app {

FitRow::FitRow(Session& session, QWidget* parent) : CardRow(session, 52, parent) {}

void FitRow::show_check(const FitCheck& check) {
    check_ = check;
    setText(QString::fromStdString(check.title));
    setAccessibleName(
        QString("%1: %2. %3").arg(text(), status_word(check.status), QString::fromStdString(check.why)));
    const bool size = check.suggestion.rfind("fits: ", 0) == 0;
    setToolTip(QString::fromStdString(check.cure.empty() ? check.why : check.why + ". " + check.cure) +
               (size ? ". Click to take the size that fits" : ""));
    setCursor(size ? Qt::PointingHandCursor : Qt::ArrowCursor);
    update();
}

void FitRow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto& theme = session_.theme();
    const auto state = stage_state(check_.status);
    paint_card(painter, state, 7);
    painter.setPen(theme.ink);
    painter.setFont(draw::ui_font(8.5, true));
    painter.drawText(QRectF(26, 2, width() - 30, 17), Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(text(), Qt::ElideRight, width() - 32));
    painter.setFont(draw::ui_font(8));
    auto words = [&](double v) {
        return check_.unit == "mm" ? QString::fromStdString(format_length(v, session_.unit()))
                                   : QString::number(v, 'f', 0) + " " + QString::fromStdString(check_.unit);
    };
    QString line = status_word(check_.status);
    if (check_.value > 0)
        line = QString("%1%2 · %3")
                   .arg(words(check_.value), check_.uncertainty > 0 ? " ± " + words(check_.uncertainty) : "",
                        line);
    if (!check_.suggestion.empty()) line += " · " + QString::fromStdString(check_.suggestion);
    painter.drawText(QRectF(26, 18, width() - 30, 15), Qt::AlignVCenter, line);
    // The range as a bar, the value with its uncertainty on it.
    const QRectF bar(26, 38, width() - 40, 4);
    const double low = check_.lowest,
                 high = check_.highest > 0 ? check_.highest : std::max(check_.value * 1.3, low * 1.3);
    if (high > low && check_.value > 0) {
        const double from = std::min(low, check_.value) * 0.9, to = std::max(high, check_.value) * 1.08;
        auto x = [&](double v) { return bar.left() + bar.width() * (v - from) / (to - from); };
        painter.fillRect(bar, theme.line);
        painter.fillRect(QRectF(x(low), bar.top(), x(high) - x(low), bar.height()), theme.ghost);
        const double u = std::max(check_.uncertainty, (to - from) * 0.004);
        painter.fillRect(QRectF(x(check_.value - u), bar.top() - 3,
                                std::max(2.0, x(check_.value + u) - x(check_.value - u)), 10),
                         colour_of(state, theme));
    }
    paint_focus(painter);
}

FitPage::FitPage(Session& session, QWidget* parent) : Page(session, "Fit", parent) {
    add_caliper();
    add_group("Parts on this cable");
    list_ = new QVBoxLayout;
    list_->setSpacing(2);
    column_->addLayout(list_);
    notes_ = add_text("", true);
    auto* connector = add_group("Connector or lug");
    connector_ = add_choice(connector, "Of the library", {});
    connector_->setToolTip("Sets its length and diameter in the design");
    add_tape();
    add_tables();
    column_->addStretch();
    connect_readings();
    connect(connector_, &QComboBox::activated, this, &FitPage::choose_connector);
    follow_design(session, this, &FitPage::refresh);
    connect(&session, &Session::look_changed, this, &FitPage::refresh);
    refresh();
}

void FitPage::add_caliper() {
    auto* measured = add_group("Measured with a caliper");
    layer_ = add_choice(measured, "Over", {});
    direction_ = add_choice(measured, "Direction", {"first", "across (90°)"});
    direction_->setToolTip("Readings in two directions show an oval");
    reading_ = add_quantity(measured, "Reading", QuantityEdit::Kind::length,
                            "Enter adds it; the direction changes over by itself");
    reading_->setObjectName("caliperReading");
    reading_->set_may_be_empty(true);
    reading_->set_step(0);
    readings_ = add_text("");
    readings_->setObjectName("readings");
    auto* buttons = new QHBoxLayout;
    remove_ = new QPushButton("Remove last");
    port_ = new QComboBox;
    port_->setEditable(true);
    port_->setAccessibleName("Caliper port");
    port_->setToolTip("Serial port of the caliper; needlegauge-caliper prints the name of its own");
    port_->setFixedWidth(104);
    listen_ = new QPushButton("Listen");
    buttons->addWidget(remove_);
    buttons->addWidget(port_);
    buttons->addWidget(listen_);
    buttons->addStretch();
    column_->addLayout(buttons);
    caliper_state_ = add_text("", true);
}

/// What is plugged in is looked for whenever the page is shown; what was typed stays.
void FitPage::showEvent(QShowEvent* event) {
    const auto typed = port_->currentText();
    port_->clear();
    for (const auto& info : QSerialPortInfo::availablePorts()) port_->addItem(info.systemLocation());
    if (!typed.isEmpty()) port_->setCurrentText(typed);
    Page::showEvent(event);
}

void FitPage::add_tape() {
    auto* tape = add_group("Tape and mastic");
    for (const auto& f : tape_figures) {
        auto* edit = add_quantity(
            tape, f.label, f.is_length ? QuantityEdit::Kind::length : QuantityEdit::Kind::number, f.help);
        edit->set_may_be_empty(true);
        const std::string key = f.key;
        const QString label = f.label;
        connect(edit, &QuantityEdit::entered, this,
                [this, key, label](double v) { session_.set_number(key, v, label); });
        connect(edit, &QuantityEdit::cleared, this, [this, key, label] {
            const auto id = session_.document.job().open_design;
            session_.document.edit("Default " + label, {},
                                   [&](Job& job) { job.find_design(id)->numbers.erase(key); });
        });
        tape_[key] = edit;
    }
    quantities_ = add_text("");
    quantities_->setObjectName("quantities");
}

void FitPage::add_tables() {
    add_group("Tables");
    add_text(
        "The kit sizes and connectors that ship are invented. Load your own as CSV (docs/kit-format.md).",
        true);
    auto* tables = new QHBoxLayout;
    auto add_loader = [&](const QString& text, auto load) {
        auto* button = new QPushButton(text);
        connect(button, &QPushButton::clicked, this, [this, text, load] {
            const auto path = QFileDialog::getOpenFileName(this, text, {}, "Tables (*.csv)");
            if (path.isEmpty()) return;
            if (auto ok = load(session_.changeable_library(), path.toStdString()); !ok)
                session_.tell(ok.error());
            else
                session_.prepare_again();
        });
        tables->addWidget(button);
    };
    add_loader("Load kit table…", [](Library& l, const std::string& p) { return load_kit_table(l, p); });
    add_loader("Load connectors…", [](Library& l, const std::string& p) { return load_connectors(l, p); });
    tables->addStretch();
    column_->addLayout(tables);
}

void FitPage::connect_readings() {
    connect(reading_, &QuantityEdit::entered, this, [this](double v) {
        add_reading(v);
        reading_->clear();
    });
    connect(remove_, &QPushButton::clicked, this, [this] {
        change_cable("Remove reading", [name = layer()](Cable& c) {
            auto& list = c.caliper_readings[name];
            if (!list.empty()) list.pop_back();
            if (list.empty()) c.caliper_readings.erase(name);
        });
    });
    connect(layer_, &QComboBox::activated, this, &FitPage::refresh_readings);
    connect(listen_, &QPushButton::clicked, this, &FitPage::connect_caliper);
    connect(&caliper_, &InstrumentPort::reading, this, [this](const InstrumentReading& reading) {
        if (reading.unit != "mm" || !(reading.value > 0)) {
            caliper_state_->setText(QString("“%1” is no diameter: it was left out.").arg(q(reading.sent)));
            return;
        }
        add_reading(reading.value);
        QStringList remarks;
        for (const auto& remark : reading.remarks) remarks << q(remark);
        if (!remarks.isEmpty()) caliper_state_->setText("The caliper: " + remarks.join("; ") + ".");
    });
    connect(&caliper_, &InstrumentPort::trouble, this,
            [this](const QString& words) { caliper_state_->setText("The caliper: " + words + "."); });
    connect(&caliper_, &InstrumentPort::lost, this, [this](const QString& why) {
        caliper_state_->setText("The caliper is gone: " + why);
        listen_->setText("Listen");
    });
}

void FitPage::choose_connector(int row) {
    const auto* family = session_.family();
    if (!family) return;
    const auto id = session_.document.job().open_design;
    const auto chosen = connector_ids_.at(static_cast<std::size_t>(row));
    session_.document.edit("Choose connector", {}, [&](Job& job) {
        auto& design = *job.find_design(id);
        if (chosen.empty()) {
            design.choices.erase(connector_choice);
            return;
        }
        for (const auto& c : session_.library().connectors)
            if (c.id == chosen) take_connector(design, family->connector, c);
    });
}

void FitPage::connect_caliper() {
    if (caliper_.is_open()) {
        caliper_.close();
        listen_->setText("Listen");
        caliper_state_->setText("");
        return;
    }
    if (const auto why = caliper_.open(port_->currentText()); !why.isEmpty()) {
        caliper_state_->setText(why);
        return;
    }
    listen_->setText("Stop");
    caliper_state_->setText("Listening: each reading goes to the layer chosen above.");
}

std::string FitPage::layer() const {
    const auto i = layer_->currentIndex();
    return cable_layers().at(static_cast<std::size_t>(std::max(0, i)));
}

void FitPage::change_cable(const QString& what, const std::function<void(Cable&)>& change) {
    const auto id = session_.document.cable().id;
    session_.document.edit(what, {}, [&](Job& job) {
        for (auto& cable : job.cables)
            if (cable.id == id) change(cable);
    });
}

void FitPage::add_reading(double diameter_mm) {
    const bool across = direction_->currentIndex() == 1;
    change_cable("Caliper reading", [&, name = layer()](Cable& c) {
        c.caliper_readings[name].push_back({diameter_mm, across});
    });
    direction_->setCurrentIndex(across ? 0 : 1);
}

void FitPage::refresh_readings() {
    const auto name = layer();
    const auto& cable = session_.document.cable();
    const auto it = cable.caliper_readings.find(name);
    const auto unit = session_.unit();
    auto words = [&](double v) { return QString::fromStdString(format_length(v, unit)); };
    remove_->setEnabled(it != cable.caliper_readings.end());
    if (it == cable.caliper_readings.end() || it->second.empty()) {
        QString text = "No reading yet.";
        if (const auto prepared = session_.prepared())
            text += QString(" Taken as %1 ± %2 (%3).")
                        .arg(words(prepared->dimensions.layer(name).diameter_mm),
                             words(prepared->dimensions.layer(name).uncertainty_mm),
                             QString::fromStdString(prepared->dimensions.layer(name).note));
        readings_->setText(text);
        return;
    }
    QStringList first, across;
    for (const auto& r : it->second) (r.across ? across : first) << words(r.diameter_mm);
    QString text = first.join(", ");
    if (!across.isEmpty()) text += (first.isEmpty() ? "" : "; ") + QString("across ") + across.join(", ");
    if (const auto mean = measured_diameter(it->second, name))
        text += QString(".\nMean %1, oval by %2, ± %3 (k = 2).")
                    .arg(words(mean->mean_mm), words(mean->ovality_mm), words(mean->uncertainty_mm));
    else
        text += ".\n" + QString::fromStdString(mean.error().message());
    readings_->setText(text);
}

void FitPage::take_size(const FitCheck& check) {
    const auto prepared = session_.prepared();
    if (!prepared || check.suggestion.rfind("fits: ", 0) != 0) return;
    const auto size = check.suggestion.substr(6);
    for (const auto& item : prepared->built.fit)
        for (const auto& kit : session_.library().kits)
            if (item.part == check.part && kit.size == size && kit.kind == item.kind &&
                item.part.rfind(kit.part, 0) == 0) {
                const auto id = session_.document.job().open_design;
                session_.document.edit("Take size " + QString::fromStdString(size), {}, [&](Job& job) {
                    auto& numbers = job.find_design(id)->numbers;
                    numbers[item.prefix + "_expanded_bore_mm"] = kit.tube.expanded_bore_mm;
                    numbers[item.prefix + "_recovered_bore_mm"] = kit.tube.recovered_bore_mm;
                    numbers[item.prefix + "_recovered_wall_mm"] = kit.tube.recovered_wall_mm;
                });
                return;
            }
}

void FitPage::refresh() {
    {
        const QSignalBlocker quiet(layer_);
        const int was = layer_->currentIndex();
        layer_->clear();
        for (const auto& name : cable_layers()) layer_->addItem(QString::fromStdString(name));
        layer_->setCurrentIndex(was < 0 ? 2 : was); // over the insulation first: it decides
    }
    refresh_readings();
    const auto prepared = session_.prepared();
    const std::vector<FitCheck> checks = prepared ? prepared->fit.checks : std::vector<FitCheck>{};
    while (rows_.size() > static_cast<qsizetype>(checks.size())) delete rows_.takeLast();
    while (rows_.size() < static_cast<qsizetype>(checks.size())) {
        auto* row = new FitRow(session_, this);
        connect(
            row, &QAbstractButton::clicked, this, [this, row] { take_size(FitCheck(row->check())); },
            Qt::QueuedConnection);
        list_->addWidget(row);
        rows_.append(row);
    }
    for (std::size_t i = 0; i < checks.size(); ++i) rows_[static_cast<qsizetype>(i)]->show_check(checks[i]);
    QStringList notes;
    if (prepared)
        for (const auto& note : prepared->fit.notes) notes << QString::fromStdString(note);
    if (prepared && checks.empty())
        notes << "No part of this design has a range: what it takes of tape and mastic is below.";
    notes_->setText(notes.join("\n"));
    notes_->setVisible(!notes.isEmpty());

    const auto& design = session_.document.design();
    const auto* family = session_.family();
    {
        const QSignalBlocker quiet(connector_);
        connector_->clear();
        connector_ids_ = {""};
        connector_->addItem("none chosen");
        if (prepared && family) {
            for (const auto* c : connectors_for(session_.library().connectors, family->connector.use,
                                                prepared->cable, prepared->dimensions)) {
                connector_->addItem(QString("%1 · %2 · %3–%4 mm²")
                                        .arg(QString::fromStdString(c->id), QString::fromStdString(c->method))
                                        .arg(c->least_mm2)
                                        .arg(c->most_mm2));
                connector_ids_.push_back(c->id);
                const auto it = design.choices.find(connector_choice);
                if (it != design.choices.end() && it->second == c->id)
                    connector_->setCurrentIndex(connector_->count() - 1);
            }
        }
    }
    const Tape usual;
    for (const auto& f : tape_figures) {
        const auto it = design.numbers.find(f.key);
        const bool own = it != design.numbers.end();
        tape_.at(f.key)->show_value(own ? it->second : usual.*f.figure, !own);
    }
    QString text;
    if (prepared)
        for (const auto& q : prepared->fit.quantities) {
            text += (text.isEmpty() ? "" : "\n") +
                    QString("%1: %2 cm³").arg(QString::fromStdString(q.part)).arg(q.volume_cm3, 0, 'f', 1);
            if (q.tape)
                text +=
                    QString(", %1 half-lapped pass%6 to %2, %3 m, %4 roll%5")
                        .arg(q.tape->passes)
                        .arg(QString::fromStdString(format_length(q.tape->laid_diameter_mm, session_.unit())))
                        .arg(q.tape->supplied_mm / 1e3, 0, 'f', 1)
                        .arg(q.tape->rolls)
                        .arg(q.tape->rolls == 1 ? "" : "s")
                        .arg(q.tape->passes == 1 ? "" : "es");
        }
    quantities_->setText(text.isEmpty() ? "No tape or mastic in this design." : text);
}

} // namespace ng::app
