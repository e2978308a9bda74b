#include "schedule/schedule.h"
#include "accessory/wet_film.h"
#include "field/permittivity.h"
#include "io/digest.h"
#include "schedule/in_air.h"
#include "schedule/limit_for.h"
#include "schedule/peaks.h"
#include "schedule/statements.h"
#include "schedule/void_strip.h"
#include "schedule/warm.h"
#include "section/voltages.h"
#include "units/quantity.h"
#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>
#include <set>

namespace ng {
namespace {

// Chosen: DC rests on orders of magnitude, and a transient on a finer mesh would take minutes.
constexpr double goal_in_time = 0.03;
constexpr int most_unknowns_steady = 150000, most_unknowns_stepped = 50000;
constexpr double worth_an_error = 0.3; ///< of a limit
constexpr double dc_ramp_s = 10;       ///< common practice, no source: within 10 s or slower

using Clock = std::chrono::steady_clock;
double since(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

std::string duration_words(double seconds) {
    return seconds >= 86400  ? fmt::format("{:.3g} d", seconds / 86400)
           : seconds >= 3600 ? fmt::format("{:.3g} h", seconds / 3600)
           : seconds >= 60   ? fmt::format("{:.3g} min", seconds / 60)
                             : fmt::format("{:.3g} s", seconds);
}

class Runner {
  public:
    Runner(const PreparedDesign& prepared, const LevelSolutions& solutions, const ScheduleOptions& options)
        : p_(prepared), solutions_(solutions), options_(options), u0_(prepared.design.duty.u0()) {}

    Result<Schedule> run();

  private:
    bool cancelled() const { return options_.cancel && options_.cancel->load(std::memory_order_relaxed); }
    bool linear() const { return !p_.built.section.depends_on_field(); }

    TestResult begin(TestId id, const std::string& title, TestKind kind, double kV) const;
    void finish(TestResult& test) const;
    /// All questions about the field, read at this voltage against the limits of tests of this kind.
    void read_all(TestResult& test, const Solution* solution, double factor, TestKind limits_of,
                  const std::vector<CheckRequest>& requests) const;
    void answer(TestResult& test, const LevelSpec& spec);
    TestResult service() const;
    std::optional<TestResult> highest_service();
    std::optional<TestResult> earth_fault();
    /// All questions at an AC voltage, against the limits of tests of this kind.
    void at_ac_voltage(TestResult& test, TestKind limits_of);
    TestResult leakage() const;
    /// Kinds of levels that some check of this accessory asks for.
    std::set<TestKind> asked_kinds() const;
    void extinction(TestResult& test, const LevelSpec& spec);
    /// Checks that a kind of level is asked for, of which the pack has none; none: it has, or nothing asks.
    std::optional<TestResult> without_level(TestKind kind) const;
    void wet(TestResult& test);
    void fog(TestResult& test, const LevelSpec& spec) const;
    void direct(TestResult& test);
    void impulse(TestResult& test);
    void alternating(TestResult& test, TestKind kind);
    void flashover(TestResult& test, const std::string& rule) const;
    ReadAt reading(const TestResult& test, const Solution* solution, double factor) const;

    /// At this voltage; of linear sections at U0, with the factor. Null: refused or cancelled, and `test`
    /// says so. `losses`: whether those of its regions are asked for.
    std::pair<std::shared_ptr<const Solution>, double> solved(TestResult& test, Section section, double kV,
                                                              bool losses = false);

    const PreparedDesign& p_;
    const LevelSolutions& solutions_;
    const ScheduleOptions& options_;
    double u0_;
};

TestResult Runner::begin(TestId id, const std::string& title, TestKind kind, double kV) const {
    TestResult test;
    test.id = std::move(id);
    test.title = title;
    test.kind = kind;
    test.voltage_kV = kV;
    test.unit = test_unit(kind);
    return test;
}

void Runner::finish(TestResult& test) const {
    Summary summary;
    for (const auto& check : test.checks) {
        take(summary, check);
        // The error that matters is that of what comes near its limit.
        if (check.limit > 0 && check.value > worth_an_error * check.limit)
            test.relative_error = std::max(test.relative_error, check.relative_error);
    }
    test.set_aside = summary.set_aside;
    if (!test.why.empty()) return; // it could not be solved: not judged, and says why
    if (!summary.worst) {
        test.applies = summary.set_aside > 0;
        test.why = test.applies ? "None of its checks could be judged."
                                : "Nothing of this accessory answers to this test.";
        return;
    }
    test.status = summary.status;
    test.margin = summary.worst->margin;
    test.why = summary.worst->title + ": " + summary.worst->why;
}

ReadAt Runner::reading(const TestResult& test, const Solution* solution, double factor) const {
    ReadAt at;
    at.solution = solution;
    at.factor = factor;
    at.voltage_kV = test.voltage_kV;
    at.level = test.title;
    at.voltage_origin = test.voltage_origin;
    return at;
}

void Runner::read_all(TestResult& test, const Solution* solution, double factor, TestKind limits_of,
                      const std::vector<CheckRequest>& requests) const {
    for (const auto& request : requests) {
        if (request.at != TestKind::service) continue; // asked at the level of another kind alone
        const auto id = limit_id(request.limit_id, limits_of);
        if (const auto* not_asked = p_.limits.find_not_asked(id)) {
            if (std::find(test.notes.begin(), test.notes.end(), not_asked->why) == test.notes.end())
                test.notes.push_back(not_asked->why);
            continue;
        }
        auto at = reading(test, solution, factor);
        const auto limit = limit_for(p_, id, request, test.duration_s, test.conductor_C.has_value());
        at.limit = limit ? &*limit : nullptr;
        at.limit_id = id;
        at.unit = request.divide_by != 1           ? "ratio"
                  : limits_of == TestKind::dc      ? "kV/mm"
                  : limits_of == TestKind::impulse ? "kV/mm peak"
                                                   : "kV/mm rms";
        if (request.divide_by != 1) at.factor *= u0_ / test.voltage_kV; // beside the cable at this voltage
        test.checks.push_back(judge_check(request, at));
        if (limit && limit->at_duration_s && test.checks.back().limit > 0)
            test.checks.back().limit_origin += fmt::format(
                ", for {} instead of {} by E^n t, n {:g} (from memory)", duration_words(test.duration_s),
                duration_words(*limit->at_duration_s),
                test.duration_s < *limit->at_duration_s ? limit->exponents.greatest : limit->exponents.least);
        if (limit && test.conductor_C && limit->hot_share)
            test.checks.back().limit_origin +=
                fmt::format(", times {:g}: what is left of an impulse strength when hot (from memory)",
                            *limit->hot_share);
    }
    if (solution && test.bodies.empty()) test.bodies = body_peaks(*solution, factor);
}

std::pair<std::shared_ptr<const Solution>, double> Runner::solved(TestResult& test, Section section,
                                                                  double kV, bool losses) {
    const bool scales = !section.depends_on_field();
    const double factor = kV / u0_;
    // Linear ones are solved at 1 kV for U0, so that another class finds them again.
    scale_voltages(section, scales ? 1 / u0_ : factor);
    section.probes.clear();
    SolveOptions how;
    const bool stepped = section.analysis == Analysis::impulse || section.analysis == Analysis::dc;
    how.goal = stepped ? std::max(goal_in_time, options_.goal) : options_.goal;
    how.slack = slack_for(p_.built.checks, p_.built.gaps, drawn_slack);
    if (!losses) how.slack.integrals = std::numeric_limits<double>::infinity();
    auto key = fmt::format("{} at {}{}, exactly", hash_of(section), how.goal, losses ? " with losses" : "");
    for (const auto& [name, slack] : how.slack.of) key += fmt::format(" {}", name);
    if (options_.cache)
        if (auto found = options_.cache->find(key)) {
            test.kept = true;
            return {found, scales ? kV : 1};
        }
    how.most_unknowns = stepped ? most_unknowns_stepped : most_unknowns_steady;
    how.cancel = options_.cancel;
    how.threads = options_.threads;
    auto solution = solve_for_verdict(section, how);
    if (!solution) {
        test.why = "Not solved: " + solution.error().message();
        return {nullptr, 1};
    }
    if (solution->report.end == SolveReport::End::cancelled) {
        test.why = "Cancelled.";
        return {nullptr, 1};
    }
    auto kept = std::make_shared<const Solution>(std::move(*solution));
    if (options_.cache) options_.cache->keep(key, kept);
    return {kept, scales ? kV : 1};
}

TestResult Runner::service() const {
    auto test = begin({TestId::What::service}, "Service, U0", TestKind::service, u0_);
    test.voltage_origin = p_.design.duty.u0_kV ? "user"
                          : p_.levels.u0_kV    ? "of the class"
                                               : "class / sqrt 3, computed";
    test.verified = true;
    test.model = fmt::format("{} AC at {:g} Hz", analysis_word(solutions_.at_u0.analysis),
                             p_.design.duty.frequency_hz);
    read_all(test, &solutions_.at_u0, 1, TestKind::service, p_.built.checks);
    for (const auto& across : p_.built.across) {
        const auto it = solutions_.across.find(across.id);
        read_all(test, it == solutions_.across.end() ? nullptr : &it->second, 1, TestKind::service,
                 across.checks);
    }
    return test;
}

std::optional<TestResult> Runner::highest_service() {
    const double highest = highest_line_kV(p_.levels) / std::numbers::sqrt3;
    if (!(highest > 1.001 * u0_)) return {};
    auto test = begin({TestId::What::service_highest}, "Service, highest continuous voltage",
                      TestKind::service, highest);
    test.voltage_origin = "highest voltage of the class, to earth";
    test.verified = true;
    at_ac_voltage(test, TestKind::service);
    return test;
}

void Runner::at_ac_voltage(TestResult& test, TestKind limits_of) {
    std::shared_ptr<const Solution> own;
    std::pair<const Solution*, double> at{&solutions_.at_u0, test.voltage_kV / u0_};
    if (!linear()) {
        double factor;
        std::tie(own, factor) = solved(test, p_.built.section, test.voltage_kV);
        at = {own.get(), factor};
    }
    if (at.first) {
        test.model = linear() ? std::string(analysis_word(at.first->analysis)) + " AC, scaled from U0"
                              : "field-dependent AC, solved at this voltage";
        read_all(test, at.first, at.second, limits_of, p_.built.checks);
    }
    for (const auto& across : p_.built.across)
        if (const auto it = solutions_.across.find(across.id); it != solutions_.across.end())
            read_all(test, &it->second, test.voltage_kV / u0_, limits_of, across.checks);
}

std::optional<TestResult> Runner::earth_fault() {
    struct EarthFaultRule {
        const char *level, *title;
        TestKind kind;
        double duration_s;
    };
    // What a level may bear for how long: ICEA S-94-649 and IEC 60183, from memory.
    static constexpr std::array<EarthFaultRule, 6> rules{
        {{"100%", "Earth fault cleared within 1 min (100 % level)", TestKind::ac_minutes, 60},
         {"133%", "Earth fault up to 1 h (133 % level)", TestKind::ac_hours, 3600},
         {"173%", "Earth fault of any duration (173 % level)", TestKind::service, 0},
         {"A", "Earth fault cleared within 1 min (category A)", TestKind::ac_minutes, 60},
         {"B", "Earth fault up to 8 h (category B)", TestKind::ac_hours, 28800},
         {"C", "Earth fault of any duration (category C)", TestKind::service, 0}}};
    const auto rule = std::find_if(rules.begin(), rules.end(),
                                   [&](const auto& r) { return p_.cable.insulation_level == r.level; });
    if (rule == rules.end()) return {};
    auto test = begin({TestId::What::earth_fault}, rule->title, rule->kind, std::numbers::sqrt3 * u0_);
    test.duration_s = rule->duration_s;
    test.voltage_origin = "sqrt 3 U0: the sound phases take the line voltage, computed";
    test.verified = true;
    test.notes.push_back("What a level may bear for how long: ICEA S-94-649 and IEC 60183, from memory.");
    at_ac_voltage(test, rule->kind);
    finish(test);
    return test;
}

void Runner::alternating(TestResult& test, TestKind kind) {
    at_ac_voltage(test, kind);
    if (kind == TestKind::ac_minutes) flashover(test, "flashover.minutes");
}

void Runner::extinction(TestResult& test, const LevelSpec& spec) {
    auto [solution, factor] = solutions_.read_at({TestKind::extinction}, test.voltage_kV, u0_);
    std::shared_ptr<const Solution> own;
    if (!linear() && p_.levels.of_kind(TestKind::extinction) != &spec) { // another level is the governing one
        std::tie(own, factor) = solved(test, p_.built.section, test.voltage_kV);
        solution = own.get();
    }
    test.model = !linear() ? "field-dependent AC, solved at this voltage"
                           : std::string(analysis_word(solutions_.at_u0.analysis)) + " AC, scaled from U0";
    test.notes.push_back(
        fmt::format("Discharge limit of the standard: {:g} pC. A gap that stays below inception "
                    "makes none; the charge of the one that hands leave is estimated, of others it is not.",
                    p_.pd_limit_pC));
    if (spec.prestress > 1)
        test.notes.push_back(fmt::format(
            "Pre-stress {:g} times the level: a gap that is quiet there never starts, and that is what "
            "the void allowance compares. One that starts goes out again at about 0.8 of its inception "
            "(0.5 at the least; from memory).",
            spec.prestress));
    auto read = [&](const std::vector<CheckRequest>& requests, const Solution* from, double by) {
        for (const auto& request : requests) {
            if (request.at != TestKind::extinction) continue;
            auto at = reading(test, from, by);
            at.limit = p_.limits.find(request.limit_id);
            test.checks.push_back(judge_check(request, at));
        }
    };
    read(p_.built.checks, solution, factor);
    for (const auto& across : p_.built.across)
        if (const auto it = solutions_.across.find(across.id); it != solutions_.across.end())
            read(across.checks, &it->second, test.voltage_kV / u0_);
    if (solution) test.bodies = body_peaks(*solution, factor);
    for (auto& check :
         void_checks(p_.built, p_.design.duty, p_.levels, p_.limits, solutions_, p_.pd_limit_pC)) {
        check.level = test.title;
        check.voltage_origin = test.voltage_origin;
        test.checks.push_back(std::move(check));
    }
}

void Runner::flashover(TestResult& test, const std::string& rule) const {
    if (auto check = flashover_check(p_, test, rule)) test.checks.push_back(std::move(*check));
}

void Runner::wet(TestResult& test) {
    const double film_ohm = 1e6 * p_.design.duty.wet_film_Mohm;
    auto section = with_wet_film(p_.built, film_ohm);
    if (!section) {
        test.why = section.error().message();
        return;
    }
    test.model = fmt::format(
        "mean stress along the surface; beside it {} AC with a film of {:g} megohm per square, from an "
        "earthed band to the lug",
        analysis_word(section->analysis), p_.design.duty.wet_film_Mohm);
    test.notes.push_back(
        "The film covers all of the surface, undersides too; rain leaves dry bands that it does "
        "not show. Judged is the mean stress along it.");
    flashover(test, "flashover.wet");
    for (auto& words : film_words(p_, test, film_ohm)) test.notes.push_back(std::move(words));
    // The film's field is shown, not judged: without it the verdict stands.
    TestResult of_film;
    const auto [solution, factor] = solved(of_film, std::move(*section), test.voltage_kV, true);
    test.kept = of_film.kept;
    if (!solution) {
        test.notes.push_back("The uniform film: " + of_film.why);
        return;
    }
    if (const auto* path = solution->path(place::wet_film))
        test.notes.push_back(fmt::format("Greatest stress beside the uniform film {} kV/mm rms.",
                                         format_figures(factor * path->peak_kV_per_mm, 2)));
    test.bodies = body_peaks(*solution, factor);
    for (const auto& loss : solution->losses)
        if (loss.region == name_of(place::wet_film))
            test.notes.push_back(
                fmt::format("The film takes {:.3g} W at this voltage.", loss.power_W * factor * factor));
}

void Runner::fog(TestResult& test, const LevelSpec& spec) const {
    test.model = fmt::format(
        "arcs in series with a uniform film of {:g} uS, from the earthed to the live end", spec.film_uS);
    test.notes.push_back("What the hours of fog do to the surface, tracking and erosion, is not computed.");
    const double film_ohm = 1e6 / spec.film_uS;
    if (auto check = film_flashover_check(p_, test, test.voltage_kV, film_ohm, "the test's fog, chosen"))
        test.checks.push_back(std::move(*check));
    for (auto& words : film_words(p_, test, film_ohm)) test.notes.push_back(std::move(words));
}

void Runner::direct(TestResult& test) {
    auto section = p_.built.section;
    for (auto& [name, material] : section.materials)
        if (!material.conduction) {
            Conduction law;
            law.law = "constant";
            const auto it = p_.built.dc_S_per_m.find(name);
            if (it == p_.built.dc_S_per_m.end() || !(it->second > 0)) {
                test.why =
                    fmt::format("Material “{}” has no DC conductivity: the field at DC is not known.", name);
                return;
            }
            law.sigma0_S_per_m = it->second;
            material.conduction = law;
        }
    section.analysis = Analysis::dc;
    section.dc_duration_s = test.duration_s > 0 ? test.duration_s : 900;
    section.dc_ramp_s = std::min(dc_ramp_s, 0.1 * *section.dc_duration_s);
    test.model =
        fmt::format("DC raised within {:g} s and followed for {}; the largest value on the way is judged",
                    section.dc_ramp_s, duration_words(*section.dc_duration_s));
    test.notes.push_back(
        "DC fields hang on conductivities, which are orders of magnitude from memory and change "
        "tenfold with temperature.");
    const auto [solution, factor] = solved(test, std::move(section), test.voltage_kV);
    if (!solution) return;
    read_all(test, solution.get(), factor, TestKind::dc, p_.built.checks);
    if (!solution->end_states.empty()) test.notes.push_back(end_state_words(*solution, factor));
}

void Runner::impulse(TestResult& test) {
    if (!test.conductor_C) // the air round it is as cold as ever
        if (auto check = arc_distance_check(p_, test)) test.checks.push_back(std::move(*check));
    auto section = p_.built.section;
    if (test.conductor_C) {
        section = warmed(p_.built, std::move(section), *test.conductor_C);
        test.notes.push_back(fmt::format(
            "All materials at {:g} °C, the conductor's; permittivities and conductivities there from "
            "memory. Beside what conducts they change little; the limits do. The distance in air is that of "
            "the cold test.",
            *test.conductor_C));
    }
    if (!section.conducts() && !test.conductor_C && !section.depends_on_frequency()) {
        test.model = "capacitive: nothing conducts here, so the field follows the impulse and scales from U0";
        read_all(test, &solutions_.at_u0, test.voltage_kV / u0_, TestKind::impulse, p_.built.checks);
    } else {
        const auto steady = section.analysis;
        section.analysis = Analysis::impulse;
        if (section.conducts()) {
            test.model = "transient, 1.2/50 us, the largest value over time";
        } else {
            // Filled compounds polarise less at the front than at power frequency: they grade less too.
            section.frequency_hz = equivalent_frequency_hz(section);
            section.analysis = steady;
            test.model = fmt::format(
                "capacitive: nothing conducts here, so the field follows the impulse; permittivities at "
                "{:.3g} kHz, that of the 1.2/50 us front",
                1e-3 * section.frequency_hz);
        }
        const auto [solution, factor] = solved(test, std::move(section), test.voltage_kV);
        if (!solution) return;
        read_all(test, solution.get(), factor, TestKind::impulse, p_.built.checks);
    }
    test.notes.push_back(
        "Both polarities: every law here is even in the field, so that one solution serves both; the "
        "clearance is that of the positive one, the lower.");
    for (const auto& across : p_.built.across)
        if (test.conductor_C) {
            const auto [solution, factor] =
                solved(test, warmed(p_.built, across.section, *test.conductor_C), test.voltage_kV);
            if (!solution) return;
            read_all(test, solution.get(), factor, TestKind::impulse, across.checks);
        } else if (const auto it = solutions_.across.find(across.id); it != solutions_.across.end()) {
            read_all(test, &it->second, test.voltage_kV / u0_, TestKind::impulse, across.checks);
        }
}

TestResult Runner::leakage() const {
    auto test = begin({TestId::What::leakage}, "Creepage, sheds and clearances", TestKind::geometry,
                      highest_line_kV(p_.levels));
    test.voltage_origin = "highest voltage, line to line";
    test.verified = true;
    test.model = "measured on the section's profile";
    judge_air(p_, test.voltage_kV, test);
    return test;
}

std::set<TestKind> Runner::asked_kinds() const {
    std::set<TestKind> out;
    const auto take = [&](const std::vector<CheckRequest>& requests) {
        for (const auto& request : requests)
            if (request.at != TestKind::service) out.insert(request.at);
    };
    take(p_.built.checks);
    for (const auto& across : p_.built.across) take(across.checks);
    if (!p_.built.gaps.empty()) out.insert(TestKind::extinction);
    return out;
}

std::optional<TestResult> Runner::without_level(TestKind kind) const {
    if (p_.levels.of_kind(kind)) return {};
    auto test = begin({TestId::What::no_level, {}, kind},
                      fmt::format("No level of kind “{}”", test_kind_word(kind)), kind, 0);
    test.verified = true;
    test.model = "none: the standards pack has no voltage for it";
    const auto take = [&](const std::vector<CheckRequest>& requests) {
        for (const auto& request : requests)
            if (request.at == kind) test.checks.push_back(check_without_level(request));
    };
    take(p_.built.checks);
    for (const auto& across : p_.built.across) take(across.checks);
    if (kind == TestKind::extinction)
        for (auto& check : void_checks_without_level(p_.built)) test.checks.push_back(std::move(check));
    return test.checks.empty() ? std::nullopt : std::optional(std::move(test));
}

void Runner::answer(TestResult& test, const LevelSpec& spec) {
    switch (spec.kind) {
    case TestKind::service:
    case TestKind::geometry:
    case TestKind::highest:
        break; // no level of a pack that is run
    case TestKind::extinction:
        extinction(test, spec);
        break;
    case TestKind::ac_minutes:
    case TestKind::ac_hours:
        alternating(test, spec.kind);
        break;
    case TestKind::wet:
        wet(test);
        break;
    case TestKind::fog:
        fog(test, spec);
        break;
    case TestKind::dc:
        direct(test);
        break;
    case TestKind::impulse:
        impulse(test);
        break;
    }
}

Result<Schedule> Runner::run() {
    const auto start = Clock::now();
    Schedule out;
    std::vector<const LevelSpec*> specs;
    const auto& duty = p_.design.duty;
    const bool has_surface = p_.built.leakage_surface.size() >= 2;
    for (const auto& spec : p_.levels.specs)
        if (spec.kind != TestKind::highest && !(spec.outdoor_only && (!duty.outdoor || !has_surface)) &&
            !(spec.indoor_only && (duty.outdoor || !has_surface)))
            specs.push_back(&spec);
    int all = static_cast<int>(specs.size()) + 1 + (has_surface ? 1 : 0);
    auto tell = [&](const std::string& next) {
        if (!options_.progress) return;
        const double spent = since(start);
        const int done = static_cast<int>(out.tests.size());
        options_.progress({next, done, all, spent, done ? spent / done * (all - done) : 0},
                          out.tests.empty() ? nullptr : &out.tests.back());
    };
    auto add = [&](TestResult test, Clock::time_point begun) {
        test.seconds = since(begun);
        finish(test);
        out.tests.push_back(std::move(test));
    };
    if (has_surface) {
        tell("Creepage and sheds");
        const auto begun = Clock::now();
        add(leakage(), begun);
    }
    tell("Service, U0");
    const auto service_begun = Clock::now();
    add(service(), service_begun);
    for (const auto network : {&Runner::highest_service, &Runner::earth_fault}) {
        const auto begun = Clock::now();
        if (auto test = (this->*network)()) {
            ++all;
            add(std::move(*test), begun);
        }
    }
    for (const auto kind : asked_kinds())
        if (auto test = without_level(kind)) {
            ++all;
            add(std::move(*test), Clock::now());
        }
    for (const auto* spec : specs) {
        if (cancelled()) break;
        tell(spec->title);
        const auto begun = Clock::now();
        const auto& level = p_.levels.value_of(*spec);
        auto test = begin({TestId::What::level, spec->name}, spec->title, spec->kind, level.value);
        test.duration_s = spec->duration_s;
        test.conductor_C = spec->conductor_C;
        test.voltage_origin = level.origin();
        test.verified = level.verified || level.provenance == Provenance::computed;
        answer(test, *spec);
        if (cancelled()) break;
        add(std::move(test), begun);
    }
    out.complete = !cancelled();
    // The worst status; of its tests the one with the least margin gives the reason.
    const TestResult* worst = nullptr;
    for (const auto& test : out.tests) {
        if (!test.applies) continue;
        out.set_aside += test.set_aside;
        if (test.id.what == TestId::What::no_level)
            continue; // said and counted; a pack without it asks nothing
        if (!worst || severity(test.status) > severity(worst->status) ||
            (test.status == worst->status && test.margin < worst->margin))
            worst = &test;
    }
    if (worst) {
        out.status = out.complete ? worst->status
                                  : std::max(worst->status, Status::not_judged,
                                             [](Status a, Status b) { return severity(a) < severity(b); });
        out.first_reason = worst->title + ". " + worst->why;
    }
    add_statements(p_, out);
    out.seconds = since(start);
    tell("");
    return out;
}

} // namespace

const TestResult* Schedule::find(const TestId& id) const {
    const auto it = std::find_if(tests.begin(), tests.end(), [&](const auto& t) { return t.id == id; });
    return it == tests.end() ? nullptr : &*it;
}

const TestResult* Schedule::find(const std::string& name) const {
    const auto it =
        std::find_if(tests.begin(), tests.end(), [&](const auto& t) { return name_of(t.id) == name; });
    return it == tests.end() ? nullptr : &*it;
}

std::string name_of(const TestId& id) {
    switch (id.what) {
    case TestId::What::service:
        return "service";
    case TestId::What::service_highest:
        return "service_highest";
    case TestId::What::earth_fault:
        return "earth_fault";
    case TestId::What::leakage:
        return "leakage";
    case TestId::What::no_level:
        return fmt::format("no {} level", test_kind_word(id.missing));
    case TestId::What::level:
        break;
    }
    return id.level;
}

double highest_line_kV(const DutyClass& levels) {
    for (const auto& spec : levels.specs)
        if (spec.kind == TestKind::highest) {
            const double value = levels.value_of(spec).value;
            return spec.line_to_line ? value : value * std::numbers::sqrt3;
        }
    return levels.class_kV;
}

Result<Schedule> run_schedule(const PreparedDesign& prepared, const LevelSolutions& solutions,
                              const ScheduleOptions& options) {
    if (!solutions.at_u0.mesh) return refuse("schedule", "the design is not solved at U0", "Solve it first");
    return Runner(prepared, solutions, options).run();
}

} // namespace ng
