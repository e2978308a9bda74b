#include "field/transient.h"
#include "field/course_recorder.h"
#include "field/gradient_square.h"
#include "field/permittivity.h"
#include "field/relaxation.h"
#include "field/sundials.h"
#include "field/tuning.h"
#include "units/promise.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <ida/ida.h>
#include <numbers>
#include <sunlinsol/sunlinsol_spgmr.h>

namespace ng {
namespace {

using Vector = Eigen::VectorXd;

/// F(t, d, d') = K(eps) d' + K(sigma / eps0) V + flux(V) / eps0 over the free unknowns, V = w(t) V_cap + d,
/// for IDA.
class Motion {
  public:
    Motion(const Section& section, std::shared_ptr<const Assembly> assembly, const Waveform& wave,
           const CancelFlag* cancel)
        : assembly_(std::move(assembly)), wave_(wave), system_(assembly_, cancel),
          volts_(conductor_voltages(section)), eps_(permittivities(section)),
          laws_(section, FieldMeasure::instantaneous) {
        for (const double sigma : laws_.constant_S_per_m) rate_.push_back(sigma / eps0_F_per_m);
        elements_ = std::make_unique<NonlinearElements>(*assembly_, laws_.dependent);
        for (const double v : volts_) largest_ = std::max(largest_, std::abs(v));
        eps_matrix_ = rate_matrix_ = assembly_->pattern<double>();
        assembly_->fill<double>(eps_, eps_matrix_);
        assembly_->fill<double>(rate_, rate_matrix_);
    }

    /// Finds V_cap; false when its equations are singular.
    bool begin() {
        system_.set(eps_);
        if (!system_.factorise()) return false;
        capacitive_ = system_.solve(volts_);
        Vector f = Vector::Zero(assembly_->node_count());
        assembly_->multiply<double>(rate_, capacitive_, f);
        drive_ = assembly_->gather(f);
        return true;
    }

    /// The states that d is combined of, where conduction is constant; empty: singular or cancelled.
    std::optional<Relaxation> relaxation(double end_s, double tolerance, const CancelFlag* cancel) {
        promise(elements_->empty(), "conduction is constant");
        Vector charge = Vector::Zero(assembly_->node_count());
        assembly_->multiply<double>(eps_, capacitive_, charge);
        const Relaxation::Equations equations{assembly_, eps_, rate_, eps_matrix_, rate_matrix_, drive_};
        return Relaxation::of(equations, system_, wave_, end_s, tolerance,
                              std::sqrt(std::abs(charge.dot(capacitive_))), cancel);
    }
    bool is_linear() const { return elements_->empty(); }

    sunindextype size() const { return assembly_->unknown_count(); }
    double largest_kV() const { return largest_; }
    bool cancelled() const { return system_.cancelled(); }
    bool conducts(std::size_t region) const { return rate_[region] > 0 || laws_.dependent[region]; }
    const Vector& capacitive() const { return capacitive_; }

    /// d at every node.
    Vector spread(const Vector& d) const { return assembly_->scatter<double>(d, std::span<const double>{}); }
    Vector nodes(const Vector& d, double t) const { return wave_.at(t) * capacitive_ + spread(d); }
    /// d of given potentials at t.
    Vector difference(const Vector& nodes, double t) const {
        Vector out = Vector::Zero(assembly_->unknown_count());
        for (std::size_t node = 0; node < assembly_->unknown_of_node().size(); ++node)
            if (const int u = assembly_->unknown_of_node()[node]; u >= 0) {
                const auto i = static_cast<Eigen::Index>(node);
                out[u] = nodes[i] - wave_.at(t) * capacitive_[i];
            }
        return out;
    }
    /// d' that satisfies the equations at t.
    bool rates(double t, const Vector& d, Vector& rates) {
        system_.set(eps_);
        if (!system_.factorise()) return false;
        rates = -system_.solve_unknowns(conduction(t, d));
        return true;
    }
    /// Loss of every region at potential v, W or W/m.
    std::vector<double> loss_W(const Vector& v, const Section& section) const {
        const double to_watt = 1e3 * volts_per_unit(section.symmetry);
        std::vector<double> out(eps_.size(), 0.0);
        for (std::size_t t = 0; t < assembly_->mesh().triangles.size(); ++t) {
            const auto k = static_cast<std::size_t>(assembly_->mesh().region[t]);
            if (rate_[k] <= 0) continue;
            std::array<double, 6> local;
            for (std::size_t i = 0; i < 6; ++i) local[i] = v[assembly_->mesh().triangles[t][i]];
            out[k] += to_watt * rate_[k] * eps0_F_per_m *
                      gradient_square(*assembly_, static_cast<int>(t), local).integral;
        }
        if (!elements_->empty()) {
            const auto states = elements_->states<double>(v);
            for (std::size_t k = 0; k < out.size(); ++k)
                if (laws_.dependent[k]) out[k] = to_watt * states[k].loss;
        }
        return out;
    }

    static int residual(double t, N_Vector d, N_Vector rates, N_Vector r, void* self) {
        auto& m = *static_cast<Motion*>(self);
        if (m.cancelled()) return -1;
        auto out = map(r);
        out.noalias() = m.eps_matrix_.selfadjointView<Eigen::Upper>() * map(rates);
        out += m.conduction(t, map(d));
        return std::isfinite(out.sum()) ? 0 : 1;
    }
    static int setup(double t, N_Vector d, N_Vector, N_Vector, double cj, void* self) {
        auto& m = *static_cast<Motion*>(self);
        std::vector<double> sum;
        for (std::size_t k = 0; k < m.eps_.size(); ++k) sum.push_back(cj * m.eps_[k] + m.rate_[k]);
        m.system_.set(sum);
        if (!m.elements_->empty())
            m.elements_->add_matrix<double>(m.nodes(map(d), t), 1 / eps0_F_per_m, m.system_.matrix());
        return m.system_.factorise() ? 0 : -1;
    }
    static int precondition(double, N_Vector, N_Vector, N_Vector, N_Vector right, N_Vector out, double,
                            double, void* self) {
        auto& m = *static_cast<Motion*>(self);
        map(out) = m.system_.solve_unknowns(map(right));
        return 0;
    }
    static int jacobian_times(double t, N_Vector d, N_Vector, N_Vector, N_Vector direction, N_Vector out,
                              double cj, void* self, N_Vector, N_Vector) {
        auto& m = *static_cast<Motion*>(self);
        if (m.cancelled()) return -1;
        auto result = map(out);
        result.noalias() = m.eps_matrix_.selfadjointView<Eigen::Upper>() * map(direction);
        result *= cj;
        result += m.rate_matrix_.selfadjointView<Eigen::Upper>() * map(direction);
        if (!m.elements_->empty()) {
            Vector f = Vector::Zero(m.assembly_->node_count());
            m.elements_->add_flux_change<double>(m.nodes(map(d), t), m.spread(map(direction)),
                                                 1 / eps0_F_per_m, f);
            result += m.assembly_->gather(f);
        }
        return 0;
    }

    static Eigen::Map<Vector> map(N_Vector v) {
        return {N_VGetArrayPointer(v), static_cast<Eigen::Index>(N_VGetLength(v))};
    }

  private:
    std::shared_ptr<const Assembly> assembly_;
    const Waveform& wave_;
    LinearSystem<double> system_;
    std::vector<double> volts_, eps_, rate_; // kV; relative; sigma / eps0 in 1/s
    RegionLaws laws_;
    std::unique_ptr<NonlinearElements> elements_;
    Eigen::SparseMatrix<double> eps_matrix_, rate_matrix_;
    Vector capacitive_, drive_; // V_cap at the nodes; constant conduction's flux of it
    double largest_ = 0;

    /// Flux of conduction at the free unknowns.
    Vector conduction(double t, const Vector& d) const {
        Vector out = wave_.at(t) * drive_;
        out += rate_matrix_.selfadjointView<Eigen::Upper>() * d;
        if (!elements_->empty()) {
            Vector f = Vector::Zero(assembly_->node_count());
            elements_->add_flux<double>(nodes(d, t), 1 / eps0_F_per_m, f);
            out += assembly_->gather(f);
        }
        return out;
    }
};

/// IDA's objects, freed together.
struct Integrator {
    sundials::Context context;
    sundials::Vector d, rates, asked; ///< state, its rate, and the state at an instant asked for
    sundials::LinearSolver gmres;
    sundials::Ida ida;

    Integrator(Motion& motion, double tolerance)
        : d(motion.size(), context), rates(motion.size(), context), asked(motion.size(), context),
          gmres(SUNLinSol_SPGMR(d.get(), SUN_PREC_LEFT, 10, context.get())), ida(context) {
        using sundials::check;
        check(IDAInit(ida.get(), Motion::residual, 0, d.get(), rates.get()), "IDAInit");
        check(IDASStolerances(ida.get(), 0, tolerance * std::max(motion.largest_kV(), 1e-12)),
              "IDASStolerances");
        check(IDASetUserData(ida.get(), &motion), "IDASetUserData");
        check(IDASetLinearSolver(ida.get(), gmres.get(), nullptr), "IDASetLinearSolver");
        check(IDASetPreconditioner(ida.get(), Motion::setup, Motion::precondition), "IDASetPreconditioner");
        check(IDASetJacTimes(ida.get(), nullptr, Motion::jacobian_times), "IDASetJacTimes");
        check(IDASetMaxNumSteps(ida.get(), -1), "IDASetMaxNumSteps");
    }
    void restart(double t, const Vector& d_now, const Vector& rates_now) {
        Motion::map(d.get()) = d_now;
        Motion::map(rates.get()) = rates_now;
        sundials::check(IDAReInit(ida.get(), t, d.get(), rates.get()), "IDAReInit");
    }
    /// The state at an instant of the last step.
    Eigen::Map<Vector> at(double t) {
        sundials::check(IDAGetDky(ida.get(), t, 0, asked.get()), "IDAGetDky");
        return Motion::map(asked.get());
    }
};

/// One run: steps, and what is recorded of them.
class Run {
  public:
    Run(const Section& section, const std::shared_ptr<const Assembly>& assembly, const Readings& readings,
        const Waveform& wave, const TransientOptions& options)
        : section_(section), assembly_(assembly), readings_(readings), wave_(wave), options_(options),
          motion_(section, assembly, wave, options.cancel) {}

    TransientOutcome through(double end_s, Solution& out);

  private:
    const Section& section_;
    std::shared_ptr<const Assembly> assembly_;
    const Readings& readings_;
    const Waveform& wave_;
    const TransientOptions& options_;
    Motion motion_;
    std::unique_ptr<Integrator> integrator_;
    std::unique_ptr<CourseRecorder> recorder_;
    TransientOutcome outcome_;
    Vector d_;
    double t_ = 0;
    int steps_ = 0;

    bool going() const { return !outcome_.cancelled && !outcome_.failed; }
    void stop() {
        outcome_.cancelled = motion_.cancelled();
        outcome_.failed = !outcome_.cancelled;
    }
    void take(double t, const Vector& d) {
        recorder_->take(t, recorder_->with_source(t, readings_.read(motion_.spread(d), {})),
                        [&] { return motion_.nodes(d, t); });
    }
    /// Rates at t_, and the integrator begun there.
    void begin_at(double t);
    /// Steps to `end`; `each(t, step)` after every step, when the integrator can be asked for any instant of
    /// it.
    template <class Each> void advance(double end, Each each);
    void impulse_or_step(double end_s);
    /// The same where conduction is constant.
    void relax(double end_s, SolveReport& report);
    void cycles(Solution& out);
};

void Run::begin_at(double t) {
    Vector rates;
    if (!motion_.rates(t, d_, rates)) return stop();
    if (!integrator_) integrator_ = std::make_unique<Integrator>(motion_, options_.tolerance);
    integrator_->restart(t, d_, rates);
}

template <class Each> void Run::advance(double end, Each each) {
    sundials::check(IDASetStopTime(integrator_->ida.get(), end), "IDASetStopTime");
    while (going() && t_ < end * (1 - 1e-12)) {
        const double before = t_;
        const int flag = IDASolve(integrator_->ida.get(), end, &t_, integrator_->d.get(),
                                  integrator_->rates.get(), IDA_ONE_STEP);
        if (flag < 0 || motion_.cancelled()) return stop();
        ++steps_;
        each(t_, t_ - before);
    }
    d_ = Motion::map(integrator_->d.get());
}

void Run::impulse_or_step(double end_s) {
    auto stops = wave_.breaks_s();
    std::erase_if(stops, [&](double s) { return s >= end_s; });
    stops.push_back(end_s);
    const auto instants = wave_.instants_s(end_s);
    std::size_t next = 0;
    while (next < instants.size() && instants[next] <= 0) ++next;
    take(0, d_);
    for (std::size_t k = 0; k < stops.size() && going(); ++k) {
        if (k > 0) recorder_->begin_again(), take(t_, d_);
        begin_at(t_);
        double taken = t_ * (1 + 1e-11);
        advance(stops[k], [&](double now, double step) {
            std::vector<double> asked{now - 0.75 * step, now - 0.5 * step, now - 0.25 * step, now};
            for (; next < instants.size() && instants[next] <= now; ++next) asked.push_back(instants[next]);
            std::sort(asked.begin(), asked.end());
            for (const double t : asked)
                if (t > taken * (1 + 1e-11)) take(taken = t, integrator_->at(t));
        });
    }
}

namespace {

/// Fields at all places as they hang on the shares of states: rows r and z of the field, then potentials.
class FieldsOfStates {
  public:
    FieldsOfStates(const Readings& readings, const Motion& motion, const Relaxation& relaxation)
        : places_(readings.count()), rows_(static_cast<Eigen::Index>(3 * readings.count()),
                                           static_cast<Eigen::Index>(relaxation.states().size())) {
        Eigen::Index column = 0;
        for (const auto& state : relaxation.states()) {
            const auto read = readings.read(motion.spread(state), {});
            for (std::size_t i = 0; i < places_; ++i) {
                const auto row = static_cast<Eigen::Index>(3 * i);
                rows_(row, column) = read.field[i].r;
                rows_(row + 1, column) = read.field[i].z;
                rows_(row + 2, column) = read.potential[i];
            }
            ++column;
        }
    }
    PlaceFields at(const Vector& shares) const {
        const Vector all = rows_.leftCols(shares.size()) * shares;
        PlaceFields out;
        for (Eigen::Index row = 0; row < all.size(); row += 3) {
            out.field.push_back({all[row], all[row + 1]});
            out.potential.push_back(all[row + 2]);
        }
        return out;
    }

  private:
    std::size_t places_;
    Eigen::MatrixXd rows_;
};

} // namespace

void Run::relax(double end_s, SolveReport& report) {
    const auto found =
        motion_.relaxation(end_s, tuning::states_of_tolerance * options_.tolerance, options_.cancel);
    if (!found) return stop();
    const auto& relaxation = *found;
    const auto count = relaxation.states().size();
    const auto fewer =
        count - static_cast<std::size_t>(std::ceil(tuning::states_left_out * static_cast<double>(count)));
    const FieldsOfStates fields(readings_, motion_, relaxation);
    Relaxation::Course course(relaxation, wave_, count), rough(relaxation, wave_, fewer);
    const auto combined = [&](const Vector& shares) {
        Vector d = Vector::Zero(motion_.size());
        for (Eigen::Index k = 0; k < shares.size(); ++k)
            d += shares[k] * relaxation.states()[static_cast<std::size_t>(k)];
        return d;
    };
    PlaceErrors left_out;
    left_out.field.assign(readings_.count(), 0.0);
    left_out.potential.assign(readings_.count(), 0.0);
    auto breaks = wave_.breaks_s();
    std::size_t next_break = 0;
    for (const double t : wave_.instants_s(end_s, relaxation.fastest_per_s())) {
        if (motion_.cancelled()) return stop();
        course.go_to(t);
        rough.go_to(t);
        const Vector shares = course.shares();
        const auto of_d = fields.at(shares), of_fewer = fields.at(rough.shares());
        for (std::size_t i = 0; i < left_out.field.size(); ++i) {
            left_out.field[i] = std::max(left_out.field[i], distance(of_d.field[i], of_fewer.field[i]));
            left_out.potential[i] =
                std::max(left_out.potential[i], std::abs(of_d.potential[i] - of_fewer.potential[i]));
        }
        const auto nodes = [&] { return motion_.nodes(combined(shares), t); };
        recorder_->take(t, recorder_->with_source(t, of_d), nodes);
        if (next_break < breaks.size() && t >= breaks[next_break] * (1 - 1e-11)) {
            ++next_break;
            recorder_->begin_again();
            recorder_->take(t, recorder_->with_source(t, of_d), nodes);
        }
        t_ = t;
        ++steps_;
    }
    d_ = combined(course.shares());
    const double share = std::min(1.0, tuning::left_out_weight * relaxation.left_of(fewer));
    for (auto* errors : {&left_out.field, &left_out.potential})
        for (double& error : *errors) error *= share;
    if (!relaxation.converged()) {
        report.error_is_known = false;
        report.notes.push_back(fmt::format(
            "the course in time could not be combined of {} states to its tolerance: its error is not known",
            count));
    }
    outcome_.left_out = std::move(left_out);
}

void Run::cycles(Solution& out) {
    const double period = 1 / section_.frequency_hz;
    constexpr int samples = 128; // even, for the harmonics
    // Even samples of what repeats itself: their mean is the mean over the cycle but for the harmonics of
    // their number.
    constexpr int samples_of_loss = 32;
    if (options_.start_kV) {
        const auto& mesh = assembly_->mesh();
        d_ = motion_.difference(
            options_.start_mesh == &mesh
                ? *options_.start_kV
                : Eigen::VectorXd(carried_over(*options_.start_mesh, *options_.start_kV, mesh)),
            0);
    }
    std::vector<double> loss(section_.regions.size(), 0.0);
    Envelope before;
    out.report.converged = false;
    begin_at(0);
    for (int cycle = 1; cycle <= section_.cycles.most_cycles && going(); ++cycle) {
        recorder_->begin_cycle();
        std::fill(loss.begin(), loss.end(), 0.0);
        std::vector<PlaceFields> even;
        const double begin = (cycle - 1) * period;
        double taken = begin;
        advance(cycle * period, [&](double now, double) {
            for (;;) {
                const double next = begin + period * static_cast<double>(even.size() + 1) / samples;
                if (even.size() >= samples || next > now * (1 + 1e-12)) break;
                const Vector d = integrator_->at(std::min(next, now));
                if (next > taken) take(taken = next, d);
                const Vector nodes = motion_.nodes(d, next);
                even.push_back(recorder_->fields(nodes));
                if (even.size() % (samples / samples_of_loss) != 0) continue;
                const auto watts = motion_.loss_W(nodes, section_);
                for (std::size_t k = 0; k < loss.size(); ++k) loss[k] += watts[k] / samples_of_loss;
            }
        });
        if (!going()) break;
        out.report.cycles = cycle;
        out.report.cycle_change =
            before.peaks.empty() ? 1 : largest_change(readings_, before, recorder_->envelope());
        before = recorder_->envelope();
        find_harmonics(readings_, even, out);
        if (out.report.cycle_change < options_.repeats) {
            out.report.converged = true;
            break;
        }
    }
    if (!out.report.converged && going())
        out.report.notes.push_back(
            fmt::format("the peaks still change by {:.2g} % from cycle to cycle after {} cycles",
                        100 * out.report.cycle_change, out.report.cycles));
    outcome_.envelope = recorder_->envelope();
    for (auto& peak : outcome_.envelope.peaks) { // rms figures, like all AC
        peak.size /= std::numbers::sqrt2;
        peak.tangential /= std::numbers::sqrt2;
        peak.normal /= std::numbers::sqrt2;
        peak.potential /= std::numbers::sqrt2;
        peak.field = (1 / std::numbers::sqrt2) * peak.field;
        peak.t_s -= (out.report.cycles - 1) * period;
    }
    out.losses.clear();
    for (std::size_t k = 0; k < loss.size(); ++k)
        if (motion_.conducts(k)) out.losses.push_back({section_.regions[k].name, loss[k], 0, 0, 0});
}

TransientOutcome Run::through(double end_s, Solution& out) {
    const bool ac = section_.analysis == Analysis::nonlinear;
    out.symmetry = section_.symmetry;
    out.analysis = section_.analysis;
    out.linear = !section_.depends_on_field();
    out.mesh = assembly_->mesh_pointer();
    out.region_names.clear();
    for (const auto& region : section_.regions) out.region_names.push_back(region.name);
    out.eps_r = permittivities(section_);
    d_ = Vector::Zero(motion_.size());
    if (!motion_.begin()) {
        stop();
        return outcome_;
    }
    recorder_ = std::make_unique<CourseRecorder>(readings_, motion_.capacitive(), wave_);
    if (ac)
        cycles(out);
    else if (motion_.is_linear())
        relax(end_s, out.report);
    else
        impulse_or_step(end_s);
    if (!ac) outcome_.envelope = recorder_->envelope();
    outcome_.reached_s = t_;
    out.report.time_steps = steps_;
    if (!going()) return outcome_;
    outcome_.end_kV = motion_.nodes(d_, t_);
    outcome_.roughness = readings_.roughness(readings_.read(recorder_->shown, {}), recorder_->shown, {});
    if (ac)
        for (auto& r : outcome_.roughness) r /= std::numbers::sqrt2;
    outcome_.scale = recorder_->capacitive_at(ac ? 1 : wave_.crest());
    for (std::size_t place = 0; place < outcome_.scale.field.size(); ++place) {
        auto& field = outcome_.scale.field[place];
        field = std::max(field, outcome_.envelope.peaks[place].size);
        auto& potential = outcome_.scale.potential[place];
        potential = std::max(potential, std::abs(outcome_.envelope.peaks[place].potential));
    }
    const auto harmonics = out.probes; // found on the way
    report_envelope(readings_, outcome_.envelope, out);
    for (std::size_t k = 0; k < harmonics.size() && k < out.probes.size(); ++k)
        out.probes[k].third_harmonic = harmonics[k].third_harmonic,
        out.probes[k].fundamental_kV_per_mm = harmonics[k].fundamental_kV_per_mm;
    out.history = std::move(recorder_->history);
    out.potential_kV = recorder_->shown;
    out.imaginary_kV.resize(0);
    out.shown_at_s = recorder_->shown_at_s;
    if (section_.analysis == Analysis::dc) {
        out.interface_charges = interface_charges(section_, *assembly_, outcome_.end_kV);
        out.end_states = recorder_->end_states(outcome_.end_kV);
    }
    out.conductors.clear();
    const auto volts = conductor_voltages(section_);
    const auto& mesh = assembly_->mesh();
    for (std::size_t c = 0; c < mesh.conductors.size(); ++c) {
        ConductorResult result;
        result.name = mesh.conductors[c].name;
        result.floating = mesh.conductors[c].floating;
        result.potential_kV = volts[c] * (ac ? 1.0 : wave_.crest());
        const auto node = std::find(mesh.conductor.begin(), mesh.conductor.end(), static_cast<int>(c));
        if (result.floating && node != mesh.conductor.end())
            result.potential_kV =
                out.potential_kV[node - mesh.conductor.begin()] / (ac ? std::numbers::sqrt2 : 1.0);
        out.conductors.push_back(result);
    }
    return outcome_;
}

} // namespace

TransientOutcome run_transient(const Section& section, const std::shared_ptr<const Assembly>& assembly,
                               const Readings& readings, const Waveform& waveform, double end_s,
                               const TransientOptions& options, Solution& out) {
    promise(!options.start_kV || options.start_mesh, "potentials to begin from come with their mesh");
    promise(options.tolerance > 0, "the integrator's tolerance is above 0");
    return Run(section, assembly, readings, waveform, options).through(end_s, out);
}

} // namespace ng
