#include "plan/sheet.h"
#include "plan/mark_facts.h"
#include "plan/picking_list.h"
#include "plan/work.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {

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
                entries_.push_back({&spec, nullptr, laid_by(spec, nullptr)});
                continue;
            }
            for (const auto& part : p_.built.placed)
                if (!part.integral && part.control == (spec.each == StepSpec::Each::control))
                    entries_.push_back({&spec, &part, laid_by(spec, &part)});
        }
        for (const auto& order : book_.orders) reorder(order);
        lay_from_beneath();
        for (const auto& entry : entries_)
            if (auto ok = add(entry); !ok) return tl::unexpected(ok.error());
        writer_.speak_of({});
        sheet_.picking = picking_list(p_, plan_, book_, writer_);
        for (const auto& rule : book_.rules)
            if (writer_.all_hold(rule.when)) sheet_.rules.push_back(rule);
        sheet_.broken_rules = broken_rules(sheet_.steps, sheet_.rules);
        return std::move(sheet_);
    }

  private:
    struct Entry {
        const StepSpec* spec;
        const PlacedPart* part; ///< of a step for each placed part
        std::set<PlaceId> lays;
    };

    std::set<PlaceId> laid_by(const StepSpec& spec, const PlacedPart* part) {
        std::set<PlaceId> out;
        const auto only = writer_.speak_of(spec);
        for (const auto& one : p_.built.parts) {
            const auto side = one.place.side;
            const bool here = !only || side == Side::none || (side == Side::a) == (*only == CableSide::a);
            if (here && std::find(spec.lays.begin(), spec.lays.end(), one.place.kind) != spec.lays.end())
                out.insert(one.place);
        }
        for (const auto kind : spec.lays)
            if (lies_outside_section(kind)) out.insert(PlaceId(kind));
        if (!part) return out;
        out.insert(part->place);
        const auto* first = p_.built.placed.data(); // those moulded into it stand just before it
        for (const auto* before = part; before > first && (before - 1)->integral; --before)
            out.insert((before - 1)->place);
        if (part->kind != FitItem::Kind::shrink) // what is moulded into a body comes with it
            for (const auto& moulded : p_.built.parts)
                if (moulded.moulded) out.insert(moulded.place);
        return out;
    }

    /// Moves the steps of a school's own order, where its facts hold.
    void reorder(const OtherOrder& order) {
        if (!writer_.all_hold(order.when)) return;
        const auto is = [](const Entry& e, const std::string& name) {
            return is_named(e.spec->id, e.spec->tags, name);
        };
        const auto moved = [&](const Entry& e) {
            return std::any_of(order.steps.begin(), order.steps.end(),
                               [&](const auto& name) { return is(e, name); });
        };
        std::vector<Entry> taken, rest;
        for (auto& e : entries_) (moved(e) ? taken : rest).push_back(std::move(e));
        auto at = rest.end();
        if (!order.before.empty()) {
            at = std::find_if(rest.begin(), rest.end(), [&](const auto& e) { return is(e, order.before); });
        } else {
            for (auto it = rest.begin(); it != rest.end(); ++it)
                if (is(*it, order.after)) at = it + 1;
        }
        rest.insert(at, std::make_move_iterator(taken.begin()), std::make_move_iterator(taken.end()));
        entries_ = std::move(rest);
    }

    /// The book gives the usual order; where this section has a part over another, the lower one goes first.
    void lay_from_beneath() {
        const auto under = [&](const Entry& high, const Entry& low) {
            return std::any_of(high.lays.begin(), high.lays.end(), [&](const auto& place) {
                const auto it = writer_.beneath().find(place);
                return it != writer_.beneath().end() &&
                       std::any_of(low.lays.begin(), low.lays.end(), [&](const auto& other) {
                           return it->second.contains(other) && !high.lays.contains(other);
                       });
            });
        };
        std::size_t moves = 0;
        for (std::size_t i = 0; i < entries_.size(); ++i)
            for (std::size_t j = entries_.size(); j-- > i + 1;)
                if (under(entries_[i], entries_[j]) && !under(entries_[j], entries_[i]) &&
                    moves++ < entries_.size() * entries_.size()) {
                    std::rotate(entries_.begin() + static_cast<std::ptrdiff_t>(i),
                                entries_.begin() + static_cast<std::ptrdiff_t>(j),
                                entries_.begin() + static_cast<std::ptrdiff_t>(j) + 1);
                    j = entries_.size();
                }
    }

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
        if (work_school(p_.design.work, "body_when") == "before lug" && writer_.body_over_lug())
            sheet_.cautions.emplace_back(
                "This body lies over the neck of the lug: the lug is fitted first, whatever "
                "the school says. Shorten the body to work the other way.");
        for (const auto& caution : p_.built.cautions) sheet_.cautions.push_back(caution);
    }

    Result<void> add(const Entry& entry) {
        const auto& spec = *entry.spec;
        const auto* part = entry.part;
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
        show(entry, step);
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

    void show(const Entry& entry, SheetStep& step) {
        const auto& spec = *entry.spec;
        for (const auto& kind : spec.marks) step.shown.insert(*mark_kind(kind));
        const auto only = writer_.speak_of(spec);
        for (const auto& word : spec.cuts) {
            const auto kind = *mark_kind(word);
            step.shown.insert(kind);
            cut_.insert(kind);
            for (const auto& m : plan_.marks) {
                if (m.kind != kind || (only && m.side != *only)) continue;
                step.cuts.push_back(m.place);
                if (!m.spares.empty() &&
                    std::find(step.spares.begin(), step.spares.end(), m.spares) == step.spares.end())
                    step.spares.push_back(m.spares);
            }
        }
        std::set<PlaceId> covers;
        for (const auto& place : entry.lays) {
            if (laid_.insert(place).second && !is_air(place)) step.lays.push_back(place);
            if (const auto it = writer_.beneath().find(place); it != writer_.beneath().end())
                for (const auto& low : it->second)
                    if (!entry.lays.contains(low)) covers.insert(low);
        }
        step.covers.assign(covers.begin(), covers.end());
        step.cut = cut_;
        step.changes_picture = !step.shown.empty() || !step.lays.empty();
        step.laid.assign(laid_.begin(), laid_.end());
    }

    bool is_air(const PlaceId& place) const {
        const auto& parts = p_.built.parts;
        return std::any_of(parts.begin(), parts.end(),
                           [&](const auto& part) { return part.place == place && part.hatch == "air"; });
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
    std::vector<Entry> entries_;
    std::set<MarkKind> cut_;
    std::set<PlaceId> laid_;
};

} // namespace

std::vector<std::string> broken_rules(const std::vector<SheetStep>& steps,
                                      const std::vector<OrderRule>& rules) {
    const auto named = [](const SheetStep& step, const std::string& name) {
        return is_named(step.step_id, step.tags, name);
    };
    std::vector<std::string> out;
    for (const auto& rule : rules)
        for (std::size_t i = 0; i < steps.size(); ++i)
            for (std::size_t j = 0; j < i; ++j)
                if (named(steps[i], rule.first) && named(steps[j], rule.then) && steps[i].id != steps[j].id)
                    out.push_back(
                        fmt::format("“{}” stands before “{}”. {}", steps[j].title, steps[i].title, rule.why));
    for (std::size_t i = 0; i < steps.size(); ++i)
        for (std::size_t j = 0; j < i; ++j)
            for (const auto& place : steps[i].lays)
                if (const auto& covers = steps[j].covers;
                    std::find(covers.begin(), covers.end(), place) != covers.end())
                    out.push_back(fmt::format("“{}” covers the {} before “{}” lays it", steps[j].title,
                                              name_of(place), steps[i].title));
    return out;
}

Result<WorkSheet> make_sheet(const PreparedDesign& p, const CutPlan& plan, const StepBook& book,
                             const std::vector<Connector>& connectors,
                             const std::map<std::string, std::string>& own_words) {
    return SheetBuilder(p, plan, book, connectors, own_words).sheet();
}

} // namespace ng
