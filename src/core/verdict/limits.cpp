#include "verdict/limits.h"
#include "io/json_reader.h"

namespace ng {

const Limit* LimitTable::find(const std::string& id) const {
    for (const auto& limit : limits)
        if (limit.id == id) return &limit;
    return nullptr;
}

LimitTable LimitTable::with_overrides(const std::map<std::string, Override>& by_id) const {
    LimitTable out = *this;
    for (auto& limit : out.limits)
        if (const auto it = by_id.find(limit.id); it != by_id.end())
            limit.value = overridden(limit.value, it->second);
    return out;
}

Result<LimitTable> read_limits(const nlohmann::json& document) {
    if (auto v = check_format(document, "needlegauge-limits", 1, "limits"); !v)
        return tl::unexpected(v.error());
    LimitTable table;
    JsonReader top(document, "limits");
    for (const auto& value : top.array("limits", true)) {
        JsonReader in(value, "limits");
        Limit limit;
        limit.id = in.text("id");
        limit.title = in.text("title");
        limit.value = {in.number("value"), in.text("unit"), provenance_from_word(in.text("provenance")),
                       false, ""};
        limit.protects_against = in.text("protects_against");
        limit.valid_for = in.text_or("valid_for", "");
        if (!in.ok()) return tl::unexpected(*in.error());
        if (!(limit.value.value > 0))
            return refuse("limit " + limit.id, "it is not above zero", "Correct it");
        table.limits.push_back(limit);
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    return table;
}

} // namespace ng
