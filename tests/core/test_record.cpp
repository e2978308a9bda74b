// The record: rows stay as they were written, whatever is pulled out; what was built is solved; charts and
// tests.
#include "io/digest.h"
#include "io/file.h"
#include "plan/sheet.h"
#include "record/as_built.h"
#include "record/exchange.h"
#include "record/search.h"
#include "record/site_test.h"
#include "support.h"
#include <QProcess>
#include <QTemporaryDir>
#include <SQLiteCpp/SQLiteCpp.h>
#include <csignal>
#include <filesystem>
#include <fstream>
#include <numeric>
#include <random>
#include <sys/resource.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

using namespace ng;
namespace fs = std::filesystem;

namespace {

const Who jointer{"jointer", "AB"}, inspector{"inspector", "CD"}, tester{"tester", "EF"};

struct Folder {
    QTemporaryDir dir;
    fs::path operator/(const char* name) const { return fs::path(dir.path().toStdString()) / name; }
};

EntryDraft note(const std::string& text, std::int64_t accessory, const Who& who = jointer) {
    EntryDraft draft;
    draft.kind = "note";
    draft.who = who;
    draft.accessory = accessory;
    draft.body = {{"text", text}};
    return draft;
}

/// A log with the record of one design begun: row 2.
Log begun(const fs::path& path, const std::string& design = "causeway") {
    auto log = Log::create(path, jointer, "A job");
    if (!log) qFatal("%s", log.error().message().c_str());
    const auto job = test::demo_job();
    auto row = log->append(
        begin_accessory(job, *job.find_design(design), jointer, {{"place", "pit 4"}, {"batch", "K-77"}}));
    if (!row) qFatal("%s", row.error().message().c_str());
    return std::move(*log);
}

AccessoryRecord state(const Log& log, std::int64_t accessory = 2) {
    auto record = record_of(log, accessory);
    if (!record) qFatal("%s", record.error().message().c_str());
    return std::move(*record);
}

struct Planned {
    PreparedDesign prepared;
    CutPlan plan;
    WorkSheet sheet;
};
Planned planned(const Job& job, const std::string& design) {
    auto prepared = *prepare_design(job, design, test::library());
    auto plan = *make_plan(prepared);
    auto sheet = *make_sheet(prepared, plan, *load_steps(test::library()), test::library().connectors, {});
    return {std::move(prepared), std::move(plan), std::move(sheet)};
}

/// As somebody with a SQLite shell and no scruples.
void change(const fs::path& path, const std::string& sql, bool drop_guards = true) {
    SQLite::Database db(path.string(), SQLite::OPEN_READWRITE);
    std::vector<std::string> guards;
    if (drop_guards) {
        SQLite::Statement ask(db, "SELECT name, sql FROM sqlite_schema WHERE type = 'trigger'");
        std::vector<std::string> names;
        while (ask.executeStep()) {
            names.push_back(ask.getColumn(0).getString());
            guards.push_back(ask.getColumn(1).getString());
        }
        ask.reset();
        for (const auto& name : names) db.exec("DROP TRIGGER " + name);
    }
    db.exec(sql);
    for (const auto& guard : guards) db.exec(guard); // nothing to be seen of it
}

} // namespace

class TestRecord : public QObject {
    Q_OBJECT
  private slots:
    void a_row_is_written_once_and_read_back() {
        Folder folder;
        const auto path = folder / "a.nglog";
        {
            auto log = begun(path);
            const auto row = log.append(note("Dry, 18 °C", 2));
            REQUIRE_OK(row);
            QCOMPARE(row->number, 3);
            QCOMPARE(log.entries().size(), std::size_t{3});
        }
        const auto log = Log::open(path);
        REQUIRE_OK(log);
        QCOMPARE(log->entries()[2].body()["text"].get<std::string>(), std::string("Dry, 18 °C"));
        QCOMPARE(log->entries()[2].previous, log->entries()[1].hash);
        QVERIFY(log->verify().holds());
        QVERIFY(!Log::create(path, jointer, "again"));
        QVERIFY(!fs::exists(path.string() + ".new"));
    }
    /// FIPS 180-4, examples: "abc" and the empty message.
    void hashes_are_those_of_the_standard() {
        QCOMPARE(sha256_hex("abc"),
                 std::string("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"));
        QCOMPARE(sha256_hex(""),
                 std::string("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855"));
    }
    /// Python's own SQLite and SHA-256, by the format as it is documented.
    void the_chain_is_what_the_format_says() {
        Folder folder;
        const auto path = folder / "a.nglog";
        auto log = begun(path);
        for (int i = 0; i < 5; ++i)
            REQUIRE_OK(log.append(note("größer, 1:2,3 \"x\" " + std::to_string(i), 2)));
        QProcess python;
        python.start("python3", {NEEDLEGAUGE_VERIFY_LOG, QString::fromStdString(path.string())});
        QVERIFY(python.waitForFinished());
        QCOMPARE(python.readAllStandardOutput().trimmed(), QByteArray(("ok " + log.last().words()).c_str()));
    }
    void rows_are_neither_changed_nor_replaced_nor_taken_out() {
        Folder folder;
        const auto path = folder / "a.nglog";
        begun(path);
        for (const char* sql :
             {"UPDATE entry SET role = 'x'", "DELETE FROM entry",
              "INSERT OR REPLACE INTO entry SELECT number, kind, 'x', initials, at_utc, at_local, accessory, "
              "instrument, corrects, why, body, previous, hash FROM entry WHERE number = 2",
              "REPLACE INTO entry SELECT 7, kind, 'x', initials, at_utc, at_local, accessory, instrument, "
              "corrects, why, body, previous, 'f' FROM entry WHERE number = 2",
              "INSERT INTO entry SELECT 3, kind, role, initials, at_utc, at_local, accessory, instrument, "
              "corrects, why, body, 'no hash', 'f' FROM entry WHERE number = 2"})
            QVERIFY_THROWS_EXCEPTION(SQLite::Exception, change(path, sql, false));
        QVERIFY(Log::open(path)->verify().holds());
    }
    void whatever_is_changed_by_hand_is_found_data() {
        QTest::addColumn<QString>("sql");
        QTest::addColumn<QString>("found");
        for (const char* column : {"kind", "role", "initials", "at_utc", "at_local", "why", "body"})
            QTest::newRow(column)
                << QString("UPDATE entry SET %1 = replace(%1 || '', substr(%1, 1, 1), '{') || ' ' "
                           "WHERE number = 3 AND '%1' <> 'body' OR number = 3 AND json_valid(%1)")
                       .arg(column)
                << "row 3 was changed";
        QTest::newRow("accessory") << "UPDATE entry SET accessory = NULL WHERE number = 3"
                                   << "row 3 was changed";
        QTest::newRow("instrument") << "UPDATE entry SET instrument = 1 WHERE number = 3"
                                    << "row 3 was changed";
        QTest::newRow("hash") << "UPDATE entry SET hash = 'ab' WHERE number = 3"
                              << "row 3 was changed";
        QTest::newRow("previous") << "UPDATE entry SET previous = 'ab' WHERE number = 3"
                                  << "row 3 does not follow";
        QTest::newRow("taken out") << "DELETE FROM entry WHERE number = 3"
                                   << "row 3 is missing";
        QTest::newRow("first taken out") << "DELETE FROM entry WHERE number = 1"
                                         << "row 1 is missing";
        QTest::newRow("renumbered") << "UPDATE entry SET number = 9 WHERE number = 4"
                                    << "missing";
        QTest::newRow("a guard") << "DROP TRIGGER IF EXISTS entry_kept; CREATE TRIGGER entry_kept BEFORE "
                                    "DELETE ON entry BEGIN SELECT 1; END"
                                 << "was changed";
        QTest::newRow("a table more") << "CREATE TABLE other (x)"
                                      << "not of this program";
    }
    void whatever_is_changed_by_hand_is_found() {
        QFETCH(QString, sql);
        QFETCH(QString, found);
        Folder folder;
        const auto path = folder / "a.nglog";
        {
            auto log = begun(path);
            for (const char* text : {"one", "two"}) {
                auto draft = note(text, 2);
                draft.why = "because";
                REQUIRE_OK(log.append(draft));
            }
        }
        {
            SQLite::Database db(path.string(), SQLite::OPEN_READWRITE);
            for (const char* name : {"entry_unchanged", "entry_kept", "entry_not_replaced", "entry_in_order"})
                db.exec(std::string("DROP TRIGGER ") + name);
            db.exec("PRAGMA foreign_keys = OFF");
            db.exec(sql.toStdString());
        }
        const auto seen = verify_log(path);
        REQUIRE_OK(seen);
        QVERIFY(!seen->holds());
        QVERIFY2(std::any_of(seen->findings.begin(), seen->findings.end(),
                             [&](const auto& f) { return f.find(found.toStdString()) != std::string::npos; }),
                 seen->words().c_str());
        // Without its guards it is not written to.
        if (auto log = Log::open(path)) QVERIFY(!log->append(note("x", 2)));
    }
    /// Every byte of the file in turn: a changed value is never taken for good.
    void a_changed_byte_of_a_value_is_found() {
        Folder folder;
        const auto path = folder / "a.nglog";
        {
            auto log = begun(path);
            REQUIRE_OK(log.append(note("a value to be found", 2)));
        }
        const auto good = *read_file(path);
        const auto entries = Log::open(path)->entries();
        std::vector<std::size_t> at; // bytes of values
        for (const auto& e : entries)
            for (const auto& text :
                 {e.body_text, e.who.role, e.who.initials, e.at.utc, e.hash, e.previous, e.kind})
                for (auto p = good.find(text); p != std::string::npos && text.size() > 1;
                     p = good.find(text, p + 1))
                    for (std::size_t i = 0; i < text.size(); i += text.size() / 7 + 1) at.push_back(p + i);
        QVERIFY(at.size() > 60);
        const auto changed = folder / "b.nglog";
        int found = 0;
        for (const auto p : at) {
            auto bytes = good;
            bytes[p] = static_cast<char>(bytes[p] ^ 1);
            std::ofstream(changed, std::ios::binary) << bytes;
            const auto seen = verify_log(changed);
            const bool is_value = !seen || !seen->holds();
            if (!is_value) qInfo("byte %zu", p);
            found += is_value;
        }
        // Text of a row may stand in an unused copy of its page too: a few at the most.
        QVERIFY2(found >= static_cast<int>(at.size()) * 95 / 100,
                 qPrintable(QString("%1 of %2").arg(found).arg(at.size())));
    }
    void a_tail_that_was_cut_off_is_found_against_a_kept_hash() {
        Folder folder;
        const auto path = folder / "a.nglog";
        KeptHash kept;
        {
            auto log = begun(path);
            REQUIRE_OK(log.append(note("one", 2)));
            REQUIRE_OK(log.append(note("two", 2)));
            kept = log.last();
        }
        QVERIFY(verify_log(path, KeptHash::of(kept.words()).value())->holds());
        change(path, "DELETE FROM entry WHERE number = 4");
        QVERIFY(verify_log(path)->holds()); // the chain alone cannot tell, and says so
        QVERIFY(verify_log(path)->words().find("kept elsewhere") != std::string::npos);
        const auto seen = verify_log(path, kept);
        QVERIFY(!seen->holds() && seen->words().find("cut off") != std::string::npos);
        QVERIFY(!KeptHash::of("4") && !KeptHash::of("x:" + kept.hash) && !KeptHash::of(kept.words() + "0"));
    }
    void foreign_newer_cut_and_guarded_files_are_named() {
        Folder folder;
        const auto path = folder / "a.nglog";
        {
            auto log = begun(path);
            for (int i = 0; i < 40; ++i) REQUIRE_OK(log.append(note(std::string(600, 'x'), 2)));
        }
        const auto good = *read_file(path);
        const auto said = [&](const std::string& bytes) {
            std::ofstream(folder / "b.nglog", std::ios::binary) << bytes;
            const auto log = Log::open(folder / "b.nglog");
            return log ? std::string() : log.error().problem;
        };
        QVERIFY(said("not a log, but long enough to be one: " + std::string(100, ' ')).find("no record") !=
                std::string::npos);
        QVERIFY(said("").find("no record") != std::string::npos);
        for (const double share : {0.3, 0.6, 0.95}) {
            const auto words =
                said(good.substr(0, static_cast<std::size_t>(static_cast<double>(good.size()) * share)));
            QVERIFY2(words.find("damaged or cut short") != std::string::npos, words.c_str());
            QVERIFY(verify_log(folder / "b.nglog") && !verify_log(folder / "b.nglog")->holds());
        }
        change(path, "PRAGMA user_version = 9", false);
        QVERIFY(Log::open(path).error().problem.find("version 9") != std::string::npos);
        change(path, "PRAGMA user_version = 1; PRAGMA application_id = 5", false);
        QVERIFY(Log::open(path).error().problem.find("another program") != std::string::npos);
        QVERIFY(Log::open(folder / "none.nglog").error().problem.find("no such file") != std::string::npos);
        QVERIFY(Log::open(fs::path(folder.dir.path().toStdString())).error().problem.find("no file") !=
                std::string::npos);
    }
    void what_may_only_be_read_is_read_and_not_written() {
        Folder folder;
        const auto path = folder / "a.nglog";
        begun(path);
        fs::permissions(path, fs::perms::owner_read);
        auto log = Log::open(path);
        REQUIRE_OK(log);
        QVERIFY(log->is_read_only());
        QVERIFY(log->verify().holds());
        const auto row = log->append(note("x", 2));
        QVERIFY(!row && row.error().problem.find("only be read") != std::string::npos);
    }
    /// Verifying, searching and exporting leave a log as it lies: its bytes, and no file beside it.
    void who_only_looks_touches_nothing() {
        Folder folder;
        const auto path = folder / "a.nglog";
        begun(path);
        const auto before = *read_file(path);
        const auto files = [&] {
            std::set<std::string> out;
            for (const auto& e : fs::directory_iterator(path.parent_path()))
                out.insert(e.path().filename().string());
            return out;
        };
        const auto beside = files();
        {
            const auto log = Log::open(path, Log::Access::read);
            REQUIRE_OK(log);
            QVERIFY(verify_log(path)->holds());
            QCOMPARE(search_logs(path, {})->found.size(), std::size_t{2});
            QCOMPARE(files(), beside);
            auto writer = Log::open(path);
            QVERIFY(log->is_read_only() && !writer->is_read_only());
        }
        auto log = Log::open(path, Log::Access::read);
        QVERIFY(!log->append(note("x", 2)));
        QVERIFY(*read_file(path) == before);
    }
    void two_windows_write_one_after_the_other() {
        Folder folder;
        const auto path = folder / "a.nglog";
        begun(path);
        std::vector<std::thread> writers;
        for (int w = 0; w < 4; ++w)
            writers.emplace_back([&] {
                auto log = Log::open(path);
                for (int i = 0; i < 25; ++i)
                    if (!log || !log->append(note("x", 2))) qFatal("not written");
            });
        for (auto& w : writers) w.join();
        auto log = Log::open(path);
        REQUIRE_OK(log);
        QCOMPARE(log->entries().size(), std::size_t{102});
        QVERIFY2(log->verify().holds(), log->verify().words().c_str());
        auto other = Log::open(path);
        REQUIRE_OK(other->append(note("from another window", 2)));
        QVERIFY(*log->refresh());
        QCOMPARE(log->entries().size(), std::size_t{103});
    }
    /// Killed while writing: what was acknowledged is there, nothing half. NEEDLEGAUGE_KILLS=1000 does them
    /// all.
    void no_row_is_lost_to_a_kill() {
        Folder folder;
        const auto path = folder / "a.nglog";
        begun(path);
        std::mt19937 random(5);
        const int kills = qEnvironmentVariableIntValue("NEEDLEGAUGE_KILLS")
                              ? qEnvironmentVariableIntValue("NEEDLEGAUGE_KILLS")
                              : 40;
        std::int64_t acknowledged = 2;
        for (int k = 0; k < kills; ++k) {
            int ends[2];
            QVERIFY(pipe(ends) == 0);
            const auto child = fork();
            if (child == 0) {
                auto log = Log::open(path);
                for (int i = 0; log; ++i) {
                    const auto row =
                        log->append(note(std::string(static_cast<std::size_t>(20 + 700 * (i % 3)), 'k'), 2));
                    if (!row || write(ends[1], &row->number, sizeof row->number) < 0) _exit(1);
                }
                _exit(1);
            }
            close(ends[1]);
            // At a random instant of its first rows.
            std::int64_t number = 0;
            const auto wanted = std::uniform_int_distribution(0, 3)(random);
            for (int i = 0; i < wanted && read(ends[0], &number, sizeof number) == sizeof number; ++i)
                acknowledged = number;
            usleep(static_cast<useconds_t>(std::uniform_int_distribution(0, 6000)(random)));
            kill(child, SIGKILL);
            waitpid(child, nullptr, 0);
            while (read(ends[0], &number, sizeof number) == sizeof number) acknowledged = number;
            close(ends[0]);
            const auto log = Log::open(path);
            REQUIRE_OK(log);
            QVERIFY2(log->last().rows >= acknowledged, "an acknowledged row is gone");
            if (k % 10 == 9 || k == kills - 1) {
                const auto seen = log->verify();
                QVERIFY2(seen.holds(), seen.words().c_str());
            }
        }
        QVERIFY(acknowledged > kills / 2);
    }
    void a_full_disk_is_said_and_nothing_is_half_written() {
        Folder folder;
        const auto path = folder / "a.nglog";
        begun(path);
        int ends[2];
        QVERIFY(pipe(ends) == 0);
        const auto child = fork();
        if (child == 0) {
            signal(SIGXFSZ, SIG_IGN);
            const rlimit limit{60000, 60000}; // of every file, as of a disk
            setrlimit(RLIMIT_FSIZE, &limit);
            auto log = Log::open(path);
            std::string words;
            for (int i = 0; log && i < 200 && words.empty(); ++i)
                if (const auto row = log->append(note(std::string(900, 'f'), 2)); !row)
                    words = row.error().message();
            if (write(ends[1], words.data(), words.size()) < 0) _exit(2);
            _exit(0);
        }
        close(ends[1]);
        std::string words(500, '\0');
        const auto got = read(ends[0], words.data(), words.size());
        waitpid(child, nullptr, 0);
        close(ends[0]);
        QVERIFY(got > 0);
        QVERIFY2(words.find("the disk is full") != std::string::npos, words.c_str());
        const auto log = Log::open(path);
        REQUIRE_OK(log);
        QVERIFY(log->entries().size() > 2);
        QVERIFY(log->verify().holds());
    }
    void a_clock_that_was_set_back_is_remarked() {
        Folder folder;
        auto log = begun(folder / "a.nglog");
        REQUIRE_OK(log.append(note("later", 2), {"2031-01-01T10:00:00.000Z", "2031-01-01T11:00:00+01:00"}));
        REQUIRE_OK(log.append(note("now", 2)));
        const auto seen = log.verify();
        QVERIFY(seen.holds());
        QCOMPARE(seen.remarks.size(), std::size_t{1});
        QVERIFY(seen.remarks[0].find("set back") != std::string::npos);
    }
    void drafts_are_refused_by_name_data() {
        QTest::addColumn<QByteArray>("draft");
        QTest::addColumn<QString>("words");
        QTest::newRow("kind") << QByteArray(R"({"kind":"poem","body":{}})") << "no kind of entry";
        QTest::newRow("field") << QByteArray(R"({"kind":"note","body":{"text":"a","colour":"red"}})")
                               << "colour";
        QTest::newRow("missing") << QByteArray(R"({"kind":"note","body":{}})") << "text";
        QTest::newRow("choice")
            << QByteArray(
                   R"({"kind":"hold_point","body":{"step":"a","check":"b","found":"c","decision":"maybe"}})")
            << "decision";
        QTest::newRow("why") << QByteArray(R"({"kind":"note","corrects":3,"body":{"text":"a"}})")
                             << "no reason";
        QTest::newRow("which") << QByteArray(R"({"kind":"note","corrects":1,"why":"x","body":{"text":"a"}})")
                               << "row 1 is no note";
        QTest::newRow("who") << QByteArray(R"({"kind":"note","initials":" ","body":{"text":"a"}})")
                             << "nobody is named";
        QTest::newRow("instrument") << QByteArray(R"({"kind":"note","instrument":2,"body":{"text":"a"}})")
                                    << "no instrument";
    }
    void drafts_are_refused_by_name() {
        QFETCH(QByteArray, draft);
        QFETCH(QString, words);
        Folder folder;
        auto log = begun(folder / "a.nglog");
        REQUIRE_OK(log.append(note("there", 2)));
        const auto j = nlohmann::json::parse(draft.toStdString());
        EntryDraft d;
        d.kind = j["kind"];
        d.who = {"jointer", j.value("initials", "AB")};
        d.accessory = 2;
        d.body = j["body"];
        d.why = j.value("why", "");
        if (j.contains("corrects")) d.corrects = j["corrects"].get<std::int64_t>();
        if (j.contains("instrument")) d.instrument = j["instrument"].get<std::int64_t>();
        const auto row = log.append(d);
        QVERIFY(!row);
        QVERIFY2(row.error().message().find(words.toStdString()) != std::string::npos,
                 row.error().message().c_str());
        QCOMPARE(log.entries().size(), std::size_t{3});
    }
    void files_are_kept_by_their_hash() {
        Folder folder;
        auto log = begun(folder / "a.nglog");
        std::ofstream(folder / "edge.png") << "a picture";
        REQUIRE_OK(log.append_file(folder / "edge.png", "the edge", "screen-strip", jointer, 2));
        QVERIFY(log.verify().holds());
        const auto kept = log.files_folder() / (sha256_hex("a picture") + ".png");
        QVERIFY(fs::exists(kept));
        std::ofstream(kept) << "another";
        QVERIFY(log.verify().words().find("was changed") != std::string::npos);
        fs::remove(kept);
        QVERIFY(log.verify().words().find("is not there") != std::string::npos);
    }
    void an_export_comes_back_as_the_same_chain() {
        Folder folder;
        auto log = begun(folder / "a.nglog");
        for (int i = 0; i < 4; ++i) REQUIRE_OK(log.append(note("n" + std::to_string(i), 2)));
        auto document = nlohmann::json::parse(log_json(log).dump());
        const auto again = import_log(document, folder / "b.nglog", "export");
        REQUIRE_OK(again);
        QCOMPARE(again->last().words(), log.last().words());
        document["entries"][3]["body"]["text"] = "changed";
        const auto changed = import_log(document, folder / "c.nglog", "export");
        QVERIFY(!changed && changed.error().message().find("entry 4") != std::string::npos);
        QVERIFY(!fs::exists(folder / "c.nglog"));
        const auto csv = log_csv(log);
        QCOMPARE(std::count(csv.begin(), csv.end(), '\n'), 7);
        const auto longer = continue_log(folder / "a.nglog", folder / "d.nglog", jointer);
        REQUIRE_OK(longer);
        QCOMPARE(longer->entries()[0].body()["continues"]["hash"].get<std::string>(), log.last().hash);
        QCOMPARE(longer->entries().size(), log.entries().size());
        QVERIFY(longer->verify().holds());
    }
    /// Readings that equal the design: the same section, byte for byte, and so the same field.
    void what_was_built_as_designed_is_the_design_data() {
        QTest::addColumn<QString>("design");
        for (const auto& d : test::demo_job().designs)
            QTest::newRow(d.id.c_str()) << QString::fromStdString(d.id);
    }
    void what_was_built_as_designed_is_the_design() {
        QFETCH(QString, design);
        Folder folder;
        auto log = begun(folder / "a.nglog", design.toStdString());
        const auto p = planned(test::demo_job(), design.toStdString());
        for (const auto& mark : p.plan.marks)
            REQUIRE_OK(log.append(mark_reading(mark, p.plan, mark.from_datum_mm, jointer, 2)));
        const auto built = as_built(state(log), test::library());
        REQUIRE_OK(built);
        QVERIFY2(built->differences.empty(),
                 built->differences.empty() ? "" : built->differences.front().c_str());
        const auto job = alone_of(test::demo_job(), design.toStdString());
        QCOMPARE(QByteArray::fromStdString(write_job(built->job).dump()),
                 QByteArray::fromStdString(write_job(job).dump()));
    }
    void readings_move_the_marks_that_they_are_of() {
        Folder folder;
        auto log = begun(folder / "a.nglog", "causeway");
        const auto p = planned(test::demo_job(), "causeway");
        const auto& edge = *p.plan.find(MarkKind::screen_edge, CableSide::a);
        const auto& cut = *p.plan.find(MarkKind::insulation_end, CableSide::b);
        REQUIRE_OK(log.append(mark_reading(edge, p.plan, edge.from_datum_mm - 3.5, jointer, 2)));
        REQUIRE_OK(log.append(mark_reading(cut, p.plan, cut.from_datum_mm + 2, jointer, 2)));
        auto built = as_built(state(log), test::library());
        REQUIRE_OK(built);
        const auto q = planned(built->job, "causeway");
        // All other cuts lie where they were designed.
        for (const auto& m : q.plan.marks)
            if (m.order >= 0 && m.place != edge.place && m.place != cut.place)
                QVERIFY2(std::abs(m.from_datum_mm - p.plan.find(m.place)->from_datum_mm) < 0.06,
                         m.label.c_str());
        QVERIFY(std::abs(q.plan.find(edge.place)->from_datum_mm - (edge.from_datum_mm - 3.5)) < 0.06);
        QVERIFY(std::abs(q.plan.find(cut.place)->from_datum_mm - (cut.from_datum_mm + 2)) < 0.06);
        QVERIFY(std::abs(q.plan.find(MarkKind::screen_edge, CableSide::b)->from_datum_mm -
                         p.plan.find(MarkKind::screen_edge, CableSide::b)->from_datum_mm) < 0.06);
        QCOMPARE(built->differences.size(), std::size_t{2});
        QCOMPARE(built->marks.size(), std::size_t{2});
        QCOMPARE(built->marks[0].within, std::optional(false));
        QVERIFY(built->unmeasured.size() >= p.plan.marks.size() / 2);
        const auto study = unmeasured_plan(*built, q.prepared);
        REQUIRE_OK(study);
        QVERIFY(std::none_of(study->varied.begin(), study->varied.end(),
                             [&](const auto& v) { return v.key == edge.parameter; }));
        QVERIFY(study->varied.size() < usual_plan(q.prepared, false).varied.size());
        // A correction takes the place of the row that it names.
        auto right = mark_reading(edge, p.plan, edge.from_datum_mm, jointer, 2);
        right.corrects = 3;
        right.why = "read from the wrong end of the rule";
        REQUIRE_OK(log.append(right));
        built = as_built(state(log), test::library());
        QCOMPARE(built->differences.size(), std::size_t{1});
    }
    /// One number sets the mastic of both sides: what cannot lie where it was read is said, with where it is
    /// solved.
    void marks_that_share_a_number_are_solved_at_their_mean_and_named() {
        Folder folder;
        auto log = begun(folder / "a.nglog", "causeway");
        const auto p = planned(test::demo_job(), "causeway");
        std::vector<const CutMark*> both;
        for (const auto& m : p.plan.marks)
            if (m.parameter == "mastic_on_insulation_mm") both.push_back(&m);
        QCOMPARE(both.size(), std::size_t{2});
        REQUIRE_OK(log.append(mark_reading(*both[0], p.plan, both[0]->from_datum_mm + 2, jointer, 2)));
        REQUIRE_OK(log.append(mark_reading(*both[1], p.plan, both[1]->from_datum_mm, jointer, 2)));
        const auto built = as_built(state(log), test::library());
        REQUIRE_OK(built);
        const auto q = planned(built->job, "causeway");
        for (const auto* m : both)
            QVERIFY(std::abs(q.plan.find(m->place)->from_datum_mm - m->from_datum_mm - 1) < 0.06);
        QCOMPARE(built->not_taken.size(), std::size_t{2});
        for (const auto& words : built->not_taken)
            QVERIFY2(words.find("both sides") != std::string::npos, words.c_str());
        CancelFlag cancel{true};
        QVERIFY(!as_built(state(log), test::library(), &cancel));
    }
    void diameters_are_those_of_their_side() {
        Folder folder;
        auto log = begun(folder / "a.nglog", "causeway");
        EntryDraft d;
        d.kind = "reading";
        d.who = jointer;
        d.accessory = 2;
        const double was =
            planned(test::demo_job(), "causeway").prepared.dimensions.layer("insulation").diameter_mm;
        for (const bool across : {false, true}) {
            d.body = {{"what", "diameter"},
                      {"place", "insulation"},
                      {"label", "insulation A"},
                      {"side", "A"},
                      {"value", was + (across ? 0.5 : 0.3)},
                      {"unit", "mm"},
                      {"across", across}};
            REQUIRE_OK(log.append(d));
        }
        const auto built = as_built(state(log), test::library());
        REQUIRE_OK(built);
        const auto q = prepare_design(built->job, "causeway", test::library());
        REQUIRE_OK(q);
        QVERIFY(std::abs(q->dimensions.layer("insulation").diameter_mm - (was + 0.4)) < 1e-9);
        QVERIFY(q->other_dimensions);
        const auto p = planned(test::demo_job(), "causeway").prepared;
        const auto& b = p.other_dimensions ? *p.other_dimensions : p.dimensions;
        QVERIFY(std::abs(q->other_dimensions->layer("insulation").diameter_mm -
                         b.layer("insulation").diameter_mm) < 1e-9);
    }
    void faults_that_were_left_are_judged_and_reworked_ones_are_not() {
        Folder folder;
        auto log = begun(folder / "a.nglog", "breakwater");
        EntryDraft d;
        d.kind = "fault";
        d.who = jointer;
        d.accessory = 2;
        d.body = {
            {"fault", "nick"}, {"side", "A"}, {"size_mm", 0.2}, {"words", "nick A"}, {"decision", "accept"}};
        REQUIRE_OK(log.append(d));
        d.body["side"] = "B";
        d.body["decision"] = "rework";
        REQUIRE_OK(log.append(d));
        const auto judged = judge_as_built(state(log), test::library());
        REQUIRE_OK(judged);
        QCOMPARE(judged->built.job.find_design("breakwater")->faults.size(), std::size_t{1});
        QVERIFY(judged->designed->prepared.design.faults.empty());
        QVERIFY(judged->words().find("as built: ") == 0);
        QVERIFY(judged->words().find("the limit of “") != std::string::npos); // says why
        // A row that changes nothing of the field solves nothing again; one that does solves what was built.
        REQUIRE_OK(log.append(note("a word", 2)));
        const auto noted = judge_as_built(state(log), test::library(), nullptr, &*judged);
        REQUIRE_OK(noted);
        QCOMPARE(noted->designed.get(), judged->designed.get());
        QCOMPARE(noted->as_built.get(), judged->as_built.get());
        const auto p = planned(test::demo_job(), "breakwater");
        const auto& edge = *p.plan.find(MarkKind::screen_edge, CableSide::a);
        REQUIRE_OK(log.append(mark_reading(edge, p.plan, edge.from_datum_mm + 1, jointer, 2)));
        const auto moved = judge_as_built(state(log), test::library(), nullptr, &*noted);
        REQUIRE_OK(moved);
        QCOMPARE(moved->designed.get(), judged->designed.get());
        QVERIFY(moved->as_built.get() != judged->as_built.get());
        QVERIFY(judged->pairs().size() >= judged->designed->verdict.checks.size());
    }
    void hold_points_stay_open_until_accepted_and_sign_offs_need_them() {
        Folder folder;
        auto log = begun(folder / "a.nglog");
        const auto p = planned(test::demo_job(), "causeway");
        const auto all = open_holds(state(log), p.sheet).size();
        QVERIFY(all > 10);
        const auto hold = [&](const std::string& step, const char* decision) {
            EntryDraft d;
            d.kind = "hold_point";
            d.who = inspector;
            d.accessory = 2;
            d.body = {{"step", step}, {"check", "it"}, {"found", "so"}, {"decision", decision}};
            return log.append(d).has_value();
        };
        QVERIFY(hold("screen-strip", "rework"));
        QCOMPARE(open_holds(state(log), p.sheet).size(), all);
        QVERIFY(hold("screen-strip", "accept"));
        QCOMPARE(open_holds(state(log), p.sheet).size(), all - 1);
        QCOMPARE(state(log).reworks(), 1);
        auto signs = [&](const char* closes, const Who& who, const std::string& reason = {}) {
            return sign_off(state(log), p.sheet, log.last(), closes, who, reason);
        };
        QVERIFY(!signs("built", jointer));
        for (const auto& step : p.sheet.steps)
            if (step.hold) QVERIFY(hold(step.id, "accept"));
        REQUIRE_OK(signs("built", jointer));
        REQUIRE_OK(log.append(*signs("built", jointer)));
        QVERIFY(signs("inspected", {"inspector", "AB"}).error().problem.find("whoever built") !=
                std::string::npos);
        REQUIRE_OK(log.append(*signs("inspected", inspector)));
        QVERIFY(signs("tested", tester).error().problem.find("no test") != std::string::npos);
        REQUIRE_OK(log.append(*signs("tested", tester, "tested with the whole circuit later")));
        QVERIFY(signs("approved", tester).error().message().find("released") != std::string::npos);
        QVERIFY(state(log).signed_off("built"));
        // A correction after it opens it again; so does a hold point that is no longer accepted.
        auto right = note("x", 2);
        REQUIRE_OK(log.append(right));
        right.corrects = log.last().rows;
        right.why = "wrong";
        REQUIRE_OK(log.append(right)); // of a row after all sign-offs: opens none
        QVERIFY(state(log).signed_off("built"));
        QVERIFY(hold("inspect", "rework"));
        QVERIFY(!state(log).signed_off("built") && !state(log).signed_off("inspected"));
    }
    void ranges_follow_the_window_of_the_field() {
        auto p = planned(test::demo_job(), "quay-mast");
        auto mark = *p.plan.find(MarkKind::screen_edge);
        auto range = range_of(mark, p.plan);
        QCOMPARE(range.highest - range.lowest, 2 * mark.tolerance_mm);
        mark.accepted = AcceptanceWindow{0.4, 0.9, "the field", 0.4, 5};
        range = range_of(mark, p.plan);
        QVERIFY(std::abs(range.lowest - (mark.from_datum_mm - 0.9)) <
                1e-9); // the jacket cut lies away from the end
        QVERIFY(std::abs(range.highest - (mark.from_datum_mm + 0.4)) < 1e-9);
        QCOMPARE(range.whose, std::string("the field"));
    }
    /// NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2, flow rate of ten batches (from memory):
    /// mean 50.81, mean range 1.8778, limits 45.8159 and 55.8041.
    void chart_limits_are_those_of_a_worked_example() {
        const auto c = individuals_chart({49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1});
        COMPARE_WITHIN(c.mean, 50.81, 1e-9);
        COMPARE_WITHIN(c.mean_range, 1.8778, 1e-4);
        COMPARE_WITHIN(c.lower, 45.8159, 2e-4); // 2.66 there is 3 / 1.128
        COMPARE_WITHIN(c.upper, 55.8041, 2e-4);
        QVERIFY(c.outside.empty() && c.provisional());
        auto with_one = c.values;
        for (int i = 0; i < 20; ++i) with_one.push_back(50.5 + 0.2 * (i % 3));
        with_one.push_back(60);
        const auto d = individuals_chart(with_one);
        QCOMPARE(d.outside.back(), with_one.size() - 1);
        QCOMPARE(d.jumps.back(), with_one.size() - 1);
        QCOMPARE(individuals_chart({1}).upper, 0.0);
    }
    void rows_and_trends_are_found_over_a_folder() {
        Folder folder;
        fs::create_directories(folder / "deep/er");
        auto a = begun(folder / "a.nglog");
        auto b = begun(folder / "deep/er/b.nglog", "quay-mast");
        std::ofstream(folder / "broken.nglog")
            << "SQLite format 3 and then nothing that is one, but longer than its head.....";
        EntryDraft tool;
        tool.kind = "instrument";
        tool.who = jointer;
        tool.body = {{"instrument", "tape"}, {"serial", "T-9"}, {"due_on", "2020-01-01"}};
        const auto number = a.append(tool)->number;
        const auto p = planned(test::demo_job(), "causeway");
        const auto& edge = *p.plan.find(MarkKind::screen_edge, CableSide::a);
        for (int i = 0; i < 22; ++i) {
            auto r = mark_reading(edge, p.plan, edge.from_datum_mm + 0.1 * (i % 5) + (i == 21 ? 9 : 0),
                                  i % 2 ? jointer : inspector, 2);
            r.instrument = number;
            REQUIRE_OK(a.append(r));
        }
        const fs::path top = folder.dir.path().toStdString();
        SearchQuery q;
        q.words = "pit 4 screen edge";
        auto found = search_logs(top, q);
        REQUIRE_OK(found);
        QCOMPARE(found->logs, 2);
        QCOMPARE(found->found.size(), std::size_t{22});
        QCOMPARE(found->unread.size(), std::size_t{1});
        q = {};
        q.out_of_calibration = true;
        QCOMPARE(search_logs(top, q)->found.size(), std::size_t{22});
        q = {};
        q.family = "slip";
        q.words = "nothing like it";
        QVERIFY(search_logs(top, q)->found.empty());
        q = {};
        q.batch = "K-77";
        QCOMPARE(search_logs(top, q)->found.size(), std::size_t{24});
        const auto all = trends_of(top, "screen edge", TrendBy::all);
        REQUIRE_OK(all);
        QCOMPARE(all->groups.size(), std::size_t{1});
        QCOMPARE(all->groups[0].chart.outside, std::vector<std::size_t>{21});
        QCOMPARE(trends_of(top, "screen edge", TrendBy::jointer)->groups.size(), std::size_t{2});
        QVERIFY(!search_logs(folder / "nowhere", q));
    }
    void tests_of_the_duty_have_its_levels() {
        const auto levels = load_site_levels(test::library());
        REQUIRE_OK(levels);
        const auto p = *prepare_design(test::demo_job(), "quay-mast", test::library());
        const auto tests = site_tests(p, Occasion::acceptance, *levels);
        REQUIRE_OK(tests);
        const auto find = [&](const char* id) {
            return *std::find_if(tests->begin(), tests->end(), [&](const auto& t) { return t.id == id; });
        };
        // IEEE 400.2, class 15 kV, acceptance (from memory): 21 kV rms for 60 min.
        QCOMPARE(p.design.duty.class_kV, 15.0);
        QCOMPARE(find("withstand").level, 21.0);
        QCOMPARE(find("withstand").minutes, 60.0);
        QVERIFY(find("withstand").limits.find("memory") != std::string::npos);
        for (const auto& t : *tests) QVERIFY(!t.cautions.empty() && !t.limits.empty());
        auto bad = levels->document;
        bad["jacket"].erase("most_kV");
        QVERIFY(read_site_levels(bad, "own.json").error().message().find("most_kV") != std::string::npos);
        // Each section of the file is needed: without one, the file is refused by its name.
        for (const auto& [key, unused] : levels->document.items()) {
            if (!levels->document[key].is_object()) continue;
            auto without = levels->document;
            without.erase(key);
            const auto read = read_site_levels(without, "own.json");
            QVERIFY2(!read, key.c_str());
            QVERIFY2(read.error().message().find(key) != std::string::npos, key.c_str());
        }
        auto high = p;
        high.design.duty.class_kV = 69;
        QVERIFY(!site_tests(high, Occasion::acceptance, *levels));
    }
    void traces_pass_only_when_held_for_the_whole_time() {
        SiteTest t{"withstand", "Withstand", "vlf", 21, "kV", 0.1, 1};
        t.most = 1.0;
        t.reading_unit = "mA";
        const auto trace = [](double level, double seconds, double mA) {
            std::vector<TracePoint> out;
            for (double s = 0; s <= seconds; s += 1) out.push_back({s, s < 5 ? level * s / 5 : level, mA});
            return out;
        };
        QCOMPARE(judge_trace(t, trace(21, 66, 0.2), false).result, std::string("pass"));
        QCOMPARE(judge_trace(t, trace(21, 50, 0.2), false).result, std::string("aborted"));
        QCOMPARE(judge_trace(t, trace(20, 90, 0.2), false).result, std::string("aborted"));
        QCOMPARE(judge_trace(t, trace(21, 90, 1.2), false).result, std::string("fail"));
        QCOMPARE(judge_trace(t, trace(21, 66, 0.2), true).result, std::string("fail"));
        auto dipped = trace(21, 100, 0.2);
        dipped[50].level = 10; // a hold that was broken begins again
        QCOMPARE(judge_trace(t, dipped, false).result, std::string("aborted"));
        const auto csv = trace_csv(t, trace(21, 10, 0.2));
        QCOMPARE(read_trace(csv, "t.csv")->size(), std::size_t{11});
        QVERIFY(read_trace("time_s,level,reading\n1,2,x\n", "t.csv").error().message().find("line 2") !=
                    std::string::npos ||
                read_trace("time_s,level,reading\n1,2,x\n", "t.csv").error().message().find("row") !=
                    std::string::npos);
        QVERIFY(!read_trace("time_s,level,reading\n2,2,1\n1,2,1\n", "t.csv"));
        SiteTest r{"ir", "Resistance", "insulation", 5};
        r.least = 1000;
        QCOMPARE(judge_reading(r, 900).result, std::string("fail"));
        QCOMPARE(judge_reading(r, 1000).result, std::string("pass"));
    }
    /// At 0.1 Hz a semiconductive tube of 1e-8 S/m conducts: the field moves away from the screen edge.
    void a_slow_test_stresses_other_places() {
        const auto levels = *load_site_levels(test::library());
        const auto job = test::demo_job();
        const auto p = *prepare_design(job, "quay-mast", test::library());
        const auto tests = *site_tests(p, Occasion::maintenance, levels);
        for (const auto& t : tests) {
            if (t.id != "withstand") continue;
            const auto field = field_at_test(job, "quay-mast", t, test::library());
            REQUIRE_OK(field);
            QVERIFY(!field->rows.empty());
            QCOMPARE(field->test_hz, 0.1);
            bool differs = false;
            for (const auto& row : field->rows)
                differs |= std::abs(row.at_test / row.at_power - 1) > row.error + 0.02;
            QVERIFY(differs);
        }
    }

  private:
    static Job alone_of(const Job& job, const std::string& design);
};

#include "design/revisions.h"
Job TestRecord::alone_of(const Job& job, const std::string& design) {
    return alone(job, *job.find_design(design));
}

QTEST_APPLESS_MAIN(TestRecord)
#include "test_record.moc"
