#include "app/banner.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <utility>

namespace ng::app {

Banner::Banner(QWidget* parent) : QFrame(parent) {
    setObjectName("banner");
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(14, 4, 8, 4);
    text_ = new QLabel;
    text_->setWordWrap(true);
    text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    action_ = new QPushButton;
    dismiss_ = new QPushButton("Dismiss");
    connect(dismiss_, &QPushButton::clicked, this, &QWidget::hide);
    connect(action_, &QPushButton::clicked, this, [this] {
        hide();
        if (const auto act = std::exchange(acts_, {})) act();
    });
    row->addWidget(text_, 1);
    row->addWidget(action_);
    row->addWidget(dismiss_);
    action_->hide();
    hide();
}

QString Banner::text() const {
    return isHidden() ? QString() : text_->text();
}

void Banner::say(const QString& text) {
    text_->setText(text);
    text_->setAccessibleName(text);
    action_->hide();
    show();
    emit shown();
}

void Banner::offer(const QString& label, std::function<void()> action) {
    acts_ = std::move(action);
    action_->setText(label);
    action_->show();
    emit shown();
}

void Banner::withdraw(const QString& text) {
    if (text_->text() == text) hide();
}

void Banner::set_dismissible(bool dismissible) {
    dismiss_->setVisible(dismissible);
}

} // namespace ng::app
