#include "study/study.h"
#include "field/follow.h"
#include "io/csv.h"
#include "io/digest.h"
#include "study/sequence.h"
#include "units/parallel.h"
#include "units/promise.h"
#include "units/version.h"
#include <algorithm>
#include <boost/math/distributions/normal.hpp>
#include <boost/uuid/name_generator.hpp>
#include <boost/uuid/uuid_io.hpp>
#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <map>
#include <mutex>

namespace ng {
namespace {

constexpr double sample_goal = 0.01, sample_loosest = 0.25; // relative: near a limit, and far from it

std::string check_name(const Check& check) {
    return name_of(check.id) + ": " + check.title;
}

std::string processor_kind() {
    std::ifstream in("/proc/cpuinfo");
    for (std::string line; std::getline(in, line);)
        if (line.starts_with("model name"))
            if (const auto colon = line.find(':'); colon != std::string::npos) return line.substr(colon + 2);
    return "unknown";
}

/// Name-based UUID (RFC 4122, version 5) of a text: what must be alike.
std::string fingerprint(const std::string& text) {
    return boost::uuids::to_string(boost::uuids::name_generator_sha1(boost::uuids::ns::oid())(text));
}

/// Of the program that runs, byte for byte.
const std::string& build_fingerprint() {
    static const std::string known = [] {
        std::ifstream in("/proc/self/exe", std::ios::binary);
        return fingerprint(std::string(std::istreambuf_iterator<char>(in), {}));
    }();
    return known;
}

} // namespace

double StudyRow::worst_share() const {
    double worst = 0;
    for (const auto& reading : readings) worst = std::max(worst, reading.share);
    return worst;
}

Result<Study> Study::begin(const Job& job, StudyPlan plan, const Library& library, Preparer prepare,
                           const CancelFlag* cancel) {
    if (auto ok = check_plan(plan, job, library); !ok) return tl::unexpected(ok.error());
    Study out;
    out.library_ = &library;
    out.plan_ = std::move(plan);
    out.prepare_ = std::move(prepare);
    EvaluateOptions how;
    how.cancel = cancel;
    auto nominal = evaluate(job, out.plan_.design, {}, library, out.prepare_, how);
    if (!nominal) return tl::unexpected(nominal.error());
    out.job_ = job;
    // What follows from a mark by its usual value was marked with it: one mark off takes nothing along.
    keep_usual_values(nominal->prepared, *out.job_.find_design(out.plan_.design), true);
    for (const auto& check : nominal->verdict.checks) out.checks_.push_back(check_name(check));
    out.nominal_ = std::make_shared<const Evaluation>(std::move(*nominal));
    const auto n = out.plan_.varied.size();
    if (!out.plan_.correlated.empty()) {
        std::vector<double> full(n * n, 0);
        for (std::size_t i = 0; i < n; ++i) full[i * n + i] = 1;
        const auto at = [&](const std::string& key) {
            return static_cast<std::size_t>(std::find_if(out.plan_.varied.begin(), out.plan_.varied.end(),
                                                         [&](const auto& v) { return v.key == key; }) -
                                            out.plan_.varied.begin());
        };
        for (const auto& c : out.plan_.correlated)
            full[at(c.a) * n + at(c.b)] = full[at(c.b) * n + at(c.a)] = c.rho;
        out.correlation_.assign(n * n, 0);
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t j = 0; j <= i; ++j) {
                double sum = full[i * n + j];
                for (std::size_t k = 0; k < j; ++k)
                    sum -= out.correlation_[i * n + k] * out.correlation_[j * n + k];
                if (i == j && !(sum > 0))
                    return refuse("study", "the correlations contradict one another", "Make them smaller");
                out.correlation_[i * n + j] = i == j ? std::sqrt(sum) : sum / out.correlation_[j * n + j];
            }
    }
    return out;
}

std::vector<double> Study::drawn_of(std::uint64_t index) const {
    const auto n = plan_.varied.size();
    std::vector<double> shares;
    if (plan_.kind == "effects") {
        const auto variants = n + 2;
        const auto u = Scrambled(static_cast<int>(2 * n), plan_.seed).sample(index / variants);
        const auto variant = index % variants;
        for (std::size_t k = 0; k < n; ++k)
            shares.push_back(variant == 1 || variant == 2 + k ? u[n + k] : u[k]);
    } else {
        shares = Scrambled(static_cast<int>(n), plan_.seed).sample(index);
    }
    if (!correlation_.empty()) {
        const boost::math::normal normal;
        std::vector<double> scores, mixed(n, 0);
        for (const double u : shares) scores.push_back(boost::math::quantile(normal, u));
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t j = 0; j <= i; ++j) mixed[i] += correlation_[i * n + j] * scores[j];
        for (std::size_t i = 0; i < n; ++i)
            shares[i] = std::clamp(boost::math::cdf(normal, mixed[i]), 0x1p-33, 1 - 0x1p-33);
    }
    std::vector<double> out;
    for (std::size_t k = 0; k < n; ++k) out.push_back(plan_.varied[k].quantile(shares[k]));
    return out;
}

Result<Job> Study::job_of(const std::vector<double>& drawn) const {
    if (drawn.size() != plan_.varied.size())
        return refuse("study row", "it has another number of quantities than the plan",
                      "Use the plan's own rows");
    return drawn_job(job_, plan_, drawn);
}

EvaluateOptions Study::options(const CancelFlag* cancel) const {
    EvaluateOptions how;
    how.goal = sample_goal;
    how.loosest = sample_loosest;
    how.prior = &nominal_->verdict;
    how.cancel = cancel;
    return how;
}

Result<Evaluation> Study::evaluated(const std::vector<double>& drawn, const CancelFlag* cancel) const {
    auto prepared = prepare_(drawn_job(job_, plan_, drawn), plan_.design, *library_);
    if (!prepared) return tl::unexpected(prepared.error());
    auto how = options(cancel);
    std::call_once(followers_->once, [&] { mesh_followers(cancel); });
    const auto& known = followers_->of;
    if (const auto it = known.find(outline_kinds(prepared->built.section)); it != known.end())
        how.like = it->second;
    return evaluate_prepared(std::move(*prepared), how);
}

/// By the first rows of the plan only, so that they are the same for every shard. What a draw's mesh is worth
/// is how many of the others can follow it: greedy cover of each kind of outlines that is met often.
void Study::mesh_followers(const CancelFlag* cancel) const {
    constexpr std::uint64_t looked_at = 128, samples_a_try = 40;
    constexpr std::size_t often = 4, most_tries = 5, most_of_a_kind = 3, worth_it = 2;
    std::map<std::string, std::vector<PreparedDesign>> kinds;
    std::map<std::string, double> nearest; // to the nominal: that one is tried first
    for (std::uint64_t k = 0; k < std::min(looked_at, plan_.samples); ++k) {
        const auto drawn = drawn_of(k);
        auto prepared = prepare_(drawn_job(job_, plan_, drawn), plan_.design, *library_);
        if (!prepared) continue;
        double off = 0;
        for (std::size_t i = 0; i < drawn.size(); ++i) {
            const auto& v = plan_.varied[i];
            const double share = (drawn[i] - v.middle) / (v.highest - v.lowest);
            off += share * share;
        }
        auto kind = outline_kinds(prepared->built.section);
        auto& met = kinds[kind];
        met.push_back(std::move(*prepared));
        const auto [known, fresh] = nearest.try_emplace(std::move(kind), off);
        if (!fresh && off < known->second) {
            known->second = off;
            std::swap(met.front(), met.back());
        }
    }
    const auto tries = std::min<std::size_t>(most_tries, plan_.samples / samples_a_try);
    auto how = options(cancel);
    how.movable = true;
    for (auto& [kind, met] : kinds) {
        if (met.size() < often) continue;
        std::vector<std::shared_ptr<const Follower>> tried;
        std::vector<std::vector<char>> follows;
        for (std::size_t k = 0; k < std::min(tries, met.size()); ++k) {
            const auto meshed = evaluate_prepared(met[k], how);
            if (!meshed || !meshed->solutions.follower) continue;
            tried.push_back(meshed->solutions.follower);
            follows.emplace_back();
            for (const auto& other : met)
                follows.back().push_back(tried.back()->can_follow(other.built.section));
        }
        std::vector<char> open(met.size(), 1);
        auto& kept = followers_->of[kind];
        while (kept.size() < most_of_a_kind) {
            std::size_t best = 0, most = 0;
            for (std::size_t k = 0; k < tried.size(); ++k) {
                std::size_t count = 0;
                for (std::size_t i = 0; i < met.size(); ++i) count += open[i] && follows[k][i];
                if (count > most) most = count, best = k;
            }
            if (most < worth_it) break;
            kept.push_back(tried[best]);
            for (std::size_t i = 0; i < met.size(); ++i)
                if (follows[best][i]) open[i] = 0;
        }
    }
}

StudyRow Study::row(std::uint64_t index, const CancelFlag* cancel) const {
    StudyRow out;
    out.index = index;
    out.drawn = drawn_of(index);
    out.readings.resize(checks_.size());
    const auto judged = evaluated(out.drawn, cancel);
    if (!judged) {
        out.refusal = judged.error().message();
        return out;
    }
    out.status = judged->verdict.status;
    out.solved_again = judged->solved_again;
    for (const auto& check : judged->verdict.checks) {
        const auto it = std::find(checks_.begin(), checks_.end(), check_name(check));
        if (it == checks_.end() || !(check.limit > 0) || !(check.value > 0)) continue;
        auto& reading = out.readings[static_cast<std::size_t>(it - checks_.begin())];
        reading.share = 1 - check.margin;
        reading.error = check.relative_error * check.value / check.limit;
    }
    return out;
}

std::string Study::header(Shard shard) const {
    const auto text = plan_json(plan_).dump();
    std::string out = fmt::format("# needlegauge-study {}\n", study_rows_version);
    out += fmt::format("# program {}\n", made_by(library_->version));
    out += fmt::format("# rules {}\n", rules_version);
    out += fmt::format("# build {}\n", build_fingerprint());
    out += fmt::format("# processor {}\n", processor_kind());
    out += fmt::format("# job {}\n", hash_of(job_));
    out += fmt::format("# plan {}\n", text);
    out += fmt::format("# shard {}/{}\n", shard.index, shard.count);
    std::vector<std::string> columns{"index", "status", "solved again", "refusal"};
    for (const auto& v : plan_.varied) columns.push_back(v.key);
    for (const auto& check : checks_) {
        columns.push_back(check);
        columns.push_back("error of it");
    }
    return out + csv_line(columns);
}

std::string Study::name() const {
    return fingerprint(header({}));
}

std::string Study::line(const StudyRow& row) const {
    std::vector<std::string> cells{std::to_string(row.index),
                                   row.refusal.empty() ? status_word(row.status) : "refused",
                                   row.solved_again ? "1" : "0", row.refusal};
    for (const double v : row.drawn) cells.push_back(fmt::format("{}", v));
    for (const auto& r : row.readings) {
        cells.push_back(fmt::format("{:.6g}", r.share));
        cells.push_back(fmt::format("{:.2g}", r.error));
    }
    return csv_line(cells);
}

Result<Shard> read_shard(const std::string& text) {
    Shard out;
    char extra = 0;
    if (std::sscanf(text.c_str(), "%lu/%lu%c", &out.index, &out.count, &extra) != 2 || out.count < 1 ||
        out.index >= out.count)
        return refuse("--shard", fmt::format("“{}” is no shard", text),
                      "Give i/n with i from 0 to n - 1, such as 0/8");
    return out;
}

void run_rows(const Study& study, Shard shard, std::uint64_t first, int threads, const CancelFlag* cancel,
              const std::function<void(const StudyRow&)>& on_row) {
    const auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    const auto in_shard = [&](std::uint64_t k) { return shard.index + k * shard.count; };
    const auto samples = study.plan().samples;
    const auto count = samples > shard.index ? (samples - shard.index + shard.count - 1) / shard.count : 0;
    std::mutex mutex;
    std::map<std::uint64_t, StudyRow> ready;
    std::uint64_t next_given = first;
    in_parallel(
        static_cast<std::size_t>(count > first ? count - first : 0), static_cast<std::size_t>(threads),
        [&](std::size_t k) {
            const auto mine = first + k;
            auto row = study.row(in_shard(mine), cancel);
            if (stopped()) return;
            const std::lock_guard lock(mutex);
            ready.emplace(mine, std::move(row));
            for (auto it = ready.find(next_given); it != ready.end(); it = ready.find(next_given)) {
                on_row(it->second);
                ready.erase(it);
                ++next_given;
            }
        },
        cancel);
}

} // namespace ng
