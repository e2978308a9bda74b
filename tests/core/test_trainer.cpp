// The trainer: what it asks is the same for the same seed, and every answer comes out of the plan, the sheet
// and the field by a way that shares nothing with the scoring.
#include "io/file.h"
#include "support.h"
#include "trainer/drills.h"
#include "trainer/train_file.h"
#include <QTemporaryDir>
#include <SQLiteCpp/SQLiteCpp.h>
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <numeric>
#include <unistd.h>

using namespace ng;
namespace fs = std::filesystem;

namespace {

const TrainerData& data() {
    static const TrainerData loaded = [] {
        auto d = load_trainer(test::library());
        if (!d) qFatal("%s", d.error().message().c_str());
        return std::move(*d);
    }();
    return loaded;
}

Exercise asked(std::uint64_t seed, ExerciseWish wish = {}) {
    auto e = new_exercise(test::demo_job(), seed, wish, data());
    if (!e) qFatal("seed %llu: %s", static_cast<unsigned long long>(seed), e.error().message().c_str());
    return std::move(*e);
}

ExerciseWish wish_of(Task task) {
    ExerciseWish out;
    out.task = task;
    return out;
}

/// How many of each are made: more where NEEDLEGAUGE_TRAINER says so.
int rounds(int usual) {
    const auto given = qEnvironmentVariableIntValue("NEEDLEGAUGE_TRAINER");
    return given > 0 ? given : usual;
}

/// Every number of a text that is followed by mm, in order; "behind" and "past" make one negative.
std::vector<double> millimetres(const std::string& text) {
    std::vector<double> out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (!std::isdigit(static_cast<unsigned char>(text[i])) ||
            (i > 0 && (std::isdigit(static_cast<unsigned char>(text[i - 1])) || text[i - 1] == '.')))
            continue;
        char* end = nullptr;
        const double v = std::strtod(text.c_str() + i, &end);
        if (std::string(end).starts_with(" mm")) out.push_back(v);
    }
    return out;
}
double signed_mm(const std::string& text) {
    const double v = millimetres(text).at(0);
    return text.find(" behind the") != std::string::npos || text.find(" past the") != std::string::npos ? -v
                                                                                                        : v;
}

/// What an exercise hands out, as a trainee's program reads it.
nlohmann::json handed_out(const Exercise& e) {
    return nlohmann::json::parse(exercise_json(e, data(), false).dump());
}
std::string option_words(const nlohmann::json& question, const std::string& key) {
    for (const auto& o : question["options"])
        if (o["key"] == key) return o["words"];
    return {};
}
std::string given_with(const nlohmann::json& question, const std::string& part) {
    for (const auto& g : question["given"])
        if (g.get<std::string>().find(part) != std::string::npos) return g;
    return {};
}

bool named(const SheetStep& step, const std::string& name) {
    if (name.starts_with("#"))
        return std::find(step.tags.begin(), step.tags.end(), name.substr(1)) != step.tags.end();
    return step.step_id == name;
}

/// Answers by a program that knows the question and the tables only.
struct ByHand {
    const Exercise& e;
    PreparedDesign prepared = *prepare_design(e.job, e.design, test::library());
    CutPlan plan = *make_plan(prepared);
    WorkSheet sheet = *make_sheet(prepared, plan, data().book, test::library().connectors, e.job.step_texts);
    nlohmann::json q = handed_out(e)["question"];

    double least_wall(double t) const { return std::max(t / 2, 0.9 * t - 0.1); }
    double connector() const {
        const double allowance = millimetres(given_with(q, "Allowance")).at(0);
        if (const auto whole = given_with(q, "The connector is"); !whole.empty()) {
            const auto gap = given_with(q, " stay between");
            return (millimetres(whole).at(0) - (gap.empty() ? 0 : millimetres(gap).at(0))) / 2 + allowance;
        }
        auto part = given_with(q, "barrel takes");
        if (part.empty()) part = given_with(q, "connector takes");
        return millimetres(part).at(0) + allowance;
    }
    double datum() const {
        const auto& given = q["given"];
        return std::abs(signed_mm(given[given.size() - 2]) - signed_mm(given[given.size() - 1]));
    }
    bool window() const {
        const auto& given = q["given"];
        const std::string belongs = given[given.size() - 2], read = given[given.size() - 1];
        const double tolerance = millimetres(belongs).back();
        return std::abs(signed_mm(belongs) - signed_mm(read)) <= tolerance + 0.051; // words round to 0.1
    }
    double blade() const { // common practice as docs/work-sheet.md has it, no source
        const double t = millimetres(q["given"].back()).at(0), least = least_wall(t);
        const std::string words = q["asks"];
        const auto side = words.find(" B?") != std::string::npos || words.find(" B.") != std::string::npos ||
                                  words.find(" B ") != std::string::npos
                              ? CableSide::b
                              : CableSide::a;
        const auto& cable = prepared.context().cable_of(side);
        const auto stop = [&](double by) { return least > 2 * by ? least - by : least / 2; };
        if (words.find("for the insulation screen") != std::string::npos)
            return cable.strippable_screen ? std::min({0.4, std::max(0.1, t - 0.3), 0.7 * least}) : t;
        if (words.find("for the jacket") != std::string::npos) return stop(1);
        if (words.find("for the lead") != std::string::npos) return least / 2;
        return stop(0.5);
    }
    /// Whether steps stand in an order that the book's rules and the section allow.
    bool order_holds(const std::vector<const SheetStep*>& steps) const {
        const auto book = nlohmann::json::parse(
            *read_file(fs::path(NEEDLEGAUGE_DATA_DIR) / "steps/steps.json", most_table_bytes));
        for (std::size_t i = 0; i < steps.size(); ++i)
            for (std::size_t j = i + 1; j < steps.size(); ++j) {
                for (const auto& rule : book["rules"]) {
                    // A rule with facts holds here if the sheet says that it does.
                    if (rule.size() > 3 &&
                        std::none_of(sheet.rules.begin(), sheet.rules.end(), [&](const auto& r) {
                            return r.first == rule[0] && r.then == rule[1] && !r.when.empty();
                        }))
                        continue;
                    if (named(*steps[i], rule[1]) && named(*steps[j], rule[0]) && steps[i] != steps[j])
                        return false;
                }
                for (const auto& place : steps[j]->lays)
                    if (std::find(steps[i]->covers.begin(), steps[i]->covers.end(), place) !=
                        steps[i]->covers.end())
                        return false;
            }
        return true;
    }
    const SheetStep* step(const std::string& title) const {
        for (const auto& s : sheet.steps)
            if (s.title == title) return &s;
        return nullptr;
    }
};

Score scored(const Exercise& e, const TrainAnswer& a, const Truth* truth = nullptr) {
    auto s = score(e, a, data(), truth);
    if (!s) qFatal("%s: %s", e.id.c_str(), s.error().message().c_str());
    return std::move(*s);
}

TrainAnswer of_number(double v) {
    TrainAnswer a;
    a.number = v;
    return a;
}
TrainAnswer of_keys(std::vector<std::string> keys) {
    TrainAnswer a;
    a.keys = std::move(keys);
    return a;
}

Fault fault_of(const char* kind, double size_mm) {
    Fault f;
    f.kind = kind;
    f.size_mm = size_mm;
    return f;
}

struct Folder {
    QTemporaryDir dir;
    fs::path operator/(const char* name) const { return fs::path(dir.path().toStdString()) / name; }
};
const Who apprentice{"apprentice", "AB"};

} // namespace

class TestTrainer : public QObject {
    Q_OBJECT
  private slots:
    void the_same_seed_is_the_same_exercise() {
        std::set<std::string> ids;
        for (std::uint64_t seed = 0; seed < 40; ++seed) {
            const auto a = asked(seed), b = asked(seed);
            QCOMPARE(exercise_json(a, data(), true).dump(), exercise_json(b, data(), true).dump());
            ids.insert(a.id);
            // What is handed out names no fault and no answer.
            const auto out = handed_out(a);
            QVERIFY(!out.contains("job") && !out["question"].contains("solution"));
            QVERIFY(!out.dump().empty() && out.dump().find("\"faults\"") == std::string::npos);
        }
        QCOMPARE(ids.size(), std::size_t{40});
        QVERIFY(!new_exercise(test::demo_job(), most_seed + 1, {}, data()));
        ExerciseWish wish;
        wish.level = 4;
        QVERIFY(!new_exercise(test::demo_job(), 1, wish, data()));
        wish = {};
        wish.design = "nowhere";
        QVERIFY(new_exercise(test::demo_job(), 1, wish, data()).error().message().find("nowhere") !=
                std::string::npos);
    }
    void levels_and_numbers_of_faults_are_mixed() {
        std::map<std::size_t, int> counts;
        std::set<std::string> kinds;
        for (int level = 1; level <= 3; ++level)
            for (std::uint64_t seed = 0; seed < 60; ++seed) {
                auto wish = wish_of(Task::inspect);
                wish.level = level;
                const auto e = asked(seed, wish);
                ++counts[e.faults().size()];
                for (const auto& f : e.faults()) {
                    const auto& kind = *find_fault_kind(f.kind);
                    kinds.insert(f.kind);
                    const double found = found_from_mm(kind.inspection);
                    if (kind.rule || !std::isfinite(found)) continue;
                    // Easily found ones are larger than nine of ten find, hardly found ones smaller.
                    const auto low = std::max(kind.least_mm, found * (level == 1   ? 1.5
                                                                      : level == 2 ? 0.7
                                                                                   : 0.35));
                    const auto high = found * (level == 1 ? 8 : level == 2 ? 2.5 : 1.0);
                    QVERIFY2(f.size_mm >= std::min(low, kind.most_mm) - 0.006, f.kind.c_str());
                    QVERIFY2(f.size_mm <= std::max(high, kind.least_mm) + 0.006, f.kind.c_str());
                }
            }
        for (const std::size_t n : {0, 1, 2, 3}) QVERIFY2(counts[n] >= 5, fmt::format("{}", n).c_str());
        QVERIFY(kinds.size() >= 18);
        auto wish = wish_of(Task::inspect);
        wish.kind = "nick";
        wish.design = "quay-mast";
        for (std::uint64_t seed = 0; seed < 10; ++seed) QCOMPARE(asked(seed, wish).faults()[0].kind, "nick");
        wish.kind = "screen_open"; // no screen lies over a termination
        QVERIFY(!new_exercise(test::demo_job(), 1, wish, data()));
    }
    void looks_find_by_their_formula() {
        // c Phi((ln a - ln a50) / s), the normal distribution by the error function of the C library.
        auto e = asked(1, [] {
            auto w = wish_of(Task::inspect);
            w.design = "quay-mast";
            w.kind = "nick";
            return w;
        }());
        auto& fault = e.job.find_design(e.design)->faults.front();
        e.job.find_design(e.design)->faults.resize(1);
        const auto chance = [](double a, double a50, double s, double c) {
            return c * 0.5 * std::erfc(-(std::log(a) - std::log(a50)) / s / std::sqrt(2.0));
        };
        constexpr int looks = 4000;
        for (const auto& [means, a50, s, c] : {std::tuple{"fingernail", 0.15, 0.5, 0.97}, // the kind's own
                                               {"loupe", 0.1, 0.5, 0.97},
                                               {"light", 0.25, 0.5, 0.95}})
            for (const double size : {0.08, 0.15, 0.4}) {
                fault.size_mm = size;
                int found = 0;
                double sum = 0, squares = 0, read = 0;
                for (int i = 0; i < looks; ++i) {
                    e.seed = static_cast<std::uint64_t>(i);
                    const auto seen = look(e, means, data(), nullptr);
                    REQUIRE_OK(seen);
                    found += static_cast<int>(seen->size());
                    if (seen->empty() || !seen->front().size_mm) continue;
                    const double off = *seen->front().size_mm - size;
                    sum += off, squares += off * off, ++read;
                    QVERIFY(seen->front().sees.find("nick") == std::string::npos);
                }
                const double p = chance(size, a50, s, c), sigma = std::sqrt(p * (1 - p) / looks);
                QVERIFY2(std::abs(static_cast<double>(found) / looks - p) < 4 * sigma + 1e-9,
                         fmt::format("{} {}: {} of {}", means, size, found, looks * p).c_str());
                QCOMPARE(read > 0, std::string(means) == "loupe"); // it reads sizes, to 0.05 mm
                if (read > 500 && size > 0.3) {
                    QVERIFY(std::abs(sum / read) < 5 * 0.05 / std::sqrt(read) + 0.001);
                    QVERIFY(std::abs(std::sqrt(squares / read) - 0.05) < 0.005);
                }
            }
        // The second look with the same means finds what the first one found; what a means cannot see it
        // never finds.
        e.seed = 5;
        QCOMPARE(look(e, "loupe", data(), nullptr)->size(), look(e, "loupe", data(), nullptr)->size());
        QVERIFY(look(e, "continuity", data(), nullptr)->empty());
        QVERIFY(look(e, "sonar", data(), nullptr).error().message().find("loupe") != std::string::npos);
        QVERIFY(!look(e, "discharge", data(), nullptr)); // it shows what the field says
    }
    void drills_are_answered_by_rule_table() {
        int order_right = 0, order_wrong = 0;
        for (const auto task : all_tasks()) {
            if (task == Task::inspect) continue;
            for (std::uint64_t seed = 0; seed < static_cast<std::uint64_t>(rounds(12)); ++seed) {
                const auto e = asked(seed, wish_of(task));
                const ByHand hand{e};
                const auto where = fmt::format("{} {} {}", task_word(task), seed, e.design);
                const auto right = right_answer(e, data());
                REQUIRE_OK(right);
                QVERIFY2(scored(e, *right).right, where.c_str());
                switch (task) {
                case Task::blade:
                    QVERIFY2(scored(e, of_number(hand.blade())).right, where.c_str());
                    QVERIFY2(std::abs(*right->number - hand.blade()) < 0.03, where.c_str());
                    QVERIFY2(!scored(e, of_number(hand.blade() + 0.2)).right, where.c_str()); // too deep
                    break;
                case Task::connector:
                    QVERIFY2(std::abs(*right->number - hand.connector()) < 0.06, where.c_str());
                    QVERIFY2(!scored(e, of_number(hand.connector() + 1)).right, where.c_str());
                    break;
                case Task::datum:
                    QVERIFY2(std::abs(*right->number - hand.datum()) < 0.6, where.c_str()); // words round
                    break;
                case Task::window:
                    QCOMPARE(option_words(hand.q, right->keys[0]).starts_with("Accept"), hand.window());
                    break;
                case Task::tool: {
                    const auto words = option_words(hand.q, right->keys[0]);
                    const auto fits = [&](const std::string& tool) {
                        return std::any_of(
                            hand.plan.marks.begin(), hand.plan.marks.end(), [&](const auto& m) {
                                return m.tool == tool && !m.cuts.empty() &&
                                       hand.q["asks"].template get<std::string>() ==
                                           fmt::format("With what is the {} cut at the {}?", m.cuts, m.label);
                            });
                    };
                    for (const auto& o : hand.q["options"])
                        QCOMPARE(fits(o["words"]), o["words"].get<std::string>() == words);
                    break;
                }
                case Task::caution: {
                    const std::string asks = hand.q["asks"];
                    const auto from = asks.find("“") + 3;
                    const auto* step = hand.step(asks.substr(from, asks.rfind("”") - from));
                    QVERIFY2(step, where.c_str());
                    for (const auto& o : hand.q["options"]) {
                        const bool there = std::find(step->cautions.begin(), step->cautions.end(),
                                                     o["words"].get<std::string>()) != step->cautions.end();
                        QCOMPARE(there, o["key"] == right->keys[0]);
                    }
                    break;
                }
                case Task::missing: {
                    std::vector<std::string> shown;
                    for (const auto& g : hand.q["given"])
                        if (const std::string s = g; s.starts_with("Step: ")) shown.push_back(s.substr(6));
                    std::size_t at = 0;
                    while (at < hand.sheet.steps.size() && hand.sheet.steps[at].title != shown[0]) ++at;
                    std::vector<std::string> gone;
                    for (std::size_t i = at, k = 0; i < hand.sheet.steps.size() && k < shown.size(); ++i)
                        if (hand.sheet.steps[i].title == shown[k])
                            ++k;
                        else
                            gone.push_back(hand.sheet.steps[i].title);
                    QVERIFY2(gone.size() == 1, where.c_str());
                    QCOMPARE(option_words(hand.q, right->keys[0]), gone[0]);
                    for (const auto& o : hand.q["options"])
                        if (o["key"] != right->keys[0]) QVERIFY(!hand.step(o["words"]));
                    break;
                }
                case Task::order: {
                    std::vector<std::string> keys;
                    for (const auto& o : hand.q["options"]) keys.push_back(o["key"]);
                    Chance chance(seed, "permutations");
                    for (int tries = 0; tries < 6; ++tries) {
                        std::vector<const SheetStep*> steps;
                        for (const auto& k : keys) steps.push_back(hand.step(option_words(hand.q, k)));
                        const bool holds = hand.order_holds(steps);
                        QVERIFY2(scored(e, of_keys(keys)).right == holds, where.c_str());
                        ++(holds ? order_right : order_wrong);
                        chance.shuffle(keys);
                    }
                    std::vector<const SheetStep*> steps;
                    for (const auto& k : right->keys) steps.push_back(hand.step(option_words(hand.q, k)));
                    QVERIFY2(hand.order_holds(steps), where.c_str());
                    QVERIFY(!score(e, of_keys({keys[0]}), data())); // not all of them: no answer
                    break;
                }
                case Task::inspect:
                    break;
                }
            }
        }
        QVERIFY(order_wrong > 50 && order_right > 0);
    }
    void inspections_are_answered_by_a_solve_of_their_own() {
        const std::set<std::string> spoil_insulation{"nick", "score", "over_shaved", "wall_thin"};
        int hurt = 0, harmless = 0;
        for (std::uint64_t seed = 0; seed < static_cast<std::uint64_t>(rounds(6)); ++seed) {
            auto wish = wish_of(Task::inspect);
            wish.level = 1 + static_cast<int>(seed % 3);
            const auto e = asked(seed, wish);
            const auto truth = truth_of(e, data());
            REQUIRE_OK(truth);
            const auto where = fmt::format("{} {}", seed, e.design);
            // As it is: prepared and solved here, to 1 %.
            const auto plain = evaluate(e.job, e.design, {}, test::library(), prepare_design);
            REQUIRE_OK(plain);
            bool whole_holds = plain->verdict.status != Status::falls_short;
            const bool design_falls = !whole_holds;
            for (const auto& t : truth->faults) {
                const auto& kind = *find_fault_kind(t.fault.kind);
                auto expected = FaultDecision::accept;
                if (design_falls) {
                    expected = FaultDecision::ask;
                } else if (kind.rule) {
                    expected = FaultDecision::rework;
                } else {
                    const auto faulty = prepare_faulty(e.job, e.design, {t.fault}, test::library());
                    REQUIRE_OK(faulty);
                    const auto solved = evaluate_prepared(faulty->prepared);
                    REQUIRE_OK(solved);
                    bool fails = solved->verdict.status == Status::falls_short;
                    bool unknown = solved->verdict.status == Status::not_judged;
                    for (const auto& air : t.answer.air)
                        if (const auto required = truth->sound.required_kV_rms;
                            required && air.inception_kV_rms < *required)
                            fails = true;
                    if (fails)
                        expected = spoil_insulation.contains(t.fault.kind) ? FaultDecision::cut_back
                                                                           : FaultDecision::rework;
                    else if (unknown)
                        expected = FaultDecision::ask;
                    // Within the error of its nearness it may be decided either way.
                    if (std::abs(t.answer.nearness - 1) < 2 * t.answer.nearness_error + 0.02)
                        expected = t.answer.decision;
                }
                QVERIFY2(t.answer.decision == expected,
                         fmt::format("{}: {}: {}, expected {}", where, fault_words(t.fault),
                                     decision_word(t.answer.decision), decision_word(expected))
                             .c_str());
                whole_holds = whole_holds && expected == FaultDecision::accept;
                ++(expected == FaultDecision::accept ? harmless : hurt);
            }
            if (truth->faults.size() < 2) QCOMPARE(truth->release(), whole_holds);
            if (!whole_holds) QVERIFY(!truth->release()); // together they are no better
            // The perfect trainee has all points, the blind one none where something hurts.
            const auto perfect = right_answer(e, data(), &*truth);
            REQUIRE_OK(perfect);
            const auto best = scored(e, *perfect, &*truth);
            QVERIFY2(best.right && best.points == 1 && best.missed == 0 && best.imagined == 0, where.c_str());
            TrainAnswer blind;
            blind.release = true;
            const auto worst = scored(e, blind, &*truth);
            QCOMPARE(worst.missed, e.faults().size());
            if (!truth->release()) QCOMPARE(worst.points, 0.0);
            if (e.faults().empty()) QCOMPARE(worst.points, truth->release() ? 1.0 : 0.0);
            if (!e.faults().empty()) QVERIFY(worst.points == 0);
            if (!truth->release()) QVERIFY(worst.cost_minutes >= data().means.failure_minutes);
        }
        QVERIFY(hurt > 0 && harmless > 2);
    }
    void judgements_are_worth_what_they_cost() {
        // By hand: insulation taken off deep enough to hurt, and a harmless slip of the other side's edge.
        auto job = test::demo_job();
        auto& faults = job.find_design("cellar")->faults;
        faults = {fault_of("over_shaved", 0.6), fault_of("edge_too_near", 0.6)};
        faults[0].side = Side::a;
        faults[1].side = Side::b;
        const auto e = exercise_from(job, "cellar", data());
        REQUIRE_OK(e);
        const auto truth = truth_of(*e, data());
        REQUIRE_OK(truth);
        QVERIFY(truth->faults[0].answer.decision == FaultDecision::cut_back);
        QVERIFY(truth->faults[1].answer.decision == FaultDecision::accept);
        const double at = *right_answer(*e, data(), &*truth)->findings[0].from_edge_mm;
        const auto give = [&](std::optional<FaultDecision> first, std::optional<FaultDecision> second,
                              bool release, int imagined = 0) {
            TrainAnswer a;
            a.release = release;
            if (first) a.findings.push_back({"over_shaved", Side::a, at + 2, *first});
            if (second) a.findings.push_back({"edge_too_near", Side::b, {}, *second});
            for (int i = 0; i < imagined; ++i)
                a.findings.push_back({"island", Side::b, {}, FaultDecision::rework});
            return scored(*e, a, &*truth);
        };
        const auto accept = FaultDecision::accept, rework = FaultDecision::rework,
                   cut = FaultDecision::cut_back, ask = FaultDecision::ask;
        QCOMPARE(give(cut, accept, false).points, 1.0);
        QCOMPARE(give(cut, {}, false).points, 1 / 1.5); // harmless ones weigh half
        QVERIFY(!give(cut, {}, false).right);
        QCOMPARE(give(ask, accept, false).points, 1 / 1.5); // to stop is never nothing
        QCOMPARE(give(cut, rework, false).points, 1.25 / 1.5);
        QVERIFY(give(cut, rework, false).costs.size() == 1); // work for nothing
        QCOMPARE(give(cut, accept, false, 1).points, 0.75);
        QCOMPARE(give(cut, accept, false, 9).points, 0.0);
        QCOMPARE(give(cut, accept, true).points, 0.0); // into service with what hurts
        QCOMPARE(give(accept, accept, false).points, 0.5 / 1.5);
        // Found far from where it lies, on another side or by another name it is not found.
        TrainAnswer far;
        far.findings = {{"over_shaved", Side::a, at + 30, cut}, {"edge_too_near", Side::b, {}, accept}};
        QCOMPARE(scored(*e, far, &*truth).missed, std::size_t{1});
        QCOMPARE(scored(*e, far, &*truth).imagined, std::size_t{1});
        far.findings = {{"over_shaved", Side::b, at, cut}, {"wall_thin", Side::a, at, cut}};
        QCOMPARE(scored(*e, far, &*truth).missed, std::size_t{2});
        // Time is that of the looks and of the answer.
        TrainAnswer slow;
        slow.seconds = 30;
        slow.looks = {"loupe", "fingernail"};
        QCOMPARE(scored(*e, slow, &*truth).seconds, 30.0 + 120 + 40);
        slow.looks = {"sonar"};
        QVERIFY(!score(*e, slow, data(), &*truth));
        // A discharge set shows what the field makes of the air.
        const auto& air = truth->faults[0].answer.air;
        QVERIFY(!air.empty());
        const auto seen = look(*e, "discharge", data(), &*truth);
        REQUIRE_OK(seen);
        const bool within =
            truth->sound.required_kV_rms && air[0].inception_kV_rms <= *truth->sound.required_kV_rms;
        if (!within) QVERIFY(seen->empty());
        for (const auto& s : *seen) QVERIFY(!s.from_edge_mm && s.sees.find("pC") != std::string::npos);
    }
    void an_exercise_comes_back_whole_or_not_at_all() {
        const auto e = asked(3);
        const auto whole = nlohmann::json::parse(exercise_json(e, data(), true).dump());
        const auto again = read_exercise(whole, "an.json");
        REQUIRE_OK(again);
        QCOMPARE(exercise_json(*again, data(), true).dump(), exercise_json(e, data(), true).dump());
        const auto refused = [](const nlohmann::json& document, const char* words) {
            const auto read = read_exercise(document, "an.json");
            return !read && read.error().message().find(words) != std::string::npos;
        };
        QVERIFY(refused(handed_out(e), "without its design"));
        auto changed = whole;
        changed["level"] = 2;
        QVERIFY(refused(changed, "changed since it was asked"));
        changed = whole;
        changed["job"]["designs"][0]["title"] = "another";
        QVERIFY(refused(changed, "changed since it was asked"));
        changed = whole;
        changed["seed"] = 1e300;
        QVERIFY(!read_exercise(changed, "an.json"));
        for (const auto& [key, unused] : whole.items()) {
            if (key == "title" || key == "means" || key == "kinds" || key == "decisions" || key == "answer" ||
                key == "by_hand" || key == "version")
                continue;
            changed = whole;
            changed.erase(key);
            QVERIFY2(!read_exercise(changed, "an.json"), key.c_str());
        }
        // An answer to another exercise is not scored by this one.
        const auto other = right_answer(asked(4), data());
        REQUIRE_OK(other);
        QVERIFY(score(e, *other, data()).error().message().find("it is of exercise") != std::string::npos);
    }
    void what_changed_meanwhile_is_kept_and_not_scored() {
        const Folder folder;
        auto file = TrainFile::create(folder / "a.ngtrain");
        REQUIRE_OK(file);
        const auto e = asked(2, wish_of(Task::blade));
        const auto right = *right_answer(e, data());
        // Another standards pack between question and answer.
        auto other = data();
        other.hash[0] = other.hash[0] == '0' ? '1' : '0';
        const auto refused = score(e, right, other);
        QVERIFY(!refused &&
                refused.error().message().find("changed since it was asked") != std::string::npos);
        REQUIRE_OK(file->keep(apprentice, e, right, data(), refused));
        QCOMPARE(file->progress(apprentice)->exercises(), std::size_t{0}); // it counts neither way
        QVERIFY(file->answers()->at(0).not_scored.find("changed") != std::string::npos);
        QCOMPARE(*score_again(*file, other), std::size_t{0});
        QCOMPARE(*score_again(*file, data()), std::size_t{1});
        QCOMPARE(*file->answers()->at(0).points, 1.0);
        QCOMPARE(file->progress(apprentice)->exercises(), std::size_t{1});
        QVERIFY(!file->set_score(1, e, *score(e, right, data()))); // never twice
        // A design that no longer builds.
        auto bare = test::library();
        bare.materials = {};
        auto without = data();
        without.library = &bare;
        const auto unbuilt = score(e, right, without);
        QVERIFY(!unbuilt);
        REQUIRE_OK(file->keep(apprentice, e, right, data(), unbuilt));
        QVERIFY(!file->answers()->at(1).points);
        QVERIFY(!file->answers()->at(1).not_scored.empty());
        // A question that this program would ask otherwise.
        auto otherwise = e;
        otherwise.question.words += " ";
        QVERIFY(score(otherwise, right, data()).error().message().find("otherwise") != std::string::npos);
    }
    void the_file_keeps_roles_and_forgets_whole() {
        const Folder folder;
        const auto path = folder / "class.ngtrain";
        const Who second{"jointer", "QX-mark"};
        {
            auto file = TrainFile::open_or_create(path);
            REQUIRE_OK(file);
            const auto e = asked(2, wish_of(Task::blade));
            const auto right = *right_answer(e, data());
            const auto points = score(e, right, data());
            const auto exam = file->begin_exam(second, 7, 10, 2, 30);
            REQUIRE_OK(exam);
            REQUIRE_OK(file->keep(apprentice, e, right, data(), points));
            REQUIRE_OK(file->keep(second, e, right, data(), points, exam->number));
            const Who nobody{"jointer", " "};
            QVERIFY(!file->keep(nobody, e, right, data(), points));
            REQUIRE_OK(file->end_exam(exam->number));
            QVERIFY(!file->end_exam(exam->number));
            QVERIFY(!file->begin_exam(second, 7, 0, 2, 30));
        }
        {
            auto file = TrainFile::open(path);
            REQUIRE_OK(file);
            QCOMPARE(file->answers()->size(), std::size_t{2});
            QCOMPARE(file->answers(second)->at(0).exam, std::optional<std::int64_t>(1));
            QVERIFY(!file->exams(second)->at(0).ended_utc.empty());
            QCOMPARE(file->trainees()->size(), std::size_t{2});
            const auto gone = file->forget(second);
            REQUIRE_OK(gone);
            QVERIFY(!file->forget(second));
            QCOMPARE(file->answers()->size(), std::size_t{1});
            QVERIFY(file->exams()->empty());
        }
        QVERIFY(read_file(path)->find("QX-mark") == std::string::npos); // nor on the disk
        // What is no such file, is damaged, newer, or has more in it than it should.
        const auto refused = [](const fs::path& p, const char* words) {
            const auto read = TrainFile::open(p);
            const bool as_said = !read && read.error().message().find(words) != std::string::npos;
            if (!as_said) qWarning("%s", read ? "opened" : read.error().message().c_str());
            return as_said;
        };
        const auto bytes = *read_file(path);
        const auto put = [&](const std::string& content) {
            std::ofstream(folder / "b.ngtrain", std::ios::binary) << content;
        };
        put("no database");
        QVERIFY(refused(folder / "b.ngtrain", "no trainer's file"));
        put(bytes.substr(0, bytes.size() / 2));
        QVERIFY(refused(folder / "b.ngtrain", "damaged or cut short"));
        put(bytes);
        SQLite::Database(folder / "b.ngtrain", SQLite::OPEN_READWRITE).exec("PRAGMA user_version = 3");
        QVERIFY(refused(folder / "b.ngtrain", "newer version"));
        put(bytes);
        SQLite::Database(folder / "b.ngtrain", SQLite::OPEN_READWRITE)
            .exec("CREATE TRIGGER x AFTER INSERT ON answer BEGIN DELETE FROM answer; END");
        QVERIFY(refused(folder / "b.ngtrain", "tables are not those"));
        QVERIFY(refused(NEEDLEGAUGE_DATA_DIR "/demo/osprey-point.nglog", "another program"));
        QVERIFY(refused(folder / "nowhere.ngtrain", "no such file"));
        QVERIFY(!TrainFile::create(path)); // never over one that is there
    }
    void what_was_weak_comes_back_by_the_boxes() {
        // Leitner: right goes up, wrong back to the first; box n after 2^(n-1) exercises.
        Progress p;
        p.take({{"nick", true}});
        p.take({{"nick", true}, {"score", false}});
        p.take({{"drill: order", true}});
        const auto box = [&](const char* name) {
            for (const auto& t : p.topics())
                if (t.name == name) return t.box;
            return 0;
        };
        QCOMPARE(box("nick"), 3);
        const std::vector<std::pair<std::size_t, bool>> went{{1, true}, {2, true}};
        QVERIFY(p.topics().at(0).answers == went); // how it went, by exercise
        QCOMPARE(box("score"), 1);
        QCOMPARE(box("drill: order"), 2);
        // "score" is due after one exercise, "nick" only after four.
        QCOMPARE(p.next({"nick", "score", "drill: order"}, 1), std::string("score"));
        p.take({{"score", true}});
        QCOMPARE(p.next({"nick", "score", "drill: order"}, 1),
                 std::string("nick"));                                           // nothing is due: longest
        QCOMPARE(p.next({"nick", "score", "bubble"}, 1), std::string("bubble")); // never asked goes before
        p.take({{"score", true}});
        for (int i = 0; i < 6; ++i) p.take({{"nick", true}});
        QCOMPARE(box("nick"), 5);
        QCOMPARE(p.level_of("nick"), 3);
        QCOMPARE(p.level_of("score"), 2);
        p.take({{"nick", false}});
        QCOMPARE(box("nick"), 1);
        QCOMPARE(p.level_of("nick"), 1);
        QVERIFY(wish_for("nick", p).kind == "nick");
        QVERIFY(wish_for("drill: datum", p).task == Task::datum);
        // A trainee who is always right meets every topic of a design.
        Progress good;
        const auto all = topics_of(test::demo_job(), "quay-mast", data());
        REQUIRE_OK(all);
        std::set<std::string> met;
        for (std::size_t i = 0; i < 3 * all->size(); ++i) {
            const auto next = good.next(*all, i);
            met.insert(next);
            good.take({{next, true}});
        }
        QCOMPARE(met.size(), all->size());
        const auto e = next_exercise(test::demo_job(), "quay-mast", good, data());
        REQUIRE_OK(e);
        QCOMPARE(e->design, std::string("quay-mast"));
    }
    void an_exam_is_the_same_for_all() {
        const auto one = exam_of(test::demo_job(), 11, 6, {}, data()),
                   two = exam_of(test::demo_job(), 11, 6, {}, data());
        REQUIRE_OK(one);
        for (std::size_t i = 0; i < one->size(); ++i)
            QCOMPARE(exercise_json((*one)[i], data(), true).dump(),
                     exercise_json((*two)[i], data(), true).dump());
        QVERIFY(!exam_of(test::demo_job(), 11, 0, {}, data()));
        QVERIFY(!exam_of(test::demo_job(), most_seed, 2, {}, data()));
    }
    void tables_of_means_are_refused_by_item() {
        const auto good =
            nlohmann::json::parse(*read_file(fs::path(NEEDLEGAUGE_DATA_DIR) / "trainer/means.json"));
        REQUIRE_OK(read_means(good, "means.json"));
        // Every kind of fault can be found by something, but what is closed in and seen by its discharges
        // only.
        std::set<std::string> found;
        for (const auto& m : data().means.means)
            for (const auto& s : m.sights) found.insert(s.kind);
        for (const auto& kind : fault_kinds())
            QVERIFY2(found.contains(kind.id) || kind.id == "body_void" || kind.id == "water_film",
                     kind.id.c_str());
        const auto refused = [&](const char* pointer, const nlohmann::json& value, const char* words) {
            auto bad = good;
            bad[nlohmann::json::json_pointer(pointer)] = value;
            const auto read = read_means(bad, "own.json");
            return !read && read.error().message().find(words) != std::string::npos;
        };
        QVERIFY(refused("/means/1/finds/0/kind", "dragon", "dragon"));
        QVERIFY(refused("/means/1/finds/0/a50_mm", -1, "a50_mm"));
        QVERIFY(refused("/means/1/finds/0/c", 1.2, "no chance"));
        QVERIFY(refused("/means/1/seconds", 0, "above 0"));
        QVERIFY(refused("/means/1/id", "eye", "twice"));
        QVERIFY(refused("/costs/failure_minutes", 0, "failure_minutes"));
        for (const char* key : {"means", "costs", "origin"}) {
            auto bad = good;
            bad.erase(key);
            QVERIFY2(!read_means(bad, "own.json"), key);
        }
        QVERIFY(!read_answer({{"format", "needlegauge-answer"}, {"version", 1}, {"seconds", -1}}, "a"));
        QVERIFY(!read_answer({{"format", "needlegauge-answer"}, {"version", 1}, {"keys", {1}}}, "a"));
    }
};

QTEST_APPLESS_MAIN(TestTrainer)
#include "test_trainer.moc"
