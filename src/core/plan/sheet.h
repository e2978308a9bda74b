// The work sheet of a design: the book's steps that its facts call for, with its numbers in them, in an order
// that the rules hold. It defers to the maker's instructions, local codes and licensed practice.
#pragma once
#include "plan/steps.h"
#include "units/hand_length.h"
#include <algorithm>
#include <set>

namespace ng {

struct SheetStep {
    std::string id;      ///< of the book; of placed parts with the part's name behind it
    std::string step_id; ///< of the book: key of the firm's own words
    std::string phase;   ///< words
    std::string title;
    std::vector<std::string> lines, tools, consumables, cautions;
    std::optional<HoldPoint> hold;
    std::string wait_for;
    double wait_s = 0;
    bool own_words = false; ///< the firm's, from the job
    std::vector<std::string> tags;
    // What stands after this step, for its picture.
    std::set<MarkKind> cut, shown; ///< cut so far; marks that matter in this step
    bool changes_picture = false;  ///< something was cut, marked or laid
    std::vector<PlaceId> laid;     ///< what lies there then
    bool laid_at(const PlaceId& place) const {
        return std::find(laid.begin(), laid.end(), place) != laid.end();
    }
    // What this step does to the places of the section.
    std::vector<PlaceId> lays;       ///< parts that it puts there
    std::vector<PlaceId> covers;     ///< parts that lie beneath them
    std::vector<PlaceId> cuts;       ///< marks at which it cuts
    std::vector<std::string> spares; ///< layers that the cuts must not touch
};

struct PickItem {
    std::string item, quantity, spare, note;
};

struct WorkSheet {
    std::string title;
    std::string cable, duty, datum;
    std::vector<SheetStep> steps;
    std::vector<PickItem> picking;
    std::vector<std::string> cautions;     ///< for its first page
    std::vector<OrderRule> rules;          ///< those that hold here
    std::vector<std::string> broken_rules; ///< empty, or the sheet must not be used
    std::string origin;
};

/// Refuses a text whose placeholder this design cannot fill, by the step.
Result<WorkSheet> make_sheet(const PreparedDesign& prepared, const CutPlan& plan, const StepBook& book,
                             const std::vector<Connector>& connectors,
                             const std::map<std::string, std::string>& own_words);

/// What the rules say against this order of steps, and the section: nothing is covered before it is laid.
std::vector<std::string> broken_rules(const std::vector<SheetStep>& steps,
                                      const std::vector<OrderRule>& rules);

/// The section as it stands after a step: the cable with its cuts so far, and what was laid.
struct StagePicture {
    Section section;
    std::vector<Part> parts;
    double z0_mm = 0, z1_mm = 0, r_mm = 0;
};
/// A cover drawn over all that lies between these places, of both signs of radius or of one.
void add_outer_cover(StagePicture& picture, const PlaceId& place, double z0_mm, double z1_mm,
                     bool both_signs);
/// From jacket to jacket with its laps, or over the closed end of a cap; none: it is nowhere to be laid.
std::optional<std::pair<double, double>> outer_cover_span(const PreparedDesign& prepared,
                                                          const CutPlan& plan);

StagePicture stage_picture(const PreparedDesign& prepared, const CutPlan& plan, const SheetStep& step);

} // namespace ng
