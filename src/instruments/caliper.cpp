// A stand-in for a caliper with a serial output: plain lines, "+012.34mm", as such calipers send them.
#include "instruments/terminal.h"

int main(int argc, char** argv) {
    using namespace ng::instrument;
    Manners manners;
    manners.kind = "caliper";
    manners.unit = "mm";
    manners.uncertainty = 0.03;
    double diameter_mm = 25, oval_mm = 0.1, spread_mm = 0.03;
    bool numbered = false;
    CLI::App app{"Simulated caliper: sends readings over a pseudo-terminal as a serial instrument does."};
    app.add_option("--diameter", diameter_mm, "Diameter measured, mm")->check(CLI::Range(0.1, 500.0));
    app.add_option("--oval", oval_mm,
                   "Difference between two directions, mm; every other reading is taken across")
        ->check(CLI::Range(0.0, 20.0));
    app.add_option("--spread", spread_mm, "Standard deviation of a reading, mm")->check(CLI::Range(0.0, 5.0));
    app.add_flag("--numbered", numbered, "Send numbered lines with sums, and say what it is when asked");
    manners.add_to(app, "needlegauge-caliper");
    CLI11_PARSE(app, argc, argv);
    Terminal terminal(manners);
    terminal.set_plain(!numbered);
    int taken = 0;
    return terminal.serve(
        [&] { return diameter_mm + (taken++ % 2 ? -oval_mm : oval_mm) / 2 + terminal.noise(spread_mm); });
}
