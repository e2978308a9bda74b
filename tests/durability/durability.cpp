// Whether work survives what befalls a machine. Ends 0 when nothing was lost.
//   durability kills COUNT [SEED]   a session that edits, keeps safety copies and saves, killed at random
//   instants
//   durability windows COUNT [SEED] windows (offscreen, or where QT_QPA_PLATFORM says) killed while somebody
//   types durability faults               every call of a save fails once, in every way; needs the preloaded
//   library durability power                every prefix of what a save asks of the disk, as a power cut
//   leaves it
// The other calls are what these run: durability session FOLDER SEED, window-session FILE SEED, save FILE
// TITLE.
#include "app/main_window.h"
#include "app/model/document.h"
#include "app/stages/entry_edit.h"
#include "io/file.h"
#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QProcess>
#include <QRegularExpression>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QThread>
#include <csignal>
#include <cstdio>
#include <random>
#include <sstream>

using namespace ng;
using app::Document;
using app::SafetyCopy;

namespace {

/// A job that tells of itself whether it is whole: its note is its number, many times.
Job numbered(int n) {
    auto job = new_job();
    job.title = std::to_string(n);
    for (int i = 0; i < 3000; ++i) job.note += job.title + " ";
    return job;
}
/// The number of a whole job, -1 of another.
int number_of(const Job& job) {
    const int n = std::atoi(job.title.c_str());
    return job.note == numbered(n).note ? n : -1;
}

int complain(const QString& what) {
    std::printf("LOST: %s\n", qPrintable(what));
    return 1;
}

/// Edits for ever, and says what is kept and what is saved once it is.
int session(const QString& folder, unsigned seed) {
    std::mt19937 chance(seed);
    const auto file = folder + "/work.ngjob";
    Document document;
    if (!document.open(file)) return 3;
    for (int n = number_of(document.job()) + 1;; ++n) {
        document.edit("Edit", {}, [&](Job& job) {
            const auto next = numbered(n);
            job.title = next.title, job.note = next.note;
        });
        if (chance() % 3 == 0) {
            if (!document.save()) return 3;
            std::printf("saved %d\n", n);
        } else {
            document.autosave_now();
            std::printf("kept %d\n", n);
        }
        std::fflush(stdout);
        QThread::usleep(chance() % 300);
    }
}

constexpr int latest_copy_ms = 5000; // while edits go on; 2000 after the last
constexpr int copy_takes_ms = 700;   // to be written, on a machine that does other things

/// A window on the demo job in which somebody types a name that grows, keystroke by keystroke, enters it or
/// does not, and saves now and then. Says when each number stood in the field, and which is saved.
int window_session(const QString& file, unsigned seed) {
    std::mt19937 chance(seed);
    auto library = load_library(data_folder());
    if (!library) return 3;
    app::MainWindow window(std::move(*library));
    window.set_ask_before_closing(false);
    window.resize(1280, 800);
    window.open_file(file);
    window.show();
    if (!QTest::qWaitForWindowExposed(&window)) return 3;
    QApplication::setActiveWindow(&window); // there may be no window manager
    QTest::qWait(50);
    QTest::keyClick(&window, Qt::Key_1, Qt::ControlModifier);
    app::NameEdit* field = nullptr;
    for (auto* edit : window.findChildren<app::NameEdit*>())
        if (edit->isVisible()) field = edit;
    if (!field) return 3;
    for (int n = 1;; ++n) {
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, QString("cable %1 of the pier").arg(n));
        if (chance() % 4) QTest::keyClick(field, Qt::Key_Return);
        std::printf("typed %d %lld\n", n, static_cast<long long>(QDateTime::currentMSecsSinceEpoch()));
        if (chance() % 12 == 0) {
            if (!window.save_to(file)) return 3;
            std::printf("saved %d 0\n", n);
        }
        std::fflush(stdout);
        QTest::qWait(20 + static_cast<int>(chance() % 400));
    }
}

/// The number of the cable's name in a job, and in what was typed and not entered.
int name_number(const QString& text) {
    static const QRegularExpression name("cable ([0-9]+) of the pier");
    int most = 0;
    for (auto found = name.globalMatch(text); found.hasNext();)
        most = std::max(most, found.next().captured(1).toInt());
    return most;
}
int name_number(const Job& job) {
    int most = 0;
    for (const auto& cable : job.cables)
        most = std::max(most, name_number(QString::fromStdString(cable.title)));
    return most;
}

/// Windows killed while somebody types: all that was saved is in the file, and all that stood in the field
/// for as long as a copy may take is in the file or in a copy.
int window_kills(int count, unsigned seed) {
    std::mt19937 chance(seed);
    QTemporaryDir folder;
    int lost = 0, offered = 0, typed_numbers = 0, latest_gap = 0;
    for (int k = 0; k < count; ++k) {
        const auto file = folder.filePath(QString("work-%1.ngjob").arg(k));
        QFile::copy(QString(NEEDLEGAUGE_DATA_DIR) + "/demo/osprey-point.ngjob", file);
        QFile::setPermissions(file, QFile::ReadOwner | QFile::WriteOwner);
        QProcess child;
        child.start(QCoreApplication::applicationFilePath(),
                    {"window-session", file, QString::number(chance())});
        if (!child.waitForReadyRead(60000)) return complain("the window does not start");
        QThread::msleep(200 + chance() % 9000);
        ::kill(static_cast<pid_t>(child.processId()), SIGKILL);
        const auto killed_at = QDateTime::currentMSecsSinceEpoch();
        child.waitForFinished(20000);
        int saved = 0, owed = 0, last = 0;
        for (const auto& line : child.readAllStandardOutput().split('\n')) {
            const auto words = line.split(' ');
            if (words.size() != 3) continue;
            const int n = words[1].toInt();
            if (words[0] == "saved") saved = n;
            if (words[0] == "typed") {
                last = n;
                if (killed_at - words[2].toLongLong() > latest_copy_ms + copy_takes_ms) owed = n;
            }
        }
        typed_numbers += last;
        const auto job = load_job(file.toStdString());
        if (!job || name_number(*job) < saved)
            lost += complain(QString("kill %1: the file has %2, saved was %3")
                                 .arg(k)
                                 .arg(job ? name_number(*job) : -1)
                                 .arg(saved));
        int best = job ? name_number(*job) : 0;
        for (const auto& copy : SafetyCopy::left_for(file)) {
            ++offered;
            if (!copy.job)
                lost += complain(QString("kill %1: a damaged safety copy").arg(k));
            else
                best = std::max({best, name_number(*copy.job), name_number(copy.typed)});
            SafetyCopy::throw_away(copy);
        }
        latest_gap = std::max(latest_gap, last - best);
        if (best < owed)
            lost += complain(QString("kill %1: %2 is left, %3 was typed %4 ms before")
                                 .arg(k)
                                 .arg(best)
                                 .arg(owed)
                                 .arg(latest_copy_ms));
        QFile::remove(file);
    }
    std::printf("%d windows killed, %d names typed, %d safety copies offered, at most %d names younger than "
                "the copy: %d "
                "lost\n",
                count, typed_numbers, offered, latest_gap, lost);
    return lost ? 1 : 0;
}

int kills(int count, unsigned seed) {
    std::mt19937 chance(seed);
    QTemporaryDir folder;
    const auto file = folder.filePath("work.ngjob");
    if (!save_job(numbered(0), file.toStdString())) return 3;
    int lost = 0, inside_saves = 0, offered = 0;
    for (int k = 0; k < count; ++k) {
        QProcess child;
        child.start(QCoreApplication::applicationFilePath(),
                    {"session", folder.path(), QString::number(chance())});
        if (!child.waitForReadyRead(20000)) return complain("the session does not start");
        QThread::usleep(chance() % 25000);
        ::kill(static_cast<pid_t>(child.processId()), SIGKILL);
        child.waitForFinished(20000);
        int saved = 0, kept = 0;
        for (const auto& line : child.readAllStandardOutput().split('\n')) {
            if (line.endsWith('\r') || !line.contains(' ')) continue;
            (line.startsWith("saved") ? saved : kept) = line.mid(line.indexOf(' ') + 1).toInt();
        }
        inside_saves += !QDir(folder.path()).entryList({".*.tmp"}, QDir::Files | QDir::Hidden).isEmpty();
        const auto job = load_job(file.toStdString());
        const int found = job ? number_of(*job) : -1;
        if (found < saved || found < 0)
            lost += complain(QString("kill %1: the file has %2, saved was %3").arg(k).arg(found).arg(saved));
        int best = found;
        for (const auto& copy : SafetyCopy::left_for(file)) {
            if (!copy.job || number_of(*copy.job) < 0)
                lost += complain(QString("kill %1: a damaged safety copy").arg(k));
            else
                best = std::max(best, number_of(*copy.job));
            ++offered;
            SafetyCopy::throw_away(copy);
        }
        if (best < std::max(saved, kept))
            lost += complain(
                QString("kill %1: %2 is left, kept was %3").arg(k).arg(best).arg(std::max(saved, kept)));
        // The next session can take the file, and what the killed one left half written goes with its save.
        Document next;
        if (!next.open(file)) return complain(QString("kill %1: the file stays locked").arg(k));
        if (!next.save()) return complain(QString("kill %1: the file cannot be saved").arg(k));
        next.close();
        if (!QDir(folder.path()).entryList({".*.tmp"}, QDir::Files | QDir::Hidden).isEmpty())
            lost += complain(QString("kill %1: a temporary file stays").arg(k));
    }
    std::printf("%d kills, %d of them inside a save, %d safety copies offered: %d lost\n", count,
                inside_saves, offered, lost);
    return lost ? 1 : 0;
}

/// One save of another job over an existing file, in a process with this fault.
struct Saved {
    int code = -1; ///< 0: it said that it is saved, 2: refused
    bool struck = false;
    QByteArray said;
    QStringList log;
};
Saved save_with(const QString& folder, const QByteArray& fault) {
    QProcess child;
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert("LD_PRELOAD", NEEDLEGAUGE_FAULTS);
    environment.insert("FAULT_FOLDER", folder);
    environment.insert("FAULT_LOG", folder + ".log");
    if (!fault.isEmpty()) environment.insert("FAULT", fault);
    child.setProcessEnvironment(environment);
    QFile::remove(folder + ".log");
    child.start(QCoreApplication::applicationFilePath(), {"save", folder + "/work.ngjob", "2"});
    child.waitForFinished(20000);
    Saved out;
    if (child.exitStatus() == QProcess::NormalExit) out.code = child.exitCode();
    out.said = child.readAllStandardError();
    QFile log(folder + ".log");
    if (log.open(QIODevice::ReadOnly))
        out.log = QString::fromUtf8(log.readAll()).split('\n', Qt::SkipEmptyParts);
    out.struck = out.log.contains("fault");
    return out;
}

int faults() {
    QTemporaryDir base;
    const auto folder = base.filePath("jobs");
    QDir().mkpath(folder);
    const auto file = (folder + "/work.ngjob").toStdString();
    int tried = 0, lost = 0;
    for (const char* kind :
         {"open-EROFS", "open-ENOSPC", "write-short", "write-zero", "write-ENOSPC", "write-EIO", "fsync-EIO",
          "fchmod-EPERM", "close-EIO", "rename-EROFS", "rename-EIO"})
        for (int n = 1;; ++n) {
            if (!save_job(numbered(1), file)) return 3;
            const auto outcome = save_with(folder, QByteArray(kind) + ":" + QByteArray::number(n));
            if (!outcome.struck) break;
            ++tried;
            const auto job = load_job(file);
            const int found = job ? number_of(*job) : -1;
            const auto name = QString("%1 at call %2").arg(kind).arg(n);
            if (found < 0) lost += complain(name + ": the file is damaged");
            if (outcome.code == 0 && found != 2) lost += complain(name + ": called saved, and is not");
            if (outcome.code != 0 && outcome.code != 2) lost += complain(name + ": it crashed");
            if (outcome.code == 2 && outcome.said.count('\n') != 1) lost += complain(name + ": not one line");
            if (QByteArray(kind) == "write-short" && found != 2) lost += complain(name + ": it gave up");
            if (!QDir(folder).entryList({".*.tmp"}, QDir::Files | QDir::Hidden).isEmpty())
                lost += complain(name + ": a temporary file stays");
        }
    std::printf("%d faults: %d lost\n", tried, lost);
    return lost || tried < 11 ? 1 : 0;
}

/// What a power cut may leave: data that was not synchronised may be there in part, a name that was not may
/// be old or new.
int power() {
    QTemporaryDir base;
    const auto folder = base.filePath("jobs");
    QDir().mkpath(folder);
    const auto file = folder + "/work.ngjob";
    if (!save_job(numbered(1), file.toStdString())) return 3;
    const auto outcome = save_with(folder, {});
    if (outcome.code != 0) return complain("the save fails");
    const auto whole = QFileInfo(file).size();
    qint64 written = 0, synchronised = 0;
    bool renamed = false, name_synchronised = false;
    int prefixes = 0, lost = 0;
    for (const auto& line : outcome.log) {
        if (line.startsWith("write ")) written += line.mid(6).toLongLong();
        if (line == "fsync") synchronised = written;
        if (line == "syncdir") name_synchronised = renamed;
        if (line.startsWith("open ") && line.endsWith("/work.ngjob"))
            lost += complain("the file itself is opened for writing");
        if (line.startsWith("rename ") && line.endsWith(file)) renamed = true;
        ++prefixes;
        // After this prefix the name leads to the old content, or to what is surely on the disk of the new.
        if (renamed && synchronised < whole)
            lost += complain(QString("after “%1” the file may hold %2 of %3 bytes")
                                 .arg(line)
                                 .arg(synchronised)
                                 .arg(whole));
    }
    if (!renamed || !name_synchronised) lost += complain("called saved before its name is on the disk");
    std::printf("%d prefixes of a save: %d lost\n", prefixes, lost);
    return lost || prefixes < 4 ? 1 : 0;
}

} // namespace

int main(int argc, char** argv) {
    std::unique_ptr<QCoreApplication> application;
    if (argc > 1 && std::string(argv[1]) == "window-session")
        application = std::make_unique<QApplication>(argc, argv);
    else
        application = std::make_unique<QCoreApplication>(argc, argv);
    QCoreApplication::setOrganizationName("needlegauge");
    QCoreApplication::setApplicationName("needlegauge-durability");
    const auto words = QCoreApplication::arguments();
    const auto call = words.value(1);
    if (call == "session") return session(words.value(2), words.value(3).toUInt());
    if (call == "save") {
        const auto ok = save_job(numbered(words.value(3).toInt()), words.value(2).toStdString());
        if (!ok) std::fprintf(stderr, "%s\n", ok.error().message().c_str());
        return ok ? 0 : 2;
    }
    if (call == "kills") return kills(words.value(2, "100").toInt(), words.value(3, "1").toUInt());
    if (call == "windows") return window_kills(words.value(2, "20").toInt(), words.value(3, "1").toUInt());
    if (call == "window-session") return window_session(words.value(2), words.value(3).toUInt());
    if (call == "faults") return faults();
    if (call == "power") return power();
    std::fprintf(stderr, "usage: durability kills COUNT [SEED] | windows COUNT [SEED] | faults | power\n");
    return 2;
}
