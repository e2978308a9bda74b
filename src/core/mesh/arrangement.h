// Planar straight-line graph of a section: shared lines of neighbours are kept once, every crossing and
// overlap is split, points closer than the snap length are one point. The mesher gets nothing that it has to
// repair.
#pragma once
#include "section/section.h"
#include <array>
#include <vector>

namespace ng {

/// One input line: a straight piece or a chord of arc `arc` (-1: straight); `boundary` is the index of the
/// named boundary that it belongs to (-1: none).
struct ArrangementLine {
    Point a, b;
    int arc = -1;
    int boundary = -1;
    /// Whether its ends are there only because an arc is drawn in chords: lines near them are not drawn to
    /// them, or cusps would close by an amount that hangs on the chords.
    bool a_on_arc = false, b_on_arc = false;
};

struct ArrangementEdge {
    int a = 0, b = 0; ///< vertex indices
    int arc = -1;
    int boundary = -1;
};

struct Arrangement {
    std::vector<Point> vertices;
    std::vector<ArrangementEdge> edges;
    std::vector<std::pair<int, int>> overlapping_boundaries; ///< that share a line: lower index first
};

/// Points closer than `snap_mm` become one; lines shorter than that vanish. No line is drawn to a vertex that
/// lies further than that from where the line was given, however many times it is split.
Arrangement arrange(const std::vector<ArrangementLine>& lines, double snap_mm);

} // namespace ng
