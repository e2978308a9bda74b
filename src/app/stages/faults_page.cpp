#include "app/stages/faults_page.h"
#include "app/model/text.h"
#include "app/model/time_left.h"
#include <QHBoxLayout>
#include <algorithm>
#include <cmath>
#include <set>

namespace ng::app {
namespace {

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
    for (const auto& line : moved_checks(answer)) lines << q(line);
    lines << "Taken for: " + q(kind.model) + ".";
    return lines.join("\n\n");
}

} // namespace

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
    sheet_ = add_choice(form, "Surface resistance", {});
    sheet_->setToolTip("Of a film that conducts, per square");
    found_by_ = add_text("", true);
    auto* row = new QHBoxLayout;
    auto* judge_button = new QPushButton("Judge it");
    auto* keep_button = new QPushButton("Put it on the design");
    row->addWidget(judge_button);
    row->addWidget(keep_button);
    row->addStretch();
    column_->addLayout(row);
    auto* needle_button = new QPushButton("Place it at the needle");
    needle_button->setToolTip(
        "Its middle comes to lie where the needle stands: click the place in BUILD first");
    column_->insertWidget(column_->count() - 1, needle_button, 0, Qt::AlignLeft);
    inset_ = new FaultInset(session, this);
    column_->addWidget(inset_);
    answer_ = add_text("");
    answer_->setObjectName("faultAnswer");
    auto* own = add_group("On this design");
    own_ = add_wide_choice(own, "Faults", {});
    remove_ = new QPushButton("Take it off");
    column_->addWidget(remove_, 0, Qt::AlignLeft);
    everywhere_ = new QCheckBox("Judge the design with them");
    everywhere_->setToolTip(
        "BUILD, FIELD, the verdict, the schedule and what is printed then take the design with "
        "its faults; a fault with a place of its own is dragged by its handle in BUILD");
    column_->addWidget(everywhere_);
    add_group("What could be there that nobody would see");
    auto* scan_button = new QPushButton("Look through all kinds");
    scanning_ = add_run_row(column_, {scan_button}, all_);
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
        sheet_ohm_.reset();
        show_kind();
    });
    connect(size_, &QuantityEdit::entered, this, [this](double v) { size_mm_ = v, show_kind(); });
    connect(at_, &QuantityEdit::entered, this, [this](double v) { at_mm_ = v, show_kind(); });
    connect(size_, &QuantityEdit::cleared, this, [this] { size_mm_.reset(), show_kind(); });
    connect(at_, &QuantityEdit::cleared, this, [this] { at_mm_.reset(), show_kind(); });
    connect(judge_button, &QPushButton::clicked, this, &FaultsPage::judge);
    connect(everywhere_, &QCheckBox::toggled, &session, &Session::set_with_faults);
    connect(&session, &Session::look_changed, this, [this] {
        const QSignalBlocker quiet(everywhere_);
        everywhere_->setChecked(session_.with_faults());
        inset_->update();
        show_answer(said_);
    });
    connect(needle_button, &QPushButton::clicked, this, [this] {
        if (!session_.prepared()) return;
        const auto& built = session_.prepared()->built;
        const auto side = side_->isEnabled() && side_->currentIndex() == 1 ? CableSide::b : CableSide::a;
        for (const auto& m : built.marks)
            if (m.kind == MarkKind::screen_edge && m.side == side) {
                const double edge = built.datum_z_mm - m.from_datum_mm;
                at_mm_ = (side == CableSide::a ? 1 : -1) * (session_.needle_z() - edge);
            }
        show_kind();
    });
    connect(filling_, &QComboBox::activated, this, &FaultsPage::show_kind);
    connect(sheet_, &QComboBox::activated, this, [this] {
        const auto ohm = sheet_->currentData();
        sheet_ohm_ = ohm.isValid() ? std::optional(ohm.toDouble()) : std::nullopt;
        show_kind();
    });
    connect(side_, &QComboBox::activated, this, &FaultsPage::show_kind);
    connect(keep_button, &QPushButton::clicked, this, &FaultsPage::keep);
    connect(scan_button, &QPushButton::clicked, this, &FaultsPage::scan);
    connect(scanning_.cancel, &QPushButton::clicked, this, [this] {
        all_.cancel();
        ++run_all_;
        scanning_.hide();
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
        sheet_ohm_ = fault.sheet_ohm;
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
            show_answer(why);
            scanning_.hide();
        });
    follow_design(session, this, &FaultsPage::refresh);
    show_kind();
    refresh();
}

void FaultsPage::show_kind() {
    const auto& kind = fault_kinds()[static_cast<std::size_t>(kind_->currentIndex())];
    size_->setEnabled(!kind.rule);
    if (kind.rule)
        size_->clear();
    else
        size_->show_value(size_mm_.value_or(kind.least_mm), !size_mm_);
    at_->setEnabled(bool(kind.put));
    if (kind.put && (at_mm_ || kind.from_edge_mm > 0))
        at_->show_value(at_mm_.value_or(kind.from_edge_mm), !at_mm_);
    else
        at_->clear();
    filling_->setEnabled(kind.has_filling);
    sheet_->setEnabled(kind.has_sheet());
    const QSignalBlocker quiet(sheet_);
    sheet_->clear();
    if (kind.has_sheet()) {
        sheet_->addItem(kind.takes_sheet ? QString("as a conductor")
                                         : q(sheet_words(kind.sheet_ohm)) + ", usual");
        std::set<double> offered{1e6, 1e7, 1e8, 1e9, 1e10, 1e11};
        if (sheet_ohm_) offered.insert(*sheet_ohm_);
        for (const double ohm : offered) sheet_->addItem(q(sheet_words(ohm)), ohm);
        if (sheet_ohm_) sheet_->setCurrentIndex(sheet_->findData(*sheet_ohm_));
    }
    const double found = found_from_mm(kind.inspection);
    found_by_->setText(kind.rule ? QString("A rule of the trade: no matter of the field. Looked for by: %1.")
                                       .arg(q(kind.inspection.means))
                                 : QString("Its %1. Looked for by: %2; nine of ten hands find it from %3.")
                                       .arg(q(kind.size_words), q(kind.inspection.means), size_words(found)));
    inset_->show_fault(described());
}

void FaultsPage::show_answer(const QString& words) {
    said_ = words;
    answer_->setText(q(words_in_stress_unit(words.toStdString(), session_.stress_unit())));
}

void FaultsPage::refresh() {
    const bool two = session_.plan() && session_.plan()->two_sides();
    side_->setEnabled(two);
    const QSignalBlocker quiet(own_);
    own_->clear();
    for (const auto& fault : session_.document.design().faults) own_->addItem(q(fault_words(fault)));
    own_->setEnabled(own_->count() > 0);
    inset_->show_fault(described());
    remove_->setEnabled(own_->count() > 0);
    if (bars_->rows().empty() || !session_.prepared() || session_.design_hash() == scanned_of_) return;
    // What was found belongs to the design as it was then.
    bars_->show_rows({});
    all_.cancel();
    ++run_all_;
    scanning_.hide();
    state_->setText("The design has changed: look through it again.");
}

void FaultsPage::with_sound(Worker& worker,
                            std::function<void(const Job&, const Sound&, const CancelFlag&)> work,
                            std::function<void(const InputError&)> refused) {
    auto of = session_.design_hash();
    auto known = known_.of == of ? known_.sound : nullptr;
    worker.start([this, &worker, of = std::move(of), known = std::move(known), work = std::move(work),
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
            worker.hand_over([this, of, sound] { known_ = {of, sound}; });
        }
        work(job, *sound, cancel);
    });
}

Fault FaultsPage::described() const {
    const auto& kind = fault_kinds()[static_cast<std::size_t>(kind_->currentIndex())];
    Fault fault;
    fault.kind = kind.id;
    if (kind.rule) return fault;
    fault.side = !side_->isEnabled() ? Side::none : side_->currentIndex() == 1 ? Side::b : Side::a;
    fault.size_mm = size_mm_.value_or(kind.least_mm);
    if (kind.put) fault.from_edge_mm = at_mm_;
    if (kind.has_sheet()) fault.sheet_ohm = sheet_ohm_;
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
    show_answer("Solving…");
    const auto say = [this, run](const QString& text) {
        one_.hand_over([this, run, text] {
            if (run != run_one_) return;
            show_answer(text);
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
    scanning_.show();
    state_->setText("Solving the design without faults…");
    scanned_of_ = session_.design_hash();
    const auto say = [this, run](const QString& text, std::vector<FaultRow> rows, bool end) {
        all_.hand_over([this, run, text, rows = std::move(rows), end]() mutable {
            if (run != run_all_) return;
            state_->setText(text);
            bars_->show_rows(std::move(rows));
            if (!end) return;
            scanning_.hide();
            emit scanned();
        });
    };
    with_sound(
        all_,
        [this, say, of = scanned_of_, library = session_.library()](const Job& job, const Sound& sound,
                                                                    const CancelFlag& cancel) {
            const auto& id = sound.evaluation.prepared.design.id;
            const auto faults = possible_faults(sound.evaluation.prepared);
            std::vector<FaultRow> rows;
            const TimeLeft left(&all_);
            auto sizes =
                scan_faults(job, id, library, sound, &cancel,
                            [&](const Fault& fault, const Result<CriticalSize>& critical) {
                                FaultRow row{fault, {}, {}};
                                if (critical)
                                    row.why = critical->why, row.critical = *critical;
                                else
                                    row.why = critical.error().message();
                                rows.push_back(std::move(row));
                                say(QString("%1 of %2 looked at").arg(rows.size()).arg(faults.size()) +
                                        left.after(rows.size(), faults.size()),
                                    rows, rows.size() == faults.size());
                            });
            if (cancel) return;
            all_.hand_over([this, of, sizes = std::move(sizes)]() mutable {
                session_.keep_critical_sizes(of, std::move(sizes));
            });
        },
        [say](const InputError& error) { say(q(error.message()), {}, true); });
}

} // namespace ng::app
