// One message over the upper rim of the strips: nothing moves when it comes.
#pragma once
#include <QFrame>
#include <functional>

class QLabel;
class QPushButton;

namespace ng::app {

class Banner : public QFrame {
    Q_OBJECT
  public:
    explicit Banner(QWidget* parent);
    QString text() const; ///< empty: it is not shown
    void say(const QString& text);
    /// Beside what it says, one thing that can be done about it; it goes when that has been done.
    void offer(const QString& label, std::function<void()> action);
    void withdraw(const QString& text); ///< goes if it says this
    void set_dismissible(bool dismissible);

  signals:
    void shown(); ///< it wants its place

  private:
    QLabel* text_;
    QPushButton *action_, *dismiss_;
    std::function<void()> acts_;
};

} // namespace ng::app
