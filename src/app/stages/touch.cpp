#include "app/stages/touch.h"
#include <QApplication>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <numeric>

namespace ng::app {

QLabel* large_label(double points, bool bold) {
    auto* l = new QLabel;
    l->setFont(draw::ui_font(points, bold));
    l->setWordWrap(true);
    l->setTextInteractionFlags(Qt::TextSelectableByMouse);
    return l;
}

KeyPad::KeyPad(QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    const auto make = [&](const QStringList& rows) {
        auto* box = new QWidget;
        auto* lines = new QVBoxLayout(box);
        lines->setContentsMargins(0, 0, 0, 0);
        lines->setSpacing(3);
        for (const auto& row : rows) {
            auto* line = new QHBoxLayout;
            line->setSpacing(3);
            for (const auto& key : row.split(' ')) {
                auto* button = new QPushButton(key);
                button->setAccessibleName(key == "⌫" ? "Delete the last letter" : "Key " + key);
                button->setFocusPolicy(Qt::NoFocus); // the field keeps it
                make_large(button, 12);
                button->setMinimumWidth(touch_px);
                connect(button, &QPushButton::clicked, this, [this, key] {
                    auto* field = window()->focusWidget();
                    if (!field) return;
                    QKeyEvent press(QEvent::KeyPress, key == "⌫" ? Qt::Key_Backspace : Qt::Key_unknown,
                                    Qt::NoModifier, key == "⌫" ? QString() : key);
                    QApplication::sendEvent(field, &press);
                });
                line->addWidget(button);
            }
            lines->addLayout(line);
        }
        column->addWidget(box);
        return box;
    };
    figures_ = make({"1 2 3 4 5 6", "7 8 9 0 . ⌫"});
    letters_ = make({"A B C D E F G H I", "J K L M N O P Q R", "S T U V W X Y Z ⌫"});
    letters_->hide();
}

void KeyPad::show_letters(bool letters) {
    figures_->setVisible(!letters);
    letters_->setVisible(letters);
}

ButtonGrid::ButtonGrid() : grid_(new QGridLayout(this)) {
    grid_->setContentsMargins(0, 0, 0, 0);
    grid_->setSpacing(6);
}

void ButtonGrid::add(QPushButton* button) {
    buttons_.push_back(button);
    place();
}

int ButtonGrid::width_of(int columns) const {
    std::vector<int> widest(static_cast<std::size_t>(columns), 0);
    for (std::size_t k = 0; k < buttons_.size(); ++k) {
        auto& column = widest[k % widest.size()];
        column = std::max(column, buttons_[k]->minimumSizeHint().width());
    }
    return std::accumulate(widest.begin(), widest.end(), (columns - 1) * grid_->spacing());
}

QSize ButtonGrid::minimumSizeHint() const {
    return {width_of(1), grid_->minimumSize().height()};
}

void ButtonGrid::place() {
    for (auto* b : buttons_) grid_->removeWidget(b);
    for (std::size_t k = 0; k < buttons_.size(); ++k)
        grid_->addWidget(buttons_[k], static_cast<int>(k) / columns_, static_cast<int>(k) % columns_);
}

void ButtonGrid::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    int columns = most_columns;
    while (columns > 1 && width_of(columns) > width()) --columns;
    if (columns == columns_) return;
    columns_ = columns;
    place();
    updateGeometry();
}

} // namespace ng::app
