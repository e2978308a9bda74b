#include "plan/sheet_writer.h"
#include "plan/lay_order.h"
#include "plan/mark_facts.h"
#include "plan/sheet.h"
#include "plan/work.h"
#include "units/quantity.h"
#include "units/text.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

std::string join(const std::vector<std::string>& words, const char* between = ", ") {
    return fmt::format("{}", fmt::join(words, between));
}

/// Short names of polymers are written in capitals.
std::string insulation_words(const Cable& c) {
    auto words = c.insulation_material;
    if (words != "paper")
        std::transform(words.begin(), words.end(), words.begin(),
                       [](unsigned char l) { return static_cast<char>(std::toupper(l)); });
    return words;
}

std::string cable_words(const Cable& c) {
    std::string out =
        fmt::format("{}: {} {}, {} insulation, {} kV {}, screen of {}", c.title, c.conductor_size,
                    c.conductor_material, insulation_words(c), fmt::format("{:g}", c.insulation_class_kV),
                    c.insulation_level, c.metallic_screen);
    if (c.armour != "none") out += ", " + c.armour + " armour";
    if (c.cores == 3) out += ", three cores";
    return out;
}

} // namespace

SheetWriter::SheetWriter(const PreparedDesign& p, const CutPlan& plan,
                         const std::vector<Connector>& connectors)
    : p_(p), plan_(plan), built_(p.built), family_(*p.family), beneath_(ng::beneath(p.built)),
      joint_(plan.find(MarkKind::screen_edge, CableSide::b) != nullptr) {
    if (const auto it = p.design.choices.find(connector_choice); it != p.design.choices.end())
        for (const auto& c : connectors)
            if (c.id == it->second) connector_ = &c;
    gather_facts();
}

bool SheetWriter::called_for(const StepSpec& step) const {
    return all_hold(step.when) && !sides_of(step).empty();
}

bool SheetWriter::all_hold(const std::vector<std::string>& facts) const {
    return std::all_of(facts.begin(), facts.end(), [&](const auto& fact) {
        return fact.starts_with("no ") ? !holds(fact.substr(3)) : holds(fact);
    });
}

bool SheetWriter::has_part(PlaceKind kind) const {
    return std::any_of(built_.parts.begin(), built_.parts.end(),
                       [&](const auto& part) { return part.place.kind == kind; });
}

std::set<CableSide> SheetWriter::sides_of(const StepSpec& step) const {
    std::set<CableSide> sides{CableSide::a, CableSide::b};
    if (!joint_) return sides;
    for (const auto& fact : step.when) {
        if (const auto it = sides_of_.find(fact); it != sides_of_.end())
            std::erase_if(sides, [&](CableSide side) { return !it->second.contains(side); });
        const auto kind = fact.starts_with("part:") ? place_kind(fact.substr(5)) : std::nullopt;
        if (!kind) continue;
        std::set<CableSide> with;
        for (const auto& part : built_.parts) {
            if (part.place.kind != *kind) continue;
            if (part.place.side != Side::b) with.insert(CableSide::a);
            if (part.place.side != Side::a) with.insert(CableSide::b);
        }
        std::erase_if(sides, [&](CableSide side) { return !with.contains(side); });
    }
    return sides;
}

std::optional<CableSide> SheetWriter::speak_of(const StepSpec& step) {
    const auto sides = sides_of(step);
    only_ = joint_ && sides.size() == 1 ? std::optional(*sides.begin()) : std::nullopt;
    return only_;
}

Result<std::string> SheetWriter::fill(const std::string& text, const PlacedPart* part,
                                      const std::string& step) const {
    std::string out;
    std::size_t at = 0;
    while (at < text.size()) {
        const auto open = text.find('{', at);
        out += text.substr(at, open == std::string::npos ? open : open - at);
        if (open == std::string::npos) break;
        const auto close = text.find('}', open);
        const auto name = text.substr(open + 1, close == std::string::npos ? close : close - open - 1);
        const auto value = close == std::string::npos ? std::nullopt : this->value(name, part);
        if (!value)
            return refuse("step " + step, fmt::format("“{{{}}}” has no value in this design", name),
                          "Correct the text of the step");
        out += *value;
        at = close + 1;
    }
    return out;
}

void SheetWriter::gather_facts() {
    auto add = [&](bool is, const char* fact) {
        if (is) facts_.insert(fact);
    };
    add(joint_, "joint");
    add(has_mark(MarkKind::connector_end) && built_.datum == place::cable_end, "lug");
    add(!joint_ && built_.datum != place::cable_end, "single entrance");
    const auto of_cable = [&](const char* fact, auto test) {
        for (const auto side : {CableSide::a, CableSide::b})
            if ((side == CableSide::a || joint_) && test(p_.context().cable_of(side))) {
                facts_.insert(fact);
                sides_of_[fact].insert(side);
            }
    };
    const auto extruded = [](const Cable& x) { return x.insulation_material != "paper"; };
    of_cable("three cores", [](const Cable& x) { return x.cores == 3; });
    of_cable("armour", [](const Cable& x) { return x.armour != "none"; });
    for (const auto& [word, fact] :
         {std::pair("wires", "wires"), std::pair("tape", "metal tape"), std::pair("straps", "straps"),
          std::pair("corrugated tape", "corrugated tape"), std::pair("lead", "lead screen")})
        of_cable(fact, [&, word = word](const Cable& x) { return extruded(x) && x.metallic_screen == word; });
    of_cable("strippable", [&](const Cable& x) { return extruded(x) && x.strippable_screen; });
    of_cable("bonded", [&](const Cable& x) { return extruded(x) && !x.strippable_screen; });
    of_cable("extruded", extruded);
    of_cable("paper", [&](const Cable& x) { return !extruded(x); });
    const bool belted = built_.work_facts.contains(WorkFact::belted);
    of_cable("belted", [&](const Cable& x) { return belted && !extruded(x); });
    of_cable("core screen", [&](const Cable& x) { return !belted || extruded(x); });
    // Three cables of one core each take what is longer by themselves.
    add(plan_.cores[0] && plan_.cores[1] && plan_.stagger_mm() > 0, "staggered");
    add(p_.design.duty.outdoor && !joint_, "outdoor");
    for (const auto& part : built_.placed) {
        add(part.kind == FitItem::Kind::shrink, "shrink");
        add(part.kind == FitItem::Kind::cold_shrink, "cold shrink");
        add(part.kind != FitItem::Kind::shrink, "rubber body");
    }
    for (const auto& part : plan_.parked) add(part.over_jacket, "parked over jacket");
    for (const auto& part : plan_.parked) add(!part.over_jacket, "parked over core");
    for (const auto fact : built_.work_facts) facts_.insert(fact_words(fact));
    for (const auto& spec : work_schools()) facts_.insert(spec.key + "=" + school(spec.key));
    facts_.insert("datum:" + name_of(built_.datum));
    const auto when = school("connector_when");
    add(when == "before screen" || (when == "by kind" && facts_.contains("single entrance")),
        "connector first");
    add(facts_.contains("connector first") && has_mark(MarkKind::connector_end) && !facts_.contains("paper"),
        "edge from connector");
    add(facts_.contains("cold shrink") && facts_.contains("lug") && school("body_when") == "before lug" &&
            !body_over_lug(),
        "body first");
    add(has_part(PlaceKind::jacket_tape) || (!has_part(PlaceKind::resin) && school("outer_cover") == "tape"),
        "outer tape");
}

bool SheetWriter::body_over_lug() const {
    for (const auto& [high, low] : beneath_)
        for (const auto& part : built_.placed)
            if (part.place == high && (low.contains(place::lug) || low.contains(place::lug_sealant)))
                return true;
    return false;
}

std::string SheetWriter::school(const std::string& key) const {
    if (key == "connector" && connector_)
        return connector_->method == "compression" ? "compression" : "shear bolt";
    return work_school(p_.design.work, key);
}

bool SheetWriter::has_mark(MarkKind kind) const {
    return std::any_of(plan_.marks.begin(), plan_.marks.end(), [&](const auto& m) { return m.kind == kind; });
}

bool SheetWriter::holds(const std::string& fact) const {
    if (fact.starts_with("part:")) {
        const auto kind = place_kind(fact.substr(5));
        return kind && has_part(*kind);
    }
    if (fact.starts_with("mark:")) {
        const auto kind = mark_kind(fact.substr(5));
        return kind && has_mark(*kind);
    }
    if (fact.starts_with("choice:")) {
        const auto equals = fact.find('=');
        const auto key = fact.substr(7, equals - 7);
        return family_.parameter(key) && choice_of(p_.context(), key) == fact.substr(equals + 1);
    }
    return facts_.contains(fact);
}

std::optional<std::string> SheetWriter::marks(const std::string& word) const {
    const auto kind = mark_kind(word);
    if (!kind || !has_mark(*kind)) return {};
    return of_sides([&](CableSide side) {
        std::vector<std::string> words;
        for (const auto& m : plan_.marks)
            if (m.kind == *kind && m.side == side) words.push_back(distance_words(m));
        return join(words, " and ");
    });
}

std::optional<std::string>
SheetWriter::of_marks(const std::string& word,
                      const std::function<std::string(const CutMark&)>& value) const {
    const auto kind = mark_kind(word);
    if (!kind) return {};
    const auto words = of_sides([&](CableSide side) {
        const auto* m = plan_.find(*kind, side);
        return m ? value(*m) : std::string();
    });
    return words.empty() ? std::nullopt : std::optional(words);
}

std::optional<std::string>
SheetWriter::of_layers(const std::string& name,
                       const std::function<std::string(const LayerDimension&)>& value) const {
    const auto words = of_sides([&](CableSide side) {
        const auto& all = p_.context().dimensions_of(side).layers;
        const auto it = std::find_if(all.begin(), all.end(), [&](const auto& l) { return l.name == name; });
        return it == all.end() ? std::string() : value(*it);
    });
    return words.empty() ? std::nullopt : std::optional(words);
}

std::string SheetWriter::parked(bool over_jacket) const {
    std::vector<std::string> words;
    for (const auto& part : plan_.parked)
        if (part.over_jacket == over_jacket)
            words.push_back(
                fmt::format("{} on side {}", lower_first(part.part), part.side == CableSide::a ? "A" : "B"));
    return join(words);
}

double SheetWriter::from_datum(double z, CableSide side) const {
    return plan_.line(side).from_datum(z);
}

std::string SheetWriter::distance_words(const CutMark& m) const {
    const auto added = plan_.added_by_core_mm(m);
    if (added.empty()) return plan_.distance_words(m.from_datum_mm);
    std::vector<std::string> words;
    const auto& labels = plan_.cores[m.side == CableSide::a ? 0 : 1]->phase_labels;
    for (std::size_t i = 0; i < added.size(); ++i)
        words.push_back(labels[i] + " " + plan_.distance_words(m.from_datum_mm + added[i]));
    return join(words);
}

std::string SheetWriter::from_reference(const CutMark& mark) const {
    const double d = std::abs(mark.z_mm - built_.datum_z_mm);
    if (d < 0.05) return "the " + name_of(built_.datum);
    return fmt::format("{} from the {}", both_units(d), name_of(built_.datum));
}

std::string SheetWriter::ends_of(const PlacedPart& part) const {
    const auto side_of = [&](double z) { return joint_ && z > 0 ? CableSide::b : CableSide::a; };
    const auto words = [&](double z) {
        const auto side = side_of(z);
        return plan_.distance_words(from_datum(z, side)) +
               (joint_ ? side == CableSide::a ? " on side A" : " on side B" : "");
    };
    const bool open = !joint_ && part.z1_mm > built_.datum_z_mm + 1; // runs past the datum: moulded on
    if (open && built_.datum != place::cable_end) return words(part.z0_mm);
    if (!joint_ && built_.datum == place::cable_end && part.z1_mm > built_.datum_z_mm + 1)
        return words(part.z0_mm) +
               fmt::format(" and {} past the cable end", both_units(part.z1_mm - built_.datum_z_mm));
    return words(part.z0_mm) + " and " + words(part.z1_mm);
}

std::string SheetWriter::place_words(const PlacedPart& part) const {
    switch (part.kind) {
    case FitItem::Kind::shrink:
        return fmt::format("Draw it to its marks and recover it {}, the heat going round and round, "
                           "until it lies smooth and "
                           "takes the shape of what is beneath.",
                           joint_ && part.z0_mm < 0 && part.z1_mm > 0
                               ? school("shrinking") == "middle outwards" ? "from the middle to both ends"
                                                                          : "from one end to the other"
                               : "from its lower end upwards");
    case FitItem::Kind::cold_shrink:
        return "Bring it to its mark and unwind the support, counter-clockwise, a turn at a time. Half "
               "released, look at the "
               "mark again; only then release the rest.";
    case FitItem::Kind::slip_on:
        return "Push it on over the greased insulation in one movement, turning a little, up to its "
               "mark.";
    case FitItem::Kind::over_connector:
        break;
    }
    return "Put it in its place.";
}

std::string SheetWriter::place_otherwise(const PlacedPart& part) {
    switch (part.kind) {
    case FitItem::Kind::shrink:
        return "A recovered tube is not moved. Cut it off without a nick in what lies beneath and use a "
               "new one; else cut "
               "back and start again.";
    case FitItem::Kind::cold_shrink:
        return "Half released: stop and pull it back to the mark. Released: take it off and use a new "
               "one.";
    default:
        return "Pull it off, grease again and push it on to its mark.";
    }
}

std::string SheetWriter::tape_words() const {
    std::vector<std::string> words;
    for (const auto& q : p_.fit.quantities)
        if (q.tape)
            words.push_back(fmt::format("{}: {} passes at the highest place, {:.0f} m, {} roll{}", q.part,
                                        q.tape->passes, std::ceil(q.tape->supplied_mm / 1e3), q.tape->rolls,
                                        q.tape->rolls == 1 ? "" : "s"));
    return join(words, "; ");
}

std::optional<std::string> SheetWriter::value(const std::string& name, const PlacedPart* part) const {
    const auto colon = name.find(':');
    const auto kind = name.substr(0, colon), rest = colon == std::string::npos ? "" : name.substr(colon + 1);
    if (kind == "marks") return marks(rest);
    if (kind == "tolerance") { // of a kind of mark: alike on both sides
        const auto of = mark_kind(rest);
        const auto m = std::find_if(plan_.marks.begin(), plan_.marks.end(),
                                    [&](const auto& mark) { return of && mark.kind == *of; });
        return m == plan_.marks.end() ? std::nullopt
               : m->accepted          ? std::optional(m->accepted->words())
                                      : std::optional(fmt::format("± {:g} mm", m->tolerance_mm));
    }
    if (kind == "blade") // rounded down: never deeper than it may
        return of_marks(rest, [](const CutMark& m) {
            return m.blade_mm ? fmt::format("{:.1f} mm", std::floor(10 * *m.blade_mm + 1e-9) / 10) : "";
        });
    if (kind == "thickness" && rest == "jacket")
        return of_sides([&](CableSide side) {
            return fmt::format("{:.1f} mm", p_.context().cable_of(side).jacket_thickness_mm);
        });
    if (kind == "thickness")
        return of_layers(rest,
                         [](const LayerDimension& l) { return fmt::format("{:.1f} mm", l.thickness_mm); });
    if (kind == "diameter")
        return of_layers(rest, [](const LayerDimension& layer) {
            return fmt::format("{:.1f} ± {:.1f} mm / {:.2f} in", layer.diameter_mm,
                               std::max(0.1, layer.uncertainty_mm), layer.diameter_mm / mm_per_inch);
        });
    if (kind == "p") return parameter(rest);
    if (const auto* spec = family_.parameter(rest);
        kind == "choice" && spec && spec->kind == ParameterKind::choice) {
        const auto chosen = choice_of(p_.context(), rest);
        for (const auto& [option, words] : spec->options)
            if (option == chosen) return words;
        return chosen;
    }
    if (kind == "reference") // from what can be found before anything is cut
        return of_marks(rest, [&](const CutMark& m) { return from_reference(m); });
    if (kind == "school") {
        for (const auto& spec : work_schools())
            if (spec.key == rest)
                for (const auto& [option, words] : spec.options)
                    if (option == school(rest)) return words;
        return {};
    }
    if (kind == "work") {
        const auto& all = work_numbers();
        const bool known = std::any_of(all.begin(), all.end(), [&](const auto& s) { return s.key == rest; });
        return known ? std::optional(both_units(work_number(p_.design.work, rest))) : std::nullopt;
    }
    if (kind == "derived") {
        const auto it = built_.derived.find(rest);
        return it == built_.derived.end() ? std::nullopt : std::optional(both_units(it->second));
    }
    if (kind == "parked") return parked(rest == "jacket");
    if (part) {
        if (name == "part") return upper_first(part->label.empty() ? part->part : part->label);
        if (name == "part lower") return lower_first(part->label.empty() ? part->part : part->label);
        if (name == "ends") return ends_of(*part);
        if (name == "place words") return place_words(*part);
        if (name == "place otherwise") return place_otherwise(*part);
    }
    return plain(name);
}

std::optional<std::string> SheetWriter::parameter(const std::string& key) const {
    const auto* spec = family_.parameter(key);
    if (!spec || spec->kind == ParameterKind::choice) return {};
    const double v = number_of(p_.context(), key);
    if (spec->kind == ParameterKind::length) return both_units(v);
    return v == std::round(v) ? fmt::format("{:g}", v) : format_figures(v, 3); // counts are whole
}

std::optional<std::string> SheetWriter::plain(const std::string& name) const {
    if (name == "datum") return name_of(plan_.datum);
    if (name == "accessory datum") return name_of(built_.datum);
    if (name == "datum place") {
        const auto at = plan_.datum == place::jacket_cut
                            ? of_marks("jacket_cut", [&](const CutMark& m) { return from_reference(m); })
                            : std::nullopt;
        if (!at) return "mark it where it stays to be seen";
        return fmt::format(
            "it will lie {}; a tape mark round the jacket {} behind it stays when it is covered", *at,
            both_units(100));
    }
    if (name == "cable")
        return cable_words(p_.cable) + (p_.other_cable ? "; side B " + cable_words(*p_.other_cable) : "");
    if (name == "duty")
        return fmt::format(
            "{}, {} kV, U0 {} kV, {}", p_.standard_title, fmt::format("{:g}", p_.design.duty.class_kV),
            format_figures(p_.design.duty.u0(), 3), p_.design.duty.outdoor ? "outdoor" : "indoor");
    if (name == "fit") {
        std::vector<std::string> words;
        for (const auto& c : p_.fit.checks)
            if (c.highest > 0 && c.unit == "mm")
                words.push_back(
                    c.lowest > 0
                        ? fmt::format("{}: {:.1f} to {:.1f} mm", lower_first(c.part), c.lowest, c.highest)
                        : fmt::format("{}: up to {:.1f} mm", lower_first(c.part), c.highest));
        std::sort(words.begin(), words.end());
        words.erase(std::unique(words.begin(), words.end()), words.end());
        return words.empty() ? "none with a range" : join(words);
    }
    if (name == "parts") {
        std::vector<std::string> words;
        for (const auto& part : built_.placed)
            if (!part.integral) words.push_back(lower_first(part.label.empty() ? part.part : part.label));
        return words.empty() ? "see the list" : join(words);
    }
    if (name == "armour")
        return of_sides([&](CableSide side) {
            const auto& cable = p_.context().cable_of(side);
            return std::string(cable.armour == "none" ? "" : armour_words(cable));
        });
    if (name == "saw") {
        // The saw leaves what the longest core needs beyond the marked end: nobody joins it on again.
        const auto longer = longer_cores_mm(p_.design.work);
        const double longest = *std::max_element(longer.begin(), longer.end());
        const auto end = built_.datum == place::cable_end
                             ? std::optional<std::string>("the cable end, where the cable is sound and dry")
                             : of_marks("cable_end", [&](const CutMark& m) { return from_reference(m); });
        if (!end) return std::nullopt;
        if (!facts_.contains("three cores") || !(longest > 0)) return end;
        return fmt::format("{} further out than {}: the longest core needs it", both_units(longest), *end);
    }
    if (name == "room") {
        if (!joint_) return both_units(500) + " behind the jacket cut";
        return of_sides([&](CableSide side) {
                   return both_units(std::max(300.0, plan_.room_needed_mm[side == CableSide::a ? 0 : 1]));
               }) +
               " behind the jacket cut";
    }
    if (name == "phases")
        for (const auto& layout : plan_.cores)
            if (layout) return join(layout->phase_labels);
    if (name == "cores")
        return of_sides([&](CableSide side) {
            std::vector<std::string> words;
            if (const auto& layout = plan_.cores[side == CableSide::a ? 0 : 1])
                for (std::size_t i = 0; i < layout->core_length_mm.size(); ++i)
                    words.push_back(
                        fmt::format("{} {}", layout->phase_labels[i], both_units(layout->core_length_mm[i])));
            return join(words);
        });
    if (name == "stagger") {
        const auto longer = longer_cores_mm(p_.design.work);
        const double least = *std::min_element(longer.begin(), longer.end());
        std::vector<std::string> words;
        for (std::size_t i = 0; i < longer.size(); ++i)
            words.push_back(longer[i] > least
                                ? fmt::format("phase {} {} towards B", i + 1, both_units(longer[i] - least))
                                : fmt::format("phase {} nearest to A", i + 1));
        return join(words);
    }
    if (name == "stagger length") return both_units(plan_.stagger_mm());
    if (name == "allowance") {
        const auto *end = plan_.find(MarkKind::insulation_end), *reach = plan_.find(MarkKind::connector_end);
        return end && reach ? std::optional(both_units(std::abs(end->z_mm - reach->z_mm))) : std::nullopt;
    }
    if (name == "edge from connector")
        return of_sides([&](CableSide side) {
            const auto *edge = plan_.find(MarkKind::screen_edge, side),
                       *reach = plan_.find(MarkKind::connector_end, side);
            const double end = reach ? reach->z_mm : built_.datum_z_mm; // a lug's end is the datum
            return edge ? both_units(std::abs(edge->z_mm - end)) : std::string();
        });
    if (name == "edge place")
        return facts_.contains("edge from connector")
                   ? fmt::format("its mark, {} behind the connector's end", *plain("edge from connector"))
                   : marks("screen_edge");
    if (name == "bolts") {
        const auto given = school("bolts_per_side");
        return given == "table" ? std::string("All bolts") : given + " bolts a side";
    }
    if (name == "connector word") return facts_.contains("lug") ? "lug" : "connector";
    if (name == "connector")
        return connector_
                   ? fmt::format("{}: {} long, {} diameter when finished", connector_->id,
                                 both_units(connector_->length_mm), both_units(connector_->diameter_mm))
                   : std::string("Size and depth by its own table");
    if (name == "crimps")
        return joint_ ? school("crimps") == "middle outwards" ? "from the middle outwards"
                                                              : "from the cable side inwards"
                      : "from the palm side towards the cable";
    if (name == "die")
        return connector_ && !connector_->die.empty()
                   ? fmt::format(" Die {}, {} crimps a side.", connector_->die, connector_->crimps)
                   : std::string(" Die and number of crimps by the connector's table.");
    if (name == "shear_bolts")
        return school("shear_bolts") == "outer first" ? "the outer ones first, then the inner"
                                                      : "the inner ones first, then the outer";
    if (name == "shrinking")
        return school("shrinking") == "middle outwards" ? "from the middle to both ends"
                                                        : "from one end to the other";
    if (name == "tape") return tape_words();
    return {};
}

} // namespace ng
