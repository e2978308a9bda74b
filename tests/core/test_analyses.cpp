// Conductive, field-dependent, impulse and DC analyses against exact solutions of layered plates and rods.
#include "closedform/closedform.h"
#include "field/conduction.h"
#include "field/kept.h"
#include "field/solve.h"
#include "field/waveform.h"
#include "support.h"
#include "units/quantity.h"
#include <boost/math/tools/roots.hpp>
#include <complex>

using namespace ng;

namespace {

constexpr double thickness_1 = 2, thickness_2 = 3, plate_kV = 10; // mm, mm, kV

struct Medium {
    double eps_r, S_per_m;
};
constexpr Medium medium_1{3, 1e-9}, medium_2{7, 4e-11};

using test::constant;

Conduction power_law(double sigma0, double E0, double exponent, const char* field = "rms") {
    Conduction c;
    c.law = "power";
    c.sigma0_S_per_m = sigma0;
    c.E0_kV_per_mm = E0;
    c.exponent = exponent;
    c.field = field;
    return c;
}

/// Two plates of material between flat electrodes: the field is uniform in each, E_z < 0.
Section plates(const SectionMaterial& lower, const SectionMaterial& upper, Analysis analysis) {
    Section s;
    s.symmetry = Symmetry::planar;
    s.analysis = analysis;
    s.materials = {{"lower", lower}, {"upper", upper}};
    s.regions = {{"lower", "lower", test::box(0, 0, 4, thickness_1)},
                 {"upper", "upper", test::box(0, thickness_1, 4, thickness_1 + thickness_2)}};
    s.boundaries = {{"earth", 0, {{0, 0}, {4, 0}}},
                    {"top", plate_kV, {{0, thickness_1 + thickness_2}, {4, thickness_1 + thickness_2}}}};
    s.probes = {{"in lower", {2, 1}, "lower"}, {"in upper", {2, 3.5}, "upper"}};
    s.paths = {{"across", {{2, 0.1}, {2, 1.9}}, "lower"}};
    return s;
}

Section maxwell_wagner(Analysis analysis) {
    return plates({medium_1.eps_r, constant(medium_1.S_per_m), {}},
                  {medium_2.eps_r, constant(medium_2.S_per_m), {}}, analysis);
}

/// The two-layer relaxation in closed form (Maxwell, Treatise, arts. 328-330; any text on dielectrics).
double relaxation_s() {
    return eps0_F_per_m * (medium_1.eps_r * thickness_2 + medium_2.eps_r * thickness_1) /
           (medium_1.S_per_m * thickness_2 + medium_2.S_per_m * thickness_1);
}
double field_1_at_once() {
    return plate_kV * medium_2.eps_r / (medium_1.eps_r * thickness_2 + medium_2.eps_r * thickness_1);
}
double field_1_in_the_end() {
    return plate_kV * medium_2.S_per_m / (medium_1.S_per_m * thickness_2 + medium_2.S_per_m * thickness_1);
}

double root(const std::function<double(double)>& f, double a, double b) {
    std::uintmax_t most = 200;
    const auto r =
        boost::math::tools::toms748_solve(f, a, b, boost::math::tools::eps_tolerance<double>(45), most);
    return 0.5 * (r.first + r.second);
}

} // namespace

class TestAnalyses : public QObject {
    Q_OBJECT
  private slots:
    void touching_conductors_share_the_flux_of_a_law_alike() {
        // Two halves of an earthed sleeve meet at z = 0 over a layer of a law, which is its own mirror image
        // there: each carries half of the charge. What leaves at the node between them is neither's alone.
        Section s;
        s.analysis = Analysis::nonlinear;
        s.frequency_hz = 50;
        s.materials["layer"] = {4, power_law(1e-8, 0.5, 3), "layer"};
        s.regions = {{"layer", "layer", test::box(5, -6, 10, 6)}};
        s.electrodes = {{"core", 10, false, test::box(0, -6, 5, 6)},
                        {"lower", 0, false, test::box(10, -6, 11, 0)},
                        {"upper", 0, false, test::box(10, 0, 11, 6)}};
        SolveOptions how;
        how.coarse = true; // large elements: the node's part is large
        const auto r = solve(s, how);
        REQUIRE_OK(r);
        COMPARE_WITHIN(r->conductors[1].charge_C, r->conductors[2].charge_C, 0.01);
    }
    void touching_conductors_share_what_leaves_by_what_conducts_beside_each() {
        // A core of two pieces within two layers that meet where they do, one conducting 1e4 times better:
        // the field is that of a coax in both, so each piece carries 2 pi sigma l U / ln(R/r) of its own
        // layer. What leaves at the node between them is all but all the better layer's.
        Section s;
        s.analysis = Analysis::dc;
        for (const auto& [name, sigma] : {std::pair{"good", 1e-10}, std::pair{"poor", 1e-14}})
            s.materials[name] = {2.3, test::constant(sigma), {}};
        s.regions = {{"good", "good", test::box(5, -6, 10, 0)}, {"poor", "poor", test::box(5, 0, 10, 6)}};
        s.electrodes = {{"lower", 10, false, test::box(0, -6, 5, 0)},
                        {"upper", 10, false, test::box(0, 0, 5, 6)},
                        {"screen", 0, false, test::box(10, -6, 11, 6)}};
        for (const bool coarse : {true, false}) {
            SolveOptions how;
            how.coarse = coarse;
            const auto r = solve(s, how);
            REQUIRE_OK(r);
            for (const std::size_t k : {0u, 1u}) {
                const double expected =
                    2 * std::numbers::pi * (k == 0 ? 1e-10 : 1e-14) * 6e-3 * 10e3 / std::log(2.0);
                COMPARE_WITHIN(r->conductors[k].current_A, expected, 2e-3);
                if (!coarse)
                    QVERIFY(std::abs(r->conductors[k].current_A - expected) <=
                            r->conductors[k].current_error_A);
            }
        }
    }
    void maxwell_wagner_over_six_decades() {
        std::printf("  Hz        |E1| ours   closed form   difference   phase ours   closed form\n");
        auto s = maxwell_wagner(Analysis::complex);
        s.frequency_hz = 0.01;
        auto kept = Kept::make(s);
        REQUIRE_OK(kept);
        for (double f = 0.01; f < 2e4; f *= 10) {
            s.frequency_hz = f;
            const auto r = kept->solve(s);
            REQUIRE_OK(r);
            const std::complex<double> jw(0, 2 * std::numbers::pi * f * eps0_F_per_m);
            const auto k1 = medium_1.S_per_m + jw * medium_1.eps_r,
                       k2 = medium_2.S_per_m + jw * medium_2.eps_r;
            const auto e1 = plate_kV * k2 / (k1 * thickness_2 + k2 * thickness_1);
            const auto e2 = plate_kV * k1 / (k1 * thickness_2 + k2 * thickness_1);
            const auto& p = r->probes[0];
            const double phase = std::arg(-e1) * 180 / std::numbers::pi; // E points down
            std::printf("  %-8g  %.6f    %.6f      %.1e      %8.3f     %8.3f\n", f, p.E_kV_per_mm,
                        std::abs(e1), p.E_kV_per_mm / std::abs(e1) - 1, p.E_z_phase_deg, phase);
            COMPARE_WITHIN(p.E_kV_per_mm, std::abs(e1), 1e-6);
            COMPARE_WITHIN(r->probes[1].E_kV_per_mm, std::abs(e2), 1e-6);
            QVERIFY(std::abs(std::remainder(p.E_z_phase_deg - phase, 360)) < 1e-4);
            // Loss: sigma |E|^2 times the volume, here per metre of depth: 4 mm wide.
            COMPARE_WITHIN(r->losses[0].power_W, 4e-3 * 2e-3 * medium_1.S_per_m * std::norm(e1 * 1e6), 1e-5);
            // Current density times the width; charge = current / (j omega).
            COMPARE_WITHIN(r->conductors[1].current_A, std::abs(k1 * e1) * 1e6 * 4e-3, 1e-6);
        }
    }
    void maxwell_wagner_step() {
        auto s = maxwell_wagner(Analysis::dc);
        s.dc_duration_s = 3 * relaxation_s();
        const auto r = solve(s);
        REQUIRE_OK(r);
        double worst = 0;
        for (const auto& point : r->history) {
            const double exact = field_1_in_the_end() + (field_1_at_once() - field_1_in_the_end()) *
                                                            std::exp(-point.t_s / relaxation_s());
            worst = std::max(worst, std::abs(point.probe_kV_per_mm[0] - exact));
        }
        QVERIFY2(worst < 1e-3 * field_1_at_once(), qPrintable(QString::number(worst)));
        // The time constant read back from two instants of the history.
        const auto at = [&](double t) {
            const auto it = std::lower_bound(r->history.begin(), r->history.end(), t,
                                             [](const auto& p, double when) { return p.t_s < when; });
            return std::pair(it->t_s, std::log(it->probe_kV_per_mm[0] - field_1_in_the_end()));
        };
        const auto a = at(0.2 * relaxation_s()), b = at(2 * relaxation_s());
        const double measured = (b.first - a.first) / (a.second - b.second);
        std::printf("  time constant: ours %.6g s, closed form %.6g s, difference %.1e\n", measured,
                    relaxation_s(), measured / relaxation_s() - 1);
        COMPARE_WITHIN(measured, relaxation_s(), 3e-3);
        QVERIFY(r->report.time_steps > 10);
    }
    void dc_final_state_and_the_charge_between() {
        const auto r = solve(maxwell_wagner(Analysis::dc));
        REQUIRE_OK(r);
        const double e1 = field_1_in_the_end(), e2 = e1 * medium_1.S_per_m / medium_2.S_per_m;
        COMPARE_WITHIN(r->probes[0].E_kV_per_mm, e1, 1e-7);
        COMPARE_WITHIN(r->probes[1].E_kV_per_mm, e2, 1e-7);
        COMPARE_WITHIN(r->conductors[1].current_A, medium_1.S_per_m * e1 * 1e6 * 4e-3, 1e-7);
        QCOMPARE(r->interface_charges.size(), std::size_t(1));
        // Field points down: the jump of eps E_n upwards is eps_1 e1 - eps_2 e2 with the sign turned.
        const double charge = eps0_F_per_m * (medium_1.eps_r * e1 - medium_2.eps_r * e2) * 1e6 * 4e-3;
        COMPARE_WITHIN(r->interface_charges[0].charge_C, charge, 1e-6);
    }
    void dc_needs_a_conductivity_everywhere() {
        const auto r = solve(plates({3, constant(1e-12), {}}, {2, {}, {}}, Analysis::dc));
        QVERIFY(!r && r.error().item == "material upper");
    }

    // Rung 3: the layer's transmission-line form with conduction.
    void thin_layer_capacitive_resistive_and_mixed() {
        std::printf("  layer        t mm    worst E_t difference, of its peak\n");
        const double omega = 2 * std::numbers::pi * 60;
        for (const auto& [name, eps_times_t, siemens] :
             {std::tuple("capacitive", 800.0, 0.0),
              {"resistive", 0.02, 800 * omega * eps0_F_per_m * 1e0},
              {"mixed", 400.0, 400 * omega * eps0_F_per_m}}) {
            double last = 1;
            for (const double t : {0.8, 0.2, 0.05}) {
                // eps_t t and sigma_t t are kept: the same grading from ever thinner layers.
                const closedform::GradedLayer layer{
                    8.7, 20, 21, 2.3, t, std::max(eps_times_t / t, 1.0), 60, siemens / t, 60};
                Section s;
                s.analysis = siemens > 0 ? Analysis::complex : Analysis::capacitive;
                s.materials = {{"insulation", {2.3, {}, {}}}, {"layer", {layer.layer_eps_r, {}, {}}}};
                if (siemens > 0) s.materials["layer"].conduction = constant(layer.layer_S_per_m);
                s.regions = {{"insulation", "insulation", test::box(20, 0, 21, 60)},
                             {"layer", "layer", test::box(21, 0, 21 + t, 60)}};
                s.boundaries = {{"conductor", 8.7, {{20, 0}, {20, 60}}},
                                {"screen", 0, {{21, 0}, {21 + t, 0}}}};
                s.paths = {{"surface", {{21, 2}, {21, 58}}, "layer"}};
                const auto r = solve(s);
                REQUIRE_OK(r);
                double worst = 0;
                for (const auto& sample : r->paths[0].samples)
                    worst = std::max(worst, std::abs(std::abs(sample.E_t_kV_per_mm) -
                                                     layer.tangential_kV_per_mm(sample.at.z)));
                worst /= layer.tangential_kV_per_mm(0);
                std::printf("  %-11s  %.2f    %.2e\n", name, t, worst);
                QVERIFY2(worst < last, name);
                last = worst;
            }
            QVERIFY2(last < 0.01, name); // what (insulation / grading length)^2 leaves
        }
    }
    void the_major_axis_is_the_largest_field_of_the_cycle() {
        for (const auto& [a, b] :
             {std::pair(Point{3, 1}, Point{-1, 2}), {Point{1, 0}, Point{0, 1}}, {Point{2, 2}, Point{0, 0}}}) {
            double most = 0;
            for (int i = 0; i < 7200; ++i) {
                const double phi = std::numbers::pi * i / 7200;
                most = std::max(most, length(std::cos(phi) * a - std::sin(phi) * b));
            }
            COMPARE_WITHIN(major_axis(a, b), most, 1e-6);
        }
        // Equal perpendicular fields a quarter cycle apart: the vector turns, its crest is 1, not sqrt 2.
        COMPARE_WITHIN(major_axis({1, 0}, {0, 1}), 1.0, 1e-12);
    }
    void a_resistive_screen_ends_as_a_body() {
        // A screen of 100 ohm m behaves as metal at 60 Hz: same stress at its rounded end.
        Section s = maxwell_wagner(Analysis::complex);
        s.materials["screen"] = {10, constant(0.01), {}};
        Outline end;
        end.start = {0, 4};
        end.line_to({1.8, 4}).arc_to({2, 4.2}, {1.8, 4.2}, "end").line_to({2, 4.6}).line_to({0, 4.6});
        s.regions.push_back({"screen", "screen", end});
        s.boundaries.push_back({"screen feed", 5, {{0, 4}, {0, 4.6}}});
        s.probes.clear();
        s.paths.clear();
        const auto body = solve(s);
        REQUIRE_OK(body);
        auto metal = s;
        metal.regions.pop_back();
        metal.boundaries.pop_back();
        metal.electrodes = {{"screen", 5, false, end}};
        const auto hard = solve(metal);
        REQUIRE_OK(hard);
        QVERIFY(body->edge("end") && hard->edge("end"));
        COMPARE_WITHIN(body->edge("end")->peak_kV_per_mm, hard->edge("end")->peak_kV_per_mm, 0.01);
    }

    // One field-dependent plate on a linear one: a scalar equation in complex numbers.
    void field_dependent_plates_at_power_frequency() {
        for (const double exponent : {1.0, 4.0, 12.0}) {
            const auto law = power_law(2e-9, 1.5, exponent);
            const auto s = plates({12, law, {}}, {3, {}, {}}, Analysis::nonlinear);
            const auto r = solve(s);
            REQUIRE_OK(r);
            QVERIFY(r->report.converged);
            QVERIFY(r->report.residual < 1e-5);
            const double w = 2 * std::numbers::pi * 60 * eps0_F_per_m;
            const auto e_of = [&](double e) {
                const std::complex<double> k1(2e-9 * (1 + std::pow(e / 1.5, exponent)), w * 12), k2(0, w * 3);
                return std::abs(plate_kV * k2 / (k1 * thickness_2 + k2 * thickness_1));
            };
            const double exact = root([&](double e) { return e - e_of(e); }, 1e-6, 5.0);
            COMPARE_WITHIN(r->probes[0].E_kV_per_mm, exact, 1e-5);
            QVERIFY(!scaled(*r, 2)); // does not scale with the voltage
        }
    }
    void field_dependent_plates_at_dc() {
        const auto law = power_law(1e-12, 1, 6, "peak");
        const auto r = solve(plates({12, law, {}}, {3, constant(1e-11), {}}, Analysis::dc));
        REQUIRE_OK(r);
        const double exact = root(
            [&](double e) {
                const double j = 1e-12 * (1 + std::pow(e, 6)) * e;
                return e * thickness_1 + j / 1e-11 * thickness_2 - plate_kV;
            },
            0.0, 5.0);
        COMPARE_WITHIN(r->probes[0].E_kV_per_mm, exact, 1e-5);
    }
    void all_laws_and_their_slopes() {
        Conduction exponential = power_law(1e-10, 0, 0.5, "rms");
        exponential.law = "exponential";
        exponential.a = 3;
        Conduction table = power_law(0, 0, 0);
        table.law = "table";
        table.table = {{0, 1e-10}, {0.5, 2e-10}, {1, 1e-8}, {2, 1e-6}};
        const ConductionLaw laws[] = {ConductionLaw(power_law(1e-10, 0.7, 4)), ConductionLaw(exponential),
                                      ConductionLaw(table)};
        COMPARE_WITHIN(laws[0].at(1.4).sigma_S_per_m, 1e-10 * 17, 1e-12);
        COMPARE_WITHIN(laws[1].at(4).sigma_S_per_m, 1e-10 * std::exp(6.0), 1e-12);
        COMPARE_WITHIN(laws[2].at(1).sigma_S_per_m, 1e-8, 1e-12);
        COMPARE_WITHIN(laws[2].at(9).sigma_S_per_m, 1e-6, 1e-12);
        COMPARE_WITHIN(laws[2].known_up_to_kV_per_mm(), 2.0, 1e-12);
        for (const auto& law : laws)
            for (const double e : {0.2, 0.6, 1.3}) {
                const double h = 1e-6;
                COMPARE_WITHIN(law.at(e).slope,
                               (law.at(e + h).sigma_S_per_m - law.at(e - h).sigma_S_per_m) / (2 * h), 1e-4);
            }
        double last = 0;
        for (double e = 0; e < 2.5; e += 0.01) { // monotone between its points
            const double sigma = laws[2].at(e).sigma_S_per_m;
            QVERIFY(sigma >= last);
            last = sigma;
        }
        // Stated in peak and read with an rms field, and the other way round.
        COMPARE_WITHIN(ConductionLaw(power_law(1, 1, 2, "peak")).at(1).sigma_S_per_m, 3.0, 1e-12);
        COMPARE_WITHIN(
            ConductionLaw(power_law(1, 1, 2, "rms"), FieldMeasure::instantaneous).at(1).sigma_S_per_m, 1.5,
            1e-12);
        auto warm = power_law(1e-10, 1, 2);
        warm.per_kelvin = 0.05;
        warm.actual_C = 60;
        COMPARE_WITHIN(ConductionLaw(warm).at(0).sigma_S_per_m, 1e-10 * std::exp(2.0), 1e-12);
    }

    // Both ways to the periodic state: alike for a mild law, apart by its harmonics for a strong one.
    void time_stepping_agrees_with_the_phasor_where_it_may() {
        std::printf("  exponent   phasor    in time (fundamental)   difference   third harmonic\n");
        double difference[2] = {}, third[2] = {};
        for (const int k : {0, 1}) {
            const double exponent = k == 0 ? 0.3 : 8;
            auto s = plates({12, power_law(2e-9, k == 0 ? 1.0 : 0.3, exponent), {}}, {3, {}, {}},
                            Analysis::nonlinear);
            const auto phasor = solve(s);
            REQUIRE_OK(phasor);
            s.cycles.in_time = true;
            const auto time = solve(s);
            REQUIRE_OK(time);
            QVERIFY(time->report.converged);
            const auto& probe = time->probes[0];
            difference[k] = std::abs(probe.fundamental_kV_per_mm / phasor->probes[0].E_kV_per_mm - 1);
            third[k] = probe.third_harmonic;
            std::printf("  %-8g   %.4f    %.4f                  %.1e      %.2e\n", exponent,
                        phasor->probes[0].E_kV_per_mm, probe.fundamental_kV_per_mm, difference[k], third[k]);
        }
        QVERIFY(difference[0] < 0.01);
        QVERIFY(third[0] < 0.02);
        QVERIFY(third[1] > 0.05);
        QVERIFY(difference[1] > 3 * difference[0]);
    }
    void a_linear_section_in_time_is_its_phasor() {
        auto s = maxwell_wagner(Analysis::nonlinear);
        const auto phasor = solve(s);
        s.cycles.in_time = true;
        const auto time = solve(s);
        REQUIRE_OK(phasor);
        REQUIRE_OK(time);
        COMPARE_WITHIN(time->probes[0].E_kV_per_mm, phasor->probes[0].E_kV_per_mm, 2e-3);
        COMPARE_WITHIN(time->losses[0].power_W, phasor->losses[0].power_W, 2e-3);
        QVERIFY(time->probes[0].third_harmonic < 1e-3);
    }

    // Time constants of the 1.2/50 and 250/2500 us waves as the literature prints them (values from memory:
    // Kuffel, Zaengl, Kuffel, High Voltage Engineering Fundamentals, table of impulse parameters: 68.2 and
    // 0.405 us; 3155 and 62.5 us).
    void impulse_parameters_from_front_and_tail() {
        const auto fast = DoubleExponential::from_times(1.2, 50);
        COMPARE_WITHIN(fast.tail_constant_s * 1e6, 68.2, 0.01);
        COMPARE_WITHIN(fast.front_constant_s * 1e6, 0.405, 0.02);
        const auto slow = DoubleExponential::from_times(250, 2500);
        COMPARE_WITHIN(slow.tail_constant_s * 1e6, 3155, 0.01);
        COMPARE_WITHIN(slow.front_constant_s * 1e6, 62.5, 0.02);
        for (const auto& [front, tail] : {std::pair(1.2, 50.0), {0.8, 40.0}, {250.0, 2500.0}, {5.0, 20.0}}) {
            const auto wave = DoubleExponential::from_times(front, tail);
            const auto times = measured_times(wave, front > 20);
            COMPARE_WITHIN(times.front_us, front, 1e-9);
            COMPARE_WITHIN(times.tail_us, tail, 1e-9);
            COMPARE_WITHIN(wave.at(wave.crest_s), 1.0, 1e-12);
        }
    }
    void impulse_on_linear_plates() {
        // Layers slow beside the front and quick beside the tail: both limits show. Exact: E1 = u h0 + (h1 -
        // h0) convolved with exp(-t/tau)/tau, for a double exponential in closed form.
        auto s = plates({3, constant(2e-6), {}}, {7, constant(1e-8), {}}, Analysis::impulse);
        const double tau =
            eps0_F_per_m * (3 * thickness_2 + 7 * thickness_1) / (2e-6 * thickness_2 + 1e-8 * thickness_1);
        const double h0 = 7 / (3 * thickness_2 + 7 * thickness_1),
                     h1 = 1e-8 / (2e-6 * thickness_2 + 1e-8 * thickness_1);
        const auto wave = DoubleExponential::from_times(1.2, 50);
        const auto lagged = [&](double t, double T) { // exp(-t/T) through a lag tau
            return (std::exp(-t / T) - std::exp(-t / tau)) / (1 - tau / T);
        };
        const auto exact = [&](double t) {
            return plate_kV * (h0 * wave.at(t) +
                               (h1 - h0) * wave.k *
                                   (lagged(t, wave.tail_constant_s) - lagged(t, wave.front_constant_s)));
        };
        const auto r = solve(s);
        REQUIRE_OK(r);
        double peak = 0, when = 0, worst = 0;
        for (double t = 0; t < 60e-6; t += 2e-9)
            if (std::abs(exact(t)) > peak) peak = std::abs(exact(t)), when = t;
        for (const auto& point : r->history)
            worst = std::max(worst, std::abs(point.probe_kV_per_mm[0] - std::abs(exact(point.t_s))));
        std::printf("  peak field: ours %.5f at %.4g us, closed form %.5f at %.4g us; worst over time %.1e "
                    "of it; %d steps\n",
                    r->probes[0].E_kV_per_mm, 1e6 * r->probes[0].peak_time_s, peak, 1e6 * when, worst / peak,
                    r->report.time_steps);
        COMPARE_WITHIN(r->probes[0].E_kV_per_mm, peak, 2e-3);
        COMPARE_WITHIN(r->probes[0].peak_time_s, when, 0.1);
        QVERIFY(worst < 5e-3 * peak);

        s.impulse.negative = true;
        const auto negative = solve(s);
        REQUIRE_OK(negative);
        COMPARE_WITHIN(negative->probes[0].E_kV_per_mm, r->probes[0].E_kV_per_mm, 1e-3);
        QVERIFY(negative->probes[0].field_kV_per_mm.z * r->probes[0].field_kV_per_mm.z < 0);

        s.impulse.negative = false;
        s.impulse.chopped_at_us = 0.3; // on the front
        const auto chopped = solve(s);
        REQUIRE_OK(chopped);
        QVERIFY(chopped->probes[0].peak_time_s <= 0.31e-6);
        COMPARE_WITHIN(chopped->probes[0].E_kV_per_mm, std::abs(exact(0.3e-6)), 0.02);

        s.impulse = {250, 2500, false, {}, {}};
        const auto slow = solve(s);
        REQUIRE_OK(slow);
        QVERIFY(slow->probes[0].E_kV_per_mm <
                0.5 * r->probes[0].E_kV_per_mm); // the layer has time to conduct
    }
    void a_clamping_layer_limits_an_impulse() {
        // Strong law: the field in the layer stays near its switching field whatever the voltage.
        auto s = plates({10, power_law(1e-7, 0.4, 20, "peak"), {}}, {3, {}, {}}, Analysis::impulse);
        const auto once = solve(s);
        for (auto& b : s.boundaries) b.voltage_kV *= 3;
        const auto thrice = solve(s);
        REQUIRE_OK(once);
        REQUIRE_OK(thrice);
        QVERIFY(thrice->probes[0].E_kV_per_mm < 1.8 * once->probes[0].E_kV_per_mm);
        QVERIFY(!once->linear);
    }

    // Several conductors: coefficients of a symmetric matrix whose rows sum to zero in a closed box.
    void capacitance_matrix() {
        Section s;
        s.symmetry = Symmetry::planar;
        s.materials["air"] = {1, {}, {}};
        s.regions = {{"air", "air", test::box(0, 0, 30, 20)}};
        s.electrodes = {{"left", 1, false, test::box(8, 8, 12, 12)},
                        {"right", 0, false, test::box(18, 8, 22, 12)}};
        s.boundaries = {{"box", 0, {{0, 0}, {30, 0}, {30, 20}, {0, 20}, {0, 0}}}};
        SolveOptions options;
        options.capacitance_matrix = true;
        const auto r = solve(s, options);
        REQUIRE_OK(r);
        const auto& c = r->capacitance_F;
        QCOMPARE(c.rows(), Eigen::Index(3));
        for (int i = 0; i < 3; ++i) {
            QVERIFY(c(i, i) > 0);
            QVERIFY(std::abs(c.row(i).sum()) < 1e-9 * c(i, i));
            for (int j = 0; j < 3; ++j) QVERIFY(std::abs(c(i, j) - c(j, i)) < 1e-9 * c(0, 0));
        }
        COMPARE_WITHIN(c(0, 0) * 1e3, r->conductors[0].charge_C, 1e-9); // left alone at 1 kV
        const closedform::RadialLayer layer[] = {{13.45, 2.3}};
        const auto coax = solve(test::coaxial(9, {{13.45, 2.3}}, 10, 1), options);
        REQUIRE_OK(coax);
        COMPARE_WITHIN(coax->capacitance_F(0, 0), 0.01 * closedform::capacitance_F_per_m(9, layer), 1e-4);
    }
    void a_kept_mesh_answers_like_a_fresh_one() {
        auto s = maxwell_wagner(Analysis::complex);
        auto kept = Kept::make(s);
        REQUIRE_OK(kept);
        s.materials["lower"].conduction->sigma0_S_per_m = 3e-8;
        s.boundaries[1].voltage_kV = 17;
        const auto again = kept->solve(s), fresh = solve(s);
        REQUIRE_OK(again);
        REQUIRE_OK(fresh);
        COMPARE_WITHIN(again->probes[0].E_kV_per_mm, fresh->probes[0].E_kV_per_mm, 1e-6);
        QVERIFY(again->report.error_known());
        QCOMPARE(again->report.mesh_s, 0.0);
        const auto doubled = scaled(*again, 2);
        REQUIRE_OK(doubled);
        COMPARE_WITHIN(doubled->probes[0].E_kV_per_mm, 2 * again->probes[0].E_kV_per_mm, 1e-12);
        COMPARE_WITHIN(doubled->losses[0].power_W, 4 * again->losses[0].power_W, 1e-12);
        s.probes[0].at.r = 1;
        QVERIFY(!kept->solve(s));
    }
    void several_sections_are_solved_at_once() {
        std::vector<Section> all;
        for (const double f : {1.0, 60.0, 1000.0}) {
            all.push_back(maxwell_wagner(Analysis::complex));
            all.back().frequency_hz = f;
        }
        all.push_back(maxwell_wagner(Analysis::complex));
        all.back().materials["upper"].eps_r = -1;
        const auto together = solve_many(all);
        for (std::size_t k = 0; k < 3; ++k) {
            REQUIRE_OK(together[k]);
            COMPARE_WITHIN(together[k]->probes[0].E_kV_per_mm, solve(all[k])->probes[0].E_kV_per_mm, 1e-12);
        }
        QVERIFY(!together[3] && together[3].error().item == "material upper");
    }
    void what_an_analysis_cannot_do_is_refused_by_name() {
        auto s = maxwell_wagner(Analysis::capacitive);
        QVERIFY(solve(s).error().item == "material lower");
        s = plates({3, power_law(1e-9, 1, 2), {}}, {2, {}, {}}, Analysis::complex);
        QVERIFY(solve(s).error().problem.find("depends on the field") != std::string::npos);
        s = maxwell_wagner(Analysis::complex);
        s.frequency_hz = 0;
        QVERIFY(solve(s).error().problem.find("frequency of 0 Hz") != std::string::npos);
        s = plates({3, power_law(-1e-9, 1, 2), {}}, {2, {}, {}}, Analysis::nonlinear);
        QVERIFY(solve(s).error().item == "material lower");
    }
    void a_raised_flag_stops_every_analysis() {
        for (const auto analysis :
             {Analysis::complex, Analysis::nonlinear, Analysis::impulse, Analysis::dc}) {
            CancelFlag flag{true};
            SolveOptions options;
            options.cancel = &flag;
            const auto r = solve(maxwell_wagner(analysis), options);
            REQUIRE_OK(r);
            QCOMPARE(r->report.end, SolveReport::End::cancelled);
        }
    }
};
QTEST_APPLESS_MAIN(TestAnalyses)
#include "test_analyses.moc"
