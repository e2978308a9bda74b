#include "study/duties.h"
#include "io/csv.h"
#include "study/telling.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>
#include <mutex>

namespace ng {
namespace {

constexpr double row_goal = 0.01, row_loosest = 0.1;

/// Whether the standard is asked of designs of this family.
bool asked_of(const StandardsPack& pack, const Design& design, const Family& family, const Library& library) {
    if (pack.id == design.duty.standard) return true;
    return pack.in_scope &&
           (pack.id == family.usual_standard ||
            std::none_of(library.families.begin(), library.families.end(),
                         [&](const auto& other) { return other.usual_standard == pack.id; }));
}

std::string class_words(const DutyRow& row) {
    return fmt::format("{:g} kV", row.class_kV);
}

std::string share_words(const DutyRow& row) {
    if (row.check.empty()) return "no check that the class touches";
    return fmt::format("{} ± {} % of the limit ({}){}", format_figures(100 * row.share, 3),
                       format_figures(100 * row.error, 1), row.check,
                       row.open() ? ", which is open: within its error" : "");
}

/// Why a row does not hold.
std::string failing_words(const DutyRow& row) {
    if (!row.refusal.empty()) return row.refusal;
    if (row.above_cable) return "above the cable's own class";
    if (row.status == Status::falls_short) return share_words(row);
    return row.fit == Status::falls_short ? "its parts do not fit" : "not judged";
}

} // namespace

Result<std::vector<DutyRow>> over_duties(const Job& job, const std::string& id, const Library& library,
                                         const Preparer& prepare, const CancelFlag* cancel,
                                         const std::function<void(int, int)>& found) {
    EvaluateOptions how;
    how.goal = row_goal;
    how.loosest = row_loosest;
    how.cancel = cancel;
    how.movable = true;
    const auto own = evaluate(job, id, {}, library, prepare, how);
    if (!own) return tl::unexpected(own.error());
    const auto packs = packs_of(job, library);
    if (!packs) return tl::unexpected(packs.error());
    const auto& design = *job.find_design(id);
    std::vector<DutyRow> out;
    for (const bool is_own : {true, false})
        for (const auto& pack : *packs) {
            if ((pack.id == design.duty.standard) != is_own ||
                !asked_of(pack, design, *own->prepared.family, library))
                continue;
            for (const auto& c : pack.classes) {
                DutyRow row;
                row.standard = pack.id, row.title = pack.title, row.class_kV = c.class_kV;
                row.own = is_own && c.class_kV == design.duty.class_kV;
                out.push_back(std::move(row));
            }
        }
    how.movable = false;
    // Usual values go by the class: the design is the one that was made for its own.
    auto made = job;
    keep_usual_values(own->prepared, *made.find_design(id), false);
    std::vector<CheckShares> shares(out.size());
    if (own->solutions.follower) how.like = {own->solutions.follower}; // the section is the same at each
    std::mutex mutex;
    int done = 0;
    in_parallel(
        out.size(), usable_threads(),
        [&](std::size_t k) {
            auto& row = out[k];
            auto changed = made;
            auto& duty = changed.find_design(id)->duty;
            duty.standard = row.standard;
            duty.class_kV = row.class_kV;
            if (!row.own) duty.u0_kV.reset();
            const auto judged = evaluate(changed, id, {}, library, prepare, how);
            if (judged) {
                row.u0_kV = judged->prepared.design.duty.u0();
                row.above_cable = judged->prepared.above_cable;
                row.fit = judged->prepared.fit.status;
                row.status = judged->verdict.status;
                shares[k] = shares_of(judged->verdict);
            } else {
                row.refusal = judged.error().message();
            }
            const std::lock_guard lock(mutex);
            if (found) found(++done, static_cast<int>(out.size()));
        },
        cancel);
    if (cancel && cancel->load()) return refuse("duties", "cancelled", "");
    const auto nearest = nearest_limits(shares);
    for (std::size_t k = 0; k < out.size(); ++k)
        out[k].share = nearest[k].share, out[k].error = nearest[k].error, out[k].check = nearest[k].check;
    return out;
}

const DutyRow* highest_held(const std::vector<DutyRow>& rows, const std::string& standard) {
    const DutyRow* out = nullptr;
    for (const auto& row : rows)
        if (row.standard == standard && row.holds()) out = &row;
    return out;
}

nlohmann::ordered_json duties_json(const std::string& design, const std::vector<DutyRow>& rows) {
    using nlohmann::ordered_json;
    ordered_json out{{"format", "needlegauge-duties"},
                     {"version", 1},
                     {"design", design},
                     {"rows", ordered_json::array()},
                     {"highest", ordered_json::array()}};
    for (const auto& row : rows) {
        ordered_json one{{"standard", row.standard}, {"class_kV", row.class_kV}, {"own", row.own}};
        if (row.refusal.empty()) {
            one["u0_kV"] = row.u0_kV;
            one["above_cable"] = row.above_cable;
            one["fit"] = status_word(row.fit);
            one["status"] = status_word(row.status);
            one["share_of_limit"] = row.share;
            one["error"] = row.error;
            one["check"] = row.check;
            one["open"] = row.open();
        } else {
            one["refusal"] = row.refusal;
        }
        one["holds"] = row.holds();
        out["rows"].push_back(std::move(one));
    }
    for (std::size_t k = 0; k < rows.size(); ++k) {
        if (k > 0 && rows[k].standard == rows[k - 1].standard) continue;
        const auto* highest = highest_held(rows, rows[k].standard);
        out["highest"].push_back({{"standard", rows[k].standard},
                                  {"class_kV", highest ? ordered_json(highest->class_kV) : ordered_json()}});
    }
    return out;
}

std::string duties_csv(const std::vector<DutyRow>& rows) {
    auto out = csv_line({"standard", "class (kV)", "U0 (kV)", "holds", "fit", "status", "share of limit",
                         "error of it", "check", "open", "above the cable's class", "refusal"});
    for (const auto& row : rows) {
        const bool built = row.refusal.empty();
        out += csv_line({row.standard, fmt::format("{:g}", row.class_kV),
                         built ? fmt::format("{:.6g}", row.u0_kV) : "", row.holds() ? "1" : "0",
                         built ? status_word(row.fit) : "", built ? status_word(row.status) : "refused",
                         built ? fmt::format("{:.4g}", row.share) : "",
                         built ? fmt::format("{:.2g}", row.error) : "", row.check, row.open() ? "1" : "0",
                         row.above_cable ? "1" : "0", row.refusal});
    }
    return out;
}

std::vector<std::string> duties_words(const std::vector<DutyRow>& rows) {
    std::vector<std::string> out;
    for (std::size_t k = 0; k < rows.size(); ++k) {
        if (k > 0 && rows[k].standard == rows[k - 1].standard) continue;
        const auto* highest = highest_held(rows, rows[k].standard);
        const auto* next =
            highest ? highest + 1 : &rows[k]; // of the classes that do not, the lowest above it
        const bool more = next < rows.data() + rows.size() && next->standard == rows[k].standard;
        auto line = rows[k].title + ": ";
        line += highest ? fmt::format("holds up to {}, at {}", class_words(*highest), share_words(*highest))
                        : std::string("no class holds");
        if (more) line += fmt::format("; {}: {}", class_words(*next), failing_words(*next));
        out.push_back(std::move(line));
    }
    return out;
}

} // namespace ng
