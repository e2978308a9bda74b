// What a right click offers: on a strip what can be done at that place, on a check where it lies and how it
// is computed, on the rows of any list or table their text.
#pragma once
#include <QMenu>
#include <QObject>
#include <QPoint>

class QAbstractItemView;

namespace ng::app {

class MainWindow;
class VerdictRow;

class ContextMenus : public QObject {
    Q_OBJECT
  public:
    explicit ContextMenus(MainWindow& window);
    /// The menu for a place of a widget of the window; null: it has none of its own.
    QMenu* menu_for(QWidget* widget, QPoint at);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    QMenu* of_strip(QWidget* strip, QPoint at);
    QMenu* of_check(VerdictRow* row);
    QMenu* of_rows(QAbstractItemView* view, QPoint at);
    MainWindow& window_;
};

} // namespace ng::app
