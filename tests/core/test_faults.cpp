// Faults that hands leave: each kind stands in the section as it says, what it does agrees with closed forms
// and with direct solves, and nothing is clipped or guessed.
#include "closedform/air.h"
#include "closedform/points.h"
#include "design/unknown_fields.h"
#include "fault/answer.h"
#include "support.h"
#include "verdict/void_allowance.h"
#include <numbers>
#include <random>

using namespace ng;

namespace {

double gap_air_density_of(const PreparedDesign& p) {
    return gap_air_density(p.design.duty.ambient_C, p.design.duty.altitude_m);
}

Fault fault(const std::string& kind, double size, Side side = Side::none, std::optional<double> at = {}) {
    Fault f;
    f.kind = kind;
    f.size_mm = size;
    f.side = side;
    f.from_edge_mm = at;
    return f;
}

const Sound& sound(const std::string& design) {
    static std::map<std::string, Sound> known;
    if (const auto it = known.find(design); it != known.end()) return it->second;
    auto judged = judge_sound(test::demo_job(), design, test::library());
    if (!judged) qFatal("%s", judged.error().message().c_str());
    return known.emplace(design, std::move(*judged)).first->second;
}

Result<FaultAnswer> answer(const std::string& design, const std::vector<Fault>& faults, double goal = 0.01) {
    EvaluateOptions options;
    options.goal = goal;
    return judge_faults(test::demo_job(), design, faults, test::library(), sound(design), options);
}

} // namespace

class TestFaults : public QObject {
    Q_OBJECT
  private slots:
    /// Log-normal detection (MIL-HDBK-1823, from memory): what nine of ten find is a50 exp(s z) with Phi(z) =
    /// 0.9 / c.
    void what_hands_find_follows_the_detection_curve() {
        Inspection all{"", 0.2, 0.5, 1.0};
        COMPARE_WITHIN(found_from_mm(all), 0.2 * std::exp(0.5 * 1.2815515655446), 1e-9);
        COMPARE_WITHIN(found_from_mm(all, 0.5), 0.2, 1e-12);
        Inspection some{"", 0.2, 0.5, 0.97};
        QVERIFY(found_from_mm(some) > found_from_mm(all));
        QVERIFY(std::isinf(found_from_mm(some, 0.98)));
        QVERIFY(std::isinf(found_from_mm({"nothing", 0, 0.5, 0.97})));
        for (const auto& kind : fault_kinds()) {
            QVERIFY2(!kind.title.empty() && !kind.model.empty() && !kind.source.empty() &&
                         !kind.rework.empty(),
                     kind.id.c_str());
            QVERIFY2(int(bool(kind.put)) + int(bool(kind.change)) + int(kind.rule.has_value()) == 1,
                     kind.id.c_str());
            if (kind.rule) continue;
            QVERIFY(kind.least_mm > 0 && kind.most_mm > kind.least_mm);
        }
    }
    void no_fault_changes_nothing() {
        for (const char* id : {"quay-mast", "causeway"}) {
            const auto none = prepare_faulty(test::demo_job(), id, {}, test::library());
            const auto plain = prepare_design(test::demo_job(), id, test::library());
            REQUIRE_OK(none);
            REQUIRE_OK(plain);
            QCOMPARE(write_section(none->prepared.built.section).dump(),
                     write_section(plain->built.section).dump());
        }
        // One of hardly any size changes hardly anything.
        const auto tiny = answer("quay-mast", {fault("nick", 1e-3)});
        REQUIRE_OK(tiny);
        for (const auto& check : tiny->checks)
            if (name_of(check.id).find("edge") == std::string::npos) // its own air is right beside that
                QVERIFY2(
                    std::abs(check.with - check.without) < 0.03 * std::max(1e-9, check.without) + 1e-9,
                    qPrintable(
                        QString("%1: %2, %3").arg(check.title.c_str()).arg(check.without).arg(check.with)));
    }
    /// A flat gap across the field sees the permittivity of what it lies in (any textbook of electrostatics).
    void a_wide_flat_gap_sees_the_permittivity() {
        auto f = fault("over_shaved", 0.1, Side::none, 40);
        f.width_mm = 20;
        const auto flat = answer("quay-mast", {f}, 0.005);
        REQUIRE_OK(flat);
        QCOMPARE(flat->air.size(), std::size_t(1));
        const auto& air = flat->air.front();
        // Its inception is that of its own gap, at the voltage across it: field in it eps times that beside
        // it.
        const auto& s = sound("quay-mast").evaluation;
        const auto* path = s.solutions.at_u0.path("insulation surface");
        const double edge = first_screen_edge_z(s.prepared.built);
        double E_n = 0, best = 1e9;
        for (const auto& sample : path->samples)
            if (std::abs(sample.at.z - edge - 40) < best) {
                best = std::abs(sample.at.z - edge - 40);
                E_n = std::abs(sample.E_n_kV_per_mm);
            }
        const double eps = 2.3, u0 = s.prepared.design.duty.u0();
        const double expected =
            u0 * closedform::uniform_gap_breakdown_kV_peak(0.1, gap_air_density_of(s.prepared)) /
            (std::numbers::sqrt2 * eps * E_n * 0.1);
        QVERIFY2(std::abs(air.breakdown_kV_rms / expected - 1) < 0.12,
                 qPrintable(QString("%1 beside %2").arg(air.breakdown_kV_rms).arg(expected)));
    }
    /// The streamer integral of an even field is that of the closed form, K = 9.15 (Petcharaks, from memory).
    void the_lower_of_breakdown_and_streamer_governs() {
        auto f = fault("bubble", 0.4, Side::none, 8);
        const auto with = answer("quay-mast", {f});
        REQUIRE_OK(with);
        const auto& air = with->air.front();
        COMPARE_WITHIN(air.gap_mm, 0.4 * 0.998, 1e-6);
        QVERIFY(air.inception_kV_rms <= air.breakdown_kV_rms && air.inception_kV_rms <= air.streamer_kV_rms);
        QVERIFY(std::isfinite(air.streamer_kV_rms));
        // Nearly even across so flat a bubble: the ratio is that of even gaps.
        const double density = gap_air_density_of(sound("quay-mast").evaluation.prepared);
        const double even = closedform::streamer_inception_kV_peak(0.4, density) /
                            closedform::uniform_gap_breakdown_kV_peak(0.4, density);
        QVERIFY2(
            std::abs(air.streamer_kV_rms / air.breakdown_kV_rms / even - 1) < 0.1,
            qPrintable(QString("%1, even %2").arg(air.streamer_kV_rms / air.breakdown_kV_rms).arg(even)));
        COMPARE_WITHIN(air.extinction_kV_rms / air.inception_kV_rms, 0.8, 1e-9);       // typical, from memory
        COMPARE_WITHIN(air.least_extinction_kV_rms / air.inception_kV_rms, 0.5, 1e-9); // never below
        QVERIFY(air.charge_pC > 0 && air.wait_s > 0);
        const auto small = answer("quay-mast", {fault("bubble", 0.1, Side::none, 8)});
        REQUIRE_OK(small);
        QVERIFY(std::isinf(small->air.front().streamer_kV_rms)); // below 0.2 mm bar
    }
    void what_does_not_fit_is_refused_by_name_data() {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<double>("size");
        QTest::addColumn<double>("at");
        QTest::addColumn<QString>("words");
        QTest::newRow("deeper than the insulation") << "nick" << 50.0 << 5.0 << "deeper than the insulation";
        QTest::newRow("under the screen") << "nick" << 0.2 << -20.0 << "under the insulation screen";
        QTest::newRow("past the end") << "nick" << 0.2 << 5000.0 << "past the end of the insulation";
        QTest::newRow("thicker than its cover") << "bubble" << 40.0 << 20.0 << "not 40.00 mm thick";
        QTest::newRow("void too wide") << "body_void" << 30.0 << 20.0 << "mm thick";
        QTest::newRow("no size") << "nick" << 0.0 << 5.0 << "not above zero";
        QTest::newRow("below zero") << "bubble" << -0.1 << 5.0 << "not above zero";
        QTest::newRow("no kind") << "hole" << 0.1 << 5.0 << "no kind of fault";
        QTest::newRow("slip too far") << "edge_too_near" << 900.0 << 0.0 << "";
    }
    void what_does_not_fit_is_refused_by_name() {
        QFETCH(QString, kind);
        QFETCH(double, size);
        QFETCH(double, at);
        QFETCH(QString, words);
        const auto r = prepare_faulty(test::demo_job(), "quay-mast",
                                      {fault(kind.toStdString(), size, Side::none, at)}, test::library());
        QVERIFY(!r);
        QVERIFY2(r.error().item.starts_with("fault 1") && !r.error().remedy.empty(),
                 r.error().message().c_str());
        QVERIFY2(QString::fromStdString(r.error().message()).contains(words), r.error().message().c_str());
        QVERIFY(!prepare_faulty(test::demo_job(), "causeway", {fault("nick", 0.1)},
                                test::library())); // which side?
        QVERIFY(
            !prepare_faulty(test::demo_job(), "quay-mast", {fault("nick", 0.1, Side::b)}, test::library()));
    }
    /// Every kind on every demo design: solved or refused by name with a reason.
    void kinds_stand_on_every_family_or_say_why_not() {
        int put = 0, refused = 0;
        for (const auto& design : test::demo_job().designs) {
            const auto plain = prepare_design(test::demo_job(), design.id, test::library());
            REQUIRE_OK(plain);
            for (auto one : possible_faults(*plain)) {
                one.size_mm = find_fault_kind(one.kind)->least_mm * 1.5;
                const auto faulty = prepare_faulty(test::demo_job(), design.id, {one}, test::library());
                if (!faulty) {
                    ++refused;
                    QVERIFY2(!faulty.error().problem.empty(), design.id.c_str());
                    continue;
                }
                ++put;
                const auto ok = validate(faulty->prepared.built.section);
                QVERIFY2(ok.has_value(),
                         ok ? "" : (design.id + " " + one.kind + ": " + ok.error().message()).c_str());
                if (find_fault_kind(one.kind)->put)
                    QVERIFY2(!faulty->drawn.empty() || !faulty->only_drawn.empty(), one.kind.c_str());
                else
                    QVERIFY(write_section(faulty->prepared.built.section) !=
                            write_section(plain->built.section));
            }
        }
        QVERIFY2(put > 90, qPrintable(QString("%1 put, %2 refused").arg(put).arg(refused)));
    }
    /// The smallest size that hurts lies between one that is quiet and one that is not, both solved directly.
    void a_critical_size_is_bracketed_by_direct_solves() {
        const auto f = fault("bubble", 0.01, Side::a);
        const auto critical =
            critical_size(test::demo_job(), "breakwater", f, test::library(), sound("breakwater"));
        REQUIRE_OK(critical);
        QVERIFY(critical->mm && critical->error_mm < 0.1 * *critical->mm);
        QVERIFY(!critical->why.empty() && critical->inspectability);
        COMPARE_WITHIN(*critical->inspectability,
                       *critical->mm / found_from_mm(find_fault_kind("bubble")->inspection), 1e-9);
        auto below = f, above = f;
        below.size_mm = 0.93 * *critical->mm;
        above.size_mm = 1.07 * *critical->mm;
        const auto quiet = answer("breakwater", {below}), hurting = answer("breakwater", {above});
        REQUIRE_OK(quiet);
        REQUIRE_OK(hurting);
        QVERIFY(!quiet->hurts && quiet->decision == FaultDecision::accept);
        QVERIFY(hurting->hurts && hurting->decision == FaultDecision::rework);
        QVERIFY(hurting->why.find("Partial discharge") != std::string::npos);
        QVERIFY(*hurting->inception_kV_rms < *hurting->required_kV_rms);
    }
    /// Sizes solved ahead on another core change nothing of the answer.
    void a_critical_size_is_the_same_on_any_number_of_cores() {
        const auto f = fault("nick", 0.1, Side::a);
        const auto one =
                       critical_size(test::demo_job(), "breakwater", f, test::library(), sound("breakwater")),
                   three = critical_size(test::demo_job(), "breakwater", f, test::library(),
                                         sound("breakwater"), nullptr, 3);
        REQUIRE_OK(one);
        REQUIRE_OK(three);
        QVERIFY(one->mm.has_value() && three->mm.has_value());
        QCOMPARE(*three->mm, *one->mm);
        QCOMPARE(three->error_mm, one->error_mm);
        QCOMPARE(three->why, one->why);
        auto below = f, above = f;
        below.size_mm = *one->mm - 2 * one->error_mm;
        above.size_mm = *one->mm + 2 * one->error_mm;
        const auto quiet = answer("breakwater", {below}), hurting = answer("breakwater", {above});
        REQUIRE_OK(quiet);
        REQUIRE_OK(hurting);
        QVERIFY(!quiet->hurts && hurting->hurts);
    }
    /// On a joint that is alike on both sides the same fault does the same on either.
    void a_mirrored_fault_does_the_same() {
        const auto a = answer("breakwater", {fault("nick", 0.2, Side::a, 4)}, 0.005),
                   b = answer("breakwater", {fault("nick", 0.2, Side::b, 4)}, 0.005);
        REQUIRE_OK(a);
        REQUIRE_OK(b);
        QVERIFY2(std::abs(*a->inception_kV_rms / *b->inception_kV_rms - 1) < 0.03,
                 qPrintable(QString("%1 %2").arg(*a->inception_kV_rms).arg(*b->inception_kV_rms)));
    }
    void a_slip_on_either_side_does_the_same() {
        const auto a = answer("breakwater", {fault("edge_too_near", 3, Side::a)}, 0.005),
                   b = answer("breakwater", {fault("edge_too_near", 3, Side::b)}, 0.005);
        REQUIRE_OK(a);
        REQUIRE_OK(b);
        const auto value = [](const FaultAnswer& of, const std::string& title) {
            for (const auto& check : of.checks)
                if (check.title == title) return check.with;
            return -1.0;
        };
        const double at_a = value(*a, "Stress at the screen edge A"),
                     at_b = value(*b, "Stress at the screen edge B");
        QVERIFY2(at_a > 0.5 && std::abs(at_a / at_b - 1) < 0.03,
                 qPrintable(QString("%1 %2").arg(at_a).arg(at_b)));
        // The other side does not feel it.
        QVERIFY(value(*a, "Stress at the screen edge B") < 0.05);
    }
    void a_slip_moves_the_edge_and_nothing_that_is_placed() {
        const auto before = prepare_design(test::demo_job(), "quay-mast", test::library());
        const auto after =
            prepare_faulty(test::demo_job(), "quay-mast", {fault("edge_too_far", 8)}, test::library());
        REQUIRE_OK(before);
        REQUIRE_OK(after);
        const auto z = [](const PreparedDesign& p, MarkKind kind) {
            for (const auto& m : p.built.marks)
                if (m.kind == kind) return p.built.datum_z_mm - m.from_datum_mm - p.built.datum_z_mm;
            return 0.0;
        };
        COMPARE_WITHIN(z(*before, MarkKind::screen_edge) - z(after->prepared, MarkKind::screen_edge), 8.0,
                       1e-6);
        COMPARE_WITHIN(z(*before, MarkKind::tube_end), z(after->prepared, MarkKind::tube_end), 0.011);
    }
    void decisions_follow_from_what_can_be_undone() {
        // Harmless, to be undone, not to be undone.
        const auto harmless = answer("quay-mast", {fault("nick", 0.02, Side::none, 60)});
        REQUIRE_OK(harmless);
        QCOMPARE(harmless->decision, FaultDecision::accept);
        QVERIFY(harmless->why.find(" of ") != std::string::npos);
        const auto mastic = answer("quay-mast", {fault("mastic_missing", 6)});
        REQUIRE_OK(mastic);
        QCOMPARE(mastic->decision, FaultDecision::rework);
        const auto deep = answer("breakwater", {fault("nick", 1.3, Side::a, 1)});
        REQUIRE_OK(deep);
        QCOMPARE(deep->decision, FaultDecision::cut_back);
        QVERIFY(deep->hurts && !deep->why.empty());
        // A design that falls short without any is no ground to judge a fault on.
        const auto bad = answer("ramp-pole", {fault("nick", 0.02, Side::none, 60)});
        REQUIRE_OK(bad);
        QCOMPARE(bad->decision, FaultDecision::ask);
        // Several at once: the worst decides, and each body of air answers.
        const auto both =
            answer("breakwater", {fault("nick", 1.3, Side::a, 1), fault("bubble", 0.1, Side::b, 20)});
        REQUIRE_OK(both);
        QCOMPARE(both->air.size(), std::size_t(2));
        QCOMPARE(both->decision, FaultDecision::cut_back);
    }
    void random_faults_are_solved_or_refused() {
        std::mt19937 random(5);
        const auto between = [&](double a, double b) {
            return std::uniform_real_distribution<>(a, b)(random);
        };
        const auto job = test::demo_job();
        int put = 0;
        for (int i = 0; i < 600; ++i) {
            const auto& design = job.designs[random() % job.designs.size()];
            Fault f;
            f.kind = fault_kinds()[random() % fault_kinds().size()].id;
            const auto& kind = *find_fault_kind(f.kind);
            if (!kind.rule) {
                f.side = static_cast<Side>(random() % 3);
                f.size_mm = std::exp(between(std::log(kind.least_mm / 3), std::log(kind.most_mm * 3)));
                if (kind.put && random() % 2) f.from_edge_mm = between(-30, 300);
                if (kind.width_mm > 0 && random() % 2)
                    f.width_mm = kind.width_mm * std::exp(between(std::log(0.1), std::log(4.0)));
                if (kind.has_filling) f.filling = fillings()[random() % fillings().size()].id;
                if (kind.has_sheet() && random() % 2) f.sheet_ohm = std::pow(10, between(4, 13));
            }
            const auto faulty = prepare_faulty(job, design.id, {f}, test::library());
            if (!faulty) {
                QVERIFY(!faulty.error().problem.empty());
                continue;
            }
            ++put;
            const auto ok = validate(faulty->prepared.built.section);
            QVERIFY2(ok.has_value(),
                     ok ? "" : (design.id + ", " + fault_words(f) + ": " + ok.error().message()).c_str());
        }
        QVERIFY2(put > 60, qPrintable(QString::number(put)));
    }
    /// A film of little resistance is a floating conductor, one of much is not there; between, less
    /// resistance never lessens the stress that it puts beside its ends.
    void a_film_of_a_given_resistance_lies_between_none_and_a_conductor() {
        const auto grading = [](const std::vector<Fault>& faults) {
            const auto with = answer("quay-mast", faults, 0.01);
            if (!with) qFatal("%s", with.error().message().c_str());
            for (const auto& check : with->checks)
                if (check.id == CheckKind::insulation_ratio) return check.with;
            throw std::runtime_error("the design has no ratio check");
        };
        const auto film = [&](double ohm) {
            auto f = fault("carbon_streak", 12, Side::none, 25);
            f.sheet_ohm = ohm;
            return grading({f});
        };
        const double none = grading({}), floating = grading({fault("island", 12, Side::none, 25)});
        COMPARE_WITHIN(film(1e14), none, 0.01);
        COMPARE_WITHIN(film(1e4), floating, 0.02);
        // Where it turns: 1 / (omega C l^2) with the insulation's capacitance, some 1e9 to 1e10 ohm here
        // (worked).
        const auto wide = prepare_faulty(test::demo_job(), "quay-mast",
                                         {fault("carbon_streak", 12, Side::none, 25)}, test::library());
        REQUIRE_OK(wide);
        QCOMPARE(wide->prepared.built.section.analysis, Analysis::complex);
        QVERIFY(wide->prepared.built.section.conducts());
        auto f = fault("water_film", 8, Side::none, 25);
        QCOMPARE(fault_words(f).find("per square"), std::string::npos); // a conductor
        f.sheet_ohm = 2.5e7;
        QVERIFY2(fault_words(f).find("25 Mohm per square") != std::string::npos, fault_words(f).c_str());
        for (const double wrong : {0.0, -1.0, 10.0, 1e20, std::nan("")}) {
            f.sheet_ohm = wrong;
            const auto refused = check_fault(f, "fault");
            QVERIFY(!refused && refused.error().problem.find("ohm is out of range") != std::string::npos);
        }
        auto nick = fault("nick", 0.2);
        nick.sheet_ohm = 1e8;
        QVERIFY(!check_fault(nick, "fault"));
    }
    void a_step_in_the_pencil_leaves_air_under_the_tape() {
        const auto job = test::demo_job();
        const auto small = answer("cellar", {fault("pencil_stepped", 0.1, Side::a)}, 0.02),
                   large = answer("cellar", {fault("pencil_stepped", 1.2, Side::a)}, 0.02);
        REQUIRE_OK(small);
        REQUIRE_OK(large);
        QCOMPARE(large->air.size(), std::size_t{1});
        // At a tenth of the step its gap is nine tenths of its height.
        COMPARE_WITHIN(large->air[0].gap_mm, 0.889 * 1.2, 1e-6);
        COMPARE_WITHIN(small->air[0].gap_mm, 0.889 * 0.1, 1e-6);
        QVERIFY(*large->inception_kV_rms < *small->inception_kV_rms);
        // It lies on the flank: its highest point halfway down, its level end on the flank.
        const auto faulty =
            prepare_faulty(job, "cellar", {fault("pencil_stepped", 1.2, Side::a)}, test::library());
        REQUIRE_OK(faulty);
        const auto plain = test::prepared("cellar");
        const auto points = polygon_of(faulty->drawn[0].outline, 0.1);
        for (const auto& path : plain->built.section.paths)
            if (path.name == "insulation surface A") {
                const auto top = path.points[path.points.size() - 2], foot = path.points.back();
                const double slope = (foot.r - top.r) / (foot.z - top.z);
                for (const std::size_t i : {std::size_t{0}, std::size_t{2}})
                    COMPARE_WITHIN(points[i].r, top.r + slope * (points[i].z - top.z), 1e-9);
                COMPARE_WITHIN(points[0].r - points[1].r, 1.2, 1e-9);
            }
        const auto refused = [&](const char* design, double size, Side side) {
            const auto no =
                prepare_faulty(job, design, {fault("pencil_stepped", size, side)}, test::library());
            return no ? std::string() : no.error().problem;
        };
        QVERIFY(refused("cellar", 9, Side::a).find("leaves room for a step") != std::string::npos);
        QVERIFY(refused("quay-mast", 0.3, Side::none).find("no pencil") != std::string::npos);
    }
    void a_short_cover_is_the_design_with_less_lap() {
        auto job = test::demo_job();
        job.find_design("causeway")->choices["connector_cover"] = "tube";
        const auto shorter =
            prepare_faulty(job, "causeway", {fault("cover_short", 3, Side::a)}, test::library());
        REQUIRE_OK(shorter);
        const auto plain = prepare_design(job, "causeway", test::library());
        REQUIRE_OK(plain);
        job.find_design("causeway")->numbers["cover_lap_mm"] =
            number_of(plain->context(), "cover_lap_mm") - 3;
        const auto same = prepare_design(job, "causeway", test::library());
        REQUIRE_OK(same);
        QCOMPARE(write_section(shorter->prepared.built.section).dump(),
                 write_section(same->built.section).dump());
        QVERIFY(!prepare_faulty(job, "causeway", {fault("cover_short", 29, Side::a)}, test::library()));
        QVERIFY(!prepare_faulty(job, "cellar", {fault("cover_short", 1, Side::a)}, test::library()));
    }
    /// Earthed by its film, the surface's field crowds between its end and the live end: longer is never
    /// milder.
    void a_wet_outside_brings_earth_up_the_surface() {
        const auto job = test::demo_job();
        double before = 0;
        for (const double wet_mm : {20.0, 90.0, 180.0}) {
            auto f = fault("wet_outside", wet_mm);
            f.sheet_ohm = 1e6;
            const auto with = answer("switch-house", {f}, 0.02);
            REQUIRE_OK(with);
            double tangential = 0;
            for (const auto& check : with->checks)
                if (check.title.starts_with("Tangential stress on the")) tangential = check.with;
            QVERIFY2(tangential >= 0.98 * before, qPrintable(QString("%1: %2").arg(wet_mm).arg(tangential)));
            before = tangential;
        }
        double dry = 0;
        for (const auto& check : sound("switch-house").evaluation.verdict.checks)
            if (check.title.starts_with("Tangential stress on the")) dry = check.value;
        QVERIFY2(before > 1.2 * dry, qPrintable(QString("%1 beside %2").arg(before).arg(dry)));
        const auto refused = [&](const char* design, Fault f) {
            const auto no = prepare_faulty(job, design, {f}, test::library());
            return no ? std::string() : no.error().message();
        };
        QVERIFY(refused("switch-house", fault("wet_outside", 5000)).find("mm long") != std::string::npos);
        QVERIFY(refused("switch-house", fault("wet_outside", 50, Side::none, 10)).find("earthed end") !=
                std::string::npos);
        QVERIFY(refused("causeway", fault("wet_outside", 50, Side::a)).find("no surface") !=
                std::string::npos);
    }
    void rules_decide_without_a_field() {
        Fault f;
        f.kind = "crimp_short";
        const auto ruled = answer("quay-mast", {f});
        REQUIRE_OK(ruled);
        QCOMPARE(ruled->decision, FaultDecision::rework);
        QVERIFY(ruled->why.find("heats") != std::string::npos);
        for (const auto& check : ruled->checks) QCOMPARE(check.with, check.without);
        f.size_mm = 2;
        QVERIFY(!answer("quay-mast", {f}));
        // With a fault that hurts the insulation as well, that one decides.
        const auto both = answer("breakwater", {fault("over_shaved", 0.5, Side::a), fault("crimp_short", 0)});
        REQUIRE_OK(both);
        QCOMPARE(both->decision, FaultDecision::cut_back);
        const auto critical = critical_size(test::demo_job(), "quay-mast", fault("crimp_short", 0),
                                            test::library(), sound("quay-mast"));
        QVERIFY(!critical && critical.error().problem.find("no size") != std::string::npos);
    }
    /// A nick is judged by its air; what is asked of the interface beyond it stays where it was on the cable.
    void a_nick_leaves_the_questions_where_they_were() {
        const auto plain = prepare_design(test::demo_job(), "quay-mast", test::library());
        auto f = fault("nick", 0.5, Side::none, 1);
        const auto nicked = prepare_faulty(test::demo_job(), "quay-mast", {f}, test::library());
        REQUIRE_OK(plain);
        REQUIRE_OK(nicked);
        const auto z_at = [](const PreparedDesign& p, double s) {
            const auto& path =
                *std::find_if(p.built.section.paths.begin(), p.built.section.paths.end(),
                              [](const auto& one) { return one.name == "insulation surface"; });
            for (std::size_t i = 1; i < path.points.size(); ++i) {
                const double step = distance(path.points[i - 1], path.points[i]);
                if (s <= step + 1e-9)
                    return path.points[i - 1].z + s / step * (path.points[i].z - path.points[i - 1].z);
                s -= step;
            }
            return path.points.back().z;
        };
        int compared = 0;
        for (std::size_t k = 0; k < plain->built.checks.size(); ++k) {
            const auto &a = plain->built.checks[k], &b = nicked->prepared.built.checks[k];
            if (a.places != std::vector{place::insulation_surface}) continue;
            for (const auto bound : {&CheckRequest::from_s_mm, &CheckRequest::to_s_mm})
                if (std::isfinite(a.*bound) && a.*bound > 0 &&
                    std::abs(z_at(*plain, a.*bound) - first_screen_edge_z(plain->built) - 1) > 0.3) {
                    COMPARE_WITHIN(z_at(nicked->prepared, b.*bound), z_at(*plain, a.*bound), 1e-6);
                    ++compared;
                }
            QCOMPARE(b.leave_out.size(), std::size_t(1));
        }
        QVERIFY(compared >= 3);
        const auto with = answer("quay-mast", {f});
        REQUIRE_OK(with);
        for (const auto& check : with->checks)
            if (name_of(check.id).find("edge") == std::string::npos && check.without > 0)
                QVERIFY2(
                    check.with < 1.15 * check.without,
                    qPrintable(
                        QString("%1: %2, %3").arg(check.title.c_str()).arg(check.without).arg(check.with)));
    }
    /// A shallow wide groove is a flat gap across the field: its air sees eps times the normal field (any
    /// textbook of electrostatics); along it, the tangential field as it is.
    void a_shallow_score_sees_the_permittivity() {
        auto f = fault("score", 0.006, Side::none, 40); // 0.3 mm wide
        const auto shallow = answer("quay-mast", {f});
        REQUIRE_OK(shallow);
        QCOMPARE(shallow->air.size(), std::size_t(2));
        const auto& s = sound("quay-mast").evaluation;
        const auto* path = s.solutions.at_u0.path("insulation surface");
        const double z = first_screen_edge_z(s.prepared.built) + 40;
        const auto nearest =
            std::min_element(path->samples.begin(), path->samples.end(), [&](const auto& a, const auto& b) {
                return std::abs(a.at.z - z) < std::abs(b.at.z - z);
            });
        const double density = gap_air_density_of(s.prepared);
        const double expected = s.prepared.design.duty.u0() *
                                closedform::uniform_gap_breakdown_kV_peak(0.006, density) /
                                (std::numbers::sqrt2 * 2.3 * std::abs(nearest->E_n_kV_per_mm) * 0.006);
        QVERIFY2(std::abs(shallow->air[0].breakdown_kV_rms / expected - 1) < 0.1,
                 qPrintable(QString("%1 beside %2").arg(shallow->air[0].breakdown_kV_rms).arg(expected)));
        QVERIFY(shallow->air[1].gap_mm > 8);
        // Deeper is worse.
        const auto deep = answer("quay-mast", {fault("score", 0.3, Side::none, 40)});
        REQUIRE_OK(deep);
        QVERIFY(deep->air[0].breakdown_kV_rms < shallow->air[0].breakdown_kV_rms);
    }
    /// Points are worse than ridges: hemisphere 3 against 2, three times as high as half as wide 9.2 against
    /// 4 (Stratton, from memory).
    void points_are_worse_than_ridges() {
        using namespace closedform;
        COMPARE_WITHIN(hemispheroid_factor(1), 3, 1e-9);
        COMPARE_WITHIN(hemispheroid_factor(1.001), 3, 5e-3);
        COMPARE_WITHIN(hemispheroid_factor(3), 9.2, 0.05);
        COMPARE_WITHIN(ridge_factor(1), 2, 1e-12);
        COMPARE_WITHIN(point_over_ridge(3), 2.3, 0.02);
        // A burr is read at its tip, and that much worse.
        const auto burr = answer("causeway", {fault("connector_burr", 0.5, Side::a)});
        REQUIRE_OK(burr);
        const auto check = std::find_if(burr->checks.begin(), burr->checks.end(),
                                        [](const auto& c) { return c.id.kind == CheckKind::fault_edge; });
        QVERIFY(check != burr->checks.end());
        const auto small = answer("causeway", {fault("connector_burr", 0.25, Side::a)});
        REQUIRE_OK(small);
        QVERIFY(check->with > 1 && check->limit > 0);
    }
    /// The same fault in other schools: each answers for itself, as it would when asked alone.
    void other_schools_answer_for_themselves() {
        auto job = test::demo_job();
        std::erase_if(job.designs, [](const auto& d) {
            return d.id != "quay-mast" && d.id != "berth-2" && d.id != "causeway" && d.id != "slipway-end";
        });
        const auto all = judge_elsewhere(job, "quay-mast", fault("mastic_missing", 2), test::library());
        QCOMPARE(all.size(), std::size_t(3));
        for (const auto& one : all) {
            QVERIFY(one.design != "quay-mast" && !one.why.empty());
            if (one.design == "berth-2") QVERIFY(!one.decision); // a cone: no relief mastic
            if (one.design != "causeway") continue;
            const auto alone =
                judge_faults(job, "causeway", {fault("mastic_missing", 2, Side::a)}, test::library(),
                             sound("causeway"), fault_options(sound("causeway"), shown_loosest));
            REQUIRE_OK(alone);
            QCOMPARE(one.decision, std::optional(alone->decision));
            QCOMPARE(one.why, alone->why);
        }
    }
    void the_fault_that_does_not_fit_is_named() {
        const auto refused = prepare_faulty(test::demo_job(), "quay-mast",
                                            {fault("body_void", 30), fault("nick", 0.2)}, test::library());
        QVERIFY(!refused);
        const auto said = QString::fromStdString(refused.error().message());
        QVERIFY2(said.contains("fault 1"), qPrintable(said));
        QVERIFY2(!said.contains("fault 2"), qPrintable(said));
    }
    void faults_travel_in_the_job() {
        auto job = test::demo_job();
        auto f = fault("nick", 0.3, Side::a, 4);
        f.width_mm = 0.6;
        f.filling = "grease";
        auto streak = fault("carbon_streak", 4, Side::b);
        streak.sheet_ohm = 3e8;
        job.find_design("causeway")->faults = {f, streak};
        const auto read = read_job(nlohmann::json(write_job(job)), "job");
        REQUIRE_OK(read);
        QVERIFY(nlohmann::json(write_job(*read)) == nlohmann::json(write_job(job)));
        QCOMPARE(read->find_design("causeway")->faults.size(), std::size_t(2));
        QCOMPARE(*read->find_design("causeway")->faults[0].width_mm, 0.6);
        QCOMPARE(*read->find_design("causeway")->faults[1].sheet_ohm, 3e8);
        QVERIFY(unknown_fields(*read, FamilyTable::shipped()).empty());
    }
};

QTEST_APPLESS_MAIN(TestFaults)
#include "test_faults.moc"
