#include "mesh/motion.h"
#include <Eigen/SparseCholesky>
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <set>

namespace ng {
namespace {

constexpr double same_mm = 1.5e-4;     // outlines are snapped by up to 1e-4 mm (mesh/drawing.h)
constexpr double chord_mm = 0.025;     // chords lie nearer than that to their arcs,
constexpr double chord_share = 0.006;  // and than this share of their radius
constexpr double least_reach_mm = 0.1; // of the lines that carry a node
constexpr double least_quality = 0.02; // of a triangle that became more slender; errors are found anew
constexpr double stiffening = 0.3;     // power of the area by which small triangles are stiffer: tried 0 to 1

} // namespace

/// A line or an arc of an outline.
struct OutlineLine {
    Point a, b;
    std::optional<Arc> arc;

    Point at(double share) const {
        if (!arc) return a + share * (b - a);
        return arc->at(arc->start_rad + share * arc->sweep_rad);
    }
    Point slope(double share) const {
        if (!arc) return b - a;
        const double angle = arc->start_rad + share * arc->sweep_rad;
        return arc->sweep_rad * arc->radius_mm * Point{-std::sin(angle), std::cos(angle)};
    }
    /// How far off it a node of its border may lie: arcs were cut in chords.
    double tolerance_mm() const {
        return same_mm + (arc ? std::min(chord_mm, chord_share * arc->radius_mm) : 0);
    }
    double length_mm() const { return arc ? arc->radius_mm * std::abs(arc->sweep_rad) : distance(a, b); }
    /// Share of it at the place nearest to `p`, and how far that is off.
    std::pair<double, double> nearest(Point p) const {
        double share = 0;
        if (arc) {
            const Point d = p - arc->centre;
            double along = std::atan2(d.z, d.r) - arc->start_rad - arc->sweep_rad / 2;
            along -= 2 * std::numbers::pi * std::round(along / (2 * std::numbers::pi));
            share = 0.5 + along / arc->sweep_rad;
        } else {
            const Point u = b - a;
            share = dot(u, u) > 0 ? dot(p - a, u) / dot(u, u) : 0;
        }
        share = std::clamp(share, 0.0, 1.0);
        return {share, distance(at(share), p)};
    }
};

namespace {

std::optional<std::vector<OutlineLine>> lines_of(const Section& section) {
    std::vector<OutlineLine> out;
    bool resolved = true;
    const auto add = [&](const Outline& outline) {
        Point at = outline.start;
        for (const auto& step : outline.steps) {
            OutlineLine line{at, step.to, {}};
            if (step.centre) {
                if (auto arc = resolve_arc(at, step))
                    line.arc = *arc;
                else
                    resolved = false;
            }
            out.push_back(line);
            at = step.to;
        }
        out.push_back({at, outline.start, {}}); // of no length where the outline closes itself
    };
    for (const auto& region : section.regions) add(region.outline);
    for (const auto& electrode : section.electrodes) add(electrode.outline);
    for (const auto& boundary : section.boundaries)
        for (std::size_t k = 1; k < boundary.along.size(); ++k)
            out.push_back({boundary.along[k - 1], boundary.along[k], {}});
    if (!resolved) return {};
    return out;
}

/// Signed; 1 of an equilateral triangle.
double quality(Point a, Point b, Point c) {
    const Point u = b - a, v = c - a, w = c - b;
    return 2 * std::sqrt(3.0) * cross(u, v) / (dot(u, u) + dot(v, v) + dot(w, w));
}

/// Where two lines meet, from a guess of the share of either (Newton).
std::optional<Point> meeting(const OutlineLine& i, const OutlineLine& j, double s, double t) {
    for (int round = 0; round < 30; ++round) {
        const Point miss = i.at(s) - j.at(t), u = i.slope(s), v = j.slope(t);
        const double determinant = cross(u, v);
        if (std::abs(determinant) < 1e-9 * length(u) * length(v)) return {};
        const double ds = -cross(miss, v) / determinant, dt = cross(u, miss) / determinant;
        s += ds, t += dt;
        if (std::abs(ds) + std::abs(dt) < 1e-13) break;
    }
    constexpr double rounding = 1e-9;
    if (s < -rounding || s > 1 + rounding || t < -rounding || t > 1 + rounding ||
        distance(i.at(s), j.at(t)) > 1e-6)
        return {};
    return i.at(s);
}

} // namespace

std::string outline_kinds(const Section& section) {
    std::string out = section.symmetry == Symmetry::planar ? "planar" : "round";
    const auto add = [&](const Outline& outline) {
        // Which way each line runs: corners that come and go in pairs change that.
        const auto sign = [](double along, double whole) {
            constexpr double level = 1e-3;
            return std::abs(along) < level * whole ? '0' : along > 0 ? '+' : '-';
        };
        Point at = outline.start;
        for (const auto& step : outline.steps) {
            const Point u = step.to - at;
            if (step.centre)
                out += 'o' + step.name;
            else
                (out += sign(u.r, length(u))) += sign(u.z, length(u));
            at = step.to;
        }
    };
    for (const auto& region : section.regions) {
        out += "\n" + region.name + (region.covers_electrodes ? "!" : ":");
        add(region.outline);
    }
    for (const auto& electrode : section.electrodes) {
        out += "\n" + electrode.name + (electrode.floating ? "~" : "=");
        add(electrode.outline);
    }
    for (const auto& boundary : section.boundaries)
        out += "\n" + boundary.name + "=" + std::to_string(boundary.along.size());
    return out;
}

struct Motion::State {
    std::string kinds;
    std::shared_ptr<const Mesh> mesh;
    std::vector<OutlineLine> lines;

    /// A point where outlines end or cross.
    struct Knot {
        Point at;
        std::vector<std::size_t> ends;   ///< of lines: 2 k their beginning, 2 k + 1 their end
        std::size_t line = 0, other = 0; ///< where none ends: the two that cross
        double share = 0, other_share = 0;
    };
    std::vector<Knot> knots;
    struct OnLine {
        std::size_t knot;
        double share;
    };
    std::vector<std::vector<OnLine>> on_line; ///< per line, by share
    /// A node on an outline: a knot, or between two of its line.
    struct Held {
        int node;
        std::size_t line = 0, from = 0, to = 0; ///< knots; the same: it is that knot
        double share = 0;                       ///< of the stretch between them
    };
    std::vector<Held> held, middles; ///< corner nodes; middle nodes off their chord
    /// A node on a border of which no line is known, as where chords meet beside the place where their arcs
    /// touch something: it goes where all lines round it go, as long as they go as one.
    struct Carried {
        int node;
        std::vector<std::size_t> lines;
    };
    std::vector<Carried> carried;
    std::vector<std::size_t> line_of_arc; ///< per Mesh::arcs
    std::vector<int> free_of;             ///< per corner node: its number among the free ones, -1 held
    std::vector<double> quality;          ///< per triangle
    Eigen::SparseMatrix<double> coupling; ///< free x corners
    Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> factor;

    void find_knots();
    bool hold_nodes();
    bool prepare();
    std::optional<Held> place_on(std::size_t line, int node, Point p) const;
};

Motion::Motion(std::shared_ptr<const State> state) : state_(std::move(state)) {}
Motion::~Motion() = default;
Motion::Motion(Motion&&) noexcept = default;

void Motion::State::find_knots() {
    for (std::size_t k = 0; k < lines.size(); ++k)
        for (const std::size_t end : {2 * k, 2 * k + 1}) {
            const Point p = end % 2 ? lines[k].b : lines[k].a;
            auto it = std::find_if(knots.begin(), knots.end(),
                                   [&](const Knot& knot) { return distance(knot.at, p) < same_mm; });
            if (it == knots.end()) it = knots.insert(knots.end(), Knot{p, {}, 0, 0, 0, 0});
            it->ends.push_back(end);
        }
    on_line.resize(lines.size());
}

std::optional<Motion::State::Held> Motion::State::place_on(std::size_t line, int node, Point p) const {
    const double share = lines[line].nearest(p).first;
    const auto& along = on_line[line];
    for (std::size_t k = 1; k < along.size(); ++k) {
        if (share > along[k].share && k + 1 < along.size()) continue;
        const double span = along[k].share - along[k - 1].share;
        if (!(span > 0)) return {};
        return Held{node, line, along[k - 1].knot, along[k].knot,
                    std::clamp((share - along[k - 1].share) / span, 0.0, 1.0)};
    }
    return {};
}

bool Motion::State::hold_nodes() {
    const auto corners = static_cast<std::size_t>(mesh->corner_count);
    // Sides of triangles where regions meet, on conductors and on the rim of the mesh, round each node.
    struct Side {
        int triangles = 0, region = 0, other = -1, middle = 0;
    };
    std::map<std::pair<int, int>, Side> sides;
    for (std::size_t t = 0; t < mesh->triangles.size(); ++t)
        for (std::size_t i = 0; i < 3; ++i) {
            const auto [a, b] = std::minmax(mesh->triangles[t][i], mesh->triangles[t][(i + 1) % 3]);
            auto& side = sides[{a, b}];
            (side.triangles++ == 0 ? side.region : side.other) = mesh->region[t];
            side.middle = mesh->triangles[t][3 + i];
        }
    struct Neighbour {
        int node;
        std::array<int, 3> label; ///< the regions beside it, its conductor
    };
    std::vector<std::vector<Neighbour>> round(corners);
    for (const auto& [ends, side] : sides) {
        const int conductor = mesh->conductor[side.middle];
        if (side.region == side.other && conductor < 0) continue;
        const auto [low, high] = std::minmax(side.region, side.other);
        round[ends.first].push_back({ends.second, {low, high, conductor}});
        round[ends.second].push_back({ends.first, {low, high, conductor}});
    }
    const auto lies_on = [&](Point p, std::size_t line) {
        return lines[line].length_mm() > same_mm &&
               lines[line].nearest(p).second < lines[line].tolerance_mm();
    };

    struct Loose {
        int node;
        std::size_t line;
    };
    std::vector<Loose> between;
    std::vector<std::pair<int, std::size_t>> at_knots;
    for (std::size_t n = 0; n < corners; ++n) {
        if (round[n].empty()) {
            if (mesh->conductor[n] >= 0) return false;
            continue;
        }
        const Point p = mesh->nodes[n];
        // Where a border only passes, whatever ends there is covered.
        if (round[n].size() == 2 && round[n][0].label == round[n][1].label) {
            std::size_t k = 0;
            while (k < lines.size() && !(lies_on(p, k) && lies_on(mesh->nodes[round[n][0].node], k) &&
                                         lies_on(mesh->nodes[round[n][1].node], k)))
                ++k;
            if (k < lines.size()) {
                between.push_back({static_cast<int>(n), k});
                continue;
            }
        }
        const auto knot = std::find_if(knots.begin(), knots.end(),
                                       [&](const Knot& k) { return distance(k.at, p) < same_mm; });
        if (knot != knots.end()) {
            at_knots.emplace_back(static_cast<int>(n), static_cast<std::size_t>(knot - knots.begin()));
            continue;
        }
        // Else two lines cross, each of which a border runs along; of arcs the crossing was found on chords.
        std::optional<std::size_t> first;
        bool crossing = false;
        for (std::size_t k = 0; k < lines.size() && !crossing; ++k) {
            if (!lies_on(p, k) || std::none_of(round[n].begin(), round[n].end(), [&](const Neighbour& other) {
                    return lies_on(mesh->nodes[other.node], k);
                }))
                continue;
            if (!first) {
                first = k;
                continue;
            }
            const auto before = lines[*first].nearest(p).first, share = lines[k].nearest(p).first;
            const Point u = lines[*first].slope(before), v = lines[k].slope(share);
            constexpr double one_direction = 1e-3;
            if (std::abs(cross(u, v)) < one_direction * length(u) * length(v)) continue;
            at_knots.emplace_back(static_cast<int>(n), knots.size());
            knots.push_back({p, {}, *first, k, before, share});
            crossing = true;
        }
        if (crossing) continue;
        constexpr double round_it = 2; // sides of triangles along the border
        double reach_mm = least_reach_mm;
        for (const auto& other : round[n])
            reach_mm = std::max(reach_mm, round_it * distance(mesh->nodes[other.node], p));
        Carried one{static_cast<int>(n), {}};
        for (std::size_t k = 0; k < lines.size(); ++k)
            if (lines[k].length_mm() > same_mm && lines[k].nearest(p).second < reach_mm)
                one.lines.push_back(k);
        if (one.lines.empty()) return false;
        carried.push_back(std::move(one));
    }
    // Points of outlines that something covers bound nothing: only a line's own ends are needed of them.
    std::vector<char> seen_knot(knots.size(), 0);
    for (const auto& [node, knot] : at_knots) seen_knot[knot] = 1;
    for (std::size_t k = 0; k < lines.size(); ++k) {
        if (!(lines[k].length_mm() > same_mm)) continue;
        for (std::size_t knot = 0; knot < knots.size(); ++knot)
            if (!seen_knot[knot] && distance(knots[knot].at, lines[k].a) >= same_mm &&
                distance(knots[knot].at, lines[k].b) >= same_mm)
                continue;
            else if (const auto [share, off] = lines[k].nearest(knots[knot].at); off < same_mm)
                on_line[k].push_back({knot, share});
        std::sort(on_line[k].begin(), on_line[k].end(),
                  [](const auto& x, const auto& y) { return x.share < y.share; });
    }
    for (const auto& [node, knot] : at_knots) held.push_back({node, 0, knot, knot, 0});
    for (const auto& loose : between) {
        auto found = place_on(loose.line, loose.node, mesh->nodes[loose.node]);
        if (!found) return false;
        held.push_back(*found);
    }
    // Middle nodes off their chord lie on the arc that both ends lie on.
    std::set<int> seen;
    for (std::size_t t = 0; t < mesh->triangles.size(); ++t) {
        if (!mesh->curved[t]) continue;
        const auto& n = mesh->triangles[t];
        for (std::size_t i = 0; i < 3; ++i) {
            const int middle = n[3 + i];
            const Point a = mesh->nodes[n[i]], b = mesh->nodes[n[(i + 1) % 3]], m = mesh->nodes[middle];
            constexpr double rounding = 1e-9;
            if (distance(m, 0.5 * (a + b)) <= rounding * distance(a, b) || !seen.insert(middle).second)
                continue;
            bool found = false;
            for (std::size_t k = 0; k < lines.size() && !found; ++k) {
                if (!lines[k].arc || lines[k].nearest(m).second > same_mm ||
                    lines[k].nearest(a).second > same_mm || lines[k].nearest(b).second > same_mm)
                    continue;
                if (auto place = place_on(k, middle, m)) middles.push_back(*place), found = true;
            }
            if (!found) return false;
        }
    }
    for (const auto& known : mesh->arcs) {
        const auto it = std::find_if(lines.begin(), lines.end(), [&](const OutlineLine& line) {
            return line.arc && distance(line.arc->centre, known.arc.centre) == 0 &&
                   line.arc->start_rad == known.arc.start_rad && line.arc->sweep_rad == known.arc.sweep_rad;
        });
        if (it == lines.end()) return false;
        line_of_arc.push_back(static_cast<std::size_t>(it - lines.begin()));
    }
    return true;
}

bool Motion::State::prepare() {
    const auto corners = static_cast<std::size_t>(mesh->corner_count);
    free_of.assign(corners, 0);
    for (const auto& h : held) free_of[h.node] = -1;
    for (const auto& c : carried) free_of[c.node] = -1;
    int count = 0;
    for (auto& f : free_of)
        if (f >= 0) f = count++;
    // Where the triangles are well shaped: on the mesh's own coordinates.
    const auto& shaped = mesh->on_drawing.size() == corners ? mesh->on_drawing : mesh->nodes;
    std::vector<Eigen::Triplet<double>> inside, outside;
    for (const auto& n : mesh->triangles) {
        const Point p[3] = {shaped[n[0]], shaped[n[1]], shaped[n[2]]};
        const double twice = std::abs(cross(p[1] - p[0], p[2] - p[0]));
        if (!(twice > 0)) return false;
        for (std::size_t i = 0; i < 3; ++i)
            for (std::size_t j = 0; j < 3; ++j) {
                const Point u = p[(i + 2) % 3] - p[(i + 1) % 3], v = p[(j + 2) % 3] - p[(j + 1) % 3];
                const double k = dot(u, v) / std::pow(twice, 1 + stiffening);
                const int row = free_of[n[i]];
                if (row < 0) continue;
                if (const int column = free_of[n[j]]; column >= 0)
                    inside.emplace_back(row, column, k);
                else
                    outside.emplace_back(row, n[j], k);
            }
    }
    Eigen::SparseMatrix<double> matrix(count, count);
    matrix.setFromTriplets(inside.begin(), inside.end());
    coupling.resize(count, static_cast<Eigen::Index>(corners));
    coupling.setFromTriplets(outside.begin(), outside.end());
    if (count > 0) {
        factor.compute(matrix);
        if (factor.info() != Eigen::Success) return false;
    }
    for (const auto& n : mesh->triangles)
        quality.push_back(ng::quality(mesh->nodes[n[0]], mesh->nodes[n[1]], mesh->nodes[n[2]]));
    return true;
}

std::optional<Motion> Motion::of(const Section& section, std::shared_ptr<const Mesh> mesh) {
    auto state = std::make_shared<State>();
    state->kinds = outline_kinds(section);
    state->mesh = std::move(mesh);
    auto lines = lines_of(section);
    constexpr std::size_t most_lines = 4000; // each node on an outline looks at all of them
    if (!lines || lines->size() > most_lines) return {};
    state->lines = std::move(*lines);
    state->find_knots();
    if (!state->hold_nodes() || !state->prepare()) return {};
    return Motion(std::move(state));
}

std::optional<Mesh> Motion::moved(const Section& to) const {
    const auto& s = *state_;
    if (s.kinds != outline_kinds(to)) return {};
    const auto lines = lines_of(to);
    if (!lines || lines->size() != s.lines.size()) return {};
    std::vector<Point> knots(s.knots.size());
    const auto end_of = [&](std::size_t end) { return end % 2 ? (*lines)[end / 2].b : (*lines)[end / 2].a; };
    for (std::size_t k = 0; k < knots.size(); ++k) {
        const auto& knot = s.knots[k];
        if (knot.ends.empty()) {
            const auto p = meeting((*lines)[knot.line], (*lines)[knot.other], knot.share, knot.other_share);
            if (!p) return {};
            knots[k] = *p;
            continue;
        }
        knots[k] = end_of(knot.ends.front());
        for (const auto end : knot.ends)
            if (distance(end_of(end), knots[k]) > same_mm) return {};
    }
    // The same knots on every line, in the same order.
    std::vector<std::vector<double>> share(s.lines.size());
    for (std::size_t k = 0; k < s.lines.size(); ++k)
        for (const auto& on : s.on_line[k]) {
            const auto [at, off] = (*lines)[k].nearest(knots[on.knot]);
            if (off > same_mm || (!share[k].empty() && at <= share[k].back())) return {};
            share[k].push_back(at);
        }
    const auto place = [&](const State::Held& h) {
        if (h.from == h.to) return knots[h.from];
        const auto& line = (*lines)[h.line];
        if (!line.arc) return knots[h.from] + h.share * (knots[h.to] - knots[h.from]);
        const auto& along = s.on_line[h.line];
        std::size_t k = 0;
        while (along[k].knot != h.from) ++k;
        return line.at(share[h.line][k] + h.share * (share[h.line][k + 1] - share[h.line][k]));
    };
    // Seen from a node that is carried, its lines run as they did.
    const auto as_before = [&](const State::Carried& c, Point d) {
        const Point p = s.mesh->nodes[c.node];
        return std::all_of(c.lines.begin(), c.lines.end(), [&](std::size_t k) {
            const auto &was = s.lines[k], &is = (*lines)[k];
            if (was.arc.has_value() != is.arc.has_value()) return false;
            const double then = was.nearest(p).first, now = is.nearest(p + d).first;
            const Point u = was.slope(then), v = is.slope(now);
            constexpr double rounding = 1e-9, one_direction = 1e-9;
            return distance(was.at(then) + d, is.at(now)) <= rounding * (1 + length(p)) &&
                   std::abs(cross(u, v)) <= one_direction * length(u) * length(v) && dot(u, v) > 0;
        });
    };
    const auto carry = [&](const State::Carried& c) -> std::optional<Point> {
        if (as_before(c, {})) return Point{};
        for (const auto k : c.lines)
            for (const auto& on : s.on_line[k])
                if (const Point d = knots[on.knot] - s.knots[on.knot].at; as_before(c, d)) return d;
        return {};
    };
    Mesh out = *s.mesh;
    const auto corners = static_cast<std::size_t>(out.corner_count);
    Eigen::MatrixXd displacement = Eigen::MatrixXd::Zero(static_cast<Eigen::Index>(corners), 2);
    double most = 0;
    const auto hold = [&](int node, Point d) {
        most = std::max(most, length(d));
        displacement(node, 0) = d.r, displacement(node, 1) = d.z;
        out.nodes[node] = out.nodes[node] + d;
    };
    for (const auto& h : s.held) hold(h.node, place(h) - out.nodes[h.node]);
    for (const auto& c : s.carried) {
        const auto d = carry(c);
        if (!d) return {};
        hold(c.node, *d);
    }
    if (most > 0 && s.coupling.rows() > 0) {
        const Eigen::MatrixXd right = -(s.coupling * displacement);
        const Eigen::MatrixXd inside = s.factor.solve(right);
        for (std::size_t n = 0; n < corners; ++n)
            if (const int f = s.free_of[n]; f >= 0)
                out.nodes[n] = out.nodes[n] + Point{inside(f, 0), inside(f, 1)};
    }
    for (std::size_t t = 0; t < out.triangles.size(); ++t) {
        const auto& n = out.triangles[t];
        for (std::size_t i = 0; i < 3; ++i)
            out.nodes[n[3 + i]] = 0.5 * (out.nodes[n[i]] + out.nodes[n[(i + 1) % 3]]);
        const double q = quality(out.nodes[n[0]], out.nodes[n[1]], out.nodes[n[2]]);
        if (!(q > std::min(least_quality, s.quality[t] / 2))) return {};
    }
    for (const auto& h : s.middles) out.nodes[h.node] = place(h);
    // A bent triangle must not fold: its map's determinant at all six nodes.
    for (std::size_t t = 0; t < out.triangles.size(); ++t) {
        if (!out.curved[t]) continue;
        const auto& n = out.triangles[t];
        const double straight = cross(out.nodes[n[1]] - out.nodes[n[0]], out.nodes[n[2]] - out.nodes[n[0]]);
        for (const auto& x : node_places) {
            const auto g = shape_gradients(x);
            Point da, db;
            for (std::size_t i = 0; i < 6; ++i) {
                da = da + g[i][0] * out.nodes[n[i]];
                db = db + g[i][1] * out.nodes[n[i]];
            }
            constexpr double least = 0.2;
            if (!(cross(da, db) > least * straight)) return {};
        }
    }
    for (std::size_t k = 0; k < out.arcs.size(); ++k) out.arcs[k].arc = *(*lines)[s.line_of_arc[k]].arc;
    for (std::size_t k = 0; k < out.conductors.size(); ++k)
        out.conductors[k].voltage_kV = k < to.electrodes.size()
                                           ? to.electrodes[k].voltage_kV
                                           : to.boundaries[k - to.electrodes.size()].voltage_kV;
    out.on_drawing.clear();
    out.stretch.reset();
    return out;
}

} // namespace ng
