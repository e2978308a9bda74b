// Checks ask for kinds of levels: what a standards pack calls its levels changes no verdict, and a kind that
// the pack does not have is said, never left out.
#include "evaluate/evaluate.h"
#include "fault/answer.h"
#include "fault/fault.h"
#include "schedule/judgement.h"
#include "schedule/sensitivity.h"
#include "schedule/void_strip.h"
#include "study/study.h"
#include "support.h"
#include <random>

using namespace ng;
using nlohmann::json;

namespace {

/// The shipped packs, changed as documents.
Library library_with(const std::function<void(json& pack)>& change) {
    auto out = test::library();
    for (auto& pack : out.standards) {
        json document = write_standards_pack(pack);
        change(document);
        auto read = read_standards_pack(document);
        if (!read) throw std::runtime_error(read.error().message());
        pack = std::move(*read);
    }
    return out;
}

/// Every level of every pack under a name drawn at random, in an order of its own.
Library renamed(unsigned seed) {
    std::mt19937 random(seed);
    return library_with([&](json& pack) {
        std::map<std::string, std::string> names;
        for (auto& level : pack["levels"]) {
            std::string name = "L";
            for (int k = 0; k < 8; ++k) name += static_cast<char>('a' + random() % 26);
            names[level["name"]] = name;
            level["name"] = name;
        }
        for (auto& row : pack["classes"]) {
            json levels;
            for (const auto& [old, name] : names) levels[name] = row["levels"][old];
            row["levels"] = levels;
        }
    });
}

Library without(const char* kind) {
    return library_with([&](json& pack) {
        std::set<std::string> gone;
        for (const auto& level : pack["levels"])
            if (level["kind"] == kind) gone.insert(level["name"]);
        std::erase_if(pack["levels"].get_ref<json::array_t&>(),
                      [&](const json& l) { return l["kind"] == kind; });
        for (auto& row : pack["classes"])
            for (const auto& name : gone) row["levels"].erase(name);
    });
}

struct Judged {
    Evaluation evaluation;
    Schedule schedule;
};

Judged judged(const std::string& design, const Library& library) {
    EvaluateOptions how;
    how.goal = 0.05;
    auto evaluation = evaluate(test::demo_job(), design, {}, library, prepare_design, how);
    if (!evaluation) throw std::runtime_error(evaluation.error().message());
    ScheduleOptions options;
    options.goal = 0.05;
    auto schedule = run_schedule(evaluation->prepared, evaluation->solutions, options);
    if (!schedule) throw std::runtime_error(schedule.error().message());
    return {std::move(*evaluation), std::move(*schedule)};
}

/// All that is decided: of each test its kind, status and checks with their figures.
std::string decided(const Judged& of) {
    std::string out = fmt::format("{}\n", status_word(of.evaluation.verdict.status));
    const auto add = [&](const Check& c) {
        out += fmt::format("  {} {} {} {} {}\n", name_of(c.id), c.value, c.limit, status_word(c.status),
                           c.set_aside);
    };
    for (const auto& c : of.evaluation.verdict.checks) add(c);
    out += fmt::format("{}\n", status_word(of.schedule.status));
    for (const auto& t : of.schedule.tests) {
        out += fmt::format("{} {} {} {}\n", t.title, test_kind_word(t.kind), t.voltage_kV,
                           status_word(t.status));
        for (const auto& c : t.checks) add(c);
    }
    return out;
}

} // namespace

class TestKinds : public QObject {
    Q_OBJECT
  private slots:
    void names_of_levels_decide_nothing_data() {
        QTest::addColumn<QString>("design");
        // Terminations, a joint and a connector, of four packs; one with a layer that depends on the field.
        for (const char* design : {"quay-mast", "breakwater", "gatehouse", "ring-switch"})
            QTest::newRow(design) << design;
    }
    void names_of_levels_decide_nothing() {
        QFETCH(QString, design);
        const auto id = design.toStdString();
        const auto usual = decided(judged(id, test::library()));
        for (unsigned seed = 1; seed <= 2; ++seed) QCOMPARE(decided(judged(id, renamed(seed))), usual);
    }
    void a_field_dependent_design_is_solved_at_its_levels_whatever_they_are_called() {
        auto job = test::demo_job();
        auto& design = *job.find_design("quay-mast");
        design.choices["tube_conduction"] = "power";
        const auto solved = [&](const Library& library) {
            const auto p = prepare_design(job, design.id, library);
            if (!p) throw std::runtime_error(p.error().message());
            SolveOptions how;
            how.coarse = true;
            auto out = solve_levels(p->built, p->design.duty, p->levels, how);
            if (!out) throw std::runtime_error(out.error().message());
            return std::pair(out->at.size(),
                             void_strips(p->built, p->design.duty, p->levels, p->limits, *out).size());
        };
        const auto usual = solved(test::library());
        QVERIFY(usual.first >= 2 && usual.second >= 1);
        QVERIFY(solved(renamed(3)) == usual);
    }
    void faults_ask_for_the_kind_too() {
        const auto job = test::demo_job();
        Fault nick;
        nick.kind = "nick", nick.size_mm = 0.9, nick.from_edge_mm = 10;
        const auto answer = [&](const Library& library) {
            const auto sound = judge_sound(job, "quay-mast", library);
            if (!sound) throw std::runtime_error(sound.error().message());
            auto out = judge_faults(job, "quay-mast", {nick}, library, *sound, fault_options(*sound, 0.1));
            if (!out) throw std::runtime_error(out.error().message());
            return *out;
        };
        const auto usual = answer(test::library()), other = answer(renamed(4));
        QVERIFY(usual.required_kV_rms.has_value());
        QCOMPARE(*other.required_kV_rms, *usual.required_kV_rms);
        QVERIFY(other.decision == usual.decision);
        // Nothing says up to which voltage its air must be quiet: that is no reason to accept it.
        const auto unknown = answer(without("extinction"));
        QVERIFY(!unknown.air.empty() && !unknown.required_kV_rms);
        QVERIFY2(unknown.decision != FaultDecision::accept, unknown.why.c_str());
    }
    void a_kind_that_the_pack_does_not_have_is_said_and_counted() {
        const auto usual = judged("quay-mast", test::library()),
                   lacking = judged("quay-mast", without("extinction"));
        const auto& checks = lacking.evaluation.verdict.checks;
        QCOMPARE(checks.size(), usual.evaluation.verdict.checks.size()); // never fewer rows
        const auto air = std::find_if(checks.begin(), checks.end(),
                                      [](const auto& c) { return c.id == CheckKind::air_extinction; });
        QVERIFY(air != checks.end() && air->set_aside && air->status == Status::not_judged);
        QVERIFY2(air->why.find("no level of kind “extinction”") != std::string::npos, air->why.c_str());
        QCOMPARE(lacking.evaluation.verdict.set_aside, usual.evaluation.verdict.set_aside + 1);
        const auto* test = lacking.schedule.find("no extinction level");
        QVERIFY(test && test->status == Status::not_judged);
        std::size_t gaps = 0;
        for (const auto& c : test->checks) gaps += c.id.kind == CheckKind::void_allowance;
        QVERIFY(gaps >= 1 && test->checks.size() > gaps);
        QVERIFY(lacking.schedule.set_aside >=
                usual.schedule.set_aside + static_cast<int>(test->checks.size()));
    }
    void the_highest_voltage_says_what_it_is_between() {
        const auto line = [](const std::function<void(json&)>& change) {
            const auto library = library_with(change);
            std::map<std::string, double> out;
            for (const auto& pack : library.standards)
                for (const auto& row : pack.classes) out[pack.id] += highest_line_kV(row);
            return out;
        };
        const auto usual = line([](json&) {});
        // Packs of version 1 do not say it: the ratio to U0 does, whatever the level is called.
        const auto old = line([](json& pack) {
            pack["version"] = 1;
            for (auto& level : pack["levels"]) level.erase("line_to_line");
        });
        QVERIFY(old == usual);
        COMPARE_WITHIN(usual.at("iec60502-4"), 7.2 + 12 + 17.5 + 24 + 36, 1e-9);
    }
    void names_of_tests_are_not_taken_by_levels() {
        json pack = write_standards_pack(test::library().standards.front());
        const std::string name = pack["levels"][0]["name"];
        pack["levels"][0]["name"] = "earth_fault";
        for (auto& row : pack["classes"]) {
            row["levels"]["earth_fault"] = row["levels"][name];
            row["levels"].erase(name);
        }
        const auto read = read_standards_pack(pack);
        QVERIFY(!read && read.error().problem.find("earth_fault") != std::string::npos);
    }
    void progress_ends_with_all_tests_done() {
        const auto e = judged("quay-mast", test::library()).evaluation;
        std::vector<ScheduleProgress> told;
        ScheduleOptions options;
        options.goal = 0.05;
        options.progress = [&](const ScheduleProgress& p, const TestResult*) { told.push_back(p); };
        REQUIRE_OK(run_schedule(e.prepared, e.solutions, options));
        QVERIFY(told.size() > 3);
        QCOMPARE(told.back().done, told.back().all);
        for (const auto& p : told) QVERIFY(p.done <= p.all && p.left_s >= 0);
    }
    void faults_reach_what_is_asked_of_the_design_as_it_is_judged() {
        // Effects, cures, assumptions and search are those of the design with its faults, where it is judged
        // so.
        auto job = test::demo_job();
        Fault missing;
        missing.kind = "mastic_missing", missing.size_mm = 2;
        job.find_design("quay-mast")->faults = {missing};
        const SensitivityRequest request{job, "quay-mast", CheckKind::screen_edge, 0, 0.05};
        const auto sound = find_sensitivity(request, test::library(), prepare_design),
                   faulty = find_sensitivity(request, test::library(), prepare_with_faults);
        REQUIRE_OK(sound);
        REQUIRE_OK(faulty);
        QVERIFY(faulty->value > 1.5 * sound->value);
    }
};

QTEST_APPLESS_MAIN(TestKinds)
#include "test_kinds.moc"
