// The one longitudinal axis that all strips share, and the needle on it. Axis coordinate u: mm from the datum
// (cable end), negative along the cable, so that the cable stays still while the screen edge is dragged.
#pragma once
#include <QObject>

namespace ng::app {

class AxisModel : public QObject {
    Q_OBJECT
  public:
    static constexpr double gutter_px = 58; ///< room for scales at the left of every strip
    static constexpr double margin_px = 10; ///< at the right

    using QObject::QObject;
    double x(double u_mm) const { return gutter_px + (u_mm - left_u_) * scale_; }
    double u(double x_px) const { return left_u_ + (x_px - gutter_px) / scale_; }
    double scale() const { return scale_; }
    double left_u() const { return left_u_; }
    double right_u() const { return u(width_ - margin_px); }
    double needle_u() const { return needle_u_; }
    double width() const { return width_; }

    void set_width(double width_px);
    void set_limits(double u0_mm, double u1_mm); ///< what fit() shows the next time
    void fit();
    void zoom(double x_px, double factor);
    void pan(double dx_px);
    void set_needle(double u_mm);

  signals:
    void view_changed();
    void needle_changed();

  private:
    double left_u_ = -350, scale_ = 2, width_ = 800, needle_u_ = -230;
    double limit0_ = -350, limit1_ = 20;
    bool fitted_ = true; ///< follows the window and the design until the user zooms or pans
};

} // namespace ng::app
