// A design as its user describes it, and all that lies on it: plain values with equality and one hash
// (io/digest.h). They know no family, no standard's levels and no field.
#pragma once
#include "document/tolerance.h"
#include "duty/duty.h"
#include "place/place.h"
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <tuple>
#include <vector>

namespace ng {

/// What hands and firms choose about the work; keys and usual values in plan/work.h.
struct WorkChoices {
    std::optional<PlaceId> datum;               ///< what marks are measured from; none: the family's
    std::string long_side = "a";                ///< of a joint: where what lies over the middle is parked
    std::map<std::string, double> numbers;      ///< mm
    std::map<std::string, std::string> schools; ///< where the trade disagrees
    nlohmann::json unknown = nlohmann::json::object(); ///< kept on rewrite
    auto fields() const { return std::tie(datum, long_side, numbers, schools, unknown); }
    friend bool operator==(const WorkChoices&, const WorkChoices&) = default;
};

/// Key in a design's choices of the connector taken from the library: of every family.
constexpr const char* connector_choice = "connector";
/// What hands left on a design: a kind (fault/fault.h) with its size.
struct Fault {
    std::string kind;
    Side side = Side::none; ///< of a joint
    double size_mm = 0;     ///< depth, height, length, diameter: what the kind says
    std::optional<double>
        from_edge_mm;               ///< its middle, from the screen edge towards the live end; none: usual
    std::optional<double> width_mm; ///< none: the kind's usual
    std::string filling = "air";
    std::optional<double> sheet_ohm; ///< surface resistance of a film, ohm per square; none: the kind's usual
    nlohmann::json unknown = nlohmann::json::object(); ///< kept on rewrite
    auto fields() const {
        return std::tie(kind, side, size_mm, from_edge_mm, width_mm, filling, sheet_ohm, unknown);
    }
    friend bool operator==(const Fault&, const Fault&) = default;
};

/// A design as it was frozen (design/revisions.h).
struct Revision {
    std::string name; ///< "A", "B", ...
    std::string on, by, why;
    nlohmann::json frozen;                             ///< a job with this design only
    nlohmann::json unknown = nlohmann::json::object(); ///< kept on rewrite
    auto fields() const { return std::tie(name, on, by, why, frozen, unknown); }
    friend bool operator==(const Revision&, const Revision&) = default;
};

/// An accessory on a cable: what the user set; the rest comes from the family's defaults.
struct Design {
    std::string id;
    std::string title;
    std::string family;
    std::string cable_id;
    std::string other_cable_id; ///< side B of a joint; empty: the same cable
    std::string drawing_id;     ///< of a family that is made from a drawing; empty: the first there is
    Duty duty;
    std::map<std::string, double> numbers;      ///< by parameter key
    std::map<std::string, std::string> choices; ///< by parameter key
    WorkChoices work;
    std::string note;
    std::vector<Revision> revisions; ///< oldest first
    std::vector<Fault>
        faults; ///< found or tried; the design is judged without them unless they are asked for
    std::map<std::string, Tolerance> tolerances; ///< of what studies vary, in place of the usual; by key
    std::vector<Correlated> correlated;          ///< of those
    nlohmann::json unknown = nlohmann::json::object();
    auto fields() const {
        return std::tie(id, title, family, cable_id, other_cable_id, drawing_id, duty, numbers, choices, work,
                        note, revisions, faults, tolerances, correlated, unknown);
    }
    friend bool operator==(const Design&, const Design&) = default;
};

} // namespace ng
