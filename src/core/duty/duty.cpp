#include "duty/duty.h"
#include "io/json_reader.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {

const DutyClass* StandardsPack::find(double class_kV) const {
    for (const auto& c : classes)
        if (std::abs(c.class_kV - class_kV) < 1e-6) return &c;
    return nullptr;
}

double Duty::u0() const {
    return u0_kV ? *u0_kV : class_kV / std::sqrt(3.0);
}

Result<StandardsPack> read_standards_pack(const nlohmann::json& document) {
    if (auto v = check_format(document, "needlegauge-standards", 1, "standards pack"); !v)
        return tl::unexpected(v.error());
    JsonReader top(document, "standards pack");
    StandardsPack pack;
    pack.id = top.text("id");
    pack.title = top.text("title");
    pack.edition = top.text("edition");
    pack.scope = top.text_or("scope", "");
    pack.pd_limit_pC = top.number("pd_limit_pC");
    for (const auto& value : top.array("levels", true)) {
        JsonReader in(value, "standards pack " + pack.id);
        const auto name = in.text("name");
        pack.level_order.push_back(name);
        pack.level_titles[name] = in.text("title");
        if (!in.ok()) return tl::unexpected(*in.error());
    }
    for (const auto& value : top.array("classes", true)) {
        JsonReader in(value, "standards pack " + pack.id);
        DutyClass row;
        row.class_kV = in.number("class_kV");
        const auto item = fmt::format("{} class {:g} kV", pack.title, row.class_kV);
        const auto& levels = in.object("levels", true);
        if (!in.ok()) return tl::unexpected(*in.error());
        for (const auto& name : pack.level_order) {
            if (!levels.contains(name))
                return refuse(item, fmt::format("“{}” is missing", name), "Add it to the pack");
            JsonReader level(levels[name], item + ", " + name);
            SourcedValue v{level.number("value"), level.text("unit"),
                           provenance_from_word(level.text("provenance")),
                           level.boolean_or("verified", false), pack.edition};
            if (!level.ok()) return tl::unexpected(*level.error());
            if (!(v.value > 0))
                return refuse(item, fmt::format("“{}” is not above zero", name), "Correct the pack");
            row.levels[name] = v;
        }
        if (!pack.classes.empty()) {
            const auto& before = pack.classes.back();
            if (!(row.class_kV > before.class_kV))
                return refuse(item, "classes are not in rising order", "Sort the pack");
            for (const auto& name : pack.level_order)
                if (row.levels[name].value < before.levels.at(name).value)
                    return refuse(item, fmt::format("“{}” is below that of the class before", name),
                                  "Correct the pack");
        }
        pack.classes.push_back(row);
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    return pack;
}

Result<DutyClass> duty_levels(const Duty& duty, const std::vector<StandardsPack>& packs) {
    const auto it =
        std::find_if(packs.begin(), packs.end(), [&](const auto& p) { return p.id == duty.standard; });
    if (it == packs.end())
        return refuse("duty", fmt::format("standard “{}” is not installed", duty.standard),
                      "Choose one from the list");
    if (!(duty.u0() > 0) || !std::isfinite(duty.u0()) || duty.u0() > 200)
        return refuse("duty", "U0 is not a usable voltage", "Give U0 in kV, above 0");
    if (!(duty.frequency_hz > 0) || duty.frequency_hz > 1000)
        return refuse("duty", "the frequency is not usable", "Give it in Hz, such as 50 or 60");
    if (const auto* row = it->find(duty.class_kV)) return *row;
    std::string known;
    for (const auto& c : it->classes) known += fmt::format("{}{:g}", known.empty() ? "" : ", ", c.class_kV);
    return refuse("duty", fmt::format("{} has no class {:g} kV", it->title, duty.class_kV),
                  "Choose one of " + known);
}

} // namespace ng
