#include "verdict/verdict.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <optional>
#include <tuple>
#include <utility>

namespace ng {
namespace {

struct Worst {
    double value = -1;
    double error = 0; ///< absolute
    Point at;
    std::optional<PlaceId> place;
    double radius_mm = 0;
    std::string not_judged = {}; ///< edges that lie within the reach of a corner altogether
    std::string missing = {};    ///< what the solution has no reading of
};

void add_name(std::string& names, const PlaceId& place) {
    names += (names.empty() ? "" : ", ") + name_of(place);
}

Worst read_edges(const CheckRequest& request, const Solution& solution) {
    Worst worst;
    for (const auto& place : request.places) {
        const auto* edge = solution.edge(name_of(place));
        if (!edge)
            add_name(worst.missing, place);
        else if (!edge->judged)
            add_name(worst.not_judged, place);
        else if (edge->peak_kV_per_mm > worst.value)
            worst = {edge->peak_kV_per_mm,    edge->relative_error * edge->peak_kV_per_mm,
                     edge->peak_at,           place,
                     edge->radius_mm,         std::move(worst.not_judged),
                     std::move(worst.missing)};
    }
    return worst;
}

double quantity(const CheckRequest& request, const PathSample& s) {
    return request.quantity == CheckRequest::Quantity::tangential ? std::abs(s.E_t_kV_per_mm) : s.E_kV_per_mm;
}

Worst read_paths(const CheckRequest& request, const Solution& solution) {
    Worst worst;
    const auto take = [&](double value, double error, Point at, const PlaceId& place) {
        if (value > worst.value) worst = {value, error, at, place, 0, {}, std::move(worst.missing)};
    };
    for (const auto& place : request.places) {
        const auto* path = solution.path(name_of(place));
        if (!path) {
            add_name(worst.missing, place);
            continue;
        }
        const PathSample* before = nullptr;
        for (const auto& s : path->samples) {
            const auto* last = std::exchange(before, &s);
            if (s.near_singular || s.s_mm < request.from_s_mm) continue;
            const double value = quantity(request, s);
            if (last && last->s_mm < request.from_s_mm &&
                !last->near_singular) { // the first place judged lies between two samples
                const double f = (request.from_s_mm - last->s_mm) / (s.s_mm - last->s_mm);
                const double there = quantity(request, *last) + f * (value - quantity(request, *last));
                take(there, std::max(s.error_kV_per_mm, path->relative_error * there),
                     last->at + f * (s.at - last->at), place);
            }
            take(value, std::max(s.error_kV_per_mm, path->relative_error * value), s.at, place);
        }
    }
    return worst;
}

/// "at 0.5 mm from the edge 0.81, at 1 mm 0.74 kV/mm": figures that depend little on the edge radius.
std::string near_edge_words(const CheckRequest& request, const Solution& solution) {
    if (request.from_s_mm <= 0 || request.places.empty()) return {};
    const auto* path = solution.path(name_of(request.places.front()));
    if (!path) return {};
    std::string text;
    for (const double distance_mm : {0.5, 1.0}) {
        const auto it = std::find_if(path->samples.begin(), path->samples.end(), [&](const auto& s) {
            return s.s_mm >= distance_mm + request.edge_s_mm;
        });
        if (it == path->samples.end() || it->near_singular) continue;
        text += fmt::format("{}at {:g} mm from the edge {}", text.empty() ? "" : ", ", distance_mm,
                            format_figures(quantity(request, *it), 3));
    }
    return text.empty() ? text : text + " kV/mm";
}

Status judge_value(const Check& check, bool error_known) {
    if (!error_known) return Status::not_judged;
    const double error = check.relative_error * check.value;
    if (check.value - error > check.limit) return Status::falls_short;
    if (check.value + error > check.limit || check.margin < marginal_share) return Status::marginal;
    return Status::holds;
}

std::string sentence(const Check& check, const CheckRequest& request) {
    const bool ratio = check.unit == "ratio";
    const auto value = format_supported(check.value, check.relative_error),
               limit = format_figures(check.limit, 3);
    const auto unit = ratio ? std::string(" times") : " " + check.unit;
    const auto where = fmt::format("z {:.1f} mm", check.at.z);
    switch (check.status) {
    case Status::holds:
        return fmt::format("{}{} at {}, {:.0f} % below the limit of {}.", value, unit, where,
                           100 * check.margin, limit);
    case Status::marginal:
        return fmt::format(
            "{}{} at {} is within {:.0f} % of the limit of {}: little is left for what hands and cable vary.",
            value, unit, where, 100 * std::abs(check.margin), limit);
    case Status::falls_short:
        return fmt::format("{}{} at {} is {:.0f} % above the limit of {}: {}.", value, unit, where,
                           -100 * check.margin, limit, request.because);
    case Status::not_judged:
        break;
    }
    return fmt::format("{}{} at {} from a coarse solution: not judged until it is refined.",
                       format_figures(check.value, 2), unit, where);
}

} // namespace

const char* status_word(Status status) {
    switch (status) {
    case Status::holds:
        return "holds";
    case Status::marginal:
        return "marginal";
    case Status::falls_short:
        return "falls short";
    case Status::not_judged:
        break;
    }
    return "not judged";
}

Check judge_check(const CheckRequest& request, const ReadAt& at) {
    Check check;
    check.id = request.id;
    check.title = request.title;
    check.voltage_kV = at.voltage_kV;
    check.level = at.level;
    check.voltage_origin = at.voltage_origin;
    if (!at.solution || !at.solution->report.converged) {
        check.why = at.solution ? "The iteration for its field-dependent layer did not converge."
                                : "The layer depends on the field, and this voltage was not solved.";
        return check;
    }
    const auto& solution = *at.solution;
    const auto worst = request.quantity == CheckRequest::Quantity::edge_peak ? read_edges(request, solution)
                                                                             : read_paths(request, solution);
    if (!at.limit || worst.value < 0) { // nothing to read: say so rather than hold
        check.why =
            !at.limit ? "Its limit is missing from the limits table."
            : !worst.missing.empty()
                ? fmt::format("No place of this check could be read: the section has no {}.", worst.missing)
            : worst.not_judged.empty()
                ? "No place of this check could be read."
                : fmt::format("{}: within the reach of a sharp corner altogether.", worst.not_judged);
        return check;
    }
    check.value = worst.value * at.factor / request.divide_by;
    check.relative_error = worst.value > 0 ? worst.error / worst.value : 0;
    check.limit = at.limit->value.value;
    check.unit = at.limit->value.unit;
    check.margin = (check.limit - check.value) / check.limit;
    check.limit_origin = at.limit->value.origin();
    check.protects_against = at.limit->protects_against;
    check.at = worst.at;
    check.place = worst.place;
    check.edge_radius_mm = worst.radius_mm;
    check.cure = request.cure;
    check.status = judge_value(check, solution.report.error_known());
    check.why = sentence(check, request);
    if (!worst.not_judged.empty())
        check.why += fmt::format(" Not judged, within the reach of a sharp corner: {}.", worst.not_judged);
    // An edge that is drawn may lie hidden in other metal; a path that is drawn is there, or somebody lost
    // it.
    if (!worst.missing.empty() && request.quantity != CheckRequest::Quantity::edge_peak) {
        check.status = Status::not_judged;
        check.why += fmt::format(" Not read, and the check with it: the section has no {}.", worst.missing);
    }
    check.near_edge = near_edge_words(request, solution);
    return check;
}

void judge_plain(Check& check) {
    check.margin = (check.limit - check.value) / check.limit * (check.at_least ? -1 : 1);
    check.status = check.margin < 0                ? Status::falls_short
                   : check.margin < marginal_share ? Status::marginal
                                                   : Status::holds;
    if (check.why.empty())
        check.why = fmt::format("{} {}, {} {} {}.", format_figures(check.value, 3), check.unit,
                                check.at_least ? "at least" : "at most", format_figures(check.limit, 3),
                                check.at_least ? "is needed" : "is allowed");
}

int severity(Status status) {
    return status == Status::falls_short ? 3 : status == Status::not_judged ? 2 : status == Status::marginal;
}

Verdict judge(const BuiltAccessory& built, const Duty& duty, const DutyClass& levels,
              const LimitTable& limits, const LevelSolutions& solutions) {
    Verdict verdict;
    const double u0 = duty.u0();
    auto read_at = [&](const CheckRequest& request) -> std::optional<ReadAt> {
        ReadAt at;
        at.limit = limits.find(request.limit_id);
        at.voltage_kV = u0;
        at.level = "U0";
        at.voltage_origin = duty.u0_kV ? "user" : duty.class_u0_kV > 0 ? "of the class" : "class / sqrt 3";
        if (request.at_level != "u0") {
            const auto it = levels.levels.find(request.at_level);
            if (it == levels.levels.end()) return {};
            at.voltage_kV = it->second.value;
            at.level = request.at_level == "pd_extinction_kV" ? "PD extinction voltage" : request.at_level;
            at.voltage_origin = it->second.origin();
        }
        return at;
    };
    for (const auto& request : built.checks)
        if (auto at = read_at(request)) {
            std::tie(at->solution, at->factor) = solutions.read_at(request.at_level, at->voltage_kV, u0);
            verdict.checks.push_back(judge_check(request, *at));
        }
    for (const auto& across : built.across) {
        const auto it = solutions.across.find(across.id);
        for (const auto& request : across.checks)
            if (auto at = read_at(request)) {
                at->solution = it == solutions.across.end() ? nullptr : &it->second;
                at->factor = at->voltage_kV / u0;
                verdict.checks.push_back(judge_check(request, *at));
                verdict.checks.back().across = across.id;
            }
    }
    // The worst status of all; within it the smallest margin gives the reason.
    const Check* worst = nullptr;
    for (const auto& check : verdict.checks)
        if (!worst || severity(check.status) > severity(worst->status) ||
            (check.status == worst->status && check.margin < worst->margin))
            worst = &check;
    if (worst) {
        verdict.status = worst->status;
        verdict.first_reason = worst->title + ": " + worst->why;
    }
    return verdict;
}

} // namespace ng
