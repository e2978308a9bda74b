// Builds of a study, and coarse solves whose mesh follows the one before.
#include "bench/engine.h"
#include "field/kept.h"
#include "field/system.h"
#include "schedule/sensitivity.h"
#include "study/study.h"
#include <algorithm>
#include <ctime>
#include <fmt/format.h>

namespace ng::bench {
namespace {

/// Of this process, all threads.
double processor_ms() {
    timespec t;
    clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &t);
    return 1e3 * static_cast<double>(t.tv_sec) + 1e-6 * static_cast<double>(t.tv_nsec);
}

double median(std::vector<double> all) {
    if (all.empty()) return 0;
    std::sort(all.begin(), all.end());
    return all[all.size() / 2];
}

} // namespace

void studies(const Job& job, const Library& library) {
    constexpr std::uint64_t looked_at = 48;
    fmt::print("\na study's samples, decided: ms of one core\n  {:<20} {:>8} {:>8} {:>8} {:>9} {:>7} {:>7}\n",
               "", "median", "mean", "worst", "followed", "again", "to begin");
    for (const auto& design : job.designs) {
        const auto prepared = prepare_design(job, design.id, library);
        if (!prepared) continue;
        auto plan = usual_plan(*prepared, false);
        plan.samples = 128;
        Stopwatch watch;
        const auto study = Study::begin(job, plan, library, prepare_design);
        const double begin_s = watch.lap();
        if (!study) continue;
        std::vector<double> all;
        double sum = 0;
        int followed = 0, again = 0;
        for (std::uint64_t k = 0; k < looked_at; ++k) {
            const double before = processor_ms();
            const auto judged = study->evaluated(study->drawn_of(k));
            if (!judged) continue;
            all.push_back(processor_ms() - before);
            sum += all.back();
            again += judged->solved_again;
            followed += judged->solutions.at_u0.report.mesh_s == 0;
        }
        if (all.empty()) continue;
        fmt::print("  {:<20} {:>8.0f} {:>8.0f} {:>8.0f} {:>5}/{:<3} {:>7} {:>6.1f}s\n", design.id,
                   median(all), sum / static_cast<double>(all.size()),
                   *std::max_element(all.begin(), all.end()), followed, all.size(), again, begin_s);
    }
    for (const int threads : {1, 2}) {
        const auto prepared = prepare_design(job, "ramp-pole", library);
        if (!prepared) return;
        auto plan = usual_plan(*prepared, false);
        plan.samples = threads == 1 ? 256 : 1024;
        Stopwatch watch;
        const auto study = Study::begin(job, plan, library, prepare_design);
        if (!study) return;
        run_rows(*study, {0, 1}, 0, threads, nullptr, [](const StudyRow&) {});
        const double seconds = watch.lap();
        fmt::print("  {} samples of ramp-pole on {} thread{}: {:.1f} s, {:.1f} a second\n", plan.samples,
                   threads, threads > 1 ? "s" : "", seconds, static_cast<double>(plan.samples) / seconds);
    }
}

void following(const Job& job, const Library& library) {
    constexpr int moves = 21;
    constexpr double step_mm = 0.3;
    fmt::print(
        "\ncoarse solve after a mark has moved by {} mm, ms: meshed anew, and on the mesh that follows\n",
        step_mm);
    for (const auto& design : job.designs) {
        const auto prepared = prepare_design(job, design.id, library);
        if (!prepared || !prepared->family->parameter("screen_edge_mm")) continue;
        const double now = number_of(prepared->context(), "screen_edge_mm");
        std::vector<double> anew, followed;
        std::shared_ptr<const Follower> follower;
        for (int k = 0; k < moves; ++k) {
            auto changed = job;
            changed.find_design(design.id)->numbers["screen_edge_mm"] = now + step_mm * k;
            for (const bool follow : {false, true}) {
                Stopwatch watch;
                const auto one = prepare_design(changed, design.id, library);
                if (!one) continue;
                SolveOptions options;
                options.coarse = true;
                if (follow && follower) options.like = {follower};
                const auto kept = Kept::make(one->built.section, options);
                const double ms = 1e3 * watch.lap();
                if (!kept) continue;
                if (!follow)
                    anew.push_back(ms);
                else if (kept->solution().report.mesh_s == 0)
                    followed.push_back(ms);
                else
                    follower = kept->follower();
            }
        }
        fmt::print("  {:<20} {:>6.1f} {:>6.1f} ({} of {} followed)\n", design.id, median(anew),
                   median(followed), followed.size(), moves);
    }
}

void hanging(const Job& job, const Library& library) {
    fmt::print("\nwhat the tightest check hangs on, on 2 threads, seconds\n  {:<20} {:<30} {:>6} {:>9} {:>9} "
               "{:>7} {:>8}\n",
               "", "", "tried", "unsolved", "the list", "refined", "of cores");
    for (const auto& design : job.designs) {
        const auto outcome = outcome_of(job, design.id, {}, library, prepare_design, {Use::compared});
        if (!outcome || outcome->readings.empty()) continue;
        const auto tightest = std::max_element(
            outcome->readings.begin(), outcome->readings.end(), [](const auto& a, const auto& b) {
                return (a.limit > 0 ? a.share() : 0) < (b.limit > 0 ? b.share() : 0);
            });
        const SensitivityRequest request{job, design.id, check_id_of(tightest->check)};
        Stopwatch watch;
        const double before = processor_ms();
        double list_s = 0;
        const auto found =
            find_sensitivity(request, library, prepare_design, [&](const Sensitivity& so_far, int done, int) {
                if (done == so_far.tried) list_s += watch.lap(); // all are tried; what follows is refined
            });
        const double rest_s = watch.lap();
        if (!found) continue;
        fmt::print("  {:<20} {:<30} {:>6} {:>9} {:>9.2f} {:>7.2f} {:>8.2f}\n", design.id,
                   name_of(found->check), found->tried, found->not_solved, list_s, list_s + rest_s,
                   (processor_ms() - before) / 1e3);
    }
}

} // namespace ng::bench
