// Rung 5: the same sections solved by two general-purpose finite-element programs from Debian, FreeFem++
// (4.11) and GetDP (3.2), with their own mesh (Gmsh) and elements. reference.py makes the references; stored/
// keeps their figures for machines without the programs. With NEEDLEGAUGE_STORE_REFERENCES set, fresh figures
// replace the stored ones.
#include "io/file.h"
#include "support.h"
#include <QProcess>
#include <QStandardPaths>
#include <map>

using namespace ng;

namespace {

struct Figures {
    std::map<std::string, std::pair<double, double>> probes; ///< |V|, |E|
    std::map<std::string, double> edges;
};

Figures read_figures(const QString& text) {
    Figures out;
    for (const auto& line : text.split('\n')) {
        const auto words = line.trimmed().split('|');
        if (words.size() == 4 && words[0] == "probe")
            out.probes[words[1].toStdString()] = {words[2].toDouble(), words[3].toDouble()};
        if (words.size() == 3 && words[0] == "edge") out.edges[words[1].toStdString()] = words[2].toDouble();
    }
    return out;
}

QString stored_name(const QString& name, const QString& program) {
    return QString(NEEDLEGAUGE_REFERENCE_DIR "/stored/%1.%2.txt").arg(name, program);
}

} // namespace

class TestPrograms : public QObject {
    Q_OBJECT
    std::map<QString, Solution> solved_;

    const Solution* ours(const QString& name, const QString& file, double factor, double frequency) {
        const auto known = solved_.find(name);
        if (known != solved_.end()) return &known->second;
        const auto path = QString(NEEDLEGAUGE_REFERENCE_DIR "/sections/%1.ngsection").arg(file).toStdString();
        const auto text = read_file(path);
        if (!text) return nullptr;
        auto section = read_section_text(*text, path);
        if (!section) return nullptr;
        for (auto& e : section->electrodes) e.voltage_kV *= factor;
        for (auto& b : section->boundaries) b.voltage_kV *= factor;
        section->frequency_hz = frequency;
        auto r = solve(*section);
        if (!r || r->report.end != SolveReport::End::goal_met || !r->report.converged) return nullptr;
        return &solved_.emplace(name, std::move(*r)).first->second;
    }

    void compare(const Solution& solution, const Figures& theirs, const QString& program) {
        QCOMPARE(theirs.probes.size(), solution.probes.size());
        double volts = 0;
        for (const auto& c : solution.conductors) volts = std::max(volts, std::abs(c.potential_kV));
        std::printf("  %-20s %12s %12s %9s   %s\n", "place", "ours", qPrintable(program), "differs",
                    "allowed");
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
            QVERIFY(row(probe.name + " V", probe.potential_kV, v, volts, 0.001));
            QVERIFY(row(probe.name + " E", probe.E_kV_per_mm, e, e, 0.01));
        }
        for (const auto& edge : solution.edges)
            QVERIFY(
                row(edge.name, edge.peak_kV_per_mm, theirs.edges.at(edge.name), edge.peak_kV_per_mm, 0.02));
    }

  private slots:
    void agrees_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("file");
        QTest::addColumn<QString>("program");
        QTest::addColumn<double>("factor");
        QTest::addColumn<double>("frequency");
        const auto add = [](const char* name, const char* file, double factor, double frequency, bool both) {
            for (const char* program : {"freefem", "getdp"})
                if (both || std::string(program) == "freefem")
                    QTest::addRow("%s, %s", name, program)
                        << QString(name) << QString(file) << QString(program) << factor << frequency;
        };
        add("bare_cutback", "bare_cutback", 1, 60, true);
        add("graded_tube", "graded_tube", 1, 60, true);
        add("wedge_under_tube", "wedge_under_tube", 1, 60, true);
        add("cone_body", "cone_body", 1, 60, false);
        add("joint", "joint", 1, 60, false);
        add("field_dependent_tube_low", "field_dependent_tube", 0.5, 60, false);
        add("field_dependent_tube", "field_dependent_tube", 1, 60, false);
        add("field_dependent_tube_high", "field_dependent_tube", 3, 60, false);
        add("conductive_tube_60Hz", "conductive_tube", 1, 60, true);
        add("conductive_tube_250kHz", "conductive_tube", 1, 250e3, true);
    }
    void agrees() {
        QFETCH(QString, name);
        QFETCH(QString, file);
        QFETCH(QString, program);
        QFETCH(double, factor);
        QFETCH(double, frequency);
        const auto* solution = ours(name, file, factor, frequency);
        QVERIFY2(solution, "our own solution was not reached");
        const bool store = qEnvironmentVariableIsSet("NEEDLEGAUGE_STORE_REFERENCES");
        if (!store) {
            const auto text = read_file(stored_name(name, program).toStdString());
            REQUIRE_OK(text);
            std::printf("  stored:\n");
            compare(*solution, read_figures(QString::fromStdString(*text)), program);
        }
        if (QStandardPaths::findExecutable(program == "freefem" ? "FreeFem++-nw" : "getdp").isEmpty() ||
            !QFile::exists("/usr/lib/python3/dist-packages/gmsh.py"))
            return; // not installed here: the stored figures were compared
        QProcess process;
        process.start("/usr/bin/python3",
                      {NEEDLEGAUGE_REFERENCE_DIR "/reference.py",
                       QString(NEEDLEGAUGE_REFERENCE_DIR "/sections/%1.ngsection").arg(file), program,
                       "--voltage-factor", QString::number(factor), "--frequency",
                       QString::number(frequency)});
        QVERIFY(process.waitForFinished(240000));
        const auto text = QString::fromUtf8(process.readAllStandardOutput());
        QVERIFY2(process.exitCode() == 0, process.readAllStandardError().constData());
        std::printf("  run now:\n");
        compare(*solution, read_figures(text), program);
        if (store)
            REQUIRE_OK(write_file_safely(stored_name(name, program).toStdString(), text.toStdString()));
    }
};
QTEST_GUILESS_MAIN(TestPrograms)
#include "test_programs.moc"
