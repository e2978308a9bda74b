#include "field/transient.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <complex>
#include <fmt/format.h>
#include <ida/ida.h>
#include <numbers>
#include <nvector/nvector_serial.h>
#include <sunlinsol/sunlinsol_spgmr.h>

namespace ng {
namespace {

using Vector = Eigen::VectorXd;

void silent(int, const char*, const char*, char*, void*) {}

/// F(t, V, V') = K(eps) V' + K(sigma / eps0) V + flux(V) / eps0 over the free unknowns, for IDA.
class Motion {
  public:
    Motion(const Section& section, std::shared_ptr<const Assembly> assembly, const Waveform& wave,
           const CancelFlag* cancel)
        : assembly_(assembly), wave_(wave), system_(assembly, cancel), volts_(conductor_voltages(section)),
          laws_(section, FieldMeasure::instantaneous) {
        for (std::size_t k = 0; k < section.regions.size(); ++k) {
            eps_.push_back(section.materials.at(section.regions[k].material).eps_r);
            rate_.push_back(laws_.constant_S_per_m[k] / eps0_F_per_m);
        }
        elements_ = std::make_unique<NonlinearElements>(*assembly_, laws_.dependent);
        for (std::size_t c = 0; c < volts_.size(); ++c) largest_ = std::max(largest_, std::abs(volts_[c]));
    }

    sunindextype size() const { return assembly_->unknown_count(); }
    double largest_kV() const { return largest_; }
    bool cancelled() const { return system_.cancelled(); }

    Vector nodes(const Vector& unknowns, double t) const {
        return assembly_->scatter<double>(unknowns, held(wave_.at(t)));
    }
    Vector gather_start(const Vector& per_node) const {
        Vector out = Vector::Zero(assembly_->unknown_count());
        for (std::size_t node = 0; node < assembly_->unknown_of_node().size(); ++node)
            if (const int u = assembly_->unknown_of_node()[node]; u >= 0)
                out[u] = per_node[static_cast<Eigen::Index>(node)];
        return out;
    }
    /// Potentials as if nothing conducted, at wave factor 1.
    bool capacitive(Vector& unknowns) {
        system_.set(eps_);
        if (!system_.factorise()) return false;
        unknowns = gather_start(system_.solve(held(1.0)));
        return true;
    }
    /// V' that satisfies the equations at t (rates just after it).
    bool rates(double t, const Vector& y, Vector& yp) {
        system_.set(eps_);
        if (!system_.factorise()) return false;
        const double after = t * (1 + 1e-12) + 1e-18;
        const Vector none = Vector::Zero(y.size());
        Vector f = Vector::Zero(assembly_->node_count());
        assembly_->multiply<double>(eps_, assembly_->scatter<double>(none, held(wave_.rate(after))), f);
        conduct(nodes(y, t), f);
        yp = -system_.solve_unknowns(assembly_->gather(f));
        return true;
    }

    static int residual(double t, N_Vector y, N_Vector yp, N_Vector r, void* self) {
        auto& m = *static_cast<Motion*>(self);
        if (m.cancelled()) return -1;
        Vector f = Vector::Zero(m.assembly_->node_count());
        m.assembly_->multiply<double>(
            m.eps_, m.assembly_->scatter<double>(map(yp, m.size()), m.held(m.wave_.rate(t))), f);
        m.conduct(m.nodes(map(y, m.size()), t), f);
        if (!std::isfinite(f.sum())) return 1;
        map(r, m.size()) = m.assembly_->gather(f);
        return 0;
    }
    static int setup(double t, N_Vector y, N_Vector, N_Vector, double cj, void* self) {
        auto& m = *static_cast<Motion*>(self);
        std::vector<double> sum;
        for (std::size_t k = 0; k < m.eps_.size(); ++k) sum.push_back(cj * m.eps_[k] + m.rate_[k]);
        m.system_.set(sum);
        m.elements_->add_matrix<double>(m.nodes(map(y, m.size()), t), 1 / eps0_F_per_m, m.system_.matrix());
        return m.system_.factorise() ? 0 : -1;
    }
    static int precondition(double, N_Vector, N_Vector, N_Vector, N_Vector right, N_Vector out, double,
                            double, void* self) {
        auto& m = *static_cast<Motion*>(self);
        map(out, m.size()) = m.system_.solve_unknowns(map(right, m.size()));
        return 0;
    }
    static int jacobian_times(double t, N_Vector y, N_Vector, N_Vector, N_Vector direction, N_Vector out,
                              double cj, void* self, N_Vector, N_Vector) {
        auto& m = *static_cast<Motion*>(self);
        if (m.cancelled()) return -1;
        const Vector w = m.assembly_->scatter<double>(map(direction, m.size()), std::span<const double>{});
        std::vector<double> sum;
        for (std::size_t k = 0; k < m.eps_.size(); ++k) sum.push_back(cj * m.eps_[k] + m.rate_[k]);
        Vector f = Vector::Zero(m.assembly_->node_count());
        m.assembly_->multiply<double>(sum, w, f);
        if (!m.elements_->empty())
            m.elements_->add_flux_change<double>(m.nodes(map(y, m.size()), t), w, 1 / eps0_F_per_m, f);
        map(out, m.size()) = m.assembly_->gather(f);
        return 0;
    }
    /// Loss of every region at potential v, W or W/m.
    std::vector<double> loss_W(const Vector& v, const Section& section) const {
        std::vector<double> out(eps_.size(), 0.0);
        const double to_watt = 1e3 * volts_per_unit(section.symmetry);
        std::vector<double> only(eps_.size(), 0.0);
        for (std::size_t k = 0; k < eps_.size(); ++k) {
            if (rate_[k] <= 0) continue;
            only.assign(eps_.size(), 0.0);
            only[k] = rate_[k] * eps0_F_per_m;
            Vector f = Vector::Zero(v.size());
            assembly_->multiply<double>(only, v, f);
            out[k] = to_watt * f.dot(v);
        }
        if (!elements_->empty()) {
            const auto states = elements_->states<double>(v);
            for (std::size_t k = 0; k < out.size(); ++k)
                if (laws_.dependent[k]) out[k] = to_watt * states[k].loss;
        }
        return out;
    }
    bool conducts(std::size_t region) const { return rate_[region] > 0 || laws_.dependent[region]; }

    using Map = Eigen::Map<Vector>;
    static Map map(N_Vector y, sunindextype size) {
        return {N_VGetArrayPointer(y), static_cast<Eigen::Index>(size)};
    }

  private:
    std::shared_ptr<const Assembly> assembly_;
    const Waveform& wave_;
    LinearSystem<double> system_;
    std::vector<double> volts_, eps_, rate_; // kV; relative; sigma / eps0 in 1/s
    RegionLaws laws_;
    std::unique_ptr<NonlinearElements> elements_;
    double largest_ = 0;

    std::vector<double> held(double factor) const {
        std::vector<double> out(volts_);
        for (auto& v : out) v *= factor;
        return out;
    }
    void conduct(const Vector& v, Vector& f) const {
        assembly_->multiply<double>(rate_, v, f);
        if (!elements_->empty()) elements_->add_flux<double>(v, 1 / eps0_F_per_m, f);
    }
};

/// IDA's objects, freed together.
struct Integrator {
    SUNContext context = nullptr;
    N_Vector y = nullptr, yp = nullptr;
    SUNLinearSolver gmres = nullptr;
    void* ida = nullptr;

    Integrator(Motion& motion, double relative_tolerance) {
        SUNContext_Create(nullptr, &context);
        y = N_VNew_Serial(motion.size(), context);
        yp = N_VNew_Serial(motion.size(), context);
        N_VConst(0, y);
        N_VConst(0, yp);
        ida = IDACreate(context);
        IDASetErrHandlerFn(ida, silent, nullptr);
        IDAInit(ida, Motion::residual, 0, y, yp);
        IDASStolerances(ida, relative_tolerance,
                        0.1 * relative_tolerance * std::max(motion.largest_kV(), 1e-12));
        IDASetUserData(ida, &motion);
        gmres = SUNLinSol_SPGMR(y, SUN_PREC_LEFT, 10, context);
        IDASetLinearSolver(ida, gmres, nullptr);
        IDASetPreconditioner(ida, Motion::setup, Motion::precondition);
        IDASetJacTimes(ida, nullptr, Motion::jacobian_times);
        IDASetMaxNumSteps(ida, -1);
    }
    Integrator(const Integrator&) = delete;
    Integrator& operator=(const Integrator&) = delete;
    ~Integrator() {
        IDAFree(&ida);
        SUNLinSolFree(gmres);
        N_VDestroy(y);
        N_VDestroy(yp);
        SUNContext_Free(&context);
    }
};

/// Keeps the envelope, the history and the state of the largest path field.
class Recorder {
  public:
    Recorder(const Readings& readings, const Motion& motion, const Waveform& wave)
        : readings_(readings), motion_(motion), wave_(wave) {}

    void take(double t, const Vector& unknowns) {
        const Vector v = motion_.nodes(unknowns, t);
        const auto fields = readings_.read(v, {});
        readings_.update(envelope, t, fields);
        history.push_back(readings_.history_at(t, wave_.at(t), fields));
        if (const double most = readings_.largest(fields); most > largest_) {
            largest_ = most;
            shown = v;
            shown_at_s = t;
        }
    }
    void begin_cycle() {
        envelope = {};
        history.clear();
        largest_ = -1;
    }
    Envelope envelope;
    std::vector<HistoryPoint> history;
    Vector shown;
    double shown_at_s = 0;

  private:
    const Readings& readings_;
    const Motion& motion_;
    const Waveform& wave_;
    double largest_ = -1;
};

/// Change of all peaks from one cycle to the next, relative to the largest of each path.
double change_of(const Readings& readings, const Envelope& before, const Envelope& now) {
    return before.peaks.empty() ? 1 : readings.largest_change(before, now);
}

} // namespace

TransientOutcome run_transient(const Section& section, const std::shared_ptr<const Assembly>& assembly,
                               const Readings& readings, const Waveform& waveform, double end_s,
                               const Solution* start, const TransientOptions& options, Solution& out) {
    TransientOutcome outcome;
    Motion motion(section, assembly, waveform, options.cancel);
    const auto& mesh = assembly->mesh();
    out.symmetry = section.symmetry;
    out.analysis = section.analysis;
    out.linear = !section.depends_on_field();
    out.mesh = assembly->mesh_pointer();
    out.region_names.clear();
    out.eps_r.clear();
    for (const auto& region : section.regions) {
        out.region_names.push_back(region.name);
        out.eps_r.push_back(section.materials.at(region.material).eps_r);
    }

    Vector y = Vector::Zero(motion.size()), yp;
    const bool cycles = section.analysis == "nonlinear";
    if (cycles && start) { // sqrt 2 Im(V exp(j w t)) at t = 0, the sine's own phase
        const Vector at_zero = start->imaginary_kV.size() > 0
                                   ? Vector(std::numbers::sqrt2 * start->imaginary_kV)
                                   : Vector(Vector::Zero(start->potential_kV.size()));
        y = motion.gather_start(start->mesh.get() == &mesh ? at_zero
                                                           : carried_over(*start->mesh, at_zero, mesh));
    } else if (section.analysis == "dc" && !motion.capacitive(y)) {
        return {motion.cancelled(), !motion.cancelled(), 0};
    }
    if (!motion.rates(0, y, yp)) return {motion.cancelled(), !motion.cancelled(), 0};

    Integrator integrator(motion, options.relative_tolerance);
    const auto size = motion.size();
    auto restart = [&](double t) {
        Motion::map(integrator.y, size) = y;
        Motion::map(integrator.yp, size) = yp;
        IDAReInit(integrator.ida, t, integrator.y, integrator.yp);
    };
    Recorder recorder(readings, motion, waveform);
    std::vector<double> loss(section.regions.size(), 0.0);
    double t = 0;
    int steps = 0;
    restart(0);
    recorder.take(0, y);

    /// Steps to `stop`, taking every step and its middle.
    auto advance = [&](double stop, auto each) {
        IDASetStopTime(integrator.ida, stop);
        N_Vector middle = N_VClone(integrator.y);
        while (t < stop * (1 - 1e-12)) {
            const double before = t;
            const int flag = IDASolve(integrator.ida, stop, &t, integrator.y, integrator.yp, IDA_ONE_STEP);
            if (flag < 0 || motion.cancelled()) {
                outcome.cancelled = motion.cancelled();
                outcome.failed = !outcome.cancelled;
                break;
            }
            ++steps;
            const double half = 0.5 * (before + t);
            if (IDAGetDky(integrator.ida, half, 0, middle) == 0) each(half, 0.0, Motion::map(middle, size));
            each(t, t - before, Motion::map(integrator.y, size));
        }
        N_VDestroy(middle);
        y = Motion::map(integrator.y, size);
        return !outcome.cancelled && !outcome.failed;
    };

    if (!cycles) {
        auto stops = waveform.breaks_s();
        std::erase_if(stops, [&](double s) { return s >= end_s; });
        stops.push_back(end_s);
        for (std::size_t k = 0; k < stops.size(); ++k) {
            if (!advance(stops[k], [&](double when, double, const Vector& now) { recorder.take(when, now); }))
                break;
            if (k + 1 == stops.size()) break;
            if (!motion.rates(t, y, yp)) {
                outcome.cancelled = motion.cancelled();
                outcome.failed = !outcome.cancelled;
                break;
            }
            restart(t);
        }
    } else {
        const double period = 1 / section.frequency_hz;
        constexpr double repeats = 1e-3;
        constexpr int samples = 128; // even, for the harmonics
        Envelope before;
        out.report.converged = false;
        N_Vector at = N_VClone(integrator.y);
        for (int cycle = 1; cycle <= section.cycles.most_cycles; ++cycle) {
            recorder.begin_cycle();
            std::fill(loss.begin(), loss.end(), 0.0);
            std::vector<PlaceFields> even;
            const double begin = (cycle - 1) * period;
            const bool went = advance(cycle * period, [&](double when, double step, const Vector& now) {
                recorder.take(when, now);
                if (step <= 0) return;
                const auto watts = motion.loss_W(motion.nodes(now, when), section);
                for (std::size_t k = 0; k < loss.size(); ++k) loss[k] += watts[k] * step / period;
                while (even.size() < samples) {
                    const double next = begin + period * static_cast<double>(even.size() + 1) / samples;
                    if (next > when * (1 + 1e-12)) break;
                    IDAGetDky(integrator.ida, std::min(next, when), 0, at);
                    even.push_back(readings.read(motion.nodes(Motion::map(at, size), next), {}));
                }
            });
            if (!went) break;
            out.report.cycles = cycle;
            out.report.cycle_change = change_of(readings, before, recorder.envelope);
            before = recorder.envelope;
            readings.harmonics(even, out);
            if (out.report.cycle_change < repeats) {
                out.report.converged = true;
                break;
            }
        }
        N_VDestroy(at);
        if (!out.report.converged && !outcome.cancelled && !outcome.failed)
            out.report.notes.push_back(
                fmt::format("the peaks still change by {:.2g} % from cycle to cycle after {} cycles",
                            100 * out.report.cycle_change, out.report.cycles));
        for (auto& peak : recorder.envelope.peaks) { // rms figures, like all AC
            peak.size /= std::numbers::sqrt2;
            peak.tangential /= std::numbers::sqrt2;
            peak.normal /= std::numbers::sqrt2;
            peak.potential /= std::numbers::sqrt2;
            peak.field = (1 / std::numbers::sqrt2) * peak.field;
            peak.t_s -= (out.report.cycles - 1) * period;
        }
        out.losses.clear();
        for (std::size_t k = 0; k < loss.size(); ++k)
            if (motion.conducts(k)) out.losses.push_back({section.regions[k].name, loss[k], 0, 0});
    }
    outcome.reached_s = t;
    out.report.time_steps = steps;
    if (outcome.cancelled) return outcome;
    const auto thirds = out.probes; // harmonics found on the way
    readings.report(recorder.envelope, out);
    for (std::size_t k = 0; k < thirds.size() && k < out.probes.size(); ++k)
        out.probes[k].third_harmonic = thirds[k].third_harmonic,
        out.probes[k].fundamental_kV_per_mm = thirds[k].fundamental_kV_per_mm;
    out.history = std::move(recorder.history);
    out.potential_kV = recorder.shown;
    out.imaginary_kV.resize(0);
    out.shown_at_s = recorder.shown_at_s;
    if (section.analysis == "dc")
        out.interface_charges = interface_charges(section, *assembly, motion.nodes(y, t));
    out.conductors.clear();
    const auto volts = conductor_voltages(section);
    for (std::size_t c = 0; c < mesh.conductors.size(); ++c) {
        ConductorResult result;
        result.name = mesh.conductors[c].name;
        result.floating = mesh.conductors[c].floating;
        result.potential_kV = volts[c] * (cycles ? 1.0 : waveform.crest());
        for (std::size_t node = 0; result.floating && node < mesh.nodes.size(); ++node)
            if (mesh.conductor[node] == static_cast<int>(c)) {
                result.potential_kV =
                    out.potential_kV[static_cast<Eigen::Index>(node)] / (cycles ? std::numbers::sqrt2 : 1.0);
                break;
            }
        out.conductors.push_back(result);
    }
    return outcome;
}

} // namespace ng
