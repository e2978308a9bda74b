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
};

struct StepBook {
    std::string origin;
    std::vector<std::pair<std::string, std::string>> phases; ///< id, words; in order
    std::vector<StepSpec> steps;
    std::vector<OrderRule> rules;
};

/// Refuses by item: steps out of the phases' order, doubled ids, rules that name nothing.
Result<StepBook> read_steps(const nlohmann::json& document);
Result<StepBook> load_steps(const Library& library);

/// "screen_edge" and so on, as the book writes kinds of marks.
std::optional<MarkKind> mark_kind(const std::string& word);

} // namespace ng
