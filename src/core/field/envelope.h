// The largest fields over time at every reading place.
#pragma once
#include "field/readings.h"

namespace ng {

struct Envelope {
    struct Peak {
        double size = 0, tangential = 0, normal = 0, potential = 0, t_s = 0;
        Point field; ///< near the instant of `size`
    };
    std::vector<Peak> peaks; ///< by place
};

/// Takes the fields of instants in order and keeps their largest values, between three instants by the
/// parabola through them: in size and in time.
class EnvelopeMaker {
  public:
    explicit EnvelopeMaker(const Readings& readings);
    void take(double t_s, const PlaceFields& fields);
    /// Between the last instant and the next the fields have a kink: no parabola goes across it.
    void begin_again() { taken_ = 0; }
    const Envelope& envelope() const { return envelope_; }

  private:
    struct Trail {
        double size[2] = {0, 0}, tangential[2] = {0, 0}, normal[2] = {0, 0}, potential[2] = {0, 0};
    };
    std::vector<Point> direction_;
    std::vector<Trail> trail_; // the last two instants, the older first
    double t_[2] = {0, 0};
    int taken_ = 0;
    Envelope envelope_;
};

/// Fills paths, probes and edges of `solution`.
void report_envelope(const Readings& readings, const Envelope& envelope, Solution& solution);

/// Largest |difference| of the envelope's components, and of the potentials, at every place: signs do not
/// count, since two meshes may have their largest values in different half waves.
PlaceErrors changes(const Envelope& before, const Envelope& now);

/// Largest path field that may be judged; where there is no path, the largest of all.
double largest_judged(const Readings& readings, const PlaceFields& fields);

/// Largest change between two envelopes, relative to the greatest field of the same path, edge or probe.
double largest_change(const Readings& readings, const Envelope& before, const Envelope& now);

/// Fundamental and third harmonic of the probes' fields from even samples of one cycle.
void find_harmonics(const Readings& readings, const std::vector<PlaceFields>& cycle, Solution& solution);

HistoryPoint history_at(const Readings& readings, double t_s, double source, const PlaceFields& fields);

} // namespace ng
