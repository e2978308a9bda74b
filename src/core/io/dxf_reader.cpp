#include "io/dxf_reader.h"
#include "io/file.h"
#include "units/text.h"
#include <algorithm>
#include <boost/geometry.hpp>
#include <boost/geometry/index/rtree.hpp>
#include <cmath>
#include <dxflib/dl_creationadapter.h>
#include <dxflib/dl_dxf.h>
#include <fmt/format.h>
#include <map>
#include <numbers>
#include <set>
#include <sstream>

namespace ng {
namespace {
namespace bg = boost::geometry;
using std::numbers::pi;

constexpr int deepest_division = 16;
constexpr std::size_t most_pieces = 20000; // lines, arcs and so on of a drawing

/// $INSUNITS of the header, to mm; what stands for no length is missing.
std::optional<double> unit_of(int code) {
    static const std::map<int, double> units{{1, 25.4},    {2, 304.8},  {4, 1},     {5, 10},  {6, 1000},
                                             {8, 25.4e-6}, {9, 0.0254}, {13, 1e-3}, {14, 100}};
    const auto it = units.find(code);
    return it == units.end() ? std::nullopt : std::optional(it->second);
}

/// One drawn curve, as steps from its start; in the drawing's unit and axes (x as z, y as r).
struct Piece {
    std::string what; ///< "LINE 2F"
    std::string layer;
    Point start;
    std::vector<OutlineStep> steps;
    Point end() const { return steps.back().to; }
};

Point turned(Point centre, double radius, double angle_rad) {
    return {centre.r + radius * std::sin(angle_rad), centre.z + radius * std::cos(angle_rad)};
}

/// `clockwise` of steps is seen with r to the right and z up; a drawing has x to the right and y up, which
/// mirrors it.
OutlineStep arc_step(Point to, Point centre, bool counter_clockwise_in_drawing) {
    OutlineStep step;
    step.to = to;
    step.centre = centre;
    step.clockwise = counter_clockwise_in_drawing;
    return step;
}

/// A rational B-spline by de Boor's algorithm (de Boor, "A practical guide to splines").
class Spline {
  public:
    unsigned degree = 3;
    std::vector<double> knots;
    std::vector<std::array<double, 3>> control; ///< x w, y w, w

    bool is_whole() const {
        return degree >= 1 && degree <= 11 && control.size() > degree &&
               knots.size() == control.size() + degree + 1 && std::is_sorted(knots.begin(), knots.end()) &&
               first() < last() &&
               std::all_of(control.begin(), control.end(), [](const auto& c) { return c[2] > 0; });
    }
    double first() const { return knots[degree]; }
    double last() const { return knots[control.size()]; }
    Point at(double t) const {
        auto span =
            static_cast<std::size_t>(std::upper_bound(knots.begin() + degree,
                                                      knots.begin() + static_cast<long>(control.size()), t) -
                                     knots.begin()) -
            1;
        span = std::clamp<std::size_t>(span, degree, control.size() - 1);
        std::vector<std::array<double, 3>> d(control.begin() + static_cast<long>(span - degree),
                                             control.begin() + static_cast<long>(span + 1));
        for (std::size_t r = 1; r <= degree; ++r)
            for (std::size_t j = degree; j >= r; --j) {
                const double low = knots[j + span - degree], high = knots[j + 1 + span - r];
                const double f = high > low ? (t - low) / (high - low) : 0;
                for (std::size_t k = 0; k < 3; ++k) d[j][k] = (1 - f) * d[j - 1][k] + f * d[j][k];
            }
        return {d[degree][1] / d[degree][2], d[degree][0] / d[degree][2]};
    }
    /// Where it may bend sharply or change its form.
    std::vector<double> stops() const {
        std::vector<double> out{first()};
        for (const double k : knots)
            if (k > out.back() && k <= last()) out.push_back(k);
        return out;
    }
};

/// Chords of a curve between two of its parameters, within `tolerance`; the first point left out.
template <class Curve>
void flatten(const Curve& at, double t0, Point p0, double t1, Point p1, double tolerance, int depth,
             std::vector<OutlineStep>& steps) {
    const Point chord = p1 - p0;
    const double size = length(chord);
    double off = 0;
    for (const double f : {0.25, 0.5, 0.75}) {
        const Point d = at(t0 + f * (t1 - t0)) - p0;
        off = std::max(off, size > 0 ? std::abs(cross(chord, d)) / size : length(d));
    }
    if (depth < 2 || (off > tolerance && depth < deepest_division)) {
        const double middle = (t0 + t1) / 2;
        const Point p = at(middle);
        flatten(at, t0, p0, middle, p, tolerance, depth + 1, steps);
        flatten(at, middle, p, t1, p1, tolerance, depth + 1, steps);
    } else {
        steps.push_back({p1, {}, {}, {}});
    }
}

/// What dxflib finds, as pieces.
class Collector : public DL_CreationAdapter {
  public:
    /// `given`: mm per unit, where the drawing does not say.
    explicit Collector(std::optional<double> given) : given_(given) {}

    std::vector<Piece> pieces;
    std::optional<double> unit; ///< mm, of the header
    std::optional<InputError> error;

    void finish_all() { finish(); }

    void setVariableInt(const std::string& key, int value, int) override {
        if (key == "$INSUNITS") unit = unit_of(value);
    }
    void addBlock(const DL_BlockData& block) override {
        finish();
        in_block_ = !block.name.starts_with("*Model") && !block.name.starts_with("*MODEL");
    }
    void endBlock() override {
        finish();
        in_block_ = false;
    }
    void addLine(const DL_LineData& line) override {
        begin("LINE");
        put({{line.y1, line.x1}, {{{line.y2, line.x2}, {}, {}, {}}}});
    }
    void addArc(const DL_ArcData& arc) override {
        begin("ARC");
        const Point centre{arc.cy, arc.cx};
        const double from = arc.angle1 * pi / 180, to = arc.angle2 * pi / 180;
        put({turned(centre, arc.radius, from), {arc_step(turned(centre, arc.radius, to), centre, true)}});
    }
    void addCircle(const DL_CircleData& circle) override {
        begin("CIRCLE");
        const Point centre{circle.cy, circle.cx};
        Path path{turned(centre, circle.radius, 0), {}};
        for (int i = 1; i <= 4; ++i)
            path.steps.push_back(
                arc_step(i == 4 ? path.start : turned(centre, circle.radius, i * pi / 2), centre, true));
        put(std::move(path));
    }
    void addEllipse(const DL_EllipseData& e) override {
        begin("ELLIPSE");
        const Point centre{e.cy, e.cx}, major{e.my, e.mx}, minor{e.ratio * e.mx, -e.ratio * e.my};
        double to = e.angle2;
        while (to <= e.angle1) to += 2 * pi;
        add_curve([=](double t) { return centre + std::cos(t) * major + std::sin(t) * minor; },
                  {e.angle1, to});
    }
    void addPolyline(const DL_PolylineData& line) override {
        begin("POLYLINE");
        polyline_ = true;
        polyline_closed_ = (line.flags & 1) != 0;
        if ((line.flags & ~(1 | 128)) != 0)
            refuse_entity("it is no flat polyline of lines and arcs", "Explode it");
    }
    void addVertex(const DL_VertexData& v) override {
        if (polyline_) vertices_.push_back({{v.y, v.x}, v.bulge});
    }
    void addSpline(const DL_SplineData& s) override {
        begin("SPLINE");
        spline_.emplace();
        spline_->degree = s.degree;
    }
    void addControlPoint(const DL_ControlPointData& p) override {
        const double w = p.w > 0 ? p.w : 1;
        if (spline_) spline_->control.push_back({p.x * w, p.y * w, w});
    }
    void addKnot(const DL_KnotData& k) override {
        if (spline_) spline_->knots.push_back(k.k);
    }
    void addInsert(const DL_InsertData& insert) override {
        begin("INSERT");
        refuse_entity("it places the block “" + one_line(insert.name) + "”",
                      "Explode blocks before exporting");
    }
    void endEntity() override { finish(); }
    void endSequence() override { finish(); }

  private:
    struct Path {
        Point start;
        std::vector<OutlineStep> steps;
    };
    struct Corner {
        Point at;
        double bulge;
    };
    std::optional<double> given_;
    bool in_block_ = false, polyline_ = false, polyline_closed_ = false;
    std::string what_, layer_;
    std::vector<Corner> vertices_;
    std::optional<Spline> spline_;

    void begin(const char* kind) {
        finish();
        const auto handle = attributes.getHandle();
        what_ = handle >= 0 ? fmt::format("{} {:X}", kind, handle)
                            : fmt::format("{} {}", kind, pieces.size() + 1);
        layer_ = one_line(attributes.getLayer());
    }
    void put(Path path) {
        if (in_block_) return;
        pieces.push_back({what_, layer_, path.start, std::move(path.steps)});
    }
    void refuse_entity(const std::string& problem, const std::string& remedy) {
        if (!in_block_ && !error) error = InputError{what_ + " on layer " + layer_, problem, remedy};
    }
    /// In the drawing's unit, which its header has said before the first entity. Half: chords are tested at
    /// three places.
    double tolerance() const { return flattened_within_mm / unit.value_or(given_.value_or(1)) / 2; }
    template <class Curve> void add_curve(const Curve& at, const std::vector<double>& stops) {
        Path path{at(stops.front()), {}};
        for (std::size_t i = 0; i + 1 < stops.size(); ++i)
            flatten(at, stops[i], at(stops[i]), stops[i + 1], at(stops[i + 1]), tolerance(), 0, path.steps);
        put(std::move(path));
    }
    void finish() {
        if (polyline_) finish_polyline();
        if (spline_) finish_spline();
        polyline_ = false;
        vertices_.clear();
        spline_.reset();
    }
    void finish_polyline() {
        if (vertices_.size() < 2) return;
        Path path{vertices_.front().at, {}};
        const std::size_t n = polyline_closed_ ? vertices_.size() : vertices_.size() - 1;
        for (std::size_t i = 0; i < n; ++i) {
            const auto& from = vertices_[i];
            const Point to = vertices_[(i + 1) % vertices_.size()].at;
            if (distance(from.at, to) == 0) continue;
            if (from.bulge == 0) {
                path.steps.push_back({to, {}, {}, {}});
                continue;
            }
            // Bulge: tangent of a quarter of the angle, positive counter-clockwise (AutoCAD DXF reference,
            // group 42).
            const Point middle = 0.5 * (from.at + to), chord = to - from.at;
            const double b = from.bulge, along = (1 - b * b) / (4 * b);
            const Point centre{middle.r + along * chord.z,
                               middle.z - along * chord.r}; // left of the chord, x y
            path.steps.push_back(arc_step(to, centre, b > 0));
        }
        if (!path.steps.empty()) put(std::move(path));
    }
    void finish_spline() {
        if (!spline_->is_whole()) {
            refuse_entity("it has no control points with knots that belong to them",
                          "Export splines with their control points, or as polylines");
            return;
        }
        const auto spline = *spline_;
        add_curve([&](double t) { return spline.at(t); }, spline.stops());
    }
};

std::string words(Point p) {
    return fmt::format("x {:.4g}, y {:.4g}", p.z, p.r);
}

/// The way back along a piece.
Piece reversed(const Piece& piece) {
    Piece out = piece;
    out.start = piece.end();
    out.steps.clear();
    for (std::size_t i = piece.steps.size(); i-- > 0;) {
        OutlineStep step = piece.steps[i];
        step.to = i == 0 ? piece.start : piece.steps[i - 1].to;
        if (step.clockwise) step.clockwise = !*step.clockwise;
        out.steps.push_back(step);
    }
    return out;
}

/// Where open pieces end, by a tree (Boost.Geometry): none is held against all others.
class Ends {
  public:
    explicit Ends(const std::vector<Piece>& pieces) {
        std::vector<Entry> entries;
        for (std::size_t k = 0; k < pieces.size(); ++k)
            if (distance(pieces[k].start, pieces[k].end()) > joined_within_mm)
                for (const Point p : {pieces[k].start, pieces[k].end()})
                    entries.emplace_back(Corner(p.r, p.z), k);
        tree_ = Tree(entries);
    }
    /// Pieces that begin or end there, each once, in their order.
    std::vector<std::size_t> near(Point p) const {
        const double d = joined_within_mm;
        const bg::model::box<Corner> box({p.r - d, p.z - d}, {p.r + d, p.z + d});
        std::set<std::size_t> out;
        for (auto it = tree_.qbegin(bg::index::intersects(box)); it != tree_.qend(); ++it)
            if (distance({it->first.get<0>(), it->first.get<1>()}, p) <= d) out.insert(it->second);
        return {out.begin(), out.end()};
    }

  private:
    using Corner = bg::model::point<double, 2, bg::cs::cartesian>;
    using Entry = std::pair<Corner, std::size_t>;
    using Tree = bg::index::rtree<Entry, bg::index::quadratic<16>>;
    Tree tree_;
};

/// Joins the pieces of one layer, in mm, to closed profiles.
Result<std::vector<DrawnProfile>> join(std::vector<Piece> pieces) {
    std::vector<DrawnProfile> out;
    const auto refuse_piece = [](const Piece& piece, const std::string& problem, const std::string& remedy) {
        return refuse(piece.what + " on layer " + piece.layer, problem, remedy);
    };
    std::vector<char> used(pieces.size(), 0);
    const auto near = [](Point a, Point b) { return distance(a, b) <= joined_within_mm; };
    const Ends ends(pieces);
    for (std::size_t i = 0; i < pieces.size(); ++i) {
        if (used[i]) continue;
        used[i] = 1;
        auto whole = pieces[i];
        std::vector<std::string> entity(whole.steps.size(), whole.what);
        while (!near(whole.end(), whole.start)) {
            const Point at = whole.end();
            auto next = ends.near(at);
            std::erase_if(next, [&](std::size_t k) { return used[k] != 0; });
            if (next.empty())
                return refuse_piece(whole, fmt::format("its profile is open at {}", words(at)),
                                    fmt::format("Close it: ends must meet within {} mm", joined_within_mm));
            if (next.size() > 1)
                return refuse_piece(whole,
                                    fmt::format("its profile branches at {}: {} and {} go on from there",
                                                words(at), pieces[next[0]].what, pieces[next[1]].what),
                                    "Leave one line, or put the other profile on a layer of its own");
            used[next[0]] = 1;
            const auto piece = near(pieces[next[0]].start, at) ? pieces[next[0]] : reversed(pieces[next[0]]);
            for (auto step : piece.steps) {
                whole.steps.push_back(step);
                entity.push_back(piece.what);
            }
        }
        whole.steps.back().to = whole.start; // exactly
        DrawnProfile profile{whole.layer, {whole.start, whole.steps}, whole.what};
        // Ends that met only nearly: an arc's centre no longer lies equally far from both.
        Point from = whole.start;
        for (auto& step : profile.outline.steps) {
            if (step.centre) {
                const Point chord = step.to - from, middle = 0.5 * (from + step.to);
                const double size = length(chord);
                if (size > 0) {
                    const Point normal{-chord.z / size, chord.r / size};
                    step.centre = middle + dot(*step.centre - middle, normal) * normal;
                }
            }
            from = step.to;
        }
        const auto polygon = polygon_of(profile.outline, pi / 24);
        double r0 = 1e300, r1 = -1e300, z0 = 1e300, z1 = -1e300;
        for (const auto& p : polygon) {
            r0 = std::min(r0, p.r);
            r1 = std::max(r1, p.r);
            z0 = std::min(z0, p.z);
            z1 = std::max(z1, p.z);
        }
        const double extent = std::max(r1 - r0, z1 - z0);
        if (!(extent >= smallest_profile_mm && extent <= largest_profile_mm) ||
            std::max(std::abs(z0), std::abs(z1)) > 10 * largest_profile_mm)
            return refuse_piece(whole,
                                fmt::format("its profile is {:g} mm large and reaches to {:g} mm", extent,
                                            std::max({std::abs(z0), std::abs(z1), r1})),
                                "Check the unit of the drawing, and that it lies near its origin");
        if (r0 < -joined_within_mm)
            return refuse_piece(whole, fmt::format("it reaches {:.4g} mm beyond the axis", -r0),
                                "Draw one half, from the axis upwards, or name the other axis");
        if (const auto crossing = self_crossing(polygon))
            return refuse_piece(whole, fmt::format("its profile crosses itself near {}", words(crossing->at)),
                                "Remove the crossing");
        if (std::abs(signed_area(polygon)) < 1e-3)
            return refuse_piece(whole, "its profile encloses no area", "Remove it, or draw it closed");
        out.push_back(std::move(profile));
    }
    return out;
}

} // namespace

Result<DxfProfiles> read_dxf_text(const std::string& text, const std::string& file,
                                  const DxfReadOptions& options) {
    Collector found(options.mm_per_unit);
    std::stringstream stream(text);
    DL_Dxf dxf;
    if (text.find("SECTION") == std::string::npos || !dxf.in(stream, &found))
        return refuse(file, "it is no DXF drawing", "Export it as DXF (text)");
    found.finish_all();
    DxfProfiles out;
    if (found.unit && options.mm_per_unit && std::abs(*found.unit / *options.mm_per_unit - 1) > 1e-6)
        return refuse(
            file,
            fmt::format("its unit is {:g} mm, and {:g} mm were given", *found.unit, *options.mm_per_unit),
            "Give no unit: the drawing's counts");
    if (!found.unit && !options.mm_per_unit)
        return refuse(file, "it does not say its unit", "Say whether it is drawn in mm or in inches");
    out.unit_was_read = found.unit.has_value();
    out.mm_per_unit = found.unit.value_or(options.mm_per_unit.value_or(0));
    if (!(out.mm_per_unit > 0) || !std::isfinite(out.mm_per_unit))
        return refuse(file, "its unit is not above zero", "Give mm or inches");
    if (found.error) return tl::unexpected(*found.error);
    if (found.pieces.size() > most_pieces)
        return refuse(file, fmt::format("it holds more than {} lines", most_pieces),
                      "Choose layers, or simplify it");
    std::map<std::string, std::vector<Piece>> by_layer;
    for (auto& piece : found.pieces) {
        if (std::find(out.layers.begin(), out.layers.end(), piece.layer) == out.layers.end())
            out.layers.push_back(piece.layer);
        if (!options.layers.empty() &&
            std::find(options.layers.begin(), options.layers.end(), piece.layer) == options.layers.end())
            continue;
        const auto to_mm = [&](Point p) {
            p = out.mm_per_unit * p;
            return options.axis == DxfReadOptions::Axis::x ? p : Point{p.z, p.r};
        };
        piece.start = to_mm(piece.start);
        for (auto& step : piece.steps) {
            step.to = to_mm(step.to);
            if (step.centre) step.centre = to_mm(*step.centre);
            if (step.clockwise && options.axis == DxfReadOptions::Axis::y) step.clockwise = !*step.clockwise;
        }
        const auto finite = [](Point p) { return std::isfinite(p.r) && std::isfinite(p.z); };
        if (!finite(piece.start) || !std::all_of(piece.steps.begin(), piece.steps.end(), [&](const auto& s) {
                return finite(s.to) && (!s.centre || finite(*s.centre));
            }))
            return refuse(piece.what + " on layer " + piece.layer, "a coordinate is not a finite number",
                          "Draw it again");
        by_layer[piece.layer].push_back(std::move(piece));
    }
    for (const auto& wanted : options.layers)
        if (!by_layer.contains(wanted))
            return refuse(file, fmt::format("nothing is drawn on layer “{}”", wanted),
                          fmt::format("Its layers are: {}", fmt::join(out.layers, ", ")));
    for (const auto& layer : out.layers) {
        const auto it = by_layer.find(layer);
        if (it == by_layer.end()) continue;
        auto joined = join(std::move(it->second));
        if (!joined) return tl::unexpected(joined.error());
        for (auto& profile : *joined) out.profiles.push_back(std::move(profile));
    }
    if (out.profiles.empty())
        return refuse(file, "nothing is drawn in it", "Export lines, arcs or polylines");
    return out;
}

Result<DxfProfiles> read_dxf_profiles(const std::filesystem::path& path, const DxfReadOptions& options) {
    const auto text = read_file(path, most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    return read_dxf_text(*text, path.filename().string(), options);
}

} // namespace ng
