// Profiles of shape aids as DXF: one layer a curve.
#include "io/dxf.h"
#include "shape/aids.h"

namespace ng {

Result<void> write_profile_dxf(const ShapeProfile& profile, const std::filesystem::path& path) {
    return write_dxf({{{"smooth", profile.smooth}, {"straight", profile.straight}}, {}}, path);
}

} // namespace ng
