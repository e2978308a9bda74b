// A pseudo-terminal that an instrument stands at: it prints its name, sends lines with their sums, takes
// commands, and has the faults of real ones when asked for. Protocol: docs/instruments.md.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>
#include <optional>
#include <random>
#include <string>

namespace ng::instrument {

/// What every stand-in can be told.
struct Manners {
    std::string kind, unit;
    double uncertainty = 0;
    std::string serial = "S-1", calibrated = "2026-06-01", due = "2027-06-01";
    unsigned seed = std::random_device{}();
    double drop = 0, garble = 0, stale = 0, nonsense = 0; ///< shares of lines
    bool low_battery = false;
    std::string wrong_unit; ///< that readings are said to be in
    double speed = 1;       ///< seconds of a test in one of the clock
    int count = 0;          ///< readings to send before it ends; 0: for ever
    double every_s = 0;     ///< sends readings by itself
    void add_to(CLI::App& app, const std::string& program);
};

class Terminal {
  public:
    explicit Terminal(Manners manners);
    ~Terminal();
    /// Nothing, and says so, when there is no pseudo-terminal.
    bool open();
    /// Sends the line with its sum, unless a fault of the line happens to it.
    void send(const std::string& line);
    /// A reading, numbered.
    void send_reading(double value);
    void send_identity();
    /// Readings as bare lines, "+012.34mm", without number and sum; it does not answer.
    void set_plain(bool plain) { plain_ = plain; }
    /// Waits for what comes first: a command from the line, Enter here (command "R"), or the time. "": the
    /// time; nothing: both have ended.
    std::optional<std::string> wait(double s);
    /// Uniform in [0, 1), normal.
    double chance() { return std::uniform_real_distribution<>(0, 1)(random_); }
    double noise(double sigma) { return sigma > 0 ? std::normal_distribution<>(0, sigma)(random_) : 0; }
    const Manners& manners() const { return manners_; }
    /// Reads `value` whenever it is asked for, until its count is reached or input ends.
    int serve(const std::function<double()>& value);

  private:
    Manners manners_;
    std::mt19937 random_;
    int master_ = -1, held_ = -1;
    long sequence_ = 0;
    double last_ = 0;
    bool input_ended_ = false, plain_ = false;
    std::string typed_, commands_;
};

} // namespace ng::instrument
