#include "field/waveform.h"
#include "field/tuning.h"
#include <algorithm>
#include <boost/math/tools/roots.hpp>
#include <cmath>
#include <numbers>

namespace ng {
namespace {

/// Root of f between a and b, where f changes its sign, to 50 bits.
template <class F> double root(F f, double a, double b) {
    std::uintmax_t most = 200;
    const auto range =
        boost::math::tools::toms748_solve(f, a, b, boost::math::tools::eps_tolerance<double>(50), most);
    return 0.5 * (range.first + range.second);
}

constexpr double longest_fast_front_us = 20; // IEC 60060-1: longer fronts are switching impulses

DoubleExponential with_constants(double tail_s, double front_s) {
    DoubleExponential w;
    w.tail_constant_s = tail_s;
    w.front_constant_s = front_s;
    w.crest_s = std::log(tail_s / front_s) * tail_s * front_s / (tail_s - front_s);
    w.k = 1;
    w.k = 1 / w.at(w.crest_s);
    return w;
}

} // namespace

double DoubleExponential::at(double t) const {
    return t <= 0 ? 0 : k * (std::exp(-t / tail_constant_s) - std::exp(-t / front_constant_s));
}

WaveTimes measured_times(const DoubleExponential& wave, bool slow_front) {
    auto rising = [&](double level) {
        return root([&](double t) { return wave.at(t) - level; }, 0.0, wave.crest_s);
    };
    const double half = root([&](double t) { return wave.at(t) - 0.5; }, wave.crest_s,
                             wave.crest_s + 5 * wave.tail_constant_s);
    if (slow_front) return {wave.crest_s * 1e6, half * 1e6};
    const double t30 = rising(0.3), front = (rising(0.9) - t30) / 0.6;
    return {front * 1e6, (half - (t30 - 0.3 * front)) * 1e6};
}

DoubleExponential DoubleExponential::from_times(double front_us, double tail_us) {
    const bool slow = front_us > longest_fast_front_us;
    // The ratio of the time constants fixes the ratio of the times; their size then scales.
    auto times = [&](double ratio) { return measured_times(with_constants(1e-6 * ratio, 1e-6), slow); };
    auto miss = [&](double ln_ratio) {
        const auto t = times(std::exp(ln_ratio));
        return std::log(t.tail_us / t.front_us) - std::log(tail_us / front_us);
    };
    const double ratio = std::exp(root(miss, std::log(1.001), std::log(1e7)));
    const double scale = front_us / times(ratio).front_us;
    return with_constants(1e-6 * ratio * scale, 1e-6 * scale);
}

Waveform Waveform::impulse(const ImpulseWave& wave) {
    Waveform w;
    w.kind_ = Kind::impulse;
    w.wave_ = DoubleExponential::from_times(wave.front_us, wave.tail_us);
    w.sign_ = wave.negative ? -1 : 1;
    w.end_s_ = 1.2e-6 * wave.tail_us;
    if (wave.chopped_at_us) {
        w.chop_s_ = *wave.chopped_at_us * 1e-6;
        w.breaks_ = {w.chop_s_, w.chop_s_ + 1e-6 * chop_collapse_us};
        w.end_s_ = w.breaks_.back() + 5e-6 * wave.front_us;
    }
    if (wave.duration_us) w.end_s_ = *wave.duration_us * 1e-6;
    return w;
}

Waveform Waveform::direct(double ramp_s) {
    Waveform w;
    w.ramp_s_ = ramp_s;
    if (ramp_s > 0) w.breaks_ = {ramp_s};
    return w;
}

Waveform Waveform::sine(double frequency_hz) {
    Waveform w;
    w.kind_ = Kind::sine;
    w.omega_ = 2 * std::numbers::pi * frequency_hz;
    return w;
}

double Waveform::at(double t) const {
    if (kind_ == Kind::direct) return t < ramp_s_ ? std::max(0.0, t / ramp_s_) : 1;
    if (kind_ == Kind::sine) return std::numbers::sqrt2 * std::sin(omega_ * t);
    if (chop_s_ < 0 || t <= chop_s_) return sign_ * wave_.at(t);
    const double left = 1 - (t - chop_s_) / (1e-6 * chop_collapse_us);
    return left <= 0 ? 0 : sign_ * wave_.at(chop_s_) * left;
}

std::vector<double> Waveform::instants_s(double end_s) const {
    std::vector<double> out{0, end_s};
    // From `from` on, the distance to it growing by `ratio`.
    const auto spread = [&](double from, double first, double ratio, double to) {
        for (double d = first; from + d < to; d *= ratio) out.push_back(from + d);
    };
    const auto evenly = [&](double from, double to, int count) {
        for (int i = 1; i <= count; ++i) out.push_back(from + (to - from) * i / count);
    };
    if (kind_ == Kind::impulse) {
        const double crest = wave_.crest_s, chop = chop_s_ < 0 ? end_s : chop_s_;
        spread(0, 1e-3 * crest, 1.3, std::min(0.05 * crest, chop));
        evenly(0.05 * crest, 2 * crest, 80);
        spread(0, 2 * crest, 1.04, end_s);
        out.push_back(crest);
        if (chop_s_ >= 0) {
            evenly(0.05 * chop_s_, chop_s_, 20);
            evenly(chop_s_, breaks_.back(), 20);
            spread(breaks_.back(), 0.02 * (breaks_.back() - chop_s_), 1.15, end_s);
        }
    } else if (kind_ == Kind::sine) {
        evenly(0, 2 * std::numbers::pi / omega_, 128);
    } else {
        if (ramp_s_ > 0) evenly(0, ramp_s_, 40);
        spread(ramp_s_, 1e-6 * end_s, 1.15, end_s);
    }
    std::erase_if(out, [&](double t) { return t > end_s; });
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

std::vector<double> Waveform::instants_s(double end_s, double fastest_per_s) const {
    auto out = instants_s(end_s);
    std::vector<double> breaks{0};
    for (const double t : breaks_)
        if (t < end_s) breaks.push_back(t);
    for (const double from : breaks) {
        out.push_back(from);
        const double first = std::max(tuning::first_instant / fastest_per_s, 1e-12 * end_s);
        for (double d = first; from + d < end_s; d *= tuning::instants_growth) out.push_back(from + d);
    }
    std::sort(out.begin(), out.end());
    const auto same = [](double a, double b) { return b - a <= 1e-11 * b; };
    out.erase(std::unique(out.begin(), out.end(), same), out.end());
    return out;
}

double Waveform::content(double s) const {
    const auto ramp = [&](double duration_s) {
        return s * duration_s > 0 ? -std::expm1(-s * duration_s) / (s * duration_s) : 1.0;
    };
    if (kind_ == Kind::sine) return 1;
    if (kind_ == Kind::direct) return ramp(ramp_s_);
    const double smooth =
        wave_.k * (s / (s + 1 / wave_.tail_constant_s) - s / (s + 1 / wave_.front_constant_s));
    return smooth + (chop_s_ < 0 ? 0 : wave_.at(chop_s_) * ramp(1e-6 * chop_collapse_us));
}

double Waveform::crest() const {
    if (kind_ == Kind::sine) return std::numbers::sqrt2;
    if (kind_ == Kind::direct) return 1;
    return chop_s_ >= 0 && chop_s_ < wave_.crest_s ? wave_.at(chop_s_) : 1;
}

} // namespace ng
