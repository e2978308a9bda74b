// What is kept of a course in time: the largest values at every place, the history, and the state of the
// largest field.
#pragma once
#include "field/envelope.h"
#include "field/waveform.h"
#include <functional>

namespace ng {

/// Takes instants in order. Potentials are w(t) V_cap + d (field/transient.h).
class CourseRecorder {
  public:
    /// `capacitive_kV`: V_cap at every node.
    CourseRecorder(const Readings& readings, const Eigen::VectorXd& capacitive_kV, const Waveform& wave);

    /// `nodes`: the potentials per node that have these fields, asked for only where they are the largest
    /// yet.
    void take(double t_s, const PlaceFields& fields, const std::function<Eigen::VectorXd()>& nodes);
    /// Fields of d with those of the source at t.
    PlaceFields with_source(double t_s, PlaceFields of_d) const;
    void begin_again() { maker_.begin_again(); }
    void begin_cycle();

    const Envelope& envelope() const { return maker_.envelope(); }
    PlaceFields fields(const Eigen::VectorXd& nodes) const { return readings_.read(nodes, {}); }
    /// Along every path, of the state at the end.
    std::vector<EndState> end_states(const Eigen::VectorXd& end_kV) const;
    PlaceErrors capacitive_at(double factor) const;

    std::vector<HistoryPoint> history;
    Eigen::VectorXd shown; ///< potentials per node at the instant of the largest field, kV
    double shown_at_s = 0;

  private:
    const Readings& readings_;
    const Waveform& wave_;
    PlaceFields capacitive_;
    EnvelopeMaker maker_;
    double largest_ = -1;
};

} // namespace ng
