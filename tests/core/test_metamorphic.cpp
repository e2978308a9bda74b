// Designs told in another way must answer the same: sides exchanged, everything larger at a higher voltage,
// every permittivity doubled, another frequency. No figure is known beforehand; the relation is.
#include "section/voltages.h"
#include "section_changes.h"
#include "support.h"

using namespace ng;

namespace {

bool quick() {
    return qEnvironmentVariableIsSet("NEEDLEGAUGE_QUICK");
}

PreparedDesign demo(const std::string& id) {
    return *prepare_design(test::demo_job(), id, test::library());
}

/// "x A" for "x B" and back.
std::string other_side(std::string name) {
    const auto turn = [](char& side, char a, char b) { side = side == a ? b : a; };
    if (name.starts_with("a_") || name.starts_with("b_"))
        turn(name[0], 'a', 'b');
    else
        for (const char* side : {" A", " B"})
            if (const auto at = name.find(side); at != std::string::npos) {
                turn(name[at + 1], 'A', 'B');
                break;
            }
    return name;
}

double greatest(const PathResult& path) {
    double E = 0;
    for (const auto& sample : path.samples)
        if (!sample.near_singular) E = std::max(E, sample.E_kV_per_mm);
    return E;
}

/// Peaks on paths and rounded edges; `factor` times those of `a` within `allowed`.
void same_fields(const Solution& a, const Solution& b, double factor, double allowed) {
    QCOMPARE(a.paths.size(), b.paths.size());
    double largest = 0;
    for (const auto& path : a.paths) largest = std::max(largest, greatest(path));
    for (std::size_t i = 0; i < a.paths.size(); ++i) {
        const double x = factor * greatest(a.paths[i]), y = greatest(b.paths[i]);
        QVERIFY2(std::abs(x - y) <= allowed * std::max(x, 0.05 * factor * largest),
                 qPrintable(QString("%1: %2 and %3").arg(a.paths[i].name.c_str()).arg(x).arg(y)));
    }
    for (const auto& edge : a.edges)
        COMPARE_WITHIN(b.edge(edge.name)->peak_kV_per_mm, factor * edge.peak_kV_per_mm, allowed);
}

/// Every so manieth of the demo, fewer under sanitizers.
void add_designs(int every) {
    QTest::addColumn<QString>("design");
    int rank = 0;
    for (const auto& design : test::demo_job().designs)
        if (rank++ % (quick() ? 8 : every) == 0)
            QTest::newRow(design.id.c_str()) << QString::fromStdString(design.id);
}

} // namespace

class TestMetamorphic : public QObject {
    Q_OBJECT
  private slots:
    void exchanged_sides_exchange_the_answers_data() {
        QTest::addColumn<QString>("family");
        std::vector<const char*> joints{"taped_joint", "cold_shrink_joint", "heat_shrink_joint",
                                        "portable_splice"};
        if (quick()) joints.resize(1);
        for (const char* family : joints) QTest::newRow(family) << QString(family);
    }
    void exchanged_sides_exchange_the_answers() {
        QFETCH(QString, family);
        auto job = new_job();
        auto thick = job.cables[0];
        thick.id = thick.title = "thick";
        thick.insulation_thickness_mm = 4.9;
        job.cables.push_back(thick);
        auto& design = job.designs[0];
        design.family = family.toStdString();
        design.duty.standard = "ieee404";
        design.other_cable_id = "thick";
        const auto first = prepare_design(job, design.id, test::library());
        REQUIRE_OK(first);
        // What follows from side A's cable by default is written down, so that only the sides change.
        const auto& spec = test::family(design.family);
        for (const auto& parameter : spec.parameters) {
            if (parameter.kind == ParameterKind::choice) continue;
            design.numbers[parameter.key] = number_of(first->context(), parameter.key);
        }
        if (design.numbers.contains("body_offset_mm")) design.numbers["body_offset_mm"] = 3;
        if (design.numbers.contains("a_screen_edge_mm")) design.numbers["a_screen_edge_mm"] += 4;
        const auto one = prepare_design(job, design.id, test::library());
        REQUIRE_OK(one);
        auto turned = job;
        auto& d = turned.designs[0];
        std::swap(d.cable_id, d.other_cable_id);
        d.numbers.clear();
        for (const auto& [key, value] : design.numbers) d.numbers[other_side(key)] = value;
        if (d.numbers.contains("body_offset_mm")) d.numbers["body_offset_mm"] *= -1;
        const auto two = prepare_design(turned, d.id, test::library());
        REQUIRE_OK(two);
        const auto a = solve(one->built.section), b = solve(two->built.section);
        REQUIRE_OK(a);
        REQUIRE_OK(b);
        int compared = 0;
        for (const auto& path : a->paths) {
            const auto name = other_side(path.name);
            for (const auto& other : b->paths)
                if (other.name == name) {
                    const double x = greatest(path), y = greatest(other);
                    QVERIFY2(std::abs(x - y) < 0.015 * x + 0.002,
                             qPrintable(QString("%1: %2 and %3").arg(name.c_str()).arg(x).arg(y)));
                    ++compared;
                }
        }
        QVERIFY(compared >= 4);
        COMPARE_WITHIN(b->energy_J, a->energy_J, 2e-3);
        // The marks too: as far on the other side.
        for (const auto& mark : one->built.marks) {
            const auto label = other_side(mark.label);
            const auto found = std::find_if(two->built.marks.begin(), two->built.marks.end(),
                                            [&](const auto& m) { return m.label == label; });
            QVERIFY2(found != two->built.marks.end(), label.c_str());
            const double expected = mark.label == label ? mark.from_datum_mm : -mark.from_datum_mm;
            QVERIFY2(std::abs(found->from_datum_mm - expected) < 1e-9, label.c_str());
        }
    }
    void everything_larger_at_a_higher_voltage_has_the_same_field_data() { add_designs(1); }
    void everything_larger_at_a_higher_voltage_has_the_same_field() {
        // Laplace's equation knows no length: what is larger at a voltage as much higher has the same field.
        QFETCH(QString, design);
        auto section = demo(design.toStdString()).built.section;
        if (section.depends_on_field()) QSKIP("it depends on the field: nothing scales");
        const auto small = solve(section);
        auto enlarged = test::changed(section, [](Point& p) { p = 1.25 * p; });
        scale_voltages(enlarged, 1.25);
        const auto large = solve(enlarged);
        REQUIRE_OK(small);
        REQUIRE_OK(large);
        QVERIFY(!small->edges.empty());
        for (const auto& edge : small->edges)
            if (const auto* other = large->edge(edge.name); other && edge.relative_error < 0.01)
                QVERIFY2(std::abs(other->peak_kV_per_mm - edge.peak_kV_per_mm) < 0.03 * edge.peak_kV_per_mm,
                         edge.name.c_str());
        COMPARE_WITHIN(large->energy_J, std::pow(1.25, 3) * small->energy_J, 3e-3);
    }
    void doubled_permittivities_double_the_charge_and_nothing_else_data() { add_designs(4); }
    void doubled_permittivities_double_the_charge_and_nothing_else() {
        QFETCH(QString, design);
        auto section = demo(design.toStdString()).built.section;
        if (section.conducts()) QSKIP("conduction does not double with it");
        const auto single = solve(section);
        for (auto& [name, material] : section.materials) {
            material.eps_r *= 2;
            for (auto& [hz, eps_r] : material.eps_r_by_frequency) eps_r *= 2;
        }
        section.frequency_hz = 50; // and the frequency changes nothing where nothing conducts
        const auto twice = solve(section);
        REQUIRE_OK(single);
        REQUIRE_OK(twice);
        same_fields(*single, *twice, 1, 1e-6);
        for (std::size_t i = 0; i < single->conductors.size(); ++i)
            if (std::abs(single->conductors[i].charge_C) > 1e-12)
                COMPARE_WITHIN(twice->conductors[i].charge_C, 2 * single->conductors[i].charge_C, 1e-6);
    }
    void half_the_voltage_halves_every_field_data() { add_designs(4); }
    void half_the_voltage_halves_every_field() {
        QFETCH(QString, design);
        auto section = demo(design.toStdString()).built.section;
        if (section.depends_on_field()) QSKIP("it depends on the field: nothing scales");
        const auto full = solve(section);
        scale_voltages(section, 0.5);
        const auto half = solve(section);
        REQUIRE_OK(full);
        REQUIRE_OK(half);
        same_fields(*full, *half, 0.5, 1e-6);
    }
    void a_finer_goal_stays_within_the_stated_error_data() { add_designs(2); }
    void a_finer_goal_stays_within_the_stated_error() {
        QFETCH(QString, design);
        const auto section = demo(design.toStdString()).built.section;
        SolveOptions fine;
        fine.goal = 0.002;
        const auto usual = solve(section), finer = solve(section, fine);
        REQUIRE_OK(usual);
        REQUIRE_OK(finer);
        for (const auto& edge : usual->edges) {
            const auto* other = finer->edge(edge.name);
            QVERIFY2(other, edge.name.c_str());
            const double stated = edge.relative_error + other->relative_error + 0.002;
            QVERIFY2(std::abs(other->peak_kV_per_mm - edge.peak_kV_per_mm) <= stated * edge.peak_kV_per_mm,
                     qPrintable(QString("%1: %2 and %3, stated %4 %")
                                    .arg(edge.name.c_str())
                                    .arg(edge.peak_kV_per_mm)
                                    .arg(other->peak_kV_per_mm)
                                    .arg(100 * stated)));
        }
    }
};
QTEST_APPLESS_MAIN(TestMetamorphic)
#include "test_metamorphic.moc"
