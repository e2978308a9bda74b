#include "trainer/exercise.h"
#include "design/revisions.h"
#include "fault/answer.h"
#include "io/digest.h"
#include "io/json_reader.h"
#include "trainer/drills.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace ng {
namespace {

constexpr const char* exercise_format = "needlegauge-exercise";
constexpr std::size_t tries_for_a_fault = 12;

struct TaskWords {
    Task task;
    const char *word, *title;
};
constexpr TaskWords task_words[] = {{Task::inspect, "inspect", "Find and judge the faults"},
                                    {Task::order, "order", "Put the steps in order"},
                                    {Task::missing, "missing", "Find the missing step"},
                                    {Task::blade, "blade", "Set the blade"},
                                    {Task::tool, "tool", "Choose the tool"},
                                    {Task::connector, "connector", "Half connector and allowance"},
                                    {Task::datum, "datum", "From one datum to another"},
                                    {Task::window, "window", "Accept or not, by the window"},
                                    {Task::caution, "caution", "Which caution belongs here"}};

const TaskWords& words_of(Task task) {
    return *std::find_if(std::begin(task_words), std::end(task_words),
                         [&](const auto& w) { return w.task == task; });
}

/// Of the size that nine of ten find: what a fault of this level has.
std::pair<double, double> share_of_level(int level) {
    return level == 1 ? std::pair{1.5, 8.0} : level == 2 ? std::pair{0.7, 2.5} : std::pair{0.35, 1.0};
}

double two_decimals(double v) {
    return std::round(100 * v) / 100;
}

Fault invented(Fault fault, int level, Chance& chance) {
    const auto& kind = *find_fault_kind(fault.kind);
    if (kind.rule) return fault;
    const double found = found_from_mm(kind.inspection);
    const auto [low, high] = share_of_level(level);
    const double size = std::isfinite(found)
                            ? std::clamp(found * chance.log_between(low, high), kind.least_mm, kind.most_mm)
                            : chance.log_between(kind.least_mm, kind.most_mm);
    fault.size_mm = std::max(two_decimals(size), kind.least_mm);
    if (kind.put && kind.from_edge_mm > 0)
        fault.from_edge_mm = two_decimals(kind.from_edge_mm * chance.between(0.6, 2.5));
    if (kind.has_filling && chance.happens(0.25)) fault.filling = "grease";
    return fault;
}

/// Faults that go onto this design together; refuses by what keeps the wished kind off it.
Result<std::vector<Fault>> invent(const Job& job, const std::string& design, const ExerciseWish& wish,
                                  std::vector<Fault> possible, const Library& library, Chance& chance) {
    const double how_many = chance.one();
    const std::size_t count = how_many < 0.15 ? 0 : how_many < 0.6 ? 1 : how_many < 0.9 ? 2 : 3;
    std::vector<Fault> out;
    /// Where it was drawn to lie, else where its kind usually lies; false: it goes nowhere on this design.
    const auto add = [&](const Fault& like) {
        auto fault = invented(like, wish.level, chance);
        for (const bool usual_place : {false, true}) {
            if (usual_place) fault.from_edge_mm.reset();
            out.push_back(fault);
            if (prepare_faulty(job, design, out, library)) return true;
            out.pop_back();
        }
        return false;
    };
    chance.shuffle(possible);
    if (!wish.kind.empty()) {
        const bool there = std::any_of(possible.begin(), possible.end(),
                                       [&](const auto& f) { return f.kind == wish.kind && add(f); });
        if (!there)
            return refuse(design, fmt::format("it cannot have the fault “{}”", wish.kind),
                          "Choose another design or kind");
    }
    possible.resize(std::min(possible.size(), tries_for_a_fault));
    for (const auto& like : possible) {
        if (out.size() >= count) break;
        if (std::none_of(out.begin(), out.end(), [&](const auto& f) { return f.kind == like.kind; }))
            add(like);
    }
    return out;
}

nlohmann::ordered_json question_json(const Question& q) {
    static const std::map<Question::Form, const char*> forms{{Question::Form::inspection, "inspection"},
                                                             {Question::Form::order, "order"},
                                                             {Question::Form::one, "one"},
                                                             {Question::Form::number, "number"}};
    nlohmann::ordered_json out{{"form", forms.at(q.form)}, {"asks", q.words}, {"given", q.given}};
    if (!q.unit.empty()) out["unit"] = q.unit;
    if (!q.options.empty()) {
        out["options"] = nlohmann::ordered_json::array();
        for (const auto& o : q.options) out["options"].push_back({{"key", o.key}, {"words", o.words}});
    }
    return out;
}

std::string id_of(const Exercise& e) {
    auto made = nlohmann::ordered_json{{"seed", e.seed},
                                       {"level", e.level},
                                       {"task", task_word(e.task)},
                                       {"design", e.design},
                                       {"by_hand", e.made_by_hand},
                                       {"data", e.data_hash},
                                       {"job", sha256_hex(write_job(e.job).dump())},
                                       {"question", question_json(e.question)}};
    return sha256_hex(made.dump()).substr(0, 16);
}

/// The job with this design alone, without what hands left on it.
Job frozen_of(const Job& job, const std::string& design) {
    auto out = alone(job, *job.find_design(design));
    out.find_design(design)->faults.clear();
    out.open_design = design;
    return out;
}

Question inspection_of(const PlannedWork& bench) {
    Question q;
    q.words =
        "Look at it with what you choose; name what you find, judge it, then the whole: is it released?";
    q.given = given_of(bench);
    return q;
}

Result<Exercise> exercise_of(Exercise e, const Job& job, const ExerciseWish& wish, const TrainerData& data) {
    e.job = frozen_of(job, e.design);
    e.data_hash = data.hash;
    const auto bench = lay_out(e.job, e.design, data);
    if (!bench) return tl::unexpected(bench.error());
    if (e.task == Task::inspect) {
        e.question = inspection_of(*bench);
        auto possible = faults_to_ask(bench->prepared, bench->sheet);
        if (!possible) return tl::unexpected(possible.error());
        auto chance = e.chance("faults");
        auto faults = invent(e.job, e.design, wish, std::move(*possible), *data.library, chance);
        if (!faults) return tl::unexpected(faults.error());
        e.job.find_design(e.design)->faults = std::move(*faults);
    } else {
        auto drill = make_drill(e.task, *bench, e.job, e.design, data, e.chance("drill"));
        if (!drill) return tl::unexpected(drill.error());
        e.question = std::move(drill->question);
        const auto given = given_of(*bench);
        e.question.given.insert(e.question.given.begin(), given.begin(), given.end());
    }
    e.id = id_of(e);
    return e;
}

} // namespace

const std::vector<Task>& all_tasks() {
    static const std::vector<Task> list = [] {
        std::vector<Task> out;
        for (const auto& w : task_words) out.push_back(w.task);
        return out;
    }();
    return list;
}

const char* task_word(Task task) {
    return words_of(task).word;
}

const char* task_title(Task task) {
    return words_of(task).title;
}

std::optional<Task> task_of(const std::string& word) {
    for (const auto& w : task_words)
        if (word == w.word) return w.task;
    return {};
}

Chance Exercise::chance(const std::string& purpose) const {
    return {seed, fmt::format("{}|{}|{}|{}", task_word(task), level, design, purpose)};
}

std::vector<std::string> Exercise::topics() const {
    if (task != Task::inspect) return {std::string("drill: ") + task_word(task)};
    std::vector<std::string> out;
    for (const auto& f : faults())
        if (std::find(out.begin(), out.end(), f.kind) == out.end()) out.push_back(f.kind);
    if (out.empty()) out.push_back("nothing wrong");
    return out;
}

Result<std::vector<Fault>> faults_to_ask(const PreparedDesign& prepared, const WorkSheet& sheet) {
    auto out = possible_faults(prepared);
    for (const auto& kind : fault_kinds()) {
        const bool here = kind.rule && std::any_of(sheet.steps.begin(), sheet.steps.end(),
                                                   [&](const auto& s) { return s.step_id == kind.step; });
        if (!here) continue;
        Fault fault;
        fault.kind = kind.id;
        if (has_two_sides(prepared.built)) fault.side = Side::a;
        out.push_back(std::move(fault));
    }
    return out;
}

Result<Exercise> new_exercise(const Job& job, std::uint64_t seed, const ExerciseWish& wish,
                              const TrainerData& data) {
    if (seed > most_seed)
        return refuse("seed", fmt::format("{} is too large", seed), fmt::format("Give 0 to {}", most_seed));
    if (wish.level < 1 || wish.level > 3)
        return refuse("level", fmt::format("{} is none", wish.level), "Give 1, 2 or 3");
    if (!wish.design.empty() && !job.find_design(wish.design))
        return refuse("design", fmt::format("“{}” is not in the job", one_line(wish.design, 60)),
                      "Give one that is");
    if (job.designs.empty()) return refuse("job", "it has no design", "Give a job with designs");
    if (!wish.kind.empty() && !find_fault_kind(wish.kind))
        return refuse("kind", fmt::format("“{}” is no kind of fault", one_line(wish.kind, 60)),
                      "Give one that “faults --fits” lists");
    Chance chance(seed, "exercise");
    Exercise e;
    e.seed = seed;
    e.level = wish.level;
    const double which = chance.one(); // half of all are inspections
    e.task = which < 0.5 ? Task::inspect : all_tasks()[1 + chance.below(all_tasks().size() - 1)];
    if (wish.task) e.task = *wish.task;
    if (!wish.kind.empty()) e.task = Task::inspect;
    std::vector<std::string> designs;
    for (const auto& d : job.designs) designs.push_back(d.id);
    chance.shuffle(designs);
    if (!wish.design.empty()) designs = {wish.design};
    InputError last;
    for (const auto& design : designs) { // the first that has something to ask
        e.design = design;
        auto made = exercise_of(e, job, wish, data);
        if (made) return made;
        last = made.error();
    }
    return tl::unexpected(last);
}

Result<Exercise> exercise_from(const Job& job, const std::string& design, const TrainerData& data) {
    const auto* from = job.find_design(design);
    if (!from)
        return refuse("design", fmt::format("“{}” is not in the job", one_line(design, 60)),
                      "Give one that is");
    Exercise e;
    e.design = design;
    e.made_by_hand = true;
    e.job = frozen_of(job, design);
    e.data_hash = data.hash;
    const auto bench = lay_out(e.job, design, data);
    if (!bench) return tl::unexpected(bench.error());
    e.question = inspection_of(*bench);
    if (auto faulty = prepare_faulty(job, design, from->faults, *data.library); !faulty)
        return tl::unexpected(faulty.error());
    e.job.find_design(design)->faults = from->faults;
    e.id = id_of(e);
    return e;
}

nlohmann::ordered_json exercise_json(const Exercise& e, const TrainerData& data, bool whole) {
    nlohmann::ordered_json out{{"format", exercise_format},
                               {"version", 1},
                               {"id", e.id},
                               {"seed", e.seed},
                               {"level", e.level},
                               {"task", task_word(e.task)},
                               {"title", task_title(e.task)},
                               {"design", e.design},
                               {"by_hand", e.made_by_hand},
                               {"data", e.data_hash},
                               {"question", question_json(e.question)}};
    if (e.task == Task::inspect) {
        auto& means = out["means"] = nlohmann::ordered_json::array();
        for (const auto& m : data.means.means)
            means.push_back({{"id", m.id}, {"title", m.title}, {"how", m.how}, {"seconds", m.seconds}});
        auto& kinds = out["kinds"] = nlohmann::ordered_json::array();
        for (const auto& k : fault_kinds())
            kinds.push_back({{"id", k.id}, {"title", k.title}, {"size", k.rule ? "" : k.size_words}});
        out["decisions"] = {"accept", "rework", "cut_back", "ask"};
        out["answer"] = {{"looks", "ids of means"},
                         {"findings", "list of {kind, side, from_edge_mm, decision}"},
                         {"release", "true or false"}};
    } else {
        out["answer"] = e.question.form == Question::Form::number
                            ? nlohmann::ordered_json{{"number", e.question.unit}}
                            : nlohmann::ordered_json{{"keys", "of the options"}};
    }
    if (whole) out["job"] = write_job(e.job);
    return out;
}

Result<Exercise> read_exercise(const nlohmann::json& document, const std::string& file) {
    if (auto v = check_format(document, exercise_format, 1, file); !v) return tl::unexpected(v.error());
    JsonReader in(document, file);
    Exercise e;
    const double seed = in.number("seed"), level = in.number("level");
    const auto task = task_of(in.text("task"));
    e.design = in.text("design");
    e.made_by_hand = in.boolean_or("by_hand", false);
    e.data_hash = in.text("data");
    const auto id = in.text("id");
    const auto& frozen = in.object("job");
    JsonReader q(in.object("question", true), file + ", “question”");
    const auto form = q.text("form");
    e.question.words = q.text("asks");
    e.question.unit = q.text_or("unit", "");
    for (const auto& g : q.array("given"))
        if (g.is_string())
            e.question.given.push_back(g);
        else
            q.fail("“given” holds what is no text", "Correct it");
    for (const auto& o : q.array("options")) {
        JsonReader of(o, file + ", an option");
        e.question.options.push_back({of.text("key"), of.text("words")});
        if (!of.ok()) return tl::unexpected(*of.error());
    }
    if (!q.ok()) return tl::unexpected(*q.error());
    if (!in.ok()) return tl::unexpected(*in.error());
    e.question.form = form == "order"    ? Question::Form::order
                      : form == "one"    ? Question::Form::one
                      : form == "number" ? Question::Form::number
                                         : Question::Form::inspection;
    if (frozen.empty())
        return refuse(file, "it is handed out without its design: nothing can be scored by it",
                      "Give the instructor's own, or the job and the seed");
    if (!task || !(seed >= 0) || seed > static_cast<double>(most_seed) || seed != std::floor(seed) ||
        level < 1 || level > 3 || level != std::floor(level))
        return refuse(file, "its seed, level or task is none", "Ask for it again");
    e.seed = static_cast<std::uint64_t>(seed);
    e.level = static_cast<int>(level);
    e.task = *task;
    auto job = read_job(frozen, file);
    if (!job) return tl::unexpected(job.error());
    e.job = std::move(*job);
    if (!e.job.find_design(e.design))
        return refuse(file, fmt::format("its design “{}” is not in it", one_line(e.design, 60)),
                      "Ask for it again");
    e.id = id_of(e);
    if (e.id != id)
        return refuse(file, "it was changed since it was asked",
                      "Ask for it again: it is not scored as it is");
    return e;
}

Result<void> check_unchanged(const Exercise& e, const TrainerData& data) {
    if (e.data_hash == data.hash) return {};
    return refuse(
        "Exercise " + e.id, "the standards pack or another table was changed since it was asked",
        "It is kept and not scored: put the tables back as they were and score it then, or ask anew");
}

} // namespace ng
