// A stand-in for a tape reader: lengths along the cable, to half a millimetre.
#include "instruments/terminal.h"
#include <cmath>

int main(int argc, char** argv) {
    using namespace ng::instrument;
    Manners manners;
    manners.kind = "tape";
    manners.unit = "mm";
    manners.uncertainty = 0.5;
    double length_mm = 185, spread_mm = 0.3;
    CLI::App app{"Simulated tape reader: sends lengths over a pseudo-terminal."};
    app.add_option("--length", length_mm, "Length measured, mm")->check(CLI::Range(-5000.0, 5000.0));
    app.add_option("--spread", spread_mm, "Standard deviation of a reading, mm")
        ->check(CLI::Range(0.0, 20.0));
    manners.add_to(app, "needlegauge-tape");
    CLI11_PARSE(app, argc, argv);
    Terminal terminal(manners);
    return terminal.serve([&] { return std::round(2 * (length_mm + terminal.noise(spread_mm))) / 2; });
}
