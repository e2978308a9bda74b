// DXF by dxflib: release 2000, millimetres, one layer a curve.
#include "shape/aids.h"
#include <dxflib/dl_dxf.h>
#include <memory>

namespace ng {

Result<void> write_profile_dxf(const ShapeProfile& profile, const std::filesystem::path& path) {
    DL_Dxf dxf;
    const std::unique_ptr<DL_WriterA> out(dxf.out(path.c_str(), DL_Codes::AC1015));
    if (!out) return refuse(path.filename().string(), "it could not be written", "Choose another place");
    dxf.writeHeader(*out);
    out->dxfString(9, "$INSUNITS");
    out->dxfInt(70, 4); // millimetres
    out->sectionEnd();
    out->sectionTables();
    dxf.writeVPort(*out);
    out->tableLinetypes(3);
    for (const char* type : {"BYBLOCK", "BYLAYER", "CONTINUOUS"})
        dxf.writeLinetype(*out, DL_LinetypeData(type, "", 0, 0, 0.0));
    out->tableEnd();
    out->tableLayers(3);
    for (const char* layer : {"0", "smooth", "straight"})
        dxf.writeLayer(*out, DL_LayerData(layer, 0), DL_Attributes("", 7, -1, "CONTINUOUS", 1.0));
    out->tableEnd();
    dxf.writeStyle(*out, DL_StyleData("standard", 0, 0, 1, 0, 0, 2.5, "txt", ""));
    dxf.writeView(*out);
    dxf.writeUcs(*out);
    out->tableAppid(1);
    dxf.writeAppid(*out, "ACAD");
    out->tableEnd();
    dxf.writeDimStyle(*out, 1, 1, 1, 1, 1);
    dxf.writeBlockRecord(*out);
    out->tableEnd();
    out->sectionEnd();
    out->sectionBlocks();
    for (const char* block : {"*Model_Space", "*Paper_Space", "*Paper_Space0"}) {
        dxf.writeBlock(*out, DL_BlockData(block, 0, 0.0, 0.0, 0.0));
        dxf.writeEndBlock(*out, block);
    }
    out->sectionEnd();
    out->sectionEntities();
    for (const auto* curve : {&profile.smooth, &profile.straight}) {
        const DL_Attributes attributes(curve == &profile.smooth ? "smooth" : "straight", 256, -1, "BYLAYER",
                                       1.0);
        dxf.writePolyline(*out, DL_PolylineData(static_cast<int>(curve->size()), 0, 0, 0), attributes);
        for (const auto& p : *curve) dxf.writeVertex(*out, DL_VertexData(p.z, p.r, 0.0, 0.0));
        dxf.writePolylineEnd(*out);
    }
    out->sectionEnd();
    dxf.writeObjects(*out);
    dxf.writeObjectsEnd(*out);
    out->dxfEOF();
    out->close();
    return {};
}

} // namespace ng
