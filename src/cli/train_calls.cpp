#include "cli/train_calls.h"
#include "cli/answer.h"
#include "cli/offscreen.h"
#include "draw/train_document.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <fmt/format.h>
#include <iostream>
#include <iterator>

namespace ng::cli {
namespace {

Result<ExerciseWish> wish_of(const TrainArguments& a) {
    ExerciseWish out;
    out.level = a.level;
    out.design = a.design;
    out.kind = a.kind;
    if (a.task.empty()) return out;
    out.task = task_of(a.task);
    if (out.task) return out;
    std::string known;
    for (const auto task : all_tasks()) known += (known.empty() ? "" : ", ") + std::string(task_word(task));
    return refuse("--task", fmt::format("“{}” is none", one_line(a.task, 60)), "Give one of: " + known);
}

Result<nlohmann::json> json_in(const std::string& path) {
    if (path == "-") {
        std::string text;
        for (char c; text.size() <= most_table_bytes && std::cin.get(c);) text += c;
        return parse_json(text, "standard input");
    }
    const auto text = read_file(path, most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    return parse_json(*text, std::filesystem::path(path).filename().string());
}

/// An exercise and what it is scored with.
struct Asked {
    TrainerData data;
    Exercise exercise;
};

Result<Asked> asked(const TrainArguments& a, const Library& library) {
    auto data = load_trainer(library);
    if (!data) return tl::unexpected(data.error());
    if (a.job.empty() == a.exercise.empty())
        return refuse("train", "it is not said which exercise", "Give a job with --seed, or --exercise");
    if (!a.exercise.empty()) {
        const auto document = json_in(a.exercise);
        if (!document) return tl::unexpected(document.error());
        auto e = read_exercise(*document, std::filesystem::path(a.exercise).filename().string());
        if (!e) return tl::unexpected(e.error());
        return Asked{std::move(*data), std::move(*e)};
    }
    const auto wish = wish_of(a);
    if (!wish) return tl::unexpected(wish.error());
    const auto job = load_job(a.job);
    if (!job) return tl::unexpected(job.error());
    auto e = new_exercise(*job, a.seed, *wish, *data);
    if (!e) return tl::unexpected(e.error());
    return Asked{std::move(*data), std::move(*e)};
}

void print_exercise(const Exercise& e, const TrainerData& data, bool json) {
    if (json) {
        std::cout << exercise_json(e, data, false).dump(1) << '\n';
        return;
    }
    fmt::print("{} (exercise {}, level {})\n", task_title(e.task), e.id, e.level);
    for (const auto& g : e.question.given) fmt::print("  {}\n", g);
    fmt::print("{}\n", e.question.words);
    for (const auto& o : e.question.options) fmt::print("  {}) {}\n", o.key, o.words);
    if (e.task != Task::inspect) return;
    for (const auto& m : data.means.means)
        fmt::print("  {:<12} {}, {}: {}\n", m.id, m.title, spent_words(m.seconds), m.how);
}

Result<Who> who_of(const TrainArguments& a) {
    if (a.role.empty() || a.initials.empty())
        return refuse("--role and --initials", "nobody is named",
                      "Give both: a role and initials, never a name");
    return Who{a.role, a.initials};
}

int write_document(const draw::Document& document, const TrainArguments& a) {
    if (!a.pdf.empty())
        if (auto ok = document.write_pdf(a.pdf); !ok) return complain(ok.error());
    if (!a.html.empty())
        if (auto ok = document.write_html(a.html); !ok) return complain(ok.error());
    return exit_holds;
}

nlohmann::ordered_json critical_json(const Exercise& e, const Truth& truth, const Library& library) {
    auto out = nlohmann::ordered_json::array();
    for (const auto& t : truth.faults) {
        const auto& kind = *find_fault_kind(t.fault.kind);
        if (kind.rule) continue;
        const auto size =
            critical_size(e.job, e.design, t.fault, library, truth.sound, nullptr, usable_threads());
        out.push_back(fault_json(t.fault, t.answer, size ? &*size : nullptr));
    }
    return out;
}

} // namespace

int run_train_new(const TrainArguments& a, const Library& library) {
    const auto made = asked(a, library);
    if (!made) return complain(made.error());
    if (!a.out.empty())
        if (auto ok = write_output(a.out, exercise_json(made->exercise, made->data, true).dump(1) + "\n");
            !ok)
            return complain(ok.error());
    print_exercise(made->exercise, made->data, a.json);
    return exit_holds;
}

int run_train_make(const TrainArguments& a, const Library& library) {
    const auto data = load_trainer(library);
    if (!data) return complain(data.error());
    const auto job = load_job(a.job);
    if (!job) return complain(job.error());
    const auto e = exercise_from(*job, a.design, *data);
    if (!e) return complain(e.error());
    if (auto ok = write_output(a.out, exercise_json(*e, *data, true).dump(1) + "\n"); !ok)
        return complain(ok.error());
    fmt::print("exercise {}: {} faults\n", e->id, e->faults().size());
    return exit_holds;
}

int run_train_look(const TrainArguments& a, const Library& library) {
    const auto made = asked(a, library);
    if (!made) return complain(made.error());
    const auto* means = made->data.means.find(a.means);
    std::optional<Truth> truth;
    if (means && needs_field(*means) && made->exercise.task == Task::inspect) {
        auto solved = truth_of(made->exercise, made->data);
        if (!solved) return complain(solved.error());
        truth = std::move(*solved);
    }
    const auto seen = look(made->exercise, a.means, made->data, truth ? &*truth : nullptr);
    if (!seen) return complain(seen.error());
    nlohmann::ordered_json out{{"format", "needlegauge-look"},  {"version", 1},
                               {"exercise", made->exercise.id}, {"means", a.means},
                               {"seconds", means->seconds},     {"seen", nlohmann::ordered_json::array()}};
    for (const auto& s : *seen) {
        nlohmann::ordered_json row{{"sees", s.sees}, {"side", side_letter(s.side)}};
        if (s.from_edge_mm) row["from_edge_mm"] = *s.from_edge_mm;
        if (s.size_mm) row["size_mm"] = *s.size_mm;
        out["seen"].push_back(std::move(row));
        if (!a.json)
            fmt::print("{}{}{}{}\n", s.sees, tag_of(s.side),
                       s.from_edge_mm ? fmt::format(", {} from the screen edge", in_mm(*s.from_edge_mm)) : "",
                       s.size_mm ? fmt::format(", reads {}", in_mm(*s.size_mm)) : "");
    }
    if (a.json)
        std::cout << out.dump(1) << '\n';
    else if (seen->empty())
        fmt::print("nothing is seen\n");
    return exit_holds;
}

int run_train_answer(const TrainArguments& a, const Library& library) {
    const auto made = asked(a, library);
    if (!made) return complain(made.error());
    const auto answer = right_answer(made->exercise, made->data);
    if (!answer) return complain(answer.error());
    std::cout << answer_json(*answer).dump(1) << '\n';
    return exit_holds;
}

int run_train_score(const TrainArguments& a, const Library& library) {
    std::optional<Who> who;
    if (!a.file.empty()) {
        auto named = who_of(a);
        if (!named) return complain(named.error());
        who = std::move(*named);
    }
    const auto made = asked(a, library);
    if (!made) return complain(made.error());
    const auto& e = made->exercise;
    const auto document = json_in(a.given);
    if (!document) return complain(document.error());
    const auto answer = read_answer(*document, a.given == "-" ? "standard input" : a.given);
    if (!answer) return complain(answer.error());
    std::optional<Truth> truth;
    if (e.task == Task::inspect && check_unchanged(e, made->data)) {
        auto solved = truth_of(e, made->data);
        if (!solved) return complain(solved.error());
        truth = std::move(*solved);
    }
    const auto scored = score(e, *answer, made->data, truth ? &*truth : nullptr);
    if (who) {
        auto file = TrainFile::open_or_create(a.file);
        if (!file) return complain(file.error());
        const auto kept =
            file->keep(*who, e, *answer, made->data, scored, a.exam ? std::optional(a.exam) : std::nullopt);
        if (!kept) return complain(kept.error());
    }
    if (!scored) return complain(scored.error());
    if (a.json) {
        auto out = score_json(e, *scored);
        if (a.critical && truth) out["faults"] = critical_json(e, *truth, library);
        std::cout << out.dump(1) << '\n';
    } else {
        fmt::print("{:.0f} % of the points, {}\n", 100 * scored->points, spent_words(scored->seconds));
        for (const auto& line : scored->lines) fmt::print("  {}\n", line);
        for (const auto& line : scored->costs) fmt::print("  {}\n", line);
        if (a.critical && truth)
            for (const auto& f : critical_json(e, *truth, library)) std::cout << "  " << f.dump() << '\n';
    }
    return scored->right ? exit_holds : exit_falls_short;
}

int run_train_next(const TrainArguments& a, const Library& library) {
    const auto data = load_trainer(library);
    if (!data) return complain(data.error());
    const auto job = load_job(a.job);
    if (!job) return complain(job.error());
    const auto file = TrainFile::open(a.file, true);
    if (!file) return complain(file.error());
    const auto progress = file->progress({a.role, a.initials});
    if (!progress) return complain(progress.error());
    const auto e = next_exercise(*job, a.design, *progress, *data);
    if (!e) return complain(e.error());
    print_exercise(*e, *data, a.json);
    return exit_holds;
}

int run_train_progress(const TrainArguments& a) {
    const auto file = TrainFile::open(a.file, true);
    if (!file) return complain(file.error());
    const auto trainees = file->trainees();
    if (!trainees) return complain(trainees.error());
    auto out = nlohmann::ordered_json::array();
    for (const auto& who : *trainees) {
        if (!a.initials.empty() && (who.initials != a.initials || (!a.role.empty() && who.role != a.role)))
            continue;
        const auto progress = file->progress(who);
        if (!progress) return complain(progress.error());
        if (!a.json) fmt::print("{} {}: {} exercises\n", who.role, who.initials, progress->exercises());
        nlohmann::ordered_json one{{"role", who.role},
                                   {"initials", who.initials},
                                   {"exercises", progress->exercises()},
                                   {"topics", nlohmann::ordered_json::array()}};
        for (const auto& t : progress->topics()) {
            one["topics"].push_back(
                {{"topic", t.name}, {"box", t.box}, {"asked", t.answers.size()}, {"right", t.right()}});
            for (const auto& [exercise, right] : t.answers)
                one["topics"].back()["answers"].push_back({{"exercise", exercise}, {"right", right}});
            if (!a.json)
                fmt::print("  {:<34} box {}, {} of {} right\n", topic_title(t.name), t.box, t.right(),
                           t.answers.size());
        }
        out.push_back(std::move(one));
    }
    if (a.json)
        std::cout << nlohmann::ordered_json{{"format", "needlegauge-progress"},
                                            {"version", 1},
                                            {"trainees", out}}
                         .dump(1)
                  << '\n';
    return exit_holds;
}

int run_train_exam(const TrainArguments& a, const Library& library) {
    const auto data = load_trainer(library);
    if (!data) return complain(data.error());
    const auto wish = wish_of(a);
    if (!wish) return complain(wish.error());
    const auto job = load_job(a.job);
    if (!job) return complain(job.error());
    const auto exercises = exam_of(*job, a.seed, a.count, *wish, *data);
    if (!exercises) return complain(exercises.error());
    Exam exam{0, {}, a.seed, a.count, a.level, a.minutes, "", ""};
    if (!a.file.empty()) {
        const auto who = who_of(a);
        if (!who) return complain(who.error());
        auto file = TrainFile::open_or_create(a.file);
        if (!file) return complain(file.error());
        auto begun = file->begin_exam(*who, a.seed, a.count, a.level, a.minutes);
        if (!begun) return complain(begun.error());
        exam = std::move(*begun);
    }
    if (a.json) {
        nlohmann::ordered_json out{{"format", "needlegauge-exam"},
                                   {"version", 1},
                                   {"seed", a.seed},
                                   {"level", a.level},
                                   {"minutes", a.minutes},
                                   {"exercises", nlohmann::ordered_json::array()}};
        for (const auto& e : *exercises) out["exercises"].push_back(exercise_json(e, *data, false));
        std::cout << out.dump(1) << '\n';
    } else {
        for (const auto& e : *exercises) print_exercise(e, *data, false);
    }
    if (exam.number && !a.json) fmt::print("exam {} has begun\n", exam.number);
    if (a.pdf.empty() && a.html.empty()) return exit_holds;
    const OffscreenGui gui;
    return write_document(draw::exam_document(*exercises, exam, job->title, *data), a);
}

int run_train_report(const TrainArguments& a) {
    if (a.pdf.empty() && a.html.empty())
        return complain({"report", "no file is named", "Give --pdf or --html"});
    const auto file = TrainFile::open(a.file, true);
    if (!file) return complain(file.error());
    const auto exams = file->exams();
    if (!exams) return complain(exams.error());
    for (const auto& exam : *exams) {
        if (exam.number != a.exam) continue;
        const auto answers = file->answers(exam.who);
        const auto progress = file->progress(exam.who);
        if (!answers) return complain(answers.error());
        if (!progress) return complain(progress.error());
        std::vector<KeptAnswer> of_it;
        for (const auto& one : *answers)
            if (one.exam == exam.number) of_it.push_back(one);
        const OffscreenGui gui;
        return write_document(draw::result_document(exam, of_it, *progress), a);
    }
    return complain(
        {"--exam", fmt::format("there is no exam {}", a.exam), "Give the number that “train exam” printed"});
}

int run_train_again(const TrainArguments& a, const Library& library) {
    const auto data = load_trainer(library);
    if (!data) return complain(data.error());
    auto file = TrainFile::open(a.file);
    if (!file) return complain(file.error());
    const auto done = score_again(*file, *data);
    if (!done) return complain(done.error());
    fmt::print("{} scored\n", *done);
    return exit_holds;
}

int run_train_forget(const TrainArguments& a) {
    auto file = TrainFile::open(a.file);
    if (!file) return complain(file.error());
    const auto gone = file->forget({a.role, a.initials});
    if (!gone) return complain(gone.error());
    fmt::print("{} answers deleted\n", *gone);
    return exit_holds;
}

} // namespace ng::cli
