// The test schedule of a duty, answered by computation: each test becomes the analysis that it asks for, its
// worst places are judged against the limits of its kind. It screens a design before a laboratory is booked;
// it does not replace the type test.
#pragma once
#include "design/prepared.h"
#include "schedule/assumptions.h"
#include "schedule/cache.h"

namespace ng {

/// Worst field of one body.
struct BodyPeak {
    std::string region;
    double E_kV_per_mm = 0;
    Point at;
};

/// Which test of a schedule: a level of the standards pack, or one that every duty has.
struct TestId {
    enum class What { service, service_highest, earth_fault, leakage, no_level, level };
    What what = What::service;
    std::string level = {};               ///< name of the pack's level
    TestKind missing = TestKind::service; ///< of no_level: the kind that the pack does not have
    friend auto operator<=>(const TestId&, const TestId&) = default;
};
/// As JSON and calls write it: "service", "service_highest", "earth_fault", "leakage", "no extinction level",
/// or the level's name, which is none of these (read_standards_pack).
std::string name_of(const TestId& id);

struct TestResult {
    TestId id;
    std::string title;
    TestKind kind = TestKind::service;
    double voltage_kV = 0;
    std::string unit; ///< "kV rms", "kV peak" or "kV"
    double duration_s = 0;
    std::optional<double> conductor_C; ///< of an impulse on a hot cable
    std::string voltage_origin;
    bool verified = false; ///< the level is confirmed against somebody's own copy, computed or the user's
    std::string model;     ///< what was solved
    Status status = Status::not_judged;
    std::vector<Check> checks;
    std::vector<BodyPeak> bodies;
    std::vector<std::string> notes;
    std::string why;   ///< the worst check's sentence
    double margin = 0; ///< of the worst check
    int set_aside = 0; ///< checks that are not judged and do not decide
    double relative_error = 0;
    double seconds = 0;  ///< spent on this test
    bool kept = false;   ///< from an earlier run: nothing that it depends on has changed
    bool applies = true; ///< false: nothing of this accessory answers to it
};

struct Schedule {
    Status status = Status::not_judged;
    std::string first_reason;
    std::vector<TestResult> tests;
    int set_aside = 0;     ///< of all tests
    bool complete = false; ///< false: cancelled on the way
    double seconds = 0;
    std::vector<std::string> statements; ///< such as levels that nobody has confirmed
    std::vector<Assumption> assumptions; ///< that move the answer (find_assumptions)

    const TestResult* find(const TestId& id) const;
    const TestResult* find(TestId::What what) const { return find(TestId{what}); }
    /// The test that is called so in files and calls.
    const TestResult* find(const std::string& name) const;
};

struct ScheduleProgress {
    std::string test;
    int done = 0, all = 0;
    double seconds = 0, left_s = 0; ///< left: at the mean pace of the tests that were solved
};

struct ScheduleOptions {
    double goal = 0.01;
    const CancelFlag* cancel = nullptr;
    std::size_t threads = 1; ///< of every solve
    ScheduleCache* cache = nullptr;
    std::function<void(const ScheduleProgress&, const TestResult* finished)> progress;
};

/// `solutions`: the refined ones at U0 (solve_levels). Refuses only what cannot be started; a test that
/// cannot be solved says why and is not judged.
Result<Schedule> run_schedule(const PreparedDesign& prepared, const LevelSolutions& solutions,
                              const ScheduleOptions& options = {});

/// Highest line-to-line voltage of the duty: of the pack where it has one, else the class.
double highest_line_kV(const DutyClass& levels);

nlohmann::ordered_json schedule_json(const Schedule& schedule);

/// "holds", and with a dagger where the level is nobody's confirmed figure.
std::string status_text(const TestResult& test);

} // namespace ng
