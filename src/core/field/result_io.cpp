#include "field/result_io.h"
#include "field/permittivity.h"
#include "units/version.h"
#include <fmt/format.h>
#include <iterator>

namespace ng {
namespace {
using nlohmann::ordered_json;

ordered_json place(Point p) {
    return ordered_json::array({p.r, p.z});
}

const char* end_word(SolveReport::End end) {
    switch (end) {
    case SolveReport::End::goal_met:
        return "goal met";
    case SolveReport::End::budget:
        return "goal not met";
    case SolveReport::End::cancelled:
        return "cancelled";
    case SolveReport::End::single_pass:
        break;
    }
    return "single pass";
}

bool transient(const Solution& solution) {
    return !solution.history.empty();
}

ordered_json error_or_null(const SolveReport& report, double error) {
    return report.error_known() ? ordered_json(error) : ordered_json();
}

ordered_json probes_json(const Solution& solution) {
    auto out = ordered_json::object();
    for (const auto& probe : solution.probes) {
        ordered_json item{{"at", place(probe.at)},
                          {"potential_kV", probe.potential_kV},
                          {"E_r_kV_per_mm", probe.field_kV_per_mm.r},
                          {"E_z_kV_per_mm", probe.field_kV_per_mm.z},
                          {"E_kV_per_mm", probe.E_kV_per_mm},
                          {"error_kV_per_mm", error_or_null(solution.report, probe.error_kV_per_mm)},
                          {"potential_error_kV", error_or_null(solution.report, probe.potential_error_kV)},
                          {"judged", probe.judged}};
        if (solution.is_phasor()) {
            item["potential_phase_deg"] = probe.potential_phase_deg;
            item["E_r_phase_deg"] = probe.E_r_phase_deg;
            item["E_z_phase_deg"] = probe.E_z_phase_deg;
        }
        if (transient(solution)) item["peak_time_s"] = probe.peak_time_s;
        if (solution.report.cycles > 0) {
            item["fundamental_kV_per_mm"] = probe.fundamental_kV_per_mm;
            item["third_harmonic"] = probe.third_harmonic;
        }
        out[probe.name] = std::move(item);
    }
    return out;
}

ordered_json paths_json(const Solution& solution) {
    auto out = ordered_json::array();
    for (const auto& path : solution.paths) {
        ordered_json item{{"name", path.name},
                          {"side", path.side},
                          {"peak_kV_per_mm", path.peak_kV_per_mm},
                          {"peak_at", place(path.peak_at)},
                          {"peak_relative_error", error_or_null(solution.report, path.peak_relative_error)},
                          {"relative_error", error_or_null(solution.report, path.relative_error)}};
        item["samples"] = ordered_json::array();
        for (const auto& s : path.samples) {
            ordered_json sample{{"s_mm", s.s_mm},
                                {"at", place(s.at)},
                                {"potential_kV", s.potential_kV},
                                {"E_t_kV_per_mm", s.E_t_kV_per_mm},
                                {"E_n_kV_per_mm", s.E_n_kV_per_mm},
                                {"E_kV_per_mm", s.E_kV_per_mm},
                                {"error_kV_per_mm", error_or_null(solution.report, s.error_kV_per_mm)},
                                {"judged", !s.near_singular}};
            if (solution.is_phasor()) {
                sample["potential_phase_deg"] = s.potential_phase_deg;
                sample["E_t_phase_deg"] = s.E_t_phase_deg;
                sample["E_n_phase_deg"] = s.E_n_phase_deg;
            }
            if (transient(solution)) sample["peak_time_s"] = s.peak_time_s;
            item["samples"].push_back(std::move(sample));
        }
        out.push_back(std::move(item));
    }
    return out;
}

ordered_json electrodes_json(const Solution& solution) {
    const bool planar = solution.symmetry == Symmetry::planar;
    auto out = ordered_json::array();
    for (const auto& c : solution.conductors) {
        ordered_json item{{"name", c.name}, {"floating", c.floating}, {"potential_kV", c.potential_kV}};
        if (c.floating && !transient(solution))
            item["potential_error_kV"] = error_or_null(solution.report, c.potential_error_kV);
        if (!transient(solution)) {
            item[planar ? "charge_C_per_m" : "charge_C"] = c.charge_C;
            item[planar ? "charge_error_C_per_m" : "charge_error_C"] =
                error_or_null(solution.report, c.charge_error_C);
            item[planar ? "current_A_per_m" : "current_A"] = c.current_A;
            item[planar ? "current_error_A_per_m" : "current_error_A"] =
                error_or_null(solution.report, c.current_error_A);
        }
        if (solution.is_phasor()) {
            item["potential_phase_deg"] = c.potential_phase_deg;
            item["charge_phase_deg"] = c.charge_phase_deg;
        }
        out.push_back(std::move(item));
    }
    return out;
}

} // namespace

const char* kind_word(Mesh::Singular::Kind kind) {
    switch (kind) {
    case Mesh::Singular::Kind::metal_corner:
        return "metal corner";
    case Mesh::Singular::Kind::triple_point:
        return "triple point";
    case Mesh::Singular::Kind::dielectric_corner:
        break;
    }
    return "dielectric corner";
}

namespace {

/// Corners within whose reach nothing is judged.
ordered_json corners_json(const Solution& solution) {
    auto out = ordered_json::array();
    for (const auto& corner : solution.corners)
        if (corner.reach_mm > 0)
            out.push_back({{"at", place(corner.at)},
                           {"reach_mm", corner.reach_mm},
                           {"kind", kind_word(corner.kind)},
                           {"order", corner.order}});
    return out;
}

ordered_json edges_json(const Solution& solution) {
    auto out = ordered_json::array();
    for (const auto& edge : solution.edges) {
        ordered_json item{{"electrode", edge.electrode}, {"name", edge.name}, {"radius_mm", edge.radius_mm}};
        if (edge.judged) {
            item["peak_kV_per_mm"] = edge.peak_kV_per_mm;
            item["peak_at"] = place(edge.peak_at);
            item["relative_error"] = error_or_null(solution.report, edge.relative_error);
            if (transient(solution)) item["peak_time_s"] = edge.peak_time_s;
        } else {
            for (const char* none : {"peak_kV_per_mm", "peak_at", "relative_error"}) item[none] = nullptr;
        }
        item["judged"] = !edge.judged ? "no" : edge.part_not_judged ? "in part" : "yes";
        out.push_back(std::move(item));
    }
    return out;
}

ordered_json matrix_json(const Eigen::MatrixXd& matrix) {
    auto rows = ordered_json::array();
    for (Eigen::Index i = 0; i < matrix.rows(); ++i) {
        auto row = ordered_json::array();
        for (Eigen::Index j = 0; j < matrix.cols(); ++j) row.push_back(matrix(i, j));
        rows.push_back(std::move(row));
    }
    return rows;
}

ordered_json end_states_json(const Solution& solution) {
    auto out = ordered_json::object();
    const auto field = [&](const EndState::Field& f) {
        return ordered_json{{"E_kV_per_mm", f.peak_kV_per_mm},
                            {"error_kV_per_mm", error_or_null(solution.report, f.error_kV_per_mm)}};
    };
    for (const auto& state : solution.end_states)
        out[state.path] = {{"end", field(state.end)},
                           {"just_after_earthing", field(state.earthed)},
                           {"just_after_reversal", field(state.reversed)}};
    return out;
}

/// What the analysis was understood to be: its settings, with those that the file left out.
ordered_json settings_json(const Section& section) {
    ordered_json out = ordered_json::object();
    if (section.analysis == Analysis::impulse) {
        const auto& wave = section.impulse;
        out = {{"front_us", wave.front_us},
               {"tail_us", wave.tail_us},
               {"polarity", wave.negative ? "negative" : "positive"}};
        if (wave.chopped_at_us) out["chopped_at_us"] = *wave.chopped_at_us;
        if (wave.duration_us) out["duration_us"] = *wave.duration_us;
    } else if (section.analysis == Analysis::nonlinear) {
        out = {{"method", section.cycles.in_time ? "time" : "phasor"}};
        if (section.cycles.in_time) out["most_cycles"] = section.cycles.most_cycles;
    } else if (section.analysis == Analysis::dc) {
        out = {{"state", section.dc_duration_s ? "on the way" : "final"}};
        if (section.dc_duration_s)
            out["duration_s"] = *section.dc_duration_s, out["ramp_s"] = section.dc_ramp_s;
    }
    if (section.analysis != Analysis::dc) out["permittivity_at_hz"] = equivalent_frequency_hz(section);
    return out;
}

ordered_json report_json(const SolveReport& r, bool transient_run) {
    ordered_json out{{"end", end_word(r.end)},
                     {"goal", r.goal},
                     {"worst_error", error_or_null(r, r.worst_error)},
                     {"passes", r.passes},
                     {"triangles", r.triangles},
                     {"unknowns", r.unknowns},
                     {"converged", r.converged}};
    if (r.iterations > 0) {
        out["newton_iterations"] = r.iterations;
        out["residual"] = r.residual;
    }
    if (transient_run) out["time_steps"] = r.time_steps;
    if (r.cycles > 0) {
        out["cycles"] = r.cycles;
        out["change_between_cycles"] = r.cycle_change;
    }
    out["notes"] = r.notes;
    out["times_s"] = {{"mesh", r.mesh_s},   {"assembly", r.assembly_s}, {"factor", r.factor_s},
                      {"solve", r.solve_s}, {"recovery", r.recovery_s}, {"sampling", r.sampling_s},
                      {"total", r.total_s}};
    return out;
}

} // namespace

const char* quantity_word(const Solution& solution) {
    if (solution.analysis == Analysis::impulse) return "impulse, largest over time";
    if (solution.analysis == Analysis::dc) return transient(solution) ? "DC, largest over time" : "DC";
    return transient(solution) ? "AC, crest over sqrt 2" : "AC rms";
}

std::string describe_end(const SolveReport& report) {
    std::string text = report.error_known()
                           ? fmt::format("{}: error {:.2g} %, goal {:g} %", end_word(report.end),
                                         100 * report.worst_error, 100 * report.goal)
                           : fmt::format("{}, error not estimated", end_word(report.end));
    if (report.iterations > 0)
        text += fmt::format("; {} iterations, residual {:.1e}", report.iterations, report.residual);
    if (report.time_steps > 0) text += fmt::format("; {} time steps", report.time_steps);
    if (report.cycles > 0) text += fmt::format(", {} cycles", report.cycles);
    return text;
}

ordered_json solution_json(const Section& section, const Solution& solution) {
    const bool planar = section.symmetry == Symmetry::planar;
    ordered_json out;
    out["format"] = "needlegauge-solution";
    out["version"] = 1;
    out["made_by"] = made_by();
    out["analysis"] = analysis_word(section.analysis);
    out["symmetry"] = planar ? "planar" : "axisymmetric";
    if (section.analysis != Analysis::impulse && section.analysis != Analysis::dc)
        out["frequency_hz"] = section.frequency_hz;
    out["settings"] = settings_json(section);
    out["quantity"] = quantity_word(solution);
    out["probes"] = probes_json(solution);
    out["paths"] = paths_json(solution);
    out["electrodes"] = electrodes_json(solution);
    out["edges"] = edges_json(solution);
    out["not_judged"] = corners_json(solution);
    if (!transient(solution)) {
        out[planar ? "energy_J_per_m" : "energy_J"] = solution.energy_J;
        out[planar ? "energy_error_J_per_m" : "energy_error_J"] =
            error_or_null(solution.report, solution.energy_error_J);
    }
    if (!solution.losses.empty()) {
        out["losses"] = ordered_json::array();
        for (const auto& loss : solution.losses) {
            ordered_json item{{"region", loss.region},
                              {planar ? "power_W_per_m" : "power_W", loss.power_W},
                              {planar ? "power_error_W_per_m" : "power_error_W",
                               error_or_null(solution.report, loss.power_error_W)}};
            if (loss.per_length_W > 0) item["power_per_length_W_per_m"] = loss.per_length_W;
            if (loss.peak_W_per_m3 > 0) item["peak_W_per_m3"] = loss.peak_W_per_m3;
            out["losses"].push_back(std::move(item));
        }
    }
    if (!solution.interface_charges.empty()) {
        out["interface_charges"] = ordered_json::array();
        for (const auto& c : solution.interface_charges)
            out["interface_charges"].push_back({{"between", {c.region_a, c.region_b}},
                                                {planar ? "charge_C_per_m" : "charge_C", c.charge_C},
                                                {planar ? "charge_error_C_per_m" : "charge_error_C",
                                                 error_or_null(solution.report, c.charge_error_C)}});
    }
    if (!solution.end_states.empty()) out["end_states"] = end_states_json(solution);
    if (solution.capacitance_F.size() > 0) {
        auto names = ordered_json::array();
        for (const auto& c : solution.conductors) names.push_back(c.name);
        out["capacitance"] = {{"conductors", names},
                              {planar ? "matrix_F_per_m" : "matrix_F", matrix_json(solution.capacitance_F)}};
        const bool known = solution.report.error_known() && solution.capacitance_error_F.size() > 0;
        out["capacitance"][planar ? "error_F_per_m" : "error_F"] =
            known ? matrix_json(solution.capacitance_error_F) : ordered_json();
    }
    if (transient(solution) && !solution.probes.empty()) {
        ordered_json t = ordered_json::array(), source = t, potential = ordered_json::object(),
                     field = potential;
        for (const auto& point : solution.history) {
            t.push_back(point.t_s);
            source.push_back(point.source);
            for (std::size_t k = 0; k < solution.probes.size(); ++k) {
                potential[solution.probes[k].name].push_back(point.probe_kV[k]);
                field[solution.probes[k].name].push_back(point.probe_kV_per_mm[k]);
            }
        }
        out["history"] = {
            {"t_s", t}, {"source", source}, {"potential_kV", potential}, {"E_kV_per_mm", field}};
    }
    out["solve"] = report_json(solution.report, transient(solution));
    return out;
}

std::string path_csv(const Solution& solution, const PathResult& path) {
    std::string out =
        "s_mm,r_mm,z_mm,potential_kV,E_t_kV_per_mm,E_n_kV_per_mm,E_kV_per_mm,error_kV_per_mm,judged";
    if (solution.is_phasor()) out += ",potential_phase_deg,E_t_phase_deg,E_n_phase_deg";
    if (transient(solution)) out += ",peak_time_s";
    out += "\r\n";
    for (const auto& s : path.samples) {
        auto put = std::back_inserter(out);
        const auto error =
            solution.report.error_known() ? fmt::format("{:.2g}", s.error_kV_per_mm) : std::string();
        fmt::format_to(put, "{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{},{}", s.s_mm, s.at.r, s.at.z,
                       s.potential_kV, s.E_t_kV_per_mm, s.E_n_kV_per_mm, s.E_kV_per_mm, error,
                       s.near_singular ? "no" : "yes");
        if (solution.is_phasor())
            fmt::format_to(put, ",{:.4g},{:.4g},{:.4g}", s.potential_phase_deg, s.E_t_phase_deg,
                           s.E_n_phase_deg);
        if (transient(solution)) fmt::format_to(put, ",{:.6g}", s.peak_time_s);
        out += "\r\n";
    }
    return out;
}

std::string solution_vtu(const Solution& solution) {
    const auto& mesh = *solution.mesh;
    std::string out;
    auto put = [&out](fmt::string_view format, auto... args) {
        fmt::vformat_to(std::back_inserter(out), format, fmt::make_format_args(args...));
    };
    put("<?xml version=\"1.0\"?>\n<VTKFile type=\"UnstructuredGrid\" version=\"0.1\" "
        "byte_order=\"LittleEndian\">\n"
        "<UnstructuredGrid>\n<Piece NumberOfPoints=\"{}\" NumberOfCells=\"{}\">\n",
        mesh.nodes.size(), mesh.triangles.size());
    put("<Points>\n<DataArray type=\"Float64\" NumberOfComponents=\"3\" format=\"ascii\">\n");
    for (const auto& p : mesh.nodes) put("{:.10g} {:.10g} 0\n", p.r, p.z);
    put("</DataArray>\n</Points>\n<Cells>\n<DataArray type=\"Int32\" Name=\"connectivity\" "
        "format=\"ascii\">\n");
    for (const auto& t : mesh.triangles) put("{} {} {} {} {} {}\n", t[0], t[1], t[2], t[3], t[4], t[5]);
    put("</DataArray>\n<DataArray type=\"Int32\" Name=\"offsets\" format=\"ascii\">\n");
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) put("{}\n", 6 * (t + 1));
    put("</DataArray>\n<DataArray type=\"UInt8\" Name=\"types\" format=\"ascii\">\n");
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) put("22\n"); // VTK_QUADRATIC_TRIANGLE
    put("</DataArray>\n</Cells>\n<PointData Scalars=\"potential_kV\">\n"
        "<DataArray type=\"Float64\" Name=\"potential_kV\" format=\"ascii\">\n");
    for (const double v : solution.potential_kV) put("{:.10g}\n", v);
    if (solution.is_phasor()) {
        put("</DataArray>\n<DataArray type=\"Float64\" Name=\"potential_imaginary_kV\" format=\"ascii\">\n");
        for (const double v : solution.imaginary_kV) put("{:.10g}\n", v);
    }
    put("</DataArray>\n</PointData>\n<CellData>\n<DataArray type=\"Float64\" Name=\"eps_r\" "
        "format=\"ascii\">\n");
    for (const int region : mesh.region) put("{:g}\n", solution.eps_r[region]);
    put("</DataArray>\n<DataArray type=\"Int32\" Name=\"region\" format=\"ascii\">\n");
    for (const int region : mesh.region) put("{}\n", region);
    put("</DataArray>\n<DataArray type=\"Float64\" Name=\"E_kV_per_mm\" NumberOfComponents=\"3\" "
        "format=\"ascii\">\n");
    const Reference centre{1.0 / 3, 1.0 / 3};
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const Point e = solution.field.at(static_cast<int>(t), centre);
        put("{:.8g} {:.8g} 0\n", e.r, e.z);
    }
    if (solution.is_phasor()) {
        put("</DataArray>\n<DataArray type=\"Float64\" Name=\"E_imaginary_kV_per_mm\" "
            "NumberOfComponents=\"3\" "
            "format=\"ascii\">\n");
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
            const Point e = solution.field.imaginary_at(static_cast<int>(t), centre);
            put("{:.8g} {:.8g} 0\n", e.r, e.z);
        }
    }
    put("</DataArray>\n<DataArray type=\"Float64\" Name=\"E_size_kV_per_mm\" format=\"ascii\">\n");
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        put("{:.8g}\n", solution.field.magnitude_at(static_cast<int>(t), centre));
    put("</DataArray>\n<DataArray type=\"Int8\" Name=\"judged\" format=\"ascii\">\n");
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        put("{}\n",
            corner_that_reaches(solution.corners, map_to_section(mesh, static_cast<int>(t), centre)) ? 0 : 1);
    put("</DataArray>\n</CellData>\n</Piece>\n</UnstructuredGrid>\n</VTKFile>\n");
    return out;
}

} // namespace ng
