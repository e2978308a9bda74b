#include "app/strips/plot_strip.h"
#include <QLabel>
#include <QVBoxLayout>

namespace ng::app {

void style_plot(QCustomPlot& plot, const draw::Theme& theme, double font_size) {
    plot.setBackground(theme.paper);
    QColor grid = theme.line;
    grid.setAlpha(110);
    for (auto* axis : {plot.xAxis, plot.yAxis}) {
        axis->setBasePen(QPen(theme.line));
        axis->setTickPen(QPen(theme.line));
        axis->setSubTickPen(QPen(theme.line));
        axis->setTickLabelColor(theme.ink);
        axis->setLabelColor(theme.faint);
        axis->setTickLabelFont(draw::ui_font(font_size));
        axis->setLabelFont(draw::ui_font(font_size));
        axis->setLabelPadding(1);
        axis->grid()->setPen(QPen(grid, 0.6));
        axis->grid()->setZeroLinePen(QPen(grid, 0.8));
    }
}

PlotStrip::PlotStrip(Session& session, const QString& name, int least_height, int bottom_px, QWidget* parent)
    : QWidget(parent), session_(session), plot_(new QCustomPlot(this)) {
    setObjectName(name);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(plot_);
    plot_->setFocusPolicy(Qt::StrongFocus);
    plot_->setPlottingHint(QCP::phImmediateRefresh, false); // all strips are painted together
    plot_->setAutoAddPlottableToLegend(false);              // a strip says in its own words what is drawn
    plot_->setAccessibleName(name + " strip");
    plot_->setObjectName(name.toLower() + "Plot");
    plot_->setMinimumHeight(least_height);
    plot_->axisRect()->setAutoMargins(QCP::msNone);
    plot_->axisRect()->setMargins(QMargins(static_cast<int>(AxisModel::gutter_px), 26,
                                           static_cast<int>(AxisModel::margin_px), bottom_px));
    plot_->addLayer("needle", plot_->layer("main"), QCustomPlot::limAbove);
    needle_ = new QCPItemStraightLine(plot_);
    needle_->setLayer("needle");
    title_ = new QLabel(name, this);
    title_->setFont(draw::ui_font(8, true));
    title_->setProperty("faint", true); // the window's style sheet colours it, in either theme
    title_->move(8, 2);
    new AxisMouse(session, plot_);
    connect(&session, &Session::prepared_changed, this, [this] {
        if (!session_.solution_is_coming()) follow_axis(); // else traces stay where they lie on the cable
    });
    connect(&session, &Session::look_changed, this, &PlotStrip::restyle);
    connect(&session.axis, &AxisModel::view_changed, this, &PlotStrip::follow_axis);
    connect(&session.axis, &AxisModel::needle_changed, this, &PlotStrip::follow_needle);
}

double PlotStrip::unit_factor() const {
    return session_.unit() == LengthUnit::mm ? 1.0 : 1 / mm_per_inch;
}

double PlotStrip::title_end_px() const {
    return title_->geometry().right();
}

void PlotStrip::restyle() {
    const auto& theme = session_.theme();
    style_plot(*plot_, theme);
    needle_->setPen(QPen(theme.accent, 1.4));
    rebuild();
}

void PlotStrip::rebuild() {
    plot_->setPlottingHint(QCP::phFastPolylines, session_.is_live()); // rougher where pieces are short
    plot_->clearGraphs();
    for (int i = plot_->itemCount() - 1; i >= 0; --i)
        if (plot_->item(i) != needle_) plot_->removeItem(i);
    draw_plot();
    follow_axis();
}

void PlotStrip::follow_axis() {
    const double datum = session_.datum_z(), k = unit_factor();
    plot_->xAxis->setRange((session_.axis.left_u() + datum) * k, (session_.axis.right_u() + datum) * k);
    follow_needle();
}

void PlotStrip::follow_needle() {
    // Two heights above zero: a logarithmic axis has no other.
    const double z = session_.needle_z() * unit_factor();
    needle_->point1->setCoords(z, 0.01);
    needle_->point2->setCoords(z, 1);
    plot_->replot(QCustomPlot::rpQueuedReplot);
}

QCPItemText* PlotStrip::words(const QString& text, double x, double y, Qt::Alignment alignment,
                              const QColor& colour, double font_size) {
    auto* item = new QCPItemText(plot_);
    item->setPositionAlignment(alignment);
    item->position->setType(QCPItemPosition::ptAxisRectRatio);
    item->position->setCoords(x, y);
    item->setFont(draw::ui_font(font_size));
    item->setColor(colour);
    item->setText(text);
    return item;
}

} // namespace ng::app
