// Studies: points, distributions, effects and shares against closed forms; shards against the whole; windows
// and decisions against direct solves.
#include "closedform/closedform.h"
#include "fault/fault.h"
#include "study/duties.h"
#include "study/range.h"
#include "study/sequence.h"
#include "study/study.h"
#include "study/worst.h"
#include "support.h"
#include <algorithm>
#include <numbers>
#include <random>

using namespace ng;

namespace {

Result<Study> study_of(const char* design, std::uint64_t samples, const std::string& kind = "tolerance") {
    const auto job = test::demo_job();
    const auto prepared = prepare_design(job, design, test::library());
    auto plan = usual_plan(*prepared, false);
    plan.kind = kind;
    plan.samples = samples;
    return Study::begin(job, plan, test::library(), prepare_design);
}

std::string run(const Study& study, Shard shard, std::uint64_t first = 0, int threads = 2) {
    auto text = study.header(shard);
    run_rows(study, shard, first, threads, nullptr, [&](const StudyRow& row) { text += study.line(row); });
    return text;
}

} // namespace

class TestTolerance : public QObject {
    Q_OBJECT
  private slots:
    /// Owen's scrambling keeps a digital net: of 2^m points of one scrambling one lies in each interval of
    /// 2^-m, in every dimension, and in every elementary box of the first two.
    void points_are_a_net() {
        const Scrambled points(20, 7);
        constexpr int m = 6, n = 1 << m;
        for (const int scrambling : {0, 5, 15})
            for (int d = 0; d < 20; ++d) {
                std::set<int> met;
                for (int i = 0; i < n; ++i)
                    met.insert(static_cast<int>(
                        points.sample(static_cast<std::uint64_t>(16 * i + scrambling))[d] * n));
                QCOMPARE(met.size(), std::size_t(n));
            }
        std::set<std::pair<int, int>> boxes;
        for (int i = 0; i < n; ++i) {
            const auto u = points.sample(static_cast<std::uint64_t>(16 * i));
            boxes.insert({static_cast<int>(u[0] * 8), static_cast<int>(u[1] * 8)});
        }
        QCOMPARE(boxes.size(), std::size_t(n));
        QVERIFY(points.sample(33) == Scrambled(20, 7).sample(33)); // by index alone
        QVERIFY(points.sample(33) != Scrambled(20, 8).sample(33));
        QVERIFY(points.sample(32) != points.sample(33)); // the same point, scrambled otherwise
    }
    /// The error of a smooth mean falls about with 1 / N, not with its root.
    void means_come_nearer_at_the_rate_of_the_sequence() {
        const Scrambled points(5, 3);
        const auto error = [&](int n) {
            double square = 0;
            for (int scrambling = 0; scrambling < 16; ++scrambling) {
                double mean = 0;
                for (int i = 0; i < n; ++i) {
                    double f = 1;
                    for (const double u : points.sample(static_cast<std::uint64_t>(16 * i + scrambling)))
                        f *= 1 + 0.5 * (u - 0.5);
                    mean += f / n;
                }
                square += (mean - 1) * (mean - 1) / 16;
            }
            return std::sqrt(square);
        };
        const double coarse = error(64), fine = error(1024);
        QVERIFY2(std::log(coarse / fine) / std::log(16) > 0.85,
                 qPrintable(QString("%1 %2").arg(coarse).arg(fine)));
    }
    void distributions_are_what_they_say() {
        Varied v;
        v.middle = 10;
        v.spread = 2;
        v.lowest = -100;
        v.highest = 100;
        COMPARE_WITHIN(v.quantile(0.5), 10, 1e-6);
        COMPARE_WITHIN(v.quantile(0.975), 10 + 2 * 1.959964, 1e-5); // any table of the normal distribution
        v.blunder_share = 0.02;
        v.blunder = 15;
        COMPARE_WITHIN(v.quantile(0.005), -5, 1e-9);
        COMPARE_WITHIN(v.quantile(0.995), 25, 1e-9);
        COMPARE_WITHIN(v.quantile(0.01 + 0.98 * 0.975), 10 + 2 * 1.959964, 1e-5);
        v.highest = 12;
        COMPARE_WITHIN(v.quantile(0.999), 12, 1e-9);
        v.law = Law::lognormal;
        v.highest = 100;
        COMPARE_WITHIN(v.quantile(0.8413447), 20, 1e-4); // one standard deviation up
        v.middle = 1e-9;
        v.lowest = 0;
        COMPARE_WITHIN(v.quantile(0.8413447) / 2e-9, 1, 1e-5); // not rounded away
        // Blunders are the normal distribution's only.
        QVERIFY(!read_varied(nlohmann::json::parse(varied_json(v).dump()), "plan"));
        v.blunder_share = 0;
        const auto back = read_varied(nlohmann::json::parse(varied_json(v).dump()), "plan");
        REQUIRE_OK(back);
        COMPARE_WITHIN(back->quantile(0.3), v.quantile(0.3), 0);
    }
    /// Field at the conductor of a coax whose outer radius is even within its tolerance: the distribution
    /// follows from E = U / (r ln(R / r)) (any textbook) by inverting it.
    void a_coax_has_its_distribution() {
        Varied outer;
        outer.law = Law::uniform;
        outer.middle = 15;
        outer.spread = 1.5;
        outer.lowest = 0;
        outer.highest = 100;
        const Scrambled points(1, 1);
        std::vector<double> field;
        for (std::uint64_t i = 0; i < 1024; ++i) {
            const closedform::RadialLayer layer{outer.quantile(points.sample(i)[0]), 2.3};
            field.push_back(closedform::radial_field_kV_per_mm(12, 8, std::span(&layer, 1), 8));
        }
        std::sort(field.begin(), field.end());
        double worst = 0;
        for (std::size_t k = 0; k < field.size(); ++k) {
            const double R = 8 * std::exp(12 / (8 * field[k])), below = 1 - (R - 13.5) / 3;
            worst = std::max(worst, std::abs((static_cast<double>(k) + 0.5) / 1024 - below));
        }
        QVERIFY2(worst < 0.008, qPrintable(QString::number(worst))); // random draws: 0.04
    }
    /// Ishigami's function (textbook, from memory): main effects 0.3139, 0.4424, 0, total 0.5576, 0.4424,
    /// 0.2437.
    void effects_are_those_of_a_known_function() {
        const auto f = [](const double* u) {
            const auto x = [&](int k) { return std::numbers::pi * (2 * u[k] - 1); };
            return std::sin(x(0)) + 7 * std::pow(std::sin(x(1)), 2) +
                   0.1 * std::pow(x(2), 4) * std::sin(x(0));
        };
        const Scrambled points(6, 2);
        std::vector<std::vector<double>> values;
        for (std::uint64_t i = 0; i < 8192; ++i) {
            const auto u = points.sample(i);
            std::vector<double> row{f(&u[0]), f(&u[3])};
            for (int k = 0; k < 3; ++k) {
                double mixed[3] = {u[0], u[1], u[2]};
                mixed[k] = u[3 + k];
                row.push_back(f(mixed));
            }
            values.push_back(row);
        }
        const auto e = effects_of(values);
        const double main[] = {0.3139, 0.4424, 0}, total[] = {0.5576, 0.4424, 0.2437};
        for (int k = 0; k < 3; ++k) {
            QVERIFY2(std::abs(e[k].first - main[k]) < 0.03, qPrintable(QString::number(e[k].first)));
            QVERIFY2(std::abs(e[k].second - total[k]) < 0.03, qPrintable(QString::number(e[k].second)));
        }
    }
    void shards_merge_to_the_whole_byte_for_byte() {
        const auto study = study_of("ring-switch", 10);
        REQUIRE_OK(study);
        const auto whole = run(*study, {0, 1});
        std::vector<StudyTable> shards;
        for (const std::uint64_t k : {2, 0, 1}) {
            const auto table = read_table(run(*study, {k, 3}, 0, 1), "shard");
            REQUIRE_OK(table);
            shards.push_back(*table);
        }
        const auto merged = merge_tables(shards);
        REQUIRE_OK(merged);
        QCOMPARE(*merged, whole);
        // A row by itself is what it is in a run.
        QVERIFY(whole.find(study->line(study->row(7))) != std::string::npos);
        // What was stopped goes on where it stopped.
        const auto rest = run(*study, {0, 1}, 6);
        QCOMPARE(rest.substr(study->header({0, 1}).size()), whole.substr(whole.find("\n6,") + 1));
        // Gaps, overlaps, other plans and cut rows are refused by name.
        auto gap = shards;
        gap.pop_back();
        QVERIFY(!merge_tables(gap) && merge_tables(gap).error().problem.find("missing") != std::string::npos);
        auto twice = shards;
        twice.push_back(shards.front());
        QVERIFY(!merge_tables(twice) &&
                merge_tables(twice).error().problem.find("twice") != std::string::npos);
        auto other = shards;
        other[1].header += " ";
        QVERIFY(!merge_tables(other) &&
                merge_tables(other).error().problem.find("different") != std::string::npos);
        const auto cut = whole.substr(0, whole.size() - 5);
        QVERIFY(!read_table(cut, "rows") &&
                read_table(cut, "rows").error().problem.find("cut short") != std::string::npos);
        const auto up_to = read_table(cut, "rows", false);
        REQUIRE_OK(up_to);
        QCOMPARE(up_to->rows.size(), std::size_t(9));
        for (const char* nonsense :
             {"", "index\n", "# needlegauge-study 1\n", "# needlegauge-study 1\n# plan {}\nindex\n"})
            QVERIFY(!read_table(nonsense, "rows"));
    }
    void a_summary_counts_what_the_rows_say() {
        const auto study = study_of("ring-switch", 32);
        REQUIRE_OK(study);
        const auto table = read_table(run(*study, {0, 1}), "rows");
        REQUIRE_OK(table);
        const auto s = summarise(*table);
        QCOMPARE(s.rows, std::uint64_t(32));
        QVERIFY(s.worst.has_value());
        double worst = 0;
        std::uint64_t failing = 0, refused = 0;
        for (const auto& row : table->rows) {
            for (const auto k : checks_that_tell(s))
                if (row.refusal.empty()) worst = std::max(worst, row.readings[k].share);
            failing += row.status == Status::falls_short;
            refused += !row.refusal.empty();
            if (row.refusal.empty()) QCOMPARE(row.worst_share() > 1, row.status == Status::falls_short);
        }
        COMPARE_WITHIN(s.worst_share, worst, 1e-12);
        QCOMPARE(s.failing, failing);
        QCOMPARE(s.refused, refused);
        QVERIFY(s.refused < 8);
        // The worst one opened is the design that it says.
        const auto job = study->job_of(s.worst->drawn);
        REQUIRE_OK(job);
        const auto direct = evaluate(*job, "ring-switch", {}, test::library(), prepare_design);
        REQUIRE_OK(direct);
        double share = 0;
        for (const auto& check : direct->verdict.checks)
            for (const auto k : checks_that_tell(s))
                if (check.limit > 0 && s.checks[k].check == name_of(check.id) + ": " + check.title)
                    share = std::max(share, 1 - check.margin);
        QVERIFY2(std::abs(share - worst) < 0.02 + 0.25 * std::abs(worst - 1),
                 qPrintable(QString("%1 %2").arg(share).arg(worst)));
    }
    /// Of a linear answer each bar is what the quantity does alone; here the mastic's length and the edge's
    /// radius of the quay mast, against direct solves.
    void one_at_a_time_says_what_moves_it_most() {
        const auto job = test::demo_job();
        auto plan = usual_plan(*prepare_design(job, "quay-mast", test::library()), false);
        std::erase_if(plan.varied, [](const auto& v) {
            return v.key != "mastic_on_insulation_mm" && v.key != "edge_radius_mm" && v.key != "tube_eps_r";
        });
        QCOMPARE(plan.varied.size(), std::size_t{3});
        const auto study = Study::begin(job, plan, test::library(), prepare_design);
        REQUIRE_OK(study);
        std::vector<int> told;
        int all = 0;
        const auto tornado = one_at_a_time(*study, nullptr, [&](int done, int of) {
            told.push_back(done);
            all = of;
        });
        QCOMPARE(told.size(), static_cast<std::size_t>(all));
        QVERIFY(std::is_sorted(told.begin(), told.end()) && told.back() == all);
        REQUIRE_OK(tornado);
        QCOMPARE(tornado->swings.size(), std::size_t{3});
        double before = 1e9;
        for (const auto& s : tornado->swings) {
            const double reach = s.reach(tornado->nominal.share);
            QVERIFY(reach <= before);
            before = reach;
            const auto& v = plan.varied[s.varied];
            QVERIFY(s.low < v.middle && v.middle < s.high);
            for (const auto& [at, end] : {std::pair(s.low, s.at_low), std::pair(s.high, s.at_high)}) {
                QVERIFY(end);
                EvaluateOptions fine;
                fine.goal = 0.004;
                const auto direct =
                    evaluate(job, "quay-mast", {{{v.key, at}}, {}}, test::library(), prepare_design, fine);
                REQUIRE_OK(direct);
                for (const auto& check : direct->verdict.checks)
                    if (check.title == end->check)
                        QVERIFY2(std::abs(1 - check.margin - end->share) <= end->error + 0.006,
                                 qPrintable(QString("%1 at %2: %3, %4")
                                                .arg(v.key.c_str())
                                                .arg(at)
                                                .arg(1 - check.margin)
                                                .arg(end->share)));
            }
        }
        QVERIFY(tornado->swings.front().reach(tornado->nominal.share) > 0.01);
        const auto d = tornado_json(study->plan(), *tornado);
        QCOMPARE(d["swings"].size(), std::size_t{3});
        QCOMPARE(d["swings"][0]["key"].get<std::string>(), plan.varied[tornado->swings[0].varied].key);
        const auto csv = tornado_csv(study->plan(), *tornado);
        QCOMPARE(std::count(csv.begin(), csv.end(), '\n'), 4);
    }
    void windows_hold_inside_and_fall_short_outside() {
        auto job = test::demo_job();
        const auto prepared = prepare_design(job, "quay-mast", test::library());
        auto plan = usual_plan(*prepared, false);
        std::erase_if(plan.varied, [](const auto& v) { return v.key != "mastic_on_insulation_mm"; });
        const auto study = Study::begin(job, plan, test::library(), prepare_design);
        REQUIRE_OK(study);
        const auto windows = find_windows(*study, 0);
        REQUIRE_OK(windows);
        QCOMPARE(windows->size(), std::size_t(1));
        const auto& w = windows->front();
        QVERIFY(w.lowest && *w.lowest < w.now && !w.why_low.empty());
        const auto status = [&](double value) {
            EvaluateOptions fine;
            fine.goal = 0.005;
            return evaluate(*study->job_of({value}), "quay-mast", {}, test::library(), prepare_design, fine)
                ->verdict.status;
        };
        QVERIFY(status(*w.lowest + 0.3) != Status::falls_short);
        QCOMPARE(status(*w.lowest - 0.3), Status::falls_short);
    }
    void the_worst_case_is_no_better_than_any_draw() {
        const auto study = study_of("causeway", 128);
        REQUIRE_OK(study);
        const auto worst = find_worst(*study, 120);
        REQUIRE_OK(worst);
        QVERIFY(worst->solves <= 120);
        QVERIFY(worst->share >= worst->nominal_share);
        QVERIFY(!worst->check.empty());
        // It lies in its box, and says what a direct solve says there.
        for (std::size_t k = 0; k < worst->drawn.size(); ++k)
            QVERIFY(worst->drawn[k] >= worst->low[k] && worst->drawn[k] <= worst->high[k]);
        EvaluateOptions fine;
        fine.goal = 0.005;
        const auto direct =
            evaluate(*study->job_of(worst->drawn), "causeway", {}, test::library(), prepare_design, fine);
        REQUIRE_OK(direct);
        double share = 0, error = 0;
        for (const auto& check : direct->verdict.checks)
            if (check.title == worst->check)
                share = 1 - check.margin, error = check.relative_error * check.value / check.limit;
        QVERIFY2(std::abs(share - worst->share) <= error + worst->error,
                 qPrintable(QString("%1 %2").arg(share).arg(worst->share)));
        // And no draw within the box is worse than it says by more than what is open of it.
        for (std::uint64_t i = 0; i < 12; ++i) {
            const auto drawn = study->drawn_of(i);
            bool inside = true;
            for (std::size_t k = 0; k < drawn.size(); ++k)
                inside = inside && drawn[k] >= worst->low[k] && drawn[k] <= worst->high[k];
            const auto judged = study->evaluated(drawn);
            if (!inside || !judged) continue;
            for (const auto& check : judged->verdict.checks)
                if (check.title == worst->check)
                    QVERIFY(1 - check.margin <=
                            worst->share + worst->error + check.relative_error * check.value / check.limit);
        }
    }
    void the_highest_class_is_what_each_class_says_by_itself() {
        auto job = test::demo_job();
        const auto rows = over_duties(job, "berth-1", test::library(), prepare_design);
        REQUIRE_OK(rows);
        const auto* design = job.find_design("berth-1");
        QCOMPARE(std::count_if(rows->begin(), rows->end(), [](const auto& row) { return row.own; }), 1);
        // A termination is not asked for what only joints or taped splices are.
        for (const auto& row : *rows) QVERIFY(row.standard == "ieee48" || row.standard == "iec60502-4");
        QCOMPARE(rows->front().standard, design->duty.standard);
        const auto* highest = highest_held(*rows, "ieee48");
        QVERIFY(highest && !highest->above_cable);
        auto made = job; // for its own class: usual lengths go by that
        const auto own = prepare_design(job, "berth-1", test::library());
        REQUIRE_OK(own);
        for (const auto& spec : own->family->parameters)
            if (spec.kind == ParameterKind::length)
                made.find_design("berth-1")->numbers.try_emplace(spec.key,
                                                                 number_of(own->context(), spec.key));
        for (const auto& row : *rows) {
            if (row.standard != "ieee48") continue;
            auto changed = made;
            changed.find_design("berth-1")->duty.class_kV = row.class_kV;
            if (!row.own) changed.find_design("berth-1")->duty.u0_kV.reset();
            const auto direct = evaluate(changed, "berth-1", {}, test::library(), prepare_design);
            QCOMPARE(direct.has_value(), row.refusal.empty());
            if (!direct) continue;
            COMPARE_WITHIN(direct->prepared.design.duty.u0(), row.u0_kV, 1e-12);
            for (const auto& check : direct->verdict.checks)
                if (check.title == row.check)
                    QVERIFY(std::abs(1 - check.margin - row.share) <=
                            row.error + check.relative_error * check.value / check.limit);
            if (row.class_kV <= highest->class_kV) QVERIFY(direct->verdict.status != Status::falls_short);
        }
        const auto of_class = [&](double class_kV) {
            return std::ranges::find_if(
                *rows, [&](const auto& row) { return row.standard == "ieee48" && row.class_kV == class_kV; });
        };
        // Stress rises with U0, and a class above the cable's own is not held whatever the field says.
        COMPARE_WITHIN(of_class(46)->share / of_class(15)->share, of_class(46)->u0_kV / of_class(15)->u0_kV,
                       0.15);
        QVERIFY(of_class(46)->above_cable && !of_class(46)->holds() && of_class(15)->own &&
                of_class(15)->holds());
        const auto words = duties_words(*rows);
        QVERIFY(words.front().find("holds up to") != std::string::npos);
        QCOMPARE(std::count(words.begin(), words.end(), ""), 0);
        QCOMPARE(static_cast<std::size_t>(std::ranges::count(duties_csv(*rows), '\n')), rows->size() + 1);
        QVERIFY(!over_duties(job, "nobody", test::library(), prepare_design));
    }
    void a_range_says_what_each_cable_says_by_itself() {
        const auto job = test::demo_job();
        const auto prepared = prepare_design(job, "causeway", test::library());
        REQUIRE_OK(prepared);
        auto grid = usual_range(*prepared);
        grid.cells = 3;
        const auto map = map_range(job, "causeway", test::library(), prepare_design, grid);
        REQUIRE_OK(map);
        QCOMPARE(map->cells.size(), std::size_t(9));
        QCOMPARE(range_csv(*map),
                 range_csv(*map_range(job, "causeway", test::library(), prepare_design, grid)));
        for (const auto k : {0, 4, 8}) {
            const auto& cell = map->cells[static_cast<std::size_t>(k)];
            auto changed = job;
            for (auto& cable : changed.cables)
                if (cable.id == prepared->design.cable_id) {
                    const double t = map->thicknesses_mm[static_cast<std::size_t>(k / 3)];
                    cable.insulation_thickness_mm = t;
                    cable.caliper_readings.clear();
                    cable.measured_diameter_mm = {
                        {"conductor", map->diameters_mm[static_cast<std::size_t>(k % 3)] - 2 * t -
                                          2 * cable.conductor_screen_thickness_mm}};
                }
            const auto direct = evaluate(changed, "causeway", {}, test::library(), prepare_design);
            QCOMPARE(direct.has_value(), cell.refusal.empty());
            if (!direct) continue;
            QCOMPARE(direct->prepared.fit.status, cell.fit);
            QCOMPARE(2 * direct->prepared.dimensions.radius_mm("insulation"),
                     map->diameters_mm[static_cast<std::size_t>(k % 3)]);
            for (const auto& check : direct->verdict.checks)
                if (check.title == cell.check)
                    QVERIFY(std::abs(1 - check.margin - cell.share) <=
                            cell.error + check.relative_error * check.value / check.limit);
        }
        // The cable to test is the worst of those that it fits.
        for (std::size_t k = 0; k < map->cells.size(); ++k)
            if (map->cells[k].refusal.empty() && map->cells[k].fit != Status::falls_short)
                QVERIFY(map->to_test && map->cells[k].share <= map->cells[*map->to_test].share);
        QVERIFY(std::any_of(map->cables.begin(), map->cables.end(), [](const auto& c) { return c.own; }));
        grid.cells = 1;
        QVERIFY(!map_range(job, "causeway", test::library(), prepare_design, grid));
        grid = {30, 20, 3, 5, 4};
        const auto refused = map_range(job, "causeway", test::library(), prepare_design, grid);
        QVERIFY(!refused && refused.error().problem.find("diameters") != std::string::npos);
    }
    /// Of each cable the corner of each check: what hands and makers leave inside 99 % of each quantity is no
    /// nearer to a limit, and a cable that fails there holds as designed only.
    void a_range_at_the_corners_bounds_what_is_drawn_within_them() {
        const auto job = test::demo_job();
        const auto prepared = prepare_design(job, "meter-panel", test::library());
        REQUIRE_OK(prepared);
        auto grid = usual_range(*prepared);
        grid.cells = 2;
        const auto plain = map_range(job, "meter-panel", test::library(), prepare_design, grid);
        grid.corners = true;
        const auto map = map_range(job, "meter-panel", test::library(), prepare_design, grid);
        REQUIRE_OK(plain);
        REQUIRE_OK(map);
        QCOMPARE(plain->corners, std::size_t(0));
        QVERIFY(map->corners > 2);
        int only_as_designed = 0;
        for (std::size_t k = 0; k < 4; ++k) {
            const auto& cell = map->cells[k];
            QCOMPARE(cell.serves(), plain->cells[k].serves());
            QVERIFY(plain->cells[k].at_corners &&
                    cell.share >= plain->cells[k].share - plain->cells[k].error);
            only_as_designed += cell.serves() && !cell.at_corners;
            QCOMPARE(!cell.at_corners, cell.share > 1); // of this design
            // The cable by hand, its marks as they are put on it, then drawn.
            auto changed = job;
            const auto* design = changed.find_design("meter-panel");
            for (auto& cable : changed.cables)
                if (cable.id == design->cable_id) {
                    const double t = map->thicknesses_mm[k / 2];
                    cable.insulation_thickness_mm = t;
                    cable.caliper_readings.clear();
                    cable.measured_diameter_mm = {{"conductor", map->diameters_mm[k % 2] - 2 * t -
                                                                    2 * cable.conductor_screen_thickness_mm}};
                }
            auto plan = usual_plan(*prepare_design(changed, "meter-panel", test::library()), false);
            for (auto& v : plan.varied) {
                v.blunder_share = 0;
                const double low = v.quantile(0.006), high = v.quantile(0.994);
                v.lowest = std::max(v.lowest, low), v.highest = std::min(v.highest, high);
            }
            plan.samples = 16;
            const auto study = Study::begin(changed, plan, test::library(), prepare_design);
            REQUIRE_OK(study);
            for (std::uint64_t i = 0; i < plan.samples; ++i) {
                const auto row = study->row(i);
                for (std::size_t c = 0; c < row.readings.size(); ++c)
                    if (study->checks()[c].find("undisturbed") == std::string::npos)
                        QVERIFY2(row.readings[c].share <= cell.share + cell.error + row.readings[c].error,
                                 qPrintable(QString("cable %1, row %2, %3: %4 of %5")
                                                .arg(k)
                                                .arg(i)
                                                .arg(study->checks()[c].c_str())
                                                .arg(row.readings[c].share)
                                                .arg(cell.share)));
            }
        }
        QVERIFY(only_as_designed > 0 && only_as_designed < 4);
        QVERIFY(range_csv(*map).find(",no,") != std::string::npos);
        QVERIFY(range_csv(*map).find("corners not built") != std::string::npos);
        QVERIFY(range_words(*map).find("corners of the tolerances") != std::string::npos);
    }
    /// A cable holds at its corners where all of them can be built and hold, and fails where one fails;
    /// between the two nothing is claimed.
    void a_corner_that_cannot_be_built_is_not_said_to_hold() {
        const auto job = test::demo_job();
        const auto prepared = prepare_design(job, "transformer-bus", test::library());
        REQUIRE_OK(prepared);
        auto grid = usual_range(*prepared);
        grid.cells = 2;
        grid.corners = true;
        const auto map = map_range(job, "transformer-bus", test::library(), prepare_design, grid);
        REQUIRE_OK(map);
        const auto open = std::ranges::find_if(
            map->cells, [](const auto& c) { return c.serves() && c.at_corners && c.corners_not_built > 0; });
        QVERIFY(open != map->cells.end()); // a thin cable in thick insulation: the tube leaves its screen
        QVERIFY(!open->serves_at_corners());
        const auto row = nlohmann::json(range_json(*map))["cells"][std::size_t(open - map->cells.begin())];
        QVERIFY(row["holds_at_corners"].is_null() && row["corners_not_built"] == open->corners_not_built);
        QVERIFY(range_csv(*map).find(",not all can be built,") != std::string::npos);
        QVERIFY(range_words(*map).find("more at those that can be built: not all can") != std::string::npos);
        auto cell = *open;
        cell.corners_not_built = 0;
        QVERIFY(cell.serves_at_corners() == true);
        cell.at_corners = false;
        cell.corners_not_built = 3;
        QVERIFY(cell.serves_at_corners() == false);
    }
    /// Faults vary like all else that hands do: their sizes are drawn, and a study without them has none.
    void sizes_of_faults_vary_with_the_rest() {
        auto job = test::demo_job();
        auto& design = *job.find_design("ramp-pole");
        design.faults = {{"nick", Side::none, 0.2, 5.0, {}, "air", {}, {}}};
        const auto prepared = prepare_with_faults(job, "ramp-pole", test::library());
        REQUIRE_OK(prepared);
        auto plan = usual_plan(*prepared, true);
        QVERIFY(plan.with_faults && plan.varied.back().key == "fault 1 size_mm");
        QCOMPARE(usual_plan(*prepared, false).varied.size(), plan.varied.size() - 1);
        REQUIRE_OK(check_plan(plan, job, test::library()));
        const auto back = read_plan(nlohmann::json::parse(plan_json(plan).dump()));
        REQUIRE_OK(back);
        const auto study = Study::begin(job, plan, test::library(), preparer(true));
        REQUIRE_OK(study);
        std::set<double> sizes;
        for (std::uint64_t i = 0; i < 16; ++i) {
            const auto drawn = study->drawn_of(i);
            const auto made = study->job_of(drawn);
            REQUIRE_OK(made);
            QCOMPARE(made->find_design("ramp-pole")->faults[0].size_mm, drawn.back());
            sizes.insert(drawn.back());
        }
        QVERIFY(*sizes.begin() < 0.15 && *sizes.rbegin() > 0.27);
        // Deeper is worse, all else alike.
        auto drawn = study->drawn_of(0);
        const auto air = [&](double size) {
            drawn.back() = size;
            const auto judged = study->evaluated(drawn);
            if (!judged) return -1.0;
            double most = 0;
            for (const auto& check : judged->verdict.checks) most = std::max(most, 1 - check.margin);
            return most;
        };
        QVERIFY2(air(0.5) > air(0.1), qPrintable(QString("%1, %2").arg(air(0.5)).arg(air(0.1))));
        plan.with_faults = false;
        const auto without = check_plan(plan, job, test::library());
        QVERIFY(!without && without.error().message().find("--with-faults") != std::string::npos);
        plan.with_faults = true;
        plan.varied.back().key = "fault 2 size_mm";
        const auto other = check_plan(plan, job, test::library());
        QVERIFY(!other && other.error().message().find("no such fault") != std::string::npos);
        plan.varied.back().key = "fault x size_mm";
        QVERIFY(!check_plan(plan, job, test::library()));
    }
    /// Two cables that meet in a joint come from two drums: each has its own insulation.
    void both_cables_of_a_joint_vary_by_themselves() {
        auto job = test::demo_job();
        const auto* two = [&]() -> const Design* {
            for (const auto& d : job.designs)
                if (!d.other_cable_id.empty() && d.other_cable_id != d.cable_id) return &d;
            return nullptr;
        }();
        QVERIFY(two);
        const auto prepared = prepare_design(job, two->id, test::library());
        REQUIRE_OK(prepared);
        const auto plan = usual_plan(*prepared, false);
        const auto of = [&](const std::string& key) {
            const auto it = std::find_if(plan.varied.begin(), plan.varied.end(),
                                         [&](const auto& v) { return v.key == key; });
            return it == plan.varied.end() ? nullptr : &*it;
        };
        const auto *a = of("cable insulation_thickness_mm"), *b = of("other cable insulation_thickness_mm");
        QVERIFY(a && b);
        QVERIFY(a->middle != b->middle || a->label != b->label);
        const auto study = Study::begin(job, plan, test::library(), prepare_design);
        REQUIRE_OK(study);
        auto drawn = study->drawn_of(0);
        for (std::size_t k = 0; k < plan.varied.size(); ++k)
            if (&plan.varied[k] == a) drawn[k] = a->lowest;
        const auto made = study->job_of(drawn);
        REQUIRE_OK(made);
        for (const auto& cable : made->cables)
            if (cable.id == two->cable_id)
                QCOMPARE(cable.insulation_thickness_mm.value_or(0), a->lowest);
            else if (cable.id == two->other_cable_id)
                QVERIFY(cable.insulation_thickness_mm != a->lowest);
        // A design with one cable has no other one.
        auto wrong = usual_plan(*prepare_design(job, "ramp-pole", test::library()), false);
        wrong.varied.back().key = "other cable insulation_thickness_mm";
        const auto refused = check_plan(wrong, job, test::library());
        QVERIFY(!refused);
        QVERIFY(QString::fromStdString(refused.error().message()).contains("second cable"));
    }
    void plans_are_read_strictly() {
        const auto job = test::demo_job();
        const auto prepared = prepare_design(job, "quay-mast", test::library());
        const auto plan = usual_plan(*prepared, false);
        const auto text = plan_json(plan);
        const auto back = read_plan(nlohmann::json::parse(text.dump()));
        REQUIRE_OK(back);
        QCOMPARE(plan_json(*back).dump(), text.dump());
        REQUIRE_OK(check_plan(*back, job, test::library()));
        for (const auto& v : plan.varied) QVERIFY2(!v.provenance.empty(), v.key.c_str());
        auto unknown = nlohmann::json::parse(text.dump());
        unknown["varied"][0]["spred"] = 1;
        QVERIFY(!read_plan(unknown));
        auto twice = plan;
        twice.varied.push_back(plan.varied.front());
        QVERIFY(!check_plan(twice, job, test::library()));
        auto foreign = plan;
        foreign.varied.front().key = "no_such_number";
        QVERIFY(check_plan(foreign, job, test::library()).error().item.find("no_such_number") !=
                std::string::npos);
        auto torn = plan;
        torn.correlated.push_back({plan.varied[0].key, plan.varied[1].key, 1.5});
        QVERIFY(!check_plan(torn, job, test::library()));
        // One hand that sets two marks: they move together.
        auto joined = plan;
        joined.correlated.push_back({plan.varied[0].key, plan.varied[1].key, 0.9});
        joined.varied[0].blunder_share = joined.varied[1].blunder_share = 0;
        const auto study = Study::begin(job, joined, test::library(), prepare_design);
        REQUIRE_OK(study);
        double sum = 0, a2 = 0, b2 = 0;
        for (std::uint64_t i = 0; i < 1024; ++i) {
            const auto drawn = study->drawn_of(i);
            const double a = drawn[0] - joined.varied[0].middle, b = drawn[1] - joined.varied[1].middle;
            sum += a * b, a2 += a * a, b2 += b * b;
        }
        COMPARE_WITHIN(sum / std::sqrt(a2 * b2), 0.9, 0.02);
    }
};
QTEST_GUILESS_MAIN(TestTolerance)
#include "test_tolerance.moc"
