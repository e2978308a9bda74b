#include "trainer/drills.h"
#include "design/revisions.h"
#include "plan/mark_facts.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace ng {
namespace {

constexpr std::size_t ordered_steps = 5, shown_before = 3, shown_after = 3;
constexpr double mark_tolerance_mm = 0.5; // of a distance that is worked out

tl::unexpected<InputError> nothing_to_ask(const PlannedWork& bench, Task task) {
    return refuse(bench.prepared.design.title,
                  fmt::format("it has nothing to ask for “{}”", task_title(task)),
                  "Choose another design or drill");
}

std::string side_words(const PlannedWork& bench, CableSide side) {
    return !bench.plan.two_sides() ? "" : side == CableSide::a ? " A" : " B";
}

/// Letters in the order in which the options are shown; `right` becomes the solution's key.
void set_options(Drill& drill, std::vector<std::pair<std::string, bool>> options, Chance& chance) {
    chance.shuffle(options);
    char key = 'a';
    for (auto& [words, right] : options) {
        if (right) drill.solution.keys.push_back(std::string(1, key));
        drill.question.options.push_back({std::string(1, key++), std::move(words)});
    }
    drill.question.form = Question::Form::one;
}

/// Rules that tie one step to another, by index in the sheet.
std::vector<std::pair<std::size_t, std::size_t>> ties(const WorkSheet& sheet) {
    std::vector<std::pair<std::size_t, std::size_t>> out;
    for (const auto& rule : sheet.rules)
        for (std::size_t i = 0; i < sheet.steps.size(); ++i)
            for (std::size_t j = 0; j < sheet.steps.size(); ++j)
                if (i != j && is_named(sheet.steps[i].step_id, sheet.steps[i].tags, rule.first) &&
                    is_named(sheet.steps[j].step_id, sheet.steps[j].tags, rule.then))
                    out.emplace_back(i, j);
    return out;
}

Result<Drill> order(const PlannedWork& bench, Chance& chance) {
    const auto& steps = bench.sheet.steps;
    const auto tied = ties(bench.sheet);
    // Five steps of which as many as possible are tied to one another.
    std::vector<std::size_t> best;
    std::size_t most = 0;
    for (int tries = 0; tries < 200; ++tries) {
        std::vector<std::size_t> some(steps.size());
        for (std::size_t i = 0; i < some.size(); ++i) some[i] = i;
        chance.shuffle(some);
        some.resize(std::min(some.size(), ordered_steps));
        std::set<std::string> titles;
        for (const auto i : some) titles.insert(steps[i].title);
        if (titles.size() < some.size()) continue; // two that read alike cannot be told apart
        const std::set<std::size_t> in(some.begin(), some.end());
        std::set<std::pair<std::size_t, std::size_t>> pairs;
        for (const auto& [i, j] : tied)
            if (in.contains(i) && in.contains(j)) pairs.insert({i, j});
        if (pairs.size() > most) most = pairs.size(), best = some;
    }
    if (most < 3) return nothing_to_ask(bench, Task::order);
    Drill drill;
    drill.question.form = Question::Form::order;
    drill.question.words = "Put these steps into an order in which none of them can do harm.";
    chance.shuffle(best);
    if (std::is_sorted(best.begin(), best.end())) std::reverse(best.begin(), best.end());
    std::vector<std::pair<std::size_t, std::string>> keys;
    for (std::size_t i = 0; i < best.size(); ++i) {
        const std::string key(1, static_cast<char>('a' + i));
        drill.question.options.push_back({key, steps[best[i]].title});
        drill.steps[key] = steps[best[i]];
        keys.emplace_back(best[i], key);
    }
    std::sort(keys.begin(), keys.end());
    for (const auto& [unused, key] : keys) drill.solution.keys.push_back(key);
    std::set<std::string> whys;
    for (const auto& rule : bench.sheet.rules)
        for (const auto i : best)
            for (const auto j : best)
                if (i != j && is_named(steps[i].step_id, steps[i].tags, rule.first) &&
                    is_named(steps[j].step_id, steps[j].tags, rule.then))
                    whys.insert(rule.why);
    drill.solution.why = fmt::format("{}", fmt::join(whys, ". "));
    drill.rules = bench.sheet.rules;
    return drill;
}

Result<Drill> missing(const PlannedWork& bench, const TrainerData& data, Chance& chance) {
    const auto& steps = bench.sheet.steps;
    std::vector<std::pair<std::size_t, std::string>> askable; // step, why it may not be missing
    for (std::size_t i = 1; i + 1 < steps.size(); ++i) {
        if (steps[i].own_words) continue;
        if (steps[i].hold) {
            askable.emplace_back(i, "Hold point: " + steps[i].hold->check);
            continue;
        }
        for (const auto& rule : bench.sheet.rules)
            if (is_named(steps[i].step_id, steps[i].tags, rule.first)) {
                askable.emplace_back(i, rule.why);
                break;
            }
    }
    // Others are steps of the book that this design does not call for: they are certainly not missing.
    std::vector<std::string> others;
    for (const auto& spec : data.book.steps) {
        const bool here = std::any_of(steps.begin(), steps.end(), [&](const auto& s) {
            return s.step_id == spec.id || s.title == spec.title;
        });
        if (!here && spec.title.find('{') == std::string::npos &&
            std::find(others.begin(), others.end(), spec.title) == others.end())
            others.push_back(spec.title);
    }
    if (askable.empty() || others.size() < 3) return nothing_to_ask(bench, Task::missing);
    const auto [at, why] = askable[chance.below(askable.size())];
    Drill drill;
    drill.question.words = "One step is missing between these. Which one?";
    const auto first = at > shown_before ? at - shown_before : 0;
    for (std::size_t i = first; i < std::min(steps.size(), at + shown_after + 1); ++i)
        if (i != at) drill.question.given.push_back(fmt::format("Step: {}", steps[i].title));
    chance.shuffle(others);
    set_options(drill, {{steps[at].title, true}, {others[0], false}, {others[1], false}, {others[2], false}},
                chance);
    drill.solution.why = at > 0 ? fmt::format("It comes after “{}”. {}", steps[at - 1].title, why) : why;
    return drill;
}

/// Thickness of the layer that a mark cuts, as the cable is described.
std::optional<double> thickness_of(const CutMark& mark, const PlannedWork& bench) {
    const auto& cable = bench.prepared.context().cable_of(mark.side);
    const auto& dimensions = bench.prepared.context().dimensions_of(mark.side);
    switch (mark.kind) {
    case MarkKind::insulation_end:
        return dimensions.layer("insulation").thickness_mm;
    case MarkKind::screen_edge:
        return dimensions.layer("insulation screen").thickness_mm;
    case MarkKind::metallic_cut:
        return dimensions.layer("metallic screen").thickness_mm;
    case MarkKind::bedding_cut:
        return cable.bedding_thickness_mm;
    case MarkKind::jacket_cut:
        return cable.jacket_thickness_mm;
    default:
        return {};
    }
}

Result<Drill> blade(const PlannedWork& bench, Chance& chance) {
    std::vector<const CutMark*> cuts;
    for (const auto& m : bench.plan.marks)
        if (m.blade_mm && thickness_of(m, bench)) cuts.push_back(&m);
    if (cuts.empty()) return nothing_to_ask(bench, Task::blade);
    const auto& m = *cuts[chance.below(cuts.size())];
    Drill drill;
    drill.question.form = Question::Form::number;
    drill.question.unit = "mm";
    drill.question.words =
        fmt::format("How deep is the blade set for the {} at the {}? What lies beneath, the {}, must not be "
                    "touched.",
                    m.cuts, m.label, m.spares);
    drill.question.given.push_back(fmt::format("The {} is {} thick", m.cuts, in_mm(*thickness_of(m, bench))));
    drill.solution.number = *m.blade_mm;
    // Shallower is a second pass; deeper reaches what must not be touched.
    drill.solution.least = 0.6 * *m.blade_mm;
    drill.solution.most = *m.blade_mm + 0.05;
    drill.solution.why = fmt::format("The layer may be thinner than it is said to be, and the last of it is "
                                     "torn or peeled: {:.2g} mm with a {}",
                                     *m.blade_mm, m.tool);
    return drill;
}

Result<Drill> tool(const PlannedWork& bench, Chance& chance) {
    std::vector<const CutMark*> cuts;
    std::set<std::string> tools;
    for (const auto& m : bench.plan.marks)
        if (!m.cuts.empty() && !m.tool.empty()) cuts.push_back(&m), tools.insert(m.tool);
    if (tools.size() < 2) return nothing_to_ask(bench, Task::tool);
    const auto& m = *cuts[chance.below(cuts.size())];
    Drill drill;
    drill.question.words = fmt::format("With what is the {} cut at the {}?", m.cuts, m.label);
    // Another mark that cuts the same layer otherwise would be right too.
    for (const auto* other : cuts)
        if (other->cuts == m.cuts) tools.erase(other->tool);
    std::vector<std::string> wrong(tools.begin(), tools.end());
    chance.shuffle(wrong);
    if (wrong.empty()) return nothing_to_ask(bench, Task::tool);
    wrong.resize(std::min<std::size_t>(wrong.size(), 3));
    std::vector<std::pair<std::string, bool>> options{{m.tool, true}};
    for (auto& w : wrong) options.emplace_back(std::move(w), false);
    set_options(drill, std::move(options), chance);
    drill.solution.why = m.why;
    return drill;
}

Result<Drill> connector(const PlannedWork& bench, Chance& chance) {
    std::vector<CableSide> sides{CableSide::a};
    if (bench.plan.two_sides()) sides.push_back(CableSide::b);
    const auto side = sides[chance.below(sides.size())];
    const auto& plan = bench.plan;
    const auto *end = plan.find(MarkKind::cable_end, side), *reach = plan.find(MarkKind::connector_end, side),
               *bare = plan.find(MarkKind::insulation_end, side);
    if (!end || !reach || !bare) return nothing_to_ask(bench, Task::connector);
    const double covered = std::abs(reach->z_mm - end->z_mm), cut = std::abs(bare->z_mm - end->z_mm);
    const double allowance = cut - covered;
    if (!(covered > 0) || !(allowance > 0)) return nothing_to_ask(bench, Task::connector);
    Drill drill;
    drill.question.form = Question::Form::number;
    drill.question.unit = "mm";
    const auto* other =
        plan.find(MarkKind::connector_end, side == CableSide::a ? CableSide::b : CableSide::a);
    const auto* far_end = plan.find(MarkKind::cable_end, side == CableSide::a ? CableSide::b : CableSide::a);
    drill.question.words =
        fmt::format("How far from the cable end is the insulation cut{}{}?",
                    side_words(bench, side).empty() ? "" : ", side", side_words(bench, side));
    if (plan.two_sides() && other && far_end) {
        const double whole = std::abs(other->z_mm - reach->z_mm), gap = std::abs(far_end->z_mm - end->z_mm);
        // Only where both sides share the connector evenly is it a half.
        if (std::abs(std::abs(other->z_mm - far_end->z_mm) - covered) < 1e-6) {
            drill.question.given.push_back(fmt::format("The connector is {} long", in_mm(whole)));
            drill.question.given.push_back(
                gap > 0 ? fmt::format("{} stay between the two conductors in its middle", in_mm(gap))
                        : std::string("The two conductors meet in its middle"));
        } else {
            drill.question.given.push_back(
                fmt::format("The connector takes {} on this side", in_mm(covered)));
        }
    } else {
        drill.question.given.push_back(fmt::format("The lug's barrel takes {} of conductor", in_mm(covered)));
    }
    drill.question.given.push_back(
        fmt::format("Allowance between connector and insulation: {}", in_mm(allowance)));
    drill.solution.number = cut;
    drill.solution.least = cut - mark_tolerance_mm;
    drill.solution.most = cut + mark_tolerance_mm;
    drill.solution.why =
        fmt::format("{} in the connector and {} beside it", in_mm(covered), in_mm(allowance));
    return drill;
}

Result<Drill> datum(const PlannedWork& bench, const Job& job, const std::string& design,
                    const TrainerData& data, Chance& chance) {
    std::vector<PlaceId> others;
    for (const auto& d : bench.plan.datums)
        if (d != bench.plan.datum) others.push_back(d);
    if (others.empty()) return nothing_to_ask(bench, Task::datum);
    const auto to = others[chance.below(others.size())];
    auto changed = job;
    changed.find_design(design)->work.datum = to;
    const auto prepared = prepare_design(changed, design, *data.library);
    if (!prepared) return tl::unexpected(prepared.error());
    const auto plan = make_plan(*prepared);
    if (!plan) return tl::unexpected(plan.error());
    std::vector<std::pair<const CutMark*, const CutMark*>> marks; // here, and from the other datum
    for (const auto& m : bench.plan.marks) {
        if (m.kind == MarkKind::reference) continue;
        const auto* n = plan->find(m.place);
        if (n && std::abs(n->from_datum_mm) > 1 && std::abs(m.from_datum_mm) > 1) marks.emplace_back(&m, n);
    }
    if (marks.empty()) return nothing_to_ask(bench, Task::datum);
    const auto [m, n] = marks[chance.below(marks.size())];
    const double apart = std::abs(plan->line(m->side).zero_z_mm - bench.plan.line(m->side).zero_z_mm);
    Drill drill;
    drill.question.form = Question::Form::number;
    drill.question.unit = "mm";
    const double there = bench.plan.line(m->side).from_datum(plan->line(m->side).zero_z_mm);
    drill.question.words = fmt::format("How far from the {} does the {} lie?", name_of(to), m->label);
    drill.question.given = {fmt::format("The {} lies {} from the {}", m->label,
                                        bench.plan.distance_words(m->from_datum_mm),
                                        name_of(bench.plan.datum)),
                            fmt::format("The {} lies {} from the {}", name_of(to),
                                        bench.plan.distance_words(there), name_of(bench.plan.datum))};
    drill.solution.number = std::abs(n->from_datum_mm);
    drill.solution.least = drill.solution.number - mark_tolerance_mm;
    drill.solution.most = drill.solution.number + mark_tolerance_mm;
    drill.solution.why =
        fmt::format("The two lie {} apart: {}", in_mm(apart), plan->distance_words(n->from_datum_mm));
    return drill;
}

Result<Drill> window(const PlannedWork& bench, Chance& chance) {
    std::vector<const CutMark*> marks;
    for (const auto& m : bench.plan.marks)
        if (m.tolerance_mm > 0 && std::abs(m.from_datum_mm) > 1) marks.push_back(&m);
    if (marks.empty()) return nothing_to_ask(bench, Task::window);
    const auto& m = *marks[chance.below(marks.size())];
    const bool inside = chance.happens(0.5);
    double off = m.tolerance_mm * (inside ? chance.between(0, 0.8) : chance.between(1.3, 2.5));
    off = std::round(10 * off) / 10;
    const double read = m.from_datum_mm + (chance.happens(0.5) ? off : -off);
    const bool accept = std::abs(off) <= m.tolerance_mm + 1e-9;
    Drill drill;
    drill.question.words = fmt::format("The {} was read. Accept it?", m.label);
    drill.question.given = {fmt::format("It belongs {} from the {}, ± {:g} mm",
                                        bench.plan.distance_words(m.from_datum_mm), name_of(bench.plan.datum),
                                        m.tolerance_mm),
                            fmt::format("Read: {}", bench.plan.distance_words(read))};
    set_options(drill, {{"Accept", accept}, {"Do not accept: mark it again, or stop and ask", !accept}},
                chance);
    drill.solution.why =
        fmt::format("It is {:.1f} mm off, ± {:g} mm are allowed. {}", off, m.tolerance_mm, m.why);
    return drill;
}

Result<Drill> caution(const PlannedWork& bench, Chance& chance) {
    const auto& steps = bench.sheet.steps;
    std::vector<const SheetStep*> with;
    std::set<std::string> all;
    for (const auto& s : steps) {
        if (!s.cautions.empty()) with.push_back(&s);
        all.insert(s.cautions.begin(), s.cautions.end());
    }
    if (with.empty()) return nothing_to_ask(bench, Task::caution);
    const auto& step = *with[chance.below(with.size())];
    for (const auto& c : step.cautions) all.erase(c);
    std::vector<std::string> wrong(all.begin(), all.end());
    if (wrong.size() < 2) return nothing_to_ask(bench, Task::caution);
    chance.shuffle(wrong);
    wrong.resize(std::min<std::size_t>(wrong.size(), 3));
    Drill drill;
    drill.question.words = fmt::format("Which caution stands at the step “{}”?", step.title);
    std::vector<std::pair<std::string, bool>> options{
        {step.cautions[chance.below(step.cautions.size())], true}};
    for (auto& w : wrong) options.emplace_back(std::move(w), false);
    set_options(drill, std::move(options), chance);
    drill.solution.why =
        "As the sheet says it at that step; local rules and the maker's instructions go first";
    return drill;
}

} // namespace

Result<PlannedWork> lay_out(const Job& job, const std::string& design, const TrainerData& data) {
    auto bench = plan_work(job, design, *data.library, data.book);
    if (bench && !bench->sheet.broken_rules.empty())
        return refuse(bench->prepared.design.title, bench->sheet.broken_rules.front(),
                      "Mend its work sheet first");
    return bench;
}

Result<Drill> make_drill(Task task, const PlannedWork& bench, const Job& job, const std::string& design,
                         const TrainerData& data, Chance chance) {
    switch (task) {
    case Task::order:
        return order(bench, chance);
    case Task::missing:
        return missing(bench, data, chance);
    case Task::blade:
        return blade(bench, chance);
    case Task::tool:
        return tool(bench, chance);
    case Task::connector:
        return connector(bench, chance);
    case Task::datum:
        return datum(bench, job, design, data, chance);
    case Task::window:
        return window(bench, chance);
    case Task::caution:
        return caution(bench, chance);
    case Task::inspect:
        break;
    }
    return nothing_to_ask(bench, task);
}

std::vector<std::string> given_of(const PlannedWork& bench) {
    return {fmt::format("{}: {}", bench.prepared.design.title, bench.prepared.family->title),
            bench.sheet.cable, bench.sheet.duty};
}

} // namespace ng
