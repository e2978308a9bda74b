#include "field/result_io.h"
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
        return "budget ended";
    case SolveReport::End::cancelled:
        return "cancelled";
    case SolveReport::End::single_pass:
        break;
    }
    return "single pass";
}

} // namespace

std::string describe_end(const SolveReport& report) {
    if (!report.error_known()) return fmt::format("{}, error not estimated", end_word(report.end));
    return fmt::format("{}: error {:.2g} %, goal {:g} %", end_word(report.end), 100 * report.worst_error,
                       100 * report.goal);
}

ordered_json solution_json(const Section& section, const Solution& solution) {
    ordered_json out;
    out["format"] = "needlegauge-solution";
    out["version"] = 1;
    out["analysis"] = section.analysis;
    out["symmetry"] = section.symmetry == Symmetry::planar ? "planar" : "axisymmetric";
    out["quantity"] = "AC rms";
    out["probes"] = ordered_json::object();
    for (const auto& probe : solution.probes)
        out["probes"][probe.name] = {{"at", place(probe.at)},
                                     {"potential_kV", probe.potential_kV},
                                     {"E_r_kV_per_mm", probe.field_kV_per_mm.r},
                                     {"E_z_kV_per_mm", probe.field_kV_per_mm.z},
                                     {"E_kV_per_mm", length(probe.field_kV_per_mm)}};
    out["paths"] = ordered_json::array();
    for (const auto& path : solution.paths) {
        ordered_json item{{"name", path.name},
                          {"side", path.side},
                          {"peak_kV_per_mm", path.peak_kV_per_mm},
                          {"peak_at", place(path.peak_at)},
                          {"relative_error", solution.report.error_known() ? ordered_json(path.relative_error)
                                                                           : ordered_json()}};
        item["samples"] = ordered_json::array();
        for (const auto& s : path.samples)
            item["samples"].push_back({{"s_mm", s.s_mm},
                                       {"at", place(s.at)},
                                       {"potential_kV", s.potential_kV},
                                       {"E_t_kV_per_mm", s.E_t_kV_per_mm},
                                       {"E_n_kV_per_mm", s.E_n_kV_per_mm},
                                       {"E_kV_per_mm", s.E_kV_per_mm}});
        out["paths"].push_back(std::move(item));
    }
    out["electrodes"] = ordered_json::array();
    for (const auto& c : solution.conductors)
        out["electrodes"].push_back(
            {{"name", c.name},
             {"floating", c.floating},
             {"potential_kV", c.potential_kV},
             {section.symmetry == Symmetry::planar ? "charge_C_per_m" : "charge_C", c.charge_C}});
    out["edges"] = ordered_json::array();
    for (const auto& edge : solution.edges)
        out["edges"].push_back(
            {{"electrode", edge.electrode},
             {"name", edge.name},
             {"radius_mm", edge.radius_mm},
             {"peak_kV_per_mm", edge.peak_kV_per_mm},
             {"peak_at", place(edge.peak_at)},
             {"relative_error",
              solution.report.error_known() ? ordered_json(edge.relative_error) : ordered_json()}});
    out[section.symmetry == Symmetry::planar ? "energy_J_per_m" : "energy_J"] = solution.energy_J;
    const auto& r = solution.report;
    out["solve"] = {{"end", end_word(r.end)},
                    {"goal", r.goal},
                    {"worst_error", r.error_known() ? ordered_json(r.worst_error) : ordered_json()},
                    {"passes", r.passes},
                    {"triangles", r.triangles},
                    {"unknowns", r.unknowns},
                    {"times_s",
                     {{"mesh", r.mesh_s},
                      {"assembly", r.assembly_s},
                      {"factor", r.factor_s},
                      {"solve", r.solve_s},
                      {"recovery", r.recovery_s},
                      {"sampling", r.sampling_s},
                      {"total", r.total_s}}}};
    return out;
}

std::string path_csv(const PathResult& path) {
    std::string out =
        "s_mm,r_mm,z_mm,potential_kV,E_t_kV_per_mm,E_n_kV_per_mm,E_kV_per_mm,error_kV_per_mm\r\n";
    for (const auto& s : path.samples)
        fmt::format_to(std::back_inserter(out), "{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.2g}\r\n",
                       s.s_mm, s.at.r, s.at.z, s.potential_kV, s.E_t_kV_per_mm, s.E_n_kV_per_mm,
                       s.E_kV_per_mm, s.error_kV_per_mm);
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
    put("</DataArray>\n</PointData>\n<CellData>\n<DataArray type=\"Float64\" Name=\"eps_r\" "
        "format=\"ascii\">\n");
    for (const int region : mesh.region) put("{:g}\n", solution.eps_r[static_cast<std::size_t>(region)]);
    put("</DataArray>\n<DataArray type=\"Int32\" Name=\"region\" format=\"ascii\">\n");
    for (const int region : mesh.region) put("{}\n", region);
    put("</DataArray>\n<DataArray type=\"Float64\" Name=\"E_kV_per_mm\" NumberOfComponents=\"3\" "
        "format=\"ascii\">\n");
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const Point e = solution.recovered.at(static_cast<int>(t), {1.0 / 3, 1.0 / 3});
        put("{:.8g} {:.8g} 0\n", e.r, e.z);
    }
    put("</DataArray>\n</CellData>\n</Piece>\n</UnstructuredGrid>\n</VTKFile>\n");
    return out;
}

} // namespace ng
