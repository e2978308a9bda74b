// needlegauge-bench: the figures that a user feels, printed. Medians of repeated runs on the demo job.
// Targets are in docs/benchmarks.md.
#include "app/application.h"
#include "app/main_window.h"
#include "app/strips/build_strip.h"
#include "app/strips/stress_strip.h"
#include "bench/engine.h"
#include "draw/loupe_picture.h"
#include "field/near.h"
#include "field/solve.h"
#include "units/parallel.h"
#include "units/version.h"
#include "verdict/levels.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <chrono>
#include <fmt/format.h>
#include <functional>
#include <memory>
#include <sys/resource.h>
#include <thread>

namespace {
using namespace ng;

struct Spread {
    double median, worst;
};
Spread spread(std::vector<double> values) {
    std::sort(values.begin(), values.end());
    return {values[values.size() / 2], values.back()};
}

double peak_memory_MB() {
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    return static_cast<double>(usage.ru_maxrss) / 1024;
}

/// Of all threads.
double processor_ms() {
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    const auto ms = [](const timeval& t) {
        return 1e3 * static_cast<double>(t.tv_sec) + 1e-3 * static_cast<double>(t.tv_usec);
    };
    return ms(usage.ru_utime) + ms(usage.ru_stime);
}

/// Medians of repeated solves, and the report of the last.
struct Timed {
    std::vector<double> ms;
    SolveReport report;
    template <class Solve> void run(Solve solve) {
        QElapsedTimer timer;
        timer.start();
        report = solve();
        ms.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    }
    Spread spread() const { return ::spread(ms); }
};

/// Coarse; as the window refines it (what checks read to 1 %, what is only drawn to 3 %, every level and
/// planar section); and all that is read to 1 %, with charges and energy, on one thread.
void bench_solves(const Job& job, const Library& library) {
    fmt::print(
        "{} threads, and one\n{:<20} {:>16} {:>9} | {:>16} {:>9} {:>6} {:>7} | {:>16} {:>9} {:>6} {:>7}\n",
        usable_threads(), "design", "coarse ms", "unknowns", "as the window", "unknowns", "passes", "error",
        "all to 1 %", "unknowns", "passes", "error");
    for (const auto& design : job.designs) {
        Timed coarse, window, all;
        for (int i = 0; i < 21; ++i) {
            const auto prepare = [&] { return *prepare_design(job, design.id, library); };
            SolveOptions options;
            options.threads = usable_threads();
            coarse.run([&] { // building the section belongs to the answer
                auto quick = options;
                quick.coarse = true;
                return solve(prepare().built.section, quick)->report;
            });
            if (i % 3) continue;
            const auto prepared = prepare();
            window.run([&] {
                return solve_levels(prepared.built, prepared.design.duty, prepared.levels, options)
                    ->at_u0.report;
            });
            all.run([&] { return solve(prepared.built.section)->report; });
        }
        const auto c = coarse.spread(), w = window.spread(), a = all.spread();
        fmt::print("{:<20} {:>7.1f} /{:>7.1f} {:>9} | {:>7.0f} /{:>7.0f} {:>9} {:>6} {:>5.2f} % | "
                   "{:>7.0f} /{:>7.0f} {:>9} {:>6} {:>5.2f} %\n",
                   design.id, c.median, c.worst, coarse.report.unknowns, w.median, w.worst,
                   window.report.unknowns, window.report.passes, 100 * window.report.worst_error, a.median,
                   a.worst, all.report.unknowns, all.report.passes, 100 * all.report.worst_error);
        const auto& t = all.report;
        fmt::print("{:<20} of the last, ms: mesh {:.0f}, assembly {:.0f}, factor {:.0f}, solve {:.0f}, "
                   "recovery {:.0f}, sampling {:.0f}\n",
                   "", 1e3 * t.mesh_s, 1e3 * t.assembly_s, 1e3 * t.factor_s, 1e3 * t.solve_s,
                   1e3 * t.recovery_s, 1e3 * t.sampling_s);
    }
    fmt::print("peak memory after solving: {:.0f} MB\n", peak_memory_MB());
}

/// Takes events until `done`, asleep between them as a window is, so that the cores stay with the workers.
/// `stretches` gets the ms of each round of events: for so long the window answers nothing else.
void take_events_until(const std::function<bool()>& done, int at_most_ms, std::vector<double>& stretches) {
    QElapsedTimer all, stretch;
    all.start();
    while (!done() && all.elapsed() < at_most_ms) {
        stretch.start();
        QApplication::processEvents(QEventLoop::AllEvents, 2);
        stretches.push_back(static_cast<double>(stretch.nsecsElapsed()) / 1e6);
        if (!done()) std::this_thread::sleep_for(std::chrono::microseconds(100));
    }
}

/// A scripted drag of the screen edge: from each mouse move to the painted trace of its solution.
void bench_drag(app::MainWindow& window) {
    auto& session = window.session();
    if (!QTest::qWaitFor([&] { return session.is_current() && !session.solved()->coarse; }, 30000)) return;
    auto* build = window.build_strip();
    const auto at = build->handle_place("screen_edge_mm").toPoint();
    std::vector<double> delays, stretches;
    const double begun_ms = processor_ms();
    QTest::mousePress(build, Qt::LeftButton, {}, at);
    // 12 mm towards the cable and back, a pixel a move: every move changes the design.
    const int reach = static_cast<int>(12 * session.axis.scale());
    for (int i = 1; i < 2 * reach; ++i) {
        bool painted = false;
        const auto link = QObject::connect(window.stress_strip(), &app::StressStrip::painted,
                                           [&] { painted = painted || session.is_current(); });
        QElapsedTimer timer;
        timer.start();
        QTest::mouseMove(build, at + QPoint(i <= reach ? -i : i - 2 * reach, 0));
        take_events_until([&] { return painted || !session.prepared(); }, 5000, stretches);
        delays.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
        QObject::disconnect(link);
    }
    const double taken_ms = processor_ms() - begun_ms;
    QTest::mouseRelease(build, Qt::LeftButton, {}, at);
    const auto d = spread(delays), s = spread(stretches);
    fmt::print("drag of the screen edge, mouse move to painted trace: median {:.1f} ms, worst {:.1f} ms ({} "
               "moves, {:.1f} ms of processor time each)\n",
               d.median, d.worst, delays.size(), taken_ms / static_cast<double>(delays.size()));
    fmt::print("longest stretch in which the window does not answer: {:.0f} ms\n", s.worst);
}

/// Frames of the loupe at the screen edge and along the tube, and the solution made for a place.
void bench_loupe(const Job& job, const Library& library) {
    fmt::print("{:<16} {:>26} {:>30}\n", "loupe", "frame of 350 px, ms med/worst",
               "solved for 2 mm, ms med/worst");
    for (const auto& design : job.designs) {
        const auto prepared = prepare_design(job, design.id, library);
        if (!prepared) continue;
        const auto solved = solve(prepared->built.section);
        if (!solved) continue;
        const Point edge{prepared->dimensions.radius_mm("insulation"), first_screen_edge_z(prepared->built)};
        std::vector<double> frames, near;
        for (const double across : {60.0, 12.0, 2.0, 0.3, 0.05})
            for (int i = 0; i < 5; ++i) {
                draw::LoupeLook look;
                look.centre = {edge.r, edge.z + 0.2 * across * i};
                look.across_mm = across;
                QElapsedTimer timer;
                timer.start();
                draw::loupe_picture(*prepared, *solved, look, 350, draw::Theme::light());
                frames.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
            }
        for (int i = 0; i < 5; ++i) {
            QElapsedTimer timer;
            timer.start();
            if (solve_near(prepared->built.section, {edge.r, edge.z + 10.0 * i}, 1, 0.01))
                near.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
        }
        if (near.empty()) continue;
        const auto f = spread(frames), n = spread(near);
        fmt::print("{:<16} {:>17.1f} / {:>6.1f} {:>21.0f} / {:>6.0f}\n", design.id, f.median, f.worst,
                   n.median, n.worst);
    }
}

/// A window with a job, the demo's where `path` is empty, and its first solution painted.
std::unique_ptr<app::MainWindow> shown_window(const Library& library, const QString& path) {
    auto out = std::make_unique<app::MainWindow>(library,
                                                 path.isEmpty() ? app::MainWindow::demo_path(library) : path);
    auto& window = *out;
    window.set_ask_before_closing(false);
    if (path.isEmpty())
        window.open_demo();
    else
        window.open_file(path);
    window.show();
    bool shown = false;
    QObject::connect(window.stress_strip(), &app::StressStrip::painted,
                     [&] { shown = shown || window.session().solved(); });
    QElapsedTimer timer;
    timer.start();
    while (!shown && timer.elapsed() < 20000) QApplication::processEvents(QEventLoop::AllEvents, 2);
    return out;
}

std::int64_t now_ns() {
    using namespace std::chrono;
    return duration_cast<nanoseconds>(steady_clock::now().time_since_epoch()).count();
}

/// Of a program that was started at `from_ns` with one job file: ms to its first picture.
int first_picture(int argc, char** argv, const QString& path, std::int64_t from_ns) {
    QApplication application(argc, argv);
    app::prepare_application(application);
    auto library = load_library(data_folder());
    if (!library) return 2;
    const auto window = shown_window(*library, path);
    fmt::print("{:.1f}\n", 1e-6 * static_cast<double>(now_ns() - from_ns));
    return 0;
}

/// Every design of the demo as the one that is open: from exec to its field and traces.
void bench_start(const Job& demo) {
    constexpr int times = 3;
    std::vector<double> medians;
    for (const auto& design : demo.designs) {
        QTemporaryDir folder;
        const auto path = folder.filePath("a.ngjob");
        auto job = demo;
        job.open_design = design.id;
        if (!save_job(job, path.toStdString())) continue;
        std::vector<double> taken;
        for (int i = 0; i < times; ++i) {
            QProcess child;
            child.start(QCoreApplication::applicationFilePath(),
                        {"--first-picture", path, QString::number(now_ns())});
            child.waitForFinished();
            if (const double ms = child.readAllStandardOutput().trimmed().toDouble(); ms > 0)
                taken.push_back(ms);
        }
        if (taken.empty()) continue;
        const auto s = spread(taken);
        medians.push_back(s.median);
        fmt::print("{:<22} from exec to its picture, ms: {:.0f} / {:.0f}\n", design.id, s.median, s.worst);
    }
    if (!medians.empty())
        fmt::print("of all: median {:.0f}, worst {:.0f}\n", spread(medians).median, spread(medians).worst);
}

} // namespace

int main(int argc, char** argv) {
    std::setvbuf(stdout, nullptr, _IOLBF, 0);
    if (argc > 1 && std::string(argv[1]) == "--version") {
        std::printf("needlegauge-bench %s\n", program_version().c_str());
        return 0;
    }
    if (argc > 1 && std::string(argv[1]) == "--convergence") {
        bench::convergence();
        return 0;
    }
    if (argc > 1 && std::string(argv[1]) == "--studies") {
        const auto library = load_library(data_folder());
        if (!library) return 2;
        const auto job = load_job(library->folder / "demo" / "osprey-point.ngjob");
        if (!job) return 2;
        bench::following(*job, *library);
        bench::hanging(*job, *library);
        bench::studies(*job, *library);
        return 0;
    }
    if (argc > 1 && std::string(argv[1]) == "--solves") {
        const auto library = load_library(data_folder());
        if (!library) return 2;
        bench_solves(*load_job(library->folder / "demo" / "osprey-point.ngjob"), *library);
        return 0;
    }
    if (!qEnvironmentVariableIsSet("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    if (argc > 3 && std::string(argv[1]) == "--first-picture")
        return first_picture(argc, argv, argv[2], std::atoll(argv[3]));
    if (argc > 1 && std::string(argv[1]) == "--start") {
        const QCoreApplication application(argc, argv); // no window of its own solves beside
        const auto library = load_library(data_folder());
        if (!library) return 2;
        bench_start(*load_job(library->folder / "demo" / "osprey-point.ngjob"));
        return 0;
    }
    QElapsedTimer start;
    start.start();
    QApplication application(argc, argv);
    app::prepare_application(application);
    auto library = load_library(data_folder());
    if (!library) return 2;
    const auto shown = shown_window(*library, {});
    auto& window = *shown;
    fmt::print(
        "start to first picture of the demo (window, field and traces): {} ms (from main; platform {})\n",
        start.elapsed(), QApplication::platformName().toStdString());
    if (argc > 1 && std::string(argv[1]) == "--drag") {
        constexpr int times = 5;
        for (int i = 0; i < times; ++i) bench_drag(window);
        return 0;
    }
    bench_drag(window);
    fmt::print("peak memory with the window: {:.0f} MB\n", peak_memory_MB());
    bench_loupe(*load_job(library->folder / "demo" / "osprey-point.ngjob"), *library);
    if (argc > 1 && std::string(argv[1]) == "--window") return 0;
    bench_solves(*load_job(library->folder / "demo" / "osprey-point.ngjob"), *library);
    bench::against_freefem();
    bench::analyses();
    bench::cancelling();
    bench::growth();
    fmt::print("peak memory after the largest: {:.0f} MB\n", peak_memory_MB());
    return 0;
}
