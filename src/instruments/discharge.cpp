// A stand-in for a partial-discharge meter. A training aid: its pulses come from the air that the design has
// with its faults, by the same formulas that predict them; that both agree proves nothing about a cable.
#include "design/library.h"
#include "fault/answer.h"
#include "instruments/high_voltage.h"
#include "record/state.h"
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace {

/// A body of air as the meter knows it, kV rms and pC.
struct Void {
    double inception_kV, extinction_kV, charge_pC;
    bool burning = false;
};

ng::Result<std::vector<Void>> voids_of(const std::string& path, const std::string& design) {
    const auto library = ng::load_library(ng::data_folder());
    if (!library) return tl::unexpected(library.error());
    const auto job = ng::load_job(path);
    if (!job) return tl::unexpected(job.error());
    const auto* d = job->find_design(design);
    if (!d) return ng::refuse("design " + design, "it is not in the job", "Name one of the job's designs");
    std::vector<Void> out;
    if (d->faults.empty()) return out;
    const auto sound = ng::judge_sound(*job, design, *library);
    if (!sound) return tl::unexpected(sound.error());
    const auto answer = ng::judge_faults(*job, design, d->faults, *library, *sound);
    if (!answer) return tl::unexpected(answer.error());
    for (const auto& air : answer->air)
        if (std::isfinite(air.inception_kV_rms))
            out.push_back({air.inception_kV_rms, air.extinction_kV_rms, air.charge_pC});
    return out;
}

} // namespace

int main(int argc, char** argv) {
    using namespace ng::instrument;
    Manners manners;
    manners.kind = "partial-discharge meter";
    manners.unit = "pC";
    manners.uncertainty = 1;
    std::string job, design;
    double background_pC = 2, calibrator_pC = 20;
    CLI::App app{"Simulated partial-discharge meter, a training aid: pulses from the voids that a design has "
                 "with its faults."};
    app.add_option("--job", job, "Job file whose design has the faults");
    app.add_option("--design", design, "Id of the design");
    app.add_option("--background", background_pC, "Of the site, pC")->check(CLI::Range(0.0, 1e4));
    app.add_option("--calibrator", calibrator_pC, "Charge of its calibrator, pC")
        ->check(CLI::Range(0.1, 1e4));
    manners.add_to(app, "needlegauge-discharge");
    CLI11_PARSE(app, argc, argv);
    std::vector<Void> voids;
    if (!job.empty()) {
        auto found = voids_of(job, design);
        if (!found) {
            fmt::print(stderr, "{}\n", found.error().message());
            return 2;
        }
        voids = std::move(*found);
    }
    Terminal terminal(manners);
    const auto read = [&](const Instant& i) {
        Shown out{background_pC * (1 + 0.1 * terminal.chance()), "pC"};
        for (auto& v : voids) {
            v.burning = i.kV >= v.inception_kV || (v.burning && i.kV >= v.extinction_kV);
            if (!v.burning) continue;
            // Pulses where the voltage rises, more of them the higher it is.
            const int pulses = 1 + static_cast<int>(3 * i.kV / v.inception_kV);
            for (int k = 0; k < pulses; ++k) {
                const double lead = std::asin(std::min(1.0, v.inception_kV / i.kV)) * 180 / std::numbers::pi;
                const double phase = 180 * (k % 2) + lead - 30 * terminal.chance() + terminal.noise(4);
                const double charge = v.charge_pC * std::max(0.1, 1 + terminal.noise(0.1));
                out.pulses.emplace_back(std::fmod(phase + 360, 360), charge);
                out.reading = std::max(out.reading, charge);
            }
        }
        return out;
    };
    return serve_tests(terminal, 0.5, read, [&] { return calibrator_pC * (1 + terminal.noise(0.02)); });
}
