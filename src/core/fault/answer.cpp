#include "fault/answer.h"
#include "closedform/air.h"
#include "verdict/void_allowance.h"
#include <algorithm>
#include <boost/math/tools/roots.hpp>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>

namespace ng {
namespace {

constexpr double infinite = std::numeric_limits<double>::infinity();
constexpr double residual_share = 0.6;         // of the inception field: extinction at 0.8 (typical, from memory)
constexpr double least_streamer_mm_bar = 0.2;  // below it the streamer integral says nothing
constexpr double streamer_K = 9.15;            // Petcharaks, from memory
constexpr double electrons_per_m3_s = 2e6;     // at 1 bar (from memory, 75 % sure)
constexpr double waits_at = 1.2;               // times inception
constexpr int grid_sizes = 8, bisections = 5;

/// Effective ionisation per mm at 1 bar of air at this density, E kV/mm peak; 0 where attachment wins.
double ionisation_per_mm(double E, double density) {
    const double reduced = E / density;
    if (reduced < 2.588) return 0;
    if (reduced <= 7.943) return density * std::max(0.0, 1.6053 * std::pow(reduced - 2.165, 2) - 0.2873);
    return density * (16.7766 * reduced - 80.0);
}

/// Factor on the solved field at which the net ionisation along the path reaches K.
double streamer_factor(const std::vector<std::pair<double, double>>& field, double density) {
    const auto excess = [&](double factor) {
        double sum = 0;
        for (std::size_t i = 1; i < field.size(); ++i)
            sum += (field[i].first - field[i - 1].first) / 2 *
                   (ionisation_per_mm(factor * field[i].second, density) +
                    ionisation_per_mm(factor * field[i - 1].second, density));
        return sum - streamer_K;
    };
    double greatest = 0;
    for (const auto& [s, E] : field) greatest = std::max(greatest, E);
    if (!(greatest > 0)) return infinite;
    double low = 2.0 * density / greatest, high = low;
    for (int i = 0; i < 60 && excess(high) < 0; ++i) high *= 1.5;
    if (excess(high) < 0) return infinite;
    std::uintmax_t most = 60;
    const auto [a, b] = boost::math::tools::toms748_solve(excess, low, high, boost::math::tools::eps_tolerance<double>(30), most);
    return (a + b) / 2;
}

AirAnswer air_answer(const AirBody& body, const PathResult& path, const PreparedDesign& p) {
    AirAnswer out;
    out.words = body.words;
    const double density = gap_air_density(p.design.duty.ambient_C, p.design.duty.altitude_m);
    const double u0 = p.design.duty.u0(), peak = std::numbers::sqrt2;
    std::vector<std::pair<double, double>> field; // along the path, kV/mm peak at U0
    double across = 0;
    for (const auto& sample : path.samples) {
        field.emplace_back(sample.s_mm, peak * std::abs(sample.E_t_kV_per_mm));
        if (sample.E_kV_per_mm > 0 && !sample.near_singular)
            out.relative_error = std::max(out.relative_error, sample.error_kV_per_mm / sample.E_kV_per_mm);
    }
    for (std::size_t i = 1; i < field.size(); ++i)
        across += (field[i].first - field[i - 1].first) / 2 * (field[i].second + field[i - 1].second);
    out.gap_mm = field.empty() ? 0 : field.back().first - field.front().first;
    out.breakdown_kV_rms = across > 0 ? u0 * closedform::uniform_gap_breakdown_kV_peak(out.gap_mm, density) / across
                                      : infinite;
    out.streamer_kV_rms = out.gap_mm * density >= least_streamer_mm_bar ? u0 * streamer_factor(field, density) : infinite;
    out.inception_kV_rms = std::min(out.breakdown_kV_rms, out.streamer_kV_rms);
    out.extinction_kV_rms = out.inception_kV_rms * closedform::extinction_over_inception(residual_share);
    out.least_extinction_kV_rms = out.inception_kV_rms * closedform::extinction_over_inception(0);
    if (!std::isfinite(out.inception_kV_rms) || !(out.gap_mm > 0)) return out;
    const double inception_field = across / out.gap_mm * out.inception_kV_rms / u0; // mean, peak
    const double diameter = body.diameter_mm > 0 ? body.diameter_mm : out.gap_mm;
    const double gradient = across / out.gap_mm / (peak * u0) / std::max(1.0, body.eps_around);
    out.charge_pC = closedform::disc_void_charge_pC(out.gap_mm, diameter, body.eps_around, inception_field,
                                                    residual_share * inception_field, gradient);
    const double volume_m3 = std::numbers::pi / 4 * diameter * diameter * out.gap_mm * 1e-9;
    out.wait_s = 1 / (electrons_per_m3_s * volume_m3 * (1 - std::sqrt(1 / waits_at)));
    return out;
}

std::optional<double> required_extinction(const PreparedDesign& p) {
    for (const auto& spec : p.levels.specs)
        if (spec.kind == TestKind::extinction)
            if (const auto it = p.levels.levels.find(spec.name); it != p.levels.levels.end())
                return it->second.value;
    return {};
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
            out.why += fmt::format("; its air is quiet up to {:.3g} kV, {:.3g} are asked", *out.inception_kV_rms,
                                   *out.required_kV_rms);
        return;
    }
    bool insulation = false;
    for (const auto& fault : faults) insulation = insulation || find_fault_kind(fault.kind)->hurts_insulation;
    out.decision = insulation ? FaultDecision::cut_back : FaultDecision::rework;
}

} // namespace

const char* decision_word(FaultDecision decision) {
    switch (decision) {
    case FaultDecision::accept: return "accept";
    case FaultDecision::rework: return "rework";
    case FaultDecision::cut_back: return "cut_back";
    case FaultDecision::ask: break;
    }
    return "ask";
}

Result<Sound> judge_sound(const Job& job, const std::string& design, const Library& library,
                          const EvaluateOptions& options) {
    auto evaluation = evaluate(job, design, {}, library, options);
    if (!evaluation) return tl::unexpected(evaluation.error());
    const auto required = required_extinction(evaluation->prepared);
    return Sound{std::move(*evaluation), required};
}

Result<FaultAnswer> judge_faults(const Job& job, const std::string& design, const std::vector<Fault>& faults,
                                 const Library& library, const Sound& sound, const EvaluateOptions& options) {
    auto faulty = prepare_faulty(job, design, faults, library);
    if (!faulty) return tl::unexpected(faulty.error());
    const auto evaluated = evaluate_prepared(std::move(faulty->prepared), options);
    if (!evaluated) return tl::unexpected(evaluated.error());
    FaultAnswer out;
    out.status = evaluated->verdict.status;
    out.required_kV_rms = sound.required_kV_rms;
    for (const auto& body : faulty->air)
        if (const auto* path = evaluated->solutions.at_u0.path(name_of(body.path)))
            out.air.push_back(air_answer(body, *path, evaluated->prepared));
    for (const auto& air : out.air)
        out.inception_kV_rms = std::min(out.inception_kV_rms.value_or(infinite), air.inception_kV_rms);
    const Check* worst = nullptr;
    for (const auto& check : evaluated->verdict.checks) {
        FaultCheck row{check.id, check.title, check.unit, 0, check.value, check.limit, Status::not_judged,
                       check.status};
        for (const auto& before : sound.evaluation.verdict.checks)
            if (before.id == check.id && before.title == check.title) {
                row.without = before.value;
                row.status_without = before.status;
            }
        if (is_bad(row.status_with) && !is_bad(row.status_without) && (!worst || check.margin < worst->margin))
            worst = &check;
        out.checks.push_back(std::move(row));
    }
    if (out.inception_kV_rms && out.required_kV_rms && *out.inception_kV_rms < *out.required_kV_rms) {
        out.hurts = true;
        const auto air = std::min_element(out.air.begin(), out.air.end(), [](const auto& a, const auto& b) {
            return a.inception_kV_rms < b.inception_kV_rms;
        });
        out.why = fmt::format("Partial discharge: {} begins at {:.3g} kV rms by {}, and {:.3g} are asked quiet",
                              air->words, air->inception_kV_rms,
                              air->streamer_kV_rms < air->breakdown_kV_rms ? "the streamer integral"
                                                                           : "the breakdown of its gap",
                              *out.required_kV_rms);
    }
    if (worst) {
        out.hurts = true;
        out.why = fmt::format("{}: {:.3g} of {:.3g} {}", worst->title, worst->value, worst->limit, worst->unit) +
                  (out.why.empty() ? "" : ". " + out.why);
    }
    decide(out, faults, sound);
    return out;
}

Result<CriticalSize> critical_size(const Job& job, const std::string& design, const Fault& fault,
                                   const Library& library, const Sound& sound, const CancelFlag* cancel) {
    if (auto ok = check_fault(fault, "fault"); !ok) return tl::unexpected(ok.error());
    const auto& kind = *find_fault_kind(fault.kind);
    CriticalSize out;
    out.least_mm = kind.least_mm;
    out.most_mm = kind.most_mm;
    out.found_from_mm = found_from_mm(kind.inspection);
    EvaluateOptions options;
    options.goal = search_goal;
    options.cancel = cancel;
    const auto at = [&](double size) {
        auto sized = fault;
        sized.size_mm = size;
        return judge_faults(job, design, {sized}, library, sound, options);
    };
    double quiet = 0, hurting = 0;
    InputError first_refusal;
    bool any = false;
    for (int i = 0; i < grid_sizes; ++i) {
        if (cancel && cancel->load(std::memory_order_relaxed)) return refuse(kind.title, "cancelled", "");
        const double size = kind.least_mm * std::pow(kind.most_mm / kind.least_mm, i / (grid_sizes - 1.0));
        const auto answer = at(size);
        if (!answer) { // larger ones do not fit either
            if (!any) first_refusal = answer.error();
            break;
        }
        any = true;
        out.most_mm = size;
        if (answer->hurts) {
            hurting = size;
            out.why = answer->why;
            break;
        }
        quiet = size;
    }
    if (!any) return tl::unexpected(first_refusal);
    if (!(hurting > 0)) return out;
    if (!(quiet > 0)) { // the least already hurts
        out.mm = hurting;
    } else {
        for (int i = 0; i < bisections; ++i) {
            if (cancel && cancel->load(std::memory_order_relaxed)) return refuse(kind.title, "cancelled", "");
            const double middle = std::sqrt(quiet * hurting);
            const auto answer = at(middle);
            if (!answer) return tl::unexpected(answer.error());
            if (answer->hurts) {
                hurting = middle;
                out.why = answer->why;
            } else {
                quiet = middle;
            }
        }
        out.mm = std::sqrt(quiet * hurting);
        out.error_mm = (hurting - quiet) / 2;
    }
    out.hurting_mm = hurting;
    out.inspectability = std::isfinite(out.found_from_mm) ? *out.mm / out.found_from_mm : 0;
    return out;
}

std::vector<Fault> possible_faults(const PreparedDesign& prepared) {
    const auto& marks = prepared.built.marks;
    const bool two = std::any_of(marks.begin(), marks.end(), [](const auto& m) {
        return m.kind == MarkKind::screen_edge && m.side == CableSide::b;
    });
    std::vector<Fault> out;
    for (const auto& kind : fault_kinds())
        for (const auto side : two ? std::vector{Side::a, Side::b} : std::vector{Side::none}) {
            Fault fault;
            fault.kind = kind.id;
            fault.side = side;
            fault.size_mm = kind.least_mm;
            out.push_back(std::move(fault));
        }
    return out;
}

nlohmann::ordered_json fault_json(const Fault& fault, const FaultAnswer& answer, const CriticalSize* critical) {
    using nlohmann::ordered_json;
    const auto number = [](const std::optional<double>& v) {
        return v && std::isfinite(*v) ? ordered_json(*v) : ordered_json();
    };
    const auto& kind = *find_fault_kind(fault.kind);
    ordered_json out{{"kind", fault.kind},
                     {"title", kind.title},
                     {"place", name_of(place::screen_edge.on(fault.side))},
                     {"from_edge_mm",
                      kind.put ? ordered_json(fault.from_edge_mm.value_or(kind.from_edge_mm)) : ordered_json()},
                     {"side", fault.side == Side::a ? "A" : fault.side == Side::b ? "B" : ""},
                     {"size_mm", fault.size_mm},
                     {"filling", kind.has_filling ? fault.filling : ""}};
    out["found_from_mm"] = number(found_from_mm(kind.inspection));
    out["found_by"] = kind.inspection.means;
    out["critical_mm"] = critical ? number(critical->mm) : ordered_json();
    out["critical_error_mm"] = critical && critical->mm ? ordered_json(critical->error_mm) : ordered_json();
    out["searched_mm"] = critical ? ordered_json{critical->least_mm, critical->most_mm} : ordered_json();
    out["inspectability"] = critical ? number(critical->inspectability) : ordered_json();
    out["inception_kV_rms"] = number(answer.inception_kV_rms);
    out["required_kV_rms"] = number(answer.required_kV_rms);
    out["decision"] = decision_word(answer.decision);
    out["why"] = answer.why;
    out["to_do"] = answer.decision == FaultDecision::rework     ? kind.rework
                   : answer.decision == FaultDecision::cut_back ? "Cut back and start again"
                   : answer.decision == FaultDecision::ask      ? "Stop and ask the engineer with the measured values"
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
                              {"relative_error", air.relative_error}});
    out["checks"] = ordered_json::array();
    for (const auto& check : answer.checks)
        out["checks"].push_back({{"id", check.id},
                                 {"title", check.title},
                                 {"without", check.without},
                                 {"with", check.with},
                                 {"limit", check.limit},
                                 {"unit", check.unit},
                                 {"status_without", status_word(check.status_without)},
                                 {"status_with", status_word(check.status_with)}});
    return out;
}

} // namespace ng
