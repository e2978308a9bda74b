// Analyses in time against the exact solution of concentric layers with constant conduction: at live and
// earthed conductors, at edges, path ends and probes; and against the capacitive solution where nothing
// conducts.
#include "field/in_time.h"
#include "field/permittivity.h"
#include "field/relaxation.h"
#include "field/solve.h"
#include "field/waveform.h"
#include "mesh/mesher.h"
#include "section/voltages.h"
#include "stored_sections.h"
#include "support.h"
#include "units/quantity.h"
#include <Eigen/Eigenvalues>
#include <filesystem>
#include <fstream>
#include <sstream>

using namespace ng;

namespace {

struct Layer {
    double outer_mm, eps_r, S_per_m;
};

constexpr double core_mm = 4;

/// Voltage over each layer of a series of leaky capacitors, from the ordinary differential equations
/// C_i u_i' + G_i u_i = i, sum of u_i = U (circuit theory), by their modes; U piecewise linear between the
/// instants.
class Exact {
  public:
    /// `start`: U at t = 0+, applied at once.
    Exact(const std::vector<Layer>& layers, const std::vector<double>& t_s, const std::vector<double>& u_kV)
        : layers_(layers), t_(t_s) {
        const auto n = static_cast<Eigen::Index>(layers.size());
        Eigen::VectorXd c(n), g(n);
        double inside = core_mm;
        for (Eigen::Index i = 0; i < n; ++i) {
            const auto& layer = layers[i];
            log_.push_back(std::log(layer.outer_mm / inside));
            c[i] = eps0_F_per_m * layer.eps_r / log_.back();
            g[i] = layer.S_per_m / log_.back();
            inside = layer.outer_mm;
        }
        // u' = a u + b U', a of all layers: its rows sum up to nothing, so that the sum of u follows U.
        const double series = c.cwiseInverse().sum();
        Eigen::MatrixXd a(n, n);
        const Eigen::VectorXd b = c.cwiseInverse() / series;
        for (Eigen::Index i = 0; i < n; ++i)
            for (Eigen::Index j = 0; j < n; ++j) a(i, j) = b[i] * g[j] / c[j] - (i == j ? g[i] / c[i] : 0);
        const Eigen::EigenSolver<Eigen::MatrixXd> modes(a);
        const Eigen::MatrixXcd shapes = modes.eigenvectors(), back = shapes.inverse();
        Eigen::VectorXcd y = back * (b * u_kV[0]).cast<std::complex<double>>();
        const Eigen::VectorXcd drive = back * b.cast<std::complex<double>>();
        for (std::size_t k = 0; k < t_.size(); ++k) {
            if (k > 0) {
                const double h = t_[k] - t_[k - 1], rate = (u_kV[k] - u_kV[k - 1]) / h;
                for (Eigen::Index i = 0; i < n; ++i) {
                    const auto x = modes.eigenvalues()[i] * h;
                    const auto mean = std::abs(x) < 1e-6 ? 1.0 + 0.5 * x : (std::exp(x) - 1.0) / x;
                    y[i] = y[i] * std::exp(x) + drive[i] * rate * h * mean;
                }
            }
            u_.push_back((shapes * y).real());
        }
    }
    struct Peak {
        double kV_per_mm, at_s;
        double from_s, to_s; ///< about it, where the field is the largest to 1e-3 of itself
        bool reached_at(double t) const { return t >= from_s && t <= to_s; }
    };
    /// Largest |E| in a layer at a radius, over time.
    Peak peak(std::size_t layer, double radius_mm) const {
        const auto field = [&](std::size_t k) {
            return std::abs(u_[k][static_cast<Eigen::Index>(layer)]) / (radius_mm * log_[layer]);
        };
        std::size_t at = 0;
        for (std::size_t k = 0; k < t_.size(); ++k)
            if (field(k) > field(at)) at = k;
        std::size_t from = at, to = at;
        while (from > 0 && field(from - 1) > (1 - 1e-3) * field(at)) --from;
        while (to + 1 < t_.size() && field(to + 1) > (1 - 1e-3) * field(at)) ++to;
        return {field(at), t_[at], t_[from], t_[to]};
    }

    double at_end_kV(std::size_t layer) const { return u_.back()[static_cast<Eigen::Index>(layer)]; }

  private:
    std::vector<Layer> layers_;
    std::vector<double> t_, log_;
    std::vector<Eigen::VectorXd> u_;
};

/// A quarter of concentric layers round a live core, planar: edges at the core and at the screen, a path
/// across each layer.
Section quarter(const std::vector<Layer>& layers, double voltage_kV) {
    Section s;
    s.symmetry = Symmetry::planar;
    double inside = core_mm;
    for (std::size_t i = 0; i < layers.size(); ++i) {
        const auto name = fmt::format("layer {}", i + 1);
        s.materials[name] = {layers[i].eps_r, {}, {}};
        if (layers[i].S_per_m > 0) {
            Conduction law;
            law.law = "constant";
            law.sigma0_S_per_m = layers[i].S_per_m;
            s.materials[name].conduction = law;
        }
        Outline ring;
        ring.start = {inside, 0};
        ring.line_to({layers[i].outer_mm, 0})
            .arc_to({0, layers[i].outer_mm}, {0, 0})
            .line_to({0, inside})
            .arc_to({inside, 0}, {0, 0});
        s.regions.push_back({name, name, ring});
        const Point along{std::cos(0.7), std::sin(0.7)};
        s.paths.push_back({name, {inside * along, layers[i].outer_mm * along}, name});
        s.probes.push_back(
            {name, 0.5 * (inside + layers[i].outer_mm) * Point{std::cos(0.4), std::sin(0.4)}, name});
        inside = layers[i].outer_mm;
    }
    Outline core, screen;
    core.start = {0, 0};
    core.line_to({core_mm, 0}).arc_to({0, core_mm}, {0, 0}, "core");
    screen.start = {inside, 0};
    screen.line_to({inside + 2, 0})
        .arc_to({0, inside + 2}, {0, 0})
        .line_to({0, inside})
        .arc_to({inside, 0}, {0, 0}, "screen");
    s.electrodes = {{"core", voltage_kV, false, core}, {"screen", 0, false, screen}};
    return s;
}

/// Instants close enough for a piecewise linear wave: evenly over the front, by a constant ratio after it.
std::vector<double> instants(double first_s, double end_s) {
    std::vector<double> out;
    constexpr int even = 4000;
    for (int i = 0; i <= even; ++i) out.push_back(first_s * i / even);
    for (double t = 1e-7 * first_s; t < first_s; t *= 1.01)
        out.push_back(t); // fast relaxations at the very beginning
    std::sort(out.begin(), out.end());
    for (double t = first_s; t * 1.0005 < end_s; t *= 1.0005) out.push_back(t * 1.0005);
    out.push_back(end_s);
    return out;
}

struct Held {
    double worst_error = 0, worst_ratio = 0, worst_time = 0;
    std::string worst_place;
};

void print(const std::string& name, const Held& held, const Solution& r) {
    std::printf("  %-44s worst error %.4f %%, over stated %.2f (%s), time of peak off by %.2f %%; %d steps, "
                "stated %.3f %%\n",
                name.c_str(), 100 * held.worst_error, held.worst_ratio, held.worst_place.c_str(),
                100 * held.worst_time, r.report.time_steps, 100 * r.report.worst_error);
}

/// Everything that is read of the quarter against the exact solution.
Held hold(const std::vector<Layer>& layers, const Solution& r, const Exact& exact) {
    Held out;
    const auto take = [&](const std::string& place, double ours, double relative, double at_s,
                          Exact::Peak theirs) {
        const double error = std::abs(ours / theirs.kV_per_mm - 1), ratio = error / std::max(relative, 1e-9);
        out.worst_error = std::max(out.worst_error, error);
        if (ratio > out.worst_ratio) out.worst_place = fmt::format("{} {:.2g} %", place, 100 * error);
        out.worst_ratio = std::max(out.worst_ratio, ratio);
        // A plateau has no instant: where the field at ours is the largest to 1e-3 of itself, ours is as
        // good.
        if (!theirs.reached_at(at_s))
            out.worst_time = std::max(out.worst_time, std::abs(at_s - theirs.at_s) / theirs.at_s);
    };
    for (const auto& edge : r.edges) {
        const bool core = edge.name == "core";
        const auto last = layers.size() - 1;
        take("edge " + edge.name, edge.peak_kV_per_mm, edge.relative_error, edge.peak_time_s,
             core ? exact.peak(0, core_mm) : exact.peak(last, layers[last].outer_mm));
    }
    double inside = core_mm;
    for (std::size_t i = 0; i < layers.size(); ++i) {
        const auto& path = r.paths[i];
        take("path " + path.name, path.peak_kV_per_mm, path.peak_relative_error,
             path.samples.front().peak_time_s, exact.peak(i, inside));
        const auto &first = path.samples.front(), &end = path.samples.back();
        for (const auto* sample : {&first, &end}) {
            const auto theirs = exact.peak(i, length(sample->at));
            take("end of " + path.name, sample->E_kV_per_mm, sample->error_kV_per_mm / theirs.kV_per_mm,
                 sample->peak_time_s, theirs);
        }
        const auto& probe = r.probes[i];
        const auto theirs = exact.peak(i, length(probe.at));
        take("probe " + probe.name, probe.E_kV_per_mm, probe.error_kV_per_mm / theirs.kV_per_mm,
             probe.peak_time_s, theirs);
        inside = layers[i].outer_mm;
    }
    return out;
}

const std::vector<Layer> two{{7, 2.3, 0}, {12, 12, 0}}, three{{6, 3, 0}, {8, 20, 0}, {13, 2.5, 0}};

/// The layers with conduction, so that their slowest relaxation has this time constant.
std::vector<Layer> relaxing(std::vector<Layer> layers, double tau_s) {
    // Conduction in the second layer alone: tau = eps0 (C_2 + C_rest) / G_2.
    std::vector<double> c;
    double inside = core_mm;
    for (const auto& layer : layers) {
        c.push_back(layer.eps_r / std::log(layer.outer_mm / inside));
        inside = layer.outer_mm;
    }
    double rest = 0;
    for (std::size_t i = 0; i < c.size(); ++i)
        if (i != 1) rest += 1 / c[i];
    const double total = c[1] + 1 / rest;
    const double g = eps0_F_per_m * total / tau_s;
    layers[1].S_per_m = g * std::log(layers[1].outer_mm / layers[0].outer_mm);
    if (layers.size() > 2) layers[0].S_per_m = 0.05 * layers[1].S_per_m; // and a second, slower mode
    return layers;
}

} // namespace

class TestTransients : public QObject {
    Q_OBJECT
  private slots:
    void layers_under_impulses_follow_their_exact_equations() {
        struct Wave {
            const char* name;
            ImpulseWave wave;
        };
        const Wave waves[] = {{"1.2/50 positive", {1.2, 50, false, {}, {}}},
                              {"1.2/50 negative", {1.2, 50, true, {}, {}}},
                              {"chopped at 3 us", {1.2, 50, true, 3.0, {}}},
                              {"switching 250/2500", {250, 2500, false, {}, {}}}};
        int bad = 0, turn = 0;
        for (const auto& wave : waves)
            for (const auto* kind : {&two, &three})
                for (const double tau : {1e-8, 1e-6, 2e-5, 1e-3, 10.0}) {
                    // Every second: each wave with both kinds, each kind with every tau, each wave with every
                    // tau.
                    if (!test::whole() && turn++ % 2 != 0) continue;
                    const auto layers = relaxing(*kind, tau);
                    auto s = quarter(layers, 30);
                    s.analysis = Analysis::impulse;
                    s.impulse = wave.wave;
                    const auto r = solve(s);
                    REQUIRE_OK(r);
                    QVERIFY(r->report.error_known());
                    const auto applied = Waveform::impulse(wave.wave);
                    auto t = instants(4e-6 * wave.wave.front_us, applied.suggested_end_s());
                    for (const double at : applied.breaks_s())
                        for (int k = 0; k <= 400; ++k) t.push_back(at + 2.5e-10 * (k - 200));
                    std::sort(t.begin(), t.end());
                    t.erase(std::unique(t.begin(), t.end()), t.end());
                    std::vector<double> u;
                    for (const double at : t) u.push_back(30 * applied.at(at));
                    const auto held = hold(layers, *r, Exact(layers, t, u));
                    print(fmt::format("{}, {} layers, {:g} s", wave.name, layers.size(), tau), held, *r);
                    bad += held.worst_ratio > 1 || held.worst_error > 0.01 || held.worst_time > 0.02;
                }
        QCOMPARE(bad, 0);
    }
    void layers_under_a_direct_voltage_follow_their_exact_equations() {
        for (const auto* kind : {&two, &three})
            for (const double tau : {1e-3, 0.1, 10.0}) {
                auto layers = relaxing(*kind, tau);
                for (auto& layer : layers)
                    if (layer.S_per_m == 0)
                        layer.S_per_m = 1e-3 * layers[1].S_per_m; // at DC everything conducts
                auto s = quarter(layers, 30);
                s.analysis = Analysis::dc;
                s.dc_duration_s = 3 * tau;
                const auto r = solve(s);
                REQUIRE_OK(r);
                const auto t = instants(0.05 * tau, 3 * tau);
                const auto held = hold(layers, *r, Exact(layers, t, std::vector<double>(t.size(), 30)));
                std::printf("  step, %zu layers, %g s: worst error %.4f %%, over stated %.2f\n",
                            layers.size(), tau, 100 * held.worst_error, held.worst_ratio);
                QVERIFY(held.worst_ratio <= 1);
                QVERIFY(held.worst_error <= 0.01);
            }
    }
    void a_ramp_and_what_it_leaves_follow_their_exact_equations() {
        // Raised evenly, held, then earthed or reversed at once: charges stay, so that what is left is the
        // field at the end less once and twice that of the capacitive state (superposition).
        for (const auto* kind : {&two, &three}) {
            const double tau = 0.1;
            auto layers = relaxing(*kind, tau);
            for (auto& layer : layers)
                if (layer.S_per_m == 0) layer.S_per_m = 1e-3 * layers[1].S_per_m;
            auto s = quarter(layers, 30);
            s.analysis = Analysis::dc;
            s.dc_duration_s = 3 * tau;
            s.dc_ramp_s = tau;
            const auto r = solve(s);
            REQUIRE_OK(r);
            auto t = instants(0.05 * tau, 3 * tau);
            t.insert(std::lower_bound(t.begin(), t.end(), tau), tau);
            std::vector<double> u;
            for (const double at : t) u.push_back(30 * std::min(1.0, at / tau));
            const Exact exact(layers, t, u);
            const auto held = hold(layers, *r, exact);
            print(fmt::format("ramp, {} layers", layers.size()), held, *r);
            QVERIFY(held.worst_ratio <= 1);
            QVERIFY(held.worst_error <= 0.01);
            double inside = core_mm, sum = 0;
            std::vector<double> c;
            for (const auto& layer : layers) {
                c.push_back(layer.eps_r / std::log(layer.outer_mm / inside));
                sum += 1 / c.back();
                inside = layer.outer_mm;
            }
            QCOMPARE(r->end_states.size(), layers.size());
            inside = core_mm;
            for (std::size_t i = 0; i < layers.size(); ++i) {
                const double per_kV = 1 / (inside * std::log(layers[i].outer_mm / inside)),
                             capacitive = 30 / (c[i] * sum) * per_kV, end = exact.at_end_kV(i) * per_kV;
                const auto& state = r->end_states[i];
                for (const auto& [field, truth] :
                     {std::pair{state.end, end}, std::pair{state.earthed, end - capacitive},
                      std::pair{state.reversed, end - 2 * capacitive}}) {
                    QVERIFY2(std::abs(field.peak_kV_per_mm - std::abs(truth)) <= field.error_kV_per_mm,
                             qPrintable(QString("%1 %2 %3")
                                            .arg(field.peak_kV_per_mm)
                                            .arg(truth)
                                            .arg(field.error_kV_per_mm)));
                    QVERIFY(field.error_kV_per_mm < 0.02 * std::max(std::abs(truth), capacitive));
                }
                inside = layers[i].outer_mm;
            }
        }
    }
    void a_step_is_meshed_for_what_it_has_become_at_its_end() {
        // Of conduction far slower than the step the steady state says nothing: the layers still share the
        // voltage by their permittivities. One of the states that steer the mesh must look like the end.
        auto layers = relaxing(two, 100);
        layers[0].S_per_m = 1e-3 * layers[1].S_per_m;
        auto s = quarter(layers, 30);
        s.analysis = Analysis::dc;
        s.dc_duration_s = 5;
        const auto in_time = solve(s);
        REQUIRE_OK(in_time);
        const auto states = bounding_states(s);
        double nearest = 1e9;
        for (std::size_t k = 1; k < states.size(); ++k) { // the first is the first instant
            const auto state = solve(states[k]);
            REQUIRE_OK(state);
            const double crest = state->is_phasor() ? std::numbers::sqrt2 : 1;
            nearest = std::min(
                nearest,
                std::abs(crest * state->paths[0].peak_kV_per_mm / in_time->paths[0].peak_kV_per_mm - 1));
        }
        QVERIFY2(nearest < 0.03, qPrintable(QString::number(nearest)));
    }
    void alternating_voltage_in_time_is_the_phasor_state() {
        // A law that is as good as constant, stepped through cycles until it repeats: the crest over sqrt 2
        // is the phasor's.
        for (const double tau : {1e-4, 5e-3}) {
            auto layers = relaxing(two, tau);
            auto s = quarter(layers, 30);
            s.analysis = Analysis::complex;
            s.frequency_hz = 50;
            SolveOptions exact;
            exact.goal = 1e-3;
            const auto phasor = solve(s, exact);
            REQUIRE_OK(phasor);
            s.analysis = Analysis::nonlinear;
            s.cycles = {true, 40};
            auto& law = *s.materials["layer 2"].conduction;
            law.law = "power";
            law.E0_kV_per_mm = 1e6;
            law.exponent = 1;
            law.field = "peak";
            const auto r = solve(s);
            REQUIRE_OK(r);
            for (std::size_t k = 0; k < r->edges.size(); ++k) {
                const double error =
                    std::abs(r->edges[k].peak_kV_per_mm / phasor->edges[k].peak_kV_per_mm - 1);
                std::printf("  50 Hz, %g s, %s: %.4f %%, stated %.4f %%\n", tau, r->edges[k].name.c_str(),
                            100 * error, 100 * r->edges[k].relative_error);
                QVERIFY(error <= r->edges[k].relative_error);
            }
        }
    }
    void where_nothing_conducts_an_impulse_is_the_capacitive_field() {
        // Every reference section and demo design, live electrodes and earthed ones: both were up to 23 times
        // apart.
        int edges = 0, paths = 0;
        double worst = 0;
        for (const char* folder : {"/sections", "/designs"})
            for (const auto& file :
                 std::filesystem::directory_iterator(std::string(NEEDLEGAUGE_REFERENCE_DIR) + folder)) {
                if (file.path().extension() != ".ngsection") continue;
                std::ifstream in(file.path());
                std::stringstream text;
                text << in.rdbuf();
                auto s = *read_section_text(text.str(), file.path().filename().string());
                for (auto& [name, material] : s.materials) {
                    material.conduction.reset();
                    material.eps_r_by_frequency.clear();
                }
                s.probes.clear();
                s.analysis = Analysis::capacitive;
                SolveOptions options;
                options.goal = 0.02;
                const auto still = solve(s, options);
                REQUIRE_OK(still);
                s.analysis = Analysis::impulse;
                const auto struck = solve(s, options);
                REQUIRE_OK(struck);
                const auto take = [&](double a, double b, double stated) {
                    worst = std::max(worst, std::abs(a - b) / stated);
                };
                for (std::size_t k = 0; k < still->edges.size(); ++k) {
                    const auto &e = still->edges[k], &f = struck->edges[k];
                    if (!e.judged) continue;
                    ++edges;
                    take(e.peak_kV_per_mm, f.peak_kV_per_mm,
                         e.relative_error * e.peak_kV_per_mm + f.relative_error * f.peak_kV_per_mm);
                }
                for (std::size_t k = 0; k < still->paths.size(); ++k) {
                    const auto &p = still->paths[k], &q = struck->paths[k];
                    if (!(p.peak_kV_per_mm > 0)) continue;
                    ++paths;
                    take(p.peak_kV_per_mm, q.peak_kV_per_mm,
                         p.peak_relative_error * p.peak_kV_per_mm + q.peak_relative_error * q.peak_kV_per_mm);
                }
            }
        std::printf("  %d edges, %d paths: apart by at most %.3f of what both state\n", edges, paths, worst);
        QVERIFY(edges > 60 && paths > 60 && worst <= 1);
    }
    void a_finer_goal_states_and_makes_smaller_errors() {
        const auto layers = relaxing(three, 2e-6);
        auto s = quarter(layers, 30);
        s.analysis = Analysis::impulse;
        const auto applied = Waveform::impulse(s.impulse);
        const auto t = instants(5e-6, applied.suggested_end_s());
        std::vector<double> u;
        for (const double at : t) u.push_back(30 * applied.at(at));
        const Exact exact(layers, t, u);
        double before = 1;
        for (const double goal : {0.02, 0.003, 0.001}) {
            SolveOptions options;
            options.goal = goal;
            const auto r = solve(s, options);
            REQUIRE_OK(r);
            const auto held = hold(layers, *r, exact);
            print(fmt::format("goal {:g}", goal), held, *r);
            QVERIFY(held.worst_ratio <= 1 && held.worst_error <= goal);
            QVERIFY(r->report.worst_error < before && r->report.worst_error <= goal);
            before = r->report.worst_error;
        }
    }
    void few_states_hold_what_all_modes_of_a_mesh_tell() {
        // Every mode of a small mesh (Eigen's generalised solver for symmetric pencils) against the few
        // states, rates ten decades apart: at every node, from the first instant of a step to its end.
        auto s = *test::reference_section("conductive_tube");
        s.analysis = Analysis::dc;
        double sigma = 1e-19;
        for (auto& [name, material] : s.materials) {
            Conduction law;
            law.law = "constant";
            law.sigma0_S_per_m = sigma *= 1e5;
            material.conduction = law;
        }
        MesherOptions coarse;
        auto mesher = Mesher::create(s, coarse);
        REQUIRE_OK(mesher);
        auto made = mesher->make([](Point) { return 40.0; }, nullptr);
        REQUIRE_OK(made);
        const auto assembly =
            std::make_shared<const Assembly>(std::make_shared<const Mesh>(std::move(made->mesh)), s.symmetry);
        QVERIFY2(assembly->unknown_count() < 2500, qPrintable(QString::number(assembly->unknown_count())));
        const auto eps = permittivities(s);
        std::vector<double> rate;
        for (const auto& region : s.regions)
            rate.push_back(s.materials.at(region.material).conduction->sigma0_S_per_m / eps0_F_per_m);
        const auto [slow, fast] = std::minmax_element(rate.begin(), rate.end());
        QVERIFY(*fast > 0.9e10 * *slow);
        auto m = assembly->pattern<double>(), k = assembly->pattern<double>();
        assembly->fill<double>(eps, m);
        assembly->fill<double>(rate, k);
        LinearSystem<double> capacitive(assembly);
        capacitive.set(eps);
        QVERIFY(capacitive.factorise());
        const auto volts = conductor_voltages(s);
        const Eigen::VectorXd still = capacitive.solve(volts);
        Eigen::VectorXd flux = Eigen::VectorXd::Zero(still.size()), charge = flux;
        assembly->multiply<double>(rate, still, flux);
        assembly->multiply<double>(eps, still, charge);
        const Eigen::VectorXd drive = assembly->gather(flux);
        const double end_s = 900, size = std::sqrt(std::abs(charge.dot(still)));
        const auto wave = Waveform::direct(0);
        const Relaxation::Equations equations{assembly, eps, rate, m, k, drive};
        const Eigen::MatrixXd low_m(m), low_k(k);
        const Eigen::MatrixXd all_m = low_m.selfadjointView<Eigen::Upper>(),
                              all_k = low_k.selfadjointView<Eigen::Upper>();
        const Eigen::GeneralizedSelfAdjointEigenSolver<Eigen::MatrixXd> modes(all_k, all_m);
        const Eigen::VectorXd load = modes.eigenvectors().transpose() * drive;
        for (const auto& [tolerance, least] : {std::pair{1e-6, 5e-5}, {1e-8, 2e-6}}) {
            const auto few = Relaxation::of(equations, capacitive, wave, end_s, tolerance, size, nullptr);
            QVERIFY(few && few->converged());
            Relaxation::Course course(*few, wave, few->states().size());
            double worst = 0;
            for (double t = 1e-9 * end_s; t <= end_s; t *= 3) {
                course.go_to(t);
                Eigen::VectorXd d = Eigen::VectorXd::Zero(drive.size());
                const auto shares = course.shares();
                for (Eigen::Index i = 0; i < shares.size(); ++i)
                    d += shares[i] * few->states()[static_cast<std::size_t>(i)];
                Eigen::VectorXd share = load;
                for (Eigen::Index i = 0; i < share.size(); ++i) {
                    const double r = std::max(modes.eigenvalues()[i], 1e-300);
                    share[i] *= std::expm1(-r * t) / r;
                }
                const Eigen::VectorXd exact = modes.eigenvectors() * share;
                worst = std::max(worst, (d - exact).lpNorm<Eigen::Infinity>());
            }
            std::printf("  %zu states for %d unknowns: apart by %.2e of the voltage\n", few->states().size(),
                        assembly->unknown_count(), worst / largest_voltage_kV(s));
            QVERIFY(few->states().size() < 40);
            QVERIFY(worst < least * largest_voltage_kV(s));
        }
    }
    void states_and_steps_tell_the_same() {
        // A law of the field that is as good as constant goes the way of the steps.
        for (const auto analysis : {Analysis::dc, Analysis::impulse}) {
            auto s = *test::reference_section("conductive_tube");
            s.probes.clear();
            const bool direct = analysis == Analysis::dc;
            s.analysis = direct ? Analysis::dc : Analysis::impulse;
            if (direct) s.dc_duration_s = 900;
            double sigma = 1e-16;
            for (auto& [name, material] : s.materials)
                if (direct && !material.conduction) {
                    Conduction law;
                    law.law = "constant";
                    law.sigma0_S_per_m = sigma *= 20;
                    material.conduction = law;
                }
            SolveOptions options;
            options.goal = 0.05;
            const auto states = solve(s, options);
            REQUIRE_OK(states);
            auto& law = *std::find_if(s.materials.begin(), s.materials.end(), [](const auto& named) {
                             return named.second.conduction.has_value();
                         })->second.conduction;
            law.law = "power";
            law.E0_kV_per_mm = 1e9;
            law.exponent = 1;
            law.field = "peak";
            const auto steps = solve(s, options);
            REQUIRE_OK(steps);
            double apart = 0;
            for (std::size_t k = 0; k < states->paths.size(); ++k) {
                const auto &p = states->paths[k], &q = steps->paths[k];
                apart = std::max(apart, std::abs(p.peak_kV_per_mm - q.peak_kV_per_mm) /
                                            (p.peak_relative_error * p.peak_kV_per_mm +
                                             q.peak_relative_error * q.peak_kV_per_mm));
            }
            std::printf("  %s: peaks apart by %.3f of what both state\n", analysis_word(analysis), apart);
            QVERIFY(apart <= 1);
        }
    }
};
QTEST_APPLESS_MAIN(TestTransients)
#include "test_transients.moc"
