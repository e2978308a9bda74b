#include "cli/options.h"
#include "cli/train_calls.h"

namespace ng::cli {

void add_train_calls(CLI::App& parent, CallList& calls) {
    const CallGroup train(parent, calls, "train",
                          "Exercises for hands and eyes, answered by the field, the plan and the sheet");
    const auto fresh = [] { return std::make_shared<TrainArguments>(); };
    using Arguments = std::shared_ptr<TrainArguments>;
    const auto job = [](CLI::App* one, const Arguments& a) {
        one->add_option("job", a->job, "job file (.ngjob)")->required();
    };
    const auto wish = [](CLI::App* one, const Arguments& a) {
        one->add_option("--seed", a->seed, "the same exercise for the same job and seed");
        one->add_option("--level", a->level, "1 to 3: easily found to hardly found")->check(CLI::Range(1, 3));
        one->add_option("--design", a->design, "id of the design; by the seed if none");
        one->add_option("--task", a->task,
                        "inspect, order, missing, blade, tool, connector, datum, window or caution");
        one->add_option("--kind", a->kind, "of fault that is among them");
    };
    /// By job and seed, or an instructor's own.
    const auto which = [&](CLI::App* one, const Arguments& a) {
        one->add_option("job", a->job, "job file (.ngjob)");
        wish(one, a);
        one->add_option("--exercise", a->exercise,
                        "whole exercise, as “train make” writes it, instead of a job");
        one->add_flag("--json", a->json, "print as JSON");
    };
    const auto file = [](CLI::App* one, const Arguments& a) {
        one->add_option("file", a->file, "trainer's file (.ngtrain)")->required();
    };
    const auto who = [](CLI::App* one, const Arguments& a) {
        return std::pair(one->add_option("--role", a->role, "apprentice, jointer"),
                         one->add_option("--initials", a->initials, "never a name"));
    };
    const auto known = [&](CLI::App* one, const Arguments& a) {
        const auto [role, initials] = who(one, a);
        role->required();
        initials->required();
    };
    auto a = fresh();
    auto* one = train.add("new", "An exercise, without its answer", a, run_train_new);
    job(one, a);
    wish(one, a);
    one->add_flag("--json", a->json, "print as JSON");
    add_output(one, "--out", a->out, "the whole exercise with its answer, for the instructor");
    a = fresh();
    one = train.add("make", "An instructor's exercise from the faults of a design", a, run_train_make);
    job(one, a);
    one->add_option("--design", a->design, "id of the design")->required();
    add_output(one, "--out", a->out, "file to write, with its answer")->required();
    a = fresh();
    one = train.add("look", "What a look with one means shows", a, run_train_look);
    which(one, a);
    one->add_option("--means", a->means,
                    "loupe, rule, caliper, fingernail, light, wipe, eye, continuity, discharge")
        ->required();
    a = fresh();
    which(train.add("answer", "The right answer, as “train score” takes it", a, run_train_answer), a);
    a = fresh();
    one = train.add("score", "What an answer is worth, and why", a, run_train_score);
    which(one, a);
    one->add_option("--given", a->given, "answer (JSON); - for standard input")->required();
    one->add_option("--file", a->file, "trainer's file that keeps it (.ngtrain)");
    who(one, a);
    one->add_option("--exam", a->exam, "number of the exam that it belongs to");
    one->add_flag("--critical", a->critical, "with the size at which each fault hurts");
    a = fresh();
    one = train.add("next", "The exercise that comes next: what was weak, again", a, run_train_next);
    file(one, a);
    job(one, a);
    one->add_option("--design", a->design, "id of the design; by the seed if none");
    known(one, a);
    one->add_flag("--json", a->json, "print as JSON");
    a = fresh();
    one = train.add("progress", "Boxes by topic", a, run_train_progress);
    file(one, a);
    who(one, a);
    one->add_flag("--json", a->json, "print as JSON");
    a = fresh();
    one = train.add("exam", "The sheet of an exam, the same for a whole class", a, run_train_exam);
    job(one, a);
    wish(one, a);
    one->add_option("--count", a->count, "exercises")->check(CLI::Range(1, 100));
    one->add_option("--minutes", a->minutes, "that it may take");
    one->add_option("--file", a->file, "trainer's file in which it begins (.ngtrain)");
    who(one, a);
    add_output(one, "--pdf", a->pdf, "printed");
    add_output(one, "--html", a->html, "one file");
    one->add_flag("--json", a->json, "print as JSON");
    a = fresh();
    one = train.add("report", "The result of an exam, to be signed", a, run_train_report);
    file(one, a);
    one->add_option("--exam", a->exam, "its number")->required();
    add_output(one, "--pdf", a->pdf, "printed");
    add_output(one, "--html", a->html, "one file");
    a = fresh();
    file(train.add("again", "Score what was kept without a score, where that is possible now", a,
                   run_train_again),
         a);
    a = fresh();
    one = train.add("forget", "Delete all of one trainee", a, run_train_forget);
    file(one, a);
    known(one, a);
}

} // namespace ng::cli
