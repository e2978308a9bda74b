#include "io/dxf.h"
#include "io/file.h"
#include <cstdlib>
#include <dxflib/dl_dxf.h>
#include <memory>
#include <set>
#include <unistd.h>

namespace ng {
namespace {

/// An empty file in the temporary folder, gone at the end.
struct Scratch {
    std::string name = (std::filesystem::temp_directory_path() / "needlegauge-XXXXXX").string();
    bool made = false;
    Scratch() {
        const int file = mkstemp(name.data());
        made = file >= 0;
        if (made) ::close(file);
    }
    Scratch(const Scratch&) = delete;
    Scratch& operator=(const Scratch&) = delete;
    ~Scratch() {
        if (made) ::unlink(name.c_str());
    }
};

} // namespace

Result<void> write_dxf(const DxfDrawing& drawing, const std::filesystem::path& path) {
    // dxflib looks at no write of its own: it writes to a scratch file, which is taken only when whole.
    const Scratch scratch;
    DL_Dxf dxf;
    const std::unique_ptr<DL_WriterA> out(scratch.made ? dxf.out(scratch.name.c_str(), DL_Codes::AC1015)
                                                       : nullptr);
    const auto failed = [&] {
        return refuse(path.filename().string(), "its drawing could not be made in the temporary folder",
                      "Free some space there, or set TMPDIR");
    };
    if (!out) return failed();
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
    const auto text = read_file(scratch.name, most_document_bytes);
    if (!text || text->size() < 5 || text->find("EOF", text->size() - 5) == std::string::npos)
        return failed();
    return write_output(path.string(), *text);
}

} // namespace ng
