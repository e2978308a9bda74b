#include "units/quantity.h"
#include "units/text.h"
#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>
#include <locale>
#include <optional>
#include <regex>
#include <sstream>

namespace ng {
namespace {

/// Decimals by what is typed: "0,9" and "0.9" are one number, "1.234,5" and "1,234.5" too. Nothing where both
/// could be meant ("1,234") or groups are not of three figures.
std::optional<std::string> with_point(std::string number) {
    const auto digits = [](std::string_view t) {
        return !t.empty() && std::all_of(t.begin(), t.end(), [](unsigned char c) { return std::isdigit(c); });
    };
    const auto comma = number.rfind(','), point = number.rfind('.');
    if (comma == std::string::npos) return number;
    const bool both = point != std::string::npos;
    const char group = !both || point > comma ? ',' : '.', mark = group == ',' && both ? '.' : ',';
    const auto at = number.rfind(mark);
    auto whole = number.substr(0, at), part = number.substr(at + 1);
    if (!both) { // one comma, which is a decimal mark unless it could part thousands
        if (std::count(number.begin(), number.end(), ',') > 1 || part.empty() ||
            !std::isdigit(static_cast<unsigned char>(part[0])))
            return std::nullopt;
        const auto sign = whole.find_first_not_of("+-");
        const auto figures = sign == std::string::npos ? std::string() : whole.substr(sign);
        if (part.size() == 3 && digits(part) && digits(figures) && figures.size() <= 3 && figures[0] != '0')
            return std::nullopt;
        return whole + "." + part;
    }
    if (std::count(number.begin(), number.end(), mark) > 1 || !digits(part)) return std::nullopt;
    std::string out;
    std::size_t from = 0;
    for (bool first = true;; first = false) {
        const auto next = whole.find(group, from);
        const auto piece = whole.substr(from, next - from);
        const auto figures =
            first && (piece.starts_with('-') || piece.starts_with('+')) ? piece.substr(1) : piece;
        if (!digits(figures) || (first ? figures.size() > 3 : figures.size() != 3)) return std::nullopt;
        out += piece;
        if (next == std::string::npos) break;
        from = next + 1;
    }
    return out + "." + part;
}

/// A plain decimal, a fraction "1/8" or a mixed number "2 1/8"; nothing may follow.
std::optional<double> parse_mixed_number(const std::string& typed) {
    const auto text = with_point(typed);
    if (!text) return std::nullopt;
    std::istringstream in(*text);
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
    auto last = text.find_last_of("0123456789.,");
    if (last == std::string::npos) return {text, ""};
    return {trimmed(text.substr(0, last + 1)), trimmed(text.substr(last + 1))};
}

tl::unexpected<InputError> both_meant(std::string_view text, std::string_view item) {
    return refuse(std::string(item),
                  fmt::format("“{}” may be meant with decimals or with thousands", trimmed(text)),
                  "Type it with a point before the decimals and no comma");
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
    if (!number && !with_point(parts.number)) return both_meant(text, item);
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
    if (!number && !with_point(parts.number)) return both_meant(text, item);
    if (!number)
        return refuse(std::string(item), fmt::format("“{}” is not a voltage", trimmed(text)),
                      "Type a number with a unit, such as 8.7 kV");
    return *number * scale;
}

Result<double> parse_number(std::string_view text, std::string_view suffix, std::string_view item) {
    const auto parts = split_unit(trimmed(text));
    const auto number = parse_mixed_number(parts.number);
    if (!number && !with_point(parts.number)) return both_meant(text, item);
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

std::string one_decimal(double value) {
    return fmt::format("{:.1f}", std::abs(value) < 0.05 ? 0.0 : value);
}

std::string format_figures(double value, int figures) {
    if (!std::isfinite(value)) return "–";
    if (value == 0) return "0";
    const int magnitude = static_cast<int>(std::floor(std::log10(std::abs(value))));
    if (magnitude < -4 || magnitude > 6) return fmt::format("{:.{}e}", value, figures - 1);
    const int decimals = std::max(0, figures - 1 - magnitude);
    return fmt::format("{:.{}f}", value, decimals);
}

double stress_factor(StressUnit unit) {
    return unit == StressUnit::kV_per_mm ? 1 : mm_per_inch;
}

constexpr std::string_view kV_per_mm = "kV/mm";

double stress_factor(const std::string& unit, StressUnit shown) {
    return unit.starts_with(kV_per_mm) ? stress_factor(shown) : 1;
}

std::string in_stress_unit(const std::string& unit, StressUnit shown) {
    if (!unit.starts_with(kV_per_mm) || shown == StressUnit::kV_per_mm) return unit;
    return (shown == StressUnit::V_per_mil ? "V/mil" : "kV/in") + unit.substr(kV_per_mm.size());
}

std::string words_in_stress_unit(const std::string& words, StressUnit shown) {
    if (shown == StressUnit::kV_per_mm) return words;
    static const std::regex figure(R"((\d+(?:\.(\d+))?(?:e[-+]?\d+)?) kV/mm)");
    std::string out;
    auto from = words.begin();
    for (auto it = std::sregex_iterator(words.begin(), words.end(), figure); it != std::sregex_iterator();
         ++it) {
        const std::string typed = (*it)[1];
        const auto mantissa = typed.substr(0, typed.find('e'));
        const auto first = mantissa.find_first_of("123456789");
        const auto figures = first == std::string::npos
                                 ? 1
                                 : std::count_if(mantissa.begin() + static_cast<std::ptrdiff_t>(first),
                                                 mantissa.end(), [](char c) { return c != '.'; });
        out.append(from, (*it)[0].first);
        out += fmt::format(
            "{} {}",
            format_figures(std::stod(typed) * stress_factor(shown), std::max(2, static_cast<int>(figures))),
            in_stress_unit(std::string(kV_per_mm), shown));
        from = (*it)[0].second;
    }
    return out.append(from, words.end());
}

Result<double> parse_stress_kV_per_mm(std::string_view text, StressUnit bare_unit, std::string_view item) {
    const auto unit = lowered(split_unit(trimmed(text)).unit);
    auto used = bare_unit;
    for (const auto one : {StressUnit::kV_per_mm, StressUnit::V_per_mil, StressUnit::kV_per_inch})
        if (unit == lowered(in_stress_unit(std::string(kV_per_mm), one))) used = one;
    auto number = parse_number(text, in_stress_unit(std::string(kV_per_mm), used), item);
    if (!number) return number;
    return *number / stress_factor(used);
}

std::string format_supported(double value, double relative_error) {
    return format_figures(value, relative_error < 0.01 ? 3 : 2);
}

} // namespace ng
