#pragma once
#include "design/prepared.h"
#include "field/solution.h"
#include <string>

namespace ng::cli {

/// Section above the axis and field below it, as one PNG.
Result<void> render_png(const PreparedDesign& prepared, const Solution& solution, const std::string& file,
                        int width, int height);

} // namespace ng::cli
