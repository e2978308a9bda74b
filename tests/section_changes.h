// The same section elsewhere, larger or turned.
#pragma once
#include "section/section.h"

namespace ng::test {

/// With `change` applied to every point of it.
template <class Change> Section changed(Section s, Change change) {
    auto outline = [&](Outline& o) {
        change(o.start);
        for (auto& step : o.steps) {
            change(step.to);
            if (step.centre) change(*step.centre);
        }
    };
    for (auto& r : s.regions) outline(r.outline);
    for (auto& e : s.electrodes) outline(e.outline);
    for (auto& b : s.boundaries)
        for (auto& p : b.along) change(p);
    for (auto& path : s.paths)
        for (auto& p : path.points) change(p);
    for (auto& probe : s.probes) change(probe.at);
    return s;
}

} // namespace ng::test
