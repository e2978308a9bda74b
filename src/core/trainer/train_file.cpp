#include "trainer/train_file.h"
#include "io/database.h"
#include "io/json_reader.h"
#include "units/version.h"
#include <SQLiteCpp/SQLiteCpp.h>
#include <fmt/format.h>

namespace ng {
namespace {

const DatabaseFormat train_format{train_application_id, train_format_version, 1, "trainer's file",
                                  "Give one that the trainer made (.ngtrain)"};

const std::vector<std::string>& train_schema() {
    static const std::vector<std::string> list{
        "CREATE TABLE trainee (number INTEGER PRIMARY KEY, role TEXT NOT NULL, initials TEXT NOT NULL, "
        "UNIQUE (role, initials)) STRICT",
        "CREATE TABLE exam (number INTEGER PRIMARY KEY, trainee INTEGER NOT NULL REFERENCES trainee (number) "
        "ON DELETE CASCADE, seed INTEGER NOT NULL, count INTEGER NOT NULL, level INTEGER NOT NULL, minutes "
        "REAL "
        "NOT NULL, begun_utc TEXT NOT NULL, ended_utc TEXT NOT NULL DEFAULT '') STRICT",
        "CREATE TABLE answer (number INTEGER PRIMARY KEY, trainee INTEGER NOT NULL REFERENCES trainee "
        "(number) "
        "ON DELETE CASCADE, exam INTEGER REFERENCES exam (number) ON DELETE CASCADE, at_utc TEXT NOT NULL, "
        "exercise TEXT NOT NULL, given TEXT NOT NULL, points REAL, result TEXT NOT NULL DEFAULT '', "
        "not_scored "
        "TEXT NOT NULL DEFAULT '') STRICT",
        "CREATE INDEX answer_of ON answer (trainee, number)"};
    return list;
}

Result<void> check_who(const Who& who) {
    for (const auto& [text, item] : {std::pair{who.role, "Role"}, std::pair{who.initials, "Initials"}})
        if (trimmed(text).empty() || !is_utf8(text) || text.size() > 40)
            return refuse(item, "it is no short text", "Give a role and initials, never a name");
    return {};
}

} // namespace

std::optional<int> rules_of_score(const std::string& text) {
    if (text.empty()) return {};
    const auto score = parse_json(text, "a score");
    if (!score || !score->is_object()) return {};
    const auto it = score->find("rules");
    return it != score->end() && it->is_number_integer() ? it->get<int>() : rules_before_versions;
}

struct TrainFile::Impl {
    std::filesystem::path path;
    std::unique_ptr<SQLite::Database> db;
    template <class Act> auto tried(Act act) const -> Result<decltype(act())> {
        try {
            return act();
        } catch (const SQLite::Exception& e) {
            return tl::unexpected(database_trouble(path, e));
        }
    }
    std::int64_t trainee(const Who& who) {
        SQLite::Statement insert(*db, "INSERT OR IGNORE INTO trainee (role, initials) VALUES (?, ?)");
        insert.bind(1, trimmed(who.role));
        insert.bind(2, trimmed(who.initials));
        insert.exec();
        SQLite::Statement ask(*db, "SELECT number FROM trainee WHERE role = ? AND initials = ?");
        ask.bind(1, trimmed(who.role));
        ask.bind(2, trimmed(who.initials));
        ask.executeStep();
        return ask.getColumn(0).getInt64();
    }
    /// A reading statement, of one trainee or of all.
    SQLite::Statement of(const std::string& select, const std::optional<Who>& who) const {
        SQLite::Statement ask(*db, select + (who ? " WHERE t.role = ? AND t.initials = ?" : "") +
                                       " ORDER BY r.number");
        if (who) {
            ask.bind(1, trimmed(who->role));
            ask.bind(2, trimmed(who->initials));
        }
        return ask;
    }
};

TrainFile::TrainFile(std::unique_ptr<Impl> impl) : impl_(std::move(impl)) {}
TrainFile::TrainFile(TrainFile&&) noexcept = default;
TrainFile& TrainFile::operator=(TrainFile&&) noexcept = default;
TrainFile::~TrainFile() = default;
const std::filesystem::path& TrainFile::path() const {
    return impl_->path;
}

Result<TrainFile> TrainFile::create(const std::filesystem::path& path) {
    std::error_code ignored;
    if (std::filesystem::exists(path, ignored))
        return refuse(path.filename().string(), "there is a file of this name already",
                      "Open that, or give another name");
    const auto made = make_database(path, train_format, train_schema());
    if (!made) return tl::unexpected(made.error());
    if (auto ok = publish_database(*made, path); !ok) return tl::unexpected(ok.error());
    return open(path);
}

Result<TrainFile> TrainFile::open(const std::filesystem::path& path, bool to_read) {
    bool damaged = false;
    auto db = open_database(path, train_format, to_read || !may_write_database(path), damaged);
    if (!db) return tl::unexpected(db.error());
    auto impl = std::make_unique<Impl>();
    impl->path = path;
    impl->db = std::move(*db);
    // Whatever lies in it shall not run, and its tables must be those that this program made.
    const auto same = impl->tried([&]() -> bool {
        std::set<std::string> found;
        SQLite::Statement ask(*impl->db, "SELECT sql FROM sqlite_schema WHERE sql IS NOT NULL");
        while (ask.executeStep()) found.insert(ask.getColumn(0).getString());
        return found == std::set<std::string>(train_schema().begin(), train_schema().end());
    });
    if (!same) return tl::unexpected(same.error());
    if (!*same)
        return refuse(path.filename().string(), "its tables are not those of a trainer's file",
                      train_format.remedy);
    return TrainFile(std::move(impl));
}

Result<TrainFile> TrainFile::open_or_create(const std::filesystem::path& path) {
    std::error_code ignored;
    return std::filesystem::exists(path, ignored) ? open(path) : create(path);
}

Result<std::int64_t> TrainFile::keep(const Who& who, const Exercise& exercise, const TrainAnswer& given,
                                     const TrainerData& data, const Result<Score>& score,
                                     std::optional<std::int64_t> exam, const TimeStamp& at) {
    if (auto ok = check_who(who); !ok) return tl::unexpected(ok.error());
    return impl_->tried([&] {
        SQLite::Transaction transaction(*impl_->db, SQLite::TransactionBehavior::IMMEDIATE);
        raise_version(*impl_->db, train_format);
        SQLite::Statement insert(*impl_->db,
                                 "INSERT INTO answer (trainee, exam, at_utc, exercise, given, points, "
                                 "result, not_scored) VALUES (?, ?, ?, ?, ?, ?, ?, ?)");
        insert.bind(1, impl_->trainee(who));
        exam ? insert.bind(2, *exam) : insert.bind(2);
        insert.bind(3, at.utc);
        insert.bind(4, exercise_json(exercise, data, true).dump());
        insert.bind(5, answer_json(given).dump());
        score ? insert.bind(6, score->points) : insert.bind(6);
        insert.bind(7, score ? score_json(exercise, *score).dump() : std::string());
        insert.bind(8, score ? std::string() : score.error().message());
        insert.exec();
        const std::int64_t number = impl_->db->getLastInsertRowid();
        transaction.commit();
        return number;
    });
}

Result<void> TrainFile::set_score(std::int64_t number, const Exercise& exercise, const Score& score) {
    const auto changed = impl_->tried([&] {
        SQLite::Transaction transaction(*impl_->db, SQLite::TransactionBehavior::IMMEDIATE);
        raise_version(*impl_->db, train_format);
        SQLite::Statement update(*impl_->db,
                                 "UPDATE answer SET points = ?, result = ?, not_scored = '' WHERE "
                                 "number = ? AND points IS NULL");
        update.bind(1, score.points);
        update.bind(2, score_json(exercise, score).dump());
        update.bind(3, number);
        const int count = update.exec();
        transaction.commit();
        return count;
    });
    if (!changed) return tl::unexpected(changed.error());
    if (*changed == 0)
        return refuse("Answer", fmt::format("{} is not there, or scored already", number),
                      "Nothing was changed");
    return {};
}

Result<std::vector<KeptAnswer>> TrainFile::answers(const std::optional<Who>& who) const {
    return impl_->tried([&] {
        std::vector<KeptAnswer> out;
        auto ask =
            impl_->of("SELECT r.number, t.role, t.initials, r.at_utc, r.exam, r.exercise, r.given, r.points, "
                      "r.result, r.not_scored FROM answer r JOIN trainee t ON t.number = r.trainee",
                      who);
        while (ask.executeStep()) {
            KeptAnswer a;
            a.number = ask.getColumn(0).getInt64();
            a.who = {ask.getColumn(1).getString(), ask.getColumn(2).getString()};
            a.at_utc = ask.getColumn(3).getString();
            if (!ask.getColumn(4).isNull()) a.exam = ask.getColumn(4).getInt64();
            a.exercise = ask.getColumn(5).getString();
            a.given = ask.getColumn(6).getString();
            if (!ask.getColumn(7).isNull()) a.points = ask.getColumn(7).getDouble();
            a.result = ask.getColumn(8).getString();
            a.not_scored = ask.getColumn(9).getString();
            a.rules = rules_of_score(a.result);
            out.push_back(std::move(a));
        }
        return out;
    });
}

Result<Progress> TrainFile::progress(const Who& who) const {
    // Scores alone: the exercises hold whole jobs. What is not scored counts neither way.
    const auto results = impl_->tried([&] {
        std::vector<std::string> out;
        auto ask =
            impl_->of("SELECT r.result FROM answer r JOIN trainee t ON t.number = r.trainee AND r.points "
                      "IS NOT NULL",
                      who);
        while (ask.executeStep()) out.push_back(ask.getColumn(0).getString());
        return out;
    });
    if (!results) return tl::unexpected(results.error());
    Progress out;
    for (const auto& text : *results) {
        const auto result = parse_json(text, "a score");
        if (!result) continue;
        JsonReader in(*result, "a score");
        std::vector<std::pair<std::string, bool>> topics;
        for (const auto& t : in.array("topics")) {
            JsonReader of(t, "a topic");
            const auto name = of.text("topic");
            const bool right = of.boolean_or("right", false);
            if (of.ok()) topics.emplace_back(name, right);
        }
        out.take(topics);
    }
    return out;
}

Result<std::vector<Who>> TrainFile::trainees() const {
    return impl_->tried([&] {
        std::vector<Who> out;
        SQLite::Statement ask(*impl_->db, "SELECT role, initials FROM trainee ORDER BY number");
        while (ask.executeStep()) out.push_back({ask.getColumn(0).getString(), ask.getColumn(1).getString()});
        return out;
    });
}

Result<Exam> TrainFile::begin_exam(const Who& who, std::uint64_t seed, int count, int level, double minutes,
                                   const TimeStamp& at) {
    if (auto ok = check_who(who); !ok) return tl::unexpected(ok.error());
    if (count < 1 || count > 100 || level < 1 || level > 3 || !(minutes > 0) || minutes > 600 ||
        seed > most_seed)
        return refuse("Exam", "its seed, count, level or time is none",
                      "Give 1 to 100 exercises, level 1 to 3, up to 600 minutes");
    return impl_->tried([&] {
        SQLite::Transaction transaction(*impl_->db, SQLite::TransactionBehavior::IMMEDIATE);
        SQLite::Statement insert(*impl_->db,
                                 "INSERT INTO exam (trainee, seed, count, level, minutes, begun_utc) "
                                 "VALUES (?, ?, ?, ?, ?, ?)");
        insert.bind(1, impl_->trainee(who));
        insert.bind(2, static_cast<std::int64_t>(seed));
        insert.bind(3, count);
        insert.bind(4, level);
        insert.bind(5, minutes);
        insert.bind(6, at.utc);
        insert.exec();
        const Exam out{impl_->db->getLastInsertRowid(), who, seed, count, level, minutes, at.utc, ""};
        transaction.commit();
        return out;
    });
}

Result<void> TrainFile::end_exam(std::int64_t number, const TimeStamp& at) {
    const auto done = impl_->tried([&] {
        SQLite::Statement update(*impl_->db,
                                 "UPDATE exam SET ended_utc = ? WHERE number = ? AND ended_utc = ''");
        update.bind(1, at.utc);
        update.bind(2, number);
        return update.exec();
    });
    if (!done) return tl::unexpected(done.error());
    if (*done == 0) return refuse("Exam", fmt::format("{} is not running", number), "Nothing was changed");
    return {};
}

Result<std::vector<Exam>> TrainFile::exams(const std::optional<Who>& who) const {
    return impl_->tried([&] {
        std::vector<Exam> out;
        auto ask = impl_->of(
            "SELECT r.number, t.role, t.initials, r.seed, r.count, r.level, r.minutes, r.begun_utc, "
            "r.ended_utc FROM exam r JOIN trainee t ON t.number = r.trainee",
            who);
        while (ask.executeStep())
            out.push_back({ask.getColumn(0).getInt64(),
                           {ask.getColumn(1).getString(), ask.getColumn(2).getString()},
                           static_cast<std::uint64_t>(ask.getColumn(3).getInt64()),
                           ask.getColumn(4).getInt(),
                           ask.getColumn(5).getInt(),
                           ask.getColumn(6).getDouble(),
                           ask.getColumn(7).getString(),
                           ask.getColumn(8).getString()});
        return out;
    });
}

Result<std::size_t> TrainFile::forget(const Who& who) {
    const auto gone = impl_->tried([&]() -> std::optional<std::size_t> {
        std::size_t answers = 0;
        auto count = impl_->of("SELECT r.number FROM answer r JOIN trainee t ON t.number = r.trainee", who);
        while (count.executeStep()) ++answers;
        impl_->db->exec("PRAGMA secure_delete = ON"); // no page keeps what was in it
        SQLite::Statement remove(*impl_->db, "DELETE FROM trainee WHERE role = ? AND initials = ?");
        remove.bind(1, trimmed(who.role));
        remove.bind(2, trimmed(who.initials));
        if (remove.exec() == 0) return {};
        impl_->db->exec("VACUUM");
        return answers;
    });
    if (!gone) return tl::unexpected(gone.error());
    if (!*gone)
        return refuse("Trainee",
                      fmt::format("nobody is {} {} here", one_line(who.role, 40), one_line(who.initials, 40)),
                      "Give role and initials as they were given");
    return **gone;
}

Result<std::size_t> score_again(TrainFile& file, const TrainerData& data) {
    const auto all = file.answers();
    if (!all) return tl::unexpected(all.error());
    std::size_t done = 0;
    for (const auto& a : *all) {
        if (a.points) continue;
        const auto asked = parse_json(a.exercise, "an exercise"), given = parse_json(a.given, "an answer");
        if (!asked || !given) continue;
        const auto exercise = read_exercise(*asked, "an exercise");
        const auto answer = read_answer(*given, "an answer");
        if (!exercise || !answer) continue;
        const auto scored = score(*exercise, *answer, data);
        if (scored && file.set_score(a.number, *exercise, *scored)) ++done;
    }
    return done;
}

Result<std::vector<Exercise>> exam_of(const Job& job, std::uint64_t seed, int count, const ExerciseWish& wish,
                                      const TrainerData& data) {
    if (count < 1 || count > 100)
        return refuse("Exam", fmt::format("{} exercises are none", count), "Give 1 to 100");
    std::vector<Exercise> out;
    for (int i = 0; i < count; ++i) {
        auto e = new_exercise(job, seed + static_cast<std::uint64_t>(i), wish, data);
        if (!e) return tl::unexpected(e.error());
        out.push_back(std::move(*e));
    }
    return out;
}

} // namespace ng
