// Small helpers that several tests share.
#pragma once
#include "design/prepared.h"
#include "field/solve.h"
#include "section/section.h"
#include <QtTest>
#include <numbers>

namespace ng::test {

/// Long tables run whole where NEEDLEGAUGE_WHOLE is set; else what pairs each of their columns once.
inline bool whole() {
    return qEnvironmentVariableIsSet("NEEDLEGAUGE_WHOLE");
}
/// So many of something random, ten times as many in a whole run.
inline int some(int usual) {
    return whole() ? 10 * usual : usual;
}

/// So many milliseconds are waited for something to happen; longer where the thread sanitizer slows all.
constexpr int patient(int ms) {
#ifdef __SANITIZE_THREAD__
    return 10 * ms;
#else
    return ms;
#endif
}

/// Fails the test with the message of the error.
#define REQUIRE_OK(result)                                                                                   \
    do {                                                                                                     \
        const auto& required_ = (result); /* evaluated once */                                               \
        QVERIFY2(required_.has_value(), required_ ? "" : required_.error().message().c_str());               \
    } while (false)

/// |value - expected| within `relative` of expected; prints both when not.
#define COMPARE_WITHIN(value, expected, relative)                                                            \
    do {                                                                                                     \
        const double v_ = (value), e_ = (expected);                                                          \
        QVERIFY2(std::abs(v_ - e_) <= (relative)*std::abs(e_),                                               \
                 qPrintable(QString("got %1, expected %2, off by %3")                                        \
                                .arg(v_, 0, 'g', 8)                                                          \
                                .arg(e_, 0, 'g', 8)                                                          \
                                .arg(v_ / e_ - 1)));                                                         \
    } while (false)

inline Conduction constant(double S_per_m) {
    Conduction c;
    c.law = "constant";
    c.sigma0_S_per_m = S_per_m;
    return c;
}

inline Outline box(double r0, double z0, double r1, double z1) {
    return Outline::polygon({{r0, z0}, {r1, z0}, {r1, z1}, {r0, z1}});
}

/// Concentric cylinders between a conductor and an earthed screen, one region per layer.
inline Section coaxial(double inner_mm, const std::vector<std::pair<double, double>>& layers,
                       double height_mm, double voltage_kV) {
    Section s;
    double inside = inner_mm;
    for (std::size_t i = 0; i < layers.size(); ++i) {
        const auto name = "layer " + std::to_string(i + 1);
        s.materials[name] = {layers[i].second, {}, {}};
        s.regions.push_back({name, name, box(inside, 0, layers[i].first, height_mm)});
        inside = layers[i].first;
    }
    s.boundaries.push_back({"conductor", voltage_kV, {{inner_mm, 0}, {inner_mm, height_mm}}});
    s.boundaries.push_back({"screen", 0, {{inside, 0}, {inside, height_mm}}});
    return s;
}

inline const Library& library() {
    static const Library loaded = *load_library(NEEDLEGAUGE_DATA_DIR);
    return loaded;
}
inline const Family& family(const std::string& id) {
    return *library().families.find(id);
}

inline Job demo_job() {
    return *load_job(std::string(NEEDLEGAUGE_DATA_DIR) + "/demo/osprey-point.ngjob");
}
/// A design of the demo job, with something changed.
inline Result<PreparedDesign> prepared(const std::string& design,
                                       const std::function<void(Design&)>& change = {}) {
    auto job = demo_job();
    if (change) change(*job.find_design(design));
    return prepare_design(job, design, library());
}

} // namespace ng::test
