// Finding and trends over all logs of a folder. Nothing leaves the machine.
#pragma once
#include "record/chart.h"
#include "record/state.h"

namespace ng {

struct SearchQuery {
    std::string words; ///< all must occur in a row or its accessory, whatever the case; empty: any row
    std::string batch, jointer, tool, family, cable; ///< empty: any; jointer: initials of who wrote or built
    bool reworked = false;                           ///< hold points that were not accepted
    bool out_of_calibration = false; ///< rows read with an instrument after its calibration was due
};

struct Found {
    std::string file;
    std::int64_t row = 0, accessory = 0;
    std::string accessory_title, kind, at, who, words;
};

struct Searched {
    std::vector<Found> found;
    std::vector<std::string> unread; ///< logs that could not be opened, and why
    int logs = 0;
};

/// Of every *.nglog in the folder and those beneath it, or of one file. Refuses a path that is not there.
Result<Searched> search_logs(const std::filesystem::path& folder, const SearchQuery& query);

/// One line of a row for people: "screen edge A 84.2 mm (84 to 86)", "hold point Jacket mark: accept".
std::string words_of(const Entry& entry);

/// How far marks of this kind lie off what was designed, in the order of time, and how often hold points were
/// not accepted: of one group (who, tool, month or family), or of all together.
struct Trend {
    std::string group;
    std::vector<std::string> at; ///< local time of each value
    IndividualsChart chart;      ///< of what was read less what was designed, mm
    int holds = 0, not_accepted = 0;
    double rework_rate() const { return holds ? static_cast<double>(not_accepted) / holds : 0; }
};
struct Trends {
    std::vector<Trend> groups;
    std::vector<std::string> unread;
};
enum class TrendBy { all, jointer, tool, month, family };
std::optional<TrendBy> trend_by(const std::string& word);
Result<Trends> trends_of(const std::filesystem::path& folder, const std::string& mark, TrendBy by);
std::string trends_csv(const Trends& trends);

} // namespace ng
