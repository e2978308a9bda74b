#include "fit/fit.h"
#include "units/promise.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr double connector_uncertainty_mm = 0.1;

constexpr double silicone_shear_modulus_MPa = 0.35; // common practice, no source

double limit_of(const LimitTable& limits, const char* id) {
    const auto* limit = limits.find(id);
    promise(limit, "the library has every limit of the fit (load_library)");
    return limit->value.value;
}

/// Range of diameters that a part can lie on, smallest and greatest.
struct Range {
    double lowest, highest;
};
Range range_of(FitItem::Kind kind, const closedform::ShrinkTube& tube, const LimitTable& limits) {
    const double bore = tube.recovered_bore_mm;
    if (kind == FitItem::Kind::cold_shrink)
        return {bore * (1 + limit_of(limits, "rubber_stretch_low") / 100),
                std::min(tube.expanded_bore_mm, bore * (1 + limit_of(limits, "rubber_stretch_high") / 100))};
    if (kind == FitItem::Kind::slip_on)
        return {bore * (1 + limit_of(limits, "slip_on_low") / 100),
                bore * (1 + limit_of(limits, "slip_on_high") / 100)};
    return {bore, tube.expanded_bore_mm};
}

/// Uncertainty of what a part lies on: of the named layer, else of the insulation.
double uncertainty_of(const std::optional<PlaceId>& what, const DesignContext& design) {
    const auto& dimensions =
        design.dimensions_of(what && what->side == Side::b ? CableSide::b : CableSide::a);
    if (what == place::connector) return connector_uncertainty_mm;
    for (const auto& layer : dimensions.layers)
        if (what && layer.name == words_of(what->kind)) return layer.uncertainty_mm;
    return dimensions.layer("insulation").uncertainty_mm;
}

std::string words_of(const std::optional<PlaceId>& what) {
    return what ? name_of(*what) : "parts beneath";
}

void add_part(const FitItem& item, const FitContext& c, FitReport& report) {
    const auto range = range_of(item.kind, item.tube, c.limits);
    double widest = 0;
    for (const auto& on : item.on) widest = std::max(widest, uncertainty_of(on.what, c.design));
    for (std::size_t i = 0; i < item.on.size(); ++i) {
        const auto& on = item.on[i];
        FitCheck check;
        check.part = item.part;
        check.title = fmt::format("{} on {}", item.part, words_of(on.what));
        check.value = on.diameter_mm;
        check.uncertainty = uncertainty_of(on.what, c.design);
        const bool first = i == 0, last = i + 1 == item.on.size();
        check.lowest = first ? range.lowest : 0;
        check.highest = last ? range.highest : 0;
        if (item.kind == FitItem::Kind::slip_on && !first) { // only the bore's seat needs interference
            check.lowest = 0;
            check.highest = item.tube.expanded_bore_mm;
        }
        check.status = within_range(check.value, check.uncertainty, check.lowest, check.highest);
        const char* small = item.kind == FitItem::Kind::shrink ? "it would stay loose, fully recovered"
                            : item.kind == FitItem::Kind::cold_shrink
                                ? "the rubber is stretched too little to press"
                                : "the bore has too little interference";
        const char* large =
            item.kind == FitItem::Kind::slip_on ? "it cannot be pushed on" : "it does not go over";
        const auto about = fmt::format("{} ± {}", in_mm(check.value), in_mm(check.uncertainty));
        if (check.status == Status::falls_short)
            check.why = fmt::format("{}: {}", about, check.value < check.lowest ? small : large);
        else if (check.status == Status::marginal)
            check.why = fmt::format("{}: the uncertainty crosses an end of the range", about);
        else
            check.why = about + " lies in the range";
        if (check.status != Status::holds) {
            const auto* better = item.prefix.empty() ? nullptr : best_size(c.kits, item, widest, c.limits);
            check.cure = check.status == Status::marginal
                             ? "Measure again with more readings, or take another size"
                             : "Take another size";
            check.suggestion = item.prefix.empty() ? "" // its size is drawn
                               : better            ? "fits: " + better->size
                                                   : "no size of the kit table fits";
        }
        report.checks.push_back(std::move(check));
    }
    if (item.kind == FitItem::Kind::shrink || item.on.empty()) return;
    const double core = item.on.front().diameter_mm;
    report.pressures.push_back(
        {item.part, interface_pressure_kPa(item.tube, core, silicone_shear_modulus_MPa)});
    report.notes.push_back(
        fmt::format("{}: stretched {:.0f} %, presses with about {:.0f} kPa on {} (neo-Hookean estimate, "
                    "shear modulus {} MPa, common practice)",
                    item.part, 100 * (core / item.tube.recovered_bore_mm - 1),
                    interface_pressure_kPa(item.tube, core, silicone_shear_modulus_MPa),
                    words_of(item.on.front().what), silicone_shear_modulus_MPa));
}

/// A part that goes on after the lug passes its palm, which is wider than all else.
void add_palm(const FitItem& item, const FitContext& c, FitReport& report) {
    const auto& key = c.design.family.connector.palm_width_key;
    if (key.empty() || item.kind == FitItem::Kind::slip_on || item.on.empty()) return;
    FitCheck check;
    check.part = item.part;
    check.title = item.part + " over the lug's palm";
    check.value = number_of(c.design, key);
    check.uncertainty = connector_uncertainty_mm;
    check.highest = item.tube.expanded_bore_mm;
    check.status = within_range(check.value, check.uncertainty, 0, check.highest);
    if (check.status == Status::holds) return; // nothing to say beside the rows of what it lies on
    check.why =
        fmt::format("{} ± {} wide: it {} the bore of {}", in_mm(check.value), in_mm(check.uncertainty),
                    check.status == Status::marginal ? "only just passes, or not," : "does not pass",
                    in_mm(check.highest));
    check.cure = "Slip it on before the lug is fixed, or take another size";
    report.checks.push_back(std::move(check));
}

/// Connector or lug against the conductors, where one of the library is chosen.
void add_connector(const FitContext& c, FitReport& report) {
    const auto it = c.design.design.choices.find(connector_choice);
    if (it == c.design.design.choices.end()) return;
    const auto found = std::find_if(c.connectors.begin(), c.connectors.end(),
                                    [&](const auto& k) { return k.id == it->second; });
    if (found == c.connectors.end()) {
        FitCheck check;
        check.part = check.title = "connector " + it->second;
        check.status = Status::marginal;
        check.why = "it is not in the connector library that is loaded";
        check.cure = "Choose one of the library";
        report.checks.push_back(std::move(check));
        return;
    }
    for (const auto side : {CableSide::a, CableSide::b}) {
        if (side == CableSide::b && !c.design.other_cable) continue;
        const auto& dimensions = c.design.dimensions_of(side);
        const std::string tag = !c.design.other_cable ? "" : side == CableSide::a ? " A" : " B";
        FitCheck area;
        area.part = found->id;
        area.title = "conductor" + tag + " in the range of " + found->id;
        area.value = dimensions.conductor_area_mm2;
        area.lowest = found->least_mm2;
        area.highest = found->most_mm2;
        area.unit = "mm²";
        area.status = within_range(area.value, 0, area.lowest, area.highest);
        area.why = area.status == Status::holds
                       ? "in the range" + (found->die.empty() ? "" : ": die " + found->die)
                       : "the connector is not made for this conductor";
        if (area.status != Status::holds) area.cure = "Choose a connector for this size";
        report.checks.push_back(std::move(area));
        FitCheck bore;
        bore.part = found->id;
        bore.title = "conductor" + tag + " in the bore of " + found->id;
        bore.value = dimensions.layer("conductor").diameter_mm;
        bore.uncertainty = dimensions.layer("conductor").uncertainty_mm;
        bore.highest = found->bore_mm;
        bore.status = within_range(bore.value, bore.uncertainty, 0, bore.highest);
        bore.why = fmt::format("{} ± {} in a bore of {}", in_mm(bore.value), in_mm(bore.uncertainty),
                               in_mm(found->bore_mm));
        if (bore.status != Status::holds) bore.cure = "Measure the conductor, or choose a larger bore";
        report.checks.push_back(std::move(bore));
        const auto& material = c.design.cable_of(side).conductor_material;
        if (found->material != "either" && found->material != material) {
            FitCheck metal;
            metal.part = found->id;
            metal.title = "metal of " + found->id + " on conductor" + tag;
            metal.status = Status::falls_short;
            metal.why = found->material + " on " + material + " corrodes and loosens";
            metal.cure = "Choose a connector for " + material;
            report.checks.push_back(std::move(metal));
        }
    }
}

} // namespace

Status within_range(double value, double uncertainty, double lowest, double highest) {
    const bool has_top = highest > 0;
    if (value < lowest || (has_top && value > highest)) {
        // Outside; still marginal while the range is within reach of the uncertainty.
        const double off = value < lowest ? lowest - value : value - highest;
        return off <= uncertainty ? Status::marginal : Status::falls_short;
    }
    if (value - uncertainty < lowest || (has_top && value + uncertainty > highest)) return Status::marginal;
    return Status::holds;
}

const KitSize* best_size(const std::vector<KitSize>& kits, const FitItem& item, double uncertainty_mm,
                         const LimitTable& limits) {
    const KitSize* best = nullptr;
    double most = 0;
    for (const auto& size : kits) {
        if (size.kind != item.kind || item.on.empty()) continue;
        if (size.part != words_of(item.place.kind)) continue;
        const auto range = range_of(item.kind, size.tube, limits);
        const double low = item.on.front().diameter_mm - uncertainty_mm,
                     high = (item.kind == FitItem::Kind::slip_on ? item.on.front() : item.on.back())
                                .diameter_mm +
                            uncertainty_mm;
        if (item.kind == FitItem::Kind::slip_on && item.on.back().diameter_mm > size.tube.expanded_bore_mm)
            continue;
        const double room = std::min(low / range.lowest, range.highest / high);
        if (room >= 1 && room > most) {
            best = &size;
            most = room;
        }
    }
    return best;
}

std::vector<const Connector*> connectors_for(const std::vector<Connector>& all, const std::string& use,
                                             const Cable& cable, const CableDimensions& dimensions) {
    std::vector<const Connector*> out;
    auto fits = [&](const Connector* c) {
        const double area = dimensions.conductor_area_mm2;
        return area >= c->least_mm2 && area <= c->most_mm2 &&
               dimensions.layer("conductor").diameter_mm <= c->bore_mm &&
               (c->material == "either" || c->material == cable.conductor_material);
    };
    for (const auto& c : all)
        if (c.use == use) out.push_back(&c);
    std::stable_partition(out.begin(), out.end(), fits);
    return out;
}

void take_connector(Design& design, const ConnectorRole& role, const Connector& connector) {
    design.choices[connector_choice] = connector.id;
    if (role.use != connector.use) return;
    if (!role.length_key.empty()) design.numbers[role.length_key] = connector.length_mm;
    if (!role.diameter_key.empty()) design.numbers[role.diameter_key] = connector.diameter_mm;
}

double interface_pressure_kPa(const closedform::ShrinkTube& relaxed, double core_diameter_mm,
                              double shear_modulus_MPa) {
    const double inside = core_diameter_mm / relaxed.recovered_bore_mm;
    const double outside = closedform::recovered_outer_radius_mm(relaxed, core_diameter_mm / 2) /
                           (relaxed.recovered_bore_mm / 2 + relaxed.recovered_wall_mm);
    return 1e3 * shear_modulus_MPa *
           (std::log(inside / outside) + 0.5 * (1 / (outside * outside) - 1 / (inside * inside)));
}

FitReport check_fit(const FitContext& c) {
    FitReport report;
    for (const auto& item : c.built.fit) {
        add_part(item, c, report);
        add_palm(item, c, report);
    }
    add_connector(c, report);
    for (const auto& clearance : c.built.clearances) {
        FitCheck check;
        check.part = check.title = clearance.title;
        check.value = clearance.value_mm;
        check.lowest = clearance.needed_mm;
        check.uncertainty = c.design.dimensions.layer("insulation").uncertainty_mm;
        check.status = within_range(check.value, check.uncertainty, check.lowest, 0);
        check.why = fmt::format("{} of {}", in_mm(clearance.value_mm), in_mm(clearance.needed_mm));
        check.cure = clearance.cure;
        report.checks.push_back(std::move(check));
    }
    for (const auto& build_up : c.built.build_ups) {
        Quantity quantity{build_up.part, volume_between_mm3(build_up.inner, build_up.outer) / 1e3, {}};
        if (build_up.kind == BuildUp::Kind::tape)
            quantity.tape = tape_quantity(build_up.inner, build_up.outer, c.tape);
        report.quantities.push_back(std::move(quantity));
    }
    const auto severity = [](Status s) {
        return s == Status::falls_short ? 2 : s == Status::marginal ? 1 : 0;
    };
    for (const auto& check : report.checks)
        if (severity(check.status) > severity(report.status)) report.status = check.status;
    return report;
}

} // namespace ng
