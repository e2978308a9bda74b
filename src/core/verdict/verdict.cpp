#include "verdict/verdict.h"
#include "units/quantity.h"
#include "verdict/asked.h"
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
        const auto* edge = solution.edge(place);
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

/// A quantity along a stretch of a path that is judged without a break, in order.
struct Run {
    struct At {
        double s_mm, value, error;
        Point at;
    };
    std::vector<At> points;
};

/// The stretches of [from, to] that lie out of reach of sharp corners; their ends interpolated.
std::vector<Run> runs_of(const CheckRequest& request, const PathResult& path) {
    const double from = request.from_s_mm, to = request.to_s_mm;
    const auto of = [&](const PathSample& s) {
        const double value = quantity_asked(request, s);
        return Run::At{s.s_mm, value, std::max(s.error_kV_per_mm, path.relative_error * value), s.at};
    };
    const auto between = [&](const PathSample& a, const PathSample& b, double s_mm) {
        const double f = (s_mm - a.s_mm) / (b.s_mm - a.s_mm);
        const auto x = of(a), y = of(b);
        return Run::At{s_mm, x.value + f * (y.value - x.value), std::max(x.error, y.error),
                       x.at + f * (y.at - x.at)};
    };
    std::vector<Run> out(1);
    const PathSample* before = nullptr;
    for (const auto& s : path.samples) {
        const auto* last = std::exchange(before, &s);
        const bool left_out = is_left_out(request, s);
        if (s.near_singular || left_out) {
            if (left_out) before = nullptr;
            if (!out.back().points.empty()) out.emplace_back();
            continue;
        }
        const bool joined = last && !last->near_singular && s.s_mm > last->s_mm;
        if (joined && last->s_mm < from && s.s_mm > from)
            out.back().points.push_back(between(*last, s, from));
        if (s.s_mm >= from && s.s_mm <= to) out.back().points.push_back(of(s));
        if (joined && last->s_mm <= to && s.s_mm > to && to > from)
            out.back().points.push_back(between(*last, s, to));
    }
    std::erase_if(out, [](const Run& run) { return run.points.empty(); });
    return out;
}

/// The largest mean over this length of a run; of a shorter run its mean.
Run::At largest_mean(const Run& run, double length_mm) {
    const auto& p = run.points;
    std::vector<double> sum{0}, errors{0};
    for (std::size_t i = 1; i < p.size(); ++i) {
        const double step = p[i].s_mm - p[i - 1].s_mm;
        sum.push_back(sum.back() + step * (p[i].value + p[i - 1].value) / 2);
        errors.push_back(errors.back() + step * (p[i].error + p[i - 1].error) / 2);
    }
    const double whole = p.back().s_mm - p.front().s_mm;
    if (!(whole > 0)) return p.front();
    length_mm = std::min(length_mm, whole);
    // The integral up to any place, and the place itself.
    const auto up_to = [&](double s_mm) {
        std::size_t i = 1;
        while (i + 1 < p.size() && p[i].s_mm < s_mm) ++i;
        const auto &a = p[i - 1], &b = p[i];
        const double f = b.s_mm > a.s_mm ? std::clamp((s_mm - a.s_mm) / (b.s_mm - a.s_mm), 0.0, 1.0) : 0;
        const double step = f * (b.s_mm - a.s_mm);
        return Run::At{s_mm, sum[i - 1] + step * (a.value + (a.value + f * (b.value - a.value))) / 2,
                       errors[i - 1] + step * (a.error + (a.error + f * (b.error - a.error))) / 2,
                       a.at + f * (b.at - a.at)};
    };
    Run::At best{0, -1, 0, {}};
    const auto try_from = [&](double s_mm) {
        s_mm = std::clamp(s_mm, p.front().s_mm, p.back().s_mm - length_mm);
        const auto a = up_to(s_mm), b = up_to(s_mm + length_mm);
        const double mean = (b.value - a.value) / length_mm;
        if (mean > best.value)
            best = {s_mm, mean, (b.error - a.error) / length_mm, up_to(s_mm + length_mm / 2).at};
    };
    for (const auto& at : p) { // of a piecewise linear course the best window begins or ends about a sample
        try_from(at.s_mm);
        try_from(at.s_mm - length_mm);
    }
    return best;
}

Worst read_paths(const CheckRequest& request, const Solution& solution) {
    Worst worst;
    for (const auto& place : request.places) {
        const auto* path = solution.path(place);
        if (!path) {
            add_name(worst.missing, place);
            continue;
        }
        const auto take = [&](const Run::At& at) {
            if (at.value > worst.value)
                worst = {at.value, at.error, at.at, place, 0, {}, std::move(worst.missing)};
        };
        for (const auto& run : runs_of(request, *path))
            if (request.mean_over_mm > 0)
                take(largest_mean(run, request.mean_over_mm));
            else
                for (const auto& at : run.points) take(at);
    }
    return worst;
}

/// "at 0.5 mm from the edge 0.81, at 1 mm 0.74 kV/mm": figures that depend little on the edge radius.
std::string near_edge_words(const CheckRequest& request, const Solution& solution) {
    if (request.edge_s_mm <= 0 || request.places.empty()) return {};
    const auto* path = solution.path(request.places.front());
    if (!path) return {};
    std::string text;
    for (const double distance_mm : {0.5, 1.0}) {
        const auto it = std::find_if(path->samples.begin(), path->samples.end(), [&](const auto& s) {
            return s.s_mm >= distance_mm + request.edge_s_mm;
        });
        if (it == path->samples.end() || it->near_singular) continue;
        text += fmt::format("{}at {:g} mm from the edge {} kV/mm", text.empty() ? "" : ", ", distance_mm,
                            format_figures(quantity_asked(request, *it), 3));
    }
    return text;
}

Status judge_value(const Check& check, bool error_known) {
    if (!error_known) return Status::not_judged;
    // The numerical error may take a pass away; it never turns a figure above its limit into one within.
    if (check.value > check.limit) return Status::falls_short;
    if (check.value * (1 + check.relative_error) > check.limit || check.margin < marginal_share)
        return Status::marginal;
    return Status::holds;
}

std::string sentence(const Check& check, const CheckRequest& request) {
    const bool ratio = check.unit == "ratio";
    const auto unit = ratio ? std::string(" times") : " " + check.unit;
    const auto value = format_supported(check.value, check.relative_error),
               limit = format_figures(check.limit, 3) + unit;
    const auto where = fmt::format("z {} mm", one_decimal(check.at.z));
    switch (check.status) {
    case Status::holds:
        return fmt::format("{}{} at {}, {:.0f} % below the limit of at most {}.", value, unit, where,
                           100 * check.margin, limit);
    case Status::marginal:
        return fmt::format(
            "{}{} at {} is only {:.1f} % below the limit of at most {}: little is left for {}.", value, unit,
            where, 100 * check.margin, limit,
            check.value * (1 + check.relative_error) > check.limit
                ? "the numerical error, and for what hands and cable vary"
                : "what hands and cable vary");
    case Status::falls_short:
        return fmt::format("{}{} at {} is {:.{}f} % above the limit of at most {}: {}.", value, unit, where,
                           -100 * check.margin, check.margin < -0.1 ? 0 : 1, limit, request.because);
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
    check.zone = request.zone;
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
    if (!at.limit && worst.value >= 0) { // shown all the same
        check.value = worst.value * at.factor / request.divide_by;
        check.relative_error = worst.value > 0 ? worst.error / worst.value : 0;
        check.unit = at.unit;
        check.at = worst.at;
        check.place = worst.place;
        check.set_aside = true;
        check.why = fmt::format("{} {} at z {} mm. Not judged: the rules have no limit “{}”.",
                                format_supported(check.value, check.relative_error), check.unit, worst.at.z,
                                at.limit_id.empty() ? request.limit_id : at.limit_id);
        return check;
    }
    if (worst.value < 0) { // nothing to read: say so rather than hold
        // One place beside a corner says nothing; the checks next to it do.
        check.set_aside = worst.missing.empty() && request.from_s_mm == request.to_s_mm;
        check.why =
            !worst.missing.empty()
                ? fmt::format("No place of this check could be read: the section has no {}.", worst.missing)
            : worst.not_judged.empty()
                ? (check.set_aside ? "The place lies within the reach of a sharp corner: not judged."
                                   : "No place of this check could be read.")
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

Check check_without_level(const CheckRequest& request) {
    Check check;
    check.id = request.id;
    check.title = request.title;
    check.zone = request.zone;
    check.set_aside = true;
    check.why = no_level_words(request.at);
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

void take(Summary& summary, const Check& check) {
    if (check.set_aside) {
        ++summary.set_aside;
        return;
    }
    const auto* worst = summary.worst;
    if (!worst || severity(check.status) > severity(worst->status) ||
        (check.status == worst->status && check.margin < worst->margin)) {
        summary.worst = &check;
        summary.status = check.status;
    }
}

std::string status_words(Status status, int set_aside) {
    if (set_aside == 0 || status == Status::not_judged) return status_word(status);
    const bool good = status == Status::holds || status == Status::marginal;
    return fmt::format("{}{}, {} not judged", status_word(status), good ? " for the checks made" : "",
                       set_aside);
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
        if (request.at != TestKind::service) {
            const auto* spec = levels.of_kind(request.at);
            if (!spec) return {};
            at.voltage_kV = levels.value_of(*spec).value;
            at.level = request.at == TestKind::extinction ? "PD extinction voltage" : spec->title;
            at.voltage_origin = levels.value_of(*spec).origin();
        }
        return at;
    };
    for (const auto& request : built.checks)
        if (auto at = read_at(request)) {
            std::tie(at->solution, at->factor) = solutions.read_at({request.at}, at->voltage_kV, u0);
            verdict.checks.push_back(judge_check(request, *at));
        } else {
            verdict.checks.push_back(check_without_level(request));
        }
    for (const auto& across : built.across) {
        const auto it = solutions.across.find(across.id);
        for (const auto& request : across.checks)
            if (auto at = read_at(request)) {
                at->solution = it == solutions.across.end() ? nullptr : &it->second;
                at->factor = at->voltage_kV / u0;
                verdict.checks.push_back(judge_check(request, *at));
                verdict.checks.back().across = across.id;
            } else {
                verdict.checks.push_back(check_without_level(request));
                verdict.checks.back().across = across.id;
            }
    }
    Summary summary;
    for (const auto& check : verdict.checks) take(summary, check);
    verdict.status = summary.status;
    verdict.set_aside = summary.set_aside;
    if (summary.worst) verdict.first_reason = summary.worst->title + ": " + summary.worst->why;
    return verdict;
}

} // namespace ng
