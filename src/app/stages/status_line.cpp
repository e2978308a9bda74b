#include "app/stages/status_line.h"
#include "app/stages/stage_list.h"
#include <QPainter>

namespace ng::app {
namespace {
constexpr int indent = 22, title_height = 17;
} // namespace

StatusLine::StatusLine(Session& session, const QString& title, Status status, const QString& why,
                       QWidget* parent)
    : QWidget(parent), session_(session), title_(title), why_(why), status_(status) {
    setAccessibleName(QString("%1: %2. %3").arg(title, status_word(status), why));
    QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
}

int StatusLine::heightForWidth(int width) const {
    const QFontMetrics metrics(draw::ui_font(8));
    return title_height +
           metrics.boundingRect(QRect(0, 0, std::max(40, width - indent), 1000), Qt::TextWordWrap, why_)
               .height() +
           5;
}

void StatusLine::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto& theme = session_.theme();
    paint_stage_mark(painter, QRectF(2, 3, 11, 11), stage_state(status_), theme);
    painter.setPen(theme.ink);
    painter.setFont(draw::ui_font(8.5, true));
    painter.drawText(QRectF(indent, 0, width() - indent, title_height), Qt::AlignVCenter,
                     QString("%1: %2").arg(title_, status_word(status_)));
    painter.setFont(draw::ui_font(8));
    painter.drawText(QRectF(indent, title_height, width() - indent, height() - title_height),
                     Qt::TextWordWrap, why_);
}

} // namespace ng::app
