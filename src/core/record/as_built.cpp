#include "record/as_built.h"
#include "fault/fault.h"
#include "plan/move_mark.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

const std::string as_built_suffix = "-as-built";

/// Takes the readings of a record into its design, one kind after the other.
class Builder {
  public:
    Builder(const AccessoryRecord& record, const Library& library, const CancelFlag* cancel)
        : record_(record), library_(library), cancel_(cancel) {
        out_.job = record.job;
        out_.design = record.design;
    }

    Result<AsBuilt> built() {
        const auto designed = prepared();
        if (!designed) return tl::unexpected(designed.error());
        const auto plan = make_plan(*designed);
        if (!plan) return tl::unexpected(plan.error());
        two_sides_ = plan->two_sides();
        take_cable(*designed);
        if (auto ok = take_marks(*designed, *plan); !ok) return tl::unexpected(ok.error());
        take_faults();
        name_the_rest(*plan, *designed);
        if (auto ok = prepared(); !ok) return tl::unexpected(ok.error());
        return std::move(out_);
    }

  private:
    Result<PreparedDesign> prepared() const { return prepare_design(out_.job, out_.design, library_); }
    Design& design() { return *out_.job.find_design(out_.design); }

    /// The cable of a side, which is this design's own from here on where a joint has one cable on both.
    Cable& cable_of(Side side) {
        auto& d = design();
        auto id = d.cable_id;
        if (side == Side::b && d.other_cable_id.empty()) {
            auto copy = *out_.job.find_cable(d.cable_id);
            copy.id += as_built_suffix;
            d.other_cable_id = id = copy.id;
            out_.job.cables.push_back(std::move(copy));
        } else if (side == Side::b) {
            id = d.other_cable_id;
        } else if (side == Side::a && two_sides_ && d.other_cable_id.empty()) {
            auto copy = *out_.job.find_cable(d.cable_id); // side B stays as it was described
            copy.id += as_built_suffix;
            d.other_cable_id = copy.id;
            out_.job.cables.push_back(std::move(copy));
        }
        return *std::find_if(out_.job.cables.begin(), out_.job.cables.end(),
                             [&](const auto& c) { return c.id == id; });
    }

    void take_cable(const PreparedDesign& designed) {
        std::map<std::pair<std::string, Side>, std::vector<const RecordedReading*>> diameters, walls;
        for (const auto& r : record_.readings) {
            const auto what = r.text("what"), layer = r.text("place");
            if (what != "diameter" && what != "thickness") continue;
            const auto& layers = cable_layers();
            const bool known = what == "thickness"
                                   ? layer == "insulation"
                                   : std::find(layers.begin(), layers.end(), layer) != layers.end();
            const auto side = two_sides_ ? r.side() : Side::none;
            if (!known || (two_sides_ && side == Side::none))
                out_.not_taken.push_back(
                    fmt::format("{}: {}", r.words(),
                                known ? "it says of neither side" : "no layer of the cable is meant"));
            else
                (what == "diameter" ? diameters : walls)[{layer, side}].push_back(&r);
        }
        for (auto* all : {&diameters, &walls})
            for (auto& [of, readings] : *all) { // those of the step that was last measured in
                const auto step = readings.back()->text("step");
                std::erase_if(readings, [&](const auto* r) { return r->text("step") != step; });
            }
        for (const auto& [of, readings] : diameters) {
            auto& cable = cable_of(of.second);
            auto& list = cable.caliper_readings[of.first];
            list.clear();
            double mean = 0;
            for (const auto* r : readings) {
                list.push_back({r->value(), r->body.value("across", false)});
                mean += r->value() / static_cast<double>(readings.size());
            }
            const auto& dimensions = of.second == Side::b && designed.other_dimensions
                                         ? *designed.other_dimensions
                                         : designed.dimensions;
            const double was = dimensions.layer(of.first).diameter_mm;
            differ(fmt::format("diameter over the {}{}", of.first, side_words(of.second)), was, mean);
            out_.measured_keys.insert(key_of(of.second, of.first + "_diameter_mm"));
        }
        for (const auto& [of, readings] : walls) {
            double mean = 0;
            for (const auto* r : readings) mean += r->value() / static_cast<double>(readings.size());
            const auto& dimensions = of.second == Side::b && designed.other_dimensions
                                         ? *designed.other_dimensions
                                         : designed.dimensions;
            differ("insulation thickness" + side_words(of.second),
                   dimensions.layer("insulation").thickness_mm, mean);
            cable_of(of.second).insulation_thickness_mm = mean;
            out_.measured_keys.insert(key_of(of.second, "insulation_thickness_mm"));
        }
    }

    static std::string side_words(Side side) {
        return side == Side::a ? ", side A" : side == Side::b ? ", side B" : "";
    }
    static std::string key_of(Side side, const std::string& key) {
        return (side == Side::b ? "other cable " : "cable ") + key;
    }
    void differ(const std::string& what, double was_mm, double is_mm) {
        if (std::abs(is_mm - was_mm) >= reads_as_designed_mm)
            out_.differences.push_back(
                fmt::format("{}: {:.4g} for {:.4g} mm, {:+.2g}", what, is_mm, was_mm, is_mm - was_mm));
    }

    /// A mark and the reading that counts: the last; of three cores that of the core furthest off.
    struct ReadMark {
        const CutMark* mark = nullptr;
        const RecordedReading* reading = nullptr;
    };

    std::vector<ReadMark> read_marks(const CutPlan& plan) const {
        std::vector<ReadMark> out;
        for (const auto& mark : plan.marks) {
            const RecordedReading* counts = nullptr;
            for (int core = 0; core <= 3; ++core) {
                const auto* r = record_.last_of("mark", name_of(mark.place), core);
                const auto off = [&](const RecordedReading* one) {
                    return std::abs(one->value() - one->figure("designed").value_or(mark.from_datum_mm));
                };
                if (r && (!counts || off(r) > off(counts))) counts = r;
            }
            if (counts) out.push_back({&mark, counts});
        }
        return out;
    }

    /// Numbers that nobody gave follow others: what was cut or laid elsewhere stays where it was designed
    /// when one of them is read otherwise.
    void hold_marks(const PreparedDesign& designed, const CutPlan& plan) {
        for (const auto& mark : plan.marks)
            if (!mark.parameter.empty())
                design().numbers.try_emplace(mark.parameter, number_of(designed.context(), mark.parameter));
    }

    /// Marks that one number of the design sets: one, or those of both sides.
    using Group = std::vector<ReadMark>;

    /// Where a mark lies now, from the datum that it was read from.
    struct Located {
        Job job; ///< counting from that datum
        PreparedDesign prepared;
        std::optional<double> from_datum_mm; ///< none: it is gone
    };
    Result<Located> locate(const ReadMark& read) const {
        Located out{out_.job, {}, {}};
        if (const auto datum = place_of(read.reading->text("datum")))
            out.job.find_design(out_.design)->work.datum = *datum;
        auto now = prepare_design(out.job, out_.design, library_);
        if (!now) return tl::unexpected(now.error());
        const auto plan = make_plan(*now);
        if (!plan) return tl::unexpected(plan.error());
        if (const auto* m = plan->find(read.mark->place)) out.from_datum_mm = m->from_datum_mm;
        out.prepared = std::move(*now);
        return out;
    }

    Result<void> take_marks(const PreparedDesign& designed, const CutPlan& plan) {
        const auto read = read_marks(plan);
        std::vector<Group> groups; // in the plan's order
        for (const auto& one : read) {
            const auto& [mark, reading] = one;
            const auto was = reading->figure("designed").value_or(mark->from_datum_mm);
            out_.marks.push_back({mark->place, mark->label, mark->side, was, reading->value(), mark->z_mm,
                                  reading->within(), reading->number});
            differ(mark->label, was, reading->value());
            const auto same = std::find_if(groups.begin(), groups.end(), [&](const Group& g) {
                return !mark->parameter.empty() && g.front().mark->parameter == mark->parameter;
            });
            same == groups.end() ? groups.push_back({one}) : same->push_back(one);
            if (!mark->parameter.empty()) out_.measured_keys.insert(mark->parameter);
        }
        if (std::any_of(out_.marks.begin(), out_.marks.end(),
                        [](const auto& m) { return std::abs(m.off_mm()) >= reads_as_designed_mm; }))
            hold_marks(designed, plan);
        // Marks lie from one another: a number moves others along, until all lie where they were read.
        constexpr int passes = 4;
        std::map<std::string, std::string> cannot;
        bool moved = true;
        for (int pass = 0; pass < passes && moved; ++pass) {
            cannot.clear();
            moved = false;
            for (const auto& group : groups) {
                if (stopped()) return refuse("as built", "cancelled", "");
                const auto changed = place(group, cannot);
                if (!changed) return tl::unexpected(changed.error());
                moved = moved || *changed;
            }
        }
        for (const auto& [label, why] : cannot) out_.not_taken.push_back(label + ": " + why);
        return name_what_is_off(groups, cannot);
    }

    /// Sets the number of these marks to the mean of what they want; whether it changed. What cannot be
    /// placed goes to `cannot`, by label.
    Result<bool> place(const Group& group, std::map<std::string, std::string>& cannot) {
        const auto& key = group.front().mark->parameter;
        double sum = 0, now_value = 0;
        int wants = 0;
        bool off = false;
        std::map<std::string, double> datum; ///< what holds it
        for (const auto& read : group) {
            const auto now = locate(read);
            if (!now) return tl::unexpected(now.error());
            if (!now->from_datum_mm) {
                cannot[read.mark->label] = "this mark is gone as built";
                continue;
            }
            if (!key.empty()) now_value = number_of(now->prepared.context(), key);
            double wanted = now_value;
            if (std::abs(*now->from_datum_mm - read.reading->value()) >= reads_as_designed_mm) {
                const auto numbers =
                    numbers_for(now->job, now->prepared, library_, read.mark->place, read.reading->value());
                if (!numbers) {
                    cannot[read.mark->label] = numbers.error().problem;
                    continue;
                }
                off = true;
                for (const auto& [k, value] : *numbers) (k == key ? wanted : datum[k]) = value;
            }
            sum += wanted;
            ++wants;
        }
        constexpr double same_mm = 1e-3;
        if (!off || std::abs(sum / wants - now_value) < same_mm) return false;
        for (const auto& [k, value] : datum) design().numbers[k] = value;
        design().numbers[key] = sum / wants;
        if (auto ok = prepared(); !ok)
            return refuse(group.front().mark->label,
                          fmt::format("with {} as read the accessory cannot be built ({})",
                                      in_mm(group.front().reading->value()), ok.error().problem),
                          "Read it again, or correct the row");
        return true;
    }

    /// Nothing is left unsaid of marks that do not lie where they were read.
    Result<void> name_what_is_off(const std::vector<Group>& groups,
                                  const std::map<std::string, std::string>& said) {
        for (const auto& group : groups)
            for (const auto& read : group) {
                if (said.contains(read.mark->label)) continue;
                const auto now = locate(read);
                if (!now) return tl::unexpected(now.error());
                const double at = now->from_datum_mm.value_or(read.reading->value());
                if (std::abs(at - read.reading->value()) < reads_as_designed_mm) continue;
                out_.not_taken.push_back(fmt::format(
                    "{}: solved at {:.4g} mm, read at {:.4g} mm: {}", read.mark->label, at,
                    read.reading->value(),
                    group.size() > 1 ? "one number of the design sets it on both sides, the mean is taken"
                                     : "its number cannot follow what else was read"));
            }
        return {};
    }

    /// Faults that were found and left as they are, or are not decided yet.
    void take_faults() {
        auto& faults = design().faults;
        faults.clear();
        for (const auto& row : record_.faults) {
            const auto decision = row.text("decision");
            if (decision == "rework" || decision == "cut_back") continue;
            Fault fault;
            fault.kind = row.text("fault");
            fault.side = row.side();
            fault.size_mm = row.figure("size_mm").value_or(0);
            fault.from_edge_mm = row.figure("from_edge_mm");
            fault.width_mm = row.figure("width_mm");
            fault.sheet_ohm = row.figure("sheet_ohm");
            if (!row.text("filling").empty()) fault.filling = row.text("filling");
            faults.push_back(fault);
            if (const auto fits = prepare_faulty(out_.job, out_.design, faults, library_); !fits) {
                faults.pop_back();
                out_.not_taken.push_back(row.text("words") + ": " + fits.error().problem);
            } else {
                out_.differences.push_back(row.text("words") +
                                           (decision == "accept" ? ", accepted" : ", not decided yet"));
            }
        }
    }

    void name_the_rest(const CutPlan& plan, const PreparedDesign& designed) {
        for (const auto& mark : plan.marks) {
            if (mark.tolerance_mm <= 0 || mark.place == plan.datum) continue;
            const bool was_read = std::any_of(out_.marks.begin(), out_.marks.end(),
                                              [&](const auto& m) { return m.place == mark.place; });
            if (!was_read)
                out_.unmeasured.push_back(fmt::format("{}: {} ± {:g} mm", mark.label,
                                                      plan.distance_words(mark.from_datum_mm),
                                                      mark.tolerance_mm));
        }
        for (const Side side : two_sides_ ? std::vector{Side::a, Side::b} : std::vector{Side::none})
            if (!out_.measured_keys.contains(key_of(side, "insulation_diameter_mm"))) {
                const auto& dimensions = side == Side::b && designed.other_dimensions
                                             ? *designed.other_dimensions
                                             : designed.dimensions;
                const auto& layer = dimensions.layer("insulation");
                out_.unmeasured.push_back(fmt::format("diameter over the insulation{}: {} ± {:.1f} mm",
                                                      side_words(side), in_mm(layer.diameter_mm),
                                                      layer.uncertainty_mm));
            }
    }

    bool stopped() const { return cancel_ && cancel_->load(std::memory_order_relaxed); }

    const AccessoryRecord& record_;
    const Library& library_;
    const CancelFlag* cancel_;
    bool two_sides_ = false;
    AsBuilt out_;
};

/// "holds: 23 ± 1 % left to the limit of …": by the check that lies nearest to its limit.
std::string margin_words(const Verdict& verdict) {
    const Check* worst = nullptr;
    for (const auto& c : verdict.checks)
        if (c.status != Status::not_judged && !c.set_aside && (!worst || c.margin < worst->margin))
            worst = &c;
    if (!worst) return "not judged";
    const double error = 100 * worst->relative_error * worst->value / worst->limit;
    return fmt::format("{}: {} ± {} % {} the limit of “{}”", status_word(verdict.status),
                       format_figures(std::abs(100 * worst->margin), 2), format_figures(error, 1),
                       worst->margin >= 0 ? "left to" : "beyond", worst->title);
}

} // namespace

Result<AsBuilt> as_built(const AccessoryRecord& record, const Library& library, const CancelFlag* cancel) {
    return Builder(record, library, cancel).built();
}

std::vector<BuiltVerdict::Pair> BuiltVerdict::pairs() const {
    std::vector<Pair> out;
    for (const auto& c : designed->verdict.checks) out.push_back({c.title, c.id, &c, nullptr});
    for (const auto& c : as_built->verdict.checks) {
        const auto it =
            std::find_if(out.begin(), out.end(), [&](const auto& p) { return p.id == c.id && !p.as_built; });
        if (it == out.end())
            out.push_back({c.title, c.id, nullptr, &c});
        else
            it->as_built = &c;
    }
    return out;
}

std::string BuiltVerdict::words() const {
    return fmt::format("as built: {} (as designed: {})", margin_words(as_built->verdict),
                       margin_words(designed->verdict));
}

Result<BuiltVerdict> judge_as_built(const AccessoryRecord& record, const Library& library,
                                    const CancelFlag* cancel, const BuiltVerdict* before) {
    auto built = as_built(record, library, cancel);
    if (!built) return tl::unexpected(built.error());
    BuiltVerdict out{std::move(*built), record.begun.text("sha256"), nullptr, nullptr};
    if (before && before->frozen != out.frozen) before = nullptr;
    EvaluateOptions options;
    options.cancel = cancel;
    const auto solved = [&](const Job& job,
                            const Preparer& prepare) -> Result<std::shared_ptr<const Evaluation>> {
        auto evaluation = evaluate(job, record.design, {}, library, prepare, options);
        if (!evaluation) return tl::unexpected(evaluation.error());
        return std::make_shared<const Evaluation>(std::move(*evaluation));
    };
    // What was solved already is not solved again: most rows change nothing of the field.
    auto designed = before ? Result<std::shared_ptr<const Evaluation>>(before->designed)
                           : solved(record.job, prepare_design);
    if (!designed) return tl::unexpected(designed.error());
    const auto& job = out.built.job;
    auto judged = job == record.job ? designed
                  : before && before->built.job == job
                      ? Result<std::shared_ptr<const Evaluation>>(before->as_built)
                      : solved(job, prepare_with_faults);
    if (!judged) return tl::unexpected(judged.error());
    out.designed = *designed;
    out.as_built = *judged;
    return out;
}

Result<StudyPlan> unmeasured_plan(const AsBuilt& built, const PreparedDesign& prepared) {
    auto planned = design_plan(prepared, false);
    if (!planned) return planned;
    auto& plan = *planned;
    plan.with_faults = !prepared.design.faults.empty();
    std::erase_if(plan.varied, [&](const Varied& v) { return built.measured_keys.contains(v.key); });
    const auto varies = [&](const std::string& key) {
        return std::any_of(plan.varied.begin(), plan.varied.end(),
                           [&](const auto& v) { return v.key == key; });
    };
    std::erase_if(plan.correlated, [&](const Correlated& c) { return !varies(c.a) || !varies(c.b); });
    return planned;
}

Result<StudyTable> vary_unmeasured(const BuiltVerdict& verdict, std::uint64_t samples, const Library& library,
                                   int threads, const CancelFlag* cancel,
                                   const std::function<void(const StudyRow&)>& on_row) {
    auto plan = unmeasured_plan(verdict.built, verdict.as_built->prepared);
    if (!plan) return tl::unexpected(plan.error());
    plan->samples = samples;
    auto study = Study::begin(verdict.built.job, *plan, library, prepare_with_faults, cancel);
    if (!study) return tl::unexpected(study.error());
    StudyTable table;
    table.plan = study->plan();
    table.checks = study->checks();
    run_rows(*study, {0, 1}, 0, threads, cancel, [&](const StudyRow& row) {
        table.rows.push_back(row);
        if (on_row) on_row(row);
    });
    return table;
}

std::string unmeasured_words(const StudyTable& table) {
    const auto s = summarise(table);
    auto words = fmt::format("of builds within the tolerances of what was not measured fall short: {}",
                             share_words(s.falls_short, s.failing, s.rows - s.refused));
    if (s.refused) words += fmt::format("; {} cannot be built at all", s.refused);
    return words;
}

} // namespace ng
