#include "app/stages/verdict_rows.h"
#include <QPainter>
#include <algorithm>

namespace ng::app {
namespace {

/// How much of the limit is used up; of "at least" checks what is needed over what is there.
double share_of(const Check& check) {
    if (!(check.limit > 0)) return 0;
    return check.at_least ? check.limit / std::max(check.value, 1e-9) : check.value / check.limit;
}

/// The bar ends at the share of the limit; the tick is the limit.
void paint_share(QPainter& painter, const QRectF& bar, double share, Status status,
                 const draw::Theme& theme) {
    painter.fillRect(bar, theme.line);
    if (!(share > 0)) return;
    const double full = std::max(1.25, share * 1.02);
    painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * std::min(1.0, share / full), bar.height()),
                     colour_of(stage_state(status), theme));
    const double tick = bar.left() + bar.width() / full;
    painter.fillRect(QRectF(tick - 1, bar.top() - 3, 2, bar.height() + 6), theme.ink);
}

QString duration_words(double s) {
    if (s <= 0) return {};
    if (s < 60) return QString(", %1 s").arg(s);
    if (s < 3600) return QString(", %1 min").arg(s / 60);
    if (s < 86400) return QString(", %1 h").arg(s / 3600);
    return QString(", %1 days").arg(s / 86400);
}

const Check* worst_check(const TestResult& test) {
    const Check* worst = nullptr;
    for (const auto& c : test.checks)
        if (!worst || severity(c.status) > severity(worst->status) ||
            (c.status == worst->status && c.margin < worst->margin))
            worst = &c;
    return worst;
}

} // namespace

QString figure(double value, const Check& check) {
    return QString::fromStdString(format_supported(value, check.relative_error));
}

VerdictRow::VerdictRow(Session& session, QWidget* parent) : CardRow(session, 58, parent) {
    setCheckable(true);
    setCursor(Qt::PointingHandCursor);
}

void VerdictRow::show_check(const Check& check, const QString& estimate) {
    check_ = check;
    estimate_ = estimate;
    setText(QString::fromStdString(check.title));
    setAccessibleName(QString("%1: %2").arg(text(), status_word(check.status)));
    setAccessibleDescription(QString::fromStdString(check.why));
    setToolTip(text() +
               ". Open to see why; the needle goes to the place"); // whole, where the card cuts it off
    update();
}

void VerdictRow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto& theme = session_.theme();
    paint_card(painter, stage_state(check_.status), 8);
    painter.setPen(theme.ink);
    painter.setFont(draw::ui_font(9, true));
    painter.drawText(QRectF(26, 3, width() - 30, 18), Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(text(), Qt::ElideRight, width() - 32));
    painter.setFont(draw::ui_font(8.5));
    const auto shown = QString::fromStdString(in_stress_unit(check_.unit, session_.stress_unit()));
    const double k = stress_factor(check_.unit, session_.stress_unit());
    const auto unit = check_.unit == "ratio" ? QString("times") : shown;
    QString line = check_.limit > 0 ? QString("%1 %2 %3 %4 · %5")
                                          .arg(figure(k * check_.value, check_),
                                               check_.at_least ? "for at least" : "of at most",
                                               QString::fromStdString(format_figures(k * check_.limit, 3)),
                                               unit, status_word(check_.status))
                                    : estimate_;
    painter.drawText(QRectF(26, 20, width() - 30, 16), Qt::AlignVCenter, line);
    paint_share(painter, QRectF(26, 41, width() - 40, 5), share_of(check_), check_.status, theme);
    paint_focus(painter);
}

TestRow::TestRow(Session& session, QWidget* parent) : CardRow(session, 48, parent) {
    setCheckable(true);
    setCursor(Qt::PointingHandCursor);
}

void TestRow::show_test(const TestResult& test, bool stale) {
    test_ = test;
    stale_ = stale;
    setText(QString::fromStdString(test.title));
    setAccessibleName(QString("%1: %2").arg(text(), QString::fromStdString(status_text(test))));
    setAccessibleDescription(QString::fromStdString(test.why));
    setToolTip(QString::fromStdString(test.applies ? test.model : test.why));
    update();
}

void TestRow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto& theme = session_.theme();
    const auto status = stale_ || !test_.applies ? Status::not_judged : test_.status;
    paint_card(painter, stage_state(status), 7);
    painter.setFont(draw::ui_font(9, true));
    const auto voltage =
        test_.kind == TestKind::geometry
            ? QString()
            : QString("%1 %2").arg(test_.voltage_kV, 0, 'g', 3).arg(QString::fromStdString(test_.unit));
    const int voltage_width = painter.fontMetrics().horizontalAdvance(voltage) + 8;
    painter.setPen(stale_ ? theme.faint : theme.ink);
    painter.drawText(QRectF(width() - voltage_width - 6, 2, voltage_width, 18),
                     Qt::AlignVCenter | Qt::AlignRight, voltage);
    painter.drawText(QRectF(26, 2, width() - 36 - voltage_width, 18), Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(text(), Qt::ElideRight, width() - 38 - voltage_width));
    painter.setFont(draw::ui_font(8.5));
    const auto* worst = worst_check(test_);
    QString line = QString::fromStdString(status_text(test_));
    if (stale_) line = "of an earlier state";
    if (test_.applies && worst && !stale_) {
        const double share = share_of(*worst);
        line += share > 0 ? QString(" · %1 % of the limit%2")
                                .arg(100 * share, 0, 'f', 0)
                                .arg(duration_words(test_.duration_s))
                          : QString();
        paint_share(painter, QRectF(26, 37, width() - 40, 4), share, status, theme);
    }
    painter.setPen(theme.ink);
    painter.drawText(QRectF(26, 18, width() - 34, 16), Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(line, Qt::ElideRight, width() - 36));
    paint_focus(painter);
}

} // namespace ng::app
