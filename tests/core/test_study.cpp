// One variant from its numbers to its verdict: as the job edited and judged says, small enough to keep many.
#include "study/evaluate.h"
#include "support.h"

using namespace ng;

class TestStudy : public QObject {
    Q_OBJECT
  private slots:
    void a_variant_is_the_job_with_these_numbers() {
        const auto job = test::demo_job();
        const EvaluateOptions coarse{Use::compared, {}, nullptr};
        const Variant variant{{{"tube_eps_r", 17.5}}, {{"edge_preparation", "ring"}}};
        const auto changed = evaluate(job, "quay-mast", variant, test::library(), coarse);
        REQUIRE_OK(changed);
        auto edited = job;
        edited.find_design("quay-mast")->numbers["tube_eps_r"] = 17.5;
        edited.find_design("quay-mast")->choices["edge_preparation"] = "ring";
        const auto same = evaluate(edited, "quay-mast", {}, test::library(), coarse);
        REQUIRE_OK(same);
        const auto as_it_is = evaluate(job, "quay-mast", {}, test::library(), coarse);
        REQUIRE_OK(as_it_is);
        QCOMPARE(changed->verdict.checks.size(), same->verdict.checks.size());
        bool any = false;
        for (std::size_t i = 0; i < same->verdict.checks.size(); ++i) {
            QCOMPARE(changed->verdict.checks[i].value, same->verdict.checks[i].value);
            any = any || changed->verdict.checks[i].value != as_it_is->verdict.checks[i].value;
        }
        QVERIFY(any);
        QVERIFY(job.find_design("quay-mast")->numbers ==
                test::demo_job().find_design("quay-mast")->numbers); // the job itself stays
    }
    void an_outcome_is_the_verdict_in_small() {
        const auto job = test::demo_job();
        const auto whole = evaluate(job, "causeway", {}, test::library(), {Use::drawn, {}, nullptr});
        REQUIRE_OK(whole);
        const auto outcome = outcome_of(*whole);
        QCOMPARE(outcome.readings.size(), whole->verdict.checks.size());
        QCOMPARE(outcome.status, whole->verdict.status);
        double worst = 0;
        for (const auto& check : whole->verdict.checks) {
            const auto* reading = outcome.find(check.id);
            QVERIFY2(reading, check.id.c_str());
            QCOMPARE(check_id_of(reading->check), check.id);
            QCOMPARE(reading->status, check.status);
            COMPARE_WITHIN(static_cast<double>(reading->value), check.value, 1e-6);
            worst = std::max(worst, check.value / check.limit);
        }
        COMPARE_WITHIN(static_cast<double>(outcome.worst_share()), worst, 1e-6);
        QVERIFY(!outcome.find("no such check"));
        QVERIFY(sizeof(Outcome::Reading) <= 20); // a million designs of ten checks: 200 MB
    }
    void each_use_is_solved_as_exactly_as_it_needs() {
        const auto job = test::demo_job();
        const auto error = [&](Use use) {
            return evaluate(job, "ring-switch", {}, test::library(), {use, {}, nullptr})
                ->solutions.at_u0.report;
        };
        const auto judged = error(Use::judged), drawn = error(Use::drawn), compared = error(Use::compared);
        QVERIFY(judged.worst_error <= 0.01 && drawn.worst_error <= 0.03);
        QVERIFY(drawn.unknowns < judged.unknowns);
        QVERIFY(!compared.error_known());
    }
    void what_cannot_be_built_is_refused_by_name() {
        const auto job = test::demo_job();
        const auto refused = outcome_of(job, "quay-mast", {{{"tube_lower_end_mm", 5}}, {}}, test::library());
        QVERIFY(!refused && refused.error().message().find("tube") != std::string::npos);
        const auto unknown = outcome_of(job, "no such design", {{{"x", 1}}, {}}, test::library());
        QVERIFY(!unknown && unknown.error().message().find("no such design") != std::string::npos);
        CancelFlag raised{true};
        const auto cancelled = outcome_of(job, "quay-mast", {}, test::library(), {Use::judged, {}, &raised});
        QVERIFY(!cancelled || cancelled->cancelled);
    }
};

QTEST_APPLESS_MAIN(TestStudy)
#include "test_study.moc"
