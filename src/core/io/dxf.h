// Drawings as DXF by dxflib: release 2000, millimetres, lines and texts on named layers.
#pragma once
#include "geometry/point.h"
#include "units/result.h"
#include <filesystem>
#include <string>
#include <vector>

namespace ng {

struct DxfDrawing {
    struct Line {
        std::string layer;
        std::vector<Point> points; ///< z along x, r along y
    };
    struct Text {
        std::string layer;
        Point at; ///< lower left
        double height_mm = 2.5;
        std::string words;
    };
    std::vector<Line> lines;
    std::vector<Text> texts;
};

/// Refuses a file that cannot be written.
Result<void> write_dxf(const DxfDrawing& drawing, const std::filesystem::path& path);

} // namespace ng
