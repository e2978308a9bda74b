// Drawn bodies in files: within a job, as a file of their own (*.ngbody, docs/job-format.md), and from a DXF
// drawing.
#pragma once
#include "document/body_drawing.h"
#include "io/dxf_reader.h"
#include <map>

namespace ng {

constexpr int body_format_version = 1;

/// One drawing of a job. Refuses what the table of its fields does not know, and what check_drawing()
/// refuses.
Result<BodyDrawing> read_drawing(const nlohmann::json& document, const std::string& item);
nlohmann::ordered_json drawing_json(const BodyDrawing& drawing);

/// A file *.ngbody.
Result<BodyDrawing> load_body(const std::filesystem::path& path);
Result<void> save_body(const BodyDrawing& drawing, const std::filesystem::path& path);

/// "slip-on-cone" of "Slip-on cone".
std::string id_from_title(const std::string& title);

struct BodyImport {
    std::string id, title;                  ///< empty: of the file's name
    std::map<std::string, BodyRole> roles;  ///< by layer; layers that are not named here are left out
    std::optional<double> mm_per_unit = {}; ///< of drawings that do not say their unit
    DxfReadOptions::Axis axis = DxfReadOptions::Axis::x;
};
/// The profiles on layers that have a role, in the drawing's order.
std::vector<DrawnPart> parts_of(const DxfProfiles& profiles, const std::map<std::string, BodyRole>& roles);
/// Profiles of a DXF drawing as parts of a body.
Result<BodyDrawing> import_body(const std::filesystem::path& path, const BodyImport& how);

} // namespace ng
