#include "record/search.h"
#include "io/csv.h"
#include "units/quantity.h"
#include "units/text.h"
#include <algorithm>
#include <fmt/format.h>
#include <functional>
#include <map>

namespace ng {
namespace {

bool holds_all(const std::string& text, const std::string& words) {
    const auto in = lowered(text);
    std::string word;
    for (const char c : lowered(words) + " ") {
        if (c != ' ') {
            word += c;
        } else {
            if (!word.empty() && in.find(word) == std::string::npos) return false;
            word.clear();
        }
    }
    return true;
}

Result<std::vector<std::filesystem::path>> logs_in(const std::filesystem::path& folder) {
    std::error_code failed;
    if (std::filesystem::is_regular_file(folder, failed)) return std::vector{folder};
    if (!std::filesystem::is_directory(folder, failed))
        return refuse(one_line(folder.string()), "there is no such folder",
                      "Give a folder of jobs or a record");
    std::vector<std::filesystem::path> out;
    for (auto it = std::filesystem::recursive_directory_iterator(
             folder, std::filesystem::directory_options::skip_permission_denied, failed);
         !failed && it != std::filesystem::recursive_directory_iterator(); it.increment(failed))
        if (it->path().extension() == ".nglog" && it->is_regular_file(failed)) out.push_back(it->path());
    std::sort(out.begin(), out.end());
    return out;
}

/// Every row of every log, with the row that its accessory began with.
Result<std::vector<std::string>>
for_each_row(const std::filesystem::path& folder,
             const std::function<void(const Log&, const Entry&, const Entry* begun)>& row,
             int* logs = nullptr) {
    const auto files = logs_in(folder);
    if (!files) return tl::unexpected(files.error());
    std::vector<std::string> unread;
    for (const auto& file : *files) {
        const auto log = Log::open(file, Log::Access::read);
        if (!log) {
            unread.push_back(log.error().message());
            continue;
        }
        if (logs) ++*logs;
        for (const auto& e : log->entries())
            row(*log, e, e.kind == "accessory" ? &e : e.accessory ? log->find(*e.accessory) : nullptr);
    }
    return unread;
}

std::string family_of(const Entry& begun) {
    const auto frozen = nlohmann::json::parse(begun.body().value("frozen", std::string()), nullptr, false);
    if (!frozen.is_object() || !frozen.contains("designs") || !frozen["designs"].is_array() ||
        frozen["designs"].empty() || !frozen["designs"][0].is_object())
        return {};
    return frozen["designs"][0].value("family", std::string());
}

std::string tool_of(const Log& log, const Entry& e) {
    const auto* tool = e.instrument ? log.find(*e.instrument) : nullptr;
    const auto body = tool ? tool->body() : nlohmann::json::object();
    return tool ? body.value("instrument", std::string()) + " " + body.value("serial", std::string())
                : std::string();
}

bool was_due(const Log& log, const Entry& e) {
    const auto* tool = e.instrument ? log.find(*e.instrument) : nullptr;
    if (!tool) return false;
    const auto due = tool->body().value("due_on", std::string());
    return !due.empty() && e.at.utc.substr(0, 10) > due;
}

} // namespace

std::string words_of(const Entry& e) {
    const auto body = e.body();
    const auto text = [&](const char* key) { return body.value(key, std::string()); };
    if (e.kind == "reading" && body.contains("value") && body["value"].is_number()) {
        RecordedReading r;
        r.body = body;
        return r.words();
    }
    if (e.kind == "hold_point")
        return fmt::format("{}: {} ({})", text("check"),
                           text("decision") == "cut_back" ? "cut back" : text("decision"), text("found"));
    if (e.kind == "fault") return text("words") + ": " + text("decision");
    if (e.kind == "part")
        return fmt::format("{} {}{}", text("part"), text("size"),
                           text("batch").empty() ? "" : ", batch " + text("batch"));
    if (e.kind == "file") return text("name") + (text("about").empty() ? "" : ": " + text("about"));
    if (e.kind == "test")
        return fmt::format("{}: {}{}", text("title"), text("result"),
                           text("why").empty() ? "" : ", " + text("why"));
    if (e.kind == "sign_off")
        return "signed as " + text("closes") +
               (text("reason").empty() ? "" : ", over what is open: " + text("reason"));
    if (e.kind == "instrument")
        return text("instrument") + " " + text("serial") +
               (text("due_on").empty() ? "" : ", calibration due " + text("due_on"));
    if (e.kind == "accessory")
        return fmt::format("{}: {}", text("title"), text("place").empty() ? "no place given" : text("place"));
    if (e.kind == "log") return "record of " + text("job");
    return text("text");
}

Result<Searched> search_logs(const std::filesystem::path& folder, const SearchQuery& query) {
    Searched out;
    auto unread = for_each_row(
        folder,
        [&](const Log& log, const Entry& e, const Entry* begun) {
            if (query.reworked && (e.kind != "hold_point" || e.body().value("decision", "") == "accept"))
                return;
            if (query.out_of_calibration && !was_due(log, e)) return;
            const auto begun_body = begun ? begun->body() : nlohmann::json::object();
            const auto said = [&](const char* key) { return begun_body.value(key, std::string()); };
            auto shown = e.body();
            shown.erase("frozen");
            std::string all = shown.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) + " " +
                              e.who.initials + " " + e.who.role + " " + e.why + " " + e.kind + " " +
                              words_of(e) + " " + tool_of(log, e);
            if (!holds_all(all + " " + said("title") + " " + said("place"), query.words)) return;
            if (!query.batch.empty() &&
                !holds_all(said("batch") + " " + e.body().value("batch", std::string()), query.batch))
                return;
            if (!query.jointer.empty() && lowered(e.who.initials) != lowered(query.jointer) &&
                !holds_all(said("jointer"), query.jointer))
                return;
            if (!query.tool.empty() &&
                !holds_all(tool_of(log, e) + (e.kind == "instrument" ? " " + words_of(e) : ""), query.tool))
                return;
            if (!query.family.empty() && (!begun || !holds_all(family_of(*begun), query.family))) return;
            if (!query.cable.empty() &&
                (!begun ||
                 !holds_all(said("drum") + " " + said("drum_b") + " " + said("frozen"), query.cable)))
                return;
            out.found.push_back({log.path().string(), e.number, begun ? begun->number : 0, said("title"),
                                 e.kind, e.at.local, e.who.role + " " + e.who.initials, words_of(e)});
        },
        &out.logs);
    if (!unread) return tl::unexpected(unread.error());
    out.unread = std::move(*unread);
    return out;
}

std::optional<TrendBy> trend_by(const std::string& word) {
    constexpr std::pair<const char*, TrendBy> all[] = {{"all", TrendBy::all},
                                                       {"jointer", TrendBy::jointer},
                                                       {"tool", TrendBy::tool},
                                                       {"month", TrendBy::month},
                                                       {"family", TrendBy::family}};
    for (const auto& [name, by] : all)
        if (word == name) return by;
    return std::nullopt;
}

Result<Trends> trends_of(const std::filesystem::path& folder, const std::string& mark, TrendBy by) {
    struct Point {
        std::string utc, local;
        double off = 0;
    };
    struct Group {
        std::vector<Point> points;
        int holds = 0, not_accepted = 0;
    };
    std::map<std::string, Group> groups;
    auto unread = for_each_row(folder, [&](const Log& log, const Entry& e, const Entry* begun) {
        if (e.kind != "reading" && e.kind != "hold_point") return;
        const auto group = by == TrendBy::jointer           ? e.who.initials
                           : by == TrendBy::tool            ? tool_of(log, e)
                           : by == TrendBy::month           ? e.at.utc.substr(0, 7)
                           : by == TrendBy::family && begun ? family_of(*begun)
                                                            : "all";
        const auto body = e.body();
        if (e.kind == "hold_point") {
            ++groups[group].holds;
            groups[group].not_accepted += body.value("decision", "") != "accept";
            return;
        }
        const bool is_meant =
            body.value("what", "") == "mark" && body.value("place", std::string()).rfind(mark, 0) == 0;
        const auto designed = body.find("designed"), value = body.find("value");
        if (is_meant && designed != body.end() && designed->is_number() && value != body.end() &&
            value->is_number())
            groups[group].points.push_back(
                {e.at.utc, e.at.local, value->get<double>() - designed->get<double>()});
    });
    if (!unread) return tl::unexpected(unread.error());
    Trends out;
    out.unread = std::move(*unread);
    for (auto& [name, group] : groups) {
        std::stable_sort(group.points.begin(), group.points.end(),
                         [](const auto& a, const auto& b) { return a.utc < b.utc; });
        Trend trend;
        trend.group = name.empty() ? "not said" : name;
        trend.holds = group.holds;
        trend.not_accepted = group.not_accepted;
        std::vector<double> values;
        for (auto& p : group.points) {
            trend.at.push_back(p.local);
            values.push_back(p.off);
        }
        trend.chart = individuals_chart(std::move(values));
        out.groups.push_back(std::move(trend));
    }
    return out;
}

std::string trends_csv(const Trends& trends) {
    std::string out = csv_line({"group", "at", "off_mm", "mean_mm", "lower_mm", "upper_mm", "outside",
                                "hold_points", "not_accepted"});
    for (const auto& t : trends.groups) {
        const auto& c = t.chart;
        const auto tail = [&](const std::string& at, const std::string& value, bool outside) {
            out += csv_line({t.group, at, value, format_figures(c.mean, 6), format_figures(c.lower, 6),
                             format_figures(c.upper, 6), outside ? "1" : "0", std::to_string(t.holds),
                             std::to_string(t.not_accepted)});
        };
        if (c.values.empty()) tail("", "", false);
        for (std::size_t i = 0; i < c.values.size(); ++i)
            tail(t.at[i], format_figures(c.values[i], 6),
                 std::find(c.outside.begin(), c.outside.end(), i) != c.outside.end());
    }
    return out;
}

} // namespace ng
