#include "record/instrument.h"
#include "units/quantity.h"
#include "units/text.h"
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr std::size_t longest_line = 200;

std::optional<double> number(std::string_view text) {
    if (text.starts_with('+')) text.remove_prefix(1);
    double value = 0;
    const auto [end, failed] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (failed != std::errc() || end != text.data() + text.size() || !std::isfinite(value))
        return std::nullopt;
    return value;
}

std::optional<std::int64_t> whole(std::string_view text) {
    std::int64_t value = 0;
    const auto [end, failed] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (failed != std::errc() || end != text.data() + text.size() || value < 0) return std::nullopt;
    return value;
}

std::vector<std::string> words_of(const std::string& text) {
    std::vector<std::string> out;
    std::string word;
    for (const char c : text + " ") {
        if (c != ' ') {
            word += c;
        } else if (!word.empty()) {
            out.push_back(std::move(word));
            word.clear();
        }
    }
    return out;
}

unsigned sum_of(std::string_view text) {
    unsigned sum = 0;
    for (const unsigned char c : text) sum = (sum + c) & 0xff;
    return sum;
}

InstrumentEvent trouble(std::string words) {
    InstrumentEvent out;
    out.words = std::move(words);
    return out;
}

/// In the unit that the program works in; none: it is not understood.
std::optional<std::pair<double, std::string>> understood(double value, const std::string& unit) {
    if (unit == "mm") return std::pair{value, unit};
    if (unit == "in") return std::pair{value * mm_per_inch, std::string("mm")};
    if (unit == "cm") return std::pair{value * 10, std::string("mm")};
    if (unit == "Gohm") return std::pair{value * 1000, std::string("Mohm")};
    if (unit == "kohm") return std::pair{value / 1000, std::string("Mohm")};
    if (unit == "mohm") return std::pair{value / 1000, std::string("ohm")};
    if (unit == "uA") return std::pair{value / 1000, std::string("mA")};
    if (unit == "nC") return std::pair{value * 1000, std::string("pC")};
    for (const char* known : {"Mohm", "ohm", "mA", "pC", "degC", "Nm", "%"})
        if (unit == known) return std::pair{value, unit};
    return std::nullopt;
}

InstrumentEvent identity(const std::vector<std::string>& words) {
    InstrumentEvent out;
    out.kind = InstrumentEvent::Kind::identity;
    for (const auto& word : words) {
        const auto at = word.find('=');
        if (at == std::string::npos) continue;
        auto key = word.substr(0, at), value = word.substr(at + 1);
        for (auto& c : value)
            if (c == '_') c = ' ';
        if (key == "kind") out.identity.kind = value;
        if (key == "serial") out.identity.serial = value;
        if (key == "calibrated") out.identity.calibrated_on = value;
        if (key == "due") out.identity.due_on = value;
        if (key == "unit") out.identity.unit = value;
        if (key == "u") out.identity.uncertainty = number(value);
    }
    return out;
}

} // namespace

std::string with_sum(const std::string& line) {
    return fmt::format("{}*{:02x}", line, sum_of(line));
}

std::vector<InstrumentEvent> InstrumentReader::take(const std::string& bytes) {
    std::vector<InstrumentEvent> out;
    for (const char c : bytes) {
        if (c != '\n' && c != '\r') {
            if (skipping_) continue;
            waiting_ += c;
            if (waiting_.size() <= longest_line) continue;
            waiting_.clear();
            skipping_ = true;
            out.push_back(trouble("what arrives is no line of an instrument"));
            continue;
        }
        if (!skipping_ && !trimmed(waiting_).empty())
            if (auto event = line(trimmed(waiting_))) out.push_back(std::move(*event));
        waiting_.clear();
        skipping_ = false;
    }
    return out;
}

InstrumentEvent InstrumentReader::reading(const std::vector<std::string>& words, const std::string& text) {
    const auto sequence = whole(words[0]);
    const auto value = number(words[1]);
    if (!sequence || !value) return trouble(fmt::format("“{}” is no reading", one_line(text, 40)));
    const auto in_unit = understood(*value, words[2]);
    if (!in_unit)
        return trouble(
            fmt::format("it sends “{}”, which is no unit known here: not taken", one_line(words[2], 20)));
    if (last_sequence_ && *sequence == *last_sequence_)
        return trouble(
            fmt::format("reading {} came a second time: it holds its last value; not taken", *sequence));
    InstrumentEvent out;
    out.kind = InstrumentEvent::Kind::reading;
    out.reading = {in_unit->first, in_unit->second, text, sequence, {}};
    if (words[2] != in_unit->second) out.reading.remarks.push_back("sent in " + words[2]);
    if (last_sequence_ && *sequence > *last_sequence_ + 1)
        out.reading.remarks.push_back(
            *sequence == *last_sequence_ + 2
                ? fmt::format("reading {} was lost on the line", *sequence - 1)
                : fmt::format("readings {} to {} were lost on the line", *last_sequence_ + 1, *sequence - 1));
    for (std::size_t i = 3; i < words.size(); ++i)
        if (words[i] == "low-battery") out.reading.remarks.emplace_back("its battery is low");
    last_sequence_ = *sequence;
    return out;
}

std::optional<InstrumentEvent> InstrumentReader::line(std::string text) {
    const char mark = text[0];
    const auto nonsense = [&] { return trouble(fmt::format("“{}” is no reading", one_line(text, 40))); };
    if (std::string_view("!=~^#").find(mark) == std::string_view::npos) {
        // A keyboard caliper: "+012.34mm" and nothing else.
        auto plain = text;
        if (plain.starts_with('+')) plain.erase(0, 1);
        const auto value = parse_length_mm(plain, LengthUnit::mm, "instrument");
        if (!value || !(*value > 0)) return nonsense();
        InstrumentEvent out;
        out.kind = InstrumentEvent::Kind::reading;
        out.reading = {*value, "mm", text, {}, {}};
        return out;
    }
    const auto star = text.rfind('*');
    if (star == std::string::npos || text.size() != star + 3 ||
        text.substr(star + 1) != fmt::format("{:02x}", sum_of(std::string_view(text).substr(0, star))))
        return trouble("a line was cut or garbled on the way: measure again");
    const auto words = words_of(text.substr(1, star - 1));
    if (mark == '!') return identity(words);
    if (mark == '=') return words.size() < 3 ? nonsense() : reading(words, text.substr(0, star));
    if (mark == '#' && words.size() == 1) {
        InstrumentEvent out;
        out.kind = words[0] == "breakdown" ? InstrumentEvent::Kind::breakdown : InstrumentEvent::Kind::ended;
        if (words[0] == "breakdown" || words[0] == "ended") return out;
        return nonsense();
    }
    InstrumentEvent out;
    if (mark == '^' && words.size() == 3) {
        const auto phase = number(words[0]), charge = number(words[1]);
        if (!phase || !charge || words[2] != "pC") return nonsense();
        out.kind = InstrumentEvent::Kind::pulse;
        out.phase_deg = *phase;
        out.charge_pC = *charge;
        return out;
    }
    if (mark == '~' && words.size() == 5) {
        const auto s = number(words[0]), level = number(words[1]), value = number(words[3]);
        if (!s || !level || !value) return nonsense();
        const auto in_unit = understood(*value, words[4]);
        if (!in_unit)
            return trouble(
                fmt::format("it sends “{}”, which is no unit known here: not taken", one_line(words[4], 20)));
        out.kind = InstrumentEvent::Kind::trace;
        out.s = *s;
        out.level = *level;
        out.level_unit = words[2];
        out.reading = {in_unit->first, in_unit->second, text.substr(0, star), {}, {}};
        return out;
    }
    return nonsense();
}

} // namespace ng
