// BUILD: the section above the axis, with labels and handles that can be dragged.
#pragma once
#include "app/strips/strip.h"
#include "draw/section_picture.h"
#include "plan/whole_end.h"
#include <QToolButton>

namespace ng::app {

class BuildStrip : public Strip {
    Q_OBJECT
  public:
    explicit BuildStrip(Session& session, QWidget* parent = nullptr);
    /// Pixel of a handle, for tests and for the pointer; null point when it is not there.
    QPointF handle_place(const std::string& key) const;

  protected:
    void paint(QPainter& painter) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    const PreparedDesign* shown() const;
    draw::View shown_view() const;
    const Handle* handle_at(QPointF p) const;
    void drag_to(double x_px, bool free); ///< free: to hundredths, not to what hands measure

    void place_toggle();
    bool is_whole() const { return session_.whole_end() && session_.plan() && shown(); }
    const WholeEnd& whole() const;
    Point on_core(Point p) const; ///< of the whole end: handles stand on the shortest core

    QToolButton* toggle_;
    std::shared_ptr<const PreparedDesign> last_good_;
    mutable std::shared_ptr<const CutPlan> whole_of_; ///< the plan that `whole_` was drawn from
    mutable WholeEnd whole_;
    std::string dragged_, hovered_;
    QString dragged_label_;
    double grab_offset_px_ = 0;
    double at_datum_mm_ = 0, per_mm_ = -1; ///< of the dragged handle
};

} // namespace ng::app
