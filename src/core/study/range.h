// Range: one design over the cables that its kit may be put on. Where does it serve, and which cable would a
// type test have to be made on?
#pragma once
#include "study/worst.h"
#include <functional>

namespace ng {

/// Cables by what a kit is chosen by: diameter over the insulation and its thickness; all else is the
/// design's own cable (side A).
struct RangeGrid {
    double diameter_low_mm = 0, diameter_high_mm = 0, thickness_low_mm = 0, thickness_high_mm = 0;
    int cells = 9;        ///< each way
    bool corners = false; ///< each cable at the corners of the usual tolerances too (study/worst.h)
};
/// From 0.8 to 1.25 times the diameter, 0.75 to 1.35 times the thickness of the design's own cable.
RangeGrid usual_range(const PreparedDesign& prepared);

struct RangeMap {
    std::string design;
    std::vector<double> diameters_mm, thicknesses_mm; ///< over the insulation; of it
    struct Cell {
        std::string refusal; ///< why it cannot be built or is no cable; empty: it can
        Status fit = Status::not_judged, status = Status::not_judged;
        bool at_corners = true; ///< whether it holds, and fits, at those that can be built
        int corners_not_built = 0;
        double share = 0,
               error = 0;  ///< worst share of a limit that differs over the range, and what is open of it, at
                           ///< the corners too
        std::string check; ///< whose it is
        std::string corner; ///< and the check whose corner it is read at; empty: as designed
        bool serves() const {
            return refusal.empty() && fit != Status::falls_short && status != Status::falls_short;
        }
        /// None: at those that can be built, but not all can.
        std::optional<bool> serves_at_corners() const {
            if (!serves() || !at_corners) return false;
            return corners_not_built > 0 ? std::nullopt : std::optional(true);
        }
    };
    std::size_t corners = 0; ///< how many were looked at of each cable
    std::vector<Cell> cells; ///< by thickness, then by diameter
    const Cell& at(std::size_t thickness, std::size_t diameter) const {
        return cells[thickness * diameters_mm.size() + diameter];
    }
    /// A cable of the job, where it lies.
    struct OfJob {
        std::string id, title;
        double diameter_mm = 0, thickness_mm = 0;
        bool own = false; ///< the design's
    };
    std::vector<OfJob> cables;
    /// Of the cells whose fit holds and that can be built, the one nearest to its limits or furthest beyond
    /// them: the cable that says most of the whole range in a type test.
    std::optional<std::size_t> to_test;
};

/// Refuses grids that are none. `found` is called for each cell, from any thread, one at a time.
Result<RangeMap> map_range(const Job& job, const std::string& design, const Library& library,
                           const Preparer& prepare, const RangeGrid& grid, const CancelFlag* cancel = nullptr,
                           const std::function<void(int done, int all)>& found = {});

nlohmann::ordered_json range_json(const RangeMap& map);
std::string range_csv(const RangeMap& map);
/// How many cells serve, and the cable to test.
std::string range_words(const RangeMap& map);

} // namespace ng
