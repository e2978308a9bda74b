#include "cli/solve_calls.h"
#include "cli/answer.h"
#include "field/kept.h"
#include "field/result_io.h"
#include "io/file.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <fmt/format.h>
#include <iostream>
#include <set>
#include <sstream>

namespace ng::cli {
namespace {

using nlohmann::ordered_json;

/// "1%" or "0.01".
Result<double> parse_goal(const std::string& text) {
    auto value = parse_number(text, "%", "goal");
    if (!value) return value;
    if (!text.empty() && text.back() == '%') *value /= 100;
    if (!(*value >= 1e-5 && *value <= 0.5))
        return refuse("goal", fmt::format("{} is out of range", text), "Give 0.001% to 50%");
    return value;
}

void print_solution(const Section& section, const Solution& solution) {
    const auto& r = solution.report;
    const bool planar = section.symmetry == Symmetry::planar, in_time = !solution.history.empty();
    fmt::print("{} ({} passes, {} triangles, {} unknowns, {:.2f} s)\n", describe_end(r), r.passes,
               r.triangles, r.unknowns, r.total_s);
    for (const auto& note : r.notes) fmt::print("note: {}\n", note);
    fmt::print("{}: fields kV/mm, potentials kV, places [{}] mm\n", quantity_word(solution),
               planar ? "x, y" : "r, z");
    const auto when = [&](double t_s) {
        return in_time ? fmt::format(", at {:.4g} us", 1e6 * t_s) : std::string();
    };
    // A figure with its error, where one is known.
    const auto with_error = [&](double value, double error, const char* unit) {
        return r.error_known() ? fmt::format("{:.4g} ± {:.1g} {}", value, error, unit)
                               : fmt::format("{:.4g} {}, error not known", value, unit);
    };
    for (const auto& p : solution.paths)
        fmt::print("path {} (side {}): peak {} at [{:.3f}, {:.3f}], error {:.2g} %\n", p.name, p.side,
                   format_supported(p.peak_kV_per_mm, p.relative_error), p.peak_at.r, p.peak_at.z,
                   100 * p.relative_error);
    for (const auto& e : solution.edges) {
        fmt::print("edge {} of {}: radius {:.3g} mm, ", e.name, e.electrode, e.radius_mm);
        if (e.judged)
            fmt::print("peak {} at [{:.3f}, {:.3f}], error {:.2g} %{}{}\n",
                       format_supported(e.peak_kV_per_mm, e.relative_error), e.peak_at.r, e.peak_at.z,
                       100 * e.relative_error, when(e.peak_time_s),
                       e.part_not_judged ? "; part of it lies within the reach of a corner" : "");
        else
            fmt::print("not judged: within the reach of a corner\n");
    }
    for (const auto& p : solution.probes) {
        fmt::print("probe {}: {}, E {}{}{}", p.name, with_error(p.potential_kV, p.potential_error_kV, "kV"),
                   with_error(p.E_kV_per_mm, p.error_kV_per_mm, "kV/mm"), when(p.peak_time_s),
                   p.judged ? "" : ", not judged: within the reach of a corner");
        if (r.cycles > 0) fmt::print(", third harmonic {:.2g} %", 100 * p.third_harmonic);
        fmt::print("\n");
    }
    if (in_time) return;
    const char *coulomb = planar ? "C/m" : "C", *watt = planar ? "W/m" : "W", *farad = planar ? "F/m" : "F";
    for (const auto& c : solution.conductors)
        fmt::print("electrode {}: {:.4g} kV, charge {}, current {}\n", c.name, c.potential_kV,
                   with_error(c.charge_C, c.charge_error_C, coulomb),
                   with_error(c.current_A, c.current_error_A, planar ? "A/m" : "A"));
    for (const auto& loss : solution.losses)
        fmt::print("loss in {}: {}, at most {:.4g} W/m3\n", loss.region,
                   with_error(loss.power_W, loss.power_error_W, watt), loss.peak_W_per_m3);
    for (const auto& c : solution.interface_charges)
        fmt::print("charge between {} and {}: {}\n", c.region_a, c.region_b,
                   with_error(c.charge_C, c.charge_error_C, coulomb));
    for (Eigen::Index i = 0; i < solution.capacitance_F.rows(); ++i) {
        fmt::print("capacitance {}:", solution.conductors[i].name);
        for (Eigen::Index j = 0; j < solution.capacitance_F.cols(); ++j)
            fmt::print("{} {}", j > 0 ? "," : "",
                       with_error(solution.capacitance_F(i, j),
                                  r.error_known() ? solution.capacitance_error_F(i, j) : 0, farad));
        fmt::print("\n");
    }
    fmt::print("energy {}\n", with_error(solution.energy_J, solution.energy_error_J, planar ? "J/m" : "J"));
}

/// A file name for each path: letters and digits of its name, told apart by a number where two agree.
std::vector<std::string> file_names(const std::vector<PathResult>& paths) {
    std::vector<std::string> out;
    std::set<std::string> taken;
    for (const auto& path : paths) {
        std::string base = path.name.substr(0, 100);
        for (auto& c : base) {
            const auto byte = static_cast<unsigned char>(c);
            if (byte < 0x80 && !std::isalnum(byte)) c = '-';
        }
        auto name = base;
        for (int n = 2; !taken.insert(name).second; ++n) name = fmt::format("{}-{}", base, n);
        out.push_back(name);
    }
    return out;
}

Result<std::vector<double>> parse_frequencies(const std::string& text) {
    std::vector<double> out;
    std::stringstream words(text);
    for (std::string word; std::getline(words, word, ',');) {
        const auto value = parse_number(word, "Hz", "frequencies");
        if (!value) return tl::unexpected(value.error());
        out.push_back(*value);
    }
    if (out.empty()) return refuse("frequencies", "none is given", "Give them as 60,400,1000");
    return out;
}

/// One mesh, several frequencies: probes and path peaks of each.
int run_sweep(Section section, const SolveArguments& arguments, const SolveOptions& options) {
    const auto frequencies = parse_frequencies(arguments.frequencies);
    if (!frequencies) return complain(frequencies.error());
    section.frequency_hz = frequencies->front();
    auto kept = Kept::make(section, options);
    if (!kept) return complain(kept.error());
    auto list = ordered_json::array();
    for (const double frequency : *frequencies) {
        section.frequency_hz = frequency;
        const auto solution = kept->solve(section);
        if (!solution) return complain(solution.error());
        if (arguments.json) {
            list.push_back(solution_json(section, *solution));
        } else {
            fmt::print("--- {:g} Hz\n", frequency);
            print_solution(section, *solution);
        }
    }
    if (arguments.json) std::cout << list.dump(1) << '\n';
    return exit_holds;
}

} // namespace

int run_solve(const SolveArguments& arguments) {
    const auto text = read_file(arguments.file, most_document_bytes);
    if (!text) return complain(text.error());
    auto section = read_section_text(*text, arguments.file);
    if (!section) return complain(section.error());
    const auto goal = parse_goal(arguments.goal);
    if (!goal) return complain(goal.error());
    if (!arguments.analysis.empty()) {
        const auto wanted = analysis_from_word(arguments.analysis);
        if (!wanted)
            return complain({"--analysis", fmt::format("“{}” is no analysis", one_line(arguments.analysis)),
                             fmt::format("Give one of: {}", fmt::join(analysis_words(), ", "))});
        section->analysis = *wanted;
    }
    SolveOptions options;
    options.goal = *goal;
    options.capacitance_matrix = arguments.capacitance;
    options.threads = usable_threads();
    if (*goal < 0.005) options.most_unknowns = 600000;
    if (!arguments.frequencies.empty()) return run_sweep(*section, arguments, options);
    const auto solution = solve(*section, options);
    if (!solution) return complain(solution.error());
    if (!arguments.csv.empty()) {
        const std::filesystem::path folder = arguments.csv;
        std::error_code code;
        if (std::filesystem::create_directory(folder, code))
            fmt::print(stderr, "The folder {} is made.\n", one_line(arguments.csv));
        if (!std::filesystem::is_directory(folder, code))
            return complain({arguments.csv, "it is no folder, and none can be made there",
                             "Name a folder, or make those that it lies in first"});
        const auto names = file_names(solution->paths);
        for (std::size_t k = 0; k < names.size(); ++k)
            if (auto ok =
                    write_file_safely(folder / (names[k] + ".csv"), path_csv(*solution, solution->paths[k]));
                !ok)
                return complain(ok.error());
    }
    if (!arguments.vtu.empty())
        if (auto ok = write_output(arguments.vtu, solution_vtu(*solution)); !ok) return complain(ok.error());
    if (arguments.json)
        std::cout << solution_json(*section, *solution).dump(1) << '\n';
    else
        print_solution(*section, *solution);
    if (!solution->report.converged) {
        fmt::print(stderr, "The iteration did not converge: do not use these figures.\n");
        return exit_falls_short;
    }
    return exit_holds;
}

} // namespace ng::cli
