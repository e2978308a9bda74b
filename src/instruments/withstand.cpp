// A stand-in for a withstand set: AC, 0.1 Hz or DC; charging current of the cable, leakage, and a breakdown
// if told.
#include "instruments/high_voltage.h"
#include <cmath>
#include <numbers>

int main(int argc, char** argv) {
    using namespace ng::instrument;
    Manners manners;
    manners.kind = "withstand set";
    manners.unit = "mA";
    manners.uncertainty = 0.02;
    double capacitance_nF = 40, resistance_Mohm = 20000, breakdown_kV = 0, breakdown_s = 0;
    CLI::App app{"Simulated withstand set: raises, holds and lowers a voltage that is only a number, and "
                 "sends its trace."};
    app.add_option("--capacitance", capacitance_nF, "Of what is tested, nF")->check(CLI::Range(0.001, 1e5));
    app.add_option("--resistance", resistance_Mohm, "Of its insulation, megohm")
        ->check(CLI::Range(0.001, 1e8));
    app.add_option("--breakdown-kV", breakdown_kV, "Breaks down at this voltage (0: not)")
        ->check(CLI::Range(0.0, 1e3));
    app.add_option("--breakdown-s", breakdown_s, "Breaks down after so many seconds (0: not)")
        ->check(CLI::Range(0.0, 1e5));
    manners.add_to(app, "needlegauge-withstand");
    CLI11_PARSE(app, argc, argv);
    Terminal terminal(manners);
    const auto read = [&](const Instant& i) {
        const double charging_mA = 2 * std::numbers::pi * i.hz * capacitance_nF * i.kV * 1e-3;
        const double leakage_mA = i.kV / resistance_Mohm;
        Shown out{std::hypot(charging_mA, leakage_mA) * (1 + terminal.noise(0.01)), "mA"};
        out.broke_down =
            (breakdown_kV > 0 && i.kV >= breakdown_kV) || (breakdown_s > 0 && i.s >= breakdown_s);
        return out;
    };
    return serve_tests(terminal, 1, read, [] { return 0.0; });
}
