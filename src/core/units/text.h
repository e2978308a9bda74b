// Text that came from outside: whether it is UTF-8, and how it is shown on one line.
#pragma once
#include <string>
#include <string_view>

namespace ng {

/// Whether all of it is well-formed UTF-8 (utfcpp).
bool is_utf8(std::string_view text);
/// Control characters as escapes (a line feed as \n, others as \x1b), what is not UTF-8 as U+FFFD, and no
/// more than `most` bytes, the rest as an ellipsis: what may be shown on a terminal line.
std::string one_line(std::string_view text, std::size_t most = 400);

/// Without blanks at either end.
std::string trimmed(std::string_view text);
/// All ASCII letters small.
std::string lowered(std::string text);
/// First letter small, first letter capital.
std::string lower_first(std::string text);
std::string upper_first(std::string text);

/// Small letters and figures, what lies between them as one hyphen: "screen-edge-a" of "Screen edge A".
std::string slug(std::string_view text);

} // namespace ng
