// Figures of another program beside ours.
#pragma once
#include "support.h"
#include <map>

namespace ng::test {

struct Figures {
    std::map<std::string, std::pair<double, double>> probes; ///< |V|, |E|
    std::map<std::string, double> edges;
};

inline Figures read_figures(const QString& text) {
    Figures out;
    for (const auto& line : text.split('\n')) {
        const auto words = line.trimmed().split('|');
        if (words.size() == 4 && words[0] == "probe")
            out.probes[words[1].toStdString()] = {words[2].toDouble(), words[3].toDouble()};
        if (words.size() == 3 && words[0] == "edge") out.edges[words[1].toStdString()] = words[2].toDouble();
    }
    return out;
}

inline bool has_singular_point(const Mesh& mesh, const std::string& arc_name) {
    for (const auto& edge : mesh.arcs)
        for (const auto& corner : mesh.singular)
            if (edge.name == arc_name && corner.strong() &&
                std::abs(distance(corner.at, edge.arc.centre) - edge.arc.radius_mm) < 1e-3)
                return true;
    return false;
}

inline void compare_figures(const Solution& solution, const Figures& theirs, const QString& program) {
    QCOMPARE(theirs.probes.size(), solution.probes.size());
    double volts = 0;
    for (const auto& c : solution.conductors) volts = std::max(volts, std::abs(c.potential_kV));
    std::printf("  %-20s %12s %12s %9s   %s\n", "place", "ours", qPrintable(program), "differs", "allowed");
    const auto row = [](const std::string& name, double a, double b, double scale, double tolerance) {
        const double difference = std::abs(a - b) / scale;
        std::printf("  %-20s %12.6f %12.6f %8.3f %%   %.1f %%\n", name.c_str(), a, b, 100 * difference,
                    100 * tolerance);
        return difference <= tolerance;
    };
    // Potentials 0.1 % of the voltage and fields 1 % away from edges: both programs have converged beyond
    // that; at a rounded edge 2 %, what straight chords and the extrapolation onto the arc leave to the
    // other program.
    for (const auto& probe : solution.probes) {
        const auto& [v, e] = theirs.probes.at(probe.name);
        QVERIFY(row(probe.name + " V", std::abs(probe.potential_kV), v, volts, 0.001)); // theirs is a size
        QVERIFY(row(probe.name + " E", probe.E_kV_per_mm, e, e, 0.01));
    }
    // Unnamed arcs are not read by the other program; on an arc with a point of unbounded field no two
    // programs agree, and nothing is judged within its reach.
    for (const auto& edge : solution.edges)
        if (const auto it = theirs.edges.find(edge.name);
            it != theirs.edges.end() && !has_singular_point(*solution.mesh, edge.name))
            QVERIFY(row(edge.name, edge.peak_kV_per_mm, it->second, edge.peak_kV_per_mm, 0.02));
}

} // namespace ng::test
