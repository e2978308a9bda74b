#include "io/dxf.h"
#include <dxflib/dl_dxf.h>
#include <memory>
#include <set>

namespace ng {

Result<void> write_dxf(const DxfDrawing& drawing, const std::filesystem::path& path) {
    DL_Dxf dxf;
    const std::unique_ptr<DL_WriterA> out(dxf.out(path.c_str(), DL_Codes::AC1015));
    if (!out) return refuse(path.filename().string(), "it could not be written", "Choose another place");
    std::set<std::string> layers{"0"};
    for (const auto& line : drawing.lines) layers.insert(line.layer);
    for (const auto& text : drawing.texts) layers.insert(text.layer);
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
    out->tableLayers(static_cast<int>(layers.size()));
    for (const auto& layer : layers)
        dxf.writeLayer(*out, DL_LayerData(layer, 0), DL_Attributes("", 7, -1, "CONTINUOUS", 1.0));
    out->tableEnd();
    out->tableStyle(1);
    dxf.writeStyle(*out, DL_StyleData("Standard", 0, 0, 1, 0, 0, 2.5, "txt", ""));
    out->tableEnd();
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
    const auto on = [](const std::string& layer) { return DL_Attributes(layer, 256, -1, "BYLAYER", 1.0); };
    for (const auto& line : drawing.lines) {
        dxf.writePolyline(*out, DL_PolylineData(static_cast<int>(line.points.size()), 0, 0, 0),
                          on(line.layer));
        for (const auto& p : line.points) dxf.writeVertex(*out, DL_VertexData(p.z, p.r, 0.0, 0.0));
        dxf.writePolylineEnd(*out);
    }
    for (const auto& text : drawing.texts)
        dxf.writeText(*out,
                      DL_TextData(text.at.z, text.at.r, 0, text.at.z, text.at.r, 0, text.height_mm, 1.0, 0, 0,
                                  0, text.words, "Standard", 0.0),
                      on(text.layer));
    out->sectionEnd();
    dxf.writeObjects(*out);
    dxf.writeObjectsEnd(*out);
    out->dxfEOF();
    out->close();
    return {};
}

} // namespace ng
