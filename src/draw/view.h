// Where millimetres of the section fall on a picture: one longitudinal scale shared by all strips, one radial
// scale of each strip's own.
#pragma once
#include "section/section.h"
#include <QPointF>

namespace ng::draw {

struct View {
    double x_of_datum_px = 0; ///< pixel of the datum (cable end)
    double datum_z_mm = 0;    ///< z of the datum in the section shown
    double z_scale_px = 1;    ///< pixels per mm along the cable
    double axis_y_px = 0;     ///< pixel of r = r0
    double r0_mm = 0;         ///< radius at the axis side of the strip
    double r_scale_px = -1;   ///< pixels per mm of radius; negative: upwards

    double x(double z_mm) const { return x_of_datum_px + (z_mm - datum_z_mm) * z_scale_px; }
    double y(double r_mm) const { return axis_y_px + (r_mm - r0_mm) * r_scale_px; }
    double z_at(double x_px) const { return datum_z_mm + (x_px - x_of_datum_px) / z_scale_px; }
    double r_at(double y_px) const { return r0_mm + (y_px - axis_y_px) / r_scale_px; }
    QPointF map(Point p) const { return {x(p.z), y(p.r)}; }
};

} // namespace ng::draw
