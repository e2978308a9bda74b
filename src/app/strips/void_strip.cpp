#include "app/strips/void_strip.h"
#include <QLabel>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <limits>

namespace ng::app {
namespace {

constexpr double lowest_mm = 0.002, highest_mm = 10; // the axis; what lies beyond is drawn at its end

QString gap_words(double mm, LengthUnit unit) {
    return unit == LengthUnit::mm ? QString::fromStdString(format_figures(mm, 2)) + " mm"
                                  : QString::fromStdString(format_figures(mm / mm_per_inch, 2)) + " in";
}

} // namespace

VoidStripView::VoidStripView(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), plot_(new QCustomPlot(this)) {
    setObjectName("VOID");
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(plot_);
    plot_->setFocusPolicy(Qt::StrongFocus);
    plot_->setAccessibleName("VOID strip");
    plot_->setObjectName("voidPlot");
    plot_->setMinimumHeight(96);
    plot_->axisRect()->setAutoMargins(QCP::msNone);
    plot_->axisRect()->setMargins(
        QMargins(static_cast<int>(AxisModel::gutter_px), 8, static_cast<int>(AxisModel::margin_px), 20));
    plot_->yAxis->setScaleType(QCPAxis::stLogarithmic);
    plot_->yAxis->setTicker(QSharedPointer<QCPAxisTickerLog>::create());
    plot_->yAxis->setNumberFormat("g");
    plot_->yAxis->setNumberPrecision(2);
    plot_->addLayer("zones", plot_->layer("grid"), QCustomPlot::limAbove);
    plot_->addLayer("needle", plot_->layer("main"), QCustomPlot::limAbove);
    needle_ = new QCPItemStraightLine(plot_);
    needle_->setLayer("needle");
    title_ = new QLabel("VOID", this);
    title_->setFont(draw::ui_font(8, true));
    title_->move(8, 4);
    new AxisMouse(session, plot_);
    connect(&session, &Session::solved_changed, this, &VoidStripView::rebuild);
    connect(&session, &Session::prepared_changed, this, &VoidStripView::follow_axis);
    connect(&session, &Session::look_changed, this, &VoidStripView::restyle);
    connect(&session.axis, &AxisModel::view_changed, this, &VoidStripView::follow_axis);
    connect(&session.axis, &AxisModel::needle_changed, this, &VoidStripView::follow_needle);
    restyle();
}

double VoidStripView::unit_factor() const {
    return session_.unit() == LengthUnit::mm ? 1.0 : 1 / mm_per_inch;
}

void VoidStripView::restyle() {
    const auto& theme = session_.theme();
    plot_->setBackground(theme.paper);
    QPalette p = title_->palette();
    p.setColor(QPalette::WindowText, theme.faint);
    title_->setPalette(p);
    for (auto* axis : {plot_->xAxis, plot_->yAxis}) {
        axis->setBasePen(QPen(theme.line));
        axis->setTickPen(QPen(theme.line));
        axis->setSubTickPen(QPen(theme.line));
        axis->setTickLabelColor(theme.ink);
        axis->setLabelColor(theme.faint);
        axis->setTickLabelFont(draw::ui_font(8));
        axis->setLabelFont(draw::ui_font(8));
        axis->setLabelPadding(1);
        QColor grid = theme.line;
        grid.setAlpha(110);
        axis->grid()->setPen(QPen(grid, 0.6));
        axis->grid()->setZeroLinePen(Qt::NoPen);
    }
    needle_->setPen(QPen(theme.accent, 1.4));
    rebuild();
}

void VoidStripView::follow_axis() {
    const double datum = session_.datum_z(), k = unit_factor();
    plot_->xAxis->setRange((session_.axis.left_u() + datum) * k, (session_.axis.right_u() + datum) * k);
    follow_needle();
}

void VoidStripView::follow_needle() {
    const double z = session_.needle_z() * unit_factor();
    needle_->point1->setCoords(z, 0.01);
    needle_->point2->setCoords(z, 1);
    plot_->replot(QCustomPlot::rpQueuedReplot);
}

void VoidStripView::add(const VoidStrip& strip, const Solved& solved) {
    const auto& theme = session_.theme();
    const double k = unit_factor();
    const double shift = session_.datum_z() - solved.prepared->built.datum_z_mm;
    const double none = std::numeric_limits<double>::quiet_NaN();
    auto clamped = [&](double mm) { return std::clamp(mm, lowest_mm, highest_mm) * k; };
    std::vector<std::size_t> order(strip.at.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    if (!order.empty() && strip.at.front().z > strip.at.back().z) std::reverse(order.begin(), order.end());
    QVector<double> x, allowed, left, over, quiet;
    for (const auto i : order) {
        x << (strip.at[i].z + shift) * k;
        allowed << (strip.judged[i] ? clamped(strip.allowed_mm[i]) : none);
        quiet << clamped(strip.allowed_mm[i]);
        left << clamped(strip.left_mm[i]);
        over << (strip.judged[i] && strip.left_mm[i] > strip.allowed_mm[i] ? clamped(strip.left_mm[i])
                                                                           : none);
    }
    // Quiet below the allowance: a tint; the gap that is left: a line in ink, brick where it is too much.
    auto* ground = plot_->addGraph();
    ground->setLayer("zones");
    ground->setPen(Qt::NoPen);
    QColor tint = theme.accent;
    tint.setAlpha(theme.dark ? 70 : 38);
    ground->setBrush(tint);
    ground->setData(x, quiet, true);
    auto* curve = plot_->addGraph();
    curve->setPen(QPen(theme.accent, 1.8));
    curve->setData(x, allowed, true);
    auto* gap = plot_->addGraph();
    gap->setPen(QPen(theme.ink, 1.2, Qt::DashLine));
    gap->setData(x, left, true);
    auto* loud = plot_->addGraph();
    loud->setPen(QPen(theme.brick, 3));
    loud->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, theme.brick, 3));
    loud->setData(x, over, true);
    if (strip.worst >= strip.at.size()) return;
    // The worst place: a plumb line between the two gaps, with both figures.
    const double at = (strip.at[strip.worst].z + shift) * k, top = clamped(strip.allowed_mm[strip.worst]),
                 foot = clamped(strip.left_mm[strip.worst]);
    const bool falls = strip.worst_ratio > 1;
    auto* plumb = new QCPItemLine(plot_);
    plumb->start->setCoords(at, foot);
    plumb->end->setCoords(at, top);
    plumb->setHead(QCPLineEnding(QCPLineEnding::esBar, 7));
    plumb->setTail(QCPLineEnding(QCPLineEnding::esBar, 7));
    plumb->setPen(QPen(falls ? theme.brick : theme.ink, 1.2));
    auto* words = new QCPItemText(plot_);
    words->position->setCoords(at, std::sqrt(top * foot));
    words->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    words->setPadding(QMargins(8, 1, 4, 1));
    words->setTextAlignment(Qt::AlignLeft);
    words->setFont(draw::ui_font(8, true));
    words->setColor(falls ? theme.brick : theme.ink);
    words->setBrush(QBrush(theme.paper));
    words->setText(QString("%1 left, %2 quiet")
                       .arg(gap_words(strip.left_mm[strip.worst], session_.unit()),
                            strip.allowed_mm[strip.worst] >= highest_mm
                                ? "any"
                                : gap_words(strip.allowed_mm[strip.worst], session_.unit())));
    summary_ += QString("%1%2: %3")
                    .arg(summary_.isEmpty() ? "" : "; ", QString::fromStdString(strip.path), words->text());
}

void VoidStripView::rebuild() {
    plot_->clearGraphs();
    for (int i = plot_->itemCount() - 1; i >= 0; --i)
        if (plot_->item(i) != needle_) plot_->removeItem(i);
    summary_.clear();
    const double k = unit_factor();
    plot_->yAxis->setRange(lowest_mm * k, highest_mm * k);
    plot_->yAxis->setLabel(session_.unit() == LengthUnit::mm ? "air gap, mm" : "air gap, in");
    const auto solved = session_.solved();
    QString key = "The largest air gap that stays quiet";
    if (solved && !solved->voids.empty()) {
        key += QString(" at %1 kV (tint below the line), and the gap that hands leave (dashed)%2")
                   .arg(solved->voids.front().voltage_kV, 0, 'g', 3)
                   .arg(solved->coarse ? "; coarse" : "");
        for (const auto& strip : solved->voids) add(strip, *solved);
    } else {
        key = solved ? "No void allowance: this duty has no extinction voltage, or it was not solved"
                     : "The void allowance follows when the field is solved";
    }
    auto* text = new QCPItemText(plot_);
    text->setPositionAlignment(Qt::AlignRight | Qt::AlignBottom);
    text->position->setType(QCPItemPosition::ptAxisRectRatio);
    text->position->setCoords(0.995, 0.99);
    text->setFont(draw::ui_font(7.5));
    text->setColor(session_.theme().faint);
    text->setText(key);
    setAccessibleDescription(summary_);
    follow_axis();
}

} // namespace ng::app
