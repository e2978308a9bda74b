#include "app/stages/fault_pictures.h"
#include "app/model/text.h"
#include "draw/round_numbers.h"
#include "draw/section_picture.h"
#include "units/hand_length.h"
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace ng::app {
namespace {

constexpr int bar_px = 46, axis_px = 22;
constexpr double axis_from_mm = 0.01, axis_to_mm = 30;

double rank(const FaultRow& row) {
    if (!row.critical) return 1e12;
    return row.critical->inspectability.value_or(1e9);
}

} // namespace

QString size_words(double mm) {
    return std::isfinite(mm) ? q(format_figures(mm, 2)) + " mm" : QString("no size");
}

FaultBars::FaultBars(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    connect(&session, &Session::look_changed, this, QOverload<>::of(&QWidget::update));
}

void FaultBars::show_rows(std::vector<FaultRow> rows) {
    rows_ = std::move(rows);
    std::stable_sort(rows_.begin(), rows_.end(),
                     [](const auto& a, const auto& b) { return rank(a) < rank(b); });
    setFixedHeight(rows_.empty() ? 0 : static_cast<int>(rows_.size()) * bar_px + axis_px);
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
        y += bar_px;
    }
}

FaultInset::FaultInset(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedHeight(150);
    setAccessibleName("The fault at its true shape");
    connect(&session, &Session::look_changed, this, qOverload<>(&QWidget::update));
}

void FaultInset::show_fault(const Fault& fault) {
    fault_ = fault;
    stale_ = true;
    update();
}

void FaultInset::prepare() {
    stale_ = false;
    design_.reset();
    words_.clear();
    auto faulty =
        prepare_faulty(session_.document.job(), session_.document.design().id, {fault_}, session_.library());
    if (faulty)
        design_ = std::move(*faulty);
    else
        words_ = q(faulty.error().message());
    is_rule_ = find_fault_kind(fault_.kind)->rule.has_value();
    if (is_rule_) words_ = "A rule of the trade: there is nothing to draw.";
}

void FaultInset::paintEvent(QPaintEvent*) {
    if (stale_) prepare();
    QPainter painter(this);
    const auto& theme = session_.theme();
    painter.fillRect(rect(), theme.paper);
    painter.setPen(QPen(theme.line, 1));
    if (!design_ || is_rule_) {
        painter.setPen(theme.faint);
        painter.drawText(rect().adjusted(8, 4, -8, -4), Qt::AlignCenter | Qt::TextWordWrap, words_);
        return;
    }
    auto drawn = design_->drawn;
    drawn.insert(drawn.end(), design_->only_drawn.begin(), design_->only_drawn.end());
    const auto [low, high] = place_of(*design_, fault_.side);
    const double across = high.r - low.r, along = high.z - low.z;
    // So that the fault takes a good part of the picture and what lies round it is seen too.
    const double px_per_mm = std::min({0.6 * width() / along, 0.35 * height() / across, height() / 0.2});
    draw::View v;
    v.z_scale_px = px_per_mm;
    v.r_scale_px = -px_per_mm;
    v.datum_z_mm = (low.z + high.z) / 2;
    v.x_of_datum_px = width() / 2.0;
    v.r0_mm = (low.r + high.r) / 2;
    v.axis_y_px = height() / 2.0;
    const auto& built = design_->prepared.built;
    painter.setRenderHint(QPainter::Antialiasing);
    draw::paint_section(painter, built.section, built.parts, v, theme);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.accent, 1.6));
    for (const auto& region : drawn) painter.drawPath(draw::outline_path(region.outline, v));
    // Scale bar: the roundest length near a quarter of the width.
    const double bar = draw::round_at_most(width() / 4.0 / px_per_mm);
    const QRectF plate(6, height() - 24, bar * px_per_mm + 70, 20);
    painter.fillRect(plate, theme.panel);
    painter.setPen(QPen(theme.ink, 1.4));
    const double y = plate.center().y();
    painter.drawLine(QPointF(12, y), QPointF(12 + bar * px_per_mm, y));
    for (const double x : {12.0, 12 + bar * px_per_mm})
        painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4));
    painter.setFont(draw::ui_font(8));
    painter.drawText(QRectF(18 + bar * px_per_mm, plate.top(), 60, plate.height()), Qt::AlignVCenter,
                     q(format_length(bar, session_.unit())));
    painter.setPen(QPen(theme.line, 1));
    painter.drawRect(rect().adjusted(0, 0, -1, -1));
}

} // namespace ng::app
