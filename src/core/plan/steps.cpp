#include "plan/steps.h"
#include "io/file.h"
#include "io/json_reader.h"
#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace ng {
namespace {

std::vector<std::string> words(const char* key, JsonReader& in) {
    std::vector<std::string> out;
    for (const auto& value : in.array(key)) {
        if (!value.is_string()) {
            in.fail(fmt::format("“{}” holds what is no text", key), "Correct it");
            break;
        }
        out.push_back(value.get<std::string>());
    }
    return out;
}

bool are_texts(const nlohmann::json& value) {
    return value.is_array() &&
           std::all_of(value.begin(), value.end(), [](const auto& v) { return v.is_string(); });
}

Result<StepSpec> read_step(const nlohmann::json& value) {
    JsonReader named(value, "step");
    StepSpec s;
    s.id = named.text("id");
    if (!named.ok()) return tl::unexpected(*named.error());
    JsonReader in(value, "step " + s.id);
    s.phase = in.text("phase");
    s.title = in.text("title");
    s.when = words("when", in);
    s.tags = words("tags", in);
    s.text = words("text", in);
    s.tools = words("tools", in);
    s.cautions = words("cautions", in);
    s.marks = words("marks", in);
    s.cuts = words("cuts", in);
    for (const auto& word : words("lays", in)) {
        const auto kind = place_kind(word);
        if (kind)
            s.lays.push_back(*kind);
        else
            in.fail(fmt::format("“{}” in “lays” is no place", word), "Name a part as sections do");
    }
    for (const auto& fact : s.when)
        if (const auto at = fact.find("part:"); at != std::string::npos && !place_kind(fact.substr(at + 5)))
            in.fail(fmt::format("“{}” in “when” is no place", fact.substr(at + 5)),
                    "Name a part as sections do");
    const auto each = in.text_or("each", "");
    if (each == "placed control")
        s.each = StepSpec::Each::control;
    else if (each == "placed cover")
        s.each = StepSpec::Each::cover;
    else if (!each.empty())
        in.fail(fmt::format("“each” is “{}”", each), "Give “placed control” or “placed cover”");
    for (const auto* kinds : {&s.cuts, &s.marks})
        for (const auto& kind : *kinds)
            if (!mark_kind(kind)) in.fail(fmt::format("“{}” is no kind of mark", kind), "Correct it");
    for (const auto& entry : in.array("consumables")) {
        if (!entry.is_array() || entry.size() != 3 || !entry[0].is_string() || !entry[1].is_number() ||
            !entry[2].is_string()) {
            in.fail("a consumable is not [item, count, per]", "Correct it");
            break;
        }
        s.consumables.push_back({entry[0], entry[1], entry[2]});
    }
    if (value.contains("hold")) {
        JsonReader hold(in.object("hold"), "hold point of step " + s.id);
        s.hold = HoldPoint{hold.text("check"), hold.text("accept"), hold.text("otherwise")};
        if (!hold.ok()) return tl::unexpected(*hold.error());
    }
    if (value.contains("wait")) {
        JsonReader wait(in.object("wait"), "wait of step " + s.id);
        s.wait_for = wait.text("for");
        s.wait_s = wait.number("s");
        if (!wait.ok()) return tl::unexpected(*wait.error());
    }
    if (!in.ok()) return tl::unexpected(*in.error());
    return s;
}

} // namespace

std::optional<MarkKind> mark_kind(const std::string& word) {
    static const std::map<std::string, MarkKind> kinds{
        {"cable_end", MarkKind::cable_end},
        {"connector_end", MarkKind::connector_end},
        {"insulation_end", MarkKind::insulation_end},
        {"conductor_screen_end", MarkKind::conductor_screen_end},
        {"pencil_start", MarkKind::pencil_start},
        {"screen_edge", MarkKind::screen_edge},
        {"metallic_cut", MarkKind::metallic_cut},
        {"core_tube_end", MarkKind::core_tube_end},
        {"crotch", MarkKind::crotch},
        {"bedding_cut", MarkKind::bedding_cut},
        {"armour_cut", MarkKind::armour_cut},
        {"jacket_cut", MarkKind::jacket_cut},
        {"mastic_end", MarkKind::mastic_end},
        {"tube_end", MarkKind::tube_end},
        {"body_end", MarkKind::body_end},
        {"anchor", MarkKind::anchor},
        {"tape_end", MarkKind::tape_end},
        {"calibration", MarkKind::calibration}};
    const auto it = kinds.find(word);
    return it == kinds.end() ? std::nullopt : std::optional(it->second);
}

Result<StepBook> read_steps(const nlohmann::json& document) {
    if (auto v = check_format(document, "needlegauge-steps", 1, "steps"); !v)
        return tl::unexpected(v.error());
    JsonReader in(document, "steps");
    StepBook book;
    book.origin = in.text("origin");
    for (const auto& phase : in.array("phases", true)) {
        if (!phase.is_array() || phase.size() != 2 || !phase[0].is_string() || !phase[1].is_string())
            return refuse("steps", "a phase is not [id, words]", "Correct it");
        book.phases.emplace_back(phase[0], phase[1]);
    }
    const auto phase_of = [&](const std::string& id) {
        return std::find_if(book.phases.begin(), book.phases.end(),
                            [&](const auto& p) { return p.first == id; }) -
               book.phases.begin();
    };
    std::set<std::string> names;
    std::ptrdiff_t phase = 0;
    for (const auto& value : in.array("steps", true)) {
        auto step = read_step(value);
        if (!step) return tl::unexpected(step.error());
        const auto at = phase_of(step->phase);
        if (at == static_cast<std::ptrdiff_t>(book.phases.size()))
            return refuse("step " + step->id, fmt::format("“{}” is no phase", step->phase), "Correct it");
        if (at < phase)
            return refuse("step " + step->id, "it stands behind a later phase",
                          "Put the steps in the order of the phases");
        phase = at;
        if (!names.insert(step->id).second)
            return refuse("step " + step->id, "its id is used twice", "Give each step its own");
        for (const auto& tag : step->tags) names.insert("#" + tag);
        book.steps.push_back(std::move(*step));
    }
    for (const auto& rule : in.array("rules", true)) {
        const bool facts = rule.is_array() && rule.size() == 4;
        if (!rule.is_array() || (rule.size() != 3 && !facts) || !rule[0].is_string() ||
            !rule[1].is_string() || !rule[2].is_string() || (facts && !are_texts(rule[3])))
            return refuse("steps", "a rule is not [first, then, why] or [first, then, why, [facts]]",
                          "Correct it");
        OrderRule r{rule[0], rule[1], rule[2]};
        if (facts) r.when = rule[3].get<std::vector<std::string>>();
        for (const auto& name : {r.first, r.then})
            if (!names.contains(name))
                return refuse("steps", fmt::format("a rule names “{}”, which no step is", name),
                              "Correct it");
        book.rules.push_back(std::move(r));
    }
    for (const auto& value : in.array("orders")) {
        JsonReader order(value, "order of the steps");
        OtherOrder o{words("when", order), words("steps", order), order.text_or("before", ""),
                     order.text_or("after", "")};
        if (!order.ok()) return tl::unexpected(*order.error());
        if (o.before.empty() == o.after.empty())
            return refuse("order of the steps", "it gives neither or both of “before” and “after”",
                          "Give one");
        auto named = o.steps;
        named.push_back(o.before.empty() ? o.after : o.before);
        for (const auto& name : named)
            if (!names.contains(name))
                return refuse("order of the steps", fmt::format("it names “{}”, which no step is", name),
                              "Correct it");
        book.orders.push_back(std::move(o));
    }
    if (!in.ok()) return tl::unexpected(*in.error());
    for (const auto& id : required_holds()) {
        const auto it =
            std::find_if(book.steps.begin(), book.steps.end(), [&](const auto& s) { return s.id == id; });
        if (it == book.steps.end() || !it->hold || !it->when.empty())
            return refuse("steps", fmt::format("the hold point “{}” is missing, or is not of every job", id),
                          "Put it back: nobody may leave it out");
    }
    return book;
}

const std::vector<std::string>& required_holds() {
    static const std::vector<std::string> ids{"isolation", "cable", "conditions", "inspect"};
    return ids;
}

bool lies_outside_section(PlaceKind kind) {
    return kind == PlaceKind::breakout || kind == PlaceKind::core_tube ||
           kind == PlaceKind::rejacketing_sleeve;
}

bool is_named(const std::string& id, const std::vector<std::string>& tags, const std::string& name) {
    return name.starts_with("#") ? std::find(tags.begin(), tags.end(), name.substr(1)) != tags.end()
                                 : id == name;
}

Result<StepBook> load_steps(const Library& library) {
    const auto path = library.folder / "steps/steps.json";
    const auto text = read_file(path, most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = parse_json(*text, path.filename().string());
    if (!document) return tl::unexpected(document.error());
    return read_steps(*document);
}

} // namespace ng
