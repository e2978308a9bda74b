// Instruments on a line: the protocol of docs/instruments.md, read from whatever arrives. Nothing that is
// garbled, stale or in a unit that is not understood becomes a reading; every such thing is said.
#pragma once
#include "units/result.h"
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace ng {

/// What an instrument says of itself.
struct InstrumentIdentity {
    std::string kind; ///< as of rows of a record: "tape", "caliper", "insulation tester", ...
    std::string serial;
    std::string calibrated_on, due_on; ///< dates
    std::string unit;
    std::optional<double> uncertainty; ///< expanded (k = 2), in its unit
    /// Whether its calibration was due before this day ("2026-11-28").
    bool was_due(const std::string& today) const { return !due_on.empty() && today > due_on; }
};

struct InstrumentReading {
    double value = 0; ///< mm of lengths; else in `unit`
    std::string unit; ///< "mm", "Mohm", "ohm", "mA", "pC", "degC"
    std::string sent; ///< as it came
    std::optional<std::int64_t> sequence;
    std::vector<std::string> remarks; ///< "sent in inches", "its battery is low"
};

/// What one line, or the lack of one, means.
struct InstrumentEvent {
    enum class Kind { identity, reading, trace, pulse, breakdown, ended, trouble } kind = Kind::trouble;
    InstrumentIdentity identity;
    InstrumentReading reading;           ///< of trace: what is read at the level
    double s = 0, level = 0;             ///< of trace
    std::string level_unit;              ///< of trace
    double phase_deg = 0, charge_pC = 0; ///< of pulses
    std::string words;                   ///< of trouble, for people
};

/// A line with its sum behind it: "=17 185.0 mm*3c".
std::string with_sum(const std::string& line);

/// Lines as they come, in whatever pieces.
class InstrumentReader {
  public:
    std::vector<InstrumentEvent> take(const std::string& bytes);

  private:
    std::optional<InstrumentEvent> line(std::string text);
    InstrumentEvent reading(const std::vector<std::string>& words, const std::string& text);
    std::string waiting_;
    bool skipping_ = false; ///< the rest of a line that is too long
    std::optional<std::int64_t> last_sequence_;
};

} // namespace ng
