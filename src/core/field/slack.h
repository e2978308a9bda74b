// How exactly the readings of a section are wanted beside one another.
#pragma once
#include <algorithm>
#include <cmath>
#include <map>
#include <string>

namespace ng {

/// Factor on the goal, at least 1, of paths and edges by name: those that are only drawn need not be known as
/// exactly as those that are held against a limit. Their errors are stated all the same.
struct Slack {
    std::map<std::string, double> of;
    double others = 1;        ///< of those without a factor of their own; infinite: as most
    bool reads_others = true; ///< false: edges without a factor of their own are not even read
    /// Of charges, currents, energy, losses and capacitances together; infinite: nobody asks for them,
    /// nothing is refined for them, and no error of theirs is known (100 % is stated).
    double integrals = 1;
    bool potentials = true; ///< false: of probes only the field's error is asked for (100 % is stated)
    bool asks_integrals() const { return std::isfinite(integrals); }
    bool reads(const std::string& edge) const { return reads_others || of.contains(edge); }
    /// At this factor nothing is refined for a reading any more, and its error is still a number.
    static constexpr double most = 1e6;
    double operator()(const std::string& name) const {
        const auto it = of.find(name);
        return std::min(it == of.end() ? others : it->second, most);
    }
};

} // namespace ng
