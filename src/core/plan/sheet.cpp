#include "plan/sheet.h"
#include "plan/mark_facts.h"
#include "plan/picking_list.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace ng {
namespace {

constexpr double least_measured_mm = 10; ///< shorter ones are set on a tool, not measured along the cable

/// Turns the steps that a design calls for into its sheet, one after another: what is cut and laid so far is
/// what the picture of each step shows.
class SheetBuilder {
  public:
    SheetBuilder(const PreparedDesign& p, const CutPlan& plan, const StepBook& book,
                 const std::vector<Connector>& connectors,
                 const std::map<std::string, std::string>& own_words)
        : p_(p), plan_(plan), book_(book), own_words_(own_words), writer_(p, plan, connectors) {}

    Result<WorkSheet> sheet() {
        add_head();
        for (const auto& spec : book_.steps) {
            if (!writer_.called_for(spec)) continue;
            if (spec.each == StepSpec::Each::once) {
                if (auto ok = add(spec, nullptr); !ok) return tl::unexpected(ok.error());
                continue;
            }
            for (const auto& part : p_.built.placed)
                if (!part.integral && part.control == (spec.each == StepSpec::Each::control))
                    if (auto ok = add(spec, &part); !ok) return tl::unexpected(ok.error());
        }
        writer_.speak_of({});
        sheet_.picking = picking_list(p_, plan_, book_, writer_);
        sheet_.broken_rules = broken_rules(sheet_.steps, book_.rules);
        return std::move(sheet_);
    }

  private:
    void add_head() {
        sheet_.title = p_.design.title;
        sheet_.cable = *writer_.fill("{cable}", nullptr, "");
        sheet_.duty = *writer_.fill("{duty}", nullptr, "");
        sheet_.datum = name_of(plan_.datum);
        sheet_.origin = book_.origin;
        sheet_.cautions = {
            "For competent, licensed people under the local codes and the maker's instructions, "
            "which go before this sheet.",
            "It never says that a cable is safe to touch; it does not replace a type test."};
        for (const auto& caution : p_.built.cautions) sheet_.cautions.push_back(caution);
    }

    /// `part`: the placed part that the step is about, if it is about one.
    Result<void> add(const StepSpec& spec, const PlacedPart* part) {
        SheetStep step;
        step.step_id = spec.id;
        step.id = part ? spec.id + "-" + id_of(part->place) : spec.id;
        step.phase = phase_words(spec.phase);
        step.tags = spec.tags;
        step.tools = spec.tools;
        for (const auto& c : spec.consumables) step.consumables.push_back(c.item);
        if (auto ok = write(spec, part, step); !ok) return ok;
        step.wait_for = spec.wait_for;
        step.wait_s = spec.wait_s;
        show(spec, part, step);
        sheet_.steps.push_back(std::move(step));
        return {};
    }

    Result<void> write(const StepSpec& spec, const PlacedPart* part, SheetStep& step) {
        const auto take = [&](const std::string& text, std::string& into) -> Result<void> {
            auto filled = writer_.fill(text, part, spec.id);
            if (!filled) return tl::unexpected(filled.error());
            into = std::move(*filled);
            return {};
        };
        auto lines = spec.text;
        if (const auto it = own_words_.find(spec.id); it != own_words_.end()) {
            lines = {it->second};
            step.own_words = true;
        }
        const auto only = writer_.speak_of(spec);
        if (auto ok = take(spec.title, step.title); !ok) return ok;
        if (only) step.title += *only == CableSide::a ? ", side A" : ", side B";
        for (const auto& line : lines)
            if (auto ok = take(line, step.lines.emplace_back()); !ok) return ok;
        for (const auto& line : spec.cautions)
            if (auto ok = take(line, step.cautions.emplace_back()); !ok) return ok;
        if (!spec.hold) return {};
        step.hold.emplace();
        if (auto ok = take(spec.hold->check, step.hold->check); !ok) return ok;
        if (auto ok = take(spec.hold->accept, step.hold->accept); !ok) return ok;
        return take(spec.hold->otherwise, step.hold->otherwise);
    }

    void show(const StepSpec& spec, const PlacedPart* part, SheetStep& step) {
        for (const auto& kind : spec.marks) step.shown.insert(*mark_kind(kind));
        for (const auto& kind : spec.cuts) {
            step.shown.insert(*mark_kind(kind));
            cut_.insert(*mark_kind(kind));
        }
        const auto laid_before = laid_.size();
        lay(spec.lays);
        if (part) {
            for (const auto& integral : p_.built.placed)
                if (integral.integral) laid_.insert(integral.place);
            laid_.insert(part->place);
            if (part->kind != FitItem::Kind::shrink) // what is moulded into a body comes with it
                for (const auto& moulded : p_.built.parts)
                    if (moulded.moulded) laid_.insert(moulded.place);
        }
        step.cut = cut_;
        step.changes_picture = !step.shown.empty() || laid_.size() > laid_before;
        step.laid.assign(laid_.begin(), laid_.end());
    }

    void lay(const std::vector<PlaceKind>& kinds) {
        for (const auto& part : p_.built.parts)
            if (std::find(kinds.begin(), kinds.end(), part.place.kind) != kinds.end())
                laid_.insert(part.place);
    }

    std::string phase_words(const std::string& id) const {
        for (const auto& [key, words] : book_.phases)
            if (key == id) return words;
        return id;
    }

    const PreparedDesign& p_;
    const CutPlan& plan_;
    const StepBook& book_;
    const std::map<std::string, std::string>& own_words_;
    SheetWriter writer_;
    WorkSheet sheet_;
    std::set<MarkKind> cut_;
    std::set<PlaceId> laid_;
};

} // namespace

std::string inch_fraction(double value_mm) {
    constexpr int parts = 16;
    const int all = static_cast<int>(std::lround(std::abs(value_mm) / mm_per_inch * parts));
    const int whole = all / parts, rest = all % parts, divisor = std::gcd(rest, parts);
    const std::string sign = value_mm < 0 && all > 0 ? "-" : "";
    if (rest == 0) return fmt::format("{}{} in", sign, whole);
    const auto fraction = fmt::format("{}/{}", rest / divisor, parts / divisor);
    return whole == 0 ? fmt::format("{}{} in", sign, fraction)
                      : fmt::format("{}{} {} in", sign, whole, fraction);
}

std::string both_units(double value_mm) {
    if (std::abs(value_mm) < least_measured_mm && value_mm != 0)
        return fmt::format("{:g} mm / {}", std::round(100 * value_mm) / 100,
                           format_length(value_mm, LengthUnit::inch));
    return fmt::format("{:g} mm / {}", std::round(2 * value_mm) / 2 + 0.0, inch_fraction(value_mm));
}

std::vector<std::string> broken_rules(const std::vector<SheetStep>& steps,
                                      const std::vector<OrderRule>& rules) {
    const auto named = [](const SheetStep& step, const std::string& name) {
        return name.starts_with("#")
                   ? std::find(step.tags.begin(), step.tags.end(), name.substr(1)) != step.tags.end()
                   : step.step_id == name;
    };
    std::vector<std::string> out;
    for (const auto& rule : rules)
        for (std::size_t i = 0; i < steps.size(); ++i)
            for (std::size_t j = 0; j < i; ++j)
                if (named(steps[i], rule.first) && named(steps[j], rule.then) && steps[i].id != steps[j].id)
                    out.push_back(
                        fmt::format("“{}” stands before “{}”. {}", steps[j].title, steps[i].title, rule.why));
    return out;
}

Result<WorkSheet> make_sheet(const PreparedDesign& p, const CutPlan& plan, const StepBook& book,
                             const std::vector<Connector>& connectors,
                             const std::map<std::string, std::string>& own_words) {
    return SheetBuilder(p, plan, book, connectors, own_words).sheet();
}

} // namespace ng
