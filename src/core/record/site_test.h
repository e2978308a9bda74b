// Tests on site: what is tested after the work, at which level, for how long and by whose limits, and what
// the field of the accessory is under such a test. Levels are data (data/tests/site-levels.json); an owner's
// own file takes their place. Licensed people test; nothing here says that anything is safe.
#pragma once
#include "record/as_built.h"

namespace ng {

enum class Occasion { installation, acceptance, maintenance };
const char* occasion_word(Occasion occasion);
std::optional<Occasion> occasion_of(const std::string& word);

struct SiteTest {
    std::string id, title;
    std::string set; ///< "continuity", "insulation", "ac", "vlf", "dc", "pd": the instrument that it wants
    double level = 0;
    std::string unit = "kV"; ///< of the level; AC and VLF rms
    double frequency_hz = 0;
    double minutes = 0;
    std::optional<double> least = {}, most = {}; ///< of what is read
    std::string reading_unit = {};               ///< "Mohm", "ohm", "mA", "pC"
    std::string limits = {};                     ///< whose they are
    std::string how = {};
    std::vector<std::string> cautions = {};
};

/// Levels as the file has them. Refuses by item.
struct SiteLevels {
    nlohmann::json document;
};
Result<SiteLevels> read_site_levels(const nlohmann::json& document, const std::string& file);
Result<SiteLevels> load_site_levels(const Library& library);

/// In the order in which they are done. Refuses a class for which there is no level.
Result<std::vector<SiteTest>> site_tests(const PreparedDesign& prepared, Occasion occasion,
                                         const SiteLevels& levels);

/// What was read, held against the test's own limits.
struct TestOutcome {
    std::string result, why; ///< "pass", "fail", "aborted"
    double reading = 0;      ///< that decides
};
struct TracePoint {
    double s = 0, level = 0, reading = 0;
};
/// Of a resistance or continuity test.
TestOutcome judge_reading(const SiteTest& test, double reading);
/// Of a withstand or partial-discharge test: the level must have been held for the whole time (2 %), without
/// a breakdown, the reading at the level within its limit. The longest hold counts.
TestOutcome judge_trace(const SiteTest& test, const std::vector<TracePoint>& trace, bool broke_down);

/// A trace from a test set's CSV: columns time_s, level and reading by these names. Refuses by row.
Result<std::vector<TracePoint>> read_trace(const std::string& csv, const std::string& file);
std::string trace_csv(const SiteTest& test, const std::vector<TracePoint>& trace);

/// A row of it.
EntryDraft test_entry(const SiteTest& test, const TestOutcome& outcome, const std::vector<TracePoint>& trace,
                      const Who& who, std::int64_t accessory, const std::string& source);

/// Greatest stress of each check at the test's own voltage, at its own frequency and at the power frequency:
/// below 1 Hz semiconductive control turns from capacitive to resistive.
struct FieldAtTest {
    struct Row {
        std::string title, unit;
        double at_power = 0, at_test = 0, error = 0; ///< relative, of both
    };
    double voltage_kV = 0, power_hz = 0, test_hz = 0;
    std::vector<Row> rows;
    std::shared_ptr<const Evaluation> at_power = {}, at_test = {}; ///< for pictures
};
Result<FieldAtTest> field_at_test(const Job& job, const std::string& design, const SiteTest& test,
                                  const Library& library, const CancelFlag* cancel = nullptr);

} // namespace ng
