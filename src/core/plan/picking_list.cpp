#include "plan/picking_list.h"
#include "plan/work.h"
#include "units/quantity.h"
#include "units/text.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {

std::vector<PickItem> picking_list(const PreparedDesign& p, const CutPlan& plan, const StepBook& book,
                                   const SheetWriter& writer) {
    std::vector<PickItem> list;
    const int cores = writer.cores();
    const auto each = fmt::format("{}", cores);
    std::set<std::string> seen;
    for (const auto& part : p.built.placed) {
        if (part.integral) continue;
        const auto name = upper_first(part.label.empty() ? part.part : part.label);
        if (!seen.insert(name).second) continue;
        std::string note = fmt::format("{} long as placed", both_units(part.z1_mm - part.z0_mm));
        if (part.kind == FitItem::Kind::shrink)
            note += fmt::format(
                ", at least {} as supplied",
                both_units(std::ceil(supplied_length_mm(p.design.work, part.z1_mm - part.z0_mm))));
        if (part.bore_mm > 0) note += fmt::format(", bore {:.0f} mm as supplied", part.bore_mm);
        list.push_back({name, each, "", note});
    }
    if (plan.find(MarkKind::connector_end))
        list.push_back({upper_first(*writer.fill("{connector word}", nullptr, "")), each, "",
                        fmt::format("for {} {}; {}", p.cable.conductor_size, p.cable.conductor_material,
                                    *writer.fill("{connector}", nullptr, ""))});
    for (const auto& part : p.built.parts)
        if (part.kit_piece) list.push_back({upper_first(part.label), each, "", ""});
    if (writer.has_part(PlaceKind::shed) && p.family->parameter("sheds"))
        list.push_back({"Sheds", fmt::format("{:g}", number_of(p.context(), "sheds") * cores), "",
                        *writer.fill("{p:shed_diameter_mm} outside", nullptr, "")});
    for (const auto& step : book.steps)
        if (step.id == "breakout" && writer.called_for(step)) {
            list.push_back({"Breakout", "1", "", "for the crotch of three cores"});
            list.push_back({"Core tubes", fmt::format("{}", cores), "",
                            *writer.fill("to {marks:core_tube_end}", nullptr, "")});
        }
    for (const auto& part : plan.parked)
        if (part.place == place::rejacketing_sleeve)
            list.push_back(
                {"Re-jacketing sleeve", "1", "", fmt::format("{} long", both_units(part.length_mm))});
    for (const auto& q : p.fit.quantities) {
        if (q.tape)
            list.push_back(
                {upper_first(q.part),
                 fmt::format("{} roll{}", q.tape->rolls * cores, q.tape->rolls * cores == 1 ? "" : "s"),
                 "1 roll", fmt::format("{:.0f} m for each core", std::ceil(q.tape->supplied_mm / 1e3))});
        else
            list.push_back({upper_first(q.part), fmt::format("{:.0f} cm³", std::ceil(q.volume_cm3 * cores)),
                            fmt::format("{:.0f} cm³", std::ceil(0.2 * q.volume_cm3 * cores)), "by volume"});
    }
    std::map<std::string, double> counts;
    std::vector<std::string> order;
    for (const auto& step : book.steps) {
        if (!writer.called_for(step)) continue;
        for (const auto& c : step.consumables) {
            if (!counts.contains(c.item)) order.push_back(c.item);
            counts[c.item] += c.count * (c.per == "side" ? writer.sides() * writer.cores() : 1);
        }
    }
    for (const auto& item : order) {
        const double count = counts[item];
        list.push_back({upper_first(item), fmt::format("{:g}", count),
                        fmt::format("{:g}", std::max(1.0, std::ceil(0.2 * count))), ""});
    }
    return list;
}

} // namespace ng
