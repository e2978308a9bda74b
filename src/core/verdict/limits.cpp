#include "verdict/limits.h"
#include "io/json_reader.h"
#include <cmath>

namespace ng {

std::string limit_id(const std::string& rule, TestKind kind) {
    switch (kind) {
    case TestKind::ac_minutes:
        return rule + ".minutes";
    case TestKind::ac_hours:
        return rule + ".hours";
    case TestKind::wet:
        return rule + ".wet";
    case TestKind::dc:
        return rule + ".dc";
    case TestKind::impulse:
        return rule + ".impulse";
    case TestKind::service:
    case TestKind::geometry:
    case TestKind::highest:
    case TestKind::extinction:
    case TestKind::fog:
        break;
    }
    return rule;
}

const Limit* LimitTable::find(const std::string& id) const {
    for (const auto& limit : limits)
        if (limit.id == id) return &limit;
    return nullptr;
}

const NotAsked* LimitTable::find_not_asked(const std::string& id) const {
    for (const auto& one : not_asked)
        if (one.id == id) return &one;
    return nullptr;
}

double Limit::value_for(double duration_s, const std::optional<LifeExponents>& of_material) const {
    if (!at_duration_s || !(duration_s > 0)) return value.value;
    const auto life = of_material.value_or(exponents);
    const double n = duration_s < *at_duration_s ? life.greatest : life.least;
    return value.value * std::pow(*at_duration_s / duration_s, 1 / n);
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
        limit.at_duration_s = in.optional_number("at_duration_s");
        limit.exponents.greatest = in.optional_number("exponent_shorter").value_or(limit.exponents.greatest);
        limit.exponents.least = in.optional_number("exponent_longer").value_or(limit.exponents.least);
        limit.hot_share = in.optional_number("hot_share");
        if (!in.ok()) return tl::unexpected(*in.error());
        if (limit.hot_share && !(*limit.hot_share > 0 && *limit.hot_share <= 1))
            return refuse("limit " + limit.id, "its hot_share is not above 0 and up to 1", "Correct it");
        if (limit.at_duration_s &&
            !(*limit.at_duration_s > 0 && limit.exponents.greatest >= 1 && limit.exponents.least >= 1))
            return refuse("limit " + limit.id, "its duration is not above zero, or an exponent is below 1",
                          "Correct it");
        if (!(limit.value.value > 0))
            return refuse("limit " + limit.id, "it is not above zero", "Correct it");
        table.limits.push_back(limit);
    }
    for (const auto& value : top.array("not_asked", false)) {
        JsonReader in(value, "limits, not_asked");
        table.not_asked.push_back({in.text("id"), in.text("why")});
        if (!in.ok()) return tl::unexpected(*in.error());
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    return table;
}

} // namespace ng
