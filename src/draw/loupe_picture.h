// What the loupe shows: the section at its true shape with its field, one scale along and across.
#pragma once
#include "design/prepared.h"
#include "draw/theme.h"
#include "draw/view.h"
#include "field/solution.h"
#include <QImage>

namespace ng::draw {

constexpr double narrowest_loupe_mm = 0.05, widest_loupe_mm = 60;

struct LoupeLook {
    Point centre;          ///< in the section
    double across_mm = 12; ///< over the whole glass
    bool round = true, equipotentials = true, directions = false, mesh = false;
};

struct LoupePicture {
    QImage image; ///< `px` wide and high, transparent outside a round glass
    View view;    ///< in its pixels (device pixels)
    double full_scale_kV_per_mm = 1;
    double step_kV = 0;      ///< between equipotentials; 0: none drawn
    int triangles = 0;       ///< in view: how closely the mesh looks
    bool not_judged = false; ///< some of what is seen is not
};

/// Painted on any thread. `finer`: device pixels for each of the widget's.
LoupePicture loupe_picture(const PreparedDesign& prepared, const Solution& solution, const LoupeLook& look,
                           int px, const Theme& theme, double finer = 1);

} // namespace ng::draw
