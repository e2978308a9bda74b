// Results as open formats: JSON for programs, CSV per path, VTU for field viewers.
#pragma once
#include "field/solution.h"
#include <string>

namespace ng {

nlohmann::ordered_json solution_json(const Section& section, const Solution& solution);

/// RFC 4180, header with units; one row per sample.
std::string path_csv(const Solution& solution, const PathResult& path);

/// Unstructured-grid XML with quadratic triangles: potential, field per triangle corner region, relative
/// permittivity.
std::string solution_vtu(const Solution& solution);

/// What the figures of a solution are, such as "AC rms".
const char* quantity_word(const Solution& solution);

/// A corner near which nothing is judged, in words: "triple point".
const char* kind_word(Mesh::Singular::Kind kind);

/// Words for how a solve ended, such as "goal met: 0.6 % of 1 %".
std::string describe_end(const SolveReport& report);

} // namespace ng
