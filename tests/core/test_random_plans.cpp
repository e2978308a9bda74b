// Plans, templates and sheets of random designs of every family, on random cables with armour and random
// choices about the work: whatever can be built can be marked, printed and worked from.
#include "plan/sheet.h"
#include "plan/template.h"
#include "plan/work.h"
#include "random_designs.h"
#include "support.h"

using namespace ng;

namespace {

constexpr int designs_each = 60; // that can be prepared

class Random {
  public:
    explicit Random(unsigned seed) : generator_(seed) {}
    std::mt19937& generator() { return generator_; }
    double between(double a, double b) { return std::uniform_real_distribution<>(a, b)(generator_); }
    bool chance(double share) { return between(0, 1) < share; }
    template <class List> const auto& of(const List& list) {
        return list[std::uniform_int_distribution<std::size_t>(0, list.size() - 1)(generator_)];
    }

  private:
    std::mt19937 generator_;
};

/// What hands might choose, within its range.
WorkChoices random_work(Random& random) {
    WorkChoices work;
    work.long_side = random.chance(0.5) ? "a" : "b";
    for (const auto& spec : work_numbers())
        if (random.chance(0.3)) work.numbers[spec.key] = random.between(spec.lowest, spec.highest);
    for (const auto& spec : work_schools())
        if (random.chance(0.5)) work.schools[spec.key] = random.of(spec.options).first;
    return work;
}

Job random_job(const Family& family, Random& random) {
    auto job = test::random_job(family, random.generator());
    static const std::vector<std::string> armours{"none", "none", "round wire", "steel tape", "interlocked"};
    for (auto& cable : job.cables) {
        cable.armour = random.of(armours);
        cable.armour_thickness_mm = random.between(0.5, 4);
        cable.bedding_thickness_mm = random.between(0.3, 3);
        cable.jacket_thickness_mm = random.between(0.8, 5);
        cable.strippable_screen = random.chance(0.7);
        cable.metallic_screen = random.chance(0.5) ? "wires" : "tape";
    }
    job.designs.front().work = random_work(random);
    return job;
}

bool is_finite(const Outline& outline) {
    for (const auto& step : outline.steps)
        if (!std::isfinite(step.to.r) || !std::isfinite(step.to.z)) return false;
    return std::isfinite(outline.start.r) && std::isfinite(outline.start.z);
}

} // namespace

class TestRandomPlans : public QObject {
    Q_OBJECT

    void each_family() {
        QTest::addColumn<QString>("family");
        for (const auto& family : FamilyTable::shipped())
            QTest::newRow(family.id.c_str()) << QString::fromStdString(family.id);
    }
    /// Calls `check` with prepared random designs of the family; one that cannot be prepared is drawn anew.
    template <class Check> void with_designs(const QString& id, unsigned seed, Check check) {
        const auto& family = test::family(id.toStdString());
        Random random(seed);
        int prepared = 0, tried = 0;
        while (prepared < designs_each && tried < 60 * designs_each) {
            ++tried;
            const auto job = random_job(family, random);
            const auto design = prepare_design(job, "random", test::library());
            if (!design) continue;
            ++prepared;
            check(job, *design);
            if (QTest::currentTestFailed()) {
                qWarning("design %d of seed %u", tried, seed);
                return;
            }
        }
        QCOMPARE(prepared, designs_each);
    }

  private slots:
    void every_plan_adds_up_data() { each_family(); }
    void every_plan_adds_up() {
        QFETCH(QString, family);
        with_designs(family, 11, [](const Job&, const PreparedDesign& p) {
            const auto plan = make_plan(p);
            REQUIRE_OK(plan);
            std::set<std::string> ids;
            std::map<CableSide, std::pair<double, double>> walked; // sum of neighbours, last mark
            for (const auto& m : plan->marks) {
                QVERIFY2(ids.insert(id_of(m.place)).second, m.label.c_str());
                QVERIFY2(std::isfinite(m.from_datum_mm) && std::isfinite(m.z_mm), m.label.c_str());
                const auto& line = plan->line(m.side);
                COMPARE_WITHIN(line.from_datum(m.z_mm), m.from_datum_mm, 1e-9);
                const double from_end =
                    (m.side == CableSide::a ? p.built.datum_z_mm - m.z_mm : m.z_mm - p.built.datum_z_mm);
                auto [it, first] = walked.try_emplace(m.side, from_end, from_end);
                if (!first) it->second.first += m.from_neighbour_mm;
                it->second.second = from_end;
                if (m.blade_mm) {
                    QVERIFY2(*m.blade_mm > 0, m.label.c_str());
                    if (m.kind == MarkKind::jacket_cut)
                        QVERIFY(*m.blade_mm < p.context().cable_of(m.side).jacket_thickness_mm);
                    if (m.kind == MarkKind::bedding_cut)
                        QVERIFY(*m.blade_mm < p.context().cable_of(m.side).bedding_thickness_mm);
                    if (m.kind == MarkKind::insulation_end)
                        QVERIFY(*m.blade_mm <
                                p.context().dimensions_of(m.side).layer("insulation").thickness_mm);
                }
            }
            for (const auto& [side, sums] : walked) QVERIFY(std::abs(sums.first - sums.second) < 1e-6);
            int worst = 0;
            for (const auto& check : plan->checks) {
                QVERIFY2(!check.why.empty(), check.title.c_str());
                if (check.status != Status::holds) QVERIFY2(!check.cure.empty(), check.title.c_str());
                worst = std::max(worst, severity(check.status));
            }
            QCOMPARE(severity(plan->status), worst);
        });
    }
    void the_datum_moves_every_distance_alike_data() { each_family(); }
    void the_datum_moves_every_distance_alike() {
        QFETCH(QString, family);
        with_designs(family, 12, [](const Job& job, const PreparedDesign& p) {
            const auto usual = make_plan(p);
            REQUIRE_OK(usual);
            for (const auto& datum : usual->datums) {
                auto other_job = job;
                other_job.designs.front().work.datum = datum;
                const auto q = prepare_design(other_job, "random", test::library());
                REQUIRE_OK(q);
                const auto plan = make_plan(*q);
                REQUIRE_OK(plan);
                QVERIFY(plan->datum == datum);
                QCOMPARE(plan->marks.size(), usual->marks.size());
                std::map<CableSide, std::optional<double>> shift;
                // From the jacket distances grow towards the cable end, else away from it.
                const double sign =
                    (datum == place::jacket_cut) == (usual->datum == place::jacket_cut) ? 1 : -1;
                for (std::size_t i = 0; i < plan->marks.size(); ++i) {
                    const auto& m = plan->marks[i];
                    QVERIFY(m.place == usual->marks[i].place);
                    const double moved = m.from_datum_mm - sign * usual->marks[i].from_datum_mm;
                    auto& of_side = shift[m.side];
                    if (!of_side) of_side = moved;
                    QVERIFY2(std::abs(moved - *of_side) < 1e-6, m.label.c_str());
                }
            }
        });
    }
    void every_sheet_can_be_worked_from_data() { each_family(); }
    void every_sheet_can_be_worked_from() {
        QFETCH(QString, family);
        const auto book = load_steps(test::library());
        REQUIRE_OK(book);
        with_designs(family, 13, [&](const Job&, const PreparedDesign& p) {
            const auto plan = make_plan(p);
            REQUIRE_OK(plan);
            const auto sheet = make_sheet(p, *plan, *book, test::library().connectors, {});
            REQUIRE_OK(sheet);
            QVERIFY2(sheet->broken_rules.empty(),
                     sheet->broken_rules.empty() ? "" : sheet->broken_rules.front().c_str());
            std::set<MarkKind> cut;
            for (const auto& step : sheet->steps) {
                std::string all = step.title;
                for (const auto& line : step.lines) all += " " + line;
                if (step.hold) all += step.hold->check + step.hold->accept + step.hold->otherwise;
                QVERIFY2(all.find_first_of("{}") == std::string::npos, all.c_str());
                QVERIFY2(all.find("nan") == std::string::npos && all.find("inf ") == std::string::npos,
                         all.c_str());
                for (const auto kind : cut)
                    QVERIFY2(step.cut.contains(kind), step.id.c_str()); // nothing grows back
                cut = step.cut;
            }
            for (const auto& item : sheet->picking)
                QVERIFY2(!item.item.empty() && !item.quantity.empty(), item.item.c_str());
            const auto picture = stage_picture(p, *plan, sheet->steps.back());
            QVERIFY(picture.z1_mm > picture.z0_mm && picture.r_mm > 0);
            for (const auto& region : picture.section.regions)
                QVERIFY2(is_finite(region.outline), region.name.c_str());
        });
    }
    void every_template_covers_its_cable_data() { each_family(); }
    void every_template_covers_its_cable() {
        QFETCH(QString, family);
        with_designs(family, 14, [](const Job&, const PreparedDesign& p) {
            const auto plan = make_plan(p);
            REQUIRE_OK(plan);
            const auto strips = template_strips(*plan, p);
            QVERIFY(!strips.empty());
            for (const auto& strip : strips)
                for (std::size_t i = 0; i < strip.lines.size(); ++i) {
                    QVERIFY(strip.lines[i].along_mm > 0 && strip.lines[i].along_mm < strip.length_mm);
                    if (i) QVERIFY(strip.lines[i].along_mm > strip.lines[i - 1].along_mm);
                }
            for (const auto& paper : papers()) {
                std::map<std::size_t, double> area;
                for (const auto& t : tile(strips, paper)) {
                    QVERIFY(t.to_mm > t.from_mm && t.across_to_mm > t.across_from_mm);
                    QVERIFY(t.number >= 1 && t.number <= t.of);
                    area[t.strip] += (t.to_mm - t.from_mm) * (t.across_to_mm - t.across_from_mm);
                }
                QCOMPARE(area.size(), strips.size());
                for (const auto& [i, sum] : area)
                    QVERIFY(sum >= strips[i].length_mm * strips[i].wrap_mm - 1e-6);
            }
        });
    }
    void what_is_written_is_read_again_data() { each_family(); }
    void what_is_written_is_read_again() {
        QFETCH(QString, family);
        with_designs(family, 15, [](const Job& job, const PreparedDesign& p) {
            const auto again = read_job(write_job(job), "random");
            REQUIRE_OK(again);
            QCOMPARE(write_job(*again).dump(), write_job(job).dump());
            const auto q = prepare_design(*again, "random", test::library());
            REQUIRE_OK(q);
            const auto a = make_plan(p), b = make_plan(*q);
            REQUIRE_OK(a);
            REQUIRE_OK(b);
            QCOMPARE(plan_json(*a).dump(), plan_json(*b).dump());
        });
    }
};

QTEST_APPLESS_MAIN(TestRandomPlans)
#include "test_random_plans.moc"
