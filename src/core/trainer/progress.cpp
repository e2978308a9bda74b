#include "trainer/progress.h"
#include "trainer/drills.h"
#include <algorithm>

namespace ng {
namespace {

const std::string drill_prefix = "drill: ";

} // namespace

std::string topic_title(const std::string& topic) {
    if (topic.starts_with(drill_prefix))
        if (const auto task = task_of(topic.substr(drill_prefix.size()))) return task_title(*task);
    const auto* kind = find_fault_kind(topic);
    return kind ? kind->title : topic;
}

std::size_t Topic::right() const {
    return static_cast<std::size_t>(
        std::count_if(answers.begin(), answers.end(), [](const auto& a) { return a.second; }));
}

const Topic* Progress::find(const std::string& name) const {
    const auto it =
        std::find_if(topics_.begin(), topics_.end(), [&](const auto& t) { return t.name == name; });
    return it == topics_.end() ? nullptr : &*it;
}

void Progress::take(const std::vector<std::pair<std::string, bool>>& topics) {
    ++exercises_;
    for (const auto& [name, right] : topics) {
        auto it = std::find_if(topics_.begin(), topics_.end(), [&](const auto& t) { return t.name == name; });
        if (it == topics_.end()) it = topics_.insert(topics_.end(), Topic{name, 1, {}});
        it->box = right ? std::min(it->box + 1, leitner_boxes) : 1;
        it->answers.emplace_back(exercises_, right);
    }
}

std::string Progress::next(const std::vector<std::string>& possible, std::uint64_t seed) const {
    const Topic *weak = nullptr, *due = nullptr, *longest = nullptr;
    std::vector<std::string> never;
    const auto sooner = [](const Topic& a, const Topic* b) {
        return !b || std::pair(a.box, a.last()) < std::pair(b->box, b->last());
    };
    for (const auto& name : possible) {
        const auto* t = find(name);
        if (!t) {
            never.push_back(name);
            continue;
        }
        if (t->box == 1 && t->due(exercises_) && sooner(*t, weak)) weak = t;
        if (t->due(exercises_) && sooner(*t, due)) due = t;
        if (!longest || t->last() < longest->last()) longest = t;
    }
    if (weak) return weak->name;
    if (!never.empty()) return never[Chance(seed, "next").below(never.size())];
    if (due) return due->name;
    return longest ? longest->name : std::string();
}

int Progress::level_of(const std::string& topic) const {
    const auto* t = find(topic);
    return !t || t->box <= 2 ? 1 : t->box <= 4 ? 2 : 3;
}

ExerciseWish wish_for(const std::string& topic, const Progress& progress) {
    ExerciseWish wish;
    wish.level = progress.level_of(topic);
    if (topic.starts_with(drill_prefix))
        wish.task = task_of(topic.substr(drill_prefix.size()));
    else if (find_fault_kind(topic))
        wish.kind = topic;
    return wish;
}

Result<Exercise> next_exercise(const Job& job, const std::string& design, const Progress& progress,
                               const TrainerData& data) {
    const std::uint64_t seed = progress.exercises();
    if (job.designs.empty()) return refuse("job", "it has no design", "Give a job with designs");
    std::string of = design;
    if (of.empty()) of = job.designs[Chance(seed, "design").below(job.designs.size())].id;
    if (!job.find_design(of))
        return refuse("design", "“" + one_line(of, 60) + "” is not in the job", "Give one that is");
    auto possible = topics_of(job, of, data);
    if (!possible) return tl::unexpected(possible.error());
    for (;;) { // what goes nowhere on this design at the size that was drawn gives way to the next topic
        const auto topic = progress.next(*possible, seed);
        auto wish = wish_for(topic, progress);
        wish.design = of;
        auto exercise = new_exercise(job, seed, wish, data);
        if (exercise || std::erase(*possible, topic) == 0 || possible->empty()) return exercise;
    }
}

Result<std::vector<std::string>> topics_of(const Job& job, const std::string& design,
                                           const TrainerData& data) {
    const auto bench = lay_out(job, design, data);
    if (!bench) return tl::unexpected(bench.error());
    std::vector<std::string> out;
    for (const auto task : all_tasks())
        if (task != Task::inspect && make_drill(task, *bench, job, design, data, Chance(0, "topics")))
            out.push_back(drill_prefix + task_word(task));
    auto faults = faults_to_ask(bench->prepared, bench->sheet);
    if (!faults) return tl::unexpected(faults.error());
    for (const auto& fault : *faults)
        if (std::find(out.begin(), out.end(), fault.kind) == out.end() &&
            prepare_faulty(job, design, {fault}, *data.library))
            out.push_back(fault.kind);
    return out;
}

} // namespace ng
