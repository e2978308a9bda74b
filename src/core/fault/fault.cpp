#include "fault/fault.h"
#include "fault/site.h"
#include "geometry/box.h"
#include "section/on_top.h"
#include "units/quantity.h"
#include <algorithm>
#include <boost/math/distributions/normal.hpp>
#include <fmt/format.h>
#include <limits>
#include <span>

namespace ng {

#define FAULT(name, order) FaultKind name();
#include "faults.inc"
#undef FAULT

namespace {

constexpr double least_sheet_ohm = 1e3, most_sheet_ohm = 1e15;

InputError of_fault(std::size_t index, InputError error) {
    error.item = fmt::format("fault {}: {}", index + 1, error.item);
    return error;
}

/// The path that a part of a fault cuts: at some place along it all that is seen round it is that part.
std::optional<std::string> path_cut_by(std::span<const Region> parts, const Section& section) {
    constexpr double step_mm = 0.1, round_mm = 0.02, step_rad = 0.1;
    const OnTop top(section, step_rad);
    for (const auto& part : parts) {
        Box box;
        box.take(polygon_of(part.outline, step_rad));
        const auto all_round = [&](Point p) {
            for (const Point& by : {Point{round_mm, 0}, {-round_mm, 0}, {0, round_mm}, {0, -round_mm}})
                if (const auto* seen = top.at(p + by); !seen || *seen != part.name) return false;
            return true;
        };
        for (const auto& path : section.paths) {
            if (path.side == part.name) continue;
            for (std::size_t i = 1; i < path.points.size(); ++i) {
                const Point a = path.points[i - 1], b = path.points[i];
                const int steps = 1 + static_cast<int>(distance(a, b) / step_mm);
                for (int k = 0; k <= steps; ++k)
                    if (const Point p = a + (1.0 * k / steps) * (b - a); box.holds(p) && all_round(p))
                        return path.name;
            }
        }
    }
    return {};
}

} // namespace

const char* decision_word(FaultDecision decision) {
    switch (decision) {
    case FaultDecision::accept:
        return "accept";
    case FaultDecision::rework:
        return "rework";
    case FaultDecision::cut_back:
        return "cut_back";
    case FaultDecision::ask:
        break;
    }
    return "ask";
}

const char* decision_in_words(FaultDecision decision) {
    return decision == FaultDecision::cut_back ? "cut back"
           : decision == FaultDecision::ask    ? "stop and ask"
                                               : decision_word(decision);
}

double chance_of_finding(const Inspection& inspection, double size_mm) {
    if (!(inspection.a50_mm > 0) || !(size_mm > 0)) return inspection.c;
    return inspection.c *
           boost::math::cdf(boost::math::normal(), std::log(size_mm / inspection.a50_mm) / inspection.s);
}

double found_from_mm(const Inspection& inspection, double share) {
    if (!(inspection.a50_mm > 0) || !(share < inspection.c)) return std::numeric_limits<double>::infinity();
    return inspection.a50_mm *
           std::exp(inspection.s * boost::math::quantile(boost::math::normal(), share / inspection.c));
}

const std::vector<Filling>& fillings() {
    static const std::vector<Filling> list{{"air", "air", 1},
                                           {"grease", "interface grease", 2.8},
                                           {"mastic", "relief mastic", 12},
                                           {"water", "water", 80}};
    return list;
}

const std::vector<FaultKind>& fault_kinds() {
    static const std::vector<FaultKind> kinds = [] {
        std::vector<std::pair<int, FaultKind>> ordered;
#define FAULT(name, order) ordered.emplace_back(order, name());
#include "faults.inc"
#undef FAULT
        std::stable_sort(ordered.begin(), ordered.end(),
                         [](const auto& a, const auto& b) { return a.first < b.first; });
        std::vector<FaultKind> out;
        for (auto& [order, kind] : ordered) out.push_back(std::move(kind));
        return out;
    }();
    return kinds;
}

const FaultKind* find_fault_kind(const std::string& id) {
    const auto& all = fault_kinds();
    const auto it = std::find_if(all.begin(), all.end(), [&](const auto& kind) { return kind.id == id; });
    return it == all.end() ? nullptr : &*it;
}

Result<void> check_fault(const Fault& fault, const std::string& item) {
    const auto* kind = find_fault_kind(fault.kind);
    if (!kind) {
        std::vector<std::string> ids;
        for (const auto& one : fault_kinds()) ids.push_back(one.id);
        return refuse(item, fmt::format("“{}” is no kind of fault", fault.kind),
                      fmt::format("Give one of: {}", fmt::join(ids, ", ")));
    }
    const auto named = fmt::format("{}: {}", item, kind->title);
    if (kind->rule) {
        if (fault.size_mm != 0 || fault.width_mm || fault.from_edge_mm || fault.sheet_ohm ||
            fault.side != Side::none)
            return refuse(named,
                          "it is a rule of the trade: it has no size, width, place, resistance or side",
                          "Give its kind only");
        return {};
    }
    if (!(fault.size_mm > 0) || !std::isfinite(fault.size_mm))
        return refuse(named, fmt::format("its {} is not above zero", kind->size_words), "Give its size");
    if (fault.width_mm && !(kind->width_mm > 0))
        return refuse(named, "it has no width", "Leave the width out");
    if (fault.filling != "air" && !kind->has_filling)
        return refuse(named, "it has no filling", "Leave the filling out");
    if (fault.sheet_ohm && !kind->has_sheet())
        return refuse(named, "it has no surface resistance", "Leave the resistance out");
    if (fault.sheet_ohm && !(*fault.sheet_ohm >= least_sheet_ohm && *fault.sheet_ohm <= most_sheet_ohm))
        return refuse(
            named, fmt::format("a surface resistance of {:g} ohm is out of range", *fault.sheet_ohm),
            fmt::format("Give {:g} to {:g} ohm per square; a conductor is an island or a floating film",
                        least_sheet_ohm, most_sheet_ohm));
    if (fault.from_edge_mm && !kind->put)
        return refuse(named, "it has no place of its own", "Leave its distance from the screen edge out");
    if (fault.width_mm && !(*fault.width_mm > 0 && std::isfinite(*fault.width_mm)))
        return refuse(named, fmt::format("its {} is not above zero", kind->width_words),
                      "Give it, or leave it out");
    if (fault.from_edge_mm && !std::isfinite(*fault.from_edge_mm))
        return refuse(named, "its place is no number", "Give its distance from the screen edge");
    const auto& all = fillings();
    if (std::none_of(all.begin(), all.end(), [&](const auto& f) { return f.id == fault.filling; }))
        return refuse(named, fmt::format("“{}” is no filling", fault.filling),
                      "Give air, grease, mastic or water");
    return {};
}

Result<void> check_side(const BuiltAccessory& built, Side side, const std::string& title) {
    const bool two = has_two_sides(built);
    if (two == (side == Side::a || side == Side::b)) return {};
    return refuse(title,
                  two ? "this design has two sides" : fmt::format("this design has no side{}", tag_of(side)),
                  two ? "Say A or B" : "Leave the side out");
}

Result<FaultyDesign> prepare_faulty(const Job& job, const std::string& design,
                                    const std::vector<Fault>& faults, const Library& library) {
    auto changed = job;
    for (std::size_t i = 0; i < faults.size(); ++i) {
        const auto item = fmt::format("fault {}", i + 1);
        if (auto ok = check_fault(faults[i], item); !ok) return tl::unexpected(ok.error());
        const auto* kind = find_fault_kind(faults[i].kind);
        if (!kind->change) continue;
        if (auto ok = kind->change(changed, faults[i], design, library); !ok)
            return tl::unexpected(of_fault(i, ok.error()));
    }
    auto prepared = prepare_design(changed, design, library);
    if (!prepared) return tl::unexpected(prepared.error());
    FaultyDesign out{std::move(*prepared), {}, {}, {}, {}, {}};
    for (std::size_t i = 0; i < faults.size(); ++i) {
        const auto* kind = find_fault_kind(faults[i].kind);
        out.models.push_back(kind->model);
        if (!kind->put) continue;
        const auto before = out.drawn.size();
        auto site = FaultSite::of(out, faults[i], static_cast<int>(i) + 1, *kind);
        const auto ok = site ? kind->put(*site, faults[i]) : tl::unexpected(site.error());
        if (!ok) return tl::unexpected(of_fault(i, ok.error()));
        if (kind->from_edge_mm > 0 || faults[i].from_edge_mm) site->add_handle();
        const auto& section = out.prepared.built.section;
        constexpr const char* remedy = "Give another place, side or size";
        if (const auto cut = path_cut_by(std::span(out.drawn).subspan(before), section))
            return tl::unexpected(of_fault(
                i,
                {kind->title,
                 fmt::format("it reaches through the {}, which this design is judged along", *cut), remedy}));
        if (auto valid = validate(section); !valid)
            return tl::unexpected(of_fault(
                i,
                {kind->title,
                 fmt::format("it cuts through what this design is judged by ({})", valid.error().message()),
                 remedy}));
    }
    return out;
}

std::string fault_handle(std::size_t index) {
    return fmt::format("fault {}", index + 1);
}

std::optional<std::size_t> fault_of_handle(const std::string& key) {
    const auto place = place_of(key);
    if (!place || place->kind != PlaceKind::fault || place->index < 1) return {};
    return static_cast<std::size_t>(place->index) - 1;
}

Box place_of(const FaultyDesign& design, Side side) {
    Box box;
    for (const auto* list : {&design.drawn, &design.only_drawn})
        for (const auto& region : *list) box.take(polygon_of(region.outline, 0.1));
    if (!design.drawn.empty() || !design.only_drawn.empty()) return box;
    const auto& p = design.prepared;
    const auto on = side == Side::b ? CableSide::b : CableSide::a;
    const double r = p.context().dimensions_of(on).radius_mm("insulation");
    for (const auto& m : p.built.marks)
        if (m.kind == MarkKind::screen_edge && m.side == on) {
            const double z = p.built.datum_z_mm - m.from_datum_mm;
            box.take({r - 3, z - 12});
            box.take({r + 3, z + 12});
        }
    if (!(box.low.r <= box.high.r)) box.take({{r - 3, -12}, {r + 3, 12}});
    return box;
}

Result<PreparedDesign> prepare_with_faults(const Job& job, const std::string& design,
                                           const Library& library) {
    const auto* asked = job.find_design(design);
    if (!asked || asked->faults.empty()) return prepare_design(job, design, library);
    auto faulty = prepare_faulty(job, design, asked->faults, library);
    if (!faulty) return tl::unexpected(faulty.error());
    auto& built = faulty->prepared.built;
    std::vector<std::string> words;
    for (const auto& fault : asked->faults) words.push_back(fault_words(fault));
    built.statements.insert(built.statements.begin(),
                            fmt::format("Judged with what hands left on it: {}.", fmt::join(words, "; ")));
    return std::move(faulty->prepared);
}

Preparer preparer(bool with_faults) {
    return with_faults ? Preparer(prepare_with_faults) : Preparer(prepare_design);
}

std::string sheet_words(double ohm) {
    const auto [unit, name] = ohm < 1e6   ? std::pair(1e3, "kohm")
                              : ohm < 1e9 ? std::pair(1e6, "Mohm")
                                          : std::pair(1e9, "Gohm");
    return fmt::format("{:g} {} per square", ohm / unit, name);
}

std::string fault_words(const Fault& fault) {
    const auto* kind = find_fault_kind(fault.kind);
    if (!kind) return fault.kind;
    if (kind->rule) return kind->title;
    auto out = fmt::format("{}, {} {:g} mm", kind->title, kind->size_words, fault.size_mm);
    if (const double sheet = fault.sheet_ohm.value_or(kind->sheet_ohm); sheet > 0)
        out += ", " + sheet_words(sheet);
    if (!kind->put)
        return out + (fault.side == Side::none ? "" : fmt::format(", side{}", tag_of(fault.side)));
    if (kind->from_edge_mm > 0 || fault.from_edge_mm)
        out += fmt::format(", {:g} mm from the screen edge{}",
                           fault.from_edge_mm.value_or(kind->from_edge_mm), tag_of(fault.side));
    return out;
}

} // namespace ng
