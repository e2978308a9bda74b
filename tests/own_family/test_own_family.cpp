// A family that the program does not know, as docs/adding-a-family.md shows it (plain_termination.cpp, the
// same text): put into the library's table, everything takes it as one of its own, and nothing else is
// touched.
#include "evaluate/evaluate.h"
#include "fault/answer.h"
#include "plan/laid_parts.h"
#include "plan/planned_work.h"
#include "random_designs.h"
#include "shape/aids.h"
#include "support.h"
#include <fstream>
#include <set>

namespace ng {
NEEDLEGAUGE_FAMILY(plain_termination, 500);
}
using namespace ng;

namespace {

const Library& library() {
    static const Library with_own = [] {
        auto out = test::library();
        std::vector<Family> families(out.families.begin(), out.families.end());
        families.push_back(plain_termination());
        out.families = FamilyTable(std::move(families));
        return out;
    }();
    return with_own;
}

Job job_of(double class_kV) {
    auto job = new_job();
    auto& design = job.designs[0];
    design.family = "plain_termination";
    design.duty.standard = "ieee48";
    design.duty.class_kV = class_kV;
    return job;
}

Result<PreparedDesign> prepared(const Job& job) {
    return prepare_design(job, job.designs[0].id, library());
}

std::string text_of(const std::string& path) {
    std::ifstream in(path);
    return {std::istreambuf_iterator<char>(in), {}};
}

} // namespace

class TestOwnFamily : public QObject {
    Q_OBJECT
  private slots:
    void the_page_shows_this_family() {
        const auto code = text_of(NEEDLEGAUGE_OWN_FAMILY), page = text_of(NEEDLEGAUGE_FAMILY_PAGE);
        QVERIFY(code.size() > 2000);
        QVERIFY2(page.find("```cpp\n" + code + "```\n") != std::string::npos,
                 "docs/adding-a-family.md does not show tests/own_family/plain_termination.cpp as it is");
    }
    void only_this_library_knows_it() {
        auto job = job_of(5);
        REQUIRE_OK(prepared(job));
        const auto refused = prepare_design(job, job.designs[0].id, test::library());
        QVERIFY(!refused);
        QVERIFY2(refused.error().message().find("plain_termination") != std::string::npos,
                 refused.error().message().c_str());
        const auto read = read_job(nlohmann::json::parse(write_job(job).dump()), "job");
        REQUIRE_OK(read);
        QCOMPARE(read->designs[0].family, std::string("plain_termination"));
        REQUIRE_OK(prepared(*read));
    }
    /// Without stress control a short class holds what asks for little; a higher one falls short at the edge.
    void it_is_solved_and_judged() {
        std::map<double, double> tangential;
        for (const double class_kV : {5.0, 15.0}) {
            const auto job = job_of(class_kV);
            const auto judged = evaluate(job, job.designs[0].id, {}, library(), prepare_design);
            REQUIRE_OK(judged);
            QVERIFY(judged->verdict.status != Status::not_judged);
            std::set<CheckId> ids;
            for (const auto& check : judged->verdict.checks) {
                QVERIFY2(check.limit > 0 && check.value > 0, name_of(check.id).c_str());
                ids.insert(check.id);
                if (check.id == CheckKind::insulation_tangential) tangential[class_kV] = check.value;
            }
            QVERIFY(ids.contains(CheckKind::screen_edge));
        }
        QCOMPARE(tangential.size(), std::size_t{2});
        QVERIFY(tangential[15] > 1.5 * tangential[5]);
    }
    void what_does_not_fit_is_refused_by_its_own_words() {
        auto job = job_of(15);
        job.designs[0].numbers["sleeve_lower_end_mm"] = 100;
        const auto refused = prepared(job);
        QVERIFY(!refused);
        QCOMPARE(refused.error().item, std::string("Sleeve"));
        job.designs[0].numbers = {{"sleeve_lower_end", 600.0}}; // misspelt
        const auto misspelt = prepared(job);
        QVERIFY(!misspelt);
        QVERIFY2(misspelt.error().message().find("sleeve_lower_end_mm") != std::string::npos,
                 misspelt.error().message().c_str());
    }
    /// One core and three: a whole sheet, in which all that the section shows is laid by one step.
    void its_sheet_lays_all_of_it() {
        const auto book = load_steps(library());
        REQUIRE_OK(book);
        for (const int cores : {1, 3}) {
            auto job = job_of(15);
            job.cables[0].cores = cores;
            const auto work = plan_work(job, job.designs[0].id, library(), *book);
            REQUIRE_OK(work);
            QVERIFY2(work->sheet.broken_rules.empty(),
                     work->sheet.broken_rules.empty() ? "" : work->sheet.broken_rules[0].c_str());
            std::map<PlaceId, int> times;
            for (const auto& step : work->sheet.steps)
                for (const auto& place : step.lays) ++times[place];
            const auto parts = laid_parts(work->prepared, work->plan);
            QVERIFY(parts.size() >= 4);
            for (const auto& part : parts) QVERIFY2(times[part.place] == 1, name_of(part.place).c_str());
            QVERIFY(!work->prepared.fit.checks.empty());
        }
    }
    void faults_and_aids_find_it() {
        auto job = job_of(5);
        const auto design = prepared(job);
        REQUIRE_OK(design);
        const auto faults = possible_faults(*design);
        QVERIFY2(faults.size() > 8, qPrintable(QString::number(faults.size())));
        int fit = 0;
        for (const auto& fault : faults) {
            const auto faulty = prepare_faulty(job, job.designs[0].id, {fault}, library());
            if (faulty)
                ++fit;
            else
                QVERIFY2(!faulty.error().item.empty(), fault_words(fault).c_str());
        }
        QVERIFY2(fit > 5, qPrintable(QString::number(fit)));
        for (const auto& aid : shape_aids(*design, {})) QVERIFY(!aid.id.empty());
    }
    void random_designs_of_it_are_solved_or_refused() {
        const auto& family = *library().families.find("plain_termination");
        std::map<test::Outcome, int> outcomes;
        for (unsigned seed = 1; seed <= 60; ++seed) {
            std::mt19937 generator(seed);
            const auto result = test::try_random(family, generator, library());
            QVERIFY2(result.outcome != test::Outcome::wrong,
                     qPrintable(QString("seed %1: %2").arg(seed).arg(QString::fromStdString(result.why))));
            ++outcomes[result.outcome];
        }
        QVERIFY(outcomes[test::Outcome::solved] >= 10);
    }
};

QTEST_APPLESS_MAIN(TestOwnFamily)
#include "test_own_family.moc"
