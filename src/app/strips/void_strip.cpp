#include "app/strips/void_strip.h"
#include <QTimer>
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

VoidStripView::VoidStripView(Session& session, QWidget* parent) : PlotStrip(session, "VOID", 90, 20, parent) {
    plot_->yAxis->setScaleType(QCPAxis::stLogarithmic);
    plot_->yAxis->setTicker(QSharedPointer<QCPAxisTickerLog>::create());
    plot_->yAxis->setNumberFormat("g");
    plot_->yAxis->setNumberPrecision(2);
    plot_->addLayer("zones", plot_->layer("grid"), QCustomPlot::limAbove);
    connect(plot_, &QCustomPlot::afterLayout, this, &VoidStripView::place_labels);
    connect(&session, &Session::solved_changed, this, &VoidStripView::rebuild);
    restyle();
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
    QVector<double> x, allowed, left, over, quiet, alone_x, alone;
    const auto too_much = [&](std::size_t n) {
        return n < order.size() && strip.judged[order[n]] &&
               strip.left_mm[order[n]] > strip.allowed_mm[order[n]];
    };
    for (std::size_t n = 0; n < order.size(); ++n) {
        const auto i = order[n];
        x << (strip.at[i].z + shift) * k;
        allowed << (strip.judged[i] ? clamped(strip.allowed_mm[i]) : none);
        quiet << clamped(strip.allowed_mm[i]);
        left << clamped(strip.left_mm[i]);
        over << (too_much(n) ? clamped(strip.left_mm[i]) : none);
        if (!too_much(n) || too_much(n - 1) || too_much(n + 1)) continue;
        alone_x << x.back();
        alone << over.back();
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
    loud->setData(x, over, true);
    auto* dots = plot_->addGraph(); // single places, of which no line is drawn
    dots->setLineStyle(QCPGraph::lsNone);
    dots->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, theme.brick, 3));
    dots->setData(alone_x, alone, true);
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
    auto* said = new QCPItemText(plot_);
    // Over its own strip: that of side B lies to the left of its screen edge, and lower, where both meet.
    const bool leftwards = strip.path.side == Side::b;
    said->position->setType(QCPItemPosition::ptAbsolute);
    said->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
    labels_.push_back({said, at, std::sqrt(top * foot) * (leftwards ? 0.25 : 1), leftwards});
    said->setPadding(QMargins(8, 1, 8, 1));
    said->setFont(draw::ui_font(8, true));
    said->setColor(falls ? theme.brick : theme.ink);
    said->setBrush(QBrush(theme.paper));
    said->setText(QString("%1 left, %2 quiet")
                      .arg(gap_words(strip.left_mm[strip.worst], session_.unit()),
                           strip.allowed_mm[strip.worst] >= highest_mm
                               ? "any"
                               : gap_words(strip.allowed_mm[strip.worst], session_.unit())));
    summary_ +=
        QString("%1%2: %3")
            .arg(summary_.isEmpty() ? "" : "; ", QString::fromStdString(name_of(strip.path)), said->text());
}

/// Where two would stand on one another the later goes over the earlier, or under it where there is no room.
void VoidStripView::place_labels() {
    const QRectF frame = plot_->axisRect()->rect();
    std::vector<QRectF> taken;
    for (const auto& label : labels_) {
        const QFontMetricsF metrics(label.text->font());
        const QSizeF size(metrics.horizontalAdvance(label.text->text()) + 16, metrics.height() + 2);
        const double x = plot_->xAxis->coordToPixel(label.at), y = plot_->yAxis->coordToPixel(label.gap);
        QRectF box(QPointF(label.leftwards ? x - size.width() : x, y - size.height() / 2), size);
        for (const auto& other : taken)
            if (box.intersects(other))
                box.moveTop(other.top() - size.height() > frame.top() ? other.top() - size.height()
                                                                      : other.bottom());
        taken.push_back(box);
        label.text->position->setCoords(box.topLeft());
    }
}

void VoidStripView::draw_plot() {
    labels_.clear();
    summary_.clear();
    const double k = unit_factor();
    plot_->yAxis->setRange(lowest_mm * k, highest_mm * k);
    const QString gap = session_.unit() == LengthUnit::mm ? "air gap, mm" : "air gap, in";
    const bool fits =
        QFontMetrics(plot_->yAxis->labelFont()).horizontalAdvance(gap) <= plot_->axisRect()->height();
    plot_->yAxis->setLabel(fits ? gap : QString()); // else it would stand on the title
    const auto solved = session_.solved();
    QString key = "The largest air gap that stays quiet", shorter;
    if (solved && !solved->voids.empty()) {
        const auto& first = solved->voids.front();
        const auto kV = QString::number(first.prestress * first.voltage_kV, 'g', 3);
        const QString coarse = solved->coarse ? "; coarse" : "";
        key += QString(" at the pre-stress of %1 kV (tint below the line), and the gap that hands leave "
                       "(dashed)%2")
                   .arg(kV, coarse);
        shorter = QString("Largest quiet gap at %1 kV; dashed: what hands leave%2").arg(kV, coarse);
        for (const auto& strip : solved->voids) add(strip, *solved);
    } else {
        key = solved ? "No void allowance: this duty has no extinction voltage, or it was not solved"
                     : "The void allowance follows when the field is solved";
    }
    plot_->setToolTip(key);
    const QFontMetricsF metrics(draw::ui_font(7.5));
    const double room = plot_->axisRect()->width() + AxisModel::gutter_px - title_end_px() - 8;
    if (!shorter.isEmpty() && metrics.horizontalAdvance(key) > room) key = shorter;
    words(metrics.elidedText(key, Qt::ElideRight, room), 0.998, 0, Qt::AlignRight | Qt::AlignBottom,
          session_.theme().faint, 7.5)
        ->setClipToAxisRect(false);
    setAccessibleDescription(summary_);
}

void VoidStripView::resizeEvent(QResizeEvent* event) {
    PlotStrip::resizeEvent(event);
    QTimer::singleShot(0, this, &VoidStripView::rebuild); // its key says what there is room for
}

} // namespace ng::app
