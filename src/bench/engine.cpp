#include "bench/engine.h"
#include "field/kept.h"
#include "field/readings.h"
#include "field/steady.h"
#include "io/file.h"
#include "mesh/mesher.h"
#include <algorithm>
#include <chrono>
#include <fmt/format.h>
#include <future>
#include <map>
#include <sstream>

namespace ng::bench {
namespace {

Section section_of(const std::string& name) {
    const auto file = std::string(NEEDLEGAUGE_REFERENCE_DIR) + "/sections/" + name + ".ngsection";
    return *read_section_text(*read_file(file, most_document_bytes), file);
}

/// |E| at the probes as another program found it.
std::map<std::string, double> stored_fields(const std::string& name) {
    std::map<std::string, double> out;
    std::stringstream lines(
        *read_file(std::string(NEEDLEGAUGE_REFERENCE_DIR) + "/stored/" + name, most_table_bytes));
    for (std::string line; std::getline(lines, line);) {
        std::vector<std::string> words;
        std::stringstream parts(line);
        for (std::string word; std::getline(parts, word, '|');) words.push_back(word);
        if (words.size() == 4) out[words[1]] = std::stod(words[3]);
    }
    return out;
}

template <class Job> double median_seconds(int runs, Job job) {
    std::vector<double> all;
    for (int i = 0; i < runs; ++i) {
        Stopwatch watch;
        job();
        all.push_back(watch.lap());
    }
    std::sort(all.begin(), all.end());
    return all[all.size() / 2];
}

std::string run_program(const std::string& command) {
    std::string out;
    FILE* pipe = popen(command.c_str(), "r");
    if (!pipe) return out;
    char buffer[4096];
    while (const auto n = fread(buffer, 1, sizeof buffer, pipe)) out.append(buffer, n);
    pclose(pipe);
    return out;
}

} // namespace

void against_freefem() {
    fmt::print("\ngraded tube, worst error of |E| at nine probes (against GetDP's figures), one thread each\n"
               "  {:<22} {:>9} {:>9} {:>9}\n",
               "", "unknowns", "error", "seconds");
    const auto truth = stored_fields("graded_tube.getdp.txt");
    const auto section = section_of("graded_tube");
    double ours_s = 0, theirs_s = 0;
    for (int passes = 1; passes <= 4; ++passes) {
        SolveOptions options;
        options.goal = 1e-9;
        options.most_passes = passes;
        if (passes == 1) options.most_passes = 1;
        Result<Solution> r = solve(section, options);
        const double seconds = median_seconds(5, [&] { r = solve(section, options); });
        double worst = 0;
        for (const auto& p : r->probes)
            worst = std::max(worst, std::abs(p.E_kV_per_mm / truth.at(p.name) - 1));
        fmt::print("  {:<22} {:>9} {:>8.3f}% {:>9.3f}\n", fmt::format("ours, {} passes", passes),
                   r->report.unknowns, 100 * worst, seconds);
        if (ours_s == 0 && worst < 0.01) ours_s = seconds;
    }
    if (std::system("command -v FreeFem++-nw >/dev/null 2>&1") != 0) {
        fmt::print("  FreeFem++ is not installed here\n");
        return;
    }
    std::stringstream lines(
        run_program("OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 FreeFem++-nw -v 0 " NEEDLEGAUGE_BENCH_DIR
                    "/graded_tube_adapted.edp"));
    double seconds = 0, worst = 0;
    int unknowns = 0, pass = 0;
    auto close = [&] {
        if (pass == 0) return;
        fmt::print("  {:<22} {:>9} {:>8.3f}% {:>9.3f}\n", fmt::format("FreeFem++, pass {}", pass), unknowns,
                   100 * worst, seconds);
        if (theirs_s == 0 && worst < 0.01) theirs_s = seconds;
        worst = 0;
    };
    for (std::string line; std::getline(lines, line);) {
        std::vector<std::string> words;
        std::stringstream parts(line);
        for (std::string word; std::getline(parts, word, '|');) words.push_back(word);
        if (words.size() == 3 && words[0] == "pass") {
            close();
            ++pass;
            seconds = std::stod(words[1]);
            unknowns = std::stoi(words[2]);
        } else if (words.size() == 4 && words[0] == "probe") {
            worst = std::max(worst, std::abs(std::stod(words[3]) / truth.at(words[1]) - 1));
        }
    }
    close();
    if (ours_s > 0 && theirs_s > 0)
        fmt::print("  time to 1 % at the probes: ours {:.3f} s, FreeFem++ {:.3f} s (its start not counted): "
                   "{:.1f} times\n",
                   ours_s, theirs_s, theirs_s / ours_s);
}

namespace {

/// Solves on a uniform mesh and reads it.
Solution on_uniform_mesh(const Section& section, double size_mm) {
    MesherOptions options;
    options.most_triangles = 2000000;
    options.region_weights = {region_weights(section)};
    auto mesher = Mesher::create(section, options);
    const SizeField uniform = [size_mm](Point) { return size_mm; };
    auto made = mesher->make(uniform, nullptr);
    const auto assembly = std::make_shared<const Assembly>(
        std::make_shared<const Mesh>(std::move(made->mesh)), section.symmetry);
    SteadyModel model(assembly);
    Solution out;
    model.solve(section, nullptr, out);
    const auto plan = std::make_shared<const ReadingPlan>(ReadingPlan::of(section, assembly->mesh()));
    const auto readings =
        *Readings::make(std::make_shared<const Section>(section), plan, assembly->mesh_pointer());
    readings.report(readings.read(out.potential_kV, out.imaginary_kV), out);
    out.report.unknowns = assembly->unknown_count();
    return out;
}

} // namespace

void convergence() {
    fmt::print("section,mesh,unknowns,probe_error,edge_error\n");
    for (const char* name : {"graded_tube", "bare_cutback", "conductive_tube"}) {
        const auto section = section_of(name);
        SolveOptions finest;
        finest.goal = 1e-9;
        finest.most_passes = 6;
        finest.most_unknowns = 300000;
        const auto truth = solve(section, finest);
        auto row = [&](const char* mesh, const Solution& r) {
            double probe = 0, edge = 0;
            for (std::size_t k = 0; k < r.probes.size(); ++k)
                probe = std::max(probe, std::abs(r.probes[k].E_kV_per_mm / truth->probes[k].E_kV_per_mm - 1));
            for (std::size_t k = 0; k < r.edges.size(); ++k)
                edge =
                    std::max(edge, std::abs(r.edges[k].peak_kV_per_mm / truth->edges[k].peak_kV_per_mm - 1));
            fmt::print("{},{},{},{:.4g},{:.4g}\n", name, mesh, r.report.unknowns, probe, edge);
        };
        for (const double size : {8.0, 4.0, 2.0, 1.0}) row("uniform", on_uniform_mesh(section, size));
        for (int passes = 1; passes <= 5; ++passes) {
            SolveOptions options;
            options.goal = 1e-9;
            options.most_passes = passes;
            row("adaptive", *solve(section, options));
        }
    }
}

void growth() {
    fmt::print("\ngraded tube, uniform meshes, capacitive, one thread; seconds\n"
               "  {:>9} {:>8} {:>9} {:>8} {:>8} {:>9} {:>8} {:>14}\n",
               "unknowns", "mesh", "assembly", "factor", "solve", "recovery", "total", "us per unknown");
    const auto section = section_of("graded_tube");
    for (const double size : {4.5, 2.2, 0.95, 0.7, 0.4}) {
        MesherOptions mesher_options;
        mesher_options.most_triangles = 2000000;
        Stopwatch watch;
        auto mesher = Mesher::create(section, mesher_options);
        const SizeField uniform = [size](Point) { return size; };
        auto made = mesher->make(uniform, nullptr);
        const auto mesh = std::make_shared<const Mesh>(std::move(made->mesh));
        const double mesh_s = watch.lap();
        const auto assembly = std::make_shared<const Assembly>(mesh, section.symmetry);
        LinearSystem<double> system(assembly);
        std::vector<double> eps;
        for (const auto& r : section.regions) eps.push_back(section.materials.at(r.material).eps_r);
        system.set(eps);
        const double assembly_s = watch.lap();
        system.factorise();
        const double factor_s = watch.lap();
        const auto v = system.solve(conductor_voltages(section));
        const double solve_s = watch.lap();
        averaged_field(*mesh, assembly->layout(), v, {});
        const double recovery_s = watch.lap();
        const double total = mesh_s + assembly_s + factor_s + solve_s + recovery_s;
        fmt::print("  {:>9} {:>8.2f} {:>9.2f} {:>8.2f} {:>8.2f} {:>9.2f} {:>8.2f} {:>14.1f}\n",
                   assembly->unknown_count(), mesh_s, assembly_s, factor_s, solve_s, recovery_s, total,
                   1e6 * total / assembly->unknown_count());
    }
}

void analyses() {
    fmt::print("\nother analyses to 1 % at paths and edges, one thread\n");
    const auto line = [](const char* what, const Section& section) {
        Result<Solution> r = Solution{};
        const double seconds = median_seconds(3, [&] { r = solve(section); });
        fmt::print("  {:<52} {:>7.2f} s  {}, {} unknowns\n", what, seconds,
                   r ? end_words(r->report) : r.error().message(), r ? r->report.unknowns : 0);
    };
    auto conductive = section_of("conductive_tube"), dependent = section_of("field_dependent_tube");
    line("conductive tube, 60 Hz", conductive);
    line("field-dependent tube, exponent 4, steady AC", dependent);
    auto in_time = dependent;
    in_time.cycles.in_time = true;
    line("the same over cycles to the periodic state", in_time);
    auto impulse = dependent;
    impulse.analysis = Analysis::impulse;
    for (auto& e : impulse.electrodes)
        if (e.voltage_kV > 0) e.voltage_kV = 110;
    line("the same, impulse 1.2/50 us of 110 kV", impulse);

    // Frequencies on one mesh beside solving each afresh.
    const std::vector<double> frequencies{0.1, 1, 10, 60, 1e3, 1e4, 1e5, 1e6};
    auto kept = Kept::make(conductive);
    const double on_one_mesh = median_seconds(3, [&] {
        for (const double f : frequencies) {
            conductive.frequency_hz = f;
            (void)kept->solve(conductive);
        }
    });
    std::vector<Section> all;
    for (const double f : frequencies) {
        all.push_back(conductive);
        all.back().frequency_hz = f;
    }
    const double afresh = median_seconds(3, [&] {
        for (const auto& s : all) (void)solve(s);
    });
    const double on_all_cores = median_seconds(3, [&] { (void)solve_many(all); });
    fmt::print("  eight frequencies: on one kept mesh {:.2f} s, each afresh {:.2f} s, afresh on all cores "
               "{:.2f} s\n",
               on_one_mesh, afresh, on_all_cores);
}

void cancelling() {
    auto section = section_of("graded_tube");
    std::vector<double> delays;
    for (int i = 0; i < 20; ++i) {
        CancelFlag flag{false};
        SolveOptions options;
        options.goal = 1e-5;
        options.most_unknowns = 800000;
        options.most_passes = 12;
        options.cancel = &flag;
        auto running = std::async(std::launch::async, [&] { (void)solve(section, options); });
        std::this_thread::sleep_for(std::chrono::milliseconds(100 + 173 * i));
        if (running.wait_for(std::chrono::seconds(0)) == std::future_status::ready) break;
        Stopwatch watch;
        flag = true;
        running.get();
        delays.push_back(1e3 * watch.lap());
    }
    std::sort(delays.begin(), delays.end());
    if (!delays.empty())
        fmt::print("\ncancelling a large solve at {} moments: median {:.0f} ms, worst {:.0f} ms\n",
                   delays.size(), delays[delays.size() / 2], delays.back());
}

std::string end_words(const SolveReport& report) {
    return fmt::format("error {:.2f} %{}{}", 100 * report.worst_error,
                       report.time_steps > 0 ? fmt::format(", {} steps", report.time_steps) : "",
                       report.cycles > 0 ? fmt::format(", {} cycles", report.cycles) : "");
}

} // namespace ng::bench
