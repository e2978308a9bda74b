// Worst case: the combination of tolerances in which a design comes nearest to its limits, or furthest
// beyond.
#pragma once
#include "study/study.h"

namespace ng {

struct WorstCase {
    std::vector<double> low, high; ///< the box, in the order of the plan: 99 % of each, blunders left out
    std::vector<double> drawn;     ///< the worst found
    double share = 0, error = 0;   ///< of the limit, by itself and beside what the design has
    double nominal_share = 0;
    std::string check;
    int solves = 0, refused = 0; ///< how many builds were judged, and how many could not be built
};

/// What one quantity does by itself, at either end of its tolerance.
struct Swing {
    std::size_t varied = 0;   ///< its number in the plan
    double low = 0, high = 0; ///< its ends
    struct End {
        double share = 0, error = 0; ///< greatest share of a limit, and the error of it
        std::string check;
    };
    std::optional<End> at_low, at_high; ///< none: it cannot be built
    /// By how much the share moves between the ends and the design.
    double reach(double nominal) const;
};
/// One at a time, what moves most first. The shares are those of checks that some quantity moves.
struct Tornado {
    Swing::End nominal;
    std::vector<Swing> swings;
};
/// `progress`: builds judged, and all; from any thread, one call at a time.
Result<Tornado> one_at_a_time(const Study& study, const CancelFlag* cancel = nullptr,
                              const std::function<void(int, int)>& progress = {});
nlohmann::ordered_json tornado_json(const StudyPlan& plan, const Tornado& tornado);
std::string tornado_csv(const StudyPlan& plan, const Tornado& tornado);

/// A corner of the box of tolerances: of each quantity in which something comes nearer to a limit, the end
/// where it does; all others as designed.
struct ToleranceCorner {
    std::string check;                    ///< whose it is; of several the first
    std::map<std::string, bool> high_end; ///< by key
    /// The numbers of a plan there: of this one, or of a design like it.
    std::vector<double> drawn(const StudyPlan& plan) const;
};
/// Those of the checks that some quantity moves, by one quantity at a time; alike ones once.
Result<std::vector<ToleranceCorner>> corners_of(const Study& study, const CancelFlag* cancel = nullptr);

/// One quantity at a time tells which way each check worsens; the corner of the box of each check is judged;
/// from the worst a search (NLopt, BOBYQA) looks inside. A local search: what it finds is bad at least.
/// The share is that of checks that some quantity moves: what fails alike in every build says nothing of it.
Result<WorstCase> find_worst(const Study& study, int most_solves, const CancelFlag* cancel = nullptr,
                             const std::function<void(const WorstCase&)>& found = {});
nlohmann::ordered_json worst_json(const Study& study, const WorstCase& worst);

} // namespace ng
