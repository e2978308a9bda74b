#include "instruments/high_voltage.h"
#include <cmath>
#include <fmt/format.h>
#include <sstream>

namespace ng::instrument {

namespace {

constexpr double step_s = 1; // of the trace

/// One test from zero to zero; whether it ended by itself.
bool run(Terminal& terminal, double level_kV, double minutes, double hz, double kV_per_s,
         const std::function<Shown(const Instant&)>& read) {
    const double up_s = level_kV / kV_per_s, hold_s = 60 * minutes;
    bool ended = true;
    double s = 0;
    for (; s <= 2 * up_s + hold_s + step_s; s += step_s) {
        const double kV = s < up_s ? kV_per_s * s
                          : s <= up_s + hold_s + step_s
                              ? level_kV
                              : std::max(0.0, level_kV - kV_per_s * (s - up_s - hold_s - step_s));
        const auto shown = read({s, kV, hz, s >= up_s && s <= up_s + hold_s});
        for (const auto& [phase, charge] : shown.pulses)
            terminal.send(fmt::format("^{:.1f} {:.3g} pC", phase, charge));
        terminal.send(fmt::format("~{:.1f} {:.4g} kV {:.5g} {}", s, shown.broke_down ? 0 : kV, shown.reading,
                                  shown.unit));
        if (shown.broke_down) {
            terminal.send("#breakdown");
            return true;
        }
        const auto command = terminal.wait(step_s / terminal.manners().speed);
        if (!command || *command == "S") {
            ended = command.has_value();
            break;
        }
        if (*command == "?") terminal.send_identity();
    }
    terminal.send("#ended");
    return ended;
}

} // namespace

int serve_tests(Terminal& terminal, double kV_per_s, const std::function<Shown(const Instant&)>& read,
                const std::function<double()>& idle) {
    if (!terminal.open()) return 3;
    for (;;) {
        const auto command = terminal.wait(1e9);
        if (!command) return 0;
        std::istringstream words(*command);
        std::string what;
        words >> what;
        if (what == "?") terminal.send_identity();
        if (what == "R") terminal.send_reading(idle());
        double level = 0, minutes = 0, hz = 0;
        if (what == "T" && words >> level >> minutes >> hz && level > 0 && level < 500 && minutes >= 0 &&
            minutes < 600)
            if (!run(terminal, level, minutes, hz, kV_per_s, read)) return 0;
    }
}

} // namespace ng::instrument
