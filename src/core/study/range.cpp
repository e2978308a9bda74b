#include "study/range.h"
#include "io/csv.h"
#include "study/telling.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <mutex>

namespace ng {
namespace {

constexpr double cell_goal = 0.01, cell_loosest = 0.1;
constexpr double least_conductor_mm = 2;
constexpr int most_cells = 60; // each way

/// The job with the design's cable as thick as asked.
Result<Job> with_cable(const Job& job, const Design& design, double diameter_mm, double thickness_mm) {
    Job out = job;
    for (auto& cable : out.cables) {
        if (cable.id != design.cable_id) continue;
        const double conductor = diameter_mm - 2 * thickness_mm - 2 * cable.conductor_screen_thickness_mm;
        if (!(conductor >= least_conductor_mm))
            return refuse("cable", fmt::format("its conductor would be {:.1f} mm thick", conductor),
                          "Thinner insulation or a larger diameter");
        cable.insulation_thickness_mm = thickness_mm;
        cable.caliper_readings.clear();
        cable.measured_diameter_mm = {{"conductor", conductor}};
    }
    return out;
}

/// What varies on a cable of the map. Its diameters are those asked for, and where its maker cuts its
/// thickness off is said of the design's own.
Result<StudyPlan> plan_of_cell(PreparedDesign prepared) {
    for (auto& [key, tolerance] : prepared.design.tolerances)
        if (key.starts_with("cable ")) tolerance.lowest = tolerance.highest = std::nullopt;
    auto plan = design_plan(prepared, false);
    if (plan)
        std::erase_if(plan->varied, [](const Varied& v) { return v.key == "cable conductor_diameter_mm"; });
    return plan;
}

double thickness_of(const CableDimensions& d) {
    return d.radius_mm("insulation") - d.radius_mm("conductor screen");
}

} // namespace

RangeGrid usual_range(const PreparedDesign& prepared) {
    const double diameter = 2 * prepared.dimensions.radius_mm("insulation"),
                 thickness = thickness_of(prepared.dimensions);
    RangeGrid out;
    out.diameter_low_mm = 0.8 * diameter, out.diameter_high_mm = 1.25 * diameter;
    out.thickness_low_mm = 0.75 * thickness, out.thickness_high_mm = 1.35 * thickness;
    return out;
}

Result<RangeMap> map_range(const Job& job, const std::string& id, const Library& library,
                           const Preparer& prepare, const RangeGrid& grid, const CancelFlag* cancel,
                           const std::function<void(int, int)>& found) {
    const auto* design = job.find_design(id);
    if (!design) return refuse("design " + id, "it is not in the job", "Name one of the job's designs");
    if (grid.cells < 2 || grid.cells > most_cells)
        return refuse("range", fmt::format("{} cells each way are no map", grid.cells),
                      fmt::format("Give 2 to {}", most_cells));
    if (!(grid.diameter_low_mm > 0 && grid.diameter_high_mm > grid.diameter_low_mm))
        return refuse("range", "its diameters do not rise from above zero", "Give them as lowest:highest");
    if (!(grid.thickness_low_mm > 0 && grid.thickness_high_mm > grid.thickness_low_mm))
        return refuse("range", "its thicknesses do not rise from above zero", "Give them as lowest:highest");
    RangeMap out;
    out.design = id;
    const auto steps = [&](double low, double high) {
        std::vector<double> at;
        for (int k = 0; k < grid.cells; ++k)
            at.push_back(std::round(1e3 * (low + (high - low) * k / (grid.cells - 1))) / 1e3);
        return at;
    };
    out.diameters_mm = steps(grid.diameter_low_mm, grid.diameter_high_mm);
    out.thicknesses_mm = steps(grid.thickness_low_mm, grid.thickness_high_mm);
    out.cells.resize(out.diameters_mm.size() * out.thicknesses_mm.size());
    for (const auto& cable : job.cables)
        if (const auto d = derive_dimensions(cable, library.cables))
            out.cables.push_back({cable.id, cable.title, 2 * d->radius_mm("insulation"), thickness_of(*d),
                                  cable.id == design->cable_id});
    EvaluateOptions how;
    how.goal = cell_goal;
    how.loosest = cell_loosest;
    how.cancel = cancel;
    std::vector<ToleranceCorner> corners;
    if (grid.corners) {
        // The design's own cable as one of the map: what was read of its own piece says nothing of others.
        const auto own = prepare(job, id, library);
        if (!own) return tl::unexpected(own.error());
        const auto of_map = with_cable(job, *design, 2 * own->dimensions.radius_mm("insulation"),
                                       thickness_of(own->dimensions));
        if (!of_map) return tl::unexpected(of_map.error());
        const auto prepared = prepare(*of_map, id, library);
        if (!prepared) return tl::unexpected(prepared.error());
        auto plan = plan_of_cell(*prepared);
        if (!plan) return tl::unexpected(plan.error());
        const auto study = Study::begin(*of_map, std::move(*plan), library, prepare, cancel);
        if (!study) return tl::unexpected(study.error());
        auto looked_for = corners_of(*study, cancel);
        if (!looked_for) return tl::unexpected(looked_for.error());
        corners = std::move(*looked_for);
    }
    out.corners = corners.size();
    const auto each = 1 + corners.size(); // verdicts a cell: as designed, then at each corner
    std::vector<CheckShares> shares(out.cells.size() * each);
    const auto judge_corners = [&](const Job& changed, const Evaluation& nominal, std::size_t k) {
        auto made = changed;
        keep_usual_values(nominal.prepared, *made.find_design(id), true);
        const auto plan = plan_of_cell(nominal.prepared);
        if (!plan) {
            out.cells[k].corners_not_built = static_cast<int>(corners.size());
            return;
        }
        auto beside = how;
        beside.beside = &nominal;
        beside.prior = &nominal.verdict;
        for (std::size_t c = 0; c < corners.size(); ++c) {
            const auto judged =
                evaluate(drawn_job(made, *plan, corners[c].drawn(*plan)), id, {}, library, prepare, beside);
            auto& cell = out.cells[k];
            if (!judged) {
                ++cell.corners_not_built;
                continue;
            }
            shares[k * each + 1 + c] = shares_of(judged->verdict);
            if (judged->verdict.status == Status::falls_short ||
                judged->prepared.fit.status == Status::falls_short)
                cell.at_corners = false;
        }
    };
    std::mutex mutex;
    int done = 0;
    in_parallel(
        out.cells.size(), usable_threads(),
        [&](std::size_t k) {
            auto& cell = out.cells[k];
            const auto changed = with_cable(job, *design, out.diameters_mm[k % out.diameters_mm.size()],
                                            out.thicknesses_mm[k / out.diameters_mm.size()]);
            const auto judged = changed ? evaluate(*changed, id, {}, library, prepare, how)
                                        : Result<Evaluation>(tl::unexpected(changed.error()));
            if (!judged) {
                cell.refusal = judged.error().message();
            } else {
                cell.fit = judged->prepared.fit.status;
                cell.status = judged->verdict.status;
                shares[k * each] = shares_of(judged->verdict);
                judge_corners(*changed, *judged, k);
            }
            const std::lock_guard lock(mutex);
            if (found) found(++done, static_cast<int>(out.cells.size()));
        },
        cancel);
    if (cancel && cancel->load()) return refuse("range", "cancelled", "");
    const auto nearest = nearest_limits(shares);
    for (std::size_t k = 0; k < nearest.size(); ++k) {
        auto& cell = out.cells[k / each];
        const auto c = k % each;
        if (c > 0 && !(nearest[k].share > cell.share)) continue;
        cell.share = nearest[k].share, cell.error = nearest[k].error, cell.check = nearest[k].check;
        cell.corner = c > 0 ? corners[c - 1].check : "";
    }
    for (std::size_t k = 0; k < out.cells.size(); ++k) {
        const auto& cell = out.cells[k];
        if (!cell.refusal.empty() || cell.fit == Status::falls_short) continue;
        if (!out.to_test || cell.share > out.cells[*out.to_test].share) out.to_test = k;
    }
    return out;
}

nlohmann::ordered_json range_json(const RangeMap& map) {
    using nlohmann::ordered_json;
    const auto columns = map.diameters_mm.size();
    const auto cell_json = [&](std::size_t k) {
        const auto& cell = map.cells[k];
        ordered_json out{{"diameter_mm", map.diameters_mm[k % columns]},
                         {"thickness_mm", map.thicknesses_mm[k / columns]}};
        if (!cell.refusal.empty()) {
            out["refusal"] = cell.refusal;
            return out;
        }
        out["fit"] = status_word(cell.fit);
        out["status"] = status_word(cell.status);
        out["share_of_limit"] = cell.share;
        out["error"] = cell.error;
        out["check"] = cell.check;
        if (map.corners > 0) {
            const auto holds = cell.serves_at_corners();
            out["holds_at_corners"] = holds ? ordered_json(*holds) : ordered_json();
            out["corners_not_built"] = cell.corners_not_built;
            out["corner"] = cell.corner;
        }
        return out;
    };
    ordered_json out{{"format", "needlegauge-range"},  {"version", 1},
                     {"design", map.design},           {"corners", map.corners},
                     {"cells", ordered_json::array()}, {"cables", ordered_json::array()}};
    for (std::size_t k = 0; k < map.cells.size(); ++k) out["cells"].push_back(cell_json(k));
    for (const auto& c : map.cables)
        out["cables"].push_back({{"id", c.id},
                                 {"title", c.title},
                                 {"diameter_mm", c.diameter_mm},
                                 {"thickness_mm", c.thickness_mm},
                                 {"own", c.own}});
    out["to_type_test"] = map.to_test ? cell_json(*map.to_test) : ordered_json();
    return out;
}

std::string range_csv(const RangeMap& map) {
    auto out = csv_line({"diameter over insulation (mm)", "insulation thickness (mm)", "fit", "status",
                         "share of limit", "error of it", "check", "at the corner of", "holds at corners",
                         "corners not built", "refusal"});
    for (std::size_t k = 0; k < map.cells.size(); ++k) {
        const auto& cell = map.cells[k];
        const bool built = cell.refusal.empty();
        const auto at_corners = cell.serves_at_corners();
        out +=
            csv_line({fmt::format("{}", map.diameters_mm[k % map.diameters_mm.size()]),
                      fmt::format("{}", map.thicknesses_mm[k / map.diameters_mm.size()]),
                      built ? status_word(cell.fit) : "", built ? status_word(cell.status) : "refused",
                      built ? fmt::format("{:.4g}", cell.share) : "",
                      built ? fmt::format("{:.2g}", cell.error) : "", cell.check, cell.corner,
                      !built || map.corners == 0 ? ""
                      : !at_corners              ? "not all can be built"
                      : *at_corners              ? "yes"
                                                 : "no",
                      built && map.corners > 0 ? std::to_string(cell.corners_not_built) : "", cell.refusal});
    }
    return out;
}

std::string range_words(const RangeMap& map) {
    const auto serving =
        std::count_if(map.cells.begin(), map.cells.end(), [](const auto& cell) { return cell.serves(); });
    auto out = fmt::format("{} of {} cables serve", serving, map.cells.size());
    if (map.corners > 0) {
        const auto so_many = [&](std::optional<bool> what) {
            return std::count_if(map.cells.begin(), map.cells.end(),
                                 [&](const auto& cell) { return cell.serves_at_corners() == what; });
        };
        out +=
            fmt::format(", {} of them at each of {} corners of the tolerances", so_many(true), map.corners);
        if (const auto open = so_many({}))
            out += fmt::format(" ({} more at those that can be built: not all can)", open);
    }
    if (map.to_test) {
        const auto& cell = map.cells[*map.to_test];
        out += fmt::format(
            "; the hardest that the kit fits, to type-test: {} mm over the insulation, {} mm of it thick, "
            "at {} ± {} % of the limit ({})",
            format_figures(map.diameters_mm[*map.to_test % map.diameters_mm.size()], 3),
            format_figures(map.thicknesses_mm[*map.to_test / map.diameters_mm.size()], 3),
            format_figures(100 * cell.share, 3), format_figures(100 * cell.error, 1), cell.check);
    } else {
        out += "; none of them can be built with a kit that fits";
    }
    return out;
}

} // namespace ng
