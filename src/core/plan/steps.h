// The book of steps (data/steps/steps.json): what jointers do, in order, with the facts that call for each
// step and the rules that their order must keep. Data, so that a firm can write its own.
#pragma once
#include "plan/plan.h"

namespace ng {

struct HoldPoint {
    std::string check;     ///< what is measured or looked at
    std::string accept;    ///< the range
    std::string otherwise; ///< rework, or cut back and start again
};

/// A step as the book has it; texts carry placeholders in braces (sheet.cpp lists them).
struct StepSpec {
    std::string id, phase, title;
    std::vector<std::string> when; ///< facts that must all hold; "no ..." negates
    std::vector<std::string> tags; ///< for the rules
    std::vector<std::string> text, tools, cautions;
    struct Consumable {
        std::string item;
        double count = 0;
        std::string per; ///< "side" (of each core) or "joint"
    };
    std::vector<Consumable> consumables;
    std::optional<HoldPoint> hold;
    std::string wait_for;
    double wait_s = 0;
    std::vector<std::string> marks; ///< kinds of marks that its picture shows
    std::vector<std::string> cuts;  ///< kinds of marks that are cut in it; shown too
    std::vector<PlaceKind> lays;    ///< what lies there afterwards, on all sides
    enum class Each { once, control, cover };
    Each each = Each::once; ///< once for every placed part: of the stress control, or over it
};

/// Every step that `first` names comes before every step that `then` names; "#..." names a tag.
struct OrderRule {
    std::string first, then, why;
    std::vector<std::string> when = {}; ///< facts that must all hold, as of steps
};

/// A school that works in another order: where its facts hold, these steps stand before (or after) another.
struct OtherOrder {
    std::vector<std::string> when;
    std::vector<std::string> steps; ///< ids or tags, moved together in the order of the book
    std::string before, after;      ///< one of them is given: a step or a tag
};

struct StepBook {
    std::string origin;
    std::vector<std::pair<std::string, std::string>> phases; ///< id, words; in order
    std::vector<StepSpec> steps;
    std::vector<OrderRule> rules;
    std::vector<OtherOrder> orders;
};

/// Refuses by item: steps out of the phases' order, doubled ids, rules that name nothing, and a book without
/// the hold points that no school may leave out (required_holds).
const std::vector<std::string>& required_holds();
Result<StepBook> read_steps(const nlohmann::json& document);
Result<StepBook> load_steps(const Library& library);

/// Of the step with this id, or of each with this tag ("#...").
bool is_named(const std::string& id, const std::vector<std::string>& tags, const std::string& name);

/// What hands lay beyond what the section shows: of the whole end.
bool lies_outside_section(PlaceKind kind);

/// "screen_edge" and so on, as the book writes kinds of marks.
std::optional<MarkKind> mark_kind(const std::string& word);

} // namespace ng
