#include "place/place.h"
#include <algorithm>
#include <charconv>
#include <iterator>

namespace ng {
namespace {

constexpr std::string_view all_words[] = {
#define NEEDLEGAUGE_PLACE(name, words) words,
    NEEDLEGAUGE_PLACES(NEEDLEGAUGE_PLACE)
#undef NEEDLEGAUGE_PLACE
};
constexpr Side sides[] = {Side::a, Side::b, Side::rod};
constexpr std::string_view edge_words[] = {"", ", inner", ", outer", ", tip"};

bool take_end(std::string_view& text, std::string_view end) {
    if (end.empty() || !text.ends_with(end)) return false;
    text.remove_suffix(end.size());
    return true;
}

/// A number from 1 without sign and leading zero.
std::optional<int> index_of(std::string_view digits) {
    int value = 0;
    const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
    if (error != std::errc{} || end != digits.data() + digits.size() || value < 1 || digits.front() == '0')
        return {};
    return value;
}

} // namespace

bool is_cable_layer(PlaceKind kind) {
    return kind == PlaceKind::conductor || kind == PlaceKind::insulation ||
           kind == PlaceKind::insulation_screen || kind == PlaceKind::metallic_screen ||
           kind == PlaceKind::jacket;
}

std::string_view words_of(PlaceKind kind) {
    return all_words[static_cast<std::size_t>(kind)];
}

const char* side_letter(Side side) {
    return side == Side::a ? "A" : side == Side::b ? "B" : "";
}

const char* tag_of(Side side) {
    return side == Side::a ? " A" : side == Side::b ? " B" : side == Side::rod ? " of the rod" : "";
}

std::string name_of(const PlaceId& place) {
    std::string out(words_of(place.kind));
    const auto number = place.index > 0 ? std::to_string(place.index) : std::string();
    if (const auto at = out.find('#'); at != std::string::npos)
        out.replace(at, 1, number);
    else if (!number.empty())
        out += " " + number;
    out += tag_of(place.side);
    return out += edge_words[static_cast<std::size_t>(place.edge)];
}

std::optional<PlaceKind> place_kind(std::string_view words) {
    const auto found = std::find(std::begin(all_words), std::end(all_words), words);
    if (found == std::end(all_words)) return {};
    return static_cast<PlaceKind>(found - std::begin(all_words));
}

std::optional<PlaceId> place_of(std::string_view name) {
    PlaceId out;
    auto rest = name;
    for (const auto edge : {EdgePart::inner, EdgePart::outer, EdgePart::tip})
        if (take_end(rest, edge_words[static_cast<std::size_t>(edge)])) {
            out.edge = edge;
            break;
        }
    for (const auto side : sides)
        if (take_end(rest, tag_of(side))) {
            out.side = side;
            break;
        }
    if (const auto kind = place_kind(rest); kind && rest.find('#') == std::string_view::npos) {
        out.kind = *kind;
        return out;
    }
    // With a number: at the end, or where the words have their mark.
    const auto first = rest.find_first_of("0123456789");
    if (first == std::string_view::npos) return {};
    const auto after = std::min(rest.find_first_not_of("0123456789", first), rest.size());
    const auto index = index_of(rest.substr(first, after - first));
    if (!index) return {};
    out.index = *index;
    const auto marked = std::string(rest.substr(0, first)) + "#" + std::string(rest.substr(after));
    auto kind = place_kind(marked);
    if (!kind && after == rest.size() && first > 0 && rest[first - 1] == ' ')
        kind = place_kind(rest.substr(0, first - 1));
    if (!kind) return {};
    out.kind = *kind;
    return out;
}

} // namespace ng
