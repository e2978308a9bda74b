#include "app/model/axis_model.h"
#include <algorithm>

namespace ng::app {

void AxisModel::set_width(double width_px) {
    if (width_px == width_) return;
    width_ = width_px;
    if (fitted_)
        fit();
    else
        emit view_changed();
}

void AxisModel::set_limits(double u0_mm, double u1_mm) {
    limit0_ = u0_mm;
    limit1_ = u1_mm; // the view stays: a scale that moved under a dragged handle would drag it on
}

void AxisModel::fit() {
    fitted_ = true;
    left_u_ = limit0_;
    scale_ = std::max(50.0, width_ - gutter_px - margin_px) / std::max(1.0, limit1_ - limit0_);
    emit view_changed();
}

void AxisModel::zoom(double x_px, double factor) {
    const double anchor = u(x_px);
    scale_ = std::clamp(scale_ * factor, 0.05, 400.0);
    left_u_ = anchor - (x_px - gutter_px) / scale_;
    fitted_ = false;
    emit view_changed();
}

void AxisModel::pan(double dx_px) {
    left_u_ -= dx_px / scale_;
    fitted_ = false;
    emit view_changed();
}

void AxisModel::set_needle(double u_mm) {
    needle_u_ = std::clamp(u_mm, limit0_, limit1_);
    emit needle_changed();
}

} // namespace ng::app
