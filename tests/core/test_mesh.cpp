// The parts beneath the solver by themselves: arrangement, mesher, element, search tree, recovery. Held
// against exact integrals, exact polynomials and brute force.
#include "field/assembly.h"
#include "field/recovery.h"
#include "field/sizes.h"
#include "field/tuning.h"
#include "mesh/arrangement.h"
#include "mesh/contacts.h"
#include "mesh/corner.h"
#include "mesh/mesher.h"
#include "mesh/triangle_tree.h"
#include "mesh/worst_first.h"
#include "support.h"
#include <Eigen/SparseCholesky>
#include <list>
#include <map>
#include <random>
#include <set>

using namespace ng;
using drawing::Contacts;
using drawing::Piece;

namespace {

double factorial(int n) {
    return n < 2 ? 1 : n * factorial(n - 1);
}

/// An annulus section of two materials round a rounded electrode: curved elements, interfaces, corners.
Section sample() {
    Section s;
    s.materials = {{"inner", {2.3, {}, {}}}, {"outer", {4, {}, {}}}};
    s.regions = {{"outer", "outer", test::box(5, 0, 40, 30)}, {"inner", "inner", test::box(5, 5, 25, 25)}};
    Outline disc;
    const Point c{14, 15};
    disc.start = {c.r - 3, c.z};
    disc.arc_to({c.r, c.z - 3}, c, "south")
        .arc_to({c.r + 3, c.z}, c)
        .arc_to({c.r, c.z + 3}, c)
        .arc_to({c.r - 3, c.z}, c);
    s.electrodes = {{"disc", 10, false, disc}};
    s.boundaries = {{"box", 0, {{5, 0}, {40, 0}, {40, 30}, {5, 30}}}};
    return s;
}

/// Triangulated to this edge length.
struct Meshed {
    Section section;
    Mesh mesh;
};
Meshed meshed(double size_mm, Section section = sample()) {
    MesherOptions options;
    auto mesher = Mesher::create(section, options);
    if (!mesher) qFatal("no mesher");
    auto made = mesher->make([=](Point) { return size_mm; }, nullptr);
    if (!made || !made->complete) qFatal("not meshed");
    return {std::move(section), std::move(made->mesh)};
}

double area_of(const Mesh& mesh, int triangle) {
    double area = 0;
    for (const auto& q : quadrature()) area += q.weight * evaluate(mesh, triangle, q.at).jacobian;
    return area;
}

Eigen::VectorXd potentials(const Mesh& mesh, const std::function<double(Point)>& of) {
    Eigen::VectorXd v(static_cast<Eigen::Index>(mesh.nodes.size()));
    for (std::size_t i = 0; i < mesh.nodes.size(); ++i) v[static_cast<Eigen::Index>(i)] = of(mesh.nodes[i]);
    return v;
}

/// Places well inside the triangles of a mesh.
std::vector<Reading> places_in(const Mesh& mesh, int count, unsigned seed) {
    std::mt19937 random(seed);
    std::vector<Reading> out;
    while (static_cast<int>(out.size()) < count) {
        const int t =
            std::uniform_int_distribution<int>(0, static_cast<int>(mesh.triangles.size()) - 1)(random);
        double a = std::uniform_real_distribution<>(0, 1)(random),
               b = std::uniform_real_distribution<>(0, 1)(random);
        if (a + b > 1) a = 1 - a, b = 1 - b;
        out.push_back({t, {a, b}});
    }
    return out;
}

bool cross_inside(Point a, Point b, Point c, Point d) {
    const auto side = [](Point p, Point q, Point x) { return cross(q - p, x - p); };
    const double tiny = 1e-9;
    return side(a, b, c) * side(a, b, d) < -tiny && side(c, d, a) * side(c, d, b) < -tiny;
}

} // namespace

class TestMesh : public QObject {
    Q_OBJECT
    const Meshed sample_ = meshed(2);

  private slots:
    void quadrature_is_exact_to_degree_four() {
        // Over the reference triangle a^i b^j integrates to i! j! / (i + j + 2)! (textbook).
        for (int i = 0; i <= 4; ++i)
            for (int j = 0; i + j <= 4; ++j) {
                double sum = 0;
                for (const auto& q : quadrature())
                    sum += q.weight * std::pow(q.at.a, i) * std::pow(q.at.b, j);
                COMPARE_WITHIN(sum, factorial(i) * factorial(j) / factorial(i + j + 2), 1e-12);
            }
    }
    void shape_functions_are_one_at_their_node_and_sum_to_one() {
        const Reference nodes[] = {{0, 0}, {1, 0}, {0, 1}, {0.5, 0}, {0.5, 0.5}, {0, 0.5}};
        for (std::size_t i = 0; i < 6; ++i)
            for (std::size_t j = 0; j < 6; ++j)
                QVERIFY(std::abs(shape_values(nodes[i])[j] - (i == j ? 1 : 0)) < 1e-15);
        std::mt19937 random(3);
        for (int k = 0; k < 50; ++k) {
            const Reference x{std::uniform_real_distribution<>(0, 0.5)(random),
                              std::uniform_real_distribution<>(0, 0.5)(random)};
            const double h = 1e-6;
            double sum = 0, da = 0, db = 0;
            for (std::size_t i = 0; i < 6; ++i) {
                const auto g = shape_gradients(x)[i];
                sum += shape_values(x)[i];
                da += g[0];
                db += g[1];
                const auto along = [&](double a, double b) {
                    return (shape_values({x.a + a, x.b + b})[i] - shape_values({x.a - a, x.b - b})[i]) /
                           (2 * h);
                };
                QVERIFY(std::abs(along(h, 0) - g[0]) < 1e-8 && std::abs(along(0, h) - g[1]) < 1e-8);
            }
            QVERIFY(std::abs(sum - 1) < 1e-14 && std::abs(da) < 1e-13 && std::abs(db) < 1e-13);
        }
    }
    void a_place_goes_to_the_element_and_back() {
        const auto& mesh = sample_.mesh;
        int curved = 0;
        for (const auto& place : places_in(mesh, 2000, 5)) {
            const auto back =
                map_to_reference(mesh, place.triangle, map_to_section(mesh, place.triangle, place.at));
            QVERIFY(std::abs(back.a - place.at.a) < 1e-9 && std::abs(back.b - place.at.b) < 1e-9);
            curved += mesh.curved[place.triangle];
        }
        QVERIFY(curved > 20);
    }
    void element_energies_of_simple_fields_are_exact() {
        const auto& mesh = sample_.mesh;
        double planar = 0, round = 0, area = 0, moment = 0;
        for (int t = 0; t < static_cast<int>(mesh.triangles.size()); ++t) {
            Eigen::Matrix<double, 6, 1> z;
            for (int i = 0; i < 6; ++i) z[i] = mesh.nodes[mesh.triangles[t][i]].z;
            planar += z.dot(stiffness(mesh, t, Symmetry::planar) * z);
            round += z.dot(stiffness(mesh, t, Symmetry::axisymmetric) * z);
            for (const auto& q : quadrature()) {
                const auto e = evaluate(mesh, t, q.at);
                area += q.weight * e.jacobian;
                moment += q.weight * e.jacobian * e.at.r;
            }
            const auto k = stiffness(mesh, t, Symmetry::axisymmetric);
            QVERIFY((k - k.transpose()).norm() < 1e-12 * k.norm());
            QVERIFY((k * Eigen::Matrix<double, 6, 1>::Ones()).norm() <
                    1e-10 * k.norm()); // constants cost nothing
        }
        // A unit field in z: its energy integral is the area, and the volume by Pappus (textbook).
        COMPARE_WITHIN(planar, area, 1e-10);
        COMPARE_WITHIN(round, 2 * std::numbers::pi * moment, 1e-10);
        const double disc = std::numbers::pi * 9, box = 35 * 30;
        COMPARE_WITHIN(area, box - disc, 1e-5); // curved elements: the circle to fourth order
        COMPARE_WITHIN(moment, box * 22.5 - disc * 14, 1e-5);
    }
    void the_mesh_fills_every_region_once() {
        const auto& [section, mesh] = sample_;
        std::vector<double> area(section.regions.size());
        std::map<std::pair<int, int>, int> edges;
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
            const double here = area_of(mesh, static_cast<int>(t));
            QVERIFY(here > 0); // counter-clockwise
            area[mesh.region[t]] += here;
            for (std::size_t i = 0; i < 3; ++i)
                ++edges[std::minmax(mesh.triangles[t][i], mesh.triangles[t][(i + 1) % 3])];
        }
        COMPARE_WITHIN(area[1], 400 - std::numbers::pi * 9, 1e-5);
        COMPARE_WITHIN(area[0], 35 * 30 - 400.0, 1e-12);
        int single = 0;
        for (const auto& [edge, count] : edges) {
            QVERIFY(count == 1 || count == 2);
            single += count == 1;
        }
        // Euler: V - E + F = 1 - holes, here one (the disc).
        std::set<int> corners;
        for (const auto& t : mesh.triangles) corners.insert(t.begin(), t.begin() + 3);
        QCOMPARE(static_cast<int>(corners.size()) - static_cast<int>(edges.size()) +
                     static_cast<int>(mesh.triangles.size()),
                 0);
        QVERIFY(single > 20);
    }
    void angles_and_sizes_are_as_asked() {
        const auto& mesh = sample_.mesh;
        double least = 180, longest = 0;
        for (const auto& t : mesh.triangles)
            for (std::size_t i = 0; i < 3; ++i) {
                const auto at = [&](std::size_t k) { return mesh.nodes[t[k % 3]]; };
                const Point u = at(i + 1) - at(i), v = at(i + 2) - at(i);
                least = std::min(least, std::atan2(cross(u, v), dot(u, v)) * 180 / std::numbers::pi);
                longest = std::max(longest, length(u));
            }
        qInfo("least angle %.1f degrees, longest edge %.2f mm", least, longest);
        QVERIFY(least > 19 && longest < 2 * 1.5);
        const auto finer = meshed(1);
        QVERIFY(finer.mesh.triangles.size() > 2.5 * static_cast<double>(mesh.triangles.size()));
    }
    /// A step of it anywhere would leave a border in the mesh: each source counts wherever it is the finest.
    void first_sizes_grow_evenly_everywhere() {
        std::mt19937 random(20);
        for (const auto* name : {"ramp-pole", "causeway", "pier-branch"}) {
            const auto design = test::prepared(name);
            QVERIFY(design);
            const auto& section = design->built.section;
            const auto mesher = Mesher::create(section, {});
            QVERIFY(mesher);
            Box box;
            for (const auto& path : section.paths) box.take(path.points);
            for (const bool coarse : {false, true}) {
                const FirstSizes sizes(section, *mesher, coarse);
                const double growth = coarse ? tuning::coarse_growth : tuning::growth;
                double finest = 1e9, widest = 0;
                for (int i = 0; i < 20000; ++i) {
                    const auto within = [&](double low, double high) {
                        return std::uniform_real_distribution<>(low - 1, high + 1)(random);
                    };
                    const Point p{within(box.low.r, box.high.r), within(box.low.z, box.high.z)};
                    const double angle = within(0, 6.3), far = std::pow(10, within(-3, 1));
                    const Point q = p + far * Point{std::cos(angle), std::sin(angle)};
                    const double at_p = sizes(p), at_q = sizes(q);
                    QVERIFY(std::abs(at_p - at_q) <= growth * far * (1 + 1e-9));
                    finest = std::min(finest, at_p), widest = std::max(widest, at_p);
                }
                QVERIFY(finest > 0 && widest > 5 * finest);
            }
        }
    }
    void a_stretched_triangle_is_no_longer_than_it_is_far_from_the_ends() {
        constexpr double length_mm = 3000, size_mm = 5;
        const auto [section, mesh] =
            meshed(size_mm, test::coaxial(10, {{10.1, 5.0}, {30, 2.3}, {30.1, 100.0}}, length_mm, 20));
        QVERIFY(mesh.stretch);
        int long_ones = 0;
        for (const auto& t : mesh.triangles) {
            const auto [low, high] =
                std::minmax({mesh.nodes[t[0]].z, mesh.nodes[t[1]].z, mesh.nodes[t[2]].z});
            const double middle = (low + high) / 2, away = std::min(middle, length_mm - middle);
            QVERIFY(high - low <= 1.001 * std::max(size_mm, away));
            if (high - low > 100) ++long_ones;
        }
        QVERIFY(long_ones > 10); // or nothing was stretched
        QVERIFY(mesh.triangles.size() < 5000);
    }
    void nodes_of_conductors_lie_on_them_and_middle_nodes_on_the_arc() {
        const auto& mesh = sample_.mesh;
        const Point c{14, 15};
        int on_disc = 0, on_box = 0;
        for (std::size_t i = 0; i < mesh.nodes.size(); ++i) {
            const auto p = mesh.nodes[i];
            const bool box = p.r < 5 + 1e-9 || p.r > 40 - 1e-9 || p.z < 1e-9 || p.z > 30 - 1e-9;
            const bool disc = std::abs(distance(p, c) - 3) < 1e-9;
            QCOMPARE(mesh.conductor[i], disc                                                        ? 0
                                        : box && !(p.r < 5 + 1e-9 && p.z > 1e-9 && p.z < 30 - 1e-9) ? 1
                                                                                                    : -1);
            on_disc += disc;
            on_box += box;
        }
        QVERIFY(on_disc > 90 && on_box > 50); // 48 chords, each with its middle node
        QVERIFY(!mesh.arc_edges.empty());
        for (const auto& edge : mesh.arc_edges)
            for (const int n : edge) QVERIFY(std::abs(distance(mesh.nodes[n], c) - 3) < 1e-9);
    }
    void touching_electrodes_at_two_voltages_are_named() {
        auto s = sample();
        s.electrodes.push_back({"bar", 5, false, test::box(13, 2, 15, 14)});
        MesherOptions options;
        const auto mesher = Mesher::create(s, options);
        QVERIFY(!mesher);
        QVERIFY(mesher.error().message().find("bar") != std::string::npos);
    }
    void refining_stops_at_a_raised_flag() {
        const auto s = sample();
        MesherOptions options;
        auto mesher = Mesher::create(s, options);
        REQUIRE_OK(mesher);
        const CancelFlag raised{true};
        const auto stopped = mesher->make([](Point) { return 0.2; }, &raised);
        REQUIRE_OK(stopped);
        QVERIFY(stopped->cancelled);
        options.most_triangles = 500;
        auto small = Mesher::create(s, options);
        REQUIRE_OK(small);
        const auto made = small->make([](Point) { return 0.2; }, nullptr);
        REQUIRE_OK(made);
        QVERIFY(!made->complete && !made->cancelled);
    }
    /// Triangles come along a curve: the next one is a size away (six, in the order in which they are made).
    void neighbours_follow_one_another() {
        const auto& mesh = sample_.mesh;
        double steps = 0;
        for (std::size_t t = 1; t < mesh.triangles.size(); ++t) {
            const auto &last = mesh.triangles[t - 1], &now = mesh.triangles[t];
            const double size = distance(mesh.nodes[last[0]], mesh.nodes[last[1]]);
            steps += distance(mesh.nodes[last[0]], mesh.nodes[now[0]]) / size;
        }
        const double mean = steps / static_cast<double>(mesh.triangles.size() - 1);
        QVERIFY2(mesh.triangles.size() > 500 && mean < 2, qPrintable(QString::number(mean)));
    }
    /// Against a list that is searched from end to end, through random comings and goings.
    void faces_wait_worst_first_and_equal_ones_in_turn() {
        struct Waiting {
            std::size_t queued = 0;
        };
        struct Quality {
            double bad;
            double urgency() const { return bad; }
        };
        std::vector<Waiting> faces(40);
        WorstFirst<Waiting*, Quality> queue;
        std::list<std::pair<Waiting*, double>> list; // in the order in which they came
        std::mt19937 random(5);
        int taken = 0, refused = 0;
        for (int k = 0; k < 20000; ++k) {
            auto* face = &faces[random() % faces.size()];
            const auto at = std::find_if(list.begin(), list.end(), [&](auto& e) { return e.first == face; });
            switch (random() % 4) {
            case 0:
            case 1: {
                const double bad = static_cast<double>(random() % 7);
                QCOMPARE(queue.insert(face, {bad}), at == list.end());
                if (at == list.end()) list.emplace_back(face, bad);
                break;
            }
            case 2:
                QCOMPARE(queue.erase(face), at != list.end());
                refused += at == list.end();
                if (at != list.end()) list.erase(at);
                break;
            default:
                if (list.empty()) break;
                const auto worst = std::max_element(list.begin(), list.end(),
                                                    [](auto& a, auto& b) { return a.second < b.second; });
                QCOMPARE(queue.front()->second, worst->first);
                QCOMPARE(queue.front()->first.bad, worst->second);
                queue.pop_front();
                list.erase(worst);
                ++taken;
            }
            QCOMPARE(queue.empty(), list.empty());
            if (k % 5000 == 4999) {
                queue.clear();
                list.clear();
            }
        }
        QVERIFY(taken > 3000 && refused > 1000);
    }
    void the_tree_finds_what_brute_force_finds() {
        const auto& mesh = sample_.mesh;
        const TriangleTree tree(mesh);
        std::mt19937 random(11);
        int found = 0, nowhere = 0;
        for (int k = 0; k < 1500; ++k) {
            const Point p{std::uniform_real_distribution<>(2, 43)(random),
                          std::uniform_real_distribution<>(-3, 33)(random)};
            const int t = tree.find(p, -1);
            bool inside = false;
            for (int i = 0; i < static_cast<int>(mesh.triangles.size()) && !inside; ++i) {
                const auto x = map_to_reference(mesh, i, p);
                inside = x.a > -1e-9 && x.b > -1e-9 && x.a + x.b < 1 + 1e-9 &&
                         distance(map_to_section(mesh, i, x), p) < 1e-9;
            }
            if (std::abs(distance(p, {14, 15}) - 3) < 0.02) continue; // beside the curved edge
            QCOMPARE(t >= 0, inside);
            if (t < 0) {
                ++nowhere;
                continue;
            }
            ++found;
            const auto x = map_to_reference(mesh, t, p);
            QVERIFY(std::min({x.a, x.b, 1 - x.a - x.b}) > -1e-3);
        }
        QVERIFY(found > 800 && nowhere > 100);
    }
    void a_place_a_little_outside_is_taken_to_the_nearest_point_of_the_mesh() {
        const auto& mesh = sample_.mesh;
        const TriangleTree tree(mesh);
        int checked = 0;
        for (int k = 0; k < 60; ++k) { // in the metal of the rounded electrode
            const double angle = 2 * std::numbers::pi * k / 60, deep = 1e-3 + 0.003 * (k % 7);
            const Point on{14 + 3 * std::cos(angle), 15 + 3 * std::sin(angle)};
            const Point p{14 + (3 - deep) * std::cos(angle), 15 + (3 - deep) * std::sin(angle)};
            if (tree.find(on, -1, 1e-2) < 0 || tree.find(p, -1, 1e-9) >= 0) continue;
            const int t = tree.find(p, -1, 0.03);
            QVERIFY(t >= 0);
            const double away = distance(map_to_section(mesh, t, nearest_point(mesh, t, p)), p);
            double least = 1;
            constexpr Reference corner[3] = {{0, 0}, {1, 0}, {0, 1}};
            for (int i = 0; i < static_cast<int>(mesh.triangles.size()); ++i) {
                if (distance(mesh.nodes[mesh.triangles[i][0]], p) > 4) continue;
                for (std::size_t side = 0; side < 3; ++side)
                    for (int step = 0; step <= 2000; ++step) {
                        const auto &a = corner[side], &b = corner[(side + 1) % 3];
                        const double f = step / 2000.0;
                        least = std::min(
                            least,
                            distance(map_to_section(mesh, i, {a.a + f * (b.a - a.a), a.b + f * (b.b - a.b)}),
                                     p));
                    }
            }
            QVERIFY2(std::abs(away - least) < 1e-6 + 1e-3 * least,
                     qPrintable(QString("%1: %2, not %3").arg(k).arg(away).arg(least)));
            ++checked;
        }
        QVERIFY(checked > 20);
    }
    void an_interface_is_read_on_the_side_that_is_asked_for() {
        const auto& mesh = sample_.mesh;
        const TriangleTree tree(mesh);
        for (double z = 6; z < 24; z += 0.7) {
            const Point on{25, z};
            for (const int region : {0, 1}) {
                const int t = tree.find(on, region);
                QVERIFY(t >= 0);
                QCOMPARE(mesh.region[t], region);
            }
        }
        QCOMPARE(tree.find({30, 15}, 1), -1);
    }
    void a_cubic_potential_is_recovered_exactly() {
        // The reader fits cubics to nodal values: where neither a curved edge nor a border of the patch
        // disturbs it, a cubic potential gives its exact field.
        const auto& mesh = sample_.mesh;
        const auto V = [](Point p) {
            return 3 - 2 * p.r + 0.5 * p.z + 0.02 * p.r * p.r - 0.03 * p.r * p.z + 0.001 * p.r * p.r * p.z -
                   0.0007 * p.z * p.z * p.z;
        };
        const auto E = [](Point p) {
            return Point{2 - 0.04 * p.r + 0.03 * p.z - 0.002 * p.r * p.z,
                         -0.5 + 0.03 * p.r - 0.001 * p.r * p.r + 0.0021 * p.z * p.z};
        };
        const auto places = places_in(mesh, 800, 21);
        const FieldReader reader(mesh, places);
        const auto v = potentials(mesh, V);
        const auto field = reader.field(v);
        const auto potential = reader.potential(v);
        for (std::size_t i = 0; i < places.size(); ++i) {
            const auto p = map_to_section(mesh, places[i].triangle, places[i].at);
            // Between the fits at its corners the field is interpolated linearly in each element at worst.
            QVERIFY2(distance(field[i], E(p)) < 2e-2, qPrintable(QString("%1 %2").arg(p.r).arg(p.z)));
            QVERIFY(std::abs(potential[i] - V(p)) < 1e-2);
        }
        // At the corners themselves it is exact.
        std::vector<Reading> corners;
        for (const auto& place : places)
            if (!mesh.curved[place.triangle]) corners.push_back({place.triangle, {0, 0}});
        const auto exact = FieldReader(mesh, corners).field(v);
        for (std::size_t i = 0; i < corners.size(); ++i) {
            const auto p = map_to_section(mesh, corners[i].triangle, corners[i].at);
            if (distance(p, {14, 15}) < 6) continue; // patches with curved elements
            QVERIFY2(distance(exact[i], E(p)) < 1e-9, qPrintable(QString("%1 %2").arg(p.r).arg(p.z)));
        }
    }
    void the_load_is_the_transpose_of_the_reading() {
        const auto& mesh = sample_.mesh;
        const auto places = places_in(mesh, 60, 8);
        const FieldReader reader(mesh, places);
        std::mt19937 random(2);
        std::normal_distribution<> normal;
        const auto v = potentials(mesh, [&](Point) { return normal(random); });
        std::vector<Point> weights;
        for (std::size_t i = 0; i < places.size(); ++i) weights.push_back({normal(random), normal(random)});
        const auto field = reader.field(v);
        double read = 0;
        for (std::size_t i = 0; i < places.size(); ++i) read += dot(weights[i], field[i]);
        COMPARE_WITHIN(reader.load(weights).dot(v), read, 1e-10);
        // What bounds a field made by 1 kV anywhere is near what its nodes count, one by one.
        const auto bound = reader.sum_of_weights();
        for (std::size_t i = 0; i < places.size(); ++i) {
            std::vector<Point> one(places.size());
            one[i] = {1, 0};
            const auto along_r = reader.load(one);
            one[i] = {0, 1};
            const auto along_z = reader.load(one);
            double sum = 0;
            for (Eigen::Index n = 0; n < along_r.size(); ++n) sum += std::hypot(along_r[n], along_z[n]);
            QVERIFY2(bound[i] > sum && bound[i] < 6 * sum,
                     qPrintable(QString("%1 beside %2").arg(bound[i]).arg(sum)));
        }
    }
    void an_averaged_linear_potential_has_its_exact_field_and_no_error() {
        const auto& mesh = sample_.mesh;
        const auto v = potentials(mesh, [](Point p) { return 4 * p.r - 3 * p.z; });
        const auto averaged = averaged_field(mesh, nodal_layout(mesh), v, {});
        for (const auto& place : places_in(mesh, 300, 4)) {
            const auto e = averaged.at(place.triangle, place.at);
            QVERIFY(distance(e, {-4, 3}) < 1e-9);
            COMPARE_WITHIN(averaged.magnitude_at(place.triangle, place.at), 5.0, 1e-9);
        }
        for (const double error : averaging_error(mesh, {1, 1}, Symmetry::planar, v, {}, averaged))
            QVERIFY(error < 1e-8);
        // Round an axis a field along r is none: what is left of the equation, E_r / r, counts as error.
        for (const double error : averaging_error(mesh, {1, 1}, Symmetry::axisymmetric, v, {}, averaged))
            QVERIFY(error > 1e-3);
    }
    void the_major_axis_is_the_largest_value_of_the_cycle() {
        std::mt19937 random(9);
        std::normal_distribution<> normal;
        for (int k = 0; k < 200; ++k) {
            const Point a{normal(random), normal(random)}, b{normal(random), normal(random)};
            double largest = 0;
            for (int i = 0; i < 20000; ++i) {
                const double phi = i * std::numbers::pi / 20000;
                largest = std::max(largest, length(std::cos(phi) * a - std::sin(phi) * b));
            }
            COMPARE_WITHIN(major_axis(a, b), largest, 1e-7);
        }
    }
    void assembled_and_multiplied_are_the_same() {
        for (const bool floating : {false, true}) {
            auto held_or_not = sample_.mesh;
            held_or_not.conductors[0].floating = floating; // its nodes share an unknown then
            const auto mesh = std::make_shared<const Mesh>(std::move(held_or_not));
            const Assembly assembly(mesh, Symmetry::axisymmetric);
            const double per_region[] = {4, 2.3};
            auto matrix = assembly.pattern<double>();
            assembly.fill<double>(per_region, matrix);
            std::mt19937 random(6);
            std::normal_distribution<> normal;
            Eigen::VectorXd unknowns(assembly.unknown_count());
            for (auto& u : unknowns) u = normal(random);
            const double held[] = {0, 0};
            const Eigen::VectorXd nodes = assembly.scatter<double>(unknowns, held);
            Eigen::VectorXd out = Eigen::VectorXd::Zero(assembly.node_count());
            assembly.multiply<double>(per_region, nodes, out);
            const Eigen::VectorXd both = assembly.gather(out),
                                  through = matrix.selfadjointView<Eigen::Upper>() * unknowns;
            QVERIFY((both - through).norm() < 1e-11 * through.norm());
            QCOMPARE(isolated_region(*mesh), -1);
            // Each free node has a number of its own, the floating conductor's nodes one.
            std::map<int, std::set<int>> nodes_of;
            for (int node = 0; node < assembly.node_count(); ++node)
                if (const int u = assembly.unknown_of_node()[node]; u >= 0)
                    nodes_of[u].insert(mesh->conductor[node] < 0 ? node : -1 - mesh->conductor[node]);
            QCOMPARE(static_cast<int>(nodes_of.size()), assembly.unknown_count());
            for (const auto& [u, of] : nodes_of) QCOMPARE(static_cast<int>(of.size()), 1);
        }
    }
    /// Against Eigen's minimum degree of all unknowns, middles of sides too.
    void the_order_of_corners_fills_in_as_little_as_an_order_of_all() {
        const Assembly assembly(std::make_shared<const Mesh>(sample_.mesh), Symmetry::axisymmetric);
        const double per_region[] = {4, 2.3};
        auto matrix = assembly.pattern<double>();
        assembly.fill<double>(per_region, matrix);
        const auto filled = [&](auto& factor) {
            factor.compute(matrix);
            return static_cast<double>(factor.matrixL().nestedExpression().nonZeros());
        };
        Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>, Eigen::Upper, Eigen::NaturalOrdering<int>> ours;
        Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>, Eigen::Upper, Eigen::AMDOrdering<int>> all;
        const double share = filled(ours) / filled(all);
        QVERIFY2(share < 1.05, qPrintable(QString("%1 times").arg(share)));
    }
    /// Refined to a hundredth of a chord, less than the arc is high over it: on the chords the mesh is made,
    /// on the arc it is used, and no triangle is spoiled by the way.
    void a_mesh_much_finer_than_the_chords_of_an_arc_goes_onto_it_with_them() {
        const auto section = sample();
        const Point centre{14, 15};
        auto mesher = Mesher::create(section, {});
        REQUIRE_OK(mesher);
        REQUIRE_OK(mesher->make([](Point) { return 2.0; }, nullptr));
        const auto made = mesher->add(
            [&](Point p) {
                return 0.004 + 0.4 * std::max(0.0, distance(p, {14 + 3 * 0.6, 15 - 3 * 0.8}) - 0.25);
            },
            nullptr);
        REQUIRE_OK(made);
        QVERIFY(!made->spoiled);
        const auto& mesh = made->mesh;
        double smallest = 10, worst_bend = 1;
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
            std::array<Point, 3> p;
            for (std::size_t i = 0; i < 3; ++i) p[i] = mesh.nodes[mesh.triangles[t][i]];
            for (std::size_t i = 0; i < 3; ++i) {
                const Point u = p[(i + 1) % 3] - p[i], v = p[(i + 2) % 3] - p[i];
                smallest = std::min(smallest, std::atan2(cross(u, v), dot(u, v)));
            }
            const double straight = cross(p[1] - p[0], p[2] - p[0]);
            for (const auto& at : node_places) {
                const auto g = shape_gradients(at);
                Point da, db;
                for (std::size_t i = 0; i < 6; ++i) {
                    da = da + g[i][0] * mesh.nodes[mesh.triangles[t][i]];
                    db = db + g[i][1] * mesh.nodes[mesh.triangles[t][i]];
                }
                worst_bend = std::min(worst_bend, cross(da, db) / straight);
            }
        }
        std::size_t small = 0;
        for (const auto& side : mesh.arc_edges) {
            small += distance(mesh.nodes[side[0]], mesh.nodes[side[1]]) < 0.006;
            for (const int node : side) COMPARE_WITHIN(distance(mesh.nodes[node], centre), 3.0, 1e-9);
        }
        QVERIFY2(small > 80, qPrintable(QString::number(small)));
        QVERIFY2(
            smallest > 15 * std::numbers::pi / 180 && worst_bend > 0.5,
            qPrintable(QString("%1 degrees, %2").arg(smallest * 180 / std::numbers::pi).arg(worst_bend)));
    }
    /// A wanted size jumps from triangle to triangle, and the outlines of a body and of the metal in it ask
    /// of places that are the same but for rounding: here the second who asks is told another.
    void outlines_that_share_an_arc_share_its_chords() {
        Section s;
        s.symmetry = Symmetry::planar;
        s.materials = {{"ring", {2.3, {}, {}}}};
        Outline ring, core;
        ring.start = {4, 0};
        ring.line_to({13, 0}).arc_to({0, 13}, {0, 0}).line_to({0, 4}).arc_to({4, 0}, {0, 0});
        core.start = {0, 0};
        core.line_to({4, 0}).arc_to({0, 4}, {0, 0}, "core");
        s.regions = {{"ring", "ring", ring}};
        s.electrodes = {{"core", 10, false, core}};
        auto mesher = Mesher::create(s, {});
        REQUIRE_OK(mesher);
        REQUIRE_OK(mesher->make([](Point) { return 5.0; }, nullptr));
        std::set<std::pair<std::int64_t, std::int64_t>> asked;
        const auto made = mesher->make(
            [&](Point p) {
                const auto cell = [](double x) {
                    return static_cast<std::int64_t>(std::floor(1e6 * x + 0.3));
                };
                return asked.insert({cell(p.r), cell(p.z)}).second ? 0.4 : 5.0;
            },
            nullptr);
        REQUIRE_OK(made);
        double covered_rad = 0;
        for (const auto& side : made->mesh.arc_edges) {
            const auto angle = [&](int node) {
                return std::atan2(made->mesh.nodes[node].z, made->mesh.nodes[node].r);
            };
            covered_rad += std::abs(angle(side[1]) - angle(side[0]));
            for (const int node : side) QCOMPARE(made->mesh.conductor[node], 0);
        }
        COMPARE_WITHIN(covered_rad, std::numbers::pi / 2, 1e-9);
    }
    void random_lines_are_split_at_every_crossing() {
        std::mt19937 random(17);
        auto at = [&] { return std::uniform_real_distribution<>(0, 100)(random); };
        for (int run = 0; run < 20; ++run) {
            std::vector<ArrangementLine> lines;
            for (int i = 0; i < 12; ++i) lines.push_back({{at(), at()}, {at(), at()}});
            lines.push_back(lines.front());                                 // the same line twice
            lines.push_back({0.5 * (lines[1].a + lines[1].b), lines[1].b}); // and half of another
            const auto out = arrange(lines, 1e-4);
            double asked = 0, got = 0;
            for (int i = 0; i < 12; ++i) asked += distance(lines[i].a, lines[i].b);
            const auto vertex = [&](int k) { return out.vertices[k]; };
            std::set<std::pair<int, int>> seen;
            for (const auto& e : out.edges) {
                got += distance(vertex(e.a), vertex(e.b));
                QVERIFY(e.a != e.b && seen.insert(std::minmax(e.a, e.b)).second); // each once
            }
            COMPARE_WITHIN(got, asked, 1e-5);
            for (std::size_t i = 0; i < out.edges.size(); ++i)
                for (std::size_t j = 0; j < i; ++j)
                    QVERIFY(!cross_inside(vertex(out.edges[i].a), vertex(out.edges[i].b),
                                          vertex(out.edges[j].a), vertex(out.edges[j].b)));
            for (std::size_t i = 0; i < out.vertices.size(); ++i)
                for (std::size_t j = 0; j < i; ++j)
                    QVERIFY(distance(out.vertices[i], out.vertices[j]) > 0.9e-4);
        }
    }
    void triple_points_on_smooth_metal() {
        constexpr double pi = std::numbers::pi;
        const auto order = [](double eps, double other, double angle) {
            const Sector sectors[] = {{eps, angle}, {other, pi - angle}};
            return corner_order(sectors, SectorEnd::metal, SectorEnd::metal);
        };
        COMPARE_WITHIN(order(2.3, 2.3, 0.7), 1.0, 1e-9); // one material: smooth metal
        COMPARE_WITHIN(order(1, 9, pi / 2), 1.0, 1e-9);  // square on: no disturbance
        // At 60 degrees the root has a closed form: in cot x and cot 2x,
        // eps cot x + other (cot^2 x - 1) / (2 cot x) = 0, x = k pi / 3: cot^2 x = other / (2 eps + other).
        for (const double ratio : {1.2, 2.0, 5.0}) {
            const double x = std::atan(std::sqrt((2 + ratio) / ratio));
            COMPARE_WITHIN(order(1, ratio, pi / 3), 3 * x / pi, 1e-9);
        }
        QVERIFY(order(1, 4, 0.3) < 1 && order(4, 1, 0.3) > 1);
        QVERIFY(order(1, 8, 0.5) < order(1, 2, 0.5));
    }
    void corners_of_metal_and_of_dielectrics() {
        constexpr double pi = std::numbers::pi;
        // Metal with the field in an opening of beta: pi / beta (Jackson, Classical Electrodynamics, 2.11).
        for (const double beta : {1.2 * pi, 1.5 * pi, 2 * pi}) {
            const Sector open[] = {{3, beta}};
            COMPARE_WITHIN(corner_order(open, SectorEnd::metal, SectorEnd::metal), pi / beta, 1e-9);
        }
        // A right dielectric corner: with R = (1 - e) / (1 + e), e the ratio, the even and the odd state obey
        // tan(k pi / 4) = ratio^(+-1) tan(3 k pi / 4 ...); the closed form for a quarter plane is
        // k = (2 / pi) arccos(|R| / 2) (Meixner, IEEE Trans. Antennas Propag. 20, 1972; from memory).
        for (const double ratio : {2.0, 5.0, 20.0}) {
            const double reflection = (ratio - 1) / (ratio + 1);
            const Sector wedge[] = {{ratio, pi / 2}, {1, 3 * pi / 2}};
            COMPARE_WITHIN(closed_corner_order(wedge), 2 / pi * std::acos(reflection / 2), 1e-9);
        }
        const Sector flat[] = {{7, pi}, {1, pi}};
        COMPARE_WITHIN(closed_corner_order(flat), 1.0, 1e-9);
        // Growing by less than 5 % for each decade is finite for what hands build.
        QVERIFY(!grows_without_limit(1.0) && !grows_without_limit(0.985) && grows_without_limit(0.97));
        QVERIFY(grows_without_limit(pi / (189 * pi / 180))); // metal of 171 degrees
    }
    void a_line_shorter_than_the_snap_vanishes() {
        // Its length was once divided by: crossings of no place, and a crash of the triangulation.
        const auto out =
            arrange({{{0, 0}, {10, 0}}, {{4, 3e-5}, {4, 8e-5}}, {{4, 8e-5}, {4, 6}}, {{2, 2}, {2, 2}}}, 1e-4);
        for (const auto& v : out.vertices) QVERIFY(std::isfinite(v.r) && std::isfinite(v.z));
        QCOMPARE(out.edges.size(), std::size_t(3)); // the long one split by the upright one
    }
    void no_line_is_drawn_far_from_where_it_was_given() {
        // Vertices that leave a line by less than the snap length each, one after the other: each once took
        // the line along, and the next was near it again.
        constexpr double snap = 1e-4;
        for (const bool on_arc : {false, true}) {
            std::vector<ArrangementLine> lines{{{0, 0}, {10, 0}}};
            for (int i = 0; i < 40; ++i) {
                const double s = 1e-3 * i, next = 1e-3 * (i + 1);
                lines.push_back({{s, s * s / 0.4}, {next, next * next / 0.4}, 0, -1, on_arc, on_arc});
            }
            const auto out = arrange(lines, snap);
            for (const auto& e : out.edges)
                if (e.arc < 0)
                    for (const int end : {e.a, e.b}) {
                        const double off = std::abs(out.vertices[end].z);
                        QVERIFY2(off <= (on_arc ? snap / 50 : snap) * (1 + 1e-9),
                                 qPrintable(QString::number(off)));
                    }
        }
    }
    void chords_leave_the_room_beside_an_arc_as_wide_as_it_is() {
        constexpr double pi = std::numbers::pi, radius = 2, snap = 1e-4, step = pi / 16;
        const Arc arc{{10, radius}, radius, -pi / 2, pi / 2}; // rises from a line that it touches at (10, 0)
        const Piece round{{10, 0}, {12, radius}, arc};
        const auto longest = [&](const Piece& other, double off) {
            const Contacts contacts({round, other}, snap);
            return contacts.longest_chord_mm(arc, -pi / 2 + off - step / 8, -pi / 2 + off + step / 8);
        };
        const auto free = [&](const Piece& other) { return std::isinf(longest(other, 0.2)); };
        const auto room = [&](const Piece& other, double off) {
            double least = 100;
            for (int i = 0; i <= 20000; ++i) {
                const double f = i / 20000.0;
                const Point q = other.arc ? other.arc->at(other.arc->start_rad + f * other.arc->sweep_rad)
                                          : other.from + f * (other.to - other.from);
                least = std::min(least, distance(q, arc.at(-pi / 2 + off)));
            }
            return least;
        };
        const Piece near[] = {
            {{5, 0}, {20, 0}, {}},  // touches and passes
            {{10, 0}, {11, 0}, {}}, // begins where it touches
            {{11, 0}, {10, 0}, {}},
            {{10, 0}, {10 + 5, 5}, Arc{{10, 5}, 5, -pi / 2, pi / 2}},     // a wider arc
            {{11, -1}, {10, 0}, Arc{{10, -1}, 1, 0, pi / 2}},             // one that bends the other way
            {{5, -0.01}, {20, -0.01}, {}},                                // passes close by
            {{10.3, -4}, {10.3, 0.01}, {}},                               // ends close to it
            {{11, -1.01}, {9, -1.01}, Arc{{10, -1.01}, 1, 0, pi}},        // another arc close by
            {{10.4, -1}, {10.4, -1}, Arc{{10.1, 2.05}, 1.95, -2.2, 1.6}}, // one within it
        };
        for (const auto& other : near)
            for (const double off : {0.1, 0.2, 0.3, 0.5}) {
                const double chord = longest(other, off), high = chord * chord / (8 * radius);
                if (room(other, off) > 0.3) continue;
                // What the arc stands over its chord, over the room to the other there.
                QVERIFY(high < 0.03 * room(other, off) || chord <= radius / 64 * (1 + 1e-9));
                QVERIFY(high > 0.01 * room(other, off));
            }
        const Contacts contacts({round, near[0]}, snap);
        QVERIFY(!contacts.may_divide(arc, -pi / 2 + 0.5 * std::sqrt(2 * snap / radius)));
        QVERIFY(contacts.may_divide(arc, -pi / 2 + 2 * std::sqrt(2 * snap / radius)));
        QVERIFY(free({{5, 0}, {10, 0}, {}}));        // a line that goes on smoothly: no cusp
        QVERIFY(free({{5, -1.0}, {20, -1.0}, {}}));  // far beside it
        QVERIFY(free({{5, -5}, {20, 10}, {}}));      // across it
        QVERIFY(free({{10, 0}, {12, radius}, arc})); // the same arc of a neighbour
        QVERIFY(free({{10, -0.1}, {12.1, radius}, Arc{arc.centre, 2.1, -pi / 2, pi / 2}})); // about it
        QVERIFY(free({{8, radius}, {10, 0}, Arc{{10, radius}, radius, -pi, pi / 2}}));      // its other half
    }
    /// A thousandth of a millimetre from a round edge, much less than its chords are off it.
    void lines_beside_an_arc_stay_where_they_are_drawn() {
        Section s;
        s.symmetry = Symmetry::planar;
        s.materials = {{"air", {1, {}, {}}}};
        s.regions = {{"air", "air", test::box(0, 0, 40, 30)}};
        const Point centre{20, 3.001};
        Outline rod{{17, 3.001}, {}};
        rod.arc_to({20, 0.001}, centre).arc_to({23, 3.001}, centre).line_to({23, 8}).line_to({17, 8});
        s.electrodes = {{"rod", 1, false, rod}};
        s.boundaries = {{"plate", 0, {{0, 0}, {40, 0}}}};
        auto mesher = Mesher::create(s, {});
        REQUIRE_OK(mesher);
        const auto made = mesher->make([](Point) { return 3.0; }, nullptr);
        REQUIRE_OK(made);
        const auto& mesh = made->mesh;
        int on_plate = 0;
        for (std::size_t node = 0; node < mesh.nodes.size(); ++node) {
            if (mesh.conductor[node] != 1) continue;
            ++on_plate;
            QCOMPARE(mesh.nodes[node].z, 0.0);
        }
        QVERIFY(on_plate > 20);
        for (const auto& edge : mesh.arc_edges)
            for (const int node : edge) COMPARE_WITHIN(distance(mesh.nodes[node], centre), 3.0, 1e-9);
    }
    void lines_keep_their_arc_and_boundary() {
        const auto out =
            arrange({{{0, 0}, {10, 0}, -1, 3}, {{5, -5}, {5, 5}, 2, -1}, {{0, 0}, {4, 0}}}, 1e-4);
        QCOMPARE(out.vertices.size(), std::size_t(6));
        QCOMPARE(out.edges.size(), std::size_t(5));
        for (const auto& e : out.edges) {
            const bool flat = std::abs(out.vertices[e.a].z) < 1e-9 && std::abs(out.vertices[e.b].z) < 1e-9;
            QCOMPARE(e.boundary, flat ? 3 : -1);
            QCOMPARE(e.arc, flat ? -1 : 2);
        }
    }
};
QTEST_APPLESS_MAIN(TestMesh)
#include "test_mesh.moc"
