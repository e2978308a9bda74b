// A strip on the shared axis: wheel zooms, Shift-drag or middle drag pans, a click or drag moves the needle.
#pragma once
#include "app/model/session.h"
#include "draw/view.h"
#include <QWidget>

namespace ng::app {

/// Axis manners for any widget that shares the axis.
class AxisMouse : public QObject {
    Q_OBJECT
  public:
    AxisMouse(Session& session, QWidget* widget);
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    Session& session_;
    QWidget* widget_;
    enum class Drag { none, needle, pan } drag_ = Drag::none;
    double last_x_ = 0;
};

class Strip : public QWidget {
    Q_OBJECT
  public:
    Strip(Session& session, const QString& name, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent* event) override;
    virtual void paint(QPainter& painter) = 0;
    /// Whether it changes with the design itself, not only with its field.
    virtual bool shows_design() const { return true; }
    void resizeEvent(QResizeEvent* event) override;
    /// Room right of the gutter.
    QRectF plot() const;
    /// View of a section, its axis side at the strip's bottom (upwards) or top edge.
    draw::View view(const BuiltAccessory& built, bool upwards) const;
    void paint_needle(QPainter& painter) const;

    Session& session_;
    QString name_;
};

} // namespace ng::app
