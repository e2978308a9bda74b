// What gloved fingers and hands without a keyboard need.
#pragma once
#include "draw/theme.h"
#include <QLabel>
#include <vector>

class QGridLayout;
class QPushButton;

namespace ng::app {

constexpr int touch_px = 44; ///< least size of what a gloved finger hits

inline void make_large(QWidget* widget, double points = 12, bool bold = false) {
    widget->setMinimumHeight(touch_px);
    widget->setFont(draw::ui_font(points, bold));
}

/// Words that wrap and may be copied.
QLabel* large_label(double points, bool bold = false);

/// Figures and letters for hands without a keyboard; types into whatever field has the focus of its window.
class KeyPad : public QWidget {
    Q_OBJECT
  public:
    explicit KeyPad(QWidget* parent = nullptr);
    void show_letters(bool letters);

  private:
    QWidget *figures_, *letters_;
};

/// Buttons in as many columns as there is room for.
class ButtonGrid : public QWidget {
  public:
    ButtonGrid();
    void add(QPushButton* button);
    QSize minimumSizeHint() const override;

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    std::vector<QPushButton*> buttons_;
    QGridLayout* grid_;
    int columns_ = 1;
    static constexpr int most_columns = 4;
    int width_of(int columns) const;
    void place();
};

} // namespace ng::app
