// What a fault does: checks with and without it, inception of the air it leaves, the smallest size that
// hurts, the size that hands find, and what to do.
#pragma once
#include "evaluate/evaluate.h"
#include "fault/fault.h"
#include "plan/sheet.h"

namespace ng {

/// Of one body of air. Voltages kV rms; infinite: never within what is applied.
struct AirAnswer {
    std::string words;
    double gap_mm = 0;
    double breakdown_kV_rms = 0;        ///< by the breakdown of its own gap
    double streamer_kV_rms = 0;         ///< by the streamer integral along it; infinite below 0.2 mm bar
    double inception_kV_rms = 0;        ///< the lower of both
    double extinction_kV_rms = 0;       ///< 0.8 of it
    double least_extinction_kV_rms = 0; ///< its bound, half of it
    double charge_pC = 0;               ///< apparent, at inception
    double wait_s = 0;                  ///< for the first electron at 1.2 times inception, of a virgin void
    double relative_error = 0;          ///< of the voltage across it, numerical
    bool scaled = false; ///< field-dependent layers: the voltages are scaled from the extinction level
};

struct FaultCheck {
    CheckId id;
    std::string title, unit;
    double without = 0, with = 0, limit = 0;
    double relative_error = 0; ///< of `with`, numerical
    Status status_without = Status::not_judged, status_with = Status::not_judged;
};

/// A design judged with faults on it.
struct FaultAnswer {
    Status status = Status::not_judged; ///< of the checks with them
    std::vector<FaultCheck> checks;
    std::vector<AirAnswer> air;
    std::optional<double> inception_kV_rms; ///< the lowest of the air; none: no air
    std::optional<double> required_kV_rms;  ///< extinction level of the duty; none: it has none
    FaultDecision decision = FaultDecision::ask;
    std::string why;           ///< the check or rule that the decision follows from
    bool hurts = false;        ///< a check fails that held without, or the air is not quiet
    double nearness_error = 0; ///< of the nearness, relative, numerical
    double nearness = 0; ///< to hurting: above 1 it does; of the air and of the checks that held without
};

/// Of the checks that the faults move by more than a fiftieth of their limit, a line each: "Stress at the
/// burr: 0.8 without, 6.87 ± 0.6 % with, limit 3.5 kV/mm rms".
std::vector<std::string> moved_checks(const FaultAnswer& answer);

/// The design as it is, judged once for many faults.
struct Sound {
    Evaluation evaluation;
    std::optional<double> required_kV_rms;
};
Result<Sound> judge_sound(const Job& job, const std::string& design, const Library& library,
                          const EvaluateOptions& options = {});

/// Refuses what prepare_faulty and the solver refuse.
Result<FaultAnswer> judge_faults(const Job& job, const std::string& design, const std::vector<Fault>& faults,
                                 const Library& library, const Sound& sound,
                                 const EvaluateOptions& options = {});

/// The smallest size of a fault that hurts: sizes on a log grid, then bisection of the first crossing.
struct CriticalSize {
    std::optional<double> mm;         ///< none: no size within range hurts
    bool at_most = false;             ///< the least that is searched hurts already: it lies no higher
    double error_mm = 0;              ///< half of the last bracket, and what the field's error at it comes to
    double hurting_mm = 0;            ///< its upper end: a size that was solved and hurts
    double least_mm = 0, most_mm = 0; ///< range searched; its upper end may be what still fits
    double found_from_mm = 0;         ///< by 90 of 100 hands; infinite: by none
    /// Critical over found: below 1 hands cannot see what hurts. None: nothing within range hurts.
    std::optional<double> inspectability;
    std::string why; ///< what fails first
};
/// `threads`: sizes of the grid that are solved at once; the answer is the same for any number.
Result<CriticalSize> critical_size(const Job& job, const std::string& design, const Fault& fault,
                                   const Library& library, const Sound& sound,
                                   const CancelFlag* cancel = nullptr, std::size_t threads = 1);

/// To 3 % where that decides; what is far from its limit to no better than `loosest`: of one fault that is
/// looked at, and of a search.
EvaluateOptions fault_options(const Sound& sound, double loosest, const CancelFlag* cancel = nullptr);
constexpr double shown_loosest = 0.05, search_loosest = 0.2;

/// Every kind at its usual place, on every side of the design.
std::vector<Fault> possible_faults(const PreparedDesign& prepared);

/// Writes the critical sizes of what a step looks for to its lines: "nick: no check fails up to 0.12 mm here;
/// found by gloved fingernail from 0.31 mm in nine of ten".
void write_hold_points(const std::vector<std::pair<Fault, CriticalSize>>& sizes, WorkSheet& sheet);

/// Of every kind that can be on the design, at its usual place, its critical size; kinds that do not fit are
/// left out. `found` is called after each, from any thread, one at a time; as many are looked for at once as
/// the machine has cores.
std::vector<std::pair<Fault, CriticalSize>>
scan_faults(const Job& job, const std::string& design, const Library& library, const Sound& sound,
            const CancelFlag* cancel = nullptr,
            const std::function<void(const Fault&, const Result<CriticalSize>&)>& found = {});

/// The same fault on another design of the job: what its school makes of it.
struct Elsewhere {
    std::string design, title, family;
    std::optional<FaultDecision> decision; ///< none: it does not fit there, then `why` says so
    std::string why;
    std::optional<CriticalSize> critical;
};
/// Of all other designs of the job, in their order; on a joint on side A where the fault has
/// none.
std::vector<Elsewhere> judge_elsewhere(const Job& job, const std::string& design, const Fault& fault,
                                       const Library& library, const CancelFlag* cancel = nullptr);

/// One row of an answer as files hold it.
nlohmann::ordered_json fault_json(const Fault& fault, const FaultAnswer& answer,
                                  const CriticalSize* critical);

} // namespace ng
