// What a study varies: the design's own tolerances before the usual, what a caliper has read, rows that go on
// where they stopped, work that waits.
#include "design/unknown_fields.h"
#include "io/file.h"
#include "study/duties.h"
#include "study/rows_file.h"
#include "study/study.h"
#include "study/worst.h"
#include "support.h"
#include <QTemporaryDir>
#include <atomic>
#include <cmath>
#include <random>
#include <thread>

using namespace ng;

namespace {

const Varied* of_key(const StudyPlan& plan, const std::string& key) {
    const auto it =
        std::find_if(plan.varied.begin(), plan.varied.end(), [&](const auto& v) { return v.key == key; });
    return it == plan.varied.end() ? nullptr : &*it;
}

Cable& cable_of(Job& job, const char* design) {
    for (auto& cable : job.cables)
        if (cable.id == job.find_design(design)->cable_id) return cable;
    qFatal("no cable");
}

Tolerance normal(double spread, const char* provenance = "own tests") {
    Tolerance t;
    t.spread = spread;
    t.provenance = provenance;
    return t;
}

/// Readings both ways round, about a diameter.
std::vector<CaliperReading> readings(double about, std::initializer_list<double> off) {
    std::vector<CaliperReading> out;
    for (const double one : off) out.push_back({about + one, out.size() % 2 == 1});
    return out;
}

double deviation(const std::vector<double>& values) {
    double sum = 0, squares = 0;
    for (const double v : values) sum += v, squares += v * v;
    const double n = static_cast<double>(values.size());
    return std::sqrt((squares - sum * sum / n) / (n - 1));
}

/// A plan of what is quick to solve.
Result<Study> small_study(std::uint64_t samples) {
    const auto job = test::demo_job();
    auto plan = usual_plan(*prepare_design(job, "ramp-pole", test::library()), false);
    std::erase_if(plan.varied, [](const auto& v) {
        return v.key != "edge_radius_mm" && v.key != "cable insulation_thickness_mm";
    });
    plan.samples = samples;
    return Study::begin(job, plan, test::library(), prepare_design);
}

} // namespace

class TestStudyPlan : public QObject {
    Q_OBJECT
  private slots:
    void own_tolerances_go_before_the_usual() {
        auto job = test::demo_job();
        auto& design = *job.find_design("ramp-pole");
        const auto usual = usual_plan(*prepare_design(job, "ramp-pole", test::library()), false);
        QVERIFY(of_key(usual, "screen_edge_mm") && of_key(usual, "edge_radius_mm"));
        REQUIRE_OK(design_plan(*prepare_design(job, "ramp-pole", test::library()), false));
        design.tolerances["screen_edge_mm"] = normal(0.4, "a template of our own");
        design.tolerances["edge_radius_mm"].varies = false;
        design.tolerances["cable insulation_thickness_mm"] = {true, Law::uniform, 0.2,    0, 0,
                                                              {},   {},           "drum", {}};
        design.tolerances["of_another_family_mm"] = normal(1);
        const auto prepared = prepare_design(job, "ramp-pole", test::library());
        REQUIRE_OK(prepared);
        const auto plan = design_plan(*prepared, false);
        REQUIRE_OK(plan);
        QCOMPARE(plan->varied.size(), usual.varied.size() - 1);
        QVERIFY(!of_key(*plan, "edge_radius_mm"));
        const auto* edge = of_key(*plan, "screen_edge_mm");
        QVERIFY(edge && edge->blunder_share == 0 && edge->provenance == "a template of our own");
        COMPARE_WITHIN((edge->quantile(0.841345) - edge->middle), 0.4, 1e-3); // one sigma, by a table
        const auto* t = of_key(*plan, "cable insulation_thickness_mm");
        QVERIFY(t);
        COMPARE_WITHIN(t->quantile(1 - 1e-9), t->middle + 0.2, 1e-5);
        COMPARE_WITHIN(t->quantile(1e-9), t->middle - 0.2, 1e-5);
        // What the family does not have changes nothing, and is named.
        const auto unknown = unknown_fields(job, test::library().families);
        QVERIFY(std::any_of(unknown.begin(), unknown.end(),
                            [](const auto& u) { return u.key == "of_another_family_mm"; }));
        // Of the usual plan nothing changed.
        QCOMPARE(plan_json(usual_plan(*prepared, false)).dump(), plan_json(usual).dump());
    }
    /// Where a quantity does not vary by itself a tolerance makes it.
    void what_is_not_usual_may_vary_too() {
        auto job = test::demo_job();
        const auto prepared = prepare_design(job, "ramp-pole", test::library());
        const auto variables = variables_of(*prepared, false);
        const auto it = std::find_if(variables.begin(), variables.end(),
                                     [](const auto& v) { return !v.usual && v.key.ends_with("_mm"); });
        QVERIFY(it != variables.end());
        job.find_design("ramp-pole")->tolerances[it->key] = normal(0.01 * it->middle);
        const auto plan = design_plan(*prepare_design(job, "ramp-pole", test::library()), false);
        REQUIRE_OK(plan);
        const auto* v = of_key(*plan, it->key);
        QVERIFY(v && v->middle == it->middle && v->lowest >= it->lowest && v->highest <= it->highest);
        REQUIRE_OK(check_plan(*plan, job, test::library()));
    }
    void what_cannot_be_drawn_is_refused_by_name() {
        auto job = test::demo_job();
        auto& own = job.find_design("ramp-pole")->tolerances["screen_edge_mm"];
        own = normal(1);
        own.lowest = 900;
        own.highest = 950;
        const auto prepared = prepare_design(job, "ramp-pole", test::library());
        REQUIRE_OK(prepared);
        const auto outside = design_plan(*prepared, false);
        QVERIFY(!outside);
        QVERIFY2(outside.error().message().find("outside 900 to 950") != std::string::npos,
                 outside.error().message().c_str());
        REQUIRE_OK(Result<StudyPlan>(usual_plan(*prepared, false)));
        // In the file: each by the design and the quantity.
        const auto refused = [&](const char* json) {
            auto document = nlohmann::json::parse(write_job(test::demo_job()).dump());
            for (auto& design : document["designs"])
                if (design["id"] == "ramp-pole") design.merge_patch(nlohmann::json::parse(json));
            const auto read = read_job(document, "x");
            return read ? std::string() : read.error().message();
        };
        const std::pair<const char*, const char*> wrong[] = {
            {R"({"tolerances":{"a_mm":{"law":"cauchy","spread":1}}})", "cauchy"},
            {R"({"tolerances":{"a_mm":{"law":"normal"}}})", "spread"},
            {R"({"tolerances":{"a_mm":{"law":"normal","spread":0}}})", "above 0"},
            {R"({"tolerances":{"a_mm":{"law":"lognormal","spread":0.9}}})", "above 1"},
            {R"({"tolerances":{"a_mm":{"law":"uniform","spread":1,"blunder_share":0.1}}})", "blunders"},
            {R"({"tolerances":{"a_mm":{"law":"normal","spread":1,"blunder_share":0.9}}})", "0 to 0.5"},
            {R"({"tolerances":{"a_mm":{"law":"normal","spread":1,"lowest":3,"highest":2}}})", "bounds"},
            {R"({"tolerances":{"a_mm":"wide"}})", "a_mm"},
            {R"({"tolerances":[1]})", "tolerances"},
            {R"({"correlated":[{"a":"x","b":"x","rho":0.5}]})", "itself"},
            {R"({"correlated":[{"a":"x","b":"y","rho":1}]})", "between -1 and 1"},
            {R"({"correlated":[{"a":"x","b":"y","rho":0.5,"r":1}]})", "“r”"},
            {R"({"correlated":[{"a":"x","rho":0.5}]})", "“b”"}};
        for (const auto& [json, word] : wrong) {
            const auto message = refused(json);
            QVERIFY2(message.find("ramp-pole") != std::string::npos &&
                         message.find(word) != std::string::npos,
                     (std::string(json) + ": " + message).c_str());
        }
    }
    void tolerances_travel_with_the_job() {
        auto job = test::demo_job();
        auto& design = *job.find_design("ramp-pole");
        design.tolerances["screen_edge_mm"] = {true, Law::normal, 0.4, 0.02, 12, 100, 300, "a template", {}};
        design.tolerances["edge_radius_mm"].varies = false;
        design.tolerances["edge_radius_mm"].provenance = "ground to a gauge";
        design.correlated = {{"screen_edge_mm", "jacket_cut_mm", -0.6, "one rule"}};
        auto document = nlohmann::json::parse(write_job(job).dump());
        for (auto& one : document["designs"])
            if (one["id"] == "ramp-pole") one["tolerances"]["screen_edge_mm"]["seen_by"] = "inspector B";
        const auto back = read_job(document, "x");
        REQUIRE_OK(back);
        const auto& read = *back->find_design("ramp-pole");
        QVERIFY(read.correlated == design.correlated);
        QVERIFY(read.tolerances.at("edge_radius_mm") == design.tolerances.at("edge_radius_mm"));
        auto seen = design.tolerances.at("screen_edge_mm");
        seen.unknown = {{"seen_by", "inspector B"}};
        QVERIFY(read.tolerances.at("screen_edge_mm") == seen);
        QCOMPARE(nlohmann::json(write_job(*back)), document);
        const auto unknown = unknown_fields(*back, test::library().families);
        QVERIFY(
            std::any_of(unknown.begin(), unknown.end(), [](const auto& u) { return u.key == "seen_by"; }));
    }
    /// One hand sets both: as the plan draws them, for those that vary.
    void own_correlations_are_drawn() {
        auto job = test::demo_job();
        auto& design = *job.find_design("ramp-pole");
        const auto usual = usual_plan(*prepare_design(job, "ramp-pole", test::library()), false);
        design.correlated = {{usual.varied[0].key, "edge_radius_mm", -0.7, "one hand"},
                             {usual.varied[0].key, "nowhere_mm", 0.5, "old"}};
        design.tolerances[usual.varied[0].key] = normal(1);
        const auto plan = design_plan(*prepare_design(job, "ramp-pole", test::library()), false);
        REQUIRE_OK(plan);
        QCOMPARE(plan->correlated.size(), std::size_t{1});
        const auto study = Study::begin(job, *plan, test::library(), prepare_design);
        REQUIRE_OK(study);
        const auto a = 0u, b = static_cast<unsigned>(of_key(*plan, "edge_radius_mm") - plan->varied.data());
        double sum = 0, aa = 0, bb = 0;
        for (std::uint64_t i = 0; i < 2048; ++i) {
            const auto drawn = study->drawn_of(i);
            // Their scores: normal, and normal of the logarithm where nothing is cut.
            const auto& r = plan->varied[b];
            if (drawn[b] <= r.lowest || drawn[b] >= r.highest) continue;
            const double x = drawn[a] - plan->varied[a].middle, y = std::log(drawn[b] / r.middle);
            sum += x * y, aa += x * x, bb += y * y;
        }
        const double rho = sum / std::sqrt(aa * bb);
        QVERIFY2(rho < -0.5 && rho > -0.75, qPrintable(QString::number(rho)));
    }
    /// What a caliper has read varies as the readings leave it open (JCGM 100), and no longer as makers
    /// deliver.
    void caliper_readings_narrow_what_varies() {
        auto job = test::demo_job();
        const auto before = prepare_design(job, "ramp-pole", test::library());
        const auto& d = before->dimensions;
        const double over = d.layer("insulation").diameter_mm, core = d.layer("conductor").diameter_mm;
        auto& cable = cable_of(job, "ramp-pole");
        const double screen = cable.conductor_screen_thickness_mm;
        cable.caliper_readings["insulation"] = readings(over, {0.05, -0.05, 0.08, -0.02, 0.0, 0.03});
        const auto thickness = [](const PreparedDesign& p) {
            return p.dimensions.layer("insulation").thickness_mm;
        };
        // Draws, and of each the diameter and thickness that are built.
        const auto drawn_of = [&](const StudyPlan& plan) {
            const auto study = Study::begin(job, plan, test::library(), prepare_design);
            std::vector<double> diameters, thicknesses;
            for (std::uint64_t i = 0; study && i < 512; ++i) {
                const auto made = study->job_of(study->drawn_of(i));
                if (!made) continue;
                const auto p = prepare_design(*made, "ramp-pole", test::library());
                if (!p) continue;
                diameters.push_back(p->dimensions.layer("insulation").diameter_mm);
                thicknesses.push_back(thickness(*p));
            }
            return std::pair(diameters, thicknesses);
        };
        auto only_cable = [&](StudyPlan plan) {
            std::erase_if(plan.varied, [](const auto& v) { return !v.key.starts_with("cable "); });
            return plan;
        };
        const auto read_over = prepare_design(job, "ramp-pole", test::library());
        REQUIRE_OK(read_over);
        const auto first = only_cable(usual_plan(*read_over, false));
        const double of_over = read_over->dimensions.layer("insulation").uncertainty_mm;
        const auto* diameter = of_key(first, "cable insulation_diameter_mm");
        QVERIFY(diameter && of_key(first, "cable insulation_thickness_mm"));
        QCOMPARE(diameter->spread, of_over / 2);
        QVERIFY(diameter->provenance.find("6 caliper readings") != std::string::npos);
        // The diameter is known to what was read, the thickness inside it as the maker delivers.
        {
            const auto [diameters, thicknesses] = drawn_of(first);
            QCOMPARE(diameters.size(), std::size_t{512});
            COMPARE_WITHIN(deviation(diameters), of_over / 2, 0.05);
            const double t = thickness(*read_over);
            COMPARE_WITHIN(deviation(thicknesses), (0.1 * t + 0.1) / std::sqrt(3.0),
                           0.05); // of a uniform one
        }
        // With the conductor read too the thickness follows: no maker's tolerance any more.
        cable.caliper_readings["conductor"] = readings(core, {0.02, -0.04, 0.01, 0.03});
        const auto both = prepare_design(job, "ramp-pole", test::library());
        REQUIRE_OK(both);
        const auto second = only_cable(usual_plan(*both, false));
        QVERIFY(!of_key(second, "cable insulation_thickness_mm") &&
                of_key(second, "cable conductor_diameter_mm"));
        {
            const auto [diameters, thicknesses] = drawn_of(second);
            const double of_core = both->dimensions.layer("conductor").uncertainty_mm;
            COMPARE_WITHIN(deviation(thicknesses), std::hypot(of_over / 2, of_core / 2) / 2, 0.05);
            COMPARE_WITHIN(thickness(*both), (over - core) / 2 - screen, 0.02);
        }
        // A number of its own goes before the caliper too.
        job.find_design("ramp-pole")->tolerances["cable insulation_diameter_mm"] = normal(0.5, "drum's list");
        const auto own = design_plan(*prepare_design(job, "ramp-pole", test::library()), false);
        REQUIRE_OK(own);
        QCOMPARE(of_key(*own, "cable insulation_diameter_mm")->spread, 0.5);
        REQUIRE_OK(check_plan(*own, job, test::library()));
        auto other = *own;
        other.varied.front().key = "cable jacket_diameter_mm"; // no field hangs on it
        QVERIFY(!check_plan(other, job, test::library()));
    }
    /// A mark has its window however its hand is described.
    void marks_are_known_by_the_cut_plan() {
        auto job = test::demo_job();
        const auto prepared = prepare_design(job, "quay-mast", test::library());
        const auto marks = mark_parameters(*prepared);
        QVERIFY(marks.contains("mastic_on_insulation_mm") && !marks.contains("edge_radius_mm"));
        auto& own = job.find_design("quay-mast")->tolerances;
        own["mastic_on_insulation_mm"] = normal(0.5); // no blunders
        auto plan = *design_plan(*prepare_design(job, "quay-mast", test::library()), false);
        std::erase_if(plan.varied, [](const auto& v) {
            return v.key != "mastic_on_insulation_mm" && v.key != "edge_radius_mm";
        });
        const auto study = Study::begin(job, plan, test::library(), prepare_design);
        REQUIRE_OK(study);
        CancelFlag stop;
        std::vector<std::string> met;
        (void)find_windows(*study, 0, &stop, [&](const MarkWindow& w, int, int) { met.push_back(w.key); });
        QCOMPARE(met, std::vector<std::string>{"mastic_on_insulation_mm"});
    }
    /// Effects are read from checks that differ between builds: one that is alike in all of them, and nearest
    /// to its limit, hides nothing. Blocks with builds that cannot be made are left out, and counted.
    void effects_are_those_of_checks_that_tell() {
        StudyTable table;
        table.plan.kind = "effects";
        for (const char* key : {"x", "y"}) {
            Varied v;
            v.key = v.label = key;
            table.plan.varied.push_back(v);
        }
        table.checks = {"alike: undisturbed", "tells: edge"};
        std::mt19937 random(1);
        std::uniform_real_distribution<double> draw(0, 1);
        constexpr std::uint64_t blocks = 4000;
        for (std::uint64_t block = 0; block < blocks; ++block) {
            const double a[2] = {draw(random), draw(random)}, b[2] = {draw(random), draw(random)};
            for (std::uint64_t variant = 0; variant < 4; ++variant) {
                const double x = variant == 1 || variant == 2 ? b[0] : a[0];
                const double y = variant == 1 || variant == 3 ? b[1] : a[1];
                StudyRow row;
                row.index = 4 * block + variant;
                row.readings = {{0.9, 0.001}, {0.2 + 0.4 * x + 0.2 * y, 0.001}};
                if (block == 7 && variant == 2) row.refusal = "the tube: it does not fit. Another";
                table.rows.push_back(row);
            }
        }
        const auto s = summarise(table);
        QCOMPARE(s.blocks, blocks - 1);
        QCOMPARE(s.blocks_left_out, std::uint64_t{1});
        QCOMPARE(s.effects.size(), std::size_t{2});
        // Of a sum: shares of the variance, 16 to 4.
        QCOMPARE(s.effects[0].key, std::string("x"));
        COMPARE_WITHIN(s.effects[0].main, 0.8, 0.08);
        COMPARE_WITHIN(s.effects[0].total, 0.8, 0.08);
        COMPARE_WITHIN(s.effects[1].total, 0.2, 0.12);
        const auto csv = effects_csv(table.plan, s);
        QCOMPARE(std::count(csv.begin(), csv.end(), '\n'), 3);
        QVERIFY(blocks_words(s).find("1 with builds that cannot be made") != std::string::npos);
        QCOMPARE(shares_of_builds(table, s).size(), table.rows.size() - 1);
        QVERIFY(shares_of_builds(table, s).front() < 0.81);
        // Nor does it say which build is the worst.
        double worst = 0;
        for (const auto& row : table.rows)
            if (row.refusal.empty()) worst = std::max(worst, row.readings[1].share);
        QCOMPARE(s.worst_share, worst);
        QCOMPARE(s.worst->readings[1].share, worst);
    }
    /// A class whose limit lies within the error of what decides it is not decided.
    void classes_within_their_error_are_open() {
        DutyRow row;
        row.standard = "s", row.title = "a standard";
        row.class_kV = 15, row.share = 0.995, row.error = 0.01, row.check = "edge";
        row.status = row.fit = Status::holds;
        auto next = row;
        next.class_kV = 25, next.share = 1.2, next.status = Status::falls_short;
        const auto words = duties_words({row, next}).front();
        QVERIFY2(words.find("(edge), which is open") != std::string::npos, words.c_str());
        QCOMPARE(words.find("which is open"), words.rfind("which is open")); // the next is not
        QCOMPARE(duties_json("d", {row, next})["rows"][0]["open"].get<bool>(), true);
        QCOMPARE(duties_json("d", {row, next})["rows"][1]["open"].get<bool>(), false);
        QVERIFY(duties_csv({row}).find(",edge,1,") != std::string::npos);
        row.share = 0.98;
        QVERIFY(!row.open());
    }
    /// Cut anywhere, rows go on to the same bytes; those of another study are left alone.
    void rows_go_on_where_they_were_cut() {
        const auto study = small_study(12);
        REQUIRE_OK(study);
        QTemporaryDir dir;
        const auto path = dir.filePath("rows.csv").toStdString();
        const auto build = [&](int most) {
            auto file = RowsFile::open(path, *study, {});
            if (!file) return -1;
            const auto first = file->before().size();
            CancelFlag stop;
            int made = 0;
            run_rows(*study, {}, first, 1, &stop, [&](const StudyRow& row) {
                if (!file->add(*study, row)) stop = true;
                if (++made == most) stop = true;
            });
            return static_cast<int>(first);
        };
        QCOMPARE(build(12), 0);
        const auto whole = *read_file(path);
        const auto header = study->header({}).size();
        std::mt19937 random(3);
        for (int k = 0; k < 4; ++k) {
            const auto cut = header + random() % (whole.size() - header);
            REQUIRE_OK(write_file_safely(path, whole.substr(0, cut)));
            const auto rows = std::count(whole.begin() + static_cast<std::ptrdiff_t>(header),
                                         whole.begin() + static_cast<std::ptrdiff_t>(cut), '\n');
            QCOMPARE(build(12), static_cast<int>(rows));
            QCOMPARE(*read_file(path), whole);
        }
        // A header cut short is no study: it is said, not written over.
        REQUIRE_OK(write_file_safely(path, whole.substr(0, header / 2)));
        QCOMPARE(build(1), -1);
        QCOMPARE(*read_file(path), whole.substr(0, header / 2));
        const auto other = small_study(24);
        REQUIRE_OK(write_file_safely(path, whole));
        const auto refused = RowsFile::open(path, *other, {});
        QVERIFY(!refused && refused.error().message().find("another plan") != std::string::npos);
        QVERIFY(study->name() != other->name() && study->name() == small_study(12)->name());
        QVERIFY(!RowsFile::open("/proc/nowhere/rows.csv", *study, {}));
    }
    /// Paused, work waits and its time stands; then it goes on to the same rows, or stops at once.
    void paused_work_waits() {
        const auto study = small_study(48);
        REQUIRE_OK(study);
        std::vector<std::string> plain;
        run_rows(*study, {}, 0, 2, nullptr, [&](const StudyRow& row) { plain.push_back(study->line(row)); });
        const auto run = [&](CancelFlag& flag, std::atomic<int>& made, std::vector<std::string>& rows) {
            return std::thread([&] {
                run_rows(*study, {}, 0, 2, &flag, [&](const StudyRow& row) {
                    rows.push_back(study->line(row));
                    ++made;
                });
            });
        };
        for (const bool goes_on : {true, false}) {
            CancelFlag flag;
            std::atomic<int> made = 0;
            std::vector<std::string> rows;
            auto thread = run(flag, made, rows);
            while (made < 3) std::this_thread::yield();
            flag.pause();
            QVERIFY(flag.is_paused());
            // Whatever was on its way ends; then nothing more is made.
            for (int before = -1; before != made;) {
                before = made;
                std::this_thread::sleep_for(std::chrono::milliseconds(400));
            }
            const int stood = made;
            QVERIFY2(stood < 48, "it was over before it was paused");
            std::this_thread::sleep_for(std::chrono::milliseconds(300));
            QCOMPARE(made.load(), stood);
            if (goes_on)
                flag.go_on();
            else
                flag = true;
            thread.join();
            QVERIFY(!flag.is_paused());
            if (goes_on)
                QCOMPARE(rows, plain);
            else
                QVERIFY(made <= stood + 2);
            if (goes_on) continue;
            flag.pause(); // what is to stop does not wait
            QVERIFY(!flag.is_paused() && flag.load());
        }
    }
};

QTEST_GUILESS_MAIN(TestStudyPlan)
#include "test_study_plan.moc"
