#include "schedule/statements.h"
#include "closedform/air.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {

/// What the pressure of each rubber body is good for, beside the stress on its interface.
std::vector<std::string> pressure_words(const PreparedDesign& prepared, const Schedule& schedule) {
    std::vector<std::string> out;
    const auto* service = schedule.find(TestId::What::service);
    if (!service || prepared.fit.pressures.empty()) return out;
    const Check* worst = nullptr;
    for (const auto& check : service->checks)
        if ((check.zone == InsulationZone::grading || check.zone == InsulationZone::live_end) &&
            (!worst || check.value > worst->value))
            worst = &check;
    if (!worst) return out;
    for (const auto& [part, kPa] : prepared.fit.pressures) {
        const double bears = closedform::pressed_interface_kV_per_mm(kPa);
        out.push_back(fmt::format("{}{} presses with about {:.0f} kPa when fresh: an interface under 0.7 of "
                                  "that is designed for some {} "
                                  "kV/mm (0.8 (p / 0.1 MPa)^m, m 0.25 to 0.5, from memory; it warns, and "
                                  "decides nothing). Greatest "
                                  "tangential stress at U0: {} kV/mm.",
                                  worst->value > bears ? "Warning: " : "", part, kPa,
                                  format_figures(bears, 2), format_figures(worst->value, 2)));
    }
    return out;
}

/// Which of the tests that follow from one field governs; empty where they do not follow.
std::string governing_words(const PreparedDesign& prepared, const Schedule& schedule) {
    const auto& section = prepared.built.section;
    if (section.depends_on_field() || section.conducts()) return {};
    const TestResult* governs = nullptr;
    int follow = 0;
    for (const auto& test : schedule.tests) {
        const bool of_the_field =
            test.kind == TestKind::service || test.kind == TestKind::ac_minutes ||
            test.kind == TestKind::ac_hours ||
            (test.kind == TestKind::impulse && !test.conductor_C && !section.depends_on_frequency());
        if (!of_the_field || !test.applies || test.status == Status::not_judged) continue;
        ++follow;
        if (!governs || test.margin < governs->margin) governs = &test;
    }
    if (!governs || follow < 2) return {};
    return fmt::format(
        "The design is linear: the fields of {} of its tests follow from that at U0. “{}” governs "
        "them; the others leave more.",
        follow, governs->title);
}

} // namespace

void add_statements(const PreparedDesign& prepared, Schedule& out) {
    if (out.set_aside > 0)
        out.statements.emplace_back(
            fmt::format("{} checks are not judged: they have no limit for their test, "
                        "or lie within the reach of a sharp corner.",
                        out.set_aside));
    for (auto& words : pressure_words(prepared, out)) out.statements.emplace_back(std::move(words));
    if (const auto words = governing_words(prepared, out); !words.empty()) out.statements.emplace_back(words);
    if (std::any_of(out.tests.begin(), out.tests.end(), [](const auto& t) { return !t.verified; }))
        out.statements.emplace_back(
            "† The level is from memory: nobody has confirmed it against their edition yet.");
    if (!prepared.in_scope)
        out.statements.emplace_back(prepared.standard_title +
                                    " is out of scope: its levels are shown so that the cable entrance "
                                    "can be judged beside them.");
    out.statements.emplace_back("A computed schedule screens a design. It does not replace the type test.");
}

} // namespace ng
