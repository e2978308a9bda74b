#include "section/on_top.h"
#include "section/section.h"
#include "section/section_fields.h"
#include <algorithm>
#include <fmt/format.h>
#include <numbers>
#include <set>

namespace ng {
namespace {

constexpr double snap_mm = 1e-4;
constexpr double coarse_arc_step_rad = std::numbers::pi / 24;

bool finite(Point p) {
    return std::isfinite(p.r) && std::isfinite(p.z);
}

Result<void> check_point(const std::string& item, Point p, Symmetry symmetry) {
    if (!finite(p))
        return refuse(item, "a coordinate is not a finite number", "Give every point as [r, z] in mm");
    if (std::abs(p.r) > 1e5 || std::abs(p.z) > 1e5)
        return refuse(item, fmt::format("point [{:g}, {:g}] is more than 100 m away", p.r, p.z),
                      "Coordinates are in mm");
    if (symmetry == Symmetry::axisymmetric && p.r < -1e-9)
        return refuse(item, fmt::format("point [{:g}, {:g}] has a negative radius", p.r, p.z),
                      "In an axisymmetric section r starts at 0 on the axis");
    return {};
}

Result<void> check_outline(const std::string& item, const Outline& outline, Symmetry symmetry) {
    if (auto ok = check_point(item, outline.start, symmetry); !ok) return ok;
    Point at = outline.start;
    for (const auto& step : outline.steps) {
        if (auto ok = check_point(item, step.to, symmetry); !ok) return ok;
        if (step.centre) {
            if (!finite(*step.centre))
                return refuse(item, "an arc centre is not finite", "Give it as [r, z] in mm");
            if (auto arc = resolve_arc(at, step); !arc) {
                auto error = arc.error();
                error.item = item;
                return tl::unexpected(error);
            }
        }
        at = step.to;
    }
    const auto polygon = polygon_of(outline, coarse_arc_step_rad);
    if (polygon.size() < 3)
        return refuse(item, "the outline has fewer than three points", "Give a closed shape");
    for (const auto& p : polygon)
        if (auto ok = check_point(item, p, symmetry); !ok) return ok;
    if (const auto crossing = self_crossing(polygon))
        return refuse(
            item,
            fmt::format("the outline crosses itself near [{:.4g}, {:.4g}]", crossing->at.r, crossing->at.z),
            "Order its points round the shape");
    if (std::abs(signed_area(polygon)) < snap_mm * snap_mm)
        return refuse(item, "the outline encloses no area", "Give it thickness or remove it");
    return {};
}

/// Rising fields, conductivities that do not fall: a falling law has more than one steady state.
Result<void> check_table(const std::string& item, const Conduction& law) {
    if (law.table.size() < 2)
        return refuse(item, "its conductivity table has fewer than two rows", "Give at least two");
    for (std::size_t i = 0; i < law.table.size(); ++i) {
        const auto [field, sigma] = law.table[i];
        if (!std::isfinite(field) || !std::isfinite(sigma) || field < 0 || !(sigma > 0))
            return refuse(
                item, fmt::format("row {} of its conductivity table is negative, zero or not finite", i + 1),
                "Correct the table");
        if (i > 0 && !(field > law.table[i - 1].first && sigma >= law.table[i - 1].second))
            return refuse(item, fmt::format("row {} of its conductivity table does not rise", i + 1),
                          "Order it by field; conductivity must not fall");
    }
    return {};
}

Result<void> check_conduction(const std::string& item, const Conduction& law) {
    static const std::set<std::string> laws{"constant", "power", "exponential", "table"};
    if (!laws.contains(law.law))
        return refuse(item, fmt::format("conduction law “{}” is unknown", law.law),
                      "Use constant, power, exponential or table");
    if (!std::isfinite(law.sigma0_S_per_m) || law.sigma0_S_per_m < 0)
        return refuse(item, "conductivity is negative or not finite", "Give sigma0_S_per_m as 0 or more");
    if (!law.field.empty() && law.field != "rms" && law.field != "peak")
        return refuse(item, fmt::format("its law is stated in the field “{}”", law.field), "Use rms or peak");
    if (law.depends_on_field() && law.field.empty())
        return refuse(item, "its conduction law does not say which field it is stated in",
                      "Add \"field\": \"rms\" or \"peak\"");
    if (law.law == "power" && !(law.E0_kV_per_mm > 0 && law.exponent >= 0 && law.exponent <= 30))
        return refuse(item, "its power law needs E0_kV_per_mm above 0 and an exponent from 0 to 30",
                      "Correct the law");
    if (law.law == "exponential" && !(law.a >= 0 && law.exponent > 0 && law.exponent <= 5))
        return refuse(item, "its exponential law needs a of 0 or more and an exponent above 0, at most 5",
                      "Correct the law");
    if (!std::isfinite(law.temperature_factor()) || law.temperature_factor() <= 0)
        return refuse(item, "its temperature factor is not possible",
                      "Correct per_kelvin and the temperatures");
    return law.law == "table" ? check_table(item, law) : Result<void>{};
}

/// Rising frequencies; of a passive dielectric the permittivity does not rise with them.
Result<void> check_permittivities(const std::string& item, const SectionMaterial& material) {
    const auto& rows = material.eps_r_by_frequency;
    if (rows.size() == 1)
        return refuse(item, "its permittivity table has one row", "Give at least two, or eps_r alone");
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const auto [hz, eps_r] = rows[i];
        if (!(hz > 0 && hz <= SectionLimits::largest_hz) ||
            !(eps_r >= 1 && eps_r <= SectionLimits::largest_eps_r))
            return refuse(
                item, fmt::format("row {} of its permittivity table is out of range", i + 1),
                fmt::format("Give frequencies above 0 and up to {:g} Hz, permittivities from 1 to {:g}",
                            SectionLimits::largest_hz, SectionLimits::largest_eps_r));
        if (i > 0 && !(hz > rows[i - 1].first && eps_r <= rows[i - 1].second))
            return refuse(item, fmt::format("row {} of its permittivity table is out of order", i + 1),
                          "Order it by rising frequency; permittivity must not rise with it");
    }
    return {};
}

Result<void> check_materials(const Section& section) {
    for (const auto& [name, material] : section.materials) {
        if (!std::isfinite(material.eps_r) || material.eps_r < 1 ||
            material.eps_r > SectionLimits::largest_eps_r)
            return refuse("material " + name,
                          fmt::format("relative permittivity {:g} is not possible", material.eps_r),
                          "Give eps_r between 1 and 1e6");
        if (auto ok = check_permittivities("material " + name, material); !ok) return ok;
        if (material.conduction)
            if (auto ok = check_conduction("material " + name, *material.conduction); !ok) return ok;
    }
    for (const auto& region : section.regions)
        if (!section.materials.contains(region.material))
            return refuse("region " + region.name,
                          fmt::format("its material “{}” is not in the materials list", region.material),
                          "Add the material or correct the name");
    return {};
}

template <class Items> Result<void> check_names(const Items& items, const std::string& kind) {
    std::set<std::string> seen;
    for (const auto& item : items) {
        if (item.name.empty()) return refuse(kind, "one has no name", "Name every " + kind);
        if (!seen.insert(item.name).second)
            return refuse(kind + " " + item.name, "the name is used twice", "Rename one");
    }
    return {};
}

/// A closed outline with its arcs, for asking what lies inside.
class ExactShape {
  public:
    explicit ExactShape(const Outline& outline) {
        Point at = outline.start;
        corners_.push_back(at);
        for (const auto& step : outline.steps) {
            if (step.centre)
                if (const auto arc = resolve_arc(at, step)) {
                    const int pieces =
                        static_cast<int>(std::ceil(std::abs(arc->sweep_rad) / (0.5 * std::numbers::pi)));
                    for (int k = 1; k <= pieces; ++k) {
                        const Point next =
                            k == pieces ? step.to : arc->at(arc->start_rad + arc->sweep_rad * k / pieces);
                        bulges_.push_back({corners_.back(), next, arc->centre, arc->radius_mm});
                        corners_.push_back(next);
                    }
                    at = step.to;
                    continue;
                }
            corners_.push_back(step.to);
            at = step.to;
        }
    }
    bool contains(Point p) const {
        bool inside = inside_polygon(corners_, p);
        for (const auto& bulge : bulges_) inside = inside != bulge.contains(p);
        return inside;
    }
    bool has_arc_within(Point p, double reach) const {
        return std::any_of(bulges_.begin(), bulges_.end(), [&](const Bulge& bulge) {
            return std::abs(distance(p, bulge.centre) - bulge.radius) < reach &&
                   distance(p, 0.5 * (bulge.a + bulge.b)) < distance(bulge.a, bulge.b) + reach;
        });
    }

  private:
    /// Between a chord and its arc of at most a quarter circle.
    struct Bulge {
        Point a, b, centre;
        double radius;
        bool contains(Point p) const {
            const Point chord = b - a;
            return distance(p, centre) < radius && cross(chord, p - a) * cross(chord, centre - a) < 0;
        }
    };
    std::vector<Point> corners_;
    std::vector<Bulge> bulges_;
};

/// Topmost region at `p`, or nothing where an electrode or no region is. Arcs are exact.
class Painter {
  public:
    explicit Painter(const Section& section) : section_(section), order_(topmost_first(section)) {
        for (const auto& region : section.regions) regions_.emplace_back(region.outline);
        for (const auto& electrode : section.electrodes) electrodes_.emplace_back(electrode.outline);
    }
    const std::string* region_at(Point p) const {
        for (const auto& [electrode, k] : order_)
            if ((electrode ? electrodes_ : regions_)[k].contains(p))
                return electrode ? nullptr : &section_.regions[k].name;
        return nullptr;
    }
    /// Whether `side` is at `p` or beside it (points on an interface touch it).
    bool touches(Point p, const std::string& side) const {
        const auto is_side = [&](Point q) {
            const auto* name = region_at(q);
            return name && *name == side;
        };
        if (is_side(p)) return true;
        // Nearer and nearer: the region may be thinner than that.
        for (double away = reach_at(p); away > snap_mm / 4; away /= 4)
            for (int k = 0; k < 16; ++k) {
                const double angle = k * std::numbers::pi / 8 + 0.1;
                if (is_side({p.r + away * std::cos(angle), p.z + away * std::sin(angle)})) return true;
            }
        return false;
    }

    /// How far a point on the border of a region may lie from it: rounding, and beside an arc what its chords
    /// leave.
    double reach_at(Point p) const {
        const auto bent = [&](const ExactShape& shape) { return shape.has_arc_within(p, beside_chord_mm); };
        return std::any_of(regions_.begin(), regions_.end(), bent) ||
                       std::any_of(electrodes_.begin(), electrodes_.end(), bent)
                   ? beside_chord_mm
                   : beside_mm;
    }

  private:
    static constexpr double beside_mm = 2e-3; ///< chosen: a point so near a region lies on its border
    static constexpr double beside_chord_mm =
        2.1e-2; ///< what follows an arc by chords may lie so far from it (polygon_of)
    const Section& section_;
    std::vector<PaintedShape> order_;
    std::vector<ExactShape> regions_, electrodes_;
};

Result<void> check_reading_places(const Section& section) {
    const Painter painter(section);
    auto check_side = [&](const std::string& item, const std::string& side) -> Result<void> {
        if (std::none_of(section.regions.begin(), section.regions.end(),
                         [&](const auto& r) { return r.name == side; }))
            return refuse(item, fmt::format("its side “{}” is not a region", side),
                          "Name the region whose field is meant");
        return {};
    };
    for (const auto& path : section.paths) {
        const auto item = "path " + path.name;
        if (path.points.size() < 2) return refuse(item, "it has fewer than two points", "Give at least two");
        for (const auto& p : path.points)
            if (auto ok = check_point(item, p, section.symmetry); !ok) return ok;
        if (auto ok = check_side(item, path.side); !ok) return ok;
        for (std::size_t i = 0; i + 1 < path.points.size(); ++i) {
            const Point a = path.points[i], b = path.points[i + 1];
            if (distance(a, b) < snap_mm) return refuse(item, "two of its points coincide", "Remove one");
            for (const double f : {0.0, 0.25, 0.5, 0.75, 1.0}) {
                const Point p = a + f * (b - a);
                if (!painter.touches(p, path.side))
                    return refuse(
                        item,
                        fmt::format("point [{:.4g}, {:.4g}] is outside region “{}”", p.r, p.z, path.side),
                        "Keep the path in or along that region");
            }
        }
    }
    for (const auto& probe : section.probes) {
        const auto item = "probe " + probe.name;
        if (auto ok = check_point(item, probe.at, section.symmetry); !ok) return ok;
        if (auto ok = check_side(item, probe.side); !ok) return ok;
        if (!painter.touches(probe.at, probe.side))
            return refuse(
                item,
                fmt::format("[{:.4g}, {:.4g}] is outside region “{}”", probe.at.r, probe.at.z, probe.side),
                "Move it or name the region it is in");
    }
    return {};
}

Result<void> check_voltage(const std::string& item, double voltage_kV) {
    if (!(std::abs(voltage_kV) <= SectionLimits::largest_kV))
        return refuse(item, fmt::format("its voltage of {:g} kV is not possible", voltage_kV),
                      fmt::format("Give voltage_kV up to {:g}", SectionLimits::largest_kV));
    return {};
}

Result<void> check_frequency(const Section& section) {
    const double hz = section.frequency_hz;
    const bool used = section.analysis == Analysis::complex || section.analysis == Analysis::nonlinear;
    if (!(hz >= 0 && hz <= SectionLimits::largest_hz) || (used && hz < SectionLimits::least_hz))
        return refuse("section", fmt::format("a frequency of {:g} Hz is out of range", hz),
                      used ? fmt::format("Give frequency_hz from {:g} to {:g}, or use \"analysis\": \"dc\"",
                                         SectionLimits::least_hz, SectionLimits::largest_hz)
                           : fmt::format("Give frequency_hz from 0 to {:g}", SectionLimits::largest_hz));
    return {};
}

/// Edges are found by their names.
Result<void> check_edge_names(const Section& section) {
    std::set<std::string> seen;
    const auto check = [&](const std::string& item, const Outline& outline) -> Result<void> {
        for (const auto& step : outline.steps)
            if (step.centre && !step.name.empty() && !seen.insert(step.name).second)
                return refuse(item, fmt::format("the edge name “{}” is used twice", step.name),
                              "Rename one of the two arcs");
        return {};
    };
    for (const auto& region : section.regions)
        if (auto ok = check("region " + region.name, region.outline); !ok) return ok;
    for (const auto& electrode : section.electrodes)
        if (auto ok = check("electrode " + electrode.name, electrode.outline); !ok) return ok;
    return {};
}

Result<void> check_runs(const Section& section) {
    const auto& wave = section.impulse;
    if (!(wave.front_us > 0 && wave.front_us < 1e5) ||
        !(wave.tail_us >= 4 * wave.front_us && wave.tail_us <= 1e4 * wave.front_us && wave.tail_us < 1e6))
        return refuse(
            "impulse",
            fmt::format("front {:g} us and tail {:g} us are no impulse", wave.front_us, wave.tail_us),
            "Give a front above 0 and a tail of 4 to 10000 times the front");
    if (wave.chopped_at_us && !(*wave.chopped_at_us > 0 && *wave.chopped_at_us < 20 * wave.tail_us))
        return refuse("impulse", "its chopping time is not on the wave", "Give chopped_at_us above 0");
    if (wave.duration_us && !(*wave.duration_us > 0 && *wave.duration_us <= 100 * wave.tail_us))
        return refuse("impulse", "its duration is not possible",
                      "Give duration_us above 0, up to 100 times the tail");
    if (wave.duration_us && wave.chopped_at_us && *wave.duration_us <= *wave.chopped_at_us)
        return refuse("impulse",
                      fmt::format("it ends at {:g} us, before it is chopped at {:g} us", *wave.duration_us,
                                  *wave.chopped_at_us),
                      "Give a later duration_us, or an earlier chopped_at_us");
    if (section.dc_duration_s && !(*section.dc_duration_s > 0 && *section.dc_duration_s < 1e9))
        return refuse("dc", "its duration is not possible", "Give duration_s above 0");
    if (!(section.dc_ramp_s >= 0 && section.dc_ramp_s < section.dc_duration_s.value_or(1e9)))
        return refuse("dc", "its ramp is not possible", "Give ramp_s from 0 to less than duration_s");
    if (section.cycles.most_cycles < 2 || section.cycles.most_cycles > 500)
        return refuse("nonlinear", "most_cycles is out of range", "Give 2 to 500");
    return {};
}

} // namespace

bool Section::depends_on_field() const {
    return std::any_of(regions.begin(), regions.end(), [&](const auto& region) {
        const auto it = materials.find(region.material);
        return it != materials.end() && it->second.conduction && it->second.conduction->depends_on_field();
    });
}

bool Section::conducts() const {
    return std::any_of(regions.begin(), regions.end(), [&](const auto& region) {
        const auto it = materials.find(region.material);
        return it != materials.end() && it->second.conduction;
    });
}

bool Section::depends_on_frequency() const {
    return std::any_of(regions.begin(), regions.end(), [&](const auto& region) {
        const auto it = materials.find(region.material);
        return it != materials.end() && !it->second.eps_r_by_frequency.empty();
    });
}

namespace {

Result<void> check_amount(const Section& section) {
    std::size_t points = 0;
    const auto count = [&](const Outline& outline) { points += outline.steps.size() + 1; };
    for (const auto& region : section.regions) count(region.outline);
    for (const auto& electrode : section.electrodes) count(electrode.outline);
    for (const auto& path : section.paths) points += path.points.size();
    for (const auto& boundary : section.boundaries) points += boundary.along.size();
    const auto shapes = section.regions.size() + section.electrodes.size();
    if (shapes > most_shapes)
        return refuse("section",
                      fmt::format("it has {} regions and electrodes; {} is the most", shapes, most_shapes),
                      "Join what has one material");
    if (points > most_points)
        return refuse("section",
                      fmt::format("its outlines have {} points; {} is the most", points, most_points),
                      "Draw curves as arcs, or with fewer chords");
    const auto readings = section.paths.size() + section.probes.size();
    if (readings > most_shapes)
        return refuse("section",
                      fmt::format("it has {} paths and probes; {} is the most", readings, most_shapes),
                      "Ask for fewer");
    return {};
}

} // namespace

Result<void> validate(const Section& section) {
    if (section.regions.empty())
        return refuse("section", "it has no region", "Give at least one region with a material");
    if (section.electrodes.empty() && section.boundaries.empty())
        return refuse("section", "it has no electrode",
                      "Give at least one electrode or boundary with a voltage");
    Result<void> ok = check_amount(section);
    if (ok) ok = check_frequency(section);
    if (ok) ok = check_names(section.regions, "region");
    if (ok) ok = check_names(section.electrodes, "electrode");
    if (ok) ok = check_names(section.boundaries, "boundary");
    if (ok) ok = check_names(section.paths, "path");
    if (ok) ok = check_names(section.probes, "probe");
    if (ok) ok = check_edge_names(section);
    if (ok) ok = check_materials(section);
    if (ok) ok = check_runs(section);
    if (!ok) return ok;
    for (const auto& region : section.regions)
        if (ok = check_outline("region " + region.name, region.outline, section.symmetry); !ok) return ok;
    bool held = !section.boundaries.empty();
    for (const auto& electrode : section.electrodes) {
        if (ok = check_outline("electrode " + electrode.name, electrode.outline, section.symmetry); !ok)
            return ok;
        if (ok = check_voltage("electrode " + electrode.name, electrode.voltage_kV); !ok) return ok;
        held = held || !electrode.floating;
    }
    if (!held) return refuse("section", "every electrode floats", "Hold at least one electrode at a voltage");
    for (const auto& boundary : section.boundaries) {
        const auto item = "boundary " + boundary.name;
        if (boundary.along.size() < 2)
            return refuse(item, "it has fewer than two points", "Give at least two");
        if (ok = check_voltage(item, boundary.voltage_kV); !ok) return ok;
        for (const auto& p : boundary.along)
            if (ok = check_point(item, p, section.symmetry); !ok) return ok;
    }
    return check_reading_places(section);
}

} // namespace ng
