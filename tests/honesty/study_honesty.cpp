// Do studies say of a build what a solve of its own says? Rows of usual studies of all demo designs, each
// solved only as exactly as its decision needs, held against solves to 0.3 %; and meshes that were moved
// along with a build held against meshes of its own.
//
// usage: study_honesty samples COUNT [SEED [DESIGN...]]
//        study_honesty moves COUNT [SEED [DESIGN...]]; prints the lines of docs/verification.md, exit 1 when
//        a build is decided on the wrong side of a limit by more than its error, a figure of a moved mesh or
//        more than one of a hundred of samples is off by more than is stated of both, or one by more than
//        twice; of designs that are named also when fewer than two moves of one could follow
#include "study/study.h"
#include "units/parallel.h"
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <mutex>
#include <random>

using namespace ng;

namespace {

constexpr double truth_goal = 0.003;

/// How far figures are off, in errors as stated of both sides.
struct Tally {
    std::vector<double> ratios;
    int builds = 0, again = 0, refused = 0, wrong = 0;

    void add(double off, double stated) { ratios.push_back(off / std::max(stated, 1e-12)); }
    /// `most_above`: share of figures that may be off by more than is stated; none by more than twice.
    bool print(const char* what, int designs, double most_above) {
        std::sort(ratios.begin(), ratios.end());
        const auto at = [&](double share) {
            return ratios.empty()
                       ? 0.0
                       : ratios[static_cast<std::size_t>(share * (static_cast<double>(ratios.size()) - 1))];
        };
        const auto above = std::count_if(ratios.begin(), ratios.end(), [](double r) { return r > 1; });
        std::printf(
            "%d %s of %d designs (%d solved again, %d cannot be built): %zu figures, off by a median of "
            "%.2f, 95 %% below %.2f, at most %.2f of the errors stated; %ld above 1; %d on the wrong side "
            "of a limit by more than that\n",
            builds, what, designs, again, refused, ratios.size(), at(0.5), at(0.95), at(1),
            static_cast<long>(above), wrong);
        return builds > 0 && wrong == 0 &&
               static_cast<double>(above) <= most_above * static_cast<double>(ratios.size()) && at(1) <= 2;
    }
};

struct Figure {
    double share = 0, error = 0; ///< of the limit
};
Figure of_check(const Check& check) {
    return {1 - check.margin, check.relative_error * check.value / check.limit};
}
bool counts(const Check& check) {
    return check.limit > 0 && check.value > 0;
}

void compare(const Figure& ours, const Figure& truth, Tally& tally) {
    const double off = std::abs(ours.share - truth.share), stated = ours.error + truth.error;
    tally.add(off, stated);
    tally.wrong += (ours.share > 1) != (truth.share > 1) && off > stated;
}

EvaluateOptions to(double goal) {
    EvaluateOptions out;
    out.goal = goal;
    return out;
}

/// A row as a study makes it, and the same build by itself.
void sample(const Study& study, std::uint64_t index, const Library& library, std::mutex& mutex,
            Tally& tally) {
    const auto row = study.row(index);
    if (!row.refusal.empty()) {
        const std::lock_guard lock(mutex);
        ++tally.refused;
        return;
    }
    const auto truth =
        evaluate(*study.job_of(row.drawn), study.plan().design, {}, library, prepare_design, to(truth_goal));
    if (!truth) return;
    const std::lock_guard lock(mutex);
    ++tally.builds;
    tally.again += row.solved_again;
    for (const auto& check : truth->verdict.checks)
        for (std::size_t k = 0; k < study.checks().size(); ++k)
            if (counts(check) && study.checks()[k] == name_of(check.id) + ": " + check.title &&
                row.readings[k].share > 0)
                compare({row.readings[k].share, row.readings[k].error}, of_check(check), tally);
}

/// One to three quantities moved at random within their tolerances: on the meshes of another variant, moved
/// along as the window and studies do, and on meshes of their own. Nothing: no mesh could follow, and its own
/// is one that the next may.
class Mover {
  public:
    Mover(const Study& study, const Library& library, std::uint64_t seed)
        : study_(study), library_(library), random_(seed) {}

    void move(std::mutex& mutex, Tally& tally) {
        const auto& varied = study_.plan().varied;
        std::vector<double> drawn;
        for (const auto& v : varied) drawn.push_back(v.middle);
        const auto several = 1 + random_() % 3;
        for (std::size_t n = 0; n < several; ++n) {
            const auto k = random_() % varied.size();
            auto v = varied[k];
            v.blunder_share = 0;
            drawn[k] = v.quantile(std::uniform_real_distribution<double>(0.02, 0.98)(random_));
        }
        auto prepared = prepare_design(*study_.job_of(drawn), study_.plan().design, library_);
        if (!prepared) return;
        auto how = to(0.01);
        how.like = followers_;
        how.movable = followers_.empty();
        const auto moved = evaluate_prepared(*prepared, how);
        if (!moved) return;
        how.like.clear();
        how.movable = true;
        const bool followed = !followers_.empty() && moved->solutions.at_u0.report.mesh_s == 0;
        const auto fresh = evaluate_prepared(std::move(*prepared), how);
        if (!fresh) return;
        if (!followed) {
            constexpr std::size_t most = 4;
            if (fresh->solutions.follower) followers_.insert(followers_.begin(), fresh->solutions.follower);
            if (followers_.size() > most) followers_.pop_back();
            return;
        }
        const std::lock_guard lock(mutex);
        ++tally.builds;
        for (const auto& a : moved->verdict.checks)
            for (const auto& b : fresh->verdict.checks)
                if (a.id == b.id && a.title == b.title && counts(a) && counts(b) && a.relative_error > 0)
                    compare(of_check(a), of_check(b), tally);
    }

  private:
    const Study& study_;
    const Library& library_;
    std::mt19937_64 random_;
    std::vector<std::shared_ptr<const Follower>> followers_;
};

} // namespace

int main(int argc, char** argv) {
    const std::string what = argc > 2 ? argv[1] : "";
    if (what != "samples" && what != "moves") {
        std::fprintf(stderr, "usage: study_honesty samples|moves COUNT [SEED [DESIGN...]]\n");
        return 2;
    }
    const auto count = static_cast<std::uint64_t>(std::max(1, std::atoi(argv[2])));
    const auto seed = static_cast<std::uint64_t>(argc > 3 ? std::atoi(argv[3]) : 1);
    const auto library = load_library(NEEDLEGAUGE_DATA_DIR);
    const auto job = load_job(NEEDLEGAUGE_DATA_DIR "/demo/osprey-point.ngjob");
    if (!library || !job) {
        std::fprintf(stderr, "the demo data cannot be read\n");
        return 2;
    }
    std::vector<std::string> designs(argv + std::min(argc, 4), argv + argc);
    if (designs.empty())
        for (const auto& design : job->designs) designs.push_back(design.id);
    Tally tally;
    std::mutex mutex;
    std::uint64_t left = count;
    for (std::size_t d = 0; d < designs.size(); ++d) {
        const auto share = left / (designs.size() - d);
        const auto prepared = prepare_design(*job, designs[d], *library);
        if (!prepared) continue;
        auto plan = usual_plan(*prepared, false);
        plan.samples = 1024;
        plan.seed = seed;
        const auto study = Study::begin(*job, plan, *library, prepare_design);
        if (!study) {
            std::fprintf(stderr, "%s: %s\n", designs[d].c_str(), study.error().message().c_str());
            continue;
        }
        const auto before = static_cast<std::uint64_t>(tally.builds);
        if (what == "samples") {
            constexpr std::uint64_t step = 97; // over all scramblings
            in_parallel(static_cast<std::size_t>(share), usable_threads(), [&](std::size_t k) {
                sample(*study, step * k % plan.samples, *library, mutex, tally);
            });
        } else {
            std::vector<Mover> movers;
            for (std::size_t k = 0; k < usable_threads(); ++k)
                movers.emplace_back(*study, *library, seed * 1000 + 10 * d + k);
            // Where few can follow, other designs make up for it.
            for (std::uint64_t tries = 0; tries < share + 8 && tally.builds - before < share; ++tries)
                in_parallel(movers.size(), movers.size(),
                            [&](std::size_t k) { movers[k].move(mutex, tally); });
        }
        const auto made = static_cast<std::uint64_t>(tally.builds) - before;
        left -= std::min(left, what == "samples" ? share : made);
        std::fprintf(stderr, "%s: %lu\n", designs[d].c_str(), static_cast<unsigned long>(made));
        // Meshes do follow, of designs that are asked for by name.
        if (what == "moves" && argc > 4 && made < std::min<std::uint64_t>(2, share)) {
            std::printf("%s: no more than %lu moves followed\n", designs[d].c_str(),
                        static_cast<unsigned long>(made));
            return 1;
        }
    }
    const double most_above = what == "moves" ? 0 : 0.01;
    return tally.print(what.c_str(), static_cast<int>(designs.size()), most_above) ? 0 : 1;
}
