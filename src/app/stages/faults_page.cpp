#include "app/stages/faults_page.h"
#include "design/revisions.h"
#include "units/hand_length.h"
#include <QHBoxLayout>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace ng::app {
namespace {

constexpr int row_px = 46, axis_px = 22;
constexpr double axis_from_mm = 0.01, axis_to_mm = 30;

QString q(const std::string& text) {
    return QString::fromStdString(text);
}

QString size_words(double mm) {
    return std::isfinite(mm) ? q(format_figures(mm, 2)) + " mm" : QString("no size");
}

QString decision_words(FaultDecision decision) {
    switch (decision) {
    case FaultDecision::accept:
        return "Accept";
    case FaultDecision::rework:
        return "Rework";
    case FaultDecision::cut_back:
        return "Cut back and start again";
    case FaultDecision::ask:
        break;
    }
    return "Stop and ask the engineer";
}

/// What the answer says, in the order in which it is asked.
QString answer_words(const Fault& fault, const FaultAnswer& answer) {
    const auto& kind = *find_fault_kind(fault.kind);
    QStringList lines{decision_words(answer.decision) + ". " + q(answer.why) + "."};
    if (answer.decision == FaultDecision::rework) lines << q(kind.rework) + ".";
    for (const auto& air : answer.air)
        lines << QString("%1: begins at %2 kV rms ± %7 % (gap %3, streamer %4), is over at %5, at the least "
                         "%6; some %8 pC")
                     .arg(q(air.words), q(format_figures(air.inception_kV_rms, 3)),
                          q(format_figures(air.breakdown_kV_rms, 3)),
                          std::isfinite(air.streamer_kV_rms) ? q(format_figures(air.streamer_kV_rms, 3))
                                                             : "none",
                          q(format_figures(air.extinction_kV_rms, 3)),
                          q(format_figures(air.least_extinction_kV_rms, 3)))
                     .arg(100 * air.relative_error, 0, 'g', 2)
                     .arg(air.charge_pC, 0, 'g', 2);
    for (const auto& check : answer.checks)
        if (check.limit > 0 && std::abs(check.with - check.without) > 0.02 * check.limit)
            lines << QString("%1: %2 without, %3 with, limit %4 %5")
                         .arg(q(check.title), q(format_figures(check.without, 3)),
                              q(format_figures(check.with, 3)), q(format_figures(check.limit, 3)),
                              q(check.unit));
    lines << "Taken for: " + q(kind.model) + ".";
    return lines.join("\n\n");
}

double rank(const FaultRow& row) {
    if (!row.critical) return 1e12;
    return row.critical->inspectability.value_or(1e9);
}

} // namespace

FaultBars::FaultBars(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    connect(&session, &Session::look_changed, this, QOverload<>::of(&QWidget::update));
}

void FaultBars::show_rows(std::vector<FaultRow> rows) {
    rows_ = std::move(rows);
    std::stable_sort(rows_.begin(), rows_.end(),
                     [](const auto& a, const auto& b) { return rank(a) < rank(b); });
    setFixedHeight(rows_.empty() ? 0 : static_cast<int>(rows_.size()) * row_px + axis_px);
    QStringList said;
    for (const auto& row : rows_)
        said << q(find_fault_kind(row.fault.kind)->title) +
                    (row.critical && row.critical->mm ? ", hurts from " + size_words(*row.critical->mm) : "");
    setAccessibleName("Sizes that hurt beside sizes that hands find: " + said.join("; "));
    update();
}

void FaultBars::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const auto& theme = session_.theme();
    const auto x = [&](double mm) {
        const double share = std::log(std::clamp(mm, axis_from_mm, axis_to_mm) / axis_from_mm) /
                             std::log(axis_to_mm / axis_from_mm);
        return 4 + share * (width() - 8);
    };
    painter.setFont(draw::ui_font(7.5));
    const double bottom = height() - axis_px;
    for (const double tick : {0.01, 0.1, 1.0, 10.0}) {
        painter.setPen(QPen(theme.line, 1));
        painter.drawLine(QPointF(x(tick), 0), QPointF(x(tick), bottom));
        painter.setPen(theme.faint);
        painter.drawText(QRectF(x(tick) - 2, bottom + 2, 60, 14), Qt::AlignLeft, QString("%1 mm").arg(tick));
    }
    double y = 0;
    for (const auto& row : rows_) {
        const auto& kind = *find_fault_kind(row.fault.kind);
        const double found = found_from_mm(kind.inspection);
        QString words;
        const QRectF bar(0, y + 30, width(), 11);
        if (!row.critical) {
            words = "not on this design";
        } else if (!row.critical->mm) {
            words = QString("no size up to %1 hurts").arg(size_words(row.critical->most_mm));
            painter.fillRect(QRectF(x(found), bar.top() + 4, 2, 4), theme.faint);
        } else {
            const double hurts = *row.critical->mm;
            const bool room = std::isfinite(found) && hurts >= found;
            words = QString("hurts from %1, found from %2%3")
                        .arg(size_words(hurts), size_words(found), room ? "" : ": hands miss it");
            const double a = x(std::min(hurts, found)),
                         b = x(std::max(hurts, std::isfinite(found) ? found : axis_to_mm));
            const QRectF span(a, bar.top(), std::max(3.0, b - a), bar.height());
            if (room) {
                painter.fillRect(span, theme.accent);
            } else {
                painter.fillRect(span, QBrush(theme.brick, Qt::BDiagPattern));
                painter.setPen(QPen(theme.brick, 1));
                painter.setBrush(Qt::NoBrush);
                painter.drawRect(span);
            }
            painter.setPen(QPen(theme.ink, 1.6)); // where it hurts: a tall stroke; where it is found: a dot
            painter.drawLine(QPointF(x(hurts), bar.top() - 2), QPointF(x(hurts), bar.bottom() + 2));
            painter.setBrush(theme.paper);
            if (std::isfinite(found)) painter.drawEllipse(QPointF(x(found), bar.center().y()), 3.5, 3.5);
        }
        painter.setPen(theme.ink);
        painter.setFont(draw::ui_font(8, true));
        painter.drawText(QRectF(4, y, width() - 8, 15), Qt::AlignVCenter,
                         q(kind.title) + tag_of(row.fault.side));
        painter.setFont(draw::ui_font(7.5));
        painter.drawText(QRectF(4, y + 14, width() - 8, 14), Qt::AlignVCenter, words);
        y += row_px;
    }
}

FaultsPage::FaultsPage(Session& session, QWidget* parent) : Page(session, "Faults", parent) {
    add_caution(
        "An aid: it never says that something may stay. The maker's instructions and the engineer in charge "
        "go before it.");
    auto* form = add_group("Try one");
    QStringList titles;
    for (const auto& kind : fault_kinds()) titles << q(kind.title);
    kind_ = add_wide_choice(form, "Kind", titles);
    side_ = add_choice(form, "Side", {"A", "B"});
    size_ =
        add_quantity(form, "Size", QuantityEdit::Kind::length, "What the kind says: depth, height, length");
    at_ = add_quantity(form, "From the edge", QuantityEdit::Kind::length,
                       "Its middle, from the screen edge towards the live end");
    QStringList words;
    for (const auto& filling : fillings()) words << q(filling.words);
    filling_ = add_choice(form, "Filled with", words);
    found_by_ = add_text("", true);
    auto* row = new QHBoxLayout;
    auto* judge_button = new QPushButton("Judge it");
    auto* keep_button = new QPushButton("Put it on the design");
    row->addWidget(judge_button);
    row->addWidget(keep_button);
    row->addStretch();
    column_->addLayout(row);
    answer_ = add_text("");
    answer_->setObjectName("faultAnswer");
    auto* own = add_group("On this design");
    own_ = add_wide_choice(own, "Faults", {});
    remove_ = new QPushButton("Take it off");
    column_->addWidget(remove_, 0, Qt::AlignLeft);
    add_group("What could be there that nobody would see");
    auto* scan_row = new QHBoxLayout;
    auto* scan_button = new QPushButton("Look through all kinds");
    cancel_ = new QPushButton("Cancel");
    cancel_->hide();
    scan_row->addWidget(scan_button);
    scan_row->addWidget(cancel_);
    scan_row->addStretch();
    column_->addLayout(scan_row);
    state_ = add_text(
        "Every kind at its usual place, with the smallest size that hurts beside the size that nine of "
        "ten hands find. Stroke: hurts from here. Dot: found from here. Hatched: hands miss it.",
        true);
    bars_ = new FaultBars(session, this);
    bars_->setFixedHeight(0);
    column_->addWidget(bars_);
    column_->addStretch();
    connect(kind_, &QComboBox::activated, this, [this] {
        size_mm_.reset();
        at_mm_.reset();
        show_kind();
    });
    connect(size_, &QuantityEdit::entered, this, [this](double v) { size_mm_ = v; });
    connect(at_, &QuantityEdit::entered, this, [this](double v) { at_mm_ = v; });
    connect(size_, &QuantityEdit::cleared, this, [this] { size_mm_.reset(), show_kind(); });
    connect(at_, &QuantityEdit::cleared, this, [this] { at_mm_.reset(), show_kind(); });
    connect(judge_button, &QPushButton::clicked, this, &FaultsPage::judge);
    connect(keep_button, &QPushButton::clicked, this, &FaultsPage::keep);
    connect(scan_button, &QPushButton::clicked, this, &FaultsPage::scan);
    connect(cancel_, &QPushButton::clicked, this, [this] {
        all_.cancel();
        ++run_all_;
        cancel_->hide();
        state_->setText("Cancelled; what was found so far stays.");
    });
    connect(own_, &QComboBox::activated, this, [this](int i) {
        const auto& faults = session_.document.design().faults;
        if (i < 0 || i >= static_cast<int>(faults.size())) return;
        const auto& fault = faults[static_cast<std::size_t>(i)];
        for (std::size_t k = 0; k < fault_kinds().size(); ++k)
            if (fault_kinds()[k].id == fault.kind) kind_->setCurrentIndex(static_cast<int>(k));
        side_->setCurrentIndex(fault.side == Side::b ? 1 : 0);
        size_mm_ = fault.size_mm;
        at_mm_ = fault.from_edge_mm;
        show_kind();
        judge();
    });
    connect(remove_, &QPushButton::clicked, this, [this] {
        const int i = own_->currentIndex();
        const auto id = session_.document.design().id;
        session_.document.edit("Take a fault off", {}, [&](Job& job) {
            auto& faults = job.find_design(id)->faults;
            if (i >= 0 && i < static_cast<int>(faults.size())) faults.erase(faults.begin() + i);
        });
        refresh();
    });
    for (auto* worker : {&one_, &all_})
        connect(worker, &Worker::failed, this, [this](const QString& why) {
            answer_->setText(why);
            cancel_->hide();
        });
    connect(&session, &Session::prepared_changed, this, &FaultsPage::refresh);
    show_kind();
    refresh();
}

void FaultsPage::show_kind() {
    const auto& kind = fault_kinds()[static_cast<std::size_t>(kind_->currentIndex())];
    size_->show_value(size_mm_.value_or(kind.least_mm), !size_mm_);
    at_->show_value(at_mm_.value_or(kind.from_edge_mm), !at_mm_);
    at_->setEnabled(bool(kind.put));
    filling_->setEnabled(kind.has_filling);
    const double found = found_from_mm(kind.inspection);
    found_by_->setText(QString("Its %1. Looked for by: %2; nine of ten hands find it from %3.")
                           .arg(q(kind.size_words), q(kind.inspection.means), size_words(found)));
}

void FaultsPage::refresh() {
    const bool two = session_.plan() && session_.plan()->two_sides();
    side_->setEnabled(two);
    const QSignalBlocker quiet(own_);
    own_->clear();
    for (const auto& fault : session_.document.design().faults) own_->addItem(q(fault_words(fault)));
    own_->setEnabled(own_->count() > 0);
    remove_->setEnabled(own_->count() > 0);
    if (bars_->rows().empty() || !session_.prepared() || design_text() == scanned_of_) return;
    // What was found belongs to the design as it was then.
    bars_->show_rows({});
    all_.cancel();
    ++run_all_;
    cancel_->hide();
    state_->setText("The design has changed: look through it again.");
}

std::string FaultsPage::design_text() const {
    return write_job(alone(session_.document.job(), session_.document.design())).dump();
}

void FaultsPage::with_sound(Worker& worker,
                            std::function<void(const Job&, const Sound&, const CancelFlag&)> work,
                            std::function<void(const InputError&)> refused) {
    auto of = design_text();
    auto known = known_.of == of ? known_.sound : nullptr;
    worker.start([this, of = std::move(of), known = std::move(known), work = std::move(work),
                  refused = std::move(refused), job = session_.document.job(),
                  id = session_.document.design().id,
                  library = session_.library()](const CancelFlag& cancel) {
        auto sound = known;
        if (!sound) {
            EvaluateOptions options;
            options.cancel = &cancel;
            auto judged = judge_sound(job, id, library, options);
            if (cancel) return;
            if (!judged) return refused(judged.error());
            sound = std::make_shared<const Sound>(std::move(*judged));
            QMetaObject::invokeMethod(this, [this, of, sound] { known_ = {of, sound}; });
        }
        work(job, *sound, cancel);
    });
}

Fault FaultsPage::described() const {
    const auto& kind = fault_kinds()[static_cast<std::size_t>(kind_->currentIndex())];
    Fault fault;
    fault.kind = kind.id;
    fault.side = !side_->isEnabled() ? Side::none : side_->currentIndex() == 1 ? Side::b : Side::a;
    fault.size_mm = size_mm_.value_or(kind.least_mm);
    fault.from_edge_mm = at_mm_;
    if (kind.has_filling) fault.filling = fillings()[static_cast<std::size_t>(filling_->currentIndex())].id;
    return fault;
}

void FaultsPage::keep() {
    const auto fault = described();
    const auto fits =
        prepare_faulty(session_.document.job(), session_.document.design().id, {fault}, session_.library());
    if (!fits) {
        session_.tell(fits.error());
        return;
    }
    const auto id = session_.document.design().id;
    session_.document.edit("Put a fault on", {},
                           [&](Job& job) { job.find_design(id)->faults.push_back(fault); });
    refresh();
}

void FaultsPage::judge() {
    const int run = ++run_one_;
    const auto fault = described();
    answer_->setText("Solving…");
    const auto say = [this, run](const QString& text) {
        QMetaObject::invokeMethod(this, [this, run, text] {
            if (run != run_one_) return;
            answer_->setText(text);
            emit judged();
        });
    };
    with_sound(
        one_,
        [say, fault, library = session_.library()](const Job& job, const Sound& sound,
                                                   const CancelFlag& cancel) {
            const auto answer = judge_faults(job, sound.evaluation.prepared.design.id, {fault}, library,
                                             sound, fault_options(sound, shown_loosest, &cancel));
            if (cancel) return;
            say(answer ? q(fault_words(fault)) + "\n\n" + answer_words(fault, *answer)
                       : q(answer.error().message()));
        },
        [say](const InputError& error) { say(q(error.message())); });
}

void FaultsPage::scan() {
    const int run = ++run_all_;
    bars_->show_rows({});
    cancel_->show();
    state_->setText("Solving the design without faults…");
    scanned_of_ = design_text();
    const auto say = [this, run](const QString& text, std::vector<FaultRow> rows, bool end) {
        QMetaObject::invokeMethod(this, [this, run, text, rows = std::move(rows), end]() mutable {
            if (run != run_all_) return;
            state_->setText(text);
            bars_->show_rows(std::move(rows));
            if (!end) return;
            cancel_->hide();
            emit scanned();
        });
    };
    with_sound(
        all_,
        [say, library = session_.library()](const Job& job, const Sound& sound, const CancelFlag& cancel) {
            const auto& prepared = sound.evaluation.prepared;
            const auto faults = possible_faults(prepared);
            std::vector<FaultRow> rows;
            for (std::size_t i = 0; i < faults.size(); ++i) {
                auto critical = critical_size(job, prepared.design.id, faults[i], library, sound, &cancel);
                if (cancel) return;
                FaultRow row{faults[i], {}, {}};
                if (critical) {
                    row.why = critical->why;
                    row.critical = std::move(*critical);
                } else {
                    row.why = critical.error().message();
                }
                rows.push_back(std::move(row));
                say(QString("%1 of %2 looked at").arg(i + 1).arg(faults.size()), rows,
                    i + 1 == faults.size());
            }
        },
        [say](const InputError& error) { say(q(error.message()), {}, true); });
}

} // namespace ng::app
