#include "app/stages/verdict_page.h"
#include "app/stages/stage_list.h"
#include <QPainter>
#include <fmt/format.h>

namespace ng::app {
namespace {

QString figure(double value, const Check& check) {
    return QString::fromStdString(format_supported(value, check.relative_error));
}

} // namespace

VerdictRow::VerdictRow(Session& session, QWidget* parent) : QAbstractButton(parent), session_(session) {
    setCheckable(true);
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(58);
    setCursor(Qt::PointingHandCursor);
    setToolTip("Open to see why; the needle goes to the place");
}

void VerdictRow::show_check(const Check& check, const QString& estimate) {
    check_ = check;
    estimate_ = estimate;
    setText(QString::fromStdString(check.title));
    setAccessibleName(QString("%1: %2").arg(text(), status_word(check.status)));
    setAccessibleDescription(QString::fromStdString(check.why));
    update();
}

void VerdictRow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const auto& theme = session_.theme();
    painter.fillRect(rect().adjusted(0, 0, 0, -2), isChecked() ? theme.paper : theme.panel);
    paint_stage_mark(painter, QRectF(6, 8, 12, 12), stage_state(check_.status), theme);
    painter.setPen(theme.ink);
    painter.setFont(draw::ui_font(9, true));
    painter.drawText(QRectF(26, 3, width() - 30, 18), Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(text(), Qt::ElideRight, width() - 32));
    painter.setFont(draw::ui_font(8.5));
    const auto unit = check_.unit == "ratio" ? QString("times") : QString::fromStdString(check_.unit);
    QString line = check_.limit > 0 ? QString("%1 of %2 %3 · %4")
                                          .arg(figure(check_.value, check_), QString::number(check_.limit),
                                               unit, status_word(check_.status))
                                    : estimate_;
    painter.drawText(QRectF(26, 20, width() - 30, 16), Qt::AlignVCenter, line);
    // Value against limit: the bar ends at the value, the tick is the limit.
    const QRectF bar(26, 41, width() - 40, 5);
    painter.fillRect(bar, theme.line);
    if (check_.limit > 0) {
        const double full = std::max(1.25, check_.value / check_.limit * 1.02);
        const QColor colour = check_.status == Status::falls_short ? theme.brick
                              : check_.status == Status::marginal  ? theme.ochre
                              : check_.status == Status::holds     ? theme.accent
                                                                   : theme.faint;
        painter.fillRect(QRectF(bar.left(), bar.top(),
                                bar.width() * std::min(1.0, check_.value / check_.limit / full),
                                bar.height()),
                         colour);
        const double tick = bar.left() + bar.width() / full;
        painter.fillRect(QRectF(tick - 1, bar.top() - 3, 2, bar.height() + 6), theme.ink);
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme.accent, 1, Qt::DotLine));
        painter.drawRect(rect().adjusted(1, 1, -2, -4));
    }
}

VerdictPage::VerdictPage(Session& session, QWidget* parent) : Page(session, "Verdict", parent) {
    overall_ = add_text("");
    overall_->setFont(draw::ui_font(11, true));
    reason_ = add_text("");
    compared_ = add_text("", true);
    statements_ = add_text("");
    statements_->setObjectName("statements");
    list_ = new QVBoxLayout;
    list_->setSpacing(2);
    column_->addLayout(list_);
    add_caution("These checks screen a design. They do not replace a type test, the maker's instructions, "
                "local codes or licensed practice.");
    column_->addStretch();
    connect(&session, &Session::solved_changed, this, &VerdictPage::refresh);
    connect(&session, &Session::prepared_changed, this, &VerdictPage::refresh);
    connect(&session, &Session::pinned_changed, this, &VerdictPage::refresh);
    connect(&session, &Session::look_changed, this, &VerdictPage::refresh);
    refresh();
}

QString VerdictPage::detail_text(const Check& c) const {
    auto s = [](const std::string& t) { return QString::fromStdString(t); };
    const auto unit = session_.unit();
    QString text = "<p>" + s(c.why) + "</p>";
    text +=
        QString("<p><b>Read</b> %1 at %2 %3 kV (%4), on %5, z %6, r %7.")
            .arg(c.unit == "ratio" ? "highest field over the undisturbed conductor stress" : "highest value",
                 s(c.level))
            .arg(c.voltage_kV, 0, 'f', 2)
            .arg(s(c.voltage_origin), s(c.place), s(format_length(c.at.z, unit)),
                 s(format_length(c.at.r, unit)));
    if (c.edge_radius_mm > 0)
        text += QString(" Edge radius %1.").arg(s(format_length(c.edge_radius_mm, unit)));
    text += QString(" Numerical error %1 %.</p>").arg(100 * c.relative_error, 0, 'g', 2);
    if (!c.near_edge.empty())
        text += "<p>" + s(c.near_edge) + ": these depend little on the edge's radius.</p>";
    text += QString("<p><b>Limit</b> %1 %2 (%3), against %4.</p>")
                .arg(c.limit)
                .arg(s(c.unit), s(c.limit_origin), s(c.protects_against));
    if (c.status == Status::falls_short || c.status == Status::marginal)
        text += QString("<p><b>Cure</b> %1.</p>").arg(s(c.cure));
    return text;
}

void VerdictPage::refresh() {
    const auto solved = session_.is_current() ? session_.solved() : nullptr;
    const auto prepared = session_.prepared();
    std::vector<CheckRequest> requests; // of the section along the axis, then of those across
    if (prepared) {
        requests = prepared->built.checks;
        for (const auto& across : prepared->built.across)
            requests.insert(requests.end(), across.checks.begin(), across.checks.end());
        QStringList said;
        for (const auto& statement : prepared->built.statements) said << QString::fromStdString(statement);
        statements_->setText(said.join("\n\n"));
        statements_->setVisible(!said.isEmpty());
    }
    const std::size_t count = requests.size();
    while (rows_.size() > static_cast<qsizetype>(count)) {
        delete rows_.takeLast();
        delete details_.takeLast();
    }
    while (rows_.size() < static_cast<qsizetype>(count)) {
        const int index = static_cast<int>(rows_.size());
        auto* row = new VerdictRow(session_, this);
        auto* detail = new QLabel;
        detail->setWordWrap(true);
        detail->setTextInteractionFlags(Qt::TextSelectableByMouse);
        detail->setContentsMargins(26, 0, 4, 6);
        detail->hide();
        list_->addWidget(row);
        list_->addWidget(detail);
        connect(row, &QAbstractButton::clicked, this, [this, index] { show_detail(index); });
        rows_.append(row);
        details_.append(detail);
    }
    const Status overall = solved ? solved->verdict.status : Status::not_judged;
    const char* word = overall == Status::holds         ? "Holds, for every check made here."
                       : overall == Status::marginal    ? "Marginal."
                       : overall == Status::falls_short ? "Falls short."
                       : prepared                       ? "Not judged yet."
                                                        : "Cannot be judged.";
    overall_->setText(word);
    reason_->setText(
        solved && overall != Status::not_judged ? QString::fromStdString(solved->verdict.first_reason)
        : prepared ? (solved ? "Coarse values follow the hand; they are judged when the solution is refined."
                             : "First estimates are closed forms; the field is being solved.")
                   : QString::fromStdString(session_.input_error() ? session_.input_error()->message() : ""));
    for (std::size_t i = 0; i < count; ++i) {
        const auto& request = requests[i];
        QString estimate = "being solved";
        for (const auto& e : prepared->built.estimates)
            if (e.check_id == request.id)
                estimate = QString("first estimate %1 (%2)")
                               .arg(QString::fromStdString(format_figures(e.value, 2)),
                                    QString::fromStdString(e.formula));
        Check check;
        check.title = request.title;
        if (solved)
            for (const auto& judged : solved->verdict.checks)
                if (judged.id == request.id) check = judged;
        const auto index = static_cast<qsizetype>(i);
        rows_[index]->show_check(check, estimate);
        details_[index]->setText(solved ? detail_text(check) +
                                              (estimate.startsWith("first") ? "<p>" + estimate + "</p>" : "")
                                        : estimate);
        rows_[index]->setChecked(open_ == static_cast<int>(i));
        details_[index]->setVisible(open_ == static_cast<int>(i));
    }
    QString compared;
    if (solved && session_.pinned())
        for (const auto& check : solved->verdict.checks)
            for (const auto& old : session_.pinned()->verdict.checks)
                if (old.id == check.id && old.value > 0 && old.limit > 0)
                    compared += QString("%1%2: %3 → %4 (%5 %)")
                                    .arg(compared.isEmpty() ? "Against the pinned state. " : " · ",
                                         QString::fromStdString(check.title), figure(old.value, old),
                                         figure(check.value, check))
                                    .arg(100 * (check.value / old.value - 1), 0, 'f', 1);
    compared_->setText(compared);
    compared_->setVisible(!compared.isEmpty());
}

void VerdictPage::open_row(int index) {
    if (index < rows_.size()) rows_[index]->click();
}

void VerdictPage::show_detail(int index) {
    open_ = open_ == index ? -1 : index;
    for (int i = 0; i < rows_.size(); ++i) {
        rows_[i]->setChecked(i == open_);
        details_[i]->setVisible(i == open_);
    }
    if (open_ >= 0 && session_.is_current() && rows_[open_]->check().limit > 0 &&
        rows_[open_]->check().across.empty())
        session_.move_needle_to_z(rows_[open_]->check().at.z);
}

} // namespace ng::app
