#include "app/compare_window.h"
#include "app/model/window_size.h"
#include "app/strips/plot_strip.h"
#include "design/revisions.h"
#include "fault/fault.h"
#include "schedule/judgement.h"
#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSplitter>
#include <QTableWidget>
#include <QVBoxLayout>
#include <fmt/format.h>
#include <limits>
#include <set>

namespace ng::app {
namespace {

constexpr const char* pinned_key = "pinned:"; // before the id of a design in the lists

QString figure(const std::optional<double>& value, const std::optional<double>& limit, double factor) {
    if (!value) return "–";
    auto text = QString::fromStdString(format_figures(*value * factor, 3));
    if (limit && *limit > 0) text += " of " + QString::fromStdString(format_figures(*limit * factor, 3));
    return text;
}

} // namespace

CompareWindow::CompareWindow(Session& session, QWidget* parent) : QDialog(parent), session_(session) {
    setWindowTitle("Side by side · Needlegauge");
    setObjectName("compareWindow");
    open_within_screen(*this, {1180, 720});
    auto* column = new QVBoxLayout(this);
    auto* choices = new QHBoxLayout;
    for (int i = 0; i < 2; ++i) {
        auto* label = new QLabel(i == 0 ? "Left" : "Right");
        label->setFont(draw::ui_font(9, true));
        choices->addWidget(label);
        sides_[i].design = new QComboBox;
        sides_[i].design->setAccessibleName(i == 0 ? "Left design" : "Right design");
        sides_[i].duty = new QComboBox;
        sides_[i].duty->setAccessibleName(i == 0 ? "Left duty" : "Right duty");
        choices->addWidget(sides_[i].design, 1);
        choices->addWidget(sides_[i].duty, 1);
        for (auto* box : {sides_[i].design, sides_[i].duty}) {
            box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
            connect(box, &QComboBox::activated, this, &CompareWindow::run);
        }
    }
    column->addLayout(choices);
    state_ = new QLabel;
    state_->setProperty("faint", true);
    column->addWidget(state_);
    auto* split = new QSplitter(Qt::Vertical);
    table_ = new QTableWidget(0, 5);
    table_->setAccessibleName("Comparison");
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(21);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int c = 1; c < 5; ++c) table_->setColumnWidth(c, c % 2 ? 210 : 100);
    split->addWidget(table_);
    auto* lower = new QWidget;
    auto* lower_column = new QVBoxLayout(lower);
    lower_column->setContentsMargins(0, 0, 0, 0);
    auto* row = new QHBoxLayout;
    path_ = new QComboBox;
    path_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    path_->setMinimumWidth(180);
    path_->setAccessibleName("Trace");
    row->addWidget(new QLabel("Trace"));
    row->addWidget(path_);
    row->addStretch();
    auto* copy = new QPushButton("Copy the table as CSV");
    connect(copy, &QPushButton::clicked, this, [this] {
        if (left_ && right_)
            QApplication::clipboard()->setText(
                QString::fromStdString(compared_csv(compare(left_->schedule, right_->schedule),
                                                    left_->name.toStdString(), right_->name.toStdString())));
    });
    row->addWidget(copy);
    lower_column->addLayout(row);
    plot_ = new QCustomPlot;
    plot_->setAccessibleName("Traces of both sides");
    plot_->setMinimumHeight(170);
    lower_column->addWidget(plot_, 1);
    split->addWidget(lower);
    split->setSizes({400, 230});
    column->addWidget(split, 1);
    connect(path_, &QComboBox::activated, this, &CompareWindow::draw_traces);
    connect(&worker_, &Worker::failed, state_, &QLabel::setText);
    connect(&session, &Session::pinned_changed, this, &CompareWindow::refill);
    connect(&session, &Session::look_changed, this, [this] {
        if (left_ && right_) fill_table();
        draw_traces();
    });
    fill_choices();
    const auto& job = session.document.job();
    for (std::size_t i = 0; i < job.designs.size(); ++i)
        if (job.designs[i].id == job.open_design)
            for (auto& side : sides_) side.design->setCurrentIndex(static_cast<int>(i));
    state_->setText("Choose another design or another duty on one side.");
    table_->setHorizontalHeaderLabels({"test, check", "left", "", "right", ""});
    draw_traces();
}

void CompareWindow::fill_choices() {
    const auto packs = packs_of(session_.document.job(), session_.library());
    for (auto& side : sides_) {
        for (const auto& design : session_.document.job().designs)
            side.design->addItem(QString::fromStdString(design.title), QString::fromStdString(design.id));
        for (const auto& design : session_.document.job().designs)
            if (session_.pinned_job(design.id))
                side.design->addItem(QString("%1, as pinned").arg(QString::fromStdString(design.title)),
                                     pinned_key + QString::fromStdString(design.id));
        for (const auto& design : session_.document.job().designs)
            for (const auto& revision : design.revisions)
                side.design->addItem(
                    QString("%1, revision %2")
                        .arg(QString::fromStdString(design.title), QString::fromStdString(revision.name)),
                    QString::fromStdString(design.id + "@" + revision.name));
        side.duty->addItem("its own duty", QString());
        if (!packs) continue;
        for (const auto& pack : *packs)
            for (const auto& row : pack.classes)
                side.duty->addItem(
                    QString("%1, %2 kV").arg(QString::fromStdString(pack.title)).arg(row.class_kV),
                    QString("%1/%2").arg(QString::fromStdString(pack.id)).arg(row.class_kV));
    }
}

void CompareWindow::show_pair(int left_design, const QString& left_duty, int right_design,
                              const QString& right_duty) {
    auto set = [](Side& side, int design, const QString& duty) {
        side.design->setCurrentIndex(design);
        side.duty->setCurrentIndex(std::max(0, side.duty->findData(duty)));
    };
    set(sides_[0], left_design, left_duty);
    set(sides_[1], right_design, right_duty);
    run();
}

Result<DesignState> CompareWindow::shown_state(const QString& key) const {
    if (!key.startsWith(pinned_key)) return state_of(session_.document.job(), key.toStdString());
    const auto id = key.mid(QString(pinned_key).size()).toStdString();
    const auto job = session_.pinned_job(id);
    if (!job) return refuse("Pinned state", "it is pinned no more", "Pin it again, or choose another");
    return DesignState{*job, id, {}, false};
}

void CompareWindow::refill() {
    QVariant chosen[2][2];
    for (int i = 0; i < 2; ++i) {
        chosen[i][0] = sides_[i].design->currentData();
        chosen[i][1] = sides_[i].duty->currentData();
        sides_[i].design->clear();
        sides_[i].duty->clear();
    }
    fill_choices();
    for (int i = 0; i < 2; ++i) {
        sides_[i].design->setCurrentIndex(std::max(0, sides_[i].design->findData(chosen[i][0])));
        sides_[i].duty->setCurrentIndex(std::max(0, sides_[i].duty->findData(chosen[i][1])));
    }
}

void CompareWindow::run() {
    const int run = ++run_;
    state_->setText("Solving both sides…");
    std::vector<std::pair<Job, std::string>> asked;
    std::vector<QString> names;
    for (const auto& side : sides_) {
        auto state = shown_state(side.design->currentData().toString());
        if (!state) {
            state_->setText(QString::fromStdString(state.error().message()));
            return;
        }
        auto& job = state->job;
        auto& design = *job.find_design(state->design);
        const auto duty = side.duty->currentData().toString();
        if (!duty.isEmpty()) {
            design.duty.standard = duty.section('/', 0, 0).toStdString();
            design.duty.class_kV = duty.section('/', 1).toDouble();
            design.duty.u0_kV.reset();
        }
        const auto id = design.id;
        names.push_back(side.design->currentText());
        asked.emplace_back(std::move(job), id);
    }
    worker_.start([this, run, asked, names, prepare = preparer(session_.with_faults()),
                   library = session_.library()](const CancelFlag& cancel) {
        std::shared_ptr<Judged> sides[2];
        QString problem;
        for (int i = 0; i < 2 && !cancel; ++i) {
            const auto& [job, id] = asked[i];
            auto judged = judge_design(job, id, library, prepare, true, &session_.schedule_cache(), &cancel);
            if (!judged) {
                problem = QString::fromStdString(judged.error().message());
                break;
            }
            if (!judged->schedule) {
                problem = QString::fromStdString(judged->prepared.design.title + ": it did not converge.");
                break;
            }
            sides[i] = std::make_shared<Judged>();
            sides[i]->name = QString("%1 · %2, %3 kV")
                                 .arg(names[static_cast<std::size_t>(i)],
                                      QString::fromStdString(judged->prepared.standard_title))
                                 .arg(judged->prepared.design.duty.class_kV);
            sides[i]->prepared = std::make_shared<const PreparedDesign>(std::move(judged->prepared));
            sides[i]->solution = std::move(judged->solutions.at_u0);
            sides[i]->schedule = std::move(*judged->schedule);
        }
        worker_.hand_over([this, run, left = sides[0], right = sides[1], problem] {
            if (run != run_) return;
            if (left && right)
                show_result(left, right);
            else
                state_->setText(problem);
        });
    });
}

void CompareWindow::show_result(const std::shared_ptr<const Judged>& left,
                                const std::shared_ptr<const Judged>& right) {
    left_ = left;
    right_ = right;
    state_->setText(QString("Left %1: %2.  Right %3: %4.")
                        .arg(left->name, status_word(left->schedule.status), right->name,
                             status_word(right->schedule.status)));
    table_->setHorizontalHeaderLabels(
        {"test, check", left->name.section(" · ", 0, 0), "", right->name.section(" · ", 0, 0), ""});
    fill_table();
    path_->clear();
    for (const auto& path : left->solution.paths)
        if (right->solution.path(path.name)) path_->addItem(QString::fromStdString(path.name));
    path_->setCurrentIndex(std::max(0, path_->findText("insulation surface")));
    draw_traces();
    emit compared();
}

void CompareWindow::fill_table() {
    const auto& theme = session_.theme();
    const auto rows = compare(left_->schedule, right_->schedule);
    table_->setRowCount(static_cast<int>(rows.size()));
    for (int i = 0; i < table_->rowCount(); ++i) {
        const auto& row = rows[i];
        const bool head = row.check.empty();
        const auto shown = session_.stress_unit();
        const QString unit =
            row.unit.empty() ? QString() : " " + QString::fromStdString(in_stress_unit(row.unit, shown));
        const double k = stress_factor(row.unit, shown);
        const QStringList words{head ? QString::fromStdString(row.test)
                                     : "    " + QString::fromStdString(row.check),
                                figure(row.left, row.left_limit, k) + (row.left ? unit : QString()),
                                QString::fromStdString(row.left_status),
                                figure(row.right, row.right_limit, k) + (row.right ? unit : QString()),
                                QString::fromStdString(row.right_status)};
        for (int c = 0; c < 5; ++c) {
            auto* item = new QTableWidgetItem(words[c]);
            item->setFont(draw::ui_font(8.5, head));
            if (head) item->setBackground(theme.paper);
            if (c && words[c].startsWith("falls")) item->setForeground(theme.brick);
            if (c && words[c].startsWith("marginal")) item->setForeground(theme.ochre);
            table_->setItem(i, c, item);
        }
    }
}

void CompareWindow::add_trace(const Judged& side, const std::string& name, bool left) {
    const auto* path = side.solution.path(name);
    if (!path) return;
    const auto& theme = session_.theme();
    const double k = session_.unit() == LengthUnit::mm ? 1.0 : 1 / mm_per_inch,
                 stress = stress_factor(session_.stress_unit());
    QVector<double> x, y;
    for (const auto& s : path->samples) {
        x << s.at.z * k;
        y << (s.near_singular ? std::numeric_limits<double>::quiet_NaN() : s.E_kV_per_mm * stress);
    }
    if (!x.isEmpty() && x.first() > x.last()) {
        std::reverse(x.begin(), x.end());
        std::reverse(y.begin(), y.end());
    }
    auto* graph = plot_->addGraph();
    graph->setData(x, y, true);
    graph->setName((left ? "left: " : "right: ") + side.name);
    graph->setPen(QPen(left ? theme.accent : theme.ochre, 1.8, left ? Qt::SolidLine : Qt::DashLine));
}

void CompareWindow::draw_traces() {
    plot_->clearGraphs();
    const auto& theme = session_.theme();
    style_plot(*plot_, theme);
    plot_->xAxis->setLabel(session_.unit() == LengthUnit::mm ? "z from the screen edge or joint centre, mm"
                                                             : "z from the screen edge or joint centre, in");
    plot_->yAxis->setLabel(
        "|E|, " + QString::fromStdString(in_stress_unit("kV/mm rms", session_.stress_unit())) + " at U0");
    if (left_ && right_) {
        add_trace(*left_, path_->currentText().toStdString(), true);
        add_trace(*right_, path_->currentText().toStdString(), false);
    }
    plot_->legend->setVisible(left_ && right_);
    plot_->legend->setFont(draw::ui_font(8));
    plot_->legend->setTextColor(theme.ink);
    plot_->legend->setBrush(theme.panel);
    plot_->legend->setBorderPen(QPen(theme.line));
    plot_->rescaleAxes();
    plot_->yAxis->setRangeLower(0);
    plot_->replot();
}

} // namespace ng::app
