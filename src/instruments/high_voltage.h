// A test that raises a voltage, holds it and lowers it, told over the line: "T LEVEL MINUTES HZ" begins it,
// "S" stops it. What is read at each instant is the instrument's.
#pragma once
#include "instruments/terminal.h"

namespace ng::instrument {

struct Instant {
    double s = 0, kV = 0, hz = 0;
    bool holding = false;
};
struct Shown {
    double reading = 0;
    std::string unit;
    bool broke_down = false;
    std::vector<std::pair<double, double>> pulses = {}; ///< phase in degrees, pC
};

/// Serves tests until input ends. `speed` of the manners shortens them.
int serve_tests(Terminal& terminal, double kV_per_s, const std::function<Shown(const Instant&)>& read,
                const std::function<double()>& idle);

} // namespace ng::instrument
