#include "field/envelope.h"
#include "units/promise.h"
#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace ng {
EnvelopeMaker::EnvelopeMaker(const Readings& readings) : trail_(readings.count()) {
    for (std::size_t place = 0; place < readings.count(); ++place)
        direction_.push_back(readings.direction(place));
    envelope_.peaks.resize(readings.count());
}

void EnvelopeMaker::take(double t_s, const PlaceFields& fields) {
    promise(fields.field.size() == trail_.size(), "one field for each place");
    promise(taken_ == 0 || t_s > t_[1], "instants come in order");
    const bool three = taken_ >= 2;
    const std::array<double, 3> t{t_[0], t_[1], t_s};
    const auto largest = [&](double& peak, double(&trail)[2], double now) {
        if (std::abs(now) > std::abs(peak)) peak = now;
        if (three && std::abs(trail[1]) >= std::abs(trail[0]) && std::abs(trail[1]) >= std::abs(now)) {
            const double sign = trail[1] < 0 ? -1 : 1;
            const auto v = parabola_vertex(t, {sign * trail[0], sign * trail[1], sign * now});
            if (v.value > std::abs(peak)) peak = sign * v.value;
        }
        trail[0] = trail[1];
        trail[1] = now;
    };
    for (std::size_t place = 0; place < trail_.size(); ++place) {
        auto& peak = envelope_.peaks[place];
        auto& trail = trail_[place];
        const Point e = fields.field[place], u = direction_[place];
        const double size = length(e);
        if (size > peak.size) peak.size = size, peak.field = e, peak.t_s = t_s;
        if (three && trail.size[1] >= trail.size[0] && trail.size[1] >= size && trail.size[1] > 0) {
            const auto v = parabola_vertex(t, {trail.size[0], trail.size[1], size});
            if (v.value >= peak.size) peak.size = v.value, peak.t_s = v.place;
        }
        trail.size[0] = trail.size[1];
        trail.size[1] = size;
        largest(peak.tangential, trail.tangential, dot(e, u));
        largest(peak.normal, trail.normal, dot(e, right_of(u)));
        largest(peak.potential, trail.potential, fields.potential[place]);
    }
    t_[0] = t_[1];
    t_[1] = t_s;
    ++taken_;
}

void report_envelope(const Readings& readings, const Envelope& envelope, Solution& solution) {
    const auto& plan = readings.plan();
    const auto& section = readings.section();
    solution.corners = readings.mesh().singular;
    solution.paths.clear();
    for (std::size_t k = 0; k < plan.paths.size(); ++k) {
        PathResult result;
        result.name = section.paths[k].name;
        result.place = place_of(result.name);
        result.side = section.paths[k].side;
        result.samples = plan.paths[k].samples;
        for (std::size_t i = 0; i < result.samples.size(); ++i) {
            const auto& peak = envelope.peaks[readings.place_of_sample(k, i)];
            auto& sample = result.samples[i];
            sample.E_t_kV_per_mm = peak.tangential;
            sample.E_n_kV_per_mm = peak.normal;
            sample.E_kV_per_mm = peak.size;
            sample.potential_kV = peak.potential;
            sample.peak_time_s = peak.t_s;
        }
        finish_path(result, section.paths[k]);
        solution.paths.push_back(std::move(result));
    }
    solution.probes.clear();
    for (std::size_t k = 0; k < section.probes.size(); ++k) {
        const auto& peak = envelope.peaks[readings.place_of_probe(k)];
        ProbeResult result;
        result.name = section.probes[k].name;
        result.at = section.probes[k].at;
        result.judged = !corner_that_reaches(readings.mesh().singular, result.at);
        result.potential_kV = peak.potential;
        result.field_kV_per_mm = peak.field;
        result.E_kV_per_mm = peak.size;
        result.peak_time_s = peak.t_s;
        solution.probes.push_back(result);
    }
    solution.edges.clear();
    for (const auto k : readings.reported_edges()) {
        const auto first = readings.first_of_edge(k);
        auto result = edge_result(
            plan.edges[k], readings.mesh(), [&](std::size_t i) { return envelope.peaks[first + i].size; },
            [&](std::size_t i) { return !readings.present(first + i); });
        double most = 0;
        for (std::size_t i = 0; i < plan.edges[k].share.size(); ++i)
            if (const auto& peak = envelope.peaks[first + i];
                readings.present(first + i) && !plan.edges[k].near_singular[i] && peak.size > most)
                most = peak.size, result.peak_time_s = peak.t_s;
        solution.edges.push_back(std::move(result));
    }
}

PlaceErrors changes(const Envelope& before, const Envelope& now) {
    promise(before.peaks.size() == now.peaks.size(), "both meshes are read at the same places");
    const auto change = [](double a, double b) { return std::abs(std::abs(a) - std::abs(b)); };
    PlaceErrors out;
    for (std::size_t i = 0; i < now.peaks.size(); ++i) {
        const auto &a = before.peaks[i], &b = now.peaks[i];
        out.field.push_back(std::max(
            {change(a.size, b.size), change(a.tangential, b.tangential), change(a.normal, b.normal)}));
        out.potential.push_back(change(a.potential, b.potential));
    }
    return out;
}

double largest_judged(const Readings& readings, const PlaceFields& fields) {
    double most = 0;
    const auto& paths = readings.plan().paths;
    for (std::size_t k = 0; k < paths.size(); ++k)
        for (std::size_t i = 0; i < paths[k].samples.size(); ++i)
            if (!paths[k].samples[i].near_singular)
                most = std::max(most, fields.size(readings.place_of_sample(k, i)));
    if (paths.empty())
        for (std::size_t place = 0; place < fields.field.size(); ++place)
            most = std::max(most, fields.size(place));
    return most;
}

double largest_change(const Readings& readings, const Envelope& before, const Envelope& now) {
    if (before.peaks.size() != now.peaks.size()) return 1;
    double most = 0;
    const auto group = [&](std::size_t first, std::size_t count) {
        double peak = 0, change = 0;
        for (std::size_t k = first; k < first + count; ++k) {
            peak = std::max(peak, now.peaks[k].size);
            change = std::max(change, std::abs(now.peaks[k].size - before.peaks[k].size));
        }
        if (peak > 0) most = std::max(most, change / peak);
    };
    const auto& plan = readings.plan();
    for (std::size_t k = 0; k < plan.paths.size(); ++k)
        group(readings.place_of_sample(k, 0), plan.paths[k].samples.size());
    for (std::size_t k = 0; k < plan.probes.size(); ++k) group(readings.place_of_probe(k), 1);
    for (const auto k : readings.reported_edges())
        group(readings.first_of_edge(k), plan.edges[k].share.size());
    return most;
}

void find_harmonics(const Readings& readings, const std::vector<PlaceFields>& cycle, Solution& solution) {
    const auto probes = readings.section().probes.size();
    solution.probes.assign(probes, {});
    for (std::size_t k = 0; k < probes && !cycle.empty(); ++k) {
        const auto amplitude = [&](int order, bool axial) {
            std::complex<double> sum = 0;
            for (std::size_t i = 0; i < cycle.size(); ++i) {
                const Point e = cycle[i].field[readings.place_of_probe(k)];
                sum += (axial ? e.z : e.r) *
                       std::polar(1.0, -2 * std::numbers::pi * order * static_cast<double>(i + 1) /
                                           static_cast<double>(cycle.size()));
            }
            return 2 * std::abs(sum) / static_cast<double>(cycle.size());
        };
        const bool axial = amplitude(1, true) > amplitude(1, false);
        const double first = amplitude(1, axial);
        solution.probes[k].fundamental_kV_per_mm = first / std::numbers::sqrt2;
        solution.probes[k].third_harmonic = first > 0 ? amplitude(3, axial) / first : 0;
    }
}

HistoryPoint history_at(const Readings& readings, double t_s, double source, const PlaceFields& fields) {
    HistoryPoint point;
    point.t_s = t_s;
    point.source = source;
    for (std::size_t k = 0; k < readings.section().probes.size(); ++k) {
        const auto place = readings.place_of_probe(k);
        point.probe_kV.push_back(fields.potential[place]);
        point.probe_kV_per_mm.push_back(length(fields.field[place]));
    }
    return point;
}

} // namespace ng
