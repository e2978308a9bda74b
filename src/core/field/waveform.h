// Voltages over time, as a factor of each electrode's voltage.
#pragma once
#include "section/section.h"
#include <vector>

namespace ng {

/// k (exp(-t/tau_tail) - exp(-t/tau_front)) with crest 1.
struct DoubleExponential {
    double tail_constant_s = 0, front_constant_s = 0, k = 1;
    double crest_s = 0; ///< instant of the crest
    double at(double t_s) const;

    /// From front and tail times by IEC 60060-1: front = (t90 - t30) / 0.6 with the virtual origin at t30 -
    /// 0.3 front, tail counted from there; above 20 us front means the time to the crest and both count from
    /// 0.
    static DoubleExponential from_times(double front_us, double tail_us);
};

/// Front and tail time of a given wave by the same definitions, microseconds: the check of from_times.
struct WaveTimes {
    double front_us, tail_us;
};
WaveTimes measured_times(const DoubleExponential& wave, bool slow_front);

/// What a time-stepped analysis applies.
class Waveform {
  public:
    static Waveform impulse(const ImpulseWave& wave);
    static Waveform direct(double ramp_s);     ///< rises evenly to 1 at `ramp_s`; 0: 1 from t = 0
    static Waveform sine(double frequency_hz); ///< sqrt 2 sin: of voltages given in rms

    double at(double t_s) const;
    /// Instants at which the rate jumps: integration restarts there.
    const std::vector<double>& breaks_s() const { return breaks_; }
    double suggested_end_s() const { return end_s_; }
    /// Rising instants up to `end_s` at which a wave that only the source shapes is known between them to 0.1
    /// % by a parabola; crest and breaks are among them. Of a sine: of one cycle.
    std::vector<double> instants_s(double end_s) const;
    /// With those in even ratios after each break, from a small part of the time that a rate as fast as this
    /// takes: for what goes on relaxing.
    std::vector<double> instants_s(double end_s, double fastest_per_s) const;
    double crest() const; ///< largest |factor|
    /// No less than what a step's effect on something of this rate is to be multiplied by: s times the wave's
    /// Laplace transform, of a chopped wave with that of its collapse.
    double content(double rate_per_s) const;

  private:
    enum class Kind { impulse, direct, sine } kind_ = Kind::direct;
    DoubleExponential wave_;
    double sign_ = 1, omega_ = 0, chop_s_ = -1, ramp_s_ = 0, end_s_ = 0;
    std::vector<double> breaks_;
};

constexpr double chop_collapse_us =
    0.1; // chosen: the collapse of a chopped wave is taken as linear over this

} // namespace ng
