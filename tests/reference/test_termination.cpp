// Rung 5: the same section solved by a general-purpose finite-element program from Debian (FreeFem++ 4.11)
// with its own mesh and elements. graded_tube.edp makes the reference; graded_tube.stored.txt keeps its
// figures for machines without it.
#include "io/file.h"
#include "support.h"
#include <QProcess>
#include <QStandardPaths>
#include <map>

using namespace ng;

namespace {

struct StoredFigures {
    std::map<std::string, std::array<double, 3>> probes; ///< potential, E_r, E_z
    std::map<std::string, double> edges;
};

StoredFigures read_reference(const QString& text) {
    StoredFigures out;
    for (const auto& line : text.split('\n')) {
        const auto words = line.trimmed().split('|');
        if (words.size() == 5 && words[0] == "probe")
            out.probes[words[1].toStdString()] = {words[2].toDouble(), words[3].toDouble(),
                                                  words[4].toDouble()};
        if (words.size() == 3 && words[0] == "edge") out.edges[words[1].toStdString()] = words[2].toDouble();
    }
    return out;
}

} // namespace

class TestTermination : public QObject {
    Q_OBJECT
    Solution ours_;

    void compare_with(const StoredFigures& theirs) {
        QCOMPARE(theirs.probes.size(), std::size_t(9));
        std::printf("  %-12s %12s %12s %9s   %s\n", "place", "ours", "FreeFem++", "differs", "tolerance");
        const auto row = [](const std::string& name, double a, double b, double scale, double tolerance) {
            const double difference = std::abs(a - b) / scale;
            std::printf("  %-12s %12.6f %12.6f %8.3f %%   %.1f %%\n", name.c_str(), a, b, 100 * difference,
                        100 * tolerance);
            return difference <= tolerance;
        };
        for (const auto& probe : ours_.probes) {
            const auto& [v, er, ez] = theirs.probes.at(probe.name);
            const double e = std::hypot(er, ez);
            // Away from edges both have converged to far below 1 %, the agreement asked for.
            QVERIFY(row(probe.name + " V", probe.potential_kV, v, 10, 0.001));
            QVERIFY(row(probe.name + " E", length(probe.field_kV_per_mm), e, e, 0.01));
        }
        for (const auto& edge : ours_.edges) // a 0.3 mm rounded edge: 2 %
            QVERIFY(
                row(edge.name, edge.peak_kV_per_mm, theirs.edges.at(edge.name), edge.peak_kV_per_mm, 0.02));
    }

  private slots:
    void initTestCase() {
        const auto text = read_file(NEEDLEGAUGE_REFERENCE_DIR "/graded_tube.ngsection");
        REQUIRE_OK(text);
        const auto section = read_section_text(*text, "graded_tube.ngsection");
        REQUIRE_OK(section);
        auto r = solve(*section);
        REQUIRE_OK(r);
        QCOMPARE(r->report.end, SolveReport::End::goal_met);
        ours_ = std::move(*r);
    }
    void agrees_with_the_stored_reference() {
        const auto text = read_file(NEEDLEGAUGE_REFERENCE_DIR "/graded_tube.stored.txt");
        REQUIRE_OK(text);
        compare_with(read_reference(QString::fromStdString(*text)));
    }
    void agrees_with_the_reference_program_run_now() {
        const auto program = QStandardPaths::findExecutable("FreeFem++-nw");
        if (program.isEmpty())
            QSKIP("FreeFem++ is not installed here: the stored reference was compared instead");
        QProcess process;
        process.start(program, {"-v", "0", NEEDLEGAUGE_REFERENCE_DIR "/graded_tube.edp"});
        QVERIFY(process.waitForFinished(240000));
        compare_with(read_reference(QString::fromUtf8(process.readAllStandardOutput())));
    }
};
QTEST_GUILESS_MAIN(TestTermination)
#include "test_termination.moc"
