#include "schedule/schedule.h"

namespace ng {

nlohmann::ordered_json schedule_json(const Schedule& schedule) {
    auto tests = nlohmann::ordered_json::array();
    for (const auto& t : schedule.tests) {
        Verdict checks;
        checks.checks = t.checks;
        auto bodies = nlohmann::ordered_json::array();
        for (const auto& body : t.bodies)
            bodies.push_back(
                {{"body", body.region}, {"E_kV_per_mm", body.E_kV_per_mm}, {"at", {body.at.r, body.at.z}}});
        tests.push_back({{"id", name_of(t.id)},
                         {"title", t.title},
                         {"kind", test_kind_word(t.kind)},
                         {"voltage_kV", t.voltage_kV},
                         {"unit", t.unit},
                         {"duration_s", t.duration_s},
                         {"provenance", t.voltage_origin},
                         {"verified", t.verified},
                         {"model", t.model},
                         {"applies", t.applies},
                         {"status", t.applies ? status_word(t.status) : "does not apply"},
                         {"set_aside", t.set_aside},
                         {"why", t.why},
                         {"relative_error", t.relative_error},
                         {"seconds", t.seconds},
                         {"checks", verdict_json(checks)},
                         {"bodies", bodies},
                         {"notes", t.notes}});
        if (t.conductor_C) tests.back()["conductor_C"] = *t.conductor_C;
    }
    auto assumptions = nlohmann::ordered_json::array();
    for (const auto& a : schedule.assumptions)
        assumptions.push_back({{"key", a.key},
                               {"label", a.label},
                               {"assumed", a.assumed},
                               {"other", a.other},
                               {"check", a.check},
                               {"moves", a.moves},
                               {"words", a.words}});
    return {{"status", status_word(schedule.status)},
            {"assumptions", assumptions},
            {"words", status_words(schedule.status, schedule.set_aside)},
            {"set_aside", schedule.set_aside},
            {"why", schedule.first_reason},
            {"complete", schedule.complete},
            {"statements", schedule.statements},
            {"tests", tests}};
}

std::string status_text(const TestResult& test) {
    if (!test.applies) return "does not apply";
    return status_words(test.status, test.set_aside) + (test.verified ? "" : " †");
}

} // namespace ng
