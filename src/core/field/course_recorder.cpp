#include "field/course_recorder.h"
#include <algorithm>
#include <cmath>

namespace ng {

CourseRecorder::CourseRecorder(const Readings& readings, const Eigen::VectorXd& capacitive_kV,
                               const Waveform& wave)
    : readings_(readings), wave_(wave), capacitive_(readings.read(capacitive_kV, {})), maker_(readings) {}

void CourseRecorder::take(double t_s, const PlaceFields& fields,
                          const std::function<Eigen::VectorXd()>& nodes) {
    maker_.take(t_s, fields);
    history.push_back(history_at(readings_, t_s, wave_.at(t_s), fields));
    if (const double most = largest_judged(readings_, fields); most > largest_) {
        largest_ = most;
        shown = nodes();
        shown_at_s = t_s;
    }
}

PlaceFields CourseRecorder::with_source(double t_s, PlaceFields of_d) const {
    const double w = wave_.at(t_s);
    for (std::size_t i = 0; i < of_d.field.size(); ++i) {
        of_d.field[i] = of_d.field[i] + w * capacitive_.field[i];
        of_d.potential[i] += w * capacitive_.potential[i];
    }
    return of_d;
}

void CourseRecorder::begin_cycle() {
    maker_ = EnvelopeMaker(readings_);
    history.clear();
    largest_ = -1;
}

PlaceErrors CourseRecorder::capacitive_at(double factor) const {
    PlaceErrors out;
    for (const auto& e : capacitive_.field) out.field.push_back(factor * length(e));
    for (const double v : capacitive_.potential) out.potential.push_back(factor * std::abs(v));
    return out;
}

std::vector<EndState> CourseRecorder::end_states(const Eigen::VectorXd& end_kV) const {
    const auto at_end = fields(end_kV);
    std::vector<EndState> out;
    for (std::size_t k = 0; k < readings_.plan().paths.size(); ++k) {
        const auto& samples = readings_.plan().paths[k].samples;
        // A sudden change of the voltages adds its capacitive field; charges stay.
        const auto largest = [&](double jump) {
            double most = 0;
            for (std::size_t i = 0; i < samples.size(); ++i) {
                const auto place = readings_.place_of_sample(k, i);
                if (!samples[i].near_singular)
                    most = std::max(most, length(at_end.field[place] + jump * capacitive_.field[place]));
            }
            return EndState::Field{most, 0};
        };
        out.push_back({readings_.section().paths[k].name, largest(0), largest(-1), largest(-2)});
    }
    return out;
}

} // namespace ng
