// Rows of a study as files: read, merged, summed up.
#include "io/csv.h"
#include "study/sequence.h"
#include "study/study.h"
#include "units/quantity.h"
#include <algorithm>
#include <array>
#include <boost/math/distributions/students_t.hpp>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace ng {
namespace {

const std::string shard_line = "# shard ", plan_line = "# plan ", rules_line = "# rules ";

Status status_of(const std::string& word) {
    for (const auto status : {Status::holds, Status::marginal, Status::falls_short})
        if (word == status_word(status)) return status;
    return Status::not_judged;
}

std::optional<double> number_in(const std::string& text) {
    double v = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (error != std::errc() || end != text.data() + text.size()) return {};
    return v;
}

/// Digits alone: no sign, no fraction, nothing after them.
std::optional<std::uint64_t> whole_number(const std::string& text) {
    std::uint64_t v = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (error != std::errc() || end != text.data() + text.size()) return {};
    return v;
}

/// Mean over the 16 scramblings and its 95 % interval by Student's t.
ShareEstimate share_of(const std::array<std::pair<double, double>, Scrambled::scramblings>& by) {
    std::vector<double> shares;
    for (const auto& [failing, all] : by)
        if (all > 0) shares.push_back(failing / all);
    ShareEstimate out;
    if (shares.empty()) return out;
    const double n = static_cast<double>(shares.size());
    out.share = std::accumulate(shares.begin(), shares.end(), 0.0) / n;
    if (shares.size() < 2) {
        out.half_width = 1;
        return out;
    }
    double square = 0;
    for (const double s : shares) square += (s - out.share) * (s - out.share);
    const boost::math::students_t t(n - 1);
    out.half_width = boost::math::quantile(t, 0.975) * std::sqrt(square / (n - 1) / n);
    return out;
}

double quantile_of(const std::vector<double>& sorted, double share) {
    if (sorted.empty()) return 0;
    const double at = share * (static_cast<double>(sorted.size()) - 1);
    const auto low = static_cast<std::size_t>(at);
    const auto high = std::min(low + 1, sorted.size() - 1);
    return sorted[low] + (at - static_cast<double>(low)) * (sorted[high] - sorted[low]);
}

/// Of these checks; of all where none of them tells anything.
double worst_of(const StudyRow& row, const std::vector<std::size_t>& checks) {
    if (checks.empty()) return row.worst_share();
    double worst = 0;
    for (const auto k : checks) worst = std::max(worst, row.readings[k].share);
    return worst;
}

} // namespace

Result<StudyTable> read_table(const std::string& text, const std::string& file, bool whole) {
    StudyTable out;
    const std::string first_line = "# needlegauge-study ";
    if (!text.starts_with(first_line))
        return refuse(file, "it holds no rows of a study", "Give a file that “study” wrote");
    const auto version = whole_number(text.substr(first_line.size(), text.find('\n') - first_line.size()));
    if (!version || *version < 1) return refuse(file, "its version is not a number", "Run the study again");
    if (*version > study_rows_version)
        return refuse(file,
                      fmt::format("its rows are of version {}, which is newer than this program", *version),
                      "Open it with a newer program");
    std::size_t at = 0;
    while (at < text.size() && text[at] == '#') {
        const auto end = text.find('\n', at);
        if (end == std::string::npos) return refuse(file, "its header is cut short", "Run the study again");
        const auto line = text.substr(at, end - at);
        at = end + 1;
        if (line.starts_with(shard_line)) {
            auto shard = read_shard(line.substr(shard_line.size()));
            if (!shard) return refuse(file, shard.error().problem, "Run the study again");
            out.shard = *shard;
            out.header += shard_line + "0/1\n";
            continue;
        }
        if (line.starts_with(rules_line)) {
            const auto rules = whole_number(line.substr(rules_line.size()));
            if (!rules || *rules < 1)
                return refuse(file, "the version of its rules is not a number", "Run the study again");
            out.rules = static_cast<int>(*rules);
        }
        if (line.starts_with(plan_line)) {
            const auto document = nlohmann::json::parse(line.substr(plan_line.size()), nullptr, false);
            auto plan = read_plan(document);
            if (!plan)
                return refuse(file, "its plan cannot be read: " + plan.error().problem,
                              "Run the study again");
            out.plan = std::move(*plan);
        }
        out.header += line + "\n";
    }
    const auto columns_end = text.find('\n', at);
    if (columns_end == std::string::npos)
        return refuse(file, "its header is cut short", "Run the study again");
    const auto columns = text.substr(at, columns_end + 1 - at);
    out.header += columns;
    at = columns_end + 1;
    // Rows are read with unique names in place of the columns, of which several are alike.
    const std::size_t fixed = 4 + out.plan.varied.size();
    std::size_t commas = 0;
    bool quoted = false;
    for (const char c : columns) {
        if (c == '"') quoted = !quoted;
        if (c == ',' && !quoted) ++commas;
    }
    std::vector<std::string> unique;
    for (std::size_t k = 0; k <= commas; ++k) unique.push_back("c" + std::to_string(k));
    const auto names = csv_line(unique);
    const auto cells_of = [&](const std::string& line) -> std::optional<std::vector<std::string>> {
        auto rows = read_csv(names + line, file);
        if (!rows || rows->size() != 1) return {};
        return rows->front().cells;
    };
    const auto head = cells_of(columns);
    if (!head || head->size() < fixed || (head->size() - fixed) % 2)
        return refuse(file, "its columns are not those of its plan", "Run the study again");
    for (std::size_t k = fixed; k < head->size(); k += 2) out.checks.push_back((*head)[k]);
    int number = 0;
    while (at < text.size()) {
        ++number;
        const auto end = text.find('\n', at);
        if (end == std::string::npos) {
            if (whole)
                return refuse(fmt::format("{}, row {}", file, number), "it is cut short",
                              "Run that shard again: it goes on where it stopped");
            break;
        }
        const auto line = text.substr(at, end + 1 - at);
        at = end + 1;
        const auto cells = cells_of(line);
        const auto bad = [&] {
            return refuse(fmt::format("{}, row {}", file, number), "it is no row of its plan",
                          "Run that shard again");
        };
        if (!cells || cells->size() != head->size()) return bad();
        StudyRow row;
        const auto index = whole_number((*cells)[0]);
        if (!index) return bad();
        row.index = *index;
        row.refusal = (*cells)[3];
        row.status = status_of((*cells)[1]);
        row.solved_again = (*cells)[2] == "1";
        for (std::size_t k = 4; k < cells->size(); ++k) {
            const auto v = number_in((*cells)[k]);
            if (!v || !std::isfinite(*v)) return bad();
            if (k < fixed)
                row.drawn.push_back(*v);
            else if ((k - fixed) % 2 == 0)
                row.readings.push_back({*v, 0});
            else
                row.readings.back().error = *v;
        }
        if (row.index % out.shard.count != out.shard.index)
            return refuse(fmt::format("{}, row {}", file, number), "its index does not belong to this shard",
                          "Run that shard again");
        out.rows.push_back(std::move(row));
        out.lines.push_back(line);
    }
    return out;
}

Result<std::string> merge_tables(const std::vector<StudyTable>& tables) {
    if (tables.empty()) return refuse("study merge", "no rows were given", "Name the files of all shards");
    std::vector<std::pair<std::uint64_t, const std::string*>> all;
    for (const auto& table : tables) {
        if (table.header != tables.front().header)
            return refuse("study merge",
                          "the files are of different plans, jobs, programs or kinds of processor",
                          "Merge what one program made of one plan on one kind of processor");
        for (std::size_t k = 0; k < table.rows.size(); ++k)
            all.emplace_back(table.rows[k].index, &table.lines[k]);
    }
    std::sort(all.begin(), all.end());
    const auto samples = tables.front().plan.samples;
    for (std::uint64_t k = 0; k < std::max<std::uint64_t>(samples, all.size()); ++k) {
        if (k < all.size() && k > 0 && all[k].first == all[k - 1].first)
            return refuse("study merge", fmt::format("row {} is there twice", all[k].first),
                          "Give each shard once");
        if (k >= all.size() || all[k].first != k)
            return refuse("study merge", fmt::format("row {} is missing", k),
                          "Give all shards, each run to its end");
    }
    auto out = tables.front().header;
    for (const auto& [index, line] : all) out += *line;
    return out;
}

std::vector<std::pair<double, double>> effects_of(const std::vector<std::vector<double>>& values) {
    if (values.empty() || values.front().size() < 3) return {};
    const auto n = values.front().size() - 2;
    double mean = 0, square = 0;
    for (const auto& block : values) mean += (block[0] + block[1]) / 2;
    mean /= static_cast<double>(values.size());
    for (const auto& block : values)
        square += ((block[0] - mean) * (block[0] - mean) + (block[1] - mean) * (block[1] - mean)) / 2;
    const double variance = square / static_cast<double>(values.size());
    std::vector<std::pair<double, double>> out(n);
    if (!(variance > 0)) return out;
    for (std::size_t k = 0; k < n; ++k) {
        double with_b = 0, with_a = 0;
        for (const auto& block : values) {
            with_b += (block[1] - block[2 + k]) * (block[1] - block[2 + k]) / 2;
            with_a += (block[0] - block[2 + k]) * (block[0] - block[2 + k]) / 2;
        }
        const double count = static_cast<double>(values.size());
        out[k] = {1 - with_b / count / variance, with_a / count / variance};
    }
    return out;
}

std::vector<std::size_t> checks_that_tell(const StudySummary& summary) {
    constexpr double varies = 0.01;
    std::vector<std::size_t> out;
    for (std::size_t k = 0; k < summary.checks.size(); ++k)
        if (const auto& c = summary.checks[k]; c.p99 - c.median > varies || c.largest > 1) out.push_back(k);
    return out;
}

std::vector<double> shares_of_builds(const StudyTable& table, const StudySummary& summary) {
    const auto telling = checks_that_tell(summary);
    std::vector<double> out;
    for (const auto& row : table.rows) {
        if (!row.refusal.empty()) continue;
        out.push_back(worst_of(row, telling));
    }
    return out;
}

std::string share_words(const ShareEstimate& share, std::uint64_t failing, std::uint64_t built) {
    // Hanley and Lippman-Hand 1983, rule of three: none of n leaves up to 3/n at 95 %.
    constexpr double of_none = 3;
    if (built == 0) return "none could be built";
    if (failing == 0)
        return fmt::format("none of {} (at 95 % below {} %)", built,
                           format_figures(100 * std::min(1.0, of_none / static_cast<double>(built)), 2));
    return fmt::format("{} ± {} % ({} of {}; 95 %, from the spread of 16 scramblings)",
                       format_figures(100 * share.share, 3), format_figures(100 * share.half_width, 2),
                       failing, built);
}

std::string effects_csv(const StudyPlan& plan, const StudySummary& summary) {
    auto out = csv_line({"key", "label", "main effect", "total effect"});
    for (const auto& e : summary.effects)
        for (const auto& v : plan.varied)
            if (v.key == e.key)
                out +=
                    csv_line({v.key, v.label, fmt::format("{:.4f}", e.main), fmt::format("{:.4f}", e.total)});
    return out;
}

std::string blocks_words(const StudySummary& summary) {
    auto out = fmt::format("from {} blocks", summary.blocks);
    if (summary.blocks_left_out)
        out += fmt::format("; {} with builds that cannot be made are left out", summary.blocks_left_out);
    return out;
}

StudySummary summarise(const StudyTable& table) {
    StudySummary out;
    std::array<std::pair<double, double>, Scrambled::scramblings> whole{};
    const bool effects = table.plan.kind == "effects";
    const auto variants = table.plan.varied.size() + 2;
    const auto scrambling = [&](std::uint64_t index) {
        return (effects ? index / variants : index) % Scrambled::scramblings;
    };
    std::vector<std::array<std::pair<double, double>, Scrambled::scramblings>> by(table.checks.size());
    std::vector<std::vector<double>> shares(table.checks.size());
    for (std::size_t c = 0; c < table.checks.size(); ++c)
        out.checks.push_back({table.checks[c], {}, 0, 0, 0, 0, 0});
    for (const auto& row : table.rows) {
        ++out.rows;
        out.again += row.solved_again;
        if (!row.refusal.empty()) {
            ++out.refused;
            continue;
        }
        const bool fails = row.status == Status::falls_short;
        out.failing += fails;
        auto& own = whole[scrambling(row.index)];
        own.first += fails, own.second += 1;
        for (std::size_t c = 0; c < row.readings.size(); ++c) {
            if (!(row.readings[c].share > 0)) continue;
            shares[c].push_back(row.readings[c].share);
            auto& of = by[c][scrambling(row.index)];
            of.first += row.readings[c].share > 1, of.second += 1;
            out.checks[c].largest_error = std::max(out.checks[c].largest_error, row.readings[c].error);
        }
    }
    out.falls_short = share_of(whole);
    for (std::size_t c = 0; c < shares.size(); ++c) {
        std::sort(shares[c].begin(), shares[c].end());
        auto& check = out.checks[c];
        check.falls_short = share_of(by[c]);
        check.median = quantile_of(shares[c], 0.5);
        check.p95 = quantile_of(shares[c], 0.95);
        check.p99 = quantile_of(shares[c], 0.99);
        check.largest = shares[c].empty() ? 0 : shares[c].back();
    }
    const auto telling = checks_that_tell(out);
    for (const auto& row : table.rows)
        if (const double share = worst_of(row, telling);
            row.refusal.empty() && (!out.worst || share > out.worst_share))
            out.worst = row, out.worst_share = share;
    if (!effects) return out;
    std::vector<std::vector<double>> blocks;
    std::vector<double> block;
    for (const auto& row : table.rows) { // whole blocks without refusals only
        if (row.index % variants != block.size() || !row.refusal.empty()) {
            block.clear();
            if (row.index % variants != 0 || !row.refusal.empty()) continue;
        }
        block.push_back(worst_of(row, telling));
        if (block.size() == variants) {
            blocks.push_back(block);
            block.clear();
        }
    }
    out.blocks = blocks.size();
    out.blocks_left_out = out.rows / variants - out.blocks;
    const auto found = effects_of(blocks);
    for (std::size_t k = 0; k < found.size(); ++k)
        out.effects.push_back({table.plan.varied[k].key, found[k].first, found[k].second});
    std::stable_sort(out.effects.begin(), out.effects.end(),
                     [](const auto& a, const auto& b) { return a.total > b.total; });
    return out;
}

nlohmann::ordered_json summary_json(const StudyTable& table, const StudySummary& s) {
    using nlohmann::ordered_json;
    const auto estimate = [](const ShareEstimate& e) {
        return ordered_json{{"share", e.share}, {"half_width_95", e.half_width}};
    };
    ordered_json out{{"format", "needlegauge-study-summary"},
                     {"version", 1},
                     {"kind", table.plan.kind},
                     {"design", table.plan.design},
                     {"rows", s.rows},
                     {"cannot_be_built", s.refused},
                     {"solved_again_finer", s.again},
                     {"fall_short", s.failing},
                     {"falls_short", estimate(s.falls_short)},
                     {"checks", ordered_json::array()}};
    for (const auto& c : s.checks)
        out["checks"].push_back({{"check", c.check},
                                 {"falls_short", estimate(c.falls_short)},
                                 {"median_of_limit", c.median},
                                 {"p95_of_limit", c.p95},
                                 {"p99_of_limit", c.p99},
                                 {"largest_of_limit", c.largest},
                                 {"largest_error_of_limit", c.largest_error}});
    if (s.worst) {
        ordered_json numbers = ordered_json::object();
        for (std::size_t k = 0; k < s.worst->drawn.size(); ++k)
            numbers[table.plan.varied[k].key] = s.worst->drawn[k];
        out["worst"] = {{"index", s.worst->index}, {"of_limit", s.worst_share}, {"numbers", numbers}};
    }
    if (!s.effects.empty()) {
        out["blocks"] = s.blocks;
        out["blocks_left_out"] = s.blocks_left_out;
        out["effects"] = ordered_json::array();
        for (const auto& e : s.effects)
            out["effects"].push_back({{"key", e.key}, {"main", e.main}, {"total", e.total}});
    }
    return out;
}

} // namespace ng
