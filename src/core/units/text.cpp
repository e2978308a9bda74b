#include "units/text.h"
#include <cctype>
#include <fmt/format.h>
#include <iterator>
#include <utf8.h>

namespace ng {

bool is_utf8(std::string_view text) {
    return utf8::is_valid(text.begin(), text.end());
}

std::string one_line(std::string_view text, std::size_t most) {
    std::string valid;
    utf8::replace_invalid(text.begin(), text.end(), std::back_inserter(valid));
    std::string out;
    for (auto it = valid.cbegin(); it != valid.cend();) {
        const auto begin = it;
        const auto c = utf8::unchecked::next(it);
        const bool control = c < 0x20 || (c >= 0x7f && c < 0xa0) || c == 0x2028 || c == 0x2029 ||
                             (c >= 0x202a && c <= 0x202e) || (c >= 0x2066 && c <= 0x2069);
        std::string piece(begin, it);
        if (c == '\n')
            piece = "\\n";
        else if (c == '\t')
            piece = "\\t";
        else if (c == '\r')
            piece = "\\r";
        else if (control)
            piece = c < 0x100 ? fmt::format("\\x{:02x}", c) : fmt::format("\\u{:04x}", c);
        if (out.size() + piece.size() > most) return out + "…";
        out += piece;
    }
    return out;
}

std::string trimmed(std::string_view text) {
    constexpr auto blank = " \t\r\n";
    const auto first = text.find_first_not_of(blank);
    if (first == std::string_view::npos) return {};
    return std::string(text.substr(first, text.find_last_not_of(blank) - first + 1));
}

std::string lowered(std::string text) {
    for (auto& c : text) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return text;
}

std::string lower_first(std::string text) {
    if (!text.empty()) text[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(text[0])));
    return text;
}

std::string upper_first(std::string text) {
    if (!text.empty()) text[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text[0])));
    return text;
}

std::string slug(std::string_view text) {
    std::string out;
    for (const char c : text) {
        if (std::isalnum(static_cast<unsigned char>(c)))
            out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        else if (!out.empty() && out.back() != '-')
            out += '-';
    }
    while (!out.empty() && out.back() == '-') out.pop_back();
    return out;
}

} // namespace ng
