#include "instruments/terminal.h"
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <termios.h>
#include <thread>
#include <unistd.h>

namespace ng::instrument {

void Manners::add_to(CLI::App& app, const std::string& program) {
    const auto share = CLI::Range(0.0, 1.0);
    app.add_option("--serial", serial, "Number on it");
    app.add_option("--calibrated", calibrated, "Date of its calibration");
    app.add_option("--due", due, "Date of the next: one that is past is a fault");
    app.add_option("--seed", seed, "Seed of noise and faults");
    app.add_option("--drop", drop, "Share of lines that are lost")->check(share);
    app.add_option("--garble", garble, "Share of lines that are cut or garbled")->check(share);
    app.add_option("--stale", stale, "Share of readings that hold the last one")->check(share);
    app.add_option("--nonsense", nonsense, "Share of lines that are no lines of it")->check(share);
    app.add_flag("--low-battery", low_battery, "Its battery is low");
    app.add_option("--wrong-unit", wrong_unit, "Readings are said to be in this unit");
    app.add_option("--speed", speed, "Seconds of a test in one of the clock")->check(CLI::Range(0.01, 1e5));
    app.add_option("--count", count, "Stop after so many readings (0: never)")->check(CLI::Range(0, 100000));
    app.add_option("--every", every_s, "Read by itself every so many seconds")
        ->check(CLI::Range(0.0, 3600.0));
    app.set_version_flag("--version", program + " " NEEDLEGAUGE_VERSION);
}

Terminal::Terminal(Manners manners) : manners_(std::move(manners)), random_(manners_.seed) {}

Terminal::~Terminal() {
    for (const int fd : {master_, held_})
        if (fd >= 0) close(fd);
}

bool Terminal::open() {
    master_ = posix_openpt(O_RDWR | O_NOCTTY);
    const char* name =
        master_ >= 0 && grantpt(master_) == 0 && unlockpt(master_) == 0 ? ptsname(master_) : nullptr;
    // Held open and raw, so that readings are neither echoed nor lost while nobody listens.
    held_ = name ? ::open(name, O_RDWR | O_NOCTTY) : -1;
    termios raw{};
    if (held_ < 0 || tcgetattr(held_, &raw) != 0) {
        fmt::print(stderr, "No pseudo-terminal could be opened.\n");
        return false;
    }
    cfmakeraw(&raw);
    tcsetattr(held_, TCSANOW, &raw);
    fmt::print("{} on {}\n", manners_.kind, name);
    if (manners_.every_s <= 0) fmt::print("Enter sends a reading, Ctrl+D ends.\n");
    std::fflush(stdout);
    return true;
}

void Terminal::send(const std::string& line) {
    unsigned sum = 0;
    for (const unsigned char c : line) sum = (sum + c) & 0xff;
    auto text = fmt::format("{}*{:02x}\r\n", line, sum);
    if (chance() < manners_.nonsense) text = "\x7f\x01?? \xfe\xff HELLO 7,,\r\n" + text;
    if (chance() < manners_.drop) return;
    if (chance() < manners_.garble) text = text.substr(0, text.size() / 2) + "\r\n";
    if (write(master_, text.data(), text.size()) < 0) return; // nobody takes it: as on a real line
}

void Terminal::send_reading(double value) {
    if (plain_) {
        const auto text = fmt::format("{:+08.2f}mm\r\n", value);
        if (write(master_, text.data(), text.size()) < 0) return;
        return;
    }
    if (sequence_ == 0 || chance() >= manners_.stale) {
        ++sequence_;
        last_ = value;
    }
    send(fmt::format("={} {:.6g} {}{}", sequence_, last_,
                     manners_.wrong_unit.empty() ? manners_.unit : manners_.wrong_unit,
                     manners_.low_battery ? " low-battery" : ""));
}

void Terminal::send_identity() {
    if (plain_) return;
    auto kind = manners_.kind;
    for (auto& c : kind)
        if (c == ' ') c = '_';
    send(fmt::format("!kind={} serial={} calibrated={} due={} unit={} u={:g}", kind, manners_.serial,
                     manners_.calibrated, manners_.due, manners_.unit, manners_.uncertainty));
}

std::optional<std::string> Terminal::wait(double s) {
    const auto until = std::chrono::steady_clock::now() + std::chrono::duration<double>(s);
    for (;;) {
        for (auto* text : {&commands_, &typed_}) {
            const auto end = text->find('\n');
            if (end == std::string::npos) continue;
            auto command = text->substr(0, end);
            text->erase(0, end + 1);
            if (!command.empty() && command.back() == '\r') command.pop_back();
            if (text == &typed_ && command.empty()) return "R";
            if (!command.empty()) return command;
        }
        const auto left =
            std::chrono::duration<double, std::milli>(until - std::chrono::steady_clock::now()).count();
        if (left <= 0) return "";
        pollfd ends[2]{{master_, POLLIN, 0}, {input_ended_ ? -1 : STDIN_FILENO, POLLIN, 0}};
        poll(ends, 2, static_cast<int>(std::ceil(std::min(left, 1000.0))));
        char piece[256];
        if (ends[0].revents & POLLIN)
            if (const auto n = read(master_, piece, sizeof piece); n > 0)
                commands_.append(piece, static_cast<std::size_t>(n));
        if (ends[1].revents & (POLLIN | POLLHUP)) {
            const auto n = read(STDIN_FILENO, piece, sizeof piece);
            if (n > 0)
                typed_.append(piece, static_cast<std::size_t>(n));
            else if (n == 0)
                input_ended_ = true;
        }
        if (input_ended_ && manners_.every_s <= 0 && s > 1000) return std::nullopt;
    }
}

int Terminal::serve(const std::function<double()>& value) {
    if (!open()) return 3;
    for (int sent = 0; manners_.count == 0 || sent < manners_.count;) {
        const auto command = wait(manners_.every_s > 0 ? manners_.every_s : 1e9);
        if (!command) break;
        if (*command == "?") {
            send_identity();
        } else if (*command == "R" || command->empty()) {
            send_reading(value());
            ++sent;
        }
    }
    if (manners_.every_s > 0) std::this_thread::sleep_for(std::chrono::seconds(2)); // time to be read
    return 0;
}

} // namespace ng::instrument
