#include "accessory/check_id.h"
#include <charconv>

namespace ng {
namespace {

constexpr std::string_view kind_names[] = {
#define NEEDLEGAUGE_CHECK(name, words) words,
    NEEDLEGAUGE_CHECKS(NEEDLEGAUGE_CHECK)
#undef NEEDLEGAUGE_CHECK
};

/// Of checks whose names carry the side as places do.
bool has_capital_side(CheckKind kind) {
    return kind == CheckKind::void_allowance || kind == CheckKind::air_pocket;
}

std::string_view side_end(CheckKind kind, Side side) {
    if (side == Side::a) return has_capital_side(kind) ? "_A" : "_a";
    if (side == Side::b) return has_capital_side(kind) ? "_B" : "_b";
    return side == Side::rod ? "_of_the_rod" : "";
}

} // namespace

std::string name_of(const CheckId& check) {
    std::string out(kind_names[static_cast<std::size_t>(check.kind)]);
    if (check.index > 0) out += "_" + std::to_string(check.index);
    return out += side_end(check.kind, check.side);
}

std::optional<CheckId> check_of(std::string_view name) {
    for (std::size_t k = 0; k < std::size(kind_names); ++k) {
        if (!name.starts_with(kind_names[k])) continue;
        const auto kind = static_cast<CheckKind>(k);
        auto rest = name.substr(kind_names[k].size());
        CheckId out{kind};
        for (const auto side : {Side::a, Side::b, Side::rod})
            if (const auto end = side_end(kind, side); rest.ends_with(end)) {
                rest.remove_suffix(end.size());
                out.side = side;
                break;
            }
        if (rest.starts_with("_")) {
            const auto [end, error] = std::from_chars(rest.data() + 1, rest.data() + rest.size(), out.index);
            if (error != std::errc{} || end != rest.data() + rest.size()) continue;
            rest = {};
        }
        if (rest.empty() && name_of(out) == name) return out;
    }
    return {};
}

} // namespace ng
