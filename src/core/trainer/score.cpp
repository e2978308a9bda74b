#include "trainer/score.h"
#include "io/json_reader.h"
#include "trainer/drills.h"
#include "units/quantity.h"
#include "units/version.h"
#include <algorithm>
#include <boost/math/distributions/normal.hpp>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace ng {
namespace {

constexpr double same_place_mm = 5;     // a finding so near to a fault is of it
constexpr double harmless_weight = 0.5; // of what hurts nothing, against what does
constexpr double imagined_costs = 0.25;
constexpr std::size_t most_listed = 100; // looks, findings and keys of an answer

int hardness(FaultDecision d) {
    return d == FaultDecision::accept     ? 0
           : d == FaultDecision::rework   ? 1
           : d == FaultDecision::cut_back ? 2
                                          : 3;
}

std::optional<FaultDecision> decision_of(const std::string& word) {
    for (const auto d :
         {FaultDecision::accept, FaultDecision::rework, FaultDecision::cut_back, FaultDecision::ask})
        if (word == decision_word(d)) return d;
    return {};
}

/// Where it lies, of kinds that lie somewhere.
std::optional<double> place_of_fault(const Fault& fault) {
    const auto& kind = *find_fault_kind(fault.kind);
    if (kind.rule || !kind.put) return {};
    return fault.from_edge_mm.value_or(kind.from_edge_mm);
}

/// By what a judgement is worth of what is right: to stop and ask about what hurts is never wrong, and half
/// of it where the field is sure.
double worth(FaultDecision given, FaultDecision right) {
    if (given == right) return 1;
    if (right == FaultDecision::accept) return given == FaultDecision::ask ? 0.75 : 0.5; // work for nothing
    return given == FaultDecision::accept ? 0 : 0.5;
}

class Inspected {
  public:
    Inspected(const TrainAnswer& a, const TrainerData& data, const Truth& truth)
        : a_(a), data_(data), truth_(truth), taken_(a.findings.size(), false) {}

    Score score() {
        double weight = 0, points = 0;
        for (const auto& t : truth_.faults) {
            const double w = t.answer.decision == FaultDecision::accept ? harmless_weight : 1;
            weight += w;
            points += w * of_fault(t);
        }
        out_.points = weight > 0 ? points / weight : 1;
        for (std::size_t i = 0; i < taken_.size(); ++i)
            if (!taken_[i]) imagined(a_.findings[i]);
        whole();
        if (truth_.faults.empty())
            topic("nothing wrong", out_.imagined == 0 && a_.release == truth_.release());
        out_.points = std::clamp(out_.points - imagined_costs * static_cast<double>(out_.imagined), 0.0, 1.0);
        if (a_.release && !truth_.release()) out_.points = 0; // what hurts went into service
        out_.right = out_.points > 1 - 1e-9;
        out_.seconds = a_.seconds;
        for (const auto& id : a_.looks)
            if (const auto* m = data_.means.find(id)) out_.seconds += m->seconds;
        out_.cost_minutes += out_.seconds / 60;
        return std::move(out_);
    }

  private:
    /// The nearest finding of this kind and side that is not of another fault yet.
    std::optional<std::size_t> finding_of(const Fault& fault) const {
        std::optional<std::size_t> best;
        double nearest = same_place_mm;
        const auto at = place_of_fault(fault);
        for (std::size_t i = 0; i < a_.findings.size(); ++i) {
            const auto& f = a_.findings[i];
            if (taken_[i] || f.kind != fault.kind || f.side != fault.side) continue;
            const double off = at && f.from_edge_mm ? std::abs(*at - *f.from_edge_mm) : 0;
            if (off < nearest || (!best && off <= nearest)) nearest = off, best = i;
        }
        return best;
    }
    void topic(const std::string& name, bool right) {
        for (auto& [known, was] : out_.topics)
            if (known == name) {
                was = was && right;
                return;
            }
        out_.topics.emplace_back(name, right);
    }
    double of_fault(const FaultTruth& t) {
        const auto& kind = *find_fault_kind(t.fault.kind);
        const auto right = t.answer.decision;
        const bool hurts = right != FaultDecision::accept;
        const auto at = finding_of(t.fault);
        const auto what = fault_words(t.fault);
        if (!at) {
            ++out_.missed;
            topic(kind.id, false);
            const double found = found_from_mm(kind.inspection);
            out_.lines.push_back(
                fmt::format("Missed: {}. {}: {}. {} finds it {}", what, upper_first(decision_in_words(right)),
                            t.answer.why, upper_first(kind.inspection.means),
                            std::isfinite(found) ? fmt::format("from {} in nine of ten", in_mm(found))
                                                 : std::string("by no size")));
            return 0;
        }
        taken_[*at] = true;
        ++out_.found;
        const auto given = a_.findings[*at].decision;
        const double value = worth(given, right);
        topic(kind.id, value == 1);
        out_.lines.push_back(value == 1 ? fmt::format("Found and judged: {}. {}: {}", what,
                                                      upper_first(decision_in_words(right)), t.answer.why)
                                        : fmt::format("Found, but judged “{}”: {}. Right is “{}”: {}",
                                                      decision_in_words(given), what,
                                                      decision_in_words(right), t.answer.why));
        if (!hurts && given != FaultDecision::accept && given != FaultDecision::ask)
            work_for_nothing(given, what);
        return value;
    }
    void work_for_nothing(FaultDecision given, const std::string& what) {
        const double minutes =
            given == FaultDecision::cut_back ? data_.means.cut_back_minutes : data_.means.rework_minutes;
        out_.cost_minutes += minutes;
        out_.costs.push_back(fmt::format("{} for nothing ({}): about {:g} min",
                                         upper_first(decision_in_words(given)), what, minutes));
    }
    void imagined(const Finding& f) {
        ++out_.imagined;
        const auto* kind = find_fault_kind(f.kind);
        topic(f.kind, false);
        out_.lines.push_back(fmt::format("Imagined: {}{}", kind ? kind->title : f.kind, tag_of(f.side)));
        if (f.decision == FaultDecision::rework || f.decision == FaultDecision::cut_back)
            work_for_nothing(f.decision, kind ? kind->title : f.kind);
    }
    void whole() {
        if (a_.release == truth_.release()) {
            out_.lines.push_back(a_.release ? "Released, and rightly: " + truth_.why
                                            : "Not released, and rightly: " + truth_.why);
        } else if (a_.release) {
            out_.cost_minutes += data_.means.failure_minutes;
            out_.lines.push_back("Released, and it must not be: " + truth_.why);
            out_.costs.push_back(fmt::format("It fails under test or in service and is cut out: outage, a "
                                             "new kit, the cable's length again; "
                                             "about {:g} min",
                                             data_.means.failure_minutes));
        } else {
            out_.points *= 0.5;
            out_.cost_minutes += data_.means.rework_minutes;
            out_.lines.push_back("Held back for nothing: " + truth_.why);
        }
    }

    const TrainAnswer& a_;
    const TrainerData& data_;
    const Truth& truth_;
    std::vector<bool> taken_;
    Score out_;
};

/// The drill again, as it must have been asked.
Result<Drill> drill_of(const Exercise& e, const TrainerData& data) {
    const auto bench = lay_out(e.job, e.design, data);
    if (!bench) return tl::unexpected(bench.error());
    auto drill = make_drill(e.task, *bench, e.job, e.design, data, e.chance("drill"));
    if (!drill) return tl::unexpected(drill.error());
    const auto& q = drill->question;
    const bool same = q.words == e.question.words && q.options.size() == e.question.options.size() &&
                      std::equal(q.options.begin(), q.options.end(), e.question.options.begin(),
                                 [](const auto& a, const auto& b) { return a.words == b.words; });
    if (!same)
        return refuse("Exercise " + e.id, "this program asks it otherwise than it was asked",
                      "It is kept and not scored: score it with the program that asked it, or ask anew");
    return drill;
}

Result<Score> score_drill(const Exercise& e, const TrainAnswer& a, const Drill& drill) {
    Score out;
    const auto& solution = drill.solution;
    const auto words_for = [&](const std::string& key) {
        for (const auto& o : e.question.options)
            if (o.key == key) return o.words;
        return key;
    };
    if (e.question.form == Question::Form::number) {
        if (!a.number) return refuse("Answer", "it has no “number”", "Give one");
        out.right = *a.number >= solution.least - 1e-9 && *a.number <= solution.most + 1e-9;
        out.points = out.right ? 1 : 0;
        out.lines.push_back(fmt::format("{} {:g} {}; right is {:.4g} {}", out.right ? "Right:" : "Given:",
                                        *a.number, e.question.unit, solution.number, e.question.unit));
    } else if (e.question.form == Question::Form::one) {
        if (a.keys.size() != 1 || words_for(a.keys[0]) == a.keys[0])
            return refuse("Answer", "it names none of the options", "Give the key of one in “keys”");
        out.right = a.keys == solution.keys;
        out.points = out.right ? 1 : 0;
        out.lines.push_back((out.right ? "Right: " : "Right is: ") + words_for(solution.keys.at(0)));
    } else {
        std::vector<SheetStep> given;
        std::set<std::string> once;
        for (const auto& key : a.keys)
            if (const auto it = drill.steps.find(key); it != drill.steps.end() && once.insert(key).second)
                given.push_back(it->second);
        if (given.size() != drill.steps.size() || a.keys.size() != given.size())
            return refuse("Answer", "it does not put each of the steps in its place once",
                          "Give all keys in “keys”, in order");
        const auto broken = broken_rules(given, drill.rules);
        out.right = broken.empty();
        out.points = out.right ? 1 : std::max(0.0, 1 - 0.5 * static_cast<double>(broken.size()));
        for (const auto& b : broken) out.lines.push_back(b);
        std::vector<std::string> held;
        for (const auto& key : solution.keys) held.push_back("“" + words_for(key) + "”");
        out.lines.push_back(out.right ? std::string("No rule is broken in this order")
                                      : fmt::format("One order that holds: {}", fmt::join(held, ", ")));
    }
    out.lines.push_back(solution.why);
    out.topics.emplace_back(e.topics().front(), out.right);
    out.seconds = a.seconds;
    out.cost_minutes = a.seconds / 60;
    return out;
}

} // namespace

bool needs_field(const Means& means) {
    return means.discharge.has_value();
}

Result<Truth> truth_of(const Exercise& e, const TrainerData& data, const CancelFlag* cancel) {
    EvaluateOptions options;
    options.cancel = cancel;
    auto sound = judge_sound(e.job, e.design, *data.library, options);
    if (!sound) return tl::unexpected(sound.error());
    Truth out{std::move(*sound), {}, FaultDecision::accept, {}};
    const auto judged = [&](const std::vector<Fault>& faults) {
        return judge_faults(e.job, e.design, faults, *data.library, out.sound,
                            fault_options(out.sound, shown_loosest, cancel));
    };
    const auto take = [&](const FaultAnswer& answer, const std::string& what) {
        if (!out.why.empty() && hardness(answer.decision) <= hardness(out.whole)) return;
        out.whole = answer.decision;
        out.why = what.empty() ? answer.why : what + ": " + answer.why;
    };
    for (const auto& fault : e.faults()) {
        auto answer = judged({fault});
        if (!answer) return tl::unexpected(answer.error());
        take(*answer, fault_words(fault));
        out.faults.push_back({fault, std::move(*answer)});
    }
    if (e.faults().size() != 1) { // none too: the design may fall short by itself
        auto answer = judged(e.faults());
        if (!answer) return tl::unexpected(answer.error());
        take(*answer, e.faults().empty() ? "" : "All together");
    }
    return out;
}

Result<std::vector<Seen>> look(const Exercise& e, const std::string& id, const TrainerData& data,
                               const Truth* truth) {
    const auto* means = data.means.find(id);
    if (!means) {
        std::vector<std::string> known;
        for (const auto& m : data.means.means) known.push_back(m.id);
        return refuse("Means", fmt::format("“{}” is none", one_line(id, 60)),
                      fmt::format("Give one of: {}", fmt::join(known, ", ")));
    }
    std::vector<Seen> out;
    if (e.task != Task::inspect)
        return refuse("Exercise " + e.id, "there is nothing to look at", "Answer it");
    if (needs_field(*means) && !truth)
        return refuse(means->title, "what it shows is the field's: it must be solved first", "Solve it");
    for (std::size_t i = 0; i < e.faults().size(); ++i) {
        const auto& fault = e.faults()[i];
        auto chance = e.chance(fmt::format("look {} {}", means->id, i));
        const double drawn = chance.one();
        Seen seen;
        seen.fault = i;
        seen.side = fault.side;
        if (means->discharge) {
            for (const auto& air : truth->faults[i].answer.air) {
                const auto& required = truth->sound.required_kV_rms;
                if (!required || !(air.inception_kV_rms <= *required)) continue;
                if (drawn >= chance_of_finding(*means->discharge, air.charge_pC)) continue;
                seen.side = Side::none; // it does not say where
                seen.sees = fmt::format("discharges from {:.2g} kV rms on, about {:.2g} pC",
                                        air.inception_kV_rms, air.charge_pC);
                out.push_back(seen);
                break;
            }
            continue;
        }
        const auto sight = std::find_if(means->sights.begin(), means->sights.end(),
                                        [&](const auto& s) { return s.kind == fault.kind; });
        if (sight == means->sights.end() || drawn >= chance_of_finding(sight->inspection, fault.size_mm))
            continue;
        seen.sees = sight->sees;
        if (const auto at = place_of_fault(fault)) seen.from_edge_mm = std::round(2 * *at) / 2;
        if (means->reads_mm > 0 && fault.size_mm > 0) {
            const double off = means->reads_mm * boost::math::quantile(boost::math::normal(), chance.one());
            seen.size_mm = std::max(0.01, std::round(100 * (fault.size_mm + off)) / 100);
        }
        out.push_back(std::move(seen));
    }
    return out;
}

Result<TrainAnswer> read_answer(const nlohmann::json& document, const std::string& file) {
    if (auto v = check_format(document, "needlegauge-answer", 1, file); !v) return tl::unexpected(v.error());
    JsonReader in(document, file);
    TrainAnswer out;
    out.exercise = in.text_or("exercise", "");
    out.seconds = in.number_or("seconds", 0);
    if (out.seconds < 0) in.fail("“seconds” is below 0", "Correct it");
    out.release = in.boolean_or("release", false);
    out.number = in.optional_number("number");
    const auto texts = [&](const char* key, std::vector<std::string>& list) {
        for (const auto& value : in.array(key))
            if (value.is_string() && list.size() < most_listed)
                list.push_back(value);
            else
                in.fail(fmt::format("“{}” is no short list of texts", key), "Correct it");
    };
    texts("looks", out.looks);
    texts("keys", out.keys);
    for (const auto& value : in.array("findings")) {
        JsonReader of(value, file + ", a finding");
        Finding f;
        f.kind = of.text("kind");
        const auto side = of.text_or("side", "");
        f.side = side == "A" ? Side::a : side == "B" ? Side::b : Side::none;
        if (side != "" && side != "A" && side != "B") of.fail("“side” is neither A nor B", "Correct it");
        f.from_edge_mm = of.optional_number("from_edge_mm");
        const auto decision = decision_of(of.text("decision"));
        if (!decision) of.fail("“decision” is none", "Give accept, rework, cut_back or ask");
        if (!find_fault_kind(f.kind))
            of.fail(fmt::format("“{}” is no kind of fault", one_line(f.kind, 60)),
                    "Give one of the exercise's");
        if (out.findings.size() >= most_listed) of.fail("there are too many", "Give what you found");
        if (!of.ok()) return tl::unexpected(*of.error());
        f.decision = *decision;
        out.findings.push_back(std::move(f));
    }
    if (!in.ok()) return tl::unexpected(*in.error());
    return out;
}

nlohmann::ordered_json answer_json(const TrainAnswer& a) {
    nlohmann::ordered_json out{
        {"format", "needlegauge-answer"}, {"version", 1}, {"exercise", a.exercise}, {"seconds", a.seconds}};
    if (!a.keys.empty()) out["keys"] = a.keys;
    if (a.number) out["number"] = *a.number;
    if (!a.keys.empty() || a.number) return out;
    out["looks"] = a.looks;
    out["findings"] = nlohmann::ordered_json::array();
    for (const auto& f : a.findings) {
        nlohmann::ordered_json one{{"kind", f.kind}, {"side", side_letter(f.side)}};
        if (f.from_edge_mm) one["from_edge_mm"] = *f.from_edge_mm;
        one["decision"] = decision_word(f.decision);
        out["findings"].push_back(std::move(one));
    }
    out["release"] = a.release;
    return out;
}

Result<Score> score(const Exercise& e, const TrainAnswer& a, const TrainerData& data, const Truth* truth,
                    const CancelFlag* cancel) {
    if (!a.exercise.empty() && a.exercise != e.id)
        return refuse("Answer",
                      fmt::format("it is of exercise {}, not of {}", one_line(a.exercise, 40), e.id),
                      "Give the exercise that it answers: a job, tables or a seed that changed make another");
    if (auto ok = check_unchanged(e, data); !ok) return tl::unexpected(ok.error());
    if (e.task != Task::inspect) {
        if (!a.findings.empty())
            return refuse("Answer", "it has findings, and a question was asked", "Answer it");
        const auto drill = drill_of(e, data);
        if (!drill) return tl::unexpected(drill.error());
        return score_drill(e, a, *drill);
    }
    if (!a.keys.empty() || a.number)
        return refuse("Answer", "it has keys or a number, and an inspection was asked", "Give findings");
    for (const auto& id : a.looks)
        if (!data.means.find(id))
            return refuse("Answer", fmt::format("“{}” is no means", one_line(id, 60)), "Correct it");
    std::optional<Truth> solved;
    if (!truth) {
        auto made = truth_of(e, data, cancel);
        if (!made) return tl::unexpected(made.error());
        truth = &solved.emplace(std::move(*made));
    }
    return Inspected(a, data, *truth).score();
}

nlohmann::ordered_json score_json(const Exercise& e, const Score& s) {
    nlohmann::ordered_json out{{"format", "needlegauge-score"},
                               {"version", 1},
                               {"rules", rules_version},
                               {"exercise", e.id},
                               {"task", task_word(e.task)},
                               {"points", s.points},
                               {"right", s.right},
                               {"seconds", s.seconds},
                               {"cost_minutes", s.cost_minutes},
                               {"found", s.found},
                               {"missed", s.missed},
                               {"imagined", s.imagined},
                               {"lines", s.lines},
                               {"costs", s.costs}};
    out["topics"] = nlohmann::ordered_json::array();
    for (const auto& [topic, right] : s.topics) out["topics"].push_back({{"topic", topic}, {"right", right}});
    return out;
}

Result<TrainAnswer> right_answer(const Exercise& e, const TrainerData& data, const Truth* truth) {
    if (auto ok = check_unchanged(e, data); !ok) return tl::unexpected(ok.error());
    TrainAnswer out;
    out.exercise = e.id;
    if (e.task != Task::inspect) {
        const auto drill = drill_of(e, data);
        if (!drill) return tl::unexpected(drill.error());
        if (e.question.form == Question::Form::number)
            out.number = std::round(100 * drill->solution.number) / 100;
        else
            out.keys = drill->solution.keys;
        return out;
    }
    std::optional<Truth> solved;
    if (!truth) {
        auto made = truth_of(e, data);
        if (!made) return tl::unexpected(made.error());
        truth = &solved.emplace(std::move(*made));
    }
    for (const auto& t : truth->faults)
        out.findings.push_back({t.fault.kind, t.fault.side, place_of_fault(t.fault), t.answer.decision});
    out.release = truth->release();
    return out;
}

} // namespace ng
