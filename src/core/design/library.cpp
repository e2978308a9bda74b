#include "design/library.h"
#include "document/drawing_io.h"
#include "io/file.h"
#include "io/json_reader.h"
#include <algorithm>
#include <cstdlib>
#include <fmt/format.h>

namespace ng {
namespace {

Result<nlohmann::json> load_json(const std::filesystem::path& path) {
    auto text = read_file(path, most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    return parse_json(*text, path.filename().string());
}

/// By name; none where the folder is missing.
std::vector<std::filesystem::path> files_in(const std::filesystem::path& folder, const char* extension) {
    std::vector<std::filesystem::path> out;
    std::error_code code;
    for (const auto& entry : std::filesystem::directory_iterator(folder, code))
        if (entry.path().extension() == extension) out.push_back(entry.path());
    std::sort(out.begin(), out.end());
    return out;
}

} // namespace

std::filesystem::path data_folder() {
    if (const char* named = std::getenv("NEEDLEGAUGE_DATA")) return named;
    std::error_code code;
    const auto program = std::filesystem::read_symlink("/proc/self/exe", code);
    const auto installed = program.parent_path().parent_path() / "share" / "needlegauge";
    const bool in_build = program.string().rfind(NEEDLEGAUGE_BUILD_DIR "/", 0) == 0;
    return in_build ? std::filesystem::path(NEEDLEGAUGE_SOURCE_DATA_DIR) : installed;
}

Result<Library> load_library(const std::filesystem::path& folder) {
    Library library;
    library.folder = folder;
    const auto version = read_file(folder / "VERSION", 64);
    if (!version) return tl::unexpected(version.error());
    library.version = one_line(version->substr(0, version->find('\n')));
    auto take = [&](const char* name, auto read, auto& into) -> Result<void> {
        auto document = load_json(folder / name);
        if (!document) return tl::unexpected(document.error());
        auto value = read(*document);
        if (!value) return tl::unexpected(value.error());
        into = std::move(*value);
        return {};
    };
    if (auto ok = take("materials/materials.json", read_materials, library.materials); !ok)
        return tl::unexpected(ok.error());
    if (auto ok = take("limits/limits.json", read_limits, library.limits); !ok)
        return tl::unexpected(ok.error());
    const auto conductors = load_json(folder / "cables/conductors.json");
    if (!conductors) return tl::unexpected(conductors.error());
    const auto insulation = load_json(folder / "cables/insulation.json");
    if (!insulation) return tl::unexpected(insulation.error());
    auto tables = read_cable_tables(*conductors, *insulation);
    if (!tables) return tl::unexpected(tables.error());
    library.cables = std::move(*tables);
    if (auto ok = load_kit_table(library, folder / "kits/kits.csv"); !ok) return tl::unexpected(ok.error());
    if (auto ok = load_connectors(library, folder / "connectors/connectors.csv"); !ok)
        return tl::unexpected(ok.error());
    for (const auto& path : files_in(folder / "standards", ".json")) {
        auto document = load_json(path);
        if (!document) return tl::unexpected(document.error());
        auto pack = read_standards_pack(*document);
        if (!pack) return tl::unexpected(pack.error());
        library.standards.push_back(std::move(*pack));
    }
    for (const auto& path : files_in(folder / "bodies", ".ngbody")) {
        auto body = load_body(path);
        if (!body) return tl::unexpected(body.error());
        library.drawings.push_back(std::move(*body));
    }
    // What the families and the fit cannot do without.
    for (const char* id :
         {"air", "jacket", "sealant", "relief mastic", "insulating tape", "resin", "jacket tape"})
        if (!library.materials.find(id))
            return refuse("materials", fmt::format("“{}” is missing", id),
                          "Add it, or use the data that ships with the program");
    for (const char* id : {"rubber_stretch_low", "rubber_stretch_high", "slip_on_low", "slip_on_high"})
        if (!library.limits.find(id))
            return refuse("limits", fmt::format("“{}” is missing", id),
                          "Add it, or use the data that ships with the program");
    if (library.standards.empty())
        return refuse("data folder", fmt::format("{} holds no standards pack", folder.string()),
                      "Set NEEDLEGAUGE_DATA to the data that ships with the program");
    return library;
}

namespace {
template <class Read, class Into>
Result<void> load_csv(const std::filesystem::path& path, Read read, Into& into) {
    auto text = read_file(path, most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    auto rows = read(*text, path.filename().string());
    if (!rows) return tl::unexpected(rows.error());
    into = std::move(*rows);
    return {};
}
} // namespace

Result<void> load_kit_table(Library& library, const std::filesystem::path& path) {
    return load_csv(path, read_kit_table, library.kits);
}

Result<void> load_connectors(Library& library, const std::filesystem::path& path) {
    return load_csv(path, read_connectors, library.connectors);
}

} // namespace ng
