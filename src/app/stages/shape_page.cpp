#include "app/stages/shape_page.h"
#include "app/model/time_left.h"
#include "app/strips/plot_strip.h"
#include "draw/shape_picture.h"
#include "fault/fault.h"
#include "io/file.h"
#include <QDateTime>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QSignalBlocker>
#include <QTimer>
#include <algorithm>
#include <fmt/format.h>

namespace ng::app {

ShapePage::ShapePage(Session& session, QWidget* parent) : Page(session, "Shape aids", parent) {
    make_aids();
    make_search();
    column_->addStretch();
    follow_design(session, this, &ShapePage::refresh);
    connect(&session, &Session::look_changed, this, &ShapePage::refresh);
    refresh();
}

void ShapePage::make_aids() {
    add_text("Closed forms propose, the field decides. The proposal is drawn dashed over BUILD.", true);
    auto* stress = add_group("Stress to design for, rms at U0");
    struct Field {
        const char* label;
        double AidLimits::*value;
    };
    for (const auto& f : {Field{"Along the axis on a cone", &AidLimits::cone_axial},
                          Field{"On the interface under a cone", &AidLimits::cone_tangential},
                          Field{"Along a pencil", &AidLimits::pencil_tangential},
                          Field{"At the edge under a graded layer", &AidLimits::graded_tangential},
                          Field{"Peak at an electrode's end", &AidLimits::electrode_peak}}) {
        auto* edit = add_quantity(stress, f.label, QuantityEdit::Kind::stress, "0.02 to 20 kV/mm");
        edit->set_step(0.1);
        edit->show_value(limits_.*f.value, false);
        connect(edit, &QuantityEdit::entered, this, [this, edit, f](double v) {
            limits_.*f.value = std::clamp(v, 0.02, 20.0);
            edit->show_value(limits_.*f.value, false);
            refresh();
        });
    }
    auto* form = add_group("Proposal");
    which_ = add_choice(form, "Aid", {});
    which_->setObjectName("aid");
    connect(which_, &QComboBox::activated, this, &ShapePage::show_chosen);
    answer_ = add_text("");
    answer_->setObjectName("aidAnswer");
    formula_ = add_text("", true);
    table_ = new QTableWidget(0, 3);
    table_->setHorizontalHeaderLabels({"curve", "x", "radius"});
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    table_->verticalHeader()->setDefaultSectionSize(20);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setFixedHeight(150);
    table_->setMinimumWidth(100);
    table_->setAccessibleName("Profile, x against radius");
    table_->setTabKeyNavigation(false);
    column_->addWidget(table_);
    auto* buttons = new QHBoxLayout;
    auto add = [&](const QString& text, const QString& tip, auto action) {
        auto* button = new QPushButton(text);
        button->setToolTip(tip);
        connect(button, &QPushButton::clicked, this, action);
        buttons->addWidget(button);
        return button;
    };
    take_ =
        add("Take over", "Sets it in the design; the field is solved again", [this] { take_over_chosen(); });
    csv_ = add("CSV…", "Smooth curve and straight lines", [this] { save("csv"); });
    dxf_ = add("DXF…", "Both curves as polylines, mm", [this] { save("dxf"); });
    svg_ = add("SVG…", "Full-size drawing", [this] { save("svg"); });
    buttons->addStretch();
    column_->addLayout(buttons);
}

void ShapePage::make_search() {
    auto* form = add_group("Best shape by the field");
    add_text("Up to four dimensions between bounds; every step is built, solved and judged.", true);
    objective_ = add_choice(form, "Make least", {});
    objective_->setObjectName("objective");
    for (int i = 0; i < 4; ++i) {
        auto* line = new QHBoxLayout;
        Row row{};
        row.parameter = new QComboBox;
        row.parameter->setFixedWidth(150);
        row.parameter->setAccessibleName(QString("Dimension %1").arg(i + 1));
        row.lowest = new QuantityEdit(session_, QuantityEdit::Kind::number,
                                      QString("Lowest of dimension %1").arg(i + 1));
        row.highest = new QuantityEdit(session_, QuantityEdit::Kind::number,
                                       QString("Highest of dimension %1").arg(i + 1));
        for (auto* e : {row.lowest, row.highest}) {
            e->setFixedWidth(58);
            e->set_step(1);
            e->setToolTip("mm, or as the parameter is stated");
        }
        line->addWidget(row.parameter);
        line->addWidget(row.lowest);
        line->addWidget(row.highest);
        line->addStretch();
        column_->addLayout(line);
        rows_.push_back(row);
        const auto index = static_cast<std::size_t>(i);
        connect(row.lowest, &QuantityEdit::entered, this, [this, index](double v) { rows_[index].low = v; });
        connect(row.highest, &QuantityEdit::entered, this,
                [this, index](double v) { rows_[index].high = v; });
        connect(row.parameter, &QComboBox::activated, this, [this, index](int k) {
            if (k > 0)
                take_dimension(static_cast<int>(index), parameter_keys_.at(static_cast<std::size_t>(k)));
        });
    }
    auto* buttons = new QHBoxLayout;
    start_ = new QPushButton("Search");
    start_->setObjectName("startSearch");
    take_best_ = new QPushButton("Take over best");
    take_best_->setEnabled(false);
    buttons->addWidget(start_);
    buttons->addWidget(take_best_);
    buttons->addStretch();
    column_->addLayout(buttons);
    progress_ = new QProgressBar;
    progress_->setFormat("%v of at most %m steps");
    progress_->hide();
    column_->addWidget(progress_);
    outcome_ = add_text("");
    outcome_->setObjectName("searchOutcome");
    plot_ = new QCustomPlot;
    plot_->setFixedHeight(130);
    plot_->hide();
    plot_->setAccessibleName("Path of the search");
    column_->addWidget(plot_);
    connect(start_, &QPushButton::clicked, this,
            [this] { optimiser_.is_running() ? optimiser_.cancel() : start(); });
    connect(take_best_, &QPushButton::clicked, this, [this] {
        if (!best_) return;
        session_.document.edit("Take over best shape", {}, [&](Job& job) {
            if (auto* design = job.find_design(request_.design_id))
                for (std::size_t i = 0; i < request_.dimensions.size(); ++i)
                    design->numbers[request_.dimensions[i].key] = std::round(best_->values[i] * 100) / 100;
        });
    });
    connect(&optimiser_, &Optimiser::stepped, this, [this](const OptimiseStep& step, int done) {
        path_.push_back(step);
        progress_->setValue(done);
        const double seconds = static_cast<double>(QDateTime::currentMSecsSinceEpoch() - began_ms_) / 1e3;
        outcome_->setText(QString("step %1: %2; %3 at most")
                              .arg(done)
                              .arg(step.usable ? QString("%1, worst check at %2 % of its limit")
                                                     .arg(step.objective, 0, 'f', 2)
                                                     .arg(100 * step.worst_share, 0, 'f', 0)
                                               : QString::fromStdString(step.refusal))
                              .arg(time_left_words(seconds / done * (request_.most_steps - done))));
        draw_path();
    });
    connect(&optimiser_, &Optimiser::finished, this,
            [this](const std::shared_ptr<const OptimiseResult>& result) { show_result(*result); });
    connect(&optimiser_, &Optimiser::failed, this, [this](const QString& text) {
        start_->setText("Search");
        progress_->hide();
        outcome_->setText(text);
    });
}

void ShapePage::refresh() {
    const auto prepared = session_.prepared();
    const auto was = which_->currentIndex();
    aids_ = prepared ? shape_aids(*prepared, limits_) : std::vector<Aid>{};
    {
        const QSignalBlocker quiet(which_);
        which_->clear();
        for (const auto& aid : aids_) which_->addItem(QString::fromStdString(aid.title));
        which_->setCurrentIndex(std::clamp(was, 0, std::max(0, static_cast<int>(aids_.size()) - 1)));
    }
    fill_parameters();
    show_chosen();
}

void ShapePage::fill_parameters() {
    const auto* family = session_.family();
    const auto prepared = session_.prepared();
    if (!family || !prepared) return;
    checks_ = {std::nullopt};
    const QSignalBlocker quiet(objective_);
    const int was = objective_->currentIndex();
    objective_->clear();
    objective_->addItem("length");
    for (const auto& check : prepared->built.checks) {
        objective_->addItem(QString::fromStdString(check.title));
        checks_.push_back(check.id);
    }
    objective_->setCurrentIndex(std::clamp(was, 0, objective_->count() - 1));
    if (filled_family_ == family->id) return;
    filled_family_ = family->id;
    parameter_keys_ = {""};
    QStringList labels{"none"};
    for (const auto& spec : family->parameters)
        if (spec.kind != ParameterKind::choice) {
            parameter_keys_.push_back(spec.key);
            labels << QString::fromStdString(spec.label.find(',') == std::string::npos &&
                                                     spec.group.size() < 20
                                                 ? spec.group + ": " + spec.label
                                                 : spec.label);
        }
    for (auto& row : rows_) {
        row.parameter->clear();
        row.parameter->addItems(labels);
        row.lowest->clear();
        row.highest->clear();
    }
    best_.reset();
    take_best_->setEnabled(false);
}

void ShapePage::choose(int index) {
    which_->setCurrentIndex(index);
    show_chosen();
}

void ShapePage::show_chosen() {
    const auto i = static_cast<std::size_t>(std::max(0, which_->currentIndex()));
    const bool any = i < aids_.size();
    const Aid aid = any ? aids_[i] : Aid{};
    answer_->setText(any ? QString::fromStdString(words_in_stress_unit(aid.answer, session_.stress_unit()))
                         : "This family has no cone, pencil, graded layer or electrode to shape.");
    formula_->setText(QString::fromStdString(aid.formula));
    const bool profile = !aid.profile.smooth.empty();
    table_->setVisible(profile);
    for (auto* b : {csv_, dxf_, svg_}) b->setVisible(profile);
    take_->setEnabled(any && !aid.numbers.empty());
    table_->setRowCount(0);
    auto put = [&](const char* name, const std::vector<Point>& points, std::size_t step) {
        for (std::size_t k = 0; k < points.size(); k += step) {
            const int row = table_->rowCount();
            table_->insertRow(row);
            table_->setItem(row, 0, new QTableWidgetItem(name));
            table_->setItem(
                row, 1,
                new QTableWidgetItem(QString::fromStdString(format_length(points[k].z, session_.unit()))));
            table_->setItem(
                row, 2,
                new QTableWidgetItem(QString::fromStdString(format_length(points[k].r, session_.unit()))));
        }
    };
    put("straight", aid.profile.straight, 1);
    put("smooth", aid.profile.smooth, 4);
    if (isVisible()) session_.show_proposal(aid.drawn);
}

void ShapePage::take_over_chosen() {
    const auto i = static_cast<std::size_t>(std::max(0, which_->currentIndex()));
    if (i >= aids_.size()) return;
    const auto aid = aids_[i];
    const auto id = session_.document.job().open_design;
    session_.document.edit("Take over: " + QString::fromStdString(aid.title), {},
                           [&](Job& job) { take_over(*job.find_design(id), aid); });
}

void ShapePage::save(const QString& kind) {
    const auto i = static_cast<std::size_t>(std::max(0, which_->currentIndex()));
    if (i >= aids_.size()) return;
    const auto& aid = aids_[i];
    const auto path =
        QFileDialog::getSaveFileName(this, "Save the profile", QString::fromStdString(aid.id) + "." + kind,
                                     kind.toUpper() + " (*." + kind + ")");
    if (path.isEmpty()) return;
    const auto file = path.toStdString();
    const auto ok = kind == "csv"   ? write_file_safely(file, profile_csv(aid.profile))
                    : kind == "dxf" ? write_profile_dxf(aid.profile, file)
                                    : draw::write_profile_svg(aid.profile, aid.title, file);
    if (!ok) session_.tell(ok.error());
}

bool ShapePage::set_dimension(int index, const std::string& key, double lowest, double highest) {
    auto& row = rows_.at(static_cast<std::size_t>(index));
    for (std::size_t k = 0; k < parameter_keys_.size(); ++k)
        if (parameter_keys_[k] == key) {
            row.parameter->setCurrentIndex(static_cast<int>(k));
            row.low = lowest;
            row.high = highest;
            row.lowest->show_value(lowest, false);
            row.highest->show_value(highest, false);
            return true;
        }
    return false;
}

void ShapePage::take_dimension(int row, const std::string& key) {
    if (!session_.prepared()) return;
    const auto* parameter = session_.family()->parameter(key);
    const double now = number_of(session_.prepared()->context(), key);
    set_dimension(row, key, std::max(parameter->lowest, 0.7 * now), std::min(parameter->highest, 1.3 * now));
}

void ShapePage::search_for(const CheckId& check, const std::vector<std::string>& keys) {
    if (optimiser_.is_running()) { // its last words must be said before another begins
        optimiser_.cancel();
        QTimer::singleShot(50, this, [this, check, keys] { search_for(check, keys); });
        return;
    }
    for (auto& row : rows_) row.parameter->setCurrentIndex(0);
    int next = 0;
    for (const auto& key : keys)
        if (next < static_cast<int>(rows_.size()) &&
            std::find(parameter_keys_.begin(), parameter_keys_.end(), key) != parameter_keys_.end())
            take_dimension(next++, key);
    const auto it = std::find(checks_.begin(), checks_.end(), check);
    objective_->setCurrentIndex(it == checks_.end() ? 0 : static_cast<int>(it - checks_.begin()));
    if (next == 0) return;
    start();
    QTimer::singleShot(0, this, [this] { // once laid out
        ensureWidgetVisible(outcome_);
        start_->setFocus(Qt::OtherFocusReason);
    });
}

void ShapePage::start() {
    request_ = {};
    request_.job = session_.document.job();
    request_.design_id = session_.document.job().open_design;
    for (const auto& row : rows_)
        if (const int k = row.parameter->currentIndex(); k > 0)
            request_.dimensions.push_back(
                {parameter_keys_.at(static_cast<std::size_t>(k)), row.low, row.high});
    request_.lowest_check = checks_.at(static_cast<std::size_t>(std::max(0, objective_->currentIndex())));
    path_.clear();
    best_.reset();
    take_best_->setEnabled(false);
    began_ms_ = QDateTime::currentMSecsSinceEpoch();
    progress_->setRange(0, request_.most_steps);
    progress_->setValue(0);
    progress_->show();
    outcome_->setText("Searching…");
    start_->setText("Cancel");
    optimiser_.start(request_, session_.library(), preparer(session_.with_faults()));
}

void ShapePage::draw_path() {
    plot_->clearGraphs();
    const auto& theme = session_.theme();
    QVector<double> x, y, good_x, good_y;
    for (std::size_t i = 0; i < path_.size(); ++i) {
        if (!path_[i].usable) continue;
        x << static_cast<double>(i + 1);
        y << path_[i].objective;
        if (path_[i].holds) {
            good_x << x.last();
            good_y << y.last();
        }
    }
    auto* all = plot_->addGraph();
    all->setData(x, y, true);
    all->setPen(QPen(theme.faint, 1));
    all->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, theme.faint, 5));
    auto* good = plot_->addGraph();
    good->setData(good_x, good_y, true);
    good->setLineStyle(QCPGraph::lsNone);
    good->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssSquare, theme.accent, theme.accent, 6));
    plot_->xAxis->setLabel("step (filled: every verdict holds)");
    plot_->yAxis->setLabel(!request_.lowest_check ? "length, mm" : "kV/mm");
    style_plot(*plot_, theme, 7.5);
    plot_->rescaleAxes();
    plot_->yAxis->scaleRange(1.15);
    plot_->show();
    plot_->replot(QCustomPlot::rpQueuedReplot);
}

void ShapePage::show_result(const OptimiseResult& result) {
    start_->setText("Search");
    progress_->hide();
    path_ = result.path;
    draw_path();
    const auto& family = *session_.family();
    const QString what = !request_.lowest_check ? "mm of length" : "kV/mm";
    auto words = [&](const OptimiseStep& s) {
        return QString("%1 %2").arg(s.objective, 0, 'f', !request_.lowest_check ? 1 : 3).arg(what);
    };
    QString text =
        QString("%1 after %2 steps. ").arg(QString::fromStdString(result.end)).arg(result.path.size());
    text[0] = text[0].toUpper();
    if (!result.best) {
        text += "Nothing between these bounds lets every verdict hold.";
    } else {
        best_ = result.path[*result.best];
        text += QString("Best that holds: %1 (start %2%3): ")
                    .arg(words(*best_), words(result.path.front()),
                         result.path.front().holds ? "" : ", which does not hold");
        for (std::size_t i = 0; i < request_.dimensions.size(); ++i)
            if (const auto* spec = family.parameter(request_.dimensions[i].key))
                text += QString("%1%2 %3")
                            .arg(i ? ", " : "", QString::fromStdString(spec->label))
                            .arg(best_->values[i], 0, 'f', 2);
        text += ".";
        for (const auto& aid : aids_) // what the closed form would have said
            for (const auto& d : request_.dimensions)
                if (const auto it = aid.numbers.find(d.key); it != aid.numbers.end())
                    text += QString(" Closed form (%1): %2 %3.")
                                .arg(QString::fromStdString(aid.title),
                                     QString::fromStdString(family.parameter(d.key)->label))
                                .arg(it->second, 0, 'f', 2);
    }
    outcome_->setText(text);
    take_best_->setEnabled(best_.has_value());
}

void ShapePage::hideEvent(QHideEvent* event) {
    session_.show_proposal({});
    Page::hideEvent(event);
}

void ShapePage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    show_chosen();
}

} // namespace ng::app
