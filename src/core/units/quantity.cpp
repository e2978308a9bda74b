#include "units/quantity.h"
#include "units/text.h"
#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>
#include <locale>
#include <optional>
#include <sstream>

namespace ng {
namespace {

std::string lowered(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return std::tolower(c); });
    return text;
}

/// A plain decimal, a fraction "1/8" or a mixed number "2 1/8"; nothing may follow.
std::optional<double> parse_mixed_number(const std::string& text) {
    std::istringstream in(text);
    in.imbue(std::locale::classic());
    double value = 0;
    if (!(in >> value)) return std::nullopt;
    auto denominator = [&in]() -> std::optional<double> {
        double bottom = 0;
        if (!(in >> bottom) || bottom <= 0) return std::nullopt;
        return bottom;
    };
    in >> std::ws;
    if (in.peek() == '/') {
        in.get();
        auto bottom = denominator();
        if (!bottom) return std::nullopt;
        value /= *bottom;
    } else if (!in.eof() && std::isdigit(in.peek()) && value == std::floor(value)) {
        double top = 0;
        char slash = 0;
        if (!(in >> top >> slash) || slash != '/') return std::nullopt;
        auto bottom = denominator();
        if (!bottom) return std::nullopt;
        value += std::copysign(top / *bottom, value);
    }
    in >> std::ws;
    if (!in.eof() || !std::isfinite(value)) return std::nullopt;
    return value;
}

struct Split {
    std::string number;
    std::string unit;
};

Split split_unit(const std::string& text) {
    auto last = text.find_last_of("0123456789.");
    if (last == std::string::npos) return {text, ""};
    return {trimmed(text.substr(0, last + 1)), trimmed(text.substr(last + 1))};
}

} // namespace

Result<double> parse_length_mm(std::string_view text, LengthUnit bare_unit, std::string_view item) {
    const auto parts = split_unit(lowered(trimmed(text)));
    double scale = bare_unit == LengthUnit::mm ? 1.0 : mm_per_inch;
    if (parts.unit == "mm")
        scale = 1.0;
    else if (parts.unit == "cm")
        scale = 10.0;
    else if (parts.unit == "m")
        scale = 1000.0;
    else if (parts.unit == "in" || parts.unit == "inch" || parts.unit == "inches" || parts.unit == "\"")
        scale = mm_per_inch;
    else if (parts.unit == "mil" || parts.unit == "mils")
        scale = mm_per_inch / 1000.0;
    else if (!parts.unit.empty())
        return refuse(std::string(item), fmt::format("“{}” is not a unit of length", parts.unit),
                      "Use mm, cm, m, in or mil");
    const auto number = parse_mixed_number(parts.number);
    if (!number)
        return refuse(std::string(item), fmt::format("“{}” is not a length", trimmed(text)),
                      "Type a number with a unit, such as 12.5 mm, 0.175 in or 2 1/8 in");
    const double length_mm = *number * scale;
    if (!std::isfinite(length_mm) || std::abs(length_mm) > 1e5)
        return refuse(std::string(item), fmt::format("{} is beyond any cable accessory", trimmed(text)),
                      "Check the unit");
    return length_mm;
}

Result<double> parse_voltage_kV(std::string_view text, std::string_view item) {
    const auto parts = split_unit(lowered(trimmed(text)));
    double scale = 1.0;
    if (parts.unit == "v")
        scale = 1e-3;
    else if (!parts.unit.empty() && parts.unit != "kv")
        return refuse(std::string(item), fmt::format("“{}” is not a unit of voltage", parts.unit),
                      "Use kV or V");
    const auto number = parse_mixed_number(parts.number);
    if (!number)
        return refuse(std::string(item), fmt::format("“{}” is not a voltage", trimmed(text)),
                      "Type a number with a unit, such as 8.7 kV");
    return *number * scale;
}

Result<double> parse_number(std::string_view text, std::string_view suffix, std::string_view item) {
    const auto parts = split_unit(trimmed(text));
    const auto number = parse_mixed_number(parts.number);
    if (!number || (!parts.unit.empty() && lowered(parts.unit) != lowered(std::string(suffix))))
        return refuse(std::string(item), fmt::format("“{}” is not a number", trimmed(text)),
                      suffix.empty() ? "Type a plain number"
                                     : fmt::format("Type a number, {} may stand behind it", suffix));
    return *number;
}

std::string format_length(double length_mm, LengthUnit unit, bool with_unit) {
    double value = unit == LengthUnit::mm ? length_mm : length_mm / mm_per_inch;
    const int decimals = unit == LengthUnit::inch ? 3 : std::abs(value) < 99.995 ? 2 : 1;
    if (std::abs(value) < 0.5 * std::pow(10.0, -decimals)) value = 0.0; // no "-0.00"
    return fmt::format("{:.{}f}{}", value, decimals,
                       with_unit ? (unit == LengthUnit::mm ? " mm" : " in") : "");
}

std::string format_figures(double value, int figures) {
    if (!std::isfinite(value)) return "–";
    if (value == 0) return "0";
    const int magnitude = static_cast<int>(std::floor(std::log10(std::abs(value))));
    if (magnitude < -4 || magnitude > 6) return fmt::format("{:.{}e}", value, figures - 1);
    const int decimals = std::max(0, figures - 1 - magnitude);
    return fmt::format("{:.{}f}", value, decimals);
}

std::string format_supported(double value, double relative_error) {
    return format_figures(value, relative_error < 0.01 ? 3 : 2);
}

} // namespace ng
