#include "app/stages/stage_list.h"
#include <QButtonGroup>
#include <QLabel>
#include <QPainter>
#include <QPainterPath>
#include <QVBoxLayout>
#include <algorithm>

namespace ng::app {

StageState stage_state(Status status) {
    switch (status) {
    case Status::holds:
        return StageState::holds;
    case Status::marginal:
        return StageState::look;
    case Status::falls_short:
        return StageState::falls_short;
    case Status::not_judged:
        break;
    }
    return StageState::to_do;
}

QString stage_word(StageState state) {
    switch (state) {
    case StageState::look:
        return "look";
    case StageState::holds:
        return "holds";
    case StageState::falls_short:
        return "falls short";
    case StageState::to_do:
        break;
    }
    return "to do";
}

QColor colour_of(StageState state, const draw::Theme& theme) {
    return state == StageState::holds         ? theme.accent
           : state == StageState::falls_short ? theme.brick
           : state == StageState::look        ? theme.ochre
                                              : theme.faint;
}

void paint_stage_mark(QPainter& painter, const QRectF& box, StageState state, const draw::Theme& theme) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    const auto colour = colour_of(state, theme);
    painter.setPen(QPen(colour, 1.6));
    painter.setBrush(Qt::NoBrush);
    switch (state) {
    case StageState::to_do:
        painter.drawEllipse(box.adjusted(1, 1, -1, -1));
        break;
    case StageState::look:
        painter.drawEllipse(box.adjusted(1, 1, -1, -1));
        painter.setBrush(colour);
        painter.drawPie(box.adjusted(1, 1, -1, -1), 90 * 16, 180 * 16);
        break;
    case StageState::holds:
        painter.fillRect(box.adjusted(1, 1, -1, -1), colour);
        break;
    case StageState::falls_short: {
        QPainterPath path;
        path.moveTo(box.center().x(), box.top());
        path.lineTo(box.right(), box.bottom());
        path.lineTo(box.left(), box.bottom());
        path.closeSubpath();
        painter.fillPath(path, colour);
        break;
    }
    }
    painter.restore();
}

StageButton::StageButton(Session& session, const QString& title, const QString& way, QWidget* parent)
    : QAbstractButton(parent), session_(session), way_(way) {
    setText(title);
    setCheckable(true);
    setFixedHeight(height_px);
    setFocusPolicy(Qt::StrongFocus);
    setObjectName("stage" + title);
}

void StageButton::set_state(StageState state, const QString& word, const QString& brief) {
    if (state == state_ && word == word_) return;
    state_ = state;
    word_ = word;
    brief_ = brief;
    setAccessibleName(QString("%1, %2").arg(text(), word));
    setToolTip(QString("%1: %2 (%3)").arg(text(), word, way_));
    update();
}

void StageButton::set_word_shown(bool shown) {
    word_shown_ = shown;
    setFixedHeight(shown ? height_px : low_px);
    update();
}

void StageButton::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto& theme = session_.theme();
    if (isChecked()) {
        painter.fillRect(rect(), theme.panel);
        painter.fillRect(QRect(0, 0, 3, height()), theme.accent);
    }
    paint_stage_mark(painter, QRectF(14, word_shown_ ? 12 : (height() - 12) / 2, 12, 12), state_, theme);
    painter.setPen(theme.ink);
    painter.setFont(draw::ui_font(10, isChecked()));
    painter.drawText(QRectF(36, 2, width() - 38, word_shown_ ? 19 : height() - 4), Qt::AlignVCenter, text());
    if (word_shown_) {
        painter.setPen(theme.faint);
        painter.setFont(draw::ui_font(8));
        painter.drawText(QRectF(36, 18, room_for_word(), 16), Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(shown_word(), Qt::ElideRight,
                                                          static_cast<int>(room_for_word())));
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme.accent, 1, Qt::DotLine));
        painter.drawRect(rect().adjusted(4, 1, -2, -2));
    }
}

QString stage::key(int index) {
    return index < 10         ? QString("Ctrl+%1").arg((index + 1) % 10)
           : index == record  ? QString("Ctrl+R")
           : index == trainer ? QString("Ctrl+L")
                              : QString("Ctrl+T");
}

StageList::StageList(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedWidth(128);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 4);
    layout->setSpacing(1);
    layout->setSizeConstraint(QLayout::SetNoConstraint); // on a low screen it makes itself lower
    auto* group = new QButtonGroup(this);
    auto heading = [&](const QString& text) {
        auto* label = new QLabel(text);
        label->setFont(draw::ui_font(8, true));
        label->setContentsMargins(14, 6, 0, 1);
        label->setProperty("faint", true);
        layout->addWidget(label);
        headings_ << label;
    };
    const QStringList titles{"Cable",      "Duty",       "Accessory",  "Fit",    "Cutbacks",
                             "Verdict",    "Shape aids", "Work sheet", "Report", "Faults",
                             "Tolerances", "Record",     "Trainer"};
    heading("describe");
    buttons_.resize(titles.size());
    for (const int i : {stage::cable, stage::duty, stage::accessory, stage::fit, stage::cutbacks,
                        stage::verdict, stage::shape, stage::faults, stage::tolerance, stage::work,
                        stage::record, stage::report, stage::trainer}) {
        if (i == stage::fit) heading("check");
        if (i == stage::shape) heading("challenge");
        if (i == stage::work) heading("install");
        if (i == stage::report) heading("report");
        if (i == stage::trainer) heading("learn");
        auto* button = new StageButton(session, titles[i], stage::key(i), this);
        group->addButton(button, i);
        buttons_[i] = button;
        layout->addWidget(button);
    }
    layout->addStretch();
    connect(group, &QButtonGroup::idClicked, this, &StageList::chosen);
    connect(&session, &Session::prepared_changed, this, &StageList::refresh);
    connect(&session, &Session::solved_changed, this, &StageList::refresh);
    connect(&session, &Session::state_changed, this, &StageList::refresh);
    connect(&session, &Session::schedule_changed, this, &StageList::refresh);
    connect(&session, &Session::built_changed, this, &StageList::refresh);
    connect(&session.document, &Document::saved_state_changed, this, &StageList::refresh);
    connect(&session, &Session::look_changed, this, QOverload<>::of(&QWidget::update));
    refresh();
}

QSize StageList::minimumSizeHint() const {
    return {128, 8 + count() * (StageButton::low_px + 1)};
}

/// Everything where there is room; then without the words, then without the headings.
void StageList::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    int headings = 8;
    for (const auto* heading : headings_) headings += heading->sizeHint().height() + 1;
    const bool words = height() >= headings + count() * (StageButton::height_px + 1);
    const bool titles = words || height() >= headings + count() * (StageButton::low_px + 1);
    for (auto* button : buttons_) button->set_word_shown(words);
    for (auto* heading : headings_) heading->setVisible(titles);
}

void StageList::choose(int index) {
    buttons_.at(index)->setChecked(true);
    emit chosen(index);
}

void StageList::refresh() {
    const bool good = session_.prepared() != nullptr;
    bool table_values = false;
    if (good)
        for (const auto& layer : session_.prepared()->dimensions.layers)
            table_values = table_values || layer.provenance == Provenance::from_memory;
    buttons_[stage::cable]->set_state(!good          ? StageState::look
                                      : table_values ? StageState::look
                                                     : StageState::holds,
                                      !good          ? "look"
                                      : table_values ? "table sizes"
                                                     : "described");
    const bool open_levels =
        good &&
        std::any_of(session_.prepared()->levels.levels.begin(), session_.prepared()->levels.levels.end(),
                    [](const auto& level) { return level.second.origin().ends_with("your edition"); });
    buttons_[stage::duty]->set_state(!good || open_levels ? StageState::look : StageState::holds,
                                     open_levels ? "verify levels"
                                     : good      ? "described"
                                                 : "look");
    buttons_[stage::accessory]->set_state(good ? StageState::holds : StageState::falls_short,
                                          good ? "described" : "cannot be built");
    if (good)
        show_status(buttons_[stage::fit], session_.prepared()->fit.status);
    else
        buttons_[stage::fit]->set_state(StageState::to_do, "to do");
    if (session_.document.is_example()) // nobody described anything yet
        for (const int i : {stage::cable, stage::duty, stage::accessory})
            buttons_[i]->set_state(StageState::to_do, "example values");
    const auto plan = session_.plan();
    if (plan)
        show_status(buttons_[stage::cutbacks], plan->status);
    else
        buttons_[stage::cutbacks]->set_state(good ? StageState::falls_short : StageState::to_do,
                                             good ? "cannot be made" : "to do");
    buttons_[stage::work]->set_state(
        plan && plan->status != Status::falls_short ? StageState::holds : StageState::look,
        plan ? plan->status == Status::falls_short ? "look at cutbacks" : "ready" : "to do");
    buttons_[stage::record]->set_state(session_.built_marks().empty() ? StageState::to_do : StageState::holds,
                                       session_.built_marks().empty() ? "as work goes on" : "as built known");
    buttons_[stage::report]->set_state(StageState::to_do, "when wanted");
    buttons_[stage::trainer]->set_state(StageState::to_do, "when wanted");
    buttons_[stage::shape]->set_state(StageState::to_do, "when wanted");
    const auto faults = session_.document.design().faults.size();
    const bool windows = plan && std::any_of(plan->marks.begin(), plan->marks.end(),
                                             [](const auto& m) { return m.accepted.has_value(); });
    buttons_[stage::tolerance]->set_state(windows ? StageState::holds : StageState::to_do,
                                          windows ? "windows known" : "when wanted");
    buttons_[stage::faults]->set_state(faults ? StageState::look : StageState::to_do,
                                       faults ? QString("%1 on it").arg(faults) : QString("when wanted"));
    if (!session_.is_current() || session_.solved()->coarse)
        buttons_[stage::verdict]->set_state(StageState::to_do, good ? "being solved" : "to do");
    else
        buttons_[stage::verdict]->set_state(
            stage_state(session_.overall()), session_.overall_words(),
            session_.set_aside() > 0 && session_.overall() != Status::not_judged
                ? QString("%1, %2 open").arg(status_word(session_.overall())).arg(session_.set_aside())
                : QString());
}

void StageList::show_status(StageButton* button, Status status) {
    button->set_state(stage_state(status), status_word(status));
}

} // namespace ng::app
