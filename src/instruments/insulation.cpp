// A stand-in for an insulation tester: megohms that rise while the insulation takes its charge.
#include "instruments/high_voltage.h"
#include <cmath>

int main(int argc, char** argv) {
    using namespace ng::instrument;
    Manners manners;
    manners.kind = "insulation tester";
    manners.unit = "Mohm";
    manners.uncertainty = 50;
    double one_minute_Mohm = 8000, index = 2.0;
    CLI::App app{"Simulated insulation tester: sends megohms over a pseudo-terminal."};
    app.add_option("--megohm", one_minute_Mohm, "After one minute")->check(CLI::Range(0.001, 1e7));
    app.add_option("--index", index, "Ten minutes over one (polarisation index)")
        ->check(CLI::Range(0.5, 10.0));
    manners.add_to(app, "needlegauge-insulation");
    CLI11_PARSE(app, argc, argv);
    Terminal terminal(manners);
    const auto at = [&](double s) {
        return one_minute_Mohm * std::pow(std::max(s, 1.0) / 60, std::log10(index)) *
               (1 + terminal.noise(0.01));
    };
    return serve_tests(
        terminal, 5,
        [&](const Instant& i) {
            return Shown{at(i.s), "Mohm"};
        },
        [&] { return at(60); });
}
