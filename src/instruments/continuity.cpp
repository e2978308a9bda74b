// A stand-in for a continuity meter: ohms of the metallic screen through the accessory.
#include "instruments/terminal.h"

int main(int argc, char** argv) {
    using namespace ng::instrument;
    Manners manners;
    manners.kind = "continuity meter";
    manners.unit = "ohm";
    manners.uncertainty = 0.01;
    double ohm = 0.12;
    CLI::App app{"Simulated continuity meter: sends ohms over a pseudo-terminal."};
    app.add_option("--ohm", ohm, "Resistance of the loop")->check(CLI::Range(0.0, 1e7));
    manners.add_to(app, "needlegauge-continuity");
    CLI11_PARSE(app, argc, argv);
    Terminal terminal(manners);
    return terminal.serve(
        [&] { return std::max(0.0, ohm * (1 + terminal.noise(0.02)) + terminal.noise(0.003)); });
}
