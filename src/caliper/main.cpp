// A stand-in for a caliper with a serial output: opens a pseudo-terminal, prints its name, and sends a
// reading a line whenever Enter is pressed here, or at a steady pace.
#include <CLI/CLI.hpp>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <fcntl.h>
#include <fmt/format.h>
#include <iostream>
#include <poll.h>
#include <random>
#include <string>
#include <termios.h>
#include <thread>
#include <unistd.h>

int main(int argc, char** argv) {
    double diameter_mm = 25, oval_mm = 0.1, spread_mm = 0.03, every_s = 0;
    int count = 0;
    unsigned seed = std::random_device{}();
    CLI::App app{"Simulated caliper: sends readings over a pseudo-terminal as a serial instrument does."};
    app.add_option("--diameter", diameter_mm, "Diameter measured, mm")->check(CLI::Range(0.1, 500.0));
    app.add_option("--oval", oval_mm,
                   "Difference between two directions, mm; every other reading is taken across")
        ->check(CLI::Range(0.0, 20.0));
    app.add_option("--spread", spread_mm, "Standard deviation of a reading, mm")->check(CLI::Range(0.0, 5.0));
    app.add_option("--every", every_s, "Send by itself every so many seconds instead of on Enter")
        ->check(CLI::Range(0.0, 3600.0));
    app.add_option("--count", count, "Stop after so many readings (0: never)")->check(CLI::Range(0, 100000));
    app.add_option("--seed", seed, "Seed of the spread");
    app.set_version_flag("--version", "needlegauge-caliper " NEEDLEGAUGE_VERSION);
    CLI11_PARSE(app, argc, argv);

    const int terminal = posix_openpt(O_RDWR | O_NOCTTY);
    if (terminal < 0 || grantpt(terminal) != 0 || unlockpt(terminal) != 0) {
        fmt::print(stderr, "No pseudo-terminal could be opened.\n");
        return 3;
    }
    const char* name = ptsname(terminal);
    // Held open and raw, so that readings are neither echoed nor lost while nobody listens.
    const int held = open(name, O_RDWR | O_NOCTTY);
    termios raw{};
    if (held < 0 || tcgetattr(held, &raw) != 0) return 3;
    cfmakeraw(&raw);
    tcsetattr(held, TCSANOW, &raw);
    fmt::print("caliper on {}\n", name);
    if (every_s <= 0) fmt::print("Enter sends a reading, Ctrl+D ends.\n");
    std::fflush(stdout);

    std::mt19937 generator(seed);
    std::normal_distribution<> noise(0, spread_mm);
    for (int sent = 0; count == 0 || sent < count; ++sent) {
        if (every_s > 0) {
            std::this_thread::sleep_for(std::chrono::duration<double>(every_s));
        } else {
            std::string line;
            if (!std::getline(std::cin, line)) break;
        }
        const double value =
            diameter_mm + (sent % 2 ? -oval_mm : oval_mm) / 2 + (spread_mm > 0 ? noise(generator) : 0);
        const auto text = fmt::format("{:+08.2f}mm\r\n", value);
        if (write(terminal, text.data(), text.size()) < 0) return 3;
    }
    if (every_s > 0) std::this_thread::sleep_for(std::chrono::seconds(2)); // time to be read
    return 0;
}
