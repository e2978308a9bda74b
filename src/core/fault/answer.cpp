#include "fault/answer.h"
#include "closedform/air.h"
#include "study/crossing.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include "units/text.h"
#include "verdict/void_allowance.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <map>
#include <mutex>
#include <numbers>
#include <utility>

namespace ng {
namespace {

constexpr double infinite = std::numeric_limits<double>::infinity();
constexpr double residual_share = 0.6; // of the inception field: extinction at 0.8 (typical, from memory)
constexpr double waits_at = 1.2;       // times inception
constexpr int grid_sizes = 8;
constexpr double critical_half_width = 0.015; // of the last bracket, relative

/// Where the air is read: at the extinction level where there is one, for field-dependent layers do not
/// scale.
struct AirReading {
    const Solution* solution = nullptr;
    double factor = 1;     ///< on its figures
    double voltage_kV = 0; ///< rms, that the figures then belong to
};

AirReading air_reading(const Evaluation& e) {
    const auto& p = e.prepared;
    const double u0 = p.design.duty.u0();
    if (const auto* spec = p.levels.of_kind(TestKind::extinction)) {
        const double level = p.levels.value_of(*spec).value;
        const auto [solution, factor] = e.solutions.read_at({TestKind::extinction}, level, u0);
        if (solution) return {solution, factor, level};
    }
    return {&e.solutions.at_u0, 1, u0};
}

/// mm along a gap and the field along it, kV/mm peak, with their errors.
using GapField = std::pair<std::vector<std::pair<double, double>>, std::vector<double>>;
Result<GapField> field_along(const AirBody& body, const PathResult& path, double peak) {
    GapField out;
    if (body.across) { // from the normal field of the surface beside it
        const auto nearest =
            std::min_element(path.samples.begin(), path.samples.end(), [&](const auto& a, const auto& b) {
                return std::abs(a.at.z - body.z_mm) < std::abs(b.at.z - body.z_mm);
            });
        if (nearest == path.samples.end()) return out;
        const auto profile = body.across();
        if (!profile) return tl::unexpected(profile.error());
        for (const auto& [s_mm, factor] : *profile) {
            out.first.emplace_back(s_mm, peak * factor * std::abs(nearest->E_n_kV_per_mm));
            out.second.push_back(peak * factor * nearest->error_kV_per_mm);
        }
        return out;
    }
    auto take = [&, begin = std::optional<double>()](double s_mm, double E, double error) mutable {
        if (!begin) begin = s_mm;
        out.first.emplace_back(s_mm - *begin, peak * E);
        out.second.push_back(peak * error);
    };
    const auto inside = [&](double z) {
        return !body.along || (z >= body.along->first && z <= body.along->second);
    };
    const PathSample* before = nullptr;
    for (const auto& sample : path.samples) {
        const auto* last = std::exchange(before, &sample);
        if (last && body.along &&
            inside(last->at.z) != inside(sample.at.z)) { // where the stretch begins or ends
            const double end = std::min(last->at.z, sample.at.z) < body.along->first ? body.along->first
                                                                                     : body.along->second;
            const double f = (end - last->at.z) / (sample.at.z - last->at.z);
            take(std::lerp(last->s_mm, sample.s_mm, f),
                 std::lerp(std::abs(last->E_t_kV_per_mm), std::abs(sample.E_t_kV_per_mm), f),
                 std::max(last->error_kV_per_mm, sample.error_kV_per_mm));
        }
        if (inside(sample.at.z)) take(sample.s_mm, std::abs(sample.E_t_kV_per_mm), sample.error_kV_per_mm);
    }
    return out;
}

Result<AirAnswer> air_answer(const AirBody& body, const PathResult& path, const AirReading& at,
                             const PreparedDesign& p) {
    AirAnswer out;
    out.words = body.words;
    out.scaled = !at.solution->linear;
    const double density = gap_air_density(p.design.duty.ambient_C, p.design.duty.altitude_m);
    const double peak = std::numbers::sqrt2 * at.factor;
    const auto along = field_along(body, path, peak);
    if (!along) return tl::unexpected(along.error());
    const auto& [field, errors] = *along;
    double across = 0, unsure = 0; // kV peak
    for (std::size_t i = 1; i < field.size(); ++i) {
        const double step = (field[i].first - field[i - 1].first) / 2;
        across += step * (field[i].second + field[i - 1].second);
        unsure += step * (errors[i] + errors[i - 1]);
    }
    out.gap_mm = field.empty() ? 0 : field.back().first - field.front().first;
    out.relative_error = across > 0 ? unsure / across : 0;
    out.breakdown_kV_rms =
        across > 0 ? at.voltage_kV * closedform::uniform_gap_breakdown_kV_peak(out.gap_mm, density) / across
                   : infinite;
    out.streamer_kV_rms = at.voltage_kV * closedform::streamer_inception_factor(field, density);
    out.inception_kV_rms = std::min(out.breakdown_kV_rms, out.streamer_kV_rms);
    out.extinction_kV_rms = out.inception_kV_rms * closedform::extinction_over_inception(residual_share);
    out.least_extinction_kV_rms = out.inception_kV_rms * closedform::extinction_over_inception(0);
    if (!std::isfinite(out.inception_kV_rms) || !(out.gap_mm > 0)) return out;
    const double in_gap = across / out.gap_mm; // mean, kV/mm peak
    const double at_inception = in_gap * out.inception_kV_rms / at.voltage_kV;
    const double diameter = body.diameter_mm > 0 ? body.diameter_mm : out.gap_mm;
    const double gradient = in_gap / (std::numbers::sqrt2 * at.voltage_kV) / std::max(1.0, body.eps_around);
    out.charge_pC = closedform::disc_void_charge_pC(out.gap_mm, diameter, body.eps_around, at_inception,
                                                    residual_share * at_inception, gradient);
    out.wait_s = closedform::first_electron_wait_s(std::numbers::pi / 4 * diameter * diameter * out.gap_mm,
                                                   waits_at, density);
    return out;
}

bool is_bad(Status status) {
    return status == Status::falls_short;
}

void decide(FaultAnswer& out, const std::vector<Fault>& faults, const Sound& sound) {
    if (is_bad(sound.evaluation.verdict.status)) {
        out.decision = FaultDecision::ask;
        out.why = "The design falls short without any fault: " + sound.evaluation.verdict.first_reason;
        return;
    }
    if (out.status == Status::not_judged) {
        out.decision = FaultDecision::ask;
        out.why = "The field with the fault is not known well enough to judge it.";
        return;
    }
    const FaultKind* ruled = nullptr;
    for (const auto& fault : faults)
        if (const auto* kind = find_fault_kind(fault.kind); kind->rule) ruled = kind;
    if (!out.hurts && ruled) {
        out.decision = ruled->rule->decision;
        out.why = ruled->rule->why;
        return;
    }
    if (!out.hurts && out.inception_kV_rms && !out.required_kV_rms) {
        out.decision = FaultDecision::ask;
        out.why = "Its air is not judged: " + lower_first(no_level_words(TestKind::extinction));
        return;
    }
    if (!out.hurts) {
        const FaultCheck* tightest = nullptr;
        for (const auto& check : out.checks)
            if (check.limit > 0 && (!tightest || check.with / check.limit > tightest->with / tightest->limit))
                tightest = &check;
        out.decision = FaultDecision::accept;
        out.why = tightest ? fmt::format("{}: {:.3g} of {:.3g} {} with it", tightest->title, tightest->with,
                                         tightest->limit, tightest->unit)
                           : "Every check holds with it.";
        if (out.inception_kV_rms && out.required_kV_rms)
            out.why += fmt::format("; its air is quiet up to {:.3g} kV, {:.3g} are asked",
                                   *out.inception_kV_rms, *out.required_kV_rms);
        return;
    }
    bool insulation = false;
    for (const auto& fault : faults) insulation = insulation || find_fault_kind(fault.kind)->hurts_insulation;
    out.decision = insulation ? FaultDecision::cut_back : FaultDecision::rework;
}

} // namespace

std::vector<std::string> moved_checks(const FaultAnswer& answer) {
    constexpr double moved_share = 0.02;
    std::vector<std::string> out;
    for (const auto& check : answer.checks)
        if (check.limit > 0 && std::abs(check.with - check.without) > moved_share * check.limit)
            out.push_back(fmt::format("{}: {} without, {} ± {:.2g} % with, limit {} {}", check.title,
                                      format_figures(check.without, 3), format_figures(check.with, 3),
                                      100 * check.relative_error, format_figures(check.limit, 3),
                                      check.unit));
    return out;
}

Result<Sound> judge_sound(const Job& job, const std::string& design, const Library& library,
                          const EvaluateOptions& options) {
    auto evaluation = evaluate(job, design, {}, library, prepare_design, options);
    if (!evaluation) return tl::unexpected(evaluation.error());
    std::optional<double> required;
    if (const auto* spec = evaluation->prepared.levels.of_kind(TestKind::extinction))
        required = evaluation->prepared.levels.value_of(*spec).value;
    return Sound{std::move(*evaluation), required};
}

Result<FaultAnswer> judge_faults(const Job& job, const std::string& design, const std::vector<Fault>& faults,
                                 const Library& library, const Sound& sound, const EvaluateOptions& options) {
    auto faulty = prepare_faulty(job, design, faults, library);
    if (!faulty) return tl::unexpected(faulty.error());
    // Rules change nothing that is solved.
    const bool only_rules = std::all_of(faults.begin(), faults.end(), [](const auto& fault) {
        return find_fault_kind(fault.kind)->rule.has_value();
    });
    std::optional<Evaluation> own;
    if (!only_rules || faults.empty()) {
        auto with_air = options;
        for (const auto& body : faulty->air) with_air.read_too.push_back(name_of(body.path));
        auto solved = evaluate_prepared(std::move(faulty->prepared), with_air);
        if (!solved) return tl::unexpected(solved.error());
        own = std::move(*solved);
    }
    const auto* evaluated = own ? &*own : &sound.evaluation;
    FaultAnswer out;
    out.status = evaluated->verdict.status;
    out.required_kV_rms = sound.required_kV_rms;
    const auto at = air_reading(*evaluated);
    for (const auto& body : faulty->air)
        if (const auto* path = at.solution->path(body.path)) {
            auto air = air_answer(body, *path, at, evaluated->prepared);
            if (!air) return tl::unexpected(air.error());
            out.air.push_back(std::move(*air));
        }
    const AirAnswer* first = nullptr; ///< that begins
    for (const auto& air : out.air)
        if (!first || air.inception_kV_rms < first->inception_kV_rms) first = &air;
    if (first) out.inception_kV_rms = first->inception_kV_rms;
    const Check* worst = nullptr;
    for (const auto& check : evaluated->verdict.checks) {
        FaultCheck row{.id = check.id,
                       .title = check.title,
                       .unit = check.unit,
                       .with = check.value,
                       .limit = check.limit,
                       .relative_error = check.relative_error,
                       .status_with = check.status};
        for (const auto& before : sound.evaluation.verdict.checks)
            if (before.id == check.id) {
                row.without = before.value;
                row.status_without = before.status;
            }
        if (is_bad(row.status_with) && !is_bad(row.status_without) &&
            (!worst || check.margin < worst->margin))
            worst = &check;
        if (check.limit > 0 && !is_bad(row.status_without) && 1 - check.margin > out.nearness) {
            out.nearness = 1 - check.margin;
            out.nearness_error = check.relative_error;
        }
        out.checks.push_back(std::move(row));
    }
    // Quiet is what is quiet with the error of its field.
    const double asked =
        first && out.required_kV_rms
            ? *out.required_kV_rms / (first->inception_kV_rms * std::max(1e-3, 1 - first->relative_error))
            : 0;
    if (asked > out.nearness) {
        out.nearness = asked;
        out.nearness_error = first->relative_error;
    }
    if (asked > 1) {
        out.hurts = true;
        out.why = fmt::format(
            "Partial discharge: {} begins at {} kV rms ± {:.2g} % by {}, and {:.3g} are asked quiet",
            first->words, format_supported(first->inception_kV_rms, first->relative_error),
            100 * first->relative_error,
            first->streamer_kV_rms < first->breakdown_kV_rms ? "the streamer integral"
                                                             : "the breakdown of its gap",
            *out.required_kV_rms);
    }
    if (worst) {
        out.hurts = true;
        out.why =
            fmt::format("{}: {:.3g} of {:.3g} {}", worst->title, worst->value, worst->limit, worst->unit) +
            (out.why.empty() ? "" : ". " + out.why);
    }
    decide(out, faults, sound);
    for (const auto& note : faulty->notes) out.why += (out.why.empty() ? "" : " ") + note;
    return out;
}

EvaluateOptions fault_options(const Sound& sound, double loosest, const CancelFlag* cancel) {
    EvaluateOptions out;
    out.goal = 0.03;
    out.loosest = loosest;
    out.prior = &sound.evaluation.verdict;
    out.cancel = cancel;
    return out;
}

Result<CriticalSize> critical_size(const Job& job, const std::string& design, const Fault& fault,
                                   const Library& library, const Sound& sound, const CancelFlag* cancel,
                                   std::size_t threads) {
    if (auto ok = check_fault(fault, "fault"); !ok) return tl::unexpected(ok.error());
    const auto& kind = *find_fault_kind(fault.kind);
    if (kind.rule)
        return refuse(kind.title, "it is a rule of the trade and has no size", "Judge it as it is");
    CriticalSize out;
    out.least_mm = kind.least_mm;
    out.most_mm = kind.most_mm;
    out.found_from_mm = found_from_mm(kind.inspection);
    const auto options = fault_options(sound, search_loosest, cancel);
    const auto at = [&](double log_size) {
        auto sized = fault;
        sized.size_mm = std::exp(log_size);
        return judge_faults(job, design, {sized}, library, sound, options);
    };
    std::vector<double> grid; ///< logarithms of sizes
    for (int i = 0; i < grid_sizes; ++i)
        grid.push_back(std::lerp(std::log(kind.least_mm), std::log(kind.most_mm), i / (grid_sizes - 1.0)));
    std::map<double, Result<FaultAnswer>> ahead; ///< sizes of the grid that were solved before their turn
    const auto look = [&](double log_size) {
        const auto from = std::find(grid.begin(), grid.end(), log_size);
        if (threads < 2 || from == grid.end()) return at(log_size);
        if (!ahead.contains(log_size)) {
            std::vector<double> some(
                from,
                from + std::min<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(threads), grid.end() - from));
            std::vector<std::optional<Result<FaultAnswer>>> answers(some.size());
            in_parallel(some.size(), threads, [&](std::size_t i) { answers[i] = at(some[i]); });
            for (std::size_t i = 0; i < some.size(); ++i) ahead.emplace(some[i], std::move(*answers[i]));
        }
        return ahead.at(log_size);
    };
    double unsure = 0; ///< of the nearness of the last one, relative
    const auto crossing =
        first_crossing(grid, 2 * critical_half_width, cancel, [&](double log_size) -> Result<double> {
            const auto answer = look(log_size);
            if (!answer) return tl::unexpected(answer.error());
            unsure = answer->nearness_error;
            if (answer->hurts) out.why = answer->why;
            return answer->hurts ? std::max(answer->nearness, 1 + 1e-9) : std::min(answer->nearness, 1.0);
        });
    if (crossing.cancelled) return refuse(kind.title, "cancelled", "");
    if (crossing.refused) return tl::unexpected(*crossing.refused);
    out.most_mm = std::exp(crossing.looked);
    if (!crossing.fails) return out;
    out.hurting_mm = std::exp(*crossing.fails);
    if (!crossing.holds) {
        out.mm = out.hurting_mm;
        out.at_most = true;
    } else {
        const double quiet = std::exp(*crossing.holds);
        out.mm = std::sqrt(quiet * out.hurting_mm);
        out.error_mm = (out.hurting_mm - quiet) / 2 + *out.mm * std::min(1.0, unsure / crossing.steepness);
    }
    out.inspectability = std::isfinite(out.found_from_mm) ? *out.mm / out.found_from_mm : 0;
    return out;
}

std::vector<Fault> possible_faults(const PreparedDesign& prepared) {
    const bool two = has_two_sides(prepared.built);
    std::vector<Fault> out;
    for (const auto& kind : fault_kinds())
        if (!kind.rule)
            for (const auto side : two ? std::vector{Side::a, Side::b} : std::vector{Side::none}) {
                Fault fault;
                fault.kind = kind.id;
                fault.side = side;
                fault.size_mm = kind.least_mm;
                out.push_back(std::move(fault));
            }
    return out;
}

void write_hold_points(const std::vector<std::pair<Fault, CriticalSize>>& sizes, WorkSheet& sheet) {
    for (const auto& [fault, critical] : sizes) {
        const auto& kind = *find_fault_kind(fault.kind);
        for (auto& step : sheet.steps) {
            if (step.step_id != kind.step) continue;
            const auto what = kind.title + tag_of(fault.side);
            const auto hurts =
                critical.at_most ? fmt::format("{}: {:.2g} mm, the least looked at, already fails a check",
                                               what, critical.hurting_mm)
                : critical.mm    ? fmt::format("{}: no check fails up to {:.2g} mm here", what,
                                               std::max(0.0, *critical.mm - critical.error_mm))
                              : fmt::format("{}: no check fails up to {:.2g} mm, the largest looked at", what,
                                            critical.most_mm);
            step.lines.push_back(
                std::isfinite(critical.found_from_mm)
                    ? fmt::format("{}; found by {} from {:.2g} mm in nine of ten.{}", hurts,
                                  kind.inspection.means, critical.found_from_mm,
                                  critical.inspectability && *critical.inspectability < 1
                                      ? " Hands may miss what hurts: look twice, by another means."
                                      : "")
                    : hurts + "; nothing finds it afterwards.");
            break;
        }
    }
}

std::vector<std::pair<Fault, CriticalSize>>
scan_faults(const Job& job, const std::string& design, const Library& library, const Sound& sound,
            const CancelFlag* cancel,
            const std::function<void(const Fault&, const Result<CriticalSize>&)>& found) {
    const auto faults = possible_faults(sound.evaluation.prepared);
    std::vector<std::optional<CriticalSize>> sizes(faults.size());
    std::mutex told;
    in_parallel( // faults know nothing of one another
        faults.size(), usable_threads(),
        [&](std::size_t i) {
            auto size = critical_size(job, design, faults[i], library, sound, cancel);
            if (cancel && cancel->load(std::memory_order_relaxed)) return;
            if (found) {
                const std::lock_guard lock(told);
                found(faults[i], size);
            }
            if (size) sizes[i] = std::move(*size);
        },
        cancel);
    std::vector<std::pair<Fault, CriticalSize>> out;
    for (std::size_t i = 0; i < faults.size(); ++i)
        if (sizes[i]) out.emplace_back(faults[i], std::move(*sizes[i]));
    return out;
}

std::vector<Elsewhere> judge_elsewhere(const Job& job, const std::string& design, const Fault& fault,
                                       const Library& library, const CancelFlag* cancel) {
    std::vector<Elsewhere> out;
    for (const auto& other : job.designs)
        if (other.id != design) out.push_back({other.id, other.title, other.family, {}, {}, {}});
    const auto fill = [&](Elsewhere& one) {
        const auto sound = judge_sound(job, one.design, library, {.cancel = cancel});
        if (!sound) {
            one.why = sound.error().message();
            return;
        }
        auto there = fault;
        const bool two = has_two_sides(sound->evaluation.prepared.built);
        if (!find_fault_kind(fault.kind)->rule)
            there.side = !two ? Side::none : fault.side == Side::none ? Side::a : fault.side;
        const auto answer = judge_faults(job, one.design, {there}, library, *sound,
                                         fault_options(*sound, shown_loosest, cancel));
        if (!answer) {
            one.why = answer.error().message();
            return;
        }
        one.decision = answer->decision;
        one.why = answer->why;
        if (auto critical = critical_size(job, one.design, there, library, *sound, cancel))
            one.critical = std::move(*critical);
    };
    in_parallel(
        out.size(), usable_threads(), [&](std::size_t i) { fill(out[i]); }, cancel);
    return out;
}

nlohmann::ordered_json fault_json(const Fault& fault, const FaultAnswer& answer,
                                  const CriticalSize* critical) {
    using nlohmann::ordered_json;
    const auto number = [](const std::optional<double>& v) {
        return v && std::isfinite(*v) ? ordered_json(*v) : ordered_json();
    };
    const auto& kind = *find_fault_kind(fault.kind);
    ordered_json out{{"kind", fault.kind},
                     {"title", kind.title},
                     {"place", name_of(place::screen_edge.on(fault.side))},
                     {"from_edge_mm", kind.put ? ordered_json(fault.from_edge_mm.value_or(kind.from_edge_mm))
                                               : ordered_json()},
                     {"side", side_letter(fault.side)},
                     {"size_mm", kind.rule ? ordered_json() : ordered_json(fault.size_mm)},
                     {"filling", kind.has_filling ? fault.filling : ""}};
    if (const double sheet = fault.sheet_ohm.value_or(kind.sheet_ohm); sheet > 0) out["sheet_ohm"] = sheet;
    out["found_from_mm"] = number(found_from_mm(kind.inspection));
    out["found_by"] = kind.inspection.means;
    out["critical_mm"] = critical ? number(critical->mm) : ordered_json();
    out["critical_error_mm"] =
        critical && critical->mm && !critical->at_most ? ordered_json(critical->error_mm) : ordered_json();
    out["critical_is_at_most"] = critical && critical->at_most;
    out["searched_mm"] = critical ? ordered_json{critical->least_mm, critical->most_mm} : ordered_json();
    out["inspectability"] = critical ? number(critical->inspectability) : ordered_json();
    out["inception_kV_rms"] = number(answer.inception_kV_rms);
    out["required_kV_rms"] = number(answer.required_kV_rms);
    out["decision"] = decision_word(answer.decision);
    out["why"] = answer.why;
    out["to_do"] = answer.decision == FaultDecision::rework     ? kind.rework
                   : answer.decision == FaultDecision::cut_back ? "Cut back and start again"
                   : answer.decision == FaultDecision::ask
                       ? "Stop and ask the engineer with the measured values"
                       : "";
    out["model"] = kind.model;
    out["air"] = ordered_json::array();
    for (const auto& air : answer.air)
        out["air"].push_back({{"what", air.words},
                              {"gap_mm", air.gap_mm},
                              {"breakdown_kV_rms", number(air.breakdown_kV_rms)},
                              {"streamer_kV_rms", number(air.streamer_kV_rms)},
                              {"inception_kV_rms", number(air.inception_kV_rms)},
                              {"extinction_kV_rms", number(air.extinction_kV_rms)},
                              {"least_extinction_kV_rms", number(air.least_extinction_kV_rms)},
                              {"charge_pC", number(air.charge_pC)},
                              {"wait_s", number(air.wait_s)},
                              {"relative_error", air.relative_error},
                              {"scaled_from_another_voltage", air.scaled}});
    out["checks"] = ordered_json::array();
    for (const auto& check : answer.checks)
        out["checks"].push_back({{"id", name_of(check.id)},
                                 {"title", check.title},
                                 {"without", check.without},
                                 {"with", check.with},
                                 {"relative_error", check.relative_error},
                                 {"limit", check.limit},
                                 {"unit", check.unit},
                                 {"status_without", status_word(check.status_without)},
                                 {"status_with", status_word(check.status_with)}});
    return out;
}

} // namespace ng
