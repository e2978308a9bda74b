#include "app/strips/stress_strip.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace ng::app {
namespace {
constexpr double label_share = 0.18; // of the view, that a limit's words may take
}

StressStrip::StressStrip(Session& session, QWidget* parent)
    : PlotStrip(session, "STRESS", 90, bottom_px, parent) {
    plot_->addLayer("ghosts", plot_->layer("main"), QCustomPlot::limBelow);
    connect(&session, &Session::traces_changed, this, &StressStrip::rebuild);
    connect(&session, &Session::pinned_changed, this, &StressStrip::rebuild);
    connect(plot_, &QCustomPlot::afterReplot, this, [this] { replotted_ = true; });
    plot_->installEventFilter(this);
    connect(plot_, &QCustomPlot::afterLayout, this, &StressStrip::place_labels);
    restyle();
}

void StressStrip::add_traces(const Solved& solved, bool ghost) {
    const auto& theme = session_.theme();
    const double k = unit_factor(), stress = stress_factor(session_.stress_unit());
    const double shift = session_.datum_z() -
                         solved.prepared->built.datum_z_mm; // pinned designs keep their place on the cable
    for (const auto& style : draw::trace_styles(solved.prepared->built)) {
        const auto* path = solved.solution.path(style.path);
        if (!path) continue;
        QVector<double> x, y, corner_x, corner_y;
        for (auto* column : {&x, &y, &corner_x, &corner_y})
            column->reserve(static_cast<qsizetype>(path->samples.size()));
        const double gap = std::numeric_limits<double>::quiet_NaN();
        for (const auto& s : path->samples) {
            const double value = stress * (style.tangential ? std::abs(s.E_t_kV_per_mm) : s.E_kV_per_mm);
            x << (s.at.z + shift) * k;
            y << (s.near_singular ? gap : value);
            corner_x << (s.at.z + shift) * k;
            corner_y << (s.near_singular ? value : gap);
            if (!s.near_singular && !ghost) highest_ = std::max(highest_, value);
        }
        if (!x.isEmpty() && x.first() > x.last()) { // side B runs the other way
            for (auto* column : {&x, &y, &corner_x, &corner_y}) std::reverse(column->begin(), column->end());
        }
        auto* graph = plot_->addGraph();
        graph->setData(x, y, true);
        graph->setName(style.label);
        graph->setLayer(ghost ? "ghosts" : "main");
        graph->setPen(QPen(ghost ? theme.ghost : theme.accent, ghost ? 0.9 : 1.8, style.style));
        if (ghost) continue;
        auto* corners = plot_->addGraph(); // too near a sharp corner to be judged
        corners->setData(corner_x, corner_y, true);
        corners->setPen(QPen(theme.line, 1));
    }
}

void StressStrip::add_limits(const Solved& solved) {
    const auto& theme = session_.theme();
    const double k = unit_factor(), stress = stress_factor(session_.stress_unit());
    for (const auto& limit : draw::limit_lines(*solved.prepared, solved.solution)) {
        auto* line = new QCPItemLine(plot_); // as far as it is judged
        line->start->setCoords(limit.z0_mm * k, stress * limit.limit);
        line->end->setCoords(limit.z1_mm * k, stress * limit.limit);
        line->setPen(QPen(theme.brick, 1.2, limit.style));
        highest_ = std::max(highest_, stress * limit.limit);
        if (limit.label.isEmpty()) continue;
        auto* text = new QCPItemText(plot_);
        // What ends near the strip's end is written before it.
        const double view = solved.prepared->built.view_z1_mm - solved.prepared->built.view_z0_mm;
        const bool late = limit.z1_mm > solved.prepared->built.view_z1_mm - label_share * view;
        text->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        QColor ground = theme.paper; // no line strikes the words through
        ground.setAlpha(225);
        text->setBrush(ground);
        labels_.push_back({text, limit.z1_mm * k, stress * limit.limit, late, {}});
        text->setLayer("overlay"); // above the lines that come later
        text->setPadding(QMargins(3, 0, 3, 0));
        text->setText(QString::fromStdString(format_figures(stress * limit.limit, 3)) + " " + limit.words);
        text->setFont(draw::ui_font(7.5));
        text->setColor(theme.brick);
    }
}

void StressStrip::place_labels() {
    const auto frame = plot_->axisRect()->rect();
    std::vector<LimitLabel*> order;
    for (auto& l : labels_) {
        const QFontMetricsF metrics(l.text->font());
        const double wide = metrics.horizontalAdvance(l.text->text()) + 8, high = metrics.height();
        const double x = plot_->xAxis->coordToPixel(l.z), y = plot_->yAxis->coordToPixel(l.value);
        l.box = QRectF(l.late ? x - wide : x, y - high / 2, wide, high);
        l.box.moveRight(std::min(l.box.right(), frame.right() - 1.0)); // at the frame's end none is cut
        order.push_back(&l);
    }
    std::stable_sort(order.begin(), order.end(),
                     [](const auto* a, const auto* b) { return a->box.top() < b->box.top(); });
    const auto beside = [](const QRectF& a, const QRectF& b) {
        return a.left() < b.right() && b.left() < a.right();
    };
    // Downwards each makes way for those above it, then upwards for those below, where the frame ends.
    for (std::size_t i = 0; i < order.size(); ++i)
        for (std::size_t j = 0; j < i; ++j)
            if (beside(order[i]->box, order[j]->box))
                order[i]->box.moveTop(std::max(order[i]->box.top(), order[j]->box.bottom()));
    for (std::size_t i = order.size(); i-- > 0;) {
        auto& box = order[i]->box;
        box.moveBottom(std::min(box.bottom(), static_cast<double>(frame.bottom())));
        for (std::size_t j = i + 1; j < order.size(); ++j)
            if (beside(box, order[j]->box)) box.moveBottom(std::min(box.bottom(), order[j]->box.top()));
    }
    for (auto& l : labels_) {
        // A strip so low that they find no room shows the lower limits' words: the lines all stay.
        l.text->setVisible(l.box.top() > frame.top() - 4);
        l.text->position->setType(QCPItemPosition::ptAbsolute);
        l.text->position->setCoords(l.box.left(), l.box.center().y());
    }
}

std::vector<QRectF> StressStrip::label_boxes() const {
    std::vector<QRectF> out;
    for (const auto& l : labels_)
        if (l.text->visible()) out.push_back(l.box);
    return out;
}

bool StressStrip::eventFilter(QObject* watched, QEvent* event) {
    if (watched == plot_ && event->type() == QEvent::Paint && std::exchange(replotted_, false))
        QMetaObject::invokeMethod(this, &StressStrip::painted, Qt::QueuedConnection); // once it has been
    return PlotStrip::eventFilter(watched, event);
}

void StressStrip::resizeEvent(QResizeEvent* event) {
    PlotStrip::resizeEvent(event);
    if (low_ == (height() < 120)) return;
    low_ = !low_;
    plot_->axisRect()->setMargins(QMargins(static_cast<int>(AxisModel::gutter_px), 26,
                                           static_cast<int>(AxisModel::margin_px),
                                           low_ ? low_bottom_px : bottom_px));
    rebuild();
}

void StressStrip::draw_plot() {
    labels_.clear();
    highest_ = 0.1 * stress_factor(session_.stress_unit());
    plot_->yAxis->setLabel(QString::fromStdString(in_stress_unit("kV/mm", session_.stress_unit())));
    const auto prepared = session_.prepared();
    const auto zero = QString::fromStdString(name_of(prepared ? prepared->built.zero : place::screen_edge));
    const auto along = QString("z from %1, %2").arg(zero, session_.unit() == LengthUnit::mm ? "mm" : "in");
    plot_->xAxis->setLabel(low_ ? QString() : along);
    plot_->setToolTip(low_ ? along : QString());
    if (const auto solved = session_.solved()) {
        add_traces(*solved, false);
        add_limits(*solved);
        if (session_.pinned()) add_traces(*session_.pinned(), true);
        QStringList keyed;
        for (const auto& style : draw::trace_styles(solved->prepared->built)) {
            const char* sample = style.style == Qt::SolidLine     ? "━━"
                                 : style.style == Qt::DashLine    ? "╍╍"
                                 : style.style == Qt::DashDotLine ? "━╍"
                                                                  : "┈┈";
            const auto entry = QString("%1 %2").arg(sample, style.label);
            if (!keyed.contains(entry)) keyed << entry;
        }
        // Above the axes, so that it covers no trace.
        auto* key =
            words(keyed.join("      "), 0.012, 0, Qt::AlignLeft | Qt::AlignBottom, session_.theme().accent);
        key->setClipToAxisRect(false);
    }
    plot_->yAxis->setRange(0, highest_ * 1.18);
}

} // namespace ng::app
