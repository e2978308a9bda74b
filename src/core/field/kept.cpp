#include "field/kept.h"
#include "field/follow.h"
#include "field/in_time.h"
#include "field/permittivity.h"
#include "field/tuning.h"
#include "field/waveform.h"
#include <fmt/format.h>
#include <mutex>

namespace ng {
namespace {

using End = SolveReport::End;

Result<void> check_analysis(const Section& section) {
    const auto& a = section.analysis;
    for (const auto& region : section.regions) {
        const auto& conduction = section.materials.at(region.material).conduction;
        if (a == Analysis::capacitive && conduction)
            return refuse("material " + region.material,
                          "it conducts, and a capacitive analysis would ignore that",
                          "Use \"analysis\": \"complex\", or remove its conduction");
        if (a == Analysis::complex && conduction && conduction->depends_on_field())
            return refuse("material " + region.material,
                          "its conduction depends on the field, which one linear solution cannot follow",
                          "Use \"analysis\": \"nonlinear\"");
        if (a == Analysis::dc && !conduction)
            return refuse(
                "material " + region.material,
                fmt::format("it has no conductivity, and at DC that decides the field in “{}”", region.name),
                "Give it a conduction law, however small");
    }
    if (a == Analysis::impulse && section.impulse.duration_us && !section.impulse.chopped_at_us) {
        const double crest_us =
            1e6 * DoubleExponential::from_times(section.impulse.front_us, section.impulse.tail_us).crest_s;
        if (*section.impulse.duration_us < crest_us)
            return refuse("impulse",
                          fmt::format("it ends at {:g} us, before its crest at {:.3g} us",
                                      *section.impulse.duration_us, crest_us),
                          "Give a longer duration_us, or none");
    }
    return {};
}

/// What a reader of a steady or timed solution must know besides its figures.
void add_notes(const Section& section, const SolveOptions& options, Solution& solution) {
    auto& notes = solution.report.notes;
    if (options.capacitance_matrix && solution.capacitance_F.size() == 0)
        notes.push_back("no capacitance matrix: it belongs to capacitive and complex analyses");
    if (section.depends_on_frequency())
        notes.push_back(fmt::format("permittivity taken at {:.4g} Hz where it depends on the frequency",
                                    equivalent_frequency_hz(section)));
    if (!solution.report.converged)
        notes.insert(
            notes.begin(),
            fmt::format(
                "NOT CONVERGED: a correction of {:.2g} of the voltage is left; do not use these figures",
                solution.report.residual));
}

} // namespace

struct Kept::State {
    Section section;
    SolveOptions options; ///< as the work sees them: its own flag and its own reports
    std::optional<Adaptation> adaptation;
    std::shared_ptr<const Follower> followed; ///< whose meshes these are; null: their own
    Solution solution;
    const CancelFlag* callers_cancel = nullptr;
    CancelFlag cancel{false};
    std::mutex mutex;
    std::vector<SolveReport> reports; ///< not yet given to the caller
    bool abandoned = false;

    bool cancelled() const { return solution.report.end == End::cancelled; }
    Result<void> build();
};

Kept::Kept(std::shared_ptr<State> state) : state_(std::move(state)) {}
Kept::~Kept() = default;
Kept::Kept(Kept&&) noexcept = default;
Kept& Kept::operator=(Kept&&) noexcept = default;

Result<void> Kept::State::build() {
    Stopwatch total;
    SolveOptions inner = options;
    const bool timed = is_transient(section);
    const auto loads = timed ? bounding_states(section) : std::vector<Section>{section};
    if (timed) inner.most_unknowns = std::min(options.most_unknowns, options.most_unknowns_in_time);
    Result<std::vector<Solution>> found = std::vector<Solution>{};
    for (const auto& like : options.like) {
        if (timed) break;
        adaptation = like->follow(loads, inner);
        if (!adaptation) continue;
        followed = like;
        break;
    }
    if (followed) {
        found = adaptation->run(loads, inner);
        if (found && !options.coarse && found->front().report.end != End::cancelled)
            followed->cover(found->front(), options.slack);
        // What a coarse pass misses is not known.
        const auto enough = [&](const SolveReport& report) {
            return options.coarse || report.end == End::cancelled ||
                   report.worst_error <= tuning::followed_enough * options.goal;
        };
        if (!found || !enough(found->front().report)) followed = nullptr;
    }
    if (!followed) {
        auto begun = Adaptation::begin(loads, inner);
        if (!begun) return tl::unexpected(begun.error());
        adaptation.emplace(std::move(*begun));
        found = adaptation->run(loads, inner);
        if (!found) return tl::unexpected(found.error());
    }
    if (found->front().report.end == End::cancelled || !timed) {
        solution = std::move(found->front());
    } else {
        auto stepped = solve_in_time(section, *adaptation, loads, *found, inner);
        if (!stepped) return tl::unexpected(stepped.error());
        solution = std::move(*stepped);
    }
    if (!cancelled()) {
        finish(solution);
        add_notes(section, options, solution);
    }
    solution.report.total_s = total.lap();
    return {};
}

Result<Kept> Kept::make(const Section& section, const SolveOptions& options) {
    if (auto ok = validate(section); !ok) return tl::unexpected(ok.error());
    if (auto ok = check_analysis(section); !ok) return tl::unexpected(ok.error());
    auto state = std::make_shared<State>();
    state->section = section;
    state->options = options;
    state->callers_cancel = options.cancel;
    state->options.cancel = options.cancel ? &state->cancel : nullptr;
    auto deliver = [&] {
        std::vector<SolveReport> reports;
        {
            const std::lock_guard lock(state->mutex);
            reports.swap(state->reports);
        }
        for (const auto& report : reports)
            if (options.progress) options.progress(report);
    };
    if (options.cancel)
        state->options.progress = [raw = state.get()](const SolveReport& report) {
            const std::lock_guard lock(raw->mutex);
            raw->reports.push_back(report);
        };
    auto built = std::make_shared<Result<void>>();
    if (!run_unless_cancelled([state, built] { *built = state->build(); }, options.cancel, deliver)) {
        state->cancel = true; // what is still at work ends soon, and unseen
        state = std::make_shared<State>();
        state->abandoned = true;
        state->solution = cancelled_solution({});
        return Kept(std::move(state));
    }
    if (!*built) return tl::unexpected(built->error());
    deliver();
    return Kept(std::move(state));
}

const Solution& Kept::solution() const {
    return state_->solution;
}

std::shared_ptr<const Follower> Kept::follower() const {
    if (state_->followed) return state_->followed;
    return state_->adaptation
               ? Follower::of(state_->section, *state_->adaptation, state_->solution, state_->options.threads)
               : nullptr;
}

Solution Kept::take() && {
    return std::move(state_->solution);
}

Result<Solution> Kept::solve(const Section& section) {
    if (auto ok = validate(section); !ok) return tl::unexpected(ok.error());
    if (auto ok = check_analysis(section); !ok) return tl::unexpected(ok.error());
    if (state_->abandoned || state_->cancelled()) return cancelled_solution({});
    if (!same_shapes(section, state_->section))
        return refuse("section", "its shapes, paths or probes differ from those of the kept mesh",
                      "Solve it afresh");
    if (is_transient(section))
        return refuse("section", "a kept mesh serves steady analyses only", "Solve it afresh");
    auto work = [state = state_, section]() -> Result<Solution> {
        Stopwatch total;
        SolveOptions how = state->options;
        how.progress = nullptr;
        auto found = state->adaptation->run({section}, how);
        if (!found) return tl::unexpected(found.error());
        auto& solution = found->front();
        if (solution.report.end != End::cancelled) {
            if (state->followed && !how.coarse) state->followed->cover(solution, how.slack);
            finish(solution);
            add_notes(section, how, solution);
        }
        solution.report.total_s = total.lap();
        return std::move(solution);
    };
    auto out = std::make_shared<Result<Solution>>(Solution{});
    if (!run_unless_cancelled([work, out] { *out = work(); }, state_->callers_cancel, [] {})) {
        state_->cancel = true;
        state_ = std::make_shared<State>();
        state_->abandoned = true;
        state_->solution = cancelled_solution({});
        return cancelled_solution({});
    }
    return std::move(*out);
}

Result<Solution> solve(const Section& section, const SolveOptions& options) {
    auto kept = Kept::make(section, options);
    if (!kept) return tl::unexpected(kept.error());
    return std::move(*kept).take();
}

} // namespace ng
